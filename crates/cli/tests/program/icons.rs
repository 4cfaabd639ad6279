//! Pictograms: ours, and those that a project brings.

use crate::common::Folder;

const ART: &str = "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 10 10\"><circle cx=\"5\" cy=\"5\" r=\"4\" fill=\"#d0662f\"/></svg>";

#[test]
fn they_are_listed_found_and_drawn() {
    let folder = Folder::new();
    let all = folder.run(&["icons"]).ends_with(0);
    assert!(all.out.lines().filter(|l| l.starts_with("  ")).count() >= 120);
    assert_eq!(all.out.lines().filter(|l| !l.starts_with(' ') && !l.is_empty()).count(), 10);
    folder.run(&["icons", "database"]).ends_with(0).says("store  database, data, records");
    folder.run(&["icons", "no such"]).ends_with(1).says("no pictogram is found by `no such`");
    let json: serde_json::Value = serde_json::from_str(&folder.run(&["icons", "key", "--json"]).out).expect("JSON");
    assert_eq!((json["version"].as_u64(), json["icons"][0]["name"].as_str()), (Some(1), Some("key")));
    assert!(folder.files().is_empty(), "a list writes nothing");
    folder.run(&["icons", "--picture"]).ends_with(0).says("icons.svg");
    assert!(folder.read("icons.svg").contains("data-element=\"lighthouse\""));
    folder.run(&["icons", "security", "--picture", "--out", "some.png"]).ends_with(0);
    folder.run(&["icons", "--picture", "--out", "some.gif"]).ends_with(2).says(".svg or .png");
    folder.run(&["icons", "--out", "some.svg"]).ends_with(2);
}

fn png() -> Vec<u8> {
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, 2, 2);
    encoder.set_color(png::ColorType::Rgb);
    let written = encoder
        .write_header()
        .and_then(|mut w| w.write_image_data(&[200, 40, 40, 200, 40, 40, 200, 40, 40, 200, 40, 40]));
    written.expect("pixels");
    bytes
}

#[test]
fn a_project_brings_its_own() {
    let folder = Folder::new();
    folder.write("art/buoy.svg", ART).write("art/mast.png", png());
    folder.write("maps/part.bathy", "architecture part\n  device mast (icon \"../art/mast.png\")\n");
    folder.write(
        "map.bathy",
        "architecture map\n  device buoy\n    icon \"art/buoy.svg\"\n  system shore\n    from \"maps/part.bathy\"\n  store log\n\nlook\n  store: icon art/buoy.svg\n",
    );
    folder.run(&["render", "--format", "svg,png"]).ends_with(0).says("4 pictures written");
    let svg = folder.read("pictures/map.svg");
    assert_eq!(svg.matches("fill=\"#d0662f\"").count(), 2, "its colours are its own");
    assert!(svg.contains("xlink:href=\"data:image/png;base64,"));
    assert!(!svg.contains("<circle"), "only geometry is taken");
    folder.run(&["check"]).ends_with(0);
    // A picture is out of date when its pictogram changes.
    folder.write("art/buoy.svg", ART.replace("#d0662f", "#2f66d0"));
    folder.run(&["check"]).ends_with(1).says("the picture of `map` is out of date");
    folder.run(&["render"]).ends_with(0).says("1 picture written (1 changed), 1 up to date");
}

#[test]
fn nothing_unsafe_reaches_a_drawing() {
    let folder = Folder::new();
    folder.write("bad.svg", ART.replace("<circle", "<script>alert(1)</script><circle"));
    folder.write("far.svg", ART.replace("<circle", "<use href=\"https://tide.invalid/a.svg#b\"/><circle"));
    folder
        .write("large.svg", format!("{ART}{}", " ".repeat(70_000)))
        .write("art.txt", "words")
        .write("no.png", "words");
    let icons =
        ["bad.svg", "far.svg", "large.svg", "art.txt/x", "no.png", "none.svg", "../out.svg", "lighthous", "database"];
    let lines: String =
        icons.iter().enumerate().map(|(i, icon)| format!("  device d{i} (icon \"{icon}\")\n")).collect();
    folder.write("map.bathy", format!("network map\n{lines}"));
    let run = folder.run(&["check", "--no-pictures"]).ends_with(1);
    for (line, words) in [
        (2, "`bad.svg` holds a `script`, which does not belong into a picture"),
        (3, "`far.svg` holds a reference to `https://tide.invalid/a.svg#b`"),
        (4, "`large.svg` is larger than 64 KiB"),
        (6, "`no.png` cannot be read as a pictogram"),
        (7, "there is no file `none.svg`"),
        (8, "`../out.svg` lies outside the project folder"),
        (9, "did you mean `lighthouse`?"),
        (10, "did you mean `store`?"),
    ] {
        assert!(run.out.contains(words), "{words}\n{}", run.out);
        assert!(run.out.contains(&format!("map.bathy:{line}:")), "{line}\n{}", run.out);
    }
    #[cfg(unix)]
    {
        let secret = tempfile::NamedTempFile::with_suffix(".svg").expect("a file");
        std::fs::write(secret.path(), ART).expect("written");
        std::os::unix::fs::symlink(secret.path(), folder.path("link.svg")).expect("a link");
        folder.write("map.bathy", "network map\n  device d (icon link.svg)\n");
        folder.run(&["check", "--no-pictures"]).ends_with(1).says("`link.svg` lies outside the project folder");
    }
}

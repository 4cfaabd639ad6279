//! `render` as its users meet it.

use crate::common::Folder;

const STORM: &str =
    "sequence storm \"A storm\"\n  buoy sends desk \"level 4.2 m\"\n    calls store \"append\" returning \"row 1\"\n";

#[test]
fn a_project_is_rendered_and_only_what_changed_is_rendered_again() {
    let folder = Folder::new();
    folder.write("storm.bathy", STORM).write("more/chart.bathy", "flow\n  begin \"Tide turns\"\n  finish \"Slack\"\n");
    folder.run(&["render"]).ends_with(0).says("pictures/storm.svg").says("2 pictures written");
    assert_eq!(folder.files(), ["more/chart.bathy", "pictures/chart.svg", "pictures/storm.svg", "storm.bathy"]);
    folder.run(&["render"]).ends_with(0).says("2 pictures up to date");
    folder.write("storm.bathy", STORM.replace("4.2", "4.4"));
    folder.run(&["render"]).ends_with(0).says("1 picture written (1 changed), 1 up to date");
    assert!(folder.read("pictures/storm.svg").contains("level 4.4 m"));
}

#[test]
fn the_same_text_gives_the_same_bytes() {
    let folder = Folder::new();
    folder.write("storm.bathy", STORM);
    folder.run(&["render"]).ends_with(0);
    let first = folder.read("pictures/storm.svg");
    folder.run(&["render", "--all"]).ends_with(0);
    assert_eq!(folder.read("pictures/storm.svg"), first);
    let piped = folder.run_with(&["render", "-"], STORM).ends_with(0);
    // Only the source's name differs, and with it the digest.
    assert_eq!(piped.out.split("<metadata>").next(), first.split("<metadata>").next());
}

#[test]
fn standard_input_to_standard_output() {
    let folder = Folder::new();
    let run = folder.run_with(&["render", "-"], "classes c\n  class Buoy\n    + name: Text\n").ends_with(0);
    assert!(run.out.starts_with("<svg ") && run.out.ends_with("</svg>\n"));
    let run = folder.run_with(&["render", "-", "--format", "png"], STORM).ends_with(0);
    assert!(run.bytes.starts_with(b"\x89PNG\r\n"));
    assert!(folder.files().is_empty());
    let two = format!("{STORM}flow other\n  \"x\"\n");
    folder.run_with(&["render", "-"], &two).ends_with(2).says("storm, other").says("--only");
    folder.run_with(&["render", "-", "--only", "other"], &two).ends_with(0);
    folder.run_with(&["render", "-", "--only", "nothing"], &two).ends_with(2).says("no picture is called `nothing`");
}

#[test]
fn files_formats_and_places_as_asked() {
    let folder = Folder::new();
    folder.write("storm.bathy", STORM);
    folder.run(&["render", "storm.bathy", "--format", "svg,png", "--out", "out"]).ends_with(0);
    assert_eq!(folder.files(), ["out/storm.png", "out/storm.svg", "storm.bathy"]);
    folder.run(&["render", "storm.bathy", "--out", "one.png", "--scale", "1"]).ends_with(0);
    let bytes = std::fs::read(folder.path("one.png")).expect("a picture");
    assert!(bytes.windows(7).any(|w| w == b"sha256:"), "the picture carries its digest");
    folder.run(&["render", "--scale", "99"]).ends_with(2).says("between 0.1 and 16");
}

#[test]
fn the_config_is_found_upwards_and_unknown_keys_are_refused() {
    let folder = Folder::new();
    folder
        .write("bathygram.toml", "pictures = \"docs/pictures\"\nformats = [\"svg\", \"png\"]\n")
        .write("storm.bathy", STORM);
    folder.run(&["render"]).ends_with(0);
    assert!(folder.files().contains(&"docs/pictures/storm.png".to_owned()));
    folder.run(&["check"]).ends_with(0);
    folder.write("bathygram.toml", "picture = \"x\"\n");
    folder.run(&["render"]).ends_with(3).says("bathygram.toml").says("picture");
    folder.write("bathygram.toml", "pictures = \"../elsewhere\"\n");
    folder.run(&["render"]).ends_with(3).says("inside the project");
}

#[test]
fn the_picture_carries_its_source() {
    let folder = Folder::new();
    folder.write("storm.bathy", STORM);
    folder.run(&["render"]).ends_with(0);
    let svg = folder.read("pictures/storm.svg");
    assert_eq!(bathygram_core::container::read_source(&svg).as_deref(), Some(STORM));
    let machine = folder.path("").to_string_lossy().into_owned();
    assert!(!svg.contains(machine.trim_end_matches('/')), "no path of the machine");
}

#[test]
fn files_with_errors_are_not_drawn_and_others_are() {
    let folder = Folder::new();
    folder.write("storm.bathy", STORM).write("bad.bathy", "flow bad\n  decid \"x\"\n");
    folder.run(&["render"]).ends_with(1).says("bad.bathy:2:3").says("did you mean `decide`?").says("not drawn");
    assert!(folder.files().contains(&"pictures/storm.svg".to_owned()));
    assert!(!folder.files().contains(&"pictures/bad.svg".to_owned()));
}

#[test]
fn two_files_cannot_claim_one_picture() {
    let folder = Folder::new();
    folder.write("a.bathy", STORM).write("b.bathy", STORM);
    folder.run(&["render"]).ends_with(2).says("a.bathy and b.bathy both have a picture called `storm`");
    folder.run(&["check"]).ends_with(1).says("both have a picture called `storm`");
    assert_eq!(folder.files(), ["a.bathy", "b.bathy"]);
}

#[test]
fn calling_it_wrongly_is_status_2() {
    let folder = Folder::new();
    folder.run(&[]).ends_with(2);
    folder.run(&["rendr"]).ends_with(2).says("render");
    folder.run(&["render"]).ends_with(2).says("no .bathy file").says("bathygram demo");
    folder.run(&["render", "-", "x.bathy"]).ends_with(2).says("stands alone");
}

#[test]
fn hidden_things_and_names_cannot_break_the_drawing() {
    let folder = Folder::new();
    let text = "architecture a \"<script>alert(1)</script> & \\\"more\\\"\"\n  system `x\"><y` \"]]> </svg>\"\n  system b\n  `x\"><y` uses b \"<b>\"\n";
    let run = folder.run_with(&["render", "-"], text).ends_with(0);
    assert!(!run.out.contains("<script") && !run.out.contains("<b>") && run.out.matches("</svg>").count() == 1);
    folder.write("x.bathy", "flow `../../escape`\n  \"x\"\n");
    folder.run(&["render"]).ends_with(1).says("cannot name a picture file");
    assert_eq!(folder.files(), ["x.bathy"]);
}

const MAP: &str = "architecture map\n  device buoy\n  service gateway\n  store readings\n  buoy sends gateway \"levels\"\n  \
    gateway writes readings\n";

#[test]
fn an_earlier_picture_is_kept() {
    let folder = Folder::new();
    folder.write("map.bathy", MAP).run(&["render"]).ends_with(0);
    let first = folder.read("pictures/map.svg");
    folder.run(&["render", "--all", "--keep", "pictures/map.svg"]).ends_with(0);
    assert_eq!(folder.read("pictures/map.svg"), first, "an unchanged text with its own picture gives that picture");
    // A new element that would stand in the first layer leaves the others where they are.
    folder.write("map.bathy", format!("{MAP}  service desk\n  desk reads readings\n"));
    folder.run(&["render", "--keep", "pictures/map.svg"]).ends_with(0);
    let second = folder.read("pictures/map.svg");
    let digest = |svg: &str| svg.split("digest=\"").nth(1).and_then(|r| r.split('"').next()).map(str::to_owned);
    assert!(second.contains(&format!("earlier=\"{}\"", digest(&first).expect("a digest"))));
    let outline = |svg: &str, name: &str| {
        let element = svg.split(&format!("data-element=\"{name}\"")).nth(1).expect("the element is drawn").to_owned();
        element.split(" d=\"").nth(1).and_then(|d| d.split('"').next()).expect("an outline").to_owned()
    };
    for name in ["buoy", "gateway", "readings"] {
        assert_eq!(outline(&first, name), outline(&second, name), "{name} stays");
    }
    folder.run(&["render", "--keep", "map.bathy"]).ends_with(2).says("no picture that this program drew");
    folder.run(&["render", "--keep", "lost.svg"]).ends_with(2).says("cannot be kept");
}

#[test]
fn a_project_can_keep_its_pictures() {
    let folder = Folder::new();
    folder.write("bathygram.toml", "keep = true\n").write("map.bathy", MAP).run(&["render"]).ends_with(0);
    let first = folder.read("pictures/map.svg");
    folder.run(&["render", "--all"]).ends_with(0);
    assert_eq!(folder.read("pictures/map.svg"), first);
    folder.write("map.bathy", format!("{MAP}  service desk\n  desk reads readings\n")).run(&["render"]).ends_with(0);
    assert!(folder.read("pictures/map.svg").contains("earlier=\"sha256:"));
    folder.run(&["check"]).ends_with(0);
    folder.write("two.bathy", "flow two\n  begin \"Tide turns\"\n  finish \"Slack\"\n");
    folder.run(&["render", "--keep", "pictures/map.svg"]).ends_with(2).says("--keep is for one picture");
}

#[test]
fn a_layout_explains_itself() {
    let folder = Folder::new();
    folder.write("map.bathy", MAP).write("storm.bathy", STORM);
    let run = folder.run(&["render", "--explain"]).ends_with(0);
    run.says("map: tree, 1 part, ").says(", score ").says("storm: sequence: columns and rows by time");
    folder.write("map.bathy", format!("{MAP}  arrange grid\n"));
    folder.run(&["render", "--explain"]).ends_with(0).says("map: grid, 1 part, 1 candidate compared");
}

#[test]
fn what_could_be_read_of_a_wrong_text_is_drawn_if_that_is_asked_for() {
    let folder = Folder::new();
    folder.write(
        "talk.bathy",
        "sequence talk\n  buoy sends gateway \"level\"\n  or \"else\"\n    gateway sends desk \"note\"\n  when \"calm\"\n  \
         desk calls keeper \"ok\"\n\nclasses plan\n  class A extends B\n  B extends A\n  A knows 5..1 C as many\n",
    );
    folder.run(&["render"]).ends_with(1).says("nothing to draw").says("`--anyway` draws what could be read");
    assert!(!folder.files().iter().any(|f| f.ends_with(".svg")));
    let run = folder.run(&["render", "--anyway"]).ends_with(1).says("2 pictures written").says("without what is wrong");
    assert!(run.err.contains("talk.bathy:3:3") && run.err.contains("write 1..5"), "{}", run.err);
    let talk = folder.read("pictures/talk.svg");
    for part in ["buoy sends gateway", "gateway sends desk", "desk calls keeper"] {
        assert!(talk.contains(&format!("data-relation=\"{part}\"")), "{part}");
    }
    assert_eq!(talk.matches("data-kind=\"fragment\"").count(), 2, "what continues nothing, and what holds nothing");
    let plan = folder.read("pictures/plan.svg");
    assert!(plan.contains("A extends B") && plan.contains("B extends A") && plan.contains("many 5..1"));
    // The old picture stays where nobody asked for that.
    folder.write("talk.bathy", "sequence talk\n  buoy bogus gateway\n");
    folder.run(&["render"]).ends_with(1);
    assert_eq!(folder.read("pictures/talk.svg"), talk);
}

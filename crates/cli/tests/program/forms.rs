//! Forms of pictures: letters that no font has, outlines, sizes, pages, forms for programs, links, and other languages.

use crate::common::{Folder, repository};
use serde_json::Value;
use std::io::Write;
use std::process::Command;

const MAP: &str = "architecture map \"The bay\"\n  actor keeper\n  system core \"Core\"\n    service gate \"Gateway\"\n      built \"Rust\"\n    store data \"Readings\"\n  gate writes data \"levels\"\n  keeper uses core \"looks\"\nsheet inside of map \"Inside\"\n  open core\n  focus core\n";

/// A folder with a map.
fn map() -> Folder {
    let folder = Folder::new();
    folder.write("map.bathy", MAP);
    folder
}

fn skipped(why: &str) {
    let _ = writeln!(std::io::stderr(), "skipped: {why}; `cargo xtask test` installs it");
}

#[test]
fn letters_that_no_font_has_are_named_once_for_each_file() {
    let folder = Folder::new();
    // Nobody draws letters for private use.
    folder.write("a.bathy", "flow a\n  begin \"x \u{f8ffd}\"\n  finish \"y \u{f8ffe} \u{f8ffd}\" // \u{f8fff}\n");
    let checked = folder.run(&["check", "--json"]).out;
    let report: Value = serde_json::from_str(&checked).expect("JSON");
    let of_letters = |report: &Value| -> Vec<Value> {
        let all = report["findings"].as_array().expect("findings").iter();
        all.filter(|f| f["code"] == "missing-letter").cloned().collect()
    };
    let found = of_letters(&report);
    assert_eq!(found.len(), 1, "{report:#}");
    assert_eq!((found[0]["line"].as_u64(), found[0]["severity"].as_str()), (Some(2), Some("warning")));
    assert!(found[0].to_string().contains('\u{f8ffe}') && !found[0].to_string().contains('\u{f8fff}'));
    let drawn = folder.run(&["render", "a.bathy", "--format", "png", "--out", "out"]).ends_with(0);
    assert_eq!(drawn.err.matches("missing-letter").count(), 1, "{}", drawn.err);
    // SVG leaves them to the reader.
    let drawn = folder.run(&["render", "a.bathy", "--format", "svg", "--out", "out"]).ends_with(0);
    assert!(!drawn.err.contains("missing-letter"));
    folder.write("bathygram.toml", "formats = [\"svg\"]\n");
    let report: Value = serde_json::from_str(&folder.run(&["check", "--json"]).out).expect("JSON");
    assert!(of_letters(&report).is_empty());
    folder.write("bathygram.toml", "[rules]\nmissing-letter = \"error\"\n");
    folder.run(&["check", "a.bathy"]).ends_with(1).says("missing-letter");
}

#[test]
fn a_project_brings_its_own_fonts() {
    let folder = map();
    let font = std::fs::read(repository().join("crates/core/fonts/kalam-regular.ttf")).expect("a font");
    folder.write("fonts/hand.ttf", font).write("fonts/none.ttf", "no font");
    folder.write("bathygram.toml", "formats = [\"png\"]\nfonts = [\"fonts/hand.ttf\"]\n");
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    folder.write("bathygram.toml", "formats = [\"png\"]\n");
    folder.run(&["check"]).ends_with(1).says("picture-out-of-date");
    for (fonts, why) in [
        ("fonts/none.ttf", "a font is a .ttf, .otf or .ttc file"),
        ("fonts/lost.ttf", "cannot read"),
        ("../../../etc/hostname", "outside of the project"),
    ] {
        folder.write("bathygram.toml", format!("fonts = [\"{fonts}\"]\n"));
        let said = folder.run(&["check"]).ends_with(3);
        assert!(said.err.contains(why) || fonts.contains("etc"), "{}", said.err);
    }
}

#[test]
fn letters_of_an_svg_are_text_shapes_or_the_readers() {
    let folder = map();
    let svg = |form: &str| {
        folder.run(&["-q", "render", "map.bathy", "--only", "map", "--text", form, "--out", "x.svg"]).ends_with(0);
        folder.read("x.svg")
    };
    let [embed, plain, outlines] = ["embed", "plain", "outlines"].map(svg);
    assert!(embed.contains("data:font/woff2") && embed.contains(">Gateway</text>"));
    assert!(!plain.contains("@font-face") && plain.contains(">Gateway</text>") && plain.contains("textLength"));
    assert!(
        !outlines.contains("@font-face") && !outlines.contains("<text") && outlines.contains("Gateway writes Readings")
    );
    assert!(plain.len() + 8_000 < embed.len());
}

/// Width and height of a PNG, and whether its first pixel is opaque.
fn png(bytes: &[u8]) -> (u32, u32, bool) {
    let mut reader = png::Decoder::new(std::io::Cursor::new(bytes)).read_info().expect("a PNG");
    let mut pixels = vec![0; reader.output_buffer_size().expect("a size")];
    reader.next_frame(&mut pixels).expect("pixels");
    (reader.info().width, reader.info().height, pixels[3] == 255)
}

#[test]
fn a_png_has_a_width_and_paper_or_none() {
    let folder = map();
    let draw = |more: &[&str]| {
        let call = ["-q", "render", "map.bathy", "--only", "map", "--out", "x.png"];
        folder.run(&[&call[..], more].concat()).ends_with(0);
        png(&std::fs::read(folder.path("x.png")).expect("a PNG"))
    };
    let (width, height, is_opaque) = draw(&["--width", "801"]);
    assert!(width == 801 && height > 100 && is_opaque);
    assert!(!draw(&["--transparent"]).2);
    folder.run(&["render", "map.bathy", "--width", "801", "--scale", "2"]).ends_with(2);
    for (option, value, form) in [("--width", "800", "png"), ("--page", "a4", "pdf"), ("--text", "plain", "svg")] {
        let other = if form == "svg" { "png" } else { "svg" };
        let call = ["render", "map.bathy", "--format", other, option, value, "--out", "out"];
        folder
            .run(&call)
            .ends_with(2)
            .says(&format!("{option} is about {form}, and none is made; add --format {form}"));
    }
    folder.run(&["render", "map.bathy", "--transparent"]).ends_with(2).says("add --format png");
    folder.run(&["render", "map.bathy", "--width", "3"]).ends_with(2).says("from 16 to 16384");
}

#[test]
fn one_pdf_holds_all_pictures_with_links_bookmarks_and_words() {
    let folder = map();
    folder
        .run(&["render", "map.bathy", "--out", "all.pdf"])
        .ends_with(0)
        .says("2 pictures in one file, `map` is the first");
    let bytes = std::fs::read(folder.path("all.pdf")).expect("a PDF");
    let text = String::from_utf8_lossy(&bytes);
    for part in ["/Count 2", "/Outlines", "/StructTreeRoot", "/Lang (en)", "/S /GoTo", "/Alt (", "/EmbeddedFiles"] {
        assert!(text.contains(part), "{part}");
    }
    assert!(text.contains("Gateway writes Readings"), "it is described");
    folder.run(&["recover", "all.pdf", "--out", "back.bathy"]).ends_with(0);
    assert_eq!(folder.read("back.bathy"), MAP);
    folder.run(&["render", "map.bathy", "--page", "a4", "--out", "a4.pdf"]).ends_with(0);
    let text = std::fs::read(folder.path("a4.pdf")).expect("a PDF");
    let text = String::from_utf8_lossy(&text);
    assert!(text.contains("[0 0 595.28 841.89]") || text.contains("[0 0 841.89 595.28]"));
    folder.run(&["render", "map.bathy", "--out", "all.svg"]).ends_with(2).says("write them all into one .pdf or .html");
}

#[test]
fn programs_read_places_from_json() {
    let folder = map();
    let schema = folder.run(&["render", "--schema"]).ends_with(0).out;
    let committed = std::fs::read_to_string(repository().join("docs/drawing.schema.json")).expect("the schema");
    assert_eq!(schema, committed, "docs/drawing.schema.json is what `render --schema` prints");
    let schema = jsonschema::validator_for(&serde_json::from_str(&schema).expect("JSON")).expect("a schema");
    folder.write("bathygram.toml", "formats = [\"json\", \"graphml\", \"html\"]\n");
    folder.run(&["render"]).ends_with(0);
    let drawing: Value = serde_json::from_str(&folder.read("pictures/map.json")).expect("JSON");
    schema.validate(&drawing).expect("it fits its schema");
    let of = |list: &str, key: &str| -> Value {
        let all = drawing[list].as_array().expect("a list").iter();
        all.clone().find(|one| one["key"] == key).cloned().unwrap_or_else(|| panic!("{list} {key}"))
    };
    let (core, gate) = (of("elements", "core"), of("elements", "core.gate"));
    assert_eq!(
        (gate["label"].as_str(), gate["inside"].as_str(), gate["line"].as_u64()),
        (Some("Gateway"), Some("core"), Some(4))
    );
    let edge = |part: &Value, side: &str, long: &str| {
        part["place"][side].as_f64().expect("px") + part["place"][long].as_f64().expect("px")
    };
    assert!(
        edge(&gate, "x", "width") < edge(&core, "x", "width")
            && edge(&gate, "y", "height") < edge(&core, "y", "height")
    );
    let writes = of("relations", "core.gate writes core.data");
    assert_eq!((writes["label"][0]["text"].as_str(), writes["head"].as_bool()), (Some("levels"), Some(true)));
    assert!(writes["points"].as_array().is_some_and(|points| points.len() >= 2));
    // All of them are known to be fresh, and to be edited.
    folder.run(&["check"]).ends_with(0);
    for form in ["json", "graphml", "html"] {
        let name = format!("pictures/map.{form}");
        let whole = folder.read(&name);
        folder.write(&name, whole.replacen("Gateway", "Gatewai", 1));
        folder.run(&["check"]).ends_with(1).says("picture-edited");
        folder.write(&name, whole);
    }
    folder.run(&["recover", "pictures/map.html", "--out", "back.bathy"]).ends_with(0);
    assert_eq!(folder.read("back.bathy"), MAP);
    folder.run(&["recover", "pictures/map.graphml", "--out", "again.bathy"]).ends_with(0);
    assert_eq!(folder.read("again.bathy"), MAP);
}

#[test]
fn a_graph_library_reads_graphml_back() {
    let folder = Folder::new();
    folder.run(&["-q", "demo", "."]).ends_with(0);
    folder.run(&["-q", "render", "--format", "graphml", "--out", "graphs"]).ends_with(0);
    let script = "import networkx, sys, json, glob\n\
        out = {}\n\
        for f in glob.glob('graphs/*.graphml'):\n    \
            g = networkx.read_graphml(f)\n    \
            out[f] = [g.number_of_nodes(), g.number_of_edges(), sum('label' in d and 'x' in d for _, d in g.nodes(data=True))]\n\
        print(json.dumps(out))";
    let read = Command::new("python3").args(["-c", script]).current_dir(folder.path(".")).output();
    let Ok(read) = read else { return skipped("there is no python3 here") };
    let errors = String::from_utf8_lossy(&read.stderr);
    if errors.contains("No module named 'networkx'") {
        return skipped("networkx is not here");
    }
    assert!(read.status.success(), "{errors}");
    let counts: Value = serde_json::from_slice(&read.stdout).expect("JSON");
    let counts = counts.as_object().expect("an object");
    assert!(counts.len() > 15);
    for (file, count) in counts {
        let count: Vec<u64> = count.as_array().expect("figures").iter().filter_map(Value::as_u64).collect();
        assert!(count[0] > 2 && count[1] > 0 && count[2] > 0, "{file}: {count:?}");
    }
}

#[test]
fn a_picture_is_handed_on_as_a_link_or_a_line() {
    let folder = map();
    folder.run(&["-q", "render"]).ends_with(0);
    folder.run(&["share", "map.bathy"]).ends_with(2).says("choose one with --only NAME");
    folder.run(&["share", "map.bathy", "--only", "bay"]).ends_with(2).says("there are map, inside");
    let share = |more: &[&str]| folder.run(&[&["share", "map.bathy", "--only", "map"], more].concat()).ends_with(0).out;
    let link = share(&[]);
    assert!(
        link.starts_with("data:text/html;charset=utf-8,")
            && link.lines().count() == 1
            && !link.trim_end().contains(' ')
    );
    let svg = std::fs::metadata(folder.path("pictures/map.svg")).expect("a picture").len() as usize;
    assert!(link.len() < svg, "{} {svg}", link.len());
    let line = share(&["--as", "markdown"]);
    assert!(
        line.starts_with("![The bay. Architecture diagram with") && line.ends_with("](pictures/map.svg)\n"),
        "{line}"
    );
    let figure = share(&["--as", "html", "--embed"]);
    assert!(figure.contains("src=\"data:image/svg+xml;base64,") && figure.contains("<figcaption>The bay</figcaption>"));
    folder.write("new.bathy", "flow new\n  begin \"a\"\n  finish \"b\"\n");
    folder.run(&["share", "new.bathy", "--as", "html"]).ends_with(0).says("pictures/new.svg is not there yet");
    folder.write("bad.bathy", "flow\n  wat wat wat\n");
    folder.run(&["share", "bad.bathy"]).ends_with(1);
}

#[test]
fn the_program_adds_words_in_the_language_that_was_asked_for() {
    let folder = map();
    let svg = |language: &str| {
        folder
            .run(&["-q", "render", "map.bathy", "--only", "map", "--language", language, "--out", "x.svg"])
            .ends_with(0);
        folder.read("x.svg")
    };
    assert!(svg("de").contains("Gateway schreibt Readings (levels)") && svg("de").contains("xml:lang=\"de\""));
    assert!(svg("fr").contains("Gateway écrit Readings (levels)"));
    assert!(svg("es").contains("Gateway escribe en Readings (levels)"));
    folder.write("words/nl.toml", "[relation]\nwrites = \"{from} schrijft {to}\"\n");
    assert!(svg("words/nl.toml").contains("Gateway schrijft Readings (levels)"));
    assert!(svg("words/nl.toml").contains("xml:lang=\"nl\""));
    let wrong = |language: &str| folder.run(&["render", "map.bathy", "--language", language]).ends_with(2);
    wrong("xx").says("there are en, de, fr, es");
    folder.write("words/bad.toml", "[relation]\nwritez = \"x\"\n");
    wrong("words/bad.toml").says("did you mean `writes`?");
    // It is part of what a picture depends on.
    folder.write("bathygram.toml", "language = \"de\"\n");
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    folder.write("bathygram.toml", "language = \"fr\"\n");
    folder.run(&["check"]).ends_with(1).says("picture-out-of-date");
}

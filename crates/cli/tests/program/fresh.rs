//! Freshness: every picture that this program drew and that shows something else now is found, and nothing else.

use crate::common::Folder;
use std::time::{Duration, Instant};

const WARN: &str = "flow warn \"Warn\"\n  begin \"Frame\"\n  \"Check\"\n  finish \"Done\"\n";
const MAP: &str = "architecture map \"Map\"\n  system core \"Core\"\n    service gateway \"Gateway\"\n    store readings \"Readings\"\n    gateway writes readings\n  actor keeper \"Keeper\"\n  keeper uses gateway\n";

fn drawn() -> Folder {
    let folder = Folder::new();
    folder.write("warn.bathy", WARN).write("map.bathy", MAP);
    folder.run(&["render"]).ends_with(0);
    folder
}

#[test]
fn copies_and_other_folders_are_looked_at() {
    let folder = drawn();
    std::fs::create_dir(folder.path("docs")).expect("a folder");
    std::fs::copy(folder.path("pictures/warn.svg"), folder.path("docs/how we warn.svg")).expect("copied");
    folder.run(&["render", "--of", "map", "--all-depths"]).ends_with(0);
    folder.run(&["render", "--of", "map", "--focus", "gateway"]).ends_with(0);
    folder.run(&["render", "warn.bathy", "--theme", "abyss", "--out", "dark"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    folder
        .write("map.bathy", MAP.replace("\"Gateway\"", "\"Intake\""))
        .write("warn.bathy", WARN.replace("Check", "Look"));
    folder.run(&["render"]).ends_with(0);
    let run = folder.run(&["check"]).ends_with(1);
    for file in ["docs/how we warn.svg", "dark/warn.svg", "pictures/map/"] {
        assert!(run.out.contains(file), "{file}: {}", run.out);
    }
    assert!(
        run.out
            .contains("docs/how we warn.svg shows the picture of `warn` as it was: warn.bathy says something else now")
    );
    std::fs::remove_dir_all(folder.path("pictures/map")).expect("removed");
    std::fs::remove_dir_all(folder.path("dark")).expect("removed");
    std::fs::copy(folder.path("pictures/warn.svg"), folder.path("docs/how we warn.svg")).expect("copied");
    folder.run(&["check"]).ends_with(0);
    // A picture of a text elsewhere is nobody's here.
    folder.write(
        "docs/other.svg",
        folder.read("pictures/warn.svg").replace("file=\"warn.bathy\"", "file=\"gone.bathy\""),
    );
    folder.run(&["check"]).ends_with(0);
}

#[test]
fn forms_that_nobody_asks_for_any_more_are_found() {
    let folder = drawn();
    let run = folder.run(&["render", "warn.bathy", "--format", "png"]).ends_with(0);
    assert!(!run.err.contains("svg"), "{}", run.err);
    folder.run(&["check"]).ends_with(0);
    folder.write("warn.bathy", WARN.replace("Check", "Look"));
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(1).says("the picture of `warn` as png is out of date").says("pictures/warn.png");
    folder.run(&["render", "warn.bathy", "--format", "png"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    // After a run that drew PNG alone, its own SVG is not missed by that run.
    let bare = Folder::new();
    bare.write("warn.bathy", WARN);
    let run = bare.run(&["render", "--format", "png"]).ends_with(0);
    assert!(!run.err.contains("error"), "{}", run.err);
}

#[test]
fn standard_input_has_no_picture() {
    let folder = drawn();
    let run = folder.run_with(&["check", "-"], &WARN.replace("Check", "Look")).ends_with(0);
    assert!(!run.out.contains("picture"), "{}", run.out);
    folder.run_with(&["check", "-", "warn.bathy"], WARN).ends_with(2).says("`-` stands alone");
}

#[test]
fn what_was_checked_need_not_be_read_again() {
    let folder = Folder::new();
    for i in 0..40 {
        folder.write(&format!("f{i}.bathy"), WARN.replace("flow warn", &format!("flow f{i}")));
    }
    folder.run(&["render"]).ends_with(0);
    std::thread::sleep(Duration::from_millis(60));
    let first = folder.run(&["check", "--json"]).ends_with(0).out;
    std::thread::sleep(Duration::from_millis(60));
    folder.run(&["check"]).ends_with(0);
    assert_eq!(folder.run(&["check", "--json"]).ends_with(0).out, first, "the same answer from the record");
    assert!(folder.path(".bathygram/checked.json").is_file());
    // What changed behind its back is seen: a text, a picture, a config, a file that is new, and one that is gone.
    folder.write("f7.bathy", WARN.replace("flow warn", "flow f7").replace("Check", "Look"));
    folder.run(&["check"]).ends_with(1).says("the picture of `f7` is out of date");
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    let picture = folder.read("pictures/f3.svg");
    folder.write("pictures/f3.svg", picture.replace("Frame", "FRAME"));
    folder.run(&["check"]).ends_with(1).says("the picture of `f3` was changed since it was drawn");
    folder.write("pictures/f3.svg", picture);
    folder.run(&["check"]).ends_with(0);
    folder.write("extra.bathy", "flow extra\n  \"a\"\n");
    folder.run(&["check"]).ends_with(1).says("no-beginning").says("the picture of `extra` has not been drawn yet");
    std::fs::remove_file(folder.path("extra.bathy")).expect("removed");
    std::fs::remove_file(folder.path("f9.bathy")).expect("removed");
    folder.run(&["check"]).ends_with(0).says("no source has a picture called `f9`");
    folder.write("bathygram.toml", "[rules]\npicture-stray = \"error\"\n");
    folder.run(&["check"]).ends_with(1);
}

#[test]
fn a_second_render_waits_for_the_first() {
    let folder = drawn();
    folder.write("warn.bathy", WARN.replace("Check", "Look"));
    let lock = std::fs::File::options().append(true).open(folder.path(".bathygram/lock")).expect("the lock");
    lock.lock().expect("free");
    let begun = Instant::now();
    let waited = std::thread::scope(|scope| {
        let second = scope.spawn(|| folder.run(&["render"]));
        std::thread::sleep(Duration::from_millis(400));
        lock.unlock().expect("unlocked");
        second.join().expect("it ends")
    });
    assert!(begun.elapsed() >= Duration::from_millis(400));
    waited.ends_with(0).says("another `bathygram render` is at work here; this one waits").says("pictures/warn.svg");
}

#[test]
fn a_project_gets_what_it_lacks() {
    let folder = drawn();
    folder
        .write("bathygram.toml", "pictures = \"out/diagrams\"\n")
        .write(".gitattributes", "*.bathy text eol=lf diff=bathygram\n");
    folder.run(&["init"]).ends_with(0).says("what was missing is added");
    let attributes = folder.read(".gitattributes");
    assert!(attributes.contains("**/diagrams/**/*.svg text eol=lf diff=bathygram-picture -merge"), "{attributes}");
    assert_eq!(attributes.matches("*.bathy ").count(), 1);
    assert_eq!(folder.read("bathygram.toml"), "pictures = \"out/diagrams\"\n");
    folder.run(&["init"]).ends_with(0).says("nothing is missing");
    // git knows them in every folder of pictures.
    folder.git(&["init", "-q"]);
    for path in ["out/diagrams/a.svg", "out/diagrams/map/core.svg", "docs/diagrams/b.svg"] {
        let out = std::process::Command::new("git")
            .args(["check-attr", "eol", "--", path])
            .current_dir(folder.path(""))
            .output();
        let out = String::from_utf8(out.expect("git").stdout).expect("text");
        assert!(out.ends_with("eol: lf\n"), "{path}: {out}");
    }
}

#[test]
fn line_ends_that_git_turned_are_explained() {
    let folder = drawn();
    folder.write("warn.bathy", WARN.replace('\n', "\r\n"));
    let run = folder.run(&["check"]).ends_with(1);
    assert!(
        run.out.contains("with other line ends: git turned them") && run.out.contains("bathygram init"),
        "{}",
        run.out
    );
    // Advice that throws away what is not committed would cost more than an old picture.
    assert!(run.out.contains("clone the project again") && !run.out.contains("reset"), "{}", run.out);
}

#[test]
fn sources_come_back_from_pictures_that_others_saved_again() {
    let folder = drawn();
    let svg = folder.read("pictures/warn.svg");
    // Reindented: every tag in a line of its own, with the source broken into lines.
    let indented = svg.replace("><", ">\n    <");
    let at = indented.find("zlib+base64\">").expect("the source") + 13;
    let (head, tail) = indented.split_at(at);
    let broken: String = tail
        .chars()
        .enumerate()
        .flat_map(|(i, c)| [Some(c), (i % 60 == 59 && i < 200).then_some('\n')])
        .flatten()
        .collect();
    folder.write("a.svg", format!("{head}\n      {broken}"));
    // Written again, with a prefix and other quotes.
    let prefixed = svg
        .replace("<source xmlns=\"urn:bathygram:source:1\"", "<n:source xmlns:n='urn:bathygram:source:1'")
        .replace("</source>", "</n:source>");
    folder.write("b.svg", &prefixed);
    folder.write("c.svg", svg.replace('\n', " "));
    // In a PDF that was saved again: another order, no comment, a stream that is not packed.
    folder.run(&["render", "warn.bathy", "--out", "d.pdf"]).ends_with(0);
    folder.write("d.pdf", resaved(WARN));
    for file in ["a.svg", "b.svg", "c.svg", "d.pdf"] {
        let run = folder.run(&["recover", file]).ends_with(0);
        assert_eq!(run.out, WARN, "{file}");
        assert!(run.err.contains("was changed since it was drawn"), "{file}: {}", run.err);
    }
    folder.write("foreign.pdf", resaved("a file that somebody attached"));
    folder.run(&["recover", "foreign.pdf"]).ends_with(2).says("no picture that this program drew");
}

/// A PDF as another program writes it, with a text attached.
fn resaved(text: &str) -> String {
    format!(
        "%PDF-1.7\n1 0 obj\n<< /Type /ObjStm /Length 5 0 R >>\nstream\nxx\nendstream\nendobj\n2 0 obj\n<< /Params << /Size {0} >> /Type /EmbeddedFile /Length {0} >>\nstream\n{text}\nendstream\nendobj\n5 0 obj\n2\nendobj\ntrailer\n<< /Root 9 0 R >>\n%%EOF\n",
        text.len()
    )
}

//! Manners on the command line: what goes where, what is said, what is left alone.

use crate::common::Folder;

const FLOW: &str = "flow tide \"Tide\"\n  begin \"Begin\"\n  \"Wait\"\n  finish \"End\"\n";

#[test]
fn results_go_to_standard_output_and_messages_to_standard_error() {
    let folder = Folder::new();
    folder.write("tide.bathy", FLOW);
    let run = folder.run(&["render"]).ends_with(0);
    assert!(run.out.trim_end().ends_with("pictures/tide.svg") && run.out.lines().count() == 1, "{}", run.out);
    assert_eq!(run.err, "1 picture written (1 new)\n");
    let run = folder.run(&["check"]).ends_with(0);
    assert_eq!((run.out.as_str(), run.err.lines().count()), ("", 1));
}

#[test]
fn quiet_says_only_what_went_wrong() {
    let folder = Folder::new();
    folder.write("tide.bathy", FLOW);
    assert_eq!(folder.run(&["render", "-q"]).ends_with(0).err, "");
    folder.write("tide.bathy", "flow tide\n  bogus\n");
    let run = folder.run(&["render", "-q"]).ends_with(1);
    assert!(run.err.contains("unknown-word"), "{}", run.err);
}

#[test]
fn verbose_says_what_was_left_alone() {
    let folder = Folder::new();
    folder.write("tide.bathy", FLOW);
    folder.run(&["render"]).ends_with(0);
    folder.run(&["render", "--all", "-v"]).ends_with(0).says("tide.svg is unchanged");
}

#[test]
fn no_colours_without_a_terminal() {
    let folder = Folder::new();
    folder.write("tide.bathy", "flow tide\n  bogus\n");
    for command in [&["check"][..], &["render"], &["diff"]] {
        let run = folder.run(command);
        assert!(!run.out.contains('\u{1b}') && !run.err.contains('\u{1b}'), "{command:?}");
    }
}

#[test]
fn warnings_alone_do_not_deny() {
    let folder = Folder::new();
    folder.write("tide.bathy", "flow tide\n  decide \"High?\"\n    when \"yes\"\n      \"Warn\"\n  finish \"Over\"\n");
    folder.run(&["render"]).ends_with(0).says("one-armed-decision").says("1 picture written");
    folder.run(&["check"]).ends_with(0).says("1 file: 2 warnings");
}

#[test]
fn a_command_touches_only_what_it_names() {
    let folder = Folder::new();
    folder.write("a.bathy", FLOW).write("b.bathy", FLOW.replace("flow tide", "flow other")).write("notes.md", "words");
    folder.run(&["render", "a.bathy"]).ends_with(0);
    assert_eq!(folder.files(), ["a.bathy", "b.bathy", "notes.md", "pictures/tide.svg"]);
    folder.run(&["check", "--json"]).ends_with(1);
    folder.run(&["check", "a.bathy"]).ends_with(0);
    assert_eq!(folder.files(), ["a.bathy", "b.bathy", "notes.md", "pictures/tide.svg"]);
}

#[test]
fn a_picture_that_was_tampered_with_is_found() {
    let folder = Folder::new();
    folder.write("a.bathy", FLOW);
    folder.run(&["render"]).ends_with(0);
    let svg = folder.read("pictures/tide.svg");
    folder.write("pictures/tide.svg", svg.replace("sha256:", "sha256:f00"));
    folder.run(&["check"]).ends_with(1).says("picture-edited");
    folder.write("pictures/tide.svg", "not a picture");
    folder.run(&["check"]).ends_with(1).says("picture-foreign");
    folder.run(&["render"]).ends_with(3).says("not drawn by this program");
    folder.run(&["render", "--force"]).ends_with(0).says("1 picture written");
    assert_eq!(folder.read("pictures/tide.svg"), svg);
}

#[test]
fn names_outside_ascii_work_everywhere() {
    let folder = Folder::new();
    folder.write("Küste.bathy", "flow Ebbe_und_Flut \"Ebbe und Flut\"\n  \"Größe prüfen\"\n");
    folder.run(&["render"]).ends_with(0);
    assert!(folder.files().contains(&"pictures/Ebbe_und_Flut.svg".to_owned()));
    folder.run(&["check"]).ends_with(0);
    folder.git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder.write("Küste.bathy", "flow Ebbe_und_Flut \"Ebbe und Flut\"\n  \"Länge prüfen\"\n");
    folder.run(&["diff"]).ends_with(0).says("+ step \"Länge prüfen\" is new").says("- step \"Größe prüfen\" is gone");
}

#[test]
fn windows_line_ends_and_a_byte_order_mark_are_read() {
    let folder = Folder::new();
    folder.write("a.bathy", format!("\u{feff}{}", FLOW.replace('\n', "\r\n")));
    folder.run(&["render"]).ends_with(0);
    assert!(folder.read("pictures/tide.svg").contains(">Begin<"));
}

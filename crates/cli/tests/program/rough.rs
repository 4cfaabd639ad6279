//! Rough treatment: what nobody should feed to a program, and what happens on real machines.

use crate::common::Folder;

#[test]
fn a_file_that_is_not_text() {
    let folder = Folder::new();
    folder.write("t.bathy", b"flow f\n  \"a\"\n  \"\xff\xfe\"\n");
    folder.run(&["render"]).ends_with(3).says("t.bathy:3").says("not UTF-8");
    assert_eq!(folder.files(), ["t.bathy"]);
}

#[test]
fn a_file_that_cannot_be_read_does_not_hide_the_others() {
    let folder = Folder::new();
    folder.write("a.bathy", b"\xff").write("b.bathy", "flow b\n  \"x\"\n").write("c.bathy", "flow c\n  bogus\n");
    folder.run(&["render"]).ends_with(3).says("a.bathy:1").says("1 picture written").says("unknown-word");
    folder.run(&["check"]).ends_with(3).says("a.bathy:1").says("unknown-word");
    assert_eq!(folder.files(), ["a.bathy", "b.bathy", "c.bathy", "pictures/b.svg"]);
}

#[test]
fn an_empty_file_and_a_missing_one() {
    let folder = Folder::new();
    folder.write("t.bathy", "");
    folder.run(&["render"]).ends_with(1).says("this file says nothing");
    folder.write("t.bathy", "// only a comment\n\n");
    folder.run(&["render"]).ends_with(1).says("this file says nothing");
    folder.run(&["render", "none.bathy"]).ends_with(2).says("none.bathy is not there");
}

#[test]
fn nesting_without_end() {
    let folder = Folder::new();
    let systems = |depth: usize| -> String { (1..depth).map(|i| format!("{}system s{i}\n", " ".repeat(i))).collect() };
    folder.write("t.bathy", format!("architecture a\n{}", systems(3_000)));
    folder.run(&["render"]).ends_with(1).says("more than 100 deep");
    let steps: String = (1..3_000).map(|i| format!("{}sends p{i} \"m\"\n", " ".repeat(i + 1))).collect();
    folder.write("t.bathy", format!("sequence s\n a sends b\n{steps}"));
    folder.run(&["render"]).ends_with(1).says("more than 100 deep");
    // Ten thousand levels of indentation alone are 50 MB.
    folder.write("t.bathy", format!("architecture a\n{}", systems(10_000)));
    folder.run(&["render"]).ends_with(3).says("divide it into several");
    assert_eq!(folder.files(), ["t.bathy"]);
}

#[test]
fn the_deepest_nesting_that_is_allowed_is_drawn() {
    let folder = Folder::new();
    let deep: String = (1..99).map(|i| format!("{}system s{i}\n", " ".repeat(i))).collect();
    folder.write("t.bathy", format!("architecture a\n{deep}"));
    folder.run(&["render"]).ends_with(0);
    let whens: String = (1..96).map(|i| format!("{0}when \"g{i}\"\n{0} a calls b \"m{i}\"\n", " ".repeat(i))).collect();
    folder.write("t.bathy", format!("sequence s\n{whens}"));
    folder.run(&["render"]).ends_with(0);
}

#[test]
fn a_file_of_20_megabytes() {
    let folder = Folder::new();
    folder.write("t.bathy", format!("flow f\n{}", "  \"a step of twenty bytes\"\n".repeat(800_000)));
    folder.run(&["render"]).ends_with(3).says("divide it into several");
    assert_eq!(folder.files(), ["t.bathy"]);
}

#[test]
fn more_elements_than_a_diagram_holds() {
    let folder = Folder::new();
    folder.write("t.bathy", format!("flow f\n{}", "  \"a\"\n".repeat(260_000)));
    folder.run(&["check", "--no-pictures"]).ends_with(1).says("at most 100000 elements");
    // What a line with two sets stands for is never left out in silence.
    folder.write("t.bathy", "network n\n  a1..a1000 joins b1..b1000\n");
    folder.run(&["check", "--no-pictures"]).ends_with(1).says("t.bathy:2:3").says("at most 50000 relations");
    folder.write("t.bathy", "network n\n  a1..a200 joins b1..b200\n");
    folder.run(&["check", "--no-pictures"]).ends_with(0);
}

#[test]
fn names_that_are_paths_make_no_files() {
    let folder = Folder::new();
    folder.write(
        "p/t.bathy",
        "flow `../../escaped`\n  \"a\"\nflow `/abs`\n  \"b\"\nflow kept\n  begin \"x\"\n  finish \"y\"\n",
    );
    folder.write("p/old.bathy", "flow `../../escaped`\n  \"q\"\n");
    folder.run_in("p", &["render", "--anyway", "t.bathy"]).ends_with(1).says("bad-picture-name");
    folder
        .run_in("p", &["diff", "--picture", "out", "old.bathy", "t.bathy"])
        .ends_with(2)
        .says("no picture file can be called");
    assert_eq!(folder.files(), ["p/old.bathy", "p/pictures/kept.svg", "p/t.bathy"]);
}

#[cfg(unix)]
#[test]
fn nothing_is_removed_behind_a_link() {
    let folder = Folder::new();
    folder
        .write("a/t.bathy", "flow t\n  begin \"x\"\n  finish \"y\"\n")
        .write("b/u.bathy", "flow u\n  begin \"x\"\n  finish \"y\"\n");
    folder.run_in("a", &["render"]).ends_with(0);
    std::os::unix::fs::symlink("../a/pictures", folder.path("b/pictures")).expect("linked");
    folder.run_in("b", &["render"]).ends_with(3).says("symbolic link");
    folder.write("b/bathygram.toml", "").run_in("b", &["check"]).ends_with(1);
    std::fs::remove_file(folder.path("b/u.bathy")).expect("removed");
    folder.run_in("b", &["render"]).ends_with(2);
    assert!(folder.path("a/pictures/t.svg").is_file());
}

#[test]
fn carriage_returns_alone_and_no_form_at_all() {
    let folder = Folder::new();
    folder.write("t.bathy", "\r\r");
    folder.run(&["check", "--no-pictures"]).ends_with(1).says("this file says nothing");
    folder.write("t.bathy", "flow f\n  begin \"x\"\n  finish \"y\"\n").write("bathygram.toml", "formats = []\n");
    folder.run(&["render"]).ends_with(3).says("`formats` names at least one form");
}

#[test]
fn a_lone_dash_is_standard_output() {
    let folder = Folder::new();
    folder
        .write("t.bathy", "flow f\n  begin \"x\"\n  finish \"y\"\n")
        .write("u.bathy", "flow f\n  begin \"x\"\n  finish \"z\"\n");
    assert!(folder.run(&["render", "t.bathy", "--out", "-"]).ends_with(0).out.starts_with("<svg"));
    assert!(
        folder.run(&["render", "t.bathy", "-o", "-", "--format", "png"]).ends_with(0).bytes.starts_with(b"\x89PNG")
    );
    folder
        .run(&["render", "t.bathy", "-o", "-", "--format", "png,svg"])
        .ends_with(2)
        .says("standard output takes one form");
    assert!(folder.run(&["diff", "t.bathy", "u.bathy", "--picture", "-"]).ends_with(0).out.starts_with("<svg"));
    assert!(folder.run(&["diff", "t.bathy", "u.bathy", "--html", "-"]).ends_with(0).out.starts_with("<!"));
    assert!(folder.run(&["icons", "tide", "--picture", "--out", "-"]).ends_with(0).out.starts_with("<svg"));
    assert_eq!(folder.files(), ["t.bathy", "u.bathy"]);
}

#[test]
fn one_endless_line_and_odd_characters() {
    let folder = Folder::new();
    folder.write("t.bathy", format!("flow f\n  \"{}\"\n", "long ".repeat(20_000)));
    folder.run(&["render"]).ends_with(0);
    folder.write("t.bathy", format!("flow f\n  {}\n", "x".repeat(300_000)));
    folder.run(&["render"]).ends_with(1).says("unknown-word");
    let odd = "flow f\r\n  \"潮汐 🌊 e\u{301} مد \u{0} \u{7}\u{202e}abc\"\r\n  \"Ebbe & Flut <°>\"\r\n";
    folder.write("t.bathy", odd);
    folder.run(&["render"]).ends_with(0);
    let svg = folder.read("pictures/f.svg");
    assert!(svg.contains("潮汐") && svg.contains("Ebbe &amp; Flut &lt;°&gt;") && !svg.contains('\u{0}'));
}

#[test]
fn a_place_that_cannot_be_written() {
    let folder = Folder::new();
    // A file stands where the folder of the pictures should be: that stops every user, root too.
    folder.write("t.bathy", "flow f\n  \"a\"\n").write("pictures", "a file");
    folder.run(&["render"]).ends_with(3).says("cannot write");
    assert_eq!(folder.read("pictures"), "a file");
    assert_eq!(folder.files(), ["pictures", "t.bathy"]);
}

#[test]
fn nothing_half_written_remains() {
    let folder = Folder::new();
    folder.write("a.bathy", "flow a\n  \"a\"\n");
    std::fs::create_dir_all(folder.path("pictures/a.svg")).expect("a folder in the way");
    folder.run(&["render"]).ends_with(3).says("cannot write");
    assert_eq!(folder.files(), ["a.bathy"]);
}

#[test]
fn mangled_demo_texts_never_crash_the_program() {
    let folder = Folder::new();
    let demo = crate::common::repository().join("demo/tidewatch");
    for (i, name) in ["surge_warning", "domain", "recalibrate", "architecture"].iter().enumerate() {
        let text = std::fs::read_to_string(demo.join(format!("{name}.bathy"))).expect("a demo text");
        let lines: Vec<&str> = text.lines().collect();
        for step in [2, 3, 5] {
            // Leave out lines, cut lines, and shift lines to the right.
            let cut: String = lines
                .iter()
                .enumerate()
                .filter(|(n, _)| (n + i) % step != 0)
                .map(|(n, l)| {
                    let kept: String =
                        l.chars().take(if n % 7 == 0 { l.chars().count() / 2 } else { usize::MAX }).collect();
                    format!("{}{kept}\n", " ".repeat(if n % 11 == 3 { 2 } else { 0 }))
                })
                .collect();
            folder.write("t.bathy", cut);
            let run = folder.run(&["check", "--no-pictures"]);
            assert!(run.status <= 1, "{name} {step}: {}", run.err);
        }
    }
}

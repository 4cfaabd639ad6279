//! `check` and `diff` on real repositories, and `demo`.

use crate::common::{Folder, repository};

const MAP: &str = "architecture map \"Map\"\n  service gateway \"Gateway\"\n    built \"Rust\"\n  store readings \"Readings\"\n  gateway writes readings \"appends\"\n";

fn committed() -> Folder {
    let folder = Folder::new();
    folder.write("docs/map.bathy", MAP).write("storm.bathy", "sequence storm\n  buoy sends desk \"4.2 m\"\n");
    folder.git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder
}

#[test]
fn check_tells_which_pictures_are_out_of_date() {
    let folder = committed();
    folder.run(&["check"]).ends_with(1).says("has not been drawn yet").says("run `bathygram render`");
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0).says("nothing to complain about");
    folder.write("docs/map.bathy", MAP.replace("appends", "adds"));
    let run =
        folder.run(&["check"]).ends_with(1).says("error[picture-out-of-date]: the picture of `map` is out of date");
    assert!(run.out.contains("docs/map.bathy:1:1") && !run.out.contains("storm"), "{}", run.out);
    folder.run(&["check", "--no-pictures"]).ends_with(0);
    folder.run(&["render"]).ends_with(0);
    std::fs::remove_file(folder.path("storm.bathy")).expect("removed");
    folder.run(&["check"]).ends_with(0).says("warning[picture-stray]: no source has a picture called `storm`");
}

#[test]
fn pictures_survive_a_clean_clone() {
    let folder = committed();
    folder.run(&["render"]).ends_with(0);
    folder.git(&["add", "."]).git(&["commit", "-qm", "pictures"]);
    let clone = Folder::new();
    clone.git(&["clone", "-q", &folder.path("").to_string_lossy(), "clone"]);
    let inside = std::process::Command::new(env!("CARGO_BIN_EXE_bathygram"))
        .arg("check")
        .current_dir(clone.path("clone"))
        .output()
        .expect("runs");
    assert!(inside.status.success(), "{}", String::from_utf8_lossy(&inside.stdout));
}

#[test]
fn check_answers_as_json() {
    let folder = committed();
    folder.run(&["render"]).ends_with(0);
    folder.write("bad.bathy", "flow bad\n  decid \"x\"\n");
    let run = folder.run(&["check", "--json"]).ends_with(1);
    let json: serde_json::Value = serde_json::from_str(&run.out).expect("JSON");
    assert_eq!((json["version"].as_u64(), json["errors"].as_u64()), (Some(1), Some(1)));
    let finding = &json["findings"][0];
    assert_eq!(finding["file"], "bad.bathy");
    assert_eq!((finding["line"].as_u64(), finding["column"].as_u64()), (Some(2), Some(3)));
    assert_eq!((finding["code"].as_str(), finding["severity"].as_str()), (Some("unknown-word"), Some("error")));
    assert_eq!(json["pictures"][0]["state"], "fresh");
}

#[test]
fn diff_against_the_last_commit() {
    let folder = committed();
    folder.run(&["diff", "--exit-code"]).ends_with(0).says("show the same");
    let new = MAP.replace("\"Rust\"", "\"Go\"").replace("appends", "adds")
        + "  actor keeper \"Keeper\"\n  keeper uses gateway\n";
    folder.write("docs/map.bathy", new);
    let run = folder.run(&["diff"]).ends_with(0);
    let shown: Vec<&str> = run.out.lines().map(str::trim_end).collect();
    assert_eq!(
        shown,
        [
            "map (docs/map.bathy)",
            "  ~ `gateway`: built: \"Rust\" became \"Go\"  (line 2)",
            "  + actor `keeper` is new  (line 6)",
            "  ~ `gateway` writes `readings`: label: \"appends\" became \"adds\"  (line 5)",
            "  + `keeper` now uses `gateway`  (line 7)",
            "",
        ]
    );
    folder.run(&["diff", "--exit-code"]).ends_with(1);
    folder.run(&["diff", "storm.bathy", "--exit-code"]).ends_with(0);
    folder.run(&["diff", "HEAD", "docs/map.bathy", "--exit-code"]).ends_with(1);
}

#[test]
fn diff_between_revisions_and_from_a_folder_below() {
    let folder = committed();
    folder.write("docs/map.bathy", MAP.replace("store readings \"Readings\"", "store readings \"Levels\""));
    folder.git(&["mv", "storm.bathy", "docs/storm.bathy"]).git(&["commit", "-qam", "two"]);
    folder.git(&["rm", "-q", "docs/storm.bathy"]).git(&["commit", "-qm", "three"]);
    let run = folder.run(&["diff", "HEAD~2", "HEAD~1"]).ends_with(0);
    assert!(
        run.out.contains("label: \"Readings\" became \"Levels\"") && !run.out.contains("storm"),
        "a moved file is the same: {}",
        run.out
    );
    folder.run(&["diff", "HEAD~1", "HEAD"]).ends_with(0).says("- sequence `storm` is gone");
    let below = std::process::Command::new(env!("CARGO_BIN_EXE_bathygram"))
        .args(["diff", "HEAD~2", "map.bathy"])
        .current_dir(folder.path("docs"))
        .output()
        .expect("runs");
    let out = String::from_utf8_lossy(&below.stdout);
    assert!(out.contains("became \"Levels\""), "{out}");
}

#[test]
fn diff_between_two_files_and_as_json() {
    let folder = Folder::new();
    folder.write("old.bathy", MAP).write("new.bathy", MAP.replace("  gateway writes readings \"appends\"\n", ""));
    let run = folder.run(&["diff", "old.bathy", "new.bathy", "--json", "--exit-code"]).ends_with(1);
    let json: serde_json::Value = serde_json::from_str(&run.out).expect("JSON");
    let change = &json["diagrams"][0]["changes"][0];
    assert_eq!((change["fate"].as_str(), change["subject"].as_str()), (Some("removed"), Some("relation")));
    assert_eq!(change["what"], "gateway writes readings \"appends\"");
}

#[test]
fn diff_says_what_is_wrong_with_its_words() {
    let folder = committed();
    folder.run(&["diff", "nowhere"]).ends_with(2).says("`nowhere` is no revision, file, folder or picture");
    folder.run(&["diff", "HEAD", "HEAD", "HEAD"]).ends_with(2).says("at most two revisions");
    folder.run(&["diff", "storm.bathy", "none.bathy"]).ends_with(2).says("`none.bathy` is no file");
    let bare = Folder::new();
    bare.write("a.bathy", MAP);
    bare.run(&["diff"]).ends_with(3).says("git").says("`diff OLD-FILE NEW-FILE` needs no repository");
}

#[test]
fn diff_reads_what_it_can_of_broken_texts() {
    let folder = committed();
    folder.write("docs/map.bathy", format!("{MAP}  this is\n  actor keeper \"Keeper\"\n"));
    folder.run(&["diff"]).ends_with(1).says("docs/map.bathy has errors").says("+ actor `keeper` is new");
}

#[test]
fn the_demo_is_written_rendered_and_whole() {
    let folder = Folder::new();
    let run = folder.run(&["demo"]).ends_with(0).says("Open in a browser").says("tidewatch/pictures/surge_warning.svg");
    assert!(run.out.lines().count() >= 11, "{}", run.out);
    let shipped = repository().join("demo/tidewatch");
    for entry in std::fs::read_dir(&shipped).expect("the demo").flatten().filter(|e| e.path().is_file()) {
        let name = entry.file_name().to_string_lossy().into_owned();
        let ours = std::fs::read(entry.path()).expect("a file");
        let written = std::fs::read(folder.path(&format!("tidewatch/{name}"))).unwrap_or_default();
        assert!(written == ours, "{name} is part of `demo`");
    }
    folder.run(&["demo"]).ends_with(0);
    folder.write("tidewatch/domain.bathy", "classes mine\n  class A\n");
    folder.run(&["demo"]).ends_with(2).says("name another folder");
    assert_eq!(folder.read("tidewatch/domain.bathy"), "classes mine\n  class A\n");
}

#[test]
fn the_committed_pictures_of_the_demo_are_fresh() {
    let run = std::process::Command::new(env!("CARGO_BIN_EXE_bathygram"))
        .arg("check")
        .current_dir(repository().join("demo/tidewatch"))
        .output()
        .expect("runs");
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stdout));
}

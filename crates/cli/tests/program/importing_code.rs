//! `import modules` and `import code`, as people call them.

use crate::common::{Folder, repository};
use serde_json::Value;

/// A small service with a circle, and a folder that git ignores.
fn bay() -> Folder {
    let folder = Folder::new();
    folder
        .write("pyproject.toml", "[project]\nname = \"bay\"\n")
        .write(".gitignore", "made/\n")
        .write("made/x.py", "import gauge\n")
        .write("gauge/__init__.py", "from .read import Gauge\n")
        .write("gauge/read.py", "from level import Level\nclass Gauge:\n    def __init__(self, level: Level):\n        self.level = level\n")
        .write("level/__init__.py", "from .level import Level\n")
        .write("level/level.py", "import gauge\nclass Level: ...\n")
        .write("desk/board.py", "from gauge.read import Gauge\nfrom level import Level\nclass Board(Gauge): ...\n")
        .write("tests/test_gauge.py", "import gauge\n");
    folder
}

fn is_valid(schema: &str, value: &Value) {
    let schema: Value = serde_json::from_str(schema).expect("a schema");
    let wrong: Vec<String> =
        jsonschema::validator_for(&schema).expect("a schema").iter_errors(value).map(|e| e.to_string()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
}

#[test]
fn modules_become_an_architecture_with_what_is_wrong_in_them() {
    let folder = bay();
    let run = folder.run(&["import", "modules", ".", "--picture", "map.svg"]).ends_with(0);
    assert!(run.out.starts_with("architecture bay \"Bay\"\n"), "{}", run.out);
    for line in [
        "a file or folder that git ignores is left out",
        "warning [circle]: ",
        "desk/board.py:1: warning [bypass]: `gauge/read.py` is imported from outside of `gauge`, past `gauge/__init__.py`",
        "1 source file of tests, examples and benchmarks left out",
        "map.svg written",
    ] {
        assert!(run.err.contains(line), "{line} in:\n{}", run.err);
    }
    folder.write("map.bathy", &run.out);
    folder.run(&["check", "map.bathy", "--no-pictures"]).ends_with(0);
    assert!(folder.read("map.svg").contains("Numbers on lines count imports."));
}

#[test]
fn what_was_found_is_there_for_programs() {
    let folder = bay();
    let schema = folder.run(&["import", "schema"]).ends_with(0).out;
    let modules = folder.run(&["-q", "import", "modules", ".", "--json"]).ends_with(0).out;
    let modules: Value = serde_json::from_str(&modules).expect("JSON");
    is_valid(&schema, &modules);
    assert!(modules["imports"].as_array().expect("imports").iter().any(|one| one["file"] == "gauge/read.py"));
    let code = folder.run(&["-q", "import", "code", ".", "--json"]).ends_with(0).out;
    is_valid(&schema, &serde_json::from_str(&code).expect("JSON"));
    let log = folder.run(&["-q", "import", "modules", ".", "--findings", "sarif"]).ends_with(0).err;
    let log: Value = serde_json::from_str(&log).expect("JSON");
    let schema =
        std::fs::read_to_string(repository().join("crates/cli/tests/data/sarif-2.1.0.schema.json")).expect("a schema");
    is_valid(&schema, &log);
    let circle = log["runs"][0]["results"].as_array().expect("results").iter().find(|one| one["ruleId"] == "circle");
    assert!(circle.expect("a circle")["locations"][0]["physicalLocation"]["region"]["startLine"].is_u64());
}

#[test]
fn code_becomes_classes() {
    let folder = bay();
    let run = folder.run(&["import", "code", ".", "--picture", "classes.svg"]).ends_with(0);
    for line in
        ["    class Gauge (origin gauge/read.py:Gauge)", "  Board extends Gauge", "  Gauge knows Level as level"]
    {
        assert!(run.out.contains(line), "{line} in:\n{}", run.out);
    }
    folder.write("classes.bathy", &run.out);
    folder.run(&["check", "classes.bathy", "--no-pictures"]).ends_with(0);
    let near = folder.run(&["-q", "import", "code", ".", "--around", "Board", "--members", "none"]).ends_with(0).out;
    assert!(near.contains("Gauge") && !near.contains("Level") && !near.contains("__init__"), "{near}");
    let only = folder.run(&["-q", "import", "code", ".", "--only", "desk", "--name", "desk"]).ends_with(0).out;
    assert!(only.starts_with("classes desk") && !only.contains("Gauge "), "{only}");
}

#[test]
fn texts_are_brought_up_to_date() {
    let folder = bay();
    let text = folder.run(&["-q", "import", "modules", "."]).ends_with(0).out;
    let edited = text
        .replace("part desk (", "part desk \"The desk\" (icon screen, ")
        .replace("  caption", "  // by hand\n  row desk\n  caption");
    assert_ne!(text, edited);
    folder.write("map.bathy", &edited);
    folder.run(&["import", "modules", ".", "--into", "map.bathy"]).ends_with(0).says("is up to date");
    assert_eq!(folder.read("map.bathy"), edited);
    // One import more, a new package, and one that is gone.
    folder.write("desk/more.py", "from level import Level\n").write("radio/call.py", "import desk.board\n");
    let run = folder.run(&["import", "modules", ".", "--into", "map.bathy"]).ends_with(0);
    run.says("1 number brought up to date");
    let merged = folder.read("map.bathy");
    assert!(merged.contains("radio uses desk \"1\"") && merged.contains("icon screen"), "{merged}");
    std::fs::remove_dir_all(folder.path("radio")).expect("removed");
    folder.run(&["import", "modules", ".", "--into", "map.bathy", "--prune"]).ends_with(0).says("gone, and removed");
    assert!(!folder.read("map.bathy").contains("radio"));

    let classes = folder.run(&["-q", "import", "code", "."]).ends_with(0).out;
    folder.write("classes.bathy", &classes);
    folder.run(&["import", "code", ".", "--into", "classes.bathy"]).ends_with(0).says("is up to date");
    folder.write("level/level.py", "class Level:\n    metres: float\nclass Datum(Level): ...\n");
    folder.run(&["import", "code", ".", "--into", "classes.bathy"]).ends_with(0).says("new: Datum extends Level");
    let merged = folder.read("classes.bathy");
    assert!(merged.contains("+ metres: float") && merged.contains("class Datum"), "{merged}");
}

#[test]
fn it_is_called_with_what_it_needs() {
    let folder = bay();
    folder.run(&["import", "modules", "nowhere"]).ends_with(2).says("nowhere is no folder");
    folder.run(&["import", "modules", "pyproject.toml"]).ends_with(2).says("is no folder");
    folder.write("empty/read.me", "");
    folder.run(&["import", "modules", "empty"]).ends_with(2).says("there is no source code");
    folder.run(&["import", "code", "empty"]).ends_with(2).says("there is no source code");
    folder
        .run(&["import", "modules", ".", "--around", "Nobody"])
        .ends_with(2)
        .says("nothing in this source is called `Nobody`");
    folder.run(&["import", "modules", ".", "--depth", "0"]).ends_with(2);
    folder.run(&["import", "modules", ".", "--depth", "2", "--into", "x.bathy"]).ends_with(2).says("--depth");
    folder.run(&["import", "modules", ".", "--into", "x.bathy"]).ends_with(2).says("x.bathy is no file");
    // From another folder, places can be opened from there.
    folder.run_in("desk", &["import", "modules", ".."]).ends_with(0).says("../desk/board.py:1: warning [bypass]");
}

#[test]
fn hostile_trees_end_with_a_message() {
    let folder = Folder::new();
    folder
        .write("a.py", "import b\n")
        .write("b.py", [b"x = '".as_slice(), &[0xff, 0xfe, 0x80], b"'\nimport a\n"].concat());
    folder.write("line\nbreak.py", "import a\n");
    folder.write("large.py", "x = 1\n".repeat(2_000_000));
    folder.write("deep.js", "[".repeat(20_000) + "\n");
    folder
        .write("Cargo.toml", "[package\n")
        .write("package.json", "{ \"exports\": {")
        .write("tsconfig.json", "{ \"extends\": \"./tsconfig.json\" }");
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink(folder.path("."), folder.path("again")).expect("a link");
        std::os::unix::fs::symlink("/etc/passwd", folder.path("secret.py")).expect("a link");
    }
    let mut nested = String::from("deep");
    for _ in 0..200 {
        nested += "/d";
    }
    folder.write(&format!("{nested}/end.py"), "import a\n");
    let run = folder.run(&["import", "modules", "."]).ends_with(0);
    assert!(run.err.contains("large.py") && run.err.contains("it is larger than"), "{}", run.err);
    assert!(run.err.contains("1 file left out: no line can hold the name"), "{}", run.err);
    assert!(!run.out.contains("secret") && !run.out.contains("again"), "{}", run.out);
    folder.run(&["import", "code", "."]).ends_with(2).says("there are no classes");
}

#[test]
fn many_folders_are_no_problem() {
    let folder = Folder::new();
    for i in 0..3_000 {
        folder.write(&format!("p{}/q{i}/m.py", i % 40), format!("import p{}.q{}.m\n", (i + 1) % 40, i / 2));
    }
    let run = folder.run(&["-q", "import", "modules", "."]).ends_with(0);
    let boxes = run.out.lines().filter(|line| line.trim_start().starts_with("part ")).count();
    assert!((7..=25).contains(&boxes), "{boxes} boxes:\n{}", run.out);
}

#[test]
fn the_demo_s_service_has_its_known_faults() {
    let folder = Folder::new();
    folder.run(&["-q", "demo", "tidewatch"]).ends_with(0);
    let run = folder.run_in("tidewatch", &["import", "modules", "."]).ends_with(0);
    for line in [
        "warnings/readings/store.py:2: warning [circle]: `callouts`, `readings` and `rules` use each other; without 1 import, from `readings` to `rules`, they do not",
        "console/src/board/board.ts:3: warning [bypass]: `console/src/wire/frames.ts` is imported from outside of `console/src/wire`, past `console/src/wire/index.ts`",
        "warnings/gateway/siren.py: note [orphan]: nobody imports this file",
    ] {
        assert!(run.err.contains(line), "{line} in:\n{}", run.err);
    }
}

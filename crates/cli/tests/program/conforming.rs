//! `conform` against code, as people call it.

use crate::common::{Folder, repository};
use serde_json::Value;

const DESIGN: &str = "architecture bay\n  part gate (code gate)\n  part rules (code rules)\n  part store (code store)\n  gate uses rules\n  rules uses store\n  gate never uses store \"through the rules\"\n";

/// A service in three packages that is as it is drawn.
fn bay() -> Folder {
    let folder = Folder::new();
    folder
        .write("gate/a.py", "from rules import r\n")
        .write("rules/r.py", "import store.s\nclass Rule:\n    name: str\n")
        .write("store/s.py", "x = 1\n")
        .write("bay.bathy", DESIGN);
    folder
}

#[test]
fn what_is_as_drawn_conforms() {
    let folder = bay();
    let run = folder
        .run(&["conform", "--code", "."])
        .ends_with(0)
        .says("bay: 2 relations as drawn, 0 differences, in 3 source files");
    assert_eq!(run.out, "");
    folder.run(&["conform", "bay.bathy", "--code", ".", "--format", "markdown"]).ends_with(0).says("No difference.");
}

#[test]
fn differences_have_lines_in_text_json_sarif_markdown_and_a_picture() {
    let folder = bay();
    folder.write("gate/b.py", "\nimport store.s\n").write("rules/r.py", "x = 1\n").write("tool.py", "y = 1\n");
    let run = folder.run(&["conform", "--code", ".", "--picture", "d.svg"]).ends_with(1);
    assert_eq!(
        run.out,
        "bay.bathy:6: error [absent]: `rules` uses `store` nowhere in the code\n\
         bay.bathy:7: error [forbidden]: `gate` uses `store` in 1 import; the diagram says never \"through the rules\" (gate/b.py:2)\n\
         bay.bathy:1: note [uncovered]: no element stands for `tool.py`, which is source code\n"
    );
    assert!(folder.read("d.svg").contains("1 import, forbidden"));
    let json: Value =
        serde_json::from_str(&folder.run(&["-q", "conform", "--code", ".", "--format", "json"]).ends_with(1).out)
            .expect("JSON");
    let schema: Value = serde_json::from_str(&folder.run(&["conform", "--schema"]).ends_with(0).out).expect("a schema");
    let wrong: Vec<String> =
        jsonschema::validator_for(&schema).expect("a schema").iter_errors(&json).map(|e| e.to_string()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    assert_eq!(json[0]["differences"][1]["seen"][0], "gate/b.py:2");
    let log: Value =
        serde_json::from_str(&folder.run(&["-q", "conform", "--code", ".", "--format", "sarif"]).ends_with(1).out)
            .expect("JSON");
    let schema =
        std::fs::read_to_string(repository().join("crates/cli/tests/data/sarif-2.1.0.schema.json")).expect("a schema");
    let schema: Value = serde_json::from_str(&schema).expect("a schema");
    let wrong: Vec<String> =
        jsonschema::validator_for(&schema).expect("a schema").iter_errors(&log).map(|e| e.to_string()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    let related = &log["runs"][0]["results"][1]["relatedLocations"][0]["physicalLocation"];
    assert_eq!(
        (&related["artifactLocation"]["uri"], &related["region"]["startLine"]),
        (&"gate/b.py".into(), &2.into())
    );
    folder
        .run(&["-q", "conform", "--code", ".", "--format", "markdown"])
        .ends_with(1)
        .says("- **forbidden**: `gate` uses `store` in 1 import; the diagram says never \"through the rules\" (bay.bathy:7; seen at gate/b.py:2)");
}

#[test]
fn an_old_code_base_starts_clean_and_only_what_is_new_counts() {
    let folder = bay();
    folder.write("gate/b.py", "import store.s\n");
    folder
        .run(&["conform", "--code", ".", "--baseline", "known.txt"])
        .ends_with(2)
        .says("`--baseline known.txt --write-baseline` writes it");
    folder.run(&["conform", "--code", ".", "--write-baseline"]).ends_with(2).says("--baseline FILE");
    folder
        .run(&["conform", "--code", ".", "--baseline", "known.txt", "--write-baseline"])
        .ends_with(0)
        .says("1 difference accepted");
    assert!(folder.read("known.txt").contains("\nbay: forbidden gate > store: gate/b.py > store/s.py\n"));
    folder
        .run(&["conform", "--code", ".", "--baseline", "known.txt"])
        .ends_with(0)
        .says("1 difference accepted by known.txt");
    // Lines may move.
    folder.write("gate/b.py", "\n\n\nimport store.s\n");
    folder.run(&["conform", "--code", ".", "--baseline", "known.txt"]).ends_with(0);
    folder.write("gate/c.py", "import store.s\n");
    let run = folder.run(&["conform", "--code", ".", "--baseline", "known.txt"]).ends_with(1);
    assert!(
        run.out.contains("in 1 import") && run.out.contains("gate/c.py:1") && !run.out.contains("gate/b.py"),
        "{}",
        run.out
    );
    // What is not needed any more is reported.
    std::fs::remove_file(folder.path("gate/b.py")).expect("removed");
    std::fs::remove_file(folder.path("gate/c.py")).expect("removed");
    folder
        .run(&["conform", "--code", ".", "--baseline", "known.txt"])
        .ends_with(0)
        .says("1 line of it no longer needed");
    // A file of somebody else stays.
    folder.write("notes.txt", "mine\n");
    folder
        .run(&["conform", "--code", ".", "--baseline", "notes.txt", "--write-baseline"])
        .ends_with(2)
        .says("stays as it is");
    assert_eq!(folder.read("notes.txt"), "mine\n");
}

#[test]
fn the_config_names_sources_a_baseline_and_levels() {
    let folder = bay();
    folder.write("gate/b.py", "import store.s\n").write("tool.py", "x = 1\n");
    let config = |levels: &str| format!("[conform]\ncode = \".\"\n[conform.levels]\n{levels}\n");
    folder.write("bathygram.toml", config("forbidden = \"warning\"\nuncovered = \"off\""));
    let run = folder.run(&["conform"]).ends_with(0);
    assert!(run.out.contains("warning [forbidden]") && !run.out.contains("uncovered"), "{}", run.out);
    folder.write("bathygram.toml", config("forbidden = \"off\"\nuncovered = \"error\""));
    folder.run_in("gate", &["conform"]).ends_with(1).says("error [uncovered]");
    folder.write("bathygram.toml", config("surprize = \"off\""));
    folder.run(&["conform"]).ends_with(2).says("no difference is called `surprize`");
    folder.write("bathygram.toml", "[conform]\ncode = \".\"\nbaseline = \"known.txt\"\n");
    folder.run(&["conform", "--write-baseline"]).ends_with(0);
    folder.run(&["conform"]).ends_with(0).says("accepted by");
    // From wherever it is called.
    folder.run_in("gate", &["conform"]).ends_with(0).says("accepted by");
}

#[test]
fn documents_are_compared_with_their_lines() {
    let folder = bay();
    folder.write("gate/b.py", "import store.s\n");
    folder.write("docs/design.md", format!("# Design\n\nText.\n\n```bathygram\n{DESIGN}```\n"));
    let run = folder.run(&["conform", "docs/design.md", "--code", "."]).ends_with(1);
    assert!(run.out.starts_with("docs/design.md:12: error [forbidden]"), "{}", run.out);
}

#[test]
fn classes_are_compared_with_code() {
    let folder = bay();
    folder.write("rules/r.py", "from store.s import Store\nclass Rule:\n    name: str\n    def __init__(self, stores: list[Store]):\n        self.stores = stores\nclass Other: ...\n");
    folder.write("store/s.py", "class Store(dict): ...\nclass Fast(Store): ...\n");
    let design = |more: &str| {
        format!(
            "classes rules\n  group all\n    code \"rules, store\"\n    class Rule\n      name: str\n    class Store\n    class Fast\n{more}  Rule knows 0..* Store as stores\n  Fast extends Store\n"
        )
    };
    folder.write("classes.bathy", design(""));
    let run = folder
        .run(&["conform", "classes.bathy", "--code", "."])
        .ends_with(0)
        .says("rules: 3 classifiers in the code, 0 differences");
    assert!(run.out.contains("note [undrawn]: not drawn, though in files of what is: `Other`"), "{}", run.out);
    let wrong = design("    class Gone\n      x: int\n")
        .replace("      name: str\n", "      title: str\n      name: Text\n")
        .replace("0..* Store", "1 Store")
        .replace("Fast extends Store", "Store extends Fast");
    folder.write("classes.bathy", wrong);
    let run = folder.run(&["conform", "classes.bathy", "--code", ".", "--picture", "c.svg"]).ends_with(1);
    let codes: Vec<&str> = run.out.lines().filter_map(|line| line.split('[').nth(1)?.split(']').next()).collect();
    assert_eq!(
        codes,
        ["member-absent", "surprise", "absent", "multiplicity", "absent", "undrawn", "type"],
        "{}",
        run.out
    );
    for line in [
        "`Rule` has no `title: str` in the code (rules/r.py:2)",
        "`Gone` is nowhere in the code",
        "`Rule` knows `Store`: there are 0..* in the code (rules/r.py:2)",
        "`Store` extends `Fast` nowhere in the code (store/s.py:1)",
        "`Fast` extends `Store`; the diagram does not say so (store/s.py:2)",
        "`name: Text` of `Rule` is of type `str` in the code (rules/r.py:2)",
    ] {
        assert!(run.out.contains(line), "{line} in:\n{}", run.out);
    }
    folder.run(&["conform", "classes.bathy", "--code", ".", "--baseline", "k.txt", "--write-baseline"]).ends_with(0);
    folder.run(&["conform", "classes.bathy", "--code", ".", "--baseline", "k.txt"]).ends_with(0);
    // What names no files is about something else.
    folder.write("plain.bathy", "classes plain\n  class Rule\n");
    folder
        .run(&["conform", "plain.bathy", "--code", "."])
        .ends_with(2)
        .says("no diagram whose elements name source files");
}

#[test]
fn what_is_imported_conforms() {
    let folder = bay();
    for kind in ["modules", "code"] {
        let text = folder.run(&["-q", "import", kind, ".", "--name", "own"]).ends_with(0).out;
        folder.write("own.bathy", &text);
        let run = folder.run(&["conform", "own.bathy", "--code", "."]).ends_with(0);
        assert_eq!(run.out, "", "{kind}");
    }
}

#[test]
fn the_demo_differs_from_its_code_in_what_is_known() {
    let folder = Folder::new();
    folder.run(&["-q", "demo", "tidewatch"]).ends_with(0);
    let run = folder.run_in("tidewatch", &["conform", "--code", "."]).ends_with(1);
    let found: Vec<String> = run
        .out
        .lines()
        .filter_map(|line| Some(line.split(": ").take(2).collect::<Vec<_>>().join(" ")).filter(|_| !line.is_empty()))
        .collect();
    assert_eq!(
        found,
        [
            "warning_classes.bathy:9 error [member-absent]",
            "warning_classes.bathy:15 error [absent]",
            "warning_classes.bathy:24 error [multiplicity]",
            "warning_classes.bathy:2 note [undrawn]",
            "warning_classes.bathy:17 note [type]",
            "warning_design.bathy:6 error [surprise]",
            "warning_design.bathy:8 error [surprise]",
            "warning_design.bathy:23 error [absent]",
            "warning_design.bathy:24 error [forbidden]",
            "warning_design.bathy:2 note [uncovered]",
        ],
        "{}",
        run.out
    );
}

#[test]
fn this_project_s_own_architecture_is_the_one_in_its_code() {
    let root = repository();
    let own = root.to_str().expect("a path");
    let folder = Folder::new();
    let page = root.join("docs/source-code.md");
    let run = folder.run(&["conform", page.to_str().expect("a path"), "--code", own]);
    assert!(run.status == 0, "{}\n{}", run.out, run.err);
}

//! Rules and errors have a page each, whose examples are true; findings can be weighed, allowed, and read
//! by programs.

use crate::common::{Folder, repository};
use crate::docs::blocks;
use bathygram_core::check::RULES;
use bathygram_core::diag::ERRORS;
use serde_json::Value;
use std::collections::BTreeSet;

/// Pages without examples: they need several files, many lines, or pictures.
const WITHOUT_EXAMPLES: &[&str] = &[
    "from-errors",
    "from-too-deep",
    "from-unreadable",
    "icon-file",
    "line-ends",
    "missing-letter",
    "part-of-what",
    "picture-edited",
    "picture-foreign",
    "picture-missing",
    "picture-name-taken",
    "picture-out-of-date",
    "picture-stray",
    "text-too-long",
    "too-deep",
    "too-many-blocks",
    "too-many-elements",
    "too-many-findings",
    "too-many-lanes",
    "too-many-lines",
    "too-many-relations",
    "too-much-text",
];

fn manual() -> String {
    std::fs::read_to_string(repository().join("docs/rules.md")).expect("the manual")
}

fn found(example: &str) -> Value {
    let folder = Folder::new();
    folder.write("example.bathy", example);
    // Whether the layout keeps what it is asked is known where the picture is.
    folder.run(&["render"]);
    let run = folder.run(&["check", "--json"]);
    serde_json::from_str(&run.out).expect("JSON")
}

fn codes(report: &Value) -> Vec<&str> {
    report["findings"].as_array().expect("findings").iter().filter_map(|f| f["code"].as_str()).collect()
}

#[test]
fn every_code_has_a_page_and_every_page_a_code() {
    let text = manual();
    let pages: BTreeSet<&str> = text.lines().filter_map(|l| l.strip_prefix("## ")).collect();
    let codes: BTreeSet<&str> = RULES.iter().map(|r| r.code).chain(ERRORS.iter().copied()).collect();
    assert_eq!(pages, codes);
    let folder = Folder::new();
    for code in codes {
        folder.run(&["check", "--explain", code]).ends_with(0).says(code);
    }
    assert_eq!(folder.run(&["check", "--explain"]).ends_with(0).out.lines().count(), pages.len());
    folder.run(&["check", "--explain", "dead-and"]).ends_with(2).says("did you mean `dead-end`?");
}

#[test]
fn the_examples_of_every_page_are_true() {
    let text = manual();
    for page in text.split("\n## ").skip(1) {
        let code = page.lines().next().unwrap_or_default();
        let (wrong, right) = (blocks(page, "bathy wrong"), blocks(page, "bathy"));
        if WITHOUT_EXAMPLES.contains(&code) {
            assert!(wrong.is_empty(), "{code} has examples");
            continue;
        }
        assert_eq!((wrong.len(), right.len()), (1, 1), "the page of {code}");
        let report = found(&wrong[0].1);
        assert!(codes(&report).contains(&code), "{code}: {report:#}");
        let report = found(&right[0].1);
        assert_eq!(report["errors"], 0, "{code}: {report:#}");
        assert!(!codes(&report).contains(&code), "{code}: {report:#}");
    }
}

#[test]
fn a_project_weighs_rules_and_errors_stay_errors() {
    let folder = Folder::new();
    folder.write("t.bathy", "flow f\n  begin \"a\"\n  \"b\"\n");
    folder.run(&["check", "--no-pictures"]).ends_with(0).says("warning[dead-end]").says("t.bathy:3:3");
    folder.write("bathygram.toml", "[rules]\ndead-end = \"error\"\n");
    folder.run(&["check", "--no-pictures"]).ends_with(1).says("error[dead-end]");
    folder.run(&["render"]).ends_with(1).says("pictures/f.svg");
    folder.write("bathygram.toml", "[rules]\ndead-end = \"off\"\npicture-missing = \"off\"\n");
    folder.run(&["check"]).ends_with(0).says("nothing to complain about");
    folder.write("bathygram.toml", "[rules]\ndead-and = \"off\"\n");
    folder.run(&["check"]).ends_with(3).says("did you mean `dead-end`?");
    folder.write("bathygram.toml", "[rules]\nunknown-name = \"off\"\n");
    folder.run(&["check"]).ends_with(3).says("no rule is called `unknown-name`");
    folder.write("bathygram.toml", "[rules]\ndead-end = \"loud\"\n");
    folder.run(&["check"]).ends_with(3).says("off");
}

#[test]
fn a_forbidden_relation_is_denied_and_drawn() {
    let folder = Folder::new();
    folder.write("t.bathy", "architecture a\n  x never uses y \"why\"\n  x uses y \"all the same\"\n");
    folder.run(&["render"]).ends_with(1).says("why: remove one of the two");
    let svg = folder.read("pictures/a.svg");
    assert!(svg.contains("data-relation=\"x never uses y\"") && svg.contains(">why<"), "{svg}");
    folder.write("t.bathy", "architecture a\n  x never uses y \"why\"\n  y uses x\n");
    folder.run(&["render"]).ends_with(0);
    assert!(!folder.read("pictures/a.svg").contains("never uses"));
}

#[test]
fn sarif_has_the_published_form() {
    let folder = Folder::new();
    folder.write("odd name/ü.bathy", "flow f\n  begin \"a\"\n  bogus line\n  \"b\"\n");
    folder.write("t.bathy", "flow g\n  begin \"a\"\n  finish \"b\"\n");
    let run = folder.run(&["check", "--format", "sarif"]).ends_with(1);
    let log: Value = serde_json::from_str(&run.out).expect("JSON");
    let schema = include_str!("../data/sarif-2.1.0.schema.json");
    let schema = jsonschema::validator_for(&serde_json::from_str(schema).expect("a schema")).expect("a schema");
    let errors: Vec<String> = schema.iter_errors(&log).map(|e| e.to_string()).collect();
    assert!(errors.is_empty(), "{errors:#?}");
    let results = log["runs"][0]["results"].as_array().expect("results");
    assert_eq!(results.len(), 2);
    let place = &results[0]["locations"][0]["physicalLocation"];
    assert_eq!(place["artifactLocation"]["uri"], "odd%20name/%C3%BC.bathy");
    assert_eq!((&place["region"]["startLine"], &place["region"]["startColumn"]), (&Value::from(3), &Value::from(3)));
    let rules = log["runs"][0]["tool"]["driver"]["rules"].as_array().expect("rules");
    for result in results {
        let index = result["ruleIndex"].as_u64().expect("an index") as usize;
        assert_eq!(rules[index]["id"], result["ruleId"]);
    }
}

#[test]
fn places_can_be_clicked_wherever_the_program_runs() {
    let folder = Folder::new();
    folder.write("bathygram.toml", "").write("deep/er/t.bathy", "flow f\n  bogus\n").write("other/x", "");
    folder.run(&["check", "--no-pictures"]).ends_with(1).says(" --> deep/er/t.bathy:2:3");
    folder.run_in("other", &["check", "--no-pictures"]).ends_with(1).says(" --> ../deep/er/t.bathy:2:3");
    folder.run_in("deep", &["check", "--no-pictures"]).ends_with(1).says(" --> er/t.bathy:2:3");
}

#[test]
fn thousands_of_findings_are_grouped_and_counted() {
    let folder = Folder::new();
    let many = format!("flow f\n{}  \"x\" (fil coral)\n", "  bogus line\n".repeat(300));
    for name in ["a", "b", "c", "d", "e", "g"] {
        folder.write(&format!("{name}.bathy"), many.replace("flow f", &format!("flow {name}")));
    }
    let run = folder.run(&["check", "--no-pictures"]).ends_with(1).says("251 more findings are not shown");
    assert!(run.out.contains("250 unknown-word") && run.out.contains("1 unknown-trait"), "{}", run.out);
    assert!(run.out.matches("error[").count() <= 200, "at most 200 are shown");
    assert!(run.err.contains("1806 errors"), "{}", run.err);
}

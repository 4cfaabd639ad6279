//! Beginning: a project, its config and its schema, a first file of every kind; bringing texts into form.

use crate::common::{Folder, repository};
use serde_json::Value;

const KINDS: &[&str] = &["sequence", "classes", "flow", "states", "architecture", "network", "tree"];

#[test]
fn every_kind_has_a_good_starting_file() {
    for kind in KINDS {
        let folder = Folder::new();
        let run = folder.run(&["new", kind, "storm_surge"]).ends_with(0).says("storm_surge.bathy");
        assert_eq!(run.out, "storm_surge.bathy\n");
        assert!(folder.read("storm_surge.bathy").contains(&format!("{kind} storm_surge \"Storm surge\"")));
        folder.run(&["format", "--check"]).ends_with(0);
        let run = folder.run(&["render"]).ends_with(0).says("pictures/storm_surge.svg");
        assert!(!run.err.contains("warning"), "{kind}: {}", run.err);
        folder.run(&["check"]).ends_with(0).says("nothing to complain about");
        folder.run(&["new", kind, "storm_surge"]).ends_with(2).says("is there already");
        assert_eq!(folder.run(&["new", kind, "storm_surge", "--print"]).out, folder.read("storm_surge.bathy"));
    }
    Folder::new().run(&["new", "flow", "a/b"]).ends_with(2).says("cannot name a diagram");
    Folder::new().run(&["new", "flow", "../b"]).ends_with(2).says("cannot name a diagram");
    Folder::new().run(&["new", "flo", "b"]).ends_with(2).says("flow");
}

#[test]
fn a_folder_becomes_a_project() {
    let folder = Folder::new();
    folder.write(".gitattributes", "*.png binary");
    let run = folder.run(&["init"]).ends_with(0);
    assert_eq!(run.out, "bathygram.toml\ntide_warning.bathy\n.gitattributes\n");
    assert!(folder.read("bathygram.toml").lines().count() < 45, "the config fits on a screen");
    assert_eq!(
        folder.read(".gitattributes"),
        "*.png binary\n*.bathy text eol=lf diff=bathygram\n**/pictures/**/*.svg text eol=lf diff=bathygram-picture -merge\n\
         **/pictures/**/*.png binary diff=bathygram-picture\n**/pictures/**/*.pdf binary diff=bathygram-picture\n\
         **/pictures/**/*.html text eol=lf diff=bathygram-picture -merge\n\
         **/pictures/**/*.json text eol=lf diff=bathygram-picture -merge\n\
         **/pictures/**/*.graphml text eol=lf diff=bathygram-picture -merge\n"
    );
    folder.run(&["render"]).ends_with(0).says("pictures/tide_warning.svg");
    folder.run(&["check"]).ends_with(0).says("nothing to complain about");
    folder.run(&["format", "--check"]).ends_with(0);
    assert_eq!(folder.run(&["init"]).ends_with(0).says("nothing is missing").out, "");
    let folder = Folder::new();
    folder.write("mine.bathy", "flow f\n  begin \"a\"\n  finish \"b\"\n");
    assert_eq!(folder.run(&["init"]).ends_with(0).out, "bathygram.toml\n.gitattributes\n");
}

#[test]
fn the_schema_of_the_config_fits_configs() {
    let schema = Folder::new().run(&["init", "--schema"]).ends_with(0).out;
    let committed = std::fs::read_to_string(repository().join("docs/bathygram.schema.json")).expect("the schema");
    assert_eq!(schema, committed, "docs/bathygram.schema.json is what `init --schema` prints");
    let schema = jsonschema::validator_for(&serde_json::from_str(&schema).expect("JSON")).expect("a schema");
    let fits = |text: &str| schema.is_valid(&toml::from_str::<Value>(text).expect("TOML"));
    let folder = Folder::new();
    folder.run(&["init"]).ends_with(0);
    assert!(fits(&folder.read("bathygram.toml")));
    assert!(fits("formats = [\"svg\", \"png\"]\n[rules]\ndead-end = \"off\"\n"));
    for text in
        ["picturs = \"x\"", "formats = [\"gif\"]", "[rules]\ndead-and = \"off\"", "[rules]\ndead-end = \"loud\""]
    {
        assert!(!fits(text), "{text}");
        folder.write("bathygram.toml", text);
        folder.run(&["check"]).ends_with(3).says("bathygram.toml");
    }
}

#[test]
fn texts_are_brought_into_form() {
    let folder = Folder::new();
    let (loose, form) = (
        "flow f\n    begin   \"a\"//x\n\n\n    finish \"b\"  //  y\n",
        "flow f\n  begin \"a\"//x\n\n  finish \"b\" // y\n",
    );
    folder.write("a.bathy", loose).write("deep/b.bathy", "flow g\n  begin \"a\"\n  finish \"b\"\n");
    let run = folder.run(&["format", "--check"]).ends_with(1).says("2 files, 1 not in its form");
    for line in ["--- a.bathy", "+++ a.bathy", "-    begin   \"a\"//x", "+  begin \"a\"//x", "+  finish \"b\" // y"] {
        assert!(run.out.lines().any(|l| l == line), "no {line:?} in\n{}", run.out);
    }
    assert_eq!(folder.read("a.bathy"), loose, "checking changes nothing");
    assert_eq!(folder.run(&["format"]).ends_with(0).says("1 brought into form").out, "a.bathy\n");
    assert_eq!(folder.read("a.bathy"), form);
    folder.run(&["format", "--check"]).ends_with(0).says("2 files, in their form already");
    assert_eq!(folder.run_with(&["format", "-"], loose).ends_with(0).out, form);
    folder.run_with(&["format", "-", "--check"], loose).ends_with(1).says("--- standard input");
    folder.run(&["format", "-", "a.bathy"]).ends_with(2);
    folder.run(&["format", "missing.bathy"]).ends_with(2).says("missing.bathy is not there");
}

#[cfg(unix)]
#[test]
fn a_formatted_file_keeps_its_permissions_and_links_stay_links() {
    use std::os::unix::fs::{PermissionsExt, symlink};
    let folder = Folder::new();
    folder.write("a.bathy", "flow f\n    begin \"a\"\n    finish \"b\"\n");
    std::fs::set_permissions(folder.path("a.bathy"), PermissionsExt::from_mode(0o640)).expect("permissions");
    symlink("a.bathy", folder.path("b.bathy")).expect("a link");
    folder.run(&["format", "b.bathy"]).ends_with(0);
    assert!(folder.path("b.bathy").is_symlink());
    let mode = std::fs::metadata(folder.path("a.bathy")).expect("there").permissions().mode();
    assert_eq!(mode & 0o777, 0o640);
    assert_eq!(folder.read("a.bathy"), "flow f\n  begin \"a\"\n  finish \"b\"\n");
}

#[test]
fn files_take_from_files_inside_the_project() {
    let folder = Folder::new();
    folder
        .write("bathygram.toml", "")
        .write("shared/map.bathy", "architecture map\n  service gateway \"Ingest gateway\"\n  store readings\n  gateway writes readings\n\nlook\n  store: fill coral\n")
        .write("talks/surge.bathy", "from \"../shared/map.bathy\"\nsequence surge of map\n  gateway calls readings \"append\"\nsheet steps of map\n  follow surge\n");
    folder.run(&["render"]).ends_with(0);
    let svg = folder.read("pictures/surge.svg");
    assert!(svg.contains("Ingest gateway") && svg.contains("data-file=\"shared/map.bathy\""), "{svg}");
    assert!(folder.read("pictures/steps.svg").contains("data-element=\"gateway\""));
    folder.run(&["check"]).ends_with(0);
    // A picture is out of date when what its text takes from has changed.
    let map = folder.read("shared/map.bathy");
    folder.write("shared/map.bathy", map.replace("Ingest", "Intake"));
    folder.run(&["check"]).ends_with(1).says("the picture of `surge` is out of date");
    folder.write("shared/map.bathy", "architecture map\n  bogus line\n");
    folder.run(&["check", "talks/surge.bathy", "--no-pictures"]).ends_with(1).says("has 1 error of its own");
    folder.write("shared/map.bathy", "from \"../talks/surge.bathy\"\n");
    folder.run(&["check", "talks/surge.bathy", "--no-pictures"]).ends_with(1).says("in a circle");
    folder.write("shared/map.bathy", [0xff, 0xfe]);
    folder.run(&["check", "talks/surge.bathy", "--no-pictures"]).ends_with(1).says("it is not UTF-8 text");
}

#[cfg(unix)]
#[test]
fn links_do_not_lead_out_of_the_project() {
    let outside = Folder::new();
    outside.write("secret.bathy", "architecture map\n  system secret\n");
    let folder = Folder::new();
    folder.write("bathygram.toml", "").write("a.bathy", "from \"link.bathy\"\nsheet s of map\n");
    std::os::unix::fs::symlink(outside.path("secret.bathy"), folder.path("link.bathy")).expect("a link");
    folder.run(&["check", "a.bathy", "--no-pictures"]).ends_with(1).says("[from-outside]");
    let chain: Vec<String> = (0..40).map(|i| format!("f{i}.bathy")).collect();
    for (i, name) in chain.iter().enumerate() {
        folder.write(name, format!("from \"f{}.bathy\"\nflow n{i}\n  begin \"a\"\n  finish \"b\"\n", i + 1));
    }
    folder.write("f40.bathy", "flow last\n  begin \"a\"\n  finish \"b\"\n");
    folder.run(&["check", "f39.bathy", "--no-pictures"]).ends_with(0);
    folder.run(&["check", "f0.bathy", "--no-pictures"]).ends_with(1);
}

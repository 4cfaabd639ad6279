//! The recipes of docs/git.md, run as they are.

use crate::common::{Folder, repository};
use std::process::{Command, Output};

const MAP: &str = "architecture map \"Map\"\n  service gateway \"Gateway\"\n  store readings \"Readings\"\n  gateway writes readings \"appends\"\n";

fn project() -> Folder {
    let folder = Folder::new();
    folder.write("map.bathy", MAP).git(&["init", "-q"]);
    folder.run(&["render"]).ends_with(0);
    folder.git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder
}

/// Runs something with our program on the path.
fn run(folder: &Folder, program: &str, arguments: &[&str], post: &str) -> Output {
    let own = std::path::Path::new(env!("CARGO_BIN_EXE_bathygram")).parent().expect("a folder").to_owned();
    let path = std::env::join_paths(
        [own].into_iter().chain(std::env::split_paths(&std::env::var_os("PATH").expect("a path"))),
    );
    let mut command = Command::new(program);
    command.args(arguments).current_dir(folder.path("")).env("PATH", path.expect("a path")).env("POST", post);
    for name in ["AUTHOR", "COMMITTER"] {
        command.env(format!("GIT_{name}_NAME"), "Keeper").env(format!("GIT_{name}_EMAIL"), "keeper@tidewatch.invalid");
    }
    command.output().expect("it starts")
}

fn recipe(name: &str) -> String {
    repository().join("docs/recipes").join(name).to_string_lossy().into_owned()
}

#[test]
fn a_hook_refuses_what_is_not_up_to_date() {
    let folder = project();
    std::fs::create_dir_all(folder.path(".git/hooks")).expect("made");
    std::fs::copy(recipe("pre-commit"), folder.path(".git/hooks/pre-commit")).expect("copied");
    let commit = |folder: &Folder| run(folder, "git", &["commit", "-qm", "more"], "");
    folder.write("map.bathy", MAP.replace("appends", "adds")).git(&["add", "."]);
    let refused = commit(&folder);
    let shown = String::from_utf8_lossy(&refused.stdout).into_owned() + &String::from_utf8_lossy(&refused.stderr);
    assert!(!refused.status.success() && shown.contains("out of date"), "{shown}");
    // Drawn, but not added: the commit would still be wrong.
    folder.run(&["render"]).ends_with(0);
    assert!(!commit(&folder).status.success());
    folder.git(&["add", "."]);
    let done = commit(&folder);
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    // What has nothing to do with diagrams is not held up, even beside an unfinished text.
    folder.write("map.bathy", "nonsense").write("code.txt", "x").git(&["add", "code.txt"]);
    assert!(commit(&folder).status.success());
}

#[test]
fn a_hook_looks_at_every_project_and_leaves_submodules_to_themselves() {
    let (folder, inner) = (project(), Folder::new());
    inner.write("bad.bathy", "nonsense\n").git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    let source = inner.path("").to_string_lossy().into_owned();
    folder.git(&["-c", "protocol.file.allow=always", "submodule", "--quiet", "add", &source, "coast"]);
    folder.write("inner/bathygram.toml", "").write("inner/a.bathy", "flow a\n  begin \"x\"\n  finish \"y\"\n");
    folder.run_in("inner", &["render"]).ends_with(0);
    folder.git(&["add", "."]);
    let hook = recipe("pre-commit");
    assert!(run(&folder, &hook, &[], "").status.success());
    folder.write("inner/a.bathy", "flow a\n  begin \"x\"\n  finish \"z\"\n").git(&["add", "."]);
    let refused = run(&folder, &hook, &[], "");
    assert!(!refused.status.success());
    assert!(String::from_utf8_lossy(&refused.stdout).contains("the picture of `a` is out of date"));
}

#[test]
fn a_review_gets_the_changes_in_markdown() {
    let folder = project();
    folder.git(&["branch", "base"]);
    folder.write("map.bathy", MAP.replace("appends", "adds")).git(&["commit", "-qam", "two"]);
    let review = run(&folder, &recipe("review"), &["base", "out"], "cat > posted.md");
    assert_eq!(review.status.code(), Some(1), "its picture is out of date");
    let posted = folder.read("posted.md");
    assert!(posted.contains("label: \"appends\" became \"adds\"") && !posted.contains("]("), "{posted}");
    assert_eq!(folder.read("out/changes.md"), posted);
    assert!(
        folder.read("out/check.sarif").contains("picture-out-of-date")
            && folder.read("out/changes.html").contains("<svg ")
    );
    folder.run(&["render"]).ends_with(0);
    folder.git(&["commit", "-qam", "three"]);
    assert!(run(&folder, &recipe("review"), &["base", "out"], "").status.success());
    // Main moves on: what it did is not what this branch did.
    folder.git(&["checkout", "-q", "base"]);
    folder
        .write("later.bathy", "flow later\n  begin \"a\"\n  finish \"b\"\n")
        .git(&["add", "."])
        .git(&["commit", "-qm", "later"]);
    folder.git(&["checkout", "-q", "-"]);
    run(&folder, &recipe("review"), &["base", "out"], "cat > posted.md");
    let posted = folder.read("posted.md");
    assert!(posted.contains("became \"adds\"") && !posted.contains("later"), "{posted}");
}

#[test]
fn pictures_of_a_revision_are_published() {
    let folder = project();
    folder.write("map.bathy", "nonsense").write("other.bathy", "flow other\n  \"a\"\n");
    let done = run(&folder, &recipe("publish"), &["HEAD", "public"], "");
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    assert_eq!(folder.read("public/map.svg"), folder.read("pictures/map.svg"));
    assert!(!folder.path("public/other.svg").exists());
}

#[test]
fn continuous_integration_refuses_what_newly_differs_from_the_code() {
    let folder = Folder::new();
    folder.run(&["-q", "demo", "."]).ends_with(0);
    folder.run(&["conform", "--code", ".", "--baseline", "accepted.txt", "--write-baseline"]).ends_with(0);
    let clean = run(&folder, &recipe("conform"), &[], "");
    assert!(clean.status.success(), "{}", String::from_utf8_lossy(&clean.stderr));
    folder.write("warnings/rota/board.py", "from ..gateway import Ingest\n");
    let refused = run(&folder, &recipe("conform"), &[], "");
    let says = String::from_utf8_lossy(&refused.stdout).into_owned();
    assert!(!refused.status.success() && says.contains("`rota` uses `gateway` in 1 import"), "{says}");
    assert!(folder.read("conform.sarif").contains("warnings/rota/board.py"));
}

#[test]
fn the_site_of_a_revision_is_published() {
    let folder = project();
    folder.write("map.bathy", MAP.replace("appends", "adds")).git(&["commit", "-qam", "two"]);
    folder.write("map.bathy", "nonsense\n");
    let done = run(&folder, &recipe("site"), &["HEAD", "public"], "");
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let page = folder.read("public/diagrams/map.html");
    assert!(page.contains("adds") && page.contains("<strong>") && page.contains("two"), "{page}");
    let first = run(&folder, &recipe("site"), &["HEAD~1", "earlier"], "");
    assert!(first.status.success(), "{}", String::from_utf8_lossy(&first.stderr));
    assert!(folder.read("earlier/diagrams/map.html").contains("appends"));
    // The same commit, the same bytes.
    run(&folder, &recipe("site"), &["HEAD", "again"], "");
    assert_eq!(folder.read("again/diagrams/map.html"), page);
    assert!(!run(&folder, &recipe("site"), &["--upload-pack=x", "out"], "").status.success());
}

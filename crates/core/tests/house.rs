//! The page about the code is true: its boxes are the folders that there are, and every line of its table is one of them.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::model::{Diagram, Element};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

fn root(inner: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(inner)
}

fn names(folder: &Path) -> BTreeSet<String> {
    let entries = std::fs::read_dir(folder).expect("a folder").flatten();
    entries.map(|e| e.path().file_stem().expect("a name").to_string_lossy().into_owned()).collect()
}

fn within<'a>(diagram: &'a Diagram, holder: Option<&str>) -> Vec<&'a Element> {
    let is_inside = |e: &&Element| e.parent.map(|p| diagram.element(p).name.as_str()) == holder;
    diagram.elements.iter().filter(is_inside).collect()
}

#[test]
fn the_page_about_the_code_shows_the_folders_that_there_are() {
    let page = std::fs::read_to_string(root("docs/source-code.md")).expect("the page");
    let (_, block) = page.split_once("```bathy\n").expect("a picture");
    let diagram = support::diagram(block.split_once("```").expect("its end").0);
    let boxes: BTreeSet<String> = within(&diagram, Some("core")).iter().map(|e| e.name.clone()).collect();
    let mut modules = names(&root("crates/core/src"));
    modules.remove("lib");
    assert_eq!(boxes, modules, "the parts of the core");
    // Crates that only measure are in the table alone.
    let mut crates = names(&root("crates"));
    crates.retain(|name| name != "corpus" && name != "quality");
    let systems = within(&diagram, None).into_iter().filter(|e| e.kind.word() == "system");
    assert_eq!(systems.map(|e| e.name.clone()).collect::<BTreeSet<_>>(), crates, "the crates");
    for folder in names(&root("crates")) {
        assert!(page.contains(&format!("| `crates/{folder}` |")), "crates/{folder} has no row");
    }
    let (_, inside) = page.split_once("## Inside the core").expect("the table");
    for module in modules {
        let row = inside
            .lines()
            .find(|l| l.starts_with('|') && l.split('|').nth(1).is_some_and(|c| c.contains(&format!("`{module}`"))));
        assert!(row.is_some(), "{module} has no row");
    }
    // Every file that a row names in backquotes is there.
    for row in inside.lines().filter(|l| l.starts_with("| `")) {
        let cells: Vec<&str> = row.split('|').collect();
        let folder = cells[1].trim().trim_matches('`');
        for word in cells[3].split('`').skip(1).step_by(2).filter(|_| !cells[1].contains(',')) {
            let at = root("crates/core/src").join(folder).join(word.trim_end_matches('/'));
            assert!(at.is_dir() || at.with_extension("rs").is_file(), "{folder} has no {word}");
        }
    }
}

//! Laws of modules and classes on generated trees of four languages: what is imported conforms to the code, importing twice changes
//! nothing, and what people change stays.

mod common;

use bathygram_core::conform::{architecture, classes as compare_classes};
use bathygram_core::emit::emit;
use bathygram_core::jobs::OneByOne;
use bathygram_core::merge::{Gone, merge};
use bathygram_core::model::{DiagramKind, Document, ShownMembers};
use bathygram_core::pipeline::{Reading, Setting, read};
use bathygram_core::source::{Source, apply};
use bathygram_readers::code::{ClassesOptions, CodeBase, ModulesOptions, classes, given, modules};
use bathygram_readers::{Facts, Selection};
use common::Files;
use std::collections::BTreeMap;

/// Numbers by chance, the same every time.
struct Dice(u64);

impl Dice {
    fn below(&mut self, most: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % most.max(1)
    }
}

/// A tree of packages, each in one language; files import others of the same language, and declare a class with a field of one.
fn tree(dice: &mut Dice) -> Vec<(String, String)> {
    let mut files: Vec<(String, String)> = Vec::new();
    let mut known: BTreeMap<usize, Vec<(String, String)>> = BTreeMap::new();
    for package in 0..2 + dice.below(6) {
        let language = dice.below(3);
        for module in 0..1 + dice.below(6) {
            let (folder, name) = (format!("p{package}"), format!("m{module}"));
            let class = format!("C{package}x{module}");
            let others = known.entry(language).or_default();
            let other = (!others.is_empty()).then(|| others[dice.below(others.len())].clone());
            let (path, text) = match (language, &other) {
                (0, Some((at, of))) => (
                    format!("{folder}/{name}.py"),
                    format!("from {} import {of}\nclass {class}:\n    one: {of}\n", at.replace('/', ".")),
                ),
                (0, None) => (format!("{folder}/{name}.py"), format!("class {class}: ...\n")),
                (1, Some((at, of))) => (
                    format!("{folder}/{name}.ts"),
                    format!("import {{ {of} }} from \"../{at}\";\nexport class {class} {{ one: {of}[]; }}\n"),
                ),
                (1, None) => (format!("{folder}/{name}.ts"), format!("export class {class} {{}}\n")),
                (_, Some((at, of))) => (
                    format!("{folder}/{class}.java"),
                    format!(
                        "package {folder};\nimport {}.{of};\npublic class {class} {{ {of} one; }}\n",
                        at.split('/').next().unwrap_or_default()
                    ),
                ),
                (_, None) => {
                    (format!("{folder}/{class}.java"), format!("package {folder};\npublic class {class} {{}}\n"))
                }
            };
            // In Java, what is of the same package needs no import, and may not have one.
            let text = if language == 2 {
                text.replace(&format!("import {folder}."), &format!("// import {folder}."))
            } else {
                text
            };
            others.push((format!("{folder}/{name}"), class));
            files.push((path, text + &"\n// a line of its own\n".repeat(dice.below(40))));
        }
    }
    files
}

fn borrowed(files: &[(String, String)]) -> Files {
    Files::new(&files.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect::<Vec<_>>())
}

fn reading(text: String) -> Reading {
    let reading = read(Source::new("bay.bathy", text), "bay", &Setting::default());
    assert!(!reading.has_errors(), "{:?} in:\n{}", reading.diagnostics, reading.source.text);
    reading
}

/// The text of facts, brought up to date with others; none if nothing changes.
fn merged(own: &Reading, found: &Document) -> Option<String> {
    let read_again = |text: String| read(Source::new("bay.bathy", text), "bay", &Setting::default());
    let merged = merge(own, found, &BTreeMap::new(), Gone::Stays, &read_again).expect("a merge");
    (!merged.edits.is_empty()).then(|| apply(&own.source, &merged.edits).expect("edits"))
}

fn modules_of(tree: &Files, own: Option<&Reading>) -> Facts {
    let design = own.and_then(|own| own.document.diagrams.iter().find(|d| d.kind == DiagramKind::Architecture));
    modules(tree, &ModulesOptions { given: design.map(given), ..ModulesOptions::default() }, &OneByOne).expect("facts")
}

fn classes_of(tree: &Files) -> Facts {
    let options = ClassesOptions {
        selection: Selection::default(),
        members: ShownMembers::All,
        with_uses: true,
        with_about: false,
        with_tests: false,
    };
    classes(tree, &options, &OneByOne).expect("facts")
}

#[test]
fn modules_conform_and_importing_twice_changes_nothing() {
    let mut dice = Dice(5);
    for round in 0..80 {
        let files = tree(&mut dice);
        let own = reading(emit(&modules_of(&borrowed(&files), None).document()));
        let design = &own.document.diagrams[0];
        let uses = CodeBase::read(&borrowed(&files), false, &OneByOne).expect("code").uses("");
        let of = architecture(design, &uses);
        assert_eq!(of.deviations(design), Vec::new(), "round {round}: {}", own.source.text);
        assert_eq!(merged(&own, &modules_of(&borrowed(&files), Some(&own)).document()), None, "round {round}");
    }
}

#[test]
fn what_people_change_stays_and_what_is_new_comes() {
    let mut dice = Dice(6);
    for round in 0..60 {
        let mut files = tree(&mut dice);
        let text = emit(&modules_of(&borrowed(&files), None).document());
        // A label, a remark and a comment by hand.
        let edited = text.replacen("  caption", "  // by hand\n  remark on p0 \"ours\"\n  caption", 1);
        let edited = if edited.contains(" p0 (origin") { edited } else { text.clone() };
        let own = reading(edited.clone());
        files.push(("fresh/one.py".into(), "class Fresh: ...\n".into()));
        files.push(("fresh/two.py".into(), "from fresh.one import Fresh\n".into()));
        let found = modules_of(&borrowed(&files), Some(&own)).document();
        let after = merged(&own, &found).expect("something is new");
        let mut rest = after.lines();
        assert!(edited.lines().all(|line| rest.any(|own| own == line)), "round {round}:\n{edited}\n{after}");
        assert!(after.contains("(origin fresh)"), "round {round}:\n{after}");
        let again = reading(after);
        assert_eq!(merged(&again, &modules_of(&borrowed(&files), Some(&again)).document()), None, "round {round}");
    }
}

#[test]
fn classes_conform_and_importing_twice_changes_nothing() {
    let mut dice = Dice(7);
    for round in 0..80 {
        let files = tree(&mut dice);
        let facts = classes_of(&borrowed(&files));
        let own = reading(emit(&facts.document()));
        let design = &own.document.diagrams[0];
        let of = compare_classes(design, &classes_of(&borrowed(&files)).code_classes("")).expect("about code");
        assert_eq!(of.deviations(design), Vec::new(), "round {round}: {}", own.source.text);
        assert_eq!(of.agreements, files.len(), "round {round}");
        assert_eq!(merged(&own, &facts.document()), None, "round {round}");
    }
}

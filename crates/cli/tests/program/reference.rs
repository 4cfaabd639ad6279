//! The language reference, the cheat sheet and the grammar say what the program does.

use crate::common::{Folder, repository};
use crate::docs::{blocks, folder_of};
use std::collections::BTreeSet;

fn page(name: &str) -> String {
    std::fs::read_to_string(repository().join("docs").join(name)).expect(name)
}

#[test]
fn every_picture_of_the_reference_is_the_one_that_is_drawn() {
    let mut drawn = BTreeSet::new();
    let examples = |name: &'static str| blocks(&page(name), "bathy").into_iter().map(move |example| (name, example));
    let pages = ["../README.md", "start.md", "gallery.md", "language.md", "notation.md", "example-architectures.md"];
    for (own, (line, example)) in pages.into_iter().flat_map(examples) {
        let folder = folder_of(&page(own), &example);
        folder.run(&["render", "example.bathy"]).ends_with(0);
        for name in folder.files().iter().filter_map(|f| f.strip_prefix("pictures/")) {
            let committed = std::fs::read_to_string(repository().join("docs/pictures").join(name));
            let drawing = folder.read(&format!("pictures/{name}"));
            assert_eq!(Some(drawing), committed.ok(), "{name}, from line {line} of {own}");
            assert!(page(own).contains(&format!("pictures/{name})")), "{name} is not shown");
            assert!(drawn.insert(name.to_owned()), "{name} is drawn twice");
        }
    }
    let folder = std::fs::read_dir(repository().join("docs/pictures")).expect("pictures").flatten();
    let there: BTreeSet<String> = folder.map(|e| e.file_name().to_string_lossy().into_owned()).collect();
    assert_eq!(there, drawn, "run `cargo xtask docs`");
}

#[test]
fn every_answer_to_an_error_is_the_one_that_is_given() {
    let text = page("language.md");
    let (wrong, answers) = (blocks(&text, "bathy wrong"), blocks(&text, "text"));
    assert_eq!(wrong.len(), answers.len());
    assert!(wrong.len() >= 5);
    for ((line, example), (_, answer)) in wrong.iter().zip(&answers) {
        let folder = Folder::new();
        folder.write("example.bathy", example);
        let run = folder.run(&["check", "--no-pictures"]).ends_with(1);
        assert_eq!(run.out.trim_end(), answer.trim_end(), "line {line}");
    }
}

#[test]
fn examples_are_in_their_form_and_every_section_has_one() {
    let text = page("language.md");
    for (line, example) in blocks(&text, "bathy") {
        let run = Folder::new().run_with(&["format", "--check", "-"], &example);
        assert_eq!(run.status, 0, "line {line}\n{}", run.out);
    }
    for block in ["sequence", "classes", "flow", "states", "architecture", "network", "tree", "sheet", "look", "from"] {
        let shown = blocks(&text, "bathy").into_iter().chain(blocks(&text, "bathy wrong"));
        let starts = |body: &str| body.lines().any(|l| l.split(' ').next() == Some(block));
        assert!(shown.into_iter().any(|(_, body)| starts(&body)), "no example of {block}");
    }
}

/// Every word of the language stands in the reference and in the grammar; every block on the cheat sheet.
#[test]
fn no_word_is_left_out() {
    use bathygram_core::vocabulary::{BLOCKS, DIAGRAMS, PICTURE, SHEET};
    let (reference, grammar, sheet) = (page("language.md"), page("grammar.ebnf"), page("cheatsheet.md"));
    for vocabulary in DIAGRAMS.iter().copied().chain([&SHEET]) {
        for word in vocabulary.starters().chain(vocabulary.clauses.iter().copied()) {
            let is_word = |text: &str| text.split(|c: char| !c.is_alphanumeric()).any(|w| w == word);
            assert!(is_word(&reference), "`{word}` of a {} is not in the reference", vocabulary.block);
            assert!(
                grammar.contains(&format!("\"{word}\"")),
                "`{word}` of a {} is not in the grammar",
                vocabulary.block
            );
            assert!(is_word(&sheet), "`{word}` of a {} is not on the cheat sheet", vocabulary.block);
        }
    }
    for word in BLOCKS.iter().chain(PICTURE) {
        assert!(grammar.contains(&format!("\"{word}\"")), "{word}");
    }
}

/// Every rule that the grammar names is defined, and every one that it defines is used.
#[test]
fn the_grammar_is_whole() {
    let grammar = page("grammar.ebnf");
    let text: String = grammar.split("(*").map(|part| part.split_once("*)").map_or(part, |(_, rest)| rest)).collect();
    // Terminals stand in quotes, special sequences between question marks; what is left are names.
    let mut quote = None;
    let mut blank = |c: char| {
        let is_quote = matches!(c, '"' | '\'' | '?');
        match quote {
            Some(q) if q == c => quote = None,
            None if is_quote => quote = Some(c),
            None => return c,
            _ => {}
        }
        ' '
    };
    let names: String = text.chars().map(&mut blank).collect();
    let mut defined = BTreeSet::new();
    let mut used = BTreeSet::from(["file"]);
    for rule in names.split(';').filter(|r| !r.trim().is_empty()) {
        let (name, body) = rule.split_once('=').expect(rule);
        assert!(defined.insert(name.trim()), "{name} is defined twice");
        let words = body.split(|c: char| !(c.is_alphanumeric() || c == '-'));
        used.extend(words.filter(|w| w.starts_with(char::is_alphabetic)));
    }
    assert_eq!(defined, used);
}

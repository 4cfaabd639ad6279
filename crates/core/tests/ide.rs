//! What an editor asks, in texts with a mark where the caret is.

mod support;

use bathygram_core::ide::{self, CompletionKind, TokenClass};
use bathygram_core::model::Role;
use bathygram_core::pipeline::{Reading, Setting, read};
use bathygram_core::source::{Source, apply};
use bathygram_core::vocabulary::{BLOCKS, DIAGRAMS, PICTURE, SHEET, TraitWord};
use proptest::prelude::*;

/// Where the caret is.
const CARET: char = '▮';

/// A text without its mark, read, and the byte of the mark.
fn at(marked: &str) -> (Reading, u32) {
    let byte = marked.find(CARET).expect("a mark") as u32;
    (read(Source::new("t.bathy", marked.replace(CARET, "")), "t", &Setting::default()), byte)
}

/// The completions at the mark.
fn offered(marked: &str) -> Vec<String> {
    let (reading, byte) = at(marked);
    ide::completions(&reading, byte).into_iter().map(|c| c.label).collect()
}

/// Whether the completions at the mark hold some and lack others.
fn offers(marked: &str, some: &[&str], none: &[&str]) {
    let found = offered(marked);
    assert!(some.iter().all(|word| found.iter().any(|f| f == word)), "{some:?} in {found:?} at {marked}");
    assert!(!none.iter().any(|word| found.iter().any(|f| f == word)), "none of {none:?} in {found:?} at {marked}");
}

const MAP: &str = "architecture map \"The bay\"\n  system core \"Core\"\n    service gate \"Gateway\"\n      built \"Rust\"\n    store data (tag slow)\n  actor keeper\n  keeper uses core \"looks\"\n  gate writes data\nsequence storm\n  keeper calls gate\n";

#[test]
fn what_may_be_written_is_offered() {
    offers("▮", &["sequence", "architecture", "sheet", "look"], &["uses"]);
    offers("arch▮", &["architecture"], &["sequence"]);
    offers(&format!("{MAP}sheet s of ▮"), &["map"], &["storm"]);
    let inside = |line: &str| MAP.replacen("  keeper uses core", &format!("  {line}\n  keeper uses core"), 1);
    offers(&inside("▮"), &["core", "gate", "service", "row", "heading", "remark"], &["calls gate", "becomes"]);
    offers(&inside("keeper ▮"), &["uses", "calls", "never"], &["gate", "becomes"]);
    offers(&inside("keeper uses ▮"), &["core", "gate", "keeper"], &["uses"]);
    offers(&inside("keeper uses ga▮"), &["gate"], &["core"]);
    offers(&inside("keeper uses core.▮"), &["core.gate", "core.data"], &["keeper"]);
    offers(&inside("heading ▮"), &["down", "right"], &["core"]);
    offers(&inside("place keeper ▮"), &["right of", "above"], &[]);
    offers(&inside("store x (▮"), &["fill", "tag", "external"], &["core"]);
    offers(&inside("store x (fill ▮"), &["coral", "basalt"], &["dashed"]);
    offers(&inside("store x (fill coral, line d▮"), &["dashed", "dotted"], &["coral"]);
    offers(&inside("store x (shape ▮"), &["hexagon", "cloud"], &[]);
    offers(&inside("store x (tag ▮"), &["slow"], &[]);
    offers(&inside("icon ▮"), &["router"], &["core"]);
    offers(&format!("{MAP}sheet s of map\n  ▮"), &["open", "focus", "depth"], &["uses"]);
    offers(&format!("{MAP}sheet s of map\n  open ▮"), &["core", "keeper"], &[]);
    offers(&format!("{MAP}sheet s of map\n  follow ▮"), &["storm"], &["map"]);
    offers(&format!("{MAP}look\n  ▮"), &["tag", "store", "uses"], &["coral"]);
    offers(&format!("{MAP}look\n  tag slow: ▮"), &["fill", "line"], &["external"]);
    // Nothing is offered in a text, in a comment, or behind a half letter.
    for line in ["keeper uses core \"lo▮\"", "// gat▮", "keeper uses core \"open ▮"] {
        assert!(offered(&inside(line)).is_empty(), "{line}");
    }
}

#[test]
fn a_completion_says_what_it_is_and_replaces_what_was_begun() {
    let (reading, byte) = at(&MAP.replacen("keeper uses core", "keeper us▮", 1));
    let found = ide::completions(&reading, byte);
    assert_eq!(found.len(), 1);
    assert_eq!((found[0].label.as_str(), found[0].kind), ("uses", CompletionKind::Verb));
    assert_eq!(found[0].about, "A dependency, or a use.");
    let text = apply(&reading.source, std::slice::from_ref(&found[0].edit)).expect("one edit");
    assert!(text.contains("\n  keeper uses \"looks\"\n"));
}

#[test]
fn a_hover_says_what_something_is() {
    let hover = |marked: &str| {
        let (reading, byte) = at(marked);
        ide::hover(&reading, byte).map(|h| (reading.source.slice(h.span).to_owned(), h.markdown))
    };
    let (word, about) = hover(&MAP.replacen("writes data", "writes da▮ta", 1)).expect("a name");
    assert_eq!(word, "data");
    assert!(about.starts_with("**store** data (`core.data`)") && about.contains("tags: slow"), "{about}");
    let (_, about) = hover(&MAP.replacen("gate writes", "ga▮te writes", 1)).expect("a name");
    assert!(about.contains("built: Rust") && about.contains("- Gateway writes data"), "{about}");
    let (word, about) = hover(&MAP.replacen("writes", "wri▮tes", 1)).expect("a verb");
    assert_eq!((word.as_str(), about.as_str()), ("writes", "**writes** Writing."));
    let (_, about) = hover(&MAP.replacen("architecture map", "architecture ma▮p", 1)).expect("a block");
    assert!(about.contains("4 elements, 2 relations"), "{about}");
    let (_, about) = hover("flow f\n  state▮ \"x\"\n").unwrap_or_default();
    assert!(!about.contains('<'));
    // What the user wrote is no markup.
    let (_, about) = hover("architecture a\n  service x▮ \"<b>*bold*</b>\"\n").expect("a name");
    assert!(about.contains("\\<b\\>"), "{about}");
}

#[test]
fn definitions_and_references_are_found() {
    let (reading, byte) = at(&MAP.replacen("gate writes", "gate▮ writes", 1));
    let span = ide::definition(&reading, byte).expect("a definition");
    assert_eq!((reading.source.slice(span), reading.source.line(span.start)), ("gate", 3));
    let meant = ide::meant(&reading, byte).expect("an element");
    let lines: Vec<(u32, Role)> =
        ide::references(&reading, &meant).iter().map(|o| (reading.source.line(o.span.start), o.role)).collect();
    assert_eq!(lines, [(3, Role::Declared), (8, Role::Named)]);
    let (reading, byte) = at("flow f\n  begin \"▮x\"\n");
    assert_eq!(ide::renamable(&reading, byte), None, "a step without a name");
}

/// A text with what is marked renamed.
fn renamed(marked: &str, name: &str) -> Result<String, ide::Refused> {
    let (reading, byte) = at(marked);
    let meant = ide::meant(&reading, byte).expect("something with a name");
    let edits = ide::rename(&[&reading], &meant, name)?.remove(0);
    Ok(apply(&reading.source, &edits).expect("edits do not overlap"))
}

#[test]
fn a_rename_changes_every_place_and_nothing_else() {
    let marked = MAP.replacen("  gate writes", "  ga▮te writes", 1);
    let text = renamed(&marked, "door").expect("renamed");
    assert_eq!(text, MAP.replacen("service gate", "service door", 1).replacen("gate writes", "door writes", 1));
    let marked = format!("{}sheet s of map\n  open co▮re\n", MAP.replace("gate writes", "core.gate writes"));
    let text = renamed(&marked, "heart").expect("renamed");
    assert!(
        text.contains("system heart \"Core\"") && text.contains("heart.gate writes") && text.contains("open heart")
    );
    // A name that is a verb is written so that it is none.
    assert!(renamed(&marked, "uses").expect("renamed").contains("system `uses` \"Core\""));
    assert!(renamed(&marked, "two words").expect("renamed").contains("`two words`.gate writes"));
    let block = MAP.replacen("architecture map", "architecture ma▮p", 1) + "sheet s of map\n";
    let text = renamed(&block, "bay").expect("renamed");
    assert!(text.contains("architecture bay \"The bay\"") && text.contains("sheet s of bay"));
    assert_eq!(renamed(&block, "storm"), Err(ide::Refused::Taken("storm".to_owned())));
    assert_eq!(renamed(&block, "a/b"), Err(ide::Refused::NoFile));
    assert_eq!(renamed(&marked, "keeper"), Err(ide::Refused::Taken("keeper".to_owned())));
    assert_eq!(renamed(&marked, "a.b"), Err(ide::Refused::NoName));
    let (reading, byte) = at(&marked);
    assert_eq!(ide::renamable(&reading, byte).map(|span| reading.source.slice(span)), Some("core"));
}

#[test]
fn symbols_folds_and_words_tell_how_a_text_is_built() {
    let (reading, _) = at(&format!("{MAP}▮sheet s of map // all\n"));
    let symbols = ide::symbols(&reading);
    let names = |list: &[ide::Symbol]| list.iter().map(|s| s.name.clone()).collect::<Vec<_>>();
    assert_eq!(names(&symbols), ["map", "storm", "s"]);
    assert_eq!(symbols[0].detail, "architecture, The bay");
    assert_eq!(names(&symbols[0].children), ["core", "keeper"]);
    assert_eq!(names(&symbols[0].children[0].children), ["gate", "data"]);
    assert_eq!(symbols[0].children[0].children[0].detail, "service, Gateway");
    let (classes, _) = at("classes c\n  class Buoy▮\n    + name: Text\n");
    assert_eq!(names(&ide::symbols(&classes)[0].children[0].children), ["name"]);
    let folds: Vec<(u32, u32)> = ide::folds(&reading).iter().map(|fold| (fold.first, fold.last)).collect();
    assert_eq!(folds, [(1, 8), (2, 5), (3, 4), (9, 10)]);
    let words = ide::word_classes(&reading);
    let of = |text: &str| words.iter().find(|w| reading.source.slice(w.span) == text).map(|w| (w.class, w.is_declared));
    assert_eq!(of("architecture"), Some((TokenClass::Keyword, false)));
    assert_eq!(of("map"), Some((TokenClass::Block, true)));
    assert_eq!(of("service"), Some((TokenClass::Kind, false)));
    assert_eq!(of("gate"), Some((TokenClass::Element, true)));
    assert_eq!(of("writes"), Some((TokenClass::Verb, false)));
    assert_eq!(of("built"), Some((TokenClass::Property, false)));
    assert_eq!(of("\"Rust\""), Some((TokenClass::Text, false)));
    assert_eq!(of("// all"), Some((TokenClass::Comment, false)));
    assert!(words.windows(2).all(|pair| pair[0].span.end <= pair[1].span.start), "each word once, in order");
}

#[test]
fn corrections_belong_to_their_place() {
    let (reading, byte) = at("sequence s\n  service gateway\n  gate▮way calls desk\n  gateway calls desk \"x\n");
    let all: Vec<&str> = ide::fixes(&reading, 0..u32::MAX).map(|(_, fix)| fix.title.as_str()).collect();
    assert!(!all.is_empty());
    assert_eq!(ide::fixes(&reading, byte..byte).count(), 0, "{all:?}");
}

/// A file of the demo, at any byte.
fn demo() -> &'static [Reading] {
    static READ: std::sync::OnceLock<Vec<Reading>> = std::sync::OnceLock::new();
    READ.get_or_init(support::demo)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn every_byte_is_answered(file in any::<prop::sample::Index>(), byte in any::<prop::sample::Index>()) {
        let readings = demo();
        let reading = &readings[file.index(readings.len())];
        let byte = byte.index(reading.source.text.len() + 1) as u32;
        for completion in ide::completions(reading, byte) {
            prop_assert!(completion.edit.span.end == byte && completion.edit.span.start <= byte);
        }
        let _ = (ide::hover(reading, byte), ide::definition(reading, byte));
        if let Some(meant) = ide::meant(reading, byte) {
            let found = ide::references(reading, &meant);
            prop_assert!(!found.is_empty());
            let edits = ide::rename(&[reading], &meant, "quite-another").expect("nothing is called so").remove(0);
            prop_assert!(apply(&reading.source, &edits).is_ok());
        }
    }

    #[test]
    fn what_was_cut_off_is_answered(file in any::<prop::sample::Index>(), byte in any::<prop::sample::Index>()) {
        let readings = demo();
        let text = &readings[file.index(readings.len())].source.text;
        let mut end = byte.index(text.len() + 1);
        while !text.is_char_boundary(end) {
            end -= 1;
        }
        let reading = read(Source::new("t.bathy", &text[..end]), "t", &Setting::default());
        ide::completions(&reading, end as u32);
        let _ = (ide::hover(&reading, end as u32), ide::symbols(&reading), ide::folds(&reading), ide::word_classes(&reading));
    }
}

#[test]
fn a_party_of_a_sequence_of_a_map_is_an_element_of_the_map() {
    let text = format!(
        "{}sequence night of map\n  keeper calls core.ga▮te \"look\"\n",
        MAP.replace("gate writes data", "core.gate writes data")
    );
    let (reading, byte) = at(&text);
    let span = ide::definition(&reading, byte).expect("a definition");
    assert_eq!(reading.source.line(span.start), 3);
    let renamed_gate = renamed(&text, "door").expect("renamed");
    assert!(
        renamed_gate.contains("service door") && renamed_gate.contains("keeper calls core.door \"look\""),
        "{renamed_gate}"
    );
    // What is around it is renamed in the path, too.
    let around = text.replace(CARET, "").replacen("system core", "system co▮re", 1);
    let renamed_core = renamed(&around, "heart").expect("renamed");
    assert!(
        renamed_core.contains("keeper calls heart.gate \"look\"") && renamed_core.contains("heart.gate writes"),
        "{renamed_core}"
    );
}

#[test]
fn the_grammar_for_editors_knows_every_word() {
    let grammar = include_str!("../../../editors/bathygram.tmLanguage.json");
    let knows = |word: &str| {
        let is_edge = |c: Option<char>| c.is_none_or(|c| !c.is_alphanumeric() && c != '-' && c != '_');
        grammar.match_indices(word).any(|(at, _)| {
            is_edge(grammar[..at].chars().next_back()) && is_edge(grammar[at + word.len()..].chars().next())
        })
    };
    let lists = DIAGRAMS.iter().chain([&&SHEET]).flat_map(|v| [v.verbs, v.kinds, v.keywords, v.properties, v.clauses]);
    let traits: Vec<&str> = TraitWord::ALL.iter().map(|word| word.word()).collect();
    for word in lists.chain([BLOCKS, PICTURE, &traits]).flatten() {
        assert!(knows(word), "{word}");
    }
}

//! The grammar of lines: for every kind of line which reading it has, and that there is one only.

mod support;

use bathygram_core::model::{ElementKind, Verb};
use bathygram_core::vocabulary::{ARCHITECTURE, CLASSES, DIAGRAMS, NETWORK, SEQUENCE, STATES, Vocabulary};
use support::{codes, diagram};

/// What one line in a block becomes: how many elements, relations and events it adds.
fn adds(block: &str, line: &str) -> (usize, usize, usize) {
    let diagram = diagram(&format!("{block} t\n  {line}\n"));
    (diagram.elements.len(), diagram.relations.len(), diagram.events().len())
}

#[test]
fn every_kind_of_line_has_one_reading() {
    let table: &[(&str, &str, (usize, usize, usize))] = &[
        // Declarations.
        ("architecture", "system x", (1, 0, 0)),
        ("architecture", "system x \"X\" (external)", (1, 0, 0)),
        ("architecture", "system \"X\"", (1, 0, 0)),
        ("architecture", "\"X\"", (1, 0, 0)),
        ("architecture", "device l1..l4 \"Lamp\"", (4, 0, 0)),
        ("classes", "class A<T>", (1, 0, 0)),
        ("classes", "class A extends B implements C, D", (4, 3, 0)),
        ("flow", "\"Step\"", (1, 0, 0)),
        ("flow", "store \"Readings\"", (1, 0, 0)),
        ("sequence", "store readings", (1, 0, 0)),
        // Statements.
        ("architecture", "x uses y", (2, 1, 0)),
        ("architecture", "x, y uses z \"label\" over \"HTTP\" (line dashed)", (3, 2, 0)),
        ("architecture", "x never uses y", (2, 1, 0)),
        ("classes", "1 A knows 0..* B as list \"label\"", (2, 1, 0)),
        ("sequence", "a sends b \"x\"", (2, 1, 1)),
        ("sequence", "a does \"x\"", (1, 1, 1)),
        ("sequence", "found sends a \"x\"", (2, 1, 1)),
        // Keywords.
        ("sequence", "phase \"p\"", (0, 0, 1)),
        ("sequence", "pause", (0, 0, 1)),
        ("sequence", "see other across a, b", (2, 0, 1)),
        // States, networks, trees.
        ("states", "state x \"X\"", (1, 0, 0)),
        ("states", "choice x", (1, 0, 0)),
        ("states", "together x", (1, 0, 0)),
        ("states", "begin becomes x", (2, 1, 0)),
        ("states", "x becomes finish on \"t\" when \"g\" do \"e\"", (2, 1, 0)),
        ("states", "x, y becomes z", (3, 2, 0)),
        ("network", "device x", (1, 0, 0)),
        ("network", "outcome x", (1, 0, 0)),
        ("network", "x at \"1/0\" joins y at eth0", (2, 1, 0)),
        ("network", "x then y (both)", (2, 1, 0)),
        ("tree", "item x", (1, 0, 0)),
        ("tree", "x", (1, 0, 0)),
        ("tree", "x when \"y\"", (1, 0, 0)),
        ("tree", "\"X\" when \"y\"", (1, 0, 0)),
        ("architecture", "host x", (1, 0, 0)),
        // Words about the picture.
        ("network", "legend", (0, 0, 0)),
        ("network", "spacing 1.5", (0, 0, 0)),
        ("network", "arrange layered", (0, 0, 0)),
        ("network", "route stepped", (0, 0, 0)),
        ("flow", "caption \"c\"", (0, 0, 0)),
        ("flow", "heading right", (0, 0, 0)),
    ];
    for (block, line, expected) in table {
        assert_eq!(adds(block, line), *expected, "{block}: {line}");
    }
}

#[test]
fn a_word_is_a_verb_only_between_names() {
    // `store` is a kind, `calls` a verb, `phase` a keyword: all may be names.
    let diagram = diagram("sequence s\n  store store\n  party phase\n  store sends phase \"x\"\n  phase calls store\n");
    assert_eq!(diagram.elements.iter().map(|e| e.name.as_str()).collect::<Vec<_>>(), ["store", "phase"]);
    assert_eq!(diagram.elements[0].kind, ElementKind::Store);
    assert_eq!(diagram.relations.iter().map(|r| r.verb).collect::<Vec<_>>(), [Verb::Sends, Verb::Calls]);
}

#[test]
fn a_name_equal_to_a_verb_is_written_in_backquotes() {
    let diagram = diagram("architecture a\n  system `uses`\n  `uses` uses `two words`\n");
    assert_eq!(diagram.elements.iter().map(|e| e.name.as_str()).collect::<Vec<_>>(), ["uses", "two words"]);
    assert_eq!(codes("architecture a\n  uses uses b\n"), ["subject-missing"]);
}

#[test]
fn elements_without_a_name_are_meant_by_their_label() {
    let diagram = diagram("architecture a\n  system \"Weather office\"\n  x uses \"Weather office\"\n");
    assert_eq!(diagram.element(diagram.relations[0].to).key, "Weather office");
    assert_eq!(codes("architecture a\n  system \"Weather office\"\n  x uses \"Wether office\"\n"), ["unknown-name"]);
    assert_eq!(codes("flow f\n  \"one\"\n  \"one\"\n  go \"one\"\n"), ["ambiguous-name"]);
}

#[test]
fn members_are_distinguished_from_properties_and_relations() {
    let diagram = diagram(
        "classes c\n  class A\n    about: Text\n    about \"words\"\n    uses: Count\n    uses B\n    tag: Tag\n    tag old new\n    extends\n",
    );
    let a = &diagram.elements[0];
    let members: Vec<&str> =
        a.class.iter().flat_map(|c| &c.compartments).flat_map(|c| &c.members).map(|m| m.text.as_str()).collect();
    assert_eq!(members, ["about: Text", "uses: Count", "tag: Tag", "extends"]);
    assert_eq!(a.properties.about.as_ref().map(|l| l.text()).as_deref(), Some("words"));
    assert_eq!(a.properties.tags, ["old", "new"]);
    assert_eq!(diagram.relations.len(), 1);
}

#[test]
fn ends_carry_multiplicity_port_and_role_in_that_order() {
    let diagram = diagram("classes c\n  0..1 A at p1 as owner knows 1..* B at \"1/0/24\" as parts \"label\"\n");
    let [from, to] = &diagram.relations[0].ends;
    assert_eq!(from.shown(), "p1 owner 0..1");
    assert_eq!(to.shown(), "1/0/24 parts 1..*");
}

#[test]
fn texts_may_span_lines_and_lines_may_go_on() {
    let diagram =
        diagram("architecture a\n  system x \"\"\"\n    Two\n      lines\n    \"\"\"\n  x, y,\n    z uses w\n");
    assert_eq!(diagram.elements[0].shown().text(), "Two\n  lines");
    assert_eq!(diagram.relations.len(), 3);
}

#[test]
fn comments_never_hide_in_texts_and_addresses() {
    let diagram =
        diagram("architecture a // comment\n  system x \"a // b\" // real\n    link \"https://tidewatch.invalid/x\"\n");
    assert_eq!(diagram.elements[0].shown().text(), "a // b");
    assert_eq!(
        diagram.elements[0].properties.link.as_ref().map(|l| l.text()).as_deref(),
        Some("https://tidewatch.invalid/x")
    );
}

#[test]
fn the_name_of_the_file_serves_where_a_block_has_none() {
    assert_eq!(diagram("flow \"Title\"\n  \"x\"\n").name, "t");
    assert_eq!(diagram("flow\n  \"x\"\n").name, "t");
    assert_eq!(diagram("flow own \"Title\" (declared)\n  \"x\"\n").name, "own");
}

#[test]
fn undeclared_names_come_into_being_or_not() {
    assert_eq!(codes("architecture a\n  service gateway\n  gateway uses store\n"), Vec::<&str>::new());
    assert_eq!(codes("architecture a (declared)\n  service gateway\n  gateway uses store\n"), ["unknown-name"]);
    assert_eq!(codes("architecture a\n  service gateway\n  gatewy uses store\n"), ["unknown-name"]);
    assert_eq!(
        codes("architecture a\n  service lamp1\n  lamp1 uses lamp2\n"),
        Vec::<&str>::new(),
        "figures tell names apart"
    );
    assert_eq!(
        codes("architecture a\n  service gateway\n  gateway.dekoder uses x\n"),
        ["unknown-name"],
        "a path names what is there"
    );
}

/// The verb of a block that joins two elements, whatever their names.
const JOINING: &[(&Vocabulary, &str)] =
    &[(&SEQUENCE, "sends"), (&CLASSES, "knows"), (&STATES, "becomes"), (&ARCHITECTURE, "uses"), (&NETWORK, "joins")];

#[test]
fn every_word_but_a_verb_may_be_a_name() {
    for (words, verb) in JOINING {
        // At the ends of states and messages these are pseudo-states, and nowhere.
        let own = ["begin", "finish", "history", "lost", "found"];
        for word in words.starters().chain(words.clauses.iter().copied()).filter(|w| !own.contains(w)) {
            let written = if words.verbs.contains(&word) { format!("`{word}`") } else { word.to_owned() };
            let text = format!("{} t\n  {written} {verb} other\n  other {verb} {written}\n", words.block);
            let diagram = diagram(&text);
            let names: Vec<&str> = diagram.elements.iter().map(|e| e.name.as_str()).collect();
            assert_eq!(names, [word, "other"], "{text}");
            assert_eq!(diagram.relations.len(), 2, "{text}");
        }
    }
}

#[test]
fn declarations_may_bear_any_name() {
    for words in DIAGRAMS {
        let Some(kind) = words.kinds.iter().find(|k| !matches!(**k, "lane" | "group")) else { continue };
        for word in words.starters() {
            let written = if words.verbs.contains(&word) { format!("`{word}`") } else { word.to_owned() };
            let diagram = diagram(&format!("{} t\n  {kind} {written}\n", words.block));
            assert_eq!(diagram.elements[0].name, word, "{}", words.block);
        }
    }
}

#[test]
fn a_line_with_a_verb_as_its_first_word_speaks_of_what_it_belongs_to() {
    for (block, body) in [
        ("architecture", "system a\n    uses b"),
        ("classes", "class a\n    knows b"),
        ("states", "state a\n    becomes b"),
        ("network", "device a\n    joins b"),
        ("sequence", "x sends a\n    sends b"),
    ] {
        let diagram = diagram(&format!("{block} t\n  {body}\n"));
        let last = diagram.relations.last().expect("a relation");
        assert_eq!((diagram.element(last.from).name.as_str(), diagram.element(last.to).name.as_str()), ("a", "b"));
    }
}

//! Shapes and strokes as they stand in the drawing: what a reader of pictures must be able to see.

mod support;

use roxmltree::{Document, Node};
use support::svg;

fn element<'a>(document: &'a Document<'a>, id: &str) -> Node<'a, 'a> {
    document
        .descendants()
        .find(|n| n.attribute("data-element") == Some(id))
        .unwrap_or_else(|| panic!("no element {id}"))
}

fn relation<'a>(document: &'a Document<'a>, id: &str) -> Node<'a, 'a> {
    document
        .descendants()
        .find(|n| n.attribute("data-relation") == Some(id))
        .unwrap_or_else(|| panic!("no relation {id}"))
}

fn texts(node: Node<'_, '_>) -> Vec<String> {
    let lines = node.descendants().filter(|n| n.tag_name().name() == "text");
    lines.map(|n| n.descendants().filter(Node::is_text).filter_map(|t| t.text()).collect()).collect()
}

fn roles(node: Node<'_, '_>, role: &str) -> usize {
    node.descendants().filter(|n| n.attribute("data-role") == Some(role)).count()
}

fn dashed(node: Node<'_, '_>) -> bool {
    node.descendants().any(|n| n.attribute("data-role") == Some("line") && n.attribute("stroke-dasharray").is_some())
}

/// The points of a relation's line: its first and its last one.
fn ends(node: Node<'_, '_>) -> ((f64, f64), (f64, f64)) {
    let line = node.descendants().find(|n| n.attribute("data-role") == Some("line")).expect("a line");
    let numbers: Vec<f64> = line
        .attribute("d")
        .expect("a path")
        .split(|c: char| c.is_ascii_alphabetic() || c == ' ')
        .filter(|w| !w.is_empty())
        .map(|w| w.parse().expect("a number"))
        .collect();
    ((numbers[0], numbers[1]), (numbers[numbers.len() - 2], numbers[numbers.len() - 1]))
}

#[test]
fn class_relations_have_the_ends_of_uml() {
    let text =
        "classes c\n  A extends B\n  A implements C\n  A owns D\n  A shares E\n  A knows F\n  A joins G\n  A uses H\n";
    let drawing = svg(text, "c");
    let document = Document::parse(&drawing).expect("XML");
    let fill = |id: &str| {
        let head =
            relation(&document, id).descendants().find(|n| n.attribute("data-role") == Some("head")).expect("a head");
        head.attribute("fill").expect("a fill").to_owned()
    };
    let paper = document
        .descendants()
        .find(|n| n.tag_name().name() == "rect")
        .and_then(|n| n.attribute("fill"))
        .expect("a ground");
    assert_eq!(fill("A extends B"), paper, "a hollow triangle");
    assert_eq!((fill("A implements C").as_str(), dashed(relation(&document, "A implements C"))), (paper, true));
    assert!(fill("A owns D") != paper && fill("A owns D") != "none", "a filled diamond");
    assert_eq!(fill("A shares E"), paper, "a hollow diamond");
    assert_eq!((fill("A knows F").as_str(), dashed(relation(&document, "A knows F"))), ("none", false));
    assert_eq!(roles(relation(&document, "A joins G"), "head"), 0);
    assert_eq!((fill("A uses H").as_str(), dashed(relation(&document, "A uses H"))), ("none", true));
}

#[test]
fn parents_stand_above_their_children() {
    let drawing = svg("classes c\n  class Child extends Parent\n", "c");
    let document = Document::parse(&drawing).expect("XML");
    let (child, parent) = ends(relation(&document, "Child extends Parent"));
    assert!(parent.1 < child.1, "the line runs upwards to the parent");
}

#[test]
fn classes_show_their_compartments() {
    let drawing = svg(
        "classes c\n  interface Alarm\n    + raise(): Warning\n    limit: Level\n    section \"Upkeep\"\n      # reset() (static)\n  enum Level\n    calm\n  record R\n  class S (keyword \"service\")\n  object o of Alarm\n",
        "c",
    );
    let document = Document::parse(&drawing).expect("XML");
    assert_eq!(
        texts(element(&document, "Alarm")),
        ["«interface»", "Alarm", "limit: Level", "+ raise(): Warning", "Upkeep", "# reset()"],
        "attributes before operations"
    );
    assert_eq!(texts(element(&document, "Level")), ["«enumeration»", "Level", "calm"]);
    assert_eq!(texts(element(&document, "R")), ["«dataType»", "R"]);
    assert_eq!(texts(element(&document, "S")), ["«service»", "S"]);
    assert_eq!(texts(element(&document, "o")), ["o: Alarm"]);
    let underlined = |id: &str| {
        element(&document, id).descendants().filter(|n| n.attribute("text-decoration") == Some("underline")).count()
    };
    assert_eq!((underlined("Alarm"), underlined("o"), underlined("Level")), (1, 1, 0));
}

#[test]
fn tables_show_their_key_first() {
    let drawing = svg(
        "classes c\n  table t\n    level: decimal(6,3)\n    id: bigint (key)\n    key station\n    station: bigint\n",
        "c",
    );
    let document = Document::parse(&drawing).expect("XML");
    assert_eq!(
        texts(element(&document, "t")),
        ["«table»", "t", "PK", "id", "bigint", "PK", "station", "bigint", "level", "decimal(6,3)"]
    );
}

#[test]
fn multiplicities_stand_near_their_ends() {
    let drawing = svg("classes c\n  1 Keeper knows 0..* Warning as assigned \"answers\"\n", "c");
    let document = Document::parse(&drawing).expect("XML");
    let relation = relation(&document, "Keeper knows Warning");
    let (from, to) = ends(relation);
    let place = |text: &str| {
        let node =
            relation.descendants().find(|n| n.tag_name().name() == "text" && n.text() == Some(text)).expect(text);
        let number = |a: &str| node.attribute(a).and_then(|v| v.parse::<f64>().ok()).expect("a number");
        (number("x"), number("y"))
    };
    let far = |a: (f64, f64), b: (f64, f64)| (a.0 - b.0).abs() + (a.1 - b.1).abs();
    assert!(far(place("1"), from) < 40.0 && far(place("assigned 0..*"), to) < 60.0);
    assert_eq!(roles(relation, "end-label"), 2);
    assert_eq!(roles(relation, "label"), 1);
}

#[test]
fn messages_have_the_heads_of_their_sorts() {
    let drawing = svg(
        "sequence s\n  a calls b \"1\" returning \"2\"\n  a sends b \"3\"\n  a creates c \"4\"\n  b answers a \"5\"\n",
        "s",
    );
    let document = Document::parse(&drawing).expect("XML");
    let head = |id: &str| {
        let head =
            relation(&document, id).descendants().find(|n| n.attribute("data-role") == Some("head")).expect("a head");
        (head.attribute("fill") != Some("none"), dashed(relation(&document, id)))
    };
    assert_eq!(head("a calls b"), (true, false), "synchronous: filled");
    assert_eq!(head("a calls b reply"), (false, true), "reply: open and dashed");
    assert_eq!(head("a sends b"), (false, false), "asynchronous: open");
    assert_eq!(head("a creates c"), (false, true), "creation: open and dashed");
    assert_eq!(head("b answers a"), (false, true));
}

#[test]
fn bars_come_from_nesting() {
    let drawing = svg(
        "sequence s\n  a calls b\n    does \"x\"\n      sends c\n    calls c\n      calls b\n        does \"y\"\n",
        "s",
    );
    let document = Document::parse(&drawing).expect("XML");
    let bars: Vec<&str> = document
        .descendants()
        .filter(|n| n.attribute("data-kind") == Some("activation"))
        .filter_map(|n| n.attribute("data-parent"))
        .collect();
    assert_eq!(bars, ["b", "b", "c", "b"], "the call, the own action with a body, the nested call, and the call back");
}

/// From where to where the first bar of a drawing reaches.
fn first_bar(document: &Document<'_>) -> (f64, f64) {
    let bar = document.descendants().find(|n| n.attribute("data-kind") == Some("activation")).expect("a bar");
    let numbers: Vec<f64> = bar
        .descendants()
        .find_map(|n| n.attribute("d"))
        .expect("a path")
        .split(|c: char| c.is_ascii_alphabetic() || c == ' ')
        .filter(|w| !w.is_empty())
        .map(|w| w.parse().expect("a number"))
        .collect();
    numbers.iter().skip(1).step_by(2).fold((f64::MAX, 0.0f64), |(t, b), y| (t.min(*y), b.max(*y)))
}

#[test]
fn an_answer_that_comes_later_keeps_its_bar_open() {
    let drawing = svg("sequence s\n  a calls b \"first\"\n  a sends c \"meanwhile\"\n  b answers a \"late\"\n", "s");
    let document = Document::parse(&drawing).expect("XML");
    let (top, bottom) = first_bar(&document);
    let level = |id: &str| ends(relation(&document, id)).0.1;
    assert!(top <= level("a calls b") && bottom >= level("b answers a") && level("a sends c") < bottom);
}

#[test]
fn an_answer_right_after_a_body_leaves_no_bare_lifeline() {
    let text = "sequence s\n  a calls b \"levels?\"\n    b calls c \"read\"\n  b answers a \"levels\"\n  a sends b \"thanks\"\n";
    let drawing = svg(text, "s");
    let document = Document::parse(&drawing).expect("XML");
    let level = |id: &str| ends(relation(&document, id)).0.1;
    assert_eq!(first_bar(&document).1, level("b answers a"));
}

#[test]
fn containers_are_contour_frames_with_their_depth() {
    let drawing = svg("architecture a\n  system x\n    system y\n      part p\n    group \"Box\"\n      part q\n", "a");
    let document = Document::parse(&drawing).expect("XML");
    for (id, container) in [("x", true), ("x.y", true), ("x.Box", true), ("x.y.p", false), ("x.q", false)] {
        assert_eq!(element(&document, id).attribute("data-container").is_some(), container, "{id}");
    }
    let free: Vec<&str> = document
        .descendants()
        .filter(|n| n.tag_name().name() == "text" && !n.ancestors().any(|a| a.attribute("data-element").is_some()))
        .filter_map(|n| n.text())
        .collect();
    assert_eq!(free, ["1", "2"], "a group is a box only and has no depth");
}

#[test]
fn cards_tell_name_technology_and_description() {
    let text = "architecture a\n  system s\n    service x \"Gateway\"\n      built \"Rust\"\n      about \"Checks frames\"\nsheet plain of a\n  depth 2\nsheet told of a\n  depth 2\n  tell\n";
    let (plain, shown) = (svg(text, "plain"), svg(text, "told"));
    let (plain, shown) = (Document::parse(&plain).expect("XML"), Document::parse(&shown).expect("XML"));
    assert_eq!(texts(element(&plain, "s.x")), ["Gateway", "Rust"]);
    assert_eq!(texts(element(&shown, "s.x")), ["Gateway", "Checks frames", "Rust"]);
}

#[test]
fn a_lifted_line_names_the_lines_it_stands_for() {
    let text = "architecture a\n  system x\n    part p\n    part q\n  p uses y \"one\"\n  q uses y \"two\"\n  x uses y \"three\"\nsheet s of a\n  depth 1\n";
    let drawing = svg(text, "s");
    let document = Document::parse(&drawing).expect("XML");
    let line = document.descendants().find(|n| n.attribute("data-lines").is_some()).expect("a lifted line");
    assert_eq!(line.attribute("data-lines"), Some("5 6 7"));
    assert_eq!(texts(line).concat(), "one and 2 more");
}

#[test]
fn a_flow_draws_what_is_missing_as_a_dashed_way_on() {
    let drawing = svg("flow f\n  decide \"D?\"\n    when \"yes\"\n      \"A\"\n  \"B\"\n", "f");
    let document = Document::parse(&drawing).expect("XML");
    assert!(dashed(relation(&document, "D? onward B")));
    assert!(!dashed(relation(&document, "D? then A")));
}

#[test]
fn the_main_path_of_a_flow_is_straight() {
    let text = "flow f\n  begin \"A\"\n  decide \"B?\"\n    when \"yes\"\n      \"C\"\n    or \"no\"\n      \"D, which is much wider than the rest\"\n  decide \"E?\"\n    when \"yes\"\n      \"F\"\n    or \"no\"\n      finish \"G\"\n  finish \"H\"\n";
    let drawing = svg(text, "f");
    let document = Document::parse(&drawing).expect("XML");
    let axes: std::collections::BTreeSet<i64> = ["A then B?", "B? then C", "C then E?", "E? then F", "F then H"]
        .iter()
        .flat_map(|id| {
            let (a, b) = ends(relation(&document, id));
            [(a.0 * 10.0) as i64, (b.0 * 10.0) as i64]
        })
        .collect();
    assert_eq!(axes.len(), 1, "{axes:?}");
}

#[test]
fn labels_are_wrapped_and_set_in_their_styles() {
    let drawing =
        svg("architecture a\n  x uses y \"a *slanted* and a **strong** word, and `code` in a long label\"\n", "a");
    let document = Document::parse(&drawing).expect("XML");
    let relation = relation(&document, "x uses y");
    assert!(texts(relation).len() > 2, "more than one line");
    let has = |attribute: &str| relation.descendants().any(|n| n.attribute(attribute).is_some());
    assert!(
        has("font-style")
            && has("font-weight")
            && relation.descendants().any(|n| n.attribute("font-family").is_some_and(|f| f.contains("Mono")))
    );
}

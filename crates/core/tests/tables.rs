//! Tables: what their lines say, what is drawn of them, and what stands at the ends of references.

mod support;

use bathygram_core::compare::{Difference, MemberChange};
use bathygram_core::emit::emit;
use bathygram_core::model::{Action, Diagram, Member, TableConstraint};
use bathygram_core::pipeline::{Reading, Setting, read};
use bathygram_core::source::Source;
use roxmltree::{Document, Node};
use support::svg;

fn reading(text: &str) -> Reading {
    read(Source::new("t.bathy", text), "t", &Setting::default())
}

fn diagram(text: &str) -> Diagram {
    let reading = reading(text);
    assert!(!reading.has_errors(), "{:?} in:\n{text}", reading.diagnostics);
    reading.document.diagrams.into_iter().next().expect("a diagram")
}

fn codes(text: &str) -> Vec<&'static str> {
    reading(text).diagnostics.iter().map(|found| found.code).collect()
}

fn members(diagram: &Diagram, table: &str) -> Vec<Member> {
    let element = diagram.elements.iter().find(|e| e.name == table).expect(table);
    element.class.iter().flat_map(|body| body.members()).cloned().collect()
}

/// The relations that references draw: `a 0..* -> 1 b "label"`.
fn drawn(text: &str) -> Vec<String> {
    let diagram = diagram(text);
    let name = |id| diagram.element(id).called();
    let count = |end: Option<&String>| end.cloned().unwrap_or("-".to_owned());
    diagram
        .relations
        .iter()
        .map(|r| {
            let ends = [0, 1].map(|side| count(r.ends[side].multiplicity.as_ref()));
            let label = r.label.as_ref().map_or(String::new(), |label| format!(" {:?}", label.text()));
            format!("{} {} -> {} {}{label}", name(r.from), ends[0], ends[1], name(r.to))
        })
        .collect()
}

const STATION: &str = "classes c\n  table station\n    id: int (key)\n    code: text (unique)\n";

#[test]
fn all_brackets_at_the_end_are_traits() {
    for line in [
        "x: int (refers station.id) (null)",
        "x: int (refers station.id, null)",
        "x: int (null) (refers station.id)",
        "x: int (null)  (refers station.id) // why",
        "x: int {null} (refers station.id)",
    ] {
        let diagram = diagram(&format!("{STATION}  table t\n    {line}\n"));
        let x = &members(&diagram, "t")[0];
        assert_eq!((x.text.as_str(), x.is_nullable, x.refers.is_some()), ("x: int", true, true), "{line}");
    }
    let diagram = diagram(
        "classes c\n  table t\n    id: numeric(6,3) (key) (unique)\n    y: double precision = (1 + 2) (null)\n",
    );
    let all = members(&diagram, "t");
    assert_eq!((all[0].text.as_str(), all[0].key, all[0].is_unique), ("id: numeric(6,3)", true, true));
    assert_eq!((all[1].text.as_str(), all[1].is_nullable), ("y: double precision = (1 + 2)", true));
}

#[test]
fn keys_are_marked_wherever_their_line_stands() {
    for lines in [
        "    key a, b\n    a: int\n    b: int\n",
        "    a: int\n    b: int\n    key a, b\n",
        "    a: int (key)\n    key b\n    section \"More\"\n      b: int\n",
    ] {
        let diagram = diagram(&format!("classes c\n  table t\n{lines}"));
        assert!(members(&diagram, "t").iter().all(|member| member.key), "{lines}");
    }
}

#[test]
fn what_a_table_does_not_have_is_reported() {
    let lines = [
        "    key b\n",
        "    unique a, c\n",
        "    refers a, c to station.id, station.code\n",
        "    a2: int (refers station.number)\n",
        "    refers a to station.number\n",
    ];
    for line in lines {
        assert_eq!(codes(&format!("{STATION}  table t\n    a: int\n{line}")), ["unknown-column"], "{line}");
    }
    for (line, code) in [
        ("refers a", "name-expected"),
        ("refers a, a to station.id", "unknown-name"),
        ("refers a, a to station.id, t.a", "bad-value"),
        ("refers a to station.id (on delete vanish)", "bad-value"),
        ("x: int (on delete cascade)", "bad-value"),
        ("x: int (refers station.id, on erase cascade)", "bad-value"),
        ("refers a to nothing.id", "unknown-name"),
        ("check", ""),
        ("check level > 0", "text-expected"),
    ] {
        let found = codes(&format!("{STATION}  table t\n    a: int\n    {line}\n"));
        let wanted: Vec<&str> = Some(code).filter(|code| !code.is_empty()).into_iter().collect();
        assert!(found.starts_with(&wanted), "{line}: {found:?}");
        assert_eq!(found.is_empty(), wanted.is_empty(), "{line}: {found:?}");
    }
}

#[test]
fn references_are_drawn_with_what_columns_say() {
    for (columns, ends) in [
        ("s: int (refers station.id)", "0..* -> 1"),
        ("s: int (refers station.id, null)", "0..* -> 0..1"),
        ("s: int (refers station.id, unique)", "0..1 -> 1"),
        ("s: int (refers station.id, unique, null)", "0..1 -> 0..1"),
        ("s: int (key, refers station.id)", "0..1 -> 1"),
        ("s: int (refers station.id)\n    unique s", "0..1 -> 1"),
        ("s: int (refers station.id)\n    n: int\n    key s, n", "0..* -> 1"),
        ("s: int (refers station.id)\n    n: int\n    unique s, n", "0..* -> 1"),
        ("a: int\n    b: int\n    refers a, b to station", "0..* -> 1"),
        ("a: int\n    b: int (null)\n    refers a, b to station.id, station.code", "0..* -> 0..1"),
        ("a: int\n    b: int\n    unique b, a\n    refers a, b to station", "0..1 -> 1"),
        ("a: int (key)\n    b: int\n    refers a, b to station", "0..1 -> 1"),
    ] {
        let (many, one) = ends.split_once(" -> ").expect("two ends");
        assert_eq!(
            drawn(&format!("{STATION}  table t\n    {columns}\n")),
            [format!("t {many} -> {one} station")],
            "{columns}"
        );
    }
}

#[test]
fn every_reference_has_a_line() {
    let two =
        format!("{STATION}  table t\n    from_id: int (refers station.id)\n    to_id: int (refers station.id, null)\n");
    assert_eq!(drawn(&two), ["t 0..* -> 1 station \"from_id\"", "t 0..* -> 0..1 station \"to_id\""]);
    // A line that somebody drew stands for one of them: for the one that it names.
    let named = format!("{two}  t joins station as to_id\n");
    assert_eq!(drawn(&named), ["t - -> - station", "t 0..* -> 1 station"]);
    assert_eq!(drawn(&format!("{two}  station owns t\n  t joins station\n")), ["station - -> - t", "t - -> - station"]);
    // Two tables that refer to each other, and one that refers to itself.
    let text = "classes c\n  table a\n    id: int (key)\n    b_id: int (refers b.id)\n    up: int (refers a.id, null)\n  table b\n    id: int (key)\n    a_id: int (refers a.id)\n";
    assert_eq!(drawn(text), ["a 0..* -> 1 b", "a 0..* -> 0..1 a", "b 0..* -> 1 a"]);
}

#[test]
fn names_may_hold_anything() {
    let text = "classes c\n  table t\n    `order no`: int (key)\n    `a.b (c)`: text (null)\n    `it's: x`\n  table u\n    x: int (refers \"t.`order no`\")\n    refers x, x to t.`order no`, t.`a.b (c)` (on update set default)\n    unique `x`\n";
    let diagram = diagram(text);
    let names: Vec<String> = members(&diagram, "t").iter().map(Member::name).collect();
    assert_eq!(names, ["order no", "a.b (c)", "it's: x"]);
    let u = members(&diagram, "u");
    assert_eq!(
        u[0].refers.as_ref().map(|r| (r.table.clone(), r.targets.clone())),
        Some((vec!["t".into()], vec!["order no".into()]))
    );
    assert_eq!(u[1].refers.as_ref().and_then(|r| r.on_update), Some(Action::SetDefault));
    assert_eq!(u[2].constraint, Some(TableConstraint::Unique(vec!["x".into()])));
    let drawing = svg(text, "c");
    let document = Document::parse(&drawing).expect("XML");
    assert!(texts(&document, "t").contains(&"order no".to_owned()), "{:?}", texts(&document, "t"));
}

#[test]
fn the_text_of_a_table_comes_back_as_it_was() {
    let text = "classes c (multiplicity crowfoot)\n  table station\n    id: int (key)\n    code: text\n    up: int (null, refers station.id, on delete set null)\n    unique code, up\n    check \"code <> '' and \\\"up\\\" > 0\"\n  table `t x`\n    `a b`: int (key, null, unique)\n    c: text = 'x (y'\n    refers `a b`, c to station.id, station.code (on delete cascade, on update restrict)\n    refers c, `a b` to station\n  enum level\n    calm\n    `in progress`\n";
    let first = emit(&reading(text).document);
    assert_eq!(first, text);
    assert_eq!(emit(&reading(&first).document), first);
}

#[test]
fn columns_that_change_are_compared() {
    let before = format!(
        "{STATION}  table t\n    a: int\n    b: int (refers station.id)\n    unique a, b\n    check \"a > 0\"\n"
    );
    let after = format!(
        "{STATION}  table t\n    a: int (null)\n    b: int (refers station.id, on delete cascade)\n    unique b, a\n    check \"a > 0\"\n    refers a, b to station\n"
    );
    let changes = bathygram_core::compare::diagrams(&diagram(&before), &diagram(&after));
    let told: Vec<String> = changes
        .iter()
        .flat_map(|change| &change.differences)
        .filter_map(|difference| match difference {
            Difference::Member(MemberChange::Added(word, text)) => Some(format!("+ {word} {text}")),
            Difference::Member(MemberChange::Removed(word, text)) => Some(format!("- {word} {text}")),
            Difference::Member(MemberChange::Changed(word, a, b)) => Some(format!("{word} {a} > {b}")),
            _ => None,
        })
        .collect();
    assert_eq!(
        told,
        [
            "column a: int > a: int {null}",
            "column b: int refers station.id > b: int refers station.id (on delete cascade)",
            "- constraint unique (a, b)",
            "+ constraint unique (b, a)",
            "+ constraint (a, b) refers station",
        ]
    );
}

fn texts(document: &Document<'_>, id: &str) -> Vec<String> {
    let element = document.descendants().find(|n| n.attribute("data-element") == Some(id)).expect(id);
    let lines = element.descendants().filter(|n| n.tag_name().name() == "text");
    lines.map(|n| n.descendants().filter(Node::is_text).filter_map(|t| t.text()).collect()).collect()
}

#[test]
fn marks_names_and_types_stand_in_columns() {
    let text = format!(
        "{STATION}  table t\n    sid: bigint (refers station.id, unique)\n    a: numeric(6,3) = 0 (null)\n    longer_name: text\n    id: int (key)\n    b: int\n    refers a, b to station\n    check \"a > b\"\n"
    );
    let drawing = svg(&text, "c");
    let document = Document::parse(&drawing).expect("XML");
    assert_eq!(
        texts(&document, "t"),
        [
            "«table»",
            "t",
            "PK",
            "id",
            "int",
            "FK U",
            "sid",
            "bigint",
            "FK",
            "a",
            "numeric(6,3) = 0 null",
            "longer_name",
            "text",
            "FK",
            "b",
            "int",
            "(a, b) refers station",
            "{a > b}"
        ]
    );
    let element = document.descendants().find(|n| n.attribute("data-element") == Some("t")).expect("t");
    let place = |text: &str| {
        let node = element.descendants().find(|n| n.tag_name().name() == "text" && n.text() == Some(text)).expect(text);
        ["x", "y"].map(|a| node.attribute(a).and_then(|v| v.parse::<f64>().ok()).expect("a number"))
    };
    // Each column has one left side, and each row one line.
    assert!(place("sid")[0] == place("longer_name")[0] && place("bigint")[0] == place("text")[0]);
    assert!(place("longer_name")[0] < place("text")[0] && place("FK U")[0] < place("sid")[0]);
    assert_eq!(place("sid")[1], place("bigint")[1]);
}

#[test]
fn a_sheet_of_keys_shows_what_identifies_and_what_refers() {
    let text = format!(
        "{STATION}  table t\n    id: int (key)\n    a: int\n    s: int (refers station.id)\n    refers a, s to station\n    check \"a > 0\"\n\nsheet k of c\n  members keys\n"
    );
    let drawing = svg(&text, "k");
    let document = Document::parse(&drawing).expect("XML");
    assert_eq!(texts(&document, "t"), ["«table»", "t", "PK", "id", "int", "FK", "s", "int", "(a, s) refers station"]);
}

//! Classes against the classifiers of source code: cases by hand, and laws.

use bathygram_core::conform::{ClassConformance, CodeClasses, Realm, Weight, actual_classes, classes};
use bathygram_core::model::{Diagram, DiagramKind};
use bathygram_core::pipeline::{Setting, read};
use bathygram_core::source::Source;
use std::collections::BTreeSet;

fn diagram(text: &str) -> Diagram {
    let reading = read(Source::new("bay.bathy", text), "bay", &Setting::default());
    assert!(!reading.has_errors(), "{:?} in:\n{text}", reading.diagnostics);
    reading.document.diagrams.into_iter().find(|d| d.kind == DiagramKind::Classes).expect("classes")
}

/// Code as a diagram says it: each element stands in the file of its origin, in the line of its number.
fn code(text: &str) -> CodeClasses {
    let diagram = diagram(text);
    let file = |number: usize| {
        let origin = diagram.elements[number].properties.origin.as_ref().map(|text| text.text());
        origin.and_then(|origin| Some(origin.split_once(':')?.0.to_owned())).unwrap_or_default()
    };
    let places = (0..diagram.elements.len()).map(|number| format!("{}:{number}", file(number))).collect();
    CodeClasses { diagram, places, realm: Realm::Code }
}

const CODE: &str = "classes bay
  class Gauge (origin \"a.py:Gauge\")
    + name: str
    + read(): Level
  class Level (origin \"a.py:Level\")
  class Store (origin \"b.py:Store\")
  interface Hear (origin \"b.py:Hear\")
  enum Kind (origin \"b.py:Kind\")
    FLOAT
  Gauge implements Hear
  Gauge owns 0..* Level as levels
  Store knows 0..1 Gauge as last
  Store uses Level
";

fn compared(design: &str) -> (Diagram, ClassConformance) {
    let design = diagram(design);
    let of = classes(&design, &code(CODE)).expect("a design of code");
    (design, of)
}

fn told(design: &str) -> Vec<String> {
    let (design, of) = compared(design);
    let all = of.deviations(&design).into_iter();
    all.map(|one| format!("{}: {} ({})", one.code, one.says, one.places.join(", "))).collect()
}

const DESIGN: &str = "classes bay
  group all
    code \"*.py\"
    class Gauge
      name: str
      read()
    class Level
    class Store
    interface Hear
    enum Kind
  Gauge implements Hear
  Gauge owns 0..* Level as levels
  Store knows 0..1 Gauge as last
";

#[test]
fn what_is_as_drawn_conforms() {
    assert_eq!(told(DESIGN), Vec::<String>::new());
    let (_, of) = compared(DESIGN);
    assert_eq!(of.agreements, 5);
}

#[test]
fn a_drawing_may_leave_members_and_dependencies_out() {
    let less = DESIGN.replace("      name: str\n", "").replace("      read()\n", "");
    assert_eq!(told(&less), Vec::<String>::new());
    // Who has something uses it; a dependency is there as it is drawn.
    let uses = DESIGN.replace("Store knows 0..1 Gauge as last", "Store uses Gauge") + "  Store uses Level\n";
    assert_eq!(told(&uses), Vec::<String>::new());
}

#[test]
fn attributes_may_be_drawn_as_rows_or_as_lines() {
    let row = DESIGN
        .replace("      name: str\n", "      name: str\n      levels: Level [0..*]\n")
        .replace("  Gauge owns 0..* Level as levels\n", "");
    assert_eq!(told(&row), Vec::<String>::new());
    let joined = DESIGN.replace("Store knows 0..1 Gauge as last", "Gauge joins Store");
    assert_eq!(told(&joined), Vec::<String>::new());
}

#[test]
fn names_are_the_same_whatever_a_language_makes_of_them() {
    let design = DESIGN
        .replace("      read()\n", "      reAd()\n")
        .replace("class Level\n", "class level\n")
        .replace("0..* Level", "0..* level");
    assert_eq!(told(&design), Vec::<String>::new());
}

#[test]
fn what_is_missing_and_what_nobody_drew_is_told() {
    let design = DESIGN
        .replace("    class Store\n", "    class Stock\n      x: int\n")
        .replace("  Store knows 0..1 Gauge as last\n", "  Stock knows Gauge\n  Level extends Gauge\n")
        .replace("  Gauge implements Hear\n", "")
        .replace("name: str", "title: str");
    assert_eq!(
        told(&design),
        [
            "surprise: `Gauge` implements `Hear`; the diagram does not say so (a.py:0)",
            "member-absent: `Gauge` has no `title: str` in the code (a.py:0)",
            "absent: `Stock` is nowhere in the code ()",
            "absent: `Level` extends `Gauge` nowhere in the code (a.py:1)",
            "undrawn: not drawn, though in files of what is: `Store` (b.py:2)",
        ]
    );
}

#[test]
fn numbers_and_types_are_compared() {
    let design =
        DESIGN.replace("0..* Level", "1 Level").replace("0..1 Gauge", "2..5 Gauge").replace("name: str", "name: Text");
    assert_eq!(
        told(&design),
        [
            "multiplicity: `Gauge` owns `Level`: there are 0..* in the code (a.py:0)",
            "multiplicity: `Store` knows `Gauge`: there are 0..1 in the code (b.py:2)",
            "type: `name: Text` of `Gauge` is of type `str` in the code (a.py:0)",
        ]
    );
    let (own, of) = compared(&design);
    let weights: Vec<Weight> = of.deviations(&own).iter().map(|one| one.weight).collect();
    assert_eq!(weights, [Weight::Difference, Weight::Difference, Weight::Note]);
    // Nobody is held to a number that is not drawn.
    assert_eq!(told(&DESIGN.replace("0..* Level", "Level")), Vec::<String>::new());
}

#[test]
fn what_is_not_about_code_is_left_alone() {
    let plain = diagram("classes bay\n  class Gauge\n  class Nobody\n");
    assert_eq!(classes(&plain, &code(CODE)), None);
    // External classifiers and other packages are somebody else's.
    let outer = DESIGN.replace("    enum Kind\n", "    enum Kind\n    class Sea (external)\n");
    assert_eq!(told(&outer), Vec::<String>::new());
    let elsewhere = DESIGN.replace("code \"*.py\"", "code \"a.py\"");
    assert!(told(&elsewhere).contains(&"absent: `Store` is nowhere in the code ()".to_owned()));
}

#[test]
fn origins_tell_two_of_one_name_apart() {
    let two = code(
        "classes bay\n  class Level (origin \"a.py:Level\")\n    x: int\n  class Level_2 \"Level\" (origin \"b.py:Level\")\n    y: int\n",
    );
    let design = diagram("classes bay\n  class Height (origin \"b.py:Level\")\n    y: int\n");
    let of = classes(&design, &two).expect("about code");
    assert_eq!(of.deviations(&design), Vec::new());
    let design = diagram("classes bay\n  class Level\n    code \"b.py\"\n    y: int\n");
    assert_eq!(classes(&design, &two).expect("about code").deviations(&design), Vec::new());
}

#[test]
fn what_is_accepted_is_not_told_and_everything_can_be() {
    let design = DESIGN
        .replace("    class Store\n", "    class Stock\n")
        .replace("name: str", "title: Text")
        .replace("0..* Level", "1 Level")
        .replace("Store knows", "Stock knows");
    let (own, mut of) = compared(&design);
    let keys: BTreeSet<String> = of.deviations(&own).into_iter().flat_map(|one| one.keys).collect();
    assert!(
        keys.contains("undrawn Store") && keys.contains("absent all.Stock") || keys.contains("absent Stock"),
        "{keys:?}"
    );
    assert_eq!(of.accept(&own, &keys), keys);
    assert_eq!(of.deviations(&own), Vec::new());
}

#[test]
fn the_picture_has_what_is_there() {
    let design = DESIGN
        .replace("    class Store\n", "    class Stock\n")
        .replace("Store knows", "Stock knows")
        .replace("  Gauge implements Hear\n", "")
        .replace("0..* Level", "1 Level")
        .replace("      name: str\n", "      title: str\n");
    let (own, of) = compared(&design);
    let actual = actual_classes(&own, &of);
    assert_eq!(actual.elements.len(), own.elements.len() - 1);
    assert!(actual.elements.iter().all(|element| element.name != "Stock"));
    let gauge = actual.elements.iter().find(|element| element.name == "Gauge").expect("a gauge");
    let rows: Vec<String> =
        gauge.class.iter().flat_map(|body| body.members()).map(|member| member.text.clone()).collect();
    assert_eq!(rows, ["read()"]);
    let lines: Vec<String> = actual
        .relations
        .iter()
        .map(|r| {
            format!(
                "{} {} {}",
                actual.element(r.from).name,
                r.verb.word(),
                r.ends[1].multiplicity.as_deref().unwrap_or("")
            )
        })
        .collect();
    assert_eq!(lines, ["Gauge owns 0..*", "Gauge implements "]);
}

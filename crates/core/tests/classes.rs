//! Classes: what sheets of them show, where they stand, and what their symbols look like in the drawing.

mod support;

use bathygram_core::layout::score::measure;
use bathygram_core::pipeline::Studio;
use roxmltree::{Document, Node};
use std::collections::BTreeMap;
use support::{codes, diagram, good, outline, read, svg};

/// The rectangle of an element's frame: left, top, right, bottom.
type Frame = [f64; 4];

/// The corners that a path touches.
fn bounds(path: &str) -> Frame {
    let numbers: Vec<f64> = path
        .split(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | '-')))
        .filter(|n| !n.is_empty())
        .map(|n| n.parse().expect("a number"))
        .collect();
    let along = |first: usize, pick: fn(f64, f64) -> f64, from: f64| {
        numbers.iter().skip(first).step_by(2).copied().fold(from, pick)
    };
    let (low, high) = (f64::INFINITY, f64::NEG_INFINITY);
    [along(0, f64::min, low), along(1, f64::min, low), along(0, f64::max, high), along(1, f64::max, high)]
}

fn role<'a>(node: Node<'a, 'a>, role: &str) -> Vec<Node<'a, 'a>> {
    node.descendants().filter(|n| n.attribute("data-role") == Some(role)).collect()
}

/// The frames of all elements, by name.
fn frames(drawing: &str) -> BTreeMap<String, Frame> {
    let document = Document::parse(drawing).expect("XML");
    let elements = document.descendants().filter(|n| n.attribute("data-element").is_some());
    let frame = |n: Node<'_, '_>| {
        let frame = role(n, "frame")[0];
        (n.attribute("data-element").expect("a name").to_owned(), bounds(frame.attribute("d").expect("a path")))
    };
    elements.map(frame).collect()
}

/// A relation of a drawing.
fn relation<'a>(document: &'a Document<'a>, id: &str) -> Node<'a, 'a> {
    let found = document.descendants().find(|n| n.attribute("data-relation") == Some(id));
    found.unwrap_or_else(|| panic!("{id} is not there"))
}

/// All letters inside a node.
fn letters(node: Node<'_, '_>) -> String {
    node.descendants().filter(Node::is_text).filter_map(|n| n.text()).map(str::trim).collect::<Vec<_>>().concat()
}

/// What a sheet called `s` shows, told in a few words.
fn sheet(text: &str) -> String {
    let pictures = support::pictures(&good(text));
    outline(pictures.iter().find(|p| p.name == "s").expect("the sheet"))
}

const STORE: &str = "classes c \"C\"\n  group \"Field\"\n    class Station\n      + name: Text\n      - key: Count\n    \
                     class Sensor\n  group \"Levels\"\n    class Reading\n    class Series\n  class Keeper\n  \
                     1 Station owns 1..* Sensor as parts\n  0..* Reading knows 1 Sensor\n  Series shares Reading\n  \
                     Keeper joins 1..* Station \"looks after\"\n";

#[test]
fn a_sheet_that_only_shows_draws_what_it_names_and_the_packages_around() {
    let listed = sheet(&format!("{STORE}sheet s of c\n  show Station, Reading\n"));
    assert_eq!(
        listed, "group Field \"Field\"\n  class Station in Field\ngroup Levels \"Levels\"\n  class Reading in Levels\n",
        "no relation joins the two, and a package with something in it stands for nothing hidden"
    );
    let listed = sheet(&format!("{STORE}sheet s of c\n  show \"Field\", Keeper\n"));
    assert!(
        listed.contains("class Sensor in Field") && listed.contains("class Keeper"),
        "a package with all that it holds: {listed}"
    );
    assert!(listed.contains("Keeper joins Station to[1..*]") && !listed.contains("Reading"), "{listed}");
    // With a depth, what is shown comes on top.
    let listed = sheet(&format!("{STORE}sheet s of c\n  depth 1\n  show Station\n"));
    assert!(listed.contains("class Keeper") && listed.contains("class Series"), "{listed}");
}

#[test]
fn closed_packages_are_boxes_whose_lines_say_nothing_of_ends() {
    let listed = sheet(&format!("{STORE}sheet s of c\n  close \"Field\", \"Levels\"\n"));
    assert!(listed.contains("Levels knows Field\n"), "no multiplicities of what is inside: {listed}");
    assert!(listed.contains("Keeper joins Field \"looks after\"\n"), "{listed}");
    assert!(!listed.contains("class Station") && !listed.contains("owns"), "{listed}");
    let half = sheet(&format!("{STORE}sheet s of c\n  close \"Field\"\n"));
    assert!(half.contains("Reading knows Field from[0..*]\n"), "the open end keeps its own: {half}");
}

#[test]
fn a_neighbourhood_is_what_one_touches() {
    let listed = sheet(&format!("{STORE}sheet s of c\n  focus Sensor\n"));
    for (name, there) in [("Station", true), ("Sensor", true), ("Reading", true), ("Series", false), ("Keeper", false)]
    {
        assert_eq!(listed.contains(&format!("class {name}")), there, "{name} in {listed}");
    }
    let listed = sheet(&format!("{STORE}sheet s of c\n  focus Sensor 2\n"));
    assert!(listed.contains("class Series") && listed.contains("class Keeper"), "{listed}");
}

#[test]
fn members_are_shown_as_a_sheet_says() {
    const TEXT: &str = "classes c\n  class A\n    + open: Text\n    - closed: Text\n    # kept: Text\n    ~ near: Text\n    \
                        plain: Text\n    section \"More\"\n      - inner: Text\n  table t\n    id: bigint (key)\n    \
                        a_id: bigint (refers u.id)\n    note: text\n  table u\n    id: bigint (key)\n";
    for (word, shown) in [
        ("none", vec![]),
        ("keys", vec!["id: bigint", "a_id: bigint", "id: bigint"]),
        ("public", vec!["+ open: Text", "plain: Text", "id: bigint", "a_id: bigint", "note: text", "id: bigint"]),
    ] {
        let pictures = support::pictures(&good(&format!("{TEXT}sheet s of c\n  members {word}\n")));
        let bodies = pictures[1].elements.iter().filter_map(|e| e.class.as_ref());
        let members: Vec<String> = bodies.clone().flat_map(|b| b.members()).map(|m| m.text.clone()).collect();
        assert_eq!(members, shown, "{word}");
        assert!(bodies.flat_map(|b| &b.compartments).all(|c| !c.members.is_empty()), "no empty compartment");
        assert_eq!(pictures[1].relations.len(), 1, "the reference is drawn all the same");
    }
    let all = support::pictures(&good(&format!("{TEXT}sheet s of c\n  members all\n")));
    assert!(all[1].elements.iter().zip(&all[0].elements).all(|(a, b)| a.class == b.class));
}

#[test]
fn wrong_lines_of_sheets_of_classes_are_reported() {
    let said = |text: &str| {
        let reading = read(text);
        reading
            .diagnostics
            .iter()
            .map(|d| format!("{}: {}", d.code, support::sentence(&reading, d)))
            .collect::<Vec<_>>()
    };
    let listed = said("classes c\n  class A\nsheet s of c\n  members some\n");
    assert!(listed.len() == 1 && listed[0].starts_with("bad-value: ") && listed[0].contains("some"), "{listed:?}");
    let listed = said("architecture a\n  system x\nsheet s of a\n  members none\n");
    assert!(listed.len() == 1 && listed[0].contains("a sheet of classes"), "{listed:?}");
    assert_eq!(codes("classes c\n  class A\nsheet s of c\n  members\n"), ["bad-value"]);
    assert_eq!(codes("classes c\n  class A\nsheet s of c\n  show B\n").len(), 1);
}

#[test]
fn derived_members_and_nested_type_parameters_are_read() {
    let found = diagram("classes c\n  class Series<K, List<V>> extends Base\n    / age: Years\n    +/sum: Metres\n");
    let body = found.elements[0].class.as_ref().expect("a class");
    assert_eq!(body.parameters.as_deref(), Some("K, List<V>"));
    let names: Vec<String> = body.members().map(|m| m.name()).collect();
    assert_eq!(names, ["age", "sum"]);
    assert_eq!(found.relations.len(), 1);
    for written in ["<T:Text,V:List<T>[1..*]>", "<T: Text, V: List<T> [1..*]>"] {
        let found = diagram(&format!("classes c\n  class S{written}\n"));
        let body = found.elements[0].class.as_ref().expect("a class");
        assert_eq!(body.parameters.as_deref(), Some("T: Text, V: List<T> [1..*]"));
    }
}

#[test]
fn clauses_after_traits_are_sent_before_them() {
    let found = read("classes c\n  interface I\n  class A (keyword \"service\") implements I\n");
    let help = found.diagnostics[0].words(&found.sources()).help.unwrap_or_default();
    assert!(found.diagnostics[0].code == "leftover" && help.contains("`implements …` before them"), "{help}");
}

#[test]
fn lines_to_the_own_class_carry_their_texts() {
    let text = "classes c\n  class A\n  0..1 A as parent knows * A as children \"leads\"\n  1 A owns 0..* A as spare\n";
    let drawing = svg(text, "c");
    let document = Document::parse(&drawing).expect("XML");
    let texts = |id: &str, kind: &str| -> Vec<String> {
        role(relation(&document, id), kind).into_iter().map(letters).collect()
    };
    assert_eq!(texts("A knows A", "end-label"), ["parent 0..1", "children *"]);
    assert_eq!(texts("A knows A", "label"), ["leads"]);
    assert_eq!(texts("A owns A", "end-label"), ["1", "spare 0..*"]);
    // The second lies around the first.
    let line = |id: &str| bounds(role(relation(&document, id), "line")[0].attribute("d").expect("a path"));
    let (inner, outer) = (line("A knows A"), line("A owns A"));
    assert!(outer[1] < inner[1] && inner[2] < outer[2] && inner[3] < outer[3], "{inner:?} {outer:?}");
}

/// The triangle at a label, as its bounds; a label has one path for its ground, and one for the triangle.
fn triangle(document: &Document<'_>, id: &str) -> Option<Frame> {
    let label = document.descendants().find(|n| n.attribute("data-relation") == Some(id))?;
    let label = label.descendants().find(|n| n.attribute("data-role") == Some("label"))?;
    let paths: Vec<&str> = label.descendants().filter_map(|n| n.attribute("d")).collect();
    paths.get(1).map(|d| bounds(d))
}

#[test]
fn labels_of_associations_say_which_way_they_are_read() {
    for (heading, across) in [("down", false), ("up", false), ("right", true), ("left", true)] {
        let text = format!("classes c\n  class A\n  class B\n  heading {heading}\n  A joins B \"looks after\"\n");
        let drawing = svg(&text, "c");
        let document = Document::parse(&drawing).expect("XML");
        let [left, top, right, bottom] = triangle(&document, "A joins B").expect("a triangle");
        assert_eq!(right - left > bottom - top, across, "{heading}: it points along the line");
        let places = frames(&drawing);
        let before = if across { places["A"][0] < places["B"][0] } else { places["A"][1] < places["B"][1] };
        assert_eq!(before, matches!(heading, "down" | "right"), "{heading}");
    }
    for (verb, has) in [("owns", true), ("shares", true), ("knows", false), ("uses", false), ("extends", false)] {
        let drawing = svg(&format!("classes c\n  class A\n  class B\n  A {verb} B \"x\"\n"), "c");
        let document = Document::parse(&drawing).expect("XML");
        assert_eq!(triangle(&document, &format!("A {verb} B")).is_some(), has, "{verb}");
    }
}

#[test]
fn type_parameters_stand_in_a_dashed_corner_beside_the_name() {
    for name in ["Series<T>", "Series<Key: Text, Value: Reading>", "ANameThatIsLongerThanUsual<T>"] {
        for body in ["", "    + append(item: T)\n"] {
            let drawing = svg(&format!("classes c\n  class {name}\n{body}"), "c");
            let document = Document::parse(&drawing).expect("XML");
            let element = document.descendants().find(|n| n.attribute("data-element").is_some()).expect("one");
            let frame = bounds(role(element, "frame")[0].attribute("d").expect("a path"));
            let dashed = element.descendants().find(|n| n.attribute("stroke-dasharray").is_some()).expect("dashed");
            let corner = bounds(dashed.attribute("d").expect("a path"));
            assert!(
                (corner[1] - frame[1]).abs() < 0.1 && (corner[2] - frame[2]).abs() < 0.1,
                "{corner:?} in {frame:?}"
            );
            let texts: Vec<Node<'_, '_>> = element.descendants().filter(|n| n.has_tag_name("text")).collect();
            let place =
                |n: &Node<'_, '_>| ["x", "y"].map(|a| n.attribute(a).expect(a).parse::<f64>().expect("a number"));
            let is_inside = |n: &&Node<'_, '_>| {
                let [x, y] = place(n);
                x > corner[0] && x < corner[2] && y > corner[1] && y < corner[3]
            };
            let inside: Vec<String> = texts.iter().filter(is_inside).map(|n| letters(*n)).collect();
            let parameters = name.split_once('<').expect("parameters").1.trim_end_matches('>');
            assert_eq!(inside, [parameters]);
        }
    }
}

#[test]
fn a_package_has_a_tab_that_no_line_meets() {
    let text = "classes c\n  group \"One\"\n    class A\n  group \"Two\"\n    class B\n  A knows B\nsheet s of c\n  close \"One\", \"Two\"\n";
    for name in ["c", "s"] {
        let drawing = svg(text, name);
        let document = Document::parse(&drawing).expect("XML");
        let lines: Vec<Frame> =
            role(document.root(), "line").iter().map(|n| bounds(n.attribute("d").expect("a path"))).collect();
        let packages = document.descendants().filter(|n| n.attribute("data-kind") == Some("group"));
        let mut count = 0;
        for package in packages {
            let paths: Vec<Frame> = package.children().filter_map(|n| n.attribute("d")).map(bounds).collect();
            let (tab, frame) = (paths[0], paths[1]);
            assert!(
                (tab[3] - frame[1]).abs() < 0.1 && tab[0] >= frame[0] - 0.1 && tab[2] < frame[2],
                "{tab:?} {frame:?}"
            );
            let met = |l: &Frame| l[0] < tab[2] && tab[0] < l[2] && l[1] < tab[3] && tab[1] < l[3];
            assert!(!lines.iter().any(met), "{tab:?} {lines:?}");
            count += 1;
        }
        assert_eq!(count, 2);
    }
}

#[test]
fn families_stand_in_one_row_below_their_parent() {
    let children: String = (0..6).map(|i| format!("  class C{i} extends P\n")).collect();
    let places = frames(&svg(&format!("classes c\n  class P\n{children}"), "c"));
    let tops: Vec<f64> = (0..6).map(|i| places[&format!("C{i}")][1]).collect();
    assert!(tops.iter().all(|y| *y == tops[0] && *y > places["P"][3]), "{places:?}");
    // Also where associations lead up: parents stay above in every candidate.
    let mut text = format!("classes c\n  class P\n{children}");
    for i in 0..40 {
        text += &format!("  class K{i}\n  K{i} knows C{}\n  K{} joins K{i}\n", i % 6, (i * 7 + 3) % 40);
    }
    let places = frames(&svg(&text, "c"));
    for i in 0..6 {
        assert!(places[&format!("C{i}")][1] > places["P"][3], "C{i}");
    }
}

#[test]
fn a_hundred_classes_are_drawn_without_fault_and_fit_a_page() {
    let packages = |has: bool| {
        let mut text = String::from("classes c\n");
        for i in 0..100 {
            if has && i % 12 == 0 {
                text += &format!("  group \"Package {}\"\n", i / 12);
            }
            let (indent, parent) = (if has { "    " } else { "  " }, i / 12 * 12 + 1);
            let extends = if i % 12 > 7 { format!(" extends C{parent}") } else { String::new() };
            text += &format!("{indent}class C{i}{extends}\n");
            (0..i % 7).for_each(|m| text += &format!("{indent}  + member{m}: Text\n"));
        }
        for i in 0..115 {
            let (from, near) = (i * 37 % 100, i * 37 % 100 / 12 * 12);
            let to = if i % 8 == 0 { i * 61 % 100 } else { near + i * 5 % 12 };
            if from != to && to < 100 {
                text += &format!("  C{from} {} 0..* C{to}\n", ["knows", "owns", "joins", "uses"][i % 4]);
            }
        }
        text
    };
    for has in [false, true] {
        let reading = good(&packages(has));
        let (graph, laid) =
            support::place(&Studio::new(), &reading, &support::views(&reading)[0], None).expect("a graph");
        let measures = measure(&graph, &laid.placement);
        assert_eq!(measures.faults, [], "with packages: {has}");
        assert!((0.4..2.6).contains(&measures.aspect()), "{} with packages: {has}", measures.aspect());
        let written = bathygram_core::layout::layered::place(&graph, Default::default());
        let plain = measure(&graph, &written);
        assert!(measures.score() <= plain.score(), "{} and {}", measures.score(), plain.score());
    }
}

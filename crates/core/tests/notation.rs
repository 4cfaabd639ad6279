//! What the words of the language look like in the drawing: formulas, shapes, ends, feet, legends, marks.

mod support;

use roxmltree::{Document, Node};
use support::svg;

/// The elements with a kind, as nodes of the drawing.
fn of_kind<'a>(document: &'a Document<'a>, kind: &str) -> Vec<Node<'a, 'a>> {
    document.descendants().filter(|n| n.attribute("data-kind") == Some(kind)).collect()
}

fn role<'a>(node: Node<'a, 'a>, role: &str) -> Vec<Node<'a, 'a>> {
    node.descendants().filter(|n| n.attribute("data-role") == Some(role)).collect()
}

/// All letters inside a node.
fn letters(node: Node<'_, '_>) -> String {
    node.descendants().filter(Node::is_text).filter_map(|n| n.text()).map(str::trim).collect::<Vec<_>>().concat()
}

fn draw(text: &str) -> String {
    svg(text, text.split([' ', '\n']).nth(1).expect("a name"))
}

#[test]
fn formulas_have_scripts_that_are_smaller_and_off_the_base_line() {
    let drawing = draw("flow f\n  \"up $h_max^2 <= pi$ m\"\n");
    let document = Document::parse(&drawing).expect("XML");
    let spans: Vec<Node<'_, '_>> = document.descendants().filter(|n| n.has_tag_name("tspan")).collect();
    let shown: Vec<(String, Option<&str>, bool)> =
        spans.iter().map(|s| (letters(*s), s.attribute("dy"), s.attribute("font-style") == Some("italic"))).collect();
    let find =
        |text: &str| shown.iter().find(|(t, ..)| t == text).unwrap_or_else(|| panic!("{text} in {shown:?}")).clone();
    assert!(find("h").2 && find("π").2, "variables are slanted");
    let drop = |text: &str| find(text).1.expect("moved").parse::<f64>().expect("a number");
    assert!(drop("max") > 0.0, "a subscript hangs: {shown:?}");
    assert!(drop("2") < 0.0, "a superscript stands above: {shown:?}");
    let size = |text: &str| {
        let span = spans.iter().rev().find(|s| letters(**s) == text).expect("there");
        span.attribute("font-size").map(|s| s.parse::<f64>().expect("a number"))
    };
    assert!(size("max").is_some_and(|s| s < 10.0) && size("h").is_none());
    // What comes after stands on the base line again.
    let total: f64 = shown.iter().filter_map(|(_, dy, _)| dy.map(|d| d.parse::<f64>().expect("a number"))).sum();
    assert!(total.abs() < 0.02, "{shown:?}");
}

#[test]
fn every_shape_is_its_own() {
    let shapes = [
        "box", "round", "pill", "circle", "ring", "diamond", "hexagon", "slant", "cylinder", "flag", "star", "cloud",
        "page",
    ];
    let mut outlines = std::collections::BTreeSet::new();
    for shape in shapes {
        let drawing = draw(&format!("network n\n  device a \"Gauge\" (shape {shape})\n"));
        let document = Document::parse(&drawing).expect("XML");
        let element = of_kind(&document, "device")[0];
        let commands: String = element
            .descendants()
            .filter_map(|n| n.attribute("d"))
            .flat_map(|d| d.chars().filter(|c| c.is_alphabetic()).chain(['|']))
            .collect();
        assert!(letters(element).contains("Gauge"), "{shape}");
        outlines.insert((commands, element.descendants().filter_map(|n| n.attribute("d")).next().map(str::to_owned)));
    }
    assert_eq!(outlines.len(), shapes.len(), "{outlines:#?}");
}

#[test]
fn a_rule_gives_shape_icon_and_ground() {
    let plain = draw("architecture a\n  service s \"S\" (tag t)\n");
    let ruled = svg(
        "architecture a\n  service s \"S\" (tag t)\nlook\n  tag t: icon bell\n  picture: fill shell\n  s: text coral\n",
        "a",
    );
    assert_ne!(plain, ruled);
    let ground = |drawing: &str| {
        let document = Document::parse(drawing).expect("XML");
        let first =
            document.descendants().find(|n| n.has_tag_name("path") || n.has_tag_name("rect")).expect("a ground");
        first.attribute("fill").map(str::to_owned)
    };
    assert_ne!(ground(&plain), ground(&ruled), "`picture` fills the ground");
    // The name is more particular than the tag, the tag than the kind, and a trait wins over all.
    let fill = |text: &str| {
        let drawing = svg(text, "a");
        let document = Document::parse(&drawing).expect("XML");
        role(of_kind(&document, "service")[0], "frame")[0].attribute("fill").map(str::to_owned)
    };
    let base = "architecture a\n  service s (tag t)\nlook\n";
    let coral = fill(&format!("{base}  service: fill coral\n"));
    assert_ne!(coral, fill(base.trim_end()));
    assert_eq!(fill(&format!("{base}  tag t: fill coral\n  service: fill kelp\n")), coral);
    assert_eq!(fill(&format!("{base}  s: fill coral\n  tag t: fill kelp\n  service: fill sand\n")), coral);
    assert_eq!(fill(&format!("{base}  service: fill kelp\n  service: fill coral\n")), coral, "later rules win");
    assert_eq!(fill("architecture a\n  service s (fill coral)\nlook\n  s: fill kelp\n"), coral);
}

#[test]
fn ends_are_drawn_as_said() {
    let heads = |traits: &str| {
        let drawing = draw(&format!("network n\n  a joins b{traits}\n"));
        let document = Document::parse(&drawing).expect("XML");
        let relation = document.descendants().find(|n| n.has_attribute("data-relation")).expect("a relation");
        role(relation, "head").len()
    };
    assert_eq!([heads(""), heads(" (end circle)"), heads(" (end cross)"), heads(" (both)")], [0, 1, 1, 2]);
}

#[test]
fn crows_feet_take_the_place_of_figures() {
    let text = |block: &str| format!("classes c{block}\n  0..1 a joins 1..* b\n  1 c owns 0..* d\n");
    let (figures, feet) = (draw(&text("")), draw(&text(" (multiplicity crowfoot)")));
    assert!(figures.contains("1..*") && !feet.contains(">1..*<"));
    let document = Document::parse(&feet).expect("XML");
    for relation in document.descendants().filter(|n| n.has_attribute("data-relation")) {
        assert_eq!(role(relation, "head").len(), 4, "two marks at each end");
    }
}

#[test]
fn a_legend_explains_what_occurs_once() {
    let drawing = svg(
        "architecture a\n  legend\n  system x\n  system y\n  store z (tag slow)\n  met uses x\n  system met (external)\n  x uses y\n  y writes z\nlook\n  tag slow: fill coral\n  writes: line dashed\n",
        "a",
    );
    let document = Document::parse(&drawing).expect("XML");
    let texts: Vec<&str> = document.descendants().filter(|n| n.has_tag_name("text")).filter_map(|n| n.text()).collect();
    for word in ["system", "store", "external", "slow", "uses", "writes"] {
        assert_eq!(texts.iter().filter(|t| **t == word).count(), 1, "{word} in {texts:?}");
    }
    // Samples are no elements and no relations of the picture.
    let elements = document.descendants().filter(|n| n.has_attribute("data-element")).count();
    let lines = document.descendants().filter(|n| n.attribute("data-role") == Some("line")).count();
    assert_eq!((elements, lines), (4, 3));
}

/// The legend of a picture: what is drawn right before each of its words.
fn samples(drawing: &str) -> Vec<(String, Vec<String>)> {
    let document = Document::parse(drawing).expect("XML");
    let mut items = document.root_element().children().filter(Node::is_element);
    // It begins with its rule, the last things that belong to no element being the legend's.
    let legend: Vec<Node<'_, '_>> =
        items.by_ref().filter(|n| ["path", "text"].contains(&n.tag_name().name())).collect();
    let mut found = Vec::new();
    let mut paths = Vec::new();
    for item in legend {
        match item.tag_name().name() {
            "path" => paths
                .push(["d", "fill", "stroke", "stroke-dasharray"].map(|a| item.attribute(a).unwrap_or("-")).join("|")),
            _ => found.push((item.text().unwrap_or_default().to_owned(), std::mem::take(&mut paths))),
        }
    }
    found
}

#[test]
fn a_legend_is_true() {
    let text = |rule: &str| {
        format!(
            "architecture a\n  legend\n  system x\n    service z (tag slow)\n  actor y\n  y uses z (tag weak, line coral)\n  y reads x\nlook\n  {rule}\n  tag weak: line dotted\n  tag never: fill sand\n"
        )
    };
    let legend = samples(&svg(&text("tag slow: line ochre"), "a"));
    let words: Vec<&str> = legend.iter().map(|(word, _)| word.as_str()).collect();
    let sample =
        |word: &str| &legend.iter().find(|(own, _)| own == word).unwrap_or_else(|| panic!("{word} in {words:?}")).1;
    assert!(!words.contains(&"never"), "nothing in the picture has this tag");
    assert_eq!(words.iter().filter(|w| **w == "uses, reads").count(), 1, "verbs look as they do in general: {words:?}");
    assert!(sample("how deep it lies").is_empty() && sample("1").len() >= 2, "a frame with a figure");
    // A rule that gives a line changes no fill, and is shown on nothing but a box.
    let plain = samples(&svg(&text("tag slow: line thin"), "a"));
    let other = &plain.iter().find(|(word, _)| word == "slow").expect("the tag").1;
    let fill = |sample: &[String]| sample[0].split('|').nth(1).map(str::to_owned);
    assert_eq!((sample("slow").len(), fill(sample("slow"))), (1, fill(other)));
    assert!(sample("weak")[0].ends_with("0.1 4"), "{:?}", sample("weak"));
}

#[test]
fn a_symbol_of_a_legend_has_its_own_proportions() {
    let legend = samples(&svg("flow f\n  legend\n  begin \"a\"\n  prepare \"b\"\n  finish \"c\"\n", "f"));
    let (_, sample) = legend.iter().find(|(word, _)| word == "preparation").expect("the word");
    let outline = sample[0].split('|').next().expect("a path");
    let xs: std::collections::BTreeSet<&str> =
        outline.split(['M', 'L', 'Z']).filter_map(|p| p.split(' ').next()).filter(|x| !x.is_empty()).collect();
    assert_eq!(xs.len(), 4, "a hexagon and no diamond: {outline}");
}

#[test]
fn looks_hold_for_every_shape() {
    let drawn = |more: &str| {
        svg(&format!("architecture a\n  service x \"Gauge\"{more}\n    built \"Rust\"\n  x uses y\n"), "a")
    };
    for shape in ["", " (shape hexagon)", " (shape pill)", " (shape cloud)"] {
        let document = drawn(shape);
        let document = Document::parse(&document).expect("XML");
        let texts: Vec<(&str, bool)> = document
            .descendants()
            .filter(|n| n.has_tag_name("text"))
            .filter_map(|n| Some((n.text()?, n.attribute("font-weight") == Some("600"))))
            .collect();
        assert!(texts.contains(&("Gauge", true)) && texts.contains(&("Rust", false)), "{shape}: {texts:?}");
    }
    let lane = |look: &str| {
        svg(
            &format!("flow f\n  lane a \"A\"{look}\n  lane b\n  in a\n    begin \"x\"\n  in b\n    finish \"y\"\n"),
            "f",
        )
    };
    assert!(
        lane(" (line coral)") != lane("") && lane(" (line thick)") != lane("") && lane(" (line dashed)") != lane("")
    );
    // What is opened keeps its technology.
    let opened = svg("architecture a\n  system s \"S\"\n    built \"Kotlin\"\n    service x\n  x uses y\n", "a");
    assert!(opened.contains(">Kotlin</text>"));
}

#[test]
fn bounds_stand_above_each_other_and_members_hang() {
    let drawing = svg("flow f\n  \"a $sum_{i=1}^n x$\"\n", "f");
    let document = Document::parse(&drawing).expect("XML");
    let dx: Vec<f64> = document.descendants().filter_map(|n| n.attribute("dx")?.parse().ok()).collect();
    assert!(matches!(dx[..], [back, on] if back < -5.0 && on > 5.0), "{dx:?}");
    let drawing = svg(
        "classes c\n  class S\n    + readings(from: Time, to: Time, every: Duration): List<Reading> {ordered}\n",
        "c",
    );
    let document = Document::parse(&drawing).expect("XML");
    let lines: Vec<(f64, &str)> = document
        .descendants()
        .filter(|n| n.has_tag_name("text"))
        .filter_map(|n| Some((n.attribute("x")?.parse().ok()?, n.text()?)))
        .collect();
    let first = lines.iter().find(|(_, text)| text.starts_with("+ readings")).expect("the member");
    let second = lines.iter().find(|(_, text)| text.contains("List<Reading>")).expect("its second line");
    assert!(second.0 > first.0 + 8.0, "{lines:?}");
}

#[test]
fn states_have_their_marks() {
    let drawing = draw(
        "states s\n  begin becomes a\n  state a \"A\"\n    arriving do \"ring\"\n  choice c\n  a becomes c on \"t\"\n  c becomes finish when \"g\"\n",
    );
    let document = Document::parse(&drawing).expect("XML");
    let begin = role(of_kind(&document, "begin")[0], "frame")[0];
    assert!(begin.attribute("fill").is_some_and(|f| f != "none"), "the beginning is a filled point");
    assert_eq!(of_kind(&document, "finish")[0].descendants().filter(|n| n.has_tag_name("path")).count(), 2);
    assert!(letters(of_kind(&document, "state")[0]).contains("entry / ring"));
    assert!(letters(of_kind(&document, "choice")[0]).is_empty());
    let labels: Vec<String> = role(document.root_element(), "label").into_iter().map(letters).collect();
    assert_eq!(labels, ["t", "[g]"]);
}

#[test]
fn what_comes_from_another_file_says_so() {
    for reading in support::demo().iter().filter(|r| r.source.name == "storm_drill.bathy") {
        let studio = bathygram_core::pipeline::Studio::new();
        let drawing = support::draw(&studio, reading, &support::views(reading)[0]);
        let document = Document::parse(&drawing).expect("XML");
        let buoy =
            document.descendants().find(|n| n.attribute("data-element") == Some("field.buoy")).expect("the buoy");
        assert_eq!(buoy.attribute("data-file"), Some("architecture.bathy"));
        let message = document.descendants().find(|n| n.has_attribute("data-relation")).expect("a message");
        assert_eq!(message.attribute("data-file"), None, "messages are written here");
        assert_eq!(message.attribute("data-line"), Some("5"));
    }
}

#[test]
fn descriptions_tell_the_new_kinds() {
    for (text, shown) in [
        ("states s\n  begin becomes a\n  a becomes finish\n", "State machine with 3 states"),
        ("network n\n  a joins b\n", "Network with 2 elements"),
        ("tree t\n  item \"x\"\n    item \"y\"\n", "Tree with 2 items and 1 relation. x leads to y"),
    ] {
        assert!(draw(text).contains(shown), "{shown}");
    }
}

#[test]
fn what_a_relation_says_in_a_page_is_true() {
    let text = "architecture a\n  service x\n  service y\n  x uses y\n  x never uses y\n  remark on x \"old\"\n";
    let reading = support::good(text);
    let studio = bathygram_core::pipeline::Studio::new();
    let picture = reading.pictures().next().expect("a picture");
    let drawing = bathygram_core::pipeline::draw(&studio, &reading, &picture.view(), &Default::default());
    let page = bathygram_core::svg::write(&drawing, &studio, bathygram_core::svg::Place::Page(None));
    for words in ["x uses y", "x must not use y", "is a remark on x"] {
        assert!(page.contains(&format!("{words}\"")) || page.contains(&format!("{words}: ")), "{words}");
    }
}

//! The drawing contract (docs/drawing-contract.md), on the demo and on a gallery of small diagrams: what everything that reads
//! drawings relies on. Sizes are measured with the shipped fonts.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::measure::{Face, Fonts};
use bathygram_core::pipeline::Studio;
use roxmltree::{Document, Node};
use std::collections::{BTreeMap, BTreeSet};
use support::good;

/// Small diagrams: a name, and a text with one diagram.
const GALLERY: &[(&str, &str)] = &[
    ("one element", "architecture a\n  system x \"Only one\"\n"),
    ("nothing but a title", "architecture a \"Empty\"\n"),
    (
        "kinds",
        "architecture a\n  actor a\n  system b\n  service c\n  store d\n  queue e\n  device f\n  part g\n  party h\n",
    ),
    (
        "nested",
        "architecture a\n  system x\n    system y\n      system z\n        part p \"Deep\"\n  x uses w\n  p uses w \"far\"\n",
    ),
    (
        "to a container",
        "architecture a\n  system x\n    part p\n  w uses x \"outside in\"\n  x uses v \"inside out\"\n",
    ),
    ("itself", "architecture a\n  system x\n  x calls x \"again\"\n  x uses y\n"),
    ("both ways", "architecture a\n  x calls y \"there\"\n  y calls x \"back\"\n  x calls y \"there again\"\n"),
    (
        "long texts",
        "architecture a\n  system x \"A name that is much longer than any box should be wide\"\n    about \"A description that goes on and on\"\n    built \"Some technology with a long name\"\n  x uses y \"a label that needs more than one line to be read\" over \"a protocol\"\n",
    ),
    (
        "letters of the world",
        "architecture a\n  system x \"潮汐 🌊\"\n  system y \"Größe → ½ ≤ Ψ\"\n  x uses y \"مد وجزر\"\n",
    ),
    (
        "right",
        "architecture a\n  heading right\n  system x \"X\"\n    part p\n    part q\n    p uses q \"inside\"\n  q uses z \"outside\"\n  remark on z \"Beside it.\"\n",
    ),
    (
        "class",
        "classes c\n  class A (abstract)\n    + x: Int\n    + run()\n  interface I\n  enum E\n    one\n    two\n  record R\n  object o of A\n    x = 4\n  class B<T> extends A implements I\n  class C extends A\n  B owns 1..* C as parts \"holds\"\n  C shares * E\n  C knows 0..1 R\n  C joins o\n  B uses I\n",
    ),
    (
        "packages",
        "classes c\n  group \"One\"\n    class A\n  group \"Two\"\n    class B extends A\n    group \"Three\"\n      class D\n  D knows 1 A as first\n",
    ),
    (
        "tables",
        "classes c\n  table a\n    id: int (key)\n  table b\n    id: int (key)\n    a_id: int (refers a.id)\n  remark on b \"Grows.\"\n",
    ),
    (
        "states",
        "states s\n  begin becomes a\n  a becomes b on \"t\" when \"g\" do \"e\"\n  state b \"B\"\n    arriving do \"x\"\n    on \"u\" do \"v\"\n    begin becomes c\n    c becomes d on \"w\"\n    d becomes history\n  b becomes finish\n  b becomes a on \"back\"\n",
    ),
    (
        "marks of states",
        "states s\n  begin becomes k\n  choice k\n  together f\n  junction j\n  entry i \"in\"\n  exit o\n  k becomes f when \"g\"\n  k becomes j when \"h\"\n  f becomes a, b\n  j becomes i\n  i becomes o\n  state r\n    region \"One\"\n      begin becomes x\n    region \"Two\"\n      begin becomes y\n  a, b becomes r\n  r becomes finish\n",
    ),
    (
        "ends",
        "network n\n  a at \"1/0\" joins b at eth0 \"10G\"\n  b then c (both)\n  c joins d (end circle)\n  d then e (end cross)\n  e joins a\n",
    ),
    (
        "shapes",
        "network n\n  device a (shape ring)\n  device b (shape star)\n  device c (shape cloud)\n  device d (shape cylinder)\n  device e (shape flag)\n  step f\n  decide g\n  outcome h\n  a, b, c then d\n  e, f, g then h\n",
    ),
    (
        "tree",
        "tree t\n  decide \"Silt above 30 cm?\"\n    outcome \"Dredge, $c_1 = 40$\" when \"yes\"\n    chance \"Storms\" when \"no\"\n      outcome \"Wait\" when \"quiet\"\n      item \"Look *again*\" when \"rough\"\n",
    ),
    (
        "feet",
        "classes c (multiplicity crowfoot)\n  table a\n    id: int (key)\n  table b\n    id: int (key)\n    a_id: int (refers a.id)\n  1 a owns 0..* c \"has\"\n  0..1 c joins 1..* b\n",
    ),
    (
        "legend",
        "architecture a\n  legend\n  caption \"Words\"\n  system x (external)\n  store y (tag t)\n  actor z\n  z uses y\n  y sends x \"l\"\nlook\n  tag t: fill coral\n  picture: fill shell\n  sends: line dashed\n",
    ),
    (
        "forbidden",
        "architecture a\n  system x\n    part p\n  system y\n  x never uses y \"why\"\n  p uses y \"all the same\"\n",
    ),
    (
        "symbols",
        "flow f\n  begin \"A\"\n  step \"B\"\n  data \"C\"\n  document \"D\"\n  store \"E\"\n  manual \"F\"\n  enter \"G\"\n  prepare \"H\"\n  call \"I\"\n  display \"J\"\n  connector \"K\"\n  wait \"L\"\n  finish \"M\"\n",
    ),
    (
        "ways back",
        "flow f\n  step a \"A\"\n  step b \"B\"\n  decide \"Again?\"\n    when \"no\"\n      \"C\"\n    or \"to B\"\n      go b\n    or \"to A\"\n      go a \"all over\"\n    otherwise\n      finish \"Never\"\n  finish \"End\"\n",
    ),
    (
        "lanes",
        "flow f\n  lane x \"X\"\n  lane y \"Y\"\n  in x\n    \"A\"\n      aside document \"Log\"\n    \"B\" in y\n    together\n      \"C\"\n    and\n      \"D\" in y\n    finish \"E\"\n",
    ),
    (
        "lanes to the right",
        "flow f\n  heading right\n  lane x \"X\"\n  lane y \"Y\"\n  in x\n    \"A\"\n    \"B\" in y\n    \"C\"\n",
    ),
    (
        "upwards",
        "flow f\n  heading up\n  group g \"Group\"\n  begin \"A\"\n  in g\n    decide \"B?\"\n      when \"x\"\n        \"C\"\n      or \"y\"\n        \"D\"\n    finish \"E\"\n",
    ),
    (
        "messages",
        "sequence s\n  a calls b \"call\" returning \"reply\"\n    does \"work\"\n      sends c \"more\"\n    creates d \"make\"\n  found sends a \"from nowhere\"\n  c sends lost \"to nowhere\"\n  a destroys d\n  a calls a \"oneself\" returning \"done\"\n",
    ),
    (
        "fragments",
        "sequence s\n  a calls b\n    when \"one\"\n      repeat \"two\"\n        together\n          sends c \"x\"\n        and \"three\"\n          sends a \"y\"\n    or \"four\"\n      leave when \"five\"\n        sends c \"z\"\n  undivided\n    b sends c\n  in order\n    c sends b\n  never\n    c sends a\n",
    ),
    (
        "between messages",
        "sequence s (numbered)\n  group \"Box\"\n    party a\n    party b\n  a sends b \"one\"\n  phase \"Later\"\n  b sends c \"two\"\n  pause \"a tide\"\n  pause\n  remark on a \"left\" (left)\n  remark on c \"right\"\n  remark across a, b \"across\"\n  see other across b, c \"Other\"\n",
    ),
    (
        "overlap",
        "sequence s\n  a calls b \"first\"\n  a calls b \"second\"\n  b answers a \"one\"\n  b answers a \"two\"\n",
    ),
];

/// Where a group of the drawing lies, and what it says of itself.
fn groups<'a>(document: &'a Document<'a>, attribute: &str) -> Vec<Node<'a, 'a>> {
    document.descendants().filter(|n| n.attribute(attribute).is_some()).collect()
}

fn numbers(path: &str) -> Vec<f64> {
    path.split(|c: char| c.is_ascii_alphabetic() || c == ' ')
        .filter(|w| !w.is_empty())
        .map(|w| w.parse().expect("a number"))
        .collect()
}

/// The box around a path's points, control points included.
fn bounds(path: &str) -> [f64; 4] {
    let v = numbers(path);
    let x = || v.iter().step_by(2).copied();
    let y = || v.iter().skip(1).step_by(2).copied();
    [
        x().fold(f64::INFINITY, f64::min),
        y().fold(f64::INFINITY, f64::min),
        x().fold(0.0, f64::max),
        y().fold(0.0, f64::max),
    ]
}

fn role<'a>(node: Node<'a, 'a>, role: &str) -> Option<Node<'a, 'a>> {
    node.descendants().find(|n| n.attribute("data-role") == Some(role) && owner(*n) == Some(node))
}

/// The nearest element or relation around a node.
fn owner<'a>(node: Node<'a, 'a>) -> Option<Node<'a, 'a>> {
    node.ancestors().skip(1).find(|n| n.attribute("data-element").is_some() || n.attribute("data-relation").is_some())
}

fn check(name: &str, svg: &str) {
    let document = Document::parse(svg).unwrap_or_else(|e| panic!("{name}: {e}"));
    let root = document.root_element();
    root_says_what_it_is(name, root);
    ids_are_unique(name, &document);
    elements_are_whole(name, &document);
    relations_are_whole(name, &document);
    texts_fit(name, &document, root);
    nothing_reaches_outside(name, &document);
}

fn root_says_what_it_is(name: &str, root: Node<'_, '_>) {
    assert_eq!(root.attribute("role"), Some("img"), "{name}");
    let mut children = root.children().filter(|n| n.is_element());
    for tag in ["title", "desc"] {
        let child = children.next().expect("a child");
        assert_eq!(child.tag_name().name(), tag, "{name}");
        assert!(child.text().is_some_and(|t| !t.trim().is_empty()), "{name}: {tag} is empty");
        assert!(
            root.attribute("aria-labelledby").is_some_and(|l| l.split(' ').any(|id| Some(id) == child.attribute("id")))
        );
    }
    let last = root.children().rfind(|n| n.is_element()).expect("a child");
    assert_eq!(last.tag_name().name(), "metadata", "{name}: the source comes last");
    let size = |a: &str| root.attribute(a).expect("a size").parse::<f64>().expect("a number");
    assert_eq!(root.attribute("viewBox"), Some(format!("0 0 {} {}", size("width"), size("height")).as_str()), "{name}");
}

fn ids_are_unique(name: &str, document: &Document<'_>) {
    for attribute in ["data-element", "data-relation"] {
        let mut seen = BTreeSet::new();
        for group in groups(document, attribute) {
            let id = group.attribute(attribute).expect("an id");
            assert!(!id.is_empty() && seen.insert(id), "{name}: {id:?} twice");
        }
    }
}

fn elements_are_whole(name: &str, document: &Document<'_>) {
    let mut frames: BTreeMap<&str, ([f64; 4], Node<'_, '_>)> = BTreeMap::new();
    for group in groups(document, "data-element") {
        let id = group.attribute("data-element").expect("an id");
        assert!(group.attribute("data-kind").is_some(), "{name}: {id} has no kind");
        let line: u32 = group.attribute("data-line").and_then(|l| l.parse().ok()).expect("a line");
        assert!(line >= 1, "{name}: {id} has no line");
        let frame = role(group, "frame").unwrap_or_else(|| panic!("{name}: {id} has no frame"));
        frames.insert(id, (bounds(frame.attribute("d").expect("a path")), group));
    }
    for (id, (own, group)) in &frames {
        let Some(parent) = group.attribute("data-parent") else { continue };
        let (outer, holder) =
            frames.get(parent).unwrap_or_else(|| panic!("{name}: {id} lies in {parent}, which is not there"));
        if group.attribute("data-kind") == Some("activation") {
            continue;
        }
        assert_eq!(holder.attribute("data-container"), Some("true"), "{name}: {parent} holds {id}");
        let inside = own[0] >= outer[0] && own[1] >= outer[1] && own[2] <= outer[2] && own[3] <= outer[3];
        assert!(inside, "{name}: {id} {own:?} leaves {parent} {outer:?}");
    }
}

fn relations_are_whole(name: &str, document: &Document<'_>) {
    let elements: BTreeSet<&str> =
        groups(document, "data-element").iter().filter_map(|g| g.attribute("data-element")).collect();
    for group in groups(document, "data-relation") {
        let id = group.attribute("data-relation").expect("an id");
        for end in ["data-from", "data-to"] {
            let element = group.attribute(end).expect("an end");
            assert!(elements.contains(element), "{name}: {id} ends at {element}, which is not there");
        }
        let line = role(group, "line").unwrap_or_else(|| panic!("{name}: {id} has no line"));
        assert!(numbers(line.attribute("d").expect("a path")).len() >= 4, "{name}: {id} is a point");
    }
}

/// Texts lie inside the frame of their element, and everything inside the picture.
fn texts_fit(name: &str, document: &Document<'_>, root: Node<'_, '_>) {
    let fonts = Fonts::new();
    let number = |n: Node<'_, '_>, a: &str| n.attribute(a).and_then(|v| v.parse::<f64>().ok()).unwrap_or(0.0);
    let (w, h) = (number(root, "width"), number(root, "height"));
    for text in document.descendants().filter(|n| n.tag_name().name() == "text") {
        let size = number(text, "font-size");
        assert!(size >= 11.0, "{name}: text of {size} px");
        let spans: Vec<Node<'_, '_>> = text.children().filter(|c| c.tag_name().name() == "tspan").collect();
        let parts = if spans.is_empty() { vec![text] } else { spans };
        let width: f64 = parts.iter().map(|p| fonts.width(p.text().unwrap_or_default(), face(*p), size)).sum();
        let x = number(text, "x")
            - match text.attribute("text-anchor") {
                Some("middle") => width / 2.0,
                Some("end") => width,
                _ => 0.0,
            };
        let y = number(text, "y");
        let shown: String = text.descendants().filter_map(|n| n.text()).collect();
        assert!(x >= 0.0 && x + width <= w && y - size * 0.7 >= 0.0 && y <= h, "{name}: {shown:?} leaves the picture");
        let Some(owner) = owner(text).filter(|o| o.attribute("data-element").is_some()) else { continue };
        let frame = bounds(role(owner, "frame").and_then(|f| f.attribute("d")).expect("a frame"));
        let fits = x >= frame[0] - 1.0
            && x + width <= frame[2] + 1.0
            && y <= frame[3] + 1.0
            && y - size * 0.7 >= frame[1] - 1.0;
        assert!(fits, "{name}: {shown:?} at {x} {y} leaves {frame:?}");
    }
}

fn face(node: Node<'_, '_>) -> Face {
    let mono = node.attribute("font-family").is_some_and(|f| f.contains("Mono"));
    match (mono, node.attribute("font-weight").is_some(), node.attribute("font-style").is_some()) {
        (true, ..) => Face::Mono,
        (_, true, true) => Face::BoldItalic,
        (_, true, false) => Face::Bold,
        (_, false, true) => Face::Italic,
        _ => Face::Regular,
    }
}

fn nothing_reaches_outside(name: &str, document: &Document<'_>) {
    for node in document.descendants().filter(Node::is_element) {
        assert!(
            !["script", "foreignObject", "image", "use", "a"].contains(&node.tag_name().name()),
            "{name}: {}",
            node.tag_name().name()
        );
        for attribute in node.attributes() {
            assert!(!attribute.name().starts_with("on") && attribute.name() != "href", "{name}: {}", attribute.name());
        }
    }
    let style =
        document.descendants().find(|n| n.tag_name().name() == "style").and_then(|n| n.text()).unwrap_or_default();
    assert!(style.split("url(").skip(1).all(|u| u.starts_with("data:font/woff2;base64,")), "{name}: fonts are inside");
}

#[test]
fn the_gallery_keeps_the_contract() {
    let studio = Studio::new();
    for (name, text) in GALLERY {
        let reading = good(text);
        for picture in support::views(&reading) {
            check(name, &support::draw(&studio, &reading, &picture));
        }
    }
}

#[test]
fn the_gallery_keeps_the_contract_in_every_heading() {
    let studio = Studio::new();
    for (name, text) in GALLERY.iter().filter(|(_, t)| !t.starts_with("sequence") && !t.contains("heading")) {
        for heading in ["up", "right", "left"] {
            let (first, rest) = text.split_once('\n').expect("lines");
            let reading = good(&format!("{first}\n  heading {heading}\n{rest}"));
            check(&format!("{name}, {heading}"), &support::draw(&studio, &reading, &support::views(&reading)[0]));
        }
    }
}

#[test]
fn the_demo_keeps_the_contract() {
    let studio = Studio::new();
    let mut pictures = 0;
    for reading in support::demo() {
        assert!(reading.diagnostics.is_empty(), "{:?}", reading.diagnostics);
        for picture in support::views(&reading) {
            check(picture.name(), &support::draw(&studio, &reading, &picture));
            pictures += 1;
        }
    }
    assert!(pictures >= 17, "{pictures} pictures");
}

#[test]
fn the_same_text_gives_the_same_bytes_in_a_new_studio() {
    for (name, text) in GALLERY {
        let reading = good(text);
        let picture = &support::views(&reading)[0];
        let (first, second) =
            (support::draw(&Studio::new(), &reading, picture), support::draw(&Studio::new(), &reading, picture));
        assert_eq!(first, second, "{name}");
    }
}

#[test]
fn the_description_tells_the_picture_in_words() {
    let svg = support::svg(
        "flow f \"F\"\n  \"One\"\n  decide \"Two?\"\n    when \"yes\"\n      \"Three\"\n    or \"no\"\n      finish \"Four\"\n",
        "f",
    );
    let document = Document::parse(&svg).expect("XML");
    let desc = document.descendants().find(|n| n.tag_name().name() == "desc").and_then(|n| n.text()).expect("words");
    assert_eq!(
        desc,
        "Flow chart with 4 steps and 3 relations. One leads to Two?; Two? leads to Three (yes); Two? leads to Four (no)."
    );
}

#[test]
fn hidden_elements_take_room_and_are_not_drawn() {
    let shown = support::svg("architecture a\n  system x\n  system y\n  x uses y (hidden)\n", "a");
    let hidden = support::svg("architecture a\n  system x\n  system y (hidden)\n  x uses y (hidden)\n", "a");
    let size = |svg: &str| svg.split("viewBox=\"").nth(1).and_then(|s| s.split('"').next()).map(str::to_owned);
    assert_eq!(size(&shown), size(&hidden));
    assert!(shown.contains("data-element=\"y\"") && !hidden.contains("data-element=\"y\""));
    let dangling = support::svg("architecture a\n  system y (hidden)\n  x uses y\n", "a");
    assert!(!dangling.contains("data-relation"), "a line to what is hidden is hidden");
}

//! What the tests of the core share: reading a text, and telling a model in a few words.

#![allow(dead_code, reason = "each test file uses a part of it")]
#![allow(clippy::disallowed_methods, reason = "tests may read files")]

use bathygram_core::container;
use bathygram_core::diag::Diagnostic;
use bathygram_core::layout::{self, Graph, Laid};
use bathygram_core::model::{Diagram, ElementId, Event, Relation};
use bathygram_core::pipeline::{self, DrawOptions, Reading, Setting, Studio};
use bathygram_core::scene::{Drawing, Places};
use bathygram_core::source::Source;
use bathygram_core::source::world::{Unopened, World};
use bathygram_core::views::View;
use bathygram_core::vocabulary::{DIAGRAMS, PICTURE, SHEET};
use proptest::prelude::*;
use std::fmt::Write;

/// Reads a text, errors included.
pub(crate) fn read(text: &str) -> Reading {
    pipeline::read(Source::new("t.bathy", text), "t", &Setting::default())
}

/// Reads a text that has no errors.
pub(crate) fn good(text: &str) -> Reading {
    let reading = read(text);
    assert!(!reading.has_errors(), "{:#?}", reading.diagnostics);
    reading
}

/// The first diagram of a text without errors.
pub(crate) fn diagram(text: &str) -> Diagram {
    good(text).document.diagrams.remove(0)
}

/// The codes of everything that was found in order, but for what only a reviewer would ask about.
pub(crate) fn codes(text: &str) -> Vec<&'static str> {
    const READ: &[&str] = &[
        "one-armed-decision",
        "nothing-flows-here",
        "rule-of-nothing",
        "tag-of-nothing",
        "unrelated-step",
        "step-of-nobody",
    ];
    let counts = |code: &&str| READ.contains(code) || bathygram_core::check::rule(code).is_none();
    read(text).diagnostics.iter().map(|d| d.code).filter(counts).collect()
}

/// The SVG of one picture of a text.
pub(crate) fn svg(text: &str, name: &str) -> String {
    let reading = good(text);
    let picture = reading.pictures().find(|p| p.name == name).expect("a picture of that name");
    draw(&Studio::new(), &reading, &picture.view())
}

/// What all pictures of a file show, as diagrams.
pub(crate) fn pictures(reading: &Reading) -> Vec<Diagram> {
    reading.pictures().map(|p| p.view().diagram).collect()
}

/// A finding as a sentence.
pub(crate) fn sentence(reading: &Reading, found: &Diagnostic) -> String {
    found.words(&reading.sources()).sentence
}

/// The views of all pictures of a file.
pub(crate) fn views(reading: &Reading) -> Vec<View> {
    reading.pictures().map(|p| p.view()).collect()
}

/// A view as SVG text.
pub(crate) fn draw(studio: &Studio, reading: &Reading, view: &View) -> String {
    draw_near(studio, reading, view, None)
}

/// A view drawn.
pub(crate) fn drawing(studio: &Studio, reading: &Reading, view: &View) -> Drawing {
    pipeline::draw(studio, reading, view, &DrawOptions::default())
}

/// A view as SVG text, near where an earlier picture, an SVG text, has its elements.
pub(crate) fn draw_near(studio: &Studio, reading: &Reading, view: &View, earlier: Option<&str>) -> String {
    let places = earlier.and_then(container::read_places).map(|text| Places::from_text(&text));
    let options = DrawOptions { earlier: places.as_ref(), ..DrawOptions::default() };
    let drawing = pipeline::draw(studio, reading, view, &options);
    studio.svg(&drawing, &reading.provenance(view.name()))
}

/// What the layout of a view is given, and what it gives back.
pub(crate) fn place(studio: &Studio, reading: &Reading, view: &View, earlier: Option<&str>) -> Option<(Graph, Laid)> {
    let places = earlier.and_then(container::read_places).map(|text| Places::from_text(&text));
    let options = DrawOptions { earlier: places.as_ref(), ..DrawOptions::default() };
    let graph = pipeline::layout_input(studio, reading, view, &options)?;
    let laid = layout::place(&graph);
    Some((graph, laid))
}

/// Elements, relations and events, a line each.
pub(crate) fn outline(diagram: &Diagram) -> String {
    let mut out = String::new();
    for (id, element) in diagram.ids() {
        let depth = diagram.ancestors(id).count();
        let label = element.label.as_ref().map_or(String::new(), |l| format!(" \"{}\"", l.text()));
        let implicit = if element.implicit { " (mentioned)" } else { "" };
        let place = element.parent.map_or(String::new(), |p| format!(" in {}", diagram.element(p).key));
        let _ = writeln!(out, "{}{} {}{label}{place}{implicit}", "  ".repeat(depth), element.kind.word(), element.key);
    }
    for relation in &diagram.relations {
        let _ = writeln!(out, "{}", listed(diagram, relation));
    }
    events(diagram, diagram.events(), 0, &mut out);
    out
}

fn listed(diagram: &Diagram, relation: &Relation) -> String {
    let key = |id: ElementId| diagram.element(id).key.clone();
    let ends: Vec<String> = relation.ends.iter().map(|e| e.shown()).collect();
    let mut out = format!("{} {} {}", key(relation.from), relation.verb.word(), key(relation.to));
    for (word, text) in [("from", &ends[0]), ("to", &ends[1])] {
        if !text.is_empty() {
            let _ = write!(out, " {word}[{text}]");
        }
    }
    for (word, label) in [("", &relation.label), (" start", &relation.start), (" over", &relation.over)] {
        if let Some(label) = label {
            let _ = write!(out, "{word} \"{}\"", label.text());
        }
    }
    out
}

fn events(diagram: &Diagram, items: &[Event], depth: usize, out: &mut String) {
    let pad = "  ".repeat(depth);
    let text = |l: &Option<bathygram_core::syntax::Label>| l.as_ref().map_or("-".to_owned(), |l| l.text());
    for item in items {
        let _ = match item {
            Event::Message { relation, body, returning, guard, within } => {
                let _ = write!(out, "{pad}> {}", listed(diagram, diagram.relation(*relation)));
                for (word, label) in [("when", guard), ("within", within), ("returning", returning)] {
                    if label.is_some() {
                        let _ = write!(out, " {word} {}", text(label));
                    }
                }
                let _ = writeln!(out);
                events(diagram, body, depth + 1, out);
                Ok(())
            }
            Event::Fragment { operator, operands, .. } => {
                for operand in operands {
                    let _ = writeln!(out, "{pad}{} [{}]", operator.word(), text(&operand.guard));
                    events(diagram, &operand.items, depth + 1, out);
                }
                Ok(())
            }
            Event::Reference { label, across, .. } => writeln!(out, "{pad}ref {} over {}", label.text(), across.len()),
            Event::Phase { label, .. } => writeln!(out, "{pad}phase {}", label.text()),
            Event::Pause { label, .. } => writeln!(out, "{pad}pause {}", text(label)),
            Event::Remark { across, label, left, .. } => {
                writeln!(out, "{pad}remark {} over {}{}", label.text(), across.len(), if *left { " left" } else { "" })
            }
        };
    }
}

/// The words that begin a diagram.
pub(crate) const BLOCKS: &[&str] = &["sequence", "classes", "flow", "states", "architecture", "network", "tree"];

/// Words that are no words of the vocabulary.
const OTHERS: &[&str] = &[
    "a",
    "b",
    "c",
    "core.a",
    "`odd name`",
    "\"Label\"",
    "\"open",
    "\"$h_max <= 2$ *x*\"",
    "0..*",
    "1",
    "(external)",
    "(fill coral",
    "(shape star, tag x)",
    ", ",
    "(hidden)",
    "x:",
    "+ y()",
    "- z : T {q}",
    "//",
    "// said",
    "\"\"\"",
    "..",
    "p1..p3",
    "#",
    "->",
    "{",
    "<T>",
    "=",
    ":",
    "begin",
    "finish",
    "history",
    "lost",
    "found",
    "crowfoot",
    "hosts",
    "of",
    "120",
    "40",
    "look",
    "sheet",
    "above",
    "\"\"\"a block\"\"\"",
];

/// Every word of the language, and others.
fn words() -> Vec<&'static str> {
    let vocabularies = DIAGRAMS.iter().copied().chain([&SHEET]);
    let known = vocabularies.flat_map(|v| v.starters().chain(v.clauses.iter().copied()));
    known.chain(PICTURE.iter().copied()).chain(OTHERS.iter().copied()).collect()
}

/// A text of random words in random indentation, begun by a block.
pub(crate) fn soup() -> impl Strategy<Value = String> {
    let line = (0usize..5, prop::collection::vec(prop::sample::select(words()), 1..7));
    (prop::sample::select(BLOCKS), prop::collection::vec(line, 0..24)).prop_map(|(block, lines)| {
        let body: String =
            lines.iter().map(|(depth, words)| format!("{}{}\n", "  ".repeat(depth + 1), words.join(" "))).collect();
        format!("{block} a\n{body}sheet t of a\n  open a\n")
    })
}

/// Lines that mean something in one kind of block or another.
const LINES: &[&str] = &[
    "service a \"A\" (icon bell)",
    "system b",
    "actor c \"C\"",
    "a uses b \"reads\" over \"SQL\" (line dashed thick)",
    "a sends b \"x\" returning \"y\"",
    "calls c \"z\"",
    "when \"w\"",
    "otherwise",
    "or \"o\"",
    "repeat \"r\"",
    "does \"d\"",
    "phase \"p\"",
    "class A<T> extends B",
    "+ name: Text",
    "- at : Time = 4",
    "raise(level: Level): Warning [0..1]",
    "section \"S\"",
    "1 A owns 0..* B as bs \"l\"",
    "\"step\"",
    "decide \"d?\"",
    "go \"step\" \"again\"",
    "together",
    "and",
    "begin becomes a",
    "a becomes finish on \"t\" when \"g\" do \"e\"",
    "state a \"A\"",
    "arriving do \"x\"",
    "a joins b at \"1/0\" \"10G\"",
    "a then b (both)",
    "item \"i\" when \"w\"",
    "outcome \"o, $c = 5$\" when \"q\"",
    "heading right",
    "row a, b,",
    "c",
    "order a, b",
    "place a right of b",
    "spacing 1.5",
    "legend",
    "caption \"c\"",
    "about \"what\"",
    "tag x y",
    "remark on a \"r\"",
    "// a comment",
    "",
    "\"\"\"one",
    "two \"\"\"",
    "lamp1..lamp3 uses a",
    "runs a (count 3)",
    "host h",
    "tag t: fill sand, line thin",
    "picture: fill shell",
    "depth 2",
    "focus a 2",
    "hide tag x",
    "a.b uses c // trailing",
    "id: bigint (key)",
    "key id, at",
];

/// Texts of such lines, in random nesting, with rows and spaces as people leave them.
pub(crate) fn written() -> impl Strategy<Value = String> {
    let line = (
        0usize..4,
        prop::sample::select(LINES),
        prop::sample::select(&["\n", "\n", "\n\n", " \n", "\r\n", "  // said\n"][..]),
    );
    let block = prop::sample::select(BLOCKS);
    let body = (block, prop::collection::vec(line, 0..12), prop::sample::select(&["  ", "    ", "\t"][..]));
    prop::collection::vec(body, 1..4).prop_map(|blocks| {
        let mut text = String::new();
        for (i, (block, lines, indent)) in blocks.iter().enumerate() {
            text += &format!("{block} {} \"Title\"\n", ["a", "b", "d", "e"][i % 4]);
            for (depth, line, end) in lines {
                text += &format!("{}{line}{end}", indent.repeat(depth + 1));
            }
        }
        text
    })
}

/// Everything that a text means and every error in it, without places. Warnings are raised only where the
/// indentation has no errors, which formatting repairs.
pub(crate) fn meaning(text: &str) -> String {
    let reading = read(text);
    let of_form = ["uneven-indent", "indented-block", "too-deep"];
    let is_error = |code: &&str| !of_form.contains(code) && bathygram_core::check::rule(code).is_none();
    let codes: Vec<&str> = reading.diagnostics.iter().map(|d| d.code).filter(is_error).collect();
    let listed = format!("{:#?}\n{codes:#?}", reading.document);
    let is_place = |line: &&str| {
        let line = line.trim();
        let numbers = line.trim_end_matches(',').chars().all(|c| c.is_ascii_digit());
        numbers || ["start: ", "end: ", "line: "].iter().any(|w| line.starts_with(w))
    };
    listed.lines().filter(|l| !is_place(l)).map(|l| format!("{l}\n")).collect()
}

/// All files of a folder of the repository with an ending, with their texts.
pub(crate) fn files(folder: &str, ending: &str) -> Vec<(String, String)> {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join(folder);
    let mut paths: Vec<_> = std::fs::read_dir(root).expect(folder).flatten().map(|e| e.path()).collect();
    paths.sort();
    let wanted = paths.into_iter().filter(|p| p.extension().is_some_and(|e| e == ending));
    wanted.map(|p| (p.display().to_string(), std::fs::read_to_string(&p).expect("a text"))).collect()
}

/// Files by name, and their texts.
pub(crate) struct Folder {
    pub(crate) files: Vec<(String, String)>,
}

impl World for Folder {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        let found = self.files.iter().find(|(n, _)| n == name);
        found.map(|(_, text)| text.clone()).ok_or(Unopened::Missing)
    }
}

/// The demo's files.
struct Demo;

impl World for Demo {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/tidewatch").join(name);
        std::fs::read_to_string(path).map_err(|_| Unopened::Missing)
    }
}

/// Every text of the demo, read.
pub(crate) fn demo() -> Vec<Reading> {
    let texts = files("../../demo/tidewatch", "bathy");
    let name = |path: &str| path.rsplit('/').next().unwrap_or_default().to_owned();
    let setting = Setting { world: &Demo, ..Setting::default() };
    texts.iter().map(|(path, text)| pipeline::read(Source::new(name(path), text.as_str()), "t", &setting)).collect()
}

//! GraphML: a drawing as a graph, for programs that work with graphs. Elements are nodes in one flat graph, with the element that
//! they lie in as data, since few programs read graphs in graphs; every edge has an id, so that several may lead from one node
//! to another.

use crate::parts::{TextPart, parts};
use bathygram_core::container::{self, Provenance};
use bathygram_core::markup::escape;
use bathygram_core::measure::Fonts;
use bathygram_core::scene::Drawing;
use std::collections::BTreeSet;
use std::fmt::Write;

/// What is known of nodes, then of edges: name and type.
const NODE: [(&str, &str); 10] = [
    ("label", "string"),
    ("kind", "string"),
    ("inside", "string"),
    ("text", "string"),
    ("x", "double"),
    ("y", "double"),
    ("width", "double"),
    ("height", "double"),
    ("line", "int"),
    ("file", "string"),
];
const EDGE: [(&str, &str); 7] = [
    ("label", "string"),
    ("says", "string"),
    ("ends", "string"),
    ("head", "boolean"),
    ("step", "string"),
    ("line", "int"),
    ("file", "string"),
];

/// Writes a drawing as GraphML.
pub fn write(drawing: &Drawing, fonts: &Fonts, provenance: &Provenance<'_>) -> String {
    let (elements, relations) = parts(&drawing.scene, fonts);
    let mut out = String::from(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<graphml xmlns=\"http://graphml.graphdrawing.org/xmlns\" \
         xmlns:xsi=\"http://www.w3.org/2001/XMLSchema-instance\" xsi:schemaLocation=\"http://graphml.graphdrawing.org/xmlns \
         http://graphml.graphdrawing.org/xmlns/1.0/graphml.xsd\">\n",
    );
    for (domain, keys) in [("node", &NODE[..]), ("edge", &EDGE[..])] {
        for (name, kind) in keys {
            let _ = writeln!(
                out,
                "  <key id=\"{domain}_{name}\" for=\"{domain}\" attr.name=\"{name}\" attr.type=\"{kind}\"/>"
            );
        }
    }
    let (name, title) = (escape(provenance.name), escape(&drawing.scene.title));
    let _ = writeln!(out, "  <graph id=\"{name}\" edgedefault=\"directed\">\n    <desc>{title}</desc>");
    // Activations are drawn on what they belong to, and are no nodes of their own.
    let nodes: Vec<_> = elements.into_iter().filter(|element| element.kind != "activation").collect();
    let keys: BTreeSet<&str> = nodes.iter().map(|node| node.key).collect();
    for node in &nodes {
        let _ = writeln!(out, "    <node id=\"{}\">", escape(node.key));
        let mut data = |name: &str, value: &str| datum(&mut out, "node", name, value);
        data("label", node.says);
        data("kind", node.kind);
        data("inside", node.inside.unwrap_or_default());
        data("text", &joined(&node.texts));
        for (name, value) in
            [("x", node.place.x), ("y", node.place.y), ("width", node.place.w), ("height", node.place.h)]
        {
            data(name, &format!("{}", (value * 100.0).round() / 100.0));
        }
        data("line", &node.line.to_string());
        data("file", node.file.unwrap_or_default());
        out.push_str("    </node>\n");
    }
    let mut ids = BTreeSet::new();
    for edge in relations.iter().filter(|edge| keys.contains(edge.from) && keys.contains(edge.to)) {
        let mut id = edge.key.to_owned();
        while !ids.insert(id.clone()) {
            id.push('+');
        }
        let [id, from, to] = [&id, edge.from, edge.to].map(escape);
        let _ = writeln!(out, "    <edge id=\"{id}\" source=\"{from}\" target=\"{to}\">");
        let mut data = |name: &str, value: &str| datum(&mut out, "edge", name, value);
        data("label", &joined(&edge.label));
        data("says", edge.says);
        data("ends", &joined(&edge.ends));
        data("head", if edge.has_head { "true" } else { "false" });
        data("step", &edge.steps.iter().map(u32::to_string).collect::<Vec<_>>().join(" "));
        data("line", &edge.line.to_string());
        data("file", edge.file.unwrap_or_default());
        out.push_str("    </edge>\n");
    }
    // A processing instruction, since GraphML has no room for what it does not know.
    let _ = write!(out, "  </graph>\n</graphml>\n<?bathygram {}?>\n", container::metadata(provenance, "").trim_end());
    container::sealed(out)
}

fn datum(out: &mut String, domain: &str, name: &str, value: &str) {
    if !value.is_empty() {
        let _ = writeln!(out, "      <data key=\"{domain}_{name}\">{}</data>", escape(value));
    }
}

fn joined(texts: &[TextPart]) -> String {
    texts.iter().map(|text| text.text.trim()).collect::<Vec<_>>().join(" ")
}

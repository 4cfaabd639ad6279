//! GraphML (graphml.graphdrawing.org, 1.1): nodes, edges, and what `data` says of them, read piece by piece.

use super::{Graph, broken_at};
use crate::finding::{Broken, Seen};
use quick_xml::events::{BytesStart, Event};
use quick_xml::reader::Reader;
use std::cell::Cell;
use std::collections::HashMap;
use std::io::{BufRead, Read};
use std::rc::Rc;
use std::sync::Arc;

/// Elements may be nested this deep; a node in a node takes two of them, and a text is nested 100 lines deep at most.
const DEEPEST: usize = 120;

/// A reader that counts lines.
struct Counted<R> {
    inner: R,
    line: Rc<Cell<u32>>,
}

impl<R: BufRead> Read for Counted<R> {
    fn read(&mut self, out: &mut [u8]) -> std::io::Result<usize> {
        let n = self.fill_buf()?.read(out)?;
        self.consume(n);
        Ok(n)
    }
}

impl<R: BufRead> BufRead for Counted<R> {
    fn fill_buf(&mut self) -> std::io::Result<&[u8]> {
        self.inner.fill_buf()
    }

    fn consume(&mut self, n: usize) {
        if let Ok(bytes) = self.inner.fill_buf() {
            let lines = bytes[..n].iter().filter(|byte| **byte == b'\n').count();
            self.line.set(self.line.get() + lines as u32);
        }
        self.inner.consume(n);
    }
}

/// What a key is about.
struct Key {
    name: Vec<u8>,
    default: Option<Vec<u8>>,
    of_nodes: bool,
}

/// A node or an edge that is read.
struct Open {
    /// The node, or both ends of the edge.
    ids: Vec<Vec<u8>>,
    is_node: bool,
    is_directed: bool,
    data: Vec<(Vec<u8>, Vec<u8>)>,
    seen: Seen,
    is_told: bool,
    number: Option<usize>,
}

/// Reads a graph.
///
/// # Errors
/// If it is no GraphML.
pub(super) fn read(bytes: impl BufRead, file: &Arc<str>, graph: &mut Graph<'_>) -> Result<(), Broken> {
    let line = Rc::new(Cell::new(1));
    let mut xml = Reader::from_reader(Counted { inner: bytes, line: line.clone() });
    let mut reading = Reading {
        file,
        line,
        keys: HashMap::new(),
        open: Vec::new(),
        directed: vec![true],
        text: None,
        key: None,
        depth: 0,
        graph,
        is_graph: false,
    };
    let mut buffer = Vec::new();
    loop {
        let event = xml
            .read_event_into(&mut buffer)
            .map_err(|why| reading.broken(&format!("this is no whole GraphML: {why}")))?;
        match event {
            Event::Start(tag) => reading.begin(&tag)?,
            Event::Empty(tag) => {
                reading.begin(&tag)?;
                reading.end(tag.local_name().as_ref())?;
            }
            Event::End(tag) => reading.end(tag.local_name().as_ref())?,
            Event::Text(text) => {
                reading.say(text.xml_content(quick_xml::XmlVersion::Implicit1_0).as_bytes());
            }
            Event::GeneralRef(name) => {
                let letter = name.resolve_char_ref().ok().flatten().map(String::from);
                let known = letter.or_else(|| quick_xml::escape::resolve_predefined_entity(&name).map(str::to_owned));
                reading.say(known.unwrap_or_default().as_bytes());
            }
            Event::CData(text) => reading.say(text.as_bytes()),
            Event::Eof => break,
            _ => {}
        }
        buffer.clear();
    }
    if !reading.is_graph {
        return Err(reading.broken("there is no `graph` in it"));
    }
    if reading.depth > 0 {
        return Err(reading.broken("the file ends in the middle of a graph"));
    }
    Ok(())
}

struct Reading<'a, 'g> {
    file: &'a Arc<str>,
    line: Rc<Cell<u32>>,
    keys: HashMap<Vec<u8>, Key>,
    open: Vec<Open>,
    /// Whether the edges of each graph around are directed.
    directed: Vec<bool>,
    text: Option<Vec<u8>>,
    /// The key whose default or whose data is read.
    key: Option<Vec<u8>>,
    depth: usize,
    graph: &'a mut Graph<'g>,
    is_graph: bool,
}

impl Reading<'_, '_> {
    fn seen(&self) -> Seen {
        Seen { file: self.file.clone(), sheet: None, line: self.line.get(), column: None }
    }

    fn broken(&self, why: &str) -> Broken {
        broken_at(self.seen(), why)
    }

    fn say(&mut self, bytes: &[u8]) {
        if let Some(text) = &mut self.text {
            text.extend_from_slice(bytes);
        }
    }

    fn begin(&mut self, tag: &BytesStart<'_>) -> Result<(), Broken> {
        self.depth += 1;
        if self.depth > DEEPEST {
            return Err(self.broken(&format!("elements are nested more than {DEEPEST} deep")));
        }
        let get = |name: &str| {
            let found = tag.try_get_attribute(name).ok().flatten()?;
            // What is no entity of XML stays as it is written.
            let plain = found.normalized_value(quick_xml::XmlVersion::Implicit1_0).unwrap_or(found.value.clone());
            Some(plain.into_owned().into_bytes())
        };
        match tag.local_name().as_ref() {
            "key" => {
                let id = get("id").unwrap_or_default();
                let name = get("attr.name").unwrap_or_else(|| id.clone());
                let of_nodes = get("for").is_none_or(|what| what == b"node" || what == b"all");
                self.keys.insert(id.clone(), Key { name, default: None, of_nodes });
                self.key = Some(id);
            }
            "default" => self.text = Some(Vec::new()),
            "graph" => {
                self.is_graph = true;
                // What lies in a node comes behind it.
                self.tell_open()?;
                self.directed.push(get("edgedefault").is_none_or(|way| way != b"undirected"));
            }
            "node" => {
                let Some(id) = get("id") else { return Err(self.broken("a node without an `id`")) };
                self.push(vec![id], true, true);
            }
            "edge" => {
                let (Some(from), Some(to)) = (get("source"), get("target")) else {
                    return Err(self.broken("an edge without a `source` or a `target`"));
                };
                let usual = self.directed.last().copied().unwrap_or(true);
                let is_directed = get("directed").map_or(usual, |is| is == b"true");
                self.push(vec![from, to], false, is_directed);
            }
            "hyperedge" => self.push(Vec::new(), false, false),
            "endpoint" => {
                if let (Some(node), Some(open)) = (get("node"), self.open.last_mut()) {
                    open.ids.push(node);
                }
            }
            "data" => {
                self.key = get("key");
                self.text = Some(Vec::new());
            }
            _ => {}
        }
        Ok(())
    }

    fn push(&mut self, ids: Vec<Vec<u8>>, is_node: bool, is_directed: bool) {
        let seen = self.seen();
        self.open.push(Open { ids, is_node, is_directed, data: Vec::new(), seen, is_told: false, number: None });
    }

    fn end(&mut self, tag: &str) -> Result<(), Broken> {
        self.depth = self.depth.saturating_sub(1);
        match tag {
            "default" => {
                let text = self.text.take().map(|text| text.trim_ascii().to_vec());
                if let Some(key) = self.key.as_ref().and_then(|key| self.keys.get_mut(key)) {
                    key.default = text;
                }
            }
            "data" => {
                let key = self.key.take();
                let text = self.text.take().map(|text| text.trim_ascii().to_vec());
                let name = key.map(|key| self.keys.get(&key).map_or(key, |known| known.name.clone()));
                if let (Some(name), Some(text), Some(open)) = (name, text, self.open.last_mut())
                    && !text.is_empty()
                {
                    open.data.push((name, text));
                }
            }
            "graph" => _ = self.directed.pop(),
            "node" | "edge" | "hyperedge" => {
                self.tell_open()?;
                self.open.pop();
            }
            _ => {}
        }
        Ok(())
    }

    /// Takes up what is read at last, if that was not done yet.
    fn tell_open(&mut self) -> Result<(), Broken> {
        let holder = self.open.iter().rev().skip(1).find_map(|open| open.number);
        let Some(mut open) = self.open.pop() else { return Ok(()) };
        if !open.is_told {
            open.is_told = true;
            for key in self.keys.values().filter(|key| key.of_nodes == open.is_node) {
                if let Some(default) = &key.default
                    && !open.data.iter().any(|(name, _)| *name == key.name)
                {
                    open.data.push((key.name.clone(), default.clone()));
                }
            }
            let data: Vec<(&[u8], &[u8])> = open.data.iter().map(|(name, value)| (&name[..], &value[..])).collect();
            self.graph.counts.rows += 1;
            if open.is_node {
                open.number = self.graph.node(&open.ids[0], &data, holder, open.seen.clone());
            } else {
                // A hyperedge joins its first end with every other.
                for other in open.ids.iter().skip(1) {
                    let seen = open.seen.clone();
                    self.graph.edge([&open.ids[0], other], [None, None], &data, open.is_directed, seen);
                }
            }
            self.graph.is_within_bounds().map_err(|why| broken_at(open.seen.clone(), &why))?;
        }
        self.open.push(open);
        Ok(())
    }
}

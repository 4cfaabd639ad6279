//! Graphs: GraphML, and tables of edges and of nodes. Input: bytes. Output: [`Facts`]: what kinds of nodes and edges there are, as
//! classes, or the graph itself as a network.

mod graphml;
mod instances;
mod kinds;
mod tables;
mod types;

use crate::facts::{Counts, Facts};
use crate::finding::{Broken, Finding, Level, Seen};
use crate::select::Selection;
use instances::Instances;
use kinds::{Kinds, MOST_KINDS};
use std::io::{BufRead, BufReader, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// What says what kind a node or an edge is, where nobody says otherwise.
const KINDS: [&str; 9] =
    ["kind", "type", "labels", "label", "class", "category", "relation", "relationship", "predicate"];
/// What a node is called.
const NAMES: [&str; 3] = ["name", "title", "label"];

/// This many findings are kept.
// Nobody reads more, and a table may have one in each of its rows.
const MOST_FINDINGS: usize = 1000;

/// What is drawn of a graph.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Shown {
    /// The graph itself if it is small, its kinds otherwise.
    #[default]
    BySize,
    /// What kinds of nodes and edges there are.
    Kinds,
    /// The graph itself.
    Instances,
}

/// What graphs are read with.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// What is wanted of it: kinds, or nodes, by their names.
    pub selection: Selection,
    /// What is drawn.
    pub shown: Shown,
    /// The attribute or column that says what kind a node or an edge is.
    pub kind: Option<String>,
}

/// A source with its name.
pub type Source = (PathBuf, Box<dyn Read + Send>);

/// Reads a graph: a GraphML file, a table of edges, or a table of nodes and one of edges; tables of nodes first.
///
/// # Errors
/// If a source is broken, or is no graph.
pub fn read(sources: Vec<Source>, options: &Options) -> Result<Facts, Broken> {
    let mut graph = Graph::new(options);
    let mut file: Arc<str> = "graph".into();
    let first = sources.first().map_or_else(|| PathBuf::from("graph"), |(path, _)| path.clone());
    for (path, bytes) in sources {
        file = path.file_name().map_or("graph".into(), |name| name.to_string_lossy().into_owned().into());
        let mut bytes = BufReader::with_capacity(256 * 1024, bytes);
        let seen = || Seen { file: file.clone(), ..Seen::default() };
        let is_xml = bytes.fill_buf().map_err(|why| broken_at(seen(), &why.to_string()))?.trim_ascii_start();
        let is_xml = is_xml.strip_prefix(b"\xef\xbb\xbf").unwrap_or(is_xml).starts_with(b"<");
        match is_xml {
            true => graphml::read(bytes, &file, &mut graph)?,
            false => tables::read(bytes, &file, &mut graph)?,
        }
    }
    graph.finish(&first, &file)
}

fn broken_at(seen: Seen, why: &str) -> Broken {
    Broken { seen, why: why.to_owned() }
}

/// A graph that is read.
struct Graph<'o> {
    options: &'o Options,
    kinds: Kinds,
    instances: Option<Instances>,
    findings: Vec<Finding>,
    counts: Counts,
    /// Findings beyond those.
    more_findings: u64,
    /// Edges to nodes that no one has listed.
    unlisted: u64,
}

impl<'o> Graph<'o> {
    fn new(options: &'o Options) -> Self {
        let instances = (options.shown != Shown::Kinds).then(|| Instances::new(options.shown == Shown::Instances));
        let (kinds, findings, counts) = (Kinds::default(), Vec::new(), Counts::default());
        Self { options, kinds, instances, findings, counts, more_findings: 0, unlisted: 0 }
    }

    /// Takes note of something doubtful; many of one kind are counted.
    fn doubt(&mut self, finding: Finding) {
        if self.findings.len() < MOST_FINDINGS {
            self.findings.push(finding);
        } else {
            self.more_findings += 1;
        }
    }

    /// The place in some data that says what kind something is.
    fn kind_in(&self, data: &[(&[u8], &[u8])]) -> Option<usize> {
        let is = |name: &[u8], word: &str| name.eq_ignore_ascii_case(word.as_bytes());
        match &self.options.kind {
            Some(asked) => data.iter().position(|(name, _)| is(name, asked)),
            None => KINDS.iter().find_map(|word| data.iter().position(|(name, _)| is(name, word))),
        }
    }

    /// Takes up a node; gives its number if the graph itself is kept.
    fn node(&mut self, id: &[u8], data: &[(&[u8], &[u8])], holder: Option<usize>, seen: Seen) -> Option<usize> {
        let kind = self.kind_in(data);
        let own = kind.map(|at| data[at].1);
        let numbers: Vec<u32> = data.iter().map(|(name, _)| self.kinds.properties.number(name)).collect();
        match self.kinds.node(id, own.unwrap_or(b"node"), || seen.clone()) {
            Some(stats) => {
                let others = data.iter().zip(&numbers).enumerate().filter(|(i, _)| Some(*i) != kind);
                others.for_each(|(_, ((_, value), number))| types::take(stats, *number, value));
            }
            None => {
                let says = format!("the node `{}` is listed twice", crate::text::cell(id).0);
                self.doubt(Finding::new("listed-twice", Level::Warning, seen.clone(), says));
            }
        }
        let instances = self.instances.as_mut()?;
        let is_name = |name: &[u8]| NAMES.iter().any(|word| name.eq_ignore_ascii_case(word.as_bytes()));
        let named = data.iter().enumerate().find(|(i, (name, _))| Some(*i) != kind && is_name(name));
        let text = |bytes: &[u8]| crate::text::cell(bytes).0;
        let number = instances.node(id, named.map(|(_, (_, value))| text(value)), own.map(text), holder, seen);
        self.forget_if_too_large();
        number
    }

    /// Takes up an edge.
    fn edge(
        &mut self, ends: [&[u8]; 2], told: [Option<&[u8]>; 2], data: &[(&[u8], &[u8])], is_directed: bool, seen: Seen,
    ) {
        self.unlisted += ends.iter().filter(|end| !self.kinds.is_listed(end)).count() as u64;
        let kind = self.kind_in(data);
        let own = kind.map(|at| data[at].1);
        let name = self.kinds.names.number(own.unwrap_or(b"edge"));
        let numbers: Vec<u32> = data.iter().map(|(name, _)| self.kinds.properties.number(name)).collect();
        let stats = self.kinds.edge(name, ends, told, is_directed, || seen.clone());
        let others = data.iter().zip(&numbers).enumerate().filter(|(i, _)| Some(*i) != kind);
        others.for_each(|(_, ((_, value), number))| types::take(stats, *number, value));
        self.instance(own.map(|_| name), ends, is_directed, || seen);
    }

    /// Keeps an edge, as long as the graph is small enough.
    fn instance(&mut self, kind: Option<u32>, ends: [&[u8]; 2], is_directed: bool, seen: impl FnOnce() -> Seen) {
        let Some(instances) = &mut self.instances else { return };
        instances.edge(kind, ends, None, is_directed, seen());
        self.forget_if_too_large();
    }

    fn forget_if_too_large(&mut self) {
        if self.instances.as_ref().is_some_and(|instances| instances.is_too_large) {
            self.instances = None;
        }
    }

    /// Whether there are no more kinds than can be meant.
    ///
    /// # Errors
    /// If there are: a sentence.
    fn is_within_bounds(&self) -> Result<(), String> {
        let kinds = self.kinds.names.len().max(self.kinds.node_kinds()).max(self.kinds.edge_kinds());
        if kinds <= MOST_KINDS {
            return Ok(());
        }
        let hint = "`--kind NAME` says which attribute or column holds the kinds";
        Err(format!("there are more than {MOST_KINDS} kinds of nodes and edges; {hint}"))
    }

    fn finish(mut self, path: &Path, file: &Arc<str>) -> Result<Facts, Broken> {
        let seen = || Seen { file: file.clone(), ..Seen::default() };
        if self.kinds.node_kinds() == 0 {
            return Err(broken_at(seen(), "there are no nodes and no edges in it"));
        }
        let selection = &self.options.selection;
        let mut facts = match &self.instances {
            Some(instances) => instances.facts(&self.kinds.names, selection),
            None if self.options.shown == Shown::Instances => {
                let [nodes, edges] = instances::MOST;
                let why = format!(
                    "a graph of more than {nodes} nodes or {edges} edges is no picture; leave `--instances` out to see its kinds"
                );
                return Err(broken_at(seen(), &why));
            }
            None => self.kinds.facts(selection),
        };
        if facts.things.is_empty() {
            return Err(broken_at(seen(), "nothing in it matches what is asked for"));
        }
        if self.unlisted > 0 && self.kinds.counts()[0] > 0 {
            let says = match self.unlisted {
                1 => "an edge ends at a node that is not listed".to_owned(),
                count => format!("edges end {count} times at nodes that are not listed"),
            };
            self.findings.push(Finding::new("not-listed", Level::Warning, seen(), says));
        }
        if self.more_findings > 0 {
            let says = format!("{} more findings are left out", self.more_findings);
            self.findings.push(Finding::new("left-out", Level::Note, seen(), says));
        }
        let stem = crate::names::stem(path, "graph");
        facts.call(selection, &stem);
        facts.findings = self.findings;
        facts.counts = self.counts;
        Ok(facts)
    }
}

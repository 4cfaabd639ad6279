//! Kinds of nodes and edges: what is counted is what is there, however a graph is written.

use bathygram_corpus::Dice;
use bathygram_readers::Facts;
use bathygram_readers::graph::{Options, Shown, Source, read};
use bathygram_readers::table;
use std::collections::BTreeMap;
use std::fmt::Write;
use std::io::Cursor;
use std::path::{Path, PathBuf};

fn source(name: &str, text: impl Into<Vec<u8>>) -> Source {
    (PathBuf::from(name), Box::new(Cursor::new(text.into())))
}

fn kinds(sources: Vec<Source>) -> Facts {
    let options = Options { shown: Shown::Kinds, ..Options::default() };
    read(sources, &options).expect("facts")
}

/// Kinds of a node, an edge and the node that it leads to.
type Group<'a> = (&'a str, &'a str, &'a str);

/// A graph by chance: nodes with their kinds, edges with theirs.
struct Sample {
    nodes: Vec<&'static str>,
    edges: Vec<(usize, usize, &'static str)>,
}

impl Sample {
    fn new(seed: u64) -> Self {
        let mut dice = Dice::new(seed);
        let count = 3 + dice.roll(20);
        let nodes = (0..count).map(|_| *dice.pick(&["gauge", "mast", "buoy"])).collect();
        let edges = (0..1 + dice.roll(30))
            .map(|_| (dice.roll(count), dice.roll(count), *dice.pick(&["sees", "feeds"])))
            .collect();
        Self { nodes, edges }
    }

    fn tables(&self) -> Vec<Source> {
        let mut nodes = String::from("id;kind\n");
        self.nodes.iter().enumerate().for_each(|(i, kind)| _ = writeln!(nodes, "n{i};{kind}"));
        let mut edges = String::from("from;to;kind\n");
        self.edges.iter().for_each(|(a, b, kind)| _ = writeln!(edges, "n{a};\"n{b}\";{kind}"));
        vec![source("nodes.csv", nodes), source("edges.csv", edges)]
    }

    fn graphml(&self) -> Vec<Source> {
        let mut text =
            String::from("<graphml><key id='k' for='all' attr.name='kind'/><graph edgedefault='directed'>\n");
        for (i, kind) in self.nodes.iter().enumerate() {
            let _ = writeln!(text, "<node id='n{i}'><data key='k'>{kind}</data></node>");
        }
        for (a, b, kind) in &self.edges {
            let _ = writeln!(text, "<edge source='n{a}' target='n{b}'><data key='k'> {kind} </data></edge>");
        }
        vec![source("g.graphml", text + "</graph></graphml>\n")]
    }

    /// Kinds of edges with their multiplicities, counted one by one.
    fn wanted(&self) -> BTreeMap<String, (usize, String, String)> {
        let mut groups: BTreeMap<Group<'_>, Vec<(usize, usize)>> = BTreeMap::new();
        for (a, b, kind) in &self.edges {
            groups.entry((self.nodes[*a], kind, self.nodes[*b])).or_default().push((*a, *b));
        }
        let many = |kind: &str, ends: &[usize]| {
            let all: Vec<usize> = (0..self.nodes.len()).filter(|n| self.nodes[*n] == kind).collect();
            let counts: Vec<usize> = all.iter().map(|n| ends.iter().filter(|end| *end == n).count()).collect();
            let low = usize::from(counts.iter().all(|count| *count > 0));
            match (low, counts.iter().any(|count| *count > 1)) {
                (1, false) => "1",
                (1, true) => "1..*",
                (_, false) => "0..1",
                (_, true) => "0..*",
            }
            .to_owned()
        };
        let one = |(group, pairs): (&Group<'_>, &Vec<(usize, usize)>)| {
            let (from, kind, to) = group;
            let (a, b): (Vec<usize>, Vec<usize>) = pairs.iter().copied().unzip();
            (format!("{from} {kind} {to}"), (pairs.len(), many(from, &a), many(to, &b)))
        };
        groups.iter().map(one).collect()
    }
}

/// The same out of facts.
fn found(facts: &Facts) -> BTreeMap<String, (usize, String, String)> {
    let one = |link: &bathygram_readers::Link| {
        let name = |thing: usize| facts.things[thing].origin.clone();
        let label = link.label.clone().expect("a label");
        let (kind, count) = label.split_once(", ").expect("a count");
        let many = |end: usize| link.ends[end].multiplicity.clone().expect("a multiplicity");
        (format!("{} {kind} {}", name(link.from), name(link.to)), (count.parse().expect("a number"), many(1), many(0)))
    };
    facts.links.iter().map(one).collect()
}

#[test]
fn multiplicities_are_what_counting_gives() {
    for seed in 0..200 {
        let sample = Sample::new(seed);
        for sources in [sample.tables(), sample.graphml()] {
            assert_eq!(found(&kinds(sources)), sample.wanted(), "seed {seed}");
        }
    }
}

#[test]
fn edges_alone_tell_kinds_of_their_ends_if_they_say_them() {
    let text = "source,source kind,target,target kind,type,since\na,Gauge,m,Mast,hangs on,2026-01-02\nb,Gauge,m,Mast,hangs on,\n";
    let facts = kinds(vec![source("edges.csv", text)]);
    let names: Vec<&str> = facts.things.iter().map(|thing| thing.shown()).collect();
    assert_eq!(names, ["Gauge", "Mast", "hangs on"]);
    assert_eq!(facts.things[2].members[0].text, "since: Date [0..1]");
    assert_eq!(facts.things[2].keyword.as_deref(), Some("2 edges"));
}

#[test]
fn many_nodes_that_only_edges_name_take_bounded_memory() {
    // 200,000 nodes, each once: what is remembered says that none has two.
    let mut text = String::from("source,target\n");
    (0..100_000).for_each(|i| _ = writeln!(text, "a{i},b{i}"));
    let facts = kinds(vec![source("edges.csv", text.clone())]);
    assert_eq!(facts.links[0].ends[1].multiplicity.as_deref(), Some("0..1"));
    text += "a5,b7\n";
    let facts = kinds(vec![source("edges.csv", text)]);
    assert_eq!(facts.links[0].ends.clone().map(|end| end.multiplicity.unwrap_or_default()), ["0..*", "0..*"]);
}

#[test]
fn findings_of_a_large_table_are_counted_after_a_while() {
    let mut text = String::from("source,target\na,b\n");
    (0..5000).for_each(|i| _ = writeln!(text, "a{i},"));
    let facts = kinds(vec![source("edges.csv", text)]);
    assert_eq!(facts.findings.len(), 1001);
    assert_eq!(facts.findings[1000].says, "4000 more findings are left out");
    assert_eq!((facts.counts.rows, facts.counts.empty), (5001, 5000));
}

#[test]
fn the_kind_may_be_any_attribute() {
    let nodes = "id,colour,shape\n1,red,round\n2,blue,round\n";
    let edges = "source,target,weight\n1,2,3\n";
    let options = |kind: &str| Options { shown: Shown::Kinds, kind: Some(kind.to_owned()), ..Options::default() };
    let names = |kind: &str| {
        let facts = read(vec![source("n.csv", nodes), source("e.csv", edges)], &options(kind)).expect("facts");
        facts.things.iter().map(|thing| thing.shown().to_owned()).collect::<Vec<_>>().join(" ")
    };
    assert_eq!(names("colour"), "red blue edge");
    assert_eq!(names("shape"), "round edge");
}

#[test]
fn rows_are_split_the_same_wherever_a_piece_of_the_file_ends() {
    // Cells with separators, quotes and line breaks, in a file of several pieces; each row says its number.
    let mut dice = Dice::new(3);
    let mut text = String::from("From,From port,To,To port,Label\n");
    let mut wanted = Vec::new();
    for i in 0..9000 {
        let filler = "x".repeat(dice.roll(60));
        let (written, plain) = match i % 4 {
            0 => (format!("\"a, {i} {filler}\""), format!("a, {i} {filler}")),
            1 => (format!("\"say \"\"{i}\"\" {filler}\""), format!("say \"{i}\" {filler}")),
            2 => (format!("\"two\nlines {i}\""), format!("two\nlines {i}")),
            _ => (format!("plain {i} {filler}"), format!("plain {i} {filler}")),
        };
        let _ = writeln!(text, "d{i},1,d{},2,{written}", i + 1);
        wanted.push(plain.trim().to_owned());
    }
    let facts =
        table::read(Path::new("t.csv"), Cursor::new(text.into_bytes()), &table::Options::default()).expect("facts");
    let labels: Vec<String> = facts.links.iter().map(|link| link.label.clone().unwrap_or_default()).collect();
    assert_eq!(labels, wanted);
    // Two of four rows more than a line each.
    assert_eq!(facts.links[8999].seen.line, 9001 + 2250);
}

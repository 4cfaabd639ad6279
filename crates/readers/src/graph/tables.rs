//! Graphs in tables: edges, one a row, and nodes, one a row.

use super::kinds::Number;
use super::{Graph, KINDS, NAMES, broken_at};
use crate::finding::{Broken, Finding, Level, Seen};
use crate::table::{Ahead, Cells, Separated};
use std::io::Read;
use std::sync::Arc;

/// Columns of a table of edges where an edge begins.
const SOURCES: [&str; 6] = ["source", "from", "start", "src", "subject", "tail"];
/// Columns where it ends.
const TARGETS: [&str; 7] = ["target", "to", "end", "dst", "destination", "object", "head"];
/// Columns of a table of nodes that tell nodes apart.
const IDS: [&str; 4] = ["id", "node", "key", "identifier"];

/// What a column holds.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Column {
    Source,
    Target,
    Id,
    Kind,
    /// The kind of the node at an end.
    KindOfEnd(usize),
    Property(Number),
}

/// The columns of a table.
struct Columns {
    all: Vec<Column>,
    names: Vec<Vec<u8>>,
}

impl Columns {
    fn of(headings: Cells<'_>, graph: &mut Graph<'_>) -> Self {
        let plain: Vec<String> = headings.iter().map(|heading| plain(&crate::text::cell(heading).0)).collect();
        let has = |words: &[&str]| words.iter().find_map(|word| plain.iter().position(|heading| heading == word));
        let by_suffix = |words: &[&str]| {
            let is_it = |heading: &String| words.iter().any(|word| *heading == format!("{word} id"));
            plain.iter().position(is_it)
        };
        let ends = [has(&SOURCES).or_else(|| by_suffix(&SOURCES)), has(&TARGETS).or_else(|| by_suffix(&TARGETS))];
        let is_edges = ends.iter().all(Option::is_some);
        let id = if is_edges { None } else { has(&IDS).or_else(|| has(&NAMES)) };
        let kind = match &graph.options.kind {
            Some(asked) => plain.iter().position(|heading| *heading == self::plain(asked)),
            None => has(&KINDS).filter(|at| Some(*at) != id),
        };
        let of_end = |heading: &str| {
            let word = heading.strip_suffix(" kind").or_else(|| heading.strip_suffix(" type"))?;
            [&SOURCES[..], &TARGETS[..]].iter().position(|words| words.contains(&word))
        };
        let column = |i: usize| match i {
            i if is_edges && Some(i) == ends[0] => Column::Source,
            i if is_edges && Some(i) == ends[1] => Column::Target,
            i if Some(i) == id => Column::Id,
            i if Some(i) == kind => Column::Kind,
            i => match of_end(&plain[i]).filter(|_| is_edges) {
                Some(side) => Column::KindOfEnd(side),
                None => Column::Property(graph.kinds.properties.number(headings.get(i).trim_ascii())),
            },
        };
        Self {
            all: (0..headings.len()).map(column).collect(),
            names: headings.iter().map(|h| h.trim_ascii().to_vec()).collect(),
        }
    }

    fn position(&self, column: Column) -> Option<usize> {
        self.all.iter().position(|own| *own == column)
    }
}

fn plain(heading: &str) -> String {
    let words = heading.replace(['_', '-', '.'], " ").to_lowercase();
    words.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// Reads a table: of edges, or of nodes, by its headings.
///
/// # Errors
/// If it is broken, or neither of the two.
pub(super) fn read(bytes: impl Read + Send + 'static, file: &Arc<str>, graph: &mut Graph<'_>) -> Result<(), Broken> {
    let mut table = Separated::open(bytes, file)?;
    let seen = |line: u64| Seen { file: file.clone(), sheet: None, line: line as u32, column: None };
    let Some((headings, _)) = table.row()? else { return Err(broken_at(seen(0), "the table is empty")) };
    let columns = Columns::of(headings, graph);
    let mut table = Ahead::of(table);
    let ends = [columns.position(Column::Source), columns.position(Column::Target)];
    match (ends, columns.position(Column::Id)) {
        ([Some(from), Some(to)], _) => edges(&mut table, &Edges::of(&columns, [from, to]), &seen, graph)?,
        (_, Some(id)) => nodes(&mut table, &columns, id, &seen, graph)?,
        _ => {
            let shown: Vec<String> = columns.names.iter().map(|name| crate::text::cell(name).0).collect();
            let why = format!(
                "this is neither a table of edges, with a `source` and a `target`, nor one of nodes, with an `id`: {}",
                shown.join(", ")
            );
            return Err(broken_at(seen(1), &why));
        }
    }
    graph.is_within_bounds().map_err(|why| broken_at(seen(0), &why))
}

/// After this many rows the bounds are looked at.
const LOOK: u64 = 4096;

/// The columns of a table of edges.
struct Edges {
    ends: [usize; 2],
    kind: Option<usize>,
    /// The kinds of the nodes at both ends.
    told: [Option<usize>; 2],
    properties: Vec<(usize, Number)>,
}

impl Edges {
    fn of(columns: &Columns, ends: [usize; 2]) -> Self {
        let told = [0, 1].map(|side| columns.position(Column::KindOfEnd(side)));
        Self { ends, kind: columns.position(Column::Kind), told, properties: properties(columns) }
    }
}

fn edges(table: &mut Ahead, columns: &Edges, seen: &dyn Fn(u64) -> Seen, graph: &mut Graph<'_>) -> Result<(), Broken> {
    let filled = |cell: &&[u8]| !cell.is_empty();
    while let Some((row, line)) = table.row()? {
        graph.counts.rows += 1;
        let ends = columns.ends.map(|at| cell(row, at));
        if ends.iter().any(|end| end.is_empty()) {
            graph.counts.empty += 1;
            if ends.iter().any(|end| !end.is_empty()) {
                let says = "one end of this edge is missing".to_owned();
                graph.doubt(Finding::new("end-missing", Level::Warning, seen(line), says));
            }
            continue;
        }
        if graph.kinds.has_listed() {
            graph.unlisted += ends.iter().filter(|end| !graph.kinds.is_listed(end)).count() as u64;
        }
        let kind = columns.kind.map(|at| cell(row, at)).filter(filled);
        let told = columns.told.map(|at| at.map(|at| cell(row, at)).filter(filled));
        let number = graph.kinds.names.number(kind.unwrap_or(b"edge"));
        let stats = graph.kinds.edge(number, ends, told, true, || seen(line));
        for (at, property) in &columns.properties {
            let value = cell(row, *at);
            if !value.is_empty() {
                super::types::take(stats, *property, value);
            }
        }
        graph.instance(kind.map(|_| number), ends, true, || seen(line));
        if graph.counts.rows.is_multiple_of(LOOK) {
            graph.is_within_bounds().map_err(|why| broken_at(seen(line), &why))?;
        }
    }
    Ok(())
}

fn nodes(
    table: &mut Ahead, columns: &Columns, id: usize, seen: &dyn Fn(u64) -> Seen, graph: &mut Graph<'_>,
) -> Result<(), Broken> {
    while let Some((row, line)) = table.row()? {
        graph.counts.rows += 1;
        let own = cell(row, id);
        if own.is_empty() {
            graph.counts.empty += 1;
            continue;
        }
        let others = columns.names.iter().enumerate().filter(|(at, _)| *at != id);
        let data = others.map(|(at, name)| (&name[..], cell(row, at))).filter(|(_, value)| !value.is_empty());
        graph.node(own, &data.collect::<Vec<_>>(), None, seen(line));
        if graph.counts.rows.is_multiple_of(LOOK) {
            graph.is_within_bounds().map_err(|why| broken_at(seen(line), &why))?;
        }
    }
    Ok(())
}

fn properties(columns: &Columns) -> Vec<(usize, Number)> {
    let property = |(at, column): (usize, &Column)| match column {
        Column::Property(number) => Some((at, *number)),
        _ => None,
    };
    columns.all.iter().enumerate().filter_map(property).collect()
}

fn cell(row: Cells<'_>, column: usize) -> &[u8] {
    row.get(column).trim_ascii()
}

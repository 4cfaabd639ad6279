//! Graphs in tables: edges, one a row, and nodes, one a row.

use super::kinds::Number;
use super::{Graph, KINDS, NAMES, broken_at};
use crate::finding::{Broken, Finding, Level, Seen};
use crate::table::{Ahead, Separated};
use csv::ByteRecord;
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
    fn of(headings: &ByteRecord, graph: &mut Graph<'_>) -> Self {
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
                None => Column::Property(graph.kinds.properties.number(headings[i].trim_ascii())),
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

/// Whether a table is one of edges, by its headings.
///
/// # Errors
/// If it is neither one of edges nor one of nodes.
pub(super) fn read(bytes: impl Read + Send + 'static, file: &Arc<str>, graph: &mut Graph<'_>) -> Result<(), Broken> {
    let mut table = Separated::open(bytes, file)?;
    let seen = |line: u64| Seen { file: file.clone(), sheet: None, line: line as u32, column: None };
    let Some((headings, _)) = table.record()? else { return Err(broken_at(seen(0), "the table is empty")) };
    let columns = Columns::of(headings, graph);
    let mut table = Ahead::of(table);
    let shown: Vec<String> = columns.names.iter().map(|name| crate::text::cell(name).0).collect();
    let ends = [columns.position(Column::Source), columns.position(Column::Target)];
    let kind = columns.position(Column::Kind);
    let mut row = 0_u64;
    match (ends, columns.position(Column::Id)) {
        ([Some(from), Some(to)], _) => {
            let of_ends = [0, 1].map(|side| columns.position(Column::KindOfEnd(side)));
            let properties: Vec<(usize, Number)> = properties(&columns);
            while let Some((record, line)) = table.record()? {
                row += 1;
                let (source, target) = (cell(record, from), cell(record, to));
                if source.is_empty() || target.is_empty() {
                    if !(source.is_empty() && target.is_empty()) {
                        let says = "one end of this edge is missing".to_owned();
                        graph.findings.push(Finding {
                            code: "end-missing",
                            level: Level::Warning,
                            seen: seen(line),
                            says,
                        });
                    }
                    graph.counts.empty += 1;
                    continue;
                }
                let kind = kind.map(|at| cell(record, at)).filter(|kind| !kind.is_empty());
                let told = of_ends.map(|at| at.map(|at| cell(record, at)).filter(|kind| !kind.is_empty()));
                if graph.kinds.has_listed() {
                    graph.unlisted += [source, target].iter().filter(|end| !graph.kinds.is_listed(end)).count() as u64;
                }
                let number = graph.kinds.names.number(kind.unwrap_or(b"edge"));
                let stats = graph.kinds.edge(number, [source, target], told, true, || seen(line));
                for (at, property) in &properties {
                    let value = cell(record, *at);
                    if !value.is_empty() {
                        super::types::take(stats, *property, value);
                    }
                }
                graph.instance(kind.map(|_| number), [source, target], true, || seen(line));
                if row % 4096 == 0 {
                    graph.is_within_bounds().map_err(|why| broken_at(seen(line), &why))?;
                }
            }
        }
        (_, Some(id)) => {
            while let Some((record, line)) = table.record()? {
                row += 1;
                let own = cell(record, id);
                if own.is_empty() {
                    graph.counts.empty += 1;
                    continue;
                }
                let data: Vec<(&[u8], &[u8])> = (0..columns.all.len())
                    .filter(|at| *at != id)
                    .map(|at| (&columns.names[at][..], cell(record, at)))
                    .filter(|(_, value)| !value.is_empty())
                    .collect();
                graph.node(own, &data, None, seen(line));
                if row % 4096 == 0 {
                    graph.is_within_bounds().map_err(|why| broken_at(seen(line), &why))?;
                }
            }
        }
        _ => {
            let why = format!(
                "this is neither a table of edges, with a `source` and a `target`, nor one of nodes, with an `id`: {}",
                shown.join(", ")
            );
            return Err(broken_at(seen(1), &why));
        }
    }
    graph.counts.rows += row;
    graph.is_within_bounds().map_err(|why| broken_at(seen(0), &why))
}

fn properties(columns: &Columns) -> Vec<(usize, Number)> {
    let property = |(at, column): (usize, &Column)| match column {
        Column::Property(number) => Some((at, *number)),
        _ => None,
    };
    columns.all.iter().enumerate().filter_map(property).collect()
}

fn cell(record: &ByteRecord, column: usize) -> &[u8] {
    record.get(column).unwrap_or_default().trim_ascii()
}

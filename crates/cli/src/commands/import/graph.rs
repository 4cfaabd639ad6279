//! `import graph`: the kinds of nodes and edges of a graph, or the graph itself.

use super::{Common, answer, broken, open};
use crate::outcome::Result;
use crate::session::Voice;
use bathygram_readers::graph::{self, Options, Shown};
use std::path::PathBuf;

/// Draft classes from the kinds of nodes and edges of a graph, or a network from a small graph itself
///
/// GraphML, or tables: nodes with an id, a kind and properties, edges with a source and a target, a kind and properties. Kinds come with
/// the types of their properties, with how many there are, and with how many are at the ends of an edge.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram import graph moorings.graphml > moorings.bathy\n  \
    bathygram import graph moorings.graphml --kinds --picture kinds.svg > kinds.bathy\n  \
    bathygram import graph moorings.graphml --only Station --only Buoy > buoys.bathy")]
pub(super) struct Arguments {
    /// A GraphML file, a table of edges, or a table of nodes and then one of edges; `-` for standard input
    #[arg(required = true)]
    sources: Vec<PathBuf>,
    /// The graph itself, however large it is
    #[arg(long, conflicts_with = "kinds")]
    instances: bool,
    /// The kinds of nodes and edges, however small the graph is
    #[arg(long)]
    kinds: bool,
    /// The attribute or column that says what kind a node or an edge is; `kind`, `type`, `label` and their like otherwise
    #[arg(long, value_name = "NAME")]
    kind: Option<String>,
    #[command(flatten)]
    common: Common,
}

/// Runs the command.
///
/// # Errors
/// If a source is broken, or is no graph.
pub(super) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let shown = match (arguments.instances, arguments.kinds) {
        (true, _) => Shown::Instances,
        (_, true) => Shown::Kinds,
        _ => Shown::BySize,
    };
    let options = Options { selection: arguments.common.selection(), shown, kind: arguments.kind.clone() };
    let sources = arguments.sources.iter().map(|source| open(source, "graph", voice)).collect::<Result<Vec<_>>>()?;
    let facts = graph::read(sources, &options).map_err(broken)?;
    answer(&arguments.common, facts, "row", voice)
}

//! `import table`: tables of connections and of elements.

use super::{Common, answer, broken, open};
use crate::outcome::{Failure, Result};
use crate::session::Voice;
use bathygram_readers::table::{self, Columns, Form, Options};
use std::path::PathBuf;

/// Draft a network from a table of connections, or an architecture or a tree from a table of elements
///
/// CSV, TSV, XLSX and ODS. Columns are known by their headings in the usual spellings; sheets of one workbook belong together: an
/// inventory says what the devices of the connections are.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram import table harbour_cabling.csv > harbour_cabling.bathy\n  \
    bathygram import table harbour_cabling.csv --columns \"from=A, from port=B, to=C, to port=D\"\n  \
    bathygram import table harbour_cabling.csv --only 'core-*' --picture core.svg > core.bathy")]
pub(super) struct Arguments {
    /// The table, `-` for separated values on standard input
    source: PathBuf,
    /// What columns hold, by their headings or letters, such as "from=A, from port=B, to=C, to port=D"
    #[arg(long, value_name = "ROLES")]
    columns: Option<String>,
    /// A tree of elements and what they lie in, instead of an architecture
    #[arg(long)]
    tree: bool,
    #[command(flatten)]
    common: Common,
}

/// Runs the command.
///
/// # Errors
/// If the table is broken, or no column of it is recognised.
pub(super) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let columns = match &arguments.columns {
        Some(text) => Columns::read(text).map_err(Failure::Usage)?,
        None => Columns::default(),
    };
    let form = if arguments.tree { Form::Tree } else { Form::Architecture };
    let options = Options { columns, selection: arguments.common.selection(), form };
    let (path, bytes) = open(&arguments.source, "table.csv", voice)?;
    let facts = table::read(&path, bytes, &options).map_err(broken)?;
    answer(&arguments.common, facts, "row", voice)
}

//! `import table`: tables of connections and of elements.

use super::progress::Watched;
use super::{Common, answer, broken};
use crate::outcome::{Failure, Result};
use crate::session::Voice;
use bathygram_readers::table::{self, Columns, Options};
use std::path::{Path, PathBuf};

/// A table of connections as a network, or a table of elements as an architecture
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
    let common = &arguments.common;
    let (only, without) = (common.only.clone(), common.without.clone());
    let options = Options { columns, only, without, name: common.name.clone() };
    let source = &arguments.source;
    let facts = if source == Path::new("-") {
        table::read(Path::new("table.csv"), std::io::stdin(), &options)
    } else {
        let file = std::fs::File::open(source)
            .map_err(|why| Failure::Usage(format!("{} cannot be read: {why}", source.display())))?;
        table::read(source, Watched::new(file, voice), &options)
    };
    answer(common, facts.map_err(broken)?, voice)
}

//! `import database`: the tables of an SQLite file or a PostgreSQL server, as classes.

use super::{Common, answer_in_sheets, broken};
use crate::outcome::Result;
use crate::session::Voice;
use crate::stores::{Access, catalogue};
use bathygram_core::model::ShownMembers;
use bathygram_readers::database::{Options, facts};

/// Draft the tables of a database, with columns, keys and references
///
/// An SQLite file, or a PostgreSQL server as `postgresql://user@host/database`. Only the catalogue is read, never a row. Schemas become
/// packages, partitions and inheriting tables one table, and a large schema is proposed in sheets. The password comes from a file, from
/// PGPASSWORD or from PostgreSQL's password file.
#[derive(clap::Args)]
#[command(
    after_help = "Examples:\n  bathygram import database harbour.sqlite --picture harbour.svg > harbour.bathy\n  \
    bathygram import database harbour.sqlite --around reading --members keys > reading.bathy\n  \
    bathygram import database postgresql://reader@db.tidewatch.example/readings --only 'shore.*' > shore.bathy\n  \
    bathygram import database harbour.sqlite --into harbour.bathy"
)]
pub(super) struct Arguments {
    /// An SQLite file, or the address of a PostgreSQL server and a database
    source: String,
    /// Which columns are taken over
    #[arg(long, value_enum, default_value_t = Members::All)]
    members: Members,
    /// Take in views
    #[arg(long)]
    views: bool,
    /// Add about how many rows each table has
    #[arg(long)]
    rows: bool,
    /// Draw references that are not declared, as names suggest them
    #[arg(long)]
    guess: bool,
    #[command(flatten)]
    access: Access,
    #[command(flatten)]
    common: Common,
}

#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Members {
    /// None
    None,
    /// What identifies a row, and what refers to other tables
    Keys,
    /// All
    All,
}

/// Runs the command.
///
/// # Errors
/// If the database cannot be read, or there is no table in it.
pub(super) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let found = catalogue(&arguments.source, (arguments.views, arguments.rows), &arguments.access, voice)?;
    let members = match arguments.members {
        Members::None => ShownMembers::None,
        Members::Keys => ShownMembers::Keys,
        Members::All => ShownMembers::All,
    };
    let options = Options { selection: arguments.common.selection(), members, guess: arguments.guess };
    let facts = facts(found, &options).map_err(broken)?;
    answer_in_sheets(&arguments.common, facts, "table", voice)
}

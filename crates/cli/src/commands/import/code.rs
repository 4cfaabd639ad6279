//! `import code`: the classifiers of a source tree, as classes.

use super::modules::tree;
use super::{Common, answer, broken};
use crate::outcome::Result;
use crate::session::Voice;
use bathygram_core::model::ShownMembers;
use bathygram_host::Threads;
use bathygram_readers::code::{ClassesOptions, classes};
use std::path::PathBuf;

/// Draft the classes, interfaces, enumerations and records of a code base, with members and relations
///
/// Reads Rust, Python, TypeScript, JavaScript, Java and Go. Attributes whose types are classifiers become lines, with their names and how
/// many there are; folders become packages. What cannot be read in full gives what can be read.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram import code . --picture classes.svg > classes.bathy\n  \
    bathygram import code . --only gateway --members all > gateway.bathy\n  \
    bathygram import code . --around Judge --distance 2 --members none > judge.bathy")]
pub(super) struct Arguments {
    /// The folder of the sources
    source: PathBuf,
    /// Which members are shown
    #[arg(long, value_enum, default_value_t = Members::Public)]
    members: Members,
    /// Draw a line to what operations take and give, too
    #[arg(long)]
    uses: bool,
    /// Take over the first sentence of what is said of each classifier
    #[arg(long)]
    about: bool,
    /// Take in tests, examples and benchmarks
    #[arg(long)]
    with_tests: bool,
    #[command(flatten)]
    common: Common,
}

#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Members {
    /// None
    None,
    /// What everybody may use
    Public,
    /// All
    All,
}

/// Runs the command.
///
/// # Errors
/// If the folder cannot be read, or there is no classifier in it.
pub(super) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let tree = tree(&arguments.source, voice)?;
    let options = ClassesOptions {
        selection: arguments.common.selection(),
        members: match arguments.members {
            Members::None => ShownMembers::None,
            Members::Public => ShownMembers::Public,
            Members::All => ShownMembers::All,
        },
        with_uses: arguments.uses,
        with_about: arguments.about,
        with_tests: arguments.with_tests,
    };
    let facts = classes(&tree, &options, &Threads::all()).map_err(broken)?;
    drop(tree);
    answer(&arguments.common, facts, "source file", voice)
}

//! `man`: manual pages.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_host::{Seen, write_whole};
use clap::Command;
use std::path::PathBuf;

/// Print the manual page of a command, or write the pages of all of them into a folder
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram man render > bathygram-render.1\n  bathygram man --out man")]
pub(crate) struct Arguments {
    /// The command, such as `render` or `import table`; the program itself if none is named
    #[arg(conflicts_with = "out")]
    command: Vec<String>,
    /// Write all pages into this folder
    #[arg(long, short, value_name = "FOLDER")]
    out: Option<PathBuf>,
}

/// Runs the command.
///
/// # Errors
/// If there is no such command, or a page cannot be written.
pub(crate) fn run(arguments: &Arguments, mut program: Command, voice: Voice) -> Result {
    program.set_bin_name("bathygram");
    program.build();
    if let Some(folder) = &arguments.out {
        let pages = pages(&program, "bathygram");
        for (name, page) in &pages {
            write_whole(&folder.join(format!("{name}.1")), page)?;
        }
        voice.say(&format!("{} written to {}", session::count(pages.len(), "page"), folder.seen()));
        return Ok(Outcome::Done);
    }
    let (mut command, mut name) = (&program, "bathygram".to_owned());
    for word in &arguments.command {
        let Some(inner) = command.find_subcommand(word) else {
            return Err(Failure::Usage(format!(
                "`{name}` has no command `{word}`; `{} --help` lists them",
                name.replace('-', " ")
            )));
        };
        command = inner;
        name = format!("{name}-{word}");
    }
    session::answer_bytes(&page(command, &name))?;
    Ok(Outcome::Done)
}

/// The pages of a command and of those in it, by their names.
fn pages(command: &Command, name: &str) -> Vec<(String, Vec<u8>)> {
    let inner = command.get_subcommands().filter(|inner| inner.get_name() != "help");
    let inner = inner.flat_map(|inner| pages(inner, &format!("{name}-{}", inner.get_name())));
    std::iter::once((name.to_owned(), page(command, name))).chain(inner).collect()
}

fn page(command: &Command, name: &str) -> Vec<u8> {
    let mut out = Vec::new();
    let manual = clap_mangen::Man::new(command.clone())
        .title(name.to_uppercase())
        .source(format!("Bathygram {}", env!("CARGO_PKG_VERSION")));
    // Nothing is written to a disk here.
    let _ = manual.render(&mut out);
    out
}

//! `completions`: what a shell completes.

use crate::outcome::{Outcome, Result};
use crate::session;
use clap::Command;
use clap_complete::{Generator, Shell};

/// Print what a shell needs to complete commands and options
#[derive(clap::Args)]
#[command(
    after_help = "Examples:\n  bathygram completions bash > ~/.local/share/bash-completion/completions/bathygram\n  \
    bathygram completions zsh > ~/.zfunc/_bathygram\n  \
    bathygram completions fish > ~/.config/fish/completions/bathygram.fish"
)]
pub(crate) struct Arguments {
    /// The shell
    #[arg(value_enum)]
    shell: Shell,
}

/// Runs the command.
///
/// # Errors
/// If standard output cannot be written.
pub(crate) fn run(arguments: &Arguments, mut program: Command) -> Result {
    program.set_bin_name("bathygram");
    program.build();
    let mut script = Vec::new();
    arguments.shell.generate(&program, &mut script);
    session::answer_bytes(&script)?;
    Ok(Outcome::Done)
}

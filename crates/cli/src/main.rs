//! The `bathygram` program: arguments, one file per command, exit codes.

mod colour;
mod commands;
mod desktop;
mod forms;
mod named;
mod numbers;
mod outcome;
mod sarif;
mod session;
mod stores;

use clap::{Parser, Subcommand};
use outcome::Outcome;
use session::Loudness;
use std::ffi::OsString;
use std::process::ExitCode;

/// Reading and layout make many small values; this allocator makes them in less time (decision 24).
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Draw diagrams from text: sequence, class, flow, state, architecture, network and tree pictures, versioned beside the code.
#[derive(Parser)]
#[command(name = "bathygram", version, arg_required_else_help = true, after_help = "Begin with:  bathygram demo")]
struct Arguments {
    #[command(subcommand)]
    command: Command,
    /// Report only what went wrong
    #[arg(short, long, global = true)]
    quiet: bool,
    /// Report more of what is done
    #[arg(short, long, global = true)]
    verbose: bool,
    /// When to colour messages and results
    #[arg(long, value_enum, value_name = "WHEN", default_value_t = colour::When::Auto, global = true)]
    color: colour::When,
}

impl Arguments {
    fn loudness(&self) -> Loudness {
        match (self.quiet, self.verbose) {
            (true, _) => Loudness::Quiet,
            (false, true) => Loudness::Verbose,
            (false, false) => Loudness::Usual,
        }
    }
}

#[derive(Subcommand)]
enum Command {
    Demo(commands::demo::Arguments),
    Init(commands::init::Arguments),
    New(commands::new::Arguments),
    Render(commands::render::Arguments),
    Check(commands::check::Arguments),
    Format(commands::format::Arguments),
    Icons(commands::icons::Arguments),
    Share(commands::share::Arguments),
    Themes(commands::themes::Arguments),
    Diff(commands::diff::Arguments),
    History(commands::history::Arguments),
    Recover(commands::recover::Arguments),
    Illustrate(commands::illustrate::Arguments),
    Preview(commands::preview::Arguments),
    Import(commands::import::Arguments),
    Conform(commands::conform::Arguments),
    Site(commands::site::Arguments),
    Lsp(commands::lsp::Arguments),
    Completions(commands::completions::Arguments),
    Man(commands::man::Arguments),
}

/// The words of the call. What git hands to `diff --driver` begins with the path of a file, which may look like an option.
fn words() -> Vec<OsString> {
    let mut words: Vec<OsString> = std::env::args_os().collect();
    let is = |at: usize, word: &str| words.get(at).is_some_and(|w| w == word);
    if is(1, "diff") && is(2, "--driver") && !is(3, "--") {
        words.insert(3, "--".into());
    }
    words
}

fn main() -> ExitCode {
    let arguments = Arguments::parse_from(words());
    let voice = session::Voice::new(arguments.loudness(), arguments.color);
    let outcome = match &arguments.command {
        Command::Demo(a) => commands::demo::run(a, voice),
        Command::Init(a) => commands::init::run(a, voice),
        Command::New(a) => commands::new::run(a, voice),
        Command::Render(a) => commands::render::run(a, voice),
        Command::Check(a) => commands::check::run(a, voice),
        Command::Format(a) => commands::format::run(a, voice),
        Command::Icons(a) => commands::icons::run(a, voice),
        Command::Share(a) => commands::share::run(a, voice),
        Command::Themes(a) => commands::themes::run(a, voice),
        Command::Diff(a) => commands::diff::run(a, voice),
        Command::History(a) => commands::history::run(a, voice),
        Command::Illustrate(a) => commands::illustrate::run(a, voice),
        Command::Import(a) => commands::import::run(a, voice),
        Command::Conform(a) => commands::conform::run(a, voice),
        Command::Preview(a) => commands::preview::run(a, voice),
        Command::Site(a) => commands::site::run(a, voice),
        Command::Lsp(a) => commands::lsp::run(a),
        Command::Completions(a) => commands::completions::run(a, <Arguments as clap::CommandFactory>::command()),
        Command::Man(a) => commands::man::run(a, <Arguments as clap::CommandFactory>::command(), voice),
        Command::Recover(a) => commands::recover::run(a, voice),
    };
    match outcome {
        Ok(Outcome::Done) => ExitCode::SUCCESS,
        Ok(Outcome::Denied) => ExitCode::from(1),
        Ok(Outcome::Incomplete) => ExitCode::from(3),
        Err(failure) => {
            voice.failure(&failure);
            ExitCode::from(failure.status())
        }
    }
}

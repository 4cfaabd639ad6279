//! `import outline`: a process description as a draft flow, or any nested list as a tree.

use super::{Common, answer, broken, open};
use crate::outcome::{Failure, Result};
use crate::session::Voice;
use bathygram_host::Seen;
use bathygram_readers::outline::{self, Form, Options, Words};
use std::path::{Path, PathBuf};

/// Draft a flow from a process description in Markdown or plain text, or a tree from a nested list
///
/// Lists and sentences are read in order. "If", "Otherwise", "Repeat until", "At the same time", "Go back to", "Role: …" and their like
/// become decisions, repetitions, parallel parts, ways back and lanes. Every guess has a comment; `check` lists what a reviewer asks.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram import outline silent_gauge.md > silent_gauge.bathy\n  \
    bathygram import outline silent_gauge.md --picture silent_gauge.svg > silent_gauge.bathy\n  \
    bathygram import outline silent_gauge.md --tree > points.bathy")]
pub(super) struct Arguments {
    /// The outline, `-` for standard input
    source: PathBuf,
    /// A tree of all items instead of a flow
    #[arg(long)]
    tree: bool,
    /// Patterns and words of another language than English, in the form of what `import words` writes
    #[arg(long, value_name = "FILE", conflicts_with = "tree")]
    words: Option<PathBuf>,
    #[command(flatten)]
    common: Common,
}

/// Runs the command.
///
/// # Errors
/// If there is nothing in the outline.
pub(super) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let common = &arguments.common;
    let chooses = !common.only.is_empty() || !common.without.is_empty();
    if chooses && !arguments.tree {
        return Err(Failure::Usage(
            "--only and --without choose items of a tree; a flow is imported as a whole".into(),
        ));
    }
    let form = if arguments.tree { Form::Tree } else { Form::Flow };
    let words = arguments.words.as_deref().map(read_words).transpose()?;
    let options = Options { selection: arguments.common.selection(), form, words };
    let (path, bytes) = open(&arguments.source, "outline.md", voice)?;
    let facts = outline::read(&path, bytes, &options).map_err(broken)?;
    answer(&arguments.common, facts, "line", voice)
}

fn read_words(path: &Path) -> Result<Words> {
    let failed = |why: &dyn std::fmt::Display| Failure::Usage(format!("{}: {why}", path.seen()));
    let text = std::fs::read_to_string(path).map_err(|why| failed(&why))?;
    Words::read(&text).map_err(|why| failed(&why))
}

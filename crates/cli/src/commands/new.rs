//! `new`: a starting file for a kind of diagram.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_host::{Seen, write_whole};
use std::path::{Path, PathBuf};

/// Write a starting file for a kind of diagram, complete enough to render
///
/// The file is called NAME.bathy, its block NAME, its picture NAME.svg.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram new sequence storm_surge\n  bathygram new architecture harbour --print")]
pub(crate) struct Arguments {
    /// Kind of diagram
    #[arg(value_enum)]
    kind: Kind,
    /// Name of the diagram: letters, digits, `_` and `-`
    name: String,
    /// Print the text instead of writing a file
    #[arg(long)]
    print: bool,
}

/// The kinds of diagrams, by the words that begin their blocks.
#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Kind {
    Sequence,
    Classes,
    Flow,
    States,
    Architecture,
    Network,
    Tree,
}

impl Kind {
    /// Its starting text, with NAME and TITLE to be filled in.
    fn starter(self) -> &'static str {
        match self {
            Kind::Sequence => include_str!("../starters/sequence.bathy"),
            Kind::Classes => include_str!("../starters/classes.bathy"),
            Kind::Flow => include_str!("../starters/flow.bathy"),
            Kind::States => include_str!("../starters/states.bathy"),
            Kind::Architecture => include_str!("../starters/architecture.bathy"),
            Kind::Network => include_str!("../starters/network.bathy"),
            Kind::Tree => include_str!("../starters/tree.bathy"),
        }
    }
}

/// The kinds of diagrams, each with its starting text.
pub(crate) fn starters() -> Vec<(&'static str, &'static str)> {
    use clap::ValueEnum;
    let word = |kind: &Kind| bathygram_core::vocabulary::BLOCKS.iter().find(|word| is_kind(*kind, word)).copied();
    Kind::value_variants().iter().filter_map(|kind| Some((word(kind)?, kind.starter()))).collect()
}

fn is_kind(kind: Kind, word: &str) -> bool {
    use clap::ValueEnum;
    kind.to_possible_value().is_some_and(|value| value.get_name() == word)
}

/// Runs the command.
///
/// # Errors
/// If the name is none, the file is there already, or it cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let name = &arguments.name;
    let is_letter = |c: char| c.is_alphanumeric() || c == '_' || c == '-';
    if !name.chars().all(is_letter) || !name.starts_with(|c: char| c.is_alphabetic() || c == '_') {
        let hint = "a name begins with a letter and holds letters, digits, `_` and `-`";
        return Err(Failure::Usage(format!("`{name}` cannot name a diagram: {hint}")));
    }
    let text = arguments.kind.starter().replace("NAME", name).replace("TITLE", &title(name));
    if arguments.print {
        session::answer(&text)?;
        return Ok(Outcome::Done);
    }
    let path = PathBuf::from(format!("{name}.bathy"));
    write_new(&path, &text)?;
    session::answer(&format!("{}\n", path.seen()))?;
    voice.say(&format!("Change it, then draw it with `bathygram render {}`.", path.seen()));
    Ok(Outcome::Done)
}

/// Writes a file that must not be there yet.
///
/// # Errors
/// If it is there, or cannot be written.
pub(crate) fn write_new(path: &Path, text: &str) -> Result<()> {
    if path.exists() {
        return Err(Failure::Usage(format!("{} is there already, and is left as it is", path.seen())));
    }
    write_whole(path, text.as_bytes())?;
    Ok(())
}

/// `storm_surge` is called "Storm surge".
fn title(name: &str) -> String {
    let words = name.replace(['_', '-'], " ");
    let mut letters = words.trim().chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}

//! `recover`: the source text out of a picture.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Recovered, Voice};
use bathygram_host::{MAX_PICTURE, Seen, read_bounded, write_whole};
use std::path::PathBuf;

/// Print the source that a picture carries: SVG, PNG, PDF, HTML or GraphML, byte for byte
///
/// It is printed, or written to a file that is not there yet.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram recover pictures/surge_warning.svg\n  \
    bathygram recover pictures/surge_warning.svg --out recovered.bathy")]
pub(crate) struct Arguments {
    /// The picture
    picture: PathBuf,
    /// Print a file that is no picture of ours as it is, instead of refusing it: for git, which stops otherwise
    #[arg(long, conflicts_with = "out")]
    any_file: bool,
    /// Write the text into this file, which must not be there yet
    #[arg(long, short, value_name = "FILE")]
    out: Option<PathBuf>,
}

/// Runs the command.
///
/// # Errors
/// If the file is no picture of ours, carries no source, or cannot be read.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let path = &arguments.picture;
    let found = session::recovered(path);
    if arguments.any_file && found.is_err() {
        session::answer_bytes(&read_bounded(path, MAX_PICTURE)?)?;
        return Ok(Outcome::Done);
    }
    let Recovered { text: source, is_intact, .. } = found?;
    if !is_intact {
        voice
            .say(&format!("{} was changed since it was drawn; this is the source that it was drawn from", path.seen()));
    }
    match &arguments.out {
        None => session::answer_bytes(source.as_bytes())?,
        Some(out) if session::is_stdout(out) => session::answer_bytes(source.as_bytes())?,
        Some(out) if out.symlink_metadata().is_ok() => {
            return Err(Failure::Usage(format!("{} is there already; name another file", out.seen())));
        }
        Some(out) => {
            write_whole(out, source.as_bytes())?;
            session::answer(&format!("{}\n", out.seen()))?;
        }
    }
    Ok(Outcome::Done)
}

//! `recover`: the source text out of a picture.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::container;
use bathygram_host::{MAX_SOURCE, write_whole};
use std::io::Read;
use std::path::{Path, PathBuf};

/// A picture is at most this large, in bytes.
// A picture is rarely ten times as long as its text; a foreign file of any size is not read into memory.
const MAX_PICTURE: u64 = 16 * MAX_SOURCE;

/// The source text out of a picture: SVG, PNG, PDF, HTML or GraphML, byte for byte
///
/// It is printed, or written to a file that is not there yet.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram recover pictures/surge_warning.svg\n  \
    bathygram recover pictures/surge_warning.svg --out recovered.bathy")]
pub(crate) struct Arguments {
    /// The picture
    picture: PathBuf,
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
    let bytes = read(path)?;
    let Some(carried) = container::read(&bytes) else {
        return Err(Failure::Usage(format!("{} is no picture that this program drew", path.display())));
    };
    let source = match container::text_in(&bytes) {
        // A picture of a stack whose text is long: the top of the stack has it. Its name is a name, not a path.
        Some(other) if Path::new(&other).components().count() == 1 => {
            let beside = path.with_file_name(&other);
            let bytes = read(&beside).map_err(|_| {
                Failure::Usage(format!("the text of {} is in {other} beside it, which is not there", path.display()))
            })?;
            container::source(&bytes)
        }
        _ => container::source(&bytes),
    };
    let Some(source) = source else {
        return Err(Failure::Usage(format!("{} carries no source, or it is damaged", path.display())));
    };
    if !carried.is_intact {
        voice.say(&format!(
            "{} was changed since it was drawn; this is the text that it was drawn from",
            path.display()
        ));
    }
    match &arguments.out {
        None => session::answer_bytes(source.as_bytes())?,
        Some(out) if session::is_stdout(out) => session::answer_bytes(source.as_bytes())?,
        Some(out) if out.symlink_metadata().is_ok() => {
            return Err(Failure::Usage(format!("{} is there already; name another file", out.display())));
        }
        Some(out) => {
            write_whole(out, source.as_bytes())?;
            session::answer(&format!("{}\n", out.display()))?;
        }
    }
    Ok(Outcome::Done)
}

fn read(path: &Path) -> Result<Vec<u8>> {
    let failed = |why| anyhow::anyhow!("cannot read {}: {why}", path.display());
    let file = std::fs::File::open(path).map_err(failed)?;
    let mut bytes = Vec::new();
    file.take(MAX_PICTURE + 1).read_to_end(&mut bytes).map_err(failed)?;
    if bytes.len() as u64 > MAX_PICTURE {
        return Err(Failure::Usage(format!("{} is larger than {MAX_PICTURE} bytes", path.display())));
    }
    Ok(bytes)
}

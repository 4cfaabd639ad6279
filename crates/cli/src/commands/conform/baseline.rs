//! The file of what is accepted: a line for each difference, by what it is about, not by lines that move.

use super::compared::Compared;
use super::report::{Level, Levels};
use crate::outcome::{Failure, Result};
use crate::session::{self, Voice};
use bathygram_host::{Seen, read_source, write_whole};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// What the file says of itself.
const HEAD: &str = "# Differences between drawings and reality that are accepted; `bathygram conform --write-baseline` writes this file.\n";

/// What is accepted.
pub(super) struct Baseline {
    path: PathBuf,
    accepted: BTreeSet<String>,
}

impl Baseline {
    /// Reads the file.
    ///
    /// # Errors
    /// If it cannot be read.
    pub(super) fn read(path: &Path) -> Result<Self> {
        if !path.is_file() {
            let shown = path.seen();
            return Err(Failure::Usage(format!(
                "{shown} is not there; `--baseline {shown} --write-baseline` writes it"
            )));
        }
        let text = read_source(path)?;
        let lines = text.lines().map(str::trim).filter(|line| !line.is_empty() && !line.starts_with('#'));
        Ok(Self { path: path.to_owned(), accepted: lines.map(str::to_owned).collect() })
    }

    /// Writes what differs to the file.
    ///
    /// # Errors
    /// If there is another file there, or it cannot be written.
    pub(super) fn write(path: &Path, compared: &[Compared<'_>], levels: &Levels, voice: Voice) -> Result<()> {
        if path.exists() && !read_source(path)?.starts_with(HEAD) {
            let message = format!("{} is another file, and stays as it is; name a new one", path.seen());
            return Err(Failure::Usage(message));
        }
        let mut lines: BTreeSet<String> = BTreeSet::new();
        for compared in compared {
            let weighty = |level: Option<Level>| matches!(level, Some(Level::Error | Level::Warning));
            let counted = compared.deviations().into_iter().filter(|one| weighty(levels.of_deviation(one)));
            lines.extend(counted.flat_map(|one| one.keys).map(|key| line(compared, &key)));
        }
        let text = lines.iter().fold(HEAD.to_owned(), |text, line| text + line + "\n");
        write_whole(path, text.as_bytes())?;
        voice.say(&format!("{} written: {} accepted", path.seen(), session::count(lines.len(), "difference")));
        Ok(())
    }

    /// Leaves out what is accepted, and says what no longer occurs.
    pub(super) fn accept(&self, compared: &mut [Compared<'_>], voice: Voice) {
        let mut found: BTreeSet<String> = BTreeSet::new();
        for compared in compared {
            let own = format!("{}: ", compared.design.name);
            let accepted: BTreeSet<String> =
                self.accepted.iter().filter_map(|line| line.strip_prefix(&own)).map(str::to_owned).collect();
            found.extend(compared.accept(&accepted).iter().map(|key| line(compared, key)));
        }
        let shown = self.path.seen();
        match found.len() {
            0 => {}
            count => voice.say(&format!("{} accepted by {shown}", session::count(count, "difference"))),
        }
        let gone = self.accepted.difference(&found).count();
        if gone > 0 {
            let lines = session::count(gone, "line");
            voice.say(&format!("{shown}: {lines} of it no longer needed; `--write-baseline` writes it again"));
        }
    }
}

/// A difference of a diagram, in one line.
fn line(compared: &Compared<'_>, key: &str) -> String {
    format!("{}: {}", compared.design.name, key.replace(['\n', '\r'], " "))
}

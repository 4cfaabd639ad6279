//! What git calls for one file, as `diff.<driver>.command` says: what changed in it, in words.

use super::listed::changes;
use super::report;
use super::sides::Side;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_host::{Disk, Project, read_source};
use std::path::Path;

/// Runs with git's words: PATH OLD-FILE OLD-HEX OLD-MODE NEW-FILE NEW-HEX NEW-MODE, and for a file that was renamed its new
/// path and more. A file that is not there is `/dev/null`. What cannot be read is reported and is no failure: git would stop.
///
/// # Errors
/// If the words are not git's.
pub(super) fn run(words: &[String], voice: Voice) -> Result {
    let [path, old, _, _, new, _, _, rest @ ..] = words else {
        // An unmerged file comes with its path alone.
        if let [path] = words {
            session::answer(&format!("{path} has two versions that are not merged\n"))?;
            return Ok(Outcome::Done);
        }
        return Err(Failure::Usage("--driver is for git: see docs/git.md".into()));
    };
    let later = rest.first().unwrap_or(path);
    let project = session::project()?;
    let named = if later == path { format!("{path}\n") } else { format!("{path}, now {later}\n") };
    let sides = [side(&project, old, path), side(&project, new, later)];
    let printed = match sides {
        [Ok(from), Ok(to)] => {
            let changes = changes(&from, &to);
            let text = report::text(&changes, &report::files_of([&from, &to]), voice.pager_colours());
            if text.is_empty() { "  nothing that is drawn changed\n\n".to_owned() } else { text }
        }
        [a, b] => {
            let why = [a.err(), b.err()].into_iter().flatten().map(|f| format!("  {f}\n"));
            why.collect::<String>() + "\n"
        }
    };
    session::answer(&(named + &printed))?;
    Ok(Outcome::Done)
}

/// The file as it was or is, under its name in the repository.
fn side(project: &Project, file: &str, path: &str) -> Result<Side> {
    let mut readings = Vec::new();
    if file != "/dev/null" && file != "NUL" {
        let text = read_source(Path::new(file))?;
        readings.push(session::read_text(project, path, text, &Disk::around(project, Path::new(path))));
    }
    Ok(Side { name: path.to_owned(), readings })
}

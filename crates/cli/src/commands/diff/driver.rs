//! What git calls for one file, as `diff.<driver>.command` says: what changed in it, in words.

use super::sides::{Compared, Conflict, Side};
use super::{listed, report};
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
    let project = session::project()?;
    let [path, old, _, _, new, _, _, rest @ ..] = words else {
        // An unmerged file comes with its path alone.
        if let [path] = words {
            session::answer(&unmerged(&project, path, voice))?;
            return Ok(Outcome::Done);
        }
        return Err(Failure::Usage("--driver is for git: see docs/git.md".into()));
    };
    let later = rest.first().unwrap_or(path);
    let named = if later == path { format!("{path}\n") } else { format!("{path}, now {later}\n") };
    let sides = [side(&project, old, path), side(&project, new, later)];
    let printed = match sides {
        [Ok(from), Ok(to)] => {
            let changes = listed::changes(&project, &Compared { from, to, ..Compared::default() });
            let text = report::text(&project, &changes, voice.pager_colours());
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

/// What the two sides of a file say differently.
fn unmerged(project: &Project, path: &str, voice: Voice) -> String {
    let mut out = format!("{path} has two versions that are not merged\n");
    let text = read_source(Path::new(path)).ok();
    if let Some(conflict) = text.and_then(|text| Conflict::of_text(project, Path::new(path), &text)) {
        out += &super::conflict_heading(&conflict);
        out += &report::text(project, &listed::of_conflict(project, &conflict, &[]), voice.pager_colours());
    }
    out
}

/// The file as it was or is, under its name in the repository.
fn side(project: &Project, file: &str, path: &str) -> Result<Side> {
    let mut readings = Vec::new();
    if file != "/dev/null" && file != "NUL" {
        let text = read_source(Path::new(file))?;
        readings = session::read_texts(project, path, text, &Disk::around(project, Path::new(path)))?;
    }
    Ok(Side { name: path.to_owned(), commit: None, readings })
}

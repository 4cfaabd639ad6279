//! `diff`: what changed between two versions, in words.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::compare::{Change, Changes, Fate, documents};
use bathygram_core::pipeline::Reading;
use bathygram_host::{Colours, Git, Project, Revision, Version};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// What changed between two versions in git, or between two files, in words
///
/// FROM and TO are revisions; without TO the working tree is compared, without FROM the last commit
/// is. A name that is a file is taken as a file.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram diff\n  bathygram diff HEAD surge_warning.bathy\n  \
    bathygram diff HEAD~1 HEAD --json\n  bathygram diff recalibrate.bathy warning_flow.bathy\n\nThe form of --json is described in docs/json.md.")]
pub(crate) struct Arguments {
    /// At most two revisions, FROM and TO, then sources; or two files
    #[arg(value_name = "VERSIONS AND FILES")]
    words: Vec<String>,
    /// Answer as JSON
    #[arg(long)]
    json: bool,
    /// Exit with 1 when there are differences
    #[arg(long)]
    exit_code: bool,
}

/// One version of all the files that are compared.
struct Side {
    name: String,
    readings: Vec<Reading>,
}

#[derive(Serialize)]
struct Report<'a> {
    version: u32,
    from: &'a str,
    to: &'a str,
    diagrams: &'a [Changes],
}

/// Runs the command.
///
/// # Errors
/// If it is called wrongly, or a file or git fails.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let project = session::project()?;
    let [from, to] = sides(&project, &arguments.words)?;
    for side in [&from, &to] {
        for reading in side.readings.iter().filter(|r| r.has_mistakes()) {
            voice.say(&format!("{}: {} has mistakes; what could be read is compared", side.name, reading.source.name));
        }
    }
    let changes = documents(from.readings.iter().map(|r| &r.document), to.readings.iter().map(|r| &r.document));
    if arguments.json {
        let report = Report { version: 1, from: &from.name, to: &to.name, diagrams: &changes };
        session::answer(&(serde_json::to_string_pretty(&report)? + "\n"))?;
    } else {
        let files = files_of(&[&from, &to]);
        session::answer(&told(&changes, &files, voice.result_colours()))?;
        if changes.is_empty() {
            voice.say(&format!("{} and {} show the same", from.name, to.name));
        }
    }
    Ok(if arguments.exit_code && !changes.is_empty() { Outcome::Denied } else { Outcome::Done })
}

/// Where each diagram stands: the newer version's file wins.
fn files_of(sides: &[&Side]) -> BTreeMap<String, String> {
    let mut files = BTreeMap::new();
    for reading in sides.iter().flat_map(|s| &s.readings) {
        let document = &reading.document;
        let names = document.diagrams.iter().map(|d| &d.name).chain(document.sheets.iter().map(|s| &s.name));
        for name in names {
            files.insert(name.clone(), reading.source.name.clone());
        }
    }
    files
}

/// The changes in words, a diagram at a time.
fn told(changes: &[Changes], files: &BTreeMap<String, String>, colours: Colours) -> String {
    let mut out = String::new();
    for diagram in changes {
        let file = files.get(&diagram.diagram).map_or("", String::as_str);
        out.push_str(&colours.paint("1", &format!("{} ({file})", diagram.diagram)));
        out.push('\n');
        for Change { fate, what, details, line, .. } in &diagram.changes {
            let (code, word) = match fate {
                Fate::Came => ("32", "came   "),
                Fate::Went => ("31", "went   "),
                Fate::Changed => ("33", "changed"),
            };
            let place = if *fate == Fate::Went { format!("was in line {line}") } else { format!("line {line}") };
            out.push_str(&format!(
                "  {}  {what}  {}\n",
                colours.paint(code, word),
                colours.paint("2", &format!("({place})"))
            ));
            out.extend(details.iter().map(|d| format!("             {d}\n")));
        }
        out.push('\n');
    }
    out
}

/// Reads the two versions that the words name.
fn sides(project: &Project, words: &[String]) -> Result<[Side; 2]> {
    let is_file = |w: &String| Path::new(w).is_file();
    if let [a, b] = words
        && is_file(a)
        && is_file(b)
    {
        return Ok([file_side(project, a)?, file_side(project, b)?]);
    }
    let split = words.iter().position(is_file).unwrap_or(words.len());
    let (versions, files) = words.split_at(split);
    if let Some(odd) = files.iter().find(|f| !is_file(f)) {
        return Err(Failure::Usage(format!("`{odd}` is no file; revisions come before files")));
    }
    let folder = std::path::absolute(&project.root)?;
    let git = Git::find(&folder)?;
    let (from, to) = match versions {
        [] => (Version::Revision("HEAD".into()), Version::WorkingTree),
        [from] => (Version::Revision(from.clone()), Version::WorkingTree),
        [from, to] => (Version::Revision(from.clone()), Version::Revision(to.clone())),
        _ => return Err(Failure::Usage("at most two revisions can be compared".into())),
    };
    let files: Vec<PathBuf> = files.iter().map(PathBuf::from).collect();
    Ok([git_side(project, &git, &from, &files)?, git_side(project, &git, &to, &files)?])
}

fn file_side(project: &Project, name: &str) -> Result<Side> {
    Ok(Side { name: name.to_owned(), readings: vec![session::open(project, Path::new(name))?] })
}

fn git_side(project: &Project, git: &Git, version: &Version, files: &[PathBuf]) -> Result<Side> {
    let revision = match version {
        Version::WorkingTree => {
            // Files that a revision has and the working tree lacks are simply not there.
            let present = session::sources(project, files).into_iter().filter(|p| p.is_file());
            let readings = present.map(|p| session::open(project, &p)).collect::<Result<Vec<_>>>()?;
            return Ok(Side { name: "the working tree".into(), readings });
        }
        Version::Revision(name) => name,
    };
    let commit = git.revision(revision)?;
    let root = std::path::absolute(&project.root)?;
    let root = root.canonicalize().unwrap_or(root);
    let wanted: BTreeSet<PathBuf> = if files.is_empty() {
        git.files(&commit, &root)?.into_iter().collect()
    } else {
        files.iter().map(|f| inside(git, f)).collect::<Result<_>>()?
    };
    let folder = root.strip_prefix(git.top.canonicalize()?).map(PathBuf::from).unwrap_or_default();
    let world = Revision { git, revision: &commit, folder };
    let mut readings = Vec::new();
    for path in wanted {
        if let Some(text) = git.text(&commit, &path)? {
            readings.push(session::read_text(project, &project.shown(&git.top.join(&path)), text, &world));
        }
    }
    Ok(Side { name: revision.clone(), readings })
}

/// A file's path relative to the repository.
fn inside(git: &Git, file: &Path) -> Result<PathBuf> {
    let full = file.canonicalize()?;
    let top = git.top.canonicalize()?;
    let relative = full
        .strip_prefix(&top)
        .map_err(|_| Failure::Usage(format!("{} is not in the repository {}", file.display(), top.display())))?;
    Ok(relative.to_owned())
}

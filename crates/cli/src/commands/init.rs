//! `init`: makes a folder a project.

use super::new::write_new;
use crate::outcome::{Outcome, Result};
use crate::session::{self, Voice};
use bathygram_host::{Format, MAX_SETTINGS, Project, config_schema, read_text, write_whole};
use std::path::Path;

/// Make the current folder a project: a commented config, a first diagram, git attributes
///
/// No config is needed to render; a project has one to say where pictures go and how much rules weigh. A folder that is a project
/// already gets what it lacks.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram init\n  bathygram init --schema")]
pub(crate) struct Arguments {
    /// Print the JSON Schema of the config instead, for editors
    #[arg(long)]
    schema: bool,
}

const CONFIG: &str = include_str!("../starters/bathygram.toml");
const FIRST: &str = include_str!("../starters/first.bathy");
/// What git learns about texts and pictures, in all folders of pictures: docs/git.md. Of pictures that differ on both sides of a
/// merge, one stays whole.
fn attributes_of(project: &Project) -> Vec<(String, &'static str)> {
    // Spaces end a pattern.
    let own = project.picture_folder().replace(' ', "?");
    let text = "text eol=lf diff=bathygram-picture -merge";
    let binary = "binary diff=bathygram-picture";
    let forms = Format::ALL.map(|form| match form {
        Format::Png | Format::Pdf => (format!("**/{own}/**/*.{}", form.ending()), binary),
        _ => (format!("**/{own}/**/*.{}", form.ending()), text),
    });
    [("*.bathy".to_owned(), "text eol=lf diff=bathygram")].into_iter().chain(forms).collect()
}

/// Runs the command.
///
/// # Errors
/// If the folder is a project already, or cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&config_schema())?;
        return Ok(Outcome::Done);
    }
    let folder = std::env::current_dir()?;
    let mut written = Vec::new();
    let is_there = Path::new("bathygram.toml").exists();
    if !is_there {
        write_whole(Path::new("bathygram.toml"), CONFIG.as_bytes())?;
        written.push("bathygram.toml");
    }
    let project = Project::find(&folder)?;
    // A folder that has texts needs no first one.
    if !is_there && project.sources()?.is_empty() {
        write_new(Path::new("tide_warning.bathy"), FIRST)?;
        written.push("tide_warning.bathy");
    }
    written.extend(attributes(&project)?);
    session::answer(&written.iter().map(|w| format!("{w}\n")).collect::<String>())?;
    voice.say(match (is_there, written.is_empty()) {
        (true, true) => "This folder is a project, and nothing is missing.",
        (true, false) => "This folder is a project; what was missing is added.",
        _ => "Draw with `bathygram render`, look for errors with `bathygram check`.",
    });
    Ok(Outcome::Done)
}

/// Adds what is missing to the git attributes; texts then have the same bytes on every machine.
fn attributes(project: &Project) -> Result<Option<&'static str>> {
    let path = Path::new(".gitattributes");
    let old = if path.exists() { read_text(path, MAX_SETTINGS)? } else { String::new() };
    let is_there = |pattern: &str| old.lines().any(|l| l.split_whitespace().next() == Some(pattern));
    let all = attributes_of(project);
    let missing = all.iter().filter(|(pattern, _)| !is_there(pattern));
    let added: String = missing.map(|(pattern, values)| format!("{pattern} {values}\n")).collect();
    if added.is_empty() {
        return Ok(None);
    }
    let gap = if old.is_empty() || old.ends_with('\n') { "" } else { "\n" };
    write_whole(path, format!("{old}{gap}{added}").as_bytes())?;
    Ok(Some(".gitattributes"))
}

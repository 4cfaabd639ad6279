//! `init`: makes a folder a project.

use super::new::write_new;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_host::{config_schema, write_whole};
use std::path::Path;

/// Make the current folder a project: a commented config, a first diagram, git attributes
///
/// No config is needed to render; a project has one to say where pictures go and how much rules weigh.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram init\n  bathygram init --schema")]
pub(crate) struct Arguments {
    /// Print the JSON Schema of the config instead, for editors
    #[arg(long)]
    schema: bool,
}

const CONFIG: &str = include_str!("../starters/bathygram.toml");
const FIRST: &str = include_str!("../starters/first.bathy");
/// What git learns about texts and pictures: docs/git.md. Of pictures that differ on both sides of a merge, one stays whole.
const ATTRIBUTES: &[(&str, &str)] = &[
    ("*.bathy", "text eol=lf diff=bathygram"),
    ("pictures/*.svg", "text eol=lf diff=bathygram-picture -merge"),
    ("pictures/*.png", "binary diff=bathygram-picture"),
    ("pictures/*.pdf", "binary diff=bathygram-picture"),
];

/// Runs the command.
///
/// # Errors
/// If the folder is a project already, or cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&config_schema())?;
        return Ok(Outcome::Done);
    }
    if Path::new("bathygram.toml").exists() {
        return Err(Failure::Usage("this folder is a project already: it has a bathygram.toml".into()));
    }
    write_whole(Path::new("bathygram.toml"), CONFIG.as_bytes())?;
    let mut written = vec!["bathygram.toml"];
    // A folder that has texts needs no first one.
    if session::project()?.sources().is_empty() {
        write_new(Path::new("tide_warning.bathy"), FIRST)?;
        written.push("tide_warning.bathy");
    }
    written.extend(attributes()?);
    session::answer(&written.iter().map(|w| format!("{w}\n")).collect::<String>())?;
    voice.say("Draw with `bathygram render`, look for errors with `bathygram check`.");
    Ok(Outcome::Done)
}

/// Adds what is missing to the git attributes; texts then have the same bytes on every machine.
fn attributes() -> Result<Option<&'static str>> {
    let path = Path::new(".gitattributes");
    let old = if path.exists() { std::fs::read_to_string(path)? } else { String::new() };
    let is_there = |pattern: &str| old.lines().any(|l| l.split_whitespace().next() == Some(pattern));
    let missing = ATTRIBUTES.iter().filter(|(pattern, _)| !is_there(pattern));
    let added: String = missing.map(|(pattern, values)| format!("{pattern} {values}\n")).collect();
    if added.is_empty() {
        return Ok(None);
    }
    let gap = if old.is_empty() || old.ends_with('\n') { "" } else { "\n" };
    write_whole(path, format!("{old}{gap}{added}").as_bytes())?;
    Ok(Some(".gitattributes"))
}

//! `icons`: the pictograms that there are, in the terminal and as a picture.

use crate::outcome::{Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::container::{Packed, Provenance};
use bathygram_core::notation::pictogram::{Entry, all, search, sheet};
use bathygram_core::pipeline::Studio;
use bathygram_host::Project;
use serde::Serialize;
use std::fmt::Write;
use std::path::{Path, PathBuf};

/// List the pictograms, or those that a word finds
///
/// A pictogram is named by `icon NAME` under an element, or `(icon NAME)` behind it. A project's own are named by the
/// path of an SVG or PNG, relative to the text: `icon "art/buoy.svg"`.
#[derive(clap::Args)]
#[command(
    after_help = "Examples:\n  bathygram icons\n  bathygram icons database\n  bathygram icons --picture --out icons.png"
)]
pub(crate) struct Arguments {
    /// A word: a name, a category, or what it should stand for
    word: Option<String>,
    /// Draw them, all on one sheet
    #[arg(long)]
    picture: bool,
    /// The file of that picture, SVG or PNG
    #[arg(long, short, value_name = "PATH", default_value = "icons.svg", requires = "picture")]
    out: PathBuf,
    /// Answer as JSON
    #[arg(long, conflicts_with = "picture")]
    json: bool,
}

#[derive(Serialize)]
struct Answer {
    version: u32,
    icons: Vec<Icon>,
}

#[derive(Serialize)]
struct Icon {
    name: &'static str,
    category: &'static str,
    words: Vec<&'static str>,
}

/// Runs the command.
///
/// # Errors
/// If nothing is found, or the picture cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let entries = arguments.word.as_deref().map_or_else(|| all().collect(), search);
    if entries.is_empty() {
        let word = arguments.word.as_deref().unwrap_or_default();
        voice.say(&format!(
            "no pictogram is found by `{word}`; `bathygram icons` lists all, an own one is named by its path"
        ));
        return Ok(Outcome::Denied);
    }
    if arguments.picture {
        return picture(arguments, &entries, voice);
    }
    let text = if arguments.json { json(&entries)? } else { list(&entries) };
    session::answer(&text)?;
    Ok(Outcome::Done)
}

fn json(entries: &[Entry]) -> std::result::Result<String, serde_json::Error> {
    let icon = |e: &Entry| Icon { name: e.name, category: e.category, words: e.words.clone() };
    let answer = Answer { version: 1, icons: entries.iter().map(icon).collect() };
    Ok(serde_json::to_string_pretty(&answer)? + "\n")
}

/// A heading for each category, a line for each pictogram; what a word finds, the best first.
fn list(entries: &[Entry]) -> String {
    let mut out = String::new();
    let width = entries.iter().map(|e| e.name.len()).max().unwrap_or(0);
    for (i, entry) in entries.iter().enumerate() {
        let is_new = i == 0 || entries[i - 1].category != entry.category;
        if is_new {
            let _ = writeln!(out, "{}{}", if i == 0 { "" } else { "\n" }, entry.category);
        }
        let _ = writeln!(out, "  {:width$}  {}", entry.name, entry.words.join(", "));
    }
    out
}

fn picture(arguments: &Arguments, entries: &[Entry], voice: Voice) -> Result {
    let studio = Studio::new();
    let drawing = sheet(entries, &studio.fonts);
    let packed = Packed::default();
    session::write_sheet(
        &Project::without_config(Path::new("")),
        &arguments.out,
        &drawing,
        &studio,
        &Provenance::without_text("icons", &packed),
    )?;
    let drawn = if entries.len() == 1 { "1 pictogram".to_owned() } else { format!("{} pictograms", entries.len()) };
    voice.say(&format!("{drawn} drawn"));
    Ok(Outcome::Done)
}

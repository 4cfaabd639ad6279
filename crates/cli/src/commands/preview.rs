//! `preview`: a local page that shows pictures beside their texts.

use super::{new, render};
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_host::{Project, Seen};
use bathygram_preview::{Export, Options, Preview};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// A page on this machine that shows pictures beside their texts, and follows both
///
/// What is typed in the page, or saved in any editor, is drawn at once. Shapes and lines point at each other, and what is dragged
/// becomes a line of text. The page is for this machine alone, and its address holds a secret; Ctrl C ends it.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram preview --open\n  bathygram preview surge_warning.bathy")]
pub(crate) struct Arguments {
    /// Sources; all of the project if none is named
    files: Vec<PathBuf>,
    /// Open the page in the browser
    #[arg(long)]
    open: bool,
    /// Port of the address; any that is free if none is named
    #[arg(long, value_name = "NUMBER", default_value_t = 0, hide_default_value = true)]
    port: u16,
}

/// Runs the command.
///
/// # Errors
/// If a file is not there, or nothing can be served.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    for file in &arguments.files {
        if !file.is_file() {
            return Err(Failure::Usage(format!("{} is no file", file.seen())));
        }
        if file.extension().is_none_or(|ending| ending != "bathy") {
            return Err(Failure::Usage(format!("{} is no source: its name does not end in .bathy", file.seen())));
        }
    }
    let project = project(&arguments.files)?;
    let only = arguments.files.clone();
    let preview = start(Options {
        project,
        only,
        export: export(),
        starters: new::starters(),
        port: arguments.port,
        editor: None,
    })?;
    session::answer(&format!("{}\n", preview.address()))?;
    voice.say("The page is there until Ctrl C ends it.");
    if arguments.open && !open(preview.address()) {
        voice.say("No browser could be opened; open the address in one.");
    }
    preview.serve();
    Ok(Outcome::Done)
}

/// Begins to serve.
fn start(options: Options) -> Result<Preview> {
    Preview::start(options).map_err(|why| Failure::Outside(why.into()))
}

/// The project around the working folder; around the first file, if that lies elsewhere.
fn project(files: &[PathBuf]) -> Result<Project> {
    let project = session::project()?;
    let absolute = |path: &Path| std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    let root = absolute(&project.root);
    match files.iter().map(|file| absolute(file)).find(|file| !file.starts_with(&root)) {
        None => Ok(project),
        Some(file) => {
            let folder = file.parent().unwrap_or(&root);
            let own = Project::find(folder)?;
            let own_root = absolute(&own.root);
            if let Some(odd) = files.iter().find(|file| !absolute(file).starts_with(&own_root)) {
                let message = format!("{} and {} are in different projects", odd.seen(), file.seen());
                return Err(Failure::Usage(message));
            }
            Ok(own)
        }
    }
}

/// How pictures become files.
pub(crate) fn export() -> Export {
    Box::new(|project, reading, picture, format| {
        render::exported(project, reading, picture, format).map_err(|why| why.to_string())
    })
}

/// Opens an address in the browser of the desktop; says whether that could be tried.
fn open(address: &str) -> bool {
    let ways: &[&[&str]] = match std::env::consts::OS {
        "macos" => &[&["open"]],
        "windows" => &[&["rundll32", "url.dll,FileProtocolHandler"]],
        _ => &[&["xdg-open"], &["gio", "open"]],
    };
    ways.iter().any(|way| {
        let mut command = Command::new(way[0]);
        command.args(&way[1..]).arg(address).stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
        command.spawn().is_ok()
    })
}

//! `preview`: a local page that shows pictures beside their texts.

use super::{new, render};
use crate::desktop;
use crate::named;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_host::{Project, Seen, is_document};
use bathygram_preview::{Export, Options, Preview};
use std::path::{Path, PathBuf};

/// Show pictures beside their sources on a page of this machine, which follows both
///
/// What is typed in the page, or saved in any editor, is drawn at once. Shapes and lines point at each other, and what is dragged
/// becomes a line of text. The page is for this machine alone, and its address holds a secret; Ctrl C ends it.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram preview --open\n  bathygram preview surge_warning.bathy")]
pub(crate) struct Arguments {
    /// Source files, folders or patterns; all of the project if none is named
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
    let project = project(&arguments.files)?;
    let only = match arguments.files.is_empty() {
        true => Vec::new(),
        false => named::files(&project, &arguments.files, named::Takes::Sources)?,
    };
    if let Some(document) = only.iter().find(|path| is_document(path)) {
        let shown = document.seen();
        return Err(Failure::Usage(format!("{shown} is a document; the page shows sources, which end in .bathy")));
    }
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
    if arguments.open && !desktop::show(preview.address()) {
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

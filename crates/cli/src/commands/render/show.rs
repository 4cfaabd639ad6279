//! `--open`: what was drawn, shown by the desktop.

use super::Arguments;
use crate::desktop;
use crate::named::{self, Takes};
use crate::outcome::Result;
use crate::session::{self, Voice};
use bathygram_host::{Format, PictureOf, Project, Seen, picture_file, write_whole};
use std::path::Path;

/// Shows a file, or says what to do where nothing shows it.
pub(super) fn file(path: &Path, voice: Voice) {
    // Some programs that show files are started in another folder.
    let absolute = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    if !desktop::show(&absolute.to_string_lossy()) {
        voice.say(&format!("Nothing here shows pictures; open {} in a browser.", path.seen()));
    }
}

/// Shows the first picture of what was built, whether it was drawn now or before.
///
/// # Errors
/// If the sources cannot be listed.
pub(super) fn built(project: &Project, arguments: &Arguments, voice: Voice) -> Result<()> {
    let sources = named::files(project, &arguments.files, Takes::Sources)?;
    let mut texts = sources.iter().filter_map(|path| session::open_texts(project, path).ok()).flatten();
    let first = texts.find_map(|reading| {
        let picture = reading.pictures().next().filter(|_| !reading.has_errors())?;
        let of = PictureOf { source: &reading.source.name, name: picture.name };
        Some(of.files(project).into_iter().next()?.1)
    });
    if let Some(first) = first {
        let shown = project.from_here(&project.shown(&first));
        file(Path::new(&shown), voice);
    }
    Ok(())
}

/// Shows a picture of standard input, in a file among those that the machine clears away.
///
/// # Errors
/// If it cannot be written.
pub(super) fn piped(name: &str, format: Format, bytes: &[u8], voice: Voice) -> Result<()> {
    // Another user may have a folder of the same name: this one is new.
    let folder = tempfile::Builder::new().prefix("bathygram-").tempdir()?.keep();
    let path = picture_file(&folder, name, format)?;
    write_whole(&path, bytes)?;
    session::answer(&format!("{}\n", path.seen()))?;
    file(&path, voice);
    Ok(())
}

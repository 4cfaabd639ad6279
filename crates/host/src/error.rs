//! What fails outside the program: files, git, the config.

use crate::{MAX_DOCUMENT, MAX_SOURCE, Seen};
use std::path::PathBuf;

/// Something outside failed.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// A file could not be read.
    #[error("cannot read {}: {why}", path.seen())]
    Read {
        /// The file.
        path: PathBuf,
        /// Why.
        why: std::io::Error,
    },
    /// A folder was named where a file is read.
    #[error("{} is a folder: name the files in it, or none for the whole project", path.seen())]
    Folder {
        /// The folder.
        path: PathBuf,
    },
    /// A folder of source files is none.
    #[error("{} is no folder that can be read", path.seen())]
    NotAFolder {
        /// The path.
        path: PathBuf,
    },
    /// A folder holds more files than any source tree.
    #[error("{} holds more than {most} files: name the folder of the sources", path.seen())]
    TooManyFiles {
        /// The folder.
        path: PathBuf,
        /// How many may be in it.
        most: usize,
    },
    /// There is no such theme, or it has an error.
    #[error("{message}")]
    Theme {
        /// What is wrong, and what to write instead.
        message: String,
    },
    /// A font that a project names is none.
    #[error("{} cannot be used as a font: {why}", path.seen())]
    Font {
        /// Its file.
        path: PathBuf,
        /// Why not.
        why: String,
    },
    /// A file could not be written.
    #[error("cannot write {}: {why}", path.seen())]
    Write {
        /// The file.
        path: PathBuf,
        /// Why.
        why: std::io::Error,
    },
    /// A file could not be removed.
    #[error("cannot remove {}: {why}", path.seen())]
    Remove {
        /// The file.
        path: PathBuf,
        /// Why.
        why: std::io::Error,
    },
    /// A picture has a name that no file can have.
    #[error(
        "no picture file can be called `{name}`: write a name without `/`, `\\`, `:` and without a dot at its beginning"
    )]
    PictureName {
        /// The name.
        name: String,
    },
    /// A file is not text.
    #[error("{}:{line}: this is not UTF-8 text; save the file as UTF-8", path.seen())]
    NotText {
        /// The file.
        path: PathBuf,
        /// The first line that is not UTF-8.
        line: usize,
    },
    /// A file is larger than its kind is.
    #[error("{} is larger than {}{}", path.seen(), size(*limit), if [MAX_SOURCE, MAX_DOCUMENT].contains(limit) { "; divide it into several" } else { "" })]
    TooLarge {
        /// The file.
        path: PathBuf,
        /// The limit in bytes.
        limit: u64,
    },
    /// A pipe, a device or a socket stands where a file is read.
    #[error("{} is no regular file; `-` reads standard input", path.seen())]
    NotRegular {
        /// The path.
        path: PathBuf,
    },
    /// A file would be overwritten that this program did not draw.
    #[error(
        "{} is not drawn by this program, and stays as it is; remove it, give the picture another name, or overwrite it with \
         --force",
        path.seen()
    )]
    Foreign {
        /// The file.
        path: PathBuf,
    },
    /// The config has an error.
    #[error("{}: {message}", path.seen())]
    Config {
        /// The file.
        path: PathBuf,
        /// What is wrong.
        message: String,
    },
    /// git could not do what was asked.
    #[error("git: {0}")]
    Git(String),
    /// Another build runs in the project.
    #[error("another `bathygram render` is at work in {} for more than {seconds} s; try again when it has ended", root.seen())]
    Busy {
        /// The project's folder.
        root: PathBuf,
        /// How long it was waited for.
        seconds: u64,
    },
    /// A folder cannot be watched.
    #[error("cannot watch {}: {why}", root.seen())]
    Watch {
        /// The project's folder.
        root: PathBuf,
        /// Why.
        why: String,
    },
    /// A file would be written through a symbolic link, to somewhere else.
    #[error("{} is a symbolic link; nothing is written through it, so remove the link, or name another place", path.seen())]
    Link {
        /// The link.
        path: PathBuf,
    },
}

/// A number of bytes as people write it.
fn size(bytes: u64) -> String {
    let mut units = [(30, "GiB"), (20, "MiB"), (10, "KiB")].into_iter();
    let unit = units.find(|(shift, _)| bytes >= 1 << shift);
    unit.map_or_else(|| format!("{bytes} bytes"), |(shift, unit)| format!("{} {unit}", bytes >> shift))
}

//! What fails outside the program: files, git, the config.

use std::path::PathBuf;

/// Something outside failed.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// A file could not be read.
    #[error("cannot read {}: {why}", path.display())]
    Read {
        /// The file.
        path: PathBuf,
        /// Why.
        why: std::io::Error,
    },
    /// A folder was named where a file is read.
    #[error("{} is a folder: name the files in it, or none for the whole project", path.display())]
    Folder {
        /// The folder.
        path: PathBuf,
    },
    /// A folder of source files is none.
    #[error("{} is no folder that can be read", path.display())]
    NotAFolder {
        /// The path.
        path: PathBuf,
    },
    /// A folder holds more files than any source tree.
    #[error("{} holds more than {most} files: name the folder of the sources", path.display())]
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
    #[error("{} cannot be used as a font: {why}", path.display())]
    Font {
        /// Its file.
        path: PathBuf,
        /// Why not.
        why: String,
    },
    /// A file could not be written.
    #[error("cannot write {}: {why}", path.display())]
    Write {
        /// The file.
        path: PathBuf,
        /// Why.
        why: std::io::Error,
    },
    /// A file could not be removed.
    #[error("cannot remove {}: {why}", path.display())]
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
    #[error("{}:{line}: this is not UTF-8 text; save the file as UTF-8", path.display())]
    NotText {
        /// The file.
        path: PathBuf,
        /// The first line that is not UTF-8.
        line: usize,
    },
    /// A file is too large to be a description of a diagram.
    #[error("{} has {size} bytes; a file may have {limit}, so divide it into several", path.display())]
    TooLarge {
        /// The file.
        path: PathBuf,
        /// Its size in bytes.
        size: u64,
        /// The limit in bytes.
        limit: u64,
    },
    /// The config has an error.
    #[error("{}: {message}", path.display())]
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
    #[error("another `bathygram render` is at work in {} for more than {seconds} s; try again when it has ended", root.display())]
    Busy {
        /// The project's folder.
        root: PathBuf,
        /// How long it was waited for.
        seconds: u64,
    },
    /// A folder cannot be watched.
    #[error("cannot watch {}: {why}", root.display())]
    Watch {
        /// The project's folder.
        root: PathBuf,
        /// Why.
        why: String,
    },
    /// A file would be written through a symbolic link, to somewhere else.
    #[error("{} is a symbolic link; nothing is written through it, so remove the link, or name another place", path.display())]
    Link {
        /// The link.
        path: PathBuf,
    },
}

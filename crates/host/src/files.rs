//! Reading sources and writing files whole.

use crate::{Error, Format, is_document};
use bathygram_core::container;
use bathygram_core::source::world::is_file_name;
use std::fs::File;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};

/// A source file may have this many bytes.
// What is larger is a file of another kind with our ending.
pub const MAX_SOURCE: u64 = 16 * 1024 * 1024;

/// A document may have this many bytes.
// It is read by a reader of Markdown, which holds up to 150 bytes for each of them.
pub const MAX_DOCUMENT: u64 = 4 * 1024 * 1024;

/// How many bytes a source or a document may have, by its name.
pub fn limit_of(path: &Path) -> u64 {
    if is_document(path) { MAX_DOCUMENT } else { MAX_SOURCE }
}

/// What names of temporary files begin with.
const TEMPORARY: &str = ".bathygram-";

/// A picture has at most this many bytes.
// A picture is rarely ten times as long as its text; a foreign file of any size is not read into memory.
pub const MAX_PICTURE: u64 = 16 * MAX_SOURCE;

/// A config, a theme, a table of words, or a file that says what git ignores, has at most this many bytes.
pub const MAX_SETTINGS: u64 = 1024 * 1024;

/// Where a shell puts the pipes that it makes for a command.
const PIPES: [&str; 2] = ["/dev/fd", "/proc/self/fd"];

/// Whether a path is a pipe that a shell made for a command.
pub fn is_pipe(path: &Path) -> bool {
    PIPES.iter().any(|folder| path.starts_with(folder))
}

/// Reads a source file, `-` for standard input.
///
/// # Errors
/// If it cannot be read, is too large, or is not UTF-8.
pub fn read_source(path: &Path) -> Result<String, Error> {
    let bytes = if path == Path::new("-") {
        bounded(path, std::io::stdin().lock(), MAX_SOURCE)?
    } else if is_pipe(path) {
        bounded(path, opened(path)?, MAX_SOURCE)?
    } else {
        read_bounded(path, limit_of(path))?
    };
    text(path, bytes)
}

/// Reads a regular file as far as its kind is long: what is larger, a pipe or a device is refused before it is read.
///
/// # Errors
/// If it is none, is larger, or cannot be read.
pub fn read_bounded(path: &Path, limit: u64) -> Result<Vec<u8>, Error> {
    let failed = |why: std::io::Error| Error::Read { path: path.to_owned(), why };
    // A pipe is not opened: that would wait until somebody writes to it.
    let about = std::fs::metadata(path).map_err(failed)?;
    if about.is_dir() {
        return Err(Error::Folder { path: path.to_owned() });
    }
    if !about.is_file() {
        return Err(Error::NotRegular { path: path.to_owned() });
    }
    if about.len() > limit {
        return Err(Error::TooLarge { path: path.to_owned(), limit });
    }
    bounded(path, opened(path)?, limit)
}

/// As [`read_bounded`], as text.
///
/// # Errors
/// As there, and if it is not UTF-8.
pub fn read_text(path: &Path, limit: u64) -> Result<String, Error> {
    text(path, read_bounded(path, limit)?)
}

fn opened(path: &Path) -> Result<File, Error> {
    File::open(path).map_err(|why| Error::Read { path: path.to_owned(), why })
}

/// What can be read, up to a limit.
fn bounded(path: &Path, from: impl Read, limit: u64) -> Result<Vec<u8>, Error> {
    let mut bytes = Vec::new();
    from.take(limit + 1).read_to_end(&mut bytes).map_err(|why| Error::Read { path: path.to_owned(), why })?;
    match bytes.len() as u64 > limit {
        true => Err(Error::TooLarge { path: path.to_owned(), limit }),
        false => Ok(bytes),
    }
}

fn text(path: &Path, bytes: Vec<u8>) -> Result<String, Error> {
    String::from_utf8(bytes).map_err(|e| {
        let good = e.utf8_error().valid_up_to();
        let line = e.as_bytes()[..good].iter().filter(|b| **b == b'\n').count() + 1;
        Error::NotText { path: path.to_owned(), line }
    })
}

/// Writes a file whole or not at all: a temporary file in the same folder, then a rename. Missing
/// folders are made. A file that already holds these bytes is left untouched; says whether it wrote.
///
/// # Errors
/// If the folder or the file cannot be written.
pub fn write_whole(path: &Path, bytes: &[u8]) -> Result<bool, Error> {
    write(path, bytes, Care::Lasting)
}

/// Whether a file must be on the disk before it takes the place of the one that was there.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Care {
    /// It is somebody's work.
    Lasting,
    /// It can be made again, and is found out if the machine lost it: waiting for the disk takes longer than drawing.
    Remade,
}

fn write(path: &Path, bytes: &[u8], care: Care) -> Result<bool, Error> {
    let failed = |why| Error::Write { path: path.to_owned(), why };
    if std::fs::metadata(path).is_ok_and(|about| about.is_file() && about.len() == bytes.len() as u64)
        && std::fs::read(path).is_ok_and(|old| old == bytes)
    {
        return Ok(false);
    }
    let folder = path.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder).map_err(failed)?;
    let mut file = tempfile::Builder::new().prefix(TEMPORARY).tempfile_in(folder).map_err(failed)?;
    file.write_all(bytes).map_err(failed)?;
    if care == Care::Lasting {
        file.as_file().sync_data().map_err(failed)?;
    }
    with_permissions(&file, path).map_err(failed)?;
    file.persist(path).map_err(|e| failed(e.error))?;
    Ok(true)
}

/// As [`write_whole`], below a folder, and never through a symbolic link that lies below it.
///
/// # Errors
/// As there, and if there is such a link.
pub fn write_inside(folder: &Path, path: &Path, bytes: &[u8]) -> Result<bool, Error> {
    write_picture(path, bytes, Room { below: Some(folder), overwrite: Overwrite::Any })
}

/// What a picture may be written over.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Overwrite {
    /// Pictures that this program drew.
    Own,
    /// Any file: its name was written by whoever called the program, or `--force` was.
    Any,
}

/// Where a picture may go.
#[derive(Clone, Copy, Debug)]
pub struct Room<'a> {
    /// A folder below which nothing is written through a symbolic link.
    pub below: Option<&'a Path>,
    /// What may be lost.
    pub overwrite: Overwrite,
}

/// Writes a picture whole or not at all; says whether it was another one.
///
/// # Errors
/// If a link or a file of somebody else is in the way, or it cannot be written.
pub fn write_picture(path: &Path, bytes: &[u8], room: Room<'_>) -> Result<bool, Error> {
    if let Some(path) = room.below.and_then(|folder| link_below(folder, path)) {
        return Err(Error::Link { path });
    }
    if room.overwrite == Overwrite::Own && is_foreign(path) {
        return Err(Error::Foreign { path: path.to_owned() });
    }
    write(path, bytes, if room.below.is_some() { Care::Remade } else { Care::Lasting })
}

/// Whether a file is there that this program did not draw.
fn is_foreign(path: &Path) -> bool {
    match read_bounded(path, MAX_PICTURE) {
        Ok(bytes) => !bytes.is_empty() && container::read(&bytes).is_none(),
        // Whatever else is in the way is said when it is written.
        Err(Error::Read { why, .. }) => why.kind() == std::io::ErrorKind::PermissionDenied,
        Err(Error::Folder { .. }) => false,
        Err(_) => true,
    }
}

/// Removes a picture below a folder, and never through a symbolic link that lies below it.
///
/// # Errors
/// If there is such a link, or the file cannot be removed.
pub fn remove_inside(folder: &Path, path: &Path) -> Result<(), Error> {
    match link_below(folder, path) {
        Some(path) => Err(Error::Link { path }),
        None => std::fs::remove_file(path).map_err(|why| Error::Remove { path: path.to_owned(), why }),
    }
}

/// The first symbolic link on the way from a folder down to a path, the path itself included.
pub(crate) fn link_below(folder: &Path, path: &Path) -> Option<PathBuf> {
    // A path may be written from the working folder.
    let absolute = |p: &Path| std::path::absolute(p).unwrap_or_else(|_| p.to_owned());
    let (folder, path) = (absolute(folder), absolute(path));
    let below = path.strip_prefix(&folder).unwrap_or(&path);
    let mut steps = below.ancestors().filter(|step| !step.as_os_str().is_empty()).map(|step| folder.join(step));
    steps.find(|step| step.is_symlink())
}

/// The file of a picture in a folder: the one function that makes the name of a file out of a name in a source.
///
/// # Errors
/// If the name is a path, or cannot be that of a file for another reason.
pub fn picture_file(folder: &Path, name: &str, format: Format) -> Result<PathBuf, Error> {
    match is_file_name(name) {
        true => Ok(folder.join(format!("{name}.{}", format.ending()))),
        false => Err(Error::PictureName { name: name.to_owned() }),
    }
}

/// Removes the temporary files that a run left in a folder of a project when it was killed. Only while no other run can be
/// at work, and not behind a link.
pub fn clear_unfinished(root: &Path, folder: &Path) {
    if link_below(root, folder).is_some() {
        return;
    }
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    for entry in entries.filter(|e| e.file_name().to_string_lossy().starts_with(TEMPORARY)) {
        // What cannot be removed does no harm.
        let _ = std::fs::remove_file(entry.path());
    }
}

/// Temporary files are private. A file that was there keeps its permissions, a new one is readable.
#[cfg(unix)]
fn with_permissions(file: &tempfile::NamedTempFile, path: &Path) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    let kept = std::fs::metadata(path).map(|m| m.permissions());
    file.as_file().set_permissions(kept.unwrap_or_else(|_| std::fs::Permissions::from_mode(0o644)))
}

#[cfg(not(unix))]
fn with_permissions(_: &tempfile::NamedTempFile, _: &Path) -> std::io::Result<()> {
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[cfg(unix)]
    #[test]
    fn nothing_is_written_through_a_link() {
        let (folder, outside) = (tempfile::tempdir().expect("a folder"), tempfile::tempdir().expect("a folder"));
        let target = outside.path().join("secret");
        std::fs::write(&target, "mine").expect("written");
        std::os::unix::fs::symlink(&target, folder.path().join("a.svg")).expect("linked");
        std::os::unix::fs::symlink(outside.path(), folder.path().join("deep")).expect("linked");
        for name in ["a.svg", "deep/b.svg"] {
            let written = write_inside(folder.path(), &folder.path().join(name), b"new");
            assert!(matches!(written, Err(Error::Link { .. })), "{name}");
        }
        assert_eq!(std::fs::read(&target).expect("there"), b"mine");
        assert_eq!(std::fs::read_dir(outside.path()).expect("there").count(), 1);
        assert!(write_inside(folder.path(), &folder.path().join("x/c.svg"), b"new").expect("written"));
        std::fs::write(outside.path().join(".bathygram-left"), "").expect("written");
        let removed = remove_inside(folder.path(), &folder.path().join("deep/secret"));
        assert!(matches!(removed, Err(Error::Link { .. })));
        clear_unfinished(folder.path(), &folder.path().join("deep"));
        assert_eq!(std::fs::read_dir(outside.path()).expect("there").count(), 2);
        remove_inside(folder.path(), &folder.path().join("x/c.svg")).expect("removed");
    }

    #[test]
    fn writes_whole_and_only_when_needed() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("deep/er/a.svg");
        assert!(write_whole(&path, b"one").expect("written"));
        assert!(!write_whole(&path, b"one").expect("unchanged"));
        assert!(write_whole(&path, b"two").expect("written"));
        assert_eq!(std::fs::read(&path).expect("read"), b"two");
        assert_eq!(std::fs::read_dir(folder.path().join("deep/er")).expect("folder").count(), 1);
    }
}

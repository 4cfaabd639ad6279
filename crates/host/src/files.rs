//! Reading sources and writing files whole.

use crate::Error;
use std::io::{Read, Write};
use std::path::Path;

/// A source file may have this many bytes.
pub const MAX_SOURCE: u64 = 16 * 1024 * 1024;

/// Reads a source file, `-` for standard input.
///
/// # Errors
/// If it cannot be read, is too large, or is not UTF-8.
pub fn read_source(path: &Path) -> Result<String, Error> {
    let failed = |source| Error::Read { path: path.to_owned(), source };
    let mut bytes = Vec::new();
    if path == Path::new("-") {
        std::io::stdin().lock().take(MAX_SOURCE + 1).read_to_end(&mut bytes).map_err(failed)?;
    } else {
        let file = std::fs::File::open(path).map_err(failed)?;
        let size = file.metadata().map_err(failed)?.len();
        if size > MAX_SOURCE {
            return Err(Error::TooLarge { path: path.to_owned(), size, limit: MAX_SOURCE });
        }
        file.take(MAX_SOURCE + 1).read_to_end(&mut bytes).map_err(failed)?;
    }
    let size = bytes.len() as u64;
    if size > MAX_SOURCE {
        return Err(Error::TooLarge { path: path.to_owned(), size, limit: MAX_SOURCE });
    }
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
    let failed = |source| Error::Write { path: path.to_owned(), source };
    if std::fs::read(path).is_ok_and(|old| old == bytes) {
        return Ok(false);
    }
    let folder = path.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder).map_err(failed)?;
    let mut file = tempfile::Builder::new().prefix(".bathygram-").tempfile_in(folder).map_err(failed)?;
    file.write_all(bytes).and_then(|()| file.as_file().sync_data()).map_err(failed)?;
    with_permissions(&file, path).map_err(failed)?;
    file.persist(path).map_err(|e| failed(e.error))?;
    Ok(true)
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

//! The folder of the build record: where it is, whether it was made here, and the lock in it.

use crate::files::{link_below, read_bounded};
use crate::record::Purpose;
#[cfg(not(unix))]
use crate::record::nanoseconds;
use crate::{Error, Project};
use std::fs::{File, Metadata, TryLockError};
use std::path::PathBuf;
use std::time::{Duration, Instant};

/// The folder of the record, in the project's.
pub(crate) const FOLDER: &str = ".bathygram";

/// Held while a project is built.
#[derive(Debug)]
pub struct Lock(#[expect(dead_code, reason = "the lock is held as long as the file is open")] File);

impl Lock {
    /// Takes the lock, or waits until another build has ended; `waiting` is told that once. `None` where the project cannot be
    /// written, and so cannot be locked.
    ///
    /// # Errors
    /// If the other build takes longer than `patience`, or the record's folder is a link.
    pub fn take(project: &Project, patience: Duration, waiting: impl FnOnce()) -> Result<Option<Self>, Error> {
        let folder = match folder(project) {
            Ok(folder) => folder,
            Err(link @ Error::Link { .. }) => return Err(link),
            Err(_) => return Ok(None),
        };
        let Ok(file) = File::options().create(true).append(true).open(folder.join(LOCK)) else { return Ok(None) };
        let begun = Instant::now();
        let mut waiting = Some(waiting);
        loop {
            match file.try_lock() {
                Ok(()) => return Ok(Some(Self(file))),
                // A file system without locks.
                Err(TryLockError::Error(_)) => return Ok(None),
                Err(TryLockError::WouldBlock) if begun.elapsed() >= patience => {
                    let seconds = patience.as_secs();
                    return Err(Error::Busy { root: project.root.clone(), seconds });
                }
                Err(TryLockError::WouldBlock) => {
                    waiting.take().into_iter().for_each(|say| say());
                    std::thread::sleep(AGAIN);
                }
            }
        }
    }
}

/// A command waits so long for another one that draws.
pub const PATIENCE: Duration = Duration::from_secs(120);

/// How long it takes until a lock is tried again.
const AGAIN: Duration = Duration::from_millis(20);

/// The record's folder, made where it is not there; git does not see it.
pub(crate) fn folder(project: &Project) -> Result<PathBuf, Error> {
    refuse_links(project)?;
    let folder = project.root.join(FOLDER);
    let ignored = folder.join(".gitignore");
    if !ignored.is_file() {
        let failed = |why| Error::Write { path: folder.clone(), why };
        std::fs::create_dir_all(&folder).map_err(failed)?;
        std::fs::write(ignored, "*\n").map_err(failed)?;
    }
    Ok(folder)
}

/// The file that is locked. It is never written again, so that it marks where the folder was made.
const LOCK: &str = "lock";

/// Refuses a folder of the record that is a link, or has one in it: what is written there would be somewhere else.
///
/// # Errors
/// If it is one.
pub(crate) fn refuse_links(project: &Project) -> Result<(), Error> {
    let folder = project.root.join(FOLDER);
    let names = [LOCK, ".gitignore", Purpose::Build.file(), Purpose::Check.file(), UNMET, SITE];
    let found = names.iter().find_map(|name| link_below(&project.root, &folder.join(name)));
    found.map_or(Ok(()), |path| Err(Error::Link { path }))
}

/// The file of what layouts could not keep, beside the record.
pub(crate) const UNMET: &str = "unmet.json";
/// The file of what a site was made from, beside the record.
pub(crate) const SITE: &str = "site.json";
/// A file of the record has at most this many bytes.
// A project of 100,000 pictures has one of 60 MB.
const MAX_RECORD: u64 = 256 * 1024 * 1024;

/// Where and when a folder of the record was made: the number of its lock on the disk, and when that was last changed, in ns since
/// 1970. The machine writes both, so that no archive, and no commit, brings them along.
pub(crate) type Mark = (u64, u64);

/// The mark of the record's folder; `None` where there is none.
pub(crate) fn mark(project: &Project) -> Option<Mark> {
    let about = std::fs::symlink_metadata(project.root.join(FOLDER).join(LOCK)).ok()?;
    about.is_file().then(|| (node(&about), changed(&about)))
}

/// The mark of the record's folder, which is made where it is not there.
pub(crate) fn made_mark(project: &Project) -> Option<Mark> {
    if mark(project).is_none() {
        let _ = File::options().create(true).append(true).open(folder(project).ok()?.join(LOCK));
    }
    mark(project)
}

/// The bytes of a file of the record; `None` if it is none, or behind a link.
pub(crate) fn recorded(project: &Project, file: &str) -> Option<Vec<u8>> {
    refuse_links(project).ok()?;
    read_bounded(&project.root.join(FOLDER).join(file), MAX_RECORD).ok()
}

#[cfg(unix)]
pub(crate) fn node(about: &Metadata) -> u64 {
    std::os::unix::fs::MetadataExt::ino(about)
}

#[cfg(not(unix))]
pub(crate) fn node(_: &Metadata) -> u64 {
    0
}

/// When a file was last changed in any way, in ns since 1970; nobody can set that.
#[cfg(unix)]
fn changed(about: &Metadata) -> u64 {
    use std::os::unix::fs::MetadataExt;
    let seconds = u64::try_from(about.ctime()).unwrap_or(0);
    seconds.saturating_mul(1_000_000_000).saturating_add(u64::try_from(about.ctime_nsec()).unwrap_or(0))
}

/// When a file was made, in ns since 1970.
#[cfg(not(unix))]
fn changed(about: &Metadata) -> u64 {
    about.created().map_or(0, nanoseconds)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn who_waits_says_so_once_and_gives_up_after_a_while() {
        let folder = tempfile::tempdir().expect("a folder");
        let project = Project::find(folder.path()).expect("a project");
        let held = Lock::take(&project, Duration::ZERO, || panic!("nobody is there")).expect("free");
        let mut waited = 0;
        let refused = Lock::take(&project, Duration::from_millis(90), || waited += 1);
        assert_eq!(waited, 1);
        let why = refused.expect_err("held").to_string();
        assert!(why.starts_with("another `bathygram render` is at work"), "{why}");
        drop(held);
        assert!(Lock::take(&project, Duration::ZERO, || panic!("nobody is there")).expect("free").is_some());
    }
}

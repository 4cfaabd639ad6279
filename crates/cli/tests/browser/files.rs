//! Files of a test, and the program that writes them.

use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::Command;

/// A folder for a test, with the program run in it.
pub(crate) struct Folder(tempfile::TempDir);

impl Folder {
    /// An empty one.
    pub(crate) fn new() -> Self {
        Self(tempfile::tempdir().expect("a folder"))
    }

    /// With the demo in it.
    pub(crate) fn demo() -> Self {
        let folder = Self::new();
        folder.run(&["-q", "demo", "."]);
        folder
    }

    /// A file of it.
    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    /// Writes a file.
    pub(crate) fn write(&self, name: &str, text: &str) {
        std::fs::write(self.path(name), text).expect("written");
    }

    /// Runs the program, which must succeed.
    pub(crate) fn run(&self, arguments: &[&str]) {
        self.answer(arguments);
    }

    /// The same; gives what it answers.
    pub(crate) fn answer(&self, arguments: &[&str]) -> String {
        let done = Command::new(env!("CARGO_BIN_EXE_bathygram")).args(arguments).current_dir(self.0.path()).output();
        let done = done.expect("the program starts");
        assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
        String::from_utf8_lossy(&done.stdout).into_owned()
    }
}

/// Says that something was not tested. It is seen though the test passes.
pub(crate) fn skipped(why: &str) {
    let _ = writeln!(std::io::stderr(), "skipped: {why}; `cargo xtask test` installs it");
}

/// A file of the repository.
pub(crate) fn repository(path: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(path)
}

/// The text of axe-core, which looks for faults in a page; says so if it is not here.
pub(crate) fn axe() -> Option<String> {
    let axe = std::fs::read_to_string(repository("target/browser-tools/node_modules/axe-core/axe.min.js")).ok();
    if axe.is_none() {
        skipped("axe-core is not here");
    }
    axe
}

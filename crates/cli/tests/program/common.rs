//! A temporary folder with the built program in it, and what the program's texts say.

use bathygram_core::model::{Action, Diagram, Member, Reference, TableConstraint};
use bathygram_core::pipeline::{Setting, read};
use bathygram_core::source::Source;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// A folder for one test.
pub(crate) struct Folder {
    folder: tempfile::TempDir,
}

/// What a run of the program gave.
pub(crate) struct Run {
    pub(crate) status: i32,
    pub(crate) out: String,
    pub(crate) err: String,
    pub(crate) bytes: Vec<u8>,
}

impl Run {
    /// Asserts the exit status.
    pub(crate) fn ends_with(self, status: i32) -> Run {
        assert_eq!(self.status, status, "standard output:\n{}\nstandard error:\n{}", self.out, self.err);
        self
    }

    /// Asserts that standard output and standard error together say something.
    pub(crate) fn says(self, text: &str) -> Run {
        assert!(self.out.contains(text) || self.err.contains(text), "no {text:?} in:\n{}\n{}", self.out, self.err);
        self
    }
}

impl Folder {
    pub(crate) fn new() -> Self {
        Self { folder: tempfile::tempdir().expect("a folder") }
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub(crate) fn write(&self, name: &str, text: impl AsRef<[u8]>) -> &Self {
        let path = self.path(name);
        std::fs::create_dir_all(path.parent().expect("a parent")).expect("folders");
        std::fs::write(path, text).expect("written");
        self
    }

    pub(crate) fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.path(name)).expect(name)
    }

    /// The names of all files below, sorted.
    pub(crate) fn files(&self) -> Vec<String> {
        let mut found = Vec::new();
        let mut work = vec![self.folder.path().to_owned()];
        while let Some(folder) = work.pop() {
            for entry in std::fs::read_dir(&folder).expect("a folder").flatten() {
                if entry.path().is_dir() {
                    // The build record is nobody's text or picture.
                    work.extend(Some(entry.path()).filter(|p| !p.ends_with(".bathygram")));
                } else {
                    let inside = entry.path().strip_prefix(self.folder.path()).expect("inside").to_owned();
                    found.push(inside.to_string_lossy().into_owned());
                }
            }
        }
        found.sort();
        found
    }

    /// Runs the program here.
    pub(crate) fn run(&self, arguments: &[&str]) -> Run {
        self.run_with(arguments, "")
    }

    /// Runs the program here with a text on standard input.
    pub(crate) fn run_with(&self, arguments: &[&str], input: &str) -> Run {
        self.start(".", arguments, input, &[])
    }

    /// Runs the program in a folder inside.
    pub(crate) fn run_in(&self, folder: &str, arguments: &[&str]) -> Run {
        self.start(folder, arguments, "", &[])
    }

    /// Runs the program in a folder inside, with a text on standard input and more variables in its environment.
    pub(crate) fn start(&self, folder: &str, arguments: &[&str], input: &str, environment: &[(&str, &str)]) -> Run {
        use std::io::Write;
        let mut child = Command::new(env!("CARGO_BIN_EXE_bathygram"))
            .args(arguments)
            .current_dir(self.path(folder))
            .env("NO_COLOR", "1")
            .envs(environment.iter().copied())
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .expect("the program starts");
        // The program may end before it has read everything.
        let _ = child.stdin.take().expect("an input").write_all(input.as_bytes());
        let output = child.wait_with_output().expect("the program ends");
        Run {
            status: output.status.code().expect("no signal ended it"),
            out: String::from_utf8_lossy(&output.stdout).into_owned(),
            err: String::from_utf8_lossy(&output.stderr).into_owned(),
            bytes: output.stdout,
        }
    }

    /// Runs git here.
    pub(crate) fn git(&self, arguments: &[&str]) -> &Self {
        let status = Command::new("git")
            .args([
                "-c",
                "user.name=Keeper",
                "-c",
                "user.email=keeper@tidewatch.invalid",
                "-c",
                "init.defaultBranch=main",
            ])
            .args(arguments)
            .current_dir(self.folder.path())
            .output()
            .expect("git starts");
        assert!(status.status.success(), "{}", String::from_utf8_lossy(&status.stderr));
        self
    }
}

/// The first diagram of a text.
pub(crate) fn diagram(text: &str) -> Diagram {
    let reading = read(Source::new("t.bathy", text), "t", &Setting::default());
    assert!(!reading.has_errors(), "{:?} in:\n{text}", reading.diagnostics);
    reading.document.diagrams.into_iter().next().expect("a diagram")
}

/// The columns that a member says to be unique.
pub(crate) fn unique_columns(member: &Member) -> Option<Vec<String>> {
    match &member.constraint {
        Some(TableConstraint::Unique(columns)) => Some(columns.clone()),
        _ => member.is_unique.then(|| vec![member.name()]),
    }
}

/// What happens on a deletion and on another key, as catalogues of SQL say it.
pub(crate) fn actions(reference: &Reference) -> String {
    let words = |action: Option<Action>| action.map_or("NO ACTION".to_owned(), |action| action.words().to_uppercase());
    format!("{} {}", words(reference.on_delete), words(reference.on_update))
}

/// The repository's folder.
pub(crate) fn repository() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().expect("the repository")
}

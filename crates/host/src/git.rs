//! git, through its program. It finds what a user's configuration says of repositories, and nothing in a repository can make it
//! run another program, ask a server, or answer otherwise: see [`Git::command`].

use crate::files::read_bounded;
use crate::{Error, MAX_SOURCE};
use std::collections::{BTreeMap, BTreeSet};
use std::ffi::OsStr;
use std::io::{BufRead, BufReader, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// The name of the tree that holds nothing; git knows it everywhere.
const EMPTY_TREE: &str = "4b825dc642cb6eb9a060e54bf8d69288fbee4904";

/// What holds diagrams, as git takes it: from the top.
const TEXTS: [&str; 3] = [":(top,glob)**/*.bathy", ":(top,glob,icase)**/*.md", ":(top,glob,icase)**/*.markdown"];
/// The same, and what they may take from besides.
const SPECS: [&str; 4] = [TEXTS[0], TEXTS[1], TEXTS[2], ":(top,glob)**/*.svg"];

/// A repository.
#[derive(Clone, Debug)]
pub struct Git {
    /// Its top folder; of a bare repository, the repository itself.
    pub top: PathBuf,
    /// Whether it has no working tree.
    pub is_bare: bool,
    /// Names of settings that name programs for filters, as `filter.NAME.clean`.
    filters: Vec<String>,
}

/// Contents of a file in a version.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Found {
    /// Its bytes.
    Bytes(Vec<u8>),
    /// It has more bytes than were asked for, and was not read.
    TooLarge,
    /// It is not there.
    Nothing,
}

/// All that is read at once from a repository has at most this many bytes.
// Versions of a file of the largest size, one for each year that people keep one.
const MAX_ALL: u64 = 32 * MAX_SOURCE;

/// What no repository may decide: which programs run, and in which form git answers.
const SETTINGS: [&str; 14] = [
    "core.quotePath=false",
    // Programs that a repository can name.
    "core.fsmonitor=",
    "core.hooksPath=/dev/null",
    "core.sshCommand=false",
    "core.askPass=",
    "protocol.allow=never",
    "log.showSignature=false",
    // Forms of answers.
    "color.ui=false",
    "log.showRoot=true",
    "log.follow=false",
    "diff.renameLimit=1000",
    "diff.orderFile=/dev/null",
    "diff.suppressBlankEmpty=false",
    "submodule.recurse=false",
];

/// What the environment could decide, besides where the repository and its index are.
const VARIABLES: [&str; 11] = [
    "GIT_EXTERNAL_DIFF",
    "GIT_DIFF_OPTS",
    "GIT_LITERAL_PATHSPECS",
    "GIT_GLOB_PATHSPECS",
    "GIT_NOGLOB_PATHSPECS",
    "GIT_ICASE_PATHSPECS",
    "GIT_ATTR_SOURCE",
    "GIT_PAGER",
    "GIT_SSH",
    "GIT_ASKPASS",
    "GIT_DEFAULT_REF_FORMAT",
];

/// Where a version of a file comes from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Version {
    /// The working tree.
    WorkingTree,
    /// What the next commit will hold.
    Index,
    /// A commit, by its full name; or a tree.
    Revision(String),
}

/// A file that differs between two versions, with its path and the name of its contents on either side where it is there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Changed {
    /// In the older version.
    pub old: Option<Blob>,
    /// In the newer version.
    pub new: Option<Blob>,
}

/// A file in a version.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Blob {
    /// Relative to the top.
    pub path: PathBuf,
    /// The name of its contents; `None` in the working tree.
    pub id: Option<String>,
}

/// A commit that changed a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Commit {
    /// Its full name.
    pub id: String,
    /// Who wrote it.
    pub author: String,
    /// When, as a date of ISO 8601 with its zone.
    pub date: String,
    /// The first line of what was said.
    pub subject: String,
    /// The file's path in it, relative to the top; `None` if the commit removed it.
    pub path: Option<PathBuf>,
}

impl Git {
    /// The repository around a folder.
    ///
    /// # Errors
    /// If there is none, or git is not installed.
    pub fn find(folder: &Path) -> Result<Self, Error> {
        let none = Self { top: folder.to_owned(), is_bare: false, filters: Vec::new() };
        let is_bare = none.run(&["rev-parse", "--is-bare-repository"])?.starts_with(b"true");
        let place = if is_bare { "--absolute-git-dir" } else { "--show-toplevel" };
        let top = none.run(&["rev-parse", place])?;
        let top = path(top.strip_suffix(b"\n").unwrap_or(&top));
        // Nothing is configured: git calls that a failure.
        let asked =
            ["config", "--null", "--name-only", "--get-regexp", r"^filter\..*\.(clean|smudge|process|required)$"];
        let named = none.run(&asked).unwrap_or_default();
        let named = named.split(|b| *b == 0).filter_map(|name| std::str::from_utf8(name).ok());
        let filters = named.filter(|name| !name.is_empty()).map(str::to_owned).collect();
        Ok(Self { top, is_bare, filters })
    }

    /// git, in the repository, with what it needs to answer the same everywhere.
    fn command(&self) -> Command {
        let mut command = Command::new("git");
        command.arg("--no-pager").arg("-C").arg(&self.top);
        SETTINGS.into_iter().for_each(|setting| _ = command.args(["-c", setting]));
        // These have names that a repository chooses, of any letters: they go behind what a user sets in the same way.
        let set = std::env::var("GIT_CONFIG_COUNT").ok().and_then(|count| count.parse::<usize>().ok()).unwrap_or(0);
        for (number, name) in (set..).zip(&self.filters) {
            let value = if name.ends_with(".required") { "false" } else { "" };
            command.env(format!("GIT_CONFIG_KEY_{number}"), name).env(format!("GIT_CONFIG_VALUE_{number}"), value);
        }
        command.env("GIT_CONFIG_COUNT", (set + self.filters.len()).to_string());
        VARIABLES.into_iter().for_each(|variable| _ = command.env_remove(variable));
        command
            .env("GIT_NO_LAZY_FETCH", "1")
            .env("GIT_ALLOW_PROTOCOL", "none")
            .env("GIT_SSH_COMMAND", "false")
            .env("GIT_TERMINAL_PROMPT", "0")
            .env("GIT_OPTIONAL_LOCKS", "0")
            .stdin(Stdio::null())
            .stderr(Stdio::piped());
        command
    }

    fn run(&self, arguments: &[&str]) -> Result<Vec<u8>, Error> {
        let out = self.command().args(arguments).output().map_err(|e| Error::Git(format!("cannot be started: {e}")))?;
        if out.status.success() {
            return Ok(out.stdout);
        }
        let message = String::from_utf8_lossy(&out.stderr);
        let first = message.lines().next().unwrap_or("failed");
        Err(Error::Git(first.trim_start_matches("fatal: ").to_owned()))
    }

    /// Whether there is a revision of this name.
    pub fn has_revision(&self, name: &str) -> bool {
        self.commit(name).is_ok()
    }

    /// The commit that two revisions have in common, the youngest one.
    ///
    /// # Errors
    /// If there is no such revision, or they have none in common.
    pub fn merge_base(&self, one: &str, other: &str) -> Result<Version, Error> {
        let (Version::Revision(a), Version::Revision(b)) = (self.revision(one)?, self.revision(other)?) else {
            return Err(Error::Git("only commits have a merge base".to_owned()));
        };
        match self.run(&["merge-base", &a, &b]) {
            Ok(out) => Ok(Version::Revision(String::from_utf8_lossy(&out).trim().to_owned())),
            Err(_) if self.is_shallow() => Err(Error::Git(format!(
                "`{one}` and `{other}` have no commit in common here; this is a shallow clone, so `git fetch --unshallow` may \
                 bring it"
            ))),
            Err(_) => Err(Error::Git(format!("`{one}` and `{other}` have no commit in common"))),
        }
    }

    /// The files that a merge could not bring together, relative to the top.
    pub fn unmerged(&self) -> Vec<PathBuf> {
        if self.is_bare {
            return Vec::new();
        }
        let out = self
            .run(&["diff-files", "--name-only", "-z", "--diff-filter=U", "--no-ext-diff", "--no-relative"])
            .unwrap_or_default();
        let mut paths: Vec<PathBuf> = out.split(|b| *b == 0).filter(|p| !p.is_empty()).map(path).collect();
        paths.sort();
        paths.dedup();
        paths
    }

    /// The version that a name stands for.
    ///
    /// # Errors
    /// If there is no such revision.
    pub fn revision(&self, name: &str) -> Result<Version, Error> {
        match self.commit(name) {
            Ok(commit) => Ok(Version::Revision(String::from_utf8_lossy(&commit).trim().to_owned())),
            Err(_) if self.is_shallow() => Err(Error::Git(format!(
                "no revision is called `{name}`; this is a shallow clone, so `git fetch --unshallow` may bring it"
            ))),
            Err(_) => Err(Error::Git(format!("no revision is called `{name}`"))),
        }
    }

    /// What git calls the commit of a revision.
    fn commit(&self, name: &str) -> Result<Vec<u8>, Error> {
        if name.starts_with(['^', '-']) {
            return Err(Error::Git(format!("`{name}` is no revision")));
        }
        let commit = format!("{name}^{{commit}}");
        self.run(&["rev-parse", "--verify", "--quiet", "--end-of-options", &commit])
    }

    /// The last commit; nothing at all in a repository without commits.
    pub fn head(&self) -> Version {
        self.revision("HEAD").unwrap_or_else(|_| Version::Revision(EMPTY_TREE.to_owned()))
    }

    /// Whether commits are missing from before some time.
    pub fn is_shallow(&self) -> bool {
        self.run(&["rev-parse", "--is-shallow-repository"]).is_ok_and(|out| out.starts_with(b"true"))
    }

    /// The sources, documents, and SVG files that differ between two versions, by their paths. A file that was renamed is one.
    ///
    /// # Errors
    /// If git fails, or the repository has no such version.
    pub fn changed(&self, [old, new]: [&Version; 2]) -> Result<Vec<Changed>, Error> {
        if self.is_bare && [old, new].iter().any(|v| !matches!(v, Version::Revision(_))) {
            return Err(Error::Git("this is a bare repository, without a working tree; name two revisions".to_owned()));
        }
        let mut words = vec![
            "diff",
            "--raw",
            "-z",
            "-M",
            "--no-abbrev",
            "--no-ext-diff",
            "--no-textconv",
            "--ignore-submodules",
            "--no-relative",
        ];
        match (old, new) {
            (Version::Revision(a), Version::Revision(b)) => words.extend([a.as_str(), b.as_str()]),
            (Version::Revision(a), Version::WorkingTree) => words.push(a),
            (Version::Revision(a), Version::Index) => words.extend(["--cached", a]),
            (Version::Index, _) => {}
            (Version::WorkingTree, _) => return Err(Error::Git("the working tree is the newer version".to_owned())),
        }
        words.push("--");
        words.extend(SPECS);
        let mut changed = raw(&self.run(&words)?);
        if *new == Version::WorkingTree {
            let mut words = vec!["ls-files", "-z", "--others", "--exclude-standard", "--"];
            words.extend(SPECS);
            let out = self.run(&words)?;
            let untracked = out.split(|b| *b == 0).filter(|p| !p.is_empty());
            changed.extend(untracked.map(|p| Changed { old: None, new: Some(Blob { path: path(p), id: None }) }));
        }
        // A file that is not merged is listed twice.
        let mut seen = BTreeSet::new();
        changed.retain(|c| seen.insert([&c.old, &c.new].map(|b| b.as_ref().map(|b| b.path.clone()))));
        Ok(changed)
    }

    /// The files of a version that contain one of some texts, relative to the top.
    pub fn files_with(&self, version: &Version, texts: &[String]) -> Vec<PathBuf> {
        let mut words =
            vec!["grep", "-l", "-z", "-F", "--full-name", "--no-textconv", "--no-recurse-submodules", "--no-color"];
        texts.iter().for_each(|t| words.extend(["-e", t]));
        let prefix = match version {
            Version::Revision(id) => {
                words.push(id);
                format!("{id}:")
            }
            Version::Index => {
                words.push("--cached");
                String::new()
            }
            Version::WorkingTree => {
                words.push("--untracked");
                String::new()
            }
        };
        words.push("--");
        words.extend(TEXTS);
        // Nothing found is a failure to git.
        let out = self.run(&words).unwrap_or_default();
        let names = out.split(|b| *b == 0).filter(|p| !p.is_empty());
        names.map(|n| path(n.strip_prefix(prefix.as_bytes()).unwrap_or(n))).collect()
    }

    /// Contents by their names, such as that of a blob or `REVISION:PATH`, each up to a limit in bytes; those that are not there
    /// are left out.
    ///
    /// # Errors
    /// If git fails, or all of them together are too much.
    pub fn contents(&self, names: &[String], limit: u64) -> Result<BTreeMap<String, Found>, Error> {
        let asked: Vec<&str> = names.iter().map(String::as_str).filter(|n| !n.contains('\n')).collect();
        // 1. How much it is.
        let mut sizes: Vec<(&str, u64)> = Vec::new();
        self.ask("--batch-check", &asked, |name, size, _| {
            sizes.push((name, size));
            Ok(())
        })?;
        let (small, large): (Vec<_>, Vec<_>) = sizes.into_iter().partition(|(_, size)| *size <= limit);
        let sum: u64 = small.iter().map(|(_, size)| size).sum();
        if sum > MAX_ALL {
            let (count, most) = (small.len(), MAX_ALL >> 20);
            return Err(Error::Git(format!(
                "{count} versions of files have {} MiB together, more than the {most} MiB that are compared at once; name \
                 fewer",
                sum >> 20
            )));
        }
        let mut found: BTreeMap<String, Found> =
            large.into_iter().map(|(name, _)| (name.to_owned(), Found::TooLarge)).collect();
        // 2. What it says.
        let small: Vec<&str> = small.into_iter().map(|(name, _)| name).collect();
        self.ask("--batch", &small, |name, size, output| {
            let mut bytes = vec![0; size as usize + 1];
            output.read_exact(&mut bytes)?;
            bytes.pop();
            found.insert(name.to_owned(), Found::Bytes(bytes));
            Ok(())
        })?;
        Ok(found)
    }

    /// Asks git about objects; `take` gets the name, the size and what follows of each that is there.
    fn ask<'n>(
        &self, how: &str, names: &[&'n str],
        mut take: impl FnMut(&'n str, u64, &mut dyn BufRead) -> std::io::Result<()>,
    ) -> Result<(), Error> {
        if names.is_empty() {
            return Ok(());
        }
        let failed = |e: std::io::Error| Error::Git(format!("cannot be used: {e}"));
        let mut command = self.command();
        command.args(["cat-file", how]).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null());
        let mut child = command.spawn().map_err(failed)?;
        let (Some(mut input), Some(output)) = (child.stdin.take(), child.stdout.take()) else { return Ok(()) };
        let lines: String = names.iter().map(|n| format!("{n}\n")).collect();
        // Both pipes are finite: one end is written while the other is read.
        let writer = std::thread::spawn(move || input.write_all(lines.as_bytes()));
        let mut output = BufReader::new(output);
        for name in names {
            let mut line = String::new();
            output.read_line(&mut line).map_err(failed)?;
            let Some(size) = line.trim_end().rsplit(' ').next().and_then(|s| s.parse::<u64>().ok()) else { continue };
            take(name, size, &mut output).map_err(failed)?;
        }
        let _ = writer.join();
        let _ = child.wait();
        Ok(())
    }

    /// The bytes of a file in a version, up to a limit.
    pub fn bytes(&self, version: &Version, path: &Path, limit: u64) -> Found {
        let shown = path.to_string_lossy();
        let name = match version {
            Version::WorkingTree => {
                return match read_bounded(&self.top.join(path), limit) {
                    Ok(bytes) => Found::Bytes(bytes),
                    Err(Error::TooLarge { .. }) => Found::TooLarge,
                    Err(_) => Found::Nothing,
                };
            }
            Version::Index => format!(":{shown}"),
            Version::Revision(id) => format!("{id}:{shown}"),
        };
        let size = self.run(&["cat-file", "-s", &name]).ok();
        match size.and_then(|out| String::from_utf8_lossy(&out).trim().parse::<u64>().ok()) {
            None => Found::Nothing,
            Some(size) if size > limit => Found::TooLarge,
            Some(_) => self.run(&["cat-file", "blob", &name]).map_or(Found::Nothing, Found::Bytes),
        }
    }

    /// The commits that changed a file, the newest first, through renames; at most this many, if a number is given.
    ///
    /// # Errors
    /// If git fails, or there are no commits.
    pub fn log(&self, file: &Path, most: Option<usize>) -> Result<Vec<Commit>, Error> {
        let spec = file.to_string_lossy().into_owned();
        let form = "--format=%x01%H%x00%an%x00%aI%x00%s%x00";
        let most = most.map(|n| format!("--max-count={n}"));
        let mut words = vec!["--literal-pathspecs", "log", "--follow", "-M", "--name-status", "-z", "--no-ext-diff"];
        words.extend(["--no-relative", "--no-mailmap", "--no-show-signature", "--no-color", form]);
        words.extend(most.as_deref());
        words.extend(["--", &spec]);
        let out = self.run(&words)?;
        Ok(out.split(|b| *b == 1).filter_map(commit).collect())
    }
}

/// One commit of a log.
fn commit(text: &[u8]) -> Option<Commit> {
    let mut fields = text.split(|b| *b == 0);
    let mut word = || fields.next().map(|f| String::from_utf8_lossy(f).into_owned());
    let (id, author, date, subject) = (word()?, word()?, word()?, word()?);
    if id.is_empty() {
        return None;
    }
    // Then, behind a line end, the status and one path, or two of a rename.
    let rest: Vec<&[u8]> = fields.map(|f| f.strip_prefix(b"\n").unwrap_or(f)).filter(|f| !f.is_empty()).collect();
    let is_gone = rest.first().is_some_and(|s| s.starts_with(b"D"));
    let path = rest.get(1..).and_then(|p| p.last()).filter(|_| !is_gone).map(|p| path(p));
    Some(Commit { id, author, date, subject, path })
}

/// Reads what `git diff --raw -z` prints.
fn raw(out: &[u8]) -> Vec<Changed> {
    let mut fields = out.split(|b| *b == 0);
    let mut changed = Vec::new();
    while let Some(about) = fields.next().filter(|f| !f.is_empty()) {
        let about = String::from_utf8_lossy(about).into_owned();
        let words: Vec<&str> = about.split(' ').collect();
        let [_, _, old, new, status] = words[..] else { break };
        let Some(first) = fields.next().map(path) else { break };
        let second = if status.starts_with(['R', 'C']) { fields.next().map(path) } else { None };
        let known = |id: &str| Some(id.to_owned()).filter(|id| id.bytes().any(|b| b != b'0'));
        changed.push(Changed {
            old: (!status.starts_with('A')).then(|| Blob { path: first.clone(), id: known(old) }),
            new: (!status.starts_with('D')).then(|| Blob { path: second.unwrap_or(first), id: known(new) }),
        });
    }
    changed
}

/// A path as git writes it.
#[cfg(unix)]
fn path(bytes: &[u8]) -> PathBuf {
    PathBuf::from(<OsStr as std::os::unix::ffi::OsStrExt>::from_bytes(bytes))
}

#[cfg(not(unix))]
fn path(bytes: &[u8]) -> PathBuf {
    PathBuf::from(String::from_utf8_lossy(bytes).into_owned())
}

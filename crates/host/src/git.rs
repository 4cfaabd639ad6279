//! git, through its program: it honours the user's configuration.

use crate::Error;
use std::collections::{BTreeMap, BTreeSet};
use std::ffi::OsStr;
use std::io::{BufRead, BufReader, Read, Write};
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
}

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
        let is_bare = run(folder, &["rev-parse", "--is-bare-repository"])?.starts_with(b"true");
        let place = if is_bare { "--absolute-git-dir" } else { "--show-toplevel" };
        let top = run(folder, &["rev-parse", place])?;
        Ok(Self { top: path(top.strip_suffix(b"\n").unwrap_or(&top)), is_bare })
    }

    /// Whether there is a revision of this name.
    pub fn has_revision(&self, name: &str) -> bool {
        !name.starts_with(['^', '-']) && self.commit(name).is_ok()
    }

    /// The commit that two revisions have in common, the youngest one.
    ///
    /// # Errors
    /// If there is no such revision, or they have none in common.
    pub fn merge_base(&self, one: &str, other: &str) -> Result<Version, Error> {
        let (Version::Revision(a), Version::Revision(b)) = (self.revision(one)?, self.revision(other)?) else {
            return Err(Error::Git("only commits have a merge base".to_owned()));
        };
        match run(&self.top, &["merge-base", &a, &b]) {
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
        let out =
            run(&self.top, &["diff", "--name-only", "-z", "--diff-filter=U", "--no-ext-diff"]).unwrap_or_default();
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
        let commit = format!("{name}^{{commit}}");
        run(&self.top, &["rev-parse", "--verify", "--quiet", "--end-of-options", &commit])
    }

    /// The last commit; nothing at all in a repository without commits.
    pub fn head(&self) -> Version {
        self.revision("HEAD").unwrap_or_else(|_| Version::Revision(EMPTY_TREE.to_owned()))
    }

    /// Whether commits are missing from before some time.
    pub fn is_shallow(&self) -> bool {
        run(&self.top, &["rev-parse", "--is-shallow-repository"]).is_ok_and(|out| out.starts_with(b"true"))
    }

    /// The sources, documents, and SVG files that differ between two versions, by their paths. A file that was renamed is one.
    ///
    /// # Errors
    /// If git fails, or the repository has no such version.
    pub fn changed(&self, [old, new]: [&Version; 2]) -> Result<Vec<Changed>, Error> {
        if self.is_bare && [old, new].iter().any(|v| !matches!(v, Version::Revision(_))) {
            return Err(Error::Git("this is a bare repository, without a working tree; name two revisions".to_owned()));
        }
        let mut words =
            vec!["diff", "--raw", "-z", "-M", "--no-abbrev", "--no-ext-diff", "--no-textconv", "--ignore-submodules"];
        match (old, new) {
            (Version::Revision(a), Version::Revision(b)) => words.extend([a.as_str(), b.as_str()]),
            (Version::Revision(a), Version::WorkingTree) => words.push(a),
            (Version::Revision(a), Version::Index) => words.extend(["--cached", a]),
            (Version::Index, _) => {}
            (Version::WorkingTree, _) => return Err(Error::Git("the working tree is the newer version".to_owned())),
        }
        words.push("--");
        words.extend(SPECS);
        let mut changed = raw(&run(&self.top, &words)?);
        if *new == Version::WorkingTree {
            let mut words = vec!["ls-files", "-z", "--others", "--exclude-standard", "--"];
            words.extend(SPECS);
            let out = run(&self.top, &words)?;
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
        let mut words = vec!["grep", "-l", "-z", "-F", "--full-name"];
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
        let out = run(&self.top, &words).unwrap_or_default();
        let names = out.split(|b| *b == 0).filter(|p| !p.is_empty());
        names.map(|n| path(n.strip_prefix(prefix.as_bytes()).unwrap_or(n))).collect()
    }

    /// The bytes of contents by their names, such as that of a blob or `REVISION:PATH`; those that are not there are left out.
    ///
    /// # Errors
    /// If git fails.
    pub fn contents(&self, names: &[String]) -> Result<BTreeMap<String, Vec<u8>>, Error> {
        let failed = |e: std::io::Error| Error::Git(format!("cannot be used: {e}"));
        let mut child = Command::new("git")
            .arg("-C")
            .arg(&self.top)
            .args(["cat-file", "--batch"])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .map_err(failed)?;
        let (Some(mut input), Some(output)) = (child.stdin.take(), child.stdout.take()) else {
            return Ok(BTreeMap::new());
        };
        let asked: Vec<&String> = names.iter().filter(|n| !n.contains('\n')).collect();
        let lines: String = asked.iter().map(|n| format!("{n}\n")).collect();
        // Both pipes are finite: one end is written while the other is read.
        let writer = std::thread::spawn(move || input.write_all(lines.as_bytes()));
        let mut output = BufReader::new(output);
        let mut found = BTreeMap::new();
        for name in asked {
            let mut line = String::new();
            output.read_line(&mut line).map_err(failed)?;
            let Some(size) = line.trim_end().rsplit(' ').next().and_then(|s| s.parse::<usize>().ok()) else { continue };
            let mut bytes = vec![0; size + 1];
            output.read_exact(&mut bytes).map_err(failed)?;
            bytes.pop();
            found.insert(name.clone(), bytes);
        }
        let _ = writer.join();
        let _ = child.wait();
        Ok(found)
    }

    /// The bytes of a file in a version; `None` if it is not there.
    pub fn bytes(&self, version: &Version, path: &Path) -> Option<Vec<u8>> {
        let name = match version {
            Version::WorkingTree => return std::fs::read(self.top.join(path)).ok(),
            Version::Index => format!(":{}", path.to_string_lossy()),
            Version::Revision(id) => format!("{id}:{}", path.to_string_lossy()),
        };
        run(&self.top, &["cat-file", "blob", &name]).ok()
    }

    /// The commits that changed a file, the newest first, through renames.
    ///
    /// # Errors
    /// If git fails, or there are no commits.
    pub fn log(&self, file: &Path) -> Result<Vec<Commit>, Error> {
        let spec = file.to_string_lossy().into_owned();
        let form = "--format=%x01%H%x00%an%x00%aI%x00%s%x00";
        let words =
            ["--literal-pathspecs", "log", "--follow", "-M", "--name-status", "-z", "--no-ext-diff", form, "--", &spec];
        let out = run(&self.top, &words)?;
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

/// Reads what `git diff --raw -z` tells.
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

fn run(folder: &Path, arguments: &[&str]) -> Result<Vec<u8>, Error> {
    let out = Command::new("git")
        .arg("-C")
        .arg(folder)
        .args(["-c", "core.quotepath=false"])
        .args(arguments)
        .stdin(Stdio::null())
        .output()
        .map_err(|e| Error::Git(format!("cannot be started: {e}")))?;
    if out.status.success() {
        return Ok(out.stdout);
    }
    let message = String::from_utf8_lossy(&out.stderr);
    let first = message.lines().next().unwrap_or("failed");
    Err(Error::Git(first.trim_start_matches("fatal: ").to_owned()))
}

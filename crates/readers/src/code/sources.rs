//! All source files of a tree, read side by side.

use super::language::{Language, Patience, Reader};
use super::syntax::{Parsed, parse};
use super::tree::{LeftOut, Tree, is_generated, left_out};
use bathygram_core::jobs::{Jobs, map};
use std::collections::{BTreeMap, HashMap, HashSet};

/// Larger files are no source code that somebody wrote.
const LARGEST: usize = 4 << 20;

/// One source file.
#[derive(Clone, Debug)]
pub(crate) struct Source {
    pub(crate) path: String,
    pub(crate) language: Language,
    pub(crate) parsed: Parsed,
}

/// The source files of a tree.
pub(crate) struct Sources<'t> {
    pub(crate) tree: &'t dyn Tree,
    /// In the order of their paths.
    pub(crate) all: Vec<Source>,
    by_path: HashMap<String, u32>,
    /// Every folder in which a source file lies, however deep.
    folders: HashSet<String>,
    /// Files that are not read, by the reason.
    pub(crate) left_out: BTreeMap<LeftOut, usize>,
    /// Files that cannot be read: which, and why.
    pub(crate) unread: Vec<(String, String)>,
    pub(crate) patience: Patience,
}

enum Read {
    Source(Box<Source>),
    LeftOut(LeftOut),
    Unread(String, String),
}

impl<'t> Sources<'t> {
    /// Reads those that are wanted.
    pub(crate) fn read(tree: &'t dyn Tree, with_tests: bool, wants: &dyn Fn(&str) -> bool, jobs: &dyn Jobs) -> Self {
        let files = tree.files();
        let known: HashSet<&str> = files.iter().map(String::as_str).collect();
        let folders: HashSet<&str> = files.iter().flat_map(|path| super::tree::around(path)).collect();
        let mut left: BTreeMap<LeftOut, usize> = BTreeMap::new();
        let mut wanted: Vec<(usize, Language)> = Vec::new();
        for (i, path) in files.iter().enumerate() {
            let Some(language) = Language::of(path) else { continue };
            if !wants(path) || declares_another(path, &known) {
                continue;
            }
            let built = is_built(path, &folders).then_some(LeftOut::Generated);
            match built.or_else(|| left_out(path, language)).filter(|why| *why != LeftOut::Test || !with_tests) {
                Some(why) => *left.entry(why).or_default() += 1,
                None => wanted.push((i, language)),
            }
        }
        let patience = Patience::default();
        let read = map(jobs, wanted.len(), &|i| one(tree, wanted[i].0, (wanted[i].1, &patience), with_tests));
        let mut out = Self {
            tree,
            all: Vec::new(),
            by_path: HashMap::new(),
            folders: HashSet::new(),
            left_out: left,
            unread: Vec::new(),
            patience,
        };
        for read in read {
            match read {
                Read::Source(source) => out.push(*source),
                Read::LeftOut(why) => *out.left_out.entry(why).or_default() += 1,
                Read::Unread(path, why) => out.unread.push((path, why)),
            }
        }
        out
    }

    fn push(&mut self, source: Source) {
        self.by_path.insert(source.path.clone(), self.all.len() as u32);
        let mut folder = super::tree::folder(&source.path);
        while self.folders.insert(folder.to_owned()) && !folder.is_empty() {
            folder = super::tree::folder(folder);
        }
        self.all.push(source);
    }

    /// The file with a path.
    pub(crate) fn at(&self, path: &str) -> Option<u32> {
        self.by_path.get(path).copied()
    }

    /// Whether source files lie in a folder.
    pub(crate) fn has_folder(&self, path: &str) -> bool {
        self.folders.contains(path)
    }

    pub(crate) fn get(&self, number: u32) -> &Source {
        &self.all[number as usize]
    }

    /// All files of a name, such as `package.json`, that are not somebody else's: paths and texts.
    pub(crate) fn named(&self, name: &str) -> Vec<(&str, String)> {
        let files = self.tree.files().iter().enumerate();
        let named = files.filter(|(_, path)| super::tree::file_name(path) == name);
        let own = named.filter(|(_, path)| left_out(path, Language::TypeScript) != Some(LeftOut::Vendored));
        own.filter_map(|(i, path)| Some((path.as_str(), String::from_utf8(self.tree.read(i).ok()?).ok()?))).collect()
    }

    /// Whether there is a file, source code or not.
    pub(crate) fn has_file(&self, path: &str) -> bool {
        self.tree.files().binary_search_by(|file| file.as_str().cmp(path)).is_ok()
    }

    /// Whether something of this path, with whatever ending, is there, even if it is left out.
    pub(crate) fn is_somewhere(&self, path: &str) -> bool {
        let files = self.tree.files();
        let first = files.partition_point(|file| file.as_str() < path);
        let like = files[first..].iter().take_while(|file| file.starts_with(path));
        like.into_iter().any(|file| matches!(file.as_bytes().get(path.len()), None | Some(b'.' | b'/')))
    }

    /// The bytes of any file.
    pub(crate) fn bytes(&self, path: &str) -> Option<Vec<u8>> {
        let number = self.tree.files().binary_search_by(|file| file.as_str().cmp(path)).ok()?;
        self.tree.read(number).ok()
    }

    /// The text of any file.
    pub(crate) fn text(&self, path: &str) -> Option<String> {
        String::from_utf8(self.bytes(path)?).ok()
    }

    /// Whether there are files of a language.
    pub(crate) fn has(&self, language: Language) -> bool {
        self.all.iter().any(|source| source.language.mixes_with(language))
    }
}

/// Whether a file lies in what is built from the sources beside it.
fn is_built(path: &str, folders: &HashSet<&str>) -> bool {
    super::tree::around(path).any(|at| {
        let (around, name) = at.rsplit_once('/').unwrap_or(("", at));
        matches!(name, "dist" | "build" | "out") && folders.contains(super::tree::join(around, "src").as_str())
    })
}

/// Whether a file only declares the types of another one that is there, such as `a.d.ts` beside `a.js`, or `a.pyi` beside `a.py`.
fn declares_another(path: &str, known: &HashSet<&str>) -> bool {
    let beside = |end: &str, others: &[&str]| {
        path.strip_suffix(end)
            .is_some_and(|stem| others.iter().any(|other| known.contains(format!("{stem}{other}").as_str())))
    };
    beside(".d.ts", &[".js", ".jsx", ".ts", ".tsx"])
        || beside(".d.mts", &[".mjs", ".mts"])
        || beside(".d.cts", &[".cjs", ".cts"])
        || beside(".pyi", &[".py"])
}

fn one(tree: &dyn Tree, file: usize, (language, patience): (Language, &Patience), with_tests: bool) -> Read {
    let path = tree.files()[file].clone();
    let bytes = match tree.read(file) {
        Ok(bytes) if bytes.len() > LARGEST => {
            return Read::Unread(path, format!("it is larger than {} MB", LARGEST >> 20));
        }
        Ok(bytes) => bytes,
        Err(why) => return Read::Unread(path, why),
    };
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
    if is_generated(bytes) {
        return Read::LeftOut(LeftOut::Generated);
    }
    match Reader::new(language, &path, patience) {
        Some(mut reader) => match parse(&mut reader, language, bytes, with_tests) {
            Some(parsed) => Read::Source(Box::new(Source { path, language, parsed })),
            None => Read::Unread(path, "it has so many errors that reading it takes too long".to_owned()),
        },
        None => Read::Unread(path, "its grammar cannot be loaded".to_owned()),
    }
}

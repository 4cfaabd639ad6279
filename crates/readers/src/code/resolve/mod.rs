//! What is imported, as files: one file for each language, by its own rules.

mod go;
mod java;
mod python;
mod rust;
mod script;

use super::language::Language;
use super::sources::Sources;
use super::syntax::{ALL, Import, Kind};
use bathygram_core::jobs::{Jobs, map};
use std::collections::{BTreeMap, HashMap, HashSet};

/// A path leads on through other names at most so often.
const FARTHEST: usize = 16;

/// What an import names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Target {
    /// A file of the tree.
    File(u32),
    /// A package that is not in the tree.
    Outside(String),
    /// What comes with the language.
    Standard,
    /// Something without code of its own, or in the same file.
    Nothing,
    /// What should be in the tree, and is not.
    Missing,
}

/// One file uses another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Dependency {
    pub(crate) from: u32,
    /// The file that is named.
    pub(crate) to: u32,
    /// The file where what is named is declared, if the other one only hands it on.
    pub(crate) reaches: u32,
    pub(crate) line: u32,
    pub(crate) kind: Kind,
    /// Whether what is named is handed on.
    pub(crate) is_exposed: bool,
}

/// One import with what it names.
pub(crate) struct Listed {
    pub(crate) from: u32,
    pub(crate) import: Import,
    pub(crate) target: Target,
    /// The file in which what is named is declared.
    pub(crate) reaches: Option<u32>,
}

/// All dependencies of a tree.
#[derive(Default)]
pub(crate) struct Dependencies {
    /// By files, then by lines.
    pub(crate) all: Vec<Dependency>,
    /// Packages that are not in the tree: who uses them, and where.
    pub(crate) outside: BTreeMap<String, Vec<(u32, u32)>>,
    /// Imports of files that are not there: the file, the line, and what is named.
    pub(crate) missing: Vec<(u32, u32, String)>,
    /// Every import with what it names, if that is asked for.
    pub(crate) listed: Vec<Listed>,
    /// Files to which their language has no way, though it needs one.
    pub(crate) unreached: Vec<u32>,
    /// For each file that declares modules, those that everybody may see.
    pub(crate) public: HashMap<u32, Vec<u32>>,
    /// Files that the outside begins with.
    pub(crate) entries: Vec<u32>,
}

/// Finds the files of the imports of one language.
pub(crate) trait Resolver: Sync {
    /// What an import names, and what is asked of it by name.
    fn target(&self, from: u32, import: &Import) -> (Target, Option<String>);

    /// The file in which something is declared that another file hands on, where a language has its own way for that.
    fn reached(&self, _from: u32, _import: &Import) -> Option<u32> {
        None
    }

    /// Dependencies without imports.
    fn unimported(&self, _from: u32) -> Vec<(u32, u32)> {
        Vec::new()
    }

    /// Files that are never reached.
    fn unreached(&self) -> Vec<u32> {
        Vec::new()
    }

    /// The modules that a file shows to everybody.
    fn public(&self) -> HashMap<u32, Vec<u32>> {
        HashMap::new()
    }

    /// Files that the outside begins with.
    fn entries(&self) -> Vec<u32> {
        Vec::new()
    }
}

impl Dependencies {
    /// Of all files; with a list of all imports, if that is wanted.
    pub(crate) fn of(sources: &Sources<'_>, wants_list: bool, jobs: &dyn Jobs) -> Self {
        let resolvers = Resolvers::new(sources);
        let found = map(jobs, sources.all.len(), &|number| resolvers.of_file(sources, number as u32));
        let handed_on = HandedOn { sources, found: &found };
        let mut out = Self::default();
        for (number, targets) in found.iter().enumerate() {
            let source = &sources.all[number];
            for (import, (target, name)) in source.parsed.imports.iter().zip(targets) {
                let from = number as u32;
                let reaches = if let Target::File(to) = target {
                    let own = resolvers.for_language(source.language).reached(from, import);
                    Some(own.unwrap_or_else(|| handed_on.follow(*to, name.as_deref())))
                } else {
                    None
                };
                if wants_list {
                    let (import, target) = (import.clone(), target.clone());
                    out.listed.push(Listed { from, import, target, reaches });
                }
                match target {
                    Target::File(to) if *to != from => {
                        let Import { line, kind, is_exposed, .. } = *import;
                        let reaches = reaches.unwrap_or(*to);
                        out.all.push(Dependency { from, to: *to, reaches, line, kind, is_exposed });
                    }
                    Target::Outside(package) => {
                        out.outside.entry(package.clone()).or_default().push((from, import.line));
                    }
                    Target::Missing => out.missing.push((from, import.line, import.path.clone())),
                    _ => {}
                }
            }
            for (to, line) in resolvers.for_language(source.language).unimported(number as u32) {
                let kind = Kind::Plain;
                out.all.push(Dependency { from: number as u32, to, reaches: to, line, kind, is_exposed: false });
            }
        }
        // A line that names several things of one file imports it once.
        out.all.sort_unstable();
        out.all.dedup_by_key(|one| (one.from, one.to, one.reaches, one.line, one.kind));
        out.missing.sort();
        out.missing.dedup_by(|a, b| (a.0, &a.2) == (b.0, &b.2));
        resolvers.each(|resolver| {
            out.unreached.extend(resolver.unreached());
            out.public.extend(resolver.public());
            out.entries.extend(resolver.entries());
        });
        out
    }
}

struct Resolvers<'s> {
    rust: Box<dyn Resolver + 's>,
    python: Box<dyn Resolver + 's>,
    script: Box<dyn Resolver + 's>,
    java: Box<dyn Resolver + 's>,
    go: Box<dyn Resolver + 's>,
}

impl<'s> Resolvers<'s> {
    fn new(sources: &'s Sources<'s>) -> Self {
        Self {
            rust: Box::new(rust::Crates::new(sources)),
            python: Box::new(python::Packages::new(sources)),
            script: Box::new(script::Packages::new(sources)),
            java: Box::new(java::Packages::new(sources)),
            go: Box::new(go::Modules::new(sources)),
        }
    }

    fn for_language(&self, language: Language) -> &dyn Resolver {
        match language {
            Language::Rust => &*self.rust,
            Language::Python => &*self.python,
            Language::TypeScript | Language::JavaScript => &*self.script,
            Language::Java => &*self.java,
            Language::Go => &*self.go,
        }
    }

    fn each(&self, mut see: impl FnMut(&dyn Resolver)) {
        [&self.rust, &self.python, &self.script, &self.java, &self.go].into_iter().for_each(|one| see(&**one));
    }

    fn of_file(&self, sources: &Sources<'_>, number: u32) -> Vec<(Target, Option<String>)> {
        let source = sources.get(number);
        let resolver = self.for_language(source.language);
        source.parsed.imports.iter().map(|import| resolver.target(number, import)).collect()
    }
}

/// Where names lead that files hand on.
struct HandedOn<'f> {
    sources: &'f Sources<'f>,
    found: &'f [Vec<(Target, Option<String>)>],
}

impl HandedOn<'_> {
    /// The file in which a name is declared that is asked of a file.
    fn follow(&self, file: u32, name: Option<&str>) -> u32 {
        let name = name.filter(|name| *name != ALL);
        name.and_then(|name| self.declaring(file, name, &mut HashSet::new())).unwrap_or(file)
    }

    /// Files may hand on each other's names in circles: each is asked for a name once.
    fn declaring<'n>(&'n self, file: u32, name: &'n str, asked: &mut HashSet<(u32, &'n str)>) -> Option<u32> {
        let parsed = &self.sources.get(file).parsed;
        if parsed.declared.iter().any(|declared| declared == name) {
            return Some(file);
        }
        if !asked.insert((file, name)) {
            return None;
        }
        let handed_on =
            || parsed.imports.iter().zip(&self.found[file as usize]).filter(|(import, _)| import.is_exposed);
        let to = |target: &Target| if let Target::File(to) = target { Some(*to) } else { None };
        let own =
            handed_on().find(|(import, _)| import.name.as_deref() != Some(ALL) && import.own_name() == Some(name));
        if let Some((_, (target, inner))) = own {
            let to = to(target)?;
            let inner = inner.as_deref().filter(|inner| *inner != ALL);
            return Some(inner.and_then(|inner| self.declaring(to, inner, asked)).unwrap_or(to));
        }
        let all = handed_on().filter(|(import, _)| import.name.as_deref() == Some(ALL));
        let all: Vec<u32> = all.filter_map(|(_, (target, _))| to(target)).collect();
        all.into_iter().find_map(|to| self.declaring(to, name, asked))
    }
}

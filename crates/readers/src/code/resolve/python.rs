//! Python: modules, packages, and packages without a file of their own (The Python Language Reference, 5).

use super::{Resolver, Target};
use crate::code::language::Language;
use crate::code::sources::Sources;
use crate::code::syntax::{ALL, Import, Kind};
use crate::code::tree::{folder, join, stem};

/// The modules that come with the language (`sys.stdlib_module_names` of Python 3.11).
const STANDARD: &str = include_str!("python_standard.txt");

/// The packages of a tree.
pub(super) struct Packages<'s> {
    sources: &'s Sources<'s>,
    /// Folders that projects put on the path of modules.
    roots: Vec<String>,
    standard: std::collections::HashSet<&'static str>,
}

/// What a dotted name leads to.
enum Found {
    Module(u32),
    /// A folder of modules without a file of its own.
    Folder(String),
}

impl<'s> Packages<'s> {
    pub(super) fn new(sources: &'s Sources<'s>) -> Self {
        let mut roots = vec![String::new()];
        if sources.has(Language::Python) {
            for file in ["pyproject.toml", "setup.py", "setup.cfg"] {
                let projects = sources.tree.files().iter().filter(|path| crate::code::tree::file_name(path) == file);
                roots.extend(projects.map(|path| folder(path).to_owned()));
            }
        }
        roots.sort();
        roots.dedup();
        let below = roots.iter().flat_map(|root| ["src", "lib", "python"].map(|name| join(root, name)));
        let below: Vec<String> = below.filter(|root| sources.has_folder(root)).collect();
        // Where a project keeps its sources in a folder of their own, that one is on the path.
        roots.splice(0..0, below);
        Self { sources, roots, standard: STANDARD.split_whitespace().collect() }
    }

    fn module(&self, path: &str) -> Option<u32> {
        let files = [
            format!("{path}/__init__.py"),
            format!("{path}.py"),
            format!("{path}/__init__.pyi"),
            format!("{path}.pyi"),
        ];
        files.iter().find_map(|file| self.sources.at(file))
    }

    fn found(&self, path: &str) -> Option<Found> {
        let module = self.module(path).map(Found::Module);
        module.or_else(|| self.sources.has_folder(path).then(|| Found::Folder(path.to_owned())))
    }

    fn is_package(&self, folder: &str) -> bool {
        self.sources.at(&join(folder, "__init__.py")).is_some()
    }

    /// The folders in which the first part of a name is looked for, the nearest first.
    fn path_of(&self, from: &str) -> Vec<String> {
        let mut out: Vec<String> = Vec::new();
        let mut at = folder(from);
        loop {
            if !self.is_package(at) {
                out.push(at.to_owned());
            }
            if at.is_empty() {
                break;
            }
            at = folder(at);
        }
        out.extend(self.roots.iter().filter(|root| !out.contains(root)).cloned().collect::<Vec<_>>());
        out
    }

    /// A dotted name, from the outermost package on.
    fn absolute(&self, from: &str, dotted: &str) -> Option<Found> {
        let path = dotted.replace('.', "/");
        let first = dotted.split('.').next().unwrap_or_default();
        let is_standard = self.standard.contains(first);
        let mut folder = None;
        for root in self.path_of(from) {
            let head = join(&root, first);
            // A folder of modules gives way to every real module, also to those of the language.
            match self.found(&head) {
                Some(Found::Module(_)) => return self.found(&join(&root, &path)),
                Some(Found::Folder(_)) if !is_standard => {
                    folder = folder.or_else(|| self.found(&join(&root, &path)));
                }
                _ => {}
            }
        }
        folder
    }

    /// The path of a name that begins with dots: from the package of the file on.
    fn relative(from: &str, dotted: &str) -> Option<String> {
        let dots = dotted.chars().take_while(|c| *c == '.').count();
        let mut at = folder(from);
        for _ in 1..dots {
            if at.is_empty() {
                return None;
            }
            at = folder(at);
        }
        let rest = dotted[dots..].replace('.', "/");
        Some(if rest.is_empty() { at.to_owned() } else { join(at, &rest) })
    }

    fn of(&self, from: &str, import: &Import) -> (Target, Option<String>) {
        let is_relative = import.path.starts_with('.');
        let near = is_relative.then(|| Self::relative(from, &import.path)).flatten();
        let found = match is_relative {
            true => near.as_deref().and_then(|path| self.found(path)),
            false => self.absolute(from, &import.path),
        };
        let first = import.path.split('.').next().unwrap_or_default();
        let outside = || match self.standard.contains(first) || first == "__future__" {
            true => Target::Standard,
            false => Target::Outside(first.to_owned()),
        };
        let name = import.name.as_deref().filter(|name| *name != ALL);
        match found {
            // Tests and what is generated are there, but not read.
            None if near.is_some_and(|path| self.sources.is_somewhere(&path)) => (Target::Nothing, None),
            None if is_relative => (Target::Missing, None),
            None => (outside(), None),
            Some(Found::Folder(folder)) => {
                let inner = name.and_then(|name| self.module(&join(&folder, name)));
                (inner.map_or(Target::Nothing, Target::File), None)
            }
            Some(Found::Module(file)) => {
                let source = self.sources.get(file);
                // What the package itself declares stands before its modules.
                let is_own = name.is_none_or(|name| source.parsed.declared.iter().any(|own| own == name));
                let inner = name.filter(|_| !is_own && stem(&source.path) == "__init__");
                let inner = inner.and_then(|name| self.module(&join(folder(&source.path), name)));
                match inner {
                    Some(inner) => (Target::File(inner), None),
                    None => (Target::File(file), import.name.clone()),
                }
            }
        }
    }
}

impl Resolver for Packages<'_> {
    fn target(&self, from: u32, import: &Import) -> (Target, Option<String>) {
        let (target, name) = self.of(&self.sources.get(from).path, import);
        // What is only looked for while the program runs may be anything.
        match target {
            Target::Missing if import.kind == Kind::Dynamic && import.name.is_none() => (Target::Nothing, None),
            target => (target, name),
        }
    }
}

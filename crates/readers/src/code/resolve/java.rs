//! Java: packages and types (The Java Language Specification, 6.5 and 7.5).

use super::{Resolver, Target};
use crate::code::language::Language;
use crate::code::sources::Sources;
use crate::code::syntax::{ALL, Import};
use std::collections::{BTreeMap, HashMap, HashSet};

/// The packages of a tree, whatever source roots they lie in.
pub(super) struct Packages<'s> {
    /// The files of types, by their full names.
    types: HashMap<String, Vec<u32>>,
    /// With a folder in which each lies.
    packages: BTreeMap<&'s str, &'s str>,
    sources: &'s Sources<'s>,
}

impl<'s> Packages<'s> {
    pub(super) fn new(sources: &'s Sources<'s>) -> Self {
        let mut types: HashMap<String, Vec<u32>> = HashMap::new();
        let mut packages = BTreeMap::new();
        for (number, source) in sources.all.iter().enumerate().filter(|(_, source)| source.language == Language::Java) {
            let package = source.parsed.package.as_str();
            packages.entry(package).or_insert(crate::code::tree::folder(&source.path));
            for name in &source.parsed.declared {
                types.entry(full(package, name)).or_default().push(number as u32);
            }
        }
        Self { types, packages, sources }
    }

    /// The file of a type, or of what lies in it.
    fn file(&self, from: u32, path: &str) -> Option<u32> {
        let mut path = path;
        loop {
            if let Some(file) = self.exactly(from, path) {
                return Some(file);
            }
            path = path.rsplit_once('.')?.0;
        }
    }

    /// The file of a type. Where several source roots have one, the nearest counts.
    fn exactly(&self, from: u32, name: &str) -> Option<u32> {
        let files = self.types.get(name)?;
        let path = |file: u32| self.sources.get(file).path.as_bytes();
        let shared = |file: u32| path(from).iter().zip(path(file)).take_while(|(a, b)| a == b).count();
        files.iter().copied().max_by_key(|file| (shared(*file), std::cmp::Reverse(*file)))
    }

    /// A package that is not here: the parts of its name, as many as tell it from others.
    fn outside(path: &str) -> Target {
        let parts = path.split('.').take_while(|part| !part.starts_with(char::is_uppercase));
        let parts: Vec<&str> = parts.take(3).collect();
        match parts.first() {
            Some(&"java" | &"javax" | &"jdk") => Target::Standard,
            Some(&"sun") => Target::Standard,
            _ => Target::Outside(parts.join(".")),
        }
    }
}

fn full(package: &str, name: &str) -> String {
    if package.is_empty() { name.to_owned() } else { format!("{package}.{name}") }
}

impl Resolver for Packages<'_> {
    fn target(&self, from: u32, import: &Import) -> (Target, Option<String>) {
        let path = import.path.as_str();
        let target = match (self.file(from, path), import.name.as_deref()) {
            (Some(file), _) => Target::File(file),
            // Its types are found where they are mentioned.
            (None, Some(ALL)) if self.packages.contains_key(path) => Target::Nothing,
            (None, _) => match path.rsplit_once('.') {
                Some((package, name)) if import.name.is_none() && self.packages.contains_key(package) => {
                    let beside = crate::code::tree::join(self.packages[package], name);
                    // What is generated is there, but not read.
                    if self.sources.is_somewhere(&beside) { Target::Nothing } else { Target::Missing }
                }
                _ => Self::outside(path),
            },
        };
        (target, None)
    }

    /// Types of the same package, and of packages that are imported as a whole.
    fn unimported(&self, from: u32) -> Vec<(u32, u32)> {
        let parsed = &self.sources.get(from).parsed;
        let last = |import: &'_ Import| import.path.rsplit('.').next().unwrap_or_default().to_owned();
        let named = parsed.imports.iter().filter(|import| import.name.is_none()).map(last);
        let known: HashSet<String> = named.chain(parsed.declared.iter().cloned()).collect();
        let whole = parsed.imports.iter().filter(|import| import.name.is_some());
        let packages: Vec<&str> =
            std::iter::once(parsed.package.as_str()).chain(whole.map(|import| import.path.as_str())).collect();
        let mentions = parsed.mentions.iter().filter(|(name, _)| !known.contains(name));
        let found = mentions.filter_map(|(name, line)| {
            let file = packages.iter().find_map(|package| self.exactly(from, &full(package, name)))?;
            (file != from).then_some((file, *line))
        });
        // Several types of one file are one use of it.
        let mut seen = HashSet::new();
        found.filter(|(file, _)| seen.insert(*file)).collect()
    }
}

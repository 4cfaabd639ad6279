//! Go: modules and packages (The Go Modules Reference, "Resolving a package to a module").

use super::{Resolver, Target};
use crate::code::language::Language;
use crate::code::sources::Sources;
use crate::code::syntax::Import;
use crate::code::tree::{folder, join};
use std::collections::BTreeMap;

/// The modules of a tree.
pub(super) struct Modules<'s> {
    /// Paths of modules with their folders, the longest first.
    modules: Vec<(String, String)>,
    /// The first file of each package, by its folder.
    packages: BTreeMap<&'s str, u32>,
    sources: &'s Sources<'s>,
}

impl<'s> Modules<'s> {
    pub(super) fn new(sources: &'s Sources<'s>) -> Self {
        let mut packages = BTreeMap::new();
        let all = sources.all.iter().enumerate().filter(|(_, source)| source.language == Language::Go);
        for (number, source) in all {
            packages.entry(folder(&source.path)).or_insert(number as u32);
        }
        let mut modules: Vec<(String, String)> = Vec::new();
        if !packages.is_empty() {
            for (path, text) in sources.named("go.mod") {
                let name = text.lines().find_map(|line| line.trim().strip_prefix("module ")).unwrap_or_default();
                let name = name.split("//").next().unwrap_or_default().trim().trim_matches('"');
                modules.push((name.to_owned(), folder(path).to_owned()));
            }
        }
        modules.retain(|(name, _)| !name.is_empty());
        modules.sort_by(|a, b| b.0.len().cmp(&a.0.len()).then_with(|| a.cmp(b)));
        Self { modules, packages, sources }
    }

    fn package(&self, path: &str) -> Option<Target> {
        for (module, at) in &self.modules {
            if !crate::code::tree::is_within(path, module) {
                continue;
            }
            let rest = path[module.len()..].trim_start_matches('/');
            let folder = if rest.is_empty() { at.clone() } else { join(at, rest) };
            let left_out = || if self.sources.is_somewhere(&folder) { Target::Nothing } else { Target::Missing };
            return Some(self.packages.get(folder.as_str()).map_or_else(left_out, |file| Target::File(*file)));
        }
        None
    }

    /// Without modules, the folder that is read may itself be a part of the path (as below a GOPATH).
    fn below_root(&self, path: &str) -> Option<Target> {
        if !self.modules.is_empty() {
            return None;
        }
        let mut rest = path.split('/').skip_while(|part| *part != self.sources.tree.name());
        rest.next()?;
        let rest = rest.collect::<Vec<_>>().join("/");
        self.packages.get(rest.as_str()).map(|file| Target::File(*file))
    }
}

impl Resolver for Modules<'_> {
    fn target(&self, _from: u32, import: &Import) -> (Target, Option<String>) {
        let path = import.path.as_str();
        let first = path.split('/').next().unwrap_or_default();
        let target =
            self.package(path).or_else(|| self.below_root(path)).unwrap_or_else(|| match first.contains('.') {
                true => Target::Outside(path.splitn(4, '/').take(3).collect::<Vec<_>>().join("/")),
                false => Target::Standard,
            });
        (target, None)
    }
}

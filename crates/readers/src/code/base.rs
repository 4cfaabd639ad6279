//! A source tree that is read once, for whatever is made of it.

use super::classes::{Options as ClassesOptions, facts as class_facts};
use super::language::HAS_GRAMMARS;
use super::modules::folders::Folders;
use super::modules::{hands_on, unread};
use super::resolve::Dependencies;
use super::sources::Sources;
use super::tree::{Tree, join};
use crate::facts::Facts;
use crate::finding::{Broken, Finding, Seen};
use bathygram_core::conform::{Code, CodeUse, OutsideUse};
use bathygram_core::jobs::Jobs;

/// A source tree with what its files import.
pub struct CodeBase<'t> {
    pub(super) sources: Sources<'t>,
    pub(super) dependencies: Dependencies,
    with_tests: bool,
}

/// Whether every import is kept with what it names, for those who list them or ask what names mean.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Imports {
    Listed,
    Counted,
}

impl<'t> CodeBase<'t> {
    /// Reads a tree.
    ///
    /// # Errors
    /// If there is no source code in it.
    pub fn read(tree: &'t dyn Tree, with_tests: bool, jobs: &dyn Jobs) -> Result<Self, Broken> {
        Self::of(tree, with_tests, &|_| true, Imports::Listed, jobs)
    }

    /// Reads those of its files that are wanted.
    pub(super) fn of(
        tree: &'t dyn Tree, with_tests: bool, wants: &dyn Fn(&str) -> bool, imports: Imports, jobs: &dyn Jobs,
    ) -> Result<Self, Broken> {
        let sources = Sources::read(tree, with_tests, wants, jobs);
        if sources.all.is_empty() {
            return Err(nothing(tree, &sources));
        }
        let dependencies = Dependencies::of(&sources, imports == Imports::Listed, jobs);
        Ok(Self { sources, dependencies, with_tests })
    }

    /// What could not be read, and what is left out.
    pub fn findings(&self) -> Vec<Finding> {
        unread(&self.sources)
    }

    /// What files use of each other, for those who compare that with a design. `below` is where the folder of the tree lies, seen
    /// from where patterns for paths begin. A use is one of the file in which something is declared, whoever hands it on.
    pub fn uses(&self, below: &str) -> Code {
        let Self { sources, dependencies, .. } = self;
        let folders = Folders::of(sources);
        let used = dependencies.all.iter().map(|one| {
            let is_handed_on = hands_on(&folders, sources, one);
            let to = if is_handed_on { one.to } else { one.reaches };
            CodeUse { from: one.from as usize, to: to as usize, line: one.line, is_handed_on }
        });
        let mut uses: Vec<CodeUse> = used.filter(|one| one.from != one.to).collect();
        uses.sort_unstable();
        uses.dedup();
        let outside = dependencies.outside.iter().flat_map(|(package, places)| {
            let use_at =
                |(file, line): &(u32, u32)| OutsideUse { from: *file as usize, package: package.clone(), line: *line };
            places.iter().map(use_at).collect::<Vec<_>>()
        });
        Code {
            files: sources.all.iter().map(|source| join(below, &source.path)).collect(),
            shown: sources.all.iter().map(|source| sources.tree.shown(&source.path)).collect(),
            uses,
            outside: outside.collect(),
        }
    }

    /// Its classifiers, as a picture of classes.
    ///
    /// # Errors
    /// If none is wanted.
    pub fn classes(&self, options: &ClassesOptions, jobs: &dyn Jobs) -> Result<Facts, Broken> {
        class_facts(&self.sources, &self.dependencies, (options, self.with_tests), jobs)
    }
}

/// Why there is nothing to read.
fn nothing(tree: &dyn Tree, sources: &Sources<'_>) -> Broken {
    let left: usize = sources.left_out.values().sum();
    if let Some((path, why)) = sources.unread.first() {
        let more = match sources.unread.len() {
            1 => String::new(),
            count => format!(", and {} more are not read either", count - 1),
        };
        let file = tree.shown(path).into();
        return Broken { seen: Seen { file, ..Seen::default() }, why: format!("{why}{more}") };
    }
    let why = match left {
        _ if !HAS_GRAMMARS => "this program was built without the feature `code`: it reads no source code".to_owned(),
        0 => "there is no source code of Rust, Python, TypeScript, JavaScript, Java or Go in it".to_owned(),
        1 => "its one source file is a test, generated or somebody else's; `--with-tests` takes tests".to_owned(),
        left => format!(
            "all of its {left} source files are tests, generated or somebody else's; `--with-tests` takes tests"
        ),
    };
    Broken { seen: Seen { file: tree.name().into(), ..Seen::default() }, why }
}

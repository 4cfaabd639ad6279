//! What files of a tree use of each other, for those who compare that with a design.

use super::modules::folders::Folders;
use super::modules::{hands_on, unread};
use super::resolve::Dependencies;
use super::sources::Sources;
use super::tree::{Tree, join};
use crate::finding::{Broken, Finding};
use bathygram_core::conform::{Code, CodeUse, OutsideUse};
use bathygram_core::jobs::Jobs;

/// Reads a tree. `below` is where its folder lies, seen from where patterns for paths begin. A use is one of the file in which
/// something is declared, whoever hands it on; what could not be read is told, too.
///
/// # Errors
/// If there is no source code in it.
pub fn code(tree: &dyn Tree, below: &str, with_tests: bool, jobs: &dyn Jobs) -> Result<(Code, Vec<Finding>), Broken> {
    let sources = Sources::read(tree, with_tests, &|_| true, jobs);
    if sources.all.is_empty() {
        return Err(super::modules::nothing(tree, &sources));
    }
    let dependencies = Dependencies::of(&sources, false, jobs);
    let folders = Folders::of(&sources);
    let used = dependencies.all.iter().map(|one| {
        let is_handed_on = hands_on(&folders, &sources, one);
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
    let code = Code {
        files: sources.all.iter().map(|source| join(below, &source.path)).collect(),
        shown: sources.all.iter().map(|source| tree.shown(&source.path)).collect(),
        uses,
        outside: outside.collect(),
    };
    let findings = unread(&sources);
    Ok((code, findings))
}

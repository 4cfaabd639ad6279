//! `import modules`: how a source tree hangs together, as an architecture.

use super::progress::WatchedTree;
use super::{Common, answer, broken};
use crate::outcome::{Failure, Result};
use crate::session::{self, Voice};
use bathygram_core::model::DiagramKind;
use bathygram_host::{SourceTree, Threads};
use bathygram_readers::code::{Given, ModulesOptions, given, modules};
use std::path::PathBuf;

/// Draft how a code base hangs together: folders that matter, with the imports between them
///
/// Reads Rust, Python, TypeScript, JavaScript, Java and Go, without configuration and without a build. Folders are opened until the
/// picture has 7 to 25 boxes. Circles, with the fewest imports to cut, ways past a folder's entry, and files that nobody imports are named
/// with their lines. What git ignores, what programs have written, what is vendored, and tests are left out, and counted.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram import modules . --picture modules.svg > modules.bathy\n  \
    bathygram import modules . --depth 2 --outside > modules.bathy\n  \
    bathygram import modules . --around rules --distance 2 > near.bathy\n  \
    bathygram import modules . --findings sarif > modules.bathy 2> modules.sarif")]
pub(super) struct Arguments {
    /// The folder of the sources
    source: PathBuf,
    /// Open folders down to this level, instead of until the picture is large enough
    #[arg(long, value_name = "N", conflicts_with = "into", value_parser = crate::numbers::between(1..=20))]
    depth: Option<u32>,
    /// Show packages that are not in this folder, too
    #[arg(long)]
    outside: bool,
    /// Take in tests, examples and benchmarks
    #[arg(long)]
    with_tests: bool,
    #[command(flatten)]
    common: Common,
}

/// Runs the command.
///
/// # Errors
/// If the folder cannot be read, or there is no source code in it.
pub(super) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let tree = tree(&arguments.source, voice)?;
    let given = arguments.common.into.as_deref().map(|path| boxes(path, &arguments.common)).transpose()?;
    let options = ModulesOptions {
        selection: arguments.common.selection(),
        depth: arguments.depth.map(|depth| depth as usize),
        with_tests: arguments.with_tests,
        with_outside: arguments.outside,
        given,
        with_imports: arguments.common.json,
    };
    let facts = modules(&tree, &options, &Threads::all()).map_err(broken)?;
    drop(tree);
    answer(&arguments.common, facts, "source file", voice)
}

/// The boxes of the text that is brought up to date: of its architecture of that name, or of its only one.
fn boxes(path: &std::path::Path, common: &Common) -> Result<Vec<Given>> {
    let project = session::project()?;
    if !path.is_file() {
        return Ok(Vec::new());
    }
    let reading = session::open(&project, path)?;
    let all = reading.document.diagrams.iter().filter(|diagram| diagram.kind == DiagramKind::Architecture);
    let all: Vec<_> = all.collect();
    let named = all.iter().find(|diagram| Some(&diagram.name) == common.name.as_ref());
    let design = named.or(all.first().filter(|_| all.len() == 1));
    Ok(design.map(|design| given(design)).unwrap_or_default())
}

/// Walks a folder, and says what is not read of it.
///
/// # Errors
/// If it is no folder.
pub(crate) fn tree(source: &std::path::Path, voice: Voice) -> Result<WatchedTree> {
    let tree = SourceTree::walk(source).map_err(|why| Failure::Usage(why.to_string()))?;
    match tree.ignored {
        0 => {}
        1 => voice.say("a file or folder that git ignores is left out"),
        count => voice.say(&format!("{count} files or folders that git ignores are left out")),
    }
    if tree.unnamed > 0 {
        let files = session::count(tree.unnamed, "file");
        voice.say(&format!("{files} left out: no line can hold the name"));
    }
    Ok(WatchedTree::new(tree, voice))
}

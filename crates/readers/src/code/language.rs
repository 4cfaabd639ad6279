//! The languages that are read.

use std::ops::ControlFlow;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Instant;
use tree_sitter::{ParseOptions, ParseState, Parser, Tree};

/// A language of source files.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Language {
    /// Rust.
    Rust,
    /// Python.
    Python,
    /// TypeScript.
    TypeScript,
    /// JavaScript.
    JavaScript,
    /// Java.
    Java,
    /// Go.
    Go,
}

impl Language {
    /// The language of a file, by its ending; none where the grammars are left out.
    pub fn of(path: &str) -> Option<Self> {
        if !HAS_GRAMMARS {
            return None;
        }
        Some(match path.rsplit_once('.')?.1 {
            "rs" => Self::Rust,
            "py" | "pyi" => Self::Python,
            "ts" | "tsx" | "mts" | "cts" => Self::TypeScript,
            "js" | "jsx" | "mjs" | "cjs" => Self::JavaScript,
            "java" => Self::Java,
            "go" => Self::Go,
            _ => return None,
        })
    }

    /// Whether an import loads a file, one after the other.
    pub(crate) fn loads(self) -> bool {
        matches!(self, Self::Python | Self::TypeScript | Self::JavaScript)
    }

    /// Whether files of both see each other.
    pub(crate) fn mixes_with(self, other: Self) -> bool {
        let is_script = |language| matches!(language, Self::TypeScript | Self::JavaScript);
        self == other || is_script(self) && is_script(other)
    }
}

/// Whether grammars are part of the program.
pub(super) const HAS_GRAMMARS: bool = cfg!(feature = "code");

/// The grammar of a language; `path` tells dialects apart.
#[cfg(feature = "code")]
fn grammar(language: Language, path: &str) -> Option<tree_sitter::Language> {
    let grammar = match language {
        Language::Rust => tree_sitter_rust::LANGUAGE,
        Language::Python => tree_sitter_python::LANGUAGE,
        // Angle brackets are type assertions in one dialect, and elements of a page in the other.
        Language::TypeScript if !path.ends_with("x") => tree_sitter_typescript::LANGUAGE_TYPESCRIPT,
        Language::TypeScript | Language::JavaScript => tree_sitter_typescript::LANGUAGE_TSX,
        Language::Java => tree_sitter_java::LANGUAGE,
        Language::Go => tree_sitter_go::LANGUAGE,
    };
    Some(grammar.into())
}

#[cfg(not(feature = "code"))]
fn grammar(_: Language, _: &str) -> Option<tree_sitter::Language> {
    None
}

/// How long files with errors may be read, all of them together.
// Parsers look for the least error at every place, which takes a hundred times as long as reading: what is no source code at all
// would take 10 s for each MB. A file without an error is read whatever it takes, so that no answer depends on the machine.
#[derive(Debug)]
pub(crate) struct Patience {
    /// What is left of the time that all share, in milliseconds.
    left: AtomicU64,
}

/// What all share, in milliseconds.
const SHARED: u64 = 6_000;
/// What each file has in any case, and for each MiB, in milliseconds.
// More than ten times what source code takes.
const OWN: u64 = 100;
const OWN_PER_MIB: u64 = 250;

impl Default for Patience {
    fn default() -> Self {
        Self { left: AtomicU64::new(SHARED) }
    }
}

/// Parses files of one language.
pub(crate) struct Reader<'p> {
    parser: Parser,
    patience: &'p Patience,
}

impl<'p> Reader<'p> {
    /// For files of a language. Nothing if its grammar cannot be loaded.
    pub(crate) fn new(language: Language, path: &str, patience: &'p Patience) -> Option<Self> {
        let mut parser = Parser::new();
        parser.set_language(&grammar(language, path)?).ok()?;
        Some(Self { parser, patience })
    }

    /// The tree of a text; nothing if it has errors that take too long.
    pub(crate) fn tree(&mut self, text: &[u8]) -> Option<Tree> {
        let own = OWN + OWN_PER_MIB * (text.len() as u64 >> 20);
        let mut erring: Option<Instant> = None;
        let mut taken = 0;
        let mut see = |state: &ParseState| {
            if !state.has_error() {
                return ControlFlow::Continue(());
            }
            let begun = *erring.get_or_insert_with(Instant::now);
            let over = (begun.elapsed().as_millis() as u64).saturating_sub(own);
            // What is beyond its own time is taken from that of all.
            let more = over.saturating_sub(taken);
            taken += more;
            let shared = |left: u64| left.checked_sub(more);
            match self.patience.left.fetch_update(Ordering::Relaxed, Ordering::Relaxed, shared) {
                Ok(_) => ControlFlow::Continue(()),
                Err(_) => ControlFlow::Break(()),
            }
        };
        let options = ParseOptions::new().progress_callback(&mut see);
        let tree = self.parser.parse_with_options(&mut |at, _| text.get(at..).unwrap_or_default(), None, Some(options));
        if tree.is_none() {
            self.parser.reset();
        }
        tree
    }
}

#[cfg(all(test, feature = "code"))]
mod tests {
    use super::*;

    #[test]
    fn endings_tell_languages() {
        assert_eq!(Language::of("a/gauge.mts"), Some(Language::TypeScript));
        assert_eq!(Language::of("a/gauge.cjs"), Some(Language::JavaScript));
        assert_eq!((Language::of("a/gauge.md"), Language::of("Makefile")), (None, None));
        assert!(Language::TypeScript.mixes_with(Language::JavaScript) && !Language::Rust.mixes_with(Language::Go));
    }

    #[test]
    fn every_grammar_can_be_loaded() {
        for path in ["a.rs", "a.py", "a.ts", "a.tsx", "a.js", "a.java", "a.go"] {
            let language = Language::of(path).expect("a language");
            let patience = Patience::default();
            let reader = Reader::new(language, path, &patience);
            assert!(reader.and_then(|mut reader| reader.tree(b"")).is_some(), "{path}");
        }
    }

    #[test]
    fn what_is_no_source_code_is_given_up() {
        let patience = Patience { left: AtomicU64::new(0) };
        let mut reader = Reader::new(Language::Rust, "a.rs", &patience).expect("a reader");
        let signs = b"{}()<>[];:,\"'abc ";
        let noise: Vec<u8> =
            (0..2_000_000_u64).map(|i| signs[(i.wrapping_mul(i ^ 0x9e37_79b9) >> 7) as usize % signs.len()]).collect();
        assert!(reader.tree(&noise).is_none());
        assert!(reader.tree(b"fn gauge() {}").is_some_and(|tree| !tree.root_node().has_error()));
    }
}

//! The languages that are read.

use tree_sitter::{Parser, Tree};

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

/// Parses files of one language.
pub(crate) struct Reader(Parser);

impl Reader {
    /// For files of a language. Nothing if its grammar cannot be loaded.
    pub(crate) fn new(language: Language, path: &str) -> Option<Self> {
        let mut parser = Parser::new();
        parser.set_language(&grammar(language, path)?).ok()?;
        Some(Self(parser))
    }

    pub(crate) fn tree(&mut self, text: &[u8]) -> Option<Tree> {
        self.0.parse(text, None)
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
            assert!(Reader::new(language, path).and_then(|mut reader| reader.tree(b"")).is_some(), "{path}");
        }
    }
}

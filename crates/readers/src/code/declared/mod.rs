//! One file's text to what it declares: classifiers with their members, and what they are kinds of. One file for each language.

mod go;
mod java;
mod python;
mod rust;
mod script;
mod types;

use super::language::{Language, Reader};
use super::syntax::{first_error, parts, text};
use bathygram_core::model::{ElementKind, Verb};
use tree_sitter::Node;
pub(crate) use types::{Type, shown};

/// A class, an interface, an enumeration, a data type.
#[derive(Clone, Debug)]
pub(crate) struct Classifier {
    pub(crate) name: String,
    pub(crate) kind: ElementKind,
    pub(crate) line: u32,
    pub(crate) is_abstract: bool,
    pub(crate) is_public: bool,
    /// Type parameters without their brackets.
    pub(crate) parameters: Option<String>,
    /// The classifier around it, by its number in the file.
    pub(crate) outer: Option<usize>,
    /// What it is a kind of.
    pub(crate) bases: Vec<(Verb, String)>,
    pub(crate) members: Vec<Declared>,
    /// The first sentence of what is said of it.
    pub(crate) about: Option<String>,
}

/// A member.
#[derive(Clone, Debug, Default)]
pub(crate) struct Declared {
    pub(crate) name: String,
    /// `+`, `-`, `#` or `~`; nothing for values.
    pub(crate) visibility: Option<char>,
    /// The type of an attribute, what an operation gives.
    pub(crate) of: Option<String>,
    /// Parameters with their types, for an operation.
    pub(crate) parameters: Option<Vec<(String, String)>>,
    pub(crate) is_static: bool,
    pub(crate) is_abstract: bool,
    /// Whether there need not be one.
    pub(crate) is_optional: bool,
}

/// Operations and kinds of a classifier that stand elsewhere.
#[derive(Clone, Debug, Default)]
pub(crate) struct Extension {
    pub(crate) of: String,
    pub(crate) line: u32,
    pub(crate) bases: Vec<(Verb, String)>,
    pub(crate) members: Vec<Declared>,
}

/// What one file declares.
#[derive(Clone, Debug, Default)]
pub(crate) struct Declarations {
    pub(crate) classifiers: Vec<Classifier>,
    pub(crate) extensions: Vec<Extension>,
    pub(crate) broken: Option<u32>,
}

impl Classifier {
    fn new(name: String, kind: ElementKind, node: Node<'_>) -> Self {
        Self {
            name,
            kind,
            line: super::syntax::line(node),
            is_abstract: false,
            is_public: true,
            parameters: None,
            outer: None,
            bases: Vec::new(),
            members: Vec::new(),
            about: None,
        }
    }
}

/// Reads one file.
pub(crate) fn declarations(
    reader: &mut Reader<'_>, language: Language, source: &[u8], with_tests: bool,
) -> Declarations {
    let mut out = Declarations::default();
    let Some(tree) = reader.tree(source) else { return out };
    let root = tree.root_node();
    match language {
        Language::Rust => rust::read(root, source, with_tests, &mut out),
        Language::Python => python::read(root, source, &mut out),
        Language::TypeScript | Language::JavaScript => script::read(root, source, &mut out),
        Language::Java => java::read(root, source, &mut out),
        Language::Go => go::read(root, source, &mut out),
    }
    out.broken = first_error(root);
    out
}

/// The first sentence of comments, without their signs.
fn sentence(comment: &str) -> Option<String> {
    let lines =
        comment.lines().map(|line| line.trim().trim_start_matches(['/', '*', '!', '#']).trim_end_matches("*/").trim());
    let lines: Vec<&str> = lines
        .skip_while(|line| line.is_empty())
        .take_while(|line| !line.is_empty() && !line.starts_with('@'))
        .collect();
    let text = lines.join(" ");
    let end = text.match_indices(". ").map(|(at, _)| at).next().unwrap_or(text.len());
    let text = text[..end].trim().trim_end_matches('.').to_owned();
    (!text.is_empty()).then_some(text)
}

/// The comments right before a node.
fn comment_before(node: Node<'_>, source: &[u8], is_comment: &dyn Fn(&str) -> bool) -> Option<String> {
    let mut lines: Vec<String> = Vec::new();
    let mut at = node.prev_sibling();
    while let Some(before) = at {
        if before.kind().contains("comment") {
            let said = text(before, source);
            if !is_comment(&said) {
                break;
            }
            lines.push(said.trim_end().to_owned());
        } else if !matches!(before.kind(), "attribute_item" | "decorator") {
            break;
        }
        at = before.prev_sibling();
    }
    lines.reverse();
    sentence(&lines.join("\n"))
}

/// The first part of a kind.
fn part<'t>(node: Node<'t>, kind: &str) -> Option<Node<'t>> {
    parts(node).into_iter().find(|part| part.kind() == kind)
}

/// The text of a part without what surrounds it: `<T>` is `T`, `: T` is `T`.
fn inner(node: Node<'_>, source: &[u8], signs: &[char]) -> String {
    text(node, source).trim().trim_matches(|c: char| signs.contains(&c) || c.is_whitespace()).to_owned()
}

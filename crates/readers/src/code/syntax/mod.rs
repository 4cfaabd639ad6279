//! One file's text to what it says of others: its imports. One file for each language.

mod go;
mod java;
mod python;
mod rust;
mod script;

use super::language::{Language, Reader};
use tree_sitter::{Node, TreeCursor};

/// How something is imported.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Kind {
    /// Whenever the file is loaded.
    #[default]
    Plain,
    /// For types only: nothing is loaded.
    Types,
    /// While the program runs.
    Dynamic,
}

/// One thing that a file imports.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Import {
    /// The line, from 1.
    pub(crate) line: u32,
    /// What is named: a path, in the way of the language.
    pub(crate) path: String,
    /// What is asked of it; nothing for all of it as one, [`ALL`] for everything by its own name.
    pub(crate) name: Option<String>,
    /// The name that it has here, if that is another one.
    pub(crate) alias: Option<String>,
    /// Whether it is handed on to those who import this file.
    pub(crate) is_exposed: bool,
    pub(crate) kind: Kind,
    /// The inline module in which it stands, by its number in [`Parsed::scopes`].
    pub(crate) scope: usize,
    /// Whether it is a path in the middle of code: it means something local unless its first name is known.
    pub(crate) is_inline: bool,
}

/// Everything by its own name.
pub(crate) const ALL: &str = "*";

impl Import {
    /// The name by which it is known here.
    pub(crate) fn own_name(&self) -> Option<&str> {
        self.alias.as_deref().or(self.name.as_deref())
    }
}

/// `mod name;` of Rust.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct ModuleLine {
    pub(crate) name: String,
    /// The files that attributes name, one of them under each condition.
    pub(crate) paths: Vec<String>,
    /// The inline module in which it stands.
    pub(crate) scope: usize,
    /// Whether everybody may see it.
    pub(crate) is_public: bool,
    /// Whether only the module around it may.
    pub(crate) is_private: bool,
}

/// What one file says.
#[derive(Clone, Debug, Default)]
pub(crate) struct Parsed {
    /// Lines that are not empty.
    pub(crate) lines: u32,
    pub(crate) imports: Vec<Import>,
    /// What it declares outermost, in order.
    pub(crate) declared: Vec<String>,
    /// Its package, where the language says that in the file.
    pub(crate) package: String,
    pub(crate) modules: Vec<ModuleLine>,
    /// Inline modules: the number of the one around, and the name. The first one is the file itself.
    pub(crate) scopes: Vec<(usize, String)>,
    /// Names of types that it mentions, each with its first line, where these need no import.
    pub(crate) mentions: Vec<(String, u32)>,
    /// Whether it gives others something to import.
    pub(crate) has_exports: bool,
    /// Whether it is started by somebody other than an import.
    pub(crate) is_started: bool,
    /// The first line that could not be read.
    pub(crate) broken: Option<u32>,
}

/// Reads one file; nothing if its errors take too long.
pub(crate) fn parse(reader: &mut Reader<'_>, language: Language, text: &[u8], with_tests: bool) -> Option<Parsed> {
    let mut out = Parsed { scopes: vec![(0, String::new())], ..Parsed::default() };
    out.lines = text.split(|byte| *byte == b'\n').filter(|line| !line.trim_ascii().is_empty()).count() as u32;
    let tree = reader.tree(text)?;
    let root = tree.root_node();
    match language {
        Language::Rust => rust::parse(reader, root, text, with_tests, &mut out),
        Language::Python => python::parse(root, text, &mut out),
        Language::TypeScript | Language::JavaScript => script::parse(root, text, &mut out),
        Language::Java => java::parse(root, text, &mut out),
        Language::Go => go::parse(root, text, &mut out),
    }
    out.broken = first_error(root);
    Some(out)
}

/// The line of the first error of a tree.
pub(crate) fn first_error(root: Node<'_>) -> Option<u32> {
    if !root.has_error() {
        return None;
    }
    let mut first = None;
    visit(root, &mut |node| {
        if first.is_some() || !node.has_error() {
            return Go::Past;
        }
        if node.is_error() || node.is_missing() {
            first = Some(line(node));
        }
        Go::Into
    });
    first.or(Some(1))
}

/// Where a visit goes on.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum Go {
    /// Inside the node.
    Into,
    /// Behind it.
    Past,
}

/// Visits nodes in the order of the text. It does not call itself: texts may be nested as deep as they like.
pub(crate) fn visit<'t>(root: Node<'t>, see: &mut dyn FnMut(Node<'t>) -> Go) {
    let mut cursor = root.walk();
    loop {
        let goes_into = see(cursor.node()) == Go::Into && cursor.goto_first_child();
        if !goes_into && !next(&mut cursor) {
            return;
        }
    }
}

/// The next node that lies in no node seen before.
fn next(cursor: &mut TreeCursor<'_>) -> bool {
    loop {
        if cursor.goto_next_sibling() {
            return true;
        }
        if !cursor.goto_parent() {
            return false;
        }
    }
}

/// The line of a node, from 1.
pub(crate) fn line(node: Node<'_>) -> u32 {
    node.start_position().row as u32 + 1
}

/// The text of a node; what is not UTF-8 is replaced.
pub(crate) fn text<'t>(node: Node<'_>, source: &'t [u8]) -> std::borrow::Cow<'t, str> {
    String::from_utf8_lossy(&source[node.byte_range()])
}

/// The named nodes in a node.
pub(crate) fn parts(node: Node<'_>) -> Vec<Node<'_>> {
    node.named_children(&mut node.walk()).collect()
}

/// All nodes in a node, signs and keywords, too.
pub(crate) fn tokens(node: Node<'_>) -> Vec<Node<'_>> {
    node.children(&mut node.walk()).collect()
}

/// The text of a field of a node.
pub(crate) fn field_text(node: Node<'_>, field: &str, source: &[u8]) -> Option<String> {
    node.child_by_field_name(field).map(|part| text(part, source).into_owned())
}

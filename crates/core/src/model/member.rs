//! Members of classifiers. Input: one line of a class. Output: a [`Member`] in UML's textual form
//! (visibility, name, parameters, type, multiplicity, default, modifiers), shown as it was written.

use crate::diag::Diagnostics;
use crate::syntax::{Cursor, Label, Trait};

/// The compartments of a classifier.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ClassBody {
    /// Type parameters, as written.
    pub parameters: Option<String>,
    /// A free keyword, shown in guillemets.
    pub keyword: Option<String>,
    /// What an object is an instance of.
    pub instance_of: Option<String>,
    /// Named compartments, after attributes and operations.
    pub compartments: Vec<Compartment>,
}

/// One compartment.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Compartment {
    /// Its name, if it was opened by `section`.
    pub title: Option<Label>,
    /// What it holds.
    pub members: Vec<Member>,
}

/// One member.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Member {
    /// As shown, traits left out.
    pub text: String,
    /// Whether it has parameters.
    pub operation: bool,
    /// Set underlined.
    pub is_static: bool,
    /// Set in italics.
    pub is_abstract: bool,
    /// Part of the table's key.
    pub key: bool,
    /// What it refers to, `Table.column`.
    pub refers: Option<String>,
    /// Its line number.
    pub line: u32,
}

/// Reads a line of a class as a member. Brackets that touch the name before them are parameters or
/// part of a type; brackets after a space are traits.
pub(super) fn read(cursor: &mut Cursor<'_>, line: u32, diags: &mut Diagnostics) -> (Member, Vec<Trait>) {
    let rest = cursor.rest();
    let written = cut_comment(rest.value);
    let (text, traits) = match traits_at(written) {
        Some(at) => {
            cursor.skip_to(rest.span.start as usize + at);
            (written[..at].trim_end(), cursor.traits(diags))
        }
        None => (written.trim_end(), Vec::new()),
    };
    let has = |word: &str| traits.iter().any(|t| t.word.value == word);
    let refers = traits.iter().find(|t| t.word.value == "refers").and_then(|t| t.values.first());
    let member = Member {
        text: text.to_owned(),
        operation: is_operation(text),
        is_static: has("static"),
        is_abstract: has("abstract"),
        key: has("key"),
        refers: refers.map(|v| v.value.clone()),
        line,
    };
    (member, traits)
}

/// Whether a line of a class is a member: a visibility mark, `x:`, `x(`, `x =`, `x [`, `x {`, or a
/// word alone.
pub(super) fn is_member(rest: &str) -> bool {
    let written = cut_comment(rest).trim_end();
    if written.starts_with(['+', '-', '#', '~']) {
        return true;
    }
    let name = written.find(|c: char| !(c.is_alphanumeric() || c == '_' || c == '-')).unwrap_or(written.len());
    if name == 0 {
        return false;
    }
    let after = &written[name..];
    let spaced = after.trim_start();
    after.is_empty()
        || after.starts_with(['(', '<'])
        || spaced.starts_with([':', '=', '[', '{'])
        || (spaced.starts_with('(') && !spaced.is_empty())
}

fn is_operation(text: &str) -> bool {
    let head = text.split([':', '=']).next().unwrap_or(text);
    head.contains('(')
}

fn cut_comment(rest: &str) -> &str {
    let mut quoted = false;
    let bytes = rest.as_bytes();
    for (i, b) in bytes.iter().enumerate() {
        match b {
            b'"' => quoted = !quoted,
            b'/' if !quoted && rest[i..].starts_with("//") && (i == 0 || bytes[i - 1] == b' ') => return &rest[..i],
            _ => {}
        }
    }
    rest
}

/// Where the traits begin: the last bracket at the line's end that has a space before it.
fn traits_at(written: &str) -> Option<usize> {
    let written = written.trim_end();
    if !written.ends_with(')') {
        return None;
    }
    let mut depth = 0;
    for (i, c) in written.char_indices().rev() {
        match c {
            ')' => depth += 1,
            '(' => {
                depth -= 1;
                if depth == 0 {
                    return (i > 0 && written[..i].ends_with([' ', '\t'])).then_some(i);
                }
            }
            _ => {}
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn members_are_told_from_other_lines() {
        for line in [
            "+ name: Text",
            "id: bigint (key)",
            "raise(level: Level): Warning",
            "calm",
            "x = 4",
            "tags [0..*]",
            "x {readOnly}",
            "about: Text",
            "level: decimal(6,3)",
        ] {
            assert!(is_member(line), "{line}");
        }
        for line in ["about \"A station\"", "extends Station", "section \"Upkeep\"", "\"text\""] {
            assert!(!is_member(line), "{line}");
        }
    }

    #[test]
    fn brackets_after_a_space_are_traits() {
        assert_eq!(traits_at("id: bigint (key)"), Some(11));
        assert_eq!(traits_at("level: decimal(6,3)"), None);
        assert_eq!(traits_at("raise(level: Level)"), None);
        assert!(is_operation("+ lastReading(): Reading [0..1]"));
        assert!(!is_operation("level: decimal(6,3)"));
    }
}

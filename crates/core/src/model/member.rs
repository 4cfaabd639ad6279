//! Members of classifiers. Input: one line of a class. Output: a [`Member`] in UML's textual form
//! (visibility, name, parameters, type, multiplicity, default, modifiers), shown as it was written.

use crate::diag::{Diagnostics, Message, suggest};
use crate::source::Span;
use crate::syntax::{Cursor, Label, Trait, is_space};

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

/// Traits of a member.
const TRAITS: &[&str] = &["static", "abstract", "key", "unique", "null", "refers"];

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
    /// Where it was written.
    pub span: Span,
}

impl ClassBody {
    /// All members, in order.
    pub fn members(&self) -> impl Iterator<Item = &Member> {
        self.compartments.iter().flat_map(|c| &c.members)
    }
}

impl Member {
    /// Its name alone.
    pub fn name(&self) -> String {
        let text = self.text.trim_start_matches(['+', '-', '#', '~', '/', ' ']);
        text.split(|c: char| !(c.is_alphanumeric() || c == '_' || c == '-')).next().unwrap_or_default().to_owned()
    }

    /// What tells it from the other members: its name, and for operations the types of its parameters.
    pub fn signature(&self) -> String {
        let name = self.name();
        let parameters = self.text.find('(').filter(|_| self.operation).map(|open| {
            let inner = &self.text[open + 1..];
            let types = inner[..inner.rfind(')').unwrap_or(inner.len())].split(',');
            types.map(|p| p.rsplit(':').next().unwrap_or(p).trim().to_owned()).collect::<Vec<_>>().join(", ")
        });
        parameters.map_or(name.clone(), |p| format!("{name}({p})"))
    }

    /// A line of text.
    pub(super) fn plain(text: String, span: Span) -> Self {
        Self { text, operation: false, is_static: false, is_abstract: false, key: false, refers: None, span }
    }
}

/// Reads a line of a class as a member. Brackets that touch the name before them are parameters or
/// part of a type; brackets after a space are traits.
pub(super) fn read(cursor: &mut Cursor<'_>, diags: &mut Diagnostics) -> (Member, Vec<Trait>) {
    let rest = cursor.rest();
    let written = cut_comment(rest.value);
    let (text, traits) = match traits_at(written) {
        Some(at) => {
            cursor.skip_to(rest.span.start as usize + at);
            (canonical(&written[..at]), cursor.traits(diags))
        }
        None => (canonical(written), Vec::new()),
    };
    let has = |word: &str| traits.iter().any(|t| t.word.value == word);
    let refers = traits.iter().find(|t| t.word.value == "refers").and_then(|t| t.values.first());
    for t in traits.iter().filter(|t| !TRAITS.contains(&t.word.value.as_str())) {
        let word = t.word.value.clone();
        diags.report(t.word.span, Message::UnknownTrait { suggestion: suggest(&word, TRAITS.iter().copied()), word });
    }
    let marks: String = ["unique", "null"].iter().filter(|w| has(w)).map(|w| format!(" {{{w}}}")).collect();
    let member = Member {
        text: format!("{text}{marks}"),
        operation: is_operation(&text),
        is_static: has("static"),
        is_abstract: has("abstract"),
        key: has("key"),
        refers: refers.map(|v| v.value.clone()),
        span: rest.span,
    };
    (member, traits)
}

/// The canonical form of a member: one space after its visibility, between its words, and after the colon
/// before its type. What holds texts in quotes stays as it is.
pub(crate) fn canonical(text: &str) -> String {
    let is_space = |c: char| is_space(c) || c == '\n';
    let text = text.trim_matches(is_space);
    if text.contains(['"', '`']) {
        return text.to_owned();
    }
    let (mark, rest) = match text.chars().next() {
        Some('+' | '-' | '#' | '~') => (&text[..1], text[1..].trim_start_matches(is_space)),
        _ => ("", text),
    };
    let mut out = String::with_capacity(text.len() + 2);
    out.push_str(mark);
    let mut depth = 0_u32;
    let mut is_typed = false;
    let mut space = !mark.is_empty();
    for (at, c) in rest.char_indices() {
        if is_space(c) {
            space = true;
            continue;
        }
        let is_colon = c == ':' && depth == 0 && !is_typed;
        // Two strokes after a space would be a comment.
        if space && !is_colon && !out.is_empty() && !rest[at..].starts_with("//") {
            out.push(' ');
        }
        match c {
            '(' | '<' | '[' | '{' => depth += 1,
            ')' | '>' | ']' | '}' => depth = depth.saturating_sub(1),
            // After `=` a colon is part of the default.
            '=' if depth == 0 => is_typed = true,
            _ => {}
        }
        out.push(c);
        is_typed |= is_colon;
        space = is_colon;
    }
    out
}

/// Whether a line of a class is a member: a visibility mark, or, after a stroke or without one, `x:`, `x(`, `x =`, `x [`,
/// `x {`, or a word alone.
pub(crate) fn is_member(rest: &str) -> bool {
    let written = cut_comment(rest).trim_end();
    if written.starts_with(['+', '-', '#', '~']) {
        return true;
    }
    // What is derived.
    let written = written.strip_prefix('/').map_or(written, str::trim_start);
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

pub(crate) fn cut_comment(rest: &str) -> &str {
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
    fn members_are_distinguished_from_other_lines() {
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
            "/ age: Years",
            "/age",
        ] {
            assert!(is_member(line), "{line}");
        }
        for line in ["about \"A station\"", "extends Station", "section \"Upkeep\"", "\"text\"", "// age: Years", "/"] {
            assert!(!is_member(line), "{line}");
        }
    }

    #[test]
    fn members_have_one_form() {
        for (written, form) in [
            ("+name:Text", "+ name: Text"),
            ("-  position :  Position   {readOnly}", "- position: Position {readOnly}"),
            ("raise( level:Level ) : Warning", "raise( level:Level ): Warning"),
            ("x = a:b", "x = a:b"),
            ("id: bigint  (key)", "id: bigint (key)"),
            ("+", "+"),
            ("+//x", "+//x"),
            ("x://y", "x://y"),
            ("calm", "calm"),
            ("m: Map<K,  V> [0..1]", "m: Map<K, V> [0..1]"),
        ] {
            assert_eq!(canonical(written), form);
            assert_eq!(canonical(form), form);
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

//! Members of classifiers. Input: one line of a class. Output: a [`Member`] in UML's textual form
//! (visibility, name, parameters, type, multiplicity, default, modifiers), shown as it was written.

use super::reference::{self, Reference};
use crate::diag::{Diagnostics, Message, suggest};
use crate::source::Span;
use crate::syntax::{Cursor, Label, is_space};

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
const TRAITS: &[&str] = &["static", "abstract", "key", "unique", "null", "refers", "on"];

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
    /// As written, traits left out.
    pub text: String,
    /// Whether it has parameters.
    pub operation: bool,
    /// Set underlined.
    pub is_static: bool,
    /// Set in italics.
    pub is_abstract: bool,
    /// Part of the table's key.
    pub key: bool,
    /// Whether no two rows have the same.
    pub is_unique: bool,
    /// Whether it may be missing.
    pub is_nullable: bool,
    /// What it refers to.
    pub refers: Option<Reference>,
    /// What it says of its table, if it is no column.
    pub constraint: Option<TableConstraint>,
    /// Where it was written.
    pub span: Span,
}

/// What a line of a table says of several columns, or of every row.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum TableConstraint {
    /// No two rows have the same in all of these columns.
    Unique(Vec<String>),
    /// These columns together refer to a row of another table.
    Refers(Vec<String>),
    /// What holds for every row.
    Check(Label),
}

impl ClassBody {
    /// All members, in order.
    pub fn members(&self) -> impl Iterator<Item = &Member> {
        self.compartments.iter().flat_map(|c| &c.members)
    }

    /// The columns that identify a row.
    pub fn key(&self) -> impl Iterator<Item = &Member> {
        self.members().filter(|member| member.key)
    }

    /// Whether rows with the same in these columns are the same row.
    pub fn identifies(&self, columns: &[String]) -> bool {
        let has = |name: &str| columns.iter().any(|column| column == name);
        let mut key = self.key().peekable();
        let is_key = key.peek().is_some() && key.all(|member| has(&member.name()));
        is_key
            || self.members().any(|member| match &member.constraint {
                Some(TableConstraint::Unique(of)) => of.iter().all(|column| has(column)),
                _ => member.is_unique && has(&member.name()),
            })
    }

    /// Whether a row can be without one of these columns.
    pub fn can_lack(&self, columns: &[String]) -> bool {
        let is_one = |member: &&Member| columns.iter().any(|column| *column == member.name());
        self.members().filter(is_one).any(|member| member.is_nullable)
    }
}

impl Member {
    /// Its name alone.
    pub fn name(&self) -> String {
        let text = self.text.trim_start_matches(['+', '-', '#', '~', '/', ' ']);
        text[..name_length(text)].trim_matches('`').to_owned()
    }

    /// The name of a column, and what stands behind its colon.
    pub fn column(&self) -> (&str, &str) {
        let quoted = if self.text.starts_with('`') { name_length(&self.text) } else { 0 };
        // Behind an equals sign a colon is part of the value.
        let colon = self.text[quoted..].find([':', '=']).map(|at| quoted + at);
        let colon = colon.filter(|at| self.text[*at..].starts_with(':'));
        let (name, of) = colon.map_or((self.text.as_str(), ""), |at| (&self.text[..at], &self.text[at + 1..]));
        (name.trim().trim_matches('`'), of.trim())
    }

    /// What tells it from the other members: its name, and for operations the types of its parameters.
    pub fn signature(&self) -> String {
        if self.constraint.is_some() {
            return self.text.clone();
        }
        let name = self.name();
        let parameters = self.text.find('(').filter(|_| self.operation).map(|open| {
            let inner = &self.text[open + 1..];
            let types = inner[..inner.rfind(')').unwrap_or(inner.len())].split(',');
            types.map(|p| p.rsplit(':').next().unwrap_or(p).trim().to_owned()).collect::<Vec<_>>().join(", ")
        });
        parameters.map_or(name.clone(), |p| format!("{name}({p})"))
    }

    /// Its text as it is drawn, with the modifiers that its traits stand for.
    pub fn shown(&self) -> String {
        let marks = [(self.is_unique, " {unique}"), (self.is_nullable, " {null}")];
        let marks = marks.iter().filter(|(is_on, _)| *is_on).map(|(_, mark)| *mark);
        let length = if self.text.starts_with('`') { name_length(&self.text) } else { 0 };
        let (name, rest) = self.text.split_at(length);
        [name.trim_matches('`'), rest].into_iter().chain(marks).collect()
    }

    /// What it says, to compare it with others; the text of a constraint says all of it.
    pub(crate) fn said(&self) -> impl Ord + '_ {
        let flags = [self.is_static, self.is_abstract, self.key, self.is_unique, self.is_nullable];
        (&self.text, &self.refers, self.constraint.is_some(), flags)
    }

    /// All that is said of it, in words.
    pub fn described(&self) -> String {
        let flags = [(self.is_static, " (static)"), (self.is_abstract, " (abstract)"), (self.key, " (key)")];
        let flags: String = flags.iter().filter(|(is_on, _)| *is_on).map(|(_, word)| *word).collect();
        let refers = match (&self.refers, &self.constraint) {
            (Some(reference), None) => format!(" refers {reference}{}", reference.actions()),
            (Some(reference), Some(_)) => reference.actions(),
            (None, _) => String::new(),
        };
        format!("{}{flags}{refers}", self.shown())
    }

    /// A line of text.
    pub fn plain(text: String, span: Span) -> Self {
        Self {
            text,
            operation: false,
            is_static: false,
            is_abstract: false,
            key: false,
            is_unique: false,
            is_nullable: false,
            refers: None,
            constraint: None,
            span,
        }
    }

    /// A member without traits, in UML's textual form.
    pub fn of_text(text: String, span: Span) -> Self {
        Self { operation: is_operation(&text), ..Self::plain(text, span) }
    }

    /// A line that says something of a table.
    pub fn of_table(constraint: TableConstraint, refers: Option<Reference>, span: Span) -> Self {
        let text = match &constraint {
            TableConstraint::Unique(columns) => format!("unique ({})", columns.join(", ")),
            TableConstraint::Refers(columns) => {
                let to = refers.as_ref().map(Reference::to_string).unwrap_or_default();
                format!("({}) refers {to}", columns.join(", "))
            }
            TableConstraint::Check(condition) => format!("{{{}}}", condition.text()),
        };
        Self { constraint: Some(constraint), refers, ..Self::plain(text, span) }
    }
}

/// Reads a line of a class as a member. Brackets that touch the name before them are parameters or
/// part of a type; brackets after a space are traits.
pub(super) fn read(cursor: &mut Cursor<'_>, diags: &mut Diagnostics) -> Member {
    let rest = cursor.rest();
    let written = cut_comment(rest.value);
    let (text, traits) = match traits_at(written) {
        Some(at) => {
            cursor.skip_to(rest.span.start as usize + at);
            let mut traits = cursor.traits(diags);
            while !cursor.at_end() && cursor.rest().value.starts_with('(') {
                traits.extend(cursor.traits(diags));
            }
            (canonical(&written[..at]), traits)
        }
        None => (canonical(written), Vec::new()),
    };
    for t in traits.iter().filter(|t| !TRAITS.contains(&t.word.value.as_str())) {
        let word = t.word.value.clone();
        diags.report(t.word.span, Message::UnknownTrait { suggestion: suggest(&word, TRAITS.iter().copied()), word });
    }
    let has = |word: &str| traits.iter().any(|t| t.word.value == word);
    let mut member = Member {
        is_static: has("static"),
        is_abstract: has("abstract"),
        key: has("key"),
        is_unique: has("unique"),
        is_nullable: has("null"),
        ..Member::of_text(text, rest.span)
    };
    // As modifiers of UML they say the same.
    for (word, flag) in [("{null}", &mut member.is_nullable), ("{unique}", &mut member.is_unique)] {
        if let Some(before) = member.text.strip_suffix(word) {
            *flag = true;
            member.text = before.trim_end().to_owned();
        }
    }
    member.refers = reference::of_column(&traits, member.name(), diags);
    member
}

/// The length of the name that a text begins with; that of a name in backquotes with these.
fn name_length(text: &str) -> usize {
    if let Some(inner) = text.strip_prefix('`') {
        return inner.find('`').map_or(0, |end| end + 2);
    }
    text.find(|c: char| !(c.is_alphanumeric() || c == '_' || c == '-')).unwrap_or(text.len())
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
    let name = name_length(written);
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
    let rest = &text[name_length(text)..];
    let head = rest.split([':', '=']).next().unwrap_or(rest);
    head.contains('(')
}

pub(crate) fn cut_comment(rest: &str) -> &str {
    let is_comment = |i: &usize| rest[*i..].starts_with("//") && (*i == 0 || rest.as_bytes()[i - 1] == b' ');
    outside_of_quotes(rest).map(|(i, _)| i).find(is_comment).map_or(rest, |i| &rest[..i])
}

/// The characters of a line that stand in no quotes; what is not closed is no quote.
fn outside_of_quotes(line: &str) -> impl Iterator<Item = (usize, char)> {
    let mut at = 0;
    std::iter::from_fn(move || {
        loop {
            let c = line[at..].chars().next()?;
            let start = at;
            at += c.len_utf8();
            match line[at..].find(c).filter(|_| matches!(c, '"' | '`' | '\'')) {
                Some(end) => at += end + 1,
                None => return Some((start, c)),
            }
        }
    })
}

/// Where the traits begin: with the first of the brackets at the line's end that have a space before them.
fn traits_at(written: &str) -> Option<usize> {
    let written = written.trim_end();
    let (mut depth, mut first, mut end) = (0_u32, None, 0);
    for (i, c) in outside_of_quotes(written) {
        match c {
            '(' => {
                let before = written[..i].trim_end();
                // What follows a colon or an equals sign is a type or a value.
                let is_apart = before.len() < i && !before.is_empty() && !before.ends_with([':', '=']);
                if depth == 0 && is_apart && (first.is_none() || end < before.len()) {
                    first = Some(i);
                }
                depth += 1;
            }
            ')' => {
                depth = depth.saturating_sub(1);
                end = i + 1;
            }
            _ => {}
        }
    }
    first.filter(|_| end == written.len() && depth == 0)
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
        assert_eq!(traits_at("id: bigint (key) (null)"), Some(11));
        assert_eq!(traits_at("id: decimal (6,3) double (key) (refers a.b)"), Some(25));
        assert_eq!(traits_at("at: Text = (1 + 2) (null)"), Some(19));
        assert_eq!(traits_at("x: (a) => b"), None);
        assert_eq!(traits_at("x: text = 'a (b' (key)"), Some(17));
        assert_eq!(traits_at("`a (b)` (key)"), Some(8));
        assert_eq!(traits_at("(key)"), None);
        assert_eq!(traits_at("level: decimal(6,3)"), None);
        assert_eq!(traits_at("raise(level: Level)"), None);
        assert!(is_operation("+ lastReading(): Reading [0..1]"));
        assert!(!is_operation("level: decimal(6,3)"));
    }
}

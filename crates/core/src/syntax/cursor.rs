//! Reads the phrases of one line, word by word. Every reading reports what it cannot read and moves
//! on, so that one error damages only itself.

use super::lexer::{Token, TokenKind};
use super::phrase::{Clause, Clauses, End, Name, Path, Set, Trait, Value};
use super::text::Label;
use super::tree::{Line, Tree};
use crate::diag::{Diagnostics, Message};
use crate::source::{Source, Span, Spanned};

/// A set may stand for this many elements; a range written with large figures is an error.
// `a1..a99999` is more often a slip of the keyboard than a wish for so many.
const MAX_SET: usize = 1000;

/// A place in a line.
#[derive(Clone)]
pub struct Cursor<'a> {
    source: &'a Source,
    tree: &'a Tree,
    line: &'a Line,
    at: usize,
}

/// Clauses that name elements; all others hold a text.
const NAMING: [&str; 4] = ["in", "of", "extends", "implements"];

impl<'a> Cursor<'a> {
    /// At the start of a line.
    pub fn new(source: &'a Source, tree: &'a Tree, line: &'a Line) -> Self {
        Self { source, tree, line, at: 0 }
    }

    /// Reports what is indented under a line that holds nothing; `what` names the line.
    pub fn leaf(&self, what: &'static str, diags: &mut Diagnostics) {
        for child in &self.line.children {
            diags.report(self.tree.line(*child).span, Message::NoBody { what });
        }
    }

    /// The whole line's span.
    pub fn line_span(&self) -> Span {
        self.line.span
    }

    fn token(&self, ahead: usize) -> Option<Token> {
        self.line.words.get(self.at + ahead).map(|i| self.tree.tokens[*i as usize])
    }

    fn text_at(&self, ahead: usize) -> &'a str {
        self.token(ahead).map_or("", |t| self.source.slice(t.span))
    }

    /// Whether the next token touches the one before it.
    fn touches(&self, ahead: usize) -> bool {
        let before = self.line.words.get((self.at + ahead).wrapping_sub(1));
        before.zip(self.token(ahead)).is_some_and(|(b, t)| self.tree.tokens[*b as usize].span.end == t.span.start)
    }

    /// Whether the line is read to its end.
    pub fn at_end(&self) -> bool {
        self.at >= self.line.words.len()
    }

    /// The place of the next token, or the end of the line.
    pub fn span(&self) -> Span {
        let end = self.line.span.end as usize;
        self.token(0).map_or(self.source.span(end, end), |t| t.span)
    }

    /// The next bare word, unread.
    pub fn peek(&self) -> Option<&'a str> {
        self.token(0).filter(|t| t.kind == TokenKind::Word).map(|_| self.text_at(0))
    }

    /// Reads a given bare word if it is next.
    pub fn eat(&mut self, word: &str) -> Option<Span> {
        let span = self.span();
        (self.peek() == Some(word)).then(|| {
            self.at += 1;
            span
        })
    }

    fn eat_mark(&mut self, mark: &str) -> bool {
        let found = self.text_at(0) == mark && self.token(0).is_some_and(|t| t.kind != TokenKind::Text);
        self.at += usize::from(found);
        found
    }

    /// Reads any bare word.
    pub fn word(&mut self) -> Option<Spanned<String>> {
        let value = self.peek()?.to_owned();
        let span = self.span();
        self.at += 1;
        Some(Spanned { value, span })
    }

    /// Whether a text is next.
    pub fn at_text(&self) -> bool {
        self.token(0).is_some_and(|t| matches!(t.kind, TokenKind::Text | TokenKind::TextBlock))
    }

    /// Reads a text if one is next.
    pub fn label(&mut self) -> Option<Label> {
        let token = self.token(0).filter(|_| self.at_text())?;
        self.at += 1;
        Some(Label::read(self.source.slice(token.span), token.span))
    }

    /// Reads a text that has to be there.
    pub fn expect_label(&mut self, after: &str, diags: &mut Diagnostics) -> Option<Label> {
        let label = self.label();
        if label.is_none() {
            let found = self.text_at(0).to_owned();
            diags.report(self.span(), Message::TextExpected { after: after.to_owned(), found });
        }
        label
    }

    fn name(&mut self) -> Option<Name> {
        let token = self.token(0)?;
        let written = self.source.slice(token.span);
        let (text, by_label) = match token.kind {
            TokenKind::Word => (written.to_owned(), false),
            TokenKind::Quoted => (written.trim_matches('`').to_owned(), false),
            TokenKind::Text => (Label::read(written, token.span).text(), true),
            _ => return None,
        };
        self.at += 1;
        Some(Name { text, span: token.span, by_label, quoted: token.kind == TokenKind::Quoted })
    }

    /// Reads a path of names if one is next.
    pub fn path(&mut self) -> Option<Path> {
        let first = self.name()?;
        let mut names = vec![first];
        while self.text_at(0) == "." && self.touches(0) && self.touches(1) {
            self.at += 1;
            match self.name() {
                Some(name) => names.push(name),
                None => break,
            }
        }
        let span = names[0].span.to(names[names.len() - 1].span);
        Some(Path { names, span })
    }

    /// Reads one path that has to be there.
    pub fn expect_path(&mut self, after: &str, diags: &mut Diagnostics) -> Option<Path> {
        let path = self.path();
        if path.is_none() {
            let found = self.text_at(0).to_owned();
            diags.report(self.span(), Message::NameExpected { after: after.to_owned(), found });
        }
        path
    }

    /// Reads paths with commas between them; ranges are unfolded.
    pub fn paths(&mut self, after: &str, diags: &mut Diagnostics) -> Vec<Path> {
        let mut found = Vec::new();
        while let Some(path) = self.expect_path(after, diags) {
            self.unfold(path, &mut found, diags);
            if !self.eat_mark(",") {
                break;
            }
        }
        found
    }

    /// Adds a path, or all paths of the range that it starts.
    fn unfold(&mut self, first: Path, found: &mut Vec<Path>, diags: &mut Diagnostics) {
        if self.token(0).is_none_or(|t| t.kind != TokenKind::Range) || !self.touches(0) {
            found.push(first);
            return;
        }
        self.at += 1;
        let Some(last) = self.expect_path("..", diags) else { return };
        let span = first.span.to(last.span);
        match (counted(&first), counted(&last)) {
            ((stem, Some(from)), (same, Some(to))) if stem == same && from <= to && to - from < MAX_SET => {
                found.extend((from..=to).map(|n| renamed(&first, format!("{stem}{n}"), span)));
            }
            _ => diags.report(span, Message::BadRange),
        }
    }

    /// Reads `[multiplicity] name [at port] [as role]`, with commas between several.
    pub fn set(&mut self, after: &str, diags: &mut Diagnostics) -> Set {
        let mut set = Set::new();
        loop {
            let multiplicity = self.multiplicity();
            let Some(path) = self.expect_path(after, diags) else { break };
            let mut paths = Vec::new();
            self.unfold(path, &mut paths, diags);
            let port = self.eat("at").and_then(|_| self.port(diags));
            let role = self.eat("as").and_then(|_| self.expect_path("as", diags));
            let role = role.map(|p| Spanned { value: p.text(), span: p.span });
            set.extend(paths.into_iter().map(|path| End {
                multiplicity: multiplicity.clone(),
                path,
                port: port.clone(),
                role: role.clone(),
            }));
            if !self.eat_mark(",") {
                break;
            }
        }
        set
    }

    fn port(&mut self, diags: &mut Diagnostics) -> Option<Spanned<String>> {
        let path = self.expect_path("at", diags)?;
        Some(Spanned { value: path.text(), span: path.span })
    }

    /// How many tokens `1`, `*`, `0..1` or `1..*` takes here; 0 if there is none.
    fn multiplicity_length(&self) -> usize {
        let bound = |text: &str| text == "*" || (!text.is_empty() && text.bytes().all(|b| b.is_ascii_digit()));
        match bound(self.text_at(0)) {
            false => 0,
            true if self.text_at(1) == ".." && bound(self.text_at(2)) => 3,
            true => 1,
        }
    }

    /// Reads `1`, `*`, `0..1`, `1..*`.
    fn multiplicity(&mut self) -> Option<Spanned<String>> {
        let length = self.multiplicity_length();
        let last = length.checked_sub(1).and_then(|last| self.token(last))?;
        let span = self.span().to(last.span);
        self.at += length;
        Some(Spanned { value: self.source.slice(span).to_owned(), span })
    }

    /// Reads type parameters `<T, U>` that touch the name before them.
    pub fn type_parameters(&mut self) -> Option<Spanned<String>> {
        if self.text_at(0) != "<" || !self.touches(0) {
            return None;
        }
        let from = self.span();
        let mut last = from;
        // The same text, however it is spaced.
        let mut value = String::new();
        let (mut after_word, mut depth) = (false, 1);
        self.at += 1;
        while !self.at_end() {
            last = self.span();
            let written = self.text_at(0);
            self.at += 1;
            depth += i32::from(written == "<") - i32::from(written == ">");
            if depth == 0 {
                break;
            }
            let is_word = self.source.slice(last).starts_with(|c: char| c.is_alphanumeric() || "_`\"".contains(c));
            let is_bound = written == "[" && !value.is_empty() && !value.ends_with([' ', ',', ':']);
            if (is_word && after_word) || value.ends_with([',', ':']) || is_bound {
                value.push(' ');
            }
            value.push_str(written);
            after_word = is_word;
        }
        Some(Spanned { value, span: from.to(last) })
    }

    /// Reads label, clauses and traits, up to the line's end. `words` are the clauses known here.
    pub fn clauses(&mut self, words: &[&'static str], diags: &mut Diagnostics) -> Clauses {
        let mut out = Clauses { label: self.label(), ..Clauses::default() };
        while let Some(word) = self.peek().and_then(|w| words.iter().find(|c| **c == w)) {
            let span = self.span();
            self.at += 1;
            let value = if self.at_text() || !NAMING.contains(word) {
                self.expect_label(word, diags).map_or(Value::None, Value::Text)
            } else {
                Value::Names(self.paths(word, diags))
            };
            out.clauses.push(Clause { word: Spanned { value: (*word).to_owned(), span }, value });
        }
        out.traits = self.traits(diags);
        self.finish(words, diags);
        out
    }

    /// Reads `(trait value, trait)` if it is next.
    pub fn traits(&mut self, diags: &mut Diagnostics) -> Vec<Trait> {
        let open = self.span();
        if !self.eat_mark("(") {
            return Vec::new();
        }
        let (found, closed) = self.trait_list();
        if !closed {
            diags.report(Span { end: self.line.span.end, ..open }, Message::UnclosedTraits);
        }
        found
    }

    /// Reads `trait value, trait` without brackets, up to the line's end.
    pub fn open_traits(&mut self, diags: &mut Diagnostics) -> Vec<Trait> {
        let (found, _) = self.trait_list();
        self.finish(&[], diags);
        found
    }

    /// Traits up to a closing bracket or the line's end, and whether there was a bracket.
    fn trait_list(&mut self) -> (Vec<Trait>, bool) {
        let mut found = Vec::new();
        let mut closed = false;
        while !closed && !self.at_end() {
            let mut words = Vec::new();
            loop {
                if self.at_end() || self.eat_mark(",") {
                    break;
                }
                if self.eat_mark(")") {
                    closed = true;
                    break;
                }
                words.push(self.trait_word());
            }
            let mut words = words.into_iter();
            if let Some(word) = words.next() {
                found.push(Trait { word, values: words.collect() });
            }
        }
        (found, closed)
    }

    /// Reads a colon if it is next.
    pub fn eat_colon(&mut self) -> bool {
        self.eat_mark(":")
    }

    /// Reads a word if it is next and a name follows it.
    pub fn eat_before_name(&mut self, word: &str) -> bool {
        let is_before = self.peek() == Some(word)
            && self.token(1).is_some_and(|t| matches!(t.kind, TokenKind::Word | TokenKind::Quoted | TokenKind::Text));
        self.at += usize::from(is_before);
        is_before
    }

    /// One word of a trait: everything that touches, such as `#4a7c59`, `1.5` or `Station.id`.
    fn trait_word(&mut self) -> Spanned<String> {
        let mut span = self.span();
        if let Some(label) = self.label() {
            // What a star means is for the trait to say: patterns for paths are no prose.
            return Spanned { value: label.with_signs(), span };
        }
        let is_joined = self.is_part_of_word();
        self.at += 1;
        while is_joined && self.touches(0) && self.is_part_of_word() {
            span = span.to(self.span());
            self.at += 1;
        }
        Spanned { value: self.source.slice(span).trim_matches('`').to_owned(), span }
    }

    /// Whether the next token can be a part of a word with marks in it, such as `10/s`.
    fn is_part_of_word(&self) -> bool {
        match self.token(0).map(|t| t.kind) {
            Some(TokenKind::Word | TokenKind::Range) => true,
            Some(TokenKind::Mark) => !matches!(self.text_at(0), "(" | ")" | ","),
            _ => false,
        }
    }

    /// Reports what is left of the line.
    pub fn finish(&mut self, words: &[&'static str], diags: &mut Diagnostics) {
        if !self.at_end() {
            let span = self.span().to(self.line.span);
            let span = Span { start: self.span().start, ..span };
            let found = self.text_at(0).to_owned();
            let known = words.to_vec();
            diags.report(span, Message::Leftover { found, known });
            self.at = self.line.words.len();
        }
    }

    /// All words and texts that are left of the line, as they are written.
    pub fn texts(&self) -> Vec<&'a str> {
        let left = self.line.words.get(self.at..).unwrap_or(&[]);
        left.iter().map(|i| self.source.slice(self.tree.tokens[*i as usize].span)).collect()
    }

    /// The place of an arrow made of marks, such as `-->` or `=>`, anywhere on the line.
    pub fn arrow(&self) -> Option<Span> {
        let spans = self.line.words.iter().map(|i| self.tree.tokens[*i as usize].span);
        let is_part = |c: char| matches!(c, '-' | '<' | '>' | '=' | '→' | '←' | '~');
        let is_mark = |s: &Span| s.end > s.start && self.source.slice(*s).chars().all(is_part);
        let marks: Vec<Span> = spans.skip(1).skip_while(|s| !is_mark(s)).take_while(is_mark).collect();
        let arrow = marks.first()?.to(*marks.last()?);
        (arrow.end - arrow.start > 1 || self.source.slice(arrow).starts_with(['→', '←'])).then_some(arrow)
    }

    /// Reads what should be a number: everything that touches, such as `1.5` or `-40`.
    pub fn number(&mut self) -> Spanned<String> {
        let mut span = self.span();
        let is_word = self.peek().is_some();
        if !self.at_end() {
            self.at += 1;
            while is_word && self.touches(0) && (self.text_at(0) == "." || self.peek().is_some()) {
                span = span.to(self.span());
                self.at += 1;
            }
        }
        Spanned { value: self.source.slice(span).to_owned(), span }
    }

    /// Reads one value of a property: a word in backquotes, or everything that touches.
    pub fn value(&mut self) -> Option<Spanned<String>> {
        let is_value = self.token(0).is_some() && !matches!(self.text_at(0), "(" | ")" | ",");
        is_value.then(|| self.trait_word())
    }

    /// The text from here to the line's end, unread.
    pub fn rest(&self) -> Spanned<&'a str> {
        let span = Span { end: self.line.span.end, ..self.span() };
        Spanned { value: self.source.slice(span), span }
    }

    /// The first token's text, for messages.
    pub fn first(&self) -> &'a str {
        self.line.words.first().map_or("", |i| self.source.slice(self.tree.tokens[*i as usize].span))
    }

    /// The word after the leading name or set, if the line starts with one; nothing is read.
    ///
    /// Every line is asked this, so it goes by tokens and builds nothing.
    pub fn word_after_set(&self) -> Option<&'a str> {
        let mut ahead = self.clone();
        loop {
            ahead.at += ahead.multiplicity_length();
            ahead.skip_path()?;
            for word in ["at", "as"] {
                if ahead.eat(word).is_some() {
                    ahead.skip_path()?;
                }
            }
            if !ahead.eat_mark(",") && !ahead.eat_mark("..") {
                break;
            }
        }
        ahead.peek()
    }

    /// Moves over a path of names; `None` if there is none.
    fn skip_path(&mut self) -> Option<()> {
        let is_name = |t: Token| matches!(t.kind, TokenKind::Word | TokenKind::Quoted | TokenKind::Text);
        self.token(0).filter(|t| is_name(*t))?;
        self.at += 1;
        while self.text_at(0) == "." && self.touches(0) && self.touches(1) {
            self.at += 1;
            if self.token(0).is_some_and(is_name) {
                self.at += 1;
            } else {
                break;
            }
        }
        Some(())
    }
}

/// The last name of a path, and the number that it ends with.
fn counted(path: &Path) -> (&str, Option<usize>) {
    let name = &path.names[path.names.len() - 1].text;
    let stem = name.trim_end_matches(|c: char| c.is_ascii_digit());
    (stem, name[stem.len()..].parse().ok())
}

/// A path with another last name.
fn renamed(path: &Path, name: String, span: Span) -> Path {
    let mut path = Path { span, ..path.clone() };
    let last = path.names.len() - 1;
    path.names[last].text = name;
    path
}

impl Cursor<'_> {
    /// Moves to the first word that starts at or after a byte of the source.
    pub fn skip_to(&mut self, byte: usize) {
        while self.token(0).is_some_and(|t| (t.span.start as usize) < byte) {
            self.at += 1;
        }
    }

    /// Moves to the line's end.
    pub fn skip_all(&mut self) {
        self.at = self.line.words.len();
    }
}

#[cfg(test)]
mod tests {
    use super::super::tree::parse;
    use super::*;

    /// Reads the first line of a text with a cursor; gives what was read and the codes of what was found.
    fn reading<T>(text: &str, read: impl FnOnce(&mut Cursor<'_>, &mut Diagnostics) -> T) -> (T, Vec<&'static str>) {
        let source = Source::new("t", text);
        let mut diags = Diagnostics::default();
        let tree = parse(&source, &mut diags);
        let mut cursor = Cursor::new(&source, &tree, tree.line(tree.roots[0]));
        let value = read(&mut cursor, &mut diags);
        (value, diags.into_sorted().iter().map(|d| d.code).collect())
    }

    fn names(text: &str) -> (Vec<String>, Vec<&'static str>) {
        reading(text, |c, d| c.paths("", d).iter().map(Path::text).collect())
    }

    #[test]
    fn paths_touch_their_dots() {
        assert_eq!(names("a.b.c").0, ["a.b.c"]);
        assert_eq!(names("`two words`.x").0, ["two words.x"]);
        assert_eq!(names("a .b").0, ["a"], "a dot after a space ends the path");
        assert_eq!(names("\"A label\", b").0, ["A label", "b"]);
    }

    #[test]
    fn ranges_count_up() {
        assert_eq!(names("lamp2..lamp4, x").0, ["lamp2", "lamp3", "lamp4", "x"]);
        assert_eq!(names("lamp4..lamp2").1, ["bad-range"]);
        assert_eq!(names("lamp1..mast4").1, ["bad-range"]);
        assert_eq!(names("lamp1..lamp999999").1, ["bad-range"], "a range has a limit");
    }

    #[test]
    fn ends_are_read_in_their_order() {
        let (set, codes) = reading("1..* a at \"1/0\" as parts, 0..1 b, * c", |c, d| c.set("", d));
        let shown: Vec<String> = set
            .iter()
            .map(|e| {
                let value = |s: &Option<Spanned<String>>| s.as_ref().map_or("-".to_owned(), |s| s.value.clone());
                format!("{} {} {} {}", value(&e.multiplicity), e.path.text(), value(&e.port), value(&e.role))
            })
            .collect();
        assert_eq!(shown, ["1..* a 1/0 parts", "0..1 b - -", "* c - -"]);
        assert!(codes.is_empty());
    }

    #[test]
    fn clauses_end_with_traits_and_nothing_else() {
        let (clauses, codes) =
            reading("\"label\" over \"SQL\" of a, b (fill #4a7c59, tag slow old, external)", |c, d| {
                c.clauses(&["over", "of"], d)
            });
        assert_eq!(clauses.label.as_ref().map(Label::text).as_deref(), Some("label"));
        assert_eq!(clauses.text("over").map(Label::text).as_deref(), Some("SQL"));
        assert_eq!(clauses.names("of").count(), 2);
        let traits: Vec<(String, usize)> =
            clauses.traits.iter().map(|t| (t.word.value.clone(), t.values.len())).collect();
        assert_eq!(traits, [("fill".into(), 1), ("tag".into(), 2), ("external".into(), 0)]);
        assert_eq!(clauses.traits[0].values[0].value, "#4a7c59");
        assert!(clauses.has("external") && codes.is_empty());
        assert_eq!(reading("\"label\" ovr \"SQL\"", |c, d| c.clauses(&["over"], d)).1, ["leftover"]);
    }

    #[test]
    fn the_word_after_a_set_is_found_without_reading() {
        let after = |text: &str| reading(text, |c, _| c.word_after_set().map(str::to_owned)).0;
        assert_eq!(after("a uses b").as_deref(), Some("uses"));
        assert_eq!(after("0..1 a at p as r, b.c knows d").as_deref(), Some("knows"));
        assert_eq!(after("p1..p3 sends q").as_deref(), Some("sends"));
        assert_eq!(after("\"A label\" then b").as_deref(), Some("then"));
        assert_eq!(after("alone"), None);
    }

    #[test]
    fn arrows_are_seen_and_names_with_dashes_are_not() {
        let arrow = |text: &str| reading(text, |c, _| c.arrow().is_some()).0;
        for text in ["a -> b", "a --> b", "a => b", "a <- b", "a <-> b", "a → b", "a == b"] {
            assert!(arrow(text), "{text}");
        }
        for text in ["a-b uses c", "a - b", "x < y", "a = b"] {
            assert!(!arrow(text), "{text}");
        }
    }
}

//! What the readers of all kinds of diagrams share: declarations, properties, ends, remarks.

mod relate;

use super::names::{Lookup, Map, Names};
use super::occurrences::{BlockId, Recorder, Role, Target};
use super::{Diagram, Element, ElementId, ElementKind, Imports, Rare, Verb};
use crate::diag::{Diagnostics, Message, WordHelp, nearest, suggest};
use crate::source::{Source, Span};
use crate::syntax::{Clauses, Cursor, Label, Line, LineId, Path, Tree};
use crate::vocabulary::{DIAGRAMS, PICTURE, TraitWord, Vocabulary, ours, ours_line};
use std::collections::HashMap;

/// A diagram may hold this many elements, which are drawn in less than 10 s and 1 GB.
// Limits are what memory allows, and are reported: nothing is left out in silence.
pub const MAX_ELEMENTS: usize = 100_000;
/// And this many relations: one line with two sets may stand for a million.
pub const MAX_RELATIONS: usize = 50_000;
/// And this many messages, each of which has a row of its own.
const MAX_MESSAGES: usize = 100_000;

/// What a line is.
pub(super) enum LineKind {
    /// Its second phrase is a verb: subject verb object.
    Statement,
    /// Its first word is this verb.
    Verb(&'static str),
    /// Its first word is this keyword.
    Keyword(&'static str),
    /// Its first word is a kind.
    Kind(&'static str),
    /// Its first word is about the picture.
    Picture(&'static str),
    /// Its first word is this property.
    Property(&'static str),
    /// A bare text.
    Text,
    /// Anything else.
    Unknown,
}

/// A diagram in the making.
pub(super) struct Build<'a> {
    pub(super) source: &'a Source,
    pub(super) tree: &'a Tree,
    recorder: &'a Recorder<'a>,
    pub(super) words: &'static Vocabulary,
    pub(super) diagram: Diagram,
    pub(super) names: Names,
    /// The kind of elements that are only mentioned.
    pub(super) default_kind: ElementKind,
    relation_counts: Map<(ElementId, ElementId, Verb), u32>,
    /// Lines about the picture, read when all names are known, and what they stand in.
    picture: Vec<(&'a Line, &'static str, Option<ElementId>)>,
    /// The architecture that a sequence takes its parties from.
    base: Option<Base>,
    /// What other files give.
    pub(super) imports: Option<&'a Imports>,
    /// Whether it was reported that no more elements, or no more relations, have room.
    full: bool,
    full_of_relations: bool,
}

impl<'a> Build<'a> {
    pub(super) fn new(
        (source, tree): (&'a Source, &'a Tree), recorder: &'a Recorder<'a>, words: &'static Vocabulary,
        diagram: Diagram, default_kind: ElementKind,
    ) -> Self {
        Self {
            source,
            tree,
            recorder,
            words,
            diagram,
            names: Names::default(),
            default_kind,
            relation_counts: Map::default(),
            picture: Vec::new(),
            base: None,
            imports: None,
            full: false,
            full_of_relations: false,
        }
    }

    pub(super) fn cursor(&self, line: &'a Line) -> Cursor<'a> {
        Cursor::new(self.source, self.tree, line)
    }

    /// What a line is; the rule is the language's: a verb after the leading name makes a statement,
    /// else the first word alone decides.
    pub(super) fn line_kind(&self, cursor: &Cursor<'a>) -> LineKind {
        if self.recorder.is_stopped() {
            return LineKind::Unknown;
        }
        let known = |list: &'static [&'static str], word: &str| list.iter().find(|w| **w == word).copied();
        let first = cursor.peek();
        let leads = first.is_none_or(|w| known(self.words.verbs, w).is_none());
        if leads
            && let Some(second) = cursor.word_after_set()
            && known(self.words.verbs, second).is_some()
        {
            return LineKind::Statement;
        }
        let Some(first) = first else {
            return if cursor.at_text() { LineKind::Text } else { LineKind::Unknown };
        };
        if let Some(verb) = known(self.words.verbs, first) {
            LineKind::Verb(verb)
        } else if let Some(keyword) = known(self.words.keywords, first) {
            LineKind::Keyword(keyword)
        } else if let Some(word) = known(PICTURE, first) {
            LineKind::Picture(word)
        } else if let Some(kind) = known(self.words.kinds, first) {
            LineKind::Kind(kind)
        } else if let Some(property) = known(self.words.properties, first) {
            LineKind::Property(property)
        } else {
            LineKind::Unknown
        }
    }

    /// What is indented under a line that says nothing is read as if it stood at its level, so that its own
    /// errors are reported too. Left out is what would speak of the element that the line failed to declare.
    pub(super) fn below_unknown(&self, line: &Line) -> Vec<LineId> {
        line.children.iter().copied().filter(|id| self.speaks_for_itself(*id)).collect()
    }

    /// Whether a line can be read without the one that it stands below.
    fn speaks_for_itself(&self, line: LineId) -> bool {
        let kind = self.line_kind(&self.cursor(self.tree.line(line)));
        matches!(kind, LineKind::Statement | LineKind::Kind(_) | LineKind::Keyword(_) | LineKind::Unknown)
    }

    /// Reports a line that says nothing here.
    pub(super) fn unknown_line(&self, cursor: &Cursor<'a>, diags: &mut Diagnostics) {
        if self.recorder.is_stopped() {
            return;
        }
        if let Some(span) = cursor.arrow() {
            diags.report(span, Message::Arrow { verbs: self.words.verbs });
            return;
        }
        let words = cursor.texts();
        if let Some(ours) = ours_line(&words, self.words.block) {
            let word =
                words.iter().take(if ours.starts_with("arriving") || ours.starts_with("leaving") { 2 } else { 1 });
            let word = word.copied().collect::<Vec<_>>().join(" ");
            let span = cursor.clone().word().map_or(cursor.line_span(), |w| w.span);
            diags.report(span, Message::UnknownWord { word, block: self.words.block, help: WordHelp::Ours(ours) });
            return;
        }
        // A name with a word behind it that resembles a verb is a statement with a mistyped verb.
        let mut after = cursor.clone();
        after.set("", &mut Diagnostics::default());
        let is_verb = |s: &str| nearest(s, self.words.verbs.iter().copied()).is_some() || is_verb_elsewhere(s);
        if let Some(word) = after.peek().filter(|w| is_verb(w)) {
            let word = word.to_owned();
            diags.report(after.span(), Message::UnknownVerb { word, block: self.words.block, verbs: self.words.verbs });
            return;
        }
        // So is a name with a word and a name behind it, where the first means nothing by itself.
        let is_name = |word: &str| matches!(word_help(word, self.words), WordHelp::None);
        let third =
            words.get(2).is_some_and(|w| w.starts_with(|c: char| c.is_alphanumeric() || matches!(c, '"' | '`' | '_')));
        if let ([first, second, ..], true) = (words.as_slice(), third && !self.words.verbs.is_empty())
            && is_name(first.trim_matches('`'))
            && second.chars().all(char::is_alphabetic)
            && after.peek() == Some(second)
        {
            let word = (*second).to_owned();
            diags.report(after.span(), Message::UnknownVerb { word, block: self.words.block, verbs: self.words.verbs });
            return;
        }
        let first = cursor.clone().word();
        let (word, span) = first.map_or((cursor.first().to_owned(), cursor.line_span()), |w| (w.value, w.span));
        let help = word_help(&word, self.words);
        diags.report(span, Message::UnknownWord { word, block: self.words.block, help });
    }

    /// Notes where an element is declared or named.
    pub(super) fn note(&self, span: Span, id: ElementId, role: Role) {
        self.recorder.note(span, Target::Element(BlockId::of(&self.diagram), id), role);
    }

    /// Adds an element; `None` when the diagram is full.
    pub(super) fn add(&mut self, draft: Draft, diags: &mut Diagnostics) -> Option<ElementId> {
        if self.diagram.elements.len() >= MAX_ELEMENTS {
            if !std::mem::replace(&mut self.full, true) {
                diags.report(draft.span, Message::TooManyElements { limit: MAX_ELEMENTS });
            }
            return None;
        }
        let id = ElementId(self.diagram.elements.len() as u32);
        let wanted = self.path_of(&draft);
        self.diagram.elements.push(Element {
            key: String::new(),
            name: draft.name,
            label: draft.label,
            kind: draft.kind,
            parent: draft.parent,
            span: draft.span,
            implicit: draft.implicit,
            properties: Rare::default(),
            traits: draft.traits,
            class: None,
        });
        self.diagram.elements[id.index()].key = self.names.unique_key(&wanted);
        self.names.add(&self.diagram, id);
        Some(id)
    }

    fn path_of(&self, draft: &Draft) -> String {
        let own = match (&draft.label, draft.name.as_str()) {
            (Some(label), "") => label.text().replace('\n', " "),
            (None, "") => draft.kind.word().to_owned(),
            (_, name) => name.to_owned(),
        };
        let boxed = |id: &ElementId| self.diagram.element(*id).kind.is_box();
        let up = |id: &ElementId| self.diagram.element(*id).parent;
        match std::iter::successors(draft.parent, up).find(|id| !boxed(id)) {
            Some(parent) => format!("{}.{own}", self.diagram.element(parent).key),
            None => own,
        }
    }

    /// Reads `kind name "Label" clauses (traits)` after its kind, for each name of a set.
    pub(super) fn declaration(
        &mut self, kind: ElementKind, cursor: &mut Cursor<'a>, parent: Option<ElementId>, diags: &mut Diagnostics,
    ) -> (Vec<ElementId>, Clauses) {
        let paths = if cursor.at_text() || cursor.at_end() || cursor.rest().value.starts_with('(') {
            Vec::new()
        } else {
            cursor.paths(kind.word(), diags)
        };
        if let Some(path) = paths.iter().find(|p| p.names.len() > 1) {
            let (name, parts) = (path.text(), path.text());
            let (first, last) = parts.rsplit_once('.').unwrap_or(("", &parts));
            let (first, last) = (first.to_owned(), last.to_owned());
            diags.report(path.span, Message::DottedName { name, last, first });
        }
        let clauses = cursor.clauses(self.words.clauses, diags);
        let span = cursor.line_span();
        if paths.is_empty() {
            let draft = Draft::new(kind, "", clauses.label.clone(), parent, span, &clauses);
            let id = self.add(draft, diags);
            let named = clauses.label.as_ref().map_or(span, |label| label.span);
            id.iter().for_each(|id| self.note(named, *id, Role::Declared));
            return (id.into_iter().collect(), clauses);
        }
        let several = paths.len() > 1;
        let mut ids = Vec::new();
        for path in &paths {
            let name = path.text();
            if let Some(first) = self.declared_before(&name, parent) {
                diags.report(path.span, Message::DeclaredTwice { name, first });
                continue;
            }
            let label = clauses.label.as_ref();
            let label = label.map(|label| if several { numbered_label(label, &name) } else { label.clone() });
            let mut draft = Draft::new(kind, &name, label, parent, span, &clauses);
            draft.span = path.span.to(span);
            let id = self.add(draft, diags);
            id.iter().for_each(|id| self.note(path.span, *id, Role::Declared));
            id.into_iter().for_each(|id| self.complete_from_base(id));
            ids.extend(id);
        }
        (ids, clauses)
    }

    /// Where the same name was declared before in the same scope.
    pub(super) fn declared_before(&self, name: &str, parent: Option<ElementId>) -> Option<Span> {
        let path = Path::plain(name, Span::default());
        let id = self.names.find(&self.diagram, &path, parent).found()?;
        (self.diagram.element(id).parent == parent).then(|| self.diagram.element(id).span)
    }

    /// Takes names, kinds, labels and looks of elements from another diagram.
    pub(super) fn take_from(&mut self, base: Option<Diagram>) {
        self.base = base.map(|diagram| {
            let names = Names::of(&diagram);
            Base { diagram, names, adopted: HashMap::new() }
        });
    }

    /// The element of the diagram that this one takes from; one that is unknown there is reported.
    fn taken(&mut self, path: &Path, diags: &mut Diagnostics) -> Option<ElementId> {
        let base = self.base.as_ref()?;
        let id = base.names.expect(&base.diagram, path, None, diags)?;
        if let Some(adopted) = base.adopted.get(&id) {
            return Some(*adopted);
        }
        let original = base.diagram.element(id);
        let bare = Draft::bare(original.kind, &original.name, path.span);
        let draft = Draft { traits: original.traits.clone(), implicit: true, ..bare };
        let made = self.add(draft, diags)?;
        self.adopt(id, made);
        self.diagram.elements[made.index()].span = self.base.as_ref()?.diagram.element(id).span;
        Some(made)
    }

    /// A local declaration of an element of the diagram that this one takes from: it only orders.
    fn complete_from_base(&mut self, id: ElementId) {
        let Some(base) = &self.base else { return };
        let element = self.diagram.element(id);
        let path = Path::plain(&element.name, element.span);
        if let Lookup::Found(original) = base.names.find(&base.diagram, &path, None) {
            self.adopt(original, id);
        }
    }

    /// Gives an element what the one that it stands for has.
    fn adopt(&mut self, original: ElementId, id: ElementId) {
        let Some(base) = &mut self.base else { return };
        base.adopted.insert(original, id);
        let original = base.diagram.element(original);
        let element = &mut self.diagram.elements[id.index()];
        if element.key != original.key {
            element.key = self.names.unique_key(&original.key);
        }
        element.kind = original.kind;
        element.label = element.label.take().or_else(|| original.label.clone());
        element.properties = original.properties.clone();
        element.traits = original.traits.clone();
        self.names.add_label(&self.diagram, id);
    }

    /// Reads `about "…"` and the other properties into an element.
    pub(super) fn property(
        &mut self, word: &'static str, element: Option<ElementId>, cursor: &mut Cursor<'a>, diags: &mut Diagnostics,
    ) {
        let span = cursor.span();
        cursor.leaf("a property", diags);
        cursor.word();
        let Some(id) = element else {
            diags.report(span, Message::PropertyOfNothing { word });
            return;
        };
        if word == "tag" || word == "icon" {
            let mut values = Vec::new();
            while let Some(value) = cursor.value() {
                values.push(value);
            }
            if values.is_empty() {
                diags.report(cursor.span(), Message::NameExpected { after: word.to_owned(), found: String::new() });
            }
            cursor.finish(&[], diags);
            let properties = &mut self.diagram.elements[id.index()].properties;
            match word {
                "tag" => properties.tags.extend(values.into_iter().map(|v| v.value)),
                _ => properties.icon = values.into_iter().next(),
            }
            return;
        }
        let label = cursor.expect_label(word, diags);
        cursor.finish(&[], diags);
        let properties = &mut self.diagram.elements[id.index()].properties;
        let slot = match word {
            "about" => &mut properties.about,
            "built" => &mut properties.built,
            "link" => &mut properties.link,
            "code" => &mut properties.code,
            "origin" => &mut properties.origin,
            _ => &mut properties.owner,
        };
        *slot = label;
    }

    /// Takes up the traits that are properties too.
    pub(super) fn traits_as_properties(&mut self, id: ElementId) {
        let element = &mut self.diagram.elements[id.index()];
        for t in &element.traits {
            let properties = &mut element.properties;
            let text = || t.values.first().map(|v| Label::plain(v.value.clone(), v.span));
            let prose = || {
                text()
                    .map(|said| Label::plain(Label::read(&format!("\"{}\"", said.text()), said.span).text(), said.span))
            };
            match t.meaning() {
                Some(TraitWord::Tag) => properties.tags.extend(t.values.iter().map(|v| v.value.clone())),
                Some(TraitWord::Icon) => properties.icon = t.values.first().cloned(),
                Some(TraitWord::About) => properties.about = prose(),
                Some(TraitWord::Built) => properties.built = prose(),
                Some(TraitWord::Link) => properties.link = text(),
                Some(TraitWord::Owner) => properties.owner = prose(),
                Some(TraitWord::Code) => properties.code = text(),
                Some(TraitWord::Origin) => properties.origin = text(),
                _ => {}
            }
        }
    }

    /// Reads `remark on NAME "…"` and `remark across a, b "…"`: the elements, the text, and traits.
    pub(super) fn remark(
        &mut self, cursor: &mut Cursor<'a>, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<(Vec<ElementId>, Label, Clauses)> {
        cursor.leaf("a remark", diags);
        cursor.word();
        let mut on = Vec::new();
        let word = if cursor.eat("across").is_some() { "across" } else { "on" };
        if word == "on" && cursor.eat("on").is_none() {
            match scope {
                Some(id) if cursor.at_text() => on.push(id),
                _ => {
                    diags.report(cursor.span(), Message::RemarkNeedsPlace);
                    return None;
                }
            }
        } else {
            for path in cursor.paths(word, diags) {
                on.extend(self.existing(&path, scope, diags));
            }
        }
        if !cursor.at_text() {
            cursor.expect_label("remark", diags);
            return None;
        }
        let mut clauses = cursor.clauses(&[], diags);
        let label = clauses.label.take()?;
        (!on.is_empty()).then_some((on, label, clauses))
    }

    /// Reads remarks indented under a statement; nothing else may stand there. They are about `subject`.
    pub(super) fn remarks_under(
        &mut self, line: &Line, subject: Option<ElementId>, what: &'static str, diags: &mut Diagnostics,
    ) {
        for child in &line.children {
            let child = self.tree.line(*child);
            let mut cursor = self.cursor(child);
            match self.line_kind(&cursor) {
                LineKind::Keyword("remark") if subject.is_some() => self.remark_element(&mut cursor, subject, diags),
                _ => diags.report(child.span, Message::NoBody { what }),
            }
        }
    }

    /// Adds a remark as an element, tied to what it is about.
    pub(super) fn remark_element(
        &mut self, cursor: &mut Cursor<'a>, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) {
        let Some((on, label, clauses)) = self.remark(cursor, scope, diags) else { return };
        let parent = on.first().and_then(|id| self.diagram.element(*id).parent);
        let span = cursor.line_span();
        let draft = Draft::new(ElementKind::Remark, "", Some(label), parent, span, &clauses);
        if let Some(id) = self.add(draft, diags) {
            for target in on {
                let relation = self.relate(id, target, Verb::Remarks, span);
                self.diagram.relations[relation.index()].written_in = scope;
            }
        }
    }

    /// Keeps a line about the picture until all names are known.
    pub(super) fn picture_word(&mut self, word: &'static str, line: &'a Line, inside: Option<ElementId>) {
        self.picture.push((line, word, inside));
    }

    /// The diagram, when all of its lines were read.
    pub(super) fn finish(mut self, diags: &mut Diagnostics) -> Diagram {
        let mut picture = std::mem::take(&mut self.diagram.picture);
        for (line, word, inside) in std::mem::take(&mut self.picture) {
            let mut cursor = self.cursor(line);
            picture.read(word, inside, &mut cursor, &mut |path, diags| self.existing(path, inside, diags), diags);
            cursor.leaf("a line about the picture", diags);
        }
        self.diagram.picture = picture;
        self.diagram
    }
}

/// What to write instead of a word that means nothing here.
pub(super) fn word_help(word: &str, words: &Vocabulary) -> WordHelp {
    match (ours(word, words.block), suggest(word, words.starters())) {
        (Some(ours), _) => WordHelp::Ours(ours),
        (None, Some(meant)) => WordHelp::Meant(meant),
        _ => WordHelp::None,
    }
}

fn is_verb_elsewhere(word: &str) -> bool {
    DIAGRAMS.iter().any(|v| v.verbs.contains(&word))
}

/// `lamp1..lamp4 "Lamp"` are "Lamp 1" to "Lamp 4".
fn numbered_label(label: &Label, name: &str) -> Label {
    let figures = &name[name.trim_end_matches(|c: char| c.is_ascii_digit()).len()..];
    let mut label = label.clone();
    if let Some(last) = label.runs.last_mut()
        && !figures.is_empty()
    {
        last.text += &format!(" {figures}");
        label.written = None;
    }
    label
}

/// The diagram that a sequence takes its parties from.
struct Base {
    diagram: Diagram,
    names: Names,
    /// Its elements that are here already, under their numbers there.
    adopted: HashMap<ElementId, ElementId>,
}

/// An element to be added.
pub(super) struct Draft {
    pub(super) kind: ElementKind,
    pub(super) name: String,
    pub(super) label: Option<Label>,
    pub(super) parent: Option<ElementId>,
    pub(super) span: Span,
    pub(super) implicit: bool,
    pub(super) traits: Vec<crate::syntax::Trait>,
}

impl Draft {
    pub(super) fn new(
        kind: ElementKind, name: &str, label: Option<Label>, parent: Option<ElementId>, span: Span, clauses: &Clauses,
    ) -> Self {
        let traits = clauses.traits.clone();
        Self { kind, name: name.to_owned(), label, parent, span, implicit: false, traits }
    }

    pub(super) fn bare(kind: ElementKind, name: &str, span: Span) -> Self {
        Self { kind, name: name.to_owned(), label: None, parent: None, span, implicit: false, traits: Vec::new() }
    }
}

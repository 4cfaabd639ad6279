//! Reads a `sheet`: one of several drawings of a block. Input: its lines, and the blocks that it may be
//! of. Output: a [`Sheet`], every name resolved.

use super::names::Names;
use super::occurrences::{BlockId, Recorder, Role, Target};
use super::picture::value;
use super::{
    Choice, ChoiceWord, Chosen, Diagram, DiagramKind, ElementId, Event, Followed, Picture, Sheet, ShownMembers, Step,
};
use crate::diag::{Diagnostics, Message, suggest};
use crate::source::world::is_file_name;
use crate::source::{Source, Span, Spanned};
use crate::syntax::{Cursor, Line, Path, Tree, parse};
use crate::vocabulary::{PICTURE, SHEET};
use std::collections::{HashMap, HashSet};
use std::iter::once;

/// The diagrams that a sheet may be of, those of its own file first.
pub(super) struct Blocks<'a>(pub(super) Vec<&'a Diagram>);

/// The diagram that a path names, of one of some kinds.
pub(super) fn named<'a>(
    all: impl Iterator<Item = &'a Diagram>, path: &Path, kinds: &[DiagramKind], what: &'static str,
    diags: &mut Diagnostics,
) -> Option<&'a Diagram> {
    let all: Vec<&Diagram> = all.collect();
    let name = path.text();
    match all.iter().find(|d| d.name == name) {
        Some(diagram) if kinds.contains(&diagram.kind) => Some(diagram),
        Some(_) => {
            diags.report(path.span, Message::OfWhat { found: name, what });
            None
        }
        None => {
            let suggestion = suggest(&name, all.iter().map(|d| d.name.as_str()));
            diags.report(path.span, Message::UnknownName { name, suggestion });
            None
        }
    }
}

/// Reports a name that cannot be that of a picture file.
pub(super) fn check_picture_name(path: &Path, diags: &mut Diagnostics) {
    let name = path.text();
    // A dot would hide where the name ends and the form of the file begins.
    if name.contains('.') || !is_file_name(&name) {
        diags.report(path.span, Message::BadPictureName { name });
    }
}

/// Reads one sheet; `None` if it does not say what it is of.
pub(super) fn read(
    source: &Source, tree: &Tree, line: &Line, blocks: &Blocks<'_>, recorder: &Recorder<'_>, diags: &mut Diagnostics,
) -> Option<Sheet> {
    let mut cursor = Cursor::new(source, tree, line);
    cursor.word();
    let name = cursor.expect_path("sheet", diags)?;
    check_picture_name(&name, diags);
    recorder.note(name.span, Target::Block(BlockId::at(line.span)), Role::Declared);
    let can_have_sheets = |d: &&Diagram| matches!(d.kind, DiagramKind::Architecture | DiagramKind::Classes);
    if cursor.eat("of").is_none() {
        let mut fitting = blocks.0.iter().copied().filter(can_have_sheets);
        let only = fitting.next().filter(|_| fitting.next().is_none());
        diags.report(cursor.span(), Message::SheetOfWhat { diagram: only.map(|d| d.name.clone()) });
        return None;
    }
    let of = cursor.expect_path("of", diags)?;
    let header = cursor.clauses(&[], diags);
    let Some(diagram) = blocks.0.iter().copied().find(|d| d.name == of.text()) else {
        let names = blocks.0.iter().copied().filter(can_have_sheets).map(|d| d.name.as_str());
        let suggestion = suggest(&of.text(), names);
        diags.report(of.span, Message::UnknownName { name: of.text(), suggestion });
        return None;
    };
    if !can_have_sheets(&diagram) {
        diags.report(of.span, Message::SheetOfArchitecture { kind: diagram.kind.word() });
        return None;
    }
    let mut picture = Picture::default();
    picture.read_traits(&header.traits, diags);
    let whole = Sheet::whole(&name.text(), &of.text(), line.span);
    let mut out = Sheet { title: header.label.clone(), picture, ..whole };
    recorder.note(of.span, Target::Block(BlockId::of(diagram)), Role::Named);
    let finder = Finder { diagram, names: Names::of(diagram), blocks, recorder };
    for id in &line.children {
        let mut cursor = Cursor::new(source, tree, tree.line(*id));
        cursor.leaf("a line of a sheet", diags);
        finder.line(&mut out, &mut cursor, diags);
    }
    Some(out)
}

/// What is asked of a sheet that stands in no file. What elements and what sequence, each in a text of its own.
#[derive(Clone, Copy, Debug)]
pub struct AdHocWords<'a> {
    /// Its name.
    pub name: &'a str,
    /// Levels shown.
    pub depth: Option<u32>,
    /// What is in focus: names, and a distance.
    pub focus: Option<&'a Source>,
    /// The sequence that it follows.
    pub follow: Option<&'a Source>,
}

/// Makes the sheet that is asked for; what its words do not name is reported.
pub(super) fn ad_hoc(words: &AdHocWords<'_>, diagram: &Diagram, blocks: &Blocks<'_>, diags: &mut Diagnostics) -> Sheet {
    let recorder = &Recorder::default();
    let finder = Finder { diagram, names: Names::of(diagram), blocks, recorder };
    let mut sheet = Sheet::whole(words.name, &diagram.name, Span::default());
    sheet.depth = words.depth.map(|value| Spanned { value, span: Span::default() });
    if let Some(source) = words.focus {
        phrase(source, "focus", diags, |cursor, diags| {
            finder.choose(&mut sheet, ChoiceWord::Focus, cursor.line_span(), cursor, diags);
        });
    }
    if let Some(source) = words.follow {
        phrase(source, "follow", diags, |cursor, diags| sheet.follow = finder.follow(cursor, diags));
    }
    sheet
}

/// Reads what stands behind a word, where it is a source of its own.
fn phrase(source: &Source, word: &str, diags: &mut Diagnostics, read: impl FnOnce(&mut Cursor<'_>, &mut Diagnostics)) {
    let tree = parse(source, diags);
    let Some(line) = tree.roots.first() else {
        let end = source.text.len();
        let (after, found) = (word.to_owned(), String::new());
        return diags.report(source.span(end, end), Message::NameExpected { after, found });
    };
    let mut cursor = Cursor::new(source, &tree, tree.line(*line));
    read(&mut cursor, diags);
    cursor.finish(&[], diags);
}

/// Reads the lines of a sheet, with the names of its diagram at hand.
struct Finder<'a> {
    diagram: &'a Diagram,
    names: Names,
    blocks: &'a Blocks<'a>,
    recorder: &'a Recorder<'a>,
}

impl Finder<'_> {
    fn line(&self, sheet: &mut Sheet, cursor: &mut Cursor<'_>, diags: &mut Diagnostics) {
        let word = cursor.peek().unwrap_or_default().to_owned();
        let span = cursor.span();
        if let Some(word) = PICTURE.iter().find(|w| **w == word) {
            let mut find = |path: &Path, diags: &mut Diagnostics| self.element(path, diags);
            sheet.picture.read(word, None, cursor, &mut find, diags);
            return;
        }
        cursor.word();
        if let Some(word) = ChoiceWord::from_word(&word) {
            self.choose(sheet, word, span, cursor, diags);
            cursor.finish(&[], diags);
            return;
        }
        match word.as_str() {
            "depth" => sheet.depth = number(cursor, "depth", diags).map(|value| Spanned { value, span }),
            "tell" => sheet.tell = Some(span),
            "members" if self.diagram.kind == DiagramKind::Classes => {
                let found = value(cursor, "members", "none, keys, public or all", ShownMembers::from_word, diags);
                sheet.members = found.map(|value| Spanned { value, span }).or(sheet.members.take());
            }
            "members" => {
                diags.report(span, Message::OnlyInside { word: "members", place: "a sheet of classes" });
                cursor.skip_all();
            }
            "by" => {
                if cursor.eat("hosts").is_none() {
                    diags.report(cursor.span(), Message::Expected { what: "hosts", after: "by" });
                    cursor.skip_all();
                }
                sheet.by_hosts = Some(span);
            }
            "follow" => sheet.follow = self.follow(cursor, diags),
            _ => {
                let help = super::build::word_help(&word, &SHEET);
                diags.report(span, Message::UnknownWord { word, block: "sheet", help });
                cursor.skip_all();
            }
        }
        cursor.finish(&[], diags);
    }

    fn element(&self, path: &Path, diags: &mut Diagnostics) -> Option<ElementId> {
        let found = self.names.expect(self.diagram, path, None, diags);
        found.iter().for_each(|id| super::names::note_path(self.diagram, path, *id, self.recorder));
        found
    }

    /// A line that chooses elements: names, sets, and `tag NAME`.
    fn choose(
        &self, sheet: &mut Sheet, word: ChoiceWord, span: Span, cursor: &mut Cursor<'_>, diags: &mut Diagnostics,
    ) {
        let (chosen, ids) = match cursor.eat("tag") {
            Some(at) => {
                let tag = cursor.word().map(|w| w.value).unwrap_or_default();
                let tagged = self.diagram.ids().filter(|(_, e)| e.properties.tags.contains(&tag)).map(|(id, _)| id);
                let ids: Vec<ElementId> = tagged.collect();
                if ids.is_empty() {
                    diags.report(at, Message::TagOfNothing { tag: tag.clone() });
                }
                (Chosen::Tag(tag), ids)
            }
            None => {
                let paths = cursor.paths(word.word(), diags);
                let ids: Vec<ElementId> = paths.iter().filter_map(|path| self.element(path, diags)).collect();
                (Chosen::Elements(ids.clone()), ids)
            }
        };
        let has_distance = word == ChoiceWord::Focus && !cursor.at_end();
        let distance = if has_distance { number(cursor, "focus", diags) } else { None };
        sheet.choose(Choice { word, chosen, distance, span }, ids);
    }

    /// `follow SEQUENCE`: its messages as numbered steps between elements of the map.
    fn follow(&self, cursor: &mut Cursor<'_>, diags: &mut Diagnostics) -> Option<Followed> {
        let path = cursor.expect_path("follow", diags)?;
        let all = self.blocks.0.iter().copied();
        let sequence = named(all, &path, &[DiagramKind::Sequence], "a sequence", diags)?;
        self.recorder.note(path.span, Target::Block(BlockId::of(sequence)), Role::Named);
        let parties = self.parties(sequence, path.span, diags);
        let mut steps = Vec::new();
        self.steps(sequence, &parties, sequence.events(), (0, ""), &mut steps);
        self.check_related(&steps, path.span, diags);
        Some(Followed { sequence: sequence.name.clone(), steps, span: path.span })
    }

    /// For every party, the element of the map that bears its name.
    fn parties(&self, sequence: &Diagram, span: Span, diags: &mut Diagnostics) -> Vec<Option<ElementId>> {
        let keys: HashMap<&str, ElementId> = self.diagram.ids().map(|(id, e)| (e.key.as_str(), id)).collect();
        let mut found = Vec::new();
        for element in &sequence.elements {
            let by_key = keys.get(element.key.as_str()).copied();
            let path = Path::plain(&element.name, span);
            let by_name = || self.names.find(self.diagram, &path, None).found();
            let id = if element.name.is_empty() { by_key } else { by_key.or_else(by_name) };
            if id.is_none() && !element.kind.is_mark() && !element.kind.is_box() {
                let (party, diagram) = (element.key.clone(), self.diagram.name.clone());
                diags.report(span, Message::StepOfNobody { party, diagram });
            }
            found.push(id);
        }
        found
    }

    /// Numbers the messages from `(before, branch)` on; gives the number of the last one.
    fn steps(
        &self, sequence: &Diagram, parties: &[Option<ElementId>], items: &[Event], (before, branch): (u32, &str),
        steps: &mut Vec<Step>,
    ) -> u32 {
        let mut count = before;
        for item in items {
            match item {
                Event::Message { relation, body, .. } => {
                    let relation = sequence.relation(*relation);
                    if let (Some(from), Some(to)) = (parties[relation.from.index()], parties[relation.to.index()])
                        && from != to
                    {
                        count += 1;
                        let number = format!("{count}{branch}");
                        steps.push(Step { number, from, to, label: relation.label.clone(), span: relation.span });
                    }
                    count = self.steps(sequence, parties, body, (count, branch), steps);
                }
                Event::Fragment { operands, .. } => {
                    let start = count;
                    for (i, operand) in operands.iter().enumerate() {
                        let letter = char::from(b'a' + (i % 26) as u8);
                        let inner = if operands.len() > 1 { format!("{branch}{letter}") } else { branch.to_owned() };
                        count = count.max(self.steps(sequence, parties, &operand.items, (start, &inner), steps));
                    }
                }
                _ => {}
            }
        }
        count
    }

    /// A message between elements that the map does not relate, nor anything in or around them, is reported
    /// once.
    fn check_related(&self, steps: &[Step], span: Span, diags: &mut Diagnostics) {
        let around = |id: ElementId| once(id).chain(self.diagram.ancestors(id));
        // A relation speaks of its ends themselves, and of all that is around them.
        let mut related: HashSet<(End, End)> = HashSet::new();
        for relation in self.diagram.relations.iter().filter(|r| r.verb != super::Verb::NeverUses) {
            let ends = |id: ElementId| once(End::Itself(id)).chain(around(id).map(End::Within)).collect::<Vec<_>>();
            let (a, b) = (ends(relation.from), ends(relation.to));
            related.extend(a.iter().flat_map(|a| b.iter().map(move |b| (*a, *b))));
        }
        let mut listed = HashSet::new();
        for step in steps.iter().filter(|s| listed.insert((s.from, s.to))) {
            let ends = |id: ElementId| once(End::Within(id)).chain(around(id).map(End::Itself)).collect::<Vec<_>>();
            let (a, b) = (ends(step.from), ends(step.to));
            let is_related = |(a, b): (End, End)| related.contains(&(a, b)) || related.contains(&(b, a));
            if !a.iter().flat_map(|a| b.iter().map(move |b| (*a, *b))).any(is_related) {
                let key = |id: ElementId| self.diagram.element(id).key.clone();
                diags.report(span, Message::UnrelatedStep { from: key(step.from), to: key(step.to) });
            }
        }
    }
}

/// What an end of a relation speaks of.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum End {
    /// An element.
    Itself(ElementId),
    /// An element that the end lies in, or is.
    Within(ElementId),
}

fn number(cursor: &mut Cursor<'_>, of: &'static str, diags: &mut Diagnostics) -> Option<u32> {
    let span = cursor.span();
    let word = cursor.word().map(|w| w.value).unwrap_or_default();
    let number = word.parse().ok().filter(|n| *n > 0);
    if number.is_none() {
        diags.report(span, Message::BadValue { word, of, values: "a whole number from 1" });
    }
    number
}

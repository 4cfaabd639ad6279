//! Reads a whole file: its blocks in order. What refers to other blocks is read after them, since a sheet
//! may come before its diagram.

use super::build::Build;
use super::occurrences::{BlockId, Recorder, Role, Target};
use super::sheet::{self, Blocks};
use super::{
    Content, Diagram, DiagramKind, Document, ElementKind, Event, Imports, architecture, classes, flow, looks, network,
    sequence, states, tree as trees,
};
use crate::diag::{Diagnostics, Message, Suggestion, suggest};
use crate::source::world::folded;
use crate::source::{Source, Span};
use crate::syntax::{Clauses, Cursor, Line, Tree};
use crate::vocabulary::{ARCHITECTURE, BLOCKS, CLASSES, FLOW, NETWORK, SEQUENCE, STATES, TREE, Vocabulary, ours_block};
use std::collections::BTreeSet;

/// A file holds at most this many diagrams and sheets, a document this many blocks.
// All of them are drawn in some seconds.
pub const MAX_BLOCKS: usize = 5_000;
/// The bytes of a file, times its diagrams and sheets, are at most this many.
// Each picture carries the source of its file.
const MAX_CARRIED: usize = 512 << 20;
/// The lanes of a flow, times all of its elements, are at most this many.
// Each lane goes through all layers of the picture.
const MAX_LANED: usize = 400_000;

/// How many diagrams and sheets a file of this many bytes may hold.
fn most_blocks(bytes: usize) -> usize {
    (MAX_CARRIED / bytes.max(1)).clamp(1, MAX_BLOCKS)
}

/// Reports lanes beyond what a flow of its size may hold.
fn count_lanes(flow: &Diagram, diags: &mut Diagnostics) {
    let limit = (MAX_LANED / flow.elements.len().max(1)).max(1);
    let mut lanes = flow.elements.iter().filter(|e| e.kind == ElementKind::Lane);
    if let Some(lane) = lanes.nth(limit) {
        diags.report(lane.span, Message::TooManyLanes { limit });
    }
}

/// Reads a file with what other files give.
pub(super) fn read_with(
    source: &Source, tree: &Tree, file_name: &str, imports: Imports, recorder: &Recorder<'_>, diags: &mut Diagnostics,
) -> Document {
    let mut document = Document { imports, ..Document::default() };
    let mut headers = Vec::new();
    let mut sheets = Vec::new();
    let limit = most_blocks(source.text.len());
    for id in &tree.roots {
        let line = tree.line(*id);
        if headers.len() + sheets.len() == limit {
            diags.report(line.span, Message::TooManyBlocks { limit });
            break;
        }
        let mut cursor = Cursor::new(source, tree, line);
        match cursor.peek().unwrap_or_default() {
            "look" => {
                cursor.word();
                cursor.finish(&[], diags);
                document.looks.extend(looks::read(source, tree, line, diags));
            }
            "sheet" => sheets.push(line),
            // A missing path was reported when the files were read.
            "from" => {
                cursor.word();
                document.from.extend(cursor.label());
            }
            word => match DiagramKind::from_word(word) {
                Some(kind) => headers.push(header(cursor, kind, line, file_name, diags)),
                None => unknown_block(&cursor, diags),
            },
        }
    }
    let mut taken = BTreeSet::new();
    for header in &headers {
        take_name(&header.name, header.line, &mut taken, diags);
    }
    for header in &headers {
        let block = Target::Block(BlockId::at(header.line.span));
        recorder.note(header.name_span, block, Role::Declared);
    }
    let reader = Reader { source, tree, imports: &document.imports, recorder };
    document.diagrams = reader.diagrams(&headers, diags);
    for line in sheets {
        let blocks = Blocks(document.diagrams.iter().chain(document.imports.diagrams()).collect());
        if let Some(sheet) = sheet::read(source, tree, line, &blocks, recorder, diags) {
            take_name(&sheet.name, line, &mut taken, diags);
            document.sheets.push(sheet);
        }
    }
    if tree.roots.is_empty() {
        let end = source.text.len();
        diags.report(source.span(end, end), Message::EmptyFile);
    }
    document
}

/// The first line of a block that is a diagram.
struct Header<'a> {
    kind: DiagramKind,
    name: String,
    /// Where the name stands, or the word of the block where it has none.
    name_span: Span,
    /// The architecture that a sequence takes its parties from.
    of: Option<crate::syntax::Path>,
    clauses: Clauses,
    line: &'a Line,
}

fn take_name(name: &str, line: &Line, taken: &mut BTreeSet<String>, diags: &mut Diagnostics) {
    if !taken.insert(folded(name)) {
        diags.report(line.span, Message::NameTaken { name: name.to_owned() });
    }
}

fn unknown_block(cursor: &Cursor<'_>, diags: &mut Diagnostics) {
    let word = cursor.first().to_owned();
    let suggestion = ours_block(&word).map(Suggestion::idea).or_else(|| suggest(&word, BLOCKS.iter().copied()));
    diags.report(cursor.span(), Message::UnknownBlock { word, suggestion });
}

fn header<'a>(
    mut cursor: Cursor<'a>, kind: DiagramKind, line: &'a Line, file_name: &str, diags: &mut Diagnostics,
) -> Header<'a> {
    let word = cursor.span();
    cursor.word();
    let is_nameless = cursor.at_text() || cursor.rest().value.starts_with('(');
    let path = if is_nameless { None } else { cursor.path() };
    let name = path.as_ref().map_or_else(|| file_name.to_owned(), |p| p.text());
    let name_span = path.as_ref().map_or(word, |p| p.span);
    if let Some(path) = &path {
        sheet::check_picture_name(path, diags);
    }
    let takes = kind == DiagramKind::Sequence && cursor.eat("of").is_some();
    let of = if takes { cursor.expect_path("of", diags) } else { None };
    let clauses = cursor.clauses(&[], diags);
    let known = ["declared", "numbered", "foot", "heading", "arrange", "route", "spacing", "multiplicity"];
    for t in clauses.traits.iter().filter(|t| !known.contains(&t.word.value.as_str())) {
        let word = t.word.value.clone();
        diags.report(t.word.span, Message::UnknownTrait { suggestion: suggest(&word, known), word });
    }
    Header { kind, name, name_span, of, clauses, line }
}

/// What the diagrams of a file are read with.
struct Reader<'a> {
    source: &'a Source,
    tree: &'a Tree,
    imports: &'a Imports,
    recorder: &'a Recorder<'a>,
}

impl<'a> Reader<'a> {
    /// Reads all diagrams; sequences last, since they may take their parties from an architecture.
    fn diagrams(&self, headers: &[Header<'a>], diags: &mut Diagnostics) -> Vec<Diagram> {
        let mut read: Vec<(usize, Diagram)> = Vec::new();
        let (last, first): (Vec<usize>, Vec<usize>) = (0..headers.len()).partition(|i| headers[*i].of.is_some());
        for i in first {
            read.push((i, self.diagram(&headers[i], None, diags)));
        }
        for i in last {
            let base = headers[i].of.as_ref().and_then(|path| {
                let all = read.iter().map(|(_, d)| d).chain(self.imports.diagrams());
                let found = sheet::named(all, path, &[DiagramKind::Architecture], "an architecture", diags)?;
                self.recorder.note(path.span, Target::Block(BlockId::of(found)), Role::Named);
                Some(found)
            });
            let base = base.cloned();
            read.push((i, self.diagram(&headers[i], base, diags)));
        }
        read.sort_by_key(|(i, _)| *i);
        let all: Vec<Diagram> = read.into_iter().map(|(_, diagram)| diagram).collect();
        all.iter().for_each(|diagram| self.note_others(diagram.events(), &all));
        all
    }

    /// Notes where other sequences are named: one may come later in the text.
    fn note_others(&self, events: &[Event], all: &[Diagram]) {
        for event in events {
            match event {
                Event::Reference { sequence, .. } => {
                    let mut others = all.iter().chain(self.imports.diagrams());
                    if let Some(other) = others.find(|other| other.name == sequence.value) {
                        self.recorder.note(sequence.span, Target::Block(BlockId::of(other)), Role::Named);
                    }
                }
                Event::Message { body, .. } => self.note_others(body, all),
                Event::Fragment { operands, .. } => operands.iter().for_each(|o| self.note_others(&o.items, all)),
                _ => {}
            }
        }
    }

    fn diagram(&self, header: &Header<'a>, base: Option<Diagram>, diags: &mut Diagnostics) -> Diagram {
        let mut diagram = Diagram::new(header.kind, &header.name, header.clauses.label.clone(), header.line.span);
        diagram.picture.read_traits(&header.clauses.traits, diags);
        diagram.declared = header.clauses.has("declared");
        match &mut diagram.content {
            Content::Sequence(interaction) => {
                interaction.of = header.of.as_ref().map(crate::syntax::Path::text);
                interaction.numbered = header.clauses.has("numbered");
                interaction.foot = header.clauses.has("foot");
            }
            Content::Classes(classes) => {
                let crowfoot = header.clauses.traits.iter().find(|t| t.is("multiplicity", "crowfoot"));
                classes.crows_feet = crowfoot.map(crate::syntax::Trait::span);
            }
            _ => {}
        }
        let (words, default_kind) = words(header.kind);
        let mut build = Build::new((self.source, self.tree), self.recorder, words, diagram, default_kind);
        build.take_from(base);
        build.imports = Some(self.imports);
        let line = header.line;
        let diagram = match header.kind {
            DiagramKind::Sequence => sequence::read(build, line, diags),
            DiagramKind::Classes => classes::read(build, line, diags),
            DiagramKind::Flow => flow::read(build, line, diags),
            DiagramKind::States => states::read(build, line, diags),
            DiagramKind::Architecture => architecture::read(build, line, diags),
            DiagramKind::Network => network::read(build, line, diags),
            DiagramKind::Tree => trees::read(build, line, diags),
        };
        count_lanes(&diagram, diags);
        self.recorder.note_contents(&diagram);
        diagram
    }
}

/// The words of a kind of block, and the kind of what is only mentioned in it, or declared by its label.
pub(crate) fn words(kind: DiagramKind) -> (&'static Vocabulary, ElementKind) {
    match kind {
        DiagramKind::Sequence => (&SEQUENCE, ElementKind::Party),
        DiagramKind::Classes => (&CLASSES, ElementKind::Class),
        DiagramKind::Flow => (&FLOW, ElementKind::Step),
        DiagramKind::States => (&STATES, ElementKind::State),
        DiagramKind::Architecture => (&ARCHITECTURE, ElementKind::System),
        DiagramKind::Network => (&NETWORK, ElementKind::Device),
        DiagramKind::Tree => (&TREE, ElementKind::Item),
    }
}

//! Where the things of a model stand in its text: an index beside the model, recorded where names are resolved. Input: what the
//! readers note. Output: [`Occurrences`], in the order of the text. Whoever points at a place finds what it names, and
//! the other way round: hover, definitions and renames in an editor start here.

use super::{Diagram, ElementId, RelationId};
use crate::source::{SourceId, Span};
use std::cell::RefCell;

/// A block of a file, known by where it begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct BlockId {
    /// The file.
    pub source: SourceId,
    /// The byte at which the block begins.
    pub start: u32,
}

impl BlockId {
    /// The block of a diagram.
    pub fn of(diagram: &Diagram) -> Self {
        Self::at(diagram.span)
    }

    /// The block that begins with a span.
    pub fn at(span: Span) -> Self {
        Self { source: span.source, start: span.start }
    }
}

/// What stands at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Target {
    /// A diagram or a sheet.
    Block(BlockId),
    /// An element of a diagram.
    Element(BlockId, ElementId),
    /// A relation or message of a diagram.
    Relation(BlockId, RelationId),
    /// A member of a classifier, by its number in it.
    Member(BlockId, ElementId, u32),
    /// A file that is taken from.
    File(SourceId),
}

/// How something stands at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Role {
    /// It is declared there.
    Declared,
    /// It is named there.
    Named,
}

/// Something that stands at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Occurrence {
    /// Where.
    pub span: Span,
    /// What.
    pub target: Target,
    /// How.
    pub role: Role,
}

/// Everything that stands in a file, in the order of the text.
#[derive(Clone, Debug, Default)]
pub struct Occurrences(Vec<Occurrence>);

impl Occurrences {
    /// All of them.
    pub fn iter(&self) -> impl Iterator<Item = &Occurrence> {
        self.0.iter()
    }

    /// What stands at a byte of the file: the shortest first, so that a name comes before the line it stands in.
    pub fn at(&self, byte: u32) -> Vec<&Occurrence> {
        let after = self.0.partition_point(|o| o.span.start <= byte);
        let mut found: Vec<&Occurrence> = self.0[..after].iter().filter(|o| byte < o.span.end).collect();
        found.sort_by_key(|o| o.span.range().len());
        found
    }

    /// Where something stands.
    pub fn of(&self, target: Target) -> impl Iterator<Item = &Occurrence> {
        self.0.iter().filter(move |o| o.target == target)
    }
}

/// What the readers of a file write down while they resolve names.
pub(super) struct Recorder<'a> {
    all: RefCell<Vec<Occurrence>>,
    /// Whether nobody waits for what is read.
    stop: &'a dyn Fn() -> bool,
}

impl Default for Recorder<'_> {
    /// One that is never stopped.
    fn default() -> Self {
        Self::new(&|| false)
    }
}

impl<'a> Recorder<'a> {
    pub(super) fn new(stop: &'a dyn Fn() -> bool) -> Self {
        Self { all: RefCell::default(), stop }
    }

    /// What says so, for the files that this one takes from.
    pub(super) fn stop(&self) -> &'a dyn Fn() -> bool {
        self.stop
    }

    /// Whether nobody waits for what is read: then it does not matter what is, only that it ends soon.
    pub(super) fn is_stopped(&self) -> bool {
        (self.stop)()
    }

    /// Notes what stands at a place.
    pub(super) fn note(&self, span: Span, target: Target, role: Role) {
        self.all.borrow_mut().push(Occurrence { span, target, role });
    }

    /// Notes a diagram's relations and members, which know where they stand.
    pub(super) fn note_contents(&self, diagram: &Diagram) {
        let block = BlockId::of(diagram);
        for (number, relation) in (0..).map(RelationId).zip(&diagram.relations) {
            self.note(relation.span, Target::Relation(block, number), Role::Declared);
        }
        for (id, element) in diagram.ids() {
            let members = element.class.iter().flat_map(|body| body.members());
            for (number, member) in (0..).zip(members) {
                self.note(member.span, Target::Member(block, id, number), Role::Declared);
            }
        }
    }

    /// All that stands in one file, in the order of its text.
    pub(super) fn into_occurrences(self, source: SourceId) -> Occurrences {
        let mut all = self.all.into_inner();
        all.retain(|o| o.span.source == source);
        // They were noted nearly in their order, which this sort makes use of.
        all.sort();
        all.dedup();
        Occurrences(all)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline::{Reading, Setting, read};
    use crate::source::Source;

    fn reading(text: &str) -> Reading {
        read(Source::new("t.bathy", text), "t", &Setting::default())
    }

    /// The texts at which an element stands, `!` before those that declare it.
    fn places(reading: &Reading, key: &str) -> Vec<String> {
        let diagram = &reading.document.diagrams[0];
        let (id, _) = diagram.ids().find(|(_, e)| e.key == key).expect(key);
        let found = reading.occurrences.of(Target::Element(BlockId::of(diagram), id));
        let text = |o: &Occurrence| {
            let mark = if o.role == Role::Declared { "!" } else { "" };
            format!("{mark}{}:{}", reading.source.line(o.span.start), reading.source.slice(o.span))
        };
        found.map(text).collect()
    }

    #[test]
    fn elements_are_found_where_they_are_named() {
        let reading = reading(
            "architecture a\n  system core\n    part api\n  service desk\n  desk uses core.api\n  row desk, core\nsheet s of a\n  open core\n",
        );
        assert_eq!(places(&reading, "core"), ["!2:core", "5:core", "6:core", "8:core"]);
        assert_eq!(places(&reading, "core.api"), ["!3:api", "5:api"]);
        assert_eq!(places(&reading, "desk"), ["!4:desk", "5:desk", "6:desk"]);
        let block = Target::Block(BlockId::of(&reading.document.diagrams[0]));
        let blocks: Vec<_> =
            reading.occurrences.of(block).map(|o| (reading.source.line(o.span.start), o.role)).collect();
        assert_eq!(blocks, [(1, Role::Declared), (7, Role::Named)]);
    }

    #[test]
    fn what_stands_at_a_byte_comes_innermost_first() {
        let reading = reading("sequence s\n  desk calls roster \"who?\"\nclasses c\n  class Buoy\n    + name: Text\n");
        let at = |text: &str| reading.source.text.find(text).expect(text) as u32;
        let targets =
            |text: &str| -> Vec<Target> { reading.occurrences.at(at(text)).iter().map(|o| o.target).collect() };
        assert!(
            matches!(targets("roster")[..], [Target::Element(..), Target::Relation(..)]),
            "{:?}",
            targets("roster")
        );
        assert!(matches!(targets("who")[..], [Target::Relation(..)]));
        assert!(matches!(targets("name: Text")[..], [Target::Member(..)]));
    }
}

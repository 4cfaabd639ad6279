//! The ends of relations, found or made by name, and the relations between them.

use super::{Build, Draft, LineKind, MAX_MESSAGES, MAX_RELATIONS};
use crate::diag::{Diagnostics, Message};
use crate::model::names::{self, Lookup};
use crate::model::{DiagramKind, ElementId, EndText, Rare, Relation, RelationId, Verb};
use crate::source::Span;
use crate::syntax::{Clauses, Cursor, End, Path};
use std::collections::HashSet;

impl<'a> Build<'a> {
    /// The element that a path names; one that was never declared comes into being at block level.
    pub(in crate::model) fn resolve(
        &mut self, path: &Path, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        self.resolve_in(path, scope, None, diags)
    }

    /// As [`Build::resolve`], but what comes into being lies in `home`.
    pub(in crate::model) fn resolve_in(
        &mut self, path: &Path, scope: Option<ElementId>, home: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        let found = self.found_or_made(path, scope, home, diags);
        found.iter().for_each(|id| names::note_path(&self.diagram, path, *id, self.recorder));
        found
    }

    fn found_or_made(
        &mut self, path: &Path, scope: Option<ElementId>, home: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        match self.names.find(&self.diagram, path, scope) {
            Lookup::Found(id) => return Some(id),
            Lookup::Ambiguous(found) => {
                names::report_ambiguous(&self.diagram, path, &found, diags);
                return None;
            }
            Lookup::Missing => {}
        }
        if self.base.is_some() {
            return self.taken(path, diags);
        }
        if self.names.report_resembling(&self.diagram, path, diags) {
            return None;
        }
        let name = path.text();
        if self.diagram.declared {
            diags.report(path.span, Message::UnknownName { name, suggestion: None });
            return None;
        }
        let draft = Draft { implicit: true, parent: home, ..Draft::bare(self.default_kind, &name, path.span) };
        self.add(draft, diags)
    }

    /// An element that has to be there already.
    pub(in crate::model) fn existing(
        &mut self, path: &Path, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        let found = self.names.expect(&self.diagram, path, scope, diags);
        found.iter().for_each(|id| names::note_path(&self.diagram, path, *id, self.recorder));
        found
    }

    /// The subjects of a statement; a line that starts with its verb speaks of the element it belongs to.
    pub(in crate::model) fn subjects(
        &mut self, cursor: &mut Cursor<'a>, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<Vec<(ElementId, End)>> {
        let LineKind::Verb(verb) = self.line_kind(cursor) else { return Some(self.ends(cursor, "", scope, diags)) };
        let Some(id) = scope else {
            diags.report(cursor.line_span(), Message::SubjectMissing { verb: verb.to_owned() });
            return None;
        };
        let path = Path { names: Vec::new(), span: cursor.line_span() };
        Some(vec![(id, End { multiplicity: None, path, port: None, role: None })])
    }

    /// Reads a set of ends, with the elements they name.
    pub(in crate::model) fn ends(
        &mut self, cursor: &mut Cursor<'a>, after: &str, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Vec<(ElementId, End)> {
        let set = cursor.set(after, diags);
        set.into_iter().filter_map(|end| self.resolve(&end.path, scope, diags).map(|id| (id, end))).collect()
    }

    /// Reports a relation between an element and what it lies in, which cannot be drawn.
    pub(in crate::model) fn reports_own_container(
        &self, a: ElementId, b: ElementId, span: Span, diags: &mut Diagnostics,
    ) -> bool {
        let inside = |x: ElementId, y: ElementId| self.diagram.ancestors(x).any(|p| p == y);
        let key = |id: ElementId| self.diagram.element(id).key.clone();
        let (inner, outer) = if inside(b, a) { (b, a) } else { (a, b) };
        let is_inside = inside(inner, outer);
        if is_inside {
            diags.report(span, Message::OwnContainer { inner: key(inner), outer: key(outer) });
        }
        is_inside
    }

    /// Whether a line of a flow leads from one element to another.
    pub(in crate::model) fn relates(&self, from: ElementId, to: ElementId) -> bool {
        let verbs = [Verb::Then, Verb::Onward, Verb::Aside];
        verbs.into_iter().any(|verb| self.relation_counts.contains_key(&(from, to, verb)))
    }

    /// Adds a relation.
    pub(in crate::model) fn relate(&mut self, from: ElementId, to: ElementId, verb: Verb, span: Span) -> RelationId {
        let count = self.relation_counts.entry((from, to, verb)).or_insert(0);
        *count += 1;
        let (a, b) = (&self.diagram.element(from).key, &self.diagram.element(to).key);
        let key = [a, " ", verb.word(), " ", b].concat();
        let key = if *count == 1 { key } else { format!("{key} ({count})") };
        let id = RelationId(self.diagram.relations.len() as u32);
        let relation = Relation::between(from, to, verb, span);
        self.diagram.relations.push(Relation { key, ..relation });
        id
    }

    /// Whether another relation has room; if not, that is reported once.
    pub(in crate::model) fn has_room_for_relation(&mut self, span: Span, diags: &mut Diagnostics) -> bool {
        let is_sequence = self.diagram.kind == DiagramKind::Sequence;
        let limit = if is_sequence { MAX_MESSAGES } else { MAX_RELATIONS };
        let is_full = self.diagram.relations.len() >= limit;
        if is_full && !std::mem::replace(&mut self.full_of_relations, true) {
            diags.report(span, Message::TooManyRelations { limit });
        }
        !is_full
    }

    /// Adds a relation for every pair of two sets, self-pairs of real sets and repeated pairs left out.
    pub(in crate::model) fn relate_sets(
        &mut self, [from, to]: [&[(ElementId, End)]; 2], (verb, scope): (Verb, Option<ElementId>), clauses: &Clauses,
        span: Span, diags: &mut Diagnostics,
    ) {
        // A line between two alone, as most are, can repeat nothing.
        let pairs = from.len() * to.len();
        let mut seen = HashSet::new();
        for (a, subject) in from {
            for (b, object) in to {
                if a == b && pairs > 1 {
                    continue;
                }
                if !self.has_room_for_relation(span, diags) {
                    return;
                }
                // Lines without direction join two of one set once; the same pair twice says nothing more, unless ports do.
                let ends = if verb == Verb::Joins { (*a.min(b), *a.max(b)) } else { (*a, *b) };
                let has_ports = subject.port.is_some() || object.port.is_some();
                if pairs > 1 && !seen.insert(ends) && !has_ports {
                    continue;
                }
                let id = self.relate(*a, *b, verb, span);
                let relation = &mut self.diagram.relations[id.index()];
                relation.label = clauses.label.clone();
                relation.written_in = scope;
                relation.over = clauses.text("over").cloned();
                relation.traits = clauses.traits.clone();
                relation.ends = [end_text(subject), end_text(object)];
            }
        }
    }
}

fn end_text(end: &End) -> Rare<EndText> {
    Rare::from(EndText {
        multiplicity: end.multiplicity.as_ref().map(|m| m.value.clone()),
        role: end.role.as_ref().map(|r| r.value.clone()),
        port: end.port.as_ref().map(|p| p.value.clone()),
    })
}

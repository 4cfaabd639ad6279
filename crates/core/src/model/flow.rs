//! Reads a `flow`. A flow is a procedure: a line follows the line above it; decisions and parallel
//! parts join again. Output: steps as elements, and `then` relations between them.

use super::build::{Build, Draft, LineKind};
use super::{
    Arrow, Branch, Content, Diagram, Element, ElementId, ElementKind, Opening, Passage, Procedure, RelationId, Verb,
};
use crate::diag::{Certainty, Diagnostics, Fix, Message};
use crate::source::{Span, TextEdit};
use crate::syntax::{Clauses, Cursor, Label, Line, LineId, Set};
use std::collections::HashMap;

/// An end from which the flow goes on: where, with what branch label, and how.
#[derive(Clone)]
struct Open {
    from: ElementId,
    branch: Option<Label>,
    verb: Verb,
}

/// A line that leads elsewhere.
struct Jump<'a> {
    /// What flows into it.
    open: Vec<Open>,
    line: &'a Line,
    /// The parts of parallel work that it stands in.
    parts: Vec<u32>,
}

struct Flow<'a> {
    build: Build<'a>,
    /// Jumps, joined when all names are known.
    jumps: Vec<Jump<'a>>,
    /// The parts of parallel work around the line that is read, outermost first.
    parts: Vec<u32>,
    /// The parts that each element stands in; elements outside of any are left out.
    parts_of: HashMap<ElementId, Vec<u32>>,
    part_count: u32,
    statements: Vec<&'a Line>,
    remarks: Vec<(&'a Line, Option<ElementId>)>,
}

/// Reads the lines of the block into a diagram.
pub(super) fn read(build: Build<'_>, block: &Line, diags: &mut Diagnostics) -> Diagram {
    let mut flow = Flow {
        build,
        jumps: Vec::new(),
        parts: Vec::new(),
        parts_of: HashMap::new(),
        part_count: 0,
        statements: Vec::new(),
        remarks: Vec::new(),
    };
    let mut place = None;
    let mut procedure = Procedure::default();
    flow.lines(&block.children, Vec::new(), (&mut place, &mut procedure.passages), diags);
    let mut jumps = HashMap::new();
    for jump in std::mem::take(&mut flow.jumps) {
        jumps.extend(flow.jump(&jump, diags).map(|arrow| (arrow.span, arrow)));
    }
    tell_jumps(&mut procedure.passages, &mut jumps);
    for line in std::mem::take(&mut flow.statements) {
        procedure.arrows.extend(flow.statement(line, diags));
    }
    flow.build.diagram.content = Content::Flow(procedure);
    for (line, scope) in std::mem::take(&mut flow.remarks) {
        let mut cursor = flow.build.cursor(line);
        flow.build.remark_element(&mut cursor, scope, diags);
    }
    flow.divided_lanes(diags);
    flow.build.finish(diags)
}

impl<'a> Flow<'a> {
    /// Reads lines in order; `open` flows into the first of them. Returns what flows on. `place` is the lane or the group
    /// that lines stand in, `passages` what the lines say.
    fn lines(
        &mut self, ids: &[LineId], mut open: Vec<Open>, (place, passages): (&mut Option<ElementId>, &mut Vec<Passage>),
        diags: &mut Diagnostics,
    ) -> Vec<Open> {
        let mut at = 0;
        while at < ids.len() {
            let line = self.build.tree.line(ids[at]);
            at += 1;
            let mut cursor = self.build.cursor(line);
            match self.build.line_kind(&cursor) {
                LineKind::Statement => self.statements.push(line),
                LineKind::Kind(word @ ("lane" | "group")) => {
                    let around = if word == "lane" { None } else { *place };
                    passages.extend(self.container(line, &mut cursor, around, diags).map(Passage::Container));
                }
                LineKind::Kind("decide") => open = self.decide(line, &mut cursor, open, (*place, passages), diags),
                LineKind::Kind(word) => {
                    let kind = ElementKind::from_word(word).unwrap_or(ElementKind::Step);
                    open = self.step(line, kind, open, (*place, passages), diags);
                }
                LineKind::Text => open = self.step(line, ElementKind::Step, open, (*place, passages), diags),
                LineKind::Keyword("together") => {
                    let parts = ids[at..].iter().take_while(|id| self.starts_with(**id, "and")).count();
                    open = self.together(line, &ids[at..at + parts], open, (*place, passages), diags);
                    at += parts;
                }
                LineKind::Keyword("repeat") => open = self.repeat(line, &mut cursor, open, (*place, passages), diags),
                LineKind::Keyword("in") => {
                    let inside = self.named_place(&mut cursor, diags);
                    if line.children.is_empty() {
                        self.report_bare(line, &ids[at..], diags);
                        // As if it were indented.
                        *place = inside.or(*place);
                        continue;
                    }
                    let (mut own, mut body) = (inside.or(*place), Vec::new());
                    open = self.lines(&line.children, open, (&mut own, &mut body), diags);
                    match inside {
                        Some(place) => passages.push(Passage::Within { place, span: line.span, body }),
                        None => passages.extend(body),
                    }
                }
                LineKind::Keyword("go") => {
                    let jump = Jump { open: std::mem::take(&mut open), line, parts: self.parts.clone() };
                    self.jumps.push(jump);
                    passages.push(Passage::Go(Arrow::onward(line.span)));
                }
                LineKind::Keyword("remark") => self.remarks.push((line, open.first().map(|o| o.from))),
                LineKind::Picture(word) => self.build.picture_word(word, line, None),
                LineKind::Keyword("and") => {
                    diags.report(line.span, Message::OnlyInside { word: "and", place: "a `together`" })
                }
                LineKind::Keyword("aside") => {
                    diags.report(line.span, Message::OnlyInside { word: "aside", place: "a step" })
                }
                LineKind::Keyword(word) => diags.report(line.span, Message::OnlyInside { word, place: "a `decide`" }),
                LineKind::Property(word) => {
                    diags.report(line.span, Message::PropertyOfNothing { word });
                }
                LineKind::Verb(verb) => diags.report(line.span, Message::SubjectMissing { verb: verb.to_owned() }),
                LineKind::Unknown => {
                    self.build.unknown_line(&cursor, diags);
                    let below = self.build.below_unknown(line);
                    open = self.lines(&below, open, (&mut *place, &mut *passages), diags);
                }
            }
        }
        open
    }

    fn starts_with(&self, id: LineId, word: &str) -> bool {
        self.build.cursor(self.build.tree.line(id)).peek() == Some(word)
    }

    /// A lane or a group; lines under it are its properties, and lanes and groups in it.
    fn container(
        &mut self, line: &'a Line, cursor: &mut Cursor<'a>, place: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        let kind = cursor.word().and_then(|w| ElementKind::from_word(&w.value)).unwrap_or(ElementKind::Group);
        let (ids, clauses) = self.build.declaration(kind, cursor, place, diags);
        for id in &ids {
            self.build.traits_as_properties(*id);
        }
        self.put_where_said(&ids, &clauses, diags);
        for child in &line.children {
            let child = self.build.tree.line(*child);
            let mut cursor = self.build.cursor(child);
            match self.build.line_kind(&cursor) {
                LineKind::Property(word) => self.build.property(word, ids.first().copied(), &mut cursor, diags),
                LineKind::Kind("lane") if kind != ElementKind::Lane => {
                    diags.report(child.span, Message::LaneInside { kind: kind.word() });
                }
                LineKind::Kind("lane" | "group") => {
                    self.container(child, &mut cursor, ids.first().copied(), diags);
                }
                LineKind::Keyword("remark") => self.remarks.push((child, ids.first().copied())),
                _ => diags.report(child.span, Message::LaneHoldsNoLines),
            }
        }
        ids.first().copied()
    }

    /// Moves elements into the lane or the group that `in NAME` names, unless that lies in themselves.
    fn put_where_said(&mut self, ids: &[ElementId], clauses: &Clauses, diags: &mut Diagnostics) {
        let Some(path) = clauses.names("in").next() else { return };
        let Some(place) = self.place(path, diags) else { return };
        for id in ids {
            let diagram = &mut self.build.diagram;
            let (own, around) = (diagram.element(*id), diagram.element(place).kind);
            if *id == place || diagram.ancestors(place).any(|outer| outer == *id) {
                diags.report(path.span, Message::InItself { name: own.shown().text() });
            } else if own.kind == ElementKind::Lane && around != ElementKind::Lane {
                diags.report(path.span, Message::LaneInside { kind: around.word() });
            } else {
                diagram.elements[id.index()].parent = Some(place);
            }
        }
    }

    /// A lane that is divided into lanes holds nothing else: reports the first that lies in one all the same.
    fn divided_lanes(&self, diags: &mut Diagnostics) {
        let diagram = &self.build.diagram;
        let lanes = diagram.elements.iter().filter(|e| e.kind == ElementKind::Lane && e.parent.is_some());
        let mut inner: HashMap<ElementId, &Element> = HashMap::new();
        for lane in lanes {
            lane.parent.into_iter().for_each(|outer| _ = inner.entry(outer).or_insert(lane));
        }
        for element in diagram.elements.iter().filter(|e| e.kind != ElementKind::Lane) {
            let Some((outer, lane)) = element.parent.and_then(|p| Some((p, inner.remove(&p)?))) else { continue };
            let message =
                Message::DividedLane { outer: diagram.element(outer).shown().text(), inner: lane.name.clone() };
            diags.report(element.span, message);
        }
    }

    /// The lane or group that a line `in NAME` names.
    fn named_place(&mut self, cursor: &mut Cursor<'a>, diags: &mut Diagnostics) -> Option<ElementId> {
        cursor.word();
        let path = cursor.expect_path("in", diags);
        let place = path.and_then(|path| self.place(&path, diags));
        cursor.finish(&[], diags);
        place
    }

    /// Reports a line `in NAME` with nothing under it; what follows it, up to the next one, is meant.
    fn report_bare(&self, line: &Line, following: &[LineId], diags: &mut Diagnostics) {
        let is_meant = |id: &&LineId| !self.starts_with(**id, "in");
        let is_picture = |line: &&Line| matches!(self.build.line_kind(&self.build.cursor(line)), LineKind::Picture(_));
        let mut rows: Vec<&Line> = following.iter().take_while(is_meant).map(|id| self.build.tree.line(*id)).collect();
        // What is said of the picture at its end is in no lane.
        while rows.pop_if(|row| is_picture(row)).is_some() {}
        let mut edits = Vec::new();
        while let Some(row) = rows.pop() {
            let range = row.span.range();
            edits.push(TextEdit::new(Span::new(row.span.source, range.start, range.start), "  "));
            rows.extend(row.children.iter().map(|id| self.build.tree.line(*id)));
        }
        edits.sort_by_key(|edit| edit.span.range().start);
        let title = "indent what follows under it".to_owned();
        let fix = Fix { title, edits, certainty: Certainty::Certain };
        let fix = (!fix.edits.is_empty()).then_some(fix);
        diags.report_with(line.span, Message::InWithoutBody, fix);
    }

    /// The lane or group that a path names.
    fn place(&mut self, path: &crate::syntax::Path, diags: &mut Diagnostics) -> Option<ElementId> {
        let id = self.build.existing(path, None, diags)?;
        let kind = self.build.diagram.element(id).kind;
        if !matches!(kind, ElementKind::Lane | ElementKind::Group) {
            diags.report(path.span, Message::NotAPlace { name: path.text(), kind: kind.word() });
            return None;
        }
        Some(id)
    }

    /// Declares the element of a line, in its place.
    fn element(
        &mut self, kind: ElementKind, cursor: &mut Cursor<'a>, place: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        let (ids, clauses) = self.build.declaration(kind, cursor, place, diags);
        let id = *ids.first()?;
        self.put_where_said(&ids, &clauses, diags);
        self.build.traits_as_properties(id);
        self.note_parts(id);
        if ids.len() > 1 {
            diags.report(cursor.line_span(), Message::OneStepALine);
        }
        Some(id)
    }

    fn connect(&mut self, open: &[Open], to: ElementId, span: Span) -> Vec<RelationId> {
        open.iter()
            .map(|end| {
                let id = self.build.relate(end.from, to, end.verb, span);
                self.build.diagram.relations[id.index()].start = end.branch.clone();
                id
            })
            .collect()
    }

    fn step(
        &mut self, line: &'a Line, kind: ElementKind, open: Vec<Open>,
        (place, passages): (Option<ElementId>, &mut Vec<Passage>), diags: &mut Diagnostics,
    ) -> Vec<Open> {
        let mut cursor = self.build.cursor(line);
        // A bare text has no kind before it.
        cursor.eat(kind.word());
        let Some(id) = self.element(kind, &mut cursor, place, diags) else { return open };
        passages.push(Passage::Step(id));
        self.connect(&open, id, line.span);
        self.details(line, id, diags);
        if kind == ElementKind::Finish { Vec::new() } else { onward(id) }
    }

    /// What may be indented under a step: properties, remarks, what stands aside.
    fn details(&mut self, line: &'a Line, id: ElementId, diags: &mut Diagnostics) {
        for child in &line.children {
            let child = self.build.tree.line(*child);
            let mut cursor = self.build.cursor(child);
            match self.build.line_kind(&cursor) {
                LineKind::Property(word) => self.build.property(word, Some(id), &mut cursor, diags),
                LineKind::Keyword("remark") => self.remarks.push((child, Some(id))),
                LineKind::Keyword("aside") => {
                    cursor.word();
                    let kind = cursor.peek().and_then(ElementKind::from_word).unwrap_or(ElementKind::Data);
                    if cursor.peek().is_some() {
                        cursor.word();
                    }
                    let place = self.build.diagram.element(id).parent;
                    if let Some(aside) = self.element(kind, &mut cursor, place, diags) {
                        self.build.relate(id, aside, Verb::Aside, child.span);
                    }
                }
                LineKind::Kind("lane") => {
                    let kind = self.build.diagram.element(id).kind.word();
                    diags.report(child.span, Message::LaneInside { kind });
                }
                _ => diags.report(child.span, Message::StepHoldsNoLines),
            }
        }
    }

    fn decide(
        &mut self, line: &'a Line, cursor: &mut Cursor<'a>, open: Vec<Open>,
        (place, passages): (Option<ElementId>, &mut Vec<Passage>), diags: &mut Diagnostics,
    ) -> Vec<Open> {
        cursor.word();
        let Some(id) = self.element(ElementKind::Decide, cursor, place, diags) else { return open };
        self.connect(&open, id, line.span);
        let place = self.build.diagram.element(id).parent;
        let mut on = Vec::new();
        let mut branches = Vec::new();
        let mut complete = false;
        for child in &line.children {
            let child = self.build.tree.line(*child);
            let mut cursor = self.build.cursor(child);
            let (label, opening) = match self.build.line_kind(&cursor) {
                LineKind::Keyword(word @ ("when" | "or")) => {
                    cursor.word();
                    let label = cursor.expect_label(word, diags);
                    let first = branches.is_empty();
                    if (word == "when") != first {
                        diags.report(child.span, Message::BranchOrder { word, first });
                    }
                    (label, Opening::Labelled)
                }
                LineKind::Keyword("otherwise") => {
                    let span = cursor.span();
                    cursor.word();
                    complete = true;
                    let label = cursor.label().unwrap_or_else(|| Label::plain("otherwise", span));
                    (Some(label), Opening::Otherwise)
                }
                LineKind::Property(word) => {
                    self.build.property(word, Some(id), &mut cursor, diags);
                    continue;
                }
                LineKind::Keyword("remark") => {
                    self.remarks.push((child, Some(id)));
                    continue;
                }
                LineKind::Kind("lane") => {
                    diags.report(child.span, Message::LaneInside { kind: "decide" });
                    continue;
                }
                _ => {
                    diags.report(child.span, Message::DecideHoldsBranches);
                    continue;
                }
            };
            cursor.finish(&[], diags);
            let start = vec![Open { from: id, branch: label.clone(), verb: Verb::Then }];
            let mut body = Vec::new();
            on.extend(self.lines(&child.children, start, (&mut place.clone(), &mut body), diags));
            branches.push(Branch { label, opening, body, span: child.span });
        }
        let count = branches.len();
        passages.push(Passage::Decide(id, branches));
        if count < 2 && !complete {
            diags.report(line.span, Message::OneArmedDecision { branches: count });
            on.push(Open { from: id, branch: None, verb: Verb::Onward });
        }
        on
    }

    fn together(
        &mut self, line: &'a Line, more: &[LineId], open: Vec<Open>,
        (place, passages): (Option<ElementId>, &mut Vec<Passage>), diags: &mut Diagnostics,
    ) -> Vec<Open> {
        let fork = self.bar(line, place, diags);
        let Some(fork) = fork else { return open };
        self.connect(&open, fork, line.span);
        let mut ends = Vec::new();
        let mut branches = Vec::new();
        let parts: Vec<&'a Line> =
            std::iter::once(line).chain(more.iter().map(|id| self.build.tree.line(*id))).collect();
        for part in parts {
            let mut cursor = self.build.cursor(part);
            cursor.word();
            let branch = cursor.label();
            cursor.finish(&[], diags);
            if part.children.is_empty() {
                diags.report(part.span, Message::EmptyPart);
            }
            let start = vec![Open { from: fork, branch: branch.clone(), verb: Verb::Then }];
            self.part_count += 1;
            self.parts.push(self.part_count);
            let mut body = Vec::new();
            ends.extend(self.lines(&part.children, start, (&mut place.clone(), &mut body), diags));
            self.parts.pop();
            branches.push(Branch { label: branch, opening: Opening::Labelled, body, span: part.span });
        }
        passages.push(Passage::Together(branches));
        if ends.is_empty() {
            return ends;
        }
        let Some(join) = self.bar(line, place, diags) else { return ends };
        self.connect(&ends, join, line.span);
        onward(join)
    }

    /// `repeat "…"` with what is repeated under it, between the two loop limits of ISO 5807.
    fn repeat(
        &mut self, line: &'a Line, cursor: &mut Cursor<'a>, open: Vec<Open>,
        (place, passages): (Option<ElementId>, &mut Vec<Passage>), diags: &mut Diagnostics,
    ) -> Vec<Open> {
        cursor.word();
        let text = cursor.expect_label("repeat", diags).unwrap_or_else(|| Label::plain("", line.span));
        let clauses = cursor.clauses(self.build.words.clauses, diags);
        let draft = |kind| Draft::new(kind, "", Some(text.clone()), place, line.span, &clauses);
        let Some(first) = self.limit(draft(ElementKind::Repeat), &clauses, diags) else { return open };
        self.connect(&open, first, line.span);
        if line.children.is_empty() {
            diags.report(line.span, Message::EmptyPart);
        }
        let mut inner = self.build.diagram.element(first).parent;
        let mut body = Vec::new();
        let ends = self.lines(&line.children, onward(first), (&mut inner, &mut body), diags);
        passages.push(Passage::Repeat { first, body });
        if ends.is_empty() {
            return ends;
        }
        let Some(last) = self.limit(draft(ElementKind::Until), &clauses, diags) else { return ends };
        self.connect(&ends, last, line.span);
        onward(last)
    }

    /// The beginning or the end of what is repeated.
    fn limit(&mut self, draft: Draft, clauses: &Clauses, diags: &mut Diagnostics) -> Option<ElementId> {
        let id = self.build.add(draft, diags)?;
        self.put_where_said(&[id], clauses, diags);
        self.note_parts(id);
        Some(id)
    }

    /// Remembers the parts that an element stands in.
    fn note_parts(&mut self, id: ElementId) {
        if !self.parts.is_empty() {
            self.parts_of.insert(id, self.parts.clone());
        }
    }

    fn bar(&mut self, line: &Line, place: Option<ElementId>, diags: &mut Diagnostics) -> Option<ElementId> {
        let draft = Draft::new(ElementKind::Bar, "", None, place, line.span, &Clauses::default());
        self.build.add(draft, diags)
    }

    /// `go NAME "label"`.
    fn jump(&mut self, Jump { open, line, parts }: &Jump<'a>, diags: &mut Diagnostics) -> Option<Arrow> {
        let mut cursor = self.build.cursor(line);
        cursor.leaf("`go`", diags);
        cursor.word();
        let path = cursor.expect_path("go", diags)?;
        let clauses = cursor.clauses(&[], diags);
        let to = self.build.existing(&path, None, diags)?;
        if open.is_empty() {
            diags.report(line.span, Message::NothingFlowsHere);
        }
        let around = self.parts_of.get(&to).map_or(&[][..], Vec::as_slice);
        if !around.starts_with(parts) {
            diags.report(line.span, Message::LeaveTogether);
        } else if around.len() > parts.len() {
            diags.report(line.span, Message::EnterTogether);
        }
        for id in self.connect(open, to, line.span) {
            self.build.diagram.relations[id.index()].label = clauses.label.clone();
        }
        Some(Arrow { to: vec![to], label: clauses.label, ..Arrow::onward(line.span) })
    }

    /// `a then b "label"` adds an arrow, or labels the one that is there.
    fn statement(&mut self, line: &'a Line, diags: &mut Diagnostics) -> Option<Arrow> {
        let mut cursor = self.build.cursor(line);
        cursor.leaf("an arrow", diags);
        let from = cursor.set("", diags);
        cursor.word();
        let to = cursor.set("then", diags);
        let clauses = cursor.clauses(&[], diags);
        let named = |flow: &mut Self, set: &Set, diags: &mut Diagnostics| -> Vec<ElementId> {
            set.iter().filter_map(|end| flow.build.existing(&end.path, None, diags)).collect()
        };
        let (from, to) = (named(self, &from, diags), named(self, &to, diags));
        for a in from.iter().copied() {
            for b in to.iter().copied() {
                if !self.build.has_room_for_relation(line.span, diags) {
                    return None;
                }
                let may_be_there = clauses.label.is_some() && self.build.relates(a, b);
                let relations = self.build.diagram.relations.iter_mut().filter(|_| may_be_there);
                let mut unlabelled = relations.filter(|r| r.from == a && r.to == b && r.label.is_none());
                match unlabelled.next() {
                    Some(relation) => relation.label = clauses.label.clone(),
                    None => {
                        let id = self.build.relate(a, b, Verb::Then, line.span);
                        let relation = &mut self.build.diagram.relations[id.index()];
                        relation.label = clauses.label.clone();
                        relation.traits = clauses.traits.clone();
                    }
                }
            }
        }
        Some(Arrow { from, to, label: clauses.label, traits: clauses.traits, span: line.span })
    }
}

/// Puts jumps where they were written.
fn tell_jumps(passages: &mut [Passage], jumps: &mut HashMap<Span, Arrow>) {
    for passage in passages {
        match passage {
            Passage::Go(arrow) => *arrow = jumps.remove(&arrow.span).unwrap_or_else(|| arrow.clone()),
            Passage::Decide(_, branches) | Passage::Together(branches) => {
                branches.iter_mut().for_each(|branch| tell_jumps(&mut branch.body, jumps));
            }
            Passage::Repeat { body, .. } | Passage::Within { body, .. } => tell_jumps(body, jumps),
            Passage::Step(_) | Passage::Container(_) => {}
        }
    }
}

fn onward(from: ElementId) -> Vec<Open> {
    vec![Open { from, branch: None, verb: Verb::Then }]
}

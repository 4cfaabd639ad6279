//! Reads a `states` block: UML state machines. Input: the block's lines. Output: states inside states,
//! pseudo-states, and transitions between them. `begin`, `finish` and `history` belong to the state in
//! which the line is written, and so does a state that is only mentioned there.

use super::build::{Build, Draft, LineKind};
use super::member::{ClassBody, Compartment, Member};
use super::{Behaviour, Content, Diagram, ElementId, ElementKind, Occasion, Transition, Verb};
use crate::diag::{Diagnostics, Message};
use crate::source::Span;
use crate::syntax::{Clauses, Cursor, Label, Line, LineId, Path, Run, RunStyle};
use crate::vocabulary::ours_line;
use std::collections::HashMap;

/// A line that refers to states, read after all declarations.
struct Later<'a> {
    line: &'a Line,
    /// The state that the line belongs to.
    scope: Option<ElementId>,
    /// How deep it is nested.
    depth: usize,
}

struct States<'a> {
    build: Build<'a>,
    later: Vec<Later<'a>>,
    /// `begin`, `finish` and `history` of each state.
    pseudo: HashMap<(Option<ElementId>, ElementKind), ElementId>,
}

/// Reads the lines of the block into a diagram.
pub(super) fn read<'a>(build: Build<'a>, block: &'a Line, diags: &mut Diagnostics) -> Diagram {
    let mut states = States { build, later: Vec::new(), pseudo: HashMap::new() };
    states.declare(&block.children, None, diags);
    let mut later = std::mem::take(&mut states.later);
    // Outer lines first: a state that is mentioned outside is known inside.
    later.sort_by_key(|l| l.depth);
    for entry in later {
        states.line(&entry, diags);
    }
    states.build.diagram.relations.sort_by_key(|r| r.span.start);
    states.build.finish(diags)
}

impl<'a> States<'a> {
    /// Declares the states under a line; what refers to states is left for later.
    fn declare(&mut self, ids: &[LineId], inside: Option<ElementId>, diags: &mut Diagnostics) {
        let depth = inside.map_or(0, |id| self.build.diagram.ancestors(id).count() + 1);
        for id in ids {
            let line = self.build.tree.line(*id);
            let mut cursor = self.build.cursor(line);
            match self.build.line_kind(&cursor) {
                LineKind::Statement | LineKind::Verb(_) | LineKind::Keyword("remark") => {
                    self.later.push(Later { line, scope: inside, depth });
                }
                LineKind::Keyword(word) => self.behaviour(word, line, &mut cursor, inside, diags),
                LineKind::Picture(word) => self.build.picture_word(word, line, inside),
                LineKind::Property(word) => self.build.property(word, inside, &mut cursor, diags),
                // `entry` and `exit` are points of a state; what is done there has words of its own.
                LineKind::Kind(_) if ours_line(&cursor.texts(), "states").is_some() => {
                    self.build.unknown_line(&cursor, diags);
                }
                LineKind::Kind(word) => {
                    cursor.word();
                    let kind = if word == "together" { Some(ElementKind::Bar) } else { ElementKind::from_word(word) };
                    self.state(line, kind.unwrap_or(ElementKind::State), &mut cursor, inside, diags);
                }
                LineKind::Text => self.state(line, ElementKind::State, &mut cursor, inside, diags),
                LineKind::Unknown => {
                    self.build.unknown_line(&cursor, diags);
                    let below = self.build.below_unknown(line);
                    self.declare(&below, inside, diags);
                }
            }
        }
    }

    fn state(
        &mut self, line: &'a Line, kind: ElementKind, cursor: &mut Cursor<'a>, inside: Option<ElementId>,
        diags: &mut Diagnostics,
    ) {
        let (ids, _) = self.build.declaration(kind, cursor, inside, diags);
        for id in ids {
            self.build.traits_as_properties(id);
            // The first one declared in a state is what `history` means there.
            if kind == ElementKind::History {
                self.pseudo.entry((inside, kind)).or_insert(id);
            }
            self.declare(&line.children, Some(id), diags);
        }
    }

    /// `arriving do "…"`, and internal transitions `on "…" do "…"`.
    fn behaviour(
        &mut self, word: &'static str, line: &'a Line, cursor: &mut Cursor<'a>, inside: Option<ElementId>,
        diags: &mut Diagnostics,
    ) {
        let Some(id) = inside else {
            diags.report(line.span, Message::OnlyInside { word, place: "a state" });
            return;
        };
        // The words of UML 2.5.1, 14.2.4.5.
        let text = match word {
            "arriving" | "staying" | "leaving" => {
                cursor.word();
                if cursor.eat("do").is_none() {
                    diags.report(cursor.span(), Message::Expected { what: "do \"…\"", after: word });
                }
                let label = cursor.expect_label("do", diags);
                cursor.finish(&[], diags);
                let (occasion, shown): (fn(Label) -> Occasion, &str) = match word {
                    "arriving" => (Occasion::Arriving, "entry"),
                    "leaving" => (Occasion::Leaving, "exit"),
                    _ => (Occasion::Staying, "do"),
                };
                label.map(|l| (format!("{shown} / {}", l.text()), occasion(l)))
            }
            _ => {
                let clauses = cursor.clauses(self.build.words.clauses, diags);
                if clauses.text("do").is_none() {
                    diags.report(line.span, Message::Expected { what: "do \"…\"", after: "the trigger" });
                }
                let transition = transition(&clauses);
                transition_label(&transition).map(|l| (l.text(), Occasion::Internal(transition)))
            }
        };
        cursor.leaf("a behaviour", diags);
        let Some((text, occasion)) = text else { return };
        if let Content::States(behaviours) = &mut self.build.diagram.content {
            behaviours.push(Behaviour { state: id, occasion, span: line.span });
        }
        let body = self.build.diagram.elements[id.index()].class.get_or_insert_with(|| Box::new(ClassBody::default()));
        if body.compartments.is_empty() {
            body.compartments.push(Compartment { title: None, members: Vec::new() });
        }
        body.compartments[0].members.push(Member::plain(text, line.span));
    }

    /// Reads a remark or a transition.
    fn line(&mut self, later: &Later<'a>, diags: &mut Diagnostics) {
        let mut cursor = self.build.cursor(later.line);
        match self.build.line_kind(&cursor) {
            LineKind::Keyword(_) => self.build.remark_element(&mut cursor, later.scope, diags),
            _ => self.transition(&mut cursor, later, diags),
        }
    }

    fn transition(&mut self, cursor: &mut Cursor<'a>, later: &Later<'a>, diags: &mut Diagnostics) {
        let (subjects, scope) = match (self.build.line_kind(cursor), later.scope) {
            (LineKind::Verb(_), Some(id)) => (vec![id], self.build.diagram.element(id).parent),
            (LineKind::Verb(verb), None) => {
                diags.report(cursor.line_span(), Message::SubjectMissing { verb: verb.to_owned() });
                return;
            }
            (_, scope) => {
                let set = cursor.set("", diags);
                (set.iter().filter_map(|end| self.end(&end.path, scope, ElementKind::Begin, diags)).collect(), scope)
            }
        };
        cursor.word();
        let set = cursor.set("becomes", diags);
        let objects: Vec<ElementId> =
            set.iter().filter_map(|end| self.end(&end.path, scope, ElementKind::Finish, diags)).collect();
        let clauses = cursor.clauses(self.build.words.clauses, diags);
        let pairs = subjects.len() * objects.len();
        for (a, b) in subjects.iter().flat_map(|a| objects.iter().map(move |b| (*a, *b))) {
            if a == b && pairs > 1 {
                continue;
            }
            if !self.build.has_room_for_relation(cursor.line_span(), diags) {
                break;
            }
            let id = self.build.relate(a, b, Verb::Becomes, cursor.line_span());
            let relation = &mut self.build.diagram.relations[id.index()];
            let transition = transition(&clauses);
            relation.label = transition_label(&transition);
            relation.traits = clauses.traits.clone();
            relation.written_in = later.scope;
            relation.transition = Some(Box::new(transition));
        }
        self.build.remarks_under(later.line, subjects.first().copied(), "a transition", diags);
    }

    /// The state at an end: a pseudo-state of its scope, a declared state, or one that comes into being.
    /// `allowed` is the terminal that may stand at this end.
    fn end(
        &mut self, path: &Path, scope: Option<ElementId>, allowed: ElementKind, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        let last = &path.names[path.names.len() - 1];
        let kind = match last.text.as_str() {
            _ if last.by_label || last.quoted => None,
            "begin" => Some(ElementKind::Begin),
            "finish" => Some(ElementKind::Finish),
            "history" => Some(ElementKind::History),
            _ => None,
        };
        if let Some(kind) = kind {
            if matches!(kind, ElementKind::Begin | ElementKind::Finish) && kind != allowed {
                diags.report(path.span, Message::WrongTerminal { word: kind.word() });
                return None;
            }
            let owner = match path.names.split_last() {
                Some((_, [])) => scope,
                Some((_, names)) => {
                    let path = Path { names: names.to_vec(), span: path.span };
                    Some(self.build.existing(&path, scope, diags)?)
                }
                None => scope,
            };
            return self.pseudo(owner, kind, path.span, diags);
        }
        self.build.resolve_in(path, scope, scope, diags)
    }

    fn pseudo(
        &mut self, owner: Option<ElementId>, kind: ElementKind, span: Span, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        if let Some(id) = self.pseudo.get(&(owner, kind)) {
            return Some(*id);
        }
        let draft = Draft { parent: owner, ..Draft::bare(kind, "", span) };
        let id = self.build.add(draft, diags)?;
        self.pseudo.insert((owner, kind), id);
        Some(id)
    }
}

/// When a transition happens, and what it does.
fn transition(clauses: &Clauses) -> Transition {
    let text = |word: &str| clauses.text(word).cloned();
    Transition { label: clauses.label.clone(), trigger: text("on"), guard: text("when"), effect: text("do") }
}

/// `trigger [guard] / effect` (UML 2.5.1, 14.2.4.9), after a label if there is one.
fn transition_label(transition: &Transition) -> Option<Label> {
    let mut runs: Vec<Run> = Vec::new();
    let mut span: Option<Span> = None;
    let parts = [
        (&transition.label, "", ""),
        (&transition.trigger, "", ""),
        (&transition.guard, "[", "]"),
        (&transition.effect, "/ ", ""),
    ];
    for (label, before, after) in parts {
        let Some(label) = label else { continue };
        let gap = if runs.is_empty() { "" } else { " " };
        let plain = |text: String| Run { text, style: RunStyle::Plain };
        runs.extend(Some(plain(format!("{gap}{before}"))).filter(|r| !r.text.is_empty()));
        runs.extend(label.runs.iter().cloned());
        runs.extend(Some(plain(after.to_owned())).filter(|r| !r.text.is_empty()));
        span = Some(span.map_or(label.span, |s| s.to(label.span)));
    }
    span.map(|span| Label::of(runs, span))
}

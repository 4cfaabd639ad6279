//! Relations of a drawing: lifted to the nearest visible elements, and those that then say the same merged into one.

use super::view::RelationView;
use crate::model::{Diagram, DiagramKind, ElementId, Rare, Relation, RelationId, Step, Verb};
use crate::syntax::Trait;
use crate::syntax::{Label, Run, RunStyle};
use std::collections::{BTreeSet, HashMap, HashSet};

/// What stands for each element in a drawing: its number there, and whether it is the element itself.
pub(super) struct Standing {
    by_element: Vec<Option<(ElementId, bool)>>,
    /// The elements of the drawing, in its order.
    shown: Vec<ElementId>,
    /// Whether the relations of an element are drawn; else only those that the other end draws.
    leading: Vec<bool>,
}

impl Standing {
    pub(super) fn new(by_element: Vec<Option<(ElementId, bool)>>, leading: Vec<bool>) -> Self {
        let itself = by_element.iter().zip(0..).filter(|(s, _)| s.is_some_and(|(_, itself)| itself));
        let shown = itself.map(|(_, id)| ElementId(id)).collect();
        Self { by_element, shown, leading }
    }

    /// The key of what has this number in the drawing.
    fn key<'d>(&self, diagram: &'d Diagram, number: ElementId) -> &'d str {
        &diagram.element(self.shown[number.index()]).key
    }

    /// The number of what stands for an element.
    fn of(&self, id: ElementId) -> Option<ElementId> {
        self.by_element[id.index()].map(|(number, _)| number)
    }

    fn is_itself(&self, id: ElementId) -> bool {
        self.by_element[id.index()].is_some_and(|(_, itself)| itself)
    }
}

/// Messages as relations: those between the same two, in the same direction, share a line.
pub(super) fn numbered_steps(diagram: &Diagram, steps: &[Step], standing: &Standing) -> Vec<(Relation, RelationView)> {
    let mut out: Vec<(Relation, RelationView)> = Vec::new();
    let mut place: HashMap<(ElementId, ElementId), usize> = HashMap::new();
    let span = diagram.span;
    for (n, step) in (1..).zip(steps) {
        let (Some(from), Some(to)) = (standing.of(step.from), standing.of(step.to)) else { continue };
        if from == to {
            continue;
        }
        let mut runs = vec![Run { text: step.number.clone(), style: RunStyle::Strong }];
        if let Some(label) = &step.label {
            runs.push(Run { text: " ".into(), style: RunStyle::Plain });
            runs.extend(label.runs.iter().cloned());
        }
        if let Some(at) = place.get(&(from, to)) {
            let (there, behind) = &mut out[*at];
            let label = there.label.get_or_insert_with(|| Label::of(Vec::new(), span));
            label.runs.push(Run { text: "\n".into(), style: RunStyle::Plain });
            label.runs.extend(runs);
            behind.spans.push(step.span);
            behind.steps.push(n);
            continue;
        }
        place.insert((from, to), out.len());
        let key = |id: ElementId| diagram.element(id).key.clone();
        let relation = Relation {
            key: format!("{} calls {}", key(step.from), key(step.to)),
            label: Some(Label::of(runs, span)),
            ..Relation::between(from, to, Verb::Calls, step.span)
        };
        out.push((relation, RelationView { spans: vec![step.span], steps: vec![n], ..RelationView::default() }));
    }
    out
}

/// Lifts relations to visible ends and merges those that then say the same. A relation of which an end is hidden is left
/// out, and so is one whose ends are hidden in the same element.
pub(super) fn relations(diagram: &Diagram, standing: &Standing) -> Vec<(Relation, RelationView)> {
    let mut out: Vec<(Relation, RelationView)> = Vec::new();
    let mut merged: HashMap<(ElementId, ElementId), usize> = HashMap::new();
    // Which relations stand behind each of them.
    let mut behind: Vec<Vec<&Relation>> = Vec::new();
    // What `never uses` forbids is drawn only where something breaks it.
    let broken: BTreeSet<RelationId> = diagram.breaches().into_iter().map(|(rule, _)| rule).collect();
    let is_drawn =
        |(id, r): &(RelationId, &Relation)| r.verb != Verb::Runs && (r.verb != Verb::NeverUses || broken.contains(id));
    for (_, relation) in (0..).map(RelationId).zip(&diagram.relations).filter(is_drawn) {
        let (Some(from), Some(to)) = (standing.of(relation.from), standing.of(relation.to)) else { continue };
        let direct = [relation.from, relation.to].map(|end| standing.is_itself(end));
        let is_direct = direct == [true; 2];
        let is_inside = from == to && !(is_direct && relation.from == relation.to);
        if is_inside || !standing.leading[relation.from.index()] && !standing.leading[relation.to.index()] {
            continue;
        }
        let alone = is_direct && (relation.verb == Verb::NeverUses || diagram.kind != DiagramKind::Architecture);
        if !alone && let Some(at) = merged.get(&(from, to)) {
            behind[*at].push(relation);
            continue;
        }
        if !alone {
            merged.insert((from, to), out.len());
        }
        let mut own = Relation { from, to, ..relation.clone() };
        // What is said at an end holds for that element, not for what is around it.
        own.ends.iter_mut().zip(direct).filter(|(_, direct)| !direct).for_each(|(end, _)| *end = Rare::default());
        let stands_for = if is_direct { Vec::new() } else { vec![relation.key.clone()] };
        out.push((own, RelationView { stands_for, ..RelationView::default() }));
        behind.push(vec![relation]);
    }
    for ((relation, own), parts) in out.iter_mut().zip(behind).filter(|(_, parts)| parts.len() > 1) {
        own.spans = parts.iter().map(|r| r.span).collect();
        own.stands_for = parts.iter().map(|r| r.key.clone()).collect();
        merge(relation, &parts);
    }
    rename(&mut out, |number| standing.key(diagram, number));
    out
}

/// Gives relations that stand for others keys of their own ends.
fn rename<'a>(relations: &mut [(Relation, RelationView)], key: impl Fn(ElementId) -> &'a str) {
    let mut taken: HashSet<String> =
        relations.iter().filter(|(_, own)| own.stands_for.is_empty()).map(|(r, _)| r.key.clone()).collect();
    for (relation, _) in relations.iter_mut().filter(|(_, own)| !own.stands_for.is_empty()) {
        let wanted = format!("{} {} {}", key(relation.from), relation.verb.word(), key(relation.to));
        let mut counted = (2..).map(|n| format!("{wanted} ({n})"));
        relation.key =
            if taken.contains(&wanted) { counted.find(|k| !taken.contains(k)) } else { None }.unwrap_or(wanted);
        taken.insert(relation.key.clone());
    }
}

/// One line for several relations says both labels if there are two, else how many they are.
fn merge(relation: &mut Relation, parts: &[&Relation]) {
    let mut texts: Vec<String> = Vec::new();
    for label in parts.iter().filter_map(|r| r.label.as_ref()) {
        let text = label.text();
        if !texts.contains(&text) {
            texts.push(text);
        }
        if texts.len() > 2 {
            break;
        }
    }
    let count = parts.len();
    let text = match texts.as_slice() {
        [] => format!("{count} relations"),
        [one] => format!("{one} × {count}"),
        [one, two] if count == 2 => format!("{one}, {two}"),
        [first, ..] => format!("{first} and {} more", count - 1),
    };
    relation.label = Some(Label::plain(text, relation.span));
    if parts.iter().any(|p| p.over != relation.over) {
        relation.over = None;
    }
    if parts.iter().any(|p| p.verb != relation.verb) {
        relation.verb = Verb::Uses;
    }
    relation.traits.retain(|t| parts.iter().all(|p| p.traits.iter().any(|other| is_same(t, other))));
}

/// Whether two traits say the same, wherever they were written.
fn is_same(a: &Trait, b: &Trait) -> bool {
    a.word.value == b.word.value && a.values.iter().map(|v| &v.value).eq(b.values.iter().map(|v| &v.value))
}

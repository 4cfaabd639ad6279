//! Sheets: one of several drawings of an architecture. Input: a diagram and a [`Sheet`]. Output: the
//! diagram that the sheet shows. What is hidden inside a closed element is lifted: its relations
//! become relations of the nearest visible element around it, and several become one.

use super::{
    Diagram, DiagramKind, Element, ElementId, ElementKind, EndText, Hint, Picture, Relation, RelationId, Sheet,
    ShownMembers, Step, Verb,
};
use crate::syntax::{Label, Run, RunStyle};
use std::collections::{BTreeMap, BTreeSet};

/// The diagram that a sheet shows.
pub fn lift(diagram: &Diagram, sheet: &Sheet) -> Diagram {
    if sheet.by_hosts {
        return by_hosts(diagram, sheet);
    }
    let (mut out, numbers) = lifted(diagram, sheet.follow.as_deref(), &visible(diagram, sheet));
    under_sheet(&mut out, sheet, &numbers);
    let bodies = out.elements.iter_mut().filter_map(|e| e.class.as_mut());
    for body in bodies.filter(|_| sheet.members != ShownMembers::All) {
        body.compartments.iter_mut().for_each(|c| c.members.retain(|m| sheet.members.shows(m)));
        body.compartments.retain(|c| !c.members.is_empty());
    }
    out
}

/// Whether a sheet shows no element.
pub fn shows_nothing(diagram: &Diagram, sheet: &Sheet) -> bool {
    match sheet.by_hosts {
        true => !has_hosts(diagram),
        false => visible(diagram, sheet).is_empty(),
    }
}

/// Gives a diagram what its sheet says: name, title, and words about the picture.
fn under_sheet(out: &mut Diagram, sheet: &Sheet, numbers: &Numbers) {
    (out.name, out.title, out.line) = (sheet.name.clone(), sheet.title.clone(), sheet.line);
    out.tell = sheet.tell;
    let inherited = std::mem::take(&mut out.picture);
    let own = renumbered(&sheet.picture.hints, numbers);
    let hints = inherited.hints.iter().cloned().chain(own).collect();
    out.picture = Picture { hints, ..merged(&sheet.picture, &inherited) };
}

/// The numbers that elements of a diagram have in a drawing of it.
type Numbers = BTreeMap<ElementId, ElementId>;

/// The hints about elements that a drawing shows.
fn renumbered(hints: &[Hint], numbers: &Numbers) -> Vec<Hint> {
    let shown = hints.iter().filter_map(|hint| {
        let wish = hint.wish.renumbered(|id| numbers.get(&id).copied())?;
        Some(Hint { wish, span: hint.span })
    });
    shown.collect()
}

/// What an architecture's own picture shows: its elements, without its hosts. Other diagrams are shown whole.
pub fn without_hosts(diagram: &Diagram) -> Diagram {
    if diagram.kind != DiagramKind::Architecture || !has_hosts(diagram) {
        return diagram.clone();
    }
    let shown = diagram.ids().map(|(id, _)| id).filter(|id| !is_hosting(diagram, *id)).collect();
    lifted(diagram, None, &shown).0
}

/// Whether there is a second tree, of zones and hosts.
fn has_hosts(diagram: &Diagram) -> bool {
    diagram.elements.iter().any(|e| matches!(e.kind, ElementKind::Zone | ElementKind::Host))
}

/// Words about the picture: those of the sheet, else those of its diagram.
fn merged(own: &Picture, inherited: &Picture) -> Picture {
    Picture {
        caption: own.caption.clone(),
        legend: own.legend || inherited.legend,
        heading: own.heading.clone().or_else(|| inherited.heading.clone()),
        arrangement: own.arrangement.clone().or_else(|| inherited.arrangement.clone()),
        routing: own.routing.clone().or_else(|| inherited.routing.clone()),
        spacing: own.spacing.clone().or_else(|| inherited.spacing.clone()),
        hints: Vec::new(),
    }
}

/// Whether an element belongs to the second tree, of zones and hosts.
fn is_hosting(diagram: &Diagram, id: ElementId) -> bool {
    let hosting = |id: ElementId| matches!(diagram.element(id).kind, ElementKind::Zone | ElementKind::Host);
    hosting(id) || diagram.ancestors(id).any(hosting)
}

/// Hosts inside zones, and on each what it runs, with the relations between what is run.
fn by_hosts(diagram: &Diagram, sheet: &Sheet) -> Diagram {
    let hosting: BTreeSet<ElementId> = diagram.ids().map(|(id, _)| id).filter(|id| is_hosting(diagram, *id)).collect();
    let (mut out, numbers) = lifted(diagram, None, &hosting);
    under_sheet(&mut out, sheet, &numbers);
    let mut placed: BTreeMap<ElementId, Vec<ElementId>> = BTreeMap::new();
    for runs in diagram.relations.iter().filter(|r| r.verb == Verb::Runs) {
        let Some(host) = numbers.get(&runs.from) else { continue };
        let service = diagram.element(runs.to);
        let count = runs.traits.iter().find(|t| t.word.value == "count").and_then(|t| t.values.first());
        let mut label = service.shown();
        label.runs.extend(count.map(|n| Run { text: format!(" × {}", n.value), style: RunStyle::Plain }));
        let key = format!("{} runs {}", out.element(*host).key, service.key);
        placed.entry(runs.to).or_default().push(ElementId(out.elements.len() as u32));
        let label = Some(label);
        let line = runs.line;
        out.elements.push(Element { key, label, line, parent: Some(*host), ..service.clone() });
    }
    // A relation is drawn between what runs, or what runs the nearest element around its end.
    let runs_of = |id: ElementId| {
        std::iter::once(id).chain(diagram.ancestors(id)).find_map(|i| placed.get(&i)).map_or(&[][..], Vec::as_slice)
    };
    let mut drawn = BTreeSet::new();
    let mut counts: BTreeMap<(ElementId, ElementId, Verb), u32> = BTreeMap::new();
    for relation in diagram.relations.iter().filter(|r| !matches!(r.verb, Verb::Runs | Verb::NeverUses)) {
        for (from, to) in runs_of(relation.from).iter().flat_map(|a| runs_of(relation.to).iter().map(|b| (*a, *b))) {
            if from != to && drawn.insert((from, to, relation.key.clone())) {
                let key = format!("{} {} {}", out.element(from).key, relation.verb.word(), out.element(to).key);
                let count = counts.entry((from, to, relation.verb)).or_insert(0);
                *count += 1;
                let key = if *count == 1 { key } else { format!("{key} ({count})") };
                out.relations.push(Relation { key, from, to, ..relation.clone() });
            }
        }
    }
    out
}

/// A diagram with some of its elements, and their numbers in it; relations are lifted to them.
fn lifted(diagram: &Diagram, steps: Option<&[Step]>, visible: &BTreeSet<ElementId>) -> (Diagram, Numbers) {
    let mut out = Diagram { elements: Vec::new(), relations: Vec::new(), ..diagram.clone() };
    let mut numbers = Numbers::new();
    for (id, element) in diagram.ids().filter(|(id, _)| visible.contains(id)) {
        let parent = diagram.ancestors(id).find(|p| visible.contains(p));
        numbers.insert(id, ElementId(out.elements.len() as u32));
        let parent = parent.and_then(|p| numbers.get(&p).copied());
        out.elements.push(Element { parent, ..element.clone() });
    }
    // A box is no level: it stands for what it holds only where it is closed.
    let opened: BTreeSet<ElementId> = visible.iter().filter_map(|id| diagram.element(*id).parent).collect();
    let is_open_box = |id: ElementId| diagram.element(id).kind.is_box() && opened.contains(&id);
    let shown = |id: ElementId| {
        let near = std::iter::once(id).chain(diagram.ancestors(id)).find(|i| visible.contains(i));
        near.filter(|i| *i == id || !is_open_box(*i)).and_then(|i| numbers.get(&i).copied())
    };
    out.relations = match steps {
        Some(steps) => numbered_steps(diagram, steps, shown),
        None => relations(diagram, shown),
    };
    out.picture.hints = renumbered(&diagram.picture.hints, &numbers);
    // What was lifted to a container of its other end is inside that one: nothing is left to draw.
    let relations = std::mem::take(&mut out.relations);
    let holds = |a: ElementId, b: ElementId| out.ancestors(b).any(|p| p == a);
    out.relations = relations.into_iter().filter(|r| !holds(r.from, r.to) && !holds(r.to, r.from)).collect();
    (out, numbers)
}

/// Messages as relations: those between the same two, in the same direction, share a line.
fn numbered_steps(diagram: &Diagram, steps: &[Step], shown: impl Fn(ElementId) -> Option<ElementId>) -> Vec<Relation> {
    let mut out: Vec<Relation> = Vec::new();
    let mut place: BTreeMap<(ElementId, ElementId), usize> = BTreeMap::new();
    let span = diagram.span;
    for step in steps {
        let (Some(from), Some(to)) = (shown(step.from), shown(step.to)) else { continue };
        if from == to {
            continue;
        }
        let mut runs = vec![Run { text: step.number.clone(), style: RunStyle::Strong }];
        if let Some(label) = &step.label {
            runs.push(Run { text: " ".into(), style: RunStyle::Plain });
            runs.extend(label.runs.iter().cloned());
        }
        if let Some(at) = place.get(&(from, to)) {
            let there = &mut out[*at];
            let label = there.label.get_or_insert_with(|| Label { runs: Vec::new(), span });
            label.runs.push(Run { text: "\n".into(), style: RunStyle::Plain });
            label.runs.extend(runs);
            there.lines.push(step.line);
            continue;
        }
        place.insert((from, to), out.len());
        let key = |id: ElementId| diagram.element(id).key.clone();
        out.push(Relation {
            key: format!("{} calls {}", key(step.from), key(step.to)),
            label: Some(Label { runs, span }),
            line: step.line,
            lines: vec![step.line],
            file: step.file.clone(),
            ..Relation::between(from, to, Verb::Calls, span)
        });
    }
    out
}

/// The elements that a sheet shows.
fn visible(diagram: &Diagram, sheet: &Sheet) -> BTreeSet<ElementId> {
    let mut open: BTreeSet<ElementId> = BTreeSet::new();
    for id in &sheet.open {
        open.insert(*id);
        open.extend(diagram.ancestors(*id));
    }
    let boxed = |id: ElementId| diagram.element(id).kind.is_box();
    let level = |id: ElementId| diagram.ancestors(id).filter(|p| !boxed(*p)).count() as u32;
    let levels = sheet.depth.unwrap_or(if sheet.open.is_empty() && sheet.focus.is_empty() { u32::MAX } else { 1 });
    let is_open =
        |id: ElementId| !sheet.close.contains(&id) && (boxed(id) || open.contains(&id) || level(id) + 1 < levels);
    let all = diagram.ids().map(|(id, _)| id).filter(|id| !is_hosting(diagram, *id));
    let is_set = sheet.shows_only_a_set();
    let mut shown: BTreeSet<ElementId> = all.filter(|id| !is_set && diagram.ancestors(*id).all(is_open)).collect();
    shown.extend(&sheet.show);
    if is_set {
        // With what the boxes among them hold, and the boxes around them.
        let boxes_around = |id: ElementId| diagram.ancestors(id).take_while(|a| boxed(*a));
        let is_held = |id: &ElementId| boxes_around(*id).any(|a| sheet.show.contains(&a));
        shown.extend(diagram.ids().map(|(id, _)| id).filter(is_held));
        shown.extend(sheet.show.iter().flat_map(|id| boxes_around(*id)));
    }
    if !sheet.focus.is_empty() {
        shown = in_focus(diagram, sheet, &shown);
    }
    if let Some(steps) = &sheet.follow {
        let parties = steps.iter().flat_map(|s| [s.from, s.to]);
        let reached: BTreeSet<ElementId> =
            parties.flat_map(|id| std::iter::once(id).chain(diagram.ancestors(id)).collect::<Vec<_>>()).collect();
        shown.retain(|id| reached.contains(id) || sheet.show.contains(id));
    }
    for id in &sheet.hide {
        shown.retain(|s| s != id && !diagram.ancestors(*s).any(|a| a == *id));
    }
    shown
}

/// The elements in focus, what they touch within their distance, and what is around those.
fn in_focus(diagram: &Diagram, sheet: &Sheet, shown: &BTreeSet<ElementId>) -> BTreeSet<ElementId> {
    let lifted = |id: ElementId| std::iter::once(id).chain(diagram.ancestors(id)).find(|i| shown.contains(i));
    let mut kept = BTreeSet::new();
    for (focus, distance) in &sheet.focus {
        let mut reached: BTreeSet<ElementId> = BTreeSet::from([*focus]);
        reached.extend(diagram.ids().map(|(id, _)| id).filter(|id| diagram.ancestors(*id).any(|a| a == *focus)));
        for _ in 0..*distance {
            let ends: Vec<(Option<ElementId>, Option<ElementId>)> =
                diagram.relations.iter().map(|r| (lifted(r.from), lifted(r.to))).collect();
            let inside = |id: &Option<ElementId>| id.is_some_and(|i| reached.contains(&i));
            let next: Vec<ElementId> =
                ends.iter().filter(|(a, b)| inside(a) || inside(b)).flat_map(|(a, b)| [*a, *b]).flatten().collect();
            reached.extend(next);
        }
        kept.extend(reached);
    }
    let around: Vec<ElementId> = kept.iter().flat_map(|id| diagram.ancestors(*id)).collect();
    kept.extend(around);
    shown.intersection(&kept).copied().collect()
}

/// Lifts relations to visible ends and merges those that then say the same.
fn relations(diagram: &Diagram, shown: impl Fn(ElementId) -> Option<ElementId>) -> Vec<Relation> {
    let mut out: Vec<Relation> = Vec::new();
    let mut merged: BTreeMap<(ElementId, ElementId), (usize, Vec<&Relation>)> = BTreeMap::new();
    // What `never uses` forbids is drawn only where something breaks it.
    let broken: BTreeSet<RelationId> = diagram.breaches().into_iter().map(|(rule, _)| rule).collect();
    let is_drawn = |(id, r): &(RelationId, &Relation)| match r.verb {
        Verb::Runs => false,
        Verb::NeverUses => broken.contains(id),
        _ => true,
    };
    for (_, relation) in (0..).map(RelationId).zip(&diagram.relations).filter(is_drawn) {
        let (Some(from), Some(to)) = (shown(relation.from), shown(relation.to)) else { continue };
        let direct = [relation.from, relation.to].map(|end| is_shown_itself(diagram, end, &shown));
        let is_direct = direct == [true; 2];
        if from == to && !(is_direct && relation.from == relation.to) {
            continue;
        }
        let mut own = Relation { from, to, ..relation.clone() };
        // What is said at an end holds for that element, not for what is around it.
        own.ends.iter_mut().zip(direct).filter(|(_, direct)| !direct).for_each(|(end, _)| *end = EndText::default());
        let alone = relation.verb == Verb::NeverUses || diagram.kind != DiagramKind::Architecture;
        if alone && is_direct {
            out.push(own);
            continue;
        }
        if let Some((_, parts)) = merged.get_mut(&(from, to)) {
            parts.push(relation);
            continue;
        }
        merged.insert((from, to), (out.len(), vec![relation]));
        out.push(own);
    }
    for (at, parts) in merged.into_values() {
        if parts.len() > 1 {
            merge(&mut out[at], &parts);
        }
    }
    out
}

/// Whether an element stands for itself, not something around it for it.
fn is_shown_itself(diagram: &Diagram, id: ElementId, shown: &impl Fn(ElementId) -> Option<ElementId>) -> bool {
    let parent = diagram.element(id).parent;
    shown(id).is_some() && (parent.is_none() || shown(id) != parent.and_then(shown))
}

/// One line for several relations says all their labels if there are two, else how many they are.
fn merge(relation: &mut Relation, parts: &[&Relation]) {
    relation.lines = parts.iter().map(|r| r.line).collect();
    let mut texts: Vec<String> = Vec::new();
    for label in parts.iter().filter_map(|r| r.label.as_ref()) {
        let text = label.text();
        if !texts.contains(&text) {
            texts.push(text);
        }
    }
    let text = match texts.as_slice() {
        [] => format!("{} relations", parts.len()),
        [one] => one.clone(),
        [one, two] => format!("{one}, {two}"),
        [first, rest @ ..] => format!("{first} and {} more", rest.len()),
    };
    relation.label = Some(Label::plain(text, relation.span));
    if parts.iter().any(|p| p.over != relation.over) {
        relation.over = None;
    }
}

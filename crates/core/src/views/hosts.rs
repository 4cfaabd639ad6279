//! `by hosts`: zones and hosts, and on each what it runs, with the relations between what is run.

use super::lift::{Drawn, lifted, under_sheet};
use super::view::{ElementView, RelationView, View};
use super::visible::{Shown, hosting};
use crate::model::{Diagram, Element, ElementId, Relation, Sheet, Verb};
use crate::syntax::{Run, RunStyle};
use crate::vocabulary::TraitWord;
use std::collections::{BTreeMap, BTreeSet};

/// Hosts inside zones, and on each what it runs, with the relations between what is run.
pub(super) fn by_hosts(diagram: &Diagram, sheet: &Sheet) -> View {
    let Drawn { mut view, numbers } = lifted(diagram, None, &Shown { elements: hosting(diagram), leading: None });
    under_sheet(&mut view, sheet, &numbers);
    let out = &mut view.diagram;
    let mut placed: BTreeMap<ElementId, Vec<ElementId>> = BTreeMap::new();
    for runs in diagram.relations.iter().filter(|r| r.verb == Verb::Runs) {
        let Some(host) = numbers[runs.from.index()] else { continue };
        let service = diagram.element(runs.to);
        let count = runs.traits.iter().find(|t| t.meaning() == Some(TraitWord::Count)).and_then(|t| t.values.first());
        let mut label = service.shown();
        label.runs.extend(count.map(|n| Run { text: format!(" × {}", n.value), style: RunStyle::Plain }));
        let key = format!("{} runs {}", out.element(host).key, service.key);
        placed.entry(runs.to).or_default().push(ElementId(out.elements.len() as u32));
        let label = Some(label);
        out.elements.push(Element { key, label, span: runs.span, parent: Some(host), ..service.clone() });
        view.elements.push(ElementView::default());
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
                view.relations.push(RelationView::default());
            }
        }
    }
    view
}

//! Two versions of a diagram as one, for a picture of what changed: the newer one, with what went still in it, and a mark
//! on everything that came, went, changed or moved. Marks differ in sign, in colour, and in how lines are drawn, so that no
//! one depends on colours; what is as it was is quieter.

use super::events::Events;
use super::matching::Matching;
use super::relations::Paired;
use super::{Details, Fate, relations};
use crate::model::{Diagram, Element, ElementId, Item, LookRule, Member, Relation, RelationId, Selector};
use crate::syntax::{Label, Trait};
use std::collections::{BTreeMap, BTreeSet};

/// One diagram made of two, with the rules that draw its marks.
#[derive(Clone, Debug)]
pub struct Marked {
    /// The diagram.
    pub diagram: Diagram,
    /// Rules for the marks; they come after all others.
    pub looks: Vec<LookRule>,
}

/// Words of traits with their values.
type Traits = &'static [(&'static str, &'static [&'static str])];

/// All fates, with their signs and traits. Colours are those of the theme.
const MARKS: [(Fate, &str, Traits); 4] = [
    (Fate::Came, "+", &[("fill", &["azure"]), ("line", &["azure", "thick"])]),
    (Fate::Went, "\u{2212}", &[("fill", &["coral"]), ("line", &["coral", "dashed"])]),
    (Fate::Changed, "\u{b1}", &[("fill", &["ochre"]), ("line", &["ochre", "thick"])]),
    (Fate::Moved, "\u{2192}", &[("fill", &["heather"]), ("line", &["heather", "thick"])]),
];

/// What the signs mean, for a caption.
const SIGNS: &str = "+ new  \u{b7}  \u{2212} gone  \u{b7}  \u{b1} changed  \u{b7}  \u{2192} moved";

fn tag(fate: Fate) -> String {
    // No name can be spelled so.
    format!("\u{1}{fate:?}")
}

/// Merges two versions of a diagram.
pub fn merged(old: &Diagram, new: &Diagram) -> Marked {
    let matched = Matching::of(old, new);
    let (then, now) = (Events::of(old), Events::of(new));
    let paired = Paired::of(old, new, &matched, &then, &now);
    let mut merge = Merge::new(old, new, &matched);
    // 1. What is there now.
    let mut fates: Vec<Option<Fate>> = Vec::new();
    for (n, element) in new.elements.iter().enumerate() {
        fates.push(match matched.to_old.get(&n) {
            None => Some(Fate::Came),
            Some(o) => Details::of(old, &old.elements[*o], new, element, &matched).fate(),
        });
    }
    let mut lines: Vec<Option<Fate>> = vec![None; new.relations.len()];
    paired.came.iter().for_each(|n| lines[*n] = Some(Fate::Came));
    for pair in paired.pairs.iter().filter(|p| relations::is_changed(old, new, **p, (&matched, &then, &now))) {
        lines[pair.1] = Some(Fate::Changed);
    }
    for (n, _) in super::events::moved(&then, &now, &paired.pairs) {
        lines[n] = lines[n].or(Some(Fate::Moved));
    }
    // 2. What went.
    let gone: Vec<usize> = (0..old.elements.len()).filter(|o| !matched.to_new.contains_key(o)).collect();
    gone.iter().for_each(|o| merge.add_element(*o));
    fates.resize(merge.out.elements.len(), Some(Fate::Went));
    paired.went.iter().for_each(|o| merge.add_relation(*o));
    lines.resize(merge.out.relations.len(), Some(Fate::Went));
    merge.add_messages(&paired);
    merge.add_members();
    // 3. Marks.
    let mut diagram = merge.out;
    for (element, fate) in diagram.elements.iter_mut().zip(&fates) {
        mark_element(element, *fate);
    }
    for (relation, fate) in diagram.relations.iter_mut().zip(&lines) {
        mark_relation(relation, *fate);
    }
    diagram.picture.hints.clear();
    let caption = diagram.picture.caption.as_ref().map_or(String::new(), |c| format!("{}\n", c.text()));
    diagram.picture.caption = Some(Label::plain(format!("{caption}{SIGNS}"), diagram.span));
    Marked { diagram, looks: MARKS.iter().map(|(fate, _, traits)| rule(*fate, traits)).collect() }
}

fn rule(fate: Fate, traits: Traits) -> LookRule {
    let traits = traits.iter().map(|(word, values)| Trait::of(word, values)).collect();
    LookRule { selector: Selector::Tag(tag(fate)), traits, span: Default::default() }
}

fn sign(fate: Fate) -> &'static str {
    MARKS.iter().find(|m| m.0 == fate).map_or("", |m| m.1)
}

/// A label with the sign before it.
fn signed(label: Option<&Label>, fate: Fate, span: crate::source::Span) -> Label {
    let text = label.map_or(String::new(), |l| format!(" {}", l.text()));
    Label::plain(format!("{}{text}", sign(fate)), span)
}

fn mark_element(element: &mut Element, fate: Option<Fate>) {
    let Some(fate) = fate else {
        element.context = true;
        return;
    };
    element.context = false;
    let own = ["fill", "line", "text"];
    element.traits.retain(|t| !own.contains(&t.word.value.as_str()));
    element.properties.tags.push(tag(fate));
    if !element.kind.is_mark() {
        element.label = Some(signed(Some(&element.shown()), fate, element.span));
    }
}

fn mark_relation(relation: &mut Relation, fate: Option<Fate>) {
    let Some(fate) = fate else { return };
    relation.traits.retain(|t| !["line", "text"].contains(&t.word.value.as_str()));
    relation.traits.push(Trait::of("tag", &[&tag(fate)]));
    relation.label = Some(signed(relation.label.as_ref(), fate, relation.span));
}

struct Merge<'a> {
    old: &'a Diagram,
    out: Diagram,
    matched: &'a Matching,
    /// The numbers of older elements here; those that went have theirs behind all others.
    numbers: Vec<ElementId>,
    /// Keys that are taken.
    keys: BTreeSet<String>,
}

impl<'a> Merge<'a> {
    fn new(old: &'a Diagram, new: &Diagram, matched: &'a Matching) -> Self {
        let mut behind = new.elements.len()..;
        let number = |o| matched.to_new.get(&o).copied().or_else(|| behind.next());
        let numbers = (0..old.elements.len()).filter_map(number).map(|n| ElementId(n as u32)).collect();
        let keys = new.elements.iter().map(|e| &e.key).chain(new.relations.iter().map(|r| &r.key));
        Self { old, out: new.clone(), matched, numbers, keys: keys.cloned().collect() }
    }

    fn number(&self, old: ElementId) -> ElementId {
        self.numbers[old.index()]
    }

    /// A key that nothing has yet.
    fn free_key(&mut self, key: &str) -> String {
        let mut own = key.to_owned();
        while !self.keys.insert(own.clone()) {
            own.push('\u{2032}');
        }
        own
    }

    fn add_element(&mut self, o: usize) {
        let mut element = self.old.elements[o].clone();
        element.parent = element.parent.map(|p| self.number(p));
        element.key = self.free_key(&element.key);
        self.out.elements.push(element);
    }

    fn add_relation(&mut self, o: usize) {
        let mut relation = self.old.relations[o].clone();
        (relation.from, relation.to) = (self.number(relation.from), self.number(relation.to));
        relation.key = self.free_key(&relation.key);
        self.out.relations.push(relation);
    }

    /// Puts messages that went where they were: behind the one before them.
    fn add_messages(&mut self, paired: &Paired) {
        let first = self.out.relations.len() - paired.went.len();
        let went = paired.went.iter().enumerate().map(|(i, o)| (*o, RelationId((first + i) as u32)));
        let kept = paired.pairs.iter().map(|(o, n)| (*o, RelationId(*n as u32)));
        let number: BTreeMap<usize, RelationId> = kept.chain(went).collect();
        let mut before: Option<RelationId> = None;
        for message in messages(&self.old.items) {
            let Item::Message { relation, returning, guard, within, .. } = message else { continue };
            let Some(now) = number.get(&relation.index()).copied() else { continue };
            if now.index() >= first {
                let item = Item::Message {
                    relation: now,
                    body: Vec::new(),
                    returning: returning.clone(),
                    guard: guard.clone(),
                    within: within.clone(),
                };
                match before {
                    Some(before) => drop(put_behind(&mut self.out.items, before, item)),
                    None => self.out.items.insert(0, item),
                }
            }
            before = Some(now);
        }
    }

    /// Members that came and went, in words behind them.
    fn add_members(&mut self) {
        for (o, n) in &self.matched.to_new {
            let (then, now) = (&self.old.elements[*o].class, &mut self.out.elements[*n].class);
            let (Some(then), Some(now)) = (then, now) else { continue };
            let texts = |members: &[Member]| members.iter().map(|m| m.text.clone()).collect::<BTreeSet<_>>();
            let before: BTreeSet<String> = then.compartments.iter().flat_map(|c| texts(&c.members)).collect();
            let after: BTreeSet<String> = now.compartments.iter().flat_map(|c| texts(&c.members)).collect();
            for member in now.compartments.iter_mut().flat_map(|c| &mut c.members) {
                if !before.contains(&member.text) {
                    member.text += "  (new)";
                }
            }
            for (i, compartment) in then.compartments.iter().enumerate() {
                let gone = compartment.members.iter().filter(|m| !after.contains(&m.text));
                let gone = gone.map(|m| Member { text: format!("{}  (gone)", m.text), ..m.clone() });
                let place = now.compartments.len().min(i + 1).checked_sub(1);
                match place {
                    Some(place) => now.compartments[place].members.extend(gone),
                    None => now.compartments.push(crate::model::Compartment { title: None, members: gone.collect() }),
                }
            }
        }
    }
}

/// All messages, in their order in time.
fn messages(items: &[Item]) -> Vec<&Item> {
    let mut out = Vec::new();
    for item in items {
        match item {
            Item::Message { body, .. } => {
                out.push(item);
                out.extend(messages(body));
            }
            Item::Fragment { operands, .. } => operands.iter().for_each(|o| out.extend(messages(&o.items))),
            _ => {}
        }
    }
    out
}

/// Puts an item behind a message, wherever that is; gives it back if there is no such message.
fn put_behind(items: &mut Vec<Item>, message: RelationId, mut new: Item) -> Option<Item> {
    let is_it = |i: &Item| matches!(i, Item::Message { relation, .. } if *relation == message);
    if let Some(at) = items.iter().position(is_it) {
        items.insert(at + 1, new);
        return None;
    }
    for item in items {
        match item {
            Item::Message { body, .. } => new = put_behind(body, message, new)?,
            Item::Fragment { operands, .. } => {
                for operand in operands {
                    new = put_behind(&mut operand.items, message, new)?;
                }
            }
            _ => {}
        }
    }
    Some(new)
}

//! Two versions of a diagram as one, for a picture of what changed: the newer one, with what was removed still in it, and a mark
//! on everything that was added, removed, changed or moved. Marks differ in sign, in colour, and in how lines are drawn, so that no
//! one depends on colours; what is as it was is quieter.

use super::change::Fate;
use super::events::Events;
use super::matching::Matching;
use super::relations::Paired;
use super::{elements, relations};
use crate::model::{Diagram, Element, ElementId, ElementKind, Event, LookRule, Member, Relation, RelationId, Selector};
use crate::syntax::{Label, Trait};
use crate::views::{ElementView, View};
use std::collections::{BTreeMap, BTreeSet};

/// One diagram made of two, with the rules that draw its marks.
#[derive(Clone, Debug)]
pub struct Marked {
    /// What is drawn.
    pub view: View,
    /// Rules for the marks; they come after all others.
    pub looks: Vec<LookRule>,
}

/// Words of traits with their values.
type Traits = &'static [(&'static str, &'static [&'static str])];

/// All fates, with their signs and traits. Colours are those of the theme.
const MARKS: [(Fate, &str, Traits); 4] = [
    (Fate::Added, "+", &[("fill", &["azure"]), ("line", &["azure", "thick"])]),
    (Fate::Removed, "\u{2212}", &[("fill", &["coral"]), ("line", &["coral", "dashed"])]),
    (Fate::Changed, "\u{b1}", &[("fill", &["ochre"]), ("line", &["ochre", "thick"])]),
    (Fate::Moved, "\u{2192}", &[("fill", &["heather"]), ("line", &["heather", "thick"])]),
];

/// What is compared: it decides the words.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sides {
    /// An older version and a newer one.
    Versions,
    /// What is drawn, and what there really is.
    Reality,
}

impl Sides {
    /// What the signs mean, for a caption.
    fn signs(self) -> &'static str {
        match self {
            Self::Versions => "+ new  \u{b7}  \u{2212} gone  \u{b7}  \u{b1} changed  \u{b7}  \u{2192} moved",
            Self::Reality => {
                "+ in reality only  \u{b7}  \u{2212} drawn only  \u{b7}  \u{b1} different  \u{b7}  \u{2192} elsewhere"
            }
        }
    }

    /// What stands behind a member that is on the second side only, and one that is on the first side only.
    fn only(self) -> [&'static str; 2] {
        match self {
            Self::Versions => ["(new)", "(gone)"],
            Self::Reality => ["(not drawn)", "(drawn only)"],
        }
    }
}

fn tag(fate: Fate) -> String {
    // No name can be spelled so.
    format!("\u{1}{fate:?}")
}

/// Merges two sides of a diagram.
pub fn merged(before: &View, after: &View, sides: Sides) -> Marked {
    let (old, new) = (&before.diagram, &after.diagram);
    let matched = Matching::of(old, new);
    let (then, now) = (Events::of(old), Events::of(new));
    let paired = Paired::of([old, new], &matched, [&then, &now]);
    let mut merge = Merge::new(old, new, &matched);
    // 1. What is there now.
    let mut fates: Vec<Option<Fate>> = Vec::new();
    for (n, element) in new.elements.iter().enumerate() {
        fates.push(match matched.to_old.get(&n) {
            None => Some(Fate::Added),
            Some(o) => elements::fate(&elements::differences([old, new], [&old.elements[*o], element], &matched)),
        });
    }
    let mut lines: Vec<Option<Fate>> = vec![None; new.relations.len()];
    paired.added.iter().for_each(|n| lines[*n] = Some(Fate::Added));
    let is_changed = |pair| !relations::all_differences([old, new], pair, &matched, [&then, &now]).is_empty();
    for pair in paired.pairs.iter().filter(|p| is_changed(**p)) {
        lines[pair.1] = Some(Fate::Changed);
    }
    for (n, _) in super::events::moved(&then, &now, &paired.pairs) {
        lines[n] = lines[n].or(Some(Fate::Moved));
    }
    // 2. What was removed.
    let gone: Vec<usize> = (0..old.elements.len()).filter(|o| !matched.to_new.contains_key(o)).collect();
    gone.iter().for_each(|o| merge.add_element(*o));
    fates.resize(merge.out.elements.len(), Some(Fate::Removed));
    paired.removed.iter().for_each(|o| merge.add_relation(*o));
    lines.resize(merge.out.relations.len(), Some(Fate::Removed));
    merge.add_messages(&paired);
    merge.add_members(sides.only());
    // 3. Marks.
    let mut diagram = merge.out;
    let mut own = after.elements.clone();
    own.extend(gone.iter().map(|o| before.elements[*o].clone()));
    for ((element, own), fate) in diagram.elements.iter_mut().zip(&mut own).zip(&fates) {
        mark_element(element, own, *fate);
    }
    for (relation, fate) in diagram.relations.iter_mut().zip(&lines) {
        mark_relation(relation, *fate);
    }
    diagram.picture.constraints.clear();
    let caption = diagram.picture.caption.as_ref().map_or(String::new(), |c| format!("{}\n", c.text()));
    diagram.picture.caption = Some(Label::plain(format!("{caption}{}", sides.signs()), diagram.span));
    let behind = |view: &View, at: &usize| view.relations[*at].clone();
    let relations = after.relations.iter().cloned().chain(paired.removed.iter().map(|o| behind(before, o))).collect();
    let view = View { diagram, elements: own, relations, tell: after.tell };
    Marked { view, looks: MARKS.iter().map(|(fate, _, traits)| rule(*fate, traits)).collect() }
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

fn mark_element(element: &mut Element, own: &mut ElementView, fate: Option<Fate>) {
    let Some(fate) = fate else {
        own.context = true;
        return;
    };
    own.context = false;
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
    /// The numbers of older elements here; those that were removed have theirs behind all others.
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

    /// Puts messages that were removed where they were: behind the one before them.
    fn add_messages(&mut self, paired: &Paired) {
        let first = self.out.relations.len() - paired.removed.len();
        let removed = paired.removed.iter().enumerate().map(|(i, o)| (*o, RelationId((first + i) as u32)));
        let kept = paired.pairs.iter().map(|(o, n)| (*o, RelationId(*n as u32)));
        let number: BTreeMap<usize, RelationId> = kept.chain(removed).collect();
        let mut before: Option<RelationId> = None;
        for message in messages(self.old.events()) {
            let Event::Message { relation, returning, guard, within, .. } = message else { continue };
            let Some(now) = number.get(&relation.index()).copied() else { continue };
            if now.index() >= first {
                let item = Event::Message {
                    relation: now,
                    body: Vec::new(),
                    returning: returning.clone(),
                    guard: guard.clone(),
                    within: within.clone(),
                };
                let Some(events) = self.out.events_mut() else { return };
                match before {
                    Some(before) => drop(put_behind(events, before, item)),
                    None => events.insert(0, item),
                }
            }
            before = Some(now);
        }
    }

    /// Members that were added and removed: columns and values with a sign before them, other members, whose signs tell who may use
    /// them, with words behind. What was removed stands behind what took its place.
    fn add_members(&mut self, [only_now, only_then]: [&str; 2]) {
        for (o, n) in &self.matched.to_new {
            let is_signed = matches!(self.out.elements[*n].kind, ElementKind::Table | ElementKind::Enum);
            let mark = |member: &mut Member, fate: Fate, words: &str| match is_signed {
                true => member.text.insert_str(0, &format!("{} ", sign(fate))),
                false => member.text += &format!("  {words}"),
            };
            let (then, now) = (&self.old.elements[*o].class, &mut self.out.elements[*n].class);
            let (Some(then), Some(now)) = (then, now) else { continue };
            let texts = |members: &[Member]| members.iter().map(Member::described).collect::<BTreeSet<_>>();
            let before: BTreeSet<String> = then.compartments.iter().flat_map(|c| texts(&c.members)).collect();
            let after: BTreeSet<String> = now.compartments.iter().flat_map(|c| texts(&c.members)).collect();
            let names: Vec<Vec<String>> =
                now.compartments.iter().map(|part| part.members.iter().map(Member::signature).collect()).collect();
            for member in now.compartments.iter_mut().flat_map(|c| &mut c.members) {
                if !before.contains(&member.described()) {
                    mark(member, Fate::Added, only_now);
                }
            }
            for (i, compartment) in then.compartments.iter().enumerate() {
                let gone = compartment.members.iter().filter(|m| !after.contains(&m.described()));
                for member in gone.rev() {
                    let mut own = member.clone();
                    mark(&mut own, Fate::Removed, only_then);
                    let name = member.signature();
                    let place = names
                        .iter()
                        .enumerate()
                        .find_map(|(part, names)| Some((part, names.iter().position(|own| *own == name)? + 1)));
                    let last = now.compartments.len().min(i + 1).checked_sub(1);
                    match place.or(last.map(|part| (part, names.get(part).map_or(0, Vec::len)))) {
                        Some((part, at)) => now.compartments[part].members.insert(at, own),
                        None => {
                            now.compartments.push(crate::model::Compartment { title: None, members: vec![own] });
                        }
                    }
                }
            }
        }
    }
}

/// All messages, in their order in time.
fn messages(items: &[Event]) -> Vec<&Event> {
    let mut out = Vec::new();
    for item in items {
        match item {
            Event::Message { body, .. } => {
                out.push(item);
                out.extend(messages(body));
            }
            Event::Fragment { operands, .. } => operands.iter().for_each(|o| out.extend(messages(&o.items))),
            _ => {}
        }
    }
    out
}

/// Puts an item behind a message, wherever that is; gives it back if there is no such message.
fn put_behind(items: &mut Vec<Event>, message: RelationId, mut new: Event) -> Option<Event> {
    let is_it = |i: &Event| matches!(i, Event::Message { relation, .. } if *relation == message);
    if let Some(at) = items.iter().position(is_it) {
        items.insert(at + 1, new);
        return None;
    }
    for item in items {
        match item {
            Event::Message { body, .. } => new = put_behind(body, message, new)?,
            Event::Fragment { operands, .. } => {
                for operand in operands {
                    new = put_behind(&mut operand.items, message, new)?;
                }
            }
            _ => {}
        }
    }
    Some(new)
}

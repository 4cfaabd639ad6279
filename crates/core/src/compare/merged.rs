//! Two versions of a diagram as one, for a picture of what changed: the newer one, with what was removed still in it, and a mark
//! on everything that was added, removed, changed or moved. Marks differ in sign, in colour, and in how lines are drawn, so that no
//! one depends on colours; what is as it was is quieter.

use super::change::Fate;
use super::events::{BothEvents, Events};
use super::matching::Matching;
use super::relations::Paired;
use super::{elements, lost, relations};
use crate::model::{
    Diagram, DiagramKind, Element, ElementId, ElementKind, LookRule, Member, Relation, RelationId, Selector,
};
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
const MARKS: [(Fate, &str, Traits); 5] = [
    (Fate::Added, "+", &[("fill", &["azure"]), ("line", &["azure", "thick"])]),
    (Fate::Removed, "\u{2212}", &[("fill", &["coral"]), ("line", &["coral", "dashed"])]),
    (Fate::Changed, "\u{b1}", &[("fill", &["ochre"]), ("line", &["ochre", "thick"])]),
    (Fate::Moved, "\u{2192}", &[("fill", &["heather"]), ("line", &["heather", "thick"])]),
    (Fate::Drawn, "\u{2248}", &[("line", &["thick"])]),
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
    /// What the signs of some fates mean, for a caption.
    fn signs(self, fates: &BTreeSet<Fate>) -> String {
        let words: Vec<String> = fates.iter().map(|fate| format!("{} {}", sign(*fate), self.word(*fate))).collect();
        words.join("  \u{b7}  ")
    }

    /// What a fate is called in a caption.
    fn word(self, fate: Fate) -> &'static str {
        match (self, fate) {
            (_, Fate::Drawn) => "drawn differently",
            (Self::Versions, Fate::Added) => "new",
            (Self::Versions, Fate::Removed) => "gone",
            (Self::Versions, Fate::Changed) => "changed",
            (Self::Versions, Fate::Moved) => "moved, from the dotted place",
            (Self::Reality, Fate::Added) => "in reality only",
            (Self::Reality, Fate::Removed) => "drawn only",
            (Self::Reality, Fate::Changed) => "different",
            (Self::Reality, Fate::Moved) => "elsewhere, drawn at the dotted place",
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

/// How many elements and relations of both sides together, and how many bytes of text, one picture may hold.
// Nobody follows more marks than this, and what both sides hold is drawn twice.
pub const MAX_MARKED: usize = 20_000;
/// See [`MAX_MARKED`].
pub const MAX_MARKED_TEXT: usize = 4 << 20;

/// Whether two sides of a diagram may be [`merged`].
pub fn fit_one_picture(sides: [&Diagram; 2]) -> bool {
    let things = |d: &Diagram| d.elements.len() + d.relations.len();
    let members = |e: &Element| -> usize { e.class.iter().flat_map(|c| c.members()).map(|m| m.text.len()).sum() };
    let text = |d: &Diagram| -> usize {
        d.elements.iter().map(|e| e.shown().text().len() + members(e)).sum::<usize>()
            + d.relations.iter().flat_map(|r| &r.label).map(|l| l.text().len()).sum::<usize>()
    };
    sides.into_iter().map(things).sum::<usize>() <= MAX_MARKED
        && sides.into_iter().map(text).sum::<usize>() <= MAX_MARKED_TEXT
}

/// Merges two sides of a diagram. `drawn` are the keys of elements and relations of the second side that are drawn differently
/// though they say the same.
pub fn merged(before: &View, after: &View, sides: Sides, drawn: &BTreeSet<String>) -> Marked {
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
            Some(o) => elements::fate(&elements::differences([old, new], [&old.elements[*o], element], &matched))
                .or_else(|| drawn.contains(&element.key).then_some(Fate::Drawn)),
        });
    }
    let mut lines: Vec<Option<Fate>> = vec![None; new.relations.len()];
    paired.added.iter().for_each(|n| lines[*n] = Some(Fate::Added));
    let events = BothEvents::of([&then, &now], &paired.pairs);
    let is_changed = |pair| !relations::all_differences([old, new], pair, &matched, &events).is_empty();
    for pair in paired.pairs.iter().filter(|p| is_changed(**p)) {
        lines[pair.1] = Some(Fate::Changed);
    }
    for (n, _) in events.moved() {
        lines[n] = lines[n].or(Some(Fate::Moved));
    }
    for (line, _) in lines.iter_mut().zip(&new.relations).filter(|(line, r)| line.is_none() && drawn.contains(&r.key)) {
        *line = Some(Fate::Drawn);
    }
    let was: Vec<Option<String>> = earlier_labels(old, new, &matched);
    let said: BTreeMap<usize, String> = earlier_words(old, new, &paired);
    // 2. What was removed.
    let gone: Vec<usize> = (0..old.elements.len()).filter(|o| !matched.to_new.contains_key(o)).collect();
    gone.iter().for_each(|o| merge.add_element(*o));
    fates.resize(merge.out.elements.len(), Some(Fate::Removed));
    paired.removed.iter().for_each(|o| merge.add_relation(*o));
    lines.resize(merge.out.relations.len(), Some(Fate::Removed));
    merge.add_messages(&paired);
    let of_members = merge.add_members(sides.only());
    let ghosts = merge.add_places_of_moved();
    let mut fates_there: BTreeSet<Fate> = fates.iter().chain(&lines).flatten().copied().collect();
    fates_there.extend(of_members);
    if !ghosts.is_empty() {
        fates_there.insert(Fate::Moved);
    }
    // 3. Marks.
    let mut diagram = merge.out;
    let mut own = after.elements.clone();
    own.extend(gone.iter().chain(&ghosts).map(|o| before.elements[*o].clone()));
    for (i, ((element, own), fate)) in diagram.elements.iter_mut().zip(&mut own).zip(&fates).enumerate() {
        mark_element(element, own, *fate, was.get(i).and_then(Option::as_ref));
    }
    for (element, own) in diagram.elements.iter_mut().zip(&mut own).skip(fates.len()) {
        mark_ghost(element, own);
    }
    for (i, (relation, fate)) in diagram.relations.iter_mut().zip(&lines).enumerate() {
        mark_relation(relation, *fate, said.get(&i));
    }
    diagram.picture.constraints.clear();
    let caption = diagram.picture.caption.as_ref().map_or(String::new(), |c| format!("{}\n", c.text()));
    diagram.picture.caption = Some(Label::plain(format!("{caption}{}", sides.signs(&fates_there)), diagram.span));
    let behind = |view: &View, at: &usize| view.relations[*at].clone();
    let relations = after.relations.iter().cloned().chain(paired.removed.iter().map(|o| behind(before, o))).collect();
    let view = View { diagram, elements: own, relations, tell: after.tell };
    let marks = MARKS.iter().map(|(fate, _, traits)| rule(tag(*fate), traits));
    Marked {
        view,
        looks: marks.chain([rule(GHOST.to_owned(), GHOST_LOOK), rule(QUIET.to_owned(), QUIET_LOOK)]).collect(),
    }
}

/// What is put behind a key that is taken.
// A prime: nobody names anything so.
pub(super) const ELSEWHERE: char = '\u{2032}';

/// The tag of a place that something moved away from, and of a line that is as it was.
// No name can be spelled so.
const GHOST: &str = "\u{1}ghost";
const QUIET: &str = "\u{1}quiet";
const GHOST_LOOK: Traits = &[("line", &["heather", "dotted"]), ("text", &["heather"])];
const QUIET_LOOK: Traits = &[("line", &["basalt", "thin"]), ("text", &["basalt"])];

fn rule(tag: String, traits: Traits) -> LookRule {
    let traits = traits.iter().map(|(word, values)| Trait::of(word, values)).collect();
    LookRule { selector: Selector::Tag(tag), traits, span: Default::default() }
}

/// What elements showed before, where they show something else now; by their numbers.
fn earlier_labels(old: &Diagram, new: &Diagram, matched: &Matching) -> Vec<Option<String>> {
    let shown = |e: &Element| e.shown().text();
    let was = |n: usize| matched.to_old.get(&n).map(|o| shown(&old.elements[*o]));
    (0..new.elements.len()).map(|n| was(n).filter(|was| !was.is_empty() && *was != shown(&new.elements[n]))).collect()
}

/// What relations said before, where they say something else now; by their numbers.
fn earlier_words(old: &Diagram, new: &Diagram, paired: &Paired) -> BTreeMap<usize, String> {
    let label = |r: &Relation| r.label.as_ref().map_or(String::new(), Label::text);
    let pairs = paired.pairs.iter().map(|(o, n)| (*n, &old.relations[*o], &new.relations[*n]));
    let differ = pairs.filter(|(_, a, b)| label(a) != label(b) && !label(a).is_empty());
    differ.map(|(n, a, _)| (n, label(a))).collect()
}

fn sign(fate: Fate) -> &'static str {
    MARKS.iter().find(|m| m.0 == fate).map_or("", |m| m.1)
}

/// A label with the sign before it, and what it was in a line of its own.
fn signed(label: Option<&Label>, fate: Fate, was: Option<&String>, span: crate::source::Span) -> Label {
    let text = label.map_or(String::new(), |l| format!(" {}", l.text()));
    let was = was.map_or(String::new(), |was| format!("\n(was: {})", was.replace('\n', " ")));
    Label::plain(format!("{}{text}{was}", sign(fate)), span)
}

fn mark_element(element: &mut Element, own: &mut ElementView, fate: Option<Fate>, was: Option<&String>) {
    let Some(fate) = fate else {
        own.context = true;
        return;
    };
    own.context = false;
    let own = ["fill", "line", "text"];
    element.traits.retain(|t| !own.contains(&t.word.value.as_str()));
    element.properties.tags.push(tag(fate));
    if !element.kind.is_mark() {
        element.label = Some(signed(Some(&element.shown()), fate, was, element.span));
    }
}

/// The place that something moved away from is seen, and no more.
fn mark_ghost(element: &mut Element, own: &mut ElementView) {
    own.context = true;
    element.traits.retain(|t| !["fill", "line", "text"].contains(&t.word.value.as_str()));
    element.properties.tags = vec![GHOST.to_owned()];
    element.class = None;
}

fn mark_relation(relation: &mut Relation, fate: Option<Fate>, was: Option<&String>) {
    relation.traits.retain(|t| !["line", "text"].contains(&t.word.value.as_str()));
    let Some(fate) = fate else {
        relation.traits.push(Trait::of("tag", &[QUIET]));
        return;
    };
    relation.traits.push(Trait::of("tag", &[&tag(fate)]));
    relation.label = Some(signed(relation.label.as_ref(), fate, was, relation.span));
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
            own.push(ELSEWHERE);
        }
        own
    }

    fn add_element(&mut self, o: usize) {
        let mut element = self.old.elements[o].clone();
        element.parent = element.parent.map(|p| self.number(p));
        element.key = self.free_key(&element.key);
        self.out.elements.push(element);
    }

    /// Puts what moved into something else also where it was, without what it holds; gives back the numbers in the older version.
    fn add_places_of_moved(&mut self) -> Vec<usize> {
        let place_now = |n: usize| self.out.elements[n].parent;
        let place_then = |o: usize| self.old.elements[o].parent.map(|p| self.number(p));
        let pairs = self.matched.to_new.iter();
        let moved: Vec<usize> = pairs.filter(|(o, n)| place_then(**o) != place_now(**n)).map(|(o, _)| *o).collect();
        // What something lies in that moved itself is where it was.
        let moved: Vec<usize> = moved
            .into_iter()
            .filter(|o| !self.old.elements[*o].kind.is_mark() && self.old.kind != DiagramKind::Sequence)
            .collect();
        for o in &moved {
            let mut ghost = self.old.elements[*o].clone();
            ghost.parent = ghost.parent.map(|p| self.number(p));
            ghost.key = self.free_key(&ghost.key);
            ghost.label = Some(ghost.shown());
            self.out.elements.push(ghost);
        }
        moved
    }

    fn add_relation(&mut self, o: usize) {
        let mut relation = self.old.relations[o].clone();
        (relation.from, relation.to) = (self.number(relation.from), self.number(relation.to));
        relation.key = self.free_key(&relation.key);
        self.out.relations.push(relation);
    }

    /// Puts messages that were removed where they were.
    fn add_messages(&mut self, paired: &Paired) {
        let first = self.out.relations.len() - paired.removed.len();
        let removed = paired.removed.iter().enumerate().map(|(i, o)| (*o, RelationId((first + i) as u32)));
        let kept = paired.pairs.iter().map(|(o, n)| (*o, RelationId(*n as u32)));
        let numbers: BTreeMap<usize, RelationId> = kept.chain(removed).collect();
        let mut gone = Vec::new();
        lost::places(self.old.events(), None, &|relation| numbers.get(&relation.index()).copied(), first, &mut gone);
        if let Some(events) = self.out.events_mut() {
            lost::put(events, gone);
        }
    }

    /// Members that were added and removed: columns and values with a sign before them, other members, whose signs tell who may use
    /// them, with words behind. What was removed stands behind what took its place. Gives back the signs that are there.
    fn add_members(&mut self, [only_now, only_then]: [&str; 2]) -> BTreeSet<Fate> {
        let mut signs = BTreeSet::new();
        for (o, n) in &self.matched.to_new {
            let is_signed = matches!(self.out.elements[*n].kind, ElementKind::Table | ElementKind::Enum);
            let mut mark = |member: &mut Member, fate: Fate, words: &str| {
                if is_signed {
                    member.text.insert_str(0, &format!("{} ", sign(fate)));
                    signs.insert(fate);
                } else {
                    member.text += &format!("  {words}");
                }
            };
            let (then, now) = (&self.old.elements[*o].class, &mut self.out.elements[*n].class);
            let (Some(then), Some(now)) = (then, now) else { continue };
            let texts = |members: &[Member]| members.iter().map(Member::described).collect::<BTreeSet<_>>();
            let before: BTreeSet<String> = then.compartments.iter().flat_map(|c| texts(&c.members)).collect();
            let after: BTreeSet<String> = now.compartments.iter().flat_map(|c| texts(&c.members)).collect();
            // The first place behind each name, and how many there are in each part.
            let mut behind: BTreeMap<String, (usize, usize)> = BTreeMap::new();
            for (part, compartment) in now.compartments.iter_mut().enumerate() {
                for (at, member) in compartment.members.iter_mut().enumerate() {
                    behind.entry(member.signature()).or_insert((part, at + 1));
                    if !before.contains(&member.described()) {
                        mark(member, Fate::Added, only_now);
                    }
                }
            }
            if now.compartments.is_empty() && then.members().next().is_some() {
                now.compartments.push(crate::model::Compartment { title: None, members: Vec::new() });
            }
            let counts: Vec<usize> = now.compartments.iter().map(|part| part.members.len()).collect();
            let mut gone: BTreeMap<(usize, usize), Vec<Member>> = BTreeMap::new();
            for (i, compartment) in then.compartments.iter().enumerate() {
                for member in compartment.members.iter().filter(|m| !after.contains(&m.described())) {
                    let mut own = member.clone();
                    mark(&mut own, Fate::Removed, only_then);
                    let last = i.min(counts.len().saturating_sub(1));
                    let place = behind.get(&member.signature()).copied().unwrap_or((last, counts[last]));
                    gone.entry(place).or_default().push(own);
                }
            }
            for (part, compartment) in now.compartments.iter_mut().enumerate() {
                let members = std::mem::take(&mut compartment.members);
                let mut members = members.into_iter();
                for at in 0..=counts[part] {
                    compartment.members.extend(gone.remove(&(part, at)).into_iter().flatten());
                    compartment.members.extend(members.next());
                }
            }
        }
        signs
    }
}

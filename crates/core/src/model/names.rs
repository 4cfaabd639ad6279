//! Finding elements by name. Input: a path of names, and where it is written. Output: a [`Lookup`]: a value, nothing is
//! reported here but by [`Names::expect`] and [`Names::report_resembling`], which say so. A name is looked up from the
//! innermost scope outwards, then in the rest of the block if it is unique there. Cost: as many steps as the path and the
//! scopes around it are long, however many elements bear the name.

use super::occurrences::{BlockId, Recorder, Role, Target};
use super::{Diagram, Element, ElementId, ElementKind};
use crate::diag::{Diagnostics, Message, Suggestion, suggest};
use crate::source::Span;
use crate::syntax::{Name, Path};
use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::collections::hash_map::Entry;

/// A map by names of a text.
// A text of 10,000 lines asks for 60,000 names. Each process seeds the hash with other numbers, so that nobody can write names that
// all fall into one place; nothing depends on the order of these maps.
pub(super) type Map<K, V> = HashMap<K, V, foldhash::fast::RandomState>;

/// What was found under a path.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Lookup {
    /// One element.
    Found(ElementId),
    /// None.
    Missing,
    /// Several, none of which is nearer than the others.
    Ambiguous(Vec<ElementId>),
}

impl Lookup {
    /// The element, if there is one.
    pub(super) fn found(self) -> Option<ElementId> {
        if let Lookup::Found(id) = self { Some(id) } else { None }
    }
}

/// The elements that bear one name, or one label.
#[derive(Debug, Default)]
struct Bearers {
    all: Vec<ElementId>,
    /// The same by what they lie in, once they are too many to look through.
    inside: Option<Box<Map<Option<ElementId>, Vec<ElementId>>>>,
}

/// This many elements of one name are looked through one by one.
// Below it a look at each is cheaper than a map of what they hold.
const FEW: usize = 8;

impl Bearers {
    fn add(&mut self, diagram: &Diagram, id: ElementId) {
        // What takes over the label of another is there already if it had the same one.
        if self.all.last() == Some(&id) {
            return;
        }
        self.all.push(id);
        if self.all.len() > FEW {
            let known = if self.inside.is_some() { self.all.len() - 1 } else { 0 };
            let inside = self.inside.get_or_insert_default();
            for id in &self.all[known..] {
                inside.entry(owner(diagram, *id)).or_default().push(*id);
            }
        }
    }

    /// Those that lie in an element, or at the level of the block.
    fn within<'s>(
        &'s self, diagram: &'s Diagram, holder: Option<ElementId>,
    ) -> impl Iterator<Item = ElementId> + use<'s> {
        let few = if self.inside.is_some() { &[][..] } else { &self.all };
        let few = few.iter().copied().filter(move |id| owner(diagram, *id) == holder);
        let inside = self.inside.as_ref().and_then(|inside| inside.get(&holder));
        few.chain(inside.into_iter().flatten().copied())
    }
}

/// Where a name stands in its path.
#[derive(Clone, Copy, PartialEq, Eq)]
enum NamePlace {
    Last,
    Before,
}

impl NamePlace {
    /// The place with this many names behind it.
    fn before(names: usize) -> Self {
        if names == 0 { Self::Last } else { Self::Before }
    }
}

/// Names that are declared in a block.
#[derive(Debug, Default)]
struct Declared {
    names: Vec<String>,
    /// Tables often bear the name of a class in small letters.
    tables: Vec<String>,
    /// This many elements of the block were looked at.
    seen: usize,
    is_sorted: bool,
}

impl Declared {
    /// Takes up the elements that came since the last time.
    fn catch_up(&mut self, diagram: &Diagram) {
        for element in diagram.elements[self.seen..].iter().filter(|e| !e.name.is_empty() && !e.implicit) {
            let names = if element.kind == ElementKind::Table { &mut self.tables } else { &mut self.names };
            names.push(element.name.clone());
            self.is_sorted = false;
        }
        self.seen = diagram.elements.len();
    }

    /// Puts each name once and in order, so that the same one is suggested every time.
    fn sort(&mut self) {
        if !std::mem::replace(&mut self.is_sorted, true) {
            for names in [&mut self.names, &mut self.tables] {
                // What was sorted before is found so at once.
                names.sort();
                names.dedup();
            }
        }
    }
}

/// Which elements bear a name, and what resembles an unknown one.
#[derive(Debug, Default)]
pub(crate) struct Names {
    by_name: Map<String, Bearers>,
    by_label: Map<String, Bearers>,
    /// For suggestions; most blocks have no unknown name, and never ask.
    declared: RefCell<Declared>,
    keys: Map<String, u32>,
    compared: Cell<usize>,
}

/// At most this many declared names are compared with an unknown one.
// Every one of them is compared letter by letter.
const SUGGESTIONS: usize = 5_000;
/// At most this many comparisons are made in a block; after that, unknown names come into being.
// The same for many unknown names in a block of many declared ones.
const COMPARISONS: usize = 1_000_000;

impl Names {
    /// The names of all elements of a diagram.
    pub(crate) fn of(diagram: &Diagram) -> Self {
        let mut names = Self::default();
        diagram.ids().for_each(|(id, _)| names.add(diagram, id));
        names
    }

    /// Takes up an element under its name and its label.
    pub(super) fn add(&mut self, diagram: &Diagram, id: ElementId) {
        let element = diagram.element(id);
        if !element.name.is_empty() {
            self.by_name.entry(element.name.clone()).or_default().add(diagram, id);
        }
        self.add_label(diagram, id);
    }

    /// Takes up an element under its label, once.
    pub(super) fn add_label(&mut self, diagram: &Diagram, id: ElementId) {
        if let Some(label) = &diagram.element(id).label {
            self.by_label.entry(label.text()).or_default().add(diagram, id);
        }
    }

    /// A key like `wanted` that no other element of the diagram has.
    pub(super) fn unique_key(&mut self, wanted: &str) -> String {
        let mut key = wanted.to_owned();
        loop {
            match self.keys.entry(key) {
                Entry::Vacant(free) => {
                    let key = free.key().clone();
                    free.insert(1);
                    return key;
                }
                Entry::Occupied(_) => {
                    let count = self.keys.entry(wanted.to_owned()).or_insert(0);
                    *count += 1;
                    key = format!("{wanted} ({count})");
                }
            }
        }
    }

    /// The element that a path names, seen from inside `scope`.
    pub(crate) fn find(&self, diagram: &Diagram, path: &Path, scope: Option<ElementId>) -> Lookup {
        let mut below = Vec::new();
        for holder in scopes(diagram, scope) {
            self.below(diagram, holder, path, &mut below);
            if let [only] = below[..] {
                return Lookup::Found(only);
            }
            below.clear();
        }
        self.anywhere(diagram, path)
    }

    /// The element that a path names; if there is none, or there are several, that is reported.
    pub(super) fn expect(
        &self, diagram: &Diagram, path: &Path, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        match self.find(diagram, path, scope) {
            Lookup::Found(id) => return Some(id),
            Lookup::Missing if self.report_resembling(diagram, path, diags) => {}
            Lookup::Missing => diags.report(path.span, Message::UnknownName { name: path.text(), suggestion: None }),
            Lookup::Ambiguous(found) => report_ambiguous(diagram, path, &found, diags),
        }
        None
    }

    /// The elements that a path names from what lies in `holder` on; at most two, since two are as many as more.
    fn below(&self, diagram: &Diagram, holder: Option<ElementId>, path: &Path, found: &mut Vec<ElementId>) {
        self.descend(diagram, holder, &path.names, found);
        // A path may start at the block's own name.
        if holder.is_none() && path.names.len() > 1 && path.names[0].text == diagram.name {
            self.descend(diagram, None, &path.names[1..], found);
        }
    }

    /// Adds the elements that a list of names leads to from what lies in `holder` on, until two are found.
    fn descend(&self, diagram: &Diagram, holder: Option<ElementId>, names: &[Name], found: &mut Vec<ElementId>) {
        let Some((first, rest)) = names.split_first() else { return };
        let here = self.bearers(first, NamePlace::before(rest.len())).flat_map(|b| b.within(diagram, holder));
        for id in here {
            if !rest.is_empty() {
                self.descend(diagram, Some(id), rest, found);
            } else if !found.contains(&id) {
                found.push(id);
            }
            if found.len() > 1 {
                break;
            }
        }
    }

    /// The elements that bear a name of a path: by name, or by label where it is written as one. The last name of a path
    /// that is written as a label is a label.
    fn bearers(&self, name: &Name, place: NamePlace) -> impl Iterator<Item = &Bearers> {
        let by_name = if name.by_label && place == NamePlace::Last { None } else { self.by_name.get(&name.text) };
        let by_label = if name.by_label { self.by_label.get(&name.text) } else { None };
        by_name.into_iter().chain(by_label)
    }

    /// The element that a path names anywhere in the block.
    fn anywhere(&self, diagram: &Diagram, path: &Path) -> Lookup {
        // Looked for from the rarest of its names: where that stands, its neighbours are few.
        let last = path.names.len() - 1;
        let count =
            |i: usize| self.bearers(&path.names[i], NamePlace::before(last - i)).map(|b| b.all.len()).sum::<usize>();
        let rarest = (0..=last).min_by_key(|i| count(*i)).unwrap_or(last);
        let starts = self.bearers(&path.names[rarest], NamePlace::before(last - rarest)).flat_map(|b| &b.all).copied();
        let (mut found, mut below) = (Vec::new(), Vec::new());
        for start in starts.filter(|id| matches(diagram, *id, &path.names[..=rarest])) {
            let rest = &path.names[rarest + 1..];
            if rest.is_empty() {
                add_new(&mut found, &[start]);
            } else {
                below.clear();
                self.descend(diagram, Some(start), rest, &mut below);
                add_new(&mut found, &below);
            }
            if found.len() > SHOWN {
                break;
            }
        }
        // From the block's own name on.
        if path.names[0].text == diagram.name && last > 0 {
            below.clear();
            self.descend(diagram, None, &path.names[1..], &mut below);
            add_new(&mut found, &below);
        }
        found.sort_unstable();
        match found.as_slice() {
            [] => Lookup::Missing,
            [only] => Lookup::Found(*only),
            _ => Lookup::Ambiguous(found),
        }
    }

    /// Reports an unknown name that resembles a declared one; says whether it does.
    pub(super) fn report_resembling(&self, diagram: &Diagram, path: &Path, diags: &mut Diagnostics) -> bool {
        let last = &path.names[path.names.len() - 1];
        if last.by_label {
            let is_affordable = self.take_up(self.by_label.len());
            let mut labels: Vec<&str> =
                if is_affordable { self.by_label.keys().map(String::as_str).collect() } else { Vec::new() };
            // So that the same one is suggested every time.
            labels.sort_unstable();
            let suggestion = suggest(&last.text, labels.into_iter().take(SUGGESTIONS));
            let suggestion = suggestion.map(|s| Suggestion { word: format!("\"{}\"", s.word), ..s });
            diags.report(path.span, Message::UnknownName { name: format!("\"{}\"", last.text), suggestion });
            return true;
        }
        let mut declared = self.declared.borrow_mut();
        declared.catch_up(diagram);
        if !self.take_up(declared.names.len() + declared.tables.len()) {
            return false;
        }
        declared.sort();
        let in_small = last.text.to_lowercase();
        let tables = declared.tables.iter().filter(|t| t.to_lowercase() != in_small);
        let names = declared.names.iter().chain(tables).map(String::as_str).take(SUGGESTIONS);
        let suggestion = suggest(&last.text, names).filter(|s| !differ_by_figures(&last.text, &s.word));
        let reported = suggestion.is_some() || path.names.len() > 1;
        if reported {
            diags.report(path.span, Message::UnknownName { name: path.text(), suggestion });
        }
        reported
    }

    /// Takes some comparisons out of what a block may cost; says whether there were any left.
    fn take_up(&self, count: usize) -> bool {
        let before = self.compared.get();
        self.compared.set(before + count.min(SUGGESTIONS));
        before + count.min(SUGGESTIONS) <= COMPARISONS
    }
}

/// The shortest path that names an element, seen from inside another: its name, or its label where it has no name, behind
/// the names of as much of what it lies in as makes it unique, and last the block's own. Where nothing does, all of them.
pub(crate) fn path_to(diagram: &Diagram, names: &Names, id: ElementId, scope: Option<ElementId>) -> Path {
    let span = Span::default();
    let mut path = Path { names: Vec::new(), span };
    for around in std::iter::successors(Some(id), |id| owner(diagram, *id)) {
        let element = diagram.element(around);
        let by_label = element.name.is_empty();
        let text = if by_label { element.shown().text() } else { element.name.clone() };
        path.names.insert(0, Name { text, span, by_label, quoted: false });
        if names.find(diagram, &path, scope) == Lookup::Found(id) {
            return path;
        }
    }
    // Something nearer bears all these names.
    path.names.insert(0, Name { text: diagram.name.clone(), span, by_label: false, quoted: false });
    if names.find(diagram, &path, scope) != Lookup::Found(id) {
        path.names.remove(0);
    }
    path
}

/// Adds those that are not there yet.
fn add_new(found: &mut Vec<ElementId>, more: &[ElementId]) {
    for id in more {
        if !found.contains(id) {
            found.push(*id);
        }
    }
}

/// An ambiguous name is reported with at most this many of the elements that it may mean.
// A message that names more is not read.
const SHOWN: usize = 32;

/// Reports a path that may mean several elements.
pub(super) fn report_ambiguous(diagram: &Diagram, path: &Path, found: &[ElementId], diags: &mut Diagnostics) {
    let candidates = found.iter().map(|id| diagram.element(*id).key.clone()).collect();
    diags.report(path.span, Message::AmbiguousName { name: path.text(), candidates });
}

/// `lamp2` is no mistyped `lamp1`.
fn differ_by_figures(a: &str, b: &str) -> bool {
    let stem = |s: &str| s.trim_end_matches(|c: char| c.is_ascii_digit()).to_owned();
    stem(a) == stem(b)
}

/// What an element lies in, groups and lanes not counted.
pub(super) fn owner(diagram: &Diagram, id: ElementId) -> Option<ElementId> {
    diagram.ancestors(id).find(|p| !diagram.element(*p).kind.is_box())
}

/// The scopes in which a name is looked for, innermost first; the last is the block.
fn scopes(diagram: &Diagram, scope: Option<ElementId>) -> impl Iterator<Item = Option<ElementId>> + '_ {
    std::iter::successors(scope, |id| owner(diagram, *id)).map(Some).chain([None])
}

/// Whether an element bears a name of a path.
fn bears(element: &Element, name: &Name) -> bool {
    element.name == name.text || name.by_label && element.label.as_ref().is_some_and(|l| l.text() == name.text)
}

/// Whether the path of an element ends with these names.
fn matches(diagram: &Diagram, id: ElementId, names: &[Name]) -> bool {
    let mut at = Some(id);
    for (i, name) in names.iter().rev().enumerate() {
        match at {
            Some(id) if bears(diagram.element(id), name) => at = owner(diagram, id),
            Some(_) => return false,
            // A path may start at the block's own name.
            None => return i + 1 == names.len() && diagram.name == name.text,
        }
    }
    true
}

/// Notes what each name of a path names, the element that it was found to mean and those around that one: whoever renames
/// one of them changes every path through it.
pub(super) fn note_path(diagram: &Diagram, path: &Path, id: ElementId, recorder: &Recorder<'_>) {
    let block = BlockId::of(diagram);
    let mut at = Some(id);
    for name in path.names.iter().rev() {
        let target = at.map_or(Target::Block(block), |id| Target::Element(block, id));
        // What was made of a range such as `lamp1..lamp4` stands at all of it.
        let span = if at == Some(id) && name.span.end != path.span.end { path.span } else { name.span };
        recorder.note(span, target, Role::Named);
        let Some(inner) = at else { return };
        at = owner(diagram, inner);
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

    /// What a path means, seen from inside the element of a key; the key of what it found, or what it is instead.
    fn found(diagram: &Diagram, path: &str, inside: Option<&str>) -> String {
        let names = Names::of(diagram);
        let by_key = |key: &str| diagram.ids().find(|(_, e)| e.key == key).map(|(id, _)| id);
        let name = |text: &str| {
            let by_label = text.starts_with('"');
            Name { text: text.trim_matches('"').to_owned(), span: Span::default(), by_label, quoted: false }
        };
        let path = Path { names: path.split('.').map(name).collect(), span: Span::default() };
        let scope = inside.map(|key| by_key(key).expect(key));
        match names.find(diagram, &path, scope) {
            Lookup::Found(id) => diagram.element(id).key.clone(),
            Lookup::Missing => "missing".to_owned(),
            Lookup::Ambiguous(all) => format!("{} of them", all.len()),
        }
    }

    fn harbour() -> Reading {
        reading(
            "architecture coast\n  system north \"North pier\"\n    part api\n    part log\n  system south\n    part api\n      part api\n  service log\n  service desk \"Duty desk\"\n",
        )
    }

    #[test]
    fn a_name_is_looked_up_from_the_inside_out() {
        let reading = harbour();
        let diagram = &reading.document.diagrams[0];
        assert_eq!(found(diagram, "api", Some("north")), "north.api");
        assert_eq!(found(diagram, "api", Some("south")), "south.api");
        assert_eq!(found(diagram, "api", Some("south.api")), "south.api.api");
        assert_eq!(found(diagram, "log", Some("north.api")), "north.log");
        assert_eq!(found(diagram, "log", Some("south.api")), "log", "at the level of the block");
        assert_eq!(found(diagram, "north", Some("south.api.api")), "north");
    }

    #[test]
    fn a_name_that_stands_elsewhere_is_found_if_it_is_the_only_one() {
        let reading = harbour();
        let diagram = &reading.document.diagrams[0];
        assert_eq!(found(diagram, "api", None), "3 of them");
        assert_eq!(found(diagram, "api.api", None), "south.api.api");
        assert_eq!(found(diagram, "south.api", Some("north")), "south.api");
        assert_eq!(found(diagram, "coast.log", None), "log", "a path may start at the block's own name");
        assert_eq!(found(diagram, "coast.north.log", Some("south")), "north.log");
        assert_eq!(found(diagram, "north.desk", None), "missing");
        assert_eq!(found(diagram, "coast", None), "missing", "the block itself is none of its elements");
    }

    #[test]
    fn a_label_is_a_name_in_quotes() {
        let reading = harbour();
        let diagram = &reading.document.diagrams[0];
        assert_eq!(found(diagram, "\"Duty desk\"", Some("south")), "desk");
        assert_eq!(found(diagram, "\"North pier\".log", None), "north.log");
        assert_eq!(found(diagram, "\"log\"", None), "missing", "a name is no label");
        assert_eq!(found(diagram, "Duty desk", None), "missing", "nor the other way round");
    }

    #[test]
    fn many_of_one_name_are_found_as_few_are() {
        // Beyond a few, they are known by what they lie in.
        for count in [FEW - 1, FEW, FEW + 1, 3 * FEW] {
            let systems = (0..count).map(|i| format!("  system s{i}\n    part api\n"));
            let reading = reading(&format!("architecture many\n{}", systems.collect::<String>()));
            let diagram = &reading.document.diagrams[0];
            for i in 0..count {
                assert_eq!(found(diagram, "api", Some(&format!("s{i}"))), format!("s{i}.api"));
                assert_eq!(found(diagram, &format!("s{i}.api"), None), format!("s{i}.api"));
            }
            assert_eq!(found(diagram, "api", None), format!("{} of them", count.min(SHOWN + 1)), "{count}");
        }
    }

    #[test]
    fn keys_are_counted_where_they_would_be_the_same() {
        let mut names = Names::default();
        let keys: Vec<String> = ["a", "a", "a (1)", "a", "b"].map(|wanted| names.unique_key(wanted)).to_vec();
        assert_eq!(keys[0], "a");
        assert_eq!(keys[4], "b");
        let different: std::collections::BTreeSet<&String> = keys.iter().collect();
        assert_eq!(different.len(), keys.len(), "{keys:?}");
    }

    #[test]
    fn the_shortest_path_leads_back_to_its_element() {
        let reading = harbour();
        let diagram = &reading.document.diagrams[0];
        let names = Names::of(diagram);
        let scopes = || std::iter::once(None).chain(diagram.ids().map(|(id, _)| Some(id)));
        for (id, element) in diagram.ids() {
            for scope in scopes() {
                let path = path_to(diagram, &names, id, scope);
                assert_eq!(names.find(diagram, &path, scope), Lookup::Found(id), "{} as {}", element.key, path.text());
                // With a name less it would mean something else, or nothing.
                let shorter = Path { names: path.names[1..].to_vec(), span: path.span };
                let means =
                    if shorter.names.is_empty() { Lookup::Missing } else { names.find(diagram, &shorter, scope) };
                assert_ne!(means, Lookup::Found(id), "{} is enough", shorter.text());
            }
        }
    }

    #[test]
    fn what_resembles_is_suggested_from_what_is_declared_by_then() {
        let messages = |text: &str| -> Vec<String> {
            reading(text).diagnostics.iter().map(|d| format!("{:?}", d.message)).collect()
        };
        let mistyped = "architecture a\n  service keeper\n  service harbour\n  keeper uses harbuor\n";
        assert!(messages(mistyped)[0].contains("harbour"), "{:?}", messages(mistyped));
        // What was only mentioned is no suggestion, and neither is a name that differs by its figure.
        assert!(messages("architecture a\n  lamp1 uses tower\n  lamp2 uses tower\n").is_empty());
        assert!(messages("architecture a\n  lamp uses tower\n  lamps uses tower\n").is_empty());
        // Of several that are equally near, always the same one.
        let several = "architecture a\n  service gauge_a\n  service gauge_c\n  gauge_b uses gauge_a\n";
        assert!((0..5).all(|_| messages(several) == messages(several)));
    }
}

//! What changed between two versions of a diagram. Input: two models. Output: [`Change`]s in words.
//!
//! Elements are matched by their keys, then by likeness; relations by ends, verb and order, then by what they have in
//! common. Order counts where it means something: in time. Guarantees: deterministic; comparing a diagram with itself, or
//! with the same one written otherwise, yields nothing.

mod events;
mod matching;
mod members;
mod merged;
mod relations;
mod sheets;
mod words;

pub use merged::{Marked, merged};

use crate::model::{Diagram, Document, Element, ElementId, Picture, Placing, Sheet, Wish};
use events::Events;
use matching::Matching;
use std::collections::{BTreeMap, BTreeSet};
use words::quoted;

/// What happened to a thing.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Fate {
    /// It is new.
    Came,
    /// It is no longer there.
    Went,
    /// It is there, and different.
    Changed,
    /// It is there as it was, in another place, or at another time.
    Moved,
}

/// What a change is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Subject {
    /// A whole diagram.
    Diagram,
    /// An element.
    Element,
    /// A relation or message.
    Relation,
    /// A fragment, a divider, a remark or a reference in a sequence.
    Event,
    /// A sheet.
    Sheet,
}

/// One change.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
pub struct Change {
    /// What happened.
    pub fate: Fate,
    /// To what sort of thing.
    pub subject: Subject,
    /// The thing's key in its diagram.
    pub id: String,
    /// One line: what it is.
    pub what: String,
    /// What is different, for changed things: one line each.
    pub details: Vec<String>,
    /// The change in sentences.
    pub says: Vec<String>,
    /// Its line in the newer text, or in the older one if it went.
    pub line: u32,
}

/// All changes of one diagram.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
pub struct Changes {
    /// The diagram's name.
    pub diagram: String,
    /// Its changes, in the order of the newer text.
    pub changes: Vec<Change>,
}

/// Compares two versions of several files: diagrams and sheets by their names, wherever they are.
/// Those without a change are left out.
pub fn documents<'a>(
    old: impl IntoIterator<Item = &'a Document>, new: impl IntoIterator<Item = &'a Document>,
) -> Vec<Changes> {
    let (old, new): (Vec<&Document>, Vec<&Document>) = (old.into_iter().collect(), new.into_iter().collect());
    let diagrams_of = |list: &[&'a Document]| -> Vec<&'a Diagram> { list.iter().flat_map(|d| &d.diagrams).collect() };
    let sheets_of = |list: &[&'a Document]| -> Vec<sheets::Told<'a>> {
        list.iter().flat_map(|d| d.sheets.iter().map(|s| sheets::Told { sheet: s, of: d.diagram(&s.of) })).collect()
    };
    let (then, now) = (sheets_of(&old), sheets_of(&new));
    let mut out = by_name(&diagrams_of(&old), &diagrams_of(&new), |d| &d.name, diagrams, whole);
    out.extend(by_name(
        &then.iter().collect::<Vec<_>>(),
        &now.iter().collect::<Vec<_>>(),
        |t| &t.sheet.name,
        sheets::compare,
        |t, fate| whole_sheet(t.sheet, fate),
    ));
    out
}

/// Pairs two lists by name and compares the pairs.
fn by_name<T>(
    old: &[&T], new: &[&T], name: fn(&T) -> &String, compare: fn(&T, &T) -> Vec<Change>, alone: fn(&T, Fate) -> Change,
) -> Vec<Changes> {
    let before: BTreeMap<&str, &T> = old.iter().map(|d| (name(d).as_str(), *d)).collect();
    let after: BTreeSet<&str> = new.iter().map(|d| name(d).as_str()).collect();
    let mut out = Vec::new();
    for item in new {
        let changes = match before.get(name(item).as_str()) {
            Some(old) => compare(old, item),
            None => vec![alone(item, Fate::Came)],
        };
        out.push(Changes { diagram: name(item).clone(), changes });
    }
    for item in old.iter().filter(|d| !after.contains(name(d).as_str())) {
        out.push(Changes { diagram: name(item).clone(), changes: vec![alone(item, Fate::Went)] });
    }
    out.retain(|c| !c.changes.is_empty());
    out
}

fn whole_sheet(sheet: &Sheet, fate: Fate) -> Change {
    let title = sheet.title.as_ref().map_or(String::new(), |t| format!(" \"{}\"", t.text()));
    let what = format!("sheet {} of {}{title}", sheet.name, sheet.of);
    let says = vec![words::alone(fate, &format!("sheet `{}` of `{}`", sheet.name, sheet.of))];
    Change { fate, subject: Subject::Sheet, id: sheet.name.clone(), what, details: Vec::new(), says, line: sheet.line }
}

fn whole(diagram: &Diagram, fate: Fate) -> Change {
    let title = diagram.title.as_ref().map_or(String::new(), |t| format!(" \"{}\"", t.text()));
    Change {
        fate,
        subject: Subject::Diagram,
        id: diagram.name.clone(),
        what: format!("{} {}{title}", diagram.kind.word(), diagram.name),
        details: vec![format!("{} elements, {} relations", diagram.elements.len(), diagram.relations.len())],
        says: vec![words::alone(fate, &format!("{} `{}`", diagram.kind.word(), diagram.name))],
        line: diagram.line,
    }
}

/// Compares two versions of one diagram.
pub fn diagrams(old: &Diagram, new: &Diagram) -> Vec<Change> {
    let mut changes = Vec::new();
    changes.extend(header(old, new));
    let matched = Matching::of(old, new);
    changes.extend(elements(old, new, &matched));
    let (before, after) = (Events::of(old), Events::of(new));
    changes.extend(relations::compare(old, new, &matched, &before, &after));
    changes.extend(before.others_against(&after));
    changes
}

/// Title, caption, heading.
fn header(old: &Diagram, new: &Diagram) -> Option<Change> {
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let mut details = Vec::new();
    differ(&mut details, "title", text(&old.title), text(&new.title));
    picture(&mut details, (&old.picture, Some(old)), (&new.picture, Some(new)));
    differ(&mut details, "kind", Some(old.kind.word().to_owned()), Some(new.kind.word().to_owned()));
    (!details.is_empty()).then(|| Change {
        fate: Fate::Changed,
        subject: Subject::Diagram,
        id: new.name.clone(),
        what: format!("{} {}", new.kind.word(), new.name),
        says: details.iter().map(|d| format!("the picture's {d}")).collect(),
        details,
        line: new.line,
    })
}

/// Words about the picture, each with the diagram whose elements it names.
fn picture(
    details: &mut Vec<String>, (old, then): (&Picture, Option<&Diagram>), (new, now): (&Picture, Option<&Diagram>),
) {
    let caption = |p: &Picture| p.caption.as_ref().map(|l| l.text());
    differ(details, "caption", caption(old), caption(new));
    let heading = |p: &Picture| p.heading.as_ref().map(|h| h.value.word().to_owned());
    differ(details, "heading", heading(old), heading(new));
    let arrangement = |p: &Picture| p.arrangement.as_ref().map(|a| a.value.word().to_owned());
    differ(details, "arrange", arrangement(old), arrangement(new));
    let routing = |p: &Picture| p.routing.as_ref().map(|r| r.value.word().to_owned());
    differ(details, "route", routing(old), routing(new));
    let spacing = |p: &Picture| p.spacing.as_ref().map(|s| s.value.to_string());
    differ(details, "spacing", spacing(old), spacing(new));
    let legend = |p: &Picture| p.legend.then(|| "drawn".to_owned());
    differ(details, "legend", legend(old), legend(new));
    let wishes = |p: &Picture, d: Option<&Diagram>| -> Vec<String> {
        let wish = |w: &Wish| d.map(|d| wished(d, w));
        p.hints.iter().filter_map(|h| wish(&h.wish)).collect()
    };
    details.extend(lists_differ("wish", &wishes(old, then), &wishes(new, now)));
}

/// `service gateway "Ingest gateway"`.
fn named(element: &Element) -> String {
    let name = if element.name.is_empty() { String::new() } else { format!(" {}", element.name) };
    let label = element.label.as_ref().map_or(String::new(), |l| format!(" \"{}\"", l.text().replace('\n', " ")));
    format!("{}{name}{label}", element.kind.word())
}

fn elements(old: &Diagram, new: &Diagram, matched: &Matching) -> Vec<Change> {
    let mut changes = Vec::new();
    let change = |fate, element: &Element, details, says| Change {
        fate,
        subject: Subject::Element,
        id: element.key.clone(),
        what: named(element),
        details,
        says,
        line: element.line,
    };
    let alone = |fate, element: &Element| {
        change(fate, element, Vec::new(), vec![words::alone(fate, &words::introduced(element))])
    };
    for (n, element) in new.elements.iter().enumerate() {
        let Some(o) = matched.to_old.get(&n) else {
            changes.push(alone(Fate::Came, element));
            continue;
        };
        let details = Details::of(old, &old.elements[*o], new, element, matched);
        if let Some(fate) = details.fate() {
            changes.push(change(fate, element, details.list, details.says));
        }
    }
    let gone = old.elements.iter().enumerate().filter(|(o, _)| !matched.to_new.contains_key(o));
    changes.extend(gone.map(|(_, element)| alone(Fate::Went, element)));
    changes
}

/// What differs between two versions of an element.
#[derive(Default)]
struct Details {
    list: Vec<String>,
    says: Vec<String>,
    is_moved: bool,
}

impl Details {
    /// What happened to the element, if anything did.
    fn fate(&self) -> Option<Fate> {
        match (self.list.len(), self.is_moved) {
            (0, _) => None,
            (1, true) => Some(Fate::Moved),
            _ => Some(Fate::Changed),
        }
    }

    fn of(old: &Diagram, a: &Element, new: &Diagram, b: &Element, matched: &Matching) -> Self {
        let mut out = Self::default();
        let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
        let some = |s: &str| (!s.is_empty()).then(|| s.to_owned());
        let (called, who) = (words::called(a), words::called(b));
        // 1. What it is, and where.
        if a.name != b.name {
            differ(&mut out.list, "name", some(&a.name), some(&b.name));
            out.says.push(match (a.name.as_str(), b.name.as_str()) {
                (_, "") => format!("{called} has no name any more"),
                ("", _) => format!("{called} has the name {who} now"),
                _ => format!("{called} is called {who} now"),
            });
        }
        if a.kind != b.kind {
            differ(&mut out.list, "kind", Some(a.kind.word().into()), Some(b.kind.word().into()));
            out.says.push(format!("{who} is a {} now, no longer a {}", b.kind.word(), a.kind.word()));
        }
        let is_moved = match (a.parent, b.parent) {
            (Some(p), Some(q)) => matched.to_new.get(&p.index()) != Some(&q.index()),
            (None, None) => false,
            _ => true,
        };
        if is_moved {
            let place = |d: &Diagram, e: &Element| e.parent.map(|p| words::called(d.element(p)));
            let key = |d: &Diagram, e: &Element| e.parent.map(|p| d.element(p).key.clone());
            differ(&mut out.list, "place", key(old, a), key(new, b));
            out.says.push(match (place(old, a), place(new, b)) {
                (Some(from), Some(to)) => format!("{who} moved from {from} into {to}"),
                (None, Some(to)) => format!("{who} moved into {to}"),
                (Some(from), None) => format!("{who} moved out of {from}"),
                (None, None) => format!("{who} moved"),
            });
            out.is_moved = !out.list.is_empty();
        }
        // 2. What is said of it.
        let mut rest = Vec::new();
        let (p, q) = (&a.properties, &b.properties);
        differ(&mut rest, "label", text(&a.label), text(&b.label));
        differ(&mut rest, "about", text(&p.about), text(&q.about));
        differ(&mut rest, "built", text(&p.built), text(&q.built));
        differ(&mut rest, "link", text(&p.link), text(&q.link));
        differ(&mut rest, "owner", text(&p.owner), text(&q.owner));
        differ(&mut rest, "code", text(&p.code), text(&q.code));
        let icon = |p: &crate::model::Properties| p.icon.as_ref().map(|i| i.value.clone());
        differ(&mut rest, "icon", icon(p), icon(q));
        differ(&mut rest, "tags", some(&p.tags.join(" ")), some(&q.tags.join(" ")));
        differ(&mut rest, "traits", some(&traits(&a.traits)), some(&traits(&b.traits)));
        out.says.extend(rest.iter().map(|d| format!("{who}: {d}")));
        out.list.extend(rest);
        // 3. Members.
        for change in members::compare(a, b) {
            out.says.push(change.sentence(&who));
            out.list.push(change.to_string());
        }
        out
    }
}

fn traits(list: &[crate::syntax::Trait]) -> String {
    let one = |t: &crate::syntax::Trait| {
        let values: Vec<&str> = t.values.iter().map(|v| v.value.as_str()).collect();
        format!("{} {}", t.word.value, values.join(" ")).trim_end().to_owned()
    };
    list.iter().map(one).collect::<Vec<_>>().join(", ")
}

/// A wish about the layout as it is written.
fn wished(diagram: &Diagram, wish: &Wish) -> String {
    let name = |id: &ElementId| diagram.element(*id).key.clone();
    let names = |ids: &[ElementId]| ids.iter().map(name).collect::<Vec<_>>().join(", ");
    match wish {
        Wish::Row(ids) => format!("row {}", names(ids)),
        Wish::Order(ids) => format!("order {}", names(ids)),
        Wish::Place(a, placing, b) => {
            let of = if matches!(placing, Placing::LeftOf | Placing::RightOf) { " of" } else { "" };
            format!("place {} {}{of} {}", name(a), placing.word(), name(b))
        }
        Wish::Pin(id, x, y) => format!("pin {} {x} {y}", name(id)),
        Wish::Heading(id, heading) => format!("heading {} in {}", heading.word(), name(id)),
    }
}

/// What is only in one of two lists.
fn lists_differ(what: &str, old: &[String], new: &[String]) -> Vec<String> {
    let only = |these: &[String], those: &[String]| -> Vec<String> {
        these.iter().filter(|t| !those.contains(t)).cloned().collect()
    };
    let went = only(old, new).into_iter().filter_map(|n| words::difference(what, Some(&n), None));
    let came = only(new, old).into_iter().filter_map(|n| words::difference(what, None, Some(&n)));
    went.chain(came).collect()
}

fn differ(details: &mut Vec<String>, what: &str, old: Option<String>, new: Option<String>) {
    details.extend(words::difference(what, old.as_deref(), new.as_deref()));
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline;
    use crate::source::Source;

    fn read(text: &str) -> Document {
        let reading = pipeline::read(Source::new("t.bathy", text), "t", &crate::pipeline::Setting::default());
        assert!(!reading.has_mistakes(), "{:?}", reading.diagnostics);
        reading.document
    }

    fn words(old: &str, new: &str) -> Vec<String> {
        let changes = documents([&read(old)], [&read(new)]);
        changes.into_iter().flat_map(|c| c.changes).flat_map(|c| c.says).collect()
    }

    const OLD: &str = "architecture a \"A\"\n  service gateway \"Gateway\"\n    built \"Rust\"\n  store readings \"Readings\"\n  gateway writes readings \"appends\"\n";

    #[test]
    fn what_means_the_same_is_no_change() {
        let other = "// a comment\narchitecture a \"A\"\n    store readings \"Readings\"\n\n    gateway   writes readings   \"appends\"\n    service gateway \"Gateway\" // here\n        built \"Rust\"\n";
        assert!(words(OLD, OLD).is_empty());
        assert_eq!(words(OLD, other), [""; 0]);
    }

    #[test]
    fn changes_are_told_in_words() {
        let new = OLD.replace("\"Rust\"", "\"Go\"").replace("\"appends\"", "\"appends readings\"")
            + "  actor keeper \"Keeper\"\n  keeper uses gateway\n";
        assert_eq!(
            words(OLD, &new),
            [
                "`gateway`: built: \"Rust\" became \"Go\"",
                "actor `keeper` is new",
                "`gateway` writes `readings`: label: \"appends\" became \"appends readings\"",
                "`keeper` now uses `gateway`",
            ]
        );
    }

    #[test]
    fn what_is_alike_was_renamed_or_moved() {
        assert_eq!(words(OLD, &OLD.replace("gateway", "intake")), ["`gateway` is called `intake` now"]);
        // Name and label at once: kind, place and neighbours are left.
        let old = format!("{OLD}  service desk \"Desk\"\n  gateway calls desk\n");
        let new = old.replace("gateway", "intake").replace("\"Gateway\"", "\"Intake of levels\"");
        assert_eq!(
            words(&old, &new),
            ["`gateway` is called `intake` now", "`intake`: label: \"Gateway\" became \"Intake of levels\""]
        );
        let nested = "architecture a \"A\"\n  system core \"Core\"\n    service gateway \"Gateway\"\n      built \"Rust\"\n  store readings \"Readings\"\n  gateway writes readings \"appends\"\n";
        assert_eq!(words(OLD, nested), ["system `core` is new", "`gateway` moved into `core`"]);
        assert_eq!(
            words("flow f\n  \"Warn\"\n  \"Log the level\"\n", "flow f\n  \"Warn\"\n  \"Log each level\"\n").len(),
            1
        );
        // Two that are equally alike are neither.
        let twins = words("classes c\n  class A\n  class B\n", "classes c\n  class X\n  class Y\n");
        assert_eq!(twins.len(), 4, "{twins:?}");
    }

    #[test]
    fn a_match_makes_its_neighbours_more_alike() {
        let chain = |name: &str| {
            let parts = (0..400).map(|i| format!("  service {name}{i} \"Relay {name}{i}\"\n"));
            let lines = (1..400).map(|i| format!("  {name}{} uses {name}{i}\n", i - 1));
            let all: String = parts.chain(lines).collect();
            format!("architecture a\n  service root \"Root\"\n{all}  root uses {name}0\n")
        };
        let told = words(&chain("a"), &chain("b"));
        let renamed = told.iter().filter(|t| t.contains("is called")).count();
        assert_eq!((renamed, told.len()), (400, 800), "names and labels, and no line: {told:?}");
    }

    #[test]
    fn relations_change_their_verb_or_their_end() {
        assert_eq!(
            words(OLD, &OLD.replace(" writes ", " reads ")),
            ["`gateway` reads `readings` now, where it said `writes`"]
        );
        let old = format!("{OLD}  store archive \"Archive\"\n");
        assert_eq!(
            words(&old, &old.replace("gateway writes readings", "gateway writes archive")),
            ["`gateway` writes `archive` now, no longer `readings`"]
        );
    }

    #[test]
    fn what_went_is_told_last() {
        let new = "architecture a \"A\"\n  service gateway \"Gateway\"\n    built \"Rust\"\n";
        assert_eq!(words(OLD, new), ["store `readings` is gone", "`gateway` no longer writes `readings` \"appends\""]);
        assert_eq!(words(OLD, "flow f\n  \"x\"\n"), ["flow `f` is new", "architecture `a` is gone"]);
    }

    #[test]
    fn members_are_matched_by_their_names() {
        let old = "classes c\n  class Buoy\n    + name: Text\n    + mass: Kilograms\n    + drift(limit: Metres)\n";
        assert_eq!(
            words(old, &old.replace("Kilograms", "Tonnes")),
            ["`Buoy`: attribute `+ mass: Kilograms` became `+ mass: Tonnes`"]
        );
        assert_eq!(
            words(old, &old.replace("    + mass: Kilograms\n", "")),
            ["`Buoy` lost attribute `+ mass: Kilograms`"]
        );
        assert_eq!(words(old, &format!("{old}    + sink()\n")), ["`Buoy` gained operation `+ sink()`"]);
        let swapped = "classes c\n  class Buoy\n    + mass: Kilograms\n    + name: Text\n    + drift(limit: Metres)\n";
        assert_eq!(words(old, swapped), [""; 0]);
        assert_eq!(
            words(old, &old.replace("name: Text", "name: Text (static)")),
            ["`Buoy`: attribute `+ name: Text` became `+ name: Text (static)`"]
        );
    }

    #[test]
    fn time_and_fragments_count_in_sequences() {
        let old = "sequence s\n  a sends b \"x\"\n  b sends c \"y\"\n  c sends a \"z\"\n";
        assert_eq!(words(old, &old.replace("  a sends b \"x\"\n", "")), ["`a` no longer sends `b` \"x\""]);
        let new = "sequence s\n  b sends c \"y\"\n  c sends a \"z\"\n  a sends b \"x\"\n";
        assert_eq!(words(old, new), ["message 1 \"x\" moved to the end"]);
        assert_eq!(words(new, old), ["message 3 \"x\" moved before message 1"]);
        let new = "sequence s\n  a sends b \"x\"\n  when \"late\"\n    b sends c \"y\"\n  c sends a \"z\"\n  phase \"Later\"\n";
        assert_eq!(
            words(old, new),
            ["`b` sends `c`: inside: \"opt [late]\" came", "`opt [late]` is new", "`phase \"Later\"` is new"]
        );
    }

    #[test]
    fn sheets_and_wishes_are_compared_by_what_they_name() {
        let new = format!("{OLD}sheet one of a \"One\"\n  depth 1\n  show gateway, readings\n");
        assert_eq!(words(OLD, &new), ["sheet `one` of `a` is new"]);
        assert_eq!(words(&new, &new.replace("depth 1", "depth 2")), ["sheet `one`: depth: \"1\" became \"2\""]);
        assert_eq!(
            words(&new, &new.replace("gateway, readings\n", "gateway\n")),
            ["sheet `one`: show: \"readings\" went"]
        );
        let row = OLD.to_owned() + "  row gateway, readings\n";
        assert_eq!(words(OLD, &row), ["the picture's wish: \"row gateway, readings\" came"]);
    }
}

//! What changed between two versions of a diagram. Input: two models. Output: [`Change`]s in words.
//!
//! Elements are matched by their keys; those left over of one kind and one label are taken as
//! renamed. Relations are matched by ends, verb and order. Guarantees: deterministic; comparing a
//! diagram with itself yields nothing.

mod events;

use crate::model::{Diagram, Document, Element, Picture, Relation, Sheet, Verb};
use events::Events;
use std::collections::{BTreeMap, BTreeSet};

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
    let sheets_of = |list: &[&'a Document]| -> Vec<&'a Sheet> { list.iter().flat_map(|d| &d.sheets).collect() };
    let mut out = by_name(&diagrams_of(&old), &diagrams_of(&new), |d| &d.name, diagrams, whole);
    out.extend(by_name(&sheets_of(&old), &sheets_of(&new), |s| &s.name, sheets, whole_sheet));
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

/// Compares two versions of one sheet.
fn sheets(old: &Sheet, new: &Sheet) -> Vec<Change> {
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let number = |n: Option<u32>| n.map(|n| n.to_string());
    let mut details = Vec::new();
    differ(&mut details, "of", Some(old.of.clone()), Some(new.of.clone()));
    differ(&mut details, "title", text(&old.title), text(&new.title));
    picture(&mut details, &old.picture, &new.picture);
    differ(&mut details, "depth", number(old.depth), number(new.depth));
    let members = |s: &Sheet| Some(s.members.word().to_owned());
    differ(&mut details, "members", members(old), members(new));
    let flags = |s: &Sheet| [usize::from(s.tell), usize::from(s.by_hosts), s.follow.as_ref().map_or(0, Vec::len)];
    let parts = |s: &Sheet| {
        let [tell, by, follow] = flags(s);
        [s.open.len(), s.close.len(), s.focus.len(), s.show.len(), s.hide.len(), tell, by, follow]
    };
    for (word, (a, b)) in ["open", "close", "focus", "show", "hide", "tell", "by hosts", "follow"]
        .iter()
        .zip(parts(old).iter().zip(parts(new)))
    {
        differ(&mut details, word, Some(a.to_string()), Some(b.to_string()));
    }
    if details.is_empty() {
        return Vec::new();
    }
    vec![Change { details, ..whole_sheet(new, Fate::Changed) }]
}

fn whole_sheet(sheet: &Sheet, fate: Fate) -> Change {
    let title = sheet.title.as_ref().map_or(String::new(), |t| format!(" \"{}\"", t.text()));
    let what = format!("sheet {} of {}{title}", sheet.name, sheet.of);
    Change { fate, subject: Subject::Sheet, id: sheet.name.clone(), what, details: Vec::new(), line: sheet.line }
}

fn whole(diagram: &Diagram, fate: Fate) -> Change {
    let title = diagram.title.as_ref().map_or(String::new(), |t| format!(" \"{}\"", t.text()));
    Change {
        fate,
        subject: Subject::Diagram,
        id: diagram.name.clone(),
        what: format!("{} {}{title}", diagram.kind.word(), diagram.name),
        details: vec![format!("{} elements, {} relations", diagram.elements.len(), diagram.relations.len())],
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
    changes.extend(relations(old, new, &matched, &before, &after));
    changes.extend(before.others_against(&after));
    changes
}

/// Title, caption, heading.
fn header(old: &Diagram, new: &Diagram) -> Option<Change> {
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let mut details = Vec::new();
    differ(&mut details, "title", text(&old.title), text(&new.title));
    picture(&mut details, &old.picture, &new.picture);
    differ(&mut details, "kind", Some(old.kind.word().to_owned()), Some(new.kind.word().to_owned()));
    (!details.is_empty()).then(|| Change {
        fate: Fate::Changed,
        subject: Subject::Diagram,
        id: new.name.clone(),
        what: format!("{} {}", new.kind.word(), new.name),
        details,
        line: new.line,
    })
}

/// Words about the picture: caption, heading, and hints by their number.
fn picture(details: &mut Vec<String>, old: &Picture, new: &Picture) {
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
    let hints = |p: &Picture| (!p.hints.is_empty()).then(|| p.hints.len().to_string());
    differ(details, "hints", hints(old), hints(new));
}

/// Which element of one version is which of the other, by index.
struct Matching {
    to_new: BTreeMap<usize, usize>,
    to_old: BTreeMap<usize, usize>,
}

impl Matching {
    fn of(old: &Diagram, new: &Diagram) -> Self {
        let mut matching = Self { to_new: BTreeMap::new(), to_old: BTreeMap::new() };
        let keys: BTreeMap<&str, usize> = old.elements.iter().enumerate().map(|(i, e)| (e.key.as_str(), i)).collect();
        for (n, element) in new.elements.iter().enumerate() {
            if let Some(o) = keys.get(element.key.as_str()) {
                matching.pair(*o, n);
            }
        }
        // What is left over with one label and kind was renamed or moved, if it is the only one.
        let mut left: BTreeMap<(String, &'static str), Vec<usize>> = BTreeMap::new();
        for (o, element) in old.elements.iter().enumerate().filter(|(o, _)| !matching.to_new.contains_key(o)) {
            left.entry(shown(element)).or_default().push(o);
        }
        let news: Vec<usize> = (0..new.elements.len()).filter(|n| !matching.to_old.contains_key(n)).collect();
        for n in news {
            if let Some([o]) = left.remove(&shown(&new.elements[n])).as_deref() {
                matching.pair(*o, n);
            }
        }
        matching
    }

    fn pair(&mut self, old: usize, new: usize) {
        self.to_new.insert(old, new);
        self.to_old.insert(new, old);
    }
}

fn shown(element: &Element) -> (String, &'static str) {
    (element.shown().text(), element.kind.word())
}

/// `service gateway "Ingest gateway"`.
fn named(element: &Element) -> String {
    let name = if element.name.is_empty() { String::new() } else { format!(" {}", element.name) };
    let label = element.label.as_ref().map_or(String::new(), |l| format!(" \"{}\"", l.text().replace('\n', " ")));
    format!("{}{name}{label}", element.kind.word())
}

fn elements(old: &Diagram, new: &Diagram, matched: &Matching) -> Vec<Change> {
    let mut changes = Vec::new();
    let change = |fate, element: &Element, details| Change {
        fate,
        subject: Subject::Element,
        id: element.key.clone(),
        what: named(element),
        details,
        line: element.line,
    };
    for (n, element) in new.elements.iter().enumerate() {
        let Some(o) = matched.to_old.get(&n) else {
            changes.push(change(Fate::Came, element, Vec::new()));
            continue;
        };
        let details = element_details(old, &old.elements[*o], new, element, matched);
        if !details.is_empty() {
            changes.push(change(Fate::Changed, element, details));
        }
    }
    let gone = old.elements.iter().enumerate().filter(|(o, _)| !matched.to_new.contains_key(o));
    changes.extend(gone.map(|(_, element)| change(Fate::Went, element, Vec::new())));
    changes
}

fn element_details(old: &Diagram, a: &Element, new: &Diagram, b: &Element, matched: &Matching) -> Vec<String> {
    let mut details = Vec::new();
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let some = |s: &str| (!s.is_empty()).then(|| s.to_owned());
    differ(&mut details, "name", some(&a.name), some(&b.name));
    differ(&mut details, "label", text(&a.label), text(&b.label));
    differ(&mut details, "kind", Some(a.kind.word().into()), Some(b.kind.word().into()));
    let moved = match (a.parent, b.parent) {
        (Some(p), Some(q)) => matched.to_new.get(&p.index()) != Some(&q.index()),
        (None, None) => false,
        _ => true,
    };
    if moved {
        let place = |d: &Diagram, e: &Element| e.parent.map(|p| d.element(p).key.clone());
        differ(&mut details, "place", place(old, a), place(new, b));
    }
    let (p, q) = (&a.properties, &b.properties);
    differ(&mut details, "about", text(&p.about), text(&q.about));
    differ(&mut details, "built", text(&p.built), text(&q.built));
    differ(&mut details, "link", text(&p.link), text(&q.link));
    differ(&mut details, "owner", text(&p.owner), text(&q.owner));
    differ(&mut details, "code", text(&p.code), text(&q.code));
    let icon = |p: &crate::model::Properties| p.icon.as_ref().map(|i| i.value.clone());
    differ(&mut details, "icon", icon(p), icon(q));
    differ(&mut details, "tags", some(&p.tags.join(" ")), some(&q.tags.join(" ")));
    differ(&mut details, "traits", some(&traits(&a.traits)), some(&traits(&b.traits)));
    details.extend(member_details(a, b));
    details
}

/// Members that came and went; one that changed is told as both.
fn member_details(a: &Element, b: &Element) -> Vec<String> {
    let members = |e: &Element| -> Vec<String> {
        let body = e.class.iter().flat_map(|c| &c.compartments);
        body.flat_map(|c| &c.members).map(|m| m.text.clone()).collect()
    };
    let (old, new) = (members(a), members(b));
    let only = |these: &[String], those: &[String]| -> Vec<String> {
        these.iter().filter(|m| !those.contains(m)).cloned().collect()
    };
    let (went, came) = (only(&old, &new), only(&new, &old));
    went.iter().map(|m| format!("member `{m}` went")).chain(came.iter().map(|m| format!("member `{m}` came"))).collect()
}

fn traits(list: &[crate::syntax::Trait]) -> String {
    let one = |t: &crate::syntax::Trait| {
        let values: Vec<&str> = t.values.iter().map(|v| v.value.as_str()).collect();
        format!("{} {}", t.word.value, values.join(" ")).trim_end().to_owned()
    };
    list.iter().map(one).collect::<Vec<_>>().join(", ")
}

fn differ(details: &mut Vec<String>, what: &str, old: Option<String>, new: Option<String>) {
    if old == new {
        return;
    }
    let quoted = |s: &str| format!("\"{}\"", s.replace('\n', " "));
    details.push(match (old, new) {
        (Some(old), Some(new)) => format!("{what}: {} became {}", quoted(&old), quoted(&new)),
        (None, Some(new)) => format!("{what}: {} came", quoted(&new)),
        (Some(old), None) => format!("{what}: {} went", quoted(&old)),
        (None, None) => return,
    });
}

/// A relation's ends as elements of the newer version, where they are there, and its verb.
type Ends = ((bool, usize), (bool, usize), Verb);

fn relations(old: &Diagram, new: &Diagram, matched: &Matching, then: &Events, now: &Events) -> Vec<Change> {
    let in_new = |id: usize| matched.to_new.get(&id).map_or((false, id), |n| (true, *n));
    let mut before: BTreeMap<Ends, Vec<usize>> = BTreeMap::new();
    for (i, r) in old.relations.iter().enumerate() {
        before.entry((in_new(r.from.index()), in_new(r.to.index()), r.verb)).or_default().push(i);
    }
    let mut after: BTreeMap<Ends, Vec<usize>> = BTreeMap::new();
    for (i, r) in new.relations.iter().enumerate() {
        after.entry(((true, r.from.index()), (true, r.to.index()), r.verb)).or_default().push(i);
    }
    let details = |o: usize, n: usize| {
        let mut details = relation_details(&old.relations[o], &new.relations[n]);
        details.extend(then.message_details(o, now, n));
        details
    };
    let mut changes = Vec::new();
    let mut pairs: Vec<(usize, usize)> = Vec::new();
    for (ends, mut news) in after {
        let mut olds = before.remove(&ends).unwrap_or_default();
        // Those with equal texts are the same; the others follow in order.
        news.retain(|n| match olds.iter().position(|o| details(*o, *n).is_empty()) {
            Some(same) => {
                pairs.push((olds.remove(same), *n));
                false
            }
            None => true,
        });
        for n in news {
            let relation = &new.relations[n];
            if olds.is_empty() {
                changes.push(relation_change(Fate::Came, new, relation, Vec::new()));
            } else {
                let o = olds.remove(0);
                pairs.push((o, n));
                changes.push(relation_change(Fate::Changed, new, relation, details(o, n)));
            }
        }
        changes.extend(olds.into_iter().map(|o| relation_change(Fate::Went, old, &old.relations[o], Vec::new())));
    }
    for olds in before.into_values() {
        changes.extend(olds.into_iter().map(|o| relation_change(Fate::Went, old, &old.relations[o], Vec::new())));
    }
    for n in events::moved(then, now, &pairs) {
        changes.push(relation_change(Fate::Changed, new, &new.relations[n], vec!["moved in time".to_owned()]));
    }
    changes.sort_by_key(|c| (c.fate == Fate::Went, c.line));
    changes
}

fn relation_details(a: &Relation, b: &Relation) -> Vec<String> {
    let mut details = Vec::new();
    let text = |label: &Option<crate::syntax::Label>| label.as_ref().map(|l| l.text());
    let some = |s: String| (!s.is_empty()).then_some(s);
    differ(&mut details, "label", text(&a.label), text(&b.label));
    differ(&mut details, "branch", text(&a.start), text(&b.start));
    differ(&mut details, "over", text(&a.over), text(&b.over));
    differ(&mut details, "beginning", some(a.ends[0].shown()), some(b.ends[0].shown()));
    differ(&mut details, "end", some(a.ends[1].shown()), some(b.ends[1].shown()));
    differ(&mut details, "traits", some(traits(&a.traits)), some(traits(&b.traits)));
    details
}

fn relation_change(fate: Fate, diagram: &Diagram, relation: &Relation, details: Vec<String>) -> Change {
    let end = |id| {
        let element = diagram.element(id);
        if element.key.contains(' ') { format!("\"{}\"", element.key) } else { element.key.clone() }
    };
    let label = relation.label.as_ref().map_or(String::new(), |l| format!(" \"{}\"", l.text().replace('\n', " ")));
    let what = match relation.verb {
        Verb::Does => format!("{} does{label}", end(relation.from)),
        verb => format!("{} {} {}{label}", end(relation.from), verb.word(), end(relation.to)),
    };
    Change { fate, subject: Subject::Relation, id: relation.key.clone(), what, details, line: relation.line }
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
        let line = |c: &Change| format!("{:?} {} {}", c.fate, c.what, c.details.join("; ")).trim_end().to_owned();
        changes.iter().flat_map(|c| c.changes.iter().map(line)).collect()
    }

    const OLD: &str = "architecture a \"A\"\n  service gateway \"Gateway\"\n    built \"Rust\"\n  store readings \"Readings\"\n  gateway writes readings \"appends\"\n";

    #[test]
    fn nothing_changed() {
        assert!(words(OLD, OLD).is_empty());
        assert!(words(OLD, &format!("// a comment\n{OLD}")).is_empty());
    }

    #[test]
    fn changes_are_told_in_words() {
        let new = OLD.replace("\"Rust\"", "\"Go\"").replace("\"appends\"", "\"appends readings\"")
            + "  actor keeper \"Keeper\"\n  keeper uses gateway\n";
        assert_eq!(
            words(OLD, &new),
            [
                "Changed service gateway \"Gateway\" built: \"Rust\" became \"Go\"",
                "Came actor keeper \"Keeper\"",
                "Changed gateway writes readings \"appends readings\" label: \"appends\" became \"appends readings\"",
                "Came keeper uses gateway",
            ]
        );
    }

    #[test]
    fn a_renamed_element_is_one_change_and_keeps_its_relations() {
        assert_eq!(
            words(OLD, &OLD.replace("gateway", "intake")),
            ["Changed service intake \"Gateway\" name: \"gateway\" became \"intake\""]
        );
    }

    #[test]
    fn what_went_is_told_last() {
        let new = "architecture a \"A\"\n  service gateway \"Gateway\"\n    built \"Rust\"\n";
        assert_eq!(words(OLD, new), ["Went store readings \"Readings\"", "Went gateway writes readings \"appends\""]);
        assert_eq!(words(OLD, "flow f\n  \"x\"\n")[1], "Went architecture a \"A\" 2 elements, 1 relations");
    }

    #[test]
    fn members_and_messages() {
        let old = "classes c\n  class Buoy\n    + name: Text\n    + mooring: Depth\n";
        assert_eq!(
            words(old, &old.replace("Depth", "Metres")),
            ["Changed class Buoy member `+ mooring: Depth` went; member `+ mooring: Metres` came"]
        );
        let old = "sequence s\n  a sends b \"x\"\n  a sends b \"y\"\n";
        assert_eq!(words(old, &old.replace("  a sends b \"x\"\n", "")), ["Went a sends b \"x\""]);
    }

    #[test]
    fn time_and_fragments_count_in_sequences() {
        let old = "sequence s\n  a sends b \"x\"\n  b sends c \"y\"\n  c sends a \"z\"\n";
        let new = "sequence s\n  b sends c \"y\"\n  c sends a \"z\"\n  a sends b \"x\"\n";
        assert_eq!(words(old, new), ["Changed a sends b \"x\" moved in time"]);
        let new = "sequence s\n  a sends b \"x\"\n  when \"late\"\n    b sends c \"y\"\n  c sends a \"z\"\n  phase \"Later\"\n";
        assert_eq!(
            words(old, new),
            ["Changed b sends c \"y\" inside: \"opt [late]\" came", "Came opt [late]", "Came phase \"Later\"",]
        );
    }

    #[test]
    fn sheets_are_compared_too() {
        let new = format!("{OLD}sheet one of a \"One\"\n  depth 1\n");
        assert_eq!(words(OLD, &new), ["Came sheet one of a \"One\""]);
        assert_eq!(
            words(&new, &new.replace("depth 1", "depth 2")),
            ["Changed sheet one of a \"One\" depth: \"1\" became \"2\""]
        );
    }
}

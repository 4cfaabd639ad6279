//! What was found: things and the links between them, in the order in which they were seen.

use crate::finding::{Finding, Seen};
use crate::names::Names;
use bathygram_core::model::{
    Diagram, DiagramKind, Document, Element, ElementId, ElementKind, EndText, LookRule, Properties, Rare, Relation,
    Selector, Verb,
};
use bathygram_core::source::{SourceId, Span, Spanned};
use bathygram_core::syntax::{Label, Trait};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// The colours of tags, in the order in which tags are seen; what has none of them is drawn as usual.
const COLOURS: [&str; 4] = ["ochre", "lagoon", "heather", "kelp"];

/// What was found in a source.
#[derive(Clone, Debug)]
pub struct Facts {
    /// The kind of diagram that shows it.
    pub kind: DiagramKind,
    /// The name of the picture.
    pub name: String,
    /// Its title.
    pub title: String,
    /// Things; what holds others comes before them.
    pub things: Vec<Thing>,
    /// Links between things, by their numbers.
    pub links: Vec<Link>,
    /// What is doubtful, in the order of the source.
    pub findings: Vec<Finding>,
    /// How much was read.
    pub counts: Counts,
}

/// How much was read.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Counts {
    /// Rows, lines or spans.
    pub rows: u64,
    /// Of these, such as nothing was found in.
    pub empty: u64,
}

/// Something that was found.
#[derive(Clone, Debug)]
pub struct Thing {
    /// What it is called in the source.
    pub origin: String,
    /// What is shown, if that is something else.
    pub label: Option<String>,
    /// What it is.
    pub kind: ElementKind,
    /// What it lies in.
    pub holder: Option<usize>,
    /// Its pictogram.
    pub icon: Option<String>,
    /// Its description, its technology, and who looks after it.
    pub said: [Option<String>; 3],
    /// Its tags.
    pub tags: Vec<String>,
    /// Where it was seen first.
    pub seen: Seen,
}

impl Thing {
    /// A thing of which nothing else is known.
    pub fn new(origin: &str, kind: ElementKind, seen: Seen) -> Self {
        Self {
            origin: origin.to_owned(),
            label: None,
            kind,
            holder: None,
            icon: None,
            said: [None, None, None],
            tags: Vec::new(),
            seen,
        }
    }
}

/// A link between two things.
#[derive(Clone, Debug)]
pub struct Link {
    /// Where it begins.
    pub from: usize,
    /// Where it ends.
    pub to: usize,
    /// What it says.
    pub verb: Verb,
    /// Its label.
    pub label: Option<String>,
    /// The ports at its ends.
    pub ports: [Option<String>; 2],
    /// Its tags.
    pub tags: Vec<String>,
    /// Where it was seen.
    pub seen: Seen,
}

impl Facts {
    /// The model of what was found, which the core writes as text.
    pub fn document(&self) -> Document {
        let label = |text: &str| Label::plain(text, Span::default());
        let title = (!self.title.is_empty()).then(|| label(&self.title));
        let mut diagram = Diagram::new(self.kind, &self.name, title, place(0));
        let mut names = Names::default();
        for (i, thing) in self.things.iter().enumerate() {
            diagram.elements.push(self.element(i, thing, &mut names, &diagram));
        }
        for (i, link) in self.links.iter().enumerate() {
            diagram.relations.push(relation(link, i, self.things.len()));
        }
        let looks = self.looks();
        // Colours that nobody explains say nothing.
        diagram.picture.legend = (!looks.is_empty()).then_some(place(self.things.len() + self.links.len() + 1));
        Document { diagrams: vec![diagram], looks, ..Document::default() }
    }

    fn element(&self, i: usize, thing: &Thing, names: &mut Names, diagram: &Diagram) -> Element {
        let span = place(i + 1);
        let text = |text: &String| Label::plain(text.clone(), Span { start: span.start, end: span.start, ..span });
        // What only holds others is known by its label.
        let is_box = thing.kind.is_box();
        let name = if is_box { String::new() } else { names.give(&thing.origin) };
        let shown = thing.label.clone().unwrap_or_else(|| thing.origin.clone());
        let label = (is_box || shown != name).then(|| Label::plain(shown.clone(), span));
        let parent = thing.holder.map(|holder| ElementId(holder as u32));
        let own = if is_box { shown } else { name.clone() };
        // What is only a box is no step of a path.
        let around = |id: &ElementId| diagram.element(*id).parent;
        let path = std::iter::successors(parent, around).find(|id| !diagram.element(*id).kind.is_box());
        let key = match path {
            Some(around) => format!("{}.{own}", diagram.element(around).key),
            None => own,
        };
        let [about, built, owner] = thing.said.each_ref().map(|said| said.as_ref().map(text));
        // By its origin it is found again, and told from what is written by hand.
        let origin = (!is_box).then(|| text(&thing.origin));
        let icon = thing.icon.clone().map(|value| Spanned { value, span });
        let icon_trait = thing.icon.as_deref().map(|icon| word("icon", &[icon]));
        let origin_trait = (!is_box).then(|| word("origin", &[&thing.origin]));
        let traits: Vec<Trait> = icon_trait.into_iter().chain(origin_trait).collect();
        let tags = thing.tags.clone();
        let mut properties: Rare<Properties> = Rare::default();
        if about.is_some() || built.is_some() || owner.is_some() || !traits.is_empty() || !tags.is_empty() {
            *properties = Properties { about, built, owner, origin, icon, tags, ..Properties::default() };
        }
        let kind = thing.kind;
        Element { key, name, label, kind, parent, span, implicit: false, properties, traits, class: None }
    }

    /// Colours for the tags of links.
    fn looks(&self) -> Vec<LookRule> {
        let mut tags: Vec<&str> = Vec::new();
        for tag in self.links.iter().flat_map(|link| &link.tags) {
            if !tags.contains(&tag.as_str()) {
                tags.push(tag);
            }
        }
        let rule = |(i, tag): (usize, &&str)| {
            let colour = COLOURS.get(i)?;
            let traits = vec![word("line", &[colour, "thick"])];
            Some(LookRule { selector: Selector::Tag((*tag).to_owned()), traits, span: Span::default() })
        };
        tags.iter().enumerate().filter_map(rule).collect()
    }
}

/// Where the thing of a number stands in a text that is still to be written.
fn place(number: usize) -> Span {
    Span::new(SourceId::new(0), number, number)
}

fn word(name: &str, values: &[&str]) -> Trait {
    let spanned = |text: &str| Spanned { value: text.to_owned(), span: Span::default() };
    Trait { word: spanned(name), values: values.iter().map(|value| spanned(value)).collect() }
}

fn relation(link: &Link, i: usize, things: usize) -> Relation {
    let span = place(things + 1 + i);
    let end = |port: &Option<String>| {
        let mut end: Rare<EndText> = Rare::default();
        if port.is_some() {
            *end = EndText { port: port.clone(), ..EndText::default() };
        }
        end
    };
    let tags: Vec<&str> = link.tags.iter().map(String::as_str).collect();
    Relation {
        key: String::new(),
        from: ElementId(link.from as u32),
        to: ElementId(link.to as u32),
        verb: link.verb,
        label: link.label.as_ref().map(|text| Label::plain(text.clone(), span)),
        start: None,
        over: None,
        ends: link.ports.each_ref().map(end),
        transition: None,
        written_in: None,
        span,
        traits: if tags.is_empty() { Vec::new() } else { vec![word("tag", &tags)] },
    }
}

impl Facts {
    /// Only what is at most so many links away from something, and what that lies in. `false` if there is no such thing, and
    /// nothing is left out.
    pub fn keep_around(&mut self, name: &str, distance: usize) -> bool {
        let is_meant = |thing: &Thing| thing.origin == name || thing.label.as_deref() == Some(name);
        let Some(start) = self.things.iter().position(is_meant) else { return false };
        let mut near = BTreeSet::from([start]);
        for _ in 0..distance {
            let next: Vec<usize> = self
                .links
                .iter()
                .flat_map(|link| [(link.from, link.to), (link.to, link.from)])
                .filter_map(|(a, b)| near.contains(&a).then_some(b))
                .collect();
            near.extend(next);
        }
        // What holds them, to the outermost.
        for thing in near.clone() {
            let around = std::iter::successors(self.things[thing].holder, |holder| self.things[*holder].holder);
            near.extend(around);
        }
        let numbers: BTreeMap<usize, usize> = near.iter().enumerate().map(|(new, old)| (*old, new)).collect();
        let number = |old: &usize| numbers.get(old).copied();
        self.links.retain_mut(|link| {
            let ends = number(&link.from).zip(number(&link.to));
            ends.inspect(|(from, to)| (link.from, link.to) = (*from, *to)).is_some()
        });
        let all = std::mem::take(&mut self.things);
        let kept = all.into_iter().enumerate().filter(|(i, _)| near.contains(i));
        self.things =
            kept.map(|(_, thing)| Thing { holder: thing.holder.as_ref().and_then(number), ..thing }).collect();
        true
    }
}

/// Facts as JSON.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "What was found in a source")]
struct Written<'a> {
    /// The kind of diagram that shows it.
    kind: &'static str,
    name: &'a str,
    title: &'a str,
    things: Vec<WrittenThing<'a>>,
    links: Vec<WrittenLink<'a>>,
    findings: &'a [Finding],
    counts: Counts,
}

#[derive(Serialize, JsonSchema)]
struct WrittenThing<'a> {
    /// What it is called in the source.
    origin: &'a str,
    label: Option<&'a str>,
    kind: &'static str,
    /// The number of what it lies in, from 0.
    holder: Option<usize>,
    tags: &'a [String],
    seen: &'a Seen,
}

#[derive(Serialize, JsonSchema)]
struct WrittenLink<'a> {
    /// The numbers of its ends, from 0.
    from: usize,
    to: usize,
    verb: &'static str,
    label: Option<&'a str>,
    ports: &'a [Option<String>; 2],
    tags: &'a [String],
    seen: &'a Seen,
}

impl Facts {
    /// As JSON text.
    ///
    /// # Errors
    /// If it cannot be written as JSON.
    pub fn json(&self) -> serde_json::Result<String> {
        let written = Written {
            kind: self.kind.word(),
            name: &self.name,
            title: &self.title,
            things: self
                .things
                .iter()
                .map(|thing| WrittenThing {
                    origin: &thing.origin,
                    label: thing.label.as_deref(),
                    kind: thing.kind.word(),
                    holder: thing.holder,
                    tags: &thing.tags,
                    seen: &thing.seen,
                })
                .collect(),
            links: self
                .links
                .iter()
                .map(|link| WrittenLink {
                    from: link.from,
                    to: link.to,
                    verb: link.verb.word(),
                    label: link.label.as_deref(),
                    ports: &link.ports,
                    tags: &link.tags,
                    seen: &link.seen,
                })
                .collect(),
            findings: &self.findings,
            counts: self.counts,
        };
        Ok(serde_json::to_string_pretty(&written)? + "\n")
    }
}

/// The JSON Schema of [`Facts::json`], as text.
pub fn schema() -> String {
    let settings = schemars::generate::SchemaSettings::draft2020_12().for_serialize();
    format!("{:#}\n", settings.into_generator().into_root_schema_for::<Written<'_>>().to_value())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::table::{Options, read};
    use std::path::Path;

    #[test]
    fn what_is_near_is_kept_with_what_it_lies_in() {
        let table = "From,From rack,To,To rack\na,R1,b,R2\nb,R2,c,R3\nc,R3,d,R4\nb,R2,e,R1\n";
        let facts = || read(Path::new("t.csv"), table.as_bytes(), &Options::default()).expect("facts");
        let names = |facts: &Facts| facts.things.iter().map(|thing| thing.origin.clone()).collect::<Vec<_>>().join(" ");
        let mut near = facts();
        assert!(near.keep_around("a", 1));
        assert_eq!((names(&near).as_str(), near.links.len()), ("R1 a R2 b", 1));
        assert_eq!(near.things[near.links[0].to].origin, "b");
        assert_eq!(near.things[3].holder, Some(2));
        let mut near = facts();
        assert!(near.keep_around("a", 2) && !near.keep_around("z", 2));
        assert_eq!(names(&near), "R1 a R2 b R3 c e");
    }

    #[test]
    fn only_racks_that_are_numbers_are_called_racks() {
        let table = "From,From site,From rack,To,To site,To rack\na,12,3,b,12,R4\n";
        let facts = read(Path::new("t.csv"), table.as_bytes(), &Options::default()).expect("facts");
        let names: Vec<&str> = facts.things.iter().map(|thing| thing.origin.as_str()).collect();
        assert_eq!(names, ["12", "Rack 3", "a", "R4", "b"]);
    }
}

//! What was found: things and the links between them, in the order in which they were seen, and what happens with them.

use crate::course::{Happening, Passage};
use crate::finding::{Finding, Seen};
use crate::names::{Names, sentence};
use crate::select::Selection;
use crate::text::add;
use bathygram_core::model::{Action, DiagramKind, ElementKind, MAX_ELEMENTS, MAX_RELATIONS, ShownMembers, Verb};
use bathygram_core::syntax::MAX_DEPTH;
use schemars::JsonSchema;
use serde::{Serialize, Serializer};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// What was found in a source.
#[derive(Clone, Debug, Serialize, JsonSchema)]
#[schemars(title = "What was found in a source")]
pub struct Facts {
    /// The kind of diagram that shows it.
    #[serde(serialize_with = "diagram_word")]
    #[schemars(with = "String")]
    pub kind: DiagramKind,
    /// The name of the picture.
    pub name: String,
    /// Its title.
    pub title: String,
    /// What stands below the picture.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub caption: Option<String>,
    /// Things; what holds others comes before them.
    pub things: Vec<Thing>,
    /// Tags of things that are told by their colours.
    #[serde(skip)]
    pub coloured: Vec<String>,
    /// Links between things, by their numbers.
    pub links: Vec<Link>,
    /// Drawings that are proposed, where one would be too large.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub sheets: Vec<ProposedSheet>,
    /// Every import of a source tree.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub imports: Vec<Imported>,
    /// What happens, for a sequence.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub happenings: Vec<Happening>,
    /// What is done, for a flow.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub passages: Vec<Passage>,
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
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Thing {
    /// What it is called in the source.
    pub origin: String,
    /// What its name is made of, if not of that.
    #[serde(skip)]
    pub called: Option<String>,
    /// What is shown, if that is something else.
    pub label: Option<String>,
    /// Whether it is not ours.
    #[serde(skip_serializing_if = "is_false")]
    pub is_external: bool,
    /// What it is.
    #[serde(serialize_with = "element_word")]
    #[schemars(with = "String")]
    pub kind: ElementKind,
    /// The number of what it lies in, from 0; what it hangs below, for a tree.
    pub holder: Option<usize>,
    /// Whether it has a name of its own; what only holds others, and steps that nothing refers to, are known by their labels.
    #[serde(skip)]
    pub is_named: bool,
    /// Its pictogram.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub icon: Option<String>,
    /// What is said of it.
    #[serde(flatten)]
    pub said: Said,
    /// Its tags.
    pub tags: Vec<String>,
    /// Its fields, columns, values or operations.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub members: Vec<Member>,
    /// Type parameters of a classifier, such as `K, V`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub parameters: Option<String>,
    /// Whether a classifier has no instances of its own.
    #[serde(skip_serializing_if = "is_false")]
    pub is_abstract: bool,
    /// A free keyword of a classifier.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub keyword: Option<String>,
    /// A remark on it, in the picture.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub remark: Option<String>,
    /// How it was understood, if that was a guess: a comment in the text.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub guess: Option<String>,
    /// Where it was seen first.
    pub seen: Seen,
}

/// One import in a source file.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Imported {
    /// Where it stands.
    pub seen: Seen,
    /// What it names, in the words of the language.
    pub names: String,
    /// `plain`, `types` if nothing is loaded for it, `dynamic` if that happens while the program runs.
    pub kind: &'static str,
    /// The file that it names, if that is in the tree.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub file: Option<Arc<str>>,
    /// The package that it names, if that is not in the tree and does not come with the language.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub package: Option<String>,
}

/// What may be said of anything.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Said {
    /// A description.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub about: Option<String>,
    /// The technology.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub built: Option<String>,
    /// Who looks after it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub owner: Option<String>,
}

/// A field, a column, a value or an operation of a classifier.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Member {
    /// In UML's textual form, such as `level: decimal [0..1]`.
    pub text: String,
    /// Whether it is part of the key.
    #[serde(skip_serializing_if = "is_false")]
    pub key: bool,
    /// Whether it belongs to the classifier, not to its instances.
    #[serde(skip_serializing_if = "is_false")]
    pub is_static: bool,
    /// Whether it is only asked for.
    #[serde(skip_serializing_if = "is_false")]
    pub is_abstract: bool,
    /// Whether no two rows have the same.
    #[serde(skip_serializing_if = "is_false")]
    pub is_unique: bool,
    /// Whether it may be missing.
    #[serde(skip_serializing_if = "is_false")]
    pub is_nullable: bool,
    /// What it refers to.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub refers: Option<Refers>,
    /// What it says of its table, if it is no column.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub constraint: Option<Constraint>,
    /// What the source says of it: a comment in the text.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub comment: Option<String>,
}

/// What a line says of a table.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Constraint {
    /// No two rows have the same in all of these columns.
    Unique(Vec<String>),
    /// These columns together refer to a row of another table.
    Refers(Vec<String>),
    /// What holds for every row.
    Check(String),
}

/// What columns refer to.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Refers {
    /// The number of the table, from 0.
    pub to: usize,
    /// The columns there.
    pub columns: Vec<String>,
    /// What happens when the row that is referred to is deleted, if anything does.
    #[serde(serialize_with = "action_words", skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub on_delete: Option<Action>,
    /// What happens when its key changes, if anything does.
    #[serde(serialize_with = "action_words", skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub on_update: Option<Action>,
}

/// A drawing of some of the things.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct ProposedSheet {
    /// Its name.
    pub name: String,
    /// Its title.
    pub title: String,
    /// The numbers of the things that it shows, from 0.
    pub shows: Vec<usize>,
    /// The numbers of the packages that it shows as closed boxes, from 0.
    pub closes: Vec<usize>,
    /// Which members it shows.
    #[serde(serialize_with = "members_word")]
    #[schemars(with = "String")]
    pub members: ShownMembers,
}

/// A link between two things.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Link {
    /// The number of the thing where it begins, from 0.
    pub from: usize,
    /// The number of the thing where it ends.
    pub to: usize,
    /// What it says.
    #[serde(serialize_with = "verb_word")]
    #[schemars(with = "String")]
    pub verb: Verb,
    /// Its label.
    pub label: Option<String>,
    /// What stands at its ends.
    pub ends: [LinkEnd; 2],
    /// Its tags.
    pub tags: Vec<String>,
    /// The member of its first end that says it, from 0; it stands in no line of its own then.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub member: Option<usize>,
    /// Where it was seen.
    pub seen: Seen,
}

/// What stands at one end of a link.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct LinkEnd {
    /// The port.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub port: Option<String>,
    /// How many.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub multiplicity: Option<String>,
    /// The role.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub role: Option<String>,
}

impl Thing {
    /// A thing of which nothing else is known.
    pub fn new(origin: &str, kind: ElementKind, seen: Seen) -> Self {
        Self {
            origin: origin.to_owned(),
            called: None,
            label: None,
            is_external: false,
            kind,
            holder: None,
            is_named: kind != ElementKind::Group,
            icon: None,
            said: Said::default(),
            tags: Vec::new(),
            members: Vec::new(),
            parameters: None,
            is_abstract: false,
            keyword: None,
            remark: None,
            guess: None,
            seen,
        }
    }

    /// What is shown.
    pub fn shown(&self) -> &str {
        self.label.as_deref().unwrap_or(&self.origin)
    }
}

impl Member {
    /// Gives what it refers to another number; what is not there any more is named in its comment.
    fn lead(&mut self, number: impl Fn(usize) -> Result<usize, String>) {
        let Some(refers) = &mut self.refers else { return };
        match number(refers.to) {
            Ok(number) => refers.to = number,
            Err(name) => {
                let target = refers.columns.iter().map(|column| format!("{name}.{column}")).collect::<Vec<_>>();
                self.refer_outside(&target.join(", "));
            }
        }
    }

    /// Says in its comment that it refers to what is not drawn.
    pub(crate) fn refer_outside(&mut self, target: &str) {
        self.refers = None;
        add(&mut self.comment, &format!("refers to {target}, which is not shown here"));
    }

    /// Whether a line can say it: what columns together refer to is nothing without the other table.
    pub(crate) fn is_said(&self) -> bool {
        !matches!(self.constraint, Some(Constraint::Refers(_))) || self.refers.is_some()
    }
}

impl Link {
    /// A link that says nothing but its verb.
    pub fn new(from: usize, verb: Verb, to: usize, seen: Seen) -> Self {
        let ends = [LinkEnd::default(), LinkEnd::default()];
        Self { from, to, verb, label: None, ends, tags: Vec::new(), member: None, seen }
    }
}

impl Facts {
    /// Nothing yet.
    pub fn new(kind: DiagramKind) -> Self {
        Self {
            kind,
            name: String::new(),
            title: String::new(),
            caption: None,
            things: Vec::new(),
            coloured: Vec::new(),
            links: Vec::new(),
            sheets: Vec::new(),
            imports: Vec::new(),
            happenings: Vec::new(),
            passages: Vec::new(),
            findings: Vec::new(),
            counts: Counts::default(),
        }
    }

    /// Makes sure that a text can say all of it.
    ///
    /// # Errors
    /// What is too much, and what takes in less.
    pub fn fit(&self) -> Result<(), String> {
        let (things, links) = (self.things.len(), self.links.len());
        let less = "`--only`, `--without` and `--around` take in less";
        if things > MAX_ELEMENTS || links > MAX_RELATIONS {
            return Err(format!(
                "{things} elements and {links} relations were found, and a diagram holds at most {MAX_ELEMENTS} and \
                 {MAX_RELATIONS}; {less}"
            ));
        }
        // What holds others comes before them.
        let mut depths: Vec<usize> = Vec::with_capacity(things);
        for thing in &self.things {
            depths.push(thing.holder.and_then(|holder| depths.get(holder)).map_or(1, |depth| depth + 1));
        }
        // The diagram is the first level of its text, and what is said of something the last.
        match depths.iter().position(|depth| depth + 2 > MAX_DEPTH) {
            Some(deepest) => Err(format!(
                "`{}` lies {} levels deep, and a text has at most {MAX_DEPTH}; {less}",
                self.things[deepest].origin, depths[deepest]
            )),
            None => Ok(()),
        }
    }

    /// Names the picture: as somebody asks for, or else after its source; its title follows the source if there is none yet.
    pub(crate) fn call(&mut self, selection: &Selection, source: &str) {
        self.name = Names::default().give(selection.name.as_deref().unwrap_or(source));
        if self.title.is_empty() {
            self.title = sentence(source);
        }
    }

    /// Only what is at most this many links away from something, and what that lies in. `false` if there is no such thing, and
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
        self.keep(&near);
        true
    }

    /// Only things that a link speaks of.
    pub(crate) fn keep_linked(&mut self) {
        let linked: BTreeSet<usize> = self.links.iter().flat_map(|link| [link.from, link.to]).collect();
        self.keep(&linked);
    }

    /// Only some things, and the links between them.
    fn keep(&mut self, kept: &BTreeSet<usize>) {
        let numbers: BTreeMap<usize, usize> = kept.iter().enumerate().map(|(new, old)| (*old, new)).collect();
        let number = |old: &usize| numbers.get(old).copied();
        self.links.retain_mut(|link| {
            let ends = number(&link.from).zip(number(&link.to));
            ends.inspect(|(from, to)| (link.from, link.to) = (*from, *to)).is_some()
        });
        let mut all = std::mem::take(&mut self.things);
        let names: Vec<String> = all.iter().map(|thing| thing.origin.clone()).collect();
        for member in all.iter_mut().flat_map(|thing| &mut thing.members) {
            member.lead(|to| number(&to).ok_or_else(|| names[to].clone()));
        }
        for sheet in &mut self.sheets {
            let keep = |all: &[usize]| all.iter().filter_map(number).collect();
            (sheet.shows, sheet.closes) = (keep(&sheet.shows), keep(&sheet.closes));
        }
        let kept = all.into_iter().enumerate().filter(|(i, _)| kept.contains(i));
        self.things =
            kept.map(|(_, thing)| Thing { holder: thing.holder.as_ref().and_then(number), ..thing }).collect();
    }

    /// Puts the links of a sequence into the order in which they happen.
    pub(crate) fn order_links(&mut self) {
        let mut order = Vec::new();
        numbered(&mut self.happenings, &mut order);
        self.links = order.into_iter().map(|number| self.links[number].clone()).collect();
    }

    /// As JSON text.
    ///
    /// # Errors
    /// If it cannot be written as JSON.
    pub fn json(&self) -> serde_json::Result<String> {
        Ok(serde_json::to_string_pretty(self)? + "\n")
    }
}

/// Numbers messages in their order; `order` is that of their links before.
fn numbered(happenings: &mut [Happening], order: &mut Vec<usize>) {
    for happening in happenings {
        match happening {
            Happening::Message(message) => {
                order.push(message.link);
                message.link = order.len() - 1;
                numbered(&mut message.body, order);
            }
            Happening::Repeat { body, .. } => numbered(body, order),
            Happening::Together(parts) => parts.iter_mut().for_each(|part| numbered(part, order)),
        }
    }
}

/// The JSON Schema of [`Facts::json`], as text.
pub fn schema() -> String {
    let settings = schemars::generate::SchemaSettings::draft2020_12().for_serialize();
    format!("{:#}\n", settings.into_generator().into_root_schema_for::<Facts>().to_value())
}

fn is_false(value: &bool) -> bool {
    !value
}

fn diagram_word<S: Serializer>(kind: &DiagramKind, out: S) -> Result<S::Ok, S::Error> {
    out.serialize_str(kind.word())
}

fn members_word<S: Serializer>(members: &ShownMembers, out: S) -> Result<S::Ok, S::Error> {
    out.serialize_str(members.word())
}

fn action_words<S: Serializer>(action: &Option<Action>, out: S) -> Result<S::Ok, S::Error> {
    out.serialize_str(action.map_or("no action", Action::words))
}

fn element_word<S: Serializer>(kind: &ElementKind, out: S) -> Result<S::Ok, S::Error> {
    out.serialize_str(kind.word())
}

fn verb_word<S: Serializer>(verb: &Verb, out: S) -> Result<S::Ok, S::Error> {
    out.serialize_str(verb.word())
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

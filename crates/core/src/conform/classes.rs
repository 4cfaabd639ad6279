//! Classes against source code: classifiers, members and relations that are drawn and not there, relations that are there and not
//! drawn, and how many of something there may be.
//!
//! A classifier is known by its `origin`, or by its name, whatever signs and capitals are in it; where several have that name, by
//! the files that its `code`, or that of a package around it, names. A drawing may leave things out: members that are not drawn are
//! no difference, and classifiers that are not drawn are a note.

use super::actual::remove;
use super::deviation::{Accepted, Deviation, Weight};
use super::paths::PathPatterns;
use crate::model::{Diagram, Element, ElementId, ElementKind, Member, Relation, RelationId, Verb};
use crate::source::Span;
use crate::vocabulary::TraitWord;
use std::collections::{BTreeMap, BTreeSet};

/// At most this many classifiers that are not drawn are named.
const MOST_NAMES: usize = 5;

/// Where classifiers really are.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Realm {
    /// In source code.
    #[default]
    Code,
    /// In data: classes are what instances were seen of, and every property of theirs is known.
    Data,
}

impl Realm {
    fn words(self) -> &'static str {
        match self {
            Self::Code => "in the code",
            Self::Data => "in the data",
        }
    }
}

/// Classifiers as the code or the data has them.
#[derive(Clone, Debug)]
pub struct CodeClasses {
    /// Their members, all of them, and relations, dependencies included. The origin of a classifier is its file, a colon, its name.
    pub diagram: Diagram,
    /// Where each element stands, as `file:line`, by its number.
    pub places: Vec<String>,
    /// Where they are.
    pub realm: Realm,
}

/// How classes and code agree.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ClassConformance {
    /// How many classifiers are there as they are drawn.
    pub agreements: usize,
    /// What differs.
    pub differences: Vec<ClassDifference>,
    /// What it was compared with.
    pub realm: Realm,
}

/// One difference between classes and code.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ClassDifference {
    /// A classifier that is not in the code.
    Absent {
        /// It.
        element: ElementId,
    },
    /// A member that the classifier does not have.
    MemberAbsent {
        /// The classifier.
        element: ElementId,
        /// The member, as it is drawn.
        member: String,
        /// Where that stands.
        span: Span,
        /// Where the classifier stands in the code.
        place: String,
    },
    /// A member of another type.
    Type {
        /// The classifier.
        element: ElementId,
        /// The member, as it is drawn.
        member: String,
        /// Where that stands.
        span: Span,
        /// Its type in the code.
        of: String,
        /// Where the classifier stands in the code.
        place: String,
    },
    /// A member of which there are more or less.
    Count {
        /// The classifier.
        element: ElementId,
        /// The member, as it is drawn.
        member: String,
        /// Where that stands.
        span: Span,
        /// How many there are.
        of: String,
        /// Where the classifier is.
        place: String,
    },
    /// A property of the data that is not drawn.
    MemberSurprise {
        /// The classifier.
        element: ElementId,
        /// The property.
        member: String,
        /// Where the classifier is.
        place: String,
    },
    /// A relation that the code does not have.
    RelationAbsent {
        /// It.
        relation: RelationId,
        /// Where the classifier at its beginning stands in the code.
        place: String,
    },
    /// A relation of the code between drawn classifiers that is not drawn.
    Surprise {
        /// Where it begins.
        from: ElementId,
        /// What it says.
        verb: Verb,
        /// Where it ends.
        to: ElementId,
        /// Its role there.
        role: Option<String>,
        /// Where it stands in the code.
        place: String,
    },
    /// Another number of something.
    Multiplicity {
        /// The relation.
        relation: RelationId,
        /// The number in the code.
        of: String,
        /// Where it stands in the code.
        place: String,
    },
    /// Classifiers of files that are drawn, which are not.
    Undrawn {
        /// Their names.
        names: Vec<String>,
        /// Where the first one stands.
        place: String,
    },
}

/// Compares classes with code; nothing for a diagram that names no files of it.
pub fn classes(design: &Diagram, code: &CodeClasses) -> Option<ClassConformance> {
    let paired = Paired::of(design, code)?;
    let mut out = ClassConformance { realm: code.realm, ..ClassConformance::default() };
    for (id, _) in design.ids().filter(|(_, element)| is_expected(element)) {
        match paired.to_code.get(&id) {
            None => out.differences.push(ClassDifference::Absent { element: id }),
            Some(found) => {
                out.agreements += 1;
                out.differences.extend(paired.members(id, *found));
            }
        }
    }
    out.differences.extend(paired.relations());
    out.differences.extend(paired.undrawn());
    Some(out)
}

/// Whether an element should be in the code.
fn is_expected(element: &Element) -> bool {
    is_classifier(element.kind) && !element.has(TraitWord::External)
}

fn is_classifier(kind: ElementKind) -> bool {
    matches!(kind, ElementKind::Class | ElementKind::Interface | ElementKind::Enum | ElementKind::Record)
}

/// A name without what languages write differently.
pub(super) fn plain(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// Classifiers of the design with those of the code.
struct Paired<'a> {
    design: &'a Diagram,
    code: &'a CodeClasses,
    to_code: BTreeMap<ElementId, ElementId>,
    to_design: BTreeMap<ElementId, ElementId>,
}

impl<'a> Paired<'a> {
    fn of(design: &'a Diagram, code: &'a CodeClasses) -> Option<Self> {
        let origin = |element: &Element| element.properties.origin.as_ref().map(|text| text.text());
        let file = |element: &Element| origin(element).and_then(|origin| Some(origin.split_once(':')?.0.to_owned()));
        let mut by_origin: BTreeMap<String, ElementId> = BTreeMap::new();
        let mut by_name: BTreeMap<String, Vec<ElementId>> = BTreeMap::new();
        for (id, element) in code.diagram.ids().filter(|(_, element)| is_classifier(element.kind)) {
            by_origin.extend(origin(element).map(|origin| (origin, id)));
            by_name.entry(plain(&element.shown().text())).or_default().push(id);
        }
        let mut paired = Self { design, code, to_code: BTreeMap::new(), to_design: BTreeMap::new() };
        let mut is_about_code = false;
        for (id, element) in design.ids().filter(|(_, element)| is_classifier(element.kind)) {
            let around = std::iter::once(id).chain(design.ancestors(id));
            let named = around.filter_map(|id| PathPatterns::of(design.element(id))).find(|(_, is_code)| *is_code);
            let exact = origin(element).and_then(|origin| by_origin.get(&origin)).copied();
            let alike = by_name.get(&plain(&element.name)).or_else(|| by_name.get(&plain(&element.shown().text())));
            let candidates = alike.into_iter().flatten().copied();
            let is_meant = |found: &ElementId| match &named {
                Some((patterns, _)) => {
                    file(code.diagram.element(*found)).is_some_and(|file| patterns.exactness(&file).is_some())
                }
                None => true,
            };
            is_about_code |= exact.is_some() || named.is_some();
            let mut candidates = candidates.filter(is_meant).filter(|found| !paired.to_design.contains_key(found));
            if let Some(found) = exact.or_else(|| candidates.next()) {
                paired.to_code.insert(id, found);
                paired.to_design.insert(found, id);
            }
        }
        // Data has no files that a diagram could name.
        let is_meant = is_about_code || code.realm == Realm::Data && !paired.to_code.is_empty();
        is_meant.then_some(paired)
    }

    fn place(&self, found: ElementId) -> String {
        self.code.places.get(found.index()).cloned().unwrap_or_default()
    }

    /// Drawn members that are not there, or of another type.
    fn members(&self, id: ElementId, found: ElementId) -> Vec<ClassDifference> {
        let attributes = self.attributes(found);
        let body: Vec<&Member> = self.design.element(id).class.iter().flat_map(|body| body.members()).collect();
        let place = self.place(found);
        let mut surprises = Vec::new();
        let is_data = self.code.realm == Realm::Data;
        let own = self.design.relations.iter().filter(|relation| relation.from == id).filter_map(said);
        let drawn: BTreeSet<String> = body.iter().map(|member| plain(&member.name())).chain(own).collect();
        // Where no property is drawn, none is missing.
        if is_data && !body.is_empty() {
            let rows = self.code.diagram.element(found).class.iter().flat_map(|body| body.members());
            let new = rows.map(Member::name).filter(|name| !drawn.contains(&plain(name)));
            surprises.extend(new.map(|member| ClassDifference::MemberSurprise {
                element: id,
                member,
                place: place.clone(),
            }));
        }
        let differences = body.into_iter().filter_map(|member| {
            let text = member.text.clone();
            let (span, place) = (member.span, place.clone());
            match attributes.get(&(plain(&member.name()), member.operation)) {
                None => Some(ClassDifference::MemberAbsent { element: id, member: text, span, place }),
                Some(of) => {
                    let drawn = type_of(&member.text);
                    let (counted, count) = (count_of(&drawn), count_of(of));
                    if is_data && !is_allowed(counted, count) {
                        let of = count.to_owned();
                        return Some(ClassDifference::Count { element: id, member: text, span, of, place });
                    }
                    let is_other = !of.is_empty() && !drawn.is_empty() && !share_a_word(of, &drawn);
                    is_other.then(|| ClassDifference::Type { element: id, member: text, span, of: of.clone(), place })
                }
            }
        });
        differences.chain(surprises).collect()
    }

    /// What a classifier of the code has, by plain names: types of attributes, whether written in rows or as lines.
    fn attributes(&self, found: ElementId) -> BTreeMap<(String, bool), String> {
        let body = self.code.diagram.element(found).class.iter().flat_map(|body| body.members());
        let rows = body.map(|member| ((plain(&member.name()), member.operation), type_of(&member.text)));
        let own = self.code.diagram.relations.iter().filter(|relation| relation.from == found);
        let lines = own.filter_map(|relation| {
            let of = self.code.diagram.element(relation.to).shown().text();
            let count = relation.ends[1].multiplicity.as_ref().map_or(String::new(), |count| format!(" [{count}]"));
            Some(((said(relation)?, false), of + &count))
        });
        rows.chain(lines).collect()
    }

    /// Relations that are drawn and not there, there and not drawn, or of another number.
    fn relations(&self) -> Vec<ClassDifference> {
        let mut out = Vec::new();
        let mut told: BTreeSet<usize> = BTreeSet::new();
        let actual: Vec<&Relation> = self.code.diagram.relations.iter().collect();
        for (id, relation) in (0..).map(RelationId).zip(&self.design.relations) {
            let (Some(from), Some(to)) = (self.to_code.get(&relation.from), self.to_code.get(&relation.to)) else {
                continue;
            };
            let sort = sort_of(relation.verb);
            if sort == Sort::Other {
                continue;
            }
            let is_same = |other: &Relation, swapped: bool| {
                let ends = if swapped { (other.to, other.from) } else { (other.from, other.to) };
                ends == (*from, *to) && sort.allows(sort_of(other.verb))
            };
            let role = said(relation);
            let found = actual.iter().enumerate().filter(|(_, other)| {
                // A line without direction is either.
                is_same(other, false) || relation.verb == Verb::Joins && is_same(other, true)
            });
            let found: Vec<(usize, &&Relation)> = found.collect();
            told.extend(found.iter().map(|(i, _)| *i));
            let named = found.iter().find(|(_, other)| role.is_some() && said(other) == role);
            let place = self.place(*from);
            match named.or(found.first()) {
                None => out.push(ClassDifference::RelationAbsent { relation: id, place }),
                Some((_, other)) => {
                    let number = |relation: &Relation| relation.ends[1].multiplicity.clone();
                    // A dependency counts nothing, and what is not counted in the code may be any number of what is drawn as one.
                    let (drawn, of) = (number(relation), number(other));
                    let is_counted = sort == Sort::Association && sort_of(other.verb) == Sort::Association;
                    let of = of.unwrap_or_else(|| "1".to_owned());
                    let is_same = |drawn: String| match self.code.realm {
                        Realm::Code => is_many(&drawn) == is_many(&of),
                        Realm::Data => is_allowed(&drawn, &of),
                    };
                    if is_counted && drawn.is_some_and(|drawn| !is_same(drawn)) {
                        out.push(ClassDifference::Multiplicity { relation: id, of, place });
                    }
                }
            }
        }
        out.extend(self.surprises(&told));
        out
    }

    fn surprises(&self, told: &BTreeSet<usize>) -> Vec<ClassDifference> {
        let relations = self.code.diagram.relations.iter().enumerate().filter(|(i, _)| !told.contains(i));
        // A dependency is drawn where somebody wants to show it.
        let weighty =
            relations.filter(|(_, relation)| matches!(sort_of(relation.verb), Sort::Association | Sort::Kind));
        let found = weighty.filter_map(|(_, relation)| {
            let (from, to) = (*self.to_design.get(&relation.from)?, *self.to_design.get(&relation.to)?);
            let role = name_of(relation);
            // What is drawn as a row is drawn.
            let rows = self.design.element(from).class.iter().flat_map(|body| body.members());
            let is_row =
                role.as_ref().is_some_and(|role| rows.into_iter().any(|row| plain(&row.name()) == plain(role)));
            let place = self.place(relation.from);
            (!is_row).then_some(ClassDifference::Surprise { from, verb: relation.verb, to, role, place })
        });
        found.collect()
    }

    /// Classifiers that stand in files of drawn ones, and are not drawn.
    fn undrawn(&self) -> Option<ClassDifference> {
        let file = |id: ElementId| self.place(id).rsplit_once(':').map(|(file, _)| file.to_owned());
        let files: BTreeSet<String> = self.to_design.keys().filter_map(|found| file(*found)).collect();
        let all = self
            .code
            .diagram
            .ids()
            .filter(|(id, element)| is_classifier(element.kind) && !self.to_design.contains_key(id));
        let is_data = self.code.realm == Realm::Data;
        let all: Vec<(ElementId, String)> = all
            .filter(|(id, _)| is_data || file(*id).is_some_and(|file| files.contains(&file)))
            .map(|(id, element)| (id, element.shown().text()))
            .collect();
        let place = self.place(all.first()?.0);
        Some(ClassDifference::Undrawn { names: all.into_iter().map(|(_, name)| name).collect(), place })
    }
}

/// What sort of relation a verb stands for.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Sort {
    Kind,
    Association,
    Use,
    Other,
}

impl Sort {
    /// Whether a relation of the code is what is drawn: whoever has something uses it.
    fn allows(self, other: Sort) -> bool {
        self == other || self == Sort::Use && other == Sort::Association
    }
}

fn sort_of(verb: Verb) -> Sort {
    match verb {
        Verb::Extends | Verb::Implements => Sort::Kind,
        Verb::Owns | Verb::Shares | Verb::Knows | Verb::Joins => Sort::Association,
        Verb::Uses => Sort::Use,
        _ => Sort::Other,
    }
}

fn is_many(multiplicity: &str) -> bool {
    let most = multiplicity.rsplit("..").next().unwrap_or(multiplicity).trim();
    most == "*" || most.parse::<u32>().is_ok_and(|most| most > 1)
}

/// What a relation is called: its role, or its label.
fn name_of(relation: &Relation) -> Option<String> {
    let label = || Some(uncounted(&relation.label.as_ref()?.text()).to_owned());
    relation.ends[1].role.clone().or_else(label)
}

/// The same without what is written in several ways.
fn said(relation: &Relation) -> Option<String> {
    name_of(relation).map(|name| plain(&name))
}

/// A label without the number that an import puts behind it.
fn uncounted(label: &str) -> &str {
    match label.rsplit_once(", ") {
        Some((name, number)) if number.bytes().all(|b| b.is_ascii_digit()) => name,
        _ => label,
    }
}

/// How many there are of a member of some type; one, if nothing is said.
fn count_of(of: &str) -> &str {
    of.rsplit_once('[').and_then(|(_, count)| count.strip_suffix(']')).filter(|count| !count.is_empty()).unwrap_or("1")
}

/// Whether a number that was seen is one that a drawn multiplicity allows.
fn is_allowed(drawn: &str, seen: &str) -> bool {
    let least = |count: &str| count.split("..").next().unwrap_or(count).trim().parse::<u32>().unwrap_or(0);
    let fewer = least(seen) < least(drawn);
    !fewer && (is_many(drawn) || !is_many(seen))
}

/// The type of a member: what stands behind its last colon outside of brackets.
fn type_of(text: &str) -> String {
    let behind = match text.rfind(')') {
        Some(at) => &text[at + 1..],
        None => text,
    };
    let of = behind.split_once(':').map_or("", |(_, of)| of);
    of.split(['=', '{']).next().unwrap_or_default().trim().to_owned()
}

/// Whether two types have a name in common.
fn share_a_word(a: &str, b: &str) -> bool {
    let words = |text: &str| -> BTreeSet<String> {
        text.split(|c: char| !c.is_alphanumeric() && c != '_')
            .filter(|word| !word.is_empty())
            .map(str::to_lowercase)
            .collect()
    };
    !words(a).is_disjoint(&words(b))
}

impl ClassConformance {
    /// Leaves out what is accepted, by its keys; gives the keys that were found.
    pub fn accept(&mut self, design: &Diagram, accepted: &BTreeSet<String>) -> BTreeSet<String> {
        let mut accepted = Accepted::new(accepted);
        self.differences.retain_mut(|difference| {
            if let ClassDifference::Undrawn { names, .. } = difference {
                names.retain(|name| !accepted.has(format!("undrawn {name}")));
                return !names.is_empty();
            }
            !accepted.has(difference.keys(design).remove(0))
        });
        accepted.found
    }

    /// What differs, ready to be reported.
    pub fn deviations(&self, design: &Diagram) -> Vec<Deviation> {
        let mut out: Vec<Deviation> =
            self.differences.iter().map(|difference| difference.deviation(design, self.realm)).collect();
        out.sort_by_key(|one| (one.weight, one.span.start));
        out
    }
}

impl ClassDifference {
    fn deviation(&self, design: &Diagram, realm: Realm) -> Deviation {
        let there = realm.words();
        let called = |id: ElementId| format!("`{}`", design.element(id).called());
        let line = |id: RelationId| {
            let relation = design.relation(id);
            format!("{} {} {}", called(relation.from), relation.verb.word(), called(relation.to))
        };
        let (code, span, says, place) = match self {
            Self::Absent { element } => {
                ("absent", design.element(*element).span, format!("{} is nowhere {there}", called(*element)), None)
            }
            Self::MemberAbsent { element, member, span, place } => {
                ("member-absent", *span, format!("{} has no `{member}` {there}", called(*element)), Some(place))
            }
            Self::Type { element, member, span, of, place } => {
                let says = format!("`{member}` of {} is of type `{of}` {there}", called(*element));
                ("type", *span, says, Some(place))
            }
            Self::Count { element, member, span, of, place } => (
                "multiplicity",
                *span,
                format!("`{member}` of {}: there are {of} {there}", called(*element)),
                Some(place),
            ),
            Self::MemberSurprise { element, member, place } => (
                "member-surprise",
                design.element(*element).span,
                format!("{} has `{member}` {there}; the diagram does not show it", called(*element)),
                Some(place),
            ),
            Self::RelationAbsent { relation, place } => {
                ("absent", design.relation(*relation).span, format!("{} nowhere {there}", line(*relation)), Some(place))
            }
            Self::Surprise { from, verb, to, role, place } => {
                let role = role.as_ref().map_or(String::new(), |role| format!(" as `{role}`"));
                let says =
                    format!("{} {} {}{role}; the diagram does not say so", called(*from), verb.word(), called(*to));
                ("surprise", design.element(*from).span, says, Some(place))
            }
            Self::Multiplicity { relation, of, place } => (
                "multiplicity",
                design.relation(*relation).span,
                format!("{}: there are {of} {there}", line(*relation)),
                Some(place),
            ),
            Self::Undrawn { names, place } => {
                let shown: Vec<String> = names.iter().take(MOST_NAMES).map(|name| format!("`{name}`")).collect();
                let more = names.len() - shown.len();
                let more = if more > 0 { format!(" and {more} more") } else { String::new() };
                (
                    "undrawn",
                    design.span,
                    match realm {
                        Realm::Data => format!("in the data and not drawn: {}{more}", shown.join(", ")),
                        Realm::Code => format!("not drawn, though in files of what is: {}{more}", shown.join(", ")),
                    },
                    Some(place),
                )
            }
        };
        // What data has is what it is; types of code are written in many ways.
        let is_note = matches!(self, Self::Undrawn { .. }) || matches!(self, Self::Type { .. }) && realm == Realm::Code;
        let weight = if is_note { Weight::Note } else { Weight::Difference };
        let places = place.into_iter().cloned().collect();
        Deviation { code, weight, span, says, places, keys: self.keys(design) }
    }

    fn keys(&self, design: &Diagram) -> Vec<String> {
        let path = |id: ElementId| design.element(id).key.clone();
        let line = |id: RelationId| {
            let relation = design.relation(id);
            format!("{} {} {}", path(relation.from), relation.verb.word(), path(relation.to))
        };
        match self {
            Self::Absent { element } => vec![format!("absent {}", path(*element))],
            Self::MemberAbsent { element, member, .. } => vec![format!("member-absent {}: {member}", path(*element))],
            Self::Type { element, member, of, .. } => vec![format!("type {}: {member}: {of}", path(*element))],
            Self::Count { element, member, of, .. } => vec![format!("multiplicity {}: {member}: {of}", path(*element))],
            Self::MemberSurprise { element, member, .. } => {
                vec![format!("member-surprise {}: {member}", path(*element))]
            }
            Self::RelationAbsent { relation, .. } => vec![format!("absent {}", line(*relation))],
            Self::Surprise { from, verb, to, role, .. } => {
                let role = role.as_deref().unwrap_or_default();
                vec![format!("surprise {} {} {} {role}", path(*from), verb.word(), path(*to)).trim_end().to_owned()]
            }
            Self::Multiplicity { relation, of, .. } => vec![format!("multiplicity {}: {of}", line(*relation))],
            Self::Undrawn { names, .. } => names.iter().map(|name| format!("undrawn {name}")).collect(),
        }
    }
}

/// The classes as the code has them: without what is not there, with the relations that nobody drew. Compared with the design, it
/// gives the picture of the differences.
pub fn actual_classes(design: &Diagram, conformance: &ClassConformance) -> Diagram {
    let mut out = design.clone();
    let mut gone: BTreeSet<RelationId> = BTreeSet::new();
    for difference in &conformance.differences {
        match difference {
            ClassDifference::MemberAbsent { element, span, .. } => {
                let body = out.elements[element.index()].class.iter_mut();
                body.flat_map(|body| &mut body.compartments)
                    .for_each(|part| part.members.retain(|member| member.span != *span));
            }
            ClassDifference::RelationAbsent { relation, .. } => _ = gone.insert(*relation),
            ClassDifference::Multiplicity { relation, of, .. } => {
                let mut end = (*out.relations[relation.index()].ends[1]).clone();
                end.multiplicity = Some(of.clone());
                out.relations[relation.index()].ends[1] = end.into();
            }
            _ => {}
        }
    }
    let absent: BTreeSet<ElementId> = conformance
        .differences
        .iter()
        .filter_map(|one| if let ClassDifference::Absent { element } = one { Some(*element) } else { None })
        .collect();
    let relations = (0..).map(RelationId).zip(&design.relations);
    let ends = relations.filter(|(_, relation)| absent.contains(&relation.from) || absent.contains(&relation.to));
    gone.extend(ends.map(|(id, _)| id));
    remove(&mut out, &gone);
    for difference in &conformance.differences {
        if let ClassDifference::Surprise { from, verb, to, role, .. } = difference {
            let mut relation = Relation::between(*from, *to, *verb, design.span);
            let mut end = (*relation.ends[1]).clone();
            end.role.clone_from(role);
            relation.ends[1] = end.into();
            relation.key = format!("found {}", out.relations.len());
            out.relations.push(relation);
        }
    }
    without(out, &absent)
}

/// Takes elements out; nothing lies in them, and no relation speaks of them.
pub(super) fn without(mut diagram: Diagram, absent: &BTreeSet<ElementId>) -> Diagram {
    let kept = diagram.ids().map(|(id, _)| id).filter(|id| !absent.contains(id));
    let numbers: BTreeMap<ElementId, ElementId> = kept.zip((0..).map(ElementId)).collect();
    let number = |id: ElementId| numbers.get(&id).copied();
    let all = std::mem::take(&mut diagram.elements).into_iter().enumerate();
    let left = all.filter(|(i, _)| !absent.contains(&ElementId(*i as u32)));
    diagram.elements =
        left.map(|(_, element)| Element { parent: element.parent.and_then(number), ..element }).collect();
    for relation in &mut diagram.relations {
        relation.from = number(relation.from).unwrap_or(relation.from);
        relation.to = number(relation.to).unwrap_or(relation.to);
        relation.written_in = relation.written_in.and_then(number);
    }
    diagram
}

//! A vocabulary as classes of a diagram: literals become attributes, links to instances of classes become lines with how many there
//! are, namespaces become packages.

use super::names::{local, package, short, split};
use super::vocabulary::{Class, CountedOn, Property, Range, Vocabulary};
use super::{RDF, RDFS, XSD};
use crate::facts::{Facts, Link, Member, Thing};
use crate::finding::{Broken, Finding, Level, Seen};
use crate::select::Selection;
use crate::text::counted;
use bathygram_core::emit::written_column;
use bathygram_core::model::{DiagramKind, ElementKind, Verb};
use std::collections::{BTreeMap, BTreeSet};

/// What a vocabulary says, as facts.
///
/// # Errors
/// If there is no class in it, or none that is asked for.
pub fn facts(vocabulary: &Vocabulary, selection: &Selection) -> Result<Facts, Broken> {
    let seen = Seen { file: vocabulary.source.as_str().into(), ..Seen::default() };
    let broken = |why: String| Broken { seen: seen.clone(), why };
    if vocabulary.classes.is_empty() && !selection.only.is_empty() {
        return Err(broken(
            "no class of it is what is asked for; `--only` takes names such as `Station` or `tw:*`".to_owned(),
        ));
    }
    if vocabulary.classes.is_empty() {
        return Err(broken("nothing in it has a class: no triple says `rdf:type`".to_owned()));
    }
    let wanted: Vec<&Class> = vocabulary.classes.iter().filter(|class| wants(selection, vocabulary, class)).collect();
    if wanted.is_empty() {
        return Err(broken(match vocabulary.classes.len() {
            1 => "its one class is not what is asked for; `--only` takes names such as `Station` or `tw:*`".to_owned(),
            count => format!(
                "none of its {count} classes is what is asked for; `--only` takes names such as `Station` or `tw:*`"
            ),
        }));
    }
    let mut facts = Facts::new(DiagramKind::Classes);
    facts.counts.rows = vocabulary.triples.unwrap_or(vocabulary.classes.len() as u64);
    find(vocabulary, &seen, &mut facts);
    let classes = vocabulary.classes.iter().map(|class| (class.iri.as_str(), class)).collect();
    let mut drawing = Drawing { vocabulary, seen, facts, numbers: BTreeMap::new(), classes };
    drawing.things(&wanted);
    wanted.iter().for_each(|class| drawing.class(class));
    drawing.facts.call(selection, &vocabulary.name);
    Ok(drawing.facts)
}

fn wants(selection: &Selection, vocabulary: &Vocabulary, class: &Class) -> bool {
    let names = [local(&class.iri).to_owned(), short(&vocabulary.prefixes, &class.iri), class.iri.clone()];
    let matches = |patterns: &[String]| {
        let patterns: Vec<String> = patterns.iter().map(|pattern| known(vocabulary, pattern)).collect();
        names.iter().any(|name| Selection::any(&patterns, name))
    };
    (selection.only.is_empty() || matches(&selection.only)) && !matches(&selection.without)
}

/// A pattern without a prefix that this data does not have: endpoints name none.
fn known(vocabulary: &Vocabulary, pattern: &str) -> String {
    match pattern.split_once(':') {
        Some((prefix, name))
            if !name.starts_with("//") && prefix != "urn" && !vocabulary.prefixes.contains_key(prefix) =>
        {
            name.to_owned()
        }
        _ => pattern.to_owned(),
    }
}

fn find(vocabulary: &Vocabulary, seen: &Seen, facts: &mut Facts) {
    let mut note = |code, says| facts.findings.push(Finding::new(code, Level::Note, seen.clone(), says));
    match vocabulary.counted_on {
        Some(CountedOn::OneIn(part)) => note(
            "counted-on-a-part",
            format!("there are more nodes than are remembered: all numbers are estimates from one node in {part}"),
        ),
        Some(CountedOn::Instances(most)) => note(
            "counted-on-a-part",
            format!("properties rest on at most {most} instances of each class; `--sample N` looks at more"),
        ),
        None => {}
    }
    if let Some(most) = vocabulary.cut_at {
        note(
            "more-classes",
            format!("there are more classes; the {most} with most instances are read, `--only` asks for others"),
        );
    }
    if vocabulary.unclassed > 0 {
        let says = match vocabulary.unclassed {
            1 => "1 subject has no class; what it says is not drawn".to_owned(),
            count => format!("{count} subjects have no class; what they say is not drawn"),
        };
        note("no-class", says);
    }
}

/// This many classes above one are looked at for what it inherits.
const MOST_ABOVE: usize = 200;

struct Drawing<'a> {
    vocabulary: &'a Vocabulary,
    seen: Seen,
    facts: Facts,
    numbers: BTreeMap<&'a str, usize>,
    /// All classes by their IRIs.
    classes: BTreeMap<&'a str, &'a Class>,
}

impl<'a> Drawing<'a> {
    fn things(&mut self, wanted: &[&'a Class]) {
        let namespaces: BTreeSet<&str> = wanted.iter().map(|class| split(&class.iri).0).collect();
        let mut packages: BTreeMap<&str, usize> = BTreeMap::new();
        if namespaces.len() > 1 {
            for namespace in namespaces {
                let label = package(&self.vocabulary.prefixes, namespace);
                packages.insert(namespace, self.facts.things.len());
                self.facts.things.push(Thing::new(&label, ElementKind::Group, self.seen.clone()));
            }
        }
        for class in wanted {
            let mut thing = Thing::new(&class.iri, ElementKind::Class, self.seen.clone());
            thing.called = Some(local(&class.iri).to_owned());
            // Numbers are no names: what people call such a class stands beside.
            let letters = local(&class.iri).chars().filter(|c| c.is_alphabetic()).count();
            let label = class.label.as_ref().filter(|_| letters < 3);
            thing.label = Some(label.cloned().unwrap_or_else(|| local(&class.iri).to_owned()));
            thing.keyword = class.instances.map(|count| counted(count, "instance"));
            thing.said.about.clone_from(&class.comment);
            thing.holder = packages.get(split(&class.iri).0).copied();
            self.numbers.insert(&class.iri, self.facts.things.len());
            self.facts.things.push(thing);
        }
    }

    fn class(&mut self, class: &'a Class) {
        let Some(own) = self.numbers.get(class.iri.as_str()).copied() else { return };
        for parent in class.parents.iter().filter_map(|parent| self.numbers.get(parent.as_str())) {
            self.facts.links.push(Link::new(own, Verb::Extends, *parent, self.seen.clone()));
        }
        let mut rows: BTreeMap<&str, Vec<&Property>> = BTreeMap::new();
        let own_properties: Vec<&Property> =
            class.properties.iter().filter(|property| !self.is_inherited(class, property)).collect();
        for property in own_properties {
            let to = match &property.range {
                Range::Class(range) => self.numbers.get(range.as_str()).copied(),
                _ => None,
            };
            let Some(to) = to else {
                rows.entry(&property.iri).or_default().push(property);
                continue;
            };
            let mut link = Link::new(own, Verb::Knows, to, self.seen.clone());
            let name = local(&property.iri);
            link.label = Some(property.values.map_or(name.to_owned(), |values| format!("{name}, {values}")));
            link.ends[1].multiplicity = Some(property.multiplicity().to_owned());
            self.facts.links.push(link);
        }
        self.facts.things[own].members =
            rows.into_iter().map(|(iri, properties)| self.member(iri, &properties)).collect();
    }

    /// Whether a class above has the same property with the same range.
    fn is_inherited(&self, class: &Class, property: &Property) -> bool {
        let mut above: Vec<&String> = class.parents.iter().collect();
        let mut seen: BTreeSet<&String> = BTreeSet::from([&class.iri]);
        while let Some(iri) = above.pop() {
            if seen.len() > MOST_ABOVE || !seen.insert(iri) {
                continue;
            }
            let Some(other) = self.classes.get(iri.as_str()) else { continue };
            let is_same = |own: &Property| own.iri == property.iri && own.range == property.range;
            if self.numbers.contains_key(iri.as_str()) && other.properties.iter().any(is_same) {
                return true;
            }
            above.extend(&other.parents);
        }
        false
    }

    /// A property as an attribute: with all its ranges that are not drawn as lines.
    fn member(&self, iri: &str, properties: &[&Property]) -> Member {
        let ranges: Vec<String> = properties.iter().map(|property| self.range(&property.range)).collect();
        let all = Property {
            is_in_all: properties.iter().any(|property| property.is_in_all),
            is_many: properties.iter().any(|property| property.is_many),
            ..properties[0].clone()
        };
        // One is what an attribute has anyway.
        let count = match all.multiplicity() {
            "1" => String::new(),
            count => format!(" [{count}]"),
        };
        let having = |property: &&Property| Some(format!("in {}", counted(property.instances?, "instance")));
        let having: Option<Vec<String>> = properties.iter().map(having).collect();
        Member {
            text: format!("{}: {}{count}", written_column(local(iri)), ranges.join(" | ")),
            comment: having.map(|having| having.join(" | ")),
            ..Member::default()
        }
    }

    fn range(&self, range: &Range) -> String {
        let plain = |iri: &str| {
            let name: String =
                local(iri).chars().map(|c| if c.is_alphanumeric() || c == '-' { c } else { '_' }).collect();
            name
        };
        match range {
            Range::Datatype(iri) if *iri == format!("{RDF}langString") => "text".to_owned(),
            Range::Datatype(iri) if *iri == format!("{RDFS}Literal") => "literal".to_owned(),
            Range::Datatype(iri) if iri.starts_with(XSD) => local(iri).to_owned(),
            Range::Datatype(iri) | Range::Class(iri) => plain(iri),
            Range::Resource => "resource".to_owned(),
        }
    }
}

//! What RDF data is made of: classes, and the properties of their instances.

use super::Prefixes;

/// The classes of some data.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Vocabulary {
    /// The file or endpoint, as people name it.
    pub source: String,
    /// What a picture of it is called, if nobody says otherwise.
    pub name: String,
    /// Classes, in the order of their IRIs.
    pub classes: Vec<Class>,
    /// Short names of namespaces.
    pub prefixes: Prefixes,
    /// How many triples were read; nothing if an endpoint did not say.
    pub triples: Option<u64>,
    /// There are more classes than these, if this many are all that was asked for.
    pub cut_at: Option<u64>,
    /// How many subjects have no class.
    pub unclassed: u64,
    /// What is said of properties was counted on one in this many nodes, or on this many instances of each class.
    pub counted_on: Option<CountedOn>,
}

/// Of what part properties were counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CountedOn {
    /// One node in this many.
    OneIn(u64),
    /// At most this many instances of a class.
    Instances(u64),
}

/// A class.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Class {
    /// Its name in full.
    pub iri: String,
    /// How many instances it has; nothing if it is only declared.
    pub instances: Option<u64>,
    /// What it is called.
    pub label: Option<String>,
    /// What is said of it.
    pub comment: Option<String>,
    /// The classes whose subclass it is said to be.
    pub parents: Vec<String>,
    /// What its instances have.
    pub properties: Vec<Property>,
}

/// A property of a class, with one range.
#[derive(Clone, Debug, PartialEq)]
pub struct Property {
    /// Its name in full.
    pub iri: String,
    /// What its values are.
    pub range: Range,
    /// How many instances have such a value; nothing if that is not known.
    pub instances: Option<u64>,
    /// How many links to other nodes there are; nothing if that is not known.
    pub values: Option<u64>,
    /// Whether every instance has one: a literal of any datatype, or a node of this range.
    pub is_in_all: bool,
    /// Whether an instance has several of these.
    pub is_many: bool,
}

/// What the values of a property are.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Range {
    /// Literals of a datatype, by its IRI.
    Datatype(String),
    /// Instances of a class, by its IRI.
    Class(String),
    /// Resources without a class.
    Resource,
}

impl Property {
    /// How many values one instance has.
    pub fn multiplicity(&self) -> &'static str {
        match (self.is_in_all, self.is_many) {
            (true, false) => "1",
            (true, true) => "1..*",
            (false, false) => "0..1",
            (false, true) => "0..*",
        }
    }
}

//! What rules and traits ask of looks, in the words in which it is asked: for comparison.

use super::rules::Rules;
use crate::model::{Diagram, LookRule};
use crate::syntax::Trait;
use crate::vocabulary::TraitWord;
use std::collections::BTreeMap;

/// What is asked of one look: by what it is about, the value that wins.
pub type Asked = BTreeMap<&'static str, String>;

/// What is asked of the looks of a diagram.
#[derive(Clone, Debug)]
pub struct AskedLooks {
    /// By element.
    pub elements: Vec<Asked>,
    /// By relation.
    pub relations: Vec<Asked>,
    /// Of the ground.
    pub ground: Asked,
}

/// What rules, and the traits of elements and relations themselves, ask of the looks of a diagram.
pub fn asked(rules: &[LookRule], diagram: &Diagram) -> AskedLooks {
    let rules = Rules::new(rules);
    let one = |found: Vec<&LookRule>, own: &[Trait]| {
        let mut asked = Asked::new();
        found.iter().flat_map(|rule| &rule.traits).chain(own).for_each(|one| put(&mut asked, one));
        asked
    };
    AskedLooks {
        elements: diagram.elements.iter().map(|e| one(rules.of_element(e), &e.traits)).collect(),
        relations: diagram.relations.iter().map(|r| one(rules.of_relation(r), &r.traits)).collect(),
        ground: one(rules.of_picture(), &[]),
    }
}

fn put(asked: &mut Asked, one: &Trait) {
    for value in &one.values {
        let value = value.value.as_str();
        let of = match (one.meaning(), value) {
            (Some(TraitWord::Line), "dashed" | "dotted" | "solid") => "strokes of the line",
            (Some(TraitWord::Line), "thick" | "thin") => "width of the line",
            (Some(word), _) if word.is_look() => word.word(),
            _ => continue,
        };
        asked.insert(of, value.to_owned());
    }
}

//! References that nobody declared, by names: `station_id` is most likely the `id` of `station`.

use super::catalogue::{Catalogue, Qualified, Reference, Table};
use std::collections::BTreeMap;

/// What a column that refers to something ends with, in small letters.
const ENDINGS: [&str; 9] = ["id", "no", "nr", "num", "number", "code", "key", "uuid", "ref"];

/// A reference that is not declared.
pub(super) struct Guess {
    /// The number of the table.
    pub(super) table: usize,
    pub(super) reference: Reference,
}

/// What looks like a reference and is none, in the order of tables and columns.
pub(super) fn guesses(catalogue: &Catalogue) -> Vec<Guess> {
    let mut by_name: BTreeMap<String, Vec<usize>> = BTreeMap::new();
    for (i, table) in catalogue.tables.iter().enumerate().filter(|(_, table)| table.sort.is_none()) {
        for form in forms(&words(&table.name.name).join("_")) {
            by_name.entry(form).or_default().push(i);
        }
    }
    let mut found = Vec::new();
    for (i, table) in catalogue.tables.iter().enumerate().filter(|(_, table)| table.sort.is_none()) {
        for column in &table.columns {
            let is_known = table.references.iter().any(|reference| reference.columns.contains(&column.name));
            // A table's only key names its own rows.
            if is_known || table.key == [column.name.clone()] {
                continue;
            }
            let Some((target, name)) = target(catalogue, (i, &column.name, &column.of), &by_name) else { continue };
            let reference = Reference {
                columns: vec![column.name.clone()],
                table: target,
                targets: vec![name],
                on_delete: None,
                on_update: None,
            };
            found.push(Guess { table: i, reference });
        }
    }
    found
}

/// The table and the column that a column names.
fn target(
    catalogue: &Catalogue, (own, column, of): (usize, &str, &str), by_name: &BTreeMap<String, Vec<usize>>,
) -> Option<(Qualified, String)> {
    let words = words(column);
    let (ending, stem) = words.split_last()?;
    if stem.is_empty() || !ENDINGS.contains(&ending.as_str()) {
        return None;
    }
    // `from_station_id`: words before the table's name say what part it plays.
    let tables = (0..stem.len()).find_map(|start| by_name.get(&stem[start..].join("_")))?;
    let schema = &catalogue.tables[own].name.schema;
    let is_near = |i: &&usize| catalogue.tables[**i].name.schema == *schema;
    let near: Vec<usize> = tables.iter().filter(is_near).copied().collect();
    let [table] = (if near.is_empty() { &tables[..] } else { &near[..] }) else { return None };
    let table = &catalogue.tables[*table];
    let name = identifying(table, column, ending)?;
    let is_alike = table.column(&name).is_some_and(|other| family(&other.of) == family(of));
    is_alike.then(|| (table.name.clone(), name))
}

/// The column of a table that another table's column names: by its whole name, or by its ending.
fn identifying(table: &Table, column: &str, ending: &str) -> Option<String> {
    let single = std::iter::once(&table.key).chain(&table.uniques).filter(|key| key.len() == 1).map(|key| &key[0]);
    let is_it = |own: &&String| **own == column || words(own).last().is_some_and(|last| last == ending);
    single.into_iter().find(is_it).cloned()
}

/// The words of a name, in small letters: `stationId`, `station_id` and `STATION_ID` have the same two.
fn words(name: &str) -> Vec<String> {
    let mut words: Vec<String> = vec![String::new()];
    let mut was_small = false;
    for c in name.chars() {
        let is_break = !c.is_alphanumeric() || c.is_uppercase() && was_small;
        if is_break {
            words.push(String::new());
        }
        if c.is_alphanumeric() {
            words.last_mut().into_iter().for_each(|word| word.extend(c.to_lowercase()));
        }
        was_small = c.is_lowercase() || c.is_numeric();
    }
    words.retain(|word| !word.is_empty());
    words
}

/// A name, and what one of what it names is called: `stations` and `station`.
fn forms(name: &str) -> Vec<String> {
    let mut forms = vec![name.to_owned()];
    for (ending, one) in [("ies", "y"), ("ses", "s"), ("xes", "x"), ("ches", "ch"), ("shes", "sh"), ("s", "")] {
        if let Some(stem) = name.strip_suffix(ending).filter(|stem| !stem.is_empty() && !stem.ends_with('s')) {
            forms.push(format!("{stem}{one}"));
            break;
        }
    }
    forms
}

/// Types that can hold the same values.
fn family(of: &str) -> String {
    let of = of.to_lowercase();
    let plain = of.split(['(', ' ']).next().unwrap_or_default();
    match plain {
        _ if plain.contains("int") || plain.contains("serial") => "integer",
        "numeric" | "decimal" | "number" => "integer",
        "text" | "varchar" | "char" | "character" | "nvarchar" | "clob" => "text",
        _ => plain,
    }
    .to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_read_in_words() {
        assert_eq!(words("fromStationId"), ["from", "station", "id"]);
        assert_eq!(words("FROM_STATION_ID"), ["from", "station", "id"]);
        assert_eq!(words("a1_b"), ["a1", "b"]);
        assert_eq!(forms("stations"), ["stations", "station"]);
        assert_eq!(forms("batteries"), ["batteries", "battery"]);
        assert_eq!(forms("glass"), ["glass"]);
        assert_eq!(forms("boxes"), ["boxes", "box"]);
    }

    #[test]
    fn types_that_hold_the_same_are_alike() {
        assert_eq!(family("BIGINT"), family("integer"));
        assert_eq!(family("character varying(20)"), family("TEXT"));
        assert_ne!(family("uuid"), family("text"));
    }
}

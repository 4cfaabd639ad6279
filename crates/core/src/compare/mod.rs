//! What changed between two versions of a diagram. Input: two models. Output: [`Change`]s, typed; sentences are made from them
//! in one place, `words`.
//!
//! Elements are matched by their keys, then by likeness; relations by ends, verb and order, then by what they have in
//! common. Orders count: in time always, elsewhere those that every picture shows, and where nothing else changed all of them;
//! whether a picture follows these, `review` finds out. Guarantees: deterministic; comparing a diagram with itself, or with the
//! same one in other spaces and with other comments, yields nothing.

mod change;
mod diagrams;
mod elements;
mod events;
mod lost;
mod matching;
mod members;
mod merged;
mod order;
mod pairing;
mod relations;
mod renamed;
mod sheets;
mod steps;
mod words;
mod written;

pub use change::{Change, Changes, Difference, ElementName, Fate, Field, Subject};
pub(crate) use diagrams::{InBoth, compared, diagrams_of, sheets_of};
pub use diagrams::{diagrams, documents, new_keys};
pub(crate) use events::Events;
pub(crate) use matching::Matching;
pub use members::MemberChange;
pub use merged::{MAX_MARKED, MAX_MARKED_TEXT, Marked, Sides, fit_one_picture, merged};
pub(crate) use relations::Paired;
pub use words::Phrase;
pub(crate) use words::{called, code};
pub(crate) use written::traits;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::Document;
    use crate::pipeline;
    use crate::source::Source;

    fn read(text: &str) -> Document {
        let reading = pipeline::read(Source::new("t.bathy", text), "t", &crate::pipeline::Setting::default());
        assert!(!reading.has_errors(), "{:?}", reading.diagnostics);
        reading.document
    }

    fn words(old: &str, new: &str) -> Vec<String> {
        let changes = documents([&read(old)], [&read(new)]);
        let all = changes.iter().flat_map(|c| &c.changes);
        all.flat_map(crate::compare::Change::sentences).collect()
    }

    const OLD: &str = "architecture a \"A\"\n  service gateway \"Gateway\"\n    built \"Rust\"\n  store readings \"Readings\"\n  gateway writes readings \"appends\"\n";

    #[test]
    fn what_means_the_same_is_no_change() {
        let other = "// a comment\narchitecture a \"A\"\n    service gateway \"Gateway\" // here\n        built \"Rust\"\n    gateway   writes readings   \"appends\"\n\n    store readings \"Readings\"\n";
        assert!(words(OLD, OLD).is_empty());
        assert_eq!(words(OLD, other), [""; 0]);
        let turned = "architecture a \"A\"\n  store readings \"Readings\"\n  service gateway \"Gateway\"\n    built \"Rust\"\n  gateway writes readings \"appends\"\n";
        assert_eq!(words(OLD, turned), ["`readings` comes before `gateway` now"]);
    }

    #[test]
    fn changes_are_described_in_words() {
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
        let shown = words(&chain("a"), &chain("b"));
        let renamed = shown.iter().filter(|t| t.contains("is called")).count();
        assert_eq!((renamed, shown.len()), (400, 800), "names and labels, and no line: {shown:?}");
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
    fn what_was_removed_is_reported_last() {
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
        assert_eq!(words(old, swapped), ["`Buoy`: `+ mass: Kilograms` comes before `+ name: Text` now"]);
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
        assert_eq!(words(old, new), ["`opt [late]` is new, around 1 message", "`phase \"Later\"` is new"]);
    }

    #[test]
    fn sheets_and_constraints_are_compared_by_what_they_name() {
        let new = format!("{OLD}sheet one of a \"One\"\n  depth 1\n  show gateway, readings\n");
        assert_eq!(words(OLD, &new), ["sheet `one` of `a` is new"]);
        assert_eq!(words(&new, &new.replace("depth 1", "depth 2")), ["sheet `one`: depth: \"1\" became \"2\""]);
        assert_eq!(
            words(&new, &new.replace("gateway, readings\n", "gateway\n")),
            ["sheet `one`: show: \"readings\" removed"]
        );
        let row = OLD.to_owned() + "  row gateway, readings\n";
        assert_eq!(words(OLD, &row), ["the picture's constraint: \"row gateway, readings\" added"]);
    }
}

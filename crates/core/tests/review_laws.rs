//! Laws of the review: whatever a random edit does to a picture is a change, and what it does to comments and spaces is none.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::compare::Changes;
use bathygram_core::pipeline::{DrawOptions, Reading, Studio, draw};
use bathygram_core::review;
use bathygram_core::scene::Scene;
use proptest::prelude::*;
use std::collections::BTreeMap;
use std::sync::LazyLock;
use support::{good, read};

static STUDIO: LazyLock<Studio> = LazyLock::new(Studio::new);

/// A text of each kind, with looks, orders, sheets and everything else that a picture shows.
const TEXTS: [&str; 7] = [
    "sequence surge \"Surge\"\n  party buoy\n  party desk \"Desk\"\n  party keeper\n  buoy sends desk \"4.2 m\"\n  when \"late\"\n    desk sends keeper \"call\" within \"3 min\"\n    keeper answers desk \"ok\"\n  or \"early\"\n    desk does \"wait\"\n  phase \"Later\"\n  remark on desk \"Both watch\"\n  desk sends buoy \"ack\"\nlook\n  sends: line azure\n",
    "classes coast \"Coast\"\n  class Buoy\n    + name: Text\n    + mass: Kilograms\n    + drift(limit: Metres)\n  enum Level\n    low\n    mid\n    high\n  class Gauge\n  Buoy extends Gauge\n  Gauge owns 1..* Level \"reads\"\nlook\n  class: fill sand\n  Level: line coral thick\n",
    "flow warn \"Warn\"\n  lane desk \"Desk\"\n  lane keeper \"Keeper\"\n  in desk\n    begin \"Frame arrives\"\n    step check \"Check the frame\"\n    decide \"High?\" in keeper\n      when \"yes\"\n        \"Warn\" (tag loud)\n      or \"no\"\n        \"Log\" in desk\n    finish \"Done\"\nlook\n  tag loud: fill coral\n",
    "states life \"Life\"\n  begin becomes afloat\n  afloat becomes adrift on \"chain breaks\"\n  afloat becomes ashore on \"recovered\"\n  adrift becomes ashore on \"found\"\n  ashore becomes finish\n  state afloat \"Afloat\"\n  heading right\n",
    "architecture tide \"Tide\"\n  system core \"Core\"\n    service gateway \"Gateway\"\n      built \"Rust\"\n    store readings \"Readings\"\n  actor keeper \"Keeper\" (tag people)\n  service desk \"Desk\"\n  keeper uses desk\n  desk uses gateway \"asks\"\n  gateway writes readings \"appends\" (line dashed)\nsheet outside of tide \"From outside\"\n  depth 1\nlook\n  tag people: fill sand\n  uses: line kelp\n",
    "network shore \"Shore\"\n  zone pier \"Pier\"\n    device mast \"Mast\"\n    device logger \"Logger\"\n  device desk \"Desk\"\n  mast joins logger\n  logger joins desk \"cable\"\n  caption \"As built\"\n",
    "tree dredge \"Dredge?\"\n  decide \"Dredge now?\"\n    outcome \"Yes\" when \"now\"\n    chance \"Storm?\" when \"later\"\n      outcome \"Bad\" when \"storm\"\n      outcome \"Good\" when \"calm\"\n",
];

/// What is done to a text.
#[derive(Clone, Copy, Debug)]
enum Edit {
    /// Two lines after each other change places.
    Swap,
    /// A line is left out.
    Remove,
    /// A line stands twice.
    Repeat,
    /// A word in quotes, or a colour, becomes another one.
    Reword,
    /// A comment, an empty line, or more spaces.
    Space,
}

const EDITS: [Edit; 5] = [Edit::Swap, Edit::Remove, Edit::Repeat, Edit::Reword, Edit::Space];

fn edited(text: &str, edit: Edit, at: usize) -> String {
    let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
    let at = at % lines.len();
    match edit {
        Edit::Swap if at + 1 < lines.len() => lines.swap(at, at + 1),
        Edit::Swap => {}
        Edit::Remove => drop(lines.remove(at)),
        Edit::Repeat => lines.insert(at, lines[at].clone()),
        Edit::Reword => {
            let words =
                [("sand", "azure"), ("coral", "kelp"), ("kelp", "ochre"), ("thick", "thin"), ("dashed", "dotted")];
            let other = words.iter().find(|(word, _)| lines[at].contains(word));
            lines[at] = match other {
                Some((word, other)) => lines[at].replacen(word, other, 1),
                None => lines[at].replacen("\" ", "s\" ", 1).replacen(": ", ":  ", 1),
            };
        }
        Edit::Space => {
            lines[at] = lines[at].trim_end().to_owned() + "   // as it was said";
            lines.insert(at, "// a remark of the author's".to_owned());
            lines.insert(at, String::new());
        }
    }
    lines.join("\n") + "\n"
}

/// What the pictures of a text show, each drawn from new.
fn scenes(reading: &Reading) -> BTreeMap<String, Scene> {
    let scene = |p: &bathygram_core::pipeline::Picture<'_>| {
        draw(&STUDIO, reading, &p.view(), &DrawOptions::default()).scene.without_lines()
    };
    reading.pictures().map(|p| (p.name.to_owned(), scene(&p))).collect()
}

fn changes(old: &Reading, new: &Reading) -> Vec<Changes> {
    review::changes(&STUDIO, &[old], &[new])
}

fn sentences(old: &str, new: &str) -> Vec<String> {
    let all = changes(&good(old), &good(new));
    all.iter().flat_map(|c| &c.changes).flat_map(bathygram_core::compare::Change::sentences).collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 160, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn whatever_a_picture_shows_otherwise_is_a_change(
        which in 0..TEXTS.len(), edits in prop::collection::vec((0..EDITS.len(), 0..40_usize), 1..3),
    ) {
        let old = TEXTS[which];
        let new = edits.iter().fold(old.to_owned(), |text, (edit, at)| edited(&text, EDITS[*edit], *at));
        let (then, now) = (good(old), read(&new));
        prop_assume!(!now.has_errors());
        let found = changes(&then, &now);
        if scenes(&then) != scenes(&now) {
            prop_assert!(!found.is_empty(), "nothing is said of\n{new}");
        }
        if edits.iter().all(|(edit, _)| matches!(EDITS[*edit], Edit::Space)) {
            prop_assert!(found.is_empty(), "{found:?}\n{new}");
        }
        let said = found.iter().flat_map(|c| &c.changes).all(|c| !c.sentences().is_empty());
        prop_assert!(said, "a change without words: {found:?}");
    }
}

#[test]
fn the_texts_are_right_and_drawn() {
    for text in TEXTS {
        assert!(!scenes(&good(text)).is_empty());
        assert_eq!(sentences(text, text), [""; 0]);
    }
}

#[test]
fn looks_are_told_by_what_they_draw() {
    let old =
        "architecture a\n  service x\n  service y\n  service z\n  store s\n  x uses y\nlook\n  service: fill sand\n";
    let changed = |new: &str| sentences(old, &old.replace("service: fill sand", new));
    assert_eq!(
        changed("service: fill azure"),
        ["`x`, `y` and `z` are drawn differently: fill: \"sand\" became \"azure\""]
    );
    assert_eq!(
        changed("service: fill sand, line thick\n  uses: line coral"),
        [
            "`x`, `y` and `z` are drawn differently: width of the line: \"thick\" added",
            "`x uses y` is drawn differently: line: \"coral\" added",
        ]
    );
    assert_eq!(changed("service: fill sand\n  picture: fill shell"), ["the picture's fill: \"shell\" added"]);
    // A rule that comes to the same is no change, nor is one about nothing that is drawn.
    assert_eq!(changed("service: fill azure, fill sand"), [""; 0]);
}

#[test]
fn orders_are_told_where_they_show() {
    let lanes = "flow f\n  lane a \"A\"\n  lane b \"B\"\n  begin \"x\" in a\n  finish \"y\" in b\n";
    let other = "flow f\n  lane b \"B\"\n  lane a \"A\"\n  begin \"x\" in a\n  finish \"y\" in b\n";
    assert_eq!(sentences(lanes, other), ["`b` comes before `a` now"]);
    let parties = "sequence s\n  party a\n  party b\n  a sends b \"x\"\n";
    assert_eq!(
        sentences(parties, "sequence s\n  party b\n  party a\n  a sends b \"x\"\n"),
        ["`b` comes before `a` now"]
    );
    let members = "classes c\n  class A\n    + x: Text\n    + y: Text\n  enum E\n    low\n    high\n";
    let swapped = "classes c\n  class A\n    + y: Text\n    + x: Text\n  enum E\n    high\n    low\n";
    assert_eq!(
        sentences(members, swapped),
        ["`A`: `+ y: Text` comes before `+ x: Text` now", "`E`: `high` comes before `low` now"]
    );
    let tree = "tree t\n  a\n    b\n    c\n";
    assert_eq!(sentences(tree, "tree t\n  a\n    c\n    b\n"), ["`c` comes before `b` now"]);
    // The order of declarations counts where the layout follows it.
    let map = "architecture a\n  service x\n  service y\n  store z\n  x uses z\n  y uses z\n";
    let turned = "architecture a\n  service y\n  service x\n  store z\n  x uses z\n  y uses z\n";
    let is_drawn_alike = scenes(&good(map)) == scenes(&good(turned));
    assert_eq!(sentences(map, turned).is_empty(), is_drawn_alike);
}

#[test]
fn a_label_that_says_what_the_name_says_is_none() {
    assert_eq!(sentences("architecture a\n  service B2\n", "architecture a\n  service B2 \"B2\"\n"), [""; 0]);
    assert_eq!(
        sentences("architecture a\n  service B2\n", "architecture a\n  service B2 \"Berth\"\n"),
        ["`B2`: label: \"Berth\" added"]
    );
}

#[test]
fn a_renamed_block_is_a_rename() {
    let old = "flow warn \"Warn\"\n  begin \"a\"\n  \"Check\"\n  finish \"b\"\nsheet s of m\n  depth 1\narchitecture m\n  service x\n    part p\n";
    assert_eq!(sentences(old, &old.replace("flow warn", "flow alert")), ["flow `warn` is called `alert` now"]);
    assert_eq!(
        sentences(old, &old.replace("flow warn", "flow alert").replace("\"Check\"", "\"Check it\"")).len(),
        2,
        "the name, and the step"
    );
    assert_eq!(sentences(old, &old.replace("sheet s", "sheet outside")), ["sheet `s` is called `outside` now"]);
    let all = changes(&good(old), &good(&old.replace("flow warn", "flow alert")));
    assert_eq!((all[0].diagram.as_str(), all[0].before.as_deref()), ("alert", Some("warn")));
    // What holds something else is another one.
    let other = "states x\n  begin becomes y\n  y becomes finish\nsheet s of m\n  depth 1\narchitecture m\n  service x\n    part p\n";
    assert_eq!(sentences(old, other), ["states `x` is new", "flow `warn` is gone"]);
}

//! What changed between two versions, construct by construct.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

mod support;

use bathygram_core::compare::{Changes, Fate, documents};
use support::good;

fn changes(old: &str, new: &str) -> Vec<Changes> {
    documents([&good(old).document], [&good(new).document])
}

/// One line for each change: fate, what it is, details.
fn shown(old: &str, new: &str) -> Vec<String> {
    let all = changes(old, new);
    let line = |c: &bathygram_core::compare::Change| {
        let fate = match c.fate {
            Fate::Added => "+",
            Fate::Removed => "-",
            Fate::Changed => "~",
            Fate::Moved => ">",
            Fate::Drawn => "=",
        };
        let details = if c.details().is_empty() { String::new() } else { format!(": {}", c.details().join("; ")) };
        format!("{fate} {}{details}", c.what())
    };
    all.iter().flat_map(|d| d.changes.iter().map(line)).collect()
}

/// All sentences.
fn said(old: &str, new: &str) -> Vec<String> {
    changes(old, new).iter().flat_map(|d| &d.changes).flat_map(bathygram_core::compare::Change::sentences).collect()
}

#[test]
fn a_step_between_others_is_one_sentence() {
    let old = "flow f\n  begin \"Frame\"\n  \"Check\"\n  decide \"High?\"\n    when \"yes\"\n      \"Warn\"\n    or \"no\"\n      \"Log\"\n  finish \"Done\"\n";
    let with = |line: &str, before: &str| old.replacen(before, &format!("{line}{before}"), 1);
    let one = with("  \"Note the time\"\n", "  decide");
    assert_eq!(said(old, &one), ["step \"Note the time\" is new, between \"Check\" and \"High?\""]);
    assert_eq!(said(&one, old), ["step \"Note the time\" is gone from between \"Check\" and \"High?\""]);
    let two = with("  \"Note the time\"\n  \"Sign\"\n", "  decide");
    assert_eq!(
        said(old, &two),
        [
            "step \"Note the time\" is new, between \"Check\" and \"Sign\"",
            "step \"Sign\" is new, between \"Note the time\" and \"High?\"",
        ]
    );
    // In a branch the guard stays where it was.
    let inside = with("      \"Wake the keeper\"\n", "      \"Warn\"");
    assert_eq!(said(old, &inside), ["step \"Wake the keeper\" is new, between \"High?\" and \"Warn\""]);
    let last = with("  \"Sign\"\n", "  finish");
    assert_eq!(said(old, &last).len(), 3, "two lines lead to it: {:?}", said(old, &last));
}

#[test]
fn a_guard_that_changed_is_one_sentence() {
    let old = "sequence s\n  a sends b \"x\"\n  when \"late\"\n    b sends c \"y\"\n    c sends a \"z\"\n  or \"early\"\n    b does \"wait\"\n";
    assert_eq!(said(old, &old.replace("late", "very late")), ["`alt [late] …`: guard: \"late\" became \"very late\""]);
    assert_eq!(
        said(
            "sequence s\n  a sends b \"x\"\n  b sends a \"y\"\n",
            "sequence s\n  repeat \"daily\"\n    a sends b \"x\"\n    b sends a \"y\"\n"
        ),
        ["`loop [daily]` is new, around 2 messages"]
    );
    let moved = "sequence s\n  a sends b \"x\"\n  phase \"Later\"\n  b sends a \"y\"\n";
    assert_eq!(
        said(moved, "sequence s\n  phase \"Later\"\n  a sends b \"x\"\n  b sends a \"y\"\n"),
        ["`phase \"Later\"`: moved before message 1"]
    );
}

#[test]
fn counts_have_their_plural_right() {
    let all = changes("flow f\n  \"a\"\n", "flow f\n  \"a\"\narchitecture m\n  service x\n  service y\n  x uses y\n");
    assert_eq!(all[0].changes[0].details(), ["2 elements, 1 relation"]);
}

#[test]
fn order_and_comments_of_declarations_do_not_count() {
    let old = "architecture a\n  system x\n  system y\n  x uses y\n";
    let new = "// words\narchitecture a\n  system y // here\n  system x\n\n  x uses y\n";
    // Whether the order of declarations shows is for the pictures to say.
    assert_eq!(shown(old, new), ["= system y: comes before `x` now"]);
    assert!(shown(old, "// words\narchitecture a\n\n  system x\n  system   y // here\n  x uses y\n").is_empty());
}

#[test]
fn titles_headings_captions() {
    let old = "flow f \"One\"\n  \"x\"\n";
    let new = "flow f \"Two\"\n  heading right\n  caption \"c\"\n  \"x\"\n";
    assert_eq!(
        shown(old, new),
        ["~ flow f: title: \"One\" became \"Two\"; caption: \"c\" added; heading: \"right\" added"]
    );
}

#[test]
fn every_property_of_an_element() {
    let old = "architecture a\n  system x\n    about \"one\"\n    built \"Rust\"\n    tag old\n";
    let new = "architecture a\n  service x (external)\n    about \"two\"\n    owner \"Coast office\"\n    tag new\n    icon bell\n";
    assert_eq!(
        shown(old, new),
        ["~ service x: kind: \"system\" became \"service\"; about: \"one\" became \"two\"; built: \"Rust\" removed; \
         owner: \"Coast office\" added; icon: \"bell\" added; tags: \"old\" became \"new\"; traits: \"external\" added",]
    );
}

#[test]
fn an_element_that_moves_keeps_what_it_is() {
    let old = "architecture a\n  system p\n    part x \"The part\"\n  system q\n  x uses y\n";
    let new = "architecture a\n  system p\n  system q\n    part x \"The part\"\n  x uses y\n";
    assert_eq!(shown(old, new), ["> part x \"The part\": place: \"p\" became \"q\""]);
}

#[test]
fn relations_by_their_ends_and_verbs() {
    let old = "architecture a\n  x uses y \"a\"\n  x uses y \"b\"\n  x reads y\n";
    assert_eq!(
        shown(old, "architecture a\n  x uses y \"b\"\n  x uses y \"a\"\n  x reads y\n"),
        ["= x uses y \"b\": comes before `x uses y \"a\"` now"],
        "whether their order shows is for the pictures to say"
    );
    assert_eq!(
        shown(old, "architecture a\n  x uses y \"a\"\n  x uses y \"c\"\n  x writes y\n"),
        ["~ x uses y \"c\": label: \"b\" became \"c\"", "~ x writes y: verb: \"reads\" became \"writes\""]
    );
    assert_eq!(
        shown(old, "architecture a\n  x uses y \"a\"\n  x uses y \"b\"\n  x reads y \"r\" over \"SQL\"\n"),
        ["~ x reads y \"r\": label: \"r\" added; over: \"SQL\" added"]
    );
}

#[test]
fn ends_of_associations() {
    let old = "classes c\n  A knows 0..1 B as one\n";
    let new = "classes c\n  1 A knows 0..* B as many\n";
    assert_eq!(shown(old, new), ["~ A knows B: beginning: \"1\" added; end: \"one 0..1\" became \"many 0..*\""]);
}

#[test]
fn steps_of_a_flow_by_their_labels() {
    let old = "flow f\n  begin \"A\"\n  \"B\"\n  finish \"C\"\n";
    let new = "flow f\n  begin \"A\"\n  \"B\"\n  \"B2\"\n  finish \"C\"\n";
    assert_eq!(shown(old, new), ["+ step \"B2\": between \"B\" and \"C\""]);
}

#[test]
fn branches_are_known_by_their_labels() {
    let old = "flow f\n  decide \"D?\"\n    when \"yes\"\n      \"A\"\n    or \"no\"\n      \"B\"\n";
    assert_eq!(
        shown(old, &old.replace("\"no\"", "\"never\"")),
        ["~ \"D?\" then B: branch: \"no\" became \"never\""].map(|s| s.replace("\"D?\"", "D?"))
    );
}

#[test]
fn what_happens_around_messages() {
    let old = "sequence s\n  a calls b \"x\" returning \"r\"\n  remark on a \"old\"\n  phase \"p\"\n";
    let new = "sequence s\n  a calls b \"x\" returning \"q\" when \"g\" within \"2 s\"\n  remark on a \"new\"\n  pause \"t\"\n  see other across a\n";
    assert_eq!(
        shown(old, new),
        [
            "~ a calls b \"x\": returning: \"r\" became \"q\"; when: \"g\" added; within: \"2 s\" added",
            "+ remark on a \"new\"",
            "+ pause \"t\"",
            "+ see \"other\" across a",
            "- remark on a \"old\"",
            "- phase \"p\"",
        ]
    );
}

#[test]
fn the_fewest_moves_explain_a_new_order() {
    let line = |n: usize| format!("  a sends b \"m{n}\"\n");
    let text = |order: &[usize]| format!("sequence s\n{}", order.iter().map(|n| line(*n)).collect::<String>());
    let old = text(&[1, 2, 3, 4, 5, 6]);
    assert_eq!(shown(&old, &text(&[2, 3, 4, 5, 6, 1])), ["> a sends b \"m1\": moved in time"]);
    assert_eq!(shown(&old, &text(&[1, 5, 2, 3, 4, 6])), ["> a sends b \"m5\": moved in time"]);
    assert_eq!(shown(&old, &text(&[6, 5, 4, 3, 2, 1])).len(), 5);
}

#[test]
fn diagrams_that_come_go_and_change_their_kind() {
    let old = "flow one\n  \"x\"\nflow two\n  \"y\"\n";
    let new = "flow two\n  \"y\"\nclasses three \"Three\"\n  class A\n";
    assert_eq!(
        shown(old, new),
        ["+ classes three \"Three\": 1 element, 0 relations", "- flow one: 1 element, 0 relations"]
    );
    let kinds = shown("flow f\n  \"x\"\n", "architecture f\n  system x \"x\"\n");
    assert!(kinds[0].contains("kind: \"flow\" became \"architecture\""), "{kinds:?}");
}

#[test]
fn changes_tell_where_they_are() {
    let old = "architecture a\n  system x\n  system gone\n";
    let new = "architecture a\n\n  system x (external)\n  system y\n";
    let all = changes(old, new);
    let (then, now) = (good(old), good(new));
    let line = |c: &bathygram_core::compare::Change| {
        let reading = if c.fate == Fate::Removed { &then } else { &now };
        reading.sources().line(c.span)
    };
    let places: Vec<(Fate, &str, &str, u32)> =
        all[0].changes.iter().map(|c| (c.fate, c.subject.sort(), c.subject.id(), line(c))).collect();
    assert_eq!(
        places,
        [(Fate::Changed, "element", "x", 3), (Fate::Added, "element", "y", 4), (Fate::Removed, "element", "gone", 3),]
    );
}

#[test]
fn comparing_the_demo_with_itself_finds_nothing_and_with_nothing_everything() {
    for reading in support::demo() {
        let document = &reading.document;
        assert!(documents([document], [document]).is_empty());
        let all = documents([], [document]);
        assert_eq!(all.len(), document.diagrams.len() + document.sheets.len());
        assert!(all.iter().all(|c| c.changes.len() == 1 && c.changes[0].fate == Fate::Added));
    }
}

#[test]
fn words_about_the_picture_are_compared() {
    let old = "network n\n  a joins b\n  row a, b\n";
    let new = "network n\n  a joins b\n  arrange force\n  route curved\n  spacing 2\n  legend\n  row a, b\n  place a left of b\n";
    assert_eq!(
        shown(old, new),
        [
            "~ network n: arrange: \"force\" added; route: \"curved\" added; spacing: \"2\" added; legend: \"drawn\" added; constraint: \"place a left of b\" added"
        ]
    );
}

#[test]
fn states_networks_and_trees_are_compared() {
    let changed = |old: &str, new: &str| shown(old, new);
    assert_eq!(
        changed("states s\n  a becomes b on \"x\"\n", "states s\n  a becomes b on \"x\" when \"y\"\n"),
        ["~ a becomes b \"x [y]\": label: \"x\" became \"x [y]\""]
    );
    assert_eq!(changed("network n\n  a joins b\n", "network n\n  a joins b\n  b then c\n").len(), 2);
    assert_eq!(changed("tree t\n  x\n    y\n", "tree t\n  x\n    y when \"z\"\n").len(), 1);
    assert!(changed("tree t\n  x\n    y\n", "tree t\n  x\n    y\n").is_empty());
}

#[test]
fn sheets_are_compared_by_what_they_say() {
    let text =
        |lines: &str| format!("architecture a\n  system x\n    part p\n  host h\n    runs x\nsheet s of a\n{lines}");
    assert_eq!(shown(&text("  depth 1\n"), &text("  depth 2\n  tell\n")).len(), 1);
    assert_eq!(shown(&text("  depth 1\n"), &text("  by hosts\n")).len(), 1);
    assert!(shown(&text("  depth 1\n"), &text("  depth 1\n")).is_empty());
}

//! What texts mean: small texts of every kind, and the model they become.

mod support;

use bathygram_core::model::Verb;
use insta::assert_snapshot;
use support::{codes, diagram, good, outline};

#[test]
fn flow_follows_the_order_of_its_lines() {
    assert_snapshot!(outline(&diagram("flow f\n  begin \"Start\"\n  \"One\"\n  step two \"Two\"\n  finish \"End\"\n")), @r#"
    begin Start "Start"
    step One "One"
    step two "Two"
    finish End "End"
    Start then One
    One then two
    two then End
    "#);
}

#[test]
fn flow_decisions_join_again() {
    assert_snapshot!(outline(&diagram(
        "flow f\n  decide \"a?\"\n    when \"yes\"\n      \"b\"\n    or \"no\"\n      \"c\"\n    otherwise\n      finish \"d\"\n  \"e\"\n"
    )), @r#"
    decide a? "a?"
    step b "b"
    step c "c"
    finish d "d"
    step e "e"
    a? then b start "yes"
    a? then c start "no"
    a? then d start "otherwise"
    b then e
    c then e
    "#);
}

#[test]
fn flow_branches_without_steps_flow_on() {
    assert_snapshot!(outline(&diagram("flow f\n  decide \"a?\"\n    when \"yes\"\n    or \"no\"\n      \"c\"\n  \"e\"\n")), @r#"
    decide a? "a?"
    step c "c"
    step e "e"
    a? then c start "no"
    a? then e start "yes"
    c then e
    "#);
}

#[test]
fn flow_a_missing_branch_is_drawn_and_reported() {
    let text = "flow f\n  decide \"a?\"\n    when \"yes\"\n      \"b\"\n  \"c\"\n";
    assert_eq!(codes(text), ["one-armed-decision"]);
    assert_snapshot!(outline(&diagram(text)), @r#"
    decide a? "a?"
    step b "b"
    step c "c"
    a? then b start "yes"
    b then c
    a? onward c
    "#);
}

#[test]
fn flow_jumps_by_name_and_by_label() {
    assert_snapshot!(outline(&diagram(
        "flow f\n  step first \"First\"\n  \"Second\"\n  decide \"again?\"\n    when \"yes\"\n      go first \"back\"\n    or \"no\"\n      go \"Last\"\n  \"Skipped\"\n  \"Last\"\n"
    )), @r#"
    step first "First"
    step Second "Second"
    decide again? "again?"
    step Skipped "Skipped"
    step Last "Last"
    first then Second
    Second then again?
    Skipped then Last
    again? then first "back" start "yes"
    again? then Last start "no"
    "#);
}

#[test]
fn flow_parts_go_together() {
    assert_snapshot!(outline(&diagram(
        "flow f\n  \"a\"\n  together \"left\"\n    \"b\"\n    \"c\"\n  and \"right\"\n    \"d\"\n  finish \"e\"\n"
    )), @r#"
    step a "a"
    bar bar
    step b "b"
    step c "c"
    step d "d"
    bar bar (2)
    finish e "e"
    a then bar
    bar then b start "left"
    b then c
    bar then d start "right"
    c then bar (2)
    d then bar (2)
    bar (2) then e
    "#);
}

#[test]
fn flow_lanes_hold_what_follows_and_bodies_inherit() {
    assert_snapshot!(outline(&diagram(
        "flow f\n  lane sea \"Sea\"\n  lane land \"Land\"\n  in sea\n    \"a\"\n    decide \"b?\" in land\n      when \"x\"\n        \"c\"\n      or \"y\"\n        \"d\" in sea\n        \"e\"\n  in land\n    \"g\"\n"
    )), @r#"
    lane sea "Sea"
    lane land "Land"
      step a "a" in sea
      decide b? "b?" in land
      step c "c" in land
      step d "d" in sea
      step e "e" in land
      step g "g" in land
    a then b?
    b? then c start "x"
    b? then d start "y"
    d then e
    c then g
    e then g
    "#);
}

#[test]
fn flow_lanes_hold_lanes_and_groups() {
    assert_snapshot!(outline(&diagram(
        "flow f\n  lane shore\n    lane desk\n    group watch in desk\n    lane pier\n  \"a\" in watch\n  in pier\n    group boat\n    \"b\" in boat\n    finish \"c\"\n"
    )), @r#"
    lane shore
      lane desk in shore
        group watch in desk
      lane pier in shore
          step a "a" in watch
        group boat in pier
          step b "b" in boat
        finish c "c" in pier
    a then b
    b then c
    "#);
}

#[test]
fn flow_repeats_between_two_limits() {
    assert_snapshot!(outline(&diagram(
        "flow f\n  lane sea\n  begin \"a\"\n  repeat \"three times\" in sea\n    \"b\"\n    decide \"c?\"\n      when \"x\"\n        finish \"d\"\n      or \"y\"\n  finish \"e\"\n"
    )), @r#"
    lane sea
    begin a "a"
      repeat three times "three times" in sea
      step b "b" in sea
      decide c? "c?" in sea
      finish d "d" in sea
      until three times (2) "three times" in sea
    finish e "e"
    a then three times
    three times then b
    b then c?
    c? then d start "x"
    c? then three times (2) start "y"
    three times (2) then e
    "#);
}

#[test]
fn flow_asides_remarks_and_extra_arrows() {
    assert_snapshot!(outline(&diagram(
        "flow f\n  step a \"A\"\n    aside data \"D\"\n    remark \"mind the tide\"\n  step b \"B\"\n  step c \"C\"\n  a then c \"short cut\"\n  a then b \"usual way\"\n"
    )), @r#"
    step a "A"
    data D "D"
    step b "B"
    step c "C"
    remark mind the tide "mind the tide"
    a aside D
    a then b "usual way"
    b then c
    a then c "short cut"
    mind the tide remarks a
    "#);
}

#[test]
fn sequence_bodies_belong_to_the_receiver() {
    assert_snapshot!(outline(&diagram(
        "sequence s\n  a calls b \"one\" returning \"r\"\n    calls c \"two\"\n      answers \"three\"\n    does \"four\"\n      sends a \"five\"\n"
    )), @r#"
    party a (mentioned)
    party b (mentioned)
    party c (mentioned)
    a calls b "one"
    b calls c "two"
    c answers b "three"
    b does b "four"
    b sends a "five"
    > a calls b "one" returning r
      > b calls c "two"
        > c answers b "three"
      > b does b "four"
        > b sends a "five"
    "#);
}

#[test]
fn sequence_fragments_of_every_kind() {
    assert_snapshot!(outline(&diagram(
        "sequence s\n  when \"x\"\n    a sends b \"1\"\n  or \"y\"\n    a sends b \"2\"\n  otherwise\n    a sends b \"3\"\n  when \"alone\"\n    a sends b \"4\"\n  repeat \"often\"\n    a sends b \"5\"\n  together\n    a sends b \"6\"\n  and \"at once\"\n    a sends b \"7\"\n  leave when \"stop\"\n    a sends b \"8\"\n  undivided\n    a sends b \"9\"\n  in order\n    a sends b \"10\"\n  never\n    a sends b \"11\"\n"
    )), @r#"
    party a (mentioned)
    party b (mentioned)
    a sends b "1"
    a sends b "2"
    a sends b "3"
    a sends b "4"
    a sends b "5"
    a sends b "6"
    a sends b "7"
    a sends b "8"
    a sends b "9"
    a sends b "10"
    a sends b "11"
    alt [x]
      > a sends b "1"
    alt [y]
      > a sends b "2"
    alt [otherwise]
      > a sends b "3"
    opt [alone]
      > a sends b "4"
    loop [often]
      > a sends b "5"
    par [-]
      > a sends b "6"
    par [at once]
      > a sends b "7"
    break [stop]
      > a sends b "8"
    critical [-]
      > a sends b "9"
    strict [-]
      > a sends b "10"
    neg [-]
      > a sends b "11"
    "#);
}

#[test]
fn sequence_dividers_remarks_references() {
    assert_snapshot!(outline(&diagram(
        "sequence s\n  a sends b\n  phase \"Later\"\n  pause \"a tide\"\n  pause\n  remark on a \"A\" (left)\n  remark across a, b \"AB\"\n  see other_story across a, b\n  see third \"Third\"\n"
    )), @"
    party a (mentioned)
    party b (mentioned)
    a sends b
    > a sends b
    phase Later
    pause a tide
    pause -
    remark A over 1 left
    remark AB over 2
    ref other story over 2
    ref Third over 0
    ");
}

#[test]
fn sequence_ends_that_are_nowhere() {
    assert_snapshot!(outline(&diagram("sequence s\n  group \"G\"\n    party a\n  found sends a \"x\"\n  a sends lost \"y\"\n  found sends a \"z\"\n")), @r#"
    group G "G"
      party a in G
      found found in G
      lost lost in G
      found found (2) in G
    found sends a "x"
    a sends lost "y"
    found (2) sends a "z"
    > found sends a "x"
    > a sends lost "y"
    > found (2) sends a "z"
    "#);
}

#[test]
fn sequence_sets_give_every_pair() {
    assert_snapshot!(outline(&diagram("sequence s\n  a, b sends c, d \"x\" within \"2 s\" when \"late\"\n  p1..p3 sends p1..p3 \"y\"\n")), @r#"
    party a (mentioned)
    party b (mentioned)
    party c (mentioned)
    party d (mentioned)
    party p1 (mentioned)
    party p2 (mentioned)
    party p3 (mentioned)
    a sends c "x"
    a sends d "x"
    b sends c "x"
    b sends d "x"
    p1 sends p2 "y"
    p1 sends p3 "y"
    p2 sends p1 "y"
    p2 sends p3 "y"
    p3 sends p1 "y"
    p3 sends p2 "y"
    > a sends c "x" when late within 2 s
    > a sends d "x" when late within 2 s
    > b sends c "x" when late within 2 s
    > b sends d "x" when late within 2 s
    > p1 sends p2 "y"
    > p1 sends p3 "y"
    > p2 sends p1 "y"
    > p2 sends p3 "y"
    > p3 sends p1 "y"
    > p3 sends p2 "y"
    "#);
}

#[test]
fn classes_relations_by_statement_clause_and_line() {
    assert_snapshot!(outline(&diagram(
        "classes c\n  class A extends B implements C, D\n    uses E\n    owns 1..* F as parts\n  interface C\n  1 A knows 0..* G as friends \"likes\"\n  A joins H\n  A shares * I\n"
    )), @r#"
    class A
    interface C
    class B (mentioned)
    class D (mentioned)
    class E (mentioned)
    class F (mentioned)
    class G (mentioned)
    class H (mentioned)
    class I (mentioned)
    A extends B
    A implements C
    A implements D
    A uses E
    A owns F to[parts 1..*]
    A knows G from[1] to[friends 0..*] "likes"
    A joins H
    A shares I to[*]
    "#);
}

#[test]
fn classes_members_and_compartments() {
    let diagram = diagram(
        "classes c\n  class A<T> (abstract, keyword \"service\")\n    + x: Int = 4 {readOnly}\n    + run(a: Int): T [0..*]\n    y\n    section \"More\"\n      # z(): Void (static)\n    about \"An example\"\n",
    );
    let body = diagram.elements[0].class.as_ref().expect("a class");
    let lines: Vec<String> = body
        .compartments
        .iter()
        .flat_map(|c| {
            let title = c.title.as_ref().map_or("--".to_owned(), |t| format!("-- {}", t.text()));
            std::iter::once(title)
                .chain(c.members.iter().map(|m| format!("{}{}", m.text, if m.is_static { " (static)" } else { "" })))
        })
        .collect();
    assert_snapshot!(lines.join("\n"), @"
    --
    + x: Int = 4 {readOnly}
    y
    --
    + run(a: Int): T [0..*]
    -- More
    # z(): Void (static)
    ");
    assert_eq!((body.parameters.as_deref(), body.keyword.as_deref()), (Some("T"), Some("service")));
    assert_eq!(diagram.elements[0].properties.about.as_ref().map(|l| l.text()).as_deref(), Some("An example"));
}

#[test]
fn tables_refer_unless_a_relation_is_written() {
    assert_snapshot!(outline(&diagram(
        "classes c\n  table a\n    id: int (key)\n  table b\n    a_id: int (refers a.id)\n  table d\n    a_id: int (refers a.id)\n  d joins a \"by hand\"\n"
    )), @r#"
    table a
    table b
    table d
    d joins a "by hand"
    b knows a from[0..*] to[1]
    "#);
}

#[test]
fn architecture_nests_and_finds_names() {
    assert_snapshot!(outline(&diagram(
        "architecture a\n  system core \"Core\"\n    group \"Box\"\n      service gateway\n        sends readings \"levels\" over \"SQL\"\n    store readings\n  core.gateway uses met\n  a.core.readings uses \"Core\".gateway\n"
    )), @r#"
    system core "Core"
      group core.Box "Box" in core
        service core.gateway in core.Box
      store core.readings in core
    system met (mentioned)
    core.gateway sends core.readings "levels" over "SQL"
    core.gateway uses met
    core.readings uses core.gateway
    "#);
}

#[test]
fn architecture_names_are_looked_up_from_the_inside_out() {
    let diagram = diagram(
        "architecture a\n  system p\n    part x\n    part y\n      uses x\n  system q\n    part x\n    part z\n      uses x\n",
    );
    let ends: Vec<(String, String)> = diagram
        .relations
        .iter()
        .map(|r| (diagram.element(r.from).key.clone(), diagram.element(r.to).key.clone()))
        .collect();
    assert_eq!(ends, [("p.y".into(), "p.x".into()), ("q.z".into(), "q.x".into())]);
}

#[test]
fn sets_and_ranges_declare_and_relate() {
    assert_snapshot!(outline(&diagram("architecture a\n  device lamp1..lamp3 \"Lamp\"\n  system x, y \"Twin\"\n  lamp1..lamp3 uses x,\n    y\n")), @r#"
    device lamp1 "Lamp 1"
    device lamp2 "Lamp 2"
    device lamp3 "Lamp 3"
    system x "Twin"
    system y "Twin"
    lamp1 uses x
    lamp1 uses y
    lamp2 uses x
    lamp2 uses y
    lamp3 uses x
    lamp3 uses y
    "#);
}

const MAP: &str = "architecture map \"Map\"\n  actor keeper\n  system core \"Core\"\n    service gateway\n      part decoder\n      part limiter\n      decoder sends limiter \"frames\"\n    store readings\n    gateway writes readings \"levels\"\n  system portal\n    service web\n      tag public\n    service api\n      tag public\n  keeper uses decoder \"asks\"\n  web reads readings \"windows\"\n  api reads readings \"levels\"\n  web reads gateway \"state\"\n";

fn sheet(lines: &str) -> String {
    let reading = good(&format!("{MAP}sheet view of map \"View\"\n{lines}"));
    let diagram = &reading.document.diagrams[0];
    outline(&bathygram_core::views::lift(diagram, &reading.document.sheets[0]).diagram)
}

#[test]
fn sheets_by_depth_lift_and_merge() {
    assert_snapshot!(sheet("  depth 1\n"), @r#"
    actor keeper
    system core "Core"
    system portal
    keeper uses core "asks"
    portal reads core "windows and 2 more"
    "#);
    assert_snapshot!(sheet("  depth 2\n"), @r#"
    actor keeper
    system core "Core"
      service core.gateway in core
      store core.readings in core
    system portal
      service portal.web in portal
      service portal.api in portal
    core.gateway writes core.readings "levels"
    keeper uses core.gateway "asks"
    portal.web reads core.readings "windows"
    portal.api reads core.readings "levels"
    portal.web reads core.gateway "state"
    "#);
}

#[test]
fn sheets_open_close_focus_hide_show() {
    assert_snapshot!(sheet("  open core\n"), @r#"
    actor keeper
    system core "Core"
      service core.gateway in core
      store core.readings in core
    system portal
    core.gateway writes core.readings "levels"
    keeper uses core.gateway "asks"
    portal reads core.readings "windows, levels"
    portal reads core.gateway "state"
    "#);
    assert_snapshot!(sheet("  depth 3\n  close gateway\n  hide portal\n"), @r#"
    actor keeper
    system core "Core"
      service core.gateway in core
      store core.readings in core
    core.gateway writes core.readings "levels"
    keeper uses core.gateway "asks"
    "#);
    assert_snapshot!(sheet("  depth 2\n  focus keeper\n"), @r#"
    actor keeper
    system core "Core"
      service core.gateway in core
    keeper uses core.gateway "asks"
    "#);
    assert_snapshot!(sheet("  depth 2\n  hide tag public\n"), @r#"
    actor keeper
    system core "Core"
      service core.gateway in core
      store core.readings in core
    system portal
    core.gateway writes core.readings "levels"
    keeper uses core.gateway "asks"
    portal reads core.readings "windows, levels"
    portal reads core.gateway "state"
    "#);
}

#[test]
fn forbidden_uses_are_known_and_not_drawn() {
    let text = "architecture a\n  x never uses y \"never\"\n  x uses z\nsheet s of a\n  depth 1\n";
    let reading = good(text);
    assert_eq!(reading.document.diagrams[0].relations[0].verb, Verb::NeverUses);
    let lifted = bathygram_core::views::lift(&reading.document.diagrams[0], &reading.document.sheets[0]);
    assert_eq!(lifted.diagram.relations.len(), 1);
    assert!(!support::svg(text, "a").contains("never uses"));
}

#[test]
fn keys_are_unique_whatever_is_written() {
    let diagram = diagram("flow f\n  \"same\"\n  \"same\"\n  \"same (2)\"\n  together\n    \"x\"\n  and\n    \"y\"\n");
    let mut keys: Vec<&str> = diagram.elements.iter().map(|e| e.key.as_str()).collect();
    let count = keys.len();
    keys.sort_unstable();
    keys.dedup();
    assert_eq!(keys.len(), count, "{keys:?}");
}

#[test]
fn comments_blank_lines_and_wide_indentation_change_nothing() {
    let narrow = "sequence s\n  a calls b \"x\"\n    sends c \"y\"\n  phase \"p\"\n";
    let wide = "// a comment\nsequence s // here\n\n    a calls b \"x\" // there\n\n        sends c \"y\"\n    // alone\n    phase \"p\"\n";
    let tabs = "sequence s\n\ta calls b \"x\"\n\t\tsends c \"y\"\n\tphase \"p\"\r\n";
    assert_eq!(outline(&diagram(narrow)), outline(&diagram(wide)));
    assert_eq!(outline(&diagram(narrow)), outline(&diagram(tabs)));
}

#[test]
fn reading_ends_soon_once_nobody_waits_for_it() {
    use bathygram_core::pipeline::{Setting, read_unless};
    use std::cell::Cell;
    let text = bathygram_corpus::scale::model(2_000, 4_000);
    let source = || bathygram_core::source::Source::new("t.bathy", text.as_str());
    let asked = Cell::new(0_usize);
    let count = |limit: usize| {
        asked.set(0);
        let stop = || {
            asked.set(asked.get() + 1);
            asked.get() > limit
        };
        read_unless(source(), "t", &Setting::default(), &stop)
            .map(|reading| reading.document.diagrams[0].elements.len())
    };
    let whole = count(usize::MAX);
    assert!(whole.is_some_and(|elements| elements >= 2_000));
    assert!(asked.get() > 4_000, "asked at every line: {}", asked.get());
    assert_eq!(count(100), None);
    assert_eq!(count(0), None);
}

//! What the texts of states, networks, trees, hosts, followed sequences and taken files mean.

mod support;

use bathygram_core::model::{Constraint, Verb};
use bathygram_core::pipeline::{Reading, Setting, read};
use bathygram_core::source::Source;
use bathygram_core::source::world::{Unopened, World};
use insta::assert_snapshot;
use std::collections::BTreeMap;
use support::{codes, diagram, good, outline};

/// One picture of a text, by name.
fn picture(text: &str, name: &str) -> String {
    let pictures = support::pictures(&good(text));
    outline(pictures.iter().find(|p| p.name == name).expect("a picture of that name"))
}

#[test]
fn states_begin_and_finish_where_the_line_is_written() {
    assert_snapshot!(outline(&diagram(
        "states s\n  begin becomes raised\n  raised becomes seen on \"call\" when \"awake\" do \"note it\"\n  state seen \"Seen\"\n    begin becomes watching\n    watching becomes falling\n    becomes raised on \"again\"\n  seen becomes finish \"over\"\n"
    )), @r#"
    state seen "Seen"
    begin begin
    state raised (mentioned)
    finish finish
      begin seen.begin in seen
      state seen.watching in seen (mentioned)
      state seen.falling in seen (mentioned)
    begin becomes raised
    raised becomes seen "call [awake] / note it"
    seen.begin becomes seen.watching
    seen.watching becomes seen.falling
    seen becomes raised "again"
    seen becomes finish "over"
    "#);
}

#[test]
fn states_that_are_mentioned_outside_are_known_inside() {
    assert_snapshot!(outline(&diagram(
        "states s\n  state a\n    inner becomes outer on \"x\"\n  begin becomes a\n  a becomes outer on \"y\"\n  outer becomes a.history\n"
    )), @r#"
    state a
    begin begin
    state outer (mentioned)
      history a.history in a
      state a.inner in a (mentioned)
    a.inner becomes outer "x"
    begin becomes a
    a becomes outer "y"
    outer becomes a.history
    "#);
}

#[test]
fn states_have_behaviours_and_marks() {
    let diagram = diagram(
        "states s\n  state a \"A\"\n    arriving do \"x\"\n    staying do \"y\"\n    leaving do \"z\"\n    on \"t\" when \"g\" do \"e\"\n  choice c\n  together fork\n  history h (deep)\n  `begin` becomes a\n",
    );
    let behaviours: Vec<&str> =
        diagram.elements[0].class.iter().flat_map(|c| c.members()).map(|m| m.text.as_str()).collect();
    assert_eq!(behaviours, ["entry / x", "do / y", "exit / z", "t [g] / e"]);
    assert_snapshot!(outline(&diagram), @r#"
    state a "A"
    choice c
    bar fork
    history h
    state begin (mentioned)
    begin becomes a
    "#);
    assert_eq!(codes("states s\n  a becomes begin\n"), ["wrong-terminal"]);
    assert_eq!(codes("states s\n  finish becomes a\n"), ["wrong-terminal"]);
    assert_eq!(codes("states s\n  arriving do \"x\"\n"), ["only-inside"]);
}

#[test]
fn networks_join_any_kind_at_ports() {
    assert_snapshot!(outline(&diagram(
        "network n\n  group \"Rack\"\n    device a, b\n  decide d \"Which?\"\n  a at \"1/0\" joins b at eth0 \"10G\"\n  a, b then d\n  d joins e\n"
    )), @r#"
    group Rack "Rack"
      device a in Rack
      device b in Rack
    decide d "Which?"
    device e (mentioned)
    a joins b from[1/0] to[eth0] "10G"
    a then d
    b then d
    d joins e
    "#);
}

#[test]
fn trees_are_their_indentation() {
    assert_snapshot!(outline(&diagram(
        "tree t\n  decide \"Silt?\"\n    outcome go \"Dredge\" when \"yes\"\n    chance \"Storms\" when \"no\"\n      bare\n      \"Label\" when \"quiet\"\n    about \"what\"\n    remark \"why\"\n"
    )), @r#"
    decide Silt? "Silt?"
    outcome go "Dredge"
    chance Storms "Storms"
    item bare
    item Label "Label"
    remark why "why"
    Silt? holds go "yes"
    Silt? holds Storms "no"
    Storms holds bare
    Storms holds Label "quiet"
    why remarks Silt?
    "#);
}

#[test]
fn hosts_are_a_second_tree() {
    let text = "architecture a\n  service gateway \"Gateway\"\n    part decoder\n  store readings\n  decoder writes readings \"levels\"\n  zone shore\n    host r1\n      runs gateway (count 3)\n    host r2\n      runs readings\n      runs gateway\nsheet hosts of a\n  by hosts\n";
    assert_snapshot!(picture(text, "a"), @r#"
    service gateway "Gateway"
      part gateway.decoder in gateway
    store readings
    gateway.decoder writes readings "levels"
    "#);
    assert_snapshot!(picture(text, "hosts"), @r#"
    zone shore
      host shore.r1 in shore
      host shore.r2 in shore
        service shore.r1 runs gateway "Gateway × 3" in shore.r1
        store shore.r2 runs readings "readings" in shore.r2
        service shore.r2 runs gateway "Gateway" in shore.r2
    shore.r1 runs gateway writes shore.r2 runs readings "levels"
    shore.r2 runs gateway writes shore.r2 runs readings "levels"
    "#);
    assert_eq!(codes("architecture a\n  service x\n    runs y\n"), ["not-a-host"]);
}

#[test]
fn hosts_of_a_network_are_elements_like_others() {
    let text = "network n\n  zone shore\n    host a\n  device b\n  a joins b\n";
    assert_eq!(picture(text, "n"), outline(&diagram(text)));
}

const MAP: &str = "architecture map\n  actor keeper \"Keeper\"\n  system core\n    service gateway \"Gateway\"\n    store readings\n    service desk\n  gateway writes readings\n  gateway calls desk\n  desk sends keeper\n";

#[test]
fn a_sequence_takes_its_parties_from_an_architecture() {
    let text =
        format!("sequence s of map\n  service desk\n  gateway calls readings \"append\"\n    sends core.desk\n{MAP}");
    assert_snapshot!(outline(&good(&text).document.diagrams[0]), @r#"
    service core.desk
    service core.gateway "Gateway" (mentioned)
    store core.readings (mentioned)
    core.gateway calls core.readings "append"
    core.readings sends core.desk
    > core.gateway calls core.readings "append"
      > core.readings sends core.desk
    "#);
    let codes_of = |line: &str| codes(&format!("sequence s of map\n  {line}\n{MAP}"));
    assert_eq!(codes_of("gateway calls nothing_like_it"), ["unknown-name"]);
    assert_eq!(codes_of("gatway calls readings"), ["unknown-name"]);
    assert_eq!(codes("sequence s of nowhere\n  a sends b\n"), ["unknown-name"]);
    assert_eq!(codes("flow f\n  \"x\"\nsequence s of f\n  a sends b\n"), ["of-what"]);
}

#[test]
fn a_sheet_follows_a_sequence_with_numbers_and_branches() {
    let text = format!(
        "{MAP}sequence s of map\n  gateway calls readings \"append\"\n  when \"high\"\n    gateway calls desk \"warn\"\n      sends keeper \"call\"\n  otherwise\n    gateway calls desk \"note\"\n  desk sends keeper \"done\"\nsheet storm of map\n  follow s\n"
    );
    assert_snapshot!(picture(&text, "storm"), @r#"
    actor keeper "Keeper"
    system core
      service core.gateway "Gateway" in core
      store core.readings in core
      service core.desk in core
    core.gateway calls core.readings "1 append"
    core.gateway calls core.desk "2a warn
    2b note"
    core.desk calls keeper "3a call
    4 done"
    "#);
    let odd = format!(
        "{MAP}sequence s\n  buoy sends gateway \"x\"\n  keeper sends readings \"y\"\nsheet storm of map\n  follow s\n"
    );
    assert_eq!(codes(&odd), ["step-of-nobody", "unrelated-step"]);
}

#[test]
fn a_remark_across_parties_is_as_wide_as_these() {
    let text = |remark: &str| {
        format!("sequence s\n  a sends b\n  remark {remark} \"Long enough to be wrapped were it as narrow\"\n")
    };
    let line = "Long enough to be wrapped were it as narrow";
    assert!(!support::svg(&text("on a"), "s").contains(&format!(">{line}<")), "beside one it is wrapped");
    assert!(support::svg(&text("across a, b"), "s").contains(&format!(">{line}<")));
}

#[test]
fn sheets_of_classes_keep_their_relations_apart() {
    let text = "classes c\n  group \"G\"\n    class A\n  class B extends A\n  B knows 1 A as a\nsheet s of c\n  hide tag none\n";
    assert_eq!(codes(text), ["tag-of-nothing"]);
    let sheet =
        picture("classes c\n  class A\n  class B extends A\n  B knows 1 A as a\nsheet s of c\n  depth 1\n", "s");
    assert!(sheet.contains("B extends A") && sheet.contains("B knows A to[a 1]"), "{sheet}");
}

#[test]
fn words_about_the_picture_are_resolved() {
    let text = "network n (heading right, spacing 2)\n  a joins b\n  b joins c\n  row a, b\n  order c, a\n  place a left of b\n  place b above c\n  pin c -12.5 40\n  legend\n  caption \"words\"\n";
    let picture = diagram(text).picture;
    let constraints: Vec<String> = picture.constraints.iter().map(|h| format!("{:?}", h.constraint)).collect();
    assert_snapshot!(constraints.join("\n"), @"
    Row([ElementId(0), ElementId(1)])
    Order([ElementId(2), ElementId(0)])
    Place(ElementId(0), LeftOf, ElementId(1))
    Place(ElementId(1), Above, ElementId(2))
    Pin(ElementId(2), -12.5, 40.0)
    ");
    assert!(picture.legend.is_some() && picture.caption.is_some());
    assert_eq!(picture.spacing.map(|s| s.value), Some(2.0));
    assert_eq!(codes("network n\n  a joins b\n  place a beside b\n"), ["bad-value"]);
    assert_eq!(codes("network n\n  a joins b\n  place a left b\n"), ["word-expected"]);
    assert_eq!(codes("network n\n  a joins b\n  pin a x y\n"), ["bad-value"]);
    assert_eq!(codes("network n\n  a joins b\n  row a, nothing\n"), ["unknown-name"]);
    assert_eq!(codes("network n (spacing 9)\n  a joins b\n"), ["bad-value"]);
    assert_eq!(codes("network n\n  a joins b\n  arrange randomly\n"), ["bad-value"]);
}

#[test]
fn constraints_follow_their_elements_onto_sheets() {
    let text = "architecture a\n  system x\n    part p\n  system y\n  x uses y\n  row x, y\n  pin p 1 2\nsheet s of a\n  depth 1\n  pin y 3 4\n";
    let sheet = support::pictures(&good(text)).remove(1);
    let constraints: Vec<&Constraint> = sheet.picture.constraints.iter().map(|h| &h.constraint).collect();
    assert_eq!(constraints.len(), 2, "{constraints:?}");
    assert!(matches!(constraints[1], Constraint::Pin(id, x, _) if sheet.element(*id).name == "y" && *x == 3.0));
}

#[test]
fn leaving_parallel_work_is_an_error() {
    let part =
        |go: &str| format!("flow f\n  step a\n  together\n    step b\n    {go}\n  and\n    step c\n  finish \"d\"\n");
    assert_eq!(codes(&part("go a")), ["leave-together"]);
    assert_eq!(codes(&part("go c")), ["leave-together"]);
    assert_eq!(codes(&part("go b")), [""; 0]);
}

#[test]
fn nothing_that_was_written_is_dropped_silently() {
    for text in [
        "architecture a\n  system x\n    about \"x\"\n      \"y\"\n",
        "architecture a\n  heading right\n    \"y\"\n",
        "sequence s\n  phase \"x\"\n    a sends b\n",
        "sequence s\n  see t\n    a sends b\n",
        "sequence s\n  a sends b\n  remark on a \"x\"\n    a sends b\n",
        "flow f\n  step a\n  go a\n    \"x\"\n",
        "flow f\n  step a\n  step b\n  a then b\n    \"x\"\n",
        "classes c\n  class A\n    x: Int\n      y: Int\n",
        "classes c\n  table t\n    x: int\n    key x\n      y: int\n",
        "states s\n  state a\n    arriving do \"x\"\n      b becomes c\n",
        "architecture a\n  system x\nsheet s of a\n  depth 1\n    open x\n",
        "architecture a\n  system x\nlook\n  x: fill sand\n    line thick\n",
    ] {
        assert_eq!(codes(text), ["no-body"], "{text}");
    }
    assert_eq!(codes("sequence s\n  a sends b\n    actor c\n"), ["party-inside"]);
}

#[test]
fn what_stands_under_a_line_that_says_nothing_is_read() {
    assert_eq!(codes("sequence s\n  alt \"x\"\n    a snds b\n    c sends d\n"), ["unknown-word", "unknown-verb"]);
    assert_eq!(
        codes("architecture a\n  sistem x\n    built \"Rust\"\n    part y (fil z)\n"),
        ["unknown-word", "unknown-trait"]
    );
    let names = |text: &str| support::read(text).document.diagrams[0].elements.len();
    assert_eq!(names("flow f\n  if \"x\"\n    step a\n    step b\n"), 2);
    assert_eq!(names("states s\n  composite\n    state a\n"), 1);
    assert_eq!(names("classes c\n  klass A\n    class B\n    x: Int\n"), 1);
    assert_eq!(names("network n\n  rack one two\n    device a\n"), 1);
}

/// Files by name.
struct Files(BTreeMap<&'static str, &'static str>);

impl World for Files {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        self.0.get(name).map(|t| (*t).to_owned()).ok_or(Unopened::Missing)
    }
}

fn with_files(files: &[(&'static str, &'static str)], name: &str) -> Reading {
    let files = Files(files.iter().copied().collect());
    let text = files.text(name).expect("a file");
    read(Source::new(name, text), "t", &Setting { world: &files, ..Setting::default() })
}

#[test]
fn files_give_what_they_take_each_once() {
    let files = [
        ("a.bathy", "from \"b.bathy\"\nfrom \"x/c.bathy\"\nsheet s of deep\nsequence q of deep\n  n sends n\n"),
        ("b.bathy", "from \"x/d.bathy\"\nflow fb\n  \"x\"\nlook\n  step: fill sand\n"),
        ("x/c.bathy", "from \"d.bathy\"\nflow fc\n  \"x\"\n"),
        ("x/d.bathy", "architecture deep\n  system n \"N\"\nlook\n  system: fill coral\n"),
    ];
    let reading = with_files(&files, "a.bathy");
    assert!(!reading.has_errors(), "{:#?}", reading.diagnostics);
    let names: Vec<&str> = reading.document.imports.diagrams.iter().map(|d| d.name.as_str()).collect();
    assert_eq!(names, ["fb", "deep", "fc"]);
    assert_eq!(reading.looks.len(), 2);
    let pictures = support::pictures(&reading);
    assert_eq!(pictures.iter().map(|p| p.name.as_str()).collect::<Vec<_>>(), ["q", "s"]);
    for picture in &pictures {
        assert_eq!(reading.sources().other_file(picture.elements[0].span), Some("x/d.bathy"));
        assert_eq!(picture.elements[0].shown().text(), "N");
    }
}

#[test]
fn circles_of_files_are_reported_from_every_side() {
    let files = [
        ("a.bathy", "from \"b.bathy\"\nflow f\n  \"x\"\n"),
        ("b.bathy", "from \"c.bathy\"\nflow g\n  \"x\"\n"),
        ("c.bathy", "from \"a.bathy\"\nflow h\n  \"x\"\n"),
        ("d.bathy", "from \"a.bathy\"\nflow i\n  \"x\"\n"),
    ];
    for (name, _) in files {
        let reading = with_files(&files, name);
        let codes: Vec<&str> = reading.diagnostics.iter().map(|d| d.code).collect();
        assert!(codes.contains(&"from-cycle"), "{name}: {codes:?}");
    }
    // A good file that is named after the one in the circle hides nothing.
    let also = [
        ("e.bathy", "from \"a.bathy\"\nfrom \"good.bathy\"\n"),
        ("good.bathy", "flow ok\n  \"x\"\n"),
        ("top.bathy", "from \"e.bathy\"\n"),
    ];
    let reading = with_files(&[files.as_slice(), &also].concat(), "top.bathy");
    assert_eq!(reading.diagnostics.iter().map(|d| d.code).collect::<Vec<_>>(), ["from-cycle"]);
    let doubling: Vec<(String, String)> =
        (0..40).map(|i| (format!("f{i}"), format!("from \"f{}\"\nfrom \"f{}\"\n", i + 1, i + 1))).collect();
    let doubling: Vec<(&'static str, &'static str)> = doubling
        .into_iter()
        .map(|(name, text)| (&*Box::leak(name.into_boxed_str()), &*Box::leak(text.into_boxed_str())))
        .collect();
    let reading = with_files(&doubling, "f0");
    assert!(reading.has_errors(), "deeper than files may go");
}

#[test]
fn forbidden_relations_are_drawn_where_they_are_broken() {
    let text = |also: &str| {
        format!("architecture a\n  system x\n    part p\n  system y\n  x never uses y\n{also}sheet s of a\n  depth 1\n")
    };
    let drawn =
        |also: &str| support::pictures(&good(&text(also)))[1].relations.iter().map(|r| r.verb).collect::<Vec<_>>();
    assert_eq!(drawn("  y uses x\n"), [Verb::Uses]);
    assert_eq!(drawn("  p reads y\n"), [Verb::NeverUses, Verb::Reads]);
}

#[test]
fn a_model_is_spread_over_several_files() {
    let part = "architecture ingest \"Ingest\"\n  service gateway \"Gateway\" (built \"Rust\")\n    part decoder\n  decoder writes readings \"levels\"\n  decoder uses clock\n  pin gateway 40 60\n";
    let files = [
        ("shore/gateway.bathy", part),
        (
            "shore/map.bathy",
            "architecture map\n  system core\n    from \"gateway.bathy\"\n    store readings\n  buoy sends decoder\n  buoy sends decoder, decoder\nsheet s of map\n  depth 1\n",
        ),
        ("twice.bathy", "architecture map\n  service gateway\n  from \"shore/gateway.bathy\"\n"),
        ("own.bathy", "architecture map\n  system readings\n    from \"shore/gateway.bathy\"\n"),
        ("two.bathy", "architecture a\n  system x\narchitecture b\n  system y\n"),
        ("wrong.bathy", "architecture map\n  from \"two.bathy\"\n  from \"none.bathy\"\n"),
        ("circle.bathy", "architecture map\n  from \"circle.bathy\"\n"),
    ];
    let reading = with_files(&files, "shore/map.bathy");
    assert!(!reading.has_errors(), "{:#?}", reading.diagnostics);
    let map = &reading.document.diagrams[0];
    let keys: Vec<&str> = map.elements.iter().map(|e| e.key.as_str()).collect();
    // What the part mentions is found in the whole, or comes into being at block level.
    assert_eq!(keys, ["core", "core.gateway", "core.gateway.decoder", "core.readings", "clock", "buoy"]);
    let relations: Vec<&str> = map.relations.iter().map(|r| r.key.as_str()).collect();
    let levels = "core.gateway.decoder writes core.readings";
    let sends = ["buoy sends core.gateway.decoder", "buoy sends core.gateway.decoder (2)"];
    assert_eq!(
        relations,
        [levels, "core.gateway.decoder uses clock", sends[0], sends[1]],
        "a set names each pair once"
    );
    let (gateway, first) = (&map.elements[1], &map.relations[0]);
    let place = |span| (reading.sources().other_file(span).map(str::to_owned), reading.sources().line(span));
    assert_eq!(place(gateway.span), (Some("shore/gateway.bathy".to_owned()), 2));
    assert_eq!(gateway.properties.built.as_ref().map(|l| l.text()).as_deref(), Some("Rust"));
    assert_eq!(place(first.span), (Some("shore/gateway.bathy".to_owned()), 4));
    assert_eq!(map.picture.constraints.len(), 1);
    assert_eq!(support::pictures(&reading)[1].relations.len(), 2, "sheets see one model");
    let found = |name: &str| -> Vec<(&str, u32)> {
        let reading = with_files(&files, name);
        reading.diagnostics.iter().map(|d| (d.code, reading.source.line(d.span.start))).collect()
    };
    assert_eq!(found("twice.bathy"), [("declared-twice", 3)]);
    assert_eq!(found("own.bathy"), [("own-container", 3)]);
    assert_eq!(found("wrong.bathy"), [("part-of-what", 2), ("from-missing", 3)]);
    assert!(found("circle.bathy").contains(&("from-cycle", 2)));
}

#[test]
fn two_of_one_set_are_joined_once() {
    let keys = |text: &str| good(text).document.diagrams[0].relations.iter().map(|r| r.key.clone()).collect::<Vec<_>>();
    assert_eq!(keys("network n\n  a, b, c joins a, b, c\n"), ["a joins b", "a joins c", "b joins c"]);
    assert_eq!(keys("network n\n  a, b then a, b\n"), ["a then b", "b then a"]);
    assert_eq!(keys("network n\n  a at x, a at y joins b\n").len(), 2, "ports are different lines");
    let writes = keys("architecture n\n  gateway, relay writes store1..store3 \"levels\"\n");
    assert_eq!(writes.len(), 6);
}

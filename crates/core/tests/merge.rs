//! New facts into a text that people have edited: the second time nothing changes, what was written by hand stays byte for byte,
//! and the text means what was in it plus what is new.

use bathygram_core::compare::{Fate, documents};
use bathygram_core::merge::{Gone, Merged, Refused, merge};
use bathygram_core::model::{Diagram, ElementKind};
use bathygram_core::pipeline::{self, Reading, Setting};
use bathygram_core::source::{Source, apply};
use bathygram_corpus::Dice;
use std::collections::BTreeMap;
use std::fmt::Write;

fn read(text: impl Into<String>) -> Reading {
    let reading = pipeline::read(Source::new("a.bathy", text), "a", &Setting::default());
    assert!(!reading.has_errors(), "{:?}\n{}", reading.diagnostics, reading.source.text);
    reading
}

fn merged(text: &str, facts: &str, gone: Gone) -> Result<(Merged, String), Refused> {
    let reading = read(text);
    let again = |text: String| pipeline::read(Source::new("a.bathy", text), "a", &Setting::default());
    let merged = merge(&reading, &read(facts).document, &BTreeMap::new(), gone, &again)?;
    let text = apply(&reading.source, &merged.edits).expect("edits that can be made");
    Ok((merged, text))
}

const CABLES: &str = "network cables \"Cables\"\n  group \"Shore\"\n    device core (origin core)\n    device host (origin host)\n  \
                      device gauge (origin gauge)\n  core at p1 joins host at eth0 \"10G\"\n  core at p2 joins gauge at lan\n";

#[test]
fn new_things_stand_beside_their_siblings_and_edits_stay() {
    let by_hand = "// Kept by the harbour office.\nnetwork cables \"Our cables\"\n  group \"Shore\" // locked\n    device core \"The core switch\" (origin core)\n    \
                   device host (origin host)\n  device gauge \"Pier gauge\" (origin gauge)\n  core at p1 joins host at eth0 \"ten gigabit\"\n  \
                   core at p2 joins gauge at lan\n  remark on gauge \"Read once a minute.\"\n  pin gauge 300 200\n";
    let facts = CABLES.replace(
        "  device gauge (origin gauge)\n",
        "    device spare (origin spare)\n  device gauge (origin gauge)\n  group \"Pier\"\n    device mast (origin mast)\n",
    ) + "  gauge at p2 joins mast at lan\n";
    let (merge, text) = merged(by_hand, &facts, Gone::Stays).expect("merged");
    assert_eq!(
        text,
        by_hand
            .replace("(origin host)\n", "(origin host)\n    device spare (origin spare)\n")
            .replace(
                "\"Pier gauge\" (origin gauge)\n",
                "\"Pier gauge\" (origin gauge)\n  group \"Pier\"\n    device mast (origin mast)\n"
            )
            .replace("joins gauge at lan\n", "joins gauge at lan\n  gauge at p2 joins mast at lan\n")
    );
    assert_eq!(merge.gone, []);
    assert_eq!(merged(&text, &facts, Gone::Stays).expect("merged").0.edits, []);
}

#[test]
fn what_is_gone_is_reported_and_pruned_when_nobody_speaks_of_it() {
    let text = CABLES.replace("  core at p1", "  device ours\n  core at p1")
        + "  gauge at p3 joins ours\n  remark on host \"Rebooted on Mondays.\"\n";
    let facts = "network cables\n  group \"Shore\"\n    device core (origin core)\n";
    let (merge, same) = merged(&text, facts, Gone::Stays).expect("merged");
    let names: Vec<&str> = merge.gone.iter().map(|(name, _)| name.as_str()).collect();
    assert!(names.contains(&"host") && names.contains(&"gauge") && !names.contains(&"ours"), "{names:?}");
    assert_eq!(same, text, "it stays");
    let (merge, pruned) = merged(&text, facts, Gone::Pruned).expect("merged");
    assert!(merge.pruned.contains(&"gauge".to_owned()), "{:?}", merge.pruned);
    assert!(!pruned.contains("gauge"), "{pruned}");
    assert!(pruned.contains("device ours\n"), "written by hand: {pruned}");
    assert!(pruned.contains("device host (origin host)\n"), "a remark speaks of it: {pruned}");
    read(pruned);
}

#[test]
fn a_renamed_element_is_known_by_its_origin_and_names_stay_unique() {
    let text = CABLES.replace("device gauge", "device pier_gauge").replace("joins gauge", "joins pier_gauge");
    assert_eq!(merged(&text, CABLES, Gone::Stays).expect("merged").0.edits, []);
    // Somebody took the name for something else.
    let text = text.replace("  core at p1", "  device spare \"Ours\" (origin other)\n  core at p1");
    let facts =
        CABLES.replace("  core at p1", "  device spare (origin spare)\n  spare at p1 joins core at p9\n  core at p1");
    let (_, text) = merged(&text, &facts, Gone::Stays).expect("merged");
    assert!(
        text.contains("device spare_2 (origin spare)\n") && text.contains("spare_2 at p1 joins core at p9\n"),
        "{text}"
    );
}

#[test]
fn what_cannot_be_meant_is_refused() {
    assert!(matches!(merged("flow f\n  step a\n", CABLES, Gone::Stays), Err(Refused::Which(_))));
    let together = "architecture a\n  system core, met (tag ours)\n";
    let facts = "architecture a\n  system core\n    service gate (origin gate)\n";
    assert_eq!(merged(together, facts, Gone::Stays), Err(Refused::Together("core".to_owned(), 2)));
    let two = format!("{}\n{}", CABLES.replace("cables", "one"), CABLES.replace("network cables", "network two"));
    assert!(matches!(merged(&two, CABLES, Gone::Stays), Err(Refused::Which(_))));
    let reading = pipeline::read(Source::new("a.bathy", "network n\n  a jions b\n"), "a", &Setting::default());
    let again = |text: String| read(text);
    assert_eq!(merge(&reading, &read(CABLES).document, &BTreeMap::new(), Gone::Stays, &again), Err(Refused::Errors));
}

/// A network by chance, as an import writes it.
fn network(dice: &mut Dice, devices: usize) -> String {
    let mut text = String::from("network cables \"Cables\"\n");
    let mut ports: BTreeMap<usize, usize> = BTreeMap::new();
    for group in 0..3 {
        let own: Vec<usize> = (0..devices).filter(|d| d % 4 == group).collect();
        if !own.is_empty() {
            let _ = writeln!(text, "  group \"Rack {group}\"");
        }
        own.iter().for_each(|d| _ = writeln!(text, "    device d{d} (origin \"D-{d}\")"));
    }
    (0..devices).filter(|d| d % 4 == 3).for_each(|d| _ = writeln!(text, "  device d{d} (origin \"D-{d}\")"));
    for _ in 0..devices {
        let (a, b) = (dice.roll(devices), dice.roll(devices));
        let mut port = |d: usize| {
            let next = ports.entry(d).or_default();
            *next += 1;
            *next
        };
        let _ = writeln!(text, "  d{a} at p{} joins d{b} at p{} \"{}G\"", port(a), port(b) + 100, 1 + dice.roll(3));
    }
    text
}

/// What people change: labels, remarks, comments, pins, the order of lines, groups of their own.
fn edited(dice: &mut Dice, text: &str) -> String {
    let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
    for _ in 0..6 {
        let at = 1 + dice.roll(lines.len() - 1);
        match dice.roll(5) {
            0 if lines[at].contains("device ") && lines[at].contains(" (origin") && !lines[at].contains("Ours") => {
                let label = format!("\"Ours {}\" (origin", dice.roll(99));
                lines[at] = lines[at].replacen("(origin", &label, 1);
            }
            1 if lines[at].contains("joins") => {
                lines[at] = lines[at].replace("G\"", " gigabit, by hand\"");
            }
            2 => lines.insert(at, "// a comment".to_owned()),
            3 => lines.push(format!("  remark on d0 \"Remark {}\"", dice.roll(99))),
            _ => lines.push(format!("  device hand{} \"By hand\"", lines.len())),
        }
    }
    lines.join("\n") + "\n"
}

/// Elements by their origins or names with their labels, and relations by their ends.
fn meaning(diagram: &Diagram) -> (BTreeMap<String, String>, BTreeMap<String, usize>) {
    let own = |e: &bathygram_core::model::Element| {
        e.properties.origin.as_ref().map_or_else(|| e.shown().text(), |origin| origin.text())
    };
    let elements = diagram.elements.iter().map(|e| (own(e), e.label.as_ref().map(|l| l.text()).unwrap_or_default()));
    let mut relations = BTreeMap::new();
    for r in &diagram.relations {
        let mut ends =
            [(r.from, 0), (r.to, 1)].map(|(id, i)| format!("{} {:?}", own(diagram.element(id)), r.ends[i].port));
        ends.sort();
        *relations.entry(format!("{} {}", r.verb.word(), ends.join(" - "))).or_insert(0) += 1;
    }
    (elements.collect(), relations)
}

#[test]
fn the_laws_hold_by_chance() {
    for seed in 0..150 {
        let mut dice = Dice::new(seed);
        let devices = 4 + dice.roll(14);
        let first = network(&mut dice, devices);
        let by_hand = edited(&mut dice, &first);
        // 1. What was imported and edited knows all of it already.
        let (same, _) = merged(&by_hand, &first, Gone::Stays).expect("merged");
        assert_eq!((same.edits, same.gone), (vec![], vec![]), "seed {seed}:\n{by_hand}");
        // 2. New facts.
        let more = 4 + dice.roll(18);
        let second = network(&mut dice, more);
        let (_, text) = merged(&by_hand, &second, Gone::Stays).expect("merged");
        let mut rest = text.lines();
        for line in by_hand.lines() {
            assert!(rest.any(|own| own == line), "seed {seed}: `{line}` is no more in its place:\n{text}");
        }
        // 3. The text means what was in it plus what is new.
        let (old, new, now) = (read(by_hand.as_str()), read(second.as_str()), read(text.as_str()));
        let [old, new, now] = [&old, &new, &now].map(|r| meaning(&r.document.diagrams[0]));
        for (name, label) in &old.0 {
            assert_eq!(now.0.get(name), Some(label), "seed {seed}: {name}");
        }
        let all: Vec<&String> = old.0.keys().chain(new.0.keys()).collect();
        assert!(
            now.0.keys().all(|name| all.contains(&name)) && all.iter().all(|name| now.0.contains_key(*name)),
            "seed {seed}"
        );
        for (relation, count) in &now.1 {
            let wanted = old.1.get(relation).copied().unwrap_or(0).max(new.1.get(relation).copied().unwrap_or(0));
            assert_eq!(*count, wanted, "seed {seed}: {relation}");
        }
        // 4. The second time nothing changes, pruned or not.
        let (again, _) = merged(&text, &second, Gone::Stays).expect("merged");
        assert_eq!(again.edits, [], "seed {seed}");
        let (_, pruned) = merged(&text, &second, Gone::Pruned).expect("merged");
        let hands = |text: &str| text.lines().filter(|line| line.contains("hand") || line.contains("comment")).count();
        let kept = hands(&pruned) + pruned.lines().filter(|line| line.contains("gigabit")).count();
        assert!(kept <= hands(&text) * 2);
        assert_eq!(merged(&pruned, &second, Gone::Pruned).expect("merged").0.edits, [], "seed {seed}:\n{pruned}");
        assert!(
            pruned.lines().filter(|l| l.contains("device hand")).count()
                == text.lines().filter(|l| l.contains("device hand")).count()
        );
    }
}

/// One text of every kind, as imports write them.
const KINDS: [&str; 7] = [
    r#"network cables "Cables"
  group "Shore"
    device core "Core switch" (origin core)
    device host (origin host)
      owner "Network office"
  group "Pier"
    device gauge (origin gauge)
    device mast (origin mast)
  core at p1 joins host at eth0 "10G"
  core at p2 joins gauge at lan
  gauge at p2 joins mast at lan "100M" (tag copper)
  core at p3 joins host at eth1
"#,
    r#"architecture tidewatch "Tidewatch"
  system core "Core" (origin core)
    service gateway "Gateway" (origin "core/gateway")
      built "Rust"
      part decoder (origin "core/gateway/decoder")
      part limiter (origin "core/gateway/limiter")
    store readings (origin "core/readings")
  service desk (origin desk)
    about "Warns"
  gateway writes readings "12 imports"
  desk uses gateway "3 imports"
  decoder uses limiter
  desk reads readings
"#,
    r#"classes domain "Domain"
  group "field"
    class Station (abstract, origin "field.Station")
      + name: Text
      - position: Position
      + lastReading(): Reading [0..1]
    class Buoy extends Station (origin "field.Buoy")
      - mooring: Text
      + drift(hours: int): Metres
  table reading (origin reading)
    id: bigint (key)
    station_id: bigint (refers station.id)
    previous_id: bigint {null} (refers reading.id)
  table station (origin station)
    id: bigint (key)
    name: text (unique)
  enum Level (origin Level)
    calm
    surge
  interface Alarm (origin Alarm)
    + raise(level: Level): Warning
  Station owns 1..* Level as levels
  Buoy implements Alarm
  Buoy uses Level
"#,
    r#"states warning "A warning"
  state raised "Raised" (origin RAISED)
    arriving do "start the siren"
  state watched "Watched" (origin WATCHED)
    state falling (origin FALLING)
    state rising (origin RISING)
    begin becomes falling
    falling becomes rising on "level rises"
    rising becomes falling on "level falls"
    on "new level" do "update the log"
  state closed (origin CLOSED)
  begin becomes raised
  raised becomes watched on "keeper confirms"
  raised becomes closed on "10 min" when "no answer"
  watched becomes closed on "closed"
  closed becomes finish
"#,
    r#"tree stock "Stock of the yard"
  item yard "Yard" (origin yard)
    item cranes (origin "yard/cranes")
      item hook (origin "yard/cranes/hook")
      item jib (origin "yard/cranes/jib")
    item boats "Boats" (origin "yard/boats")
      item skiff (origin "yard/boats/skiff")
    item sheds (origin "yard/sheds")
"#,
    r#"sequence surge "A surge"
  service gateway (origin gateway)
  store readings (origin readings)
  service desk "Alert desk" (origin desk)
  actor keeper (origin keeper)
  gateway calls readings "append" returning "row"
    does "keep"
    calls desk "new level"
  gateway calls desk "raise" within "20 ms"
    sends keeper "call-out"
    repeat "3 times"
      sends keeper "ring"
      calls readings "state"
    together
      calls readings "log"
    and
      calls gateway "watch"
      sends keeper "again"
  phase "Later"
  keeper calls desk "acknowledge"
  gateway calls readings "append"
"#,
    r#"flow recalibrate "Recalibrate"
  lane technician (origin technician)
  lane office (origin office)
  in technician
    begin "Due" (origin due)
    step collect "Collect readings" (origin "1")
    step compare "Compare them" (origin "2")
  in office
    step look "Look at them" (origin "3")
  in technician
    decide "Drift above 2 mm?" (origin "4")
      when "yes"
        "Adjust" (origin "4a")
        "Wait" (origin "4b")
        go collect
      otherwise
        "Sign" (origin "4c")
    together
      "Put back" (origin "5")
      "Label it" (origin "5b")
    and
      "Archive" (origin "6")
      "File it" (origin "6b")
    repeat "Until it is dry" (origin "7")
      "Wipe" (origin "7a")
      "Wait an hour" (origin "7b")
    finish "In service" (origin "8")
"#,
];

/// A text without some of its lines and what is indented under them: what the source was before.
fn without_some(text: &str, dice: &mut Dice) -> String {
    let mut text = text.to_owned();
    for _ in 0..1 + dice.roll(5) {
        let reading = read(text.as_str());
        let lines = &reading.tree.lines[1..];
        if lines.is_empty() {
            break;
        }
        let at = 1 + dice.roll(lines.len());
        let id = bathygram_core::syntax::LineId(at as u32);
        // Branches without a decision, and lines below a lane, are no text.
        let first = reading.source.slice(lines[at - 1].span).split(' ').next().unwrap_or_default().to_owned();
        if ["when", "or", "otherwise", "and", "in", "about", "built", "owner"].contains(&first.as_str()) {
            continue;
        }
        let mut less = text.clone();
        let whole = reading.tree.whole(&reading.source, id);
        less.replace_range(whole.start as usize..whole.end as usize, "");
        text = declared(less).unwrap_or(text);
    }
    text
}

/// A text without the lines that speak of what it does not declare; `None` if that is no text.
fn declared(mut text: String) -> Option<String> {
    loop {
        let reading = pipeline::read(Source::new("a.bathy", text.as_str()), "a", &Setting::default());
        if reading.has_errors() {
            return None;
        }
        let is_pseudo = |kind: ElementKind| matches!(kind, ElementKind::Begin | ElementKind::Finish);
        let diagram = &reading.document.diagrams[0];
        let Some(mentioned) = diagram.elements.iter().find(|e| e.implicit && !is_pseudo(e.kind)) else {
            return Some(text);
        };
        let line = reading.tree.line_at(mentioned.span.start)?;
        let whole = reading.tree.whole(&reading.source, line);
        text.replace_range(whole.start as usize..whole.end as usize, "");
    }
}

/// What people do to any text: labels of their own, comments, remarks.
fn by_hand(text: &str, dice: &mut Dice) -> String {
    let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
    for _ in 0..4 {
        if lines.len() == 1 {
            break;
        }
        let at = 1 + dice.roll(lines.len() - 1);
        let first = lines[at].trim_start().split(' ').next().unwrap_or_default().to_owned();
        let labelled = lines[at].contains("(origin")
            || [" calls ", " sends ", " joins ", " uses "].iter().any(|v| lines[at].contains(v));
        match dice.roll(3) {
            0 if labelled && lines[at].matches('"').count() >= 2 && !lines[at].contains("(origin \"") => {
                lines[at] = lines[at].replacen('"', "\"Our ", 1);
            }
            1 => lines.insert(at, "// a comment".to_owned()),
            2 if !first.is_empty() => lines[at] += " // and one at the end",
            _ => {}
        }
    }
    lines.join("\n") + "\n"
}

#[test]
fn in_every_kind_new_facts_make_the_text_mean_what_they_say() {
    for text in KINDS {
        for seed in 0..150 {
            let mut dice = Dice::new(seed);
            let before = without_some(text, &mut dice);
            let (merge, after) = merged(&before, text, Gone::Stays).unwrap_or_else(|why| panic!("{why}\n{before}"));
            let changes = documents([&read(text).document], [&read(after.as_str()).document]);
            // What is new stands behind its siblings, so the order may be another one.
            let meant = changes.iter().flat_map(|c| &c.changes).filter(|change| change.fate != Fate::Drawn);
            let sentences: Vec<String> = meant.flat_map(|change| change.sentences()).collect();
            assert_eq!(sentences, [""; 0], "seed {seed}, from:\n{before}to:\n{after}");
            assert_eq!(merge.gone, [], "seed {seed}:\n{before}");
            assert_eq!(merged(&after, text, Gone::Pruned).expect("merged").1, after, "seed {seed}: the second time");
        }
    }
}

#[test]
fn in_every_kind_what_people_did_stays() {
    for text in KINDS {
        for seed in 0..150 {
            let mut dice = Dice::new(seed);
            let first = without_some(text, &mut dice);
            let own = by_hand(&first, &mut dice);
            let (same, _) = merged(&own, &first, Gone::Stays).expect("merged");
            assert_eq!((same.edits, same.gone), (vec![], vec![]), "seed {seed}:\n{own}with\n{first}");
            let (_, after) = merged(&own, text, Gone::Stays).expect("merged");
            let mut rest = after.lines();
            for line in own.lines() {
                assert!(rest.any(|other| other == line), "seed {seed}: `{line}` is no more in its place:\n{after}");
            }
            assert_eq!(merged(&after, text, Gone::Stays).expect("merged").0.edits, [], "seed {seed}:\n{after}");
        }
    }
}

#[test]
fn in_every_kind_what_is_gone_is_pruned_and_the_rest_is_a_text() {
    for text in KINDS {
        for seed in 0..150 {
            let mut dice = Dice::new(seed);
            let later = without_some(text, &mut dice);
            let own = by_hand(text, &mut dice);
            let (_, same) = merged(&own, &later, Gone::Stays).expect("merged");
            assert_eq!(same, own, "seed {seed}: nothing is new");
            let (merge, pruned) = merged(&own, &later, Gone::Pruned).unwrap_or_else(|why| panic!("{why}\n{own}"));
            let mut rest = own.lines();
            for line in pruned.lines() {
                assert!(rest.any(|other| other == line), "seed {seed}: `{line}` is new:\n{pruned}");
            }
            assert!(merge.pruned.len() <= merge.gone.len() + own.lines().count());
            assert_eq!(
                merged(&pruned, &later, Gone::Pruned).expect("merged").1,
                pruned,
                "seed {seed}: the second time"
            );
        }
    }
}

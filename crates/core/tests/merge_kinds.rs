//! New facts into edited texts, case by case: what people do to each kind of diagram, what is found next time, and what the text says
//! then, byte for byte.

use bathygram_core::emit::{emit, emit_with};
use bathygram_core::merge::{Gone, Merged, merge};
use bathygram_core::pipeline::{self, Reading, Setting};
use bathygram_core::source::{Source, apply};
use std::collections::BTreeMap;

fn read(text: impl Into<String>) -> Reading {
    let reading = pipeline::read(Source::new("a.bathy", text), "a", &Setting::default());
    assert!(!reading.has_errors(), "{:?}\n{}", reading.diagnostics, reading.source.text);
    reading
}

fn merged(text: &str, facts: &str, gone: Gone) -> (Merged, String) {
    let reading = read(text);
    let again = |text: String| pipeline::read(Source::new("a.bathy", text), "a", &Setting::default());
    let merged = merge(&reading, &read(facts).document, &BTreeMap::new(), gone, &again).expect("merged");
    let text = apply(&reading.source, &merged.edits).expect("edits that can be made");
    (merged, text)
}

/// Merges, compares with what is wanted, and merges again.
fn becomes(own: &str, facts: &str, wanted: &str) {
    let (_, text) = merged(own, facts, Gone::Stays);
    assert_eq!(text, wanted, "from:\n{own}");
    assert_eq!(merged(&text, facts, Gone::Stays).0.edits, [], "the second time:\n{text}");
}

/// Merges and prunes.
fn pruned(own: &str, facts: &str, wanted: &str) {
    assert_eq!(merged(own, facts, Gone::Stays).1, own, "nothing is removed unasked");
    let (_, text) = merged(own, facts, Gone::Pruned);
    assert_eq!(text, wanted, "from:\n{own}");
}

const PARTIES: &str =
    "sequence s\n  service gate (origin gate)\n  service rules (origin rules)\n  service desk (origin desk)\n";

#[test]
fn messages_that_people_moved_into_choices_are_known_there() {
    let own = format!(
        "{PARTIES}  gate calls rules \"judge\"\n  when \"over 4 m\" // since May\n    gate calls desk \"raise the alarm\"\n  otherwise\n    gate does \"keep\"\n"
    );
    let facts =
        format!("{PARTIES}  gate calls rules \"judge\"\n  gate calls desk \"raise\"\n  gate calls rules \"reset\"\n");
    // What comes behind the moved message stays with it.
    becomes(
        &own,
        &facts,
        &own.replace("\"raise the alarm\"\n", "\"raise the alarm\"\n    gate calls rules \"reset\"\n"),
    );
}

#[test]
fn fragments_that_people_took_apart_stay_so() {
    let own = format!("{PARTIES}  gate calls rules \"first\"\n  gate calls desk \"second\"\n");
    let facts = format!(
        "{PARTIES}  repeat \"3 times\"\n    gate calls rules \"first\"\n    gate calls desk \"new\"\n  together\n    gate calls desk \"second\"\n  and\n    gate calls rules \"third\"\n"
    );
    becomes(
        &own,
        &facts,
        &own.replace("\"first\"\n", "\"first\"\n  gate calls desk \"new\"\n")
            .replace("\"second\"\n", "\"second\"\n  gate calls rules \"third\"\n"),
    );
}

#[test]
fn a_new_part_joins_the_parts_that_are_there() {
    let own = format!(
        "{PARTIES}  together \"at once\"\n    gate calls rules \"first\"\n  and\n    gate calls desk \"second\"\n  remark on desk \"Slow.\"\n"
    );
    let facts = format!(
        "{PARTIES}  together\n    gate calls rules \"first\"\n  and\n    gate calls desk \"second\"\n  and\n    desk calls rules \"third\"\n    desk calls gate \"fourth\"\n"
    );
    becomes(
        &own,
        &facts,
        &own.replace(
            "    gate calls desk \"second\"\n",
            "    gate calls desk \"second\"\n  and\n    desk calls rules \"third\"\n    desk calls gate \"fourth\"\n",
        ),
    );
}

#[test]
fn what_happens_inside_a_message_is_put_inside() {
    let own =
        format!("{PARTIES}  gate calls rules \"judge\" returning \"ok\"\n    does \"think\"\n  phase \"Later\"\n");
    let facts = format!(
        "{PARTIES}  gate calls rules \"judge\"\n    calls desk \"ask\"\n    does \"think\"\n  phase \"Later\"\n  gate sends desk \"done\"\n"
    );
    becomes(
        &own,
        &facts,
        &own.replace("    does", "    calls desk \"ask\"\n    does")
            .replace("\"Later\"\n", "\"Later\"\n  gate sends desk \"done\"\n"),
    );
}

#[test]
fn messages_that_are_gone_leave_no_empty_parts() {
    let own = format!(
        "{PARTIES}  gate calls rules \"judge\"\n    calls desk \"ask\"\n    does \"think\" // by hand\n  repeat \"3 times\"\n    gate calls desk \"ring\"\n  gate calls desk \"raise\"\n"
    );
    let facts = format!("{PARTIES}  gate calls rules \"judge\"\n  gate calls desk \"raise\"\n");
    // What somebody wrote under a message keeps that.
    let less =
        own.replace("    calls desk \"ask\"\n", "").replace("  repeat \"3 times\"\n    gate calls desk \"ring\"\n", "");
    let (merge, text) = merged(&own, &facts, Gone::Pruned);
    assert!(text == less || text == less.replace("    does \"think\" // by hand\n", ""), "{text}");
    assert!(merge.gone.iter().any(|(what, _)| what.contains("ring")), "{:?}", merge.gone);
}

const STEPS: &str = "flow f\n  lane clerk (origin Clerk)\n  lane office (origin Office)\n";

#[test]
fn steps_go_behind_the_step_before_them_wherever_that_is() {
    // The clerk's second step was moved to the office.
    let own = format!(
        "{STEPS}  in clerk\n    begin \"Start\" (origin Start)\n    \"Open\" (origin open)\n  in office\n    \"Read\" (origin read)\n    finish \"End\" (origin End)\n"
    );
    let facts = format!(
        "{STEPS}  in clerk\n    begin \"Start\" (origin Start)\n    \"Open\" (origin open)\n    \"Read\" (origin read)\n    \"Sign\" (origin sign)\n    finish \"End\" (origin End)\n"
    );
    becomes(&own, &facts, &own.replace("(origin read)\n", "(origin read)\n    \"Sign\" in clerk (origin sign)\n"));
}

#[test]
fn another_lane_begins_behind_the_one_that_ends() {
    let own = format!(
        "{STEPS}  in clerk\n    begin \"Start\" (origin Start)\n    \"Open\" (origin open)\n  remark on \"Open\" \"With care.\"\n"
    );
    let facts = format!(
        "{STEPS}  in clerk\n    begin \"Start\" (origin Start)\n    \"Open\" (origin open)\n  in office\n    \"File\" (origin file)\n    finish \"End\" (origin End)\n"
    );
    becomes(
        &own,
        &facts,
        &own.replace("  remark", "  in office\n    \"File\" (origin file)\n    finish \"End\" (origin End)\n  remark"),
    );
}

#[test]
fn branches_are_known_by_their_labels_or_by_what_is_in_them() {
    let own = "flow f\n  begin \"Start\" (origin Start)\n  decide \"Is it dry?\" (origin q)\n    when \"certainly\"\n      \"Paint\" (origin paint)\n    otherwise\n      \"Wipe\" (origin wipe)\n  finish \"End\" (origin End)\n";
    let facts = "flow f\n  begin \"Start\" (origin Start)\n  decide \"Is it dry?\" (origin q)\n    when \"yes\"\n      \"Paint\" (origin paint)\n      \"Hang up\" (origin hang)\n    or \"no\"\n      \"Wipe\" (origin wipe)\n    or \"unclear\"\n      \"Ask\" (origin ask)\n  finish \"End\" (origin End)\n";
    becomes(
        own,
        facts,
        &own.replace("(origin paint)\n", "(origin paint)\n      \"Hang up\" (origin hang)\n")
            .replace("(origin wipe)\n", "(origin wipe)\n    or \"unclear\"\n      \"Ask\" (origin ask)\n"),
    );
}

#[test]
fn steps_that_are_gone_go_unless_something_leads_to_them() {
    let own = "flow f\n  begin \"Start\" (origin Start)\n  step open \"Open\" (origin open)\n  step look \"Look\" (origin look)\n  \"Close\" (origin close)\n  decide \"Again?\"\n    when \"yes\"\n      go look\n  finish \"End\" (origin End)\n";
    let facts = "flow f\n  begin \"Start\" (origin Start)\n  finish \"End\" (origin End)\n";
    // A way that somebody wrote leads to the second one.
    pruned(
        own,
        facts,
        &own.replace("  step open \"Open\" (origin open)\n", "").replace("  \"Close\" (origin close)\n", ""),
    );
}

#[test]
fn columns_stand_behind_columns_and_operations_behind_operations() {
    let own = "classes c\n  class Gauge \"Tide gauge\" (origin Gauge)\n    - level: Metres // calibrated\n    + read(): Metres\n    section \"Upkeep\"\n      - battery: Percent\n  Gauge uses Log\n  class Log\n";
    let facts = "classes c\n  class Gauge (origin Gauge)\n    - level: decimal\n    - depth: decimal\n    - battery: int\n    + read(): decimal\n    + reset()\n  interface Alarm (origin Alarm)\n  Gauge implements Alarm\n";
    becomes(
        own,
        facts,
        "classes c\n  class Gauge \"Tide gauge\" (origin Gauge)\n    - level: Metres // calibrated\n    - depth: decimal\n    + read(): Metres\n    + reset()\n    section \"Upkeep\"\n      - battery: Percent\n  Gauge uses Log\n  Gauge implements Alarm\n  class Log\n  interface Alarm (origin Alarm)\n",
    );
}

#[test]
fn a_table_gets_a_column_that_refers_to_another() {
    let own = "classes c\n  table station (origin station)\n    id: bigint (key)\n  table reading (origin reading)\n    id: bigint (key)\n";
    let facts = "classes c\n  table station (origin station)\n    id: bigint (key)\n  table reading (origin reading)\n    id: bigint (key)\n    station_id: bigint (refers station.id)\n";
    becomes(own, facts, facts);
    pruned(facts, own, own);
}

#[test]
fn states_get_transitions_and_what_they_do() {
    let own = "states s\n  state idle \"At rest\" (origin IDLE)\n  state busy (origin BUSY)\n    arriving do \"light the lamp\"\n  begin becomes idle\n  idle becomes busy on \"somebody calls\"\n";
    let facts = "states s\n  state idle (origin IDLE)\n  state busy (origin BUSY)\n    arriving do \"lamp on\"\n    leaving do \"lamp off\"\n  state broken (origin BROKEN)\n  begin becomes idle\n  idle becomes busy on \"call\"\n  busy becomes broken on \"fault\"\n";
    becomes(
        own,
        facts,
        "states s\n  state idle \"At rest\" (origin IDLE)\n  state busy (origin BUSY)\n    arriving do \"light the lamp\"\n    leaving do \"lamp off\"\n  state broken (origin BROKEN)\n  begin becomes idle\n  idle becomes busy on \"somebody calls\"\n  busy becomes broken on \"fault\"\n",
    );
}

#[test]
fn items_that_people_hung_elsewhere_stay_there() {
    let own = "tree t\n  item yard (origin yard)\n    item boats \"Our boats\" (origin boats)\n      item crane (origin crane)\n";
    let facts = "tree t\n  item yard (origin yard)\n    item crane (origin crane)\n      item hook (origin hook)\n    item boats (origin boats)\n    item shed (origin shed)\n";
    becomes(
        own,
        facts,
        "tree t\n  item yard (origin yard)\n    item boats \"Our boats\" (origin boats)\n      item crane (origin crane)\n        item hook (origin hook)\n    item shed (origin shed)\n",
    );
    // A branch goes with what hangs below it, and stays with what somebody hung there.
    let hand = own.replace("(origin crane)\n", "(origin crane)\n        item rope\n");
    pruned(&hand, "tree t\n  item yard (origin yard)\n", &hand);
    pruned(own, "tree t\n  item yard (origin yard)\n", "tree t\n  item yard (origin yard)\n");
}

#[test]
fn what_is_only_mentioned_is_declared_now() {
    becomes(
        "network n\n  core joins mast \"by hand\"\n  device core (origin core)\n",
        "network n\n  device core (origin core)\n  device mast \"Radio mast\" (origin mast)\n  core joins mast\n",
        "network n\n  core joins mast \"by hand\"\n  device core (origin core)\n  device mast \"Radio mast\" (origin mast)\n",
    );
}

#[test]
fn texts_with_other_line_breaks_and_indentations_keep_them() {
    let own = "network n\r\n    group \"Shore\"\r\n        device core (origin core)\r\n";
    let facts = "network n\n  group \"Shore\"\n    device core (origin core)\n    device host (origin host)\n      owner \"Office\"\n  core joins host\n";
    let wanted = "network n\r\n    group \"Shore\"\r\n        device core (origin core)\r\n        device host (origin host)\r\n          owner \"Office\"\r\n    core joins host\r\n";
    becomes(own, facts, wanted);
}

#[test]
fn comments_come_with_the_lines_that_they_are_about() {
    let found =
        read("flow f\n  begin \"Start\"\n  decide \"Dry?\"\n    when \"yes\"\n      \"Paint\"\n  finish \"End\"\n")
            .document;
    let place = |label: &str| {
        let is_it = |e: &&bathygram_core::model::Element| e.label.as_ref().is_some_and(|own| own.text() == label);
        found.diagrams[0].elements.iter().find(is_it).expect(label).span.start
    };
    let comments = BTreeMap::from([(place("Dry?"), "a guess".to_owned()), (place("Paint"), "two\nlines".to_owned())]);
    let text = emit_with(&found, &comments);
    assert_eq!(
        text,
        "flow f\n  begin \"Start\"\n  decide \"Dry?\" // a guess\n    when \"yes\"\n      \"Paint\" // two lines\n  finish \"End\"\n"
    );
    assert_eq!(emit(&read(text).document), emit(&found));
    let own = read("flow f\n  begin \"Start\"\n  finish \"End\"\n");
    let merge = merge(&own, &found, &comments, Gone::Stays, &|text| read(text)).expect("merged");
    let text = apply(&own.source, &merge.edits).expect("edits");
    assert!(text.contains("  decide \"Dry?\" // a guess\n    when \"yes\"\n      \"Paint\" // two lines\n"), "{text}");
}

#[test]
fn numbers_that_only_count_are_brought_up_to_date() {
    let own = "classes c\n  class Buoy \"Our buoys\" (keyword \"2 instances\", origin Buoy)\n    lit: boolean // in 2 instances\n    name: text // what is painted on it\n  class Mooring (keyword ours, origin Mooring)\n  Buoy knows 1..* Mooring \"mooredAt, 3\"\n  Mooring knows Buoy \"carries, 1\" // by hand\n";
    let facts = "classes c\n  class Buoy (keyword \"1 instance\", origin Buoy)\n    lit: boolean\n    name: text\n  class Mooring (keyword \"4 instances\", origin Mooring)\n  Buoy knows 1..* Mooring \"mooredAt, 14\"\n  Mooring knows Buoy \"holds, 2\"\n";
    let found = read(facts).document;
    let members: Vec<u32> =
        found.diagrams[0].elements[0].class.iter().flat_map(|body| body.members()).map(|m| m.span.start).collect();
    let comments = BTreeMap::from([(members[0], "in 1 instance".to_owned()), (members[1], "in 1 instance".to_owned())]);
    let again = |text: String| pipeline::read(Source::new("a.bathy", text), "a", &Setting::default());
    let merged = merge(&read(own), &found, &comments, Gone::Stays, &again).expect("merged");
    let text = apply(&read(own).source, &merged.edits).expect("edits that can be made");
    assert_eq!(
        text,
        own.replace("\"2 instances\"", "\"1 instance\"")
            .replace("in 2 instances", "in 1 instance")
            .replace("mooredAt, 3", "mooredAt, 14")
    );
    assert_eq!(merged.renewed, 3);
}

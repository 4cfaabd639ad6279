//! Spans as sequences: what is a call, what happens at the same time, what is repeated.

use bathygram_core::emit::emit;
use bathygram_readers::trace::{Options, Which, observed, read};
use bathygram_readers::{Broken, Facts, Selection};
use serde_json::{Value, json};
use std::io::Cursor;
use std::path::Path;

/// A span: number, parent, kind, name, from and to in milliseconds.
type Row<'a> = (&'a str, u64, u64, u64, &'a str, [u64; 2]);

const SERVER: u64 = 2;
const CLIENT: u64 = 3;
const PRODUCER: u64 = 4;
const CONSUMER: u64 = 5;
const INTERNAL: u64 = 1;

fn span(&(_, id, parent, kind, name, [from, to]): &Row<'_>, trace: u64, attributes: &[(u64, &str, &str)]) -> Value {
    let own: Vec<Value> = attributes
        .iter()
        .filter(|(of, _, _)| *of == id)
        .map(|(_, key, value)| json!({ "key": key, "value": { "stringValue": value } }))
        .collect();
    let hex = |id: u64| if id == 0 { String::new() } else { format!("{id:016x}") };
    let failed = attributes.iter().find(|(of, key, _)| *of == id && *key == "error").map(|(_, _, message)| *message);
    json!({
        "traceId": format!("{trace:032x}"), "spanId": hex(id), "parentSpanId": hex(parent), "kind": kind, "name": name,
        "startTimeUnixNano": format!("{}", from * 1_000_000), "endTimeUnixNano": (to * 1_000_000), "attributes": own,
        "status": match failed { Some(message) => json!({ "code": 2, "message": message }), None => json!({}) },
    })
}

fn document(rows: &[Row<'_>], trace: u64, attributes: &[(u64, &str, &str)]) -> String {
    let resource = |row: &Row<'_>| {
        json!({
            "resource": { "attributes": [{ "key": "service.name", "value": { "stringValue": row.0 } }] },
            "scopeSpans": [{ "scope": { "name": "x" }, "spans": [span(row, trace, attributes)] }],
        })
    };
    json!({ "resourceSpans": rows.iter().map(resource).collect::<Vec<_>>() }).to_string()
}

fn facts(text: &str, options: &Options) -> Result<Facts, Broken> {
    read(Path::new("t.json"), Cursor::new(text.as_bytes().to_vec()), options)
}

/// The lines of what happens, without those of the parties.
fn told(rows: &[Row<'_>], attributes: &[(u64, &str, &str)]) -> String {
    let facts = facts(&document(rows, 7, attributes), &Options::default()).expect("facts");
    let text = emit(&facts.document());
    let is_told = |line: &&str| {
        let first = line.trim_start().split(' ').next().unwrap_or_default();
        !["service", "store", "queue", "system", "built", "caption", "sequence", "look", "legend"].contains(&first)
            && !line.is_empty()
            && !line.contains(": line ")
    };
    text.lines().filter(is_told).map(|line| format!("{line}\n")).collect()
}

#[test]
fn a_client_and_the_server_below_it_are_one_call() {
    let rows = [
        ("gate", 1, 0, SERVER, "POST /levels", [0, 100]),
        ("gate", 2, 1, CLIENT, "POST", [10, 40]),
        ("rules", 3, 2, SERVER, "POST /judge", [12, 38]),
        ("rules", 4, 3, CLIENT, "find", [15, 20]),
    ];
    let attributes = [
        (4, "db.system", "postgresql"),
        (4, "db.name", "levels"),
        (2, "server.address", "rules.internal"),
        (3, "http.status_code", "200"),
    ];
    assert_eq!(
        told(&rows, &attributes),
        "  found calls gate \"POST /levels\" within \"100 ms\"\n    calls rules \"POST /judge\" within \"30 ms\" returning \"200\"\n      calls levels \"find\" within \"5 ms\"\n"
    );
    // Without the server's span its address names the other end.
    let alone = told(&rows[..2], &attributes);
    assert!(alone.contains("    calls rules_internal \"POST\" within \"30 ms\"\n"), "{alone}");
    // Without anything it is work of its own.
    let own = told(&rows[..2], &[]);
    assert!(own.contains("    does \"POST\" within \"30 ms\"\n"), "{own}");
}

#[test]
fn what_overlaps_is_together_and_what_follows_is_not() {
    let call = |id, name, times| ("gate", id, 1, CLIENT, name, times);
    let to = |id, name| (id, "peer.service", name);
    let rows = [
        ("gate", 1, 0, SERVER, "report", [0, 200]),
        call(2, "a", [10, 50]),
        call(3, "b", [20, 60]),
        // Clocks are no better than that.
        call(4, "c", [59, 120]),
        call(5, "d", [130, 140]),
    ];
    assert_eq!(
        told(&rows, &[to(2, "x"), to(3, "y"), to(4, "z"), to(5, "x")]),
        "  found calls gate \"report\" within \"200 ms\"\n    together\n      calls x \"a\" within \"40 ms\"\n    and\n      calls y \"b\" within \"40 ms\"\n    calls z \"c\" within \"61 ms\"\n    calls x \"d\" within \"10 ms\"\n"
    );
}

#[test]
fn runs_become_repetitions_one_or_a_few_at_a_time() {
    let mut rows = vec![("gate", 1, 0, SERVER, "report", [0, 900])];
    let mut attributes = Vec::new();
    for i in 0..8_u64 {
        let (name, to) = if i % 2 == 0 { ("read", "levels") } else { ("send", "desk") };
        rows.push(("gate", 2 + i, 1, CLIENT, name, [10 + i * 20, 15 + i * 20]));
        attributes.push((2 + i, "peer.service", to));
    }
    rows.push(("gate", 20, 1, CLIENT, "close", [400, 410]));
    attributes.push((20, "peer.service", "desk"));
    for i in 0..5_u64 {
        rows.push(("gate", 30 + i, 1, CLIENT, "ring", [500, 510 + i]));
        attributes.push((30 + i, "peer.service", "pager"));
    }
    assert_eq!(
        told(&rows, &attributes),
        "  found calls gate \"report\" within \"900 ms\"\n    repeat \"4 times\"\n      calls levels \"read\" within \"5 ms\"\n      calls desk \"send\" within \"5 ms\"\n    calls desk \"close\" within \"10 ms\"\n    repeat \"5 times, at the same time\"\n      calls pager \"ring\" within \"10 ms\"\n"
    );
}

#[test]
fn producers_and_consumers_send_also_by_links_and_failures_are_kept() {
    let rows = [
        ("gate", 1, 0, SERVER, "report", [0, 50]),
        ("gate", 2, 1, PRODUCER, "publish", [10, 12]),
        ("desk", 3, 2, CONSUMER, "process", [60, 90]),
        ("desk", 4, 3, CLIENT, "ring", [61, 80]),
    ];
    let attributes = [
        (2, "messaging.destination.name", "warnings"),
        (3, "messaging.destination.name", "warnings"),
        (4, "peer.service", "pager"),
        (4, "error", "timeout after 19 ms\nat line 7"),
    ];
    assert_eq!(
        told(&rows, &attributes),
        "  found calls gate \"report\" within \"50 ms\"\n    sends warnings \"publish\"\n      sends desk \"process\"\n        calls pager \"ring\" within \"19 ms\" returning \"timeout after 19 ms\" (tag failed)\n"
    );
    // Without a queue they send to each other.
    let direct = told(&rows, &attributes[2..]);
    assert!(direct.contains("    sends desk \"process\"\n      calls pager"), "{direct}");
}

#[test]
fn a_root_that_nobody_called_works_by_itself() {
    let rows = [("cron", 1, 0, INTERNAL, "nightly", [0, 50]), ("cron", 2, 1, CLIENT, "tidy", [5, 10])];
    assert_eq!(
        told(&rows, &[(2, "peer.service", "levels")]),
        "  cron does \"nightly\" within \"50 ms\"\n    calls levels \"tidy\" within \"5 ms\"\n"
    );
}

#[test]
fn the_usual_trace_is_of_the_shape_that_most_have() {
    let short = |trace, length| document(&[("gate", 1, 0, SERVER, "report", [0, length])], trace, &[]);
    let long = document(
        &[("gate", 1, 0, SERVER, "report", [0, 900]), ("gate", 2, 1, CLIENT, "x", [1, 2])],
        9,
        &[(2, "peer.service", "desk")],
    );
    let text = [short(1, 10), long, short(2, 30), short(3, 20)].join("\n");
    let chosen = |which: &str| {
        let which = match which {
            "usual" => Which::Usual,
            "slowest" => Which::Slowest,
            id => Which::Id(id.to_owned()),
        };
        let facts = facts(&text, &Options { which: Some(which), ..Options::default() }).expect("facts");
        facts.caption.unwrap_or_default()
    };
    assert_eq!(chosen("usual"), "Trace 00000000000000000000000000000003, 20 ms; 3 of 4 traces have this shape");
    assert_eq!(chosen("slowest"), "Trace 00000000000000000000000000000009, 900 ms; 1 of 4 traces have this shape");
    assert!(chosen("00000000000000000000000000000002").starts_with("Trace 00000000000000000000000000000002, 30 ms"));
}

#[test]
fn a_map_counts_and_takes_the_median() {
    let one = |trace: u64, length: u64| {
        let rows = [
            ("gate", 1, 0, SERVER, "report", [0, 100]),
            ("gate", 2, 1, CLIENT, "judge", [0, length]),
            ("rules", 3, 2, SERVER, "judge", [0, length]),
            ("rules", 4, 3, CLIENT, "q", [0, 1]),
        ];
        let error = if trace == 3 { "no" } else { "" };
        let mut attributes = vec![(4, "db.system", "redis"), (4, "db.operation", "GET")];
        attributes.extend((!error.is_empty()).then_some((3, "error", error)));
        document(&rows, trace, &attributes)
    };
    let text = [one(1, 10), one(2, 30), one(3, 20)].join("\n");
    let map = facts(&text, &Options::default()).expect("facts");
    let text = emit(&map.document());
    for line in
        ["  gate calls rules \"3 calls, 20 ms, 33 % fail\" (tag failed)\n", "  rules reads redis \"3 calls, 1 ms\"\n"]
    {
        assert!(text.contains(line), "{line} in:\n{text}");
    }
    let selection = Selection { without: vec!["re*".to_owned()], ..Selection::default() };
    let less = facts(&one(1, 10).repeat(2), &Options { which: Some(Which::All), selection }).expect("facts");
    assert!(less.things.iter().all(|thing| thing.origin != "redis"));
}

#[test]
fn documents_may_be_on_lines_and_over_lines_and_numbers_may_be_names() {
    let line = document(&[("gate", 1, 0, SERVER, "report", [0, 10])], 1, &[]);
    let pretty =
        |text: &str| serde_json::to_string_pretty(&serde_json::from_str::<Value>(text).expect("JSON")).expect("text");
    let named = line
        .replace("\"kind\":2", "\"kind\":\"SPAN_KIND_SERVER\"")
        .replace("traceId", "trace_id")
        .replace("scopeSpans", "scope_spans");
    for text in
        [format!("{line}\n\n{line}\n"), format!("{}\n{}\n", pretty(&line), pretty(&line)), format!("{named}\n{named}")]
    {
        let facts = facts(&text, &Options { which: Some(Which::All), ..Options::default() }).expect("facts");
        assert_eq!((facts.counts.rows, facts.things.len()), (2, 1), "{text}");
    }
    let broken = |text: &str| facts(text, &Options::default()).expect_err("broken").to_string();
    assert!(broken(&format!("{line}\n{{\"resourceSpans\": 3}}\n")).starts_with("t.json:2:"), "{}", broken(&line));
    assert!(broken("{\n\"resourceSpans\": [\n{\"scopeSpans\": 3}]}").starts_with("t.json:3:"));
}

#[test]
fn calls_are_observed_in_the_order_of_time() {
    let rows = [
        ("gate", 1, 0, SERVER, "report", [0, 100]),
        ("gate", 4, 1, CLIENT, "warn", [50, 60]),
        ("gate", 2, 1, CLIENT, "judge", [10, 40]),
        ("rules", 3, 2, SERVER, "judge it", [12, 38]),
        ("gate", 6, 1, INTERNAL, "think", [70, 80]),
    ];
    let text = document(&rows, 1, &[(4, "peer.service", "desk")]);
    let traces = observed(Path::new("t.json"), Cursor::new(text.into_bytes())).expect("traces");
    let said: Vec<String> = traces[0]
        .calls
        .iter()
        .map(|call| format!("{} {} {} {}", call.from.as_deref().unwrap_or("-"), call.to, call.label, call.place))
        .collect();
    assert_eq!(said, ["- gate report t.json:1", "gate rules judge it t.json:1", "gate desk warn t.json:1"]);
}

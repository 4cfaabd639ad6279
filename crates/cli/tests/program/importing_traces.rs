//! `import trace` and `conform --trace`: traces as the OpenTelemetry SDK writes them.

use crate::common::{Folder, repository};
use serde_json::{Value, json};

fn data(name: &str) -> String {
    repository().join(format!("crates/cli/tests/data/traces/{name}")).display().to_string()
}

const SURGE: &str = r#"  found calls gateway "POST /levels" within "135 ms" returning "202"
    does "decode frame" within "2 ms"
    repeat "3 times"
      calls readings "INSERT readings" within "4 ms"
    together
      calls forecast "GET /window" within "45 ms" returning "200"
    and
      calls archive "PUT /frames" within "38 ms" returning "201"
        calls readings "INSERT readings" within "5 ms"
    sends warnings "publish warnings"
      sends desk "process warnings"
        calls readings "SELECT readings" within "3 ms"
        calls pager "POST /call-outs" within "20 ms" returning "200"
"#;

#[test]
fn one_trace_is_a_sequence_and_many_are_a_map() {
    let folder = Folder::new();
    for file in ["surge.jsonl", "surge.jsonl.gz", "surge.jsonl.zst", "surge.json"] {
        let run = folder.run(&["import", "trace", &data(file), "--trace", "usual"]).ends_with(0);
        assert!(run.out.contains(SURGE), "{file}:\n{}", run.out);
        assert!(
            run.err.contains("[clocks-differ]: the clock of `archive` is about 40 ms ahead of that of `gateway`"),
            "{}",
            run.err
        );
    }
    let map = folder.run(&["import", "trace", &data("surge.jsonl"), "--picture", "map.html"]).ends_with(0);
    for line in [
        "  store readings (origin readings)\n    built \"postgresql\"\n",
        "  gateway writes readings \"27 calls, 4 ms\"\n",
        "  warnings sends desk \"6 calls, 40 ms\"\n",
        "  desk calls pager \"6 calls, 20 ms, 17 % fail\" (tag failed)\n",
        "  tag failed: line coral thick\n",
    ] {
        assert!(map.out.contains(line), "{line} in:\n{}", map.out);
    }
    assert!(folder.read("map.html").contains("data-element=\"gateway\""));
    let slowest = folder.run(&["import", "trace", &data("surge.jsonl"), "--trace", "slowest"]).ends_with(0).out;
    assert!(slowest.contains("\"POST /levels\" within \"225 ms\""), "{slowest}");
    let failed = folder.run(&["import", "trace", &data("surge.jsonl"), "--trace", "slowest", "--without", "archive"]);
    assert!(!failed.ends_with(0).out.contains("archive"));
    folder
        .run(&["import", "trace", &data("surge.jsonl"), "--trace", "ffff"])
        .ends_with(2)
        .says("no trace begins with `ffff`");
    folder.run(&["import", "trace", &data("surge.jsonl"), "--trace", "zzz"]).ends_with(2).says("write `slowest`");
}

/// A span of one service, in microseconds.
fn span(id: u64, parent: u64, kind: u64, name: &str, times: [u64; 2]) -> Value {
    let hex = |id: u64| if id == 0 { String::new() } else { format!("{id:016x}") };
    json!({
        "traceId": "5b8efff798038103d269b633813fc60c", "spanId": hex(id), "parentSpanId": hex(parent), "name": name, "kind": kind,
        "startTimeUnixNano": (times[0] * 1000).to_string(), "endTimeUnixNano": (times[1] * 1000).to_string(),
    })
}

fn document(services: &[(&str, Vec<Value>)]) -> String {
    let resource = |(name, spans): &(&str, Vec<Value>)| {
        json!({
            // Behind its spans, as some writers have it.
            "scopeSpans": [{ "spans": spans }],
            "resource": { "attributes": [{ "key": "service.name", "value": { "stringValue": name } }] },
        })
    };
    json!({ "resourceSpans": services.iter().map(resource).collect::<Vec<_>>() }).to_string()
}

#[test]
fn lost_parents_circles_and_depth_are_said() {
    let folder = Folder::new();
    folder.write(
        "lost.json",
        document(&[("desk", vec![span(2, 99, 2, "raise", [10, 20]), span(3, 2, 1, "look up", [11, 12])])]),
    );
    let lost = folder.run(&["import", "trace", "lost.json"]).ends_with(0);
    assert!(
        lost.out.contains("  found calls desk \"raise\" within \"10 µs\"\n    does \"look up\" within \"1 µs\"\n"),
        "{}",
        lost.out
    );
    assert!(
        lost.err.contains("lost.json:1: note [parent-missing]: the span around `raise` is not in the file"),
        "{}",
        lost.err
    );
    folder.write(
        "circle.json",
        document(&[(
            "desk",
            vec![span(1, 2, 2, "a", [1, 9]), span(2, 1, 1, "b", [2, 8]), span(3, 3, 1, "self", [3, 4])],
        )]),
    );
    let circle = folder.run(&["import", "trace", "circle.json"]).ends_with(0);
    assert!(circle.err.contains("[in-a-circle]") && circle.out.contains("\"a\""), "{}{}", circle.err, circle.out);
    let deep = (1..3000).map(|i| span(i, i - 1, 1, &format!("level {i}"), [i, 9000 - i])).collect();
    folder.write("deep.json", document(&[("desk", deep)]));
    let deep = folder.run(&["import", "trace", "deep.json"]).ends_with(0);
    assert!(deep.err.contains("[too-deep]"), "{}", deep.err);
    folder.write("deep.bathy", &deep.out);
    folder.run(&["format", "--check", "deep.bathy"]).ends_with(0);
    // Every call beside another one, and each of them twice: three lines a level.
    let nested = (1..60_u64).flat_map(|i| {
        let times = |k: u64| [i * 10 + k, 9000 - i * 10 - k];
        let one = |k: u64, name: String| span(i * 10 + k, (i - 1) * 10, 1, &name, times(k));
        [one(0, format!("level {i}")), one(1, format!("beside {i}")), one(2, format!("beside {i}"))]
    });
    folder.write("nested.json", document(&[("desk", nested.collect())]));
    let nested = folder.run(&["import", "trace", "nested.json"]).ends_with(0);
    folder.write("nested.bathy", &nested.out);
    folder.run(&["format", "--check", "nested.bathy"]).ends_with(0);
    folder.run(&["check", "--no-pictures", "nested.bathy"]);
    assert!(nested.out.contains("together") && nested.out.contains("2 times, at the same time"), "{}", nested.out);
}

#[test]
fn a_small_file_that_unpacks_to_a_huge_text_is_refused() {
    let folder = Folder::new();
    // 200 MB of one letter, in some 20 kB: a stored gzip of it would be as long.
    let long = vec![b'a'; 200_000_000];
    let packed = zstd_of(&[b"{\"resourceSpans\": [{\"resource\": \"", &long, b"\"}]}"]);
    assert!(packed.len() < 100_000, "{}", packed.len());
    folder.write("bomb.json.zst", packed);
    folder.run(&["import", "trace", "bomb.json.zst"]).ends_with(2).says("a text of more than 16 MB");
}

/// A frame of Zstandard (RFC 8878) whose blocks repeat one byte each where they can.
fn zstd_of(pieces: &[&[u8]]) -> Vec<u8> {
    const BLOCK: usize = 128 * 1024;
    // Magic number; a frame header without size and check sum; a window of 128 kB.
    let mut out = vec![0x28, 0xb5, 0x2f, 0xfd, 0x00, 0x38];
    let blocks: Vec<&[u8]> = pieces.iter().flat_map(|piece| piece.chunks(BLOCK)).collect();
    for (i, block) in blocks.iter().enumerate() {
        let is_run = block.iter().all(|byte| *byte == block[0]);
        let kind = u32::from(is_run);
        let header = u32::from(i + 1 == blocks.len()) | kind << 1 | (block.len() as u32) << 3;
        out.extend_from_slice(&header.to_le_bytes()[..3]);
        out.extend_from_slice(if is_run { &block[..1] } else { block });
    }
    out
}

#[test]
fn broken_traces_are_named_with_their_place() {
    let folder = Folder::new();
    let whole = std::fs::read_to_string(data("surge.json")).expect("the trace");
    folder.write("cut.json", &whole[..whole.len() / 2]);
    let lines = std::fs::read_to_string(data("surge.jsonl")).expect("the traces");
    folder.write("cut.jsonl", &lines[..lines.len() - 200]);
    folder.write("odd.json", "{\"resourceSpans\": [{\"scopeSpans\": 7}]}\n");
    folder.write("none.json", "{}\n");
    folder.write("text.json", "calls\n");
    folder.write("empty.json", "");
    folder.write("packed.json", [0x1f, 0x8b, 8, 0, 0, 0]);
    for (file, says) in [
        ("cut.json", "the file ends in the middle"),
        ("cut.jsonl", "cut.jsonl:9:"),
        ("odd.json", "odd.json:1:"),
        ("none.json", "there are no spans in it"),
        ("text.json", "text.json:1:"),
        ("empty.json", "there are no spans in it"),
        ("packed.json", "packed.json:"),
    ] {
        let run = folder.run(&["import", "trace", file, "--picture", "out.svg"]).ends_with(2).says(says);
        assert_eq!(run.out, "", "{file}");
    }
    assert!(!folder.path("out.svg").exists());
}

#[test]
fn a_sequence_that_people_edited_is_brought_up_to_date() {
    let folder = Folder::new();
    let before = document(&[
        ("gate", vec![span(1, 0, 2, "report", [0, 100]), span(2, 1, 3, "judge", [10, 40])]),
        ("rules", vec![span(3, 2, 2, "judge", [11, 39])]),
    ]);
    folder.write("t.json", before);
    let first = folder.run(&["-q", "import", "trace", "t.json"]).ends_with(0).out;
    // A label, a choice around a call, a phase, another order of parties.
    let edited = first.replace(
        "    calls rules \"judge\" within \"30 µs\"\n",
        "    when \"a level is over 4 m\"\n      calls rules \"judge the level\" within \"30 µs\" // slow\n",
    ) + "  phase \"Later\"\n  order rules, gate\n";
    assert_ne!(first, edited);
    folder.write("t.bathy", &edited);
    folder.run(&["import", "trace", "t.json", "--into", "t.bathy"]).ends_with(0).says("is up to date");
    let after = document(&[
        (
            "gate",
            vec![span(1, 0, 2, "report", [0, 100]), span(2, 1, 3, "judge", [10, 40]), span(4, 1, 3, "warn", [50, 60])],
        ),
        ("rules", vec![span(3, 2, 2, "judge", [11, 39])]),
        ("desk", vec![span(5, 4, 2, "warn", [51, 59])]),
    ]);
    folder.write("t.json", after);
    folder.run(&["import", "trace", "t.json", "--into", "t.bathy"]).ends_with(0).says("new: desk");
    let text = folder.read("t.bathy");
    let mut rest = text.lines();
    assert!(edited.lines().all(|line| rest.any(|own| own == line)), "{text}");
    let at = |what: &str| text.find(what).unwrap_or_else(|| panic!("{what} in:\n{text}"));
    assert!(at("judge the level") < at("    calls desk \"warn\"") && at("calls desk") < at("phase"), "{text}");
}

#[test]
fn the_demo_s_sequence_differs_from_its_traces_in_what_is_known() {
    let folder = Folder::new();
    folder.run(&["-q", "demo", "tidewatch"]).ends_with(0);
    let run = folder.run_in(
        "tidewatch",
        &["conform", "surge_warning.bathy", "--trace", "surge_traces.jsonl", "--picture", "d.svg"],
    );
    let run = run.ends_with(1);
    let codes: Vec<&str> = run.out.lines().filter_map(|line| line.split('[').nth(1)?.split(']').next()).collect();
    assert_eq!(codes, ["order", "repeated", "repeated", "surprise", "untaken", "unobserved"], "{}", run.out);
    for line in [
        "surge_warning.bathy:13: error [order]: `gateway` calls `rules` \"judge level\" comes before `gateway` calls `readings` \"append\" in 2 of 12 traces; the diagram says the opposite (surge_traces.jsonl:3)",
        "surge_warning.bathy:17: error [surprise]: `desk` calls `rota` (not in the diagram) \"who is on duty\" in 3 of 12 traces",
        "surge_warning.bathy:23: note [untaken]: the branch \"severity 1 or 2\" is taken in none of 12 traces",
    ] {
        assert!(run.out.contains(line), "{line} in:\n{}", run.out);
    }
    assert!(folder.read("tidewatch/d.svg").contains("who is on duty"));
    let as_json = ["conform", "surge_warning.bathy", "--trace", "surge_traces.jsonl", "--format", "json"];
    let json: Value = serde_json::from_str(&folder.run_in("tidewatch", &as_json).ends_with(1).out).expect("JSON");
    let schema = folder.run(&["conform", "--schema"]).ends_with(0).out;
    assert_eq!(schema, std::fs::read_to_string(repository().join("docs/conform.schema.json")).expect("the schema"));
    let schema: Value = serde_json::from_str(&schema).expect("JSON");
    let wrong: Vec<String> =
        jsonschema::validator_for(&schema).expect("a schema").iter_errors(&json).map(|e| e.to_string()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    let as_sarif = ["conform", "surge_warning.bathy", "--trace", "surge_traces.jsonl", "--format", "sarif"];
    let log: Value = serde_json::from_str(&folder.run_in("tidewatch", &as_sarif).ends_with(1).out).expect("JSON");
    let schema = std::fs::read_to_string(repository().join("crates/cli/tests/data/sarif-2.1.0.schema.json"))
        .expect("the schema");
    let schema: Value = serde_json::from_str(&schema).expect("JSON");
    let wrong: Vec<String> =
        jsonschema::validator_for(&schema).expect("a schema").iter_errors(&log).map(|e| e.to_string()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    let markdown = ["conform", "surge_warning.bathy", "--trace", "surge_traces.jsonl", "--format", "markdown"];
    folder.run_in("tidewatch", &markdown).ends_with(1).says("- **surprise**: `desk` calls `rota`");
    // What the traces show conforms to them, or says what it left out.
    let own = folder
        .run_in("tidewatch", &["-q", "import", "trace", "surge_traces.jsonl", "--trace", "usual", "--name", "usual"]);
    folder.write("own/usual.bathy", own.ends_with(0).out);
    folder.run(&["conform", "own/usual.bathy", "--trace", "tidewatch/surge_traces.jsonl"]).says("rota");
}

#[test]
fn conform_is_called_with_what_it_needs() {
    let folder = Folder::new();
    folder.write("f.bathy", "flow f\n  begin \"a\"\n  finish \"b\"\n");
    folder.write("s.bathy", "sequence s\n  a calls b \"x\"\n");
    folder.write("t.json", document(&[("gate", vec![span(1, 0, 2, "report", [0, 100])])]));
    folder.run(&["conform", "s.bathy"]).ends_with(2).says("--trace");
    folder.run(&["conform", "f.bathy", "--trace", "t.json"]).ends_with(2).says("there is no sequence");
    folder.run(&["conform", "s.bathy", "--trace", "nothere.json"]).ends_with(2).says("nothere.json cannot be read");
    folder.run(&["conform", "s.bathy", "--trace", "t.json"]).ends_with(0).says("s: none of 1 trace is of it");
    folder
        .run(&["conform", "s.bathy", "--trace", "t.json", "--picture", "d.svg"])
        .ends_with(2)
        .says("there is nothing to draw");
    assert!(!folder.path("d.svg").exists());
}

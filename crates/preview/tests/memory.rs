//! However much is typed, no more memory is taken. On its own, since it measures the whole process; `EDITS=100000` types for
//! longer.

#![cfg(target_os = "linux")]

use bathygram_host::Project;
use bathygram_preview::{Options, Preview};
use serde_json::json;
use std::sync::Arc;
use std::time::Duration;

const TEXT: &str = "sequence surge \"A surge\"\n  buoy sends gateway \"level\"\n  gateway calls desk \"warn\"\n";

/// How much memory this process has, in bytes.
fn memory() -> usize {
    let text = std::fs::read_to_string("/proc/self/statm").expect("there");
    text.split(' ').nth(1).and_then(|pages| pages.parse::<usize>().ok()).expect("a number") * 4096
}

#[test]
fn however_much_is_typed_no_more_memory_is_taken() {
    let folder = tempfile::tempdir().expect("a folder");
    std::fs::write(folder.path().join("surge.bathy"), TEXT).expect("written");
    let options = Options {
        project: Project::without_config(folder.path()),
        only: Vec::new(),
        export: Box::new(|_, _, _, _| Ok(Vec::new())),
        starters: Vec::new(),
        port: 0,
        editor: None,
    };
    let preview = Arc::new(Preview::start(options).expect("a server"));
    let served = preview.clone();
    std::thread::spawn(move || served.serve());
    let edits: u64 = std::env::var("EDITS").ok().and_then(|n| n.parse().ok()).unwrap_or(4_000);
    let config = ureq::Agent::config_builder().http_status_as_error(false);
    let agent: ureq::Agent = config.timeout_global(Some(Duration::from_secs(60))).build().into();
    let url = format!("{}draw", preview.address());
    let mut type_one = |i: u64| {
        let asked = json!({
            "text": format!("{TEXT}  desk sends keeper{} \"{}\"\n", i % 7, "call ".repeat(i as usize % 11)),
            "page": format!("p{}", i / 500), "number": i, "file": "surge.bathy", "picture": null, "caret": 0,
            "rest": i.is_multiple_of(10), "theme": (["shoal", "abyss", "ink"][i as usize % 3]), "seen": [0, 1000],
        });
        let mut answer = agent.post(&url).send_json(&asked).expect("an answer");
        assert_eq!(answer.status().as_u16(), 200);
        answer.body_mut().read_to_vec().expect("all of it");
    };
    (1..edits / 4).for_each(&mut type_one);
    let before = memory();
    (edits / 4..edits).for_each(&mut type_one);
    let after = memory();
    assert!(after < before + 8 * 1024 * 1024, "{before} bytes before, {after} after {edits} edits");
}

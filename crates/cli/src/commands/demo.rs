//! `demo`: the demo project in a folder, rendered; the one command to start with.

use crate::commands::render;
use crate::outcome::{Failure, Result};
use crate::session::Voice;
use bathygram_host::{Seen, write_whole};
use std::path::PathBuf;

/// The demo project, which ships inside the program.
const FILES: &[(&str, &[u8])] = &[
    ("bathygram.toml", include_bytes!("../../../../demo/tidewatch/bathygram.toml")),
    ("architecture.bathy", include_bytes!("../../../../demo/tidewatch/architecture.bathy")),
    ("buoy_life.bathy", include_bytes!("../../../../demo/tidewatch/buoy_life.bathy")),
    ("domain.bathy", include_bytes!("../../../../demo/tidewatch/domain.bathy")),
    ("dredging.bathy", include_bytes!("../../../../demo/tidewatch/dredging.bathy")),
    ("harbour_cabling.csv", include_bytes!("../../../../demo/tidewatch/harbour_cabling.csv")),
    ("harbour.sqlite", include_bytes!("../../../../demo/tidewatch/harbour.sqlite")),
    ("moorings.graphml", include_bytes!("../../../../demo/tidewatch/moorings.graphml")),
    ("moorings.ttl", include_bytes!("../../../../demo/tidewatch/moorings.ttl")),
    ("new_gauge.bathy", include_bytes!("../../../../demo/tidewatch/new_gauge.bathy")),
    ("open_data.bathy", include_bytes!("../../../../demo/tidewatch/open_data.bathy")),
    ("readings_schema.bathy", include_bytes!("../../../../demo/tidewatch/readings_schema.bathy")),
    ("recalibrate.bathy", include_bytes!("../../../../demo/tidewatch/recalibrate.bathy")),
    ("shore_cabling.bathy", include_bytes!("../../../../demo/tidewatch/shore_cabling.bathy")),
    ("silent_gauge.md", include_bytes!("../../../../demo/tidewatch/silent_gauge.md")),
    ("station_commissioning.bathy", include_bytes!("../../../../demo/tidewatch/station_commissioning.bathy")),
    ("storm_drill.bathy", include_bytes!("../../../../demo/tidewatch/storm_drill.bathy")),
    ("surge_traces.jsonl", include_bytes!("../../../../demo/tidewatch/surge_traces.jsonl")),
    ("surge_warning.bathy", include_bytes!("../../../../demo/tidewatch/surge_warning.bathy")),
    ("warning_classes.bathy", include_bytes!("../../../../demo/tidewatch/warning_classes.bathy")),
    ("warning_design.bathy", include_bytes!("../../../../demo/tidewatch/warning_design.bathy")),
    ("warning_flow.bathy", include_bytes!("../../../../demo/tidewatch/warning_flow.bathy")),
    ("warning_life.bathy", include_bytes!("../../../../demo/tidewatch/warning_life.bathy")),
    ("console/package.json", include_bytes!("../../../../demo/tidewatch/console/package.json")),
    ("console/src/board/board.ts", include_bytes!("../../../../demo/tidewatch/console/src/board/board.ts")),
    ("console/src/board/index.ts", include_bytes!("../../../../demo/tidewatch/console/src/board/index.ts")),
    ("console/src/board/tile.ts", include_bytes!("../../../../demo/tidewatch/console/src/board/tile.ts")),
    ("console/src/charts/index.ts", include_bytes!("../../../../demo/tidewatch/console/src/charts/index.ts")),
    (
        "console/src/charts/level_chart.ts",
        include_bytes!("../../../../demo/tidewatch/console/src/charts/level_chart.ts"),
    ),
    ("console/src/main.ts", include_bytes!("../../../../demo/tidewatch/console/src/main.ts")),
    ("console/src/wire/feed.ts", include_bytes!("../../../../demo/tidewatch/console/src/wire/feed.ts")),
    ("console/src/wire/frames.ts", include_bytes!("../../../../demo/tidewatch/console/src/wire/frames.ts")),
    ("console/src/wire/index.ts", include_bytes!("../../../../demo/tidewatch/console/src/wire/index.ts")),
    ("warnings/__init__.py", include_bytes!("../../../../demo/tidewatch/warnings/__init__.py")),
    ("warnings/callouts/__init__.py", include_bytes!("../../../../demo/tidewatch/warnings/callouts/__init__.py")),
    ("warnings/callouts/desk.py", include_bytes!("../../../../demo/tidewatch/warnings/callouts/desk.py")),
    ("warnings/callouts/pager.py", include_bytes!("../../../../demo/tidewatch/warnings/callouts/pager.py")),
    ("warnings/gateway/__init__.py", include_bytes!("../../../../demo/tidewatch/warnings/gateway/__init__.py")),
    ("warnings/gateway/frames.py", include_bytes!("../../../../demo/tidewatch/warnings/gateway/frames.py")),
    ("warnings/gateway/ingest.py", include_bytes!("../../../../demo/tidewatch/warnings/gateway/ingest.py")),
    ("warnings/gateway/siren.py", include_bytes!("../../../../demo/tidewatch/warnings/gateway/siren.py")),
    ("warnings/readings/__init__.py", include_bytes!("../../../../demo/tidewatch/warnings/readings/__init__.py")),
    ("warnings/readings/level.py", include_bytes!("../../../../demo/tidewatch/warnings/readings/level.py")),
    ("warnings/readings/store.py", include_bytes!("../../../../demo/tidewatch/warnings/readings/store.py")),
    ("warnings/rota/__init__.py", include_bytes!("../../../../demo/tidewatch/warnings/rota/__init__.py")),
    ("warnings/rules/__init__.py", include_bytes!("../../../../demo/tidewatch/warnings/rules/__init__.py")),
    ("warnings/rules/judge.py", include_bytes!("../../../../demo/tidewatch/warnings/rules/judge.py")),
    ("warnings/rules/limits.py", include_bytes!("../../../../demo/tidewatch/warnings/rules/limits.py")),
    ("warnings/tools/replay.py", include_bytes!("../../../../demo/tidewatch/warnings/tools/replay.py")),
];

/// What to look at first.
const LOOK_AT: &[(&str, &str)] = &[
    ("tidewatch_core", "inside a system, one sheet of the map"),
    ("tidewatch", "the whole map, in three levels"),
    ("surge_warning", "a conversation"),
    ("domain", "classes"),
    ("recalibrate", "a flow with lanes"),
    ("new_gauge", "sixty steps in four lanes"),
    ("buoy_life", "states in states"),
    ("storm_drill_map", "a conversation, step by step over the map"),
    ("tidewatch_hosts", "what runs where"),
    ("shore_cabling", "a network with its ports"),
    ("dredging", "a decision tree"),
];

/// Write the demo project into a folder, render all of it, and say what to look at
#[derive(clap::Args)]
#[command(after_help = "Example:\n  bathygram demo")]
pub(crate) struct Arguments {
    /// The folder to write to
    #[arg(default_value = "tidewatch")]
    folder: PathBuf,
}

/// Runs the command.
///
/// # Errors
/// If the folder holds other texts under the same names, or cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let folder = &arguments.folder;
    for (name, bytes) in FILES {
        let path = folder.join(name);
        if path.exists() && std::fs::read(&path).is_ok_and(|old| old != *bytes) {
            let message = format!("{} is there and differs from the demo; name another folder", path.seen());
            return Err(Failure::Usage(message));
        }
    }
    for (name, bytes) in FILES {
        write_whole(&folder.join(name), bytes)?;
    }
    let texts = FILES.iter().filter(|(name, _)| name.ends_with(".bathy")).count();
    let sources = "code, a database, a table, a graph, RDF, traces and an outline to import";
    voice.say(&format!("The demo project is in {}: {texts} source files, and {sources}.", folder.seen()));
    let outcome = render::project_at(folder, voice)?;
    let picture = |name: &str| folder.join("pictures").join(format!("{name}.svg")).seen().to_string();
    let list: String = LOOK_AT.iter().map(|(name, what)| format!("  {:46} {what}\n", picture(name))).collect();
    voice.say(&format!(
        "\nOpen in a browser:\n{list}\nThen change a line of {} and run `bathygram render` in {}.",
        folder.join("surge_warning.bathy").seen(),
        folder.seen(),
    ));
    Ok(outcome)
}

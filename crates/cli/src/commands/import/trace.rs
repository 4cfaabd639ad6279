//! `import trace`: one trace as a sequence, or all of them as a map.

use super::{Common, answer, broken, open};
use crate::outcome::Result;
use crate::session::Voice;
use bathygram_readers::trace::{self, Options, Which};
use std::path::PathBuf;

/// Draft a sequence from one trace, or an architecture of who calls whom from many
///
/// OpenTelemetry traces as OTLP JSON, one document or one a line, also packed with gzip or Zstandard. A file with one trace becomes a
/// sequence, a file with several an architecture with how often, how long and how often it failed.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram import trace surge_traces.jsonl > calls.bathy\n  \
    bathygram import trace surge_traces.jsonl --trace usual --picture surge.svg > surge.bathy\n  \
    bathygram import trace surge_traces.jsonl --trace slowest > slowest.bathy")]
pub(super) struct Arguments {
    /// The file with traces, `-` for standard input
    source: PathBuf,
    /// Which trace: the first figures of its identifier, `slowest`, `usual` (of the shape that most have), or `all` for the map
    #[arg(long, value_name = "TRACE", value_parser = which)]
    trace: Option<Which>,
    #[command(flatten)]
    common: Common,
}

fn which(text: &str) -> std::result::Result<Which, String> {
    match text {
        "slowest" => Ok(Which::Slowest),
        "usual" => Ok(Which::Usual),
        "all" => Ok(Which::All),
        _ if !text.is_empty() && text.chars().all(|c| c.is_ascii_hexdigit()) => Ok(Which::Id(text.to_owned())),
        _ => Err("write `slowest`, `usual`, `all` or the first hexadecimal figures of a trace".to_owned()),
    }
}

/// Runs the command.
///
/// # Errors
/// If the traces are broken, or there is none.
pub(super) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let options = Options { selection: arguments.common.selection(), which: arguments.trace.clone() };
    let (path, bytes) = open(&arguments.source, "trace.json", voice)?;
    let facts = trace::read(&path, bytes, &options).map_err(broken)?;
    answer(&arguments.common, facts, "span", voice)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn traces_are_chosen_by_a_word_or_by_figures() {
        assert_eq!(which("slowest"), Ok(Which::Slowest));
        assert_eq!(which("usual"), Ok(Which::Usual));
        assert_eq!(which("all"), Ok(Which::All));
        assert_eq!(which("4bF9"), Ok(Which::Id("4bF9".to_owned())));
        for wrong in ["", "fast", "0x12", "4b f9"] {
            assert!(which(wrong).is_err(), "{wrong}");
        }
    }
}

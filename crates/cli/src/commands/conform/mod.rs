//! `conform`: what was intended against what really happens.

mod picture;
mod report;

use crate::commands::import::open;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::conform::{Trace, Weight, sequence};
use bathygram_core::model::DiagramKind;
use bathygram_host::Project;
use bathygram_readers::trace;
use report::{Compared, Form};
use std::path::PathBuf;

/// Where drawing and reality differ: sequences against traces
///
/// For each sequence of FILES, or of the project, the traces that show it are looked for: calls that nobody drew, calls that never
/// happen, another order, branches that nobody takes. Parties are known by their `origin`, their names or their labels. Exits
/// with 1 when there are differences.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram conform surge_warning.bathy --trace surge_traces.jsonl\n  \
    bathygram conform surge_warning.bathy --trace surge_traces.jsonl --picture differences.svg\n  \
    bathygram conform --trace surge_traces.jsonl --format sarif > conform.sarif")]
pub(crate) struct Arguments {
    /// Sources; all of the project otherwise
    files: Vec<PathBuf>,
    /// Traces as OTLP JSON, `-` for standard input
    #[arg(long, value_name = "FILE", required_unless_present = "schema")]
    trace: Option<PathBuf>,
    /// Form of the answer
    #[arg(long, value_enum, default_value_t = Form::Text)]
    format: Form,
    /// Draw the sequence with the differences marked: SVG or PNG, by the ending
    #[arg(long, value_name = "FILE")]
    picture: Option<PathBuf>,
    /// Write the JSON Schema of what --format json writes, and nothing else
    #[arg(long)]
    schema: bool,
}

/// Runs the command.
///
/// # Errors
/// If a source or the traces cannot be read.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&report::schema())?;
        return Ok(Outcome::Done);
    }
    let Some(path) = &arguments.trace else { return Err(Failure::Usage("name traces with `--trace FILE`".into())) };
    let (path, bytes) = open(path, "trace.json", voice)?;
    let traces = trace::observed(&path, bytes).map_err(|why| Failure::Usage(why.to_string()))?;
    let project = session::project()?;
    let sources = session::sources(&project, &arguments.files);
    let (readings, whole) = session::open_all(&project, &sources, voice);
    if let Some(broken) = readings.iter().find(|reading| reading.has_errors()) {
        voice.findings(&project, [(broken, &broken.diagnostics[..])]);
        return Ok(Outcome::Denied);
    }
    let compared = compare(&readings, &traces);
    if compared.is_empty() {
        return Err(Failure::Usage("there is no sequence in these files".into()));
    }
    if let Some(target) = &arguments.picture {
        picture::write(&project, target, &compared, voice)?;
    }
    answer(&project, arguments, &compared, traces.len(), voice)?;
    let differs = |compared: &Compared<'_>| compared.of.differences.iter().any(|d| d.weight() == Weight::Difference);
    Ok(match (whole, compared.iter().any(differs)) {
        (false, _) => Outcome::Incomplete,
        (true, true) => Outcome::Denied,
        (true, false) => Outcome::Done,
    })
}

/// All sequences against the traces.
fn compare<'r>(readings: &'r [bathygram_core::pipeline::Reading], traces: &[Trace]) -> Vec<Compared<'r>> {
    let mut out = Vec::new();
    for reading in readings {
        for design in reading.document.diagrams.iter().filter(|d| d.kind == DiagramKind::Sequence) {
            out.push(Compared { reading, design, of: sequence(design, traces) });
        }
    }
    out
}

fn answer(
    project: &Project, arguments: &Arguments, compared: &[Compared<'_>], traces: usize, voice: Voice,
) -> Result<()> {
    // A picture on standard output is the answer.
    if arguments.picture.as_deref().is_some_and(session::is_stdout) {
        return Ok(());
    }
    let text = match arguments.format {
        Form::Text => report::text(project, compared, voice.result_colours()),
        Form::Json => report::json(project, compared)?,
        Form::Sarif => report::sarif(project, compared),
        Form::Markdown => report::markdown(project, compared),
    };
    session::answer(&text)?;
    for compared in compared {
        voice.say(&summary(compared, traces));
    }
    Ok(())
}

fn summary(compared: &Compared<'_>, traces: usize) -> String {
    let of = &compared.of;
    let name = &compared.design.name;
    if of.traces == 0 {
        return format!("{name}: none of {} is of it", session::count(traces, "trace"));
    }
    let differences = of.differences.iter().filter(|d| d.weight() == Weight::Difference).count();
    let others = if of.others > 0 { format!(", {} of something else", of.others) } else { String::new() };
    format!(
        "{name}: {} as drawn, {}, in {}{others}",
        session::count(of.agreements.len(), "message"),
        session::count(differences, "difference"),
        session::count(of.traces, "trace")
    )
}

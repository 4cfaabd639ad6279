//! `conform`: what was intended against what really is.

mod baseline;
mod compared;
mod picture;
mod report;

use crate::commands::import::{open, source_tree};
use crate::named;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use crate::stores::{Access, Asked, catalogue, vocabulary};
use baseline::Baseline;
use bathygram_core::conform::{Code, CodeClasses, Realm, Schema, Trace};
use bathygram_core::model::{DiagramKind, ShownMembers};
use bathygram_core::pipeline::Reading;
use bathygram_host::{Project, Seen, Threads};
use bathygram_readers::code::{ClassesOptions, CodeBase};
use bathygram_readers::{Selection, database, rdf, trace};
use compared::{Actual, Compared};
use report::{Form, Level, Levels};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// Find where drawing and reality differ: architectures and classes against code, tables against a database, classes against RDF data,
/// sequences against traces
///
/// Architectures whose elements name their files (`code "src/gateway/**"`) are held against the imports in these: uses that nobody drew,
/// that are drawn and not there, that `never uses` forbids, and files that no element stands for. Classes are held against the classifiers
/// in the code: missing ones, members, relations, numbers. Tables are held against the catalogue of a database: columns, types, keys,
/// references, what may be missing and what is unique. Classes are held against RDF data by what their instances
/// have. For each sequence the traces that show it are looked for: calls that nobody drew, calls that never happen, another order, branches that nobody takes. Exits with 1 when
/// there are differences, but for what a baseline accepts.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram conform warning_design.bathy --code .\n  \
    bathygram conform warning_classes.bathy --code . --format markdown\n  \
    bathygram conform readings_schema.bathy --database harbour.sqlite\n  \
    bathygram conform --code . --baseline accepted.txt --write-baseline\n  \
    bathygram conform surge_warning.bathy --trace surge_traces.jsonl --picture differences.svg\n  \
    bathygram conform --trace surge_traces.jsonl --format sarif > conform.sarif")]
pub(crate) struct Arguments {
    /// Source files, documents, folders or patterns; all of the project if none is named
    files: Vec<PathBuf>,
    /// The folder of the source code
    #[arg(long, value_name = "FOLDER")]
    code: Option<PathBuf>,
    /// An SQLite file, or a PostgreSQL server as `postgresql://user@host/database`
    #[arg(long, value_name = "SOURCE")]
    database: Option<String>,
    /// RDF data: a file, or the address of a SPARQL endpoint
    #[arg(long, value_name = "SOURCE")]
    rdf: Option<String>,
    #[command(flatten)]
    asked: Asked,
    #[command(flatten)]
    access: Access,
    /// Traces as OTLP JSON, `-` for standard input
    #[arg(long, value_name = "FILE")]
    trace: Option<PathBuf>,
    /// With --code: take in tests, examples and benchmarks
    #[arg(long)]
    with_tests: bool,
    /// Accept the differences that this file lists
    #[arg(long, value_name = "FILE")]
    baseline: Option<PathBuf>,
    /// Write all differences there are to the baseline, so that only new ones count from now on
    #[arg(long)]
    write_baseline: bool,
    /// Form of the answer
    #[arg(long, value_enum, default_value_t = Form::Text)]
    format: Form,
    /// Draw the one diagram with the differences marked: SVG or PNG, by the ending
    #[arg(long, value_name = "FILE")]
    picture: Option<PathBuf>,
    /// Write the JSON Schema of what --format json writes, and nothing else
    #[arg(long)]
    schema: bool,
}

/// What drawings are compared with.
#[derive(Default)]
struct Sources {
    traces: Option<Vec<Trace>>,
    code: Option<Code>,
    classes: Option<CodeClasses>,
    schema: Option<Schema>,
    data: Option<CodeClasses>,
}

/// Runs the command.
///
/// # Errors
/// If a source, the traces or the code cannot be read.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&report::schema())?;
        return Ok(Outcome::Done);
    }
    let project = session::project()?;
    let levels = Levels::of(&project)?;
    let (readings, whole) = readings(&project, &arguments.files, voice)?;
    let kinds: BTreeSet<DiagramKind> =
        readings.iter().flat_map(|reading| &reading.document.diagrams).map(|diagram| diagram.kind).collect();
    let sources = sources(&project, arguments, &kinds, voice)?;
    if let Some(broken) = readings.iter().find(|reading| reading.has_errors()) {
        voice.findings(&project, [(broken, &broken.diagnostics[..])]);
        return Ok(Outcome::Denied);
    }
    let mut compared = compared::all(&readings, &sources);
    if compared.is_empty() {
        return Err(Failure::Usage(nothing(&sources)));
    }
    let path =
        arguments.baseline.clone().or_else(|| Some(project.root.join(project.config.conform.baseline.as_ref()?)));
    if arguments.write_baseline {
        let Some(path) = path else {
            return Err(Failure::Usage("name the file to write with `--baseline FILE`".to_owned()));
        };
        Baseline::write(&path, &compared, &levels, voice)?;
        return Ok(Outcome::Done);
    }
    if let Some(path) = path {
        Baseline::read(&path)?.accept(&mut compared, voice);
    }
    if let Some(target) = &arguments.picture {
        picture::write(&project, target, &compared, voice)?;
    }
    answer(&project, arguments, (&compared, &levels), voice)?;
    let is_denied =
        compared.iter().flat_map(Compared::deviations).any(|one| levels.of_deviation(&one) == Some(Level::Error));
    Ok(match (whole, is_denied) {
        (false, _) => Outcome::Incomplete,
        (true, true) => Outcome::Denied,
        (true, false) => Outcome::Done,
    })
}

/// Reads what drawings are compared with: what the arguments name, or else the config.
fn sources(project: &Project, arguments: &Arguments, kinds: &BTreeSet<DiagramKind>, voice: Voice) -> Result<Sources> {
    let config = &project.config.conform;
    let is_asked = arguments.code.is_some()
        || arguments.trace.is_some()
        || arguments.database.is_some()
        || arguments.rdf.is_some();
    let configured = |path: &Option<PathBuf>| path.as_ref().filter(|_| !is_asked).map(|path| project.root.join(path));
    let trace_file = arguments.trace.clone().or_else(|| configured(&config.trace));
    let folder = arguments.code.clone().or_else(|| configured(&config.code));
    let stored = arguments.database.clone().or_else(|| config.database.clone().filter(|_| !is_asked));
    let data = arguments.rdf.clone().or_else(|| config.rdf.clone().filter(|_| !is_asked));
    if trace_file.is_none() && folder.is_none() && stored.is_none() && data.is_none() {
        let message = "name what to compare with: source code with `--code FOLDER`, a database with `--database SOURCE`, RDF \
                       data with `--rdf SOURCE`, traces with `--trace FILE`, or once in `bathygram.toml`, under `[conform]`";
        return Err(Failure::Usage(message.to_owned()));
    }
    let mut out = Sources::default();
    if let Some(path) = trace_file {
        let (path, bytes) = open(&path, "trace.json", voice)?;
        out.traces = Some(trace::observed(&path, bytes).map_err(|why| Failure::Usage(why.to_string()))?);
    }
    if let Some(folder) = folder {
        read_code(project, &folder, (arguments.with_tests, kinds), voice, &mut out)?;
    }
    // A file is meant from where the config stands, if that names it.
    let placed = |source: String, is_named: bool| match is_named || source.contains("://") {
        true => source,
        false => project.root.join(&source).seen().to_string(),
    };
    if let Some(source) = stored {
        let source = placed(source, arguments.database.is_some());
        out.schema = Some(schema(&source, &arguments.access, voice)?);
    }
    if let Some(source) = data {
        let source = placed(source, arguments.rdf.is_some());
        let found = vocabulary(&source, &[], (&arguments.asked, &arguments.access), voice)?;
        let facts = rdf::facts(&found, &Selection::default()).map_err(|why| Failure::Usage(why.to_string()))?;
        out.data = Some(facts.data_classes());
    }
    Ok(out)
}

/// Reads the catalogue of a database: all of it, for whatever is drawn may be there.
fn schema(source: &str, access: &Access, voice: Voice) -> Result<Schema> {
    let found = catalogue(source, (true, false), access, voice)?;
    let shown = found.source.clone();
    let options = database::Options { selection: Selection::default(), members: ShownMembers::All, guess: false };
    let facts = database::facts(found, &options).map_err(|why| Failure::Usage(why.to_string()))?;
    Ok(Schema { diagram: facts.document().diagrams.remove(0), source: shown })
}

/// Reads source code, as far as the diagrams are about it. Paths begin at the project's folder, or at the folder itself if that lies
/// elsewhere.
fn read_code(
    project: &Project, folder: &Path, (with_tests, kinds): (bool, &BTreeSet<DiagramKind>), voice: Voice,
    out: &mut Sources,
) -> Result<()> {
    let tree = source_tree(folder, voice)?;
    let below = folder
        .canonicalize()
        .ok()
        .zip(project.root.canonicalize().ok())
        .and_then(|(folder, root)| Some(folder.strip_prefix(root).ok()?.to_string_lossy().replace('\\', "/")));
    let below = below.unwrap_or_default();
    let broken = |why: bathygram_readers::Broken| Failure::Usage(why.to_string());
    let base = CodeBase::read(&tree, with_tests, &Threads::all()).map_err(broken)?;
    for finding in base.findings() {
        voice.say(&format!("{}: {}", finding.seen, finding.says));
    }
    out.code = Some(base.uses(&below));
    if kinds.contains(&DiagramKind::Classes) {
        let options = ClassesOptions {
            selection: Selection::default(),
            members: ShownMembers::All,
            with_uses: true,
            with_about: false,
            with_tests,
        };
        // Code without classifiers has none of what is drawn.
        out.classes = base.classes(&options, &Threads::all()).ok().map(|facts| facts.code_classes(&below));
    }
    Ok(())
}

/// The diagrams of sources, and of the blocks of Markdown files.
///
/// # Errors
/// If the project cannot be walked.
fn readings(project: &Project, files: &[PathBuf], voice: Voice) -> Result<(Vec<Reading>, bool)> {
    Ok(session::open_all(project, &named::files(project, files, named::Takes::Sources)?, voice))
}

/// Why there is nothing to compare.
fn nothing(sources: &Sources) -> String {
    let code =
        "no diagram whose elements name source files that are there; write `code \"src/gateway/**\"` below an element";
    if sources.schema.is_some() {
        return "there is no diagram with a `table` in these files".to_owned();
    }
    if sources.data.is_some() {
        return "there is no diagram with a class of this data in these files; `bathygram import rdf` draws one"
            .to_owned();
    }
    match (&sources.traces, &sources.code) {
        (Some(_), Some(_)) => format!("there is no sequence in these files, and {code}"),
        (Some(_), None) => "there is no sequence in these files".to_owned(),
        _ => format!("there is {code}"),
    }
}

fn answer(
    project: &Project, arguments: &Arguments, (compared, levels): (&[Compared<'_>], &Levels), voice: Voice,
) -> Result<()> {
    // A picture on standard output is the answer.
    if arguments.picture.as_deref().is_some_and(session::is_stdout) {
        return Ok(());
    }
    let written: Vec<_> = compared.iter().map(|compared| report::written(compared, project, levels)).collect();
    let text = match arguments.format {
        Form::Text => report::text(&written, voice.result_colours()),
        Form::Json => report::json(&written)?,
        Form::Sarif => report::sarif(project, &written),
        Form::Markdown => report::markdown(&written),
    };
    session::answer(&text)?;
    compared.iter().for_each(|compared| voice.say(&summary(compared, levels)));
    Ok(())
}

fn summary(compared: &Compared<'_>, levels: &Levels) -> String {
    let name = &compared.design.name;
    let weighty = |level: Option<Level>| matches!(level, Some(Level::Error | Level::Warning));
    let differences = compared.deviations().iter().filter(|one| weighty(levels.of_deviation(one))).count();
    let differences = session::count(differences, "difference");
    match &compared.actual {
        Actual::Traces(of, all) if of.traces == 0 => {
            format!("{name}: none of {} is of it", session::count(*all, "trace"))
        }
        Actual::Traces(of, _) => {
            let others = if of.others > 0 { format!(", {} of something else", of.others) } else { String::new() };
            let messages = session::count(of.agreements.len(), "message");
            format!("{name}: {messages} as drawn, {differences}, in {}{others}", session::count(of.traces, "trace"))
        }
        Actual::Code(of) => {
            let relations = session::count(of.agreements.len(), "relation");
            format!("{name}: {relations} as drawn, {differences}, in {}", session::count(of.covered, "source file"))
        }
        Actual::Classes(of) => {
            let there = if of.realm == Realm::Data { "in the data" } else { "in the code" };
            format!("{name}: {} {there}, {differences}", session::count(of.agreements, "classifier"))
        }
        Actual::Tables(of) => {
            let tables = session::count(of.agreements, "table");
            format!("{name}: {tables} as drawn, {differences}, in {} found in the database", of.found())
        }
    }
}

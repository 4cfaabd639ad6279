//! `import`: a first text from what exists. One file for each kind of source; what they share is here.

mod code;
mod database;
mod findings;
mod graph;
mod modules;
mod outline;
mod progress;
mod rdf;
mod table;
mod trace;

use crate::commands::render;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::emit::emit_with;
use bathygram_core::merge::{Gone, merge};
use bathygram_core::model::DiagramKind;
use bathygram_core::source::apply;
use bathygram_host::{Disk, Format, Project, Seen, write_whole};
use bathygram_readers::{Broken, Facts, Selection, schema};
use findings::Form;
pub(crate) use modules::tree as source_tree;
use progress::Watched;
use std::io::Read;
use std::path::{Path, PathBuf};

/// Draft a first source file from what exists: code, databases, tables, graphs, RDF, traces, process descriptions
///
/// The text goes to standard output, and what is doubtful in the source to standard error, with its place. `--into FILE` brings a text
/// up to date that people have edited since.
#[derive(clap::Args)]
#[command(
    subcommand_required = true,
    arg_required_else_help = true,
    after_help = "Examples:\n  bathygram import modules . --picture modules.svg > modules.bathy\n  \
    bathygram import table harbour_cabling.csv > harbour_cabling.bathy\n  \
    bathygram import trace surge_traces.jsonl --picture calls.html > calls.bathy\n  \
    bathygram import database harbour.sqlite --picture harbour.svg > harbour.bathy\n  \
    bathygram import outline silent_gauge.md --picture silent_gauge.svg > silent_gauge.bathy\n  \
    bathygram import graph moorings.graphml --kinds > moorings.bathy\n  \
    bathygram import table harbour_cabling.csv --into harbour_cabling.bathy"
)]
pub(crate) struct Arguments {
    #[command(subcommand)]
    kind: Kind,
}

#[derive(clap::Subcommand)]
enum Kind {
    Modules(Box<modules::Arguments>),
    Code(Box<code::Arguments>),
    Table(Box<table::Arguments>),
    Database(Box<database::Arguments>),
    Graph(Box<graph::Arguments>),
    Rdf(Box<rdf::Arguments>),
    Trace(Box<trace::Arguments>),
    Outline(Box<outline::Arguments>),
    /// Print the JSON Schema of what `--json` writes
    Schema,
    /// Print how English process descriptions say things, as a file: translated, it is for `import outline --words`
    Words,
}

/// What all kinds of sources have in common.
#[derive(clap::Args)]
struct Common {
    /// Name of the picture; that of the source otherwise
    #[arg(long)]
    name: Option<String>,
    /// Only what matches a pattern such as `core-*`; may be given several times
    #[arg(long, value_name = "GLOB")]
    only: Vec<String>,
    /// Not what matches a pattern
    #[arg(long, value_name = "GLOB")]
    without: Vec<String>,
    /// Only what is near this, by links
    #[arg(long, value_name = "NAME")]
    around: Option<String>,
    /// With --around: how many links away
    #[arg(long, value_name = "N", default_value_t = 1, requires = "around")]
    distance: usize,
    /// Bring this source file up to date instead of writing one: what is new is put in, what was written by hand stays
    #[arg(long, value_name = "FILE", conflicts_with_all = ["json", "picture"])]
    into: Option<PathBuf>,
    /// With --into: remove what is gone from the source, where nothing written by hand speaks of it
    #[arg(long, requires = "into")]
    prune: bool,
    /// Draw it, too: SVG, PNG, PDF or an HTML page, by the ending
    #[arg(long, value_name = "FILE")]
    picture: Option<PathBuf>,
    /// Write what was found as JSON instead of a text
    #[arg(long)]
    json: bool,
    /// How what is doubtful is written, to standard error
    #[arg(long, value_enum, value_name = "FORM", default_value_t = Form::Text)]
    findings: Form,
}

impl Common {
    /// What is wanted of a source.
    fn selection(&self) -> Selection {
        Selection { only: self.only.clone(), without: self.without.clone(), name: self.name.clone() }
    }
}

/// Opens a source, `-` for standard input; `piped` is the file name that stands for that.
pub(crate) fn open(source: &Path, piped: &str, voice: Voice) -> Result<(PathBuf, Box<dyn Read + Send>)> {
    if source == Path::new("-") {
        return Ok((PathBuf::from(piped), Box::new(std::io::stdin())));
    }
    let cannot = |why: &dyn std::fmt::Display| Failure::Usage(format!("{} cannot be read: {why}", source.seen()));
    let file = std::fs::File::open(source).map_err(|why| cannot(&why))?;
    if file.metadata().is_ok_and(|about| about.is_dir()) {
        return Err(cannot(&"it is a folder"));
    }
    Ok((source.to_owned(), Box::new(Watched::new(file, voice))))
}

/// Runs the command.
///
/// # Errors
/// If the source cannot be read, or nothing is found in it.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    match &arguments.kind {
        Kind::Modules(arguments) => modules::run(arguments, voice),
        Kind::Code(arguments) => code::run(arguments, voice),
        Kind::Table(arguments) => table::run(arguments, voice),
        Kind::Database(arguments) => database::run(arguments, voice),
        Kind::Graph(arguments) => graph::run(arguments, voice),
        Kind::Rdf(arguments) => rdf::run(arguments, voice),
        Kind::Trace(arguments) => trace::run(arguments, voice),
        Kind::Outline(arguments) => outline::run(arguments, voice),
        Kind::Words => {
            session::answer(bathygram_readers::outline::ENGLISH)?;
            Ok(Outcome::Done)
        }
        Kind::Schema => {
            session::answer(&schema())?;
            Ok(Outcome::Done)
        }
    }
}

/// A source that could not be read.
fn broken(why: Broken) -> Failure {
    Failure::Usage(why.to_string())
}

/// Writes what was found, in sheets if one picture would be too large; `unit` is what was read.
fn answer_in_sheets(common: &Common, facts: Facts, unit: &str, voice: Voice) -> Result {
    let mut facts = narrowed(common, facts)?;
    facts.propose_sheets();
    written(common, &facts, unit, voice)
}

/// Writes what was found; `unit` is what was read.
fn answer(common: &Common, facts: Facts, unit: &str, voice: Voice) -> Result {
    written(common, &narrowed(common, facts)?, unit, voice)
}

/// What is near to what somebody asks for.
fn narrowed(common: &Common, mut facts: Facts) -> Result<Facts> {
    // A sequence or a flow without some of it says something else.
    if common.around.is_some() && matches!(facts.kind, DiagramKind::Sequence | DiagramKind::Flow) {
        let kind = facts.kind.word();
        return Err(Failure::Usage(format!(
            "--around is for what has no order in time; a {kind} is imported as a whole"
        )));
    }
    if let Some(name) = &common.around
        && !facts.keep_around(name, common.distance)
    {
        return Err(Failure::Usage(format!("nothing in this source is called `{name}`")));
    }
    Ok(facts)
}

fn written(common: &Common, facts: &Facts, unit: &str, voice: Voice) -> Result {
    let form = common.picture.as_deref().map(|path| (path, Format::of(path)));
    if let Some((path, None)) = form {
        return Err(Failure::Usage(format!("{}: a picture ends in {}", path.seen(), Format::listed())));
    }
    findings::write(&facts.findings, common.findings, voice)?;
    voice.say(&counted(facts, unit));
    // JSON holds as much as was found.
    if !common.json || common.picture.is_some() {
        facts.fit().map_err(Failure::Input)?;
    }
    if let Some(path) = &common.into {
        let gone = if common.prune { Gone::Pruned } else { Gone::Stays };
        return into(path, facts, gone, voice);
    }
    let text = emit_with(&facts.document(), &facts.comments());
    if let Some((path, Some(format))) = form {
        let project = session::project()?;
        let bytes = drawn(&project, &facts.name, &text, format)?;
        session::write_target(path, &bytes)?;
        voice.say(&format!("{} written", path.seen()));
    }
    session::answer(&if common.json { facts.json()? } else { text })?;
    Ok(Outcome::Done)
}

/// Brings a text up to date, whole or not at all.
fn into(path: &Path, facts: &Facts, gone: Gone, voice: Voice) -> Result {
    if !path.is_file() {
        let message = format!("{} is no file; without --into, the source goes to standard output", path.seen());
        return Err(Failure::Usage(message));
    }
    let project = session::project()?;
    let reading = session::open(&project, path)?;
    let world = Disk::around(&project, path);
    let read = |text: String| session::read_text(&project, &reading.source.name, text, &world);
    let merged = merge(&reading, &facts.document(), &facts.comments(), gone, &read)
        .map_err(|why| Failure::Usage(format!("{}: {why}", path.seen())))?;
    let shown = project.from_here(&reading.source.name);
    for (name, span) in &merged.gone {
        let fate =
            if merged.pruned.contains(name) { "gone, and removed" } else { "gone from the source; it stays here" };
        voice.say(&format!("{shown}:{}: {name}: {fate}", reading.source.line(span.start)));
    }
    merged.added.iter().for_each(|line| voice.say(&format!("{shown}: new: {}", line.trim())));
    if merged.edits.is_empty() {
        voice.say(&format!("{shown} is up to date"));
        return Ok(Outcome::Done);
    }
    let text = apply(&reading.source, &merged.edits).map_err(|_| Failure::Usage("two edits overlap".into()))?;
    write_whole(path, text.as_bytes())?;
    let renewed = match merged.renewed {
        0 => String::new(),
        count => format!(", {} brought up to date", session::count(count, "number")),
    };
    let counts = format!("{} new, {} removed{renewed}", merged.added.len(), merged.pruned.len());
    voice.say(&format!("{shown} is changed: {counts}"));
    Ok(Outcome::Done)
}

/// The picture of a text that stands in no file.
fn drawn(project: &Project, name: &str, text: &str, format: Format) -> Result<Vec<u8>> {
    let world = bathygram_core::source::world::Alone;
    let reading = session::read_text(project, &format!("{name}.bathy"), text.to_owned(), &world);
    let picture = reading.pictures().next().ok_or_else(|| Failure::Usage("there is nothing to draw".into()))?;
    render::exported(project, &reading, picture, format)
}

fn counted(facts: &Facts, unit: &str) -> String {
    let boxes = facts.things.iter().filter(|thing| thing.kind.is_box()).count();
    let marks = facts.things.iter().filter(|thing| thing.kind.is_mark()).count();
    let things = session::count(facts.things.len() - boxes - marks, "element");
    let groups = if boxes > 0 { format!(" in {}", session::count(boxes, "group")) } else { String::new() };
    let links = if facts.links.is_empty() {
        String::new()
    } else {
        format!(", {}", session::count(facts.links.len(), "relation"))
    };
    let rows = session::count(facts.counts.rows as usize, unit);
    let doubts = session::count(facts.findings.len(), "finding");
    format!("{rows} read: {things}{groups}{links}; {doubts}")
}

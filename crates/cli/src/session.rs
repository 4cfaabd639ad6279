//! What commands share: the voice of the program, and sources that are read.

use crate::colour::When;
use crate::forms;
use crate::outcome::{Failure, Result};
use bathygram_core::container::{self, Provenance};
use bathygram_core::diag::{Diagnostic, Severity};
use bathygram_core::model::MAX_BLOCKS;
use bathygram_core::pipeline::{self, Reading, Setting, Studio};
use bathygram_core::scene::Drawing;
use bathygram_core::source::world::World;
use bathygram_core::source::{Place, Source, visible_lines};
use bathygram_host::Threads;
use bathygram_host::{
    Colours, Disk, FileFindings, Format, MAX_DOCUMENT, MAX_PICTURE, Printed, Project, Seen, Shown, by_file,
    is_document, print, read_bounded, read_source, write_whole,
};
use bathygram_outputs::markdown::{self, Block};
use bathygram_outputs::png::{Below, Scale};
use std::collections::{BTreeMap, BTreeSet};
use std::io::{IsTerminal, Write};
use std::path::{Path, PathBuf};

/// How much is said in passing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Loudness {
    /// Only what went wrong.
    Quiet,
    /// What was done.
    Usual,
    /// How, too.
    Verbose,
}

/// How much the program says, and whether in colours.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Voice {
    loudness: Loudness,
    colours: When,
}

impl Voice {
    /// A voice from the arguments.
    pub(crate) fn new(loudness: Loudness, colours: When) -> Self {
        Self { loudness, colours }
    }

    fn colours_on(self, is_terminal: bool) -> Colours {
        if self.colours.on(is_terminal) { Colours::On } else { Colours::Off }
    }

    /// Says something in passing, to standard error.
    pub(crate) fn say(self, message: &str) {
        if self.loudness != Loudness::Quiet {
            // A closed standard error is no reason to fail.
            let _ = writeln!(std::io::stderr(), "{}", visible_lines(message));
        }
    }

    /// Says something that only the curious want to hear.
    pub(crate) fn detail(self, message: &str) {
        if self.loudness == Loudness::Verbose {
            self.say(message);
        }
    }

    /// Says why a command could not run.
    pub(crate) fn failure(self, failure: &Failure) {
        let _ = writeln!(std::io::stderr(), "error: {}", visible_lines(&failure.to_string()));
    }

    /// Prints what was found in readings to standard error, by the files in which it stands.
    pub(crate) fn findings<'r>(
        self, project: &Project, found: impl IntoIterator<Item = (&'r Reading, &'r [Diagnostic])>,
    ) -> Printed {
        let mut printed = Printed::default();
        for file in by_file(found) {
            printed.add(self.findings_in(&file, &project.from_here(&file.source.name)));
        }
        printed
    }

    /// Prints findings in a text that is called `name`, to standard error.
    pub(crate) fn findings_in(self, found: &FileFindings<'_>, name: &str) -> Printed {
        let colours = self.colours_on(std::io::stderr().is_terminal());
        let (text, printed) = print(found, Shown { name, limit: usize::MAX, colours, least: self.least() });
        let _ = write!(std::io::stderr(), "{text}");
        printed
    }

    /// Whether a result on standard output is coloured.
    pub(crate) fn result_colours(self) -> Colours {
        self.colours_on(std::io::stdout().is_terminal())
    }

    /// Whether what git shows in its pager is coloured: git says whether its own output is.
    pub(crate) fn pager_colours(self) -> Colours {
        let is_shown = std::io::stdout().is_terminal() || std::env::var_os("GIT_PAGER_IN_USE").is_some();
        self.colours_on(is_shown)
    }

    /// The least findings that are shown.
    pub(crate) fn least(self) -> Severity {
        if self.loudness == Loudness::Quiet { Severity::Error } else { Severity::Warning }
    }

    /// Whether progress is shown.
    pub(crate) fn shows_progress(self) -> bool {
        self.loudness != Loudness::Quiet && std::io::stderr().is_terminal()
    }
}

/// Prints a result to standard output; a reader that has seen enough ends the program quietly. What comes from files is made
/// [visible](bathygram_core::source::visible) where the result is put together: JSON holds it as it is.
///
/// # Errors
/// If standard output cannot be written.
pub(crate) fn answer(text: &str) -> Result<()> {
    answer_bytes(text.as_bytes())
}

/// Writes an answer as JSON, without holding it as text.
///
/// # Errors
/// If standard output cannot be written.
pub(crate) fn answer_json(value: &impl serde::Serialize) -> Result<()> {
    to_stdout(|out| {
        serde_json::to_writer_pretty(&mut *out, value)?;
        out.write_all(b"\n")
    })
}

/// The JSON Schema of an answer, as text.
pub(crate) fn schema_of<T: schemars::JsonSchema>() -> String {
    let settings = schemars::generate::SchemaSettings::draft2020_12().for_serialize();
    format!("{:#}\n", settings.into_generator().into_root_schema_for::<T>().to_value())
}

/// Whether standard input is the source.
///
/// # Errors
/// If files are named beside it.
pub(crate) fn is_piped(files: &[PathBuf]) -> Result<bool> {
    let is_piped = files.iter().any(|f| f == Path::new("-"));
    if is_piped && files.len() > 1 {
        return Err(Failure::Usage("`-` stands alone: standard input is the only source then".into()));
    }
    Ok(is_piped)
}

/// The project around the working folder.
///
/// # Errors
/// If its config has an error.
pub(crate) fn project() -> Result<Project> {
    let folder = std::env::current_dir()?;
    Ok(Project::find(&folder)?)
}

/// The project with other themes than its own, which an argument names.
///
/// # Errors
/// If there is no such theme, or it has an error.
pub(crate) fn in_themes(project: Project, words: &str) -> Result<Project> {
    project.in_themes(words).map_err(|why| Failure::Usage(why.to_string()))
}

/// Paths as a list, one a line: those in the project as they are reached from the working folder.
pub(crate) fn listed<'p>(project: &Project, paths: impl IntoIterator<Item = &'p PathBuf>) -> String {
    let shown = |path: &PathBuf| match path.is_absolute() && path.starts_with(&project.root) {
        true => Path::new(&project.from_here(&project.shown(path))).seen(),
        false => path.seen(),
    };
    paths.into_iter().map(|path| shown(path) + "\n").collect()
}

/// Refuses files of a project inside this one: they are drawn and checked as that one's.
///
/// # Errors
/// If there is one.
pub(crate) fn only_own(project: &Project, files: &[PathBuf]) -> Result<()> {
    let is_inside = |path: &Path| {
        let absolute = |p: &Path| std::path::absolute(p).unwrap_or_else(|_| p.to_owned());
        absolute(path).starts_with(absolute(&project.root))
    };
    let is_other = |path: &&PathBuf| path.is_file() && is_inside(path) && !project.owns(path);
    match files.iter().find(is_other) {
        None => Ok(()),
        Some(path) => Err(Failure::Usage(format!(
            "{} belongs to a project or a repository inside this one; run the command in {}",
            path.seen(),
            path.parent().unwrap_or(Path::new(".")).seen()
        ))),
    }
}

/// Reads one source.
///
/// # Errors
/// If it cannot be read.
pub(crate) fn open(project: &Project, path: &Path) -> Result<Reading> {
    let text = read_source(path)?;
    let name = if path == Path::new("-") { "stdin.bathy".to_owned() } else { project.shown(path) };
    Ok(read_text(project, &name, text, &Disk::around(project, path)))
}

/// Reads a source, or the blocks of a document: one reading for each text.
///
/// # Errors
/// If it cannot be read.
pub(crate) fn open_texts(project: &Project, path: &Path) -> Result<Vec<Reading>> {
    if !is_document(path) {
        return Ok(vec![open(project, path)?]);
    }
    let blocks = blocks(path, &read_source(path)?)?;
    Ok(read_blocks(project, &project.shown(path), &blocks, &Disk::around(project, path)))
}

/// The blocks of a document.
///
/// # Errors
/// If there are too many, or the document is too large.
pub(crate) fn blocks(path: &Path, text: &str) -> Result<Vec<Block>> {
    if text.len() as u64 > MAX_DOCUMENT {
        return Err(bathygram_host::Error::TooLarge { path: path.to_owned(), limit: MAX_DOCUMENT }.into());
    }
    let blocks = markdown::blocks(text);
    if blocks.len() <= MAX_BLOCKS {
        return Ok(blocks);
    }
    Err(Failure::Input(format!(
        "{}: a document holds at most {MAX_BLOCKS} diagrams, and this one has {}; divide it into several",
        path.seen(),
        blocks.len()
    )))
}

/// Reads what a file holds under a name: its text, or the blocks of a document at their lines.
///
/// # Errors
/// If it is a document that is too large, or has too many blocks.
pub(crate) fn read_texts(project: &Project, name: &str, text: String, world: &dyn World) -> Result<Vec<Reading>> {
    if !is_document(Path::new(name)) {
        return Ok(vec![read_text(project, name, text, world)]);
    }
    Ok(read_blocks(project, name, &blocks(Path::new(name), &text)?, world))
}

fn read_blocks(project: &Project, name: &str, blocks: &[Block], world: &dyn World) -> Vec<Reading> {
    blocks.iter().enumerate().map(|block| read_block(project, name, block, world)).collect()
}

/// Reads a block of a document, by its number from 0. One without a name is called after its document.
pub(crate) fn read_block(
    project: &Project, name: &str, (number, block): (usize, &Block), world: &dyn World,
) -> Reading {
    let stem = Path::new(name).file_stem().map_or_else(|| "block".into(), |s| s.to_string_lossy().into_owned());
    let place = Place { lines: block.line - 1, columns: block.column };
    read_source_text(
        project,
        Source::new(name, block.text.as_str()).at(place),
        &format!("{stem}_{}", number + 1),
        world,
    )
}

/// Which blocks of documents count.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Blocks {
    /// All.
    All,
    /// Those whose picture stands in the document.
    Illustrated,
}

/// As [`open_all`], with the blocks of documents that count.
pub(crate) fn open_chosen(project: &Project, paths: &[PathBuf], blocks: Blocks, voice: Voice) -> (Vec<Reading>, bool) {
    let (mut readings, whole) = open_all(project, paths, voice);
    if blocks == Blocks::All {
        return (readings, whole);
    }
    let mut known: BTreeMap<String, BTreeSet<u32>> = BTreeMap::new();
    readings.retain(|r| {
        let name = &r.source.name;
        let is_text = !is_document(Path::new(name));
        is_text
            || known
                .entry(name.clone())
                .or_insert_with(|| illustrated(&project.root.join(name)))
                .contains(&r.source.place().lines)
    });
    (readings, whole)
}

/// The blocks of a document whose pictures stand there: how many lines stand before each.
pub(crate) fn illustrated(document: &Path) -> BTreeSet<u32> {
    let blocks = markdown::blocks(&read_source(document).unwrap_or_default());
    blocks.iter().filter(|b| b.is_illustrated()).map(|b| b.line - 1).collect()
}

/// Reads several sources and documents, on all cores. One that cannot be read is reported and does not hide the others; says
/// whether all could be read.
pub(crate) fn open_all(project: &Project, paths: &[PathBuf], voice: Voice) -> (Vec<Reading>, bool) {
    let mut readings = Vec::new();
    let mut whole = true;
    let read = bathygram_core::jobs::map(&Threads::all(), paths.len(), &|i| open_texts(project, &paths[i]));
    for result in read {
        match result {
            Ok(texts) => readings.extend(texts),
            Err(failure) => {
                voice.failure(&failure);
                whole = false;
            }
        }
    }
    (readings, whole)
}

/// Reads a text under a name.
pub(crate) fn read_text(project: &Project, name: &str, text: String, world: &dyn World) -> Reading {
    let stem = Path::new(name).file_stem().map_or_else(|| "diagram".into(), |s| s.to_string_lossy().into_owned());
    read_source_text(project, Source::new(name, text), &stem, world)
}

/// Reads a text; `stem` is the name that a block without one gets.
fn read_source_text(project: &Project, source: Source, stem: &str, world: &dyn World) -> Reading {
    pipeline::read(source, stem, &Setting { world, levels: &project.levels, look: &project.look })
}

/// What a picture was drawn from.
pub(crate) struct Recovered {
    pub(crate) text: String,
    /// The name of the file then, if the picture says it.
    pub(crate) file: Option<String>,
    /// The name of the picture, if it says it.
    pub(crate) name: Option<String>,
    /// Whether the picture is as it was drawn.
    pub(crate) is_intact: bool,
}

/// The text that a picture was drawn from.
///
/// # Errors
/// If the file is no picture of ours, carries no source, or cannot be read.
pub(crate) fn recovered(path: &Path) -> Result<Recovered> {
    let bytes = read_bounded(path, MAX_PICTURE)?;
    let Some(carried) = container::read(&bytes) else {
        return Err(Failure::Usage(format!("{} is no picture that this program drew", path.seen())));
    };
    let text = match container::text_in(&bytes) {
        // A picture of a stack whose text is long: the top of the stack has it. Its name is a name, not a path.
        Some(other) if Path::new(&other).components().count() == 1 => {
            let bytes = read_bounded(&path.with_file_name(&other), MAX_PICTURE).map_err(|_| {
                Failure::Usage(format!("the source of {} is in {other} beside it, which is not there", path.seen()))
            })?;
            container::source(&bytes)
        }
        _ => container::source(&bytes),
    };
    let Some(text) = text else {
        return Err(Failure::Usage(format!("{} carries no source, or it is damaged", path.seen())));
    };
    let (file, name) = (container::file(&bytes), container::name(&bytes));
    Ok(Recovered { text, file, name, is_intact: carried.is_intact })
}

/// So many things of a kind, in words.
pub(crate) fn count(n: usize, word: &str) -> String {
    let ending = match (n, word.ends_with('s')) {
        (1, _) => "",
        (_, true) => "es",
        _ => "s",
    };
    format!("{n} {word}{ending}")
}

/// "1 error, 2 warnings".
pub(crate) fn counted(printed: Printed) -> String {
    match (printed.errors, printed.warnings) {
        (0, w) => count(w, "warning"),
        (e, 0) => count(e, "error"),
        (e, w) => format!("{}, {}", count(e, "error"), count(w, "warning")),
    }
}

/// Whether a target is standard output.
pub(crate) fn is_stdout(target: &Path) -> bool {
    target == Path::new("-")
}

/// Writes a result to a file, whole or not at all, or to standard output where the target is `-`.
///
/// # Errors
/// If it cannot be written.
pub(crate) fn write_target(target: &Path, bytes: &[u8]) -> Result<()> {
    if is_stdout(target) {
        return answer_bytes(bytes);
    }
    write_whole(target, bytes)?;
    Ok(())
}

/// Writes a sheet that the program draws of itself, as SVG or PNG, and names its file.
///
/// # Errors
/// If the file has another ending, or cannot be written.
pub(crate) fn write_sheet(
    project: &Project, target: &Path, drawing: &Drawing, studio: &Studio, from: &Provenance<'_>,
) -> Result<()> {
    let bytes = match Format::of(target) {
        Some(Format::Png) => forms::png(project, studio, drawing, (Scale::Factor(2.0), Below::Paper), &[])?,
        Some(Format::Svg) => studio.svg(drawing, from).into_bytes(),
        None if is_stdout(target) => studio.svg(drawing, from).into_bytes(),
        _ => return Err(Failure::Usage("the picture's file ends in .svg or .png".into())),
    };
    write_target(target, &bytes)?;
    if is_stdout(target) { Ok(()) } else { answer(&format!("{}\n", target.seen())) }
}

/// Writes bytes to standard output.
///
/// # Errors
/// If standard output cannot be written.
pub(crate) fn answer_bytes(bytes: &[u8]) -> Result<()> {
    to_stdout(|out| out.write_all(bytes))
}

/// Writes to standard output; whoever reads it may have had enough.
fn to_stdout(write: impl FnOnce(&mut dyn Write) -> std::io::Result<()>) -> Result<()> {
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    match write(&mut out).and_then(|()| out.flush()) {
        Err(e) if e.kind() == std::io::ErrorKind::BrokenPipe => Ok(()),
        other => Ok(other?),
    }
}

//! `illustrate`: the diagram blocks of Markdown files, with their pictures.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::container;
use bathygram_core::pipeline::{self, DrawOptions, Picture, Reading, Studio};
use bathygram_host::{
    Disk, Format, Printed, Project, picture_file, read_source, remove_inside, write_inside, write_whole,
};
use bathygram_outputs::markdown::{self, Block, Image, Sources};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// An alternative text is at most so long, in letters.
// A screen reader reads it in one go and cannot stop within it.
const ALTERNATIVE: usize = 300;

/// Draw the `bathygram` blocks of Markdown files, and keep their pictures beside them up to date
///
/// Pictures go to a folder beside each document. Below a block stands its picture, between two marks; nothing else in the
/// document is touched.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram illustrate notes.md\n  bathygram illustrate notes.md --hide-source\n  \
    bathygram illustrate notes.md --check")]
pub(crate) struct Arguments {
    /// The documents
    #[arg(required = true)]
    files: Vec<PathBuf>,
    /// Fold the source of each block away below its picture
    #[arg(long)]
    hide_source: bool,
    /// Show the sources that were folded away
    #[arg(long, conflicts_with = "hide_source")]
    show_source: bool,
    /// Write nothing; exit with 1 if a document or a picture is not up to date
    #[arg(long)]
    check: bool,
}

/// What is to be written for one document.
struct Work {
    path: PathBuf,
    before: String,
    after: String,
    /// Pictures by their paths, with their bytes where they are not up to date.
    pictures: BTreeMap<PathBuf, Option<String>>,
    /// Pictures that no block has any more.
    gone: Vec<PathBuf>,
    printed: Printed,
}

/// Runs the command.
///
/// # Errors
/// If a document cannot be read or written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    arguments.files.iter().try_for_each(|path| only_markdown(path))?;
    let project = session::project()?;
    let sources = match (arguments.hide_source, arguments.show_source) {
        (true, _) => Sources::Folded,
        (_, true) => Sources::Shown,
        _ => Sources::AsTheyAre,
    };
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let (mut printed, mut stale) = (Printed::default(), 0);
    for path in &arguments.files {
        let work = work(&project, &studio, path, sources, voice)?;
        printed.add(work.printed);
        let drawn = work.pictures.values().flatten().count();
        let is_fresh = work.before == work.after && drawn == 0 && work.gone.is_empty();
        stale += usize::from(!is_fresh);
        if arguments.check {
            if !is_fresh {
                session::answer(&format!("{} is not up to date\n", path.display()))?;
            }
            continue;
        }
        write(&project, &work)?;
        let pictures = session::count(work.pictures.len(), "picture");
        voice.say(&format!("{}: {pictures}, {drawn} drawn, {} removed", path.display(), work.gone.len()));
    }
    if printed.errors > 0 {
        voice.say(&format!("{}: blocks with errors keep the pictures that they have", session::counted(printed)));
    }
    let is_denied = printed.errors > 0 || (arguments.check && stale > 0);
    Ok(if is_denied { Outcome::Denied } else { Outcome::Done })
}

/// Refuses what is no document: its pictures would count as those of blocks that are gone.
fn only_markdown(path: &Path) -> Result<()> {
    let ending = path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase()).unwrap_or_default();
    let shown = path.display();
    match ending.as_str() {
        "md" | "markdown" => Ok(()),
        "bathy" => Err(Failure::Usage(format!("{shown} is no Markdown file; `bathygram render {shown}` draws it"))),
        _ => Err(Failure::Usage(format!("{shown} is no Markdown file: its name ends in neither .md nor .markdown"))),
    }
}

/// Pictures first: a document never names one that is not there.
fn write(project: &Project, work: &Work) -> Result<()> {
    for (path, svg) in &work.pictures {
        if let Some(svg) = svg {
            write_inside(&project.root, path, svg.as_bytes())?;
            session::answer(&format!("{}\n", path.display()))?;
        }
    }
    if work.before != work.after {
        // A link stays a link: the document that it leads to is written.
        write_whole(&work.path.canonicalize()?, work.after.as_bytes())?;
        session::answer(&format!("{}\n", work.path.display()))?;
    }
    for path in &work.gone {
        remove_inside(&project.root, path)?;
    }
    Ok(())
}

fn work(project: &Project, studio: &Studio, path: &Path, sources: Sources, voice: Voice) -> Result<Work> {
    let before = read_source(path)?;
    let name = project.shown(path);
    let own = project.config.pictures.file_name().map_or("pictures".to_owned(), |n| n.to_string_lossy().into_owned());
    let blocks = markdown::blocks(&before);
    let mut work = Work {
        path: path.to_owned(),
        before: String::new(),
        after: String::new(),
        pictures: BTreeMap::new(),
        gone: Vec::new(),
        printed: Printed::default(),
    };
    let mut images = Vec::new();
    let mut taken: BTreeMap<String, u32> = BTreeMap::new();
    let pictures = path.parent().unwrap_or(Path::new("")).join(&own);
    let file = |view: &Picture<'_>| picture_file(&pictures, view.name, Format::Svg);
    for (i, block) in blocks.iter().enumerate() {
        let reading = read(project, path, &name, (i, block));
        work.printed.add(reported(project, path, &name, block, &reading, voice));
        if !block.is_closed {
            return Err(Failure::Usage(format!("{name}:{}: the fence of this block is not closed", block.line - 1)));
        }
        if reading.has_errors() {
            // Its pictures stay, if it had any.
            work.pictures.extend(reading.pictures().filter_map(|v| Some((file(&v).ok()?, None))));
            images.push(None);
            continue;
        }
        let mut shown = Vec::new();
        for view in reading.pictures() {
            if let Some(first) = taken.insert(view.name.to_owned(), block.line) {
                return Err(Failure::Usage(format!(
                    "{name}: the blocks in lines {first} and {} both have a picture called `{}`; rename one",
                    block.line, view.name
                )));
            }
            let file = file(&view)?;
            let Drawn { alternative, new } = drawn(studio, &reading, &view, &file, &name)?;
            shown.push(Image { path: format!("{own}/{}.svg", view.name), alternative });
            work.pictures.insert(file, new);
        }
        images.push(Some(shown));
    }
    work.after = markdown::illustrated(&before, &blocks, &images, sources);
    work.before = before;
    work.gone = gone(&pictures, &name, &work.pictures);
    Ok(work)
}

/// Reads a block as a text of its own.
fn read(project: &Project, path: &Path, name: &str, (number, block): (usize, &Block)) -> Reading {
    let stem = path.file_stem().map_or("block".into(), |s| s.to_string_lossy().into_owned());
    let stem = format!("{stem}_{}", number + 1);
    session::read_block(project, (name, &stem), block.text.clone(), &Disk::around(project, path))
}

/// Reports what was found, at its lines in the document.
fn reported(project: &Project, path: &Path, name: &str, block: &Block, reading: &Reading, voice: Voice) -> Printed {
    if reading.diagnostics.is_empty() {
        return Printed::default();
    }
    let above = "\n".repeat(block.line.saturating_sub(1) as usize);
    let placed = session::read_block(project, (name, "block"), above + &block.text, &Disk::around(project, path));
    voice.findings(project, [(&placed, &placed.diagnostics[..])])
}

/// The picture of a block in words, and as SVG text where the one that is there is not up to date.
struct Drawn {
    alternative: String,
    new: Option<String>,
}

/// The picture of a block: the one that is there if it is up to date, or a new one.
fn drawn(studio: &Studio, reading: &Reading, picture: &Picture<'_>, file: &Path, name: &str) -> Result<Drawn> {
    let digest = container::digest(&reading.provenance(picture.name));
    let there = std::fs::read(file).ok();
    let carried = there.as_ref().and_then(|bytes| container::read(bytes));
    let is_other = there.is_some() && carried.is_none();
    let owner = there.as_ref().and_then(|bytes| container::file(bytes));
    if is_other || owner.as_ref().is_some_and(|o| o != name) {
        let whose = owner.map_or("not drawn by this program".to_owned(), |o| format!("the picture of {o}"));
        return Err(Failure::Usage(format!("{} is {whose}; give the block another name", file.display())));
    }
    if let (Some(bytes), Some(carried)) = (there, carried)
        && carried.is_intact
        && carried.digest == digest
        && let Ok(svg) = String::from_utf8(bytes)
    {
        let words = [container::title(&svg), container::description(&svg)].map(Option::unwrap_or_default);
        return Ok(Drawn { alternative: alternative(&words), new: None });
    }
    let drawing = pipeline::draw(studio, reading, &picture.view(), &DrawOptions::default());
    let alternative = alternative(&[drawing.scene.title.clone(), drawing.scene.desc.clone()]);
    Ok(Drawn { alternative, new: Some(studio.svg(&drawing, &reading.provenance(picture.name))) })
}

/// What a picture shows, in words of some length.
fn alternative([title, description]: &[String; 2]) -> String {
    let words = format!("{}. {description}", title.trim_end_matches('.'));
    if words.chars().count() <= ALTERNATIVE {
        return words;
    }
    let kept: String = words.chars().take(ALTERNATIVE).collect();
    format!("{}…", kept.rsplit_once(' ').map_or(kept.as_str(), |k| k.0))
}

/// Pictures in the folder that were drawn for this document, and that it has no more; those that were edited stay.
fn gone(folder: &Path, name: &str, pictures: &BTreeMap<PathBuf, Option<String>>) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|e| e.path());
    let mut gone: Vec<PathBuf> = entries
        .filter(|p| p.extension().is_some_and(|e| e == "svg") && !pictures.contains_key(p) && !p.is_symlink())
        .filter(|p| {
            let bytes = std::fs::read(p).unwrap_or_default();
            container::file(&bytes).as_deref() == Some(name) && container::read(&bytes).is_some_and(|c| c.is_intact)
        })
        .collect();
    gone.sort();
    gone
}

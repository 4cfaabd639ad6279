//! `site`: the project as pages to read.

mod history;
mod report;

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::check::is_error;
use bathygram_core::container;
use bathygram_core::diag::Diagnostic;
use bathygram_core::jobs::map;
use bathygram_core::pipeline::{Reading, Studio};
use bathygram_core::scene::Places;
use bathygram_host::{
    Format, Lock, MAX_PICTURE, Overwrite, PATIENCE, PictureOf, Project, SITE_MARK, SITE_MARK_TEXT, Seen, SiteRecord,
    SourceTree, Threads, is_document, read_bounded, read_source, read_text,
};
use bathygram_site::{BrokenLink, Input, Loose, PictureName, Plan, Unit, Why, broken_links};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// The folder of a site that nobody named.
const FOLDER: &str = "site";
/// The themes of a project that names none: pages follow the reader's light or dark.
const THEMES: &str = "shoal+abyss";

/// Write a site: a page for every diagram, element and document, linked and searchable
///
/// The site needs no server: its pages work from a disk, from any folder of a web server, without scripts, and in print. Only
/// what changed since the last time is made again.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram site\n  bathygram site --out public --history\n  \
    bathygram site --theme ink --title \"Tidewatch, as built\"\n\n\
    docs/site.md tells of the pages, docs/recipes/ of publishing them from continuous integration.")]
pub(crate) struct Arguments {
    /// The folder of the site; what bathygram.toml says, or "site", if none is named
    #[arg(long, short, value_name = "FOLDER")]
    out: Option<PathBuf>,
    /// What the project is called on its pages
    #[arg(long, value_name = "TEXT")]
    title: Option<String>,
    /// Show the versions of each diagram in git, with before and after
    #[arg(long)]
    history: bool,
    /// The theme: a built-in one, a file such as looks/harbour.toml, or two as shoal+abyss, for light and dark pages
    #[arg(long, value_name = "THEME")]
    theme: Option<String>,
    /// The language of the words that the program adds: en, de, fr, es, or a table such as words/nl.toml
    #[arg(long, value_name = "LANGUAGE")]
    language: Option<String>,
    /// Make all pages, also those that are up to date
    #[arg(long)]
    all: bool,
    /// Overwrite files in the folder that this program did not make
    #[arg(long)]
    force: bool,
    /// Answer as JSON: which files were written, and which links lead nowhere
    #[arg(long)]
    json: bool,
    /// Print the JSON Schema of --json
    #[arg(long, exclusive = true)]
    schema: bool,
}

/// Runs the command.
///
/// # Errors
/// If the project has no diagrams, or the folder cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&report::schema())?;
        return Ok(Outcome::Done);
    }
    let project = session::project()?;
    let project = match (&arguments.theme, &project.config.theme) {
        (Some(theme), _) => session::in_themes(project, theme)?,
        (None, None) => session::in_themes(project, THEMES)?,
        (None, Some(_)) => project,
    };
    let project = match &arguments.language {
        Some(words) => project.in_language(words).map_err(|why| Failure::Usage(why.to_string()))?,
        None => project,
    };
    let out = match (&arguments.out, &project.config.site.folder) {
        (Some(out), _) => out.clone(),
        (None, folder) => project.root.join(folder.as_deref().unwrap_or(Path::new(FOLDER))),
    };
    check_out(&project, &out)?;
    let lock = Lock::take(&project, PATIENCE, || voice.say("another `bathygram` draws here; this one waits"))?;
    let sources = project.texts()?;
    if sources.is_empty() {
        let root = project.root.seen();
        return Err(Failure::Usage(format!(
            "there is no .bathy file or document in {root}; `bathygram demo` writes an example"
        )));
    }
    let (readings, is_read) = session::open_all(&project, &sources, voice);
    // What is doubtful is for those who write: `check` reports it to them.
    let errors: Vec<Vec<Diagnostic>> =
        readings.iter().map(|r| r.diagnostics.iter().filter(|d| is_error(d)).cloned().collect()).collect();
    let printed = voice.findings(&project, readings.iter().zip(&errors).map(|(r, found)| (r, &found[..])));
    let (good, faulty): (Vec<Reading>, Vec<Reading>) = readings.into_iter().partition(|r| !r.has_errors());
    let texts = documents(&project, &sources, voice);
    let versions = match arguments.history {
        true => history::of(&project, &good)?,
        false => BTreeMap::new(),
    };
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let files: BTreeSet<String> = SourceTree::walk(&project.root)?.files.into_iter().collect();
    let title = title(arguments, &project, &texts);
    let documents: Vec<(&str, &str)> = texts.iter().map(|(name, text)| (name.as_str(), text.as_str())).collect();
    let input = Input {
        project: &title,
        studio: &studio,
        readings: &good,
        documents: &documents,
        files: &files,
        pictures: &pictures(&project, &good),
        versions: &versions,
    };
    let made = bathygram_site::plan(&input, &Threads::all(), |plan| {
        let broken = broken_links(&plan.units, &plan.copies.values().cloned().collect(), &Threads::all());
        let made = Maker { project: &project, studio: &studio, out: &out, arguments }.make(plan)?;
        Ok::<_, Failure>((made, plan.loose.clone(), broken))
    });
    drop(lock);
    let (made, loose, broken) = made?;
    for found in &loose {
        voice.say(&sentence(&project, found));
    }
    if let Some(BrokenLink { page, target }) = broken.first() {
        let message =
            format!("{page} links to {target}, which the site does not have: a flaw of the program, please report it");
        return Err(Failure::Outside(anyhow::anyhow!(message)));
    }
    if arguments.json {
        session::answer(&report::Report::of(&project, &out, &made, &loose, printed).as_json()?)?;
    } else {
        let front = project.from_here(&project.shown(&out.join("index.html")));
        session::answer(&format!("{}\n", Path::new(&front).seen()))?;
    }
    voice.say(&summary(&made, faulty.len()));
    Ok(match (is_read, faulty.is_empty()) {
        (false, _) => Outcome::Incomplete,
        (true, false) => Outcome::Denied,
        (true, true) => Outcome::Done,
    })
}

/// Refuses folders that hold more than a site could: the project itself, and what is above it.
fn check_out(project: &Project, out: &Path) -> Result<()> {
    let absolute = |path: &Path| {
        let path = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
        path.canonicalize().unwrap_or(path)
    };
    let (root, folder) = (absolute(&project.root), absolute(out));
    if root.starts_with(&folder) {
        return Err(Failure::Usage(format!("{} holds the project; name a folder of its own for the site", out.seen())));
    }
    if folder == absolute(&project.pictures()) {
        return Err(Failure::Usage(format!("{} holds the project's pictures; name another folder", out.seen())));
    }
    if out.exists() && !out.is_dir() {
        return Err(Failure::Usage(format!("{} is a file; name a folder for the site", out.seen())));
    }
    Ok(())
}

/// The Markdown documents that could be read.
fn documents(project: &Project, sources: &[PathBuf], voice: Voice) -> Vec<(String, String)> {
    let documents = sources.iter().filter(|path| is_document(path));
    let read = documents.filter_map(|path| match read_source(path) {
        Ok(text) => Some((project.shown(path), text)),
        // It was reported when its blocks were read.
        Err(why) => {
            voice.detail(&why.to_string());
            None
        }
    });
    read.collect()
}

/// What the project is called: as the call or the config says, or its README, or its folder.
fn title(arguments: &Arguments, project: &Project, documents: &[(String, String)]) -> String {
    let readme = || {
        let is_readme = |name: &str| ["readme.md", "index.md"].contains(&name.to_lowercase().as_str());
        let (_, text) = documents.iter().find(|(name, _)| is_readme(name))?;
        bathygram_site::document_title(text)
    };
    let folder = || {
        let root = project.root.canonicalize().unwrap_or_else(|_| project.root.clone());
        root.file_name().map_or_else(|| "Diagrams".to_owned(), |name| name.to_string_lossy().into_owned())
    };
    let said = arguments.title.clone().or_else(|| project.config.site.title.clone());
    said.or_else(readme).unwrap_or_else(folder)
}

/// What the files of the project's own pictures show.
fn pictures(project: &Project, readings: &[Reading]) -> BTreeMap<String, PictureName> {
    let mut found = BTreeMap::new();
    for reading in readings {
        let source = reading.source.name.as_str();
        for picture in reading.pictures() {
            let of = PictureName { file: source.to_owned(), name: picture.name.to_owned() };
            let own = PictureOf { source, name: picture.name };
            for (_, path) in own.files(project).into_iter().chain(own.other_files(project)) {
                found.entry(project.shown(&path)).or_insert_with(|| of.clone());
            }
        }
    }
    found
}

/// What was done.
#[derive(Default)]
pub(super) struct Made {
    /// The files that were written, by their paths in the site.
    written: Vec<String>,
    up_to_date: usize,
    removed: Vec<String>,
}

struct Maker<'a> {
    project: &'a Project,
    studio: &'a Studio,
    out: &'a Path,
    arguments: &'a Arguments,
}

impl Maker<'_> {
    /// Makes what is not there as it should be.
    fn make(&self, plan: &Plan<'_>) -> Result<Made> {
        let overwrite = if self.arguments.force { Overwrite::Any } else { Overwrite::Own };
        let mut record = SiteRecord::open(self.project, self.out)?;
        record.write(SITE_MARK, SITE_MARK_TEXT.as_bytes(), overwrite)?;
        // 1. Pages and pictures, on all cores.
        let done = map(&Threads::all(), plan.units.len(), &|i| self.unit(&record, &plan.units[i], overwrite));
        let mut made = Made::default();
        for (unit, done) in plan.units.iter().zip(done) {
            match done? {
                None => made.up_to_date += unit.files.len(),
                Some((inputs, bytes)) => {
                    for (file, bytes) in unit.files.iter().zip(&bytes) {
                        record.note(file, &inputs, bytes);
                        made.written.push(file.clone());
                    }
                }
            }
        }
        // 2. Images of documents.
        for (from, to) in &plan.copies {
            let bytes = read_bounded(&self.project.root.join(from), MAX_PICTURE)?;
            let inputs = bathygram_host::digest(&bytes);
            if record.is_fresh(to, &inputs) {
                made.up_to_date += 1;
                continue;
            }
            record.write(to, &bytes, overwrite)?;
            record.note(to, &inputs, &bytes);
            made.written.push(to.clone());
        }
        // 3. What is no part of the site any more.
        let files = plan.units.iter().flat_map(|unit| unit.files.iter().map(String::as_str));
        let files: BTreeSet<&str> = files.chain(plan.copies.values().map(String::as_str)).collect();
        made.removed = record.clear(&files)?;
        record.save(self.project);
        Ok(made)
    }

    /// Makes the files of one unit; `None` if they are as they should be.
    fn unit(
        &self, record: &SiteRecord, unit: &Unit<'_>, overwrite: Overwrite,
    ) -> Result<Option<(String, Vec<Vec<u8>>)>> {
        let earlier = self.earlier(unit);
        let kept = earlier
            .as_ref()
            .map_or(String::new(), |(_, text, _)| format!(" {}", bathygram_host::digest(text.as_bytes())));
        let inputs = unit.inputs.clone() + &kept;
        if !self.arguments.all && unit.files.iter().all(|file| record.is_fresh(file, &inputs)) {
            return Ok(None);
        }
        let bytes = unit.write(self.studio, earlier.as_ref().map(|(places, _, digest)| (places, digest.as_str())));
        for (file, bytes) in unit.files.iter().zip(&bytes) {
            record.write(file, bytes, overwrite)?;
        }
        Ok(Some((inputs, bytes)))
    }

    /// Where the project's own picture has its elements, if pictures stay near those that are there: places, as text, digest.
    fn earlier(&self, unit: &Unit<'_>) -> Option<(Places, String, String)> {
        let (reading, name) = unit.picture().filter(|_| self.project.config.keep)?;
        let own = PictureOf { source: &reading.source.name, name };
        let (_, path) = own.files(self.project).into_iter().find(|(format, _)| *format == Format::Svg)?;
        let svg = read_text(&path, MAX_PICTURE).ok()?;
        let text = container::read_places(&svg)?;
        Some((Places::from_text(&text), text, container::read_digest(&svg)?.to_owned()))
    }
}

/// A link that leads nowhere, in a sentence.
fn sentence(project: &Project, found: &Loose) -> String {
    let Loose { file, line, target, why } = found;
    let place = format!("{}:{line}", project.from_here(file));
    match why {
        Why::NoFile => format!("warning: {place}: `{target}` is not there; the page shows the words without a link"),
        Why::NoHeading => format!(
            "warning: {place}: `{target}` names a heading that is not there; the page shows the words without a link"
        ),
        Why::Outside => {
            format!("warning: {place}: `{target}` leads out of the project; the page shows the words without a link")
        }
        Why::ForeignImage => format!(
            "warning: {place}: `{target}` is not shown: pages take images of the project as PNG, JPEG, GIF or WebP, and pictures that \
             this program drew"
        ),
    }
}

fn summary(made: &Made, faulty: usize) -> String {
    let mut parts = vec![format!("{} written", session::count(made.written.len(), "file"))];
    if made.up_to_date > 0 {
        parts.push(format!("{} up to date", made.up_to_date));
    }
    if !made.removed.is_empty() {
        parts.push(format!("{} removed", made.removed.len()));
    }
    if faulty > 0 {
        parts.push(format!("{} with errors left out", session::count(faulty, "source")));
    }
    parts.join(", ")
}

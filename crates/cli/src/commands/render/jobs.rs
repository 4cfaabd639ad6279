//! Which pictures are drawn, and where they go.

use super::Arguments;
use super::adhoc::Asked;
use crate::outcome::{Failure, Result};
use bathygram_core::container;
use bathygram_core::pipeline::{Picture, Reading};
use bathygram_core::source::Source;
use bathygram_core::source::world::folded;
use bathygram_host::{
    Format, Freshness, MAX_PICTURE, PictureOf, Project, Seen, is_document, picture_file, read_bounded, read_text,
};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// One picture to be drawn.
pub(super) struct Job<'a> {
    pub(super) reading: &'a Reading,
    pub(super) picture: Picture<'a>,
    pub(super) paths: Vec<(Format, PathBuf)>,
    /// Why it is drawn, where there may be none.
    pub(super) why: Why,
    /// The text of an earlier picture that is to be kept.
    pub(super) earlier: Option<String>,
    /// Sources of other files that it speaks of.
    pub(super) sources: &'a [Source],
    /// All pictures of its stack, if it is of one.
    pub(super) stack: Vec<Picture<'a>>,
}

impl<'a> Job<'a> {
    /// The pictures that its elements may lead to.
    pub(super) fn beside(&self) -> Vec<Picture<'a>> {
        if self.stack.is_empty() { self.reading.pictures().collect() } else { self.stack.clone() }
    }
}

/// Why a picture is drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Why {
    /// There is no such picture yet.
    New,
    /// Its text, or one that it takes from, changed, or the program did.
    Changed,
    /// Somebody changed the picture since it was drawn.
    Edited,
    /// It was asked for.
    Asked,
}

impl Why {
    /// The reason in words, behind a number.
    pub(super) fn word(self) -> &'static str {
        match self {
            Why::New => "new",
            Why::Changed => "changed",
            Why::Edited => "edited by hand",
            Why::Asked => "asked for",
        }
    }
}

/// Why a picture in this state is drawn; `None` if it need not be.
fn reason(state: Freshness) -> Option<Why> {
    match state {
        Freshness::Fresh => None,
        Freshness::Missing => Some(Why::New),
        Freshness::OutOfDate | Freshness::Foreign => Some(Why::Changed),
        Freshness::Edited => Some(Why::Edited),
    }
}

/// The forms in which pictures are wanted.
pub(super) fn formats(project: &Project, arguments: &Arguments) -> Vec<Format> {
    let mut formats: Vec<Format> = arguments.format.clone();
    if formats.is_empty() {
        formats.extend(arguments.out.as_deref().and_then(Format::of));
    }
    if formats.is_empty() { project.config.formats().to_vec() } else { formats }
}

/// The one form in which a picture goes to standard output: SVG, unless one was asked for.
///
/// # Errors
/// If several were asked for.
pub(super) fn only_format(arguments: &Arguments) -> Result<Format> {
    match arguments.format.as_slice() {
        [] => Ok(Format::Svg),
        [only] => Ok(*only),
        _ => Err(Failure::Usage("standard output takes one form; name one with --format".into())),
    }
}

/// The endings of pictures that are not drawn: no folder is called so on purpose.
const OTHERS: [&str; 8] = ["gif", "jpg", "jpeg", "webp", "bmp", "tif", "tiff", "eps"];

/// The file that `--out` names, if it names one by its ending; anything else is a folder.
pub(super) fn named_file(arguments: &Arguments) -> Result<Option<&Path>> {
    let Some(out) = arguments.out.as_deref() else { return Ok(None) };
    let ending = out.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
    if let Some(other) = ending.filter(|ending| OTHERS.contains(&ending.as_str()) && !out.is_dir()) {
        let message = format!("pictures are {}, not {other}; name {} with one of these", Format::listed(), out.seen());
        return Err(Failure::Usage(message));
    }
    Ok(Some(out).filter(|out| Format::of(out).is_some()))
}

/// The pictures of texts to draw, and how many are up to date already. `taken` are the files, without their endings, of pictures of other texts.
pub(super) fn of_texts<'a>(
    project: &Project, arguments: &Arguments, readings: &[&'a Reading], taken: &BTreeMap<PathBuf, String>,
    is_single: bool,
) -> Result<(Vec<Job<'a>>, usize)> {
    let formats = formats(project, arguments);
    let mut pictures: Vec<(&Reading, Picture<'a>)> =
        readings.iter().flat_map(|r| r.pictures().map(|picture| (*r, picture))).collect();
    let names: Vec<&str> = pictures.iter().map(|(_, picture)| picture.name).collect();
    if let Some(only) = &arguments.only {
        pictures.retain(|(_, picture)| picture.name == only);
        if pictures.is_empty() && !readings.is_empty() {
            return Err(Failure::Usage(format!("no picture is called `{only}`; there are {}", names.join(", "))));
        }
    }
    let named = named_earlier(arguments)?;
    let to_file = named_file(arguments)?;
    if arguments.keep.is_some() && pictures.len() > 1 {
        return Err(Failure::Usage(format!(
            "--keep is for one picture, and there are {}; choose one with --only NAME, or say `keep = true` in \
             bathygram.toml to keep each picture's own",
            names.join(", ")
        )));
    }
    let holds_several = to_file.and_then(Format::of).is_some_and(|form| form.holds_several() && formats == [form]);
    if (is_single || to_file.is_some() && !holds_several) && pictures.len() > 1 {
        return Err(Failure::Usage(format!(
            "there are several pictures, {}; choose one with --only NAME, or write them all into one .pdf or .html",
            names.join(", ")
        )));
    }
    // Names that differ only in capitals are one file on some machines.
    let key = |folder: &Path, name: &str| folder.join(folded(name));
    let name_of = |path: &Path| path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let known = taken.iter().map(|(path, source)| {
        (key(path.parent().unwrap_or(Path::new("")), &name_of(path)), (name_of(path), source.clone()))
    });
    let mut taken: BTreeMap<PathBuf, (String, String)> = known.collect();
    let mut jobs = Vec::new();
    let mut fresh = 0;
    for (reading, picture) in pictures {
        let (name, source) = (picture.name, reading.source.name.as_str());
        let folder = arguments.out.clone().unwrap_or_else(|| project.pictures_of(source));
        if let Some((called, first)) = taken.insert(key(&folder, name), (name.to_owned(), source.to_owned())) {
            return Err(Failure::Usage(match first == source {
                _ if called != name => format!(
                    "the pictures `{called}` of {first} and `{name}` of {source} differ only in capitals, and are one file on \
                     some machines; rename one"
                ),
                true => format!("{source} has two pictures called `{name}`; rename one"),
                false => format!("{first} and {source} both have a picture called `{name}`; rename one"),
            }));
        }
        let own = PictureOf { source, name };
        let is_asked = arguments.all || is_single || !arguments.is_build();
        let digest = || container::digest(&reading.provenance(name));
        let why = if is_asked { Some(Why::Asked) } else { reason(own.freshness(project, &digest())) };
        let Some(why) = why else {
            fresh += 1;
            continue;
        };
        let is_document = arguments.format.is_empty() && arguments.out.is_none();
        let forms = if is_document { project.forms_of(source) } else { &formats };
        // A name that no file can have is an error in the source, which was reported: `--anyway` draws the others.
        let Ok(paths) = paths(to_file, forms, &folder, name) else { continue };
        if arguments.out.is_none()
            && let Some((path, owner)) =
                paths.iter().find_map(|(_, path)| Some((path, other_owner(project, source, path)?)))
        {
            return Err(Failure::Usage(format!(
                "{} is the picture of {owner}; give the picture `{name}` of {source} another name",
                project.from_here(&project.shown(path))
            )));
        }
        let earlier = named.clone().or_else(|| own_earlier(&folder, name).filter(|_| project.config.keep));
        jobs.push(Job { reading, picture, paths, why, earlier, sources: &[], stack: Vec::new() });
    }
    Ok((jobs, fresh))
}

/// The pictures that were asked for by arguments, in a folder of their own.
pub(super) fn of_asked<'a>(
    project: &Project, arguments: &Arguments, asked: &'a Asked<'a>, single: bool,
) -> Result<Vec<Job<'a>>> {
    let pictures = asked.pictures();
    let formats = formats(project, arguments);
    let to_file = named_file(arguments)?;
    let holds_several = to_file.and_then(Format::of).is_some_and(|form| form.holds_several() && formats == [form]);
    if (single || to_file.is_some() && !holds_several) && pictures.len() > 1 {
        let count = pictures.len();
        return Err(Failure::Usage(format!(
            "the stack has {count} pictures; name a folder for them with --out FOLDER, or a .pdf or .html"
        )));
    }
    if arguments.keep.is_some() && pictures.len() > 1 {
        return Err(Failure::Usage("--keep is for one picture, and a stack has several".into()));
    }
    let earlier = named_earlier(arguments)?;
    let folder = match &arguments.out {
        Some(out) => out.clone(),
        None => picture_file(&project.pictures(), asked.of(), Format::Svg)?.with_extension(""),
    };
    let mut jobs = Vec::new();
    let stack = if pictures.len() > 1 { pictures.clone() } else { Vec::new() };
    for picture in pictures {
        let paths = paths(to_file, &formats, &folder, picture.name)?;
        let (reading, why, sources) = (asked.reading, Why::Asked, &asked.sources);
        jobs.push(Job { reading, picture, paths, why, earlier: earlier.clone(), sources, stack: stack.clone() });
    }
    Ok(jobs)
}

/// The one file that several pictures go to.
pub(super) fn shared_file(jobs: &[Job<'_>]) -> Option<(Format, PathBuf)> {
    let [shared] = jobs.first()?.paths.as_slice() else { return None };
    let is_shared = shared.0.holds_several() && jobs.iter().all(|job| job.paths == [shared.clone()]);
    is_shared.then(|| shared.clone())
}

/// Where a picture goes, in each form.
///
/// # Errors
/// If the picture has a name that no file can have.
fn paths(to_file: Option<&Path>, formats: &[Format], folder: &Path, name: &str) -> Result<Vec<(Format, PathBuf)>> {
    match to_file {
        Some(file) => Ok(vec![(formats[0], file.to_owned())]),
        None => formats.iter().map(|f| Ok((*f, picture_file(folder, name, *f)?))).collect(),
    }
}

/// The earlier picture that was named.
fn named_earlier(arguments: &Arguments) -> Result<Option<String>> {
    let Some(path) = &arguments.keep else { return Ok(None) };
    let text = read_text(path, MAX_PICTURE);
    let text = text.map_err(|e| Failure::Usage(format!("{} cannot be kept: {e}", path.seen())))?;
    if container::read_digest(&text).is_none() {
        return Err(Failure::Usage(format!("{} is no picture that this program drew", path.seen())));
    }
    Ok(Some(text))
}

/// A picture's own earlier version, if there is one.
fn own_earlier(folder: &Path, name: &str) -> Option<String> {
    read_text(&folder.join(format!("{name}.svg")), MAX_PICTURE).ok()
}

/// The other text of the project whose picture a file is: a source and a document may have one folder.
fn other_owner(project: &Project, source: &str, path: &Path) -> Option<String> {
    let owner = container::file(&read_bounded(path, MAX_PICTURE).ok()?)?;
    let is_other_kind = is_document(Path::new(&owner)) || is_document(Path::new(source));
    (owner != source && is_other_kind && project.root.join(&owner).is_file()).then_some(owner)
}

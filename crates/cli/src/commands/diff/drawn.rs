//! Pictures of what changed.

use super::listed::Listed;
use super::sides::{Compared, Side};
use crate::forms;
use crate::outcome::{Failure, Result};
use crate::session::{self, Voice};
use bathygram_core::compare;
use bathygram_core::container;
use bathygram_core::jobs::map;
use bathygram_core::model::{Diagram, LookRule};
use bathygram_core::pipeline::{self, DrawOptions, Reading, Studio};
use bathygram_core::scene::{Drawing, Places};
use bathygram_core::views::View;
use bathygram_host::Threads;
use bathygram_host::{Format, Overwrite, Project, Room, Seen, picture_file, write_picture};
use bathygram_outputs::png::{Below, Scale};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// One picture in both versions, and what changed.
pub(super) struct Drawn {
    pub(super) name: String,
    /// `None` where it is not there.
    pub(super) before: Option<Shown>,
    pub(super) after: Option<Shown>,
    /// `None` where one of the two is not there.
    pub(super) changes: Option<Shown>,
}

/// A picture that was written.
pub(super) struct Picture {
    pub(super) name: String,
    pub(super) path: PathBuf,
}

/// A drawing, and the same as SVG text.
#[derive(Clone)]
pub(super) struct Shown {
    pub(super) drawing: Drawing,
    pub(super) svg: String,
}

type Viewed<'a> = (&'a Reading, View);

/// All blocks and sheets that show something else, in the order of the newer version, and sentences about those that are too
/// large for that. A renamed one is one.
pub(super) fn all(project: &Project, compared: &Compared, changes: &[Listed]) -> (Vec<Drawn>, Vec<String>) {
    let Compared { from, to, pictures, .. } = compared;
    let found = |side: &Side| -> BTreeMap<String, usize> { names(side).into_iter().collect() };
    let (then, now) = (found(from), found(to));
    let was = |name: &str| -> String {
        let listed = changes.iter().find(|l| l.diagram == name && now.contains_key(name));
        listed.and_then(|l| l.old_name.clone()).unwrap_or_else(|| name.to_owned())
    };
    let mut pairs: Vec<(String, String)> = names(to).into_iter().map(|(name, _)| (was(&name), name)).collect();
    let known: BTreeSet<String> = pairs.iter().map(|p| p.0.clone()).collect();
    let gone = names(from).into_iter().map(|v| v.0).filter(|name| !now.contains_key(name) && !known.contains(name));
    pairs.extend(gone.map(|name| (name.clone(), name)));
    pairs.retain(|(old, new)| pictures.is_empty() || pictures.contains(old) || pictures.contains(new));
    let threads = Threads::all();
    let studio = Studio::with_jobs(Box::new(threads.beside(pairs.len())))
        .in_themes(&project.themes)
        .in_language(&project.language);
    let drawn = map(&threads, pairs.len(), &|i| {
        let (before, name) = &pairs[i];
        let views = [view(from, then.get(before), before), view(to, now.get(name), name)];
        one(&studio, name, views, changes.iter().find(|l| l.diagram == *name))
    });
    let (mut all, mut too_large) = (Vec::new(), Vec::new());
    for one in drawn.into_iter().flatten() {
        match one {
            Ok(one) => all.push(one),
            Err(why) => too_large.push(why),
        }
    }
    (all, too_large)
}

/// Makes sure that two sides of a diagram can be drawn as one picture.
///
/// # Errors
/// A sentence that says why not.
pub(crate) fn fit_one_picture(name: &str, sides: [&Diagram; 2]) -> std::result::Result<(), String> {
    if compare::fit_one_picture(sides) {
        return Ok(());
    }
    Err(format!(
        "`{name}` is too large to draw what differs: such a picture holds at most {} elements and relations of both sides, \
         and {} MiB of text; without a picture all of it is listed",
        compare::MAX_MARKED,
        compare::MAX_MARKED_TEXT >> 20
    ))
}

/// The names of all pictures of one side, each with the number of its reading.
fn names(side: &Side) -> Vec<(String, usize)> {
    let all = side.readings.iter().enumerate();
    all.flat_map(|(i, r)| r.pictures().map(move |v| (v.name.to_owned(), i)).collect::<Vec<_>>()).collect()
}

/// The picture of this name in one of a side's readings.
fn view<'s>(side: &'s Side, at: Option<&usize>, name: &str) -> Option<(&'s Reading, View)> {
    let reading = &side.readings[*at?];
    reading.pictures().find(|v| v.name == name).map(|v| (reading, v.view()))
}

/// One picture, if it changed; a sentence, if it is too large for a picture of what changed.
fn one(
    studio: &Studio, name: &str, [old, new]: [Option<Viewed<'_>>; 2], changes: Option<&Listed>,
) -> Option<std::result::Result<Drawn, String>> {
    if let (Some((_, a)), Some((_, b))) = (&old, &new) {
        if changes.is_none() && compare::diagrams(&a.diagram, &b.diagram).is_empty() {
            return None;
        }
        if let Err(why) = fit_one_picture(name, [&a.diagram, &b.diagram]) {
            return Some(Err(why));
        }
    }
    let before = old.as_ref().map(|(reading, view)| shown(studio, reading, view, &Options::default()));
    // What is called otherwise now stays where it was.
    let keys = old.as_ref().zip(new.as_ref()).map(|((_, a), (_, b))| compare::new_keys(&a.diagram, &b.diagram));
    let near = before.as_ref().zip(keys.as_ref()).map(|(b, keys)| b.drawing.places.under(keys));
    let near = near.as_ref().filter(|places| !places.is_empty());
    let digest = old.as_ref().map(|(reading, view)| container::digest(&reading.provenance(view.name())));
    let options = Options { near, earlier: digest.as_deref().filter(|_| near.is_some()), ..Options::default() };
    let after = new.as_ref().map(|(reading, view)| shown(studio, reading, view, &options));
    let marked = match (&old, &new) {
        (Some((_, a)), Some((now, b))) => {
            let drawn = changes.map(|l| l.drawn.clone()).unwrap_or_default();
            let marked = compare::merged(a, b, compare::Sides::Versions, &drawn);
            // It is nobody's picture: no text has this name.
            let name = format!("changes of {name}");
            let options = Options { near, earlier: None, looks: &marked.looks, name: Some(&name) };
            Some(shown(studio, now, &marked.view, &options))
        }
        _ => None,
    };
    Some(Ok(Drawn { name: name.to_owned(), before, after, changes: marked }))
}

/// How a picture of a comparison is drawn.
#[derive(Default)]
struct Options<'a> {
    /// Where the earlier picture has its elements, and its digest.
    near: Option<&'a Places>,
    earlier: Option<&'a str>,
    /// Marks.
    looks: &'a [LookRule],
    /// Its name, where it is not that of the view.
    name: Option<&'a str>,
}

fn shown(studio: &Studio, reading: &Reading, view: &View, options: &Options<'_>) -> Shown {
    let how = DrawOptions { earlier: options.near, more_looks: options.looks, ..DrawOptions::default() };
    let drawing = pipeline::draw(studio, reading, view, &how);
    let provenance = reading.provenance(options.name.unwrap_or(view.name()));
    let svg = studio.svg(&drawing, &container::Provenance { earlier: options.earlier, ..provenance });
    Shown { drawing, svg }
}

/// The file of a picture in a folder.
fn in_folder(folder: &Path, name: &str) -> Result<PathBuf> {
    picture_file(folder, name, Format::Svg).map_err(|e| Failure::Usage(e.to_string()))
}

/// Writes the pictures of what changed: into one file if its name asks for that, or into a folder.
///
/// # Errors
/// If a file was asked for and there are several pictures, or one cannot be written.
pub(super) fn write(project: &Project, path: &Path, drawn: &[Drawn], voice: Voice) -> Result<Vec<Picture>> {
    let ending = path.extension().map(|e| e.to_string_lossy().into_owned());
    let is_file = matches!(ending.as_deref(), Some("svg" | "png")) || session::is_stdout(path);
    let shown = |d: &Drawn| d.changes.clone().or_else(|| d.after.clone()).or_else(|| d.before.clone());
    let pictures: Vec<(&str, Shown)> = drawn.iter().filter_map(|d| Some((d.name.as_str(), shown(d)?))).collect();
    if is_file && pictures.len() > 1 {
        let names: Vec<&str> = pictures.iter().map(|p| p.0).collect();
        return Err(Failure::Usage(format!(
            "{} pictures changed, {}; name a folder for them, or the file that is meant",
            pictures.len(),
            names.join(", ")
        )));
    }
    // A name that no file can have stops the command before anything is written.
    let targets = match is_file {
        true => vec![path.to_owned(); pictures.len()],
        false => pictures.iter().map(|(name, _)| in_folder(path, name)).collect::<Result<Vec<_>>>()?,
    };
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let mut written = Vec::new();
    for ((name, picture), path) in pictures.into_iter().zip(targets) {
        let is_png = path.extension().is_some_and(|e| e == "png");
        let bytes = match is_png {
            true => forms::png(project, &studio, &picture.drawing, (Scale::Factor(2.0), Below::Paper), &[])?,
            false => picture.svg.into_bytes(),
        };
        if is_file {
            session::write_target(&path, &bytes)?;
        } else {
            write_picture(&path, &bytes, Room { below: None, overwrite: Overwrite::Own })?;
        }
        if session::is_stdout(&path) {
            continue;
        }
        voice.say(&format!("{} written", path.seen()));
        written.push(Picture { name: name.to_owned(), path });
    }
    Ok(written)
}

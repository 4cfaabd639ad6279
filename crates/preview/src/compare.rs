//! A picture as it was in the last commit, and what changed since.

use crate::draw::chosen;
use crate::export::Asked;
use crate::shared::{Set, Shared};
use bathygram_core::compare;
use bathygram_core::model::LookRule;
use bathygram_core::pipeline::{self, DrawOptions, Reading, Setting};
use bathygram_core::review;
use bathygram_core::scene::{Drawing, Places};
use bathygram_core::source::Source;
use bathygram_core::svg::{self, Place};
use bathygram_core::views::View;
use bathygram_host::{Found, Git, InVersion, MAX_SOURCE};
use serde::Serialize;
use std::path::PathBuf;

#[derive(Serialize)]
pub(crate) struct Compared {
    /// The picture in the last commit, if it is there.
    before: Option<String>,
    /// The picture now, near where the other has everything.
    after: Option<String>,
    /// What was added, removed and changed, marked in one picture.
    changes: Option<String>,
    style: String,
    /// The same in sentences.
    says: Vec<Said>,
}

#[derive(Serialize)]
struct Said {
    fate: &'static str,
    sentence: String,
}

/// Compares a picture with the last commit.
///
/// # Errors
/// If there is no repository.
pub(crate) fn compare(shared: &Shared, asked: &Asked) -> Result<Compared, String> {
    let set = shared.set(asked.theme.as_deref())?;
    let now = shared.read(&set.project, &asked.file, asked.text.clone());
    let then = committed(&set, &asked.file)?;
    let all = review::changes(&set.studio, &then.iter().collect::<Vec<_>>(), &[&now]);
    let own = all.into_iter().find(|changes| changes.diagram == asked.picture);
    // The picture may have had another name.
    let name_then = own.as_ref().and_then(|own| own.before.as_ref()).unwrap_or(&asked.picture);
    let view = |reading: &Reading, name: &String| {
        let picture = chosen(reading, Some(name), 0).filter(|picture| picture.name == *name)?;
        Some(picture.view())
    };
    let (old, new) = (then.as_ref().and_then(|then| view(then, name_then)), view(&now, &asked.picture));
    let drawn = own.as_ref().map(|own| own.drawn_differently()).unwrap_or_default();
    let draw = |reading: &Reading, view: &View, earlier: Option<&Places>, looks: &[LookRule]| -> Drawing {
        let options = DrawOptions { earlier, more_looks: looks, ..DrawOptions::default() };
        pipeline::draw(&set.studio, reading, view, &options)
    };
    let before = then.as_ref().zip(old.as_ref()).map(|(reading, view)| draw(reading, view, None, &[]));
    // What is called otherwise now stays where it was.
    let keys = old.as_ref().zip(new.as_ref()).map(|(old, new)| compare::new_keys(&old.diagram, &new.diagram));
    let near = before.as_ref().zip(keys.as_ref()).map(|(drawing, keys)| drawing.places.under(keys));
    let near = near.as_ref().filter(|places| !places.is_empty());
    let after = new.as_ref().map(|view| draw(&now, view, near, &[]));
    let changes = old.as_ref().zip(new.as_ref()).map(|(old, new)| {
        let marked = compare::merged(old, new, compare::Sides::Versions, &drawn);
        draw(&now, &marked.view, near, &marked.looks)
    });
    let drawings: Vec<&Drawing> = [&before, &after, &changes].into_iter().flatten().collect();
    let style = svg::style_sheet(&drawings, &set.studio);
    let written = |drawing: Option<Drawing>| drawing.map(|d| svg::write(&d, &set.studio, Place::Page(None)));
    let says = own.into_iter().flat_map(|own| own.changes).flat_map(|change| {
        let fate = change.fate.word();
        change.sentences().into_iter().map(move |sentence| Said { fate, sentence })
    });
    let says = says.collect();
    Ok(Compared { before: written(before), after: written(after), changes: written(changes), style, says })
}

/// The file as it is in the last commit, read; `None` if it is not there.
fn committed(set: &Set, file: &str) -> Result<Option<Reading>, String> {
    let project = &set.project;
    let git = Git::find(&project.root).map_err(|why| why.to_string())?;
    let version = git.head();
    let root = project.root.canonicalize().unwrap_or_else(|_| project.root.clone());
    let top = git.top.canonicalize().unwrap_or_else(|_| git.top.clone());
    let folder: PathBuf = root.strip_prefix(&top).map(PathBuf::from).unwrap_or_default();
    let bytes = match git.bytes(&version, &folder.join(file), MAX_SOURCE) {
        Found::Bytes(bytes) => bytes,
        Found::Nothing => return Ok(None),
        Found::TooLarge => return Err(format!("{file} is larger than 16 MiB in the last commit")),
    };
    let text = String::from_utf8(bytes).map_err(|_| format!("{file} is not UTF-8 text in the last commit"))?;
    let world = InVersion { git: &git, version: &version, folder };
    let setting = Setting { world: &world, levels: &project.levels, look: &project.look };
    Ok(Some(pipeline::read(Source::new(file, text), &crate::files::stem(file), &setting)))
}

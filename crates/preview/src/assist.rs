//! Help with typing: the same answers of the core that editors get.

use crate::draw::{Edit, edits};
use crate::files;
use crate::positions::Positions;
use crate::shared::Shared;
use bathygram_core::format::format;
use bathygram_core::ide::{self, CompletionKind};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::{Source, apply};
use serde::{Deserialize, Serialize};

/// A file.
#[derive(Deserialize)]
pub(crate) struct Named {
    pub(crate) file: String,
}

/// A place in a text.
#[derive(Deserialize)]
pub(crate) struct At {
    file: String,
    text: String,
    at: usize,
}

#[derive(Serialize)]
pub(crate) struct Completion {
    label: String,
    kind: &'static str,
    about: String,
    edit: Vec<Edit>,
}

/// What may be written at a place.
pub(crate) fn completions(shared: &Shared, at: &At) -> Vec<Completion> {
    let reading = shared.read(&shared.project(), &at.file, at.text.clone());
    let positions = Positions::new(&at.text);
    let all = ide::completions(&reading, positions.byte(at.at) as u32).into_iter();
    let completion = |found: ide::Completion| Completion {
        label: found.label,
        kind: match found.kind {
            CompletionKind::Name => "variable",
            CompletionKind::Verb => "function",
            CompletionKind::Kind => "class",
            CompletionKind::Keyword => "keyword",
            CompletionKind::Trait => "property",
            CompletionKind::Value => "constant",
        },
        about: found.about,
        edit: edits(&[found.edit], &positions),
    };
    all.map(completion).collect()
}

#[derive(Serialize)]
pub(crate) struct Hover {
    from: usize,
    to: usize,
    markdown: String,
}

/// What stands at a place.
pub(crate) fn hover(shared: &Shared, at: &At) -> Option<Hover> {
    let reading = shared.read(&shared.project(), &at.file, at.text.clone());
    let positions = Positions::new(&at.text);
    let found = ide::hover(&reading, positions.byte(at.at) as u32)?;
    let [from, to] = [found.span.start, found.span.end].map(|byte| positions.unit(byte as usize));
    Some(Hover { from, to, markdown: found.markdown })
}

/// The text in its canonical form.
pub(crate) fn formatted(_: &Shared, at: &At) -> String {
    format(&Source::new(at.file.as_str(), at.text.as_str()))
}

/// A place, and what stands there is to be called.
#[derive(Deserialize)]
pub(crate) struct Rename {
    #[serde(flatten)]
    at: At,
    name: Option<String>,
}

/// A rename in all files of the project.
#[derive(Serialize)]
pub(crate) struct Renamed {
    /// What is called so now.
    old: String,
    /// Edits of the text itself.
    edits: Vec<Edit>,
    /// Other files, with their texts after it.
    others: Vec<Other>,
}

#[derive(Serialize)]
struct Other {
    file: String,
    text: String,
    base: String,
}

/// Renames what stands at a place; without a new name, says what it is called.
///
/// # Errors
/// If nothing there has a name, or the new one cannot be one.
pub(crate) fn renamed(shared: &Shared, rename: &Rename) -> Result<Renamed, String> {
    let project = shared.project();
    let At { file, text, at } = &rename.at;
    let reading = shared.read(&project, file, text.clone());
    let positions = Positions::new(text);
    let byte = positions.byte(*at) as u32;
    let nameless = || "nothing here has a name of its own".to_owned();
    let span = ide::renamable(&reading, byte).ok_or_else(nameless)?;
    let meant = ide::meant(&reading, byte).ok_or_else(nameless)?;
    let old = reading.source.slice(span).trim_matches('`').to_owned();
    let Some(name) = rename.name.as_deref().filter(|name| *name != old) else {
        return Ok(Renamed { old, edits: Vec::new(), others: Vec::new() });
    };
    let others: Vec<(files::Current, Reading)> = project
        .sources()
        .map_err(|why| why.to_string())?
        .into_iter()
        .map(|path| project.shown(&path))
        .filter(|other| other != file)
        .filter_map(|other| {
            let current = files::current(shared, &project, &other).ok()?;
            let reading = shared.read(&project, &other, current.text.clone());
            Some((current, reading))
        })
        .collect();
    let readings: Vec<&Reading> = std::iter::once(&reading).chain(others.iter().map(|(_, reading)| reading)).collect();
    let all = ide::rename(&readings, &meant, name).map_err(|why| why.to_string())?;
    let own = all.first().map(|own| edits(own, &positions)).unwrap_or_default();
    let changed = others.iter().zip(all.iter().skip(1)).filter(|(_, edits)| !edits.is_empty());
    let others = changed.filter_map(|((current, reading), edits)| {
        let text = apply(&reading.source, edits).ok()?;
        Some(Other { file: reading.source.name.clone(), text, base: current.base.clone() })
    });
    Ok(Renamed { old, edits: own, others: others.collect() })
}

//! The themes of a run: built-in ones and files of the project, alone or for light and dark pages.

use crate::Seen;
use crate::{Error, MAX_SETTINGS, read_text};
use bathygram_core::language::Language;
use bathygram_core::theme::{self, Hue, Theme, Themes};
use std::path::Path;

/// What stands between the theme of light pages and that of dark ones.
const AND: char = '+';

/// The theme, or the two, that a word names: `abyss`, `shoal+abyss`, or a file such as `looks/harbour.toml`, relative to
/// `folder` and inside of `root`.
///
/// # Errors
/// If there is no such theme, or one has an error.
pub fn themes(words: &str, accent: Option<&str>, folder: &Path, root: &Path) -> Result<Themes, Error> {
    let accent = accent.map(hue).transpose()?;
    let one = |word: &str| one(word.trim(), accent, folder, root);
    let Some((light, dark)) = words.split_once(AND) else { return Ok(one(words)?.into()) };
    if dark.contains(AND) {
        let message =
            format!("`{words}` names more than two themes; the first is for light pages, the second for dark ones");
        return Err(Error::Theme { message });
    }
    Themes::pair(one(light)?, one(dark)?).map_err(|message| Error::Theme { message })
}

fn hue(word: &str) -> Result<Hue, Error> {
    Hue::from_name(word).ok_or_else(|| {
        let names: Vec<&str> = Hue::all().map(Hue::name).collect();
        Error::Theme { message: format!("no accent is called `{word}`; there are {}", names.join(", ")) }
    })
}

fn one(word: &str, accent: Option<Hue>, folder: &Path, root: &Path) -> Result<Theme, Error> {
    if !word.ends_with(".toml") {
        return theme::named(word, accent).map_err(|why| Error::Theme { message: why.message });
    }
    let path = folder.join(word);
    let text = inside(&path, root)?;
    // What a theme extends lies beside it, or in a folder there.
    let mut at = path.parent().map(Path::to_owned).unwrap_or_default();
    let mut other = |name: &str| {
        let path = at.join(name);
        let text = inside(&path, root).ok()?;
        at = path.parent().map(Path::to_owned).unwrap_or_default();
        Some((name.to_owned(), text))
    };
    theme::read(word, &text, accent, &mut other)
        .map_err(|why| Error::Theme { message: format!("{}: {}", why.file, why.message) })
}

/// The language that a word names: `de`, or a file such as `words/nl.toml`, whose name is the tag of the language.
///
/// # Errors
/// If there is no such language, or its table has an error.
pub(crate) fn language(word: &str, folder: &Path, root: &Path) -> Result<Language, Error> {
    let Some(stem) = word.strip_suffix(".toml") else {
        return Language::named(word).ok_or_else(|| {
            let tags: Vec<&str> = Language::built_in().collect();
            let message = format!(
                "no language is called `{word}`; there are {}, or name a file that ends in .toml",
                tags.join(", ")
            );
            Error::Theme { message }
        });
    };
    let text = inside(&folder.join(word), root)?;
    let tag = stem.rsplit(['/', '\\']).next().unwrap_or(stem);
    Language::read(tag, &text).map_err(|why| Error::Theme { message: format!("{word}: {why}") })
}

/// The text of a file of the project.
fn inside(path: &Path, root: &Path) -> Result<String, Error> {
    let failed = |why: std::io::Error| Error::Read { path: path.to_owned(), why };
    let real = path.canonicalize().map_err(failed)?;
    if !real.starts_with(root.canonicalize().map_err(failed)?) {
        return Err(Error::Theme { message: format!("{} lies outside of the project", path.seen()) });
    }
    read_text(&real, MAX_SETTINGS)
}

/// The JSON Schema of a theme, as text.
pub fn theme_schema() -> String {
    format!("{:#}\n", theme::schema().to_value())
}

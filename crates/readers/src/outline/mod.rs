//! Outlines: Markdown or plain text that describes a process, as a draft flow, or any nested list as a tree. Input: a text. Output:
//! [`Facts`]. The text stays in order, nothing is invented, and every guess says so.

mod draft;
mod items;
mod labels;
mod words;

use crate::facts::{Facts, Thing};
use crate::finding::{Broken, Finding, Level, Seen};
use crate::select::Selection;
use bathygram_core::model::{DiagramKind, ElementKind};
use items::{Item, Kind};
use std::collections::BTreeMap;
use std::io::Read;
use std::path::Path;
use std::sync::Arc;

pub use words::{ENGLISH, Words};

/// An outline has at most this many bytes.
// A process description of a megabyte is some 300 pages.
const LARGEST: u64 = 4 * 1024 * 1024;

/// What an outline becomes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Form {
    /// A flow.
    #[default]
    Flow,
    /// A tree.
    Tree,
}

/// What outlines are read with.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// What is wanted of it: items by their texts, for a tree.
    pub selection: Selection,
    /// What it becomes.
    pub form: Form,
    /// The words of its language; English otherwise.
    pub words: Option<Words>,
}

/// Reads an outline.
///
/// # Errors
/// If there is nothing in it.
pub fn read(path: &Path, bytes: impl Read, options: &Options) -> Result<Facts, Broken> {
    let file: Arc<str> = path.file_name().map_or("outline".into(), |name| name.to_string_lossy().into_owned().into());
    let broken = |why: String| Broken { seen: Seen { file: file.clone(), ..Seen::default() }, why };
    let mut all = Vec::new();
    bytes.take(LARGEST + 1).read_to_end(&mut all).map_err(|why| broken(why.to_string()))?;
    if all.len() as u64 > LARGEST {
        return Err(broken(format!("an outline has at most {} MB", LARGEST / 1024 / 1024)));
    }
    if all.contains(&0) {
        return Err(broken("this is no text".to_owned()));
    }
    let (text, is_latin) = crate::text::cell(all.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&all));
    let mut items = items::items(&text);
    let title = title(&mut items);
    if items.is_empty() {
        return Err(broken("there is nothing in it; an outline has lists, numbers or sentences".to_owned()));
    }
    let mut facts = match options.form {
        Form::Flow => draft::flow(&items, &file, options.words.as_ref().unwrap_or_else(|| Words::english())),
        Form::Tree => tree(&items, &file, &options.selection),
    };
    if is_latin {
        let says = "the text is no UTF-8; it was read as Latin-1".to_owned();
        let seen = Seen { file: file.clone(), line: 1, ..Seen::default() };
        facts.findings.push(Finding::new("latin", Level::Note, seen, says));
    }
    let stem = crate::names::stem(path, "outline");
    facts.title = title.unwrap_or_default();
    facts.call(&options.selection, &stem);
    facts.counts.rows = text.lines().count() as u64;
    facts.counts.empty = text.lines().filter(|line| line.trim().is_empty()).count() as u64;
    Ok(facts)
}

/// The heading that everything stands under, or a first line that is no sentence, taken out.
fn title(items: &mut Vec<Item>) -> Option<String> {
    let first = items.first()?;
    let is_title = match first.kind {
        Kind::Heading(level) => {
            !items[1..].iter().any(|item| matches!(item.kind, Kind::Heading(other) if other <= level))
        }
        Kind::Paragraph => {
            !first.text.contains(['.', ':', '?', '!', ';']) && items.len() > 1 && first.children.is_empty()
        }
        _ => false,
    };
    is_title.then(|| items.remove(0).text)
}

/// Items in each other as a tree; what stands under a heading hangs below it.
fn tree(items: &[Item], file: &Arc<str>, selection: &Selection) -> Facts {
    let mut facts = Facts::new(DiagramKind::Tree);
    let mut origins = Origins::default();
    let mut headings: Vec<(usize, usize)> = Vec::new();
    for item in items {
        let holder = match item.kind {
            Kind::Heading(level) => {
                headings.retain(|(own, _)| *own < level);
                headings.last().map(|(_, thing)| *thing)
            }
            _ => headings.last().map(|(_, thing)| *thing),
        };
        let thing = branch(item, holder, file, selection, &mut origins, &mut facts);
        if let (Kind::Heading(level), Some(thing)) = (&item.kind, thing) {
            headings.push((*level, thing));
        }
    }
    facts
}

fn branch(
    item: &Item, holder: Option<usize>, file: &Arc<str>, selection: &Selection, origins: &mut Origins,
    facts: &mut Facts,
) -> Option<usize> {
    if !selection.wants(&item.text) {
        return None;
    }
    let seen = Seen { file: file.clone(), sheet: None, line: item.line, column: None };
    let mut thing = Thing::new(&origins.give(&item.text), ElementKind::Item, seen);
    thing.label = Some(item.text.clone());
    thing.is_named = false;
    thing.holder = holder;
    facts.things.push(thing);
    let number = facts.things.len() - 1;
    for child in &item.children {
        branch(child, Some(number), file, selection, origins, facts);
    }
    Some(number)
}

/// What things are called in an outline: their sentences, told apart where they are equal.
#[derive(Default)]
struct Origins(BTreeMap<String, usize>);

impl Origins {
    fn give(&mut self, text: &str) -> String {
        let count = self.0.entry(text.to_owned()).or_default();
        *count += 1;
        if *count == 1 { text.to_owned() } else { format!("{text} ({count})") }
    }
}

//! Pictograms: our own, on a grid of 24 units in one stroke, and those that a project brings. Input: a name, or the bytes
//! of a file. Output: an [`Art`] that is drawn into a square. Guarantees: nothing of a file reaches a drawing but its
//! geometry, its colours and, of a PNG, its pixels.

mod library;
mod own;
mod read;
mod sheet;

pub use own::{IconFault, MAX_PNG, MAX_SVG, read_own};
pub use sheet::sheet;

use crate::geom::{Path, Rect};
use crate::model::ElementKind;
use crate::scene::{Item, Stroke};
use crate::theme::{Colour, Ground, Paint};
use library::SOURCES;
use std::collections::BTreeMap;
use std::sync::{Arc, OnceLock};

/// The side of the grid on which pictograms are drawn.
pub(super) const GRID: f64 = 24.0;

/// One of our pictograms, for lists.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    /// Its category.
    pub category: &'static str,
    /// Its name.
    pub name: &'static str,
    /// Words by which it is found besides its name.
    pub words: Vec<&'static str>,
}

impl Entry {
    /// How well a word in lower case finds it, 0 best: by its name, a part of that, another word, a part of one.
    fn rank(&self, word: &str) -> Option<u8> {
        let others = || self.words.iter().chain([&self.category]);
        match () {
            () if self.name == word => Some(0),
            () if self.name.contains(word) => Some(1),
            () if others().any(|w| *w == word) => Some(2),
            () if others().any(|w| w.contains(word)) => Some(3),
            () => None,
        }
    }
}

/// All of our pictograms, by category.
pub fn all() -> impl Iterator<Item = Entry> {
    SOURCES.iter().map(|(category, name, source)| Entry { category, name, words: read::words(source) })
}

/// The pictograms that a word finds: by name first, then by other words and by category, then by parts of these.
pub fn search(word: &str) -> Vec<Entry> {
    let word = word.to_lowercase();
    let mut found: Vec<(u8, Entry)> = all().filter_map(|entry| Some((entry.rank(&word)?, entry))).collect();
    found.sort_by_key(|(rank, _)| *rank);
    found.into_iter().map(|(_, entry)| entry).collect()
}

/// The names of our pictograms.
pub(super) fn names() -> impl Iterator<Item = &'static str> {
    SOURCES.iter().map(|(_, name, _)| *name)
}

/// The pictogram of a kind.
pub(super) fn of_kind(kind: ElementKind) -> Option<&'static str> {
    Some(match kind {
        ElementKind::Actor => "person",
        ElementKind::System => "system",
        ElementKind::Service => "service",
        ElementKind::Store => "store",
        ElementKind::Queue => "queue",
        ElementKind::Device => "device",
        ElementKind::Part => "part",
        ElementKind::Host => "host",
        ElementKind::Zone => "zone",
        _ => return None,
    })
}

/// What is drawn as a pictogram, in a square of 24 units.
// A picture holds one for each element: a copy shares what it draws.
#[derive(Clone, Debug)]
pub enum Art {
    /// One of ours: strokes in the accent of its element.
    Strokes(Arc<Path>),
    /// Shapes of a project's file.
    Shapes(Arc<[OwnShape]>),
    /// Pixels of a project's file: a PNG, and its sides in pixels.
    Raster(Arc<[u8]>, [u32; 2]),
}

/// One shape of a project's file.
#[derive(Clone, Debug)]
pub struct OwnShape {
    path: Path,
    fill: Option<OwnPaint>,
    /// Its line, and its width in units.
    stroke: Option<(OwnPaint, f64)>,
}

impl OwnShape {
    /// Draws it with the grid's upper left corner at `x`, `y`.
    fn draw(&self, (x, y): (f64, f64), scale: f64, accent: Paint) -> Item {
        Item::Path {
            path: self.path.placed(scale, x, y),
            fill: self.fill.map(|p| p.paint(accent)),
            stroke: self.stroke.map(|(p, width)| Stroke::solid(p.paint(accent), width * scale)),
            role: None,
        }
    }
}

/// A colour of a project's file.
#[derive(Clone, Copy, Debug)]
enum OwnPaint {
    /// This one.
    Colour(Colour),
    /// That of pictograms.
    Accent,
}

impl OwnPaint {
    fn paint(self, accent: Paint) -> Paint {
        if let OwnPaint::Colour(colour) = self { Ground::Fixed(colour).into() } else { accent }
    }
}

impl Art {
    /// Draws it into a square with this upper left corner and side, in px; `width` is that of the strokes of ours.
    pub(super) fn draw(&self, (x, y, side): (f64, f64, f64), accent: Paint, width: f64) -> Vec<Item> {
        let scale = side / GRID;
        match self {
            Art::Strokes(path) => {
                let (path, stroke) = (path.placed(scale, x, y), Some(Stroke::solid(accent, width)));
                vec![Item::Path { path, fill: None, stroke, role: None }]
            }
            Art::Shapes(shapes) => shapes.iter().map(|shape| shape.draw((x, y), scale, accent)).collect(),
            Art::Raster(png, [w, h]) => {
                let (w, h) = (f64::from(*w), f64::from(*h));
                let (w, h) = (side * w / w.max(h), side * h / w.max(h));
                let place = Rect::new(x + (side - w) / 2.0, y + (side - h) / 2.0, w, h);
                vec![Item::Image { place, png: png.clone() }]
            }
        }
    }
}

/// The pictograms of one file: ours, and those that it names by path.
#[derive(Clone, Debug, Default)]
pub struct Icons {
    own: BTreeMap<String, Art>,
    /// For each, its name in the project and what it holds, as one text.
    files: String,
}

impl Icons {
    /// Takes up a project's file under the name by which it is called in the text.
    pub fn add(&mut self, called: &str, art: Art, content: &str) {
        self.own.insert(called.to_owned(), art);
        self.files += &format!("{called} {content}\n");
    }

    /// What a picture depends on besides texts; empty without own files.
    pub fn files(&self) -> &str {
        &self.files
    }

    /// The names of own files.
    pub fn own_files(&self) -> impl Iterator<Item = &str> {
        self.own.keys().map(String::as_str)
    }

    /// The pictogram of a name; `None` if there is none.
    pub(super) fn find(&self, name: &str) -> Option<Art> {
        if let Some(own) = self.own.get(name) {
            return Some(own.clone());
        }
        SOURCES.iter().position(|(_, n, _)| *n == name).map(|number| Art::Strokes(strokes(number)))
    }
}

/// What one of our pictograms draws, by its number.
fn strokes(number: usize) -> Arc<Path> {
    // Each is read when it is first asked for, and once: 10,000 elements ask for the same few.
    static READ: [OnceLock<Arc<Path>>; SOURCES.len()] = [const { OnceLock::new() }; SOURCES.len()];
    READ[number].get_or_init(|| Arc::new(read::strokes(SOURCES[number].2))).clone()
}

#[cfg(test)]
#[allow(clippy::disallowed_methods, reason = "a test may read the core's own files")]
mod tests {
    use super::*;
    use crate::geom::Cmd;
    use std::collections::BTreeSet;

    #[test]
    fn there_are_many_in_ten_categories_each_found_by_several_words() {
        let categories: BTreeSet<&str> = all().map(|e| e.category).collect();
        let names: BTreeSet<&str> = names().collect();
        assert_eq!((categories.len(), names.len()), (10, SOURCES.len()));
        assert!(SOURCES.len() >= 120);
        assert!(all().all(|e| !e.words.is_empty() && e.words.iter().all(|w| *w == w.to_lowercase())));
        let found = |word: &str| search(word).into_iter().map(|e| e.name).collect::<Vec<_>>();
        assert_eq!(found("store")[0], "store");
        assert_eq!(found("Database"), ["store"]);
        assert!(found("tide").contains(&"wave") && found("networks").len() >= 10);
        assert!(found("no such thing").is_empty());
    }

    #[test]
    fn every_file_is_listed_and_keeps_to_the_grid_and_the_stroke() {
        let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("icons");
        let mut there = 0;
        for folder in std::fs::read_dir(root).expect("categories").flatten() {
            there += std::fs::read_dir(folder.path()).expect("files").count();
        }
        assert_eq!(there, SOURCES.len());
        for (_, name, source) in SOURCES {
            let xml = roxmltree::Document::parse(source).expect(name);
            let root = xml.root_element();
            assert_eq!(root.attribute("viewBox"), Some("0 0 24 24"), "{name}");
            assert_eq!((root.attribute("stroke-width"), root.attribute("fill")), (Some("1.5"), Some("none")), "{name}");
            let title = root.children().find(|c| c.has_tag_name("title")).and_then(|t| t.text());
            assert_eq!(title, Some(*name));
            let path = read::strokes(source);
            assert!(path.0.len() > 2, "{name} is empty");
            for cmd in &path.0 {
                if let Cmd::Move(p) | Cmd::Line(p) | Cmd::Curve(_, _, p) = cmd {
                    assert!((1.0..=23.2).contains(&p.x) && (1.0..=23.2).contains(&p.y), "{name} {p:?}");
                }
            }
        }
    }
}

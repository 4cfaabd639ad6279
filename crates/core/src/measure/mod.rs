//! Text to sizes. Input: labels and fonts. Output: lines of text with widths in px, measured with the
//! very fonts that are drawn. Guarantees: shaped widths (kerning included); letters that the fonts
//! lack are given generous room by their Unicode width.

mod wrap;

pub use wrap::{Script, TextBlock, TextLine, TextSpan, wrap};

use rustybuzz::{Direction, ShapePlan};
use std::collections::HashMap;
use std::sync::Mutex;
use unicode_width::UnicodeWidthChar;

/// The faces that ship with the program.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub enum Face {
    /// The sans, upright.
    #[default]
    Regular,
    /// The sans, semi-bold.
    Bold,
    /// The sans, italic.
    Italic,
    /// The sans, semi-bold italic.
    BoldItalic,
    /// The mono.
    Mono,
}

/// All faces, in the order of their numbers.
pub const FACES: [Face; 5] = [Face::Regular, Face::Bold, Face::Italic, Face::BoldItalic, Face::Mono];

impl Face {
    /// Its font file.
    pub fn file(self) -> &'static [u8] {
        self.files().0
    }

    /// Its printable ASCII letters as a font file: what most drawings embed. A test of `svg::fonts` holds it against the
    /// whole file.
    pub fn ascii_file(self) -> &'static [u8] {
        self.files().1
    }

    /// The whole file, and that of the printable ASCII letters.
    fn files(self) -> (&'static [u8], &'static [u8]) {
        macro_rules! files {
            ($name:literal) => {
                (include_bytes!(concat!("../../fonts/", $name)), include_bytes!(concat!("../../fonts/ascii/", $name)))
            };
        }
        match self {
            Face::Regular => files!("fira-sans-regular.ttf"),
            Face::Bold => files!("fira-sans-semibold.ttf"),
            Face::Italic => files!("fira-sans-italic.ttf"),
            Face::BoldItalic => files!("fira-sans-semibold-italic.ttf"),
            Face::Mono => files!("fira-mono-regular.ttf"),
        }
    }

    /// The family's name in drawings.
    pub fn family(self) -> &'static str {
        if self == Face::Mono { "Fira Mono" } else { "Fira Sans" }
    }

    /// The weight in drawings, as CSS counts it.
    pub fn weight(self) -> u16 {
        if matches!(self, Face::Bold | Face::BoldItalic) { 600 } else { 400 }
    }

    /// Whether it is slanted.
    pub fn is_italic(self) -> bool {
        matches!(self, Face::Italic | Face::BoldItalic)
    }

    /// The slanted face of the same weight.
    pub fn italic(self) -> Face {
        match self {
            Face::Bold | Face::BoldItalic => Face::BoldItalic,
            Face::Mono => Face::Mono,
            _ => Face::Italic,
        }
    }

    /// The semi-bold face of the same slant.
    pub fn bold(self) -> Face {
        match self {
            Face::Italic | Face::BoldItalic => Face::BoldItalic,
            Face::Mono => Face::Mono,
            _ => Face::Bold,
        }
    }
}

/// The opened faces, with what was measured before.
pub struct Fonts {
    faces: Vec<rustybuzz::Face<'static>>,
    known: Mutex<Vec<Known>>,
}

/// What is known of one face.
#[derive(Default)]
struct Known {
    /// Advances of words, in em.
    widths: HashMap<String, f64>,
    /// How to shape letters of a direction and a script.
    plans: Vec<(Direction, rustybuzz::Script, ShapePlan)>,
}

impl Default for Fonts {
    fn default() -> Self {
        Self::new()
    }
}

impl Fonts {
    /// Opens the faces.
    pub fn new() -> Self {
        let faces: Vec<_> = FACES.iter().filter_map(|f| rustybuzz::Face::from_slice(f.file(), 0)).collect();
        let known = faces.iter().map(|_| Known::default()).collect();
        Self { faces, known: Mutex::new(known) }
    }

    /// The advance of a text in one face at a size, in px: that of its words, since no letter is kerned with a space.
    pub fn width(&self, text: &str, face: Face, size: f64) -> f64 {
        let Some(opened) = self.faces.get(face as usize) else {
            return text.chars().count() as f64 * 0.6 * size;
        };
        let mut known = self.known.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let known = &mut known[face as usize];
        let space = known.width(" ", opened);
        let words = text.split(' ').filter(|word| !word.is_empty()).map(|word| known.width(word, opened)).sum::<f64>();
        (words + space * text.matches(' ').count() as f64) * size
    }

    /// Whether a face has a letter.
    pub fn has(&self, c: char, face: Face) -> bool {
        self.faces.get(face as usize).is_some_and(|f| f.glyph_index(c).is_some())
    }
}

impl Known {
    fn width(&mut self, word: &str, face: &rustybuzz::Face<'_>) -> f64 {
        if let Some(width) = self.widths.get(word) {
            return *width;
        }
        let width = self.shape(word, face);
        self.widths.insert(word.to_owned(), width);
        width
    }

    /// The advance in em.
    fn shape(&mut self, word: &str, face: &rustybuzz::Face<'_>) -> f64 {
        let mut buffer = rustybuzz::UnicodeBuffer::new();
        buffer.push_str(word);
        buffer.guess_segment_properties();
        let (direction, script) = (buffer.direction(), buffer.script());
        let own = self.plans.iter().position(|(d, s, _)| *d == direction && *s == script);
        let own = own.unwrap_or_else(|| {
            let plan = ShapePlan::new(face, direction, Some(script), None, &[]);
            self.plans.push((direction, script, plan));
            self.plans.len() - 1
        });
        let shaped = rustybuzz::shape_with_plan(face, &self.plans[own].2, buffer);
        let em = f64::from(face.units_per_em());
        shaped
            .glyph_infos()
            .iter()
            .zip(shaped.glyph_positions())
            .map(|(info, place)| match (info.glyph_id, word[info.cluster as usize..].chars().next()) {
                (0, Some(c)) => fallback(c),
                _ => f64::from(place.x_advance) / em,
            })
            .sum()
    }
}

/// Room for a letter that no face has, in em: East Asian wide letters are square.
fn fallback(c: char) -> f64 {
    match c.width() {
        Some(0) | None => 0.0,
        Some(2) => 1.0,
        _ if c.is_alphabetic() => 0.75,
        _ => 1.0,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn widths_are_shaped() {
        let fonts = Fonts::new();
        let apart = fonts.width("A", Face::Regular, 100.0) + fonts.width("V", Face::Regular, 100.0);
        let together = fonts.width("AV", Face::Regular, 100.0);
        assert!(together < apart - 1.0, "kerning: {together} {apart}");
        assert!(fonts.width("Tide", Face::Bold, 14.0) > fonts.width("Tide", Face::Regular, 14.0));
    }

    #[test]
    fn words_and_spaces_are_as_wide_as_the_text_shaped_at_once() {
        let fonts = Fonts::new();
        let texts = [
            "+ level(at: Time): Metres [0..1]",
            "  To  AV 4711, 12:30",
            "Γειά σου κόσμε",
            "Привет, fjord",
            "שלום 4 עולם",
            "a",
        ];
        for face in FACES {
            let opened = &fonts.faces[face as usize];
            for text in texts.iter().map(|t| (*t).to_owned()).chain((' '..='~').map(|c| format!("{c} T {c}"))) {
                let mut buffer = rustybuzz::UnicodeBuffer::new();
                buffer.push_str(&text);
                let shaped = rustybuzz::shape(opened, &[], buffer);
                if shaped.glyph_infos().iter().any(|g| g.glyph_id == 0) {
                    continue;
                }
                let advance: i32 = shaped.glyph_positions().iter().map(|p| p.x_advance).sum();
                let whole = f64::from(advance) / f64::from(opened.units_per_em());
                let told = fonts.width(&text, face, 1.0);
                assert!((told - whole).abs() < 1e-9, "{face:?} {text}: {told} {whole}");
            }
        }
    }

    #[test]
    fn missing_letters_get_room() {
        let fonts = Fonts::new();
        assert_eq!(fonts.width("潮", Face::Regular, 10.0), 10.0);
        assert!(fonts.width("🌊", Face::Regular, 10.0) >= 10.0);
    }
}

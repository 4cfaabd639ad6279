//! Text to sizes. Input: labels and fonts. Output: lines of text with widths in px, measured with the
//! very fonts that are drawn. Guarantees: shaped widths (kerning included); letters that the fonts
//! lack are given generous room by their Unicode width.

mod wrap;

pub use wrap::{Script, TextBlock, TextLine, TextSpan, wrap};

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
        match self {
            Face::Regular => include_bytes!("../../fonts/fira-sans-regular.ttf"),
            Face::Bold => include_bytes!("../../fonts/fira-sans-semibold.ttf"),
            Face::Italic => include_bytes!("../../fonts/fira-sans-italic.ttf"),
            Face::BoldItalic => include_bytes!("../../fonts/fira-sans-semibold-italic.ttf"),
            Face::Mono => include_bytes!("../../fonts/fira-mono-regular.ttf"),
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
    widths: Mutex<HashMap<(Face, String), f64>>,
}

impl Default for Fonts {
    fn default() -> Self {
        Self::new()
    }
}

impl Fonts {
    /// Opens the faces.
    pub fn new() -> Self {
        let faces = FACES.iter().filter_map(|f| rustybuzz::Face::from_slice(f.file(), 0)).collect();
        Self { faces, widths: Mutex::new(HashMap::new()) }
    }

    /// The advance of a text in one face at a size, in px.
    pub fn width(&self, text: &str, face: Face, size: f64) -> f64 {
        let mut known = self.widths.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        if let Some(width) = known.get(&(face, text.to_owned())) {
            return width * size;
        }
        let width = self.shape(text, face);
        known.insert((face, text.to_owned()), width);
        width * size
    }

    /// The advance in em.
    fn shape(&self, text: &str, face: Face) -> f64 {
        let Some(face) = self.faces.get(face as usize) else {
            return text.chars().count() as f64 * 0.6;
        };
        let mut buffer = rustybuzz::UnicodeBuffer::new();
        buffer.push_str(text);
        buffer.guess_segment_properties();
        let shaped = rustybuzz::shape(face, &[], buffer);
        let em = f64::from(face.units_per_em());
        shaped
            .glyph_infos()
            .iter()
            .zip(shaped.glyph_positions())
            .map(|(info, place)| match (info.glyph_id, text[info.cluster as usize..].chars().next()) {
                (0, Some(c)) => fallback(c),
                _ => f64::from(place.x_advance) / em,
            })
            .sum()
    }

    /// Whether a face has a letter.
    pub fn has(&self, c: char, face: Face) -> bool {
        self.faces.get(face as usize).is_some_and(|f| f.glyph_index(c).is_some())
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
    fn missing_letters_get_room() {
        let fonts = Fonts::new();
        assert_eq!(fonts.width("潮", Face::Regular, 10.0), 10.0);
        assert!(fonts.width("🌊", Face::Regular, 10.0) >= 10.0);
    }
}

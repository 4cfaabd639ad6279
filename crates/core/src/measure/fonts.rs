//! The opened faces, and the widths of texts in them.

use super::face::{FACES, Face};
use super::page::Page;
use rustybuzz::{Direction, ShapePlan};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Mutex;
use unicode_width::UnicodeWidthChar;

/// The opened faces, with what was measured before.
pub struct Fonts {
    faces: Vec<rustybuzz::Face<'static>>,
    files: Vec<&'static [u8]>,
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
    /// Opens the faces, whole.
    pub fn new() -> Self {
        Self::opened(FACES.iter().map(|face| face.file()).collect())
    }

    /// Opens of each face the smallest page that holds some letters. Its glyphs have other numbers than those of the whole.
    pub fn holding(letters: &BTreeMap<Face, BTreeSet<char>>) -> Self {
        let page = |face: &Face| Page::holding(*face, letters.get(face).into_iter().flatten().copied());
        Self::opened(FACES.iter().map(|face| face.page(page(face))).collect())
    }

    fn opened(files: Vec<&'static [u8]>) -> Self {
        let faces: Vec<_> = files.iter().filter_map(|file| rustybuzz::Face::from_slice(file, 0)).collect();
        let known = faces.iter().map(|_| Known::default()).collect();
        Self { faces, files, known: Mutex::new(known) }
    }

    /// The file of a face, as far as it is opened.
    pub fn file(&self, face: Face) -> &'static [u8] {
        self.files[face as usize]
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

    /// An opened face.
    pub(super) fn face(&self, face: Face) -> Option<&rustybuzz::Face<'static>> {
        self.faces.get(face as usize)
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
                let shown = fonts.width(&text, face, 1.0);
                assert!((shown - whole).abs() < 1e-9, "{face:?} {text}: {shown} {whole}");
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

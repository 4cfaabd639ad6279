//! The opened faces, and the widths of texts in them.

use super::face::{FACES, Face, Lettering};
use super::font_face::FontFace;
use super::page::Page;
use rustybuzz::{Direction, ShapePlan};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::{Mutex, OnceLock};
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthChar;

/// The faces, opened when they are needed, with what was measured before.
pub struct Fonts {
    opened: [OnceLock<Option<FontFace<'static>>>; FACES.len()],
    pages: [Page; FACES.len()],
    lettering: Lettering,
    known: Mutex<[Known; FACES.len()]>,
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
    /// The faces, whole.
    pub fn new() -> Self {
        Self::in_pages([Page::Whole; FACES.len()])
    }

    /// Of each face the smallest page that holds some letters. Its glyphs have other numbers than those of the whole.
    pub fn holding(letters: &BTreeMap<Face, BTreeSet<char>>) -> Self {
        Self::in_pages(FACES.map(|face| Page::holding(face, letters.get(&face).into_iter().flatten().copied())))
    }

    fn in_pages(pages: [Page; FACES.len()]) -> Self {
        Self { opened: Default::default(), pages, lettering: Lettering::Plain, known: Mutex::default() }
    }

    /// The same with other faces in which labels are written.
    pub fn lettered(self, lettering: Lettering) -> Self {
        Self { lettering, ..self }
    }

    /// The face in which texts of a face are written.
    pub fn cast(&self, face: Face) -> Face {
        self.lettering.cast(face)
    }

    /// The file of a face, as far as it is opened.
    pub fn file(&self, face: Face) -> &'static [u8] {
        face.page(self.pages[face as usize])
    }

    /// The advance of a text in one face at a size, in px: that of its words, since no letter is kerned with a space.
    pub fn width(&self, text: &str, face: Face, size: f64) -> f64 {
        let Some(opened) = self.face(face) else {
            return text.chars().count() as f64 * 0.6 * size;
        };
        let mut known = self.known.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let known = &mut known[face as usize];
        let space = known.width(" ", opened);
        let words = text.split(' ').filter(|word| !word.is_empty()).map(|word| known.width(word, opened)).sum::<f64>();
        (words + space * text.matches(' ').count() as f64) * size
    }

    /// An opened face.
    pub fn face(&self, face: Face) -> Option<&FontFace<'static>> {
        let open = || FontFace::open(self.file(face), 0);
        self.opened[face as usize].get_or_init(open).as_ref()
    }

    /// Whether a face has a letter.
    pub fn has(&self, c: char, face: Face) -> bool {
        self.face(face).is_some_and(|f| f.has(c))
    }
}

impl Known {
    fn width(&mut self, word: &str, face: &FontFace<'_>) -> f64 {
        if let Some(width) = self.widths.get(word) {
            return *width;
        }
        let width = self.shape(word, face);
        self.widths.insert(word.to_owned(), width);
        width
    }

    /// The advance in em. What the face lacks has room for the letters of another font.
    fn shape(&mut self, word: &str, face: &FontFace<'_>) -> f64 {
        if word.is_ascii() || face.draws(word) {
            return self.shape_known(word, face.shaper());
        }
        // Letters that the face has are shaped together, up to the next that it lacks.
        let (mut width, mut begin) = (0.0, 0);
        for (at, cluster) in word.grapheme_indices(true).filter(|(_, cluster)| !face.draws(cluster)) {
            if begin < at {
                width += self.shape_known(&word[begin..at], face.shaper());
            }
            width += estimate(cluster);
            begin = at + cluster.len();
        }
        width + if begin < word.len() { self.shape_known(&word[begin..], face.shaper()) } else { 0.0 }
    }

    fn shape_known(&mut self, word: &str, face: &rustybuzz::Face<'_>) -> f64 {
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
        let advance: i32 = shaped.glyph_positions().iter().map(|place| place.x_advance).sum();
        f64::from(advance) / f64::from(face.units_per_em())
    }
}

/// Room for letters that belong together and that the face lacks, in em: what wide fonts of their script need, whichever the
/// reader has.
// Measured in bold DejaVu, Noto and Liberation: a test holds these figures against what Chromium draws.
fn estimate(cluster: &str) -> f64 {
    let is_sign = cluster.chars().any(|c| matches!(c, '\u{1f000}'..='\u{1faff}' | '\u{fe0f}'));
    if is_sign { 1.4 } else { cluster.chars().map(room).sum() }
}

/// Room for a letter, in em: East Asian wide letters are square.
fn room(c: char) -> f64 {
    match (c.width(), c) {
        (Some(0) | None, _) => 0.0,
        (Some(2), _) => 1.0,
        (_, '\u{590}'..='\u{5ff}') => 0.72,
        (_, '\u{e00}'..='\u{eff}') => 0.72,
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
            let opened = fonts.face(face).expect("a face").shaper();
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

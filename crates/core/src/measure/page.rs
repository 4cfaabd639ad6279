//! Pages: parts of the fonts, cut once (`scripts/fonts.py`) and shipped. A drawing embeds the smallest page that holds its
//! letters, so that small edits do not change it, and nothing is cut while it is drawn.

use super::face::Face;
use rustybuzz::ttf_parser;
use std::sync::OnceLock;

/// A part of the letters of a face.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Page {
    /// Printable ASCII.
    Ascii,
    /// The same with the signs that drawings use most: dashes, guillemets, arrows, multiplication.
    Signs,
    /// Western European languages and mathematical signs.
    Western,
    /// The same with the other European languages in Latin letters.
    Latin,
    /// Western and Greek letters.
    Greek,
    /// Western and Cyrillic letters.
    Cyrillic,
    /// All that the face has.
    Whole,
}

type Ranges = &'static [(u32, u32)];

const SIGNS: Ranges = &[
    (0x20, 0x7e),
    (0xab, 0xab),
    (0xb0, 0xb1),
    (0xb7, 0xb7),
    (0xbb, 0xbb),
    (0xd7, 0xd7),
    (0x2013, 0x2014),
    (0x2018, 0x2019),
    (0x201c, 0x201d),
    (0x2026, 0x2026),
    (0x2190, 0x2193),
    (0x2212, 0x2212),
    (0x221e, 0x221e),
    (0x2264, 0x2265),
];
const WESTERN: Ranges = &[
    (0x20, 0x7e),
    (0xa0, 0xff),
    (0x2010, 0x2026),
    (0x2030, 0x203a),
    (0x20ac, 0x20ac),
    (0x2122, 0x2122),
    (0x2190, 0x2193),
    (0x2202, 0x2265),
];
const LATIN: Ranges = &[(0x100, 0x17f), (0x2070, 0x208e)];
const GREEK: Ranges = &[(0x370, 0x3ff)];
const CYRILLIC: Ranges = &[(0x400, 0x45f), (0x490, 0x491), (0x2116, 0x2116)];

impl Page {
    /// All of them, the smaller ones first.
    pub const ALL: [Page; 7] =
        [Page::Ascii, Page::Signs, Page::Western, Page::Latin, Page::Cyrillic, Page::Greek, Page::Whole];

    /// The smallest page that holds these letters, as far as the face has them at all.
    pub fn holding(face: Face, letters: impl IntoIterator<Item = char>) -> Page {
        let opened = opened(face);
        let has = |c: &char| opened.is_some_and(|f| f.glyph_index(*c).is_some());
        let letters: Vec<char> = letters.into_iter().filter(|c| !c.is_ascii() && has(c)).collect();
        let holds = |page: &Page| letters.iter().all(|c| page.has(*c));
        Page::ALL.into_iter().find(holds).unwrap_or(Page::Whole)
    }

    fn has(self, letter: char) -> bool {
        let is_in = |ranges: Ranges| ranges.iter().any(|(low, high)| (*low..=*high).contains(&u32::from(letter)));
        match self {
            Page::Ascii => letter.is_ascii(),
            Page::Signs => is_in(SIGNS),
            Page::Western => is_in(WESTERN),
            Page::Latin => is_in(WESTERN) || is_in(LATIN),
            Page::Greek => is_in(WESTERN) || is_in(GREEK),
            Page::Cyrillic => is_in(WESTERN) || is_in(CYRILLIC),
            Page::Whole => true,
        }
    }
}

/// A whole face, opened once.
fn opened(face: Face) -> Option<&'static ttf_parser::Face<'static>> {
    static OPENED: [OnceLock<Option<ttf_parser::Face<'static>>>; 5] = [const { OnceLock::new() }; 5];
    OPENED[face as usize].get_or_init(|| ttf_parser::Face::parse(face.file(), 0).ok()).as_ref()
}

#[cfg(test)]
mod tests {
    use super::super::{FACES, Fonts};
    use super::*;

    #[test]
    fn the_smallest_page_is_taken() {
        let page = |text: &str| Page::holding(Face::Regular, text.chars());
        assert_eq!(page("Tide 4 m"), Page::Ascii);
        assert_eq!(page("«buoy» 3 × 4 → 12"), Page::Signs);
        assert_eq!(page("Größe, été"), Page::Western);
        assert_eq!(page("Łódź"), Page::Latin);
        assert_eq!(page("Κύμα"), Page::Greek);
        assert_eq!(page("Прилив"), Page::Cyrillic);
        assert_eq!(page("Прилив Κύμα"), Page::Whole);
        assert_eq!(page("潮汐"), Page::Ascii, "what the face lacks needs no page");
    }

    #[test]
    fn pages_hold_what_they_say_with_the_widths_and_the_kerning_of_the_whole() {
        let fonts = Fonts::new();
        for face in FACES {
            let whole = opened(face).expect("a face");
            for page in Page::ALL {
                let cut = rustybuzz::Face::from_slice(face.page(page), 0).expect("a font");
                for c in (0x20..0x2300).filter_map(char::from_u32).filter(|c| whole.glyph_index(*c).is_some()) {
                    let is_there = cut.glyph_index(c).is_some();
                    assert!(is_there || !page.has(c), "{face:?} {page:?} lacks {c}");
                }
                let mut buffer = rustybuzz::UnicodeBuffer::new();
                buffer.push_str("AV To");
                let shaped = rustybuzz::shape(&cut, &[], buffer);
                let advance: i32 = shaped.glyph_positions().iter().map(|p| p.x_advance).sum();
                let advance = f64::from(advance) / f64::from(cut.units_per_em());
                assert!((advance - fonts.glyphs("AV To", face).1).abs() < 1e-6, "{face:?} {page:?}");
            }
        }
    }
}

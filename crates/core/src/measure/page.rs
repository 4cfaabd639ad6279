//! Pages: parts of the fonts, cut once (`scripts/fonts.py`) and shipped. A drawing embeds the smallest page that holds its
//! letters, so that small edits do not change it, and nothing is cut while it is drawn.

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

    /// Whether a letter belongs to it.
    pub(super) fn has(self, letter: char) -> bool {
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

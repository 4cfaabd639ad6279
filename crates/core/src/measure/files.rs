//! The font files that ship with the program: whole faces, and their pages.

use super::face::{FACES, Face};
use super::page::Page;
use rustybuzz::ttf_parser;
use std::sync::OnceLock;

impl Face {
    /// Its font file.
    pub fn file(self) -> &'static [u8] {
        self.page(Page::Whole)
    }

    /// A part of its letters as a font file.
    pub fn page(self, page: Page) -> &'static [u8] {
        self.files(page)[0]
    }

    /// The same for pages and pictures that browsers show (WOFF 2.0), less than half as large.
    pub fn web_page(self, page: Page) -> &'static [u8] {
        self.files(page)[1]
    }

    fn files(self, page: Page) -> [&'static [u8]; 2] {
        macro_rules! files {
            ($name:literal, $folder:literal, $ending:literal, $page:literal) => {
                [
                    include_bytes!(concat!("../../fonts/", $folder, $name, $ending, ".ttf")),
                    include_bytes!(concat!("../../fonts/web/", $name, "-", $page, ".woff2")),
                ]
            };
        }
        macro_rules! pages {
            ($name:literal) => {
                match page {
                    Page::Ascii => files!($name, "ascii/", "", "ascii"),
                    Page::Signs => files!($name, "pages/", "-signs", "signs"),
                    Page::Western => files!($name, "pages/", "-western", "western"),
                    Page::Latin => files!($name, "pages/", "-latin", "latin"),
                    Page::Greek => files!($name, "pages/", "-greek", "greek"),
                    Page::Cyrillic => files!($name, "pages/", "-cyrillic", "cyrillic"),
                    Page::Whole => files!($name, "", "", "whole"),
                }
            };
        }
        match self {
            Face::Regular => pages!("fira-sans-regular"),
            Face::Bold => pages!("fira-sans-semibold"),
            Face::Italic => pages!("fira-sans-italic"),
            Face::BoldItalic => pages!("fira-sans-semibold-italic"),
            Face::Mono => pages!("fira-mono-regular"),
            Face::Hand => pages!("kalam-regular"),
            Face::HandBold => pages!("kalam-bold"),
        }
    }
}

impl Page {
    /// The smallest page that holds these letters, as far as the face has them at all.
    pub fn holding(face: Face, letters: impl IntoIterator<Item = char>) -> Page {
        let opened = opened(face);
        let has = |c: &char| opened.is_some_and(|f| f.glyph_index(*c).is_some());
        let letters: Vec<char> = letters.into_iter().filter(|c| !c.is_ascii() && has(c)).collect();
        let holds = |page: &Page| letters.iter().all(|c| page.has(*c));
        Page::ALL.into_iter().find(holds).unwrap_or(Page::Whole)
    }
}

/// A whole face, opened once.
fn opened(face: Face) -> Option<&'static ttf_parser::Face<'static>> {
    static OPENED: [OnceLock<Option<ttf_parser::Face<'static>>>; FACES.len()] =
        [const { OnceLock::new() }; FACES.len()];
    OPENED[face as usize].get_or_init(|| ttf_parser::Face::parse(face.file(), 0).ok()).as_ref()
}

#[cfg(test)]
mod tests {
    use super::super::Fonts;
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
                assert!((advance - fonts.width("AV To", face, 1.0)).abs() < 1e-6, "{face:?} {page:?}");
            }
        }
    }
}

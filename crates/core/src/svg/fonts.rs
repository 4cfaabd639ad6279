//! The glyphs that a drawing uses, embedded: of each face the smallest page that holds its letters.

use crate::measure::{Face, Page};
use base64::Engine;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::fmt::Write;
use std::sync::{Arc, Mutex};

/// Pages as text, made once.
#[derive(Default)]
pub struct FontCache {
    made: Mutex<HashMap<(Face, Page), Arc<str>>>,
}

impl FontCache {
    /// Writes a style sheet that holds the faces in use.
    pub(super) fn style_sheet(&self, letters: &BTreeMap<Face, BTreeSet<char>>, out: &mut String) {
        if letters.is_empty() {
            return;
        }
        out.push_str("<style>");
        self.faces(letters, out);
        out.push_str("</style>\n");
    }

    /// Writes the rules that hold the faces in use.
    pub(super) fn faces(&self, letters: &BTreeMap<Face, BTreeSet<char>>, out: &mut String) {
        for (face, used) in letters {
            let _ = write!(
                out,
                "@font-face{{font-family:'{}';font-weight:{};font-style:{};src:url(data:font/woff2;base64,{}) format('woff2')}}",
                face.family(),
                face.weight(),
                if face.is_italic() { "italic" } else { "normal" },
                self.page(*face, Page::holding(*face, used.iter().copied()))
            );
        }
    }

    fn page(&self, face: Face, page: Page) -> Arc<str> {
        let mut made = self.made.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let text = || base64::engine::general_purpose::STANDARD.encode(face.web_page(page)).into();
        made.entry((face, page)).or_insert_with(text).clone()
    }
}

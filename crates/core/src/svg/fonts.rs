//! The glyphs that a drawing uses, embedded. A subset always holds printable ASCII, other letters as
//! used, so that small edits don't change it.

use crate::measure::Face;
use base64::Engine;
use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::fmt::Write;
use std::sync::{Arc, Mutex};
use write_fonts::read::FontRef;
use write_fonts::read::collections::IntSet;
use write_fonts::types::{GlyphId, NameId, Tag};

/// Subsets made before, by face and by the letters beyond ASCII.
#[derive(Default)]
pub struct FontCache {
    made: Mutex<HashMap<(Face, String), Arc<str>>>,
}

impl FontCache {
    /// Writes a style sheet that holds the faces in use.
    pub(super) fn style_sheet(&self, letters: &BTreeMap<Face, BTreeSet<char>>, out: &mut String) {
        if letters.is_empty() {
            return;
        }
        out.push_str("<style>");
        for (face, used) in letters {
            let extra: String = used.iter().filter(|c| !c.is_ascii()).collect();
            let _ = write!(
                out,
                "@font-face{{font-family:'{}';font-weight:{};font-style:{};src:url(data:font/ttf;base64,{}) format('truetype')}}",
                face.family(),
                face.weight(),
                if face.is_italic() { "italic" } else { "normal" },
                self.subset(*face, extra)
            );
        }
        out.push_str("</style>\n");
    }

    fn subset(&self, face: Face, extra: String) -> Arc<str> {
        let key = (face, extra);
        let known = |m: &Mutex<HashMap<_, Arc<str>>>| {
            m.lock().unwrap_or_else(std::sync::PoisonError::into_inner).get(&key).cloned()
        };
        if let Some(made) = known(&self.made) {
            return made;
        }
        let bytes = match key.1.as_str() {
            "" => Cow::Borrowed(face.ascii_file()),
            extra => subset(face, extra).map_or(Cow::Borrowed(face.file()), Cow::Owned),
        };
        let made: Arc<str> = base64::engine::general_purpose::STANDARD.encode(bytes).into();
        self.made.lock().unwrap_or_else(std::sync::PoisonError::into_inner).insert(key, made.clone());
        made
    }
}

/// Printable ASCII and some more letters of a face, as a font file with its kerning.
fn subset(face: Face, extra: &str) -> Option<Vec<u8>> {
    let font = FontRef::new(face.file()).ok()?;
    let mut unicodes = IntSet::<u32>::empty();
    unicodes.insert_range(0x20..=0x7e);
    unicodes.extend(extra.chars().map(u32::from));
    let tags = |list: &[&[u8; 4]]| list.iter().map(|t| Tag::new(t)).collect::<IntSet<Tag>>();
    let mut scripts = IntSet::<Tag>::empty();
    scripts.invert();
    let mut names = IntSet::<NameId>::empty();
    names.insert_range(NameId::from(1)..=NameId::from(2));
    let mut languages = IntSet::<u16>::empty();
    languages.insert(0x0409);
    let plan = skera::Plan::new(
        &IntSet::<GlyphId>::empty(),
        &unicodes,
        &font,
        skera::SubsetFlags::default() | skera::SubsetFlags::SUBSET_FLAGS_NO_HINTING,
        &tags(&[b"DSIG", b"GSUB"]),
        &scripts,
        &tags(&[b"kern", b"mark", b"mkmk"]),
        &names,
        &languages,
    );
    skera::subset_font(&font, &plan).ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::FACES;

    /// `WRITE_FONTS=1 cargo test -p bathygram-core svg::fonts` writes the files anew where a font has changed.
    #[test]
    #[allow(clippy::disallowed_methods, reason = "the files are the core's own")]
    fn the_files_of_ascii_letters_are_subsets_of_the_whole_files() {
        let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/fonts/ascii/");
        let names = ["sans-regular", "sans-semibold", "sans-italic", "sans-semibold-italic", "mono-regular"];
        for (face, name) in FACES.into_iter().zip(names) {
            let bytes = subset(face, "").expect("a subset");
            if std::env::var_os("WRITE_FONTS").is_some() {
                std::fs::write(format!("{folder}fira-{name}.ttf"), &bytes).expect("written");
            } else {
                assert!(bytes == face.ascii_file(), "{face:?}");
            }
        }
    }

    #[test]
    fn subsets_are_small_and_hold_what_is_used() {
        let bytes = subset(Face::Regular, "é→").expect("a subset");
        assert!(bytes.len() < 40_000, "{}", bytes.len());
        let face = rustybuzz::ttf_parser::Face::parse(&bytes, 0).expect("a font");
        for c in ['a', 'Z', '~', 'é', '→'] {
            assert!(face.glyph_index(c).is_some(), "{c}");
        }
        assert!(face.glyph_index('Ж').is_none());
        assert!(face.tables().gpos.is_some(), "kerning is kept");
    }
}

//! Fonts that do not ship with the program, for letters that the shipped ones lack.

use super::face::Face;
use super::font_face::FontFace;
use super::fonts::Fonts;
use crate::source::{Source, Span};
use crate::syntax::{TokenKind, Tree};
use std::collections::BTreeMap;
use std::sync::Arc;
use unicode_segmentation::UnicodeSegmentation;

/// A face of a font file.
#[derive(Clone, Debug)]
pub struct SpareFont {
    /// The file.
    pub file: Arc<[u8]>,
    /// The number of the face in it.
    pub number: u32,
    /// Whether its letters are bold.
    pub is_bold: bool,
}

/// Faces, the preferred ones first.
#[derive(Clone, Debug, Default)]
pub struct SpareFonts(Vec<SpareFont>);

impl SpareFonts {
    /// Faces, the preferred ones first; what is no font is left out.
    pub fn new(fonts: Vec<SpareFont>) -> Self {
        Self(fonts.into_iter().filter(|font| FontFace::open(&font.file, font.number).is_some()).collect())
    }

    /// Opens them.
    pub fn open(&self) -> Opened<'_> {
        Opened(self.0.iter().filter_map(|f| Some((FontFace::open(&f.file, f.number)?, f.is_bold))).collect())
    }
}

/// Faces that are opened, in their order, and whether each is bold.
pub struct Opened<'a>(Vec<(FontFace<'a>, bool)>);

impl<'a> Opened<'a> {
    /// The face of a number.
    pub fn face(&self, number: usize) -> Option<&FontFace<'a>> {
        self.0.get(number).map(|(face, _)| face)
    }

    /// The face for letters that belong together: one of the wanted weight rather than another.
    pub fn find(&self, cluster: &str, is_bold: bool) -> Option<usize> {
        let able = |(_, (face, _)): &(usize, &(FontFace<'_>, bool))| face.draws(cluster);
        let able = || self.0.iter().enumerate().filter(able);
        able().find(|(_, (_, bold))| *bold == is_bold).or_else(|| able().next()).map(|(number, _)| number)
    }
}

/// What a reader sees as one letter, with its marks.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Cluster {
    /// Its letters.
    pub text: String,
    /// Whether it is bold.
    pub is_bold: bool,
}

impl Fonts {
    /// What a text in a face holds that no shipped font can draw.
    pub fn lacking<'t>(&self, text: &'t str, face: Face) -> impl Iterator<Item = &'t str> {
        let clusters = (!text.is_ascii()).then(|| text.graphemes(true)).into_iter().flatten();
        clusters.filter(move |cluster| self.shipped(cluster, face).is_none())
    }

    /// The shipped face that draws letters which belong together: the wanted one, or the sans of its weight.
    pub fn shipped(&self, cluster: &str, face: Face) -> Option<Face> {
        [face, face.sans()].into_iter().find(|face| self.face(*face).is_some_and(|opened| opened.draws(cluster)))
    }
}

/// What a text holds that no shipped font can draw, with where it stands first. Comments are not drawn.
pub fn unshipped(source: &Source, tree: &Tree, fonts: &Fonts) -> BTreeMap<String, Span> {
    let mut found = BTreeMap::new();
    if source.text.is_ascii() {
        return found;
    }
    for token in tree.tokens.iter().filter(|token| token.kind != TokenKind::Comment) {
        let text = source.slice(token.span);
        for cluster in fonts.lacking(text, Face::Regular) {
            let start = token.span.start + (cluster.as_ptr() as usize - text.as_ptr() as usize) as u32;
            let span = Span { start, end: start + cluster.len() as u32, ..token.span };
            found.entry(cluster.to_owned()).or_insert(span);
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::diag::Diagnostics;
    use crate::syntax::parse;

    #[test]
    fn letters_are_found_where_they_stand_first() {
        let source = Source::new("t.bathy", "flow f // \u{e000}\n  \"Größe 潮, 潮 汐\"\n");
        let tree = parse(&source, &mut Diagnostics::default());
        let found = unshipped(&source, &tree, &Fonts::new());
        let at: Vec<(&str, u32)> = found.iter().map(|(letter, span)| (letter.as_str(), span.start)).collect();
        assert_eq!(at, [("汐", 34), ("潮", 25)]);
    }
}

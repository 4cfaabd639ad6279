//! The faces that ship with the program.

use schemars::JsonSchema;
use serde::Deserialize;

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
    /// The hand-like one.
    Hand,
    /// The hand-like one, bold.
    HandBold,
}

/// All faces, in the order of their numbers.
pub const FACES: [Face; 7] =
    [Face::Regular, Face::Bold, Face::Italic, Face::BoldItalic, Face::Mono, Face::Hand, Face::HandBold];

/// Which faces a picture is written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Lettering {
    /// The sans.
    #[default]
    Plain,
    /// The hand-like faces, as far as they have the letters.
    Hand,
}

impl Lettering {
    /// The face that stands for one of the sans.
    pub(super) fn cast(self, face: Face) -> Face {
        match (self, face) {
            (Lettering::Hand, Face::Regular | Face::Italic) => Face::Hand,
            (Lettering::Hand, Face::Bold | Face::BoldItalic) => Face::HandBold,
            _ => face,
        }
    }

    /// The face of most texts.
    pub fn main(self) -> Face {
        self.cast(Face::Regular)
    }
}

impl Face {
    /// The family's name in drawings.
    pub fn family(self) -> &'static str {
        match self {
            Face::Mono => "Fira Mono",
            Face::Hand | Face::HandBold => "Kalam",
            _ => "Fira Sans",
        }
    }

    /// The same with what a viewer takes instead if it ignores embedded fonts: families of nearly the same widths.
    // Measured on the texts of the demo, Arial and Liberation Sans are 0.98 times as wide as Fira Sans, the condensed DejaVu
    // Sans 1.00 times; what most viewers take for `sans-serif` is 1.12 times as wide.
    pub fn families(self) -> &'static str {
        match self {
            Face::Mono => "'Fira Mono', 'DejaVu Sans Mono', 'Liberation Mono', monospace",
            Face::Hand | Face::HandBold => "Kalam, Arial, 'Liberation Sans', 'DejaVu Sans Condensed', sans-serif",
            _ => "'Fira Sans', Arial, 'Liberation Sans', 'DejaVu Sans Condensed', sans-serif",
        }
    }

    /// Its name in PostScript, and so in PDF.
    pub fn postscript_name(self) -> &'static str {
        match self {
            Face::Regular => "FiraSans-Regular",
            Face::Bold => "FiraSans-SemiBold",
            Face::Italic => "FiraSans-Italic",
            Face::BoldItalic => "FiraSans-SemiBoldItalic",
            Face::Mono => "FiraMono-Regular",
            Face::Hand => "Kalam-Regular",
            Face::HandBold => "Kalam-Bold",
        }
    }

    /// The weight in drawings, as CSS counts it.
    pub fn weight(self) -> u16 {
        if matches!(self, Face::Bold | Face::BoldItalic | Face::HandBold) { 600 } else { 400 }
    }

    /// Whether its letters are bold.
    pub fn is_bold(self) -> bool {
        self.weight() > 400
    }

    /// The sans of its weight, which stands in for what it lacks.
    pub fn sans(self) -> Face {
        if self.is_bold() { Face::Bold } else { Face::Regular }
    }

    /// Whether it is slanted.
    pub fn is_italic(self) -> bool {
        matches!(self, Face::Italic | Face::BoldItalic)
    }

    /// The slanted face of the same weight.
    pub fn italic(self) -> Face {
        match self {
            Face::Bold | Face::BoldItalic => Face::BoldItalic,
            Face::Mono | Face::Hand | Face::HandBold => self,
            _ => Face::Italic,
        }
    }

    /// The semi-bold face of the same slant.
    pub fn bold(self) -> Face {
        match self {
            Face::Italic | Face::BoldItalic => Face::BoldItalic,
            Face::Hand | Face::HandBold => Face::HandBold,
            Face::Mono => Face::Mono,
            _ => Face::Bold,
        }
    }
}

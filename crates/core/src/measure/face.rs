//! The faces that ship with the program.

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
    /// The family's name in drawings.
    pub fn family(self) -> &'static str {
        if self == Face::Mono { "Fira Mono" } else { "Fira Sans" }
    }

    /// Its name in PostScript, and so in PDF.
    pub fn postscript_name(self) -> &'static str {
        match self {
            Face::Regular => "FiraSans-Regular",
            Face::Bold => "FiraSans-SemiBold",
            Face::Italic => "FiraSans-Italic",
            Face::BoldItalic => "FiraSans-SemiBoldItalic",
            Face::Mono => "FiraMono-Regular",
        }
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

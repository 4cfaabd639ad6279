//! Paint roles: what something is painted with, before a theme gives it a colour. A drawing holds roles only, so that one
//! drawing can be written in several themes.

use super::colour::Colour;
use schemars::JsonSchema;
use serde::Deserialize;

/// Names of the colours that texts may use, in every theme.
const HUES: [&str; 9] = ["coral", "ochre", "sand", "kelp", "lagoon", "azure", "heather", "shell", "basalt"];

/// A colour of the palette, which every theme has.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Hue(u8);

impl Hue {
    /// The colour of what is forbidden, and of what is gone.
    pub const CORAL: Self = Self(0);

    /// The colour with a name.
    pub fn from_name(name: &str) -> Option<Self> {
        HUES.iter().position(|hue| *hue == name).map(|at| Self(at as u8))
    }

    /// Its name.
    pub fn name(self) -> &'static str {
        HUES[self.index()]
    }

    /// Its place in a palette.
    pub(super) fn index(self) -> usize {
        usize::from(self.0)
    }

    /// All of them, in order.
    pub fn all() -> impl Iterator<Item = Self> {
        (0..HUES.len() as u8).map(Self)
    }
}

/// The quiet fills that tell kinds of elements apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Tone {
    /// What most elements have.
    Usual,
    /// Persons, decisions, what is left to chance.
    Person,
    /// Where something is kept, and results.
    Storage,
    /// Documents, data, cards.
    Document,
    /// Interfaces.
    Interface,
    /// Values and instances.
    Value,
    /// Remarks.
    Remark,
    /// Where a flow begins and ends; activations.
    Terminal,
}

impl Tone {
    /// All of them, in order.
    pub const ALL: [Tone; 8] = [
        Tone::Usual,
        Tone::Person,
        Tone::Storage,
        Tone::Document,
        Tone::Interface,
        Tone::Value,
        Tone::Remark,
        Tone::Terminal,
    ];
}

/// What lies under something else.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Ground {
    /// The ground of this picture, which a rule may have chosen.
    Picture,
    /// The ground that the theme gives.
    Paper,
    /// The colour of texts.
    Ink,
    /// The tint of a contour band; deeper ones are a little deeper.
    Band(u8),
    /// The fill of a kind of element.
    Tone(Tone),
    /// The fill of a palette colour.
    Fill(Hue),
    /// The line of a palette colour.
    Shade(Hue),
    /// A colour that the author gave.
    Fixed(Colour),
}

/// What something is painted with.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Paint {
    /// The same as a ground.
    Ground(Ground),
    /// Secondary text.
    Quiet,
    /// Lines of relations.
    Line,
    /// Outlines of elements.
    Outline,
    /// Outlines of containers.
    Frame,
    /// Pictograms.
    Accent,
    /// Lifelines and other guides.
    Guide,
    /// Text on a ground.
    TextOn(Ground),
    /// Text in a colour that the author gave, lighter or darker where it is not legible on its ground.
    ColouredOn(Ground, Ground),
    /// Text on a ground, quiet where that is legible.
    CalmOn(Ground),
    /// Secondary text on a ground; where it is not legible, the main text, which may have a colour of its own.
    QuietOn(Ground, Option<Ground>),
    /// A pictogram on a ground, in the accent or a colour that the author gave; as text where it is hard to see there.
    AccentOn(Option<Ground>, Ground),
    /// The tint of a tab on a ground: of a band, where the secondary text of the ground is legible on it.
    TabOn(Ground, Option<Ground>),
}

impl Paint {
    /// The ground of the picture.
    pub const PICTURE: Self = Self::Ground(Ground::Picture);
    /// The colour of texts.
    pub const INK: Self = Self::Ground(Ground::Ink);
    /// Text on the ground of the picture.
    pub const TEXT: Self = Self::TextOn(Ground::Picture);

    /// The tint of a contour band.
    pub fn band(depth: usize) -> Self {
        Self::Ground(Ground::Band(depth.min(usize::from(u8::MAX)) as u8))
    }
}

impl From<Ground> for Paint {
    fn from(ground: Ground) -> Self {
        Self::Ground(ground)
    }
}

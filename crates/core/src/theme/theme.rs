//! A theme: the colours of roles, and how lines are drawn.

use super::colour::Colour;
use super::paint::{Hue, Tone};
use crate::measure::Lettering;
use schemars::JsonSchema;
use serde::Deserialize;

/// Deeper frames than this have the same band.
pub(super) const BANDS: usize = 6;

/// Lines that stand for a colour.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Hatch {
    /// Degrees against the horizontal, from 0 to 180.
    #[schemars(range(min = 0, max = 180))]
    pub angle: f64,
    /// Px between two lines, from 2 to 40.
    #[schemars(range(min = 2, max = 40))]
    pub gap: f64,
    /// Whether others cross them at a right angle.
    #[serde(default)]
    pub crossed: bool,
}

/// How lines are drawn.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Strokes {
    /// With a ruler.
    #[default]
    Even,
    /// By hand.
    Rough,
}

/// Everything that a drawing takes from its theme.
#[derive(Clone, Debug, PartialEq)]
pub struct Theme {
    /// Its name.
    pub name: String,
    /// What it is for, in a few words.
    pub about: String,
    /// The ground.
    pub paper: Colour,
    /// Text.
    pub ink: Colour,
    /// Secondary text.
    pub quiet: Colour,
    /// Lines of relations.
    pub line: Colour,
    /// Outlines of elements.
    pub outline: Colour,
    /// Outlines of containers.
    pub frame: Colour,
    /// The one accent: pictograms, activation bars.
    pub accent: Colour,
    /// Lifelines and other guides.
    pub guide: Colour,
    /// How lines are drawn.
    pub strokes: Strokes,
    /// In which faces texts are written.
    pub letters: Lettering,
    /// The palette as fills, in the order of [`Hue`]s.
    pub(super) fills: [Colour; 9],
    /// The same as lines.
    pub(super) lines: [Colour; 9],
    pub(super) hatches: [Option<Hatch>; 9],
    /// In the order of [`Tone`]s.
    pub(super) tones: [Colour; 8],
    pub(super) bands: [Colour; BANDS],
    pub(super) band_hatch: Option<Hatch>,
}

impl Theme {
    /// The fill of a palette colour.
    pub fn fill(&self, hue: Hue) -> Colour {
        self.fills[hue.index()]
    }

    /// The line of a palette colour.
    pub fn stroke(&self, hue: Hue) -> Colour {
        self.lines[hue.index()]
    }

    /// The lines that stand for a palette colour.
    pub fn hatch(&self, hue: Hue) -> Option<Hatch> {
        self.hatches[hue.index()]
    }

    /// The quiet fill of a kind of element.
    pub fn tone(&self, tone: Tone) -> Colour {
        self.tones[tone as usize]
    }

    /// The tint of a contour band; deeper ones are a little deeper.
    pub fn band(&self, depth: usize) -> Colour {
        self.bands[depth.min(BANDS - 1)]
    }

    /// The text colour that reads best on a fill, and is legible there.
    pub fn text_on(&self, fill: Colour) -> Colour {
        let best = if self.ink.contrast(fill) >= self.paper.contrast(fill) { self.ink } else { self.paper };
        best.legible_on(fill)
    }

    /// Whether strokes are those of a ruler, and colours need no lines to stand for them.
    pub fn is_plain(&self) -> bool {
        self.strokes == Strokes::Even && !self.has_hatches()
    }

    /// Whether a drawing in this theme differs from one in another in nothing but its colours.
    pub fn draws_as(&self, other: &Theme) -> bool {
        (self.strokes, self.letters, self.is_plain()) == (other.strokes, other.letters, other.is_plain())
    }

    /// Whether hatches stand for colours.
    pub fn has_hatches(&self) -> bool {
        self.band_hatch.is_some() || self.hatches.iter().any(Option::is_some)
    }
}

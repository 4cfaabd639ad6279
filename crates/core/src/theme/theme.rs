//! A theme: the colours of roles.

use super::colour::Colour;
use super::paint::{Hue, Tone};

/// How a theme shows a colour of the palette: its hue and chroma.
#[derive(Clone, Copy, Debug)]
pub struct Swatch {
    /// Degrees in OKLCH.
    pub hue: f64,
    /// How colourful, relative to the theme's tints.
    pub strength: f64,
}

/// Everything that a drawing takes from its theme.
#[derive(Clone, Debug)]
pub struct Theme {
    /// Its name.
    pub name: &'static str,
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
    /// The palette, in the order of [`Hue`]s.
    pub palette: [Swatch; 9],
    /// Lightness and chroma of fills.
    pub tint: (f64, f64),
    /// Lightness and chroma of lines and outlines in a palette colour.
    pub shade: (f64, f64),
}

impl Theme {
    /// The fill of a palette colour.
    pub fn fill(&self, hue: Hue) -> Colour {
        let swatch = self.palette[hue.index()];
        Colour::oklch(self.tint.0, self.tint.1 * swatch.strength, swatch.hue)
    }

    /// The line of a palette colour.
    pub fn stroke(&self, hue: Hue) -> Colour {
        let swatch = self.palette[hue.index()];
        Colour::oklch(self.shade.0, self.shade.1 * swatch.strength, swatch.hue)
    }

    /// The quiet fill of a kind of element.
    pub fn tone(&self, tone: Tone) -> Colour {
        let soft = |hue: f64, chroma: f64| Colour::oklch(0.965, chroma, hue);
        match tone {
            Tone::Usual => soft(232.0, 0.02),
            Tone::Person => soft(88.0, 0.032),
            Tone::Storage => soft(190.0, 0.024),
            Tone::Document => soft(315.0, 0.016),
            Tone::Interface => soft(300.0, 0.02),
            Tone::Value => soft(150.0, 0.02),
            Tone::Remark => soft(95.0, 0.04),
            Tone::Terminal => Colour::oklch(0.90, 0.05, 205.0),
        }
    }

    /// The tint of a contour band; deeper ones are a little deeper.
    pub fn band(&self, depth: usize) -> Colour {
        let d = depth.min(5) as f64;
        Colour::oklch(0.945 - 0.02 * d, 0.022 + 0.007 * d, 220.0)
    }

    /// The text colour that reads best on a fill.
    pub fn text_on(&self, fill: Colour) -> Colour {
        if self.ink.contrast(fill) >= self.paper.contrast(fill) { self.ink } else { self.paper }
    }
}

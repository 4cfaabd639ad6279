//! Looks. Input: a diagram and the rules of its file. Output: a resolved [`Styles`]: a colour and a
//! line for everything. Guarantees: text has a contrast of at least 4.5:1 on every fill.

mod colour;
mod rules;
mod shoal;
mod style;

pub use colour::Colour;
pub use shoal::shoal;
pub use style::{Dash, ElementStyle, RelationStyle, SHAPES, Shape, Styles, check_rules, resolve};

/// A colour of the palette: its name, hue and chroma.
#[derive(Clone, Copy, Debug)]
pub struct Hue {
    /// The name that texts use.
    pub name: &'static str,
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
    /// The palette.
    pub palette: Vec<Hue>,
    /// Lightness and chroma of fills.
    pub tint: (f64, f64),
    /// Lightness and chroma of lines and outlines in a palette colour.
    pub shade: (f64, f64),
}

impl Theme {
    /// The fill of a palette colour.
    pub fn fill(&self, name: &str) -> Option<Colour> {
        self.palette
            .iter()
            .find(|h| h.name == name)
            .map(|h| Colour::oklch(self.tint.0, self.tint.1 * h.strength, h.hue))
    }

    /// The line of a palette colour.
    pub fn stroke(&self, name: &str) -> Option<Colour> {
        self.palette
            .iter()
            .find(|h| h.name == name)
            .map(|h| Colour::oklch(self.shade.0, self.shade.1 * h.strength, h.hue))
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

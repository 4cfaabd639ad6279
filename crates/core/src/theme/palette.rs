//! Roles to colours: a theme, applied to one picture. Guarantees: text on a ground is legible in every theme.

use super::colour::{Colour, LEGIBLE};
use super::paint::{Ground, Paint};
use super::theme::{Hatch, Theme};

/// The least contrast of what is no text (WCAG 2.2, 1.4.11).
const SEEN: f64 = 3.0;

/// A theme, applied to the drawing of a picture.
#[derive(Clone, Copy, Debug)]
pub struct Palette<'a> {
    theme: &'a Theme,
    picture: Colour,
}

impl<'a> Palette<'a> {
    /// The colours of a picture with a ground.
    pub fn new(theme: &'a Theme, ground: Ground) -> Self {
        let plain = Self { theme, picture: theme.paper };
        Self { theme, picture: plain.ground(ground) }
    }

    /// The colour of a role.
    pub fn colour(&self, paint: Paint) -> Colour {
        let theme = self.theme;
        match paint {
            Paint::Ground(ground) => self.ground(ground),
            Paint::Quiet => self.quiet_or(Ground::Picture, theme.text_on(self.picture)),
            Paint::Line => theme.line,
            Paint::Outline => theme.outline,
            Paint::Frame => theme.frame,
            Paint::Accent => theme.accent,
            Paint::Guide => theme.guide,
            Paint::TextOn(ground) => theme.text_on(self.ground(ground)),
            Paint::ColouredOn(text, ground) => self.ground(text).legible_on(self.ground(ground)),
            Paint::CalmOn(ground) => self.quiet_or(ground, theme.text_on(self.ground(ground))),
            Paint::QuietOn(ground, text) => {
                let text = text.map(|text| Paint::ColouredOn(text, ground)).unwrap_or(Paint::TextOn(ground));
                self.quiet_or(ground, self.colour(text))
            }
            Paint::AccentOn(line, ground) => {
                let (own, ground) = (line.map_or(theme.accent, |line| self.ground(line)), self.ground(ground));
                if own.contrast(ground) >= SEEN { own } else { theme.text_on(ground) }
            }
            Paint::TabOn(ground, text) => {
                let band = theme.band(1);
                let is_legible = self.colour(Paint::QuietOn(ground, text)).contrast(band) >= LEGIBLE;
                if is_legible { band } else { self.ground(ground) }
            }
        }
    }

    /// The lines that a role is drawn with instead of a colour.
    pub fn hatch(&self, paint: Paint) -> Option<Hatch> {
        match paint {
            Paint::Ground(Ground::Fill(hue)) => self.theme.hatch(hue),
            Paint::Ground(Ground::Band(_)) => self.theme.band_hatch,
            _ => None,
        }
    }

    fn quiet_or(&self, ground: Ground, other: Colour) -> Colour {
        if self.theme.quiet.contrast(self.ground(ground)) >= LEGIBLE { self.theme.quiet } else { other }
    }

    fn ground(&self, ground: Ground) -> Colour {
        match ground {
            Ground::Picture => self.picture,
            Ground::Paper => self.theme.paper,
            Ground::Ink => self.theme.ink,
            Ground::Band(depth) => self.theme.band(usize::from(depth)),
            Ground::Tone(tone) => self.theme.tone(tone),
            Ground::Fill(hue) => self.theme.fill(hue),
            Ground::Shade(hue) => self.theme.stroke(hue),
            Ground::Fixed(colour) => colour,
        }
    }
}

//! `shoal`, the default theme: light, like a sea chart of shallow water. Another theme is a copy of this file: a value of
//! [`Theme`] with colours of its own, listed in `theme/mod.rs`.

use super::colour::Colour;
use super::theme::{Swatch, Theme};

/// The theme.
pub fn shoal() -> Theme {
    let swatch = |hue, strength| Swatch { hue, strength };
    Theme {
        name: "shoal",
        paper: Colour::oklch(0.993, 0.003, 220.0),
        ink: Colour::oklch(0.27, 0.04, 248.0),
        quiet: Colour::oklch(0.45, 0.035, 240.0),
        line: Colour::oklch(0.42, 0.045, 242.0),
        outline: Colour::oklch(0.50, 0.05, 238.0),
        frame: Colour::oklch(0.62, 0.055, 228.0),
        accent: Colour::oklch(0.54, 0.10, 215.0),
        guide: Colour::oklch(0.72, 0.03, 235.0),
        palette: [
            // coral
            swatch(32.0, 1.2),
            // ochre
            swatch(72.0, 1.2),
            // sand
            swatch(92.0, 0.9),
            // kelp
            swatch(150.0, 1.0),
            // lagoon
            swatch(195.0, 1.0),
            // azure
            swatch(240.0, 1.0),
            // heather
            swatch(312.0, 0.9),
            // shell
            swatch(20.0, 0.35),
            // basalt
            swatch(250.0, 0.3),
        ],
        tint: (0.945, 0.04),
        shade: (0.50, 0.115),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::theme::{Ground, Hue, LEGIBLE, Paint, Palette, Tone};

    #[test]
    fn text_is_legible_on_every_fill() {
        let theme = shoal();
        let palette = Palette::new(&theme, Ground::Paper);
        let tones = [Tone::Usual, Tone::Person, Tone::Storage, Tone::Document, Tone::Interface, Tone::Value];
        let tones = tones.into_iter().chain([Tone::Remark, Tone::Terminal]).map(Ground::Tone);
        let hues = Hue::all().flat_map(|hue| [Ground::Fill(hue), Ground::Shade(hue)]);
        let grounds = [Ground::Paper, Ground::Picture, Ground::Ink].into_iter().chain((0..6).map(Ground::Band));
        for ground in grounds.chain(tones).chain(hues) {
            for text in [Paint::TextOn(ground), Paint::CalmOn(ground), Paint::QuietOn(ground, None)] {
                let contrast = palette.colour(text).contrast(palette.colour(ground.into()));
                assert!(contrast >= LEGIBLE, "{text:?}: {contrast}");
            }
        }
        for depth in 0..6 {
            assert!(theme.quiet.contrast(theme.band(depth)) >= LEGIBLE);
        }
        assert!(theme.line.contrast(theme.paper) >= LEGIBLE);
    }
}

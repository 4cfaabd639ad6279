//! `shoal`, the default theme: light, like a sea chart of shallow water.

use super::{Colour, Hue, Theme};

/// The theme.
pub fn shoal() -> Theme {
    let hue = |name, hue, strength| Hue { name, hue, strength };
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
        palette: vec![
            hue("coral", 32.0, 1.2),
            hue("ochre", 72.0, 1.2),
            hue("sand", 92.0, 0.9),
            hue("kelp", 150.0, 1.0),
            hue("lagoon", 195.0, 1.0),
            hue("azure", 240.0, 1.0),
            hue("heather", 312.0, 0.9),
            hue("shell", 20.0, 0.35),
            hue("basalt", 250.0, 0.3),
        ],
        tint: (0.945, 0.04),
        shade: (0.50, 0.115),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn text_is_legible_on_every_fill() {
        let theme = shoal();
        for name in theme.palette.iter().map(|h| h.name) {
            for fill in [theme.fill(name), theme.stroke(name)].into_iter().flatten() {
                assert!(theme.text_on(fill).contrast(fill) >= 4.5, "{name} {}", fill.hex());
            }
        }
        for depth in 0..6 {
            assert!(theme.quiet.contrast(theme.band(depth)) >= 4.5);
        }
        assert!(theme.quiet.contrast(theme.paper) >= 4.5);
        assert!(theme.line.contrast(theme.paper) >= 4.5);
    }
}

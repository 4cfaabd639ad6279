//! Colours, computed in OKLCH from lightness, chroma and hue, so that fills, outlines and bands
//! harmonise (Björn Ottosson, "A perceptual color space for image processing", 2020).

/// A colour of the screen.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Colour {
    /// Red.
    pub r: u8,
    /// Green.
    pub g: u8,
    /// Blue.
    pub b: u8,
}

/// The least contrast of a text (WCAG 2.2, 1.4.3).
pub const LEGIBLE: f64 = 4.5;

impl Colour {
    /// No light.
    pub const BLACK: Self = Self { r: 0, g: 0, b: 0 };
    /// All light.
    pub const WHITE: Self = Self { r: 255, g: 255, b: 255 };

    /// From lightness (0 to 1), chroma (0 to about 0.3) and hue (degrees); chroma is lowered until
    /// the screen can show it.
    pub fn oklch(lightness: f64, chroma: f64, hue: f64) -> Self {
        let mut c = chroma;
        loop {
            let rgb = linear_rgb(lightness, c, hue);
            let inside = rgb.iter().all(|v| (-0.0005..=1.0005).contains(v));
            if inside || c < 0.002 {
                let [r, g, b] = rgb.map(|v| libm::round(gamma(v.clamp(0.0, 1.0)) * 255.0) as u8);
                return Self { r, g, b };
            }
            c -= 0.002;
        }
    }

    /// Reads `#rrggbb`.
    pub fn from_hex(text: &str) -> Option<Self> {
        let hex = text.strip_prefix('#').filter(|h| h.len() == 6 && h.bytes().all(|b| b.is_ascii_hexdigit()))?;
        let part = |i: usize| u8::from_str_radix(&hex[i..i + 2], 16).ok();
        Some(Self { r: part(0)?, g: part(2)?, b: part(4)? })
    }

    /// As `#rrggbb`.
    pub fn hex(self) -> String {
        const DIGITS: &[u8; 16] = b"0123456789abcdef";
        let digits = [self.r, self.g, self.b].into_iter().flat_map(|c| [c >> 4, c & 15]);
        std::iter::once('#').chain(digits.map(|d| char::from(DIGITS[usize::from(d)]))).collect()
    }

    /// Its lightness, chroma and hue in degrees.
    pub fn to_oklch(self) -> (f64, f64, f64) {
        let [r, g, b] = [self.r, self.g, self.b].map(linear);
        let l = libm::cbrt(0.412_221_470_8 * r + 0.536_332_536_3 * g + 0.051_445_992_9 * b);
        let m = libm::cbrt(0.211_903_498_2 * r + 0.680_699_545_1 * g + 0.107_396_956_6 * b);
        let s = libm::cbrt(0.088_302_461_9 * r + 0.281_718_837_6 * g + 0.629_978_700_5 * b);
        let lightness = 0.210_454_255_3 * l + 0.793_617_785_0 * m - 0.004_072_046_8 * s;
        let x = 1.977_998_495_1 * l - 2.428_592_205_0 * m + 0.450_593_709_9 * s;
        let y = 0.025_904_037_1 * l + 0.782_771_766_2 * m - 0.808_675_766_0 * s;
        (lightness, libm::hypot(x, y), libm::atan2(y, x).to_degrees().rem_euclid(360.0))
    }

    /// The nearest colour of the same hue that is legible on a ground: itself, or one that is lighter or darker.
    pub fn legible_on(self, ground: Colour) -> Colour {
        if self.contrast(ground) >= LEGIBLE {
            return self;
        }
        let (lightness, chroma, hue) = self.to_oklch();
        let steps = (1..=100).flat_map(|step| [-0.01, 0.01].map(|by| lightness + by * f64::from(step)));
        let shades = steps.filter(|l| (0.0..=1.0).contains(l)).map(|l| Colour::oklch(l, chroma, hue));
        // Black or white is legible on anything.
        let ends = [Colour::BLACK, Colour::WHITE].into_iter();
        shades.chain(ends).find(|shade| shade.contrast(ground) >= LEGIBLE).unwrap_or(self)
    }

    /// Contrast to another colour, 1 to 21 (WCAG 2.2, "contrast ratio").
    pub fn contrast(self, other: Colour) -> f64 {
        let (a, b) = (self.luminance() + 0.05, other.luminance() + 0.05);
        if a > b { a / b } else { b / a }
    }

    fn luminance(self) -> f64 {
        0.2126 * linear(self.r) + 0.7152 * linear(self.g) + 0.0722 * linear(self.b)
    }
}

/// How much light a part of a colour is, from 0 to 1 (sRGB, IEC 61966-2-1).
pub(super) fn linear(part: u8) -> f64 {
    let part = f64::from(part) / 255.0;
    if part <= 0.040_45 { part / 12.92 } else { libm::pow((part + 0.055) / 1.055, 2.4) }
}

fn linear_rgb(lightness: f64, chroma: f64, hue: f64) -> [f64; 3] {
    let h = hue.to_radians();
    let (a, b) = (chroma * libm::cos(h), chroma * libm::sin(h));
    let l = lightness + 0.396_337_777_4 * a + 0.215_803_757_3 * b;
    let m = lightness - 0.105_561_345_8 * a - 0.063_854_172_8 * b;
    let s = lightness - 0.089_484_177_5 * a - 1.291_485_548_0 * b;
    let (l, m, s) = (l * l * l, m * m * m, s * s * s);
    [
        4.076_741_662_1 * l - 3.307_711_591_3 * m + 0.230_969_929_2 * s,
        -1.268_438_004_6 * l + 2.609_757_401_1 * m - 0.341_319_396_5 * s,
        -0.004_196_086_3 * l - 0.703_418_614_7 * m + 1.707_614_701_0 * s,
    ]
}

pub(super) fn gamma(v: f64) -> f64 {
    if v <= 0.003_130_8 { 12.92 * v } else { 1.055 * libm::pow(v, 1.0 / 2.4) - 0.055 }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn known_colours() {
        assert_eq!(Colour::oklch(1.0, 0.0, 0.0).hex(), "#ffffff");
        assert_eq!(Colour::oklch(0.0, 0.0, 0.0).hex(), "#000000");
        assert_eq!(Colour::oklch(0.628, 0.2577, 29.23).hex(), "#ff0000");
        assert_eq!(Colour::from_hex("#1a2b3c").map(Colour::hex).as_deref(), Some("#1a2b3c"));
        assert_eq!(Colour::from_hex("#12"), None);
    }

    #[test]
    fn a_colour_keeps_its_lightness_chroma_and_hue() {
        for (lightness, chroma, hue) in [(0.5, 0.1, 32.0), (0.8, 0.05, 200.0), (0.3, 0.08, 330.0)] {
            let (l, c, h) = Colour::oklch(lightness, chroma, hue).to_oklch();
            assert!((l - lightness).abs() < 0.01 && (c - chroma).abs() < 0.01 && (h - hue).abs() < 3.0, "{l} {c} {h}");
        }
    }

    proptest::proptest! {
        /// Whatever the author chose: a text becomes legible on it, and one that is stays as it is.
        #[test]
        fn any_text_becomes_legible_on_any_ground(text in proptest::array::uniform3(0..=255_u8), ground in proptest::array::uniform3(0..=255_u8)) {
            let [text, ground] = [text, ground].map(|[r, g, b]| Colour { r, g, b });
            let legible = text.legible_on(ground);
            proptest::prop_assert!(legible.contrast(ground) >= LEGIBLE, "{:?} on {:?}", legible, ground);
            proptest::prop_assert_eq!(legible.legible_on(ground), legible);
            if text.contrast(ground) >= LEGIBLE {
                proptest::prop_assert_eq!(legible, text);
            }
        }
    }

    #[test]
    fn contrast_of_black_and_white_is_21() {
        let (black, white) = (Colour::oklch(0.0, 0.0, 0.0), Colour::oklch(1.0, 0.0, 0.0));
        assert!((black.contrast(white) - 21.0).abs() < 0.01);
    }
}

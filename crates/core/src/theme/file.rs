//! Themes as data. Input: a theme in TOML. Output: a [`Theme`], or where it is wrong and what to write instead. A theme may
//! extend another one, and says then only what is different.

use super::colour::Colour;
use super::paint::{Hue, Tone};
use super::theme::{BANDS, Hatch, Strokes, Theme};
use crate::diag::suggest;
use crate::measure::Lettering;
use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::de::Error as _;
use serde::{Deserialize, Deserializer};
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// The themes that come with the program, the default one first.
const BUILT_IN: [(&str, &str); 6] = [
    ("shoal", include_str!("../../themes/shoal.toml")),
    ("abyss", include_str!("../../themes/abyss.toml")),
    ("chartroom", include_str!("../../themes/chartroom.toml")),
    ("ink", include_str!("../../themes/ink.toml")),
    ("beacon", include_str!("../../themes/beacon.toml")),
    ("pencil", include_str!("../../themes/pencil.toml")),
];

/// Themes that extend each other are at most this many.
// A project has one or two of its own on top of a built-in one; more is a circle.
const DEEPEST: usize = 8;

/// The names of the themes that come with the program.
pub fn built_in() -> impl Iterator<Item = &'static str> {
    BUILT_IN.iter().map(|(name, _)| *name)
}

/// The text of a theme that comes with the program: what a project's own one may start from.
pub fn source(name: &str) -> Option<&'static str> {
    BUILT_IN.iter().find(|(own, _)| *own == name).map(|(_, text)| *text)
}

/// What is wrong with a theme.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct ThemeError {
    /// The text with the error: the path of a file, or the name of a built-in theme.
    pub file: String,
    /// What is wrong, with its place in the text where it has one.
    pub message: String,
}

/// A theme that comes with the program, with an accent of its own or another one.
///
/// # Errors
/// If there is none of that name: with those that there are.
pub fn named(name: &str, accent: Option<Hue>) -> Result<Theme, ThemeError> {
    let Some(text) = source(name) else {
        let names: Vec<&str> = built_in().collect();
        let hint = suggest(name, built_in()).map_or(String::new(), |s| format!("; did you mean `{}`?", s.word));
        let message = format!(
            "no theme is called `{name}`{hint}; there are {}, or name a file that ends in .toml",
            names.join(", ")
        );
        return Err(ThemeError { file: name.to_owned(), message });
    };
    read(name, text, accent, &mut |_| None)
}

/// A theme from its text, with the accent that was asked for instead of its own. `other` gives the name and the text of a file
/// that it extends, by what stands there.
///
/// # Errors
/// If the text, or one that it extends, is wrong.
pub fn read(
    file: &str, text: &str, accent: Option<Hue>, other: &mut dyn FnMut(&str) -> Option<(String, String)>,
) -> Result<Theme, ThemeError> {
    let mut whole = File::default();
    let (mut file, mut text) = (file.to_owned(), Cow::Borrowed(text));
    let first = file.clone();
    for _ in 0..DEEPEST {
        let own: File = toml::from_str(&text)
            .map_err(|e| ThemeError { file: file.clone(), message: e.to_string().trim_end().to_owned() })?;
        let base = own.extends.clone();
        whole = whole.over(own);
        let Some(base) = base else {
            whole.accent = accent.map(HueName).or(whole.accent);
            return whole.finished(&first);
        };
        (file, text) = match source(&base) {
            Some(text) => (base, Cow::Borrowed(text)),
            None => match other(&base) {
                Some((name, text)) => (name, Cow::Owned(text)),
                None => {
                    let message =
                        format!("`extends` names no theme: `{base}` is neither built in nor a file that can be read");
                    return Err(ThemeError { file, message });
                }
            },
        };
    }
    Err(ThemeError {
        file: first,
        message: format!("themes extend each other more than {DEEPEST} times, or in a circle"),
    })
}

impl Default for Theme {
    /// The default one.
    fn default() -> Self {
        // Read once: it takes as long as drawing a box. The text is compiled in, and a test reads it.
        static READ: OnceLock<Theme> = OnceLock::new();
        READ.get_or_init(|| named(BUILT_IN[0].0, None).unwrap_or_else(|why| unreachable!("{why}"))).clone()
    }
}

/// The JSON Schema of a theme, as a value.
pub fn schema() -> Schema {
    schemars::schema_for!(File)
}

/// A role that a colour is given to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
enum Role {
    /// The ground.
    Paper,
    /// Text.
    Ink,
    /// Secondary text.
    Quiet,
    /// Lines of relations.
    Line,
    /// Outlines of elements.
    Outline,
    /// Outlines of containers.
    Frame,
    /// Pictograms and activation bars.
    Accent,
    /// Lifelines and other guides.
    Guide,
}

impl Role {
    const ALL: [Role; 8] =
        [Role::Paper, Role::Ink, Role::Quiet, Role::Line, Role::Outline, Role::Frame, Role::Accent, Role::Guide];
}

/// A colour as it is written.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Tint {
    /// Lightness, chroma and hue.
    Oklch(f64, f64, f64),
    Fixed(Colour),
}

impl Tint {
    fn from_text(text: &str) -> Option<Self> {
        if let Some(colour) = Colour::from_hex(text) {
            return Some(Self::Fixed(colour));
        }
        let inner = text.strip_prefix("oklch(")?.strip_suffix(')')?;
        let numbers: Option<Vec<f64>> = inner.split_whitespace().map(|n| n.parse().ok()).collect();
        let [lightness, chroma, hue] = numbers?[..] else { return None };
        let is_good = (0.0..=1.0).contains(&lightness) && (0.0..=0.5).contains(&chroma) && (0.0..=360.0).contains(&hue);
        is_good.then_some(Self::Oklch(lightness, chroma, hue))
    }

    fn parts(self) -> (f64, f64, f64) {
        match self {
            Tint::Oklch(lightness, chroma, hue) => (lightness, chroma, hue),
            Tint::Fixed(colour) => colour.to_oklch(),
        }
    }

    fn colour(self) -> Colour {
        match self {
            Tint::Oklch(lightness, chroma, hue) => Colour::oklch(lightness, chroma, hue),
            Tint::Fixed(colour) => colour,
        }
    }

    /// The same in another hue, and less colourful.
    fn turned(self, hue: f64, strength: f64) -> Self {
        let (lightness, chroma, _) = self.parts();
        Tint::Oklch(lightness, chroma * strength, hue)
    }

    /// This much of the way to another.
    fn towards(self, other: Self, part: f64) -> Colour {
        let ((l, c, h), (m, d, i)) = (self.parts(), other.parts());
        let turn = (i - h + 180.0).rem_euclid(360.0) - 180.0;
        let between = |a: f64, b: f64| a + (b - a) * part;
        if part == 0.0 { self.colour() } else { Colour::oklch(between(l, m), between(c, d), h + turn * part) }
    }
}

impl<'de> Deserialize<'de> for Tint {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let text = String::deserialize(from)?;
        Self::from_text(&text).ok_or_else(|| {
            D::Error::custom(format!(
                "`{text}` is no colour; write \"#1a2b3c\", or \"oklch(0.5 0.1 240)\": lightness from 0 to 1, chroma from 0 to 0.5, hue in degrees"
            ))
        })
    }
}

impl JsonSchema for Tint {
    fn schema_name() -> Cow<'static, str> {
        "Colour".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        schemars::json_schema!({
            "description": "A colour: #rrggbb, or oklch(lightness chroma hue)",
            "type": "string",
            "pattern": "^(#[0-9A-Fa-f]{6}|oklch\\([0-9.]+ +[0-9.]+ +[0-9.]+\\))$",
        })
    }
}

/// A colour of the palette, by its name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct HueName(Hue);

impl<'de> Deserialize<'de> for HueName {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let text = String::deserialize(from)?;
        Hue::from_name(&text).map(Self).ok_or_else(|| {
            let names: Vec<&str> = Hue::all().map(Hue::name).collect();
            D::Error::custom(format!("no colour of the palette is called `{text}`; there are {}", names.join(", ")))
        })
    }
}

impl JsonSchema for HueName {
    fn schema_name() -> Cow<'static, str> {
        "Hue".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        let names: Vec<&str> = Hue::all().map(Hue::name).collect();
        schemars::json_schema!({ "type": "string", "enum": names })
    }
}

/// Lightness and chroma.
#[derive(Clone, Copy, Debug, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Shade {
    /// From 0, black, to 1, white.
    #[schemars(range(min = 0, max = 1))]
    lightness: f64,
    /// From 0, grey, to about 0.3.
    #[schemars(range(min = 0, max = 0.5))]
    chroma: f64,
}

/// How a theme shows a colour of the palette.
#[derive(Clone, Copy, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
struct Swatch {
    /// Degrees in OKLCH.
    #[schemars(range(min = 0, max = 360))]
    hue: Option<f64>,
    /// How colourful beside the others; 1 if nothing is said.
    strength: Option<f64>,
    /// The fill, where it is not computed.
    fill: Option<Tint>,
    /// The line, where it is not computed.
    line: Option<Tint>,
    /// Lines that stand for it.
    hatch: Option<Hatch>,
}

/// Lightness and chroma of the palette.
#[derive(Clone, Copy, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
struct Shades {
    /// Of fills.
    fill: Option<Shade>,
    /// Of lines and outlines.
    line: Option<Shade>,
}

/// The tints of contour bands.
#[derive(Clone, Copy, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
struct Bands {
    /// That of the outermost frames.
    first: Option<Tint>,
    /// That of the sixth depth, and of deeper ones.
    last: Option<Tint>,
    /// Lines that stand for it.
    hatch: Option<Hatch>,
}

/// The schema of a table with these keys and no others.
fn table<V: JsonSchema>(names: impl IntoIterator<Item = String>, generator: &mut SchemaGenerator) -> Schema {
    let value = generator.subschema_for::<V>().to_value();
    let properties: std::collections::BTreeMap<String, _> =
        names.into_iter().map(|name| (name, value.clone())).collect();
    schemars::json_schema!({ "type": "object", "properties": properties, "additionalProperties": false })
}

fn roles_schema(generator: &mut SchemaGenerator) -> Schema {
    table::<Tint>(Role::ALL.map(|role| format!("{role:?}").to_lowercase()), generator)
}

fn kinds_schema(generator: &mut SchemaGenerator) -> Schema {
    table::<Tint>(Tone::ALL.map(|tone| format!("{tone:?}").to_lowercase()), generator)
}

fn hues_schema(generator: &mut SchemaGenerator) -> Schema {
    table::<Swatch>(Hue::all().map(|hue| hue.name().to_owned()), generator)
}

/// How everything is drawn.
#[derive(Clone, Copy, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
struct Manner {
    /// Lines with a ruler, or by hand.
    strokes: Option<Strokes>,
    /// Letters of print, or as if by hand.
    letters: Option<Lettering>,
}

/// What a theme's file may say. Every key may be left out where it extends another.
#[derive(Clone, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
#[schemars(title = "A theme of Bathygram")]
struct File {
    /// What it is for, in a few words.
    about: Option<String>,
    /// The theme that says the rest: a built-in one, or a file that ends in .toml, relative to this one.
    extends: Option<String>,
    /// The colour of the palette that lines, frames, bands and pictograms follow.
    accent: Option<HueName>,
    /// Colours of single roles.
    #[schemars(schema_with = "roles_schema")]
    roles: BTreeMap<Role, Tint>,
    /// The quiet fills of kinds of elements.
    #[schemars(schema_with = "kinds_schema")]
    kinds: BTreeMap<Tone, Tint>,
    bands: Bands,
    palette: Shades,
    /// The colours of the palette, by their names.
    #[schemars(schema_with = "hues_schema")]
    hues: BTreeMap<HueName, Swatch>,
    manner: Manner,
}

impl File {
    /// What this says, and the rest from another.
    fn over(self, mut base: File) -> File {
        base.roles.extend(self.roles);
        base.kinds.extend(self.kinds);
        for (name, own) in self.hues {
            let at = base.hues.entry(name).or_default();
            // A hue of its own has colours of its own.
            let is_new = own.hue.is_some();
            *at = Swatch {
                hue: own.hue.or(at.hue),
                strength: own.strength.or(at.strength.filter(|_| !is_new)),
                fill: own.fill.or(at.fill.filter(|_| !is_new)),
                line: own.line.or(at.line.filter(|_| !is_new)),
                hatch: own.hatch.or(at.hatch),
            };
        }
        File {
            about: self.about.or(base.about),
            extends: None,
            accent: self.accent.or(base.accent),
            bands: Bands {
                first: self.bands.first.or(base.bands.first),
                last: self.bands.last.or(base.bands.last),
                hatch: self.bands.hatch.or(base.bands.hatch),
            },
            palette: Shades {
                fill: self.palette.fill.or(base.palette.fill),
                line: self.palette.line.or(base.palette.line),
            },
            manner: Manner {
                strokes: self.manner.strokes.or(base.manner.strokes),
                letters: self.manner.letters.or(base.manner.letters),
            },
            ..base
        }
    }

    /// The theme, if nothing is missing.
    fn finished(self, file: &str) -> Result<Theme, ThemeError> {
        let missing = |what: String| {
            let message =
                format!("the theme does not say {what}; with `extends = \"shoal\"` it need not say everything");
            ThemeError { file: file.to_owned(), message }
        };
        let hatches = self.hues.values().filter_map(|swatch| swatch.hatch).chain(self.bands.hatch);
        if let Some(bad) =
            hatches.into_iter().find(|h| !(2.0..=40.0).contains(&h.gap) || !(0.0..=180.0).contains(&h.angle))
        {
            let message = format!(
                "a hatch has a gap from 2 to 40 px and an angle from 0 to 180 degrees, not {} and {}",
                bad.gap, bad.angle
            );
            return Err(ThemeError { file: file.to_owned(), message });
        }
        let (fill, line) = (self.palette.fill, self.palette.line);
        let shaded = |hue: Hue, shade: Option<Shade>, own: fn(&Swatch) -> Option<Tint>, key: &str| {
            let swatch = self.hues.get(&HueName(hue)).copied().unwrap_or_default();
            if let Some(own) = own(&swatch) {
                return Ok(own);
            }
            let hue_of = swatch.hue.ok_or_else(|| missing(format!("the hue of `{}`, under [hues]", hue.name())))?;
            let shade = shade.ok_or_else(|| missing(format!("`{key}`, under [palette]")))?;
            Ok(Tint::Oklch(shade.lightness, shade.chroma * swatch.strength.unwrap_or(1.0), hue_of))
        };
        let mut fills = [Colour::WHITE; 9];
        let mut lines = [Colour::BLACK; 9];
        let mut hatches = [None; 9];
        for hue in Hue::all() {
            fills[hue.index()] = shaded(hue, fill, |s| s.fill, "fill")?.colour();
            lines[hue.index()] = shaded(hue, line, |s| s.line, "line")?.colour();
            hatches[hue.index()] = self.hues.get(&HueName(hue)).and_then(|s| s.hatch);
        }
        // An accent turns what is quiet to its hue.
        let accent = match self.accent {
            Some(HueName(hue)) => {
                let (_, _, turn) = shaded(hue, line, |s| s.line, "line")?.parts();
                let strength = self.hues.get(&HueName(hue)).and_then(|s| s.strength).unwrap_or(1.0).min(1.0);
                Some((turn, strength))
            }
            None => None,
        };
        let turned = |tint: Tint| accent.map_or(tint, |(hue, strength)| tint.turned(hue, strength));
        let follow = |tint: Tint| turned(tint).colour();
        let role = |role: Role, name: &str| {
            let tint = self.roles.get(&role).copied().ok_or_else(|| missing(format!("`{name}`, under [roles]")))?;
            Ok(if role == Role::Paper { tint.colour() } else { follow(tint) })
        };
        let mut tones = [Colour::WHITE; 8];
        for tone in Tone::ALL {
            let tint = self.kinds.get(&tone).copied();
            let tint = tint.ok_or_else(|| missing(format!("`{tone:?}`, under [kinds]").to_lowercase()))?;
            let follows = matches!(tone, Tone::Usual | Tone::Terminal);
            tones[tone as usize] = if follows { follow(tint) } else { tint.colour() };
        }
        let (Some(first), Some(last)) = (self.bands.first, self.bands.last) else {
            return Err(missing("`first` and `last`, under [bands]".to_owned()));
        };
        let band = |depth: usize| turned(first).towards(turned(last), depth as f64 / (BANDS - 1) as f64);
        Ok(Theme {
            name: file.rsplit('/').next().unwrap_or(file).trim_end_matches(".toml").to_owned(),
            about: self.about.clone().unwrap_or_default(),
            paper: role(Role::Paper, "paper")?,
            ink: role(Role::Ink, "ink")?,
            quiet: role(Role::Quiet, "quiet")?,
            line: role(Role::Line, "line")?,
            outline: role(Role::Outline, "outline")?,
            frame: role(Role::Frame, "frame")?,
            accent: role(Role::Accent, "accent")?,
            guide: role(Role::Guide, "guide")?,
            strokes: self.manner.strokes.unwrap_or_default(),
            letters: self.manner.letters.unwrap_or_default(),
            fills,
            lines,
            hatches,
            tones,
            bands: std::array::from_fn(band),
            band_hatch: self.bands.hatch,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::super::colour::{gamma, linear};
    use super::*;
    use crate::theme::{Ground, LEGIBLE, Paint, Palette};

    fn themes() -> Vec<Theme> {
        built_in().map(|name| named(name, None).expect("a theme")).collect()
    }

    /// A theme that extends the default one.
    fn own(text: &str) -> Result<Theme, ThemeError> {
        read("looks/harbour.toml", &format!("extends = \"shoal\"\n{text}"), None, &mut |_| None)
    }

    fn assert_legible(theme: &Theme) {
        let palette = Palette::new(theme, Ground::Paper);
        let hues = Hue::all().flat_map(|hue| [Ground::Fill(hue), Ground::Shade(hue)]);
        let grounds = [Ground::Paper, Ground::Picture, Ground::Ink].into_iter().chain((0..6).map(Ground::Band));
        let grounds: Vec<Ground> = grounds.chain(Tone::ALL.map(Ground::Tone)).chain(hues).collect();
        for ground in &grounds {
            let fill = palette.colour((*ground).into());
            let written = Hue::all().map(|hue| Paint::ColouredOn(Ground::Shade(hue), *ground));
            for text in [Paint::TextOn(*ground), Paint::CalmOn(*ground), Paint::QuietOn(*ground, None)]
                .into_iter()
                .chain(written)
            {
                let contrast = palette.colour(text).contrast(fill);
                assert!(contrast >= LEGIBLE, "{}: {text:?}: {contrast}", theme.name);
            }
            let pictogram = palette.colour(Paint::AccentOn(None, *ground));
            assert!(pictogram.contrast(fill) >= 3.0, "{}: pictograms on {ground:?}", theme.name);
        }
        let plain = [Paint::Quiet, Paint::TEXT];
        assert!(plain.into_iter().all(|text| palette.colour(text).contrast(theme.paper) >= LEGIBLE), "{}", theme.name);
    }

    #[test]
    fn text_is_legible_on_every_fill_of_every_theme() {
        let themes = themes();
        assert_eq!(themes.len(), 6);
        for theme in &themes {
            assert_legible(theme);
            assert!(!theme.about.is_empty() && theme.line.contrast(theme.paper) >= LEGIBLE, "{}", theme.name);
            assert!(theme.outline.contrast(theme.paper) >= 3.0, "{}", theme.name);
        }
        assert_eq!(Theme::default().name, "shoal");
        assert!(Theme::default().is_plain());
    }

    #[test]
    fn ink_is_black_and_white_and_its_hatches_differ() {
        let ink = named("ink", None).expect("a theme");
        let (black, white) = (Colour::BLACK, Colour::WHITE);
        let lines = [ink.ink, ink.quiet, ink.line, ink.outline, ink.frame, ink.accent, ink.guide];
        assert!(lines.into_iter().chain(Hue::all().map(|hue| ink.stroke(hue))).all(|colour| colour == black));
        let fills = Tone::ALL.map(|tone| ink.tone(tone)).into_iter().chain(Hue::all().map(|hue| ink.fill(hue)));
        assert!(fills.chain([ink.paper]).chain((0..6).map(|d| ink.band(d))).all(|colour| colour == white));
        let hatches: Vec<Hatch> = Hue::all().map(|hue| ink.hatch(hue).expect("a hatch")).collect();
        assert!((0..9).all(|i| (0..i).all(|j| hatches[i] != hatches[j])));
    }

    /// How colours look to somebody who lacks one kind of cone, in linear light (Machado, Oliveira, Fernandes, "A
    /// physiologically-based model for simulation of color vision deficiency", 2009, severity 1): nobody, protan, deutan, tritan.
    const VISIONS: [[[f64; 3]; 3]; 4] = [
        [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]],
        [[0.152_286, 1.052_583, -0.204_868], [0.114_503, 0.786_281, 0.099_216], [-0.003_882, -0.048_116, 1.051_998]],
        [[0.367_322, 0.860_646, -0.227_968], [0.280_085, 0.672_501, 0.047_413], [-0.011_820, 0.042_940, 0.968_881]],
        [[1.255_528, -0.076_749, -0.178_779], [-0.078_411, 0.930_809, 0.147_602], [0.004_733, 0.691_367, 0.303_900]],
    ];

    /// A colour as such an eye sees it.
    fn seen(colour: Colour, vision: [[f64; 3]; 3]) -> Colour {
        let light = [colour.r, colour.g, colour.b].map(linear);
        let [r, g, b] = vision.map(|row| {
            let v: f64 = row.iter().zip(light).map(|(a, b)| a * b).sum::<f64>().clamp(0.0, 1.0);
            (gamma(v) * 255.0).round() as u8
        });
        Colour { r, g, b }
    }

    /// How far apart two colours look (the distance in OKLab).
    fn distance(a: Colour, b: Colour) -> f64 {
        let place = |colour: Colour| {
            let (l, c, h) = colour.to_oklch();
            (l, c * libm::cos(h.to_radians()), c * libm::sin(h.to_radians()))
        };
        let (a, b) = (place(a), place(b));
        libm::sqrt((a.0 - b.0).powi(2) + (a.1 - b.1).powi(2) + (a.2 - b.2).powi(2))
    }

    /// The two most alike of some colours, to whoever confuses them most.
    fn least_distance(colours: &[Colour]) -> f64 {
        let pairs = || (0..colours.len()).flat_map(|i| (0..i).map(move |j| (i, j)));
        let of = |vision| pairs().map(move |(i, j)| distance(seen(colours[i], vision), seen(colours[j], vision)));
        VISIONS.into_iter().flat_map(of).fold(f64::INFINITY, f64::min)
    }

    #[test]
    fn every_eye_tells_the_colours_of_beacon_apart() {
        let of = |theme: &Theme| {
            let [fills, lines] =
                [Theme::fill, Theme::stroke].map(|of| Hue::all().map(|hue| of(theme, hue)).collect::<Vec<_>>());
            (least_distance(&fills), least_distance(&lines))
        };
        let (fills, lines) = of(&named("beacon", None).expect("a theme"));
        // 0.02 is what a careful eye just notices.
        assert!(fills > 0.08 && lines > 0.06, "fills {fills}, lines {lines}");
        let (usual_fills, usual_lines) = of(&Theme::default());
        assert!(fills > 4.0 * usual_fills && lines > 2.0 * usual_lines, "{usual_fills} {usual_lines}");
    }

    #[test]
    fn an_own_theme_says_only_what_is_different() {
        let theme =
            own("about = \"Harbour\"\n[roles]\npaper = \"#fffff0\"\n[hues]\nkelp = { hue = 120 }\n").expect("a theme");
        let shoal = Theme::default();
        assert_eq!(
            (theme.name.as_str(), theme.about.as_str(), theme.paper.hex().as_str()),
            ("harbour", "Harbour", "#fffff0")
        );
        assert_eq!((theme.ink, theme.fill(Hue::CORAL)), (shoal.ink, shoal.fill(Hue::CORAL)));
        let kelp = Hue::from_name("kelp").expect("a hue");
        assert_ne!(theme.fill(kelp), shoal.fill(kelp));
        // Files extend files.
        let mut other = |name: &str| {
            (name == "base.toml")
                .then(|| ("base.toml".to_owned(), "extends = \"abyss\"\n[roles]\nink = \"#ffffff\"\n".to_owned()))
        };
        let deep = read("own.toml", "extends = \"base.toml\"\n", None, &mut other).expect("a theme");
        assert_eq!((deep.ink.hex().as_str(), deep.paper), ("#ffffff", named("abyss", None).expect("a theme").paper));
    }

    #[test]
    fn an_accent_turns_what_is_quiet_and_nothing_else() {
        let shoal = Theme::default();
        let coral = named("shoal", Some(Hue::CORAL)).expect("a theme");
        let hue_of = |colour: Colour| colour.to_oklch().2;
        for colour in [coral.line, coral.frame, coral.outline, coral.accent, coral.band(2)] {
            assert!((hue_of(colour) - 32.0).abs() < 4.0, "{colour:?}");
        }
        assert_eq!((coral.paper, coral.fill(Hue::CORAL)), (shoal.paper, shoal.fill(Hue::CORAL)));
        assert_legible(&coral);
        assert_eq!(own("accent = \"coral\"\n").expect("a theme").line, coral.line);
    }

    #[test]
    fn what_is_wrong_is_named_with_its_place() {
        for (text, said) in [
            ("[roles]\npapr = \"#ffffff\"\n", "papr"),
            ("[roles]\npaper = \"white\"\n", "line 3"),
            ("[roles]\npaper = \"white\"\n", "`white` is no colour; write"),
            ("[roles]\npaper = \"oklch(2 0 0)\"\n", "lightness from 0 to 1"),
            ("accent = \"corall\"\n", "there are coral, ochre"),
            ("[hues]\nmauve = { hue = 3 }\n", "no colour of the palette is called `mauve`"),
            ("[bands]\nhatch = { angle = 45, gap = 0 }\n", "a gap from 2 to 40"),
            ("colour = 1\n", "unknown field `colour`"),
            ("[roles\n", "line 2"),
        ] {
            let why = own(text).expect_err(text).to_string();
            assert!(why.contains(said), "{text:?}: {why}");
        }
        let nothing = |text: &str| read("a.toml", text, None, &mut |_| None).expect_err(text).message;
        assert!(nothing("about = \"x\"\n").contains("extends = \"shoal\""), "{}", nothing("about = \"x\"\n"));
        assert!(nothing("extends = \"shaol\"\n").contains("`shaol` is neither"));
        let circle = read("a.toml", "extends = \"a.toml\"\n", None, &mut |n| {
            Some((n.to_owned(), "extends = \"a.toml\"\n".to_owned()))
        });
        assert!(circle.expect_err("a circle").message.contains("in a circle"));
        let unknown = named("shaol", None).expect_err("no theme").message;
        assert!(unknown.contains("did you mean `shoal`?") && unknown.contains("pencil"), "{unknown}");
    }

    proptest::proptest! {
        /// Whatever colours a project chooses, its texts can be read.
        #[test]
        fn texts_of_any_theme_are_legible(parts in proptest::collection::vec(0..=0xff_ffff_u32, 6)) {
            let roles = ["paper", "ink", "quiet"].into_iter().zip(&parts).map(|(role, c)| format!("{role} = \"#{c:06x}\"\n"));
            let kinds = ["usual", "remark"].into_iter().zip(&parts[3..]).map(|(kind, c)| format!("{kind} = \"#{c:06x}\"\n"));
            let text = format!("[roles]\n{}[kinds]\n{}", roles.collect::<String>(), kinds.collect::<String>());
            let theme = own(&text).expect("a theme");
            let palette = Palette::new(&theme, Ground::Paper);
            for ground in [Ground::Paper, Ground::Tone(Tone::Usual), Ground::Tone(Tone::Remark), Ground::Band(3)] {
                for text in [Paint::TextOn(ground), Paint::CalmOn(ground), Paint::QuietOn(ground, None)] {
                    let contrast = palette.colour(text).contrast(palette.colour(ground.into()));
                    proptest::prop_assert!(contrast >= LEGIBLE, "{:?}: {}", text, contrast);
                }
            }
        }
    }
}

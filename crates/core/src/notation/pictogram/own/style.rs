//! What a shape of an SVG inherits from the elements around it (SVG 2, chapters 6 and 13): paints, opacities, the width of
//! its line. Values that cannot be read count as not given, as the standard has it.

use roxmltree::Node;
use std::str::FromStr;
use svgtypes::{Color, Length, LengthUnit, Paint};

/// A unit of length in px at 96 px for an inch (CSS Values 4, 5.2); a letter is taken as 16 px high.
fn unit_px(unit: LengthUnit) -> f64 {
    match unit {
        LengthUnit::None | LengthUnit::Px | LengthUnit::Percent => 1.0,
        LengthUnit::Em => 16.0,
        LengthUnit::Ex => 8.0,
        LengthUnit::In => 96.0,
        LengthUnit::Cm => 96.0 / 2.54,
        LengthUnit::Mm => 96.0 / 25.4,
        LengthUnit::Pt => 96.0 / 72.0,
        LengthUnit::Pc => 16.0,
    }
}

/// A length in user units; percents are of `whole`.
pub(super) fn length(text: &str, whole: f64) -> Option<f64> {
    let length = Length::from_str(text.trim()).ok()?;
    let factor = if length.unit == LengthUnit::Percent { whole / 100.0 } else { unit_px(length.unit) };
    Some(length.number * factor)
}

/// A property of an element: of its `style`, or else its attribute.
pub(super) fn property<'a>(node: Node<'a, '_>, name: &str) -> Option<&'a str> {
    let declarations = node.attribute("style").unwrap_or_default().split(';');
    let of_style = declarations.filter_map(|d| d.split_once(':')).filter(|(key, _)| key.trim() == name).last();
    let value = of_style.map(|(_, value)| value.trim_end_matches("!important")).or_else(|| node.attribute(name));
    value.map(str::trim).filter(|value| *value != "inherit")
}

/// An opacity between 0 and 1; it may be written in percent.
pub(super) fn opacity(text: &str) -> Option<f64> {
    length(text, 1.0).map(|value| value.clamp(0.0, 1.0))
}

/// What a shape inherits.
#[derive(Clone)]
pub(super) struct Style<'a> {
    /// The colour that `currentColor` stands for.
    pub(super) colour: Color,
    pub(super) fill: Paint<'a>,
    pub(super) fill_opacity: f64,
    pub(super) stroke: Paint<'a>,
    pub(super) stroke_opacity: f64,
    /// In user units.
    pub(super) stroke_width: f64,
    /// That of all elements around it, multiplied.
    pub(super) opacity: f64,
    pub(super) is_visible: bool,
}

impl<'a> Style<'a> {
    /// What holds where nothing is said.
    pub(super) fn initial() -> Self {
        Self {
            colour: Color::black(),
            fill: Paint::Color(Color::black()),
            fill_opacity: 1.0,
            stroke: Paint::None,
            stroke_opacity: 1.0,
            stroke_width: 1.0,
            opacity: 1.0,
            is_visible: true,
        }
    }

    /// With what an element says of itself; percents of widths are of `diagonal`.
    pub(super) fn within(&self, node: Node<'a, '_>, diagonal: f64) -> Self {
        let get = |name: &str| property(node, name);
        let paint = |name: &str| Paint::from_str(get(name)?).ok();
        Self {
            colour: get("color").and_then(|c| Color::from_str(c).ok()).unwrap_or(self.colour),
            fill: paint("fill").unwrap_or(self.fill),
            fill_opacity: get("fill-opacity").and_then(opacity).unwrap_or(self.fill_opacity),
            stroke: paint("stroke").unwrap_or(self.stroke),
            stroke_opacity: get("stroke-opacity").and_then(opacity).unwrap_or(self.stroke_opacity),
            stroke_width: get("stroke-width").and_then(|w| length(w, diagonal)).unwrap_or(self.stroke_width),
            opacity: self.opacity * get("opacity").and_then(opacity).unwrap_or(1.0),
            is_visible: get("visibility").map_or(self.is_visible, |v| v == "visible"),
        }
    }
}

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
    let declarations = node.attribute("style").unwrap_or_default().rsplit(';');
    // The last one counts.
    let of_style = declarations.filter_map(|d| d.split_once(':')).find(|(key, _)| key.trim() == name);
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

#[cfg(test)]
mod tests {
    use super::*;

    /// What the only element of an SVG says of itself.
    fn style_of(attributes: &str, check: impl FnOnce(Style<'_>)) {
        let text = format!("<svg xmlns=\"http://www.w3.org/2000/svg\"><g {attributes}/></svg>");
        let xml = roxmltree::Document::parse(&text).expect("XML");
        let node = xml.root_element().first_element_child().expect("an element");
        check(Style::initial().within(node, 100.0));
    }

    #[test]
    fn a_style_goes_before_an_attribute() {
        style_of("fill='red' style='stroke: blue; fill : #00ff00 !important;'", |style| {
            assert_eq!(style.fill, Paint::Color(Color::new_rgb(0, 255, 0)));
            assert_eq!(style.stroke, Paint::Color(Color::new_rgb(0, 0, 255)));
        });
        style_of("fill='red' style='fill: inherit'", |style| assert_eq!(style.fill, Style::initial().fill));
    }

    #[test]
    fn what_cannot_be_read_counts_as_not_given() {
        style_of("fill='no colour' stroke-width='wide' opacity='?' style=';;:;fill'", |style| {
            let initial = Style::initial();
            assert_eq!((style.fill, style.stroke_width), (initial.fill, initial.stroke_width));
            assert_eq!(style.opacity, 1.0);
        });
    }

    #[test]
    fn opacities_are_between_none_and_all_and_multiply() {
        for (text, expected) in [("0.5", 0.5), ("50%", 0.5), ("7", 1.0), ("-1", 0.0), ("1e-3", 0.001)] {
            assert_eq!(opacity(text), Some(expected), "{text}");
        }
        let mut outer = Style::initial();
        outer.opacity = 0.5;
        let xml = roxmltree::Document::parse("<g opacity='0.5'/>").expect("XML");
        assert_eq!(outer.within(xml.root_element(), 1.0).opacity, 0.25);
    }

    #[test]
    fn lengths_have_units() {
        for (text, expected) in
            [("3", 3.0), ("3px", 3.0), ("1in", 96.0), ("2.54cm", 96.0), ("25.4mm", 96.0), ("72pt", 96.0), ("6pc", 96.0)]
        {
            let found = length(text, 0.0).expect(text);
            assert!((found - expected).abs() < 1e-9, "{text}: {found}");
        }
        assert_eq!(length("25%", 80.0), Some(20.0));
        assert_eq!((length("", 1.0), length("px", 1.0), length("3 px", 1.0)), (None, None, None));
    }
}

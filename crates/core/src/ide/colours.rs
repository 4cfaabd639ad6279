//! The colours that a text names.

use crate::model::LookRule;
use crate::pipeline::Reading;
use crate::source::Span;
use crate::syntax::Trait;
use crate::theme::{Colour, Ground, Hue, Paint, Palette, Theme};
use crate::vocabulary::TraitWord;

/// A colour where it is named.
#[derive(Clone, Debug, PartialEq)]
pub struct NamedColour {
    /// Where it stands.
    pub span: Span,
    /// The colour of lines and letters that it stands for in a theme.
    pub colour: Colour,
}

/// All colours of a text, as a theme has them, in the order of the text.
pub fn colours(reading: &Reading, theme: &Theme) -> Vec<NamedColour> {
    let palette = Palette::new(theme, Ground::Paper);
    let own = |span: Span| span.source.is_root() && span.start < span.end;
    let mut found: Vec<NamedColour> = traits(reading)
        .filter(|t| matches!(t.meaning(), Some(TraitWord::Line | TraitWord::Fill | TraitWord::Text)))
        .flat_map(|t| &t.values)
        .filter(|value| own(value.span))
        .filter_map(|value| {
            let hue = Hue::from_name(&value.value)?;
            Some(NamedColour { span: value.span, colour: palette.colour(Paint::Ground(Ground::Shade(hue))) })
        })
        .collect();
    found.sort_by_key(|named| named.span);
    found.dedup_by_key(|named| named.span);
    found
}

/// The names of colours, the nearest to some colour first.
pub fn nearest_colours(theme: &Theme, wanted: Colour) -> Vec<&'static str> {
    let palette = Palette::new(theme, Ground::Paper);
    // Of what people see as near: lightness, and the two sides of colour (OKLCH, CSS Color 4).
    let place = |colour: Colour| {
        let (lightness, chroma, hue) = colour.to_oklch();
        let angle = hue.to_radians();
        [lightness, chroma * libm::cos(angle), chroma * libm::sin(angle)]
    };
    let target = place(wanted);
    let off = |hue: Hue| -> f64 {
        let own = place(palette.colour(Paint::Ground(Ground::Shade(hue))));
        own.iter().zip(target).map(|(a, b)| (a - b) * (a - b)).sum()
    };
    let mut all: Vec<Hue> = Hue::all().collect();
    all.sort_by(|a, b| off(*a).total_cmp(&off(*b)));
    all.into_iter().map(Hue::name).collect()
}

/// The traits of everything that the text declares.
fn traits(reading: &Reading) -> impl Iterator<Item = &Trait> {
    let diagrams = reading.document.diagrams.iter();
    let own = diagrams.flat_map(|diagram| {
        let elements = diagram.elements.iter().flat_map(|element| &element.traits);
        elements.chain(diagram.relations.iter().flat_map(|relation| &relation.traits))
    });
    own.chain(reading.document.looks.iter().flat_map(|rule: &LookRule| &rule.traits))
}

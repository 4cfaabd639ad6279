//! Colours as attributes, and for dark pages as classes: a drawing in two themes follows the reader's colour scheme.

use crate::theme::{Colour, Ground, Paint, Palette, Themes};
use std::collections::BTreeMap;
use std::fmt::Write;

/// What is coloured.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum What {
    Fill,
    Stroke,
}

impl What {
    fn word(self) -> &'static str {
        match self {
            What::Fill => "fill",
            What::Stroke => "stroke",
        }
    }

    /// The name of a class.
    fn class(self, number: usize) -> String {
        format!("{}{number}", &self.word()[..1])
    }
}

/// The colours of one drawing.
pub(super) struct Ink<'a> {
    main: Palette<'a>,
    dark: Option<Palette<'a>>,
    /// The classes so far, by what they colour and how on light and on dark pages.
    classes: BTreeMap<(What, Colour, Colour), usize>,
    /// Those of the shape that is being written.
    open: Vec<(What, usize)>,
}

impl<'a> Ink<'a> {
    pub(super) fn new(themes: &'a Themes, ground: Ground) -> Self {
        let dark = themes.dark.as_ref().map(|theme| Palette::new(theme, ground));
        Self { main: Palette::new(&themes.main, ground), dark, classes: BTreeMap::new(), open: Vec::new() }
    }

    /// Writes the inside of a shape, or the colour of a text.
    pub(super) fn fill(&mut self, out: &mut String, paint: Option<Paint>) {
        match paint {
            Some(paint) => self.colour(out, What::Fill, paint),
            None => out.push_str(" fill=\"none\""),
        }
    }

    /// Writes the colour of a line.
    pub(super) fn stroke(&mut self, out: &mut String, paint: Paint) {
        self.colour(out, What::Stroke, paint);
    }

    fn colour(&mut self, out: &mut String, what: What, paint: Paint) {
        let colour = self.main.colour(paint);
        let _ = write!(out, " {}=\"{}\"", what.word(), colour.hex());
        if let Some(dark) = self.dark.map(|palette| palette.colour(paint)).filter(|dark| *dark != colour) {
            let next = self.classes.len();
            self.open.push((what, *self.classes.entry((what, colour, dark)).or_insert(next)));
        }
    }

    /// Ends the attributes of a shape: writes its classes.
    pub(super) fn end(&mut self, out: &mut String) {
        if self.open.is_empty() {
            return;
        }
        let names: Vec<String> = self.open.drain(..).map(|(what, number)| what.class(number)).collect();
        let _ = write!(out, " class=\"{}\"", names.join(" "));
    }

    /// Writes the colours of dark pages.
    pub(super) fn style_sheet(&self, out: &mut String) {
        if self.classes.is_empty() {
            return;
        }
        out.push_str("<style>@media (prefers-color-scheme: dark){");
        for ((what, _, dark), number) in &self.classes {
            let _ = write!(out, ".{}{{{}:{}}}", what.class(*number), what.word(), dark.hex());
        }
        out.push_str("}</style>\n");
    }
}

//! Colours as attributes, and for dark pages as classes: a drawing in two themes follows the reader's colour scheme.

use crate::scene::{Item, Scene};
use crate::theme::{Colour, Ground, Paint, Palette, Themes};
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;

/// What is coloured.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum What {
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
}

/// What a class colours, and how on light and on dark pages.
pub(super) type Class = (What, Colour, Colour);

/// The name of a class: pictures of one page that have the same class mean the same.
fn name((what, light, dark): Class) -> String {
    let [light, dark] = [light, dark].map(|colour| colour.hex().replace('#', ""));
    format!("{}{light}{dark}", &what.word()[..1])
}

/// The rules of classes on dark pages.
pub(super) fn rules(classes: &BTreeSet<Class>) -> String {
    classes.iter().fold(String::new(), |mut out, class| {
        let _ = write!(out, ".{}{{{}:{}}}", name(*class), class.0.word(), class.2.hex());
        out
    })
}

/// The colours of one drawing.
pub(super) struct Ink<'a> {
    main: Palette<'a>,
    dark: Option<Palette<'a>>,
    /// What paints come to: letters on a ground take some time.
    known: BTreeMap<Paint, Colour>,
    /// The classes so far.
    classes: BTreeSet<Class>,
    /// Those of the shape that is being written.
    open: Vec<Class>,
}

impl<'a> Ink<'a> {
    pub(super) fn new(themes: &'a Themes, ground: Ground) -> Self {
        let dark = themes.dark.as_ref().map(|theme| Palette::new(theme, ground));
        Self {
            main: Palette::new(&themes.main, ground),
            dark,
            known: BTreeMap::new(),
            classes: BTreeSet::new(),
            open: Vec::new(),
        }
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
        let colour = *self.known.entry(paint).or_insert_with(|| self.main.colour(paint));
        let _ = write!(out, " {}=\"{}\"", what.word(), colour.hex());
        self.open.extend(self.class(what, paint));
    }

    /// The class of what is coloured otherwise on dark pages.
    fn class(&self, what: What, paint: Paint) -> Option<Class> {
        let dark = self.dark?.colour(paint);
        let colour = self.main.colour(paint);
        if dark == colour {
            return None;
        }
        Some((what, colour, dark))
    }

    /// Ends the attributes of a shape: writes its classes.
    pub(super) fn end(&mut self, out: &mut String) {
        if self.open.is_empty() {
            return;
        }
        let names: Vec<String> = self.open.iter().map(|class| name(*class)).collect();
        let _ = write!(out, " class=\"{}\"", names.join(" "));
        self.classes.extend(self.open.drain(..));
    }

    /// Writes the colours of dark pages.
    pub(super) fn style_sheet(&self, out: &mut String) {
        if self.classes.is_empty() {
            return;
        }
        let _ = writeln!(out, "<style>@media (prefers-color-scheme: dark){{{}}}</style>", rules(&self.classes));
    }

    /// The classes of a whole drawing.
    pub(super) fn classes_of(&self, scene: &Scene) -> BTreeSet<Class> {
        let mut classes: BTreeSet<Class> = self.class(What::Fill, scene.ground.into()).into_iter().collect();
        let mut work: Vec<&Item> = scene.items.iter().collect();
        while let Some(item) = work.pop() {
            match item {
                Item::Group(_, inner) => work.extend(inner),
                Item::Path { fill, stroke, .. } => {
                    classes.extend(fill.and_then(|paint| self.class(What::Fill, paint)));
                    classes.extend(stroke.and_then(|stroke| self.class(What::Stroke, stroke.paint)));
                }
                Item::Text(text) => classes.extend(self.class(What::Fill, text.fill)),
                Item::Image { .. } => {}
            }
        }
        classes
    }
}

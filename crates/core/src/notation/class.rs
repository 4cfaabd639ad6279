//! Classifiers with their compartments (UML 2.5.1, 9.2.4 and 11.4.4); tables in columns are in [`table`].

mod table;

use super::figure::{Figure, FigureText};
use super::symbol::Symbol;
use crate::geom::{Rect, Size, up4};
use crate::measure::{Face, Fonts, TextBlock, wrap, wrap_hanging};
use crate::model::{ClassBody, Compartment, Element, ElementKind, Member};
use crate::scene::TextAnchor;
use crate::source::{Sources, Span};
use crate::syntax::{FORMULA_SPACE, Label};
use crate::vocabulary::TraitWord;

/// Room at the sides of members.
const PAD: f64 = 12.0;
/// Room above and below the members of a compartment.
const AIR: f64 = 6.0;
/// Room between the name and the box of type parameters; wider boxes than this stand above the name.
const CORNER_GAP: f64 = 6.0;
const CORNER_WIDTH: f64 = 44.0;
/// Members longer than this are wrapped.
// About 45 letters, the longest line that is read without losing it.
const MEASURE: f64 = 300.0;

/// The figure of a classifier.
pub(super) fn figure(fonts: &Fonts, sources: &Sources<'_>, element: &Element) -> Figure {
    let empty = ClassBody::default();
    let body = element.class.as_deref().unwrap_or(&empty);
    let mut builder = Builder {
        fonts,
        sources,
        figure: Figure::new(Symbol::Box, Size::default()),
        y: 8.0,
        width: 108.0,
        parameters: None,
    };
    builder.heading(element, body);
    builder.y += 8.0;
    builder.figure.header = Some(builder.y);
    if element.kind == ElementKind::Table {
        table::rows(&mut builder, body);
    } else {
        body.compartments.iter().for_each(|compartment| builder.compartment(compartment));
    }
    builder.finish()
}

/// The figure of a state: its name, and its behaviours below a line.
pub(super) fn state(fonts: &Fonts, sources: &Sources<'_>, element: &Element) -> Figure {
    let mut builder = Builder {
        fonts,
        sources,
        figure: Figure::new(Symbol::Card, Size::default()),
        y: 10.0,
        width: 96.0,
        parameters: None,
    };
    let block = wrap(fonts, &element.shown(), Face::Bold, 13.5, 180.0);
    builder.text(block, TextAnchor::Middle, Ink::Plain);
    builder.y += 8.0;
    for compartment in element.class.iter().flat_map(|body| &body.compartments) {
        builder.compartment(compartment);
    }
    builder.finish()
}

struct Builder<'a> {
    fonts: &'a Fonts,
    sources: &'a Sources<'a>,
    figure: Figure,
    y: f64,
    width: f64,
    parameters: Option<TextBlock>,
}

/// The box of type parameters.
fn corner_size(parameters: &TextBlock) -> Size {
    Size::new(parameters.width() + 12.0, parameters.height() + 4.0)
}

/// How a text is set.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Ink {
    Plain,
    Quiet,
    Underlined,
}

impl Ink {
    fn underlined(is_underlined: bool) -> Self {
        if is_underlined { Self::Underlined } else { Self::Plain }
    }
}

impl Builder<'_> {
    fn text(&mut self, block: TextBlock, anchor: TextAnchor, ink: Ink) {
        let place = Rect::new(PAD, self.y, block.width(), block.height());
        self.width = self.width.max(block.width() + 2.0 * PAD);
        self.y += block.height();
        self.figure.texts.push(FigureText {
            quiet: ink == Ink::Quiet,
            underline: ink == Ink::Underlined,
            ..FigureText::new(block, place, anchor)
        });
    }

    fn plain(&self, text: &str, face: Face, size: f64) -> TextBlock {
        wrap(self.fonts, &Label::plain(text, Span::default()), face, size, MEASURE)
    }

    /// Keyword and name.
    fn heading(&mut self, element: &Element, body: &ClassBody) {
        let keyword = body.keyword.clone().or_else(|| match element.kind {
            ElementKind::Interface => Some("interface".into()),
            ElementKind::Enum => Some("enumeration".into()),
            ElementKind::Record => Some("dataType".into()),
            ElementKind::Table => Some("table".into()),
            _ => None,
        });
        if let Some(parameters) = &body.parameters {
            self.parameters(parameters);
        }
        if let Some(keyword) = keyword {
            let block = self.plain(&format!("«{keyword}»"), Face::Regular, 11.5);
            self.text(block, TextAnchor::Middle, Ink::Quiet);
        }
        let mut name = element.shown();
        if let Some(class) = &body.instance_of {
            name.runs.push(crate::syntax::Run { text: format!(": {class}"), style: Default::default() });
        }
        let face = if element.has(TraitWord::Abstract) { Face::BoldItalic } else { Face::Bold };
        let block = wrap(self.fonts, &name, face, 14.5, MEASURE);
        if let Some(corner) = self.parameters.as_ref().map(corner_size).filter(|c| c.w <= CORNER_WIDTH) {
            // The name stands in the middle, and free of the corner.
            self.width = self.width.max(block.width() + 2.0 * (corner.w + CORNER_GAP));
        }
        self.text(block, TextAnchor::Middle, Ink::underlined(element.kind == ElementKind::Object));
    }

    /// Type parameters in a dashed box in the upper right corner (UML 2.5.1, 9.3.4); long ones above the name.
    fn parameters(&mut self, parameters: &str) {
        let block = self.plain(parameters, Face::Regular, 11.5);
        let size = corner_size(&block);
        if size.w > CORNER_WIDTH {
            self.width = self.width.max(size.w + 2.0 * PAD);
            self.y = self.y.max(size.h + 2.0);
        }
        self.parameters = Some(block);
    }

    /// Begins a compartment: a rule, and its title.
    fn open(&mut self, title: Option<&Label>) {
        self.figure.rules.push(self.y);
        self.y += AIR;
        if let Some(title) = title {
            let block = wrap(self.fonts, title, Face::Italic, 11.5, MEASURE);
            self.text(block, TextAnchor::Middle, Ink::Quiet);
        }
    }

    fn compartment(&mut self, compartment: &Compartment) {
        self.open(compartment.title.as_ref());
        for member in &compartment.members {
            let written = member.shown();
            let face = match (member.is_abstract, member.key) {
                (true, _) => Face::Italic,
                (_, true) => Face::Bold,
                _ => Face::Regular,
            };
            // A mark of visibility stays with its name.
            let shown = match written.split_once(' ') {
                Some((mark, rest)) if mark.chars().count() <= 2 => format!("{mark}{FORMULA_SPACE}{rest}"),
                _ => written,
            };
            let label = Label::plain(shown, Span::default());
            let block = wrap_hanging(self.fonts, &label, face, 13.0, MEASURE);
            self.text(block, TextAnchor::Start, Ink::underlined(member.is_static));
            self.of_line(member);
        }
        self.y += AIR;
    }

    /// The text that was set last stands in the line of a member.
    fn of_line(&mut self, member: &Member) {
        if let Some(text) = self.figure.texts.last_mut().filter(|_| member.span.source.is_root()) {
            text.line = Some(self.sources.line(member.span));
        }
    }

    fn finish(mut self) -> Figure {
        let w = up4(self.width);
        for text in self.figure.texts.iter_mut().filter(|t| t.anchor == TextAnchor::Middle) {
            text.place.x = (w - text.place.w) / 2.0;
        }
        // A classifier without compartments is filled as a whole.
        if self.figure.rules.is_empty() {
            self.figure.header = None;
            let h = up4(self.y.max(40.0));
            let shift = (h - self.y) / 2.0;
            self.figure.texts.iter_mut().for_each(|t| t.place.y += shift);
            self.y = h;
        }
        self.figure.size = Size::new(w, up4(self.y));
        if let Some(block) = self.parameters {
            let size = corner_size(&block);
            let corner = Rect::new(w - size.w, 0.0, size.w, size.h);
            let place = Rect::around(corner.middle(), Size::new(block.width(), block.height()));
            self.figure.corner = Some(corner);
            self.figure.texts.push(FigureText::new(block, place, TextAnchor::Start));
        }
        self.figure
    }
}

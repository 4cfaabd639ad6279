//! A legend: what the kinds, verbs and tags that occur look like. Output: items below the picture, from
//! its own left top corner, and their size.

use super::context::Context;
use super::ends;
use super::figure::Figure;
use super::shaper::{Shaper, icon_of};
use super::symbol::Symbol;
use super::text::{moved, texts_in};
use crate::geom::{Path, Rect, Size, pt};
use crate::measure::{Face, TextBlock, wrap};
use crate::model::{Diagram, DiagramKind, Element, ElementKind, Relation, Selector, Verb};
use crate::scene::{Item, Stroke, TextAnchor};
use crate::syntax::Label;
use crate::theme::{Dash, ElementStyle, Paint, RelationStyle, Styles};
use crate::views::ElementView;
use crate::vocabulary::TraitWord;

/// Size of a sample of an element.
const SAMPLE: Size = Size { w: 36.0, h: 24.0 };
/// Room between two entries.
const GAP: f64 = 28.0;
/// Height of a row.
// A swatch of 24 px with as much room around it as between lines of text.
const ROW: f64 = 36.0;
/// A legend is at least this wide before it goes on in another row.
// A legend seldom makes a picture wider then: few pictures are narrower.
const NARROWEST: f64 = 520.0;

/// The word for an element with more inside it.
const MORE_INSIDE: &str = "more inside";

/// One entry: its sample's items from (0, 0), the sample's width, and its text.
struct Entry {
    sample: Vec<Item>,
    width: f64,
    text: TextBlock,
}

/// Draws the legend of a diagram, about as wide as its picture.
pub(super) fn draw(diagram: &Diagram, styles: &Styles, context: &Context<'_>, width: f64) -> (Vec<Item>, Size) {
    let mut entries = elements(diagram, styles, context);
    entries.extend(relations(diagram, styles, context));
    let limit = width.max(NARROWEST);
    // What needs more than one row stands in columns of one width.
    let wide = |entry: &Entry| entry.width + 10.0 + entry.text.width();
    let all: f64 = entries.iter().map(|entry| wide(entry) + GAP).sum();
    let column = entries.iter().map(wide).fold(0.0, f64::max) + GAP;
    let is_table = all - GAP > limit;
    let (mut x, mut y, mut widest) = (0.0, 12.0, 0.0);
    let mut items = Vec::new();
    for entry in entries {
        let wide = wide(&entry);
        if x > 0.0 && x + if is_table { column - GAP } else { wide } > limit {
            (x, y) = (0.0, y + ROW);
        }
        items.extend(entry.sample.into_iter().map(|i| moved(i, x, y)));
        let place =
            Rect::new(x + entry.width + 10.0, y + (SAMPLE.h - entry.text.height()) / 2.0, wide, entry.text.height());
        items.extend(texts_in(&entry.text, place, TextAnchor::Start, Paint::Quiet));
        widest = f64::max(widest, x + wide);
        x += if is_table { column } else { wide + GAP };
    }
    let rule = Path::line(&[pt(0.0, 0.0), pt(f64::max(widest, width), 0.0)]);
    let stroke = Some(Stroke::solid(Paint::Guide, 1.0));
    items.insert(0, Item::Path { path: rule, fill: None, stroke, role: None });
    (items, Size::new(widest, y + SAMPLE.h))
}

/// One sample for each kind that occurs, and for each tag that a rule gives a look.
fn elements(diagram: &Diagram, styles: &Styles, context: &Context<'_>) -> Vec<Entry> {
    let shaper = Shaper { fonts: context.fonts, kind: diagram.kind, tell: false, icons: context.icons };
    let mut seen: Vec<ElementKind> = Vec::new();
    let mut entries = Vec::new();
    for ((element, own), style) in diagram.elements.iter().zip(&context.view.elements).zip(&styles.elements) {
        let is_first = !seen.contains(&element.kind) && (is_plain(element, own) || !has_plain(context, element.kind));
        let untold = matches!(element.kind, ElementKind::Remark | ElementKind::Lost | ElementKind::Found);
        if untold || element.kind.is_box() || style.hidden || !is_first {
            continue;
        }
        seen.push(element.kind);
        entries.push(entry(element, style, meaning(element.kind, diagram.kind), &shaper, context));
    }
    let external = diagram.elements.iter().zip(&styles.elements).find(|(e, _)| e.has(TraitWord::External));
    entries.extend(external.map(|(e, style)| entry(e, style, "external", &shaper, context)));
    if diagram.kind == DiagramKind::Architecture {
        let holds = diagram.holds();
        let all = || diagram.elements.iter().zip(&context.view.elements).zip(&styles.elements);
        let closed = all().zip(holds).find(|(((_, own), _), holds)| own.has_more && !holds);
        entries.extend(closed.map(|(((e, _), style), _)| entry(e, style, MORE_INSIDE, &shaper, context)));
        let around = all().find(|((e, own), _)| own.context && !e.has(TraitWord::External));
        entries.extend(around.map(|((e, _), style)| entry(e, style, "around it", &shaper, context)));
    }
    for rule in context.looks {
        let Selector::Tag(tag) = &rule.selector else { continue };
        let tagged = diagram.elements.iter().zip(&styles.elements).find(|(e, _)| e.properties.tags.contains(tag));
        entries.extend(tagged.map(|(e, style)| entry(e, style, tag, &shaper, context)));
    }
    entries
}

/// Whether an element looks like any of its kind.
fn is_plain(element: &Element, own: &ElementView) -> bool {
    element.properties.tags.is_empty() && element.traits.is_empty() && !own.context
}

/// Whether an element of this kind does.
fn has_plain(context: &Context<'_>, kind: ElementKind) -> bool {
    let mut all = context.view.diagram.elements.iter().zip(&context.view.elements);
    all.any(|(e, own)| e.kind == kind && is_plain(e, own))
}

fn entry(element: &Element, style: &ElementStyle, word: &str, shaper: &Shaper<'_>, context: &Context<'_>) -> Entry {
    let figure = shaper.figure(element, style);
    let has_more = word == MORE_INSIDE && shaper.may_have_more(&figure);
    let symbol = figure.symbol;
    let size = match symbol {
        _ if element.kind == ElementKind::Junction => Size::new(12.0, 12.0),
        _ if element.kind == ElementKind::Entry => Size::new(16.0, 16.0),
        Symbol::Dot | Symbol::Target | Symbol::Crossed => Size::new(16.0, 16.0),
        Symbol::Circle | Symbol::Reel | Symbol::Ring | Symbol::Star | Symbol::Dots => Size::new(SAMPLE.h, SAMPLE.h),
        Symbol::Bar => Size::new(SAMPLE.w, 5.0),
        _ => SAMPLE,
    };
    let place = Rect::around(pt(SAMPLE.w / 2.0, SAMPLE.h / 2.0), size);
    let figure = Figure { has_more, ..Figure::new(symbol, size) };
    let mut sample = without_roles(figure.draw(place, style));
    if element.kind == ElementKind::History {
        let letter = wrap(context.fonts, &Label::plain("H", element.span), Face::Regular, 12.0, 60.0);
        sample.extend(texts_in(
            &letter,
            Rect::around(place.middle(), Size::new(letter.width(), letter.height())),
            TextAnchor::Middle,
            style.text,
        ));
    }
    let icon = icon_of(context.icons, element, style).filter(|_| symbol == Symbol::Card);
    sample.extend(icon.into_iter().flat_map(|art| art.draw((10.0, 4.0, 16.0), style.accent, 1.2)));
    Entry { sample, width: SAMPLE.w, text: text(word, context) }
}

/// Samples are no elements and no relations of the picture.
fn without_roles(mut items: Vec<Item>) -> Vec<Item> {
    for item in &mut items {
        if let Item::Path { role, .. } = item {
            *role = None;
        }
    }
    items
}

/// One sample for each way of drawing a line, with the verbs that are drawn so.
fn relations(diagram: &Diagram, styles: &Styles, context: &Context<'_>) -> Vec<Entry> {
    let mut seen = Vec::new();
    for (relation, style) in diagram.relations.iter().zip(&styles.relations) {
        let untold = matches!(relation.verb, Verb::Remarks | Verb::Aside | Verb::NeverUses | Verb::Runs | Verb::Does);
        if untold || style.hidden {
            continue;
        }
        let (from, to, dash) = heads(diagram, relation);
        let look = ([from, to], style.dash.unwrap_or(dash), *style);
        let word = word(relation.verb);
        let is_known = seen.iter().any(|(_, words): &(_, Vec<&str>)| words.contains(&word));
        match seen.iter_mut().find(|(known, _)| *known == look) {
            Some((_, words)) if !is_known => words.push(word),
            None if !is_known => seen.push((look, vec![word])),
            _ => {}
        }
    }
    seen.into_iter().map(|(look, words)| Entry { text: text(&words.join(", "), context), ..sample(look) }).collect()
}

/// A stretch of line with its heads, without words.
fn sample((heads, dash, style): ([ends::Head; 2], Dash, RelationStyle)) -> Entry {
    let points = [pt(0.0, SAMPLE.h / 2.0), pt(48.0, SAMPLE.h / 2.0)];
    let sample = without_roles(ends::line(&points, heads, dash, &style, Paint::PICTURE));
    Entry { sample, width: 48.0, text: TextBlock::default() }
}

fn heads(diagram: &Diagram, relation: &Relation) -> (ends::Head, ends::Head, Dash) {
    if diagram.kind == DiagramKind::Sequence { ends::of_verb(relation.verb) } else { ends::heads(diagram, relation) }
}

/// What a symbol means to those who do not know the standard.
fn meaning(kind: ElementKind, diagram: DiagramKind) -> &'static str {
    use ElementKind as Kind;
    match (kind, diagram) {
        (Kind::Store, DiagramKind::Flow) => "stored data",
        (Kind::Begin, _) => "beginning",
        (Kind::Finish, _) => "end",
        (Kind::Decide, _) => "decision",
        (Kind::Manual, _) => "done by hand",
        (Kind::Enter, _) => "typed in",
        (Kind::Prepare, _) => "preparation",
        (Kind::Call, _) => "described elsewhere",
        (Kind::Display, _) => "shown on a screen",
        (Kind::Connector, _) => "goes on elsewhere",
        (Kind::Wait, _) => "waiting",
        (Kind::Memory, _) => "internal storage",
        (Kind::Card, _) => "punched card",
        (Kind::Strip, _) => "punched tape",
        (Kind::Ellipsis, _) => "left out",
        (Kind::Repeat, _) => "repeated from here",
        (Kind::Until, _) => "repeated up to here",
        (Kind::Bar, _) => "at the same time",
        (Kind::Junction, _) => "transitions meet",
        (Kind::History, _) => "the state left last",
        (Kind::Entry, _) => "way in",
        (Kind::Exit, _) => "way out",
        (Kind::Chance, _) => "left to chance",
        _ => kind.word(),
    }
}

/// What a line means, in a word.
fn word(verb: Verb) -> &'static str {
    match verb {
        Verb::Then => "then",
        Verb::Onward => "missing branch",
        other => other.word(),
    }
}

fn text(word: &str, context: &Context<'_>) -> TextBlock {
    let label = Label::plain(word.replace('_', " "), crate::source::Span::default());
    wrap(context.fonts, &label, Face::Regular, 12.0, 200.0)
}

//! A legend: what the kinds, verbs and tags that occur look like. Output: items below the picture, from
//! its own left top corner, and their size.

use super::context::Context;
use super::ends;
use super::figure::Figure;
use super::shaper::{Shaper, icon_of};
use super::symbol::Symbol;
use super::text::{moved, texts_in};
use super::words;
use crate::geom::{Path, Rect, Size, pt};
use crate::language::Language;
use crate::measure::{Face, TextBlock, wrap};
use crate::model::{Diagram, DiagramKind, Element, ElementKind, Relation, Selector, Verb};
use crate::scene::{Item, Stroke, TextAnchor};
use crate::syntax::Label;
use crate::theme::{Dash, ElementStyle, Paint, RelationStyle, Styles, Swatch, resolve_kinds, swatch};
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

/// One entry: its sample's items from (0, 0), the sample's width, and its text.
struct Entry {
    sample: Vec<Item>,
    width: f64,
    text: TextBlock,
}

/// Draws the legend of a diagram, about as wide as its picture. `has_depths` says whether frames show
/// how deep they lie.
pub(super) fn draw(
    diagram: &Diagram, styles: &Styles, context: &Context<'_>, width: f64, has_depths: bool,
) -> (Vec<Item>, Size) {
    // A sample shows what is general; what tags ask for has samples of its own.
    let general = &resolve_kinds(context.looks, context.view);
    let mut entries = elements(diagram, (styles, general), context);
    entries.extend(relations(diagram, (styles, general), context));
    entries.extend(tags(diagram, styles, context));
    entries.extend(has_depths.then(|| depth_entry(context)));
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

/// One sample for each kind that occurs.
fn elements(diagram: &Diagram, (styles, general): (&Styles, &Styles), context: &Context<'_>) -> Vec<Entry> {
    let shaper = Shaper::new(context, diagram.kind);
    let mut seen: Vec<ElementKind> = Vec::new();
    let mut entries = Vec::new();
    let all = || {
        let shown = diagram.elements.iter().zip(&context.view.elements).zip(&styles.elements).zip(&general.elements);
        shown.filter(|((_, style), _)| !style.hidden).map(|(((element, own), _), general)| (element, own, general))
    };
    for (element, own, style) in all() {
        let is_first = !seen.contains(&element.kind) && (is_plain(element, own) || !has_plain(context, element.kind));
        let untold = matches!(element.kind, ElementKind::Remark | ElementKind::Lost | ElementKind::Found);
        if untold || element.kind.is_box() || !is_first {
            continue;
        }
        seen.push(element.kind);
        let word = meaning(element.kind, diagram.kind, context.language);
        entries.push(entry(element, style, (word, false), &shaper, context));
    }
    let say = |key| context.language.say("legend", key);
    let external = all().find(|(e, ..)| e.has(TraitWord::External));
    entries.extend(external.map(|(e, _, style)| entry(e, style, (say("external"), false), &shaper, context)));
    if diagram.kind == DiagramKind::Architecture {
        let holds = diagram.holds();
        let closed = diagram.ids().find(|(id, e)| {
            let is_shown = !styles.elements[id.index()].hidden && !e.kind.is_box();
            is_shown && context.view.element(*id).has_more && !holds[id.index()]
        });
        let closed = closed.map(|(id, e)| (e, &general.elements[id.index()]));
        entries.extend(closed.map(|(e, style)| entry(e, style, (say("inside"), true), &shaper, context)));
        let around = all().find(|(e, own, _)| own.context && !e.has(TraitWord::External));
        entries.extend(around.map(|(e, _, style)| entry(e, style, (say("around"), false), &shaper, context)));
    }
    entries
}

/// One sample for each tag that a rule gives a look: what the rule does, and nothing else.
fn tags(diagram: &Diagram, styles: &Styles, context: &Context<'_>) -> Vec<Entry> {
    let mut entries = Vec::new();
    for rule in context.looks {
        let Selector::Tag(tag) = &rule.selector else { continue };
        let elements = diagram.elements.iter().zip(&styles.elements);
        let has_elements = elements.filter(|(_, style)| !style.hidden).any(|(e, _)| e.properties.tags.contains(tag));
        let relations = diagram.relations.iter().zip(&styles.relations);
        let has_relations = relations.filter(|(_, style)| !style.hidden).any(|(r, _)| r.tags().any(|own| own == tag));
        let swatch = swatch(rule);
        let (mut sample, mut width) = (Vec::new(), 0.0);
        if has_elements {
            sample = box_of(&swatch, context);
            width = SAMPLE.w;
        }
        if has_relations && swatch.has_line {
            let line = stretch([ends::Head::None; 2], Dash::Solid, &swatch.relation);
            let x = if width > 0.0 { width + 8.0 } else { 0.0 };
            sample.extend(line.into_iter().map(|item| moved(item, x, 0.0)));
            width = x + STRETCH;
        }
        if width > 0.0 {
            entries.push(Entry { sample, width, text: text(tag, context) });
        }
    }
    entries
}

/// A box with what a rule does.
fn box_of(swatch: &Swatch, context: &Context<'_>) -> Vec<Item> {
    let symbol = swatch.element.shape.map_or(Symbol::Card, Symbol::of_shape);
    let mut items = in_proportion(&Figure::new(symbol, NATURAL), &swatch.element);
    let middle = pt(SAMPLE.w / 2.0, SAMPLE.h / 2.0);
    let icon = swatch.element.icon.as_deref().and_then(|name| context.icons.find(name));
    items.extend(
        icon.into_iter().flat_map(|art| art.draw((middle.x - 8.0, middle.y - 8.0, 16.0), swatch.element.accent, 1.2)),
    );
    if swatch.has_text {
        let letters = text("Aa", context);
        let place = Rect::around(middle, Size::new(letters.width(), letters.height()));
        items.extend(texts_in(&letters, place, TextAnchor::Middle, swatch.element.text));
    }
    items
}

/// What the figure on a frame means.
fn depth_entry(context: &Context<'_>) -> Entry {
    let frame = Rect::new(0.0, 4.0, SAMPLE.w, SAMPLE.h - 4.0);
    let stroke = Some(Stroke::solid(Paint::Frame, 1.25));
    let outline = Path::rounded(frame, 6.0);
    let mut sample = vec![Item::Path { path: outline, fill: Some(Paint::PICTURE), stroke, role: None }];
    let figure = text("1", context);
    let place = Rect::around(pt(frame.middle().x, frame.y), Size::new(figure.width(), figure.height()));
    let patch = Path::rect(Rect::around(place.middle(), Size::new(place.w + 8.0, 8.0)));
    sample.push(Item::Path { path: patch, fill: Some(Paint::PICTURE), stroke: None, role: None });
    sample.extend(texts_in(&figure, place, TextAnchor::Middle, Paint::Quiet));
    Entry { sample, width: SAMPLE.w, text: text(context.language.say("legend", "depth"), context) }
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

/// The size in which a symbol has its own proportions.
// That of a box with a short name; a sample is as wide to its height.
const NATURAL: Size = Size { w: 96.0, h: 64.0 };

/// A figure, drawn large and made as small as a sample, so that it keeps its proportions; its lines stay as wide as they are.
fn in_proportion(figure: &Figure, style: &ElementStyle) -> Vec<Item> {
    let scale = SAMPLE.h / NATURAL.h;
    let place = Rect::around(pt(NATURAL.w / 2.0, NATURAL.h / 2.0), figure.size);
    let widen = |item: Item| match item {
        Item::Path { path, fill, stroke, role } => {
            let stroke = stroke.map(|s| Stroke { width: s.width / scale, ..s });
            Item::Path { path, fill, stroke, role }
        }
        other => other,
    };
    let large = figure.draw(place, style).into_iter().map(widen);
    without_roles(large.map(|item| item.placed(scale, 0.0, 0.0)).collect())
}

fn entry(
    element: &Element, style: &ElementStyle, (word, shows_more): (&str, bool), shaper: &Shaper<'_>,
    context: &Context<'_>,
) -> Entry {
    let figure = shaper.figure(element, style);
    let has_more = shows_more && shaper.may_have_more(&figure);
    let symbol = figure.symbol;
    let size = match symbol {
        _ if element.kind == ElementKind::Junction => Some(Size::new(12.0, 12.0)),
        _ if element.kind == ElementKind::Entry => Some(Size::new(16.0, 16.0)),
        Symbol::Dot | Symbol::Target | Symbol::Crossed => Some(Size::new(16.0, 16.0)),
        Symbol::Circle | Symbol::Reel | Symbol::Ring | Symbol::Star | Symbol::Dots => {
            Some(Size::new(SAMPLE.h, SAMPLE.h))
        }
        Symbol::Bar => Some(Size::new(SAMPLE.w, 5.0)),
        // Its corners are no part of a small box, and its band has a width of its own.
        Symbol::Card => Some(SAMPLE),
        _ => None,
    };
    let place = Rect::around(pt(SAMPLE.w / 2.0, SAMPLE.h / 2.0), size.unwrap_or(SAMPLE));
    let mut sample = match size {
        Some(size) => without_roles(Figure { has_more, ..Figure::new(symbol, size) }.draw(place, style)),
        None => in_proportion(&Figure::new(symbol, NATURAL), style),
    };
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
fn relations(diagram: &Diagram, (styles, general): (&Styles, &Styles), context: &Context<'_>) -> Vec<Entry> {
    let mut seen: Vec<(_, Vec<String>)> = Vec::new();
    for ((relation, style), general) in diagram.relations.iter().zip(&styles.relations).zip(&general.relations) {
        let untold = matches!(relation.verb, Verb::Remarks | Verb::Aside | Verb::NeverUses | Verb::Runs | Verb::Does);
        if untold || style.hidden {
            continue;
        }
        let (from, to, dash) = heads(diagram, relation);
        let general = RelationStyle { hidden: false, ..*general };
        let look = ([from, to], general.dash.unwrap_or(dash), general);
        let word = word(relation.verb, context.language);
        let is_known = seen.iter().any(|(_, words)| words.contains(&word));
        match seen.iter_mut().find(|(known, _)| *known == look) {
            Some((_, words)) if !is_known => words.push(word),
            None if !is_known => seen.push((look, vec![word])),
            _ => {}
        }
    }
    let entry = |((heads, dash, style), words): ((_, _, RelationStyle), Vec<String>)| Entry {
        sample: stretch(heads, dash, &style),
        width: STRETCH,
        text: text(&words.join(", "), context),
    };
    seen.into_iter().map(entry).collect()
}

/// A stretch of line is so long.
const STRETCH: f64 = 48.0;

/// A stretch of line with its heads.
fn stretch(heads: [ends::Head; 2], dash: Dash, style: &RelationStyle) -> Vec<Item> {
    let points = [pt(0.0, SAMPLE.h / 2.0), pt(STRETCH, SAMPLE.h / 2.0)];
    without_roles(ends::line(&points, heads, dash, style, Paint::PICTURE))
}

fn heads(diagram: &Diagram, relation: &Relation) -> (ends::Head, ends::Head, Dash) {
    if diagram.kind == DiagramKind::Sequence { ends::of_verb(relation.verb) } else { ends::heads(diagram, relation) }
}

/// What a symbol means to those who do not know the standard.
fn meaning(kind: ElementKind, diagram: DiagramKind, language: &Language) -> &str {
    let key = match (kind, diagram) {
        (ElementKind::Store, DiagramKind::Flow) => "stored",
        _ => kind.word(),
    };
    language.say("kind", key)
}

/// What a line means, in a word or two.
fn word(verb: Verb, language: &Language) -> String {
    match verb {
        Verb::Then => language.say("legend", "then").to_owned(),
        Verb::Onward => language.say("legend", "missing").to_owned(),
        Verb::Holds => language.bare("relation", "holds"),
        other => language.bare("relation", words::verb(other)),
    }
}

fn text(word: &str, context: &Context<'_>) -> TextBlock {
    let label = Label::plain(word.replace('_', " "), crate::source::Span::default());
    wrap(context.fonts, &label, Face::Regular, 12.0, 200.0)
}

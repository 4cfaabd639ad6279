//! What a drawing shows, part by part, with where it is: for programs that want the geometry and not the picture.

use bathygram_core::geom::{Cmd, Path, Point, Rect};
use bathygram_core::measure::{Fonts, line_width};
use bathygram_core::scene::{Inside, Item, Role, Scene, Tag, Text};

/// An element.
pub(crate) struct ElementPart<'a> {
    pub(crate) key: &'a str,
    pub(crate) kind: &'a str,
    pub(crate) says: &'a str,
    pub(crate) inside: Option<&'a str>,
    pub(crate) opens: Option<&'a str>,
    pub(crate) line: u32,
    pub(crate) file: Option<&'a str>,
    pub(crate) place: Rect,
    pub(crate) texts: Vec<TextPart>,
}

/// A relation.
pub(crate) struct RelationPart<'a> {
    pub(crate) key: &'a str,
    pub(crate) from: &'a str,
    pub(crate) to: &'a str,
    pub(crate) says: &'a str,
    pub(crate) steps: &'a [u32],
    pub(crate) line: u32,
    pub(crate) lines: &'a [u32],
    pub(crate) file: Option<&'a str>,
    /// The points of its line: where its pieces begin and end.
    pub(crate) points: Vec<Point>,
    pub(crate) label: Vec<TextPart>,
    pub(crate) ends: Vec<TextPart>,
    pub(crate) has_head: bool,
}

/// A line of text, with where it is.
pub(crate) struct TextPart {
    pub(crate) text: String,
    pub(crate) place: Rect,
}

/// The elements and the relations of a drawing, in the order in which they are painted.
pub(crate) fn parts<'a>(scene: &'a Scene, fonts: &Fonts) -> (Vec<ElementPart<'a>>, Vec<RelationPart<'a>>) {
    let (mut elements, mut relations) = (Vec::new(), Vec::new());
    let mut work: Vec<&Item> = scene.items.iter().rev().collect();
    while let Some(item) = work.pop() {
        let Item::Group(tag, inner) = item else { continue };
        match tag {
            Tag::Element { id, kind, says, inside, line, file, opens, .. } => elements.push(ElementPart {
                key: id,
                kind,
                says,
                inside: match inside {
                    Inside::Nothing => None,
                    Inside::Frame(key) | Inside::Lane(key) => Some(key),
                },
                opens: opens.as_deref(),
                line: *line,
                file: file.as_deref(),
                place: frame(inner),
                texts: texts(inner, fonts),
            }),
            Tag::Relation { id, from, to, says, steps, line, file, lines } => relations.push(RelationPart {
                key: id,
                from,
                to,
                says,
                steps,
                line: *line,
                lines,
                file: file.as_deref(),
                points: inner.iter().find_map(line_of).unwrap_or_default(),
                label: tagged(inner, &Tag::Label, fonts),
                ends: tagged(inner, &Tag::EndLabel, fonts),
                has_head: inner.iter().any(|item| matches!(item, Item::Path { role: Some(Role::Head), .. })),
            }),
            _ => work.extend(inner.iter().rev()),
        }
    }
    (elements, relations)
}

/// The outline of an element; what it shows, where it has none.
fn frame(items: &[Item]) -> Rect {
    let path = |item: &'_ Item| match item {
        Item::Path { path, role, .. } => Some((path.bounds()?, *role)),
        _ => None,
    };
    let outline = items.iter().filter_map(path).find(|(_, role)| *role == Some(Role::Frame));
    let shown = || items.iter().filter_map(path).map(|(bounds, _)| bounds).reduce(Rect::union);
    outline.map(|(bounds, _)| bounds).or_else(shown).unwrap_or_default()
}

fn line_of(item: &Item) -> Option<Vec<Point>> {
    let Item::Path { path: Path(commands), role: Some(Role::Line), .. } = item else { return None };
    let point = |cmd: &Cmd| match cmd {
        Cmd::Move(p) | Cmd::Line(p) | Cmd::Curve(_, _, p) => Some(*p),
        Cmd::Close => None,
    };
    Some(commands.iter().filter_map(point).collect())
}

fn tagged(items: &[Item], wanted: &Tag, fonts: &Fonts) -> Vec<TextPart> {
    let groups = items.iter().filter_map(|item| match item {
        Item::Group(tag, inner) if tag == wanted => Some(inner),
        _ => None,
    });
    groups.flat_map(|inner| texts(inner, fonts)).collect()
}

/// The lines of text of a part, from the first to the last.
fn texts(items: &[Item], fonts: &Fonts) -> Vec<TextPart> {
    let mut found = Vec::new();
    let mut work: Vec<&Item> = items.iter().rev().collect();
    while let Some(item) = work.pop() {
        match item {
            Item::Group(_, inner) => work.extend(inner.iter().rev()),
            Item::Text(text) if !text.is_empty() => found.push(text_part(text, fonts)),
            _ => {}
        }
    }
    found
}

fn text_part(text: &Text, fonts: &Fonts) -> TextPart {
    let w = line_width(&text.spans, fonts, text.size);
    // Letters reach about so far above and below their base line.
    let place = Rect::new(text.left(w), text.y - 0.8 * text.size, w, text.size);
    TextPart { text: text.spans.iter().map(|span| span.text.as_str()).collect(), place }
}

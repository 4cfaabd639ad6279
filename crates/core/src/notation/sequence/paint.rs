//! Draws a placed script, from the back to the front.

use super::script::{Line, Script};
use crate::geom::{Path, Point, Rect, Size, pt};
use crate::layout::sequence::{CROSS, ChartPlacement, MessagePlace};
use crate::measure::{Face, TextBlock, wrap};
use crate::model::{Diagram, ElementId, ElementKind, Verb};
use crate::notation::ends::{self, Head};
use crate::notation::graph::{relation_tag, tag};
use crate::notation::{Context, frame, texts_in};
use crate::scene::{Inside, Item, Role, Stroke, Tag, TextAnchor};
use crate::syntax::Label;
use crate::theme::{Colour, Dash, Styles};

/// The name of a fragment in the drawing.
fn fragment(f: usize) -> String {
    format!("fragment {}", f + 1)
}

/// Radius of what stands for nowhere.
const DOT: f64 = 5.0;

/// Draws a placed script.
pub(super) struct Painter<'a> {
    pub(super) diagram: &'a Diagram,
    pub(super) styles: &'a Styles,
    pub(super) context: &'a Context<'a>,
    pub(super) script: &'a Script<'a>,
    pub(super) placement: &'a ChartPlacement,
}

impl Painter<'_> {
    /// From the back to the front: boxes, parties, fragments, bars, messages, remarks, marks.
    pub(super) fn paint(&self) -> Vec<Item> {
        let mut items = self.boxes();
        items.extend((0..self.script.parties.len()).map(|c| self.party(c)));
        items.extend((0..self.script.parties.len()).filter_map(|c| self.foot(c)));
        items.extend((0..self.script.frames.len()).map(|f| self.frame(f)));
        items.extend(self.placement.bars.iter().enumerate().map(|(i, _)| self.bar(i)));
        items.extend((0..self.script.lines.len()).flat_map(|m| self.message(m)));
        items.extend((0..self.script.blocks.len()).map(|b| self.block(b)));
        items.extend((0..self.script.marks.len()).map(|m| self.mark(m)));
        items
    }

    fn paper(&self) -> Colour {
        self.context.theme.paper
    }

    fn boxes(&self) -> Vec<Item> {
        self.script
            .groups
            .iter()
            .zip(&self.placement.boxes)
            .map(|((id, title), place)| {
                let style = &self.styles.elements[id.index()];
                let text = Rect::new(place.x + 12.0, place.y + 8.0, title.size.w, title.size.h);
                let parts = frame::Parts { frame: *place, title: text, header: text, look: frame::Look::Box };
                let drawn = frame::draw(self.diagram.element(*id), title, &parts, 1, style, self.context.theme);
                Item::Group(tag(self.diagram, *id, true), drawn)
            })
            .collect()
    }

    /// Head and lifeline.
    fn party(&self, column: usize) -> Item {
        let (id, figure) = &self.script.parties[column];
        let (x, top, bottom) = self.placement.lifelines[column];
        let style = &self.styles.elements[id.index()];
        let stroke = Stroke { colour: self.context.theme.guide, width: 1.1, dash: Dash::Solid };
        let mut path = Path::line(&[pt(x, top), pt(x, bottom)]);
        // Time that is left out is dotted.
        let pauses: Vec<(f64, f64)> = self
            .script
            .marks
            .iter()
            .zip(&self.placement.marks)
            .filter(|((_, _, is_pause), place)| *is_pause && place.1 > top && place.2 < bottom)
            .map(|(_, place)| (place.1, place.2))
            .collect();
        if !pauses.is_empty() {
            path = Path::default();
            let mut from = top;
            for (a, b) in &pauses {
                path = path.and(Path::line(&[pt(x, from), pt(x, *a)]));
                from = *b;
            }
            path = path.and(Path::line(&[pt(x, from), pt(x, bottom)]));
        }
        let mut items = vec![Item::Path { path, fill: None, stroke: Some(stroke), role: Some(Role::Lifeline) }];
        for (a, b) in pauses {
            let path = Path::line(&[pt(x, a), pt(x, b)]);
            items.push(Item::Path {
                path,
                fill: None,
                stroke: Some(Stroke { dash: Dash::Dotted, ..stroke }),
                role: None,
            });
        }
        if self.placement.destroyed[column] {
            let corner = |dx: f64, dy: f64| pt(x + dx * CROSS, bottom + dy * CROSS);
            let cross = Path::line(&[corner(-1.0, -1.0), corner(1.0, 1.0)]);
            let cross = cross.and(Path::line(&[corner(-1.0, 1.0), corner(1.0, -1.0)]));
            items.push(Item::Path {
                path: cross,
                fill: None,
                stroke: Some(Stroke::solid(self.context.theme.line, 1.8)),
                role: None,
            });
        }
        let head = self.placement.heads[column];
        items.extend(figure.draw(head, style, self.context.theme));
        let mut tag = tag(self.diagram, *id, false);
        if let Tag::Element { inside: inside @ Inside::Nothing, .. } = &mut tag {
            let holds = |f: &usize| self.placement.frames[*f].rect.holds(head);
            let frame = (0..self.script.frames.len()).rev().find(holds).map(fragment);
            *inside = frame.map_or(Inside::Nothing, Inside::Frame);
        }
        Item::Group(tag, items)
    }

    /// The party once more, where its lifeline ends at the foot of the picture.
    fn foot(&self, column: usize) -> Option<Item> {
        let place = (*self.placement.feet.get(column)?)?;
        let (id, figure) = &self.script.parties[column];
        let mut tag = tag(self.diagram, *id, false);
        if let Tag::Element { id, .. } = &mut tag {
            id.push_str(" at the foot");
        }
        let style = &self.styles.elements[id.index()];
        Some(Item::Group(tag, figure.draw(place, style, self.context.theme)))
    }

    fn frame(&self, f: usize) -> Item {
        let (text, place) = (&self.script.frames[f], &self.placement.frames[f]);
        let theme = self.context.theme;
        let stroke = Stroke::solid(theme.frame, 1.1);
        let mut items = vec![Item::Path {
            path: Path::rect(place.rect),
            fill: None,
            stroke: Some(stroke),
            role: Some(Role::Frame),
        }];
        for y in &place.separators {
            let path = Path::line(&[pt(place.rect.x, *y), pt(place.rect.right(), *y)]);
            items.push(Item::Path {
                path,
                fill: None,
                stroke: Some(Stroke { dash: Dash::Dashed, ..stroke }),
                role: None,
            });
        }
        items.extend(self.tab(place.tab, &text.word));
        for (guard, place) in text.guards.iter().zip(&place.guards) {
            if let Some(guard) = guard {
                items.push(self.ground(place.grown(1.0)));
                items.extend(texts_in(guard, *place, TextAnchor::Start, theme.ink));
            }
        }
        Item::Group(
            Tag::Element {
                id: fragment(f),
                kind: "fragment".into(),
                inside: text.parent.map_or(Inside::Nothing, |f| Inside::Frame(fragment(f))),
                container: true,
                line: text.line,
                file: None,
                opens: None,
            },
            items,
        )
    }

    /// The pentagon in the corner of a fragment, with its operator.
    fn tab(&self, tab: Rect, word: &TextBlock) -> Vec<Item> {
        const CUT: f64 = 6.0;
        let theme = self.context.theme;
        let pentagon = Path::polygon(&[
            pt(tab.x, tab.y),
            pt(tab.right(), tab.y),
            pt(tab.right(), tab.bottom() - CUT),
            pt(tab.right() - CUT, tab.bottom()),
            pt(tab.x, tab.bottom()),
        ]);
        let stroke = Some(Stroke::solid(theme.frame, 1.1));
        let mut items = vec![Item::Path { path: pentagon, fill: Some(theme.band(0)), stroke, role: None }];
        let at = Rect::new(tab.x, tab.y + (tab.h - word.height()) / 2.0, tab.w - 4.0, word.height());
        items.extend(texts_in(word, at, TextAnchor::Middle, theme.ink));
        items
    }

    fn ground(&self, place: Rect) -> Item {
        Item::Path { path: Path::rect(place), fill: Some(self.paper()), stroke: None, role: None }
    }

    fn bar(&self, i: usize) -> Item {
        let bar = &self.placement.bars[i];
        let (party, _) = &self.script.parties[bar.column];
        let relation = self.diagram.relation(self.script.lines[bar.message].relation);
        let theme = self.context.theme;
        let item = Item::Path {
            path: Path::rounded(bar.rect, 1.5),
            fill: Some(Colour::oklch(0.90, 0.05, 205.0)),
            stroke: Some(Stroke::solid(theme.outline, 1.0)),
            role: Some(Role::Frame),
        };
        let tag = Tag::Element {
            id: format!("activation {}", i + 1),
            kind: "activation".into(),
            inside: Inside::Frame(self.diagram.element(*party).key.clone()),
            container: false,
            line: relation.line,
            file: relation.file.clone(),
            opens: None,
        };
        Item::Group(tag, vec![item])
    }

    /// Whether a lifeline ends where a message does.
    fn ends_here(&self, message: &MessagePlace) -> bool {
        let lifelines = self.placement.lifelines.iter().zip(&self.placement.destroyed);
        let last = message.points.last();
        last.is_some_and(|at| lifelines.filter(|(_, d)| **d).any(|((x, _, bottom), _)| (*x, *bottom) == (at.x, at.y)))
    }

    /// A message's line, heads and text; what is lost or found has its dot before it.
    fn message(&self, m: usize) -> Vec<Item> {
        let line = &self.script.lines[m];
        let relation = self.diagram.relation(line.relation);
        let style = &self.styles.relations[line.relation.index()];
        let place = &self.placement.messages[m];
        if place.points.is_empty() {
            return Vec::new();
        }
        let mut items = Vec::new();
        if !line.is_reply {
            let ends = [(relation.from, place.points[0]), (relation.to, place.points[place.points.len() - 1])];
            items.extend(ends.iter().filter_map(|(id, at)| self.nowhere(*id, *at)));
        }
        let (_, head, dash) = match (line.is_reply, relation.verb) {
            (true, _) => ends::of_verb(Verb::Answers),
            // An own action is a message to oneself without a head of its own.
            (false, Verb::Does) => (Head::None, Head::Filled, Dash::Solid),
            (false, Verb::Destroys) if self.ends_here(place) => (Head::None, Head::BeforeCross, Dash::Solid),
            (false, verb) => ends::of_verb(verb),
        };
        let mut drawn = ends::line(&place.points, [Head::None, head], dash, style, self.paper());
        if let Some(text) = &line.text {
            drawn.push(Item::Group(Tag::Label, self.label(text, place, style.text)));
        }
        items.push(Item::Group(self.message_tag(line), drawn));
        items
    }

    fn message_tag(&self, line: &Line) -> Tag {
        let relation = self.diagram.relation(line.relation);
        match (relation_tag(self.diagram, relation), line.is_reply) {
            (Tag::Relation { id, from, to, line, file, lines }, true) => {
                Tag::Relation { id: format!("{id} reply"), from: to, to: from, line, file, lines }
            }
            (tag, _) => tag,
        }
    }

    fn label(&self, text: &TextBlock, place: &MessagePlace, colour: Colour) -> Vec<Item> {
        let beside = place.points.len() > 2;
        let anchor = if beside { TextAnchor::Start } else { TextAnchor::Middle };
        let ground = Rect::new(place.label.x - 3.0, place.label.y + 1.0, place.label.w + 6.0, place.label.h);
        let mut items = vec![self.ground(ground)];
        items.extend(texts_in(text, place.label, anchor, colour));
        items
    }

    /// The dot at which a found message begins and a lost one ends.
    fn nowhere(&self, id: ElementId, at: Point) -> Option<Item> {
        let kind = self.diagram.element(id).kind;
        let dx = match kind {
            ElementKind::Lost => DOT,
            ElementKind::Found => -DOT,
            _ => return None,
        };
        let path = Path::ellipse(Rect::around(pt(at.x + dx, at.y), Size::new(2.0 * DOT, 2.0 * DOT)));
        let dot = Item::Path { path, fill: Some(self.context.theme.line), stroke: None, role: Some(Role::Frame) };
        Some(Item::Group(tag(self.diagram, id, false), vec![dot]))
    }

    fn block(&self, b: usize) -> Item {
        let (block, place) = (&self.script.blocks[b], self.placement.blocks[b]);
        let theme = self.context.theme;
        let line = block.line;
        if let Some(figure) = &block.figure {
            let style = note_style(theme);
            let id = format!("note {}", b + 1);
            let tag = Tag::Element {
                id,
                kind: "note".into(),
                inside: Inside::Nothing,
                container: false,
                line,
                file: None,
                opens: None,
            };
            return Item::Group(tag, figure.draw(place, &style, theme));
        }
        let stroke = Stroke::solid(theme.frame, 1.1);
        let word = wrap(self.context.fonts, &Label::plain("ref", Default::default()), Face::Bold, 12.0, 60.0);
        let frame = Path::rect(place);
        let mut items =
            vec![Item::Path { path: frame, fill: Some(self.paper()), stroke: Some(stroke), role: Some(Role::Frame) }];
        items.extend(self.tab(Rect::new(place.x, place.y, 40.0, 20.0), &word));
        let text = Rect::around(place.middle(), Size::new(block.text.width(), block.text.height()));
        items.extend(texts_in(&block.text, text, TextAnchor::Middle, theme.ink));
        let id = format!("reference {}", b + 1);
        Item::Group(
            Tag::Element {
                id,
                kind: "fragment".into(),
                inside: Inside::Nothing,
                container: true,
                line,
                file: None,
                opens: None,
            },
            items,
        )
    }

    fn mark(&self, m: usize) -> Item {
        let (text, line, is_pause) = &self.script.marks[m];
        let (place, ..) = self.placement.marks[m];
        let theme = self.context.theme;
        let mut items = Vec::new();
        let pill = Path::rounded(place, place.h / 2.0);
        if !is_pause {
            let y = place.middle().y;
            let path = Path::line(&[pt(0.0, y), pt(self.placement.size.w, y)]);
            items.push(Item::Path { path, fill: None, stroke: Some(Stroke::solid(theme.frame, 1.0)), role: None });
        }
        let (fill, stroke) =
            if *is_pause { (self.paper(), None) } else { (theme.band(0), Some(Stroke::solid(theme.frame, 1.0))) };
        items.push(Item::Path { path: pill, fill: Some(fill), stroke, role: Some(Role::Frame) });
        if let Some(text) = text {
            let at = Rect::around(place.middle(), Size::new(text.width(), text.height()));
            items.extend(texts_in(text, at, TextAnchor::Middle, if *is_pause { theme.quiet } else { theme.ink }));
        }
        let name = if *is_pause { "pause" } else { "phase" };
        Item::Group(
            Tag::Element {
                id: format!("{name} {}", m + 1),
                // Like a note, it may lie on whatever lifelines run through.
                kind: "note".into(),
                inside: Inside::Nothing,
                container: false,
                line: *line,
                file: None,
                opens: None,
            },
            items,
        )
    }
}

/// The look of remarks.
fn note_style(theme: &crate::theme::Theme) -> crate::theme::ElementStyle {
    crate::theme::ElementStyle {
        shape: None,
        icon: None,
        fill: Colour::oklch(0.965, 0.04, 95.0),
        frame: None,
        line: theme.outline,
        text: theme.ink,
        quiet: theme.quiet,
        accent: theme.accent,
        dash: Dash::Solid,
        width: 1.0,
        hidden: false,
    }
}

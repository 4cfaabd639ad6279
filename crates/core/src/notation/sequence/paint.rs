//! Draws a placed script, from the back to the front.

use super::script::{MarkKind, Script};
use crate::geom::{Path, Point, Rect, Size, pt};
use crate::layout::sequence::{CROSS, ChartPlacement, MessagePlace};
use crate::measure::{Face, TextBlock, wrap};
use crate::model::{Diagram, ElementId, ElementKind, Verb};
use crate::notation::context::Context;
use crate::notation::ends::{self, Head};
use crate::notation::frame;
use crate::notation::tags::{element_tag, relation_tag};
use crate::notation::text::texts_in;
use crate::notation::words;
use crate::scene::{Holds, Inside, Item, Role, Stroke, Tag, TextAnchor};
use crate::syntax::Label;
use crate::theme::{Dash, Ground, Paint, Styles, Tone};

/// The name of a fragment in the drawing.
fn fragment(f: usize) -> String {
    format!("fragment {}", f + 1)
}

/// The two marks at which a pause breaks a lifeline: how far apart they are, and how wide and high each is; px.
const BREAK: f64 = 5.0;
const SLANT: Size = Size { w: 12.0, h: 5.0 };
/// Nested bars lie so near to their lifeline, in px.
const NESTED: f64 = 24.0;
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

    fn boxes(&self) -> Vec<Item> {
        self.script
            .groups
            .iter()
            .zip(&self.placement.boxes)
            .map(|((id, title), place)| {
                let style = &self.styles.elements[id.index()];
                let text = Rect::new(place.x + 12.0, place.y + 8.0, title.size.w, title.size.h);
                let parts = frame::Parts { frame: *place, title: text, header: text, look: frame::Look::Box };
                let drawn = frame::draw(self.diagram.element(*id), title, &parts, 1, style);
                Item::Group(element_tag(self.context, *id, Holds::Others), drawn)
            })
            .collect()
    }

    /// Head and lifeline.
    fn party(&self, column: usize) -> Item {
        let (id, figure) = &self.script.parties[column];
        let (x, top, bottom) = self.placement.lifelines[column];
        let style = &self.styles.elements[id.index()];
        let stroke = Stroke { paint: Paint::Guide, width: 1.1, dash: Dash::Solid };
        let mut path = Path::line(&[pt(x, top), pt(x, bottom)]);
        // Where time is left out, the line is broken, as drawings break a long part.
        let pauses = (0..self.script.marks.len()).filter(|m| self.script.marks[*m].kind == MarkKind::Pause);
        let breaks: Vec<f64> = pauses.filter_map(|m| self.break_at(m, (top, bottom))).collect();
        if !breaks.is_empty() {
            path = Path::default();
            let mut from = top;
            for y in breaks {
                path = path.and(Path::line(&[pt(x, from), pt(x, y - BREAK / 2.0)]));
                from = y + BREAK / 2.0;
            }
            path = path.and(Path::line(&[pt(x, from), pt(x, bottom)]));
        }
        let mut items = vec![Item::Path { path, fill: None, stroke: Some(stroke), role: Some(Role::Lifeline) }];
        if self.placement.destroyed[column] {
            let corner = |dx: f64, dy: f64| pt(x + dx * CROSS, bottom + dy * CROSS);
            let cross = Path::line(&[corner(-1.0, -1.0), corner(1.0, 1.0)]);
            let cross = cross.and(Path::line(&[corner(-1.0, 1.0), corner(1.0, -1.0)]));
            items.push(Item::Path {
                path: cross,
                fill: None,
                stroke: Some(Stroke::solid(Paint::Line, 1.8)),
                role: None,
            });
        }
        let head = self.placement.heads[column];
        items.extend(figure.draw(head, style));
        let mut tag = element_tag(self.context, *id, Holds::Nothing);
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
        let mut tag = element_tag(self.context, *id, Holds::Nothing);
        if let Tag::Element { id, .. } = &mut tag {
            id.push_str(" at the foot");
        }
        let style = &self.styles.elements[id.index()];
        Some(Item::Group(tag, figure.draw(place, style)))
    }

    fn frame(&self, f: usize) -> Item {
        let (text, place) = (&self.script.frames[f], &self.placement.frames[f]);
        let stroke = Stroke::solid(Paint::Frame, 1.1);
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
                items.extend(texts_in(guard, *place, TextAnchor::Start, Paint::TEXT));
            }
        }
        let line = self.context.sources.line(text.span);
        let mut tag = Tag::element(fragment(f), "fragment", text.word.text(), line);
        if let Tag::Element { inside, holds, .. } = &mut tag {
            *inside = text.parent.map_or(Inside::Nothing, |f| Inside::Frame(fragment(f)));
            *holds = Holds::Others;
        }
        Item::Group(tag, items)
    }

    /// The pentagon in the corner of a fragment, with its operator.
    fn tab(&self, tab: Rect, word: &TextBlock) -> Vec<Item> {
        const CUT: f64 = 6.0;
        let pentagon = Path::polygon(&[
            pt(tab.x, tab.y),
            pt(tab.right(), tab.y),
            pt(tab.right(), tab.bottom() - CUT),
            pt(tab.right() - CUT, tab.bottom()),
            pt(tab.x, tab.bottom()),
        ]);
        let stroke = Some(Stroke::solid(Paint::Frame, 1.1));
        let mut items = vec![Item::Path { path: pentagon, fill: Some(Paint::band(0)), stroke, role: None }];
        let at = Rect::new(tab.x, tab.y + (tab.h - word.height()) / 2.0, tab.w - 4.0, word.height());
        items.extend(texts_in(word, at, TextAnchor::Middle, Paint::TEXT));
        items
    }

    fn ground(&self, place: Rect) -> Item {
        Item::Path { path: Path::rect(place), fill: Some(Paint::PICTURE), stroke: None, role: None }
    }

    fn bar(&self, i: usize) -> Item {
        let bar = &self.placement.bars[i];
        let (party, _) = &self.script.parties[bar.column];
        let relation = self.diagram.relation(self.script.lines[bar.message].relation);
        let item = Item::Path {
            path: Path::rounded(bar.rect, 1.5),
            fill: Some(Ground::Tone(Tone::Terminal).into()),
            stroke: Some(Stroke::solid(Paint::Outline, 1.0)),
            role: Some(Role::Frame),
        };
        let tag = Tag::Element {
            id: format!("activation {}", i + 1),
            kind: "activation".into(),
            says: String::new(),
            inside: Inside::Frame(self.diagram.element(*party).key.clone()),
            holds: Holds::Nothing,
            line: self.context.sources.line(relation.span),
            file: self.context.sources.other_file(relation.span).map(Into::into),
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
        let mut drawn = ends::line(&place.points, [Head::None, head], dash, style, Paint::PICTURE);
        if let Some(text) = &line.text {
            drawn.push(Item::Group(Tag::Label, self.label(text, place, style.text)));
        }
        items.push(Item::group(self.message_tag(m), drawn));
        items
    }

    fn message_tag(&self, m: usize) -> Tag {
        let own = &self.script.lines[m];
        let relation = self.diagram.relation(own.relation);
        let mut tag = relation_tag(self.context, own.relation);
        if let Tag::Relation { id, from, to, says, steps, .. } = &mut tag {
            *steps = vec![m as u32 + 1];
            if own.is_reply {
                id.push_str(" reply");
                std::mem::swap(from, to);
                *says = words::reply(self.diagram, relation, self.context.language);
            }
        }
        tag
    }

    fn label(&self, text: &TextBlock, place: &MessagePlace, colour: Paint) -> Vec<Item> {
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
        let dot = Item::Path { path, fill: Some(Paint::Line), stroke: None, role: Some(Role::Frame) };
        Some(Item::Group(element_tag(self.context, id, Holds::Nothing), vec![dot]))
    }

    fn block(&self, b: usize) -> Item {
        let (block, place) = (&self.script.blocks[b], self.placement.blocks[b]);
        let line = self.context.sources.line(block.span);
        if let Some(figure) = &block.figure {
            let style = note_style();
            let says = figure.texts.iter().map(|text| text.block.text()).collect::<Vec<_>>().join(" ");
            let tag = Tag::element(format!("note {}", b + 1), "note", says, line);
            return Item::Group(tag, figure.draw(place, &style));
        }
        let stroke = Stroke::solid(Paint::Frame, 1.1);
        let word = wrap(self.context.fonts, &Label::plain("ref", Default::default()), Face::Bold, 12.0, 60.0);
        let frame = Path::rect(place);
        let mut items =
            vec![Item::Path { path: frame, fill: Some(Paint::PICTURE), stroke: Some(stroke), role: Some(Role::Frame) }];
        items.extend(self.tab(Rect::new(place.x, place.y, 40.0, 20.0), &word));
        let text = Rect::around(place.middle(), Size::new(block.text.width(), block.text.height()));
        items.extend(texts_in(&block.text, text, TextAnchor::Middle, Paint::TEXT));
        let mut tag = Tag::element(format!("reference {}", b + 1), "fragment", block.text.text(), line);
        if let Tag::Element { holds, .. } = &mut tag {
            *holds = Holds::Others;
        }
        Item::Group(tag, items)
    }

    /// Where a pause breaks a lifeline between two heights, if it lies there.
    fn break_at(&self, m: usize, (top, bottom): (f64, f64)) -> Option<f64> {
        let (_, from, to) = self.placement.marks[m];
        (from > top && to < bottom).then_some((from + to) / 2.0)
    }

    /// The marks at which a pause breaks the lifelines, and the bars on them.
    fn breaks(&self, m: usize) -> Vec<Item> {
        let mut items = Vec::new();
        for (x, top, bottom) in &self.placement.lifelines {
            let Some(y) = self.break_at(m, (*top, *bottom)) else { continue };
            let is_broken = |r: &Rect| r.y < y && y < r.bottom() && (r.middle().x - x).abs() < NESTED;
            let bars = self.placement.bars.iter().map(|bar| bar.rect).filter(is_broken).reduce(Rect::union);
            let (left, right) = bars.map_or((*x, *x), |bars| (bars.x.min(*x), bars.right().max(*x)));
            let (middle, reach) = ((left + right) / 2.0, f64::max(SLANT.w, right - left + 6.0) / 2.0);
            let [above, below] = [-1.0, 1.0].map(|side| {
                let y = y + side * BREAK / 2.0;
                [pt(middle - reach, y + SLANT.h / 2.0), pt(middle + reach, y - SLANT.h / 2.0)]
            });
            if bars.is_some() {
                let path = Path::polygon(&[above[0], above[1], below[1], below[0]]);
                items.push(Item::Path { path, fill: Some(Paint::PICTURE), stroke: None, role: None });
            }
            let stroke = Some(Stroke::solid(Paint::Outline, 1.2));
            items.extend([above, below].map(|ends| Item::Path {
                path: Path::line(&ends),
                fill: None,
                stroke,
                role: None,
            }));
        }
        items
    }

    fn mark(&self, m: usize) -> Item {
        let mark = &self.script.marks[m];
        let is_pause = mark.kind == MarkKind::Pause;
        let (place, ..) = self.placement.marks[m];
        let mut items = if is_pause { self.breaks(m) } else { Vec::new() };
        let pill = Path::rounded(place, place.h / 2.0);
        if !is_pause {
            let y = place.middle().y;
            let path = Path::line(&[pt(0.0, y), pt(self.placement.size.w, y)]);
            items.push(Item::Path { path, fill: None, stroke: Some(Stroke::solid(Paint::Frame, 1.0)), role: None });
        }
        let (fill, stroke) =
            if is_pause { (Paint::PICTURE, None) } else { (Paint::band(0), Some(Stroke::solid(Paint::Frame, 1.0))) };
        items.push(Item::Path { path: pill, fill: Some(fill), stroke, role: Some(Role::Frame) });
        if let Some(text) = &mark.text {
            let at = Rect::around(place.middle(), Size::new(text.width(), text.height()));
            items.extend(texts_in(text, at, TextAnchor::Middle, if is_pause { Paint::Quiet } else { Paint::TEXT }));
        }
        let name = if is_pause { "pause" } else { "phase" };
        // Like a note, it may lie on whatever lifelines run through.
        let says = mark.text.as_ref().map_or_else(|| name.to_owned(), TextBlock::text);
        let line = self.context.sources.line(mark.span);
        Item::Group(Tag::element(format!("{name} {}", m + 1), "note", says, line), items)
    }
}

/// The fill of remarks.
const NOTE: Ground = Ground::Tone(Tone::Remark);

/// The look of remarks.
fn note_style() -> crate::theme::ElementStyle {
    crate::theme::ElementStyle {
        shape: None,
        icon: None,
        fill: NOTE,
        frame: None,
        line: Paint::Outline,
        band: None,
        written: None,
        text: Paint::TEXT,
        quiet: Paint::Quiet,
        tab: NOTE.into(),
        accent: Paint::Accent,
        dash: Dash::Solid,
        width: 1.0,
        hidden: false,
    }
}

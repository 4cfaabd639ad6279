//! Sequences (UML 2.5.1, clause 17.8): parties, lifelines, messages, activations, combined fragments.
//! First a chart of sizes is made from what happens, then it is placed, then drawn.

use super::ends::{self, Head};
use super::figure::{Figure, Shaper};
use super::frame::{self, FrameTitle};
use super::graph::{relation_tag, tag};
use super::{Context, texts_in};
use crate::geom::{Path, Point, Rect, Size, pt};
use crate::layout::sequence::{Bar, BlockPlace, Chart, ChartPlacement, Effect, MessagePlace, Spot, Step, place};
use crate::measure::{Face, TextBlock, wrap};
use crate::model::{Diagram, ElementId, ElementKind, Item as Event, Operand, RelationId, Verb};
use crate::scene::{Item, Role, Stroke, Tag, TextAnchor};
use crate::syntax::Label;
use crate::theme::{Colour, Dash, Styles};
use std::collections::BTreeMap;

/// Radius of what stands for nowhere.
const DOT: f64 = 5.0;

/// Draws a sequence.
pub(super) fn draw(diagram: &Diagram, styles: &Styles, context: &Context<'_>) -> (Vec<Item>, Size) {
    let script = Script::write(diagram, context);
    let placement = place(&script.chart);
    let size = placement.size;
    let painter = Painter { diagram, styles, context, script: &script, placement: &placement };
    (painter.paint(), size)
}

/// A message to be drawn.
struct Line {
    relation: RelationId,
    /// Whether it is the reply to that relation's message.
    is_reply: bool,
    text: Option<TextBlock>,
}

/// A frame to be drawn.
struct FrameText {
    word: TextBlock,
    guards: Vec<Option<TextBlock>>,
    /// The frame around it.
    parent: Option<usize>,
    line: u32,
}

/// A remark or a reference to be drawn.
struct BlockText {
    figure: Option<Figure>,
    text: TextBlock,
    line: u32,
}

/// The chart, and what its numbers stand for.
struct Script<'a> {
    diagram: &'a Diagram,
    context: &'a Context<'a>,
    shaper: Shaper<'a>,
    chart: Chart,
    /// The parties, by column, with their figures.
    parties: Vec<(ElementId, Figure)>,
    column_of: BTreeMap<ElementId, usize>,
    groups: Vec<(ElementId, FrameTitle)>,
    lines: Vec<Line>,
    frames: Vec<FrameText>,
    /// The frames that are being written, innermost last.
    open_frames: Vec<usize>,
    blocks: Vec<BlockText>,
    marks: Vec<(Option<TextBlock>, u32, bool)>,
    /// Replies that come later, by who answers whom.
    awaited: BTreeMap<(ElementId, ElementId), usize>,
}

impl<'a> Script<'a> {
    fn write(diagram: &'a Diagram, context: &'a Context<'a>) -> Self {
        let shaper = Shaper { fonts: context.fonts, kind: diagram.kind, tell: false };
        let mut script = Self {
            diagram,
            context,
            shaper,
            chart: Chart::default(),
            parties: Vec::new(),
            column_of: BTreeMap::new(),
            groups: Vec::new(),
            lines: Vec::new(),
            frames: Vec::new(),
            open_frames: Vec::new(),
            blocks: Vec::new(),
            marks: Vec::new(),
            awaited: BTreeMap::new(),
        };
        script.columns();
        script.await_answers(&diagram.items, None);
        script.chart.steps = script.steps(&diagram.items, "");
        script.chart.counts.messages = script.lines.len();
        script.chart.counts.frames = script.frames.len();
        script.chart.counts.blocks = script.blocks.len();
        script.chart.counts.marks = script.marks.len();
        script
    }

    /// A column for each party, members of a group side by side.
    fn columns(&mut self) {
        let is_party =
            |kind| !matches!(kind, ElementKind::Group | ElementKind::Lost | ElementKind::Found | ElementKind::Remark);
        let mut order: Vec<ElementId> = Vec::new();
        for (id, element) in self.diagram.ids() {
            let top = std::iter::once(id).chain(self.diagram.ancestors(id)).last();
            if element.parent.is_none() && is_party(element.kind) {
                order.push(id);
            } else if element.kind == ElementKind::Group && element.parent.is_none() {
                let members = self
                    .diagram
                    .ids()
                    .filter(|(m, e)| is_party(e.kind) && self.diagram.ancestors(*m).any(|a| Some(a) == top));
                order.extend(members.map(|(m, _)| m));
            }
        }
        for id in order {
            let mut element = self.diagram.element(id).clone();
            element.properties.built = None;
            let figure = self.shaper.card(&element);
            self.column_of.insert(id, self.parties.len());
            self.chart.columns.push(figure.size);
            self.parties.push((id, figure));
        }
        for (id, element) in self.diagram.ids().filter(|(_, e)| e.kind == ElementKind::Group && e.parent.is_none()) {
            let columns: Vec<usize> = self
                .column_of
                .iter()
                .filter(|(m, _)| self.diagram.ancestors(**m).any(|a| a == id))
                .map(|(_, c)| *c)
                .collect();
            if let (Some(first), Some(last)) = (columns.iter().min(), columns.iter().max()) {
                let title = FrameTitle::new(self.context.fonts, element);
                self.chart.boxes.push((*first, *last, title.size));
                self.groups.push((id, title));
            }
        }
    }

    /// Counts the answers that are not in the body of what they answer.
    fn await_answers(&mut self, items: &[Event], around: Option<(ElementId, ElementId)>) {
        for item in items {
            match item {
                Event::Message { relation, body, .. } => {
                    let r = self.diagram.relation(*relation);
                    if r.verb == Verb::Answers && around != Some((r.to, r.from)) {
                        *self.awaited.entry((r.from, r.to)).or_insert(0) += 1;
                    }
                    self.await_answers(body, Some((r.from, r.to)));
                }
                Event::Fragment { operands, .. } => {
                    for operand in operands {
                        self.await_answers(&operand.items, around);
                    }
                }
                _ => {}
            }
        }
    }

    fn wrapped(&self, label: &Label, face: Face, limit: f64) -> TextBlock {
        wrap(self.context.fonts, label, face, 12.5, limit)
    }

    fn steps(&mut self, items: &[Event], number: &str) -> Vec<Step> {
        let mut count = 0;
        let mut out = Vec::new();
        self.steps_into(items, number, &mut count, &mut out);
        out
    }

    fn steps_into(&mut self, items: &[Event], number: &str, count: &mut usize, out: &mut Vec<Step>) {
        for item in items {
            match item {
                Event::Message { .. } => {
                    *count += 1;
                    let own = if number.is_empty() { count.to_string() } else { format!("{number}.{count}") };
                    out.extend(self.message(item, &own));
                }
                Event::Fragment { operator, operands, line } => {
                    out.push(self.fragment(operator.word(), operands, *line, number, count));
                }
                Event::Reference { label, across, line } => out.push(self.reference(label, across, *line)),
                Event::Phase { label, line } => out.push(self.mark(Some(label), *line, false)),
                Event::Pause { label, line } => out.push(self.mark(label.as_ref(), *line, true)),
                Event::Remark { across, label, left, line } => out.extend(self.remark(across, label, *left, *line)),
            }
        }
    }

    fn spot(&self, id: ElementId) -> Spot {
        self.column_of.get(&id).map_or(Spot::Outside, |c| Spot::Column(*c))
    }

    fn message(&mut self, item: &Event, number: &str) -> Option<Step> {
        let Event::Message { relation, body, returning, guard, within } = item else { return None };
        let r = self.diagram.relation(*relation);
        let (from, to, verb) = (r.from, r.to, r.verb);
        let text = self.message_text(r.label.as_ref(), guard.as_ref(), within.as_ref(), number);
        let label = size_of(&text);
        let id = self.lines.len();
        self.lines.push(Line { relation: *relation, is_reply: false, text });
        let waits = body.is_empty() && returning.is_none() && verb != Verb::Answers && self.takes_answer(to, from);
        let bar = match verb {
            _ if waits => Bar::Kept,
            Verb::Answers | Verb::Destroys => Bar::None,
            _ if !body.is_empty() || returning.is_some() => Bar::Body,
            Verb::Calls => Bar::Body,
            _ => Bar::None,
        };
        let steps = self.steps(body, number);
        let reply = returning.as_ref().map(|label| {
            let text = Some(self.wrapped(label, Face::Regular, 190.0)).filter(|t| t.width() > 0.0);
            let size = size_of(&text);
            self.lines.push(Line { relation: *relation, is_reply: true, text });
            (self.lines.len() - 1, size)
        });
        let effect = match verb {
            Verb::Creates => Effect::Begins,
            Verb::Destroys => Effect::Ends,
            _ => Effect::None,
        };
        let closes = verb == Verb::Answers;
        Some(Step::Message {
            id,
            from: self.spot(from),
            to: self.spot(to),
            label,
            body: steps,
            reply,
            bar,
            closes,
            effect,
        })
    }

    /// Uses up one later answer, if there is one.
    fn takes_answer(&mut self, from: ElementId, to: ElementId) -> bool {
        match self.awaited.get_mut(&(from, to)) {
            Some(count) if *count > 0 => {
                *count -= 1;
                true
            }
            _ => false,
        }
    }

    /// Number, guard in square brackets, text, time limit in braces.
    fn message_text(
        &self, label: Option<&Label>, guard: Option<&Label>, within: Option<&Label>, number: &str,
    ) -> Option<TextBlock> {
        let plain = |text: String| crate::syntax::Run { text, style: Default::default() };
        let mut runs = Vec::new();
        if self.diagram.numbered {
            runs.push(plain(format!("{number}  ")));
        }
        if let Some(guard) = guard {
            runs.push(plain(format!("[{}] ", guard.text())));
        }
        runs.extend(label.map(|l| l.runs.clone()).unwrap_or_default());
        if let Some(within) = within {
            runs.push(plain(format!(" {{{}}}", within.text())));
        }
        let span = label.map(|l| l.span).unwrap_or_default();
        let block = self.wrapped(&Label { runs, span }, Face::Regular, 200.0);
        Some(block).filter(|b| b.width() > 0.0)
    }

    fn fragment(&mut self, word: &str, operands: &[Operand], line: u32, number: &str, count: &mut usize) -> Step {
        let plain = Label::plain(word, Default::default());
        let word_block = wrap(self.context.fonts, &plain, Face::Bold, 12.0, 80.0);
        let tab = Size::new(crate::geom::up4(word_block.width() + 20.0), 20.0);
        let id = self.frames.len();
        let guards: Vec<Option<TextBlock>> = operands
            .iter()
            .map(|o| {
                o.guard.as_ref().map(|g| {
                    let label = Label::plain(format!("[{}]", g.text()), g.span);
                    self.wrapped(&label, Face::Italic, 220.0)
                })
            })
            .collect();
        let sizes: Vec<Size> = guards.iter().map(size_of).collect();
        let parent = self.open_frames.last().copied();
        self.frames.push(FrameText { word: word_block, guards, parent, line });
        self.open_frames.push(id);
        let operands = operands
            .iter()
            .zip(sizes)
            .map(|(operand, guard)| {
                let mut steps = Vec::new();
                self.steps_into(&operand.items, number, count, &mut steps);
                (guard, steps)
            })
            .collect();
        self.open_frames.pop();
        Step::Frame { id, tab, operands }
    }

    fn reference(&mut self, label: &Label, across: &[ElementId], line: u32) -> Step {
        let text = wrap(self.context.fonts, label, Face::Regular, 13.0, 260.0);
        let size = Size::new(crate::geom::up4(text.width() + 84.0), crate::geom::up4(text.height() + 24.0));
        let id = self.blocks.len();
        self.blocks.push(BlockText { figure: None, text, line });
        let columns: Vec<usize> = across.iter().filter_map(|e| self.column_of.get(e).copied()).collect();
        let low = columns.iter().min().copied().unwrap_or(0);
        let high = columns.iter().max().copied().unwrap_or(self.parties.len().saturating_sub(1));
        Step::Block { id, place: BlockPlace::Across(low, high), size }
    }

    fn remark(&mut self, across: &[ElementId], label: &Label, left: bool, line: u32) -> Option<Step> {
        let columns: Vec<usize> = across.iter().filter_map(|e| self.column_of.get(e).copied()).collect();
        let (low, high) = (columns.iter().min().copied()?, columns.iter().max().copied()?);
        let figure = self.shaper.note(label);
        let size = figure.size;
        let place = match (low == high, left) {
            (false, _) => BlockPlace::Across(low, high),
            (true, true) => BlockPlace::LeftOf(low),
            _ => BlockPlace::RightOf(low),
        };
        let id = self.blocks.len();
        self.blocks.push(BlockText { figure: Some(figure), text: TextBlock::default(), line });
        Some(Step::Block { id, place, size })
    }

    fn mark(&mut self, label: Option<&Label>, line: u32, is_pause: bool) -> Step {
        let face = if is_pause { Face::Italic } else { Face::Bold };
        let text = label.map(|l| self.wrapped(l, face, 220.0));
        let size = text.as_ref().map_or(Size::default(), |t| Size::new(t.width() + 20.0, t.height() + 8.0));
        let id = self.marks.len();
        self.marks.push((text, line, is_pause));
        Step::Mark { id, size, gap: if is_pause { 16.0 } else { 0.0 } }
    }
}

fn size_of(text: &Option<TextBlock>) -> Size {
    text.as_ref().map_or(Size::default(), |t| Size::new(t.width(), t.height()))
}

/// Draws a placed script.
struct Painter<'a> {
    diagram: &'a Diagram,
    styles: &'a Styles,
    context: &'a Context<'a>,
    script: &'a Script<'a>,
    placement: &'a ChartPlacement,
}

impl Painter<'_> {
    /// From the back to the front: boxes, parties, fragments, bars, messages, remarks, marks.
    fn paint(&self) -> Vec<Item> {
        let mut items = self.boxes();
        items.extend((0..self.script.parties.len()).map(|c| self.party(c)));
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
                let drawn = frame::draw(self.diagram.element(*id), title, *place, text, 1, style, self.context.theme);
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
            let cross = Path::line(&[pt(x - 7.0, bottom - 7.0), pt(x + 7.0, bottom + 7.0)])
                .and(Path::line(&[pt(x - 7.0, bottom + 7.0), pt(x + 7.0, bottom - 7.0)]));
            items.push(Item::Path {
                path: cross,
                fill: None,
                stroke: Some(Stroke::solid(self.context.theme.line, 1.8)),
                role: None,
            });
        }
        items.extend(figure.draw(self.placement.heads[column], style, self.context.theme));
        Item::Group(tag(self.diagram, *id, false), items)
    }

    fn frame(&self, f: usize) -> Item {
        let (text, place) = (&self.script.frames[f], &self.placement.frames[f]);
        let theme = self.context.theme;
        let stroke = Stroke::solid(theme.frame, 1.1);
        let tab = place.tab;
        let cut = 6.0;
        let pentagon = Path::polygon(&[
            pt(tab.x, tab.y),
            pt(tab.right(), tab.y),
            pt(tab.right(), tab.bottom() - cut),
            pt(tab.right() - cut, tab.bottom()),
            pt(tab.x, tab.bottom()),
        ]);
        let mut items = vec![
            Item::Path { path: Path::rect(place.rect), fill: None, stroke: Some(stroke), role: Some(Role::Frame) },
            Item::Path { path: pentagon, fill: Some(theme.band(0)), stroke: Some(stroke), role: None },
        ];
        for y in &place.separators {
            let path = Path::line(&[pt(place.rect.x, *y), pt(place.rect.right(), *y)]);
            items.push(Item::Path {
                path,
                fill: None,
                stroke: Some(Stroke { dash: Dash::Dashed, ..stroke }),
                role: None,
            });
        }
        let word = Rect::new(tab.x, tab.y + (tab.h - text.word.height()) / 2.0, tab.w - 4.0, text.word.height());
        items.extend(texts_in(&text.word, word, TextAnchor::Middle, theme.ink));
        for (guard, place) in text.guards.iter().zip(&place.guards) {
            if let Some(guard) = guard {
                items.push(self.ground(place.grown(1.0)));
                items.extend(texts_in(guard, *place, TextAnchor::Start, theme.ink));
            }
        }
        let name = |f: usize| format!("fragment {}", f + 1);
        Item::Group(
            Tag::Element {
                id: name(f),
                kind: "fragment".into(),
                parent: text.parent.map(name),
                container: true,
                line: text.line,
            },
            items,
        )
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
            parent: Some(self.diagram.element(*party).key.clone()),
            container: false,
            line: relation.line,
        };
        Item::Group(tag, vec![item])
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
            (Tag::Relation { id, from, to, line, lines }, true) => {
                Tag::Relation { id: format!("{id} reply"), from: to, to: from, line, lines }
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
            let tag = Tag::Element { id, kind: "note".into(), parent: None, container: false, line };
            return Item::Group(tag, figure.draw(place, &style, theme));
        }
        let stroke = Stroke::solid(theme.frame, 1.1);
        let word = wrap(self.context.fonts, &Label::plain("ref", Default::default()), Face::Bold, 12.0, 60.0);
        let tab = Rect::new(place.x, place.y, 40.0, 20.0);
        let pentagon = Path::polygon(&[
            pt(tab.x, tab.y),
            pt(tab.right(), tab.y),
            pt(tab.right(), tab.bottom() - 6.0),
            pt(tab.right() - 6.0, tab.bottom()),
            pt(tab.x, tab.bottom()),
        ]);
        let mut items = vec![
            Item::Path {
                path: Path::rect(place),
                fill: Some(self.paper()),
                stroke: Some(stroke),
                role: Some(Role::Frame),
            },
            Item::Path { path: pentagon, fill: Some(theme.band(0)), stroke: Some(stroke), role: None },
        ];
        let at = Rect::new(tab.x, tab.y + (tab.h - word.height()) / 2.0, tab.w - 4.0, word.height());
        items.extend(texts_in(&word, at, TextAnchor::Middle, theme.ink));
        let text = Rect::around(place.middle(), Size::new(block.text.width(), block.text.height()));
        items.extend(texts_in(&block.text, text, TextAnchor::Middle, theme.ink));
        let id = format!("reference {}", b + 1);
        Item::Group(Tag::Element { id, kind: "fragment".into(), parent: None, container: true, line }, items)
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
        let kind = if *is_pause { "pause" } else { "phase" };
        Item::Group(
            Tag::Element {
                id: format!("{kind} {}", m + 1),
                kind: kind.into(),
                parent: None,
                container: false,
                line: *line,
            },
            items,
        )
    }
}

/// The look of remarks.
fn note_style(theme: &crate::theme::Theme) -> crate::theme::ElementStyle {
    crate::theme::ElementStyle {
        fill: Colour::oklch(0.965, 0.04, 95.0),
        line: theme.outline,
        text: theme.ink,
        quiet: theme.quiet,
        accent: theme.accent,
        dash: Dash::Solid,
        width: 1.0,
        hidden: false,
    }
}

//! From what happens to a chart of sizes: every text is wrapped, every number of the chart is
//! remembered with what it stands for.

use crate::geom::Size;
use crate::layout::sequence::{Bar, BlockPlace, Chart, Effect, Spot, Step};
use crate::measure::{Face, TextBlock, wrap};
use crate::model::{Diagram, ElementId, ElementKind, Event, Heading, Operand, RelationId, Verb};
use crate::notation::context::Context;
use crate::notation::figure::Figure;
use crate::notation::frame::FrameTitle;
use crate::notation::shaper::Shaper;
use crate::source::Span;
use crate::syntax::Label;
use crate::theme::Styles;
use std::collections::BTreeMap;

/// A message to be drawn.
pub(super) struct Line {
    pub(super) relation: RelationId,
    /// Whether it is the reply to that relation's message.
    pub(super) is_reply: bool,
    pub(super) text: Option<TextBlock>,
}

/// A frame to be drawn.
pub(super) struct FrameText {
    pub(super) word: TextBlock,
    pub(super) guards: Vec<Option<TextBlock>>,
    /// The frame around it.
    pub(super) parent: Option<usize>,
    pub(super) span: Span,
}

/// A remark or a reference to be drawn.
pub(super) struct BlockText {
    pub(super) figure: Option<Figure>,
    pub(super) text: TextBlock,
    pub(super) span: Span,
}

/// What goes across all lifelines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum MarkKind {
    /// A divider.
    Phase,
    /// A gap in time.
    Pause,
}

/// A divider or a gap to be drawn.
pub(super) struct Mark {
    pub(super) text: Option<TextBlock>,
    pub(super) span: Span,
    pub(super) kind: MarkKind,
}

/// The chart, and what its numbers stand for.
pub(super) struct Script<'a> {
    pub(super) diagram: &'a Diagram,
    pub(super) styles: &'a Styles,
    pub(super) context: &'a Context<'a>,
    pub(super) shaper: Shaper<'a>,
    pub(super) chart: Chart,
    /// The parties, by column, with their figures.
    pub(super) parties: Vec<(ElementId, Figure)>,
    pub(super) column_of: BTreeMap<ElementId, usize>,
    pub(super) groups: Vec<(ElementId, FrameTitle)>,
    pub(super) lines: Vec<Line>,
    pub(super) frames: Vec<FrameText>,
    /// The frames that are being written, innermost last.
    pub(super) open_frames: Vec<usize>,
    pub(super) blocks: Vec<BlockText>,
    pub(super) marks: Vec<Mark>,
    /// Replies that come later, by who answers whom.
    pub(super) awaited: BTreeMap<(ElementId, ElementId), usize>,
}

impl<'a> Script<'a> {
    pub(super) fn write(diagram: &'a Diagram, styles: &'a Styles, context: &'a Context<'a>) -> Self {
        let shaper = Shaper::new(context, diagram.kind);
        let mut script = Self {
            diagram,
            styles,
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
        script.await_answers(diagram.events(), None);
        script.chart.steps = script.steps(diagram.events(), "");
        script.chart.foot = diagram.interaction().is_some_and(|i| i.foot);
        script.chart.counts.messages = script.lines.len();
        script.chart.counts.frames = script.frames.len();
        script.chart.counts.blocks = script.blocks.len();
        script.chart.counts.marks = script.marks.len();
        script
    }

    /// A column for each party, members of a group side by side.
    fn columns(&mut self) {
        for id in self.diagram.columns().order {
            let mut element = self.diagram.element(id).clone();
            element.properties.built = None;
            let figure = self.shaper.figure(&element, &self.styles.elements[id.index()]);
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
                let title = FrameTitle::new(self.context, element, &self.styles.elements[id.index()], Heading::Down);
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
        for (i, item) in items.iter().enumerate() {
            match item {
                Event::Message { .. } => {
                    *count += 1;
                    let own = if number.is_empty() { count.to_string() } else { format!("{number}.{count}") };
                    out.extend(self.message(item, &items[i + 1..], &own));
                }
                Event::Fragment { operator, operands, span } => {
                    out.push(self.fragment(operator.word(), operands, *span, (number, count)));
                }
                Event::Reference { label, across, span, .. } => out.push(self.reference(label, across, *span)),
                Event::Phase { label, span } => out.push(self.mark(Some(label), *span, MarkKind::Phase)),
                Event::Pause { label, span } => out.push(self.mark(label.as_ref(), *span, MarkKind::Pause)),
                Event::Remark { across, label, left, span } => {
                    out.extend(self.remark(across, label, if *left { Side::Left } else { Side::Right }, *span))
                }
            }
        }
    }

    fn spot(&self, id: ElementId) -> Spot {
        self.column_of.get(&id).map_or(Spot::Outside, |c| Spot::Column(*c))
    }

    /// A message; `rest` is what follows it.
    fn message(&mut self, item: &Event, rest: &[Event], number: &str) -> Option<Step> {
        let Event::Message { relation, body, returning, guard, within } = item else { return None };
        let r = self.diagram.relation(*relation);
        let (from, to, verb) = (r.from, r.to, r.verb);
        let text = self.message_text(r.label.as_ref(), guard.as_ref(), within.as_ref(), number);
        let label = size_of(&text);
        let id = self.lines.len();
        self.lines.push(Line { relation: *relation, is_reply: false, text });
        let may_wait = returning.is_none() && verb != Verb::Answers;
        // What has a body is over at its end, unless the answer comes right after it.
        let is_open = body.is_empty() || self.begins_with_answer(rest, (to, from));
        let waits = may_wait && is_open && self.takes_answer(to, from);
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

    /// Whether the next message, remarks aside, is an answer between these.
    fn begins_with_answer(&self, rest: &[Event], ends: (ElementId, ElementId)) -> bool {
        let next = rest.iter().find(|item| !matches!(item, Event::Remark { .. }));
        let Some(Event::Message { relation, .. }) = next else { return false };
        let r = self.diagram.relation(*relation);
        r.verb == Verb::Answers && (r.from, r.to) == ends
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
        if self.diagram.interaction().is_some_and(|i| i.numbered) {
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
        let block = self.wrapped(&Label::of(runs, span), Face::Regular, 200.0);
        Some(block).filter(|b| b.width() > 0.0)
    }

    fn fragment(&mut self, word: &str, operands: &[Operand], span: Span, (number, count): (&str, &mut usize)) -> Step {
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
        self.frames.push(FrameText { word: word_block, guards, parent, span });
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

    fn reference(&mut self, label: &Label, across: &[ElementId], span: Span) -> Step {
        let text = wrap(self.context.fonts, label, Face::Regular, 13.0, 260.0);
        let size = Size::new(crate::geom::up4(text.width() + 84.0), crate::geom::up4(text.height() + 24.0));
        let id = self.blocks.len();
        self.blocks.push(BlockText { figure: None, text, span });
        let columns: Vec<usize> = across.iter().filter_map(|e| self.column_of.get(e).copied()).collect();
        let low = columns.iter().min().copied().unwrap_or(0);
        let high = columns.iter().max().copied().unwrap_or(self.parties.len().saturating_sub(1));
        Step::Block { id, place: BlockPlace::Across(low, high), size }
    }

    fn remark(&mut self, across: &[ElementId], label: &Label, side: Side, span: Span) -> Option<Step> {
        let columns: Vec<usize> = across.iter().filter_map(|e| self.column_of.get(e).copied()).collect();
        let (low, high) = (columns.iter().min().copied()?, columns.iter().max().copied()?);
        let figure = self.shaper.note(label, high - low);
        let size = figure.size;
        let place = match (low == high, side) {
            (false, _) => BlockPlace::Across(low, high),
            (true, Side::Left) => BlockPlace::LeftOf(low),
            _ => BlockPlace::RightOf(low),
        };
        let id = self.blocks.len();
        self.blocks.push(BlockText { figure: Some(figure), text: TextBlock::default(), span });
        Some(Step::Block { id, place, size })
    }

    fn mark(&mut self, label: Option<&Label>, span: Span, kind: MarkKind) -> Step {
        let is_pause = kind == MarkKind::Pause;
        let face = if is_pause { Face::Regular } else { Face::Bold };
        let text = label.map(|l| self.wrapped(l, face, 220.0));
        let size = text.as_ref().map_or(Size::default(), |t| Size::new(t.width() + 20.0, t.height() + 8.0));
        let id = self.marks.len();
        self.marks.push(Mark { text, span, kind });
        Step::Mark { id, size, gap: if is_pause { 16.0 } else { 0.0 } }
    }
}

/// A side of a party.
#[derive(Clone, Copy)]
enum Side {
    Left,
    Right,
}

fn size_of(text: &Option<TextBlock>) -> Size {
    text.as_ref().map_or(Size::default(), |t| Size::new(t.width(), t.height()))
}

//! One walk over the steps of a chart. It collects what columns need, and places everything by the
//! columns it was given: rows by time, bars by nesting, frames around exactly what they hold, and the label of each message
//! above its line.

use super::chart::{
    Bar, BarPlace, BlockPlace, CROSS, Chart, ChartPlacement, Effect, FramePlace, MessagePlace, Needs, Spot, Step, need,
};
use super::spans::{columns_of, frames_at, frames_ending};
use crate::geom::{Rect, Size, on_grid, pt};
use std::collections::BTreeMap;

/// Half the width of a bar, and how far a bar on a bar is shifted.
// UML draws bars narrow; 10 px are seen at half size.
const HALF_BAR: f64 = 5.0;
/// A picture taller than this has its parties at its foot too, in px.
// Further down, the heads have left the screen of whoever reads.
const SCREEN: f64 = 900.0;
/// Room between heads.
pub(super) const HEAD_GAP: f64 = 28.0;
/// Room above a message's text.
const ROW: f64 = 11.0;
/// Room between a text and the line below it.
const LIFT: f64 = 4.0;
/// Room beside texts between columns.
const SIDE: f64 = 12.0;
/// How far a message to the own column stands out, and how high it is.
const LOOP: Size = Size { w: 26.0, h: 18.0 };
/// Room between a frame and what it holds.
const PAD: f64 = 12.0;
/// Room for the dot at a lost or found end, and beside it.
// The dot, an arrow head and a gap.
const STRAY: f64 = 18.0;
/// Room for the frame's tab before the first column's bar.
const BEFORE_BAR: f64 = 8.0;

/// Which end of a message is nowhere.
enum Nowhere {
    Lost,
    Found { opens: usize },
}

/// A bar that is open.
#[derive(Clone, Copy)]
struct OpenBar {
    message: usize,
    top: f64,
    place: usize,
}

pub(super) struct Walk<'a> {
    chart: &'a Chart,
    x: Vec<f64>,
    y: f64,
    /// Where lifelines begin.
    ground: f64,
    open: Vec<Vec<OpenBar>>,
    /// Bars kept open, by the column and who is to be answered.
    kept: BTreeMap<(usize, usize), Vec<usize>>,
    pub(super) needs: Needs,
    /// Messages over several columns: from where to where, and the room of their texts.
    pub(super) long: Vec<(usize, usize, f64)>,
    /// What stands out beside a column: lost and found ends.
    strays: Vec<(usize, f64)>,
    /// The first and the last column of each open frame.
    frames: Vec<(usize, usize)>,
    /// Left and right edges of what the open frames hold.
    extents: Vec<(f64, f64)>,
    out: ChartPlacement,
}

/// A side of the bars of a column.
#[derive(Clone, Copy)]
enum BarSide {
    Left,
    Right,
}

impl BarSide {
    fn towards(is_right: bool) -> Self {
        if is_right { Self::Right } else { Self::Left }
    }
}

impl<'a> Walk<'a> {
    pub(super) fn new(chart: &'a Chart, x: Vec<f64>) -> Self {
        let counts = chart.counts;
        let out = ChartPlacement {
            messages: vec![MessagePlace::default(); counts.messages],
            frames: vec![FramePlace::default(); counts.frames],
            blocks: vec![Rect::default(); counts.blocks],
            marks: vec![Default::default(); counts.marks],
            destroyed: vec![false; x.len()],
            ..ChartPlacement::default()
        };
        Self {
            chart,
            open: vec![Vec::new(); x.len()],
            x,
            y: 0.0,
            ground: 0.0,
            kept: BTreeMap::new(),
            needs: Needs::new(),
            long: Vec::new(),
            strays: Vec::new(),
            frames: Vec::new(),
            extents: vec![(f64::INFINITY, f64::NEG_INFINITY)],
            out,
        }
    }

    fn need(&mut self, a: usize, b: usize, width: f64) {
        if a < b && b < self.x.len() {
            need(&mut self.needs, a, b, width);
        }
    }

    pub(super) fn heads(&mut self) {
        let boxed = self.chart.boxes.iter().map(|b| b.2.h + 14.0).fold(0.0, f64::max);
        let tallest = self.chart.columns.iter().map(|c| c.h).fold(0.0, f64::max);
        for (i, size) in self.chart.columns.iter().enumerate() {
            let edges = self.chart.boxes.iter().filter(|b| b.1 == i || b.0 == i + 1).count() as f64;
            if let Some(next) = self.chart.columns.get(i + 1) {
                self.need(i, i + 1, size.w / 2.0 + next.w / 2.0 + HEAD_GAP + 14.0 * edges);
            }
            let rect = Rect::around(pt(self.x[i], boxed + tallest / 2.0), *size);
            self.out.heads.push(rect);
            self.reach(rect.x, rect.right());
        }
        for (first, last, title) in &self.chart.boxes {
            if first < last {
                self.need(
                    *first,
                    *last,
                    title.w - self.chart.columns[*first].w / 2.0 - self.chart.columns[*last].w / 2.0,
                );
            }
        }
        self.ground = boxed + tallest;
        self.y = self.ground + 8.0;
        for i in 0..self.x.len() {
            let bottom = self.out.heads[i].bottom();
            self.out.lifelines.push((self.x[i], bottom, bottom));
        }
    }

    /// Room for the edges of open frames that end behind what stands beside a column, or begin before it.
    fn edges_beside(&self, column: usize, side: BarSide) -> f64 {
        let is_there = |(first, last): &&(usize, usize)| match side {
            BarSide::Left => *first == column,
            BarSide::Right => *last == column,
        };
        PAD * self.frames.iter().filter(is_there).count() as f64
    }

    /// Widens what the innermost frame holds.
    fn reach(&mut self, left: f64, right: f64) {
        if let Some(extent) = self.extents.last_mut() {
            *extent = (extent.0.min(left), extent.1.max(right));
        }
    }

    pub(super) fn steps(&mut self, steps: &[Step]) {
        for step in steps {
            match step {
                Step::Message { .. } => self.message(step),
                Step::Frame { id, tab, operands } => self.frame(*id, *tab, operands),
                Step::Block { id, place, size } => self.block(*id, *place, *size),
                Step::Mark { id, size, gap } => self.mark(*id, *size, *gap),
            }
        }
    }

    /// How far the bars of a column reach to one side, `more` bars counted as open.
    fn edge(&self, column: usize, side: BarSide, more: usize) -> f64 {
        let depth = self.open[column].len() + more;
        match (depth, side) {
            (0, _) => 0.0,
            (d, BarSide::Right) => HALF_BAR + HALF_BAR * (d - 1) as f64,
            (d, BarSide::Left) => -HALF_BAR + HALF_BAR * (d - 1) as f64,
        }
    }

    fn message(&mut self, step: &Step) {
        let Step::Message { id, from, to, label, body, reply, bar, closes, effect } = step else { return };
        let opens = usize::from(*bar != Bar::None);
        let target = match (*from, *to) {
            (Spot::Column(a), Spot::Column(b)) if a == b => {
                self.own(*id, a, *label, opens);
                Some(a)
            }
            (Spot::Column(a), Spot::Column(b)) => {
                self.between(*id, (a, b), *label, opens, *effect);
                Some(b)
            }
            (Spot::Column(a), Spot::Outside) => {
                self.outside(*id, a, *label, Nowhere::Lost);
                None
            }
            (Spot::Outside, Spot::Column(b)) => {
                self.outside(*id, b, *label, Nowhere::Found { opens });
                Some(b)
            }
            (Spot::Outside, Spot::Outside) => None,
        };
        if let (true, Spot::Column(a), Spot::Column(b)) = (*closes, *from, *to) {
            self.close_kept(a, b);
        }
        if let Some(column) = target.filter(|_| opens > 0) {
            self.open_bar(column, *id);
        }
        if let (Bar::Kept, Spot::Column(a), Some(b)) = (*bar, *from, target) {
            let place = self.open[b].last().map_or(0, |o| o.place);
            self.kept.entry((b, a)).or_default().push(place);
        }
        self.steps(body);
        if let (Some((reply, size)), Spot::Column(a), Some(b)) = (reply, *from, target) {
            self.reply(*reply, b, a, *size);
        } else if *bar == Bar::Body {
            self.y += 12.0;
        }
        if let Some(column) = target.filter(|_| *bar == Bar::Body) {
            self.close_bar(column, *id);
        }
        if let (Effect::Ends, Some(column)) = (*effect, target) {
            // The cross stands where the message ends, unless something is still going on there.
            let is_at_once = body.is_empty() && *from != Spot::Column(column) && self.open[column].is_empty();
            self.y += if is_at_once { 0.0 } else { 2.0 * CROSS };
            self.out.lifelines[column].2 = self.y;
            self.out.destroyed[column] = true;
        }
    }

    /// A message from one column to another.
    fn between(&mut self, id: usize, (a, b): (usize, usize), label: Size, opens: usize, effect: Effect) {
        let to_right = a < b;
        let (low, high) = (a.min(b), a.max(b));
        self.y += ROW + label.h + LIFT;
        let start = self.x[a] + self.edge(a, BarSide::towards(to_right), 0);
        let mut end = self.x[b] + self.edge(b, BarSide::towards(!to_right), opens);
        let bars = self.edge(low, BarSide::Right, usize::from(low == b) * opens)
            - self.edge(high, BarSide::Left, usize::from(high == b) * opens);
        if effect == Effect::Begins {
            let head = self.chart.columns[b];
            self.y = self.y.max(self.out.heads[b].y + head.h / 2.0) + f64::max(head.h / 2.0 - label.h, 0.0);
            let rect = Rect::around(pt(self.x[b], self.y), head);
            self.out.heads[b] = rect;
            self.out.lifelines[b].1 = rect.bottom();
            end = if to_right { rect.x } else { rect.right() };
            self.need(low, high, label.w + 2.0 * SIDE + 10.0 + head.w / 2.0);
        }
        let width = label.w + 2.0 * SIDE + bars + 8.0;
        self.need(low, high, width);
        if high - low > 1 {
            self.long.push((low, high, width));
        }
        let place = self.label_place(a, b, start, end, label);
        self.out.messages[id] = MessagePlace { points: vec![pt(start, self.y), pt(end, self.y)], label: place };
        self.reach(start.min(end).min(place.x), start.max(end).max(place.right()));
        if effect == Effect::Begins {
            // Who is created in a fragment stands in it.
            self.reach(self.out.heads[b].x, self.out.heads[b].right());
            self.y += self.chart.columns[b].h / 2.0 + 4.0;
        }
    }

    /// The text of a message lies in one gap between columns: the first from its sender that has
    /// room, so that it lies on no bar in between.
    fn label_place(&self, a: usize, b: usize, start: f64, end: f64, label: Size) -> Rect {
        let y = self.y - LIFT - label.h;
        let gaps: Vec<(f64, f64)> = if a < b {
            (a..b)
                .map(|i| {
                    let left = if i == a { start } else { self.x[i] + self.edge(i, BarSide::Right, 0) };
                    let right = if i + 1 == b { end } else { self.x[i + 1] + self.edge(i + 1, BarSide::Left, 0) };
                    (left, right)
                })
                .collect()
        } else {
            (b..a)
                .rev()
                .map(|i| {
                    let left = if i == b { end } else { self.x[i] + self.edge(i, BarSide::Right, 0) };
                    let right = if i + 1 == a { start } else { self.x[i + 1] + self.edge(i + 1, BarSide::Left, 0) };
                    (left, right)
                })
                .collect()
        };
        let fits = gaps.iter().find(|(l, r)| r - l >= label.w + SIDE);
        let widest = gaps.iter().max_by(|p, q| (p.1 - p.0).total_cmp(&(q.1 - q.0)));
        let (left, right) = fits.or(widest).copied().unwrap_or((start.min(end), start.max(end)));
        // Room for the head at the target's side.
        let arrow = if a < b && right == end {
            -4.0
        } else if a > b && left == end {
            4.0
        } else {
            0.0
        };
        Rect::new(libm::round((left + right - label.w) / 2.0 + arrow), y, label.w, label.h)
    }

    /// A message to the own column: out, down and back, with the text beside it.
    fn own(&mut self, id: usize, column: usize, label: Size, opens: usize) {
        let height = LOOP.h.max(label.h - 4.0);
        self.y += ROW + f64::max(0.0, (label.h - height) / 2.0);
        let start = self.x[column] + self.edge(column, BarSide::Right, 0);
        let end = self.x[column] + self.edge(column, BarSide::Right, opens);
        let out = self.x[column] + self.edge(column, BarSide::Right, opens) + LOOP.w;
        let bottom = self.y + height;
        let points = vec![pt(start, self.y), pt(out, self.y), pt(out, bottom), pt(end, bottom)];
        let place = Rect::new(out + 6.0, self.y + (height - label.h) / 2.0, label.w, label.h);
        let before_next =
            if column + 1 < self.x.len() { self.edge(column + 1, BarSide::Left, 0).min(0.0) } else { 0.0 };
        let edges = self.edges_beside(column, BarSide::Right);
        self.need(column, column + 1, place.right() - self.x[column] + SIDE + edges - before_next);
        self.out.messages[id] = MessagePlace { points, label: place };
        self.reach(start, place.right());
        self.y = bottom;
    }

    /// A message to or from nowhere.
    fn outside(&mut self, id: usize, column: usize, label: Size, end: Nowhere) {
        self.y += ROW + label.h + LIFT;
        let length = label.w.max(30.0) + 2.0 * SIDE;
        let (start, end) = match end {
            Nowhere::Lost => {
                let start = self.x[column] + self.edge(column, BarSide::Right, 0);
                let beyond = self.room_beyond(column, column + 1);
                self.need(column, column + 1, length + 30.0 + self.edge(column, BarSide::Right, 0) + beyond);
                self.strays.push((column, start + length + STRAY));
                (start, start + length)
            }
            Nowhere::Found { opens } => {
                let end = self.x[column] + self.edge(column, BarSide::Left, opens);
                if column > 0 {
                    let beyond = self.room_beyond(column - 1, column);
                    self.need(column - 1, column, length + 40.0 + beyond);
                }
                self.strays.push((column, end - length - STRAY));
                (end - length, end)
            }
        };
        let place = Rect::new((start + end - label.w) / 2.0, self.y - LIFT - label.h, label.w, label.h);
        self.reach(start - 12.0, end + 12.0);
        self.out.messages[id] = MessagePlace { points: vec![pt(start, self.y), pt(end, self.y)], label: place };
    }

    /// Room that a box's frame needs between two columns when something stands out of it.
    fn room_beyond(&self, left: usize, right: usize) -> f64 {
        let heads = &self.chart.columns;
        let outside = |c: usize| heads.get(c).map_or(0.0, |h| h.w / 2.0) + 16.0;
        let ends = self.chart.boxes.iter().any(|b| b.1 == left);
        let begins = self.chart.boxes.iter().any(|b| b.0 == right);
        if ends {
            outside(right)
        } else if begins {
            outside(left)
        } else {
            0.0
        }
    }

    fn reply(&mut self, id: usize, from: usize, to: usize, label: Size) {
        if from == to {
            // The reply to oneself is the end of the bar; its text stands beside it.
            self.y += ROW + label.h.max(10.0);
            let x = self.x[from] + self.edge(from, BarSide::Right, 0);
            let (top, out) = (self.y - 10.0, x + LOOP.w);
            let points = vec![pt(x, top), pt(out, top), pt(out, self.y), pt(x - HALF_BAR, self.y)];
            let place = Rect::new(out + 6.0, self.y - label.h, label.w, label.h);
            let edges = self.edges_beside(from, BarSide::Right);
            self.need(from, from + 1, place.right() - self.x[from] + SIDE + edges);
            self.reach(x, place.right());
            self.out.messages[id] = MessagePlace { points, label: place };
            return;
        }
        self.between(id, (from, to), label, 0, Effect::None);
    }

    fn open_bar(&mut self, column: usize, message: usize) {
        let shift = HALF_BAR * self.open[column].len() as f64;
        let left = self.x[column] - HALF_BAR + shift;
        let place = self.out.bars.len();
        let rect = Rect::new(left, self.y, 2.0 * HALF_BAR, 0.0);
        self.out.bars.push(BarPlace { column, message, rect });
        self.open[column].push(OpenBar { message, top: self.y, place });
        self.reach(left, left + 2.0 * HALF_BAR);
    }

    fn close_bar(&mut self, column: usize, message: usize) {
        if let Some(at) = self.open[column].iter().rposition(|o| o.message == message) {
            let bar = self.open[column].remove(at);
            self.out.bars[bar.place].rect.h = self.y - bar.top;
        }
    }

    fn close_kept(&mut self, column: usize, asker: usize) {
        if let Some(place) = self.kept.get_mut(&(column, asker)).and_then(|k| (!k.is_empty()).then(|| k.remove(0)))
            && let Some(at) = self.open[column].iter().position(|o| o.place == place)
        {
            let bar = self.open[column].remove(at);
            self.out.bars[place].rect.h = self.y - bar.top;
        }
    }

    fn frame(&mut self, id: usize, tab: Size, operands: &[(Size, Vec<Step>)]) {
        // One that holds nothing of anybody lies across all.
        let all = || self.x.len().checked_sub(1).map(|last| (0, last));
        let held = operands.iter().filter_map(|o| columns_of(&o.1)).reduce(|a, b| (a.0.min(b.0), a.1.max(b.1)));
        let Some((first, last)) = held.or_else(all) else { return };
        let nested = operands.iter().map(|o| frames_at(&o.1, first)).max().unwrap_or(0) as f64;
        self.y += PAD;
        let top = self.y;
        self.extents.push((f64::INFINITY, f64::NEG_INFINITY));
        self.frames.push((first, last));
        let mut place = FramePlace::default();
        let guard_left = self.x[first] + self.edge(first, BarSide::Right, 0).max(HALF_BAR) + BEFORE_BAR;
        for (i, (guard, steps)) in operands.iter().enumerate() {
            if i > 0 {
                self.y += PAD - 2.0;
                place.separators.push(self.y);
            }
            let room = if i == 0 { tab.h.max(guard.h) } else { guard.h };
            place.guards.push(Rect::new(guard_left, self.y + 5.0, guard.w, guard.h));
            if guard.w > 0.0 {
                let edges = self.edges_beside(first, BarSide::Right);
                self.need(first, first + 1, guard_left - self.x[first] + guard.w + SIDE + edges);
                self.reach(guard_left, guard_left + guard.w);
            }
            self.y += room + 3.0;
            self.steps(steps);
        }
        self.y += PAD;
        let (left, right) = self.extents.pop().unwrap_or_default();
        self.frames.pop();
        let before = HALF_BAR + BEFORE_BAR + tab.w;
        let left = (left - PAD + 2.0).min(self.x[first] - before);
        let right = (right.max(self.x[last] + HALF_BAR) + PAD).max(left + tab.w + 60.0);
        if first > 0 {
            self.need(
                first - 1,
                first,
                before + (PAD - 2.0) * nested + 2.0 * PAD + self.edge(first - 1, BarSide::Right, 1),
            );
        }
        let levels = operands.iter().map(|o| frames_ending(&o.1, last)).max().unwrap_or(0) as f64;
        self.need(last, last + 1, self.edge(last, BarSide::Right, 1) + PAD * (levels + 2.0) + HALF_BAR);
        place.rect = Rect::new(left, top, right - left, self.y - top);
        place.tab = Rect::new(left, top, tab.w, tab.h);
        self.reach(left, right);
        self.out.frames[id] = place;
        self.y += 2.0;
    }

    fn block(&mut self, id: usize, place: BlockPlace, size: Size) {
        self.y += ROW;
        let rect = match place {
            BlockPlace::RightOf(c) => {
                let left = self.edge(c, BarSide::Right, 0).max(HALF_BAR) + 8.0;
                self.need(c, c + 1, left + size.w + SIDE + HALF_BAR + self.edges_beside(c, BarSide::Right));
                Rect::new(self.x[c] + left, self.y, size.w, size.h)
            }
            BlockPlace::LeftOf(c) => {
                if c > 0 {
                    let bars = self.edge(c - 1, BarSide::Right, 0);
                    self.need(c - 1, c, size.w + SIDE + 16.0 + bars + self.edges_beside(c, BarSide::Left));
                }
                Rect::new(self.x[c] - HALF_BAR - 8.0 - size.w, self.y, size.w, size.h)
            }
            BlockPlace::Across(a, b) => {
                let (low, high) = (a.min(b), a.max(b));
                let wide = (self.x[high] - self.x[low] + 56.0).max(size.w);
                let middle = (self.x[high] + self.x[low]) / 2.0;
                self.need(low, high, size.w - 56.0);
                Rect::new(middle - wide / 2.0, self.y, wide, size.h)
            }
        };
        self.reach(rect.x, rect.right());
        self.out.blocks[id] = rect;
        self.y = rect.bottom() + 2.0;
    }

    fn mark(&mut self, id: usize, size: Size, gap: f64) {
        self.y += ROW + 8.0;
        let left = self.x.first().copied().unwrap_or(0.0);
        let bars = if self.open.is_empty() { 0.0 } else { self.edge(0, BarSide::Right, 0).max(HALF_BAR) };
        self.need(0, 1, size.w + 2.0 * SIDE + bars + HALF_BAR);
        let next = self.x.get(1).copied().unwrap_or(left + bars + size.w + 2.0 * SIDE);
        let middle = (left + bars + next - HALF_BAR) / 2.0;
        let rect = Rect::new(libm::round(middle - size.w / 2.0), self.y + gap / 2.0, size.w, size.h);
        let top = self.y;
        self.y += size.h + gap;
        self.out.marks[id] = (rect, top, self.y);
        self.reach(rect.x, rect.right());
        self.y += 4.0;
    }

    pub(super) fn finish(mut self) -> ChartPlacement {
        // Bars that nothing closed end with the picture.
        for column in 0..self.open.len() {
            while let Some(bar) = self.open[column].pop() {
                self.out.bars[bar.place].rect.h = f64::max(self.y - bar.top, 12.0);
            }
        }
        let mut bottom = self.y + 18.0;
        for (line, destroyed) in self.out.lifelines.iter_mut().zip(&self.out.destroyed) {
            if !destroyed {
                line.2 = bottom.max(line.1 + 12.0);
            }
        }
        let has_feet = self.chart.foot || bottom > SCREEN;
        let ends = self.out.heads.iter().zip(&self.out.lifelines).zip(&self.out.destroyed);
        let foot = |((head, line), destroyed): ((&Rect, &(f64, f64, f64)), &bool)| {
            (has_feet && !destroyed).then(|| Rect::new(head.x, line.2, head.w, head.h))
        };
        self.out.feet = ends.map(foot).collect();
        bottom = self.out.feet.iter().flatten().map(|r| r.bottom()).fold(bottom, f64::max);
        for (first, last, title) in &self.chart.boxes {
            let (a, b) = (self.out.heads[*first], self.out.heads[*last]);
            let top = self.ground - self.chart.columns.iter().map(|c| c.h).fold(0.0, f64::max) - title.h - 14.0;
            let right = b.right().max(a.x + title.w + 8.0);
            let mut rect = Rect::new(a.x - 12.0, top, right - a.x + 24.0, bottom - top + 12.0);
            for (_, x) in self.strays.iter().filter(|(c, _)| first <= c && c <= last) {
                rect = rect.union(Rect::new(*x, top, 0.0, 0.0));
            }
            self.out.boxes.push(rect);
        }
        let boxes = self.out.boxes.iter().copied().reduce(Rect::union);
        let (mut left, mut right) = self.extents.first().copied().unwrap_or((0.0, 0.0));
        if let Some(boxes) = boxes {
            left = left.min(boxes.x);
            right = right.max(boxes.right());
        }
        if left > right {
            (left, right) = (0.0, 0.0);
        }
        let height = boxes.map_or(bottom, |b| b.bottom().max(bottom));
        self.out.size = Size::new(right - left, height).on_grid();
        self.settle(-left);
        self.out
    }

    /// Moves everything to the right, onto the grid.
    fn settle(&mut self, dx: f64) {
        let out = &mut self.out;
        let rects =
            out.heads.iter_mut().chain(out.feet.iter_mut().flatten()).chain(&mut out.blocks).chain(&mut out.boxes);
        rects
            .chain(out.bars.iter_mut().map(|b| &mut b.rect))
            .chain(out.marks.iter_mut().map(|m| &mut m.0))
            .chain(out.frames.iter_mut().flat_map(|f| [&mut f.rect, &mut f.tab].into_iter().chain(&mut f.guards)))
            .chain(out.messages.iter_mut().map(|m| &mut m.label))
            .for_each(|r| *r = r.moved(dx, 0.0).on_grid());
        out.messages.iter_mut().flat_map(|m| &mut m.points).for_each(|p| *p = pt(p.x + dx, p.y).on_grid());
        out.lifelines.iter_mut().for_each(|l| *l = (on_grid(l.0 + dx), on_grid(l.1), on_grid(l.2)));
        let times = out.marks.iter_mut().flat_map(|m| [&mut m.1, &mut m.2]);
        times.chain(out.frames.iter_mut().flat_map(|f| &mut f.separators)).for_each(|y| *y = on_grid(*y));
    }
}

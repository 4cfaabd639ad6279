//! What the layout of a sequence is given and what it gives back.

use crate::geom::{Point, Rect, Size};
use std::collections::BTreeMap;

/// A sequence to be placed.
#[derive(Clone, Debug, Default)]
pub struct Chart {
    /// Sizes of the heads, from left to right.
    pub columns: Vec<Size>,
    /// Boxes around neighbouring columns: first, last, room for the title.
    pub boxes: Vec<(usize, usize, Size)>,
    /// What happens, in order.
    pub steps: Vec<Step>,
    /// Whether heads are repeated at the foot of any picture, not only of one taller than a screen.
    pub foot: bool,
    /// How many messages, frames, blocks and marks there are.
    pub counts: Counts,
}

/// How many numbers of each sort the steps use.
#[derive(Clone, Copy, Debug, Default)]
pub struct Counts {
    /// Messages, replies included.
    pub messages: usize,
    /// Frames.
    pub frames: usize,
    /// Blocks.
    pub blocks: usize,
    /// Marks.
    pub marks: usize,
}

/// Half the width and height of the cross at the end of a destroyed lifeline, in px.
pub const CROSS: f64 = 7.0;

/// Where a message begins or ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Spot {
    /// At a column.
    Column(usize),
    /// Outside all of them: lost or found.
    Outside,
}

/// What a message does to its column.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Effect {
    /// Nothing.
    #[default]
    None,
    /// The column begins here.
    Begins,
    /// The column ends here.
    Ends,
}

/// The activation bar that a message opens.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bar {
    /// None.
    None,
    /// As long as its body.
    Body,
    /// Until a later message closes it.
    Kept,
}

/// One step.
#[derive(Clone, Debug)]
pub enum Step {
    /// A message.
    Message {
        /// Its number.
        id: usize,
        /// Where it begins.
        from: Spot,
        /// Where it ends.
        to: Spot,
        /// Its text.
        label: Size,
        /// What happens before its bar ends.
        body: Vec<Step>,
        /// The number and the text of the reply at the bar's end.
        reply: Option<(usize, Size)>,
        /// The bar it opens.
        bar: Bar,
        /// Whether it ends a bar that was kept, at its beginning.
        closes: bool,
        /// What it does to the column it ends at.
        effect: Effect,
    },
    /// A frame around steps.
    Frame {
        /// Its number.
        id: usize,
        /// The tab in its corner.
        tab: Size,
        /// Its parts: the guard's text, and the steps.
        operands: Vec<(Size, Vec<Step>)>,
    },
    /// Something with a size of its own.
    Block {
        /// Its number.
        id: usize,
        /// Where it stands.
        place: BlockPlace,
        /// Its size; across columns, its least size.
        size: Size,
    },
    /// A line across everything, with a text in a gap between columns.
    Mark {
        /// Its number.
        id: usize,
        /// The text's size.
        size: Size,
        /// Room for time that passes below it.
        gap: f64,
    },
}

/// Where a block stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum BlockPlace {
    /// To the right of a column.
    RightOf(usize),
    /// To the left of a column.
    LeftOf(usize),
    /// From a column to another.
    Across(usize, usize),
}

/// A placed message.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct MessagePlace {
    /// Its corners.
    pub points: Vec<Point>,
    /// Its text.
    pub label: Rect,
}

/// A placed bar.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BarPlace {
    /// Its column.
    pub column: usize,
    /// The message that opened it.
    pub message: usize,
    /// Where it is.
    pub rect: Rect,
}

/// A placed frame.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct FramePlace {
    /// Where it is.
    pub rect: Rect,
    /// The tab in its corner.
    pub tab: Rect,
    /// The guards of its parts.
    pub guards: Vec<Rect>,
    /// Lines between its parts.
    pub separators: Vec<f64>,
}

/// A placed sequence.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct ChartPlacement {
    /// Heads of columns.
    pub heads: Vec<Rect>,
    /// The heads once more, at the ends of lifelines that reach the foot of the picture, if they are repeated there.
    pub feet: Vec<Option<Rect>>,
    /// Axis, beginning and end of each lifeline.
    pub lifelines: Vec<(f64, f64, f64)>,
    /// Whether each lifeline ends by destruction.
    pub destroyed: Vec<bool>,
    /// Messages, by number.
    pub messages: Vec<MessagePlace>,
    /// Bars, outer ones before those on them.
    pub bars: Vec<BarPlace>,
    /// Frames, by number.
    pub frames: Vec<FramePlace>,
    /// Blocks, by number.
    pub blocks: Vec<Rect>,
    /// Marks, by number: the text, and from where to where time passes.
    pub marks: Vec<(Rect, f64, f64)>,
    /// Boxes around columns.
    pub boxes: Vec<Rect>,
    /// Everything together.
    pub size: Size,
}

/// How far apart columns must be at least: from one, to another, in px.
pub(super) type Needs = BTreeMap<(usize, usize), f64>;

/// Raises what two columns need.
pub(super) fn need(needs: &mut Needs, a: usize, b: usize, width: f64) {
    let least = needs.entry((a, b)).or_insert(0.0);
    *least = least.max(libm::ceil(width));
}

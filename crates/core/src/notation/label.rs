//! The label of a relation: its text, and what it goes over on a small tab at the end, as technologies stand on elements.

use super::figure::{self, filled};
use super::text::texts_in;
use crate::geom::{Path, Rect, Size, up4};
use crate::measure::{Face, Fonts, TextBlock, wrap};
use crate::model::Relation;
use crate::scene::{Item, TextAnchor};
use crate::syntax::{Label, Run};
use crate::theme::{Ground, Paint};

/// The letters of labels and of tabs, in px.
const TEXT: f64 = 12.0;
const TAB: f64 = 11.0;
/// Labels wrap at this width, in px.
const WIDEST: f64 = 132.0;
/// Beside a wide tab, a text still has this much room.
const NARROWEST: f64 = 64.0;
/// Room between a text and its tab, and inside of the tab at its left and right; px.
const GAP: f64 = 5.0;
const PAD: f64 = 5.0;

/// A label, measured.
pub(super) struct RelationLabel {
    text: Option<TextBlock>,
    tab: Option<TextBlock>,
}

impl RelationLabel {
    /// The label of a relation; none if it says nothing.
    pub(super) fn new(relation: &Relation, fonts: &Fonts) -> Option<Self> {
        let text = match (&relation.start, &relation.label) {
            (Some(start), Some(label)) => {
                let mut runs = start.runs.clone();
                runs.push(Run { text: ": ".into(), style: Default::default() });
                runs.extend(label.runs.clone());
                Some(Label::of(runs, start.span))
            }
            (start, label) => start.clone().or_else(|| label.clone()),
        };
        let wrapped = |label: &Label, size, room| {
            Some(wrap(fonts, label, Face::Regular, size, room)).filter(|block| block.width() > 0.0)
        };
        let tab = relation.over.as_ref().and_then(|over| wrapped(over, TAB, WIDEST));
        let mut label = Self { text: None, tab };
        // A text beside a tab wraps so that both together are no wider.
        let taken = if label.tab.is_some() { label.tab_size().w + GAP } else { 0.0 };
        label.text = text.and_then(|text| wrapped(&text, TEXT, (WIDEST - taken).max(NARROWEST)));
        (label.text.is_some() || label.tab.is_some()).then_some(label)
    }

    fn tab_size(&self) -> Size {
        self.tab.as_ref().map_or(Size::default(), |tab| Size::new(up4(tab.width() + 2.0 * PAD), tab.height() + 2.0))
    }

    /// How much room it takes.
    pub(super) fn size(&self) -> Size {
        let (text, tab) = (self.text.as_ref(), self.tab_size());
        let Some(text) = text else { return tab };
        if self.tab.is_none() {
            return Size::new(text.width(), text.height());
        }
        // Behind the last line, which stands in the middle of the others.
        let last = text.lines.last().map_or(0.0, |line| line.width);
        let height = text.height().max(tab.h);
        Size::new(text.width().max(last + GAP + tab.w), height)
    }

    /// The label in its place.
    pub(super) fn draw(&self, place: Rect, colour: Paint) -> Vec<Item> {
        let Some(tab) = &self.tab else {
            return self.text.as_ref().map_or_else(Vec::new, |text| texts_in(text, place, TextAnchor::Middle, colour));
        };
        let (size, middle) = (self.tab_size(), place.middle());
        let mut items = Vec::new();
        let (mut left, mut at) = (middle.x - size.w / 2.0, middle.y);
        if let Some(text) = &self.text {
            let top = middle.y - text.height() / 2.0;
            let count = text.lines.len();
            let (before, last) = (count.saturating_sub(1), text.lines.last().map_or(0.0, |line| line.width));
            let part = |lines: &[_], top: f64, middle: f64, width: f64| {
                let block = TextBlock { lines: lines.to_vec(), ..*text };
                let place = Rect::new(middle - width / 2.0, top, width, block.height());
                texts_in(&block, place, TextAnchor::Middle, colour)
            };
            items.extend(part(&text.lines[..before], top, middle.x, text.width()));
            let row = last + GAP + size.w;
            let below = top + before as f64 * text.leading();
            items.extend(part(&text.lines[before..], below, middle.x - (row - last) / 2.0, last));
            left = middle.x + row / 2.0 - size.w;
            at = below + text.leading() / 2.0;
        }
        let rect = Rect::new(left, at - size.h / 2.0, size.w, size.h);
        items.push(filled(Path::rounded_above(rect, figure::TAB), Paint::TabOn(Ground::Picture, None)));
        items.extend(texts_in(tab, rect.grown(-1.0), TextAnchor::Middle, Paint::QuietOn(Ground::Picture, None)));
        items
    }
}

//! Which lines can be folded away under the line that they belong to.

use crate::pipeline::Reading;

/// Lines that can be folded: the first stays, the others go up to the last. Counted from 1.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Fold {
    /// The line that stays.
    pub first: u32,
    /// The last line that goes.
    pub last: u32,
}

/// The folds of a text, outer ones first.
pub fn folds(reading: &Reading) -> Vec<Fold> {
    let tree = &reading.tree;
    // The last line of what is indented under each; what is under a line comes behind it.
    let end = |line: &crate::syntax::Line| reading.source.line(line.span.end.saturating_sub(1).max(line.span.start));
    let mut last: Vec<u32> = tree.lines.iter().map(end).collect();
    for (i, line) in tree.lines.iter().enumerate().rev() {
        last[i] = line.children.iter().map(|id| last[id.0 as usize]).fold(last[i], u32::max);
    }
    let folds = tree.lines.iter().zip(last).map(|(line, last)| Fold { first: line.number, last });
    folds.filter(|fold| fold.last > fold.first).collect()
}

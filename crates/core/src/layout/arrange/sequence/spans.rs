//! Which columns steps touch, and how deep frames are nested at their sides.

use super::chart::{BlockPlace, Spot, Step};

/// The first and the last column that steps touch.
pub(super) fn columns_of(steps: &[Step]) -> Option<(usize, usize)> {
    let mut found: Option<(usize, usize)> = None;
    let mut add = |a: usize, b: usize| found = Some(found.map_or((a, b), |(low, high)| (low.min(a), high.max(b))));
    for step in steps {
        match step {
            Step::Message { from, to, body, .. } => {
                for spot in [from, to] {
                    if let Spot::Column(c) = spot {
                        add(*c, *c);
                    }
                }
                if let Some((a, b)) = columns_of(body) {
                    add(a, b);
                }
            }
            Step::Frame { operands, .. } => {
                for (a, b) in operands.iter().filter_map(|o| columns_of(&o.1)) {
                    add(a, b);
                }
            }
            Step::Block { place, .. } => match *place {
                BlockPlace::RightOf(c) | BlockPlace::LeftOf(c) => add(c, c),
                BlockPlace::Across(a, b) => add(a.min(b), a.max(b)),
            },
            Step::Mark { .. } => {}
        }
    }
    found
}

/// How deep frames are nested that begin at a column.
pub(super) fn frames_at(steps: &[Step], column: usize) -> usize {
    depth_of_frames(steps, &|span| span.0 == column)
}

/// How deep frames are nested that end at a column.
pub(super) fn frames_ending(steps: &[Step], column: usize) -> usize {
    depth_of_frames(steps, &|span| span.1 == column)
}

fn depth_of_frames(steps: &[Step], counts: &dyn Fn((usize, usize)) -> bool) -> usize {
    steps
        .iter()
        .map(|step| match step {
            Step::Message { body, .. } => depth_of_frames(body, counts),
            Step::Frame { operands, .. } => {
                let inner = operands.iter().map(|o| depth_of_frames(&o.1, counts)).max().unwrap_or(0);
                let spans =
                    operands.iter().filter_map(|o| columns_of(&o.1)).reduce(|a, b| (a.0.min(b.0), a.1.max(b.1)));
                inner + usize::from(spans.is_some_and(counts))
            }
            _ => 0,
        })
        .max()
        .unwrap_or(0)
}

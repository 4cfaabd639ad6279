//! The layout of sequences. Input: a [`Chart`]: columns with heads, and steps with the sizes of their
//! texts. Output: a [`ChartPlacement`].
//!
//! Columns are as far apart as what lies between them needs: difference constraints from left to
//! right, solved by longest path in O(columns + constraints). Rows follow time. Both come from one
//! walk over the steps, which runs once to collect the constraints and once to place; each is linear.

mod chart;
mod spans;
mod walk;

use crate::geom::Size;
use chart::{Needs, need};
use walk::Walk;

pub use chart::*;

/// Places a sequence.
pub fn place(chart: &Chart) -> ChartPlacement {
    if chart.columns.is_empty() {
        // Without parties there may still be dividers and references: they stand on a column unseen.
        let unseen = Chart { columns: vec![Size::default()], ..chart.clone() };
        let placement = place(&unseen);
        let (heads, feet, lifelines, destroyed) = Default::default();
        return ChartPlacement { heads, feet, lifelines, destroyed, ..placement };
    }
    // 1. What lies between columns.
    let mut walk = Walk::new(chart, vec![0.0; chart.columns.len()]);
    walk.heads();
    walk.steps(&chart.steps);
    // 2. Columns, then once more for texts of long messages that fit into no gap.
    let mut needs = walk.needs;
    let mut x = columns(chart.columns.len(), &needs);
    let mut tight = false;
    for (a, b, width) in &walk.long {
        if (*a..*b).all(|i| x[i + 1] - x[i] < *width) {
            let widest = (*a..*b).max_by(|i, j| (x[i + 1] - x[*i]).total_cmp(&(x[j + 1] - x[*j])));
            if let Some(i) = widest {
                need(&mut needs, i, i + 1, *width);
                tight = true;
            }
        }
    }
    if tight {
        x = columns(chart.columns.len(), &needs);
    }
    // 3. Rows.
    let mut walk = Walk::new(chart, x);
    walk.heads();
    walk.steps(&chart.steps);
    walk.finish()
}

/// The leftmost columns that keep all distances.
fn columns(count: usize, needs: &Needs) -> Vec<f64> {
    let mut x = vec![0.0; count];
    // Ordered by the left column, so every distance starts from a final place.
    for ((a, b), width) in needs {
        x[*b] = f64::max(x[*b], x[*a] + width);
        for i in *b + 1..count {
            if x[i] >= x[i - 1] {
                break;
            }
            x[i] = x[i - 1];
        }
    }
    x
}

#[cfg(test)]
mod tests {
    use super::*;

    fn message(id: usize, a: usize, b: usize, width: f64) -> Step {
        Step::Message {
            id,
            from: Spot::Column(a),
            to: Spot::Column(b),
            label: Size::new(width, 14.0),
            body: Vec::new(),
            reply: None,
            bar: Bar::None,
            closes: false,
            effect: Effect::None,
        }
    }

    fn chart(columns: usize, steps: Vec<Step>, messages: usize) -> Chart {
        let counts = Counts { messages, ..Counts::default() };
        Chart { columns: vec![Size::new(80.0, 40.0); columns], steps, counts, ..Chart::default() }
    }

    #[test]
    fn columns_give_room_to_what_is_between_them() {
        let placement = place(&chart(3, vec![message(0, 0, 1, 200.0), message(1, 1, 2, 10.0)], 2));
        let x: Vec<f64> = placement.lifelines.iter().map(|l| l.0).collect();
        assert!(x[1] - x[0] >= 200.0);
        assert_eq!(x[2] - x[1], 80.0 + walk::HEAD_GAP);
    }

    #[test]
    fn time_runs_down_and_bars_hold_their_bodies() {
        let inner = message(1, 1, 2, 40.0);
        let outer = Step::Message {
            id: 0,
            from: Spot::Column(0),
            to: Spot::Column(1),
            label: Size::new(40.0, 14.0),
            body: vec![inner],
            reply: Some((2, Size::new(30.0, 14.0))),
            bar: Bar::Body,
            closes: false,
            effect: Effect::None,
        };
        let placement = place(&chart(3, vec![outer], 3));
        let y: Vec<f64> = placement.messages.iter().map(|m| m.points[0].y).collect();
        assert!(y[0] < y[1] && y[1] < y[2]);
        let bar = placement.bars[0].rect;
        assert_eq!((bar.y, bar.bottom()), (y[0], y[2]));
        assert_eq!(placement.messages[1].points[0].x, bar.right());
    }

    #[test]
    fn parties_stand_at_the_foot_of_what_is_taller_than_a_screen() {
        let short = || (0..3).map(|i| message(i, 0, 1, 40.0)).collect::<Vec<_>>();
        assert_eq!(place(&chart(2, short(), 3)).feet, [None, None]);
        let asked = place(&Chart { foot: true, ..chart(2, short(), 3) });
        let long = place(&chart(2, (0..60).map(|i| message(i, 0, 1, 40.0)).collect(), 60));
        for placement in [asked, long] {
            for ((head, foot), line) in placement.heads.iter().zip(&placement.feet).zip(&placement.lifelines) {
                let foot = foot.expect("a foot");
                assert_eq!((foot.x, foot.w, foot.h), (head.x, head.w, head.h));
                assert_eq!(foot.y, line.2);
                assert_eq!(foot.bottom(), placement.size.h);
            }
        }
    }

    #[test]
    fn what_is_destroyed_has_no_foot() {
        let mut last = message(1, 0, 1, 40.0);
        if let Step::Message { effect, .. } = &mut last {
            *effect = Effect::Ends;
        }
        let placement = place(&Chart { foot: true, ..chart(2, vec![message(0, 0, 1, 40.0), last], 2) });
        assert!(placement.feet[0].is_some() && placement.feet[1].is_none());
        assert!(placement.lifelines[1].2 < placement.lifelines[0].2);
    }

    #[test]
    fn a_long_message_has_its_text_in_one_gap() {
        let placement = place(&chart(4, vec![message(0, 0, 3, 150.0)], 1));
        let label = placement.messages[0].label;
        assert!(placement.lifelines.iter().all(|l| l.0 < label.x || l.0 > label.right()));
    }
}

//! Constraints about single things. Which of them a placement keeps is measured, whatever arranged it; what it does not keep
//! is reported, so that nothing is dropped in silence. Where constraints contradict, the order is pin, lane and group, row,
//! order, place.

use crate::geom::{Rect, pt};
use crate::layout::graph::{Anchor, Graph, PlacementConstraint, Placing, RankDirection};
use crate::layout::placement::Placement;

/// The constraints that a placement does not keep, by their places in the graph.
pub(in crate::layout) fn dropped(graph: &Graph, placement: &Placement) -> Vec<usize> {
    (0..graph.constraints.len()).filter(|w| !is_kept(graph, placement, &graph.constraints[*w])).collect()
}

/// Whether a placement keeps a constraint.
pub(in crate::layout) fn is_kept(graph: &Graph, placement: &Placement, constraint: &PlacementConstraint) -> bool {
    let rect = |a: &Anchor| placement.rect(*a);
    let sideways = graph.direction.is_sideways();
    match constraint {
        PlacementConstraint::Row(all) => {
            // Level: they share a line across the reading direction.
            let spans =
                all.iter().map(|a| if sideways { (rect(a).x, rect(a).right()) } else { (rect(a).y, rect(a).bottom()) });
            let (from, to) = spans.fold((f64::MIN, f64::MAX), |(f, t), s| (f64::max(f, s.0), f64::min(t, s.1)));
            from < to
        }
        PlacementConstraint::Order(all) => {
            let middle = |r: Rect| if sideways { r.middle().y } else { r.middle().x };
            all.windows(2).all(|p| middle(rect(&p[0])) < middle(rect(&p[1])))
        }
        PlacementConstraint::Place(a, placing, b) => {
            let (a, b) = (rect(a), rect(b));
            let level = a.y < b.bottom() && b.y < a.bottom();
            match placing {
                Placing::Left => a.right() <= b.x && level,
                Placing::Right => b.right() <= a.x && level,
                Placing::Above => a.bottom() <= b.y,
                Placing::Below => b.bottom() <= a.y,
            }
        }
        PlacementConstraint::Pin(a, at) => {
            let m = rect(a).middle();
            let at = pt(at.x + placement.origin.x, at.y + placement.origin.y);
            (m.x - at.x).abs() < 1.0 && (m.y - at.y).abs() < 1.0
        }
        PlacementConstraint::Heading(a, direction) => match a {
            Anchor::Group(g) => reads(graph, placement, *g, *direction),
            Anchor::Node(_) => false,
        },
    }
}

/// Whether most lines inside a group run in a direction.
fn reads(graph: &Graph, placement: &Placement, g: usize, direction: RankDirection) -> bool {
    let inside = |a: Anchor| a != Anchor::Group(g) && graph.groups_around(a).any(|x| x == g);
    let own = graph.edges.iter().filter(|e| e.from != e.to && inside(e.from) && inside(e.to));
    let (mut along, mut all) = (0, 0);
    for edge in own {
        let (a, b) = (placement.rect(edge.from).middle(), placement.rect(edge.to).middle());
        let runs = match direction {
            RankDirection::Down => b.y > a.y,
            RankDirection::Up => b.y < a.y,
            RankDirection::Right => b.x > a.x,
            RankDirection::Left => b.x < a.x,
        };
        all += 1;
        along += usize::from(runs);
    }
    2 * along >= all
}

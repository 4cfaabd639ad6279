//! Wishes about single things. Which of them a placement keeps is measured, whatever arranged it; what it does not keep
//! is reported, so that nothing is dropped in silence. Where wishes contradict, the order is pin, lane and group, row,
//! order, place.

use crate::geom::{Rect, pt};
use crate::layout::graph::{Anchor, Graph, Placing, Reading, Wish};
use crate::layout::placement::Placement;

/// The wishes that a placement does not keep, by their places in the graph.
pub(in crate::layout) fn dropped(graph: &Graph, placement: &Placement) -> Vec<usize> {
    (0..graph.wishes.len()).filter(|w| !is_kept(graph, placement, &graph.wishes[*w])).collect()
}

fn is_kept(graph: &Graph, placement: &Placement, wish: &Wish) -> bool {
    let rect = |a: &Anchor| placement.rect(*a);
    let sideways = graph.reading.is_sideways();
    match wish {
        Wish::Row(all) => {
            // Level: they share a line across the reading direction.
            let spans =
                all.iter().map(|a| if sideways { (rect(a).x, rect(a).right()) } else { (rect(a).y, rect(a).bottom()) });
            let (from, to) = spans.fold((f64::MIN, f64::MAX), |(f, t), s| (f64::max(f, s.0), f64::min(t, s.1)));
            from < to
        }
        Wish::Order(all) => {
            let middle = |r: Rect| if sideways { r.middle().y } else { r.middle().x };
            all.windows(2).all(|p| middle(rect(&p[0])) < middle(rect(&p[1])))
        }
        Wish::Place(a, placing, b) => {
            let (a, b) = (rect(a), rect(b));
            let level = a.y < b.bottom() && b.y < a.bottom();
            match placing {
                Placing::Left => a.right() <= b.x && level,
                Placing::Right => b.right() <= a.x && level,
                Placing::Above => a.bottom() <= b.y,
                Placing::Below => b.bottom() <= a.y,
            }
        }
        Wish::Pin(a, at) => {
            let m = rect(a).middle();
            let at = pt(at.x + placement.origin.x, at.y + placement.origin.y);
            (m.x - at.x).abs() < 1.0 && (m.y - at.y).abs() < 1.0
        }
        Wish::Heading(a, reading) => match a {
            Anchor::Group(g) => reads(graph, placement, *g, *reading),
            Anchor::Node(_) => false,
        },
    }
}

/// Whether most lines inside a group run in a direction.
fn reads(graph: &Graph, placement: &Placement, g: usize, reading: Reading) -> bool {
    let inside = |a: Anchor| a != Anchor::Group(g) && graph.groups_around(a).any(|x| x == g);
    let own = graph.edges.iter().filter(|e| e.from != e.to && inside(e.from) && inside(e.to));
    let (mut along, mut all) = (0, 0);
    for edge in own {
        let (a, b) = (placement.rect(edge.from).middle(), placement.rect(edge.to).middle());
        let runs = match reading {
            Reading::Down => b.y > a.y,
            Reading::Up => b.y < a.y,
            Reading::Right => b.x > a.x,
            Reading::Left => b.x < a.x,
        };
        all += 1;
        along += usize::from(runs);
    }
    2 * along >= all
}

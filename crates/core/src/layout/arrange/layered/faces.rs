//! Which of three branches leaves at the face. Input: a graph and how to draft its placement. Output: the same graph; of the
//! branches of one node, that in the middle of where they lead to leaves at the face, the two others at the flanks, so that
//! none runs around another.
//!
//! Only among lanes: there it is given where a branch leads to. Elsewhere what was written first runs straight on, and the
//! others find their places beside it.

use crate::layout::graph::{Anchor, Face, Graph};
use crate::layout::placement::Placement;
use crate::layout::score::measure;

/// Whether a graph has branches whose faces may be exchanged.
pub(super) fn has_choice(graph: &Graph) -> bool {
    graph.groups.iter().any(|g| g.lane) && !branchings(graph).is_empty()
}

/// At most this many choices are drafted.
// Another choice moves what it leads to, and then another branch may be in the middle.
const DRAFTS: usize = 4;

/// The graph with the best choice of faces: drafts follow each other until the branches stand as they leave.
pub(super) fn chosen(mut graph: Graph, draft: impl Fn(&Graph) -> Placement) -> Graph {
    let mut best: Option<(f64, Graph)> = None;
    for _ in 0..DRAFTS {
        let placement = draft(&graph);
        let score = measure(&graph, &placement).score();
        if best.as_ref().is_none_or(|(least, _)| score < *least) {
            best = Some((score, graph.clone()));
        }
        if !by_place(&mut graph, &placement) {
            break;
        }
    }
    best.map_or(graph, |best| best.1)
}

/// Gives the face of each node with three branches to the one in the middle. Says whether that changed anything.
fn by_place(graph: &mut Graph, draft: &Placement) -> bool {
    let mut is_changed = false;
    for mut branches in branchings(graph) {
        branches.sort_by(|a, b| {
            let x = |e: usize| draft.rect(graph.edges[e].to).middle().x;
            x(*a).total_cmp(&x(*b)).then(a.cmp(b))
        });
        for (i, e) in branches.into_iter().enumerate() {
            let face = if i == 1 { Face::Front } else { Face::Flank };
            is_changed |= std::mem::replace(&mut graph.edges[e].face, face) != face;
        }
    }
    is_changed
}

/// The three branches of each node that has as many, one of them at the face and the others at the flanks.
fn branchings(graph: &Graph) -> Vec<Vec<usize>> {
    let mut out = vec![Vec::new(); graph.nodes.len()];
    for (e, edge) in graph.edges.iter().enumerate() {
        if let (Anchor::Node(v), true) = (edge.from, edge.from != edge.to) {
            out[v].push(e);
        }
    }
    let at_flanks = |list: &Vec<usize>| list.iter().filter(|e| graph.edges[**e].face == Face::Flank).count();
    out.into_iter().filter(|list| list.len() == 3 && at_flanks(list) == 2).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geom::{Point, Rect, Size, pt};
    use crate::layout::{Edge, Group, Node};

    #[test]
    fn the_branch_in_the_middle_leaves_at_the_face() {
        let flank = |to| Edge { face: Face::Flank, ..Edge::new(Anchor::Node(0), Anchor::Node(to)) };
        let mut graph = Graph {
            nodes: vec![Node { group: Some(0), ..Node::default() }; 4],
            groups: vec![Group { lane: true, ..Group::default() }],
            edges: vec![Edge::new(Anchor::Node(0), Anchor::Node(1)), flank(2), flank(3)],
            ..Graph::default()
        };
        assert!(has_choice(&graph));
        let at = |m: Point| Rect::around(m, Size::new(40.0, 20.0));
        let nodes = [pt(0.0, 0.0), pt(200.0, 90.0), pt(-200.0, 90.0), pt(0.0, 90.0)].map(at).to_vec();
        let draft = Placement { nodes, ..Placement::default() };
        assert!(by_place(&mut graph, &draft));
        let faces: Vec<Face> = graph.edges.iter().map(|e| e.face).collect();
        assert_eq!(faces, [Face::Flank, Face::Flank, Face::Front]);
        assert!(!by_place(&mut graph, &draft), "once is enough");
        graph.groups.clear();
        assert!(!has_choice(&graph));
    }

    #[test]
    fn drafts_that_never_come_to_rest_come_to_an_end() {
        let edge = |to| Edge { face: Face::Flank, ..Edge::new(Anchor::Node(0), Anchor::Node(to)) };
        let graph = Graph {
            nodes: vec![Node { group: Some(0), ..Node::default() }; 4],
            groups: vec![Group { lane: true, ..Group::default() }],
            edges: vec![Edge::new(Anchor::Node(0), Anchor::Node(1)), edge(2), edge(3)],
            ..Graph::default()
        };
        let at = |m: Point| Rect::around(m, Size::new(40.0, 20.0));
        let drafts = std::cell::Cell::new(0);
        // Whatever leaves at the face stands at the left.
        let chosen = chosen(graph, |graph| {
            drafts.set(drafts.get() + 1);
            let x = |e: &Edge| if e.face == Face::Front { -200.0 } else { 0.0 };
            let branches = graph.edges.iter().enumerate().map(|(i, e)| at(pt(x(e) + 60.0 * i as f64, 90.0)));
            let nodes = std::iter::once(at(pt(0.0, 0.0))).chain(branches).collect();
            Placement {
                nodes,
                groups: vec![Rect::default()],
                titles: vec![Rect::default()],
                ..Placement::unplaced(graph)
            }
        });
        assert_eq!(drafts.get(), DRAFTS);
        assert_eq!(chosen.edges.iter().filter(|e| e.face == Face::Front).count(), 1);
    }
}

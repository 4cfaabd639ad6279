//! Collects what the stages before decided: rectangles, lines with their corners, labels.

use super::channels::Along;
use super::coordinates::Across;
use super::layers::{ItemKind, Layers, beside_each_other};
use crate::geom::{Point, Rect, Size, pt};
use crate::layout::graph::{Anchor, Graph, RankDirection};
use crate::layout::outline::Side;
use crate::layout::placement::Placement;
use crate::layout::route::{Route, tidied};

/// Puts the placement together.
pub(super) fn collect(layers: &Layers, graph: &Graph, across: &Across, along: &Along) -> Placement {
    let collector = Collector { layers, graph, across, along };
    let nodes: Vec<Rect> = graph
        .nodes
        .iter()
        .enumerate()
        .map(|(v, node)| {
            let item = &layers.items[layers.node_item[v]];
            let size = if node.stretches { Size::new(item.left + item.right, node.size.h) } else { node.size };
            Rect::around(collector.point(layers.node_item[v]), size)
        })
        .collect();
    let groups: Vec<Rect> = (0..graph.groups.len())
        .map(|g| {
            let ((left, right), (top, bottom)) = (across.group[g], along.group[g]);
            Rect::new(left, top, right - left, bottom - top)
        })
        .collect();
    let mut titles: Vec<Rect> = (0..graph.groups.len()).map(|g| collector.title(g, groups[g])).collect();
    let routes: Vec<Route> = (0..graph.edges.len()).map(|e| collector.route(e, &nodes, &groups)).collect();
    collector.clear_titles(&mut titles, &groups, &routes);
    let mut placement = Placement { nodes, groups, titles, routes, ..Placement::default() };
    placement.fit();
    placement
}

struct Collector<'a> {
    layers: &'a Layers,
    graph: &'a Graph,
    across: &'a Across,
    along: &'a Along,
}

impl Collector<'_> {
    fn point(&self, item: usize) -> Point {
        pt(self.across.x[item], self.along.y[item])
    }

    /// The place of a group's title: the one kept free for it, or the upper edge of a lying frame.
    fn title(&self, g: usize, frame: Rect) -> Rect {
        let size = self.graph.groups[g].title;
        match self.layers.title_item[g] {
            Some(item) => {
                let at = self.point(item);
                Rect::new(at.x, at.y - size.h / 2.0, size.w, size.h)
            }
            // Turned: the frame's left side is its upper edge.
            None => {
                let inset = self.graph.groups[g].inset.min(12.0);
                let y = if self.graph.direction == RankDirection::Left {
                    frame.bottom() - inset - size.h
                } else {
                    frame.y + inset
                };
                Rect::new(frame.x + inset * 0.5, y, size.w, size.h)
            }
        }
    }

    fn route(&self, e: usize, nodes: &[Rect], groups: &[Rect]) -> Route {
        let edge = &self.graph.edges[e];
        if edge.from == edge.to {
            return self.layers.loops.route(self.graph, e, edge.from.of(nodes, groups)).unwrap_or_default();
        }
        if beside_each_other(self.graph, edge.from, edge.to) {
            return self.beside(e, nodes);
        }
        let chain = &self.layers.chains[e];
        if chain.items.is_empty() {
            return Route::default();
        }
        let mut points: Vec<Point> = Vec::new();
        let mut route = Route::default();
        let last = chain.items.len().saturating_sub(1);
        let bypass = self.layers.bypasses.binary_search_by_key(&e, |b| b.edge).ok();
        for (i, &item) in chain.items.iter().enumerate() {
            let here = self.point(item);
            match self.layers.items[item].kind {
                ItemKind::Label => route.label = edge.label.map(|s| Rect::around(here, s)),
                ItemKind::EndLabel(end) => {
                    route.end_labels[end] =
                        edge.end_labels[end].map(|s| Rect::new(here.x + 6.0, here.y - s.h / 2.0, s.w, s.h));
                }
                _ => {}
            }
            if i == 0 {
                points.push(self.leave(e, chain.items[0], chain.items[1], Side::Bottom));
            }
            if let Some(b) = bypass.filter(|b| self.layers.bypasses[*b].upper == item) {
                let (column, tracks) = self.along.bypass[b];
                // At its ends a line has its own place on the face.
                let next = chain.items[i + 1];
                let start = if i == 0 { points[0].x } else { here.x };
                let end = if i + 1 == last { self.leave(e, next, item, Side::Top).x } else { self.across.x[next] };
                points.extend([pt(start, tracks[0]), pt(column, tracks[0]), pt(column, tracks[1]), pt(end, tracks[1])]);
            } else if i < last {
                self.stretch(item, chain.items[i + 1], e, &mut points);
            }
        }
        if last > 0 {
            points.push(self.leave(e, chain.items[last], chain.items[last - 1], Side::Top));
        }
        route.points = tidied(points);
        if chain.reversed {
            route.points.reverse();
        }
        route
    }

    /// Where a line meets the outline of its end.
    fn leave(&self, e: usize, item: usize, next: usize, face: Side) -> Point {
        let here = self.point(item);
        match self.layers.items[item].kind {
            ItemKind::Node(v) => {
                let node = &self.graph.nodes[v];
                let turns = self.layers.items[next].kind == ItemKind::Turn;
                if turns && self.layers.items[next].layer == self.layers.items[item].layer {
                    let y = self.turn_offset(item, next);
                    let right = self.across.x[next] > here.x;
                    let side = if right { Side::Right } else { Side::Left };
                    let reach = node.outline.reach(node.size, side, y);
                    return pt(here.x + if right { reach } else { -reach }, here.y + y);
                }
                let port = self.port(e, item, next, face);
                let reach = node.outline.reach(node.size, face, port);
                pt(here.x + port, here.y + if face == Side::Top { -reach } else { reach })
            }
            ItemKind::Frame(g) => {
                let y = if face == Side::Top { self.along.group[g].0 } else { self.along.group[g].1 };
                pt(here.x, y)
            }
            _ => here,
        }
    }

    fn port(&self, e: usize, item: usize, next: usize, face: Side) -> f64 {
        let own = &self.layers.items[item];
        let links = if face == Side::Bottom { &own.down } else { &own.up };
        let found = links
            .iter()
            .map(|l| &self.layers.links[*l])
            .find(|l| l.edge == e && next == if face == Side::Bottom { l.lower } else { l.upper });
        found.map_or(0.0, |l| if face == Side::Bottom { l.upper_port } else { l.lower_port })
    }

    /// Level of a turn, relative to the middle of its node: lines that nest do not cross. From above:
    /// upward ones from the inside out, then downward ones from the outside in.
    fn turn_offset(&self, node: usize, turn: usize) -> f64 {
        let unit = &self.layers.units[self.layers.items[node].unit];
        let is_turn = |i: &&usize| self.layers.items[**i].kind == ItemKind::Turn;
        let side: Vec<usize> = if unit.left.contains(&turn) {
            unit.left.iter().rev().filter(is_turn).copied().collect()
        } else {
            unit.right.iter().filter(is_turn).copied().collect()
        };
        let upward = |i: &usize| !self.layers.items[*i].up.is_empty();
        let mut levels: Vec<usize> = side.iter().copied().filter(upward).collect();
        levels.extend(side.iter().rev().copied().filter(|i| !upward(i)));
        let at = levels.iter().position(|i| *i == turn).unwrap_or(0) as f64;
        let step = f64::min(16.0, self.layers.items[node].height / (levels.len() + 1) as f64);
        libm::round((at - (levels.len() as f64 - 1.0) / 2.0) * step)
    }

    /// The corners between two items of a chain.
    fn stretch(&self, from: usize, to: usize, edge: usize, points: &mut Vec<Point>) {
        if self.layers.items[from].layer == self.layers.items[to].layer {
            // A turn: level from the node to it, or the reverse.
            let (node, turn) = if self.layers.items[to].kind == ItemKind::Turn { (from, to) } else { (to, from) };
            points.push(pt(self.across.x[turn], self.along.y[node] + self.turn_offset(node, turn)));
            return;
        }
        let (upper, lower) =
            if self.layers.items[from].layer < self.layers.items[to].layer { (from, to) } else { (to, from) };
        let links = &self.layers.links;
        let link =
            self.layers.items[upper].down.iter().copied().find(|l| links[*l].lower == lower && links[*l].edge == edge);
        let Some(l) = link else { return };
        let link = &self.layers.links[l];
        if let Some(track) = self.along.track[l] {
            let ends =
                [pt(self.across.x[upper] + link.upper_port, track), pt(self.across.x[lower] + link.lower_port, track)];
            points.extend(if upper == from { ends } else { [ends[1], ends[0]] });
        }
    }

    /// A level line between a node and what stands beside it.
    fn beside(&self, e: usize, nodes: &[Rect]) -> Route {
        let edge = &self.graph.edges[e];
        let (Anchor::Node(a), Anchor::Node(b)) = (edge.from, edge.to) else { return Route::default() };
        let (from, to) = (nodes[a].middle(), nodes[b].middle());
        let (out, back) = if from.x < to.x { (Side::Right, Side::Left) } else { (Side::Left, Side::Right) };
        let nodes = &self.graph.nodes;
        let sign = |side| if side == Side::Right { 1.0 } else { -1.0 };
        let reach = |v: usize, side| sign(side) * nodes[v].outline.reach(nodes[v].size, side, 0.0);
        let points = vec![pt(from.x + reach(a, out), from.y), pt(to.x + reach(b, back), from.y)];
        Route { points, ..Route::default() }
    }

    /// Moves titles along the upper edges of their frames to where no line crosses them. Titles with
    /// a layer of their own are clear already.
    fn clear_titles(&self, titles: &mut [Rect], groups: &[Rect], routes: &[Route]) {
        for (g, title) in
            titles.iter_mut().enumerate().filter(|(g, t)| self.layers.title_item[*g].is_none() && t.h > 0.0)
        {
            let frame = groups[g];
            let crossing = routes.iter().flat_map(|r| r.points.windows(2)).filter(|p| {
                p[0].y == p[1].y && p[0].x.min(p[1].x) < title.right() + 4.0 && p[0].x.max(p[1].x) > title.x - 4.0
            });
            let mut levels: Vec<f64> =
                crossing.map(|p| p[0].y).filter(|y| *y > frame.y && *y < frame.bottom()).collect();
            levels.sort_by(f64::total_cmp);
            let upwards = self.graph.direction == RankDirection::Left;
            let free = |y: f64| levels.iter().all(|l| *l < y - 4.0 || *l > y + title.h + 4.0);
            let (from, to) = (frame.y + 12.0, frame.bottom() - 12.0 - title.h);
            let after = levels.iter().map(|l| l + 6.0).chain([from]).filter(|y| *y >= from && *y <= to);
            let before = levels.iter().map(|l| l - 6.0 - title.h).chain([to]).filter(|y| *y >= from && *y <= to);
            let place = if upwards {
                before.filter(|y| free(*y)).max_by(f64::total_cmp)
            } else {
                after.filter(|y| free(*y)).min_by(f64::total_cmp)
            };
            if !free(title.y)
                && let Some(y) = place
            {
                title.y = y;
            }
        }
    }
}

/// Edges that run through a group that is around none of their ends, lanes left out.
pub(super) fn intrusions(graph: &Graph, placement: &Placement) -> Vec<(usize, usize)> {
    let mut found = Vec::new();
    for (g, frame) in placement.groups.iter().enumerate().filter(|(g, _)| !graph.groups[*g].lane) {
        let inner = frame.grown(-1.0);
        for (e, route) in placement.routes.iter().enumerate() {
            let hits = |p: &[Point]| Rect::between(p[0], p[1]).meets(inner);
            if route.points.windows(2).any(hits) && !graph.groups_around_edge(e).contains(&g) {
                found.push((e, g));
            }
        }
    }
    found
}

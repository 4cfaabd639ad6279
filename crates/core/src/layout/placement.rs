//! Where everything of a graph is: what a layout gives back.

use crate::geom::{Point, Rect, Size, pt};
use crate::layout::graph::{Anchor, Graph, RankDirection};
use crate::layout::route::Route;

/// A lane once more, in another column of the picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Piece {
    /// Which lane.
    pub group: usize,
    /// Its frame there.
    pub frame: Rect,
    /// Its title there.
    pub title: Rect,
}

/// Where everything is.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Placement {
    /// Nodes.
    pub nodes: Vec<Rect>,
    /// Groups.
    pub groups: Vec<Rect>,
    /// Titles of groups.
    pub titles: Vec<Rect>,
    /// Where lanes go on in another column.
    pub pieces: Vec<Piece>,
    /// Edges.
    pub routes: Vec<Route>,
    /// Everything together.
    pub size: Size,
    /// Where the author's 0, 0 lies, from which pins are measured: further right or down than the picture's own corner if
    /// something had to lie beyond it.
    pub origin: Point,
}

impl Placement {
    /// A placement of a graph in which nothing has a place yet.
    pub(in crate::layout) fn unplaced(graph: &Graph) -> Self {
        Self {
            nodes: vec![Rect::default(); graph.nodes.len()],
            groups: vec![Rect::default(); graph.groups.len()],
            titles: vec![Rect::default(); graph.groups.len()],
            pieces: Vec::new(),
            routes: vec![Route::default(); graph.edges.len()],
            size: Size::default(),
            origin: Point::default(),
        }
    }

    /// Takes over what was placed on its own, by the numbers that its nodes, groups and edges have here.
    pub(in crate::layout) fn take(&mut self, part: Placement, nodes: &[usize], groups: &[usize], edges: &[usize]) {
        nodes.iter().zip(part.nodes).for_each(|(v, r)| self.nodes[*v] = r);
        groups.iter().zip(part.groups).for_each(|(g, r)| self.groups[*g] = r);
        groups.iter().zip(part.titles).for_each(|(g, r)| self.titles[*g] = r);
        self.pieces.extend(part.pieces.into_iter().map(|piece| Piece { group: groups[piece.group], ..piece }));
        edges.iter().zip(part.routes).for_each(|(e, r)| self.routes[*e] = r);
    }

    /// The frames of a group: several if it is a lane that goes on in other columns.
    pub(in crate::layout) fn frames(&self, g: usize) -> impl Iterator<Item = Rect> + '_ {
        std::iter::once(self.groups[g]).chain(self.pieces.iter().filter(move |p| p.group == g).map(|p| p.frame))
    }

    /// Where a node or a group is.
    pub(in crate::layout) fn rect(&self, anchor: Anchor) -> Rect {
        anchor.of(&self.nodes, &self.groups)
    }

    /// Applies a change to every place.
    fn map(&mut self, point: impl Fn(Point) -> Point, rect: impl Fn(Rect) -> Rect) {
        let pieces = self.pieces.iter_mut().flat_map(|p| [&mut p.frame, &mut p.title]);
        let rects = self.nodes.iter_mut().chain(&mut self.groups).chain(&mut self.titles).chain(pieces);
        rects.for_each(|r| *r = rect(*r));
        self.routes.iter_mut().for_each(|route| route.map(&point, &rect));
    }

    /// From a reading direction into layers that run from top to bottom.
    pub(in crate::layout) fn turn(&mut self, direction: RankDirection) {
        if direction.is_sideways() {
            self.transpose();
        }
        if direction.is_backwards() {
            self.mirror();
        }
    }

    /// From layers that run from top to bottom into a reading direction.
    pub(in crate::layout) fn turn_back(&mut self, direction: RankDirection) {
        if direction.is_backwards() {
            self.mirror();
        }
        if direction.is_sideways() {
            self.transpose();
        }
        self.fit();
    }

    /// Exchanges x and y.
    pub(in crate::layout) fn transpose(&mut self) {
        self.map(|p| pt(p.y, p.x), |r| Rect::new(r.y, r.x, r.h, r.w));
        self.size = self.size.transposed();
    }

    /// Puts everything on the grid.
    pub(in crate::layout) fn settle(&mut self) {
        self.map(Point::on_grid, Rect::on_grid);
        self.size = self.size.on_grid();
        self.origin = self.origin.on_grid();
    }

    /// Turns up into down.
    pub(in crate::layout) fn mirror(&mut self) {
        let h = self.size.h;
        self.map(|p| pt(p.x, h - p.y), |r| Rect::new(r.x, h - r.bottom(), r.w, r.h));
    }

    /// Moves everything.
    pub fn shift(&mut self, dx: f64, dy: f64) {
        self.map(|p| pt(p.x + dx, p.y + dy), |r| r.moved(dx, dy));
    }

    /// Moves everything so that the picture begins at 0, 0 and ends where its contents end.
    pub(in crate::layout) fn fit(&mut self) {
        let bounds = self.bounds();
        self.shift(-bounds.x, -bounds.y);
        self.size = Size::new(bounds.w, bounds.h);
    }

    /// The smallest rectangle around everything.
    pub fn bounds(&self) -> Rect {
        let rects = self.nodes.iter().chain(&self.groups).chain(&self.titles).copied();
        let rects = rects.chain(self.pieces.iter().map(|p| p.frame));
        rects.chain(self.routes.iter().filter_map(Route::bounds)).reduce(Rect::union).unwrap_or_default()
    }
}

impl Graph {
    /// The room that a group's title takes: of a lane, a band from side to side, which ends where the bands of lanes in
    /// other lanes end if it holds none itself.
    pub fn header(&self, g: usize, placement: &Placement) -> Rect {
        let own = |g: usize| self.groups[g].header(self.direction, placement.groups[g], placement.titles[g]);
        let mut header = own(g);
        let is_divided = |g: usize| (0..self.groups.len()).any(|inner| self.outer_lane(inner) == Some(g));
        if !self.groups[g].lane || header.w <= 0.0 || is_divided(g) {
            return header;
        }
        for other in (0..self.groups.len()).filter(|other| self.groups[*other].lane).map(own) {
            if self.direction.is_sideways() {
                header.w = f64::max(header.w, other.right() - header.x);
            } else {
                header.h = f64::max(header.h, other.bottom() - header.y);
            }
        }
        header
    }

    /// The same in every column in which a lane goes on.
    pub fn headers(&self, g: usize, placement: &Placement) -> Vec<Rect> {
        let (first, frame) = (self.header(g, placement), placement.groups[g]);
        placement.frames(g).map(|r| first.moved(r.x - frame.x, r.y - frame.y)).collect()
    }
}

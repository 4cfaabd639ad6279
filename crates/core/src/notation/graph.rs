//! Diagrams that are graphs: classes, flows and architectures. Shapes first, then places, then
//! strokes.

use super::context::Context;
use super::drawn::Drawn;
use super::ends;
use super::figure::{self, Figure};
use super::frame::{self, FrameTitle};
use super::in_the_way::InTheWay;
use super::label::RelationLabel;
use super::shaper::Shaper;
use super::symbol::Symbol;
use super::tags::{element_tag, relation_tag};
use super::text::texts_in;
use crate::diag::Diagnostics;
use crate::geom::{Path, Point, Rect, Size, distance, pt, up4};
use crate::layout::{
    self, Anchor, Arrangement, BackEdges, Border, Directed, Earlier, Edge, Face as Facing, Graph, Group, LabelAt, Node,
    Placement, PlacementConstraint, Placing, RankDirection, Report, Route, Routing, Side, Stems,
};
use crate::measure::{Face, TextBlock, wrap};
use crate::model::Unmet;
use crate::model::{self, Diagram, DiagramKind, ElementId, ElementKind, Heading, Relation, RelationId, Verb};
use crate::scene::{Holds, Item, Places, Tag, TextAnchor};
use crate::syntax::Label;
use crate::theme::{Paint, Styles, resolve};
use std::collections::{BTreeMap, BTreeSet};

/// Room for the triangle beside a label that says which way it is read.
const ARROW: f64 = 12.0;

/// Shapes of everything, before it is placed.
struct Shapes {
    /// Where each element went in the layout.
    slots: Vec<Anchor>,
    figures: BTreeMap<usize, Figure>,
    titles: BTreeMap<usize, FrameTitle>,
    /// For each edge of the layout, its relation and whether it was turned around.
    edges: Vec<(usize, bool)>,
    labels: Vec<Option<RelationLabel>>,
    end_labels: Vec<[Option<TextBlock>; 2]>,
}

/// How many lines were seen at each element of a flow.
#[derive(Default)]
struct Seen {
    branches: BTreeMap<ElementId, usize>,
    arrivals: BTreeMap<ElementId, usize>,
    /// What each remark is tied to, counted before anything is placed.
    remarks: BTreeMap<ElementId, usize>,
    /// How many stand beside each node.
    companions: BTreeMap<usize, usize>,
    /// What is forbidden and happens all the same.
    broken: BTreeSet<RelationId>,
}

/// Draws a graph.
pub(super) fn draw(diagram: &Diagram, styles: &Styles, context: &Context<'_>) -> Drawn {
    // 1. Shapes, whose sizes are facts.
    let (shapes, graph) = shape(diagram, styles, context);
    // 2. Places.
    let laid = layout::place_with(&graph, context.jobs);
    let unmet = unmet(diagram, &graph, &laid.report);
    let mut placement = laid.placement;
    let places = places(&placement, keys(diagram, &shapes));
    // 3. Strokes.
    let sides = layout::onto_frames(&graph, &mut placement);
    let items = paint(diagram, styles, context, &shapes, (&graph, &placement, &sides));
    let has_depths = shapes.titles.keys().any(|id| shows_depth(diagram, &diagram.elements[*id]));
    Drawn { items, size: placement.size, places, report: Some(laid.report), unmet, has_depths }
}

/// Whether a frame shows how deep it lies.
fn shows_depth(diagram: &Diagram, element: &crate::model::Element) -> bool {
    diagram.kind == DiagramKind::Architecture && !element.kind.is_box()
}

/// What the layout of a picture is given; `None` for a sequence, which is no graph.
pub fn given(context: &Context<'_>) -> Option<Graph> {
    let diagram = &context.view.diagram;
    let styles = resolve(context.looks, context.view, &mut Diagnostics::default());
    (diagram.kind != DiagramKind::Sequence).then(|| shape(diagram, &styles, context).1)
}

/// What was asked for and is not kept: an arrangement, and constraints.
fn unmet(diagram: &Diagram, graph: &Graph, report: &Report) -> Vec<Unmet> {
    let picture = &diagram.picture;
    let is_arranged = graph.arrangement.is_none_or(|asked| asked == report.arrangement);
    let arrangement = picture.arrangement.as_ref().filter(|_| !is_arranged);
    let arrangement = arrangement.map(|asked| Unmet { span: asked.span, word: "arrange", against: None });
    let key = |id: &ElementId| diagram.element(*id).key.as_str();
    let keys = |ids: &[ElementId]| ids.iter().map(key).collect::<Vec<_>>().join(", ");
    let constraints = report.dropped.iter().filter_map(|dropped| {
        let written = picture.constraints.get(dropped.constraint)?;
        let against = dropped.against.and_then(|at| picture.constraints.get(at));
        let against = against.map(|other| other.constraint.written(keys));
        Some(Unmet { span: written.span, word: written.constraint.word(), against })
    });
    arrangement.into_iter().chain(constraints).collect()
}

/// Where everything is, by key.
fn places(placement: &Placement, [nodes, groups, lines]: [Vec<&str>; 3]) -> Places {
    let boxes =
        |keys: Vec<&str>, rects: &[Rect]| keys.into_iter().map(str::to_owned).zip(rects.iter().copied()).collect();
    Places {
        nodes: boxes(nodes, &placement.nodes),
        groups: boxes(groups, &placement.groups),
        lines: lines.into_iter().map(str::to_owned).zip(placement.routes.iter().cloned()).collect(),
    }
}

/// The keys of nodes, groups and edges, in the layout's order.
fn keys<'d>(diagram: &'d Diagram, shapes: &Shapes) -> [Vec<&'d str>; 3] {
    let mut keys = [Vec::new(), Vec::new(), Vec::new()];
    for (id, element) in diagram.ids() {
        let of = usize::from(matches!(shapes.slots[id.index()], Anchor::Group(_)));
        keys[of].push(element.key.as_str());
    }
    keys[2] = shapes.edges.iter().map(|(r, _)| diagram.relations[*r].key.as_str()).collect();
    keys
}

/// Where an earlier picture had the things of this one.
fn earlier(places: &Places, diagram: &Diagram, shapes: &Shapes) -> Earlier {
    let (known, mut lines) = (places.boxes(), places.lines_by_key());
    let [nodes, groups, edges] = keys(diagram, shapes);
    // Keys stand on one line in a picture.
    let on_a_line = |key: &str| key.replace(['\n', '\r'], " ");
    let boxes = |keys: &[&str]| keys.iter().map(|k| known.get(on_a_line(k).as_str()).copied()).collect();
    let (nodes, groups) = (boxes(&nodes), boxes(&groups));
    let mut routes = Vec::new();
    for key in edges {
        let lines = lines.get_mut(on_a_line(key).as_str()).filter(|l| !l.is_empty());
        routes.push(lines.map(|lines| lines.remove(0).clone()));
    }
    Earlier { nodes, groups, routes }
}

fn shape(diagram: &Diagram, styles: &Styles, context: &Context<'_>) -> (Shapes, Graph) {
    let holds = diagram.holds();
    let shaper = Shaper { tell: context.view.tell, ..Shaper::new(context, diagram.kind) };
    let mut shapes = Shapes {
        slots: Vec::new(),
        figures: BTreeMap::new(),
        titles: BTreeMap::new(),
        edges: Vec::new(),
        labels: Vec::new(),
        end_labels: Vec::new(),
    };
    let mut graph = Graph {
        direction: way(heading(diagram)),
        is_heading_asked: diagram.picture.heading.is_some(),
        arrangement: arrangement(diagram),
        routing: routing(diagram),
        spacing: diagram.picture.spacing.as_ref().map_or(1.0, |s| s.value),
        ..Graph::default()
    };
    if diagram.kind == DiagramKind::Flow {
        graph.back_edges = BackEdges::Flanks;
    }
    graph.directed = match diagram.kind {
        DiagramKind::Classes | DiagramKind::Network => Directed::Trunks,
        DiagramKind::Flow | DiagramKind::States => Directed::InTime,
        _ => Directed::All,
    };
    if diagram.kind == DiagramKind::Classes {
        graph.stems = Stems::Separate;
    }
    for (id, element) in diagram.ids() {
        let is_group = holds[id.index()] || element.kind.is_box();
        shapes.slots.push(if is_group { Anchor::Group(graph.groups.len()) } else { Anchor::Node(graph.nodes.len()) });
        if is_group {
            let title = FrameTitle::new(context, element, &styles.elements[id.index()], heading(diagram));
            let lane = element.kind == ElementKind::Lane;
            let region = element.kind == ElementKind::Region;
            let inset = if lane { 24.0 } else { 20.0 };
            graph.groups.push(Group { parent: None, title: title.size, inset, lane, region });
            shapes.titles.insert(id.index(), title);
        } else {
            let mut figure = shaper.figure(element, &styles.elements[id.index()]);
            figure.has_more = context.view.element(id).has_more && shaper.may_have_more(&figure);
            let size = match graph.direction.is_sideways() && element.kind == ElementKind::Bar {
                true => figure.size.transposed(),
                false => figure.size,
            };
            let outline = figure.symbol.outline(figure.core.unwrap_or(size));
            let stretches = element.kind == ElementKind::Bar;
            let border = match element.kind {
                ElementKind::Entry => Some(Border::Begins),
                ElementKind::Exit => Some(Border::Ends),
                _ => None,
            };
            graph.nodes.push(Node { size, outline, core: figure.core, group: None, beside: None, border, stretches });
            shapes.figures.insert(id.index(), figure);
        }
    }
    for (id, element) in diagram.ids() {
        let Some(Anchor::Group(parent)) = element.parent.map(|p| shapes.slots[p.index()]) else { continue };
        match shapes.slots[id.index()] {
            Anchor::Node(n) => graph.nodes[n].group = Some(parent),
            Anchor::Group(g) => graph.groups[g].parent = Some(parent),
        }
    }
    let broken = diagram.breaches().into_iter().map(|(rule, _)| rule).collect();
    let mut seen = Seen { broken, ..Seen::default() };
    for relation in diagram.relations.iter().filter(|r| r.verb == Verb::Remarks) {
        *seen.remarks.entry(relation.from).or_insert(0) += 1;
    }
    for r in 0..diagram.relations.len() {
        edge(diagram, context, r, &mut shapes, &mut graph, &mut seen);
    }
    if diagram.kind == DiagramKind::Network {
        make_room_for_ports(&mut graph);
    }
    let room = layout::layered::room_for_lines(&graph);
    // Cards and classifiers grow where their lines need the room.
    for (slot, own) in shapes.slots.iter().zip(0..) {
        let Anchor::Node(v) = slot else { continue };
        let Some(figure) = shapes.figures.get_mut(&own) else { continue };
        if matches!(figure.symbol, Symbol::Card | Symbol::Box) {
            figure.grow(Size::new(up4(room[*v].w), up4(room[*v].h)));
            graph.nodes[*v].size = figure.size;
        }
    }
    let anchor = |id: ElementId| shapes.slots[id.index()];
    for written in &diagram.picture.constraints {
        let all = |ids: &[ElementId]| ids.iter().map(|id| anchor(*id)).collect();
        graph.constraints.push(match &written.constraint {
            model::Constraint::Row(ids) => PlacementConstraint::Row(all(ids)),
            model::Constraint::Order(ids) => PlacementConstraint::Order(all(ids)),
            model::Constraint::Place(a, placing, b) => {
                PlacementConstraint::Place(anchor(*a), side(*placing), anchor(*b))
            }
            model::Constraint::Pin(id, x, y) => PlacementConstraint::Pin(anchor(*id), pt(*x, *y)),
            model::Constraint::Heading(id, heading) => PlacementConstraint::Heading(anchor(*id), way(*heading)),
        });
    }
    graph.earlier = context.earlier.map(|places| earlier(places, diagram, &shapes));
    graph.share = context.share;
    (shapes, graph)
}

/// Widens the frames of racks so that the name of a port stands between its device and the frame that its line crosses.
fn make_room_for_ports(graph: &mut Graph) {
    /// Room between a device and the name of a port, and between that and a frame.
    const BESIDE: f64 = 14.0;
    /// A frame that keeps off further is no frame any more.
    const MOST: f64 = 44.0;
    for edge in &graph.edges {
        let own = |anchor: Anchor| match anchor {
            Anchor::Node(node) => graph.nodes[node].group,
            Anchor::Group(group) => Some(group),
        };
        let groups = [own(edge.from), own(edge.to)];
        if groups[0] == groups[1] {
            continue;
        }
        for (group, label) in groups.into_iter().zip(edge.end_labels) {
            let (Some(group), Some(size)) = (group, label) else { continue };
            let room = f64::max(size.w, size.h) + BESIDE;
            graph.groups[group].inset = graph.groups[group].inset.max(room.min(MOST).ceil());
        }
    }
}

fn side(placing: model::Placing) -> Placing {
    match placing {
        model::Placing::LeftOf => Placing::Left,
        model::Placing::RightOf => Placing::Right,
        model::Placing::Above => Placing::Above,
        model::Placing::Below => Placing::Below,
    }
}

/// What was asked for; for diagrams that tell no order of time, the shape of the graph may choose.
fn arrangement(diagram: &Diagram) -> Option<Arrangement> {
    let asked = diagram.picture.arrangement.as_ref().map(|a| match a.value {
        model::Arrangement::Layered => Arrangement::Layered,
        model::Arrangement::Tree => Arrangement::Tree,
        model::Arrangement::Radial => Arrangement::Radial,
        model::Arrangement::Force => Arrangement::Force,
        model::Arrangement::Grid => Arrangement::Grid,
    });
    asked.or(match diagram.kind {
        DiagramKind::Architecture | DiagramKind::Network | DiagramKind::Classes => None,
        // A tree is a tree in every heading.
        DiagramKind::Tree => Some(Arrangement::Tree),
        _ => Some(Arrangement::Layered),
    })
}

fn routing(diagram: &Diagram) -> Routing {
    match diagram.picture.routing.as_ref().map(|r| r.value) {
        Some(model::Routing::Curved) => Routing::Curved,
        Some(model::Routing::Straight) => Routing::Straight,
        Some(model::Routing::Stepped) => Routing::Stepped,
        // Where boxes lie freely, steps would only hide how near things are.
        None => match diagram.picture.arrangement.as_ref().map(|a| a.value) {
            Some(model::Arrangement::Radial | model::Arrangement::Force) => Routing::Straight,
            _ => Routing::Stepped,
        },
    }
}

/// The heading that was asked for, or the usual one.
fn heading(diagram: &Diagram) -> Heading {
    // Decisions are read in the order in which they are taken, as lines of text are.
    let usual = if diagram.decides() { Heading::Right } else { Heading::Down };
    diagram.picture.heading.as_ref().map_or(usual, |h| h.value)
}

fn way(heading: Heading) -> RankDirection {
    match heading {
        Heading::Down => RankDirection::Down,
        Heading::Up => RankDirection::Up,
        Heading::Right => RankDirection::Right,
        Heading::Left => RankDirection::Left,
    }
}

fn edge(diagram: &Diagram, context: &Context<'_>, r: usize, shapes: &mut Shapes, graph: &mut Graph, seen: &mut Seen) {
    let relation = &diagram.relations[r];
    let is_unbroken = relation.verb == Verb::NeverUses && !seen.broken.contains(&RelationId(r as u32));
    if is_unbroken || relation.verb == Verb::Runs {
        return;
    }
    let (from, to) = (shapes.slots[relation.from.index()], shapes.slots[relation.to.index()]);
    if stands_beside(seen, graph, relation, from, to) {
        graph.edges.push(Edge::new(from, to));
        shapes.edges.push((r, false));
        shapes.labels.push(None);
        shapes.end_labels.push([None, None]);
        return;
    }
    // Parents stand above their children.
    let turned = matches!(relation.verb, Verb::Extends | Verb::Implements);
    let mut edge = if turned { Edge::new(to, from) } else { Edge::new(from, to) };
    let label = RelationLabel::new(relation, context.fonts);
    let arrow = if shows_reading(diagram, relation) { ARROW } else { 0.0 };
    edge.label = label.as_ref().map(RelationLabel::size).map(|size| Size::new(up4(size.w + arrow + 8.0), size.h + 2.0));
    let ends = end_blocks(context, diagram, relation);
    edge.end_labels = [0, 1].map(|i| {
        let side = if turned { 1 - i } else { i };
        let block = ends[side].as_ref().map(|b| Size::new(libm::ceil(b.width()), b.height()));
        // A crow's foot takes room without being a text.
        let foot = diagram.has_crows_feet() && relation.ends[side].multiplicity.is_some();
        block.or(foot.then_some(Size::new(16.0, 22.0)))
    });
    if relation.start.is_some() {
        edge.label_at = LabelAt::Start;
    }
    edge.trunk = turned.then(|| relation.to.index() * 2 + usize::from(relation.verb == Verb::Implements));
    edge.is_directed = turned || matches!(relation.verb, Verb::Then | Verb::Onward);
    edge.weight = match relation.verb {
        Verb::Extends | Verb::Implements => 3,
        Verb::Owns | Verb::Shares => 2,
        Verb::Then | Verb::Onward => {
            // What is written first is the main path: it stays straight.
            let arrivals = seen.arrivals.entry(relation.to).or_insert(0);
            *arrivals += 1;
            if *arrivals == 1 { 5 } else { 2 }
        }
        _ => 1,
    };
    if matches!(diagram.element(relation.from).kind, ElementKind::Decide | ElementKind::Choice) {
        let nth = seen.branches.entry(relation.from).or_insert(0);
        *nth += 1;
        if *nth > 1 {
            edge.weight = 2;
        }
        if (2..=3).contains(nth) {
            edge.face = Facing::Flank;
        }
    }
    // A line from lane to lane cannot be straight, so it does not pull.
    if lane_of(diagram, relation.from) != lane_of(diagram, relation.to) {
        edge.weight = 1;
    }
    graph.edges.push(edge);
    shapes.edges.push((r, turned));
    shapes.labels.push(label);
    shapes.end_labels.push(ends);
}

/// The lane around an element.
fn lane_of(diagram: &Diagram, id: ElementId) -> Option<ElementId> {
    diagram.ancestors(id).find(|a| diagram.element(*a).kind == ElementKind::Lane)
}

/// What is tied to one node only stands beside it: asides, and remarks on one element.
fn stands_beside(seen: &mut Seen, graph: &mut Graph, relation: &Relation, from: Anchor, to: Anchor) -> bool {
    let (Anchor::Node(a), Anchor::Node(b)) = (from, to) else { return false };
    let (guest, host) = match relation.verb {
        Verb::Aside => (b, a),
        Verb::Remarks => (a, b),
        _ => return false,
    };
    let remarks_on_several =
        relation.verb == Verb::Remarks && seen.remarks.get(&relation.from).is_some_and(|count| *count > 1);
    // One at each side.
    let companions = seen.companions.get(&host).copied().unwrap_or_default();
    if remarks_on_several
        || companions > 1
        || graph.nodes[host].beside.is_some()
        || graph.nodes[host].group != graph.nodes[guest].group
    {
        return false;
    }
    *seen.companions.entry(host).or_default() += 1;
    graph.nodes[guest].beside = Some(host);
    true
}

fn end_blocks(context: &Context<'_>, diagram: &Diagram, relation: &Relation) -> [Option<TextBlock>; 2] {
    [0, 1].map(|i| {
        let mut end = relation.ends[i].clone();
        if diagram.has_crows_feet() {
            // The foot says it.
            end.multiplicity = None;
        }
        let shown = end.shown();
        let label = Label::plain(shown.clone(), relation.span);
        (!shown.is_empty()).then(|| wrap(context.fonts, &label, Face::Regular, 12.0, 160.0))
    })
}

fn paint(
    diagram: &Diagram, styles: &Styles, context: &Context<'_>, shapes: &Shapes,
    (graph, placement, sides): (&Graph, &Placement, &[Option<Side>]),
) -> Vec<Item> {
    let mut items = Vec::new();
    let mut depths = Vec::new();
    let in_the_way = InTheWay::new(&placement.routes);
    let dividers = dividers(diagram, shapes, placement);
    let is_package = diagram.kind == DiagramKind::Classes;
    let look = if is_package { frame::Look::Package(&in_the_way) } else { frame::Look::Box };
    for (id, element) in diagram.ids() {
        let (Anchor::Group(g), Some(title)) = (shapes.slots[id.index()], shapes.titles.get(&id.index())) else {
            continue;
        };
        let depth = frame::depth(diagram, id);
        let style = &styles.elements[id.index()];
        let place = placement.groups[g];
        let more = placement.pieces.iter().filter(|p| p.group == g).map(|p| (p.frame, p.title));
        let places = std::iter::once((place, placement.titles[g])).chain(more).zip(graph.headers(g, placement));
        let look = dividers.get(&id.index()).map_or(look, |divider| frame::Look::Region(*divider));
        let part = |((frame, title), header)| frame::Parts { frame, title, header, look };
        let parts: Vec<frame::Parts<'_>> = places.map(part).collect();
        let drawn = match element.kind {
            ElementKind::Lane => frame::lane(title, &parts, style),
            _ => frame::draw(element, title, &parts[0], depth, style),
        };
        items.push(Item::Group(
            element_tag(context, id, if element.kind == ElementKind::Lane { Holds::Nothing } else { Holds::Others }),
            drawn,
        ));
        if shows_depth(diagram, element) {
            depths.push(frame::depth_figure(place, depth, &in_the_way, context.fonts));
        }
    }
    items.extend(depths);
    for (e, (r, turned)) in shapes.edges.iter().enumerate() {
        let relation = &diagram.relations[*r];
        let style = &styles.relations[*r];
        let end_is_hidden = |id: ElementId| styles.elements[id.index()].hidden;
        if style.hidden || end_is_hidden(relation.from) || end_is_hidden(relation.to) {
            continue;
        }
        let mut route = placement.routes[e].clone();
        if *turned {
            route.points.reverse();
            route.end_labels.swap(0, 1);
        }
        let (from, to, dash) = ends::heads(diagram, relation);
        let draw = if route.curved { ends::curve } else { ends::line };
        let mut drawn = draw(&route.points, [from, to], dash, style, Paint::PICTURE);
        let arrow = shows_reading(diagram, relation).then(|| direction(&route));
        // Behind the heads: what a label hides of its line is no end.
        drawn.splice(1..1, labels(shapes, e, &route, (style.text, arrow)));
        items.push(Item::group(relation_tag(context, RelationId(*r as u32)), drawn));
    }
    for (id, _) in diagram.ids() {
        let (Anchor::Node(n), Some(figure)) = (shapes.slots[id.index()], shapes.figures.get(&id.index())) else {
            continue;
        };
        let style = &styles.elements[id.index()];
        if !style.hidden {
            let place = placement.nodes[n];
            items.push(Item::group(element_tag(context, id, Holds::Nothing), figure.draw(place, style)));
            if let Some(name) = &figure.name {
                let far = graph.nodes[n].core.map_or(0.0, |core| core.w / 2.0) + figure::BESIDE;
                let at = name_beside(place.middle(), Size::new(name.width(), name.height()), far, sides[n]);
                items.push(Item::Group(Tag::Plain, texts_in(name, at, TextAnchor::Start, Paint::Quiet)));
            }
        }
    }
    items
}

/// For each region, the line that divides it from the one before it; nothing where regions stand neither side by side
/// nor one below the other.
fn dividers(diagram: &Diagram, shapes: &Shapes, placement: &Placement) -> BTreeMap<usize, Option<[Point; 2]>> {
    let mut families: BTreeMap<ElementId, Vec<(Rect, usize)>> = BTreeMap::new();
    for (id, element) in diagram.ids().filter(|(_, e)| e.kind == ElementKind::Region) {
        if let (Some(parent), Anchor::Group(g)) = (element.parent, shapes.slots[id.index()]) {
            families.entry(parent).or_default().push((placement.groups[g], id.index()));
        }
    }
    let mut lines = BTreeMap::new();
    for (parent, mut regions) in families {
        let Anchor::Group(g) = shapes.slots[parent.index()] else { continue };
        let frame = placement.groups[g];
        regions.sort_by(|a, b| a.0.x.total_cmp(&b.0.x).then(a.0.y.total_cmp(&b.0.y)));
        let top = regions.iter().map(|(r, _)| r.y).fold(f64::INFINITY, f64::min);
        let inner = Rect::new(frame.x, top, frame.w, frame.bottom() - top);
        let all = |between: fn(Rect, Rect, Rect) -> Option<[Point; 2]>| {
            regions.windows(2).map(|pair| between(pair[0].0, pair[1].0, inner)).collect::<Option<Vec<_>>>()
        };
        let Some(found) = all(vertical_divider).or_else(|| all(horizontal_divider)) else { continue };
        let between = std::iter::once(None).chain(found.into_iter().map(Some));
        lines.extend(regions.iter().map(|(_, id)| *id).zip(between));
    }
    lines
}

/// The vertical line between two regions that stand beside each other in a frame.
fn vertical_divider(a: Rect, b: Rect, inner: Rect) -> Option<[Point; 2]> {
    let x = (a.right() + b.x) / 2.0;
    (a.right() <= b.x).then_some([pt(x, inner.y), pt(x, inner.bottom())])
}

/// The horizontal line between two regions that stand above each other in a frame.
fn horizontal_divider(a: Rect, b: Rect, inner: Rect) -> Option<[Point; 2]> {
    let y = (a.bottom() + b.y) / 2.0;
    (a.bottom() <= b.y).then_some([pt(inner.x, y), pt(inner.right(), y)])
}

/// Where the name of a point stands: beside its lines, and inside the frame on whose side it lies.
fn name_beside(point: Point, name: Size, far: f64, side: Option<Side>) -> Rect {
    let left = if side == Some(Side::Right) { -far - name.w } else { far };
    let top = if side == Some(Side::Bottom) { -4.0 - name.h } else { 4.0 };
    let (x, y) = (point.x + left, point.y + top);
    Rect::new(x, y, name.w, name.h)
}

/// Whether a triangle at the label of an association says from which end it is read, because nothing else does (UML
/// 2.5.1, 11.5.4).
fn shows_reading(diagram: &Diagram, relation: &Relation) -> bool {
    diagram.kind == DiagramKind::Classes
        && relation.label.is_some()
        && matches!(relation.verb, Verb::Joins | Verb::Owns | Verb::Shares)
}

/// The direction of a line where its label lies, as a unit vector along an axis.
fn direction(route: &Route) -> Point {
    let label = route.label.unwrap_or_default();
    let apart = |stretch: Rect| (distance(stretch.middle(), label.middle()) * 64.0) as u64;
    let off = |stretch: Rect| (!stretch.meets(label), apart(stretch));
    let line = route.polyline();
    let Some([p, q]) = line.windows(2).min_by_key(|p| off(Rect::between(p[0], p[1]))) else { return pt(1.0, 0.0) };
    let (dx, dy) = (q.x - p.x, q.y - p.y);
    if dx.abs() >= dy.abs() { pt(dx.signum(), 0.0) } else { pt(0.0, dy.signum()) }
}

/// The texts of a relation: on its line, which is broken there, and at its ends; `arrow` points from the one who does
/// what the label says.
fn labels(shapes: &Shapes, e: usize, route: &Route, (colour, arrow): (Paint, Option<Point>)) -> Vec<Item> {
    let mut out = Vec::new();
    if let (Some(block), Some(place)) = (&shapes.labels[e], route.label) {
        let ground = Path::rect(place);
        let size = block.size();
        let mut middle = Rect::around(place.middle(), size);
        let mut items = vec![Item::Path { path: ground, fill: Some(Paint::PICTURE), stroke: None, role: None }];
        if let Some(to) = arrow {
            // Before the text where it points to the left, else after it.
            let side = if to.x < 0.0 { -1.0 } else { 1.0 };
            let at = pt(place.middle().x + side * (size.w + 4.0) / 2.0, place.middle().y);
            middle = middle.moved(-side * ARROW / 2.0, 0.0);
            let corner =
                |along: f64, across: f64| pt(at.x + to.x * along - to.y * across, at.y + to.y * along + to.x * across);
            let path = Path::polygon(&[corner(4.0, 0.0), corner(-3.5, 3.5), corner(-3.5, -3.5)]);
            items.push(Item::Path { path, fill: Some(colour), stroke: None, role: None });
        }
        items.extend(block.draw(middle, colour));
        out.push(Item::group(Tag::Label, items));
    }
    for (block, place) in shapes.end_labels[e].iter().zip(&route.end_labels) {
        if let (Some(block), Some(place)) = (block, place) {
            out.push(Item::Group(Tag::EndLabel, texts_in(block, *place, TextAnchor::Start, Paint::Quiet)));
        }
    }
    out
}

//! Laws of the sequence layout, on generated charts: time runs down, texts lie on nothing, frames hold
//! exactly what they contain, bars cover their bodies.

mod support;

use bathygram_core::geom::{Rect, Size};
use bathygram_core::layout::sequence::{Bar, BlockPlace, Chart, ChartPlacement, Counts, Effect, Spot, Step, place};
use proptest::prelude::*;

struct Dice(u64);

impl Dice {
    fn roll(&mut self, sides: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        ((self.0 >> 33) as usize) % sides.max(1)
    }
}

/// Makes charts; remembers the order in which messages happen.
struct Maker {
    dice: Dice,
    columns: usize,
    counts: Counts,
    order: Vec<usize>,
}

impl Maker {
    fn label(&mut self) -> Size {
        Size::new(20.0 + self.dice.roll(140) as f64, 16.0 * (1 + self.dice.roll(2)) as f64)
    }

    fn message(&mut self, from: usize, depth: usize) -> (Step, usize) {
        let to = self.dice.roll(self.columns);
        let id = self.counts.messages;
        self.counts.messages += 1;
        self.order.push(id);
        let bar = if self.dice.roll(2) == 0 { Bar::Body } else { Bar::None };
        let body = if bar == Bar::Body && depth < 4 { self.steps(to, depth + 1, 3) } else { Vec::new() };
        let reply = (bar == Bar::Body && self.dice.roll(2) == 0).then(|| {
            let id = self.counts.messages;
            self.counts.messages += 1;
            self.order.push(id);
            (id, self.label())
        });
        let label = self.label();
        let (from, spot) = (Spot::Column(from), Spot::Column(to));
        (Step::Message { id, from, to: spot, label, body, reply, bar, closes: false, effect: Effect::None }, to)
    }

    fn steps(&mut self, worker: usize, depth: usize, most: usize) -> Vec<Step> {
        let mut out = Vec::new();
        for _ in 0..self.dice.roll(most) + 1 {
            match self.dice.roll(9) {
                0 if depth < 4 => {
                    let id = self.counts.frames;
                    self.counts.frames += 1;
                    let parts = 1 + self.dice.roll(2);
                    let operands = (0..parts)
                        .map(|_| {
                            let guard = Size::new(self.dice.roll(160) as f64, 16.0);
                            (guard, self.steps(worker, depth + 1, 2))
                        })
                        .collect();
                    out.push(Step::Frame { id, tab: Size::new(44.0, 20.0), operands });
                }
                1 => {
                    let id = self.counts.blocks;
                    self.counts.blocks += 1;
                    let (a, b) = (self.dice.roll(self.columns), self.dice.roll(self.columns));
                    let place = match self.dice.roll(3) {
                        0 => BlockPlace::LeftOf(a),
                        1 => BlockPlace::RightOf(a),
                        _ => BlockPlace::Across(a, b),
                    };
                    out.push(Step::Block { id, place, size: Size::new(120.0, 40.0) });
                }
                2 if depth == 0 => {
                    let id = self.counts.marks;
                    self.counts.marks += 1;
                    out.push(Step::Mark { id, size: Size::new(90.0, 22.0), gap: 0.0 });
                }
                _ => out.push(self.message(worker, depth).0),
            }
        }
        out
    }
}

fn chart(seed: u64) -> (Chart, Vec<usize>) {
    let mut dice = Dice(seed);
    let columns = 2 + dice.roll(6);
    let heads = (0..columns).map(|_| Size::new(80.0 + dice.roll(80) as f64, 48.0)).collect();
    let mut maker = Maker { dice, columns, counts: Counts::default(), order: Vec::new() };
    let mut steps = Vec::new();
    for _ in 0..6 {
        let from = maker.dice.roll(columns);
        steps.extend(maker.steps(from, 0, 3));
    }
    (
        Chart { columns: heads, steps, counts: maker.counts, foot: seed.is_multiple_of(3), ..Chart::default() },
        maker.order,
    )
}

fn faults(chart: &Chart, order: &[usize], placement: &ChartPlacement) -> Vec<String> {
    let mut faults = Vec::new();
    let inner = |r: Rect| r.grown(-0.75);
    for pair in placement.heads.windows(2) {
        if pair[0].right() > pair[1].x {
            faults.push("heads overlap".to_owned());
        }
    }
    for pair in order.windows(2) {
        let (a, b) = (&placement.messages[pair[0]], &placement.messages[pair[1]]);
        if a.points[0].y >= b.points[0].y {
            faults.push(format!("message {} is not before {}", pair[0], pair[1]));
        }
    }
    let labels: Vec<Rect> = placement.messages.iter().map(|m| m.label).collect();
    for (i, a) in labels.iter().enumerate() {
        for (j, b) in labels.iter().enumerate().skip(i + 1) {
            if inner(*a).meets(inner(*b)) {
                faults.push(format!("texts {i} and {j} overlap"));
            }
        }
        for bar in &placement.bars {
            if inner(*a).meets(inner(bar.rect)) {
                faults.push(format!("text {i} lies on a bar of column {}", bar.column));
            }
        }
        for (b, block) in placement.blocks.iter().enumerate() {
            if inner(*a).meets(inner(*block)) {
                faults.push(format!("text {i} lies on block {b}"));
            }
        }
    }
    let all = || labels.iter().chain(&placement.blocks).chain(placement.frames.iter().map(|f| &f.rect));
    for foot in placement.feet.iter().flatten() {
        if all().any(|r| inner(*r).meets(inner(*foot))) {
            faults.push(format!("something lies on the foot {foot:?}"));
        }
    }
    let feet = placement.feet.iter().flatten().count();
    if chart.foot && feet != chart.columns.len() {
        faults.push(format!("{feet} feet"));
    }
    frames(&chart.steps, placement, &mut faults);
    for (f, frame) in placement.frames.iter().enumerate() {
        for (column, line) in placement.lifelines.iter().enumerate() {
            let nearest =
                [frame.rect.x, frame.rect.right()].iter().map(|x| (x - line.0).abs()).fold(f64::MAX, f64::min);
            if nearest < 8.0 {
                faults.push(format!("an edge of frame {f} lies {nearest} px from lifeline {column}"));
            }
        }
    }
    for r in all() {
        let inside = r.x >= -0.01 && r.right() <= placement.size.w + 0.01 && r.bottom() <= placement.size.h + 0.01;
        if !inside || !r.x.is_finite() || !r.y.is_finite() {
            faults.push(format!("{r:?} leaves the picture"));
        }
    }
    faults
}

/// Every message in a frame lies in it.
fn frames(steps: &[Step], placement: &ChartPlacement, faults: &mut Vec<String>) {
    for step in steps {
        match step {
            Step::Message { body, .. } => frames(body, placement, faults),
            Step::Frame { id, operands, .. } => {
                let frame = placement.frames[*id].rect;
                for (_, steps) in operands {
                    for message in messages(steps) {
                        let place = &placement.messages[message];
                        let holds = place
                            .points
                            .iter()
                            .all(|p| p.x >= frame.x && p.x <= frame.right() && p.y >= frame.y && p.y <= frame.bottom());
                        if !holds || !frame.holds(place.label) {
                            faults.push(format!("message {message} leaves frame {id}"));
                        }
                    }
                    frames(steps, placement, faults);
                }
            }
            _ => {}
        }
    }
}

fn messages(steps: &[Step]) -> Vec<usize> {
    steps
        .iter()
        .flat_map(|s| match s {
            Step::Message { id, body, reply, .. } => {
                let mut found = messages(body);
                found.push(*id);
                found.extend(reply.map(|r| r.0));
                found
            }
            Step::Frame { operands, .. } => operands.iter().flat_map(|o| messages(&o.1)).collect(),
            _ => Vec::new(),
        })
        .collect()
}

#[test]
fn generated_charts_have_no_fault() {
    for seed in 0..300 {
        let (chart, order) = chart(seed);
        let placement = place(&chart);
        assert_eq!(faults(&chart, &order, &placement), Vec::<String>::new(), "seed {seed}");
    }
}

#[test]
fn bars_cover_their_bodies_and_lie_on_their_lifelines() {
    for seed in 0..100 {
        let (chart, _) = chart(seed);
        let placement = place(&chart);
        for bar in &placement.bars {
            let (x, top, bottom) = placement.lifelines[bar.column];
            assert!(bar.rect.x <= x + 40.0 && bar.rect.right() >= x, "seed {seed}");
            assert!(bar.rect.y >= top && bar.rect.bottom() <= bottom && bar.rect.h > 0.0, "seed {seed}: {bar:?}");
            let opened = &placement.messages[bar.message];
            assert_eq!(opened.points[opened.points.len() - 1].y, bar.rect.y, "seed {seed}");
        }
    }
}

#[test]
fn a_created_column_begins_at_its_message_and_a_destroyed_one_ends() {
    let message = |id, to, effect| Step::Message {
        id,
        from: Spot::Column(0),
        to: Spot::Column(to),
        label: Size::new(40.0, 16.0),
        body: Vec::new(),
        reply: None,
        bar: Bar::None,
        closes: false,
        effect,
    };
    let steps = vec![
        message(0, 1, Effect::None),
        message(1, 2, Effect::Begins),
        message(2, 1, Effect::None),
        message(3, 2, Effect::Ends),
    ];
    let counts = Counts { messages: 4, ..Counts::default() };
    let chart = Chart { columns: vec![Size::new(100.0, 48.0); 3], steps, counts, ..Chart::default() };
    let placement = place(&chart);
    let made = placement.messages[1].points[1];
    assert_eq!((placement.heads[2].x, placement.heads[2].middle().y), (made.x, made.y));
    assert!(placement.heads[2].y > placement.messages[0].points[0].y);
    assert!(placement.destroyed[2] && placement.lifelines[2].2 < placement.lifelines[1].2);
}

#[test]
fn forty_columns_and_ten_thousand_messages() {
    let mut maker = Maker { dice: Dice(5), columns: 40, counts: Counts::default(), order: Vec::new() };
    let mut steps = Vec::new();
    while maker.counts.messages < 10_000 {
        let from = maker.dice.roll(40);
        steps.extend(maker.steps(from, 0, 3));
    }
    let columns = vec![Size::new(100.0, 48.0); 40];
    let chart = Chart { columns, steps, counts: maker.counts, ..Chart::default() };
    let placement = place(&chart);
    assert!(placement.lifelines.windows(2).all(|p| p[1].0 - p[0].0 >= 100.0));
    assert!(placement.size.h.is_finite() && placement.messages.iter().all(|m| m.points.len() >= 2));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn the_same_chart_gives_the_same_places(seed in any::<u64>()) {
        let (chart, _) = chart(seed);
        prop_assert_eq!(place(&chart), place(&chart));
    }
}

#[test]
fn a_lifeline_ends_where_the_message_that_destroys_it_does() {
    let end = |text: &str| {
        let drawing = support::svg(text, "s");
        let document = roxmltree::Document::parse(&drawing).expect("XML");
        let line = |key: &str, id: &str, role: &str| {
            let own = document.descendants().find(|n| n.attribute(key) == Some(id)).expect(id);
            let path = own.descendants().find(|n| n.attribute("data-role") == Some(role)).expect(role);
            let path = path.attribute("d").expect("a path").replace(['M', 'L'], " ");
            path.split_whitespace().map(|n| n.parse::<f64>().expect("a number")).collect::<Vec<_>>()
        };
        let (message, life) = (line("data-relation", "a destroys b", "line"), line("data-element", "b", "lifeline"));
        let [.., x, y] = message[..] else { panic!("{message:?}") };
        let [.., end_x, bottom] = life[..] else { panic!("{life:?}") };
        assert!((x - end_x).abs() < 6.5, "{message:?} {life:?}");
        bottom - y
    };
    assert_eq!(end("sequence s\n  a calls b\n  a destroys b\n  a sends c\n"), 0.0);
    // What still happens there happens before.
    assert!(end("sequence s\n  a destroys b \"now\"\n    b sends c \"last words\"\n") > 20.0);
}

#[test]
fn a_fragment_of_nobody_lies_across_all() {
    let drawing =
        support::svg("sequence s\n  a sends b\n  b sends c\n  repeat \"each tide\"\n    pause \"six hours\"\n", "s");
    let document = roxmltree::Document::parse(&drawing).expect("XML");
    let x = |kind: &str, role: &str| -> Vec<f64> {
        let found = document.descendants().filter(|n| n.attribute("data-kind") == Some(kind));
        let paths = found.flat_map(|n| n.descendants().filter(|d| d.attribute("data-role") == Some(role)));
        let numbers = |path: &str| -> Vec<f64> {
            let parts = path.split(|c: char| !(c.is_ascii_digit() || c == '.')).filter(|n| !n.is_empty());
            parts.step_by(2).map(|n| n.parse().expect("a number")).collect()
        };
        paths.flat_map(|n| numbers(n.attribute("d").expect("a path"))).collect()
    };
    let (frame, lives) = (x("fragment", "frame"), x("party", "lifeline"));
    let (left, right) = (frame.iter().copied().fold(f64::MAX, f64::min), frame.iter().copied().fold(0.0, f64::max));
    assert!(lives.len() >= 3 && lives.iter().all(|x| *x > left && *x < right), "{frame:?} {lives:?}");
}

//! Outlines of elements: the symbols of ISO 5807 by name, cards, notes and bars.

use crate::geom::{Cmd, Path, Point, Rect, Size, pt};
use crate::layout::Outline;
use crate::model::ElementKind;
use crate::theme::Shape;

/// The shape of an element's outline.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Symbol {
    /// A rectangle with slightly round corners.
    Box,
    /// A rectangle with round corners.
    Card,
    /// Round ends: a terminal.
    Pill,
    /// A decision.
    Diamond,
    /// A preparation.
    Hexagon,
    /// Data.
    Slant,
    /// A manual operation.
    Trapezoid,
    /// Manual input.
    SlantTop,
    /// A document.
    Page,
    /// Stored data.
    Stored,
    /// A predefined process.
    DoubleSides,
    /// A display.
    Display,
    /// A connector.
    Circle,
    /// A delay.
    Delay,
    /// Internal storage.
    Memory,
    /// Storage with direct access: a cylinder on its side.
    Drum,
    /// Storage with sequential access: a reel.
    Reel,
    /// A punched card.
    CutCorner,
    /// Punched tape.
    Wave,
    /// Three dots: something is left out.
    Dots,
    /// The upper limit of a loop.
    LoopBegin,
    /// The lower limit of a loop.
    LoopEnd,
    /// Where parallel work begins or ends.
    Bar,
    /// A remark, with a folded corner.
    Note,
    /// A filled point: where a state machine begins, and where transitions meet.
    Dot,
    /// A point in a circle: where a state machine ends.
    Target,
    /// A crossed circle: a way out of a state.
    Crossed,
    /// A circle in a circle.
    Ring,
    /// A cylinder.
    Cylinder,
    /// A flag.
    Flag,
    /// A star of eight points.
    Star,
    /// A cloud.
    Cloud,
}

/// How far slanted sides lean.
// ISO 5807 gives no figures for its outlines; these keep a text of one line clear of the sides.
const LEAN: f64 = 16.0;
/// Height of a page's wave.
const WAVE: f64 = 8.0;
/// The diameter of one of three dots, and how far their middles are apart.
const DOT: f64 = 5.0;
const DOTS: f64 = 9.0;
/// Size of a corner that is cut off.
const CUT: f64 = 12.0;
/// How far the inner lines of internal storage lie from its sides.
const INNER: f64 = 8.0;
/// How far the sides of a cylinder that lies bulge.
const BULGE: f64 = 10.0;
/// Size of a note's folded corner.
// As large as the corner that is cut off elsewhere, so that both look like paper of one kind.
const FOLD: f64 = 12.0;
/// Distance between the two circles of a ring.
const RING: f64 = 4.0;
/// Half the height of a cylinder's lid.
const LID: f64 = 6.0;
/// Inner radius of a star, as a part of its outer one.
// Rounder than a star of five points, so that a text fits inside.
const STAR: f64 = 0.72;

impl Symbol {
    /// The symbol of a kind in a flow.
    pub(super) fn of_flow(kind: ElementKind) -> Symbol {
        match kind {
            ElementKind::Begin | ElementKind::Finish => Symbol::Pill,
            ElementKind::Decide => Symbol::Diamond,
            ElementKind::Data => Symbol::Slant,
            ElementKind::Document => Symbol::Page,
            ElementKind::Store => Symbol::Stored,
            ElementKind::Manual => Symbol::Trapezoid,
            ElementKind::Enter => Symbol::SlantTop,
            ElementKind::Prepare => Symbol::Hexagon,
            ElementKind::Call => Symbol::DoubleSides,
            ElementKind::Display => Symbol::Display,
            ElementKind::Connector => Symbol::Circle,
            ElementKind::Wait => Symbol::Delay,
            ElementKind::Memory => Symbol::Memory,
            ElementKind::Disk => Symbol::Drum,
            ElementKind::Tape => Symbol::Reel,
            ElementKind::Card => Symbol::CutCorner,
            ElementKind::Strip => Symbol::Wave,
            ElementKind::Ellipsis => Symbol::Dots,
            ElementKind::Repeat => Symbol::LoopBegin,
            ElementKind::Until => Symbol::LoopEnd,
            ElementKind::Bar => Symbol::Bar,
            ElementKind::Remark => Symbol::Note,
            _ => Symbol::Box,
        }
    }

    /// The symbol of a kind in a tree: of a decision tree's squares, circles and ends, those that hold text.
    pub(super) fn of_tree(kind: ElementKind) -> Symbol {
        match kind {
            ElementKind::Decide => Symbol::Diamond,
            ElementKind::Chance => Symbol::Hexagon,
            ElementKind::Outcome => Symbol::Pill,
            _ => Symbol::Card,
        }
    }

    /// The symbol of a shape.
    pub(super) fn of_shape(shape: Shape) -> Symbol {
        match shape {
            Shape::Box => Symbol::Box,
            Shape::Round => Symbol::Card,
            Shape::Pill => Symbol::Pill,
            Shape::Circle => Symbol::Circle,
            Shape::Ring => Symbol::Ring,
            Shape::Diamond => Symbol::Diamond,
            Shape::Hexagon => Symbol::Hexagon,
            Shape::Slant => Symbol::Slant,
            Shape::Cylinder => Symbol::Cylinder,
            Shape::Flag => Symbol::Flag,
            Shape::Star => Symbol::Star,
            Shape::Cloud => Symbol::Cloud,
            Shape::Page => Symbol::Page,
        }
    }

    /// The size that holds a text of this size.
    pub(super) fn around(self, text: Size) -> Size {
        let (w, h) = match self {
            // The text's corners lie on the sides of the diamond.
            Symbol::Diamond => {
                let w = text.w + 1.9 * text.h + 20.0;
                (w, w / 1.9)
            }
            Symbol::Hexagon | Symbol::Slant | Symbol::Trapezoid => (text.w + 2.0 * LEAN + 20.0, text.h + 20.0),
            Symbol::SlantTop => (text.w + 28.0, text.h + 32.0),
            Symbol::Page => (text.w + 28.0, text.h + 20.0 + 2.0 * WAVE),
            Symbol::Stored | Symbol::Display | Symbol::Delay => (text.w + 52.0, text.h + 20.0),
            Symbol::DoubleSides => (text.w + 44.0, text.h + 20.0),
            Symbol::Memory => (text.w + 36.0, text.h + 28.0),
            Symbol::Drum => (text.w + 52.0, text.h + 20.0),
            Symbol::CutCorner | Symbol::LoopBegin | Symbol::LoopEnd => (text.w + 2.0 * CUT + 12.0, text.h + 24.0),
            Symbol::Wave => (text.w + 28.0, text.h + 20.0 + 4.0 * WAVE),
            Symbol::Dots => return Size::new(28.0, 28.0),
            Symbol::Circle | Symbol::Reel => {
                let d = libm::hypot(text.w, text.h) + 10.0;
                (d, d)
            }
            Symbol::Ring => {
                let d = libm::hypot(text.w, text.h) + 10.0 + 2.0 * RING;
                (d, d)
            }
            Symbol::Star => {
                let d = (libm::hypot(text.w, text.h) + 8.0) / STAR;
                (d, d)
            }
            Symbol::Cylinder => (text.w + 28.0, text.h + 20.0 + 2.0 * LID),
            Symbol::Flag => (text.w + 36.0 + LEAN, text.h + 20.0),
            Symbol::Cloud => (text.w * 1.25 + 44.0, text.h * 1.5 + 40.0),
            Symbol::Dot => return Size::new(16.0, 16.0),
            Symbol::Target | Symbol::Crossed => return Size::new(20.0, 20.0),
            Symbol::Pill => (text.w + 40.0, text.h + 16.0),
            Symbol::Note => (text.w + 24.0 + FOLD * 0.5, text.h + 16.0),
            Symbol::Bar => return Size::new(96.0, 6.0),
            Symbol::Box | Symbol::Card => (text.w + 28.0, text.h + 20.0),
        };
        Size::new(crate::geom::up4(w), crate::geom::up4(h))
    }

    /// How far the middle of the text lies from the middle of the symbol.
    pub(super) fn text_offset(self) -> Point {
        match self {
            Symbol::SlantTop => pt(0.0, 6.0),
            Symbol::Page => pt(0.0, -WAVE * 0.75),
            Symbol::Delay => pt(-6.0, 0.0),
            Symbol::Memory => pt(INNER / 2.0, INNER / 2.0),
            Symbol::Drum => pt(-6.0, 0.0),
            Symbol::Stored => pt(2.0, 0.0),
            Symbol::Display => pt(2.0, 0.0),
            Symbol::Cylinder => pt(0.0, LID * 0.9),
            Symbol::Flag => pt(-LEAN / 2.0, 0.0),
            Symbol::Cloud => pt(0.0, 3.0),
            _ => pt(0.0, 0.0),
        }
    }

    /// Corners of the outline in a rectangle, where it is a polygon.
    fn corners(self, r: Rect) -> Option<Vec<Point>> {
        let (x, y, right, bottom, m) = (r.x, r.y, r.right(), r.bottom(), r.middle());
        Some(match self {
            Symbol::Diamond => vec![pt(m.x, y), pt(right, m.y), pt(m.x, bottom), pt(x, m.y)],
            Symbol::Hexagon => vec![
                pt(x + LEAN, y),
                pt(right - LEAN, y),
                pt(right, m.y),
                pt(right - LEAN, bottom),
                pt(x + LEAN, bottom),
                pt(x, m.y),
            ],
            Symbol::Slant => vec![pt(x + LEAN, y), pt(right, y), pt(right - LEAN, bottom), pt(x, bottom)],
            Symbol::Trapezoid => vec![pt(x, y), pt(right, y), pt(right - LEAN, bottom), pt(x + LEAN, bottom)],
            Symbol::SlantTop => vec![pt(x, y + 12.0), pt(right, y), pt(right, bottom), pt(x, bottom)],
            Symbol::CutCorner => {
                vec![pt(x + CUT, y), pt(right, y), pt(right, bottom), pt(x, bottom), pt(x, y + CUT)]
            }
            Symbol::LoopBegin => vec![
                pt(x + CUT, y),
                pt(right - CUT, y),
                pt(right, y + CUT),
                pt(right, bottom),
                pt(x, bottom),
                pt(x, y + CUT),
            ],
            Symbol::LoopEnd => vec![
                pt(x, y),
                pt(right, y),
                pt(right, bottom - CUT),
                pt(right - CUT, bottom),
                pt(x + CUT, bottom),
                pt(x, bottom - CUT),
            ],
            Symbol::Note => vec![pt(x, y), pt(right - FOLD, y), pt(right, y + FOLD), pt(right, bottom), pt(x, bottom)],
            Symbol::Flag => {
                vec![pt(x, y), pt(right, y), pt(right - LEAN, m.y), pt(right, bottom), pt(x, bottom)]
            }
            Symbol::Star => (0..16)
                .map(|i| {
                    let radius = if i % 2 == 0 { 0.5 } else { 0.5 * STAR };
                    let angle = f64::from(i) * std::f64::consts::PI / 8.0;
                    pt(m.x + r.w * radius * libm::sin(angle), m.y - r.h * radius * libm::cos(angle))
                })
                .collect(),
            _ => return None,
        })
    }

    /// The outline.
    pub(super) fn path(self, r: Rect) -> Path {
        if let Some(corners) = self.corners(r) {
            return Path::polygon(&corners);
        }
        let (x, y, right, bottom, m) = (r.x, r.y, r.right(), r.bottom(), r.middle());
        match self {
            Symbol::Card => Path::rounded(r, 8.0),
            Symbol::Pill => Path::rounded(r, r.h / 2.0),
            Symbol::Circle | Symbol::Ring | Symbol::Dot | Symbol::Target | Symbol::Crossed => Path::ellipse(r),
            // From the foot of the reel a line leads to its right end.
            Symbol::Reel => Path::ellipse(r).and(Path::polygon(&[pt(m.x, bottom), pt(right, bottom), pt(m.x, bottom)])),
            Symbol::Dots => {
                let dot = |dy: f64| Path::ellipse(Rect::around(pt(m.x, m.y + dy), Size::new(DOT, DOT)));
                dot(-DOTS).and(dot(0.0)).and(dot(DOTS))
            }
            Symbol::Drum => Path(vec![
                Cmd::Move(pt(x + BULGE, y)),
                Cmd::Line(pt(right - BULGE, y)),
                Cmd::Curve(pt(right + BULGE / 3.0, y), pt(right + BULGE / 3.0, bottom), pt(right - BULGE, bottom)),
                Cmd::Line(pt(x + BULGE, bottom)),
                Cmd::Curve(pt(x - BULGE / 3.0, bottom), pt(x - BULGE / 3.0, y), pt(x + BULGE, y)),
                Cmd::Close,
            ]),
            Symbol::Wave => {
                let top = Cmd::Curve(
                    pt(x + r.w * 0.25, y + 3.0 * WAVE),
                    pt(right - r.w * 0.25, y - WAVE),
                    pt(right, y + WAVE),
                );
                over_wave(r, [Cmd::Move(pt(x, y + WAVE)), top])
            }
            Symbol::Cylinder => Path(vec![
                Cmd::Move(pt(x, y + LID)),
                Cmd::Curve(pt(x, y - LID / 3.0), pt(right, y - LID / 3.0), pt(right, y + LID)),
                Cmd::Line(pt(right, bottom - LID)),
                Cmd::Curve(pt(right, bottom + LID / 3.0), pt(x, bottom + LID / 3.0), pt(x, bottom - LID)),
                Cmd::Close,
            ]),
            Symbol::Cloud => cloud(r),
            Symbol::Bar => Path::rounded(r, 2.0),
            Symbol::Page => over_wave(r, [Cmd::Move(pt(x, y)), Cmd::Line(pt(right, y))]),
            Symbol::Stored => Path(vec![
                Cmd::Move(pt(x + 14.0, y)),
                Cmd::Line(pt(right, y)),
                Cmd::Curve(pt(right - 16.0, y + r.h * 0.3), pt(right - 16.0, bottom - r.h * 0.3), pt(right, bottom)),
                Cmd::Line(pt(x + 14.0, bottom)),
                Cmd::Curve(pt(x - 4.0, bottom - r.h * 0.25), pt(x - 4.0, y + r.h * 0.25), pt(x + 14.0, y)),
                Cmd::Close,
            ]),
            Symbol::Display => Path(vec![
                Cmd::Move(pt(x, m.y)),
                Cmd::Line(pt(x + 18.0, y)),
                Cmd::Line(pt(right - 16.0, y)),
                Cmd::Curve(
                    pt(right + 4.0, y + r.h * 0.25),
                    pt(right + 4.0, bottom - r.h * 0.25),
                    pt(right - 16.0, bottom),
                ),
                Cmd::Line(pt(x + 18.0, bottom)),
                Cmd::Close,
            ]),
            Symbol::Delay => Path(vec![
                Cmd::Move(pt(x, y)),
                Cmd::Line(pt(right - 22.0, y)),
                Cmd::Curve(
                    pt(right + 6.0, y + r.h * 0.1),
                    pt(right + 6.0, bottom - r.h * 0.1),
                    pt(right - 22.0, bottom),
                ),
                Cmd::Line(pt(x, bottom)),
                Cmd::Close,
            ]),
            _ => Path::rounded(r, 3.0),
        }
    }

    /// Lines inside the outline.
    pub(super) fn details(self, r: Rect) -> Vec<Path> {
        match self {
            Symbol::DoubleSides => {
                [r.x + 8.0, r.right() - 8.0].iter().map(|x| Path::line(&[pt(*x, r.y), pt(*x, r.bottom())])).collect()
            }
            Symbol::Memory => {
                let (x, y) = (r.x + INNER, r.y + INNER);
                vec![Path::line(&[pt(x, r.y), pt(x, r.bottom())]), Path::line(&[pt(r.x, y), pt(r.right(), y)])]
            }
            Symbol::Drum => vec![Path(vec![
                Cmd::Move(pt(r.right() - BULGE, r.y)),
                Cmd::Curve(
                    pt(r.right() - BULGE * 7.0 / 3.0, r.y),
                    pt(r.right() - BULGE * 7.0 / 3.0, r.bottom()),
                    pt(r.right() - BULGE, r.bottom()),
                ),
            ])],
            Symbol::Note => vec![Path::line(&[
                pt(r.right() - FOLD, r.y),
                pt(r.right() - FOLD, r.y + FOLD),
                pt(r.right(), r.y + FOLD),
            ])],
            Symbol::Ring => {
                vec![Path::ellipse(Rect::new(r.x + RING, r.y + RING, r.w - 2.0 * RING, r.h - 2.0 * RING))]
            }
            Symbol::Crossed => {
                let d = r.w * 0.146;
                [(r.y + d, r.bottom() - d), (r.bottom() - d, r.y + d)]
                    .iter()
                    .map(|(a, b)| Path::line(&[pt(r.x + d, *a), pt(r.right() - d, *b)]))
                    .collect()
            }
            Symbol::Cylinder => vec![Path(vec![
                Cmd::Move(pt(r.x, r.y + LID)),
                Cmd::Curve(
                    pt(r.x, r.y + LID * 7.0 / 3.0),
                    pt(r.right(), r.y + LID * 7.0 / 3.0),
                    pt(r.right(), r.y + LID),
                ),
            ])],
            _ => Vec::new(),
        }
    }

    /// Where lines end: the outline as points around the middle.
    pub(super) fn outline(self, size: Size) -> Outline {
        let r = Rect::around(pt(0.0, 0.0), size);
        match self {
            Symbol::Box | Symbol::Card | Symbol::DoubleSides | Symbol::Bar | Symbol::Memory => Outline::Box,
            // Lines end at the circle, and at the outermost dots.
            Symbol::Reel => Symbol::Circle.outline(size),
            Symbol::Dots => {
                let column = Rect::around(pt(0.0, 0.0), Size::new(DOT, 2.0 * DOTS + DOT));
                Outline::Polygon(Outline::Box.corners(column))
            }
            _ => Outline::Polygon(self.corners(r).unwrap_or_else(|| flattened(&self.path(r)))),
        }
    }
}

/// An outline with a wave at its foot, below what leads to its right upper corner.
fn over_wave(r: Rect, top: [Cmd; 2]) -> Path {
    let (right, low) = (r.right(), r.bottom() - WAVE);
    let foot =
        Cmd::Curve(pt(right - r.w * 0.25, low - 2.0 * WAVE), pt(r.x + r.w * 0.25, low + 2.0 * WAVE), pt(r.x, low));
    Path([&top[..], &[Cmd::Line(pt(right, low)), foot, Cmd::Close]].concat())
}

/// A cloud: bumps around an ellipse that lies inside the rectangle.
fn cloud(r: Rect) -> Path {
    const BUMPS: i32 = 9;
    let m = r.middle();
    // Bumps reach a fifth beyond the ellipse, and the outermost touches the rectangle.
    let (rx, ry) = (r.w / 2.0 * 0.86, r.h / 2.0 * 0.82);
    let angle = |i: i32| f64::from(i) * 2.0 * std::f64::consts::PI / f64::from(BUMPS) - std::f64::consts::FRAC_PI_2;
    let at = |i: i32, out: f64| pt(m.x + rx * out * libm::cos(angle(i)), m.y + ry * out * libm::sin(angle(i)));
    let mut path = vec![Cmd::Move(at(0, 1.0))];
    for i in 0..BUMPS {
        path.push(Cmd::Curve(at(i, 1.22), at(i + 1, 1.22), at(i + 1, 1.0)));
    }
    path.push(Cmd::Close);
    Path(path)
}

/// A path as a polygon, curves cut into sixteen.
fn flattened(path: &Path) -> Vec<Point> {
    let mut out: Vec<Point> = Vec::new();
    for cmd in &path.0 {
        match *cmd {
            Cmd::Move(p) | Cmd::Line(p) => out.push(p),
            Cmd::Curve(a, b, p) => {
                let from = out.last().copied().unwrap_or(p);
                out.extend((1..=16).map(|i| {
                    let t = f64::from(i) / 16.0;
                    let s = 1.0 - t;
                    let mix = |f: fn(Point) -> f64| {
                        s * s * s * f(from) + 3.0 * s * s * t * f(a) + 3.0 * s * t * t * f(b) + t * t * t * f(p)
                    };
                    pt(mix(|p| p.x), mix(|p| p.y))
                }));
            }
            Cmd::Close => {}
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_text_fits_into_every_symbol() {
        let text = Size::new(90.0, 36.0);
        for symbol in [
            Symbol::Box,
            Symbol::Pill,
            Symbol::Diamond,
            Symbol::Hexagon,
            Symbol::Slant,
            Symbol::Trapezoid,
            Symbol::SlantTop,
            Symbol::Page,
            Symbol::Stored,
            Symbol::DoubleSides,
            Symbol::Display,
            Symbol::Circle,
            Symbol::Delay,
            Symbol::Note,
            Symbol::Ring,
            Symbol::Cylinder,
            Symbol::Flag,
            Symbol::Star,
            Symbol::Cloud,
            Symbol::Memory,
            Symbol::Drum,
            Symbol::Reel,
            Symbol::CutCorner,
            Symbol::Wave,
            Symbol::LoopBegin,
            Symbol::LoopEnd,
        ] {
            let size = symbol.around(text);
            let outline = symbol.outline(size);
            let at = symbol.text_offset();
            for y in [at.y - 14.0, at.y + 14.0] {
                let left = -outline.reach(size, crate::layout::Side::Left, y);
                let right = outline.reach(size, crate::layout::Side::Right, y);
                assert!(left <= at.x - 45.0 + 0.5 && right >= at.x + 45.0 - 0.5, "{symbol:?} {left} {right}");
            }
        }
    }
}

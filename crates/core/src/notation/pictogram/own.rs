//! Reads the pictograms that a project brings, SVG and PNG. Of an SVG only geometry and plain colours are taken: it is
//! flattened to paths by a general SVG reader, after whatever could reach outside or run has been refused. Of a PNG the
//! chunks that make pixels are kept.

use super::{Art, GRID, OwnPaint, OwnShape};
use crate::geom::{Cmd, Path, pt};
use crate::theme::Colour;
use usvg::tiny_skia_path::{PathSegment, Point, Transform};

/// An SVG file may have this many bytes.
pub const MAX_SVG: usize = 64 * 1024;
/// A PNG file may have this many bytes.
pub const MAX_PNG: usize = 256 * 1024;
/// A side of a PNG may have this many pixels.
const MAX_SIDE: u32 = 1024;
/// All paths of an SVG together may have this many segments.
const MAX_SEGMENTS: usize = 4_000;
/// Elements of an SVG may nest so deep, and so many may repeat others.
const MAX_DEPTH: usize = 64;
const MAX_USES: usize = 16;
/// Chunks of a PNG that make its pixels (ISO/IEC 15948).
const PIXELS: [&[u8; 4]; 7] = [b"IHDR", b"PLTE", b"tRNS", b"gAMA", b"sRGB", b"IDAT", b"IEND"];

/// Why a file is no pictogram.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum IconFault {
    /// It is larger than it may be, in bytes.
    TooLarge(usize),
    /// It holds something that does not belong into a picture.
    Unsafe(String),
    /// It cannot be read; why.
    Broken(String),
}

/// Reads a file by its name and its bytes.
///
/// # Errors
/// If it is no SVG or PNG, is too large, or holds what could run or reach outside.
pub fn read_own(name: &str, bytes: &[u8]) -> Result<Art, IconFault> {
    let ending = name.rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
    match ending.as_str() {
        "svg" => read_svg(bytes),
        "png" => read_png(bytes),
        _ => Err(IconFault::Broken("its name ends in neither .svg nor .png".to_owned())),
    }
}

fn read_svg(bytes: &[u8]) -> Result<Art, IconFault> {
    if bytes.len() > MAX_SVG {
        return Err(IconFault::TooLarge(MAX_SVG));
    }
    let broken = |why: &dyn std::fmt::Display| IconFault::Broken(why.to_string());
    let text = std::str::from_utf8(bytes).map_err(|_| IconFault::Broken("it is not UTF-8 text".to_owned()))?;
    let xml = roxmltree::Document::parse(text).map_err(|e| broken(&e))?;
    refuse(&xml)?;
    let tree = usvg::Tree::from_xmltree(&xml, &usvg::Options::default()).map_err(|e| broken(&e))?;
    let (w, h) = (f64::from(tree.size().width()), f64::from(tree.size().height()));
    let scale = GRID / w.max(h);
    let mut flat = Flat {
        scale,
        shift: ((GRID - w * scale) / 2.0, (GRID - h * scale) / 2.0),
        takes_accent: text.contains("currentColor"),
        shapes: Vec::new(),
        segments: 0,
    };
    flat.group(tree.root())?;
    if flat.shapes.is_empty() {
        return Err(IconFault::Broken("it draws nothing".to_owned()));
    }
    Ok(Art::Shapes(flat.shapes))
}

/// What no pictogram holds: what could run or reach outside, and what could become more than its file.
const REFUSED: [&str; 15] = [
    "script",
    "foreignObject",
    "image",
    "feImage",
    "iframe",
    "audio",
    "video",
    "animate",
    "set",
    "marker",
    "pattern",
    "filter",
    "mask",
    "clipPath",
    "style",
];

/// Refuses what could run, reach outside, or grow: such elements, handlers, references that leave the file, deep nesting.
fn refuse(xml: &roxmltree::Document<'_>) -> Result<(), IconFault> {
    let mut uses = 0;
    let mut work = vec![(xml.root_element(), 0)];
    while let Some((node, depth)) = work.pop() {
        work.extend(node.children().filter(roxmltree::Node::is_element).map(|child| (child, depth + 1)));
        if depth > MAX_DEPTH {
            return Err(IconFault::Broken(format!("its elements lie more than {MAX_DEPTH} deep")));
        }
        let tag = node.tag_name().name();
        uses += usize::from(tag == "use");
        if uses > MAX_USES {
            return Err(IconFault::Broken(format!("it repeats parts more than {MAX_USES} times")));
        }
        if REFUSED.contains(&tag) {
            return Err(IconFault::Unsafe(format!("a `{tag}`")));
        }
        for attribute in node.attributes() {
            let (name, value) = (attribute.name(), attribute.value().trim());
            if name.to_ascii_lowercase().starts_with("on") {
                return Err(IconFault::Unsafe(format!("the handler `{name}`")));
            }
            let leaves = name == "href" && !value.starts_with('#');
            let urls = || value.split("url(").skip(1).map(|u| u.trim_start_matches(['"', '\'', ' ']));
            if leaves || urls().any(|u| !u.starts_with('#')) {
                return Err(IconFault::Unsafe(format!(
                    "a reference to `{}`",
                    value.chars().take(40).collect::<String>()
                )));
            }
        }
    }
    Ok(())
}

/// Flattens an SVG to shapes on the grid.
struct Flat {
    scale: f64,
    shift: (f64, f64),
    /// Whether black stands for the accent: the file speaks of the current colour.
    takes_accent: bool,
    shapes: Vec<OwnShape>,
    segments: usize,
}

impl Flat {
    fn group(&mut self, group: &usvg::Group) -> Result<(), IconFault> {
        for node in group.children() {
            match node {
                usvg::Node::Group(inner) => self.group(inner)?,
                usvg::Node::Path(path) if path.is_visible() => self.path(path)?,
                _ => {}
            }
        }
        Ok(())
    }

    fn path(&mut self, path: &usvg::Path) -> Result<(), IconFault> {
        let transform = path.abs_transform();
        self.segments += path.data().verbs().len();
        if self.segments > MAX_SEGMENTS {
            return Err(IconFault::Broken(format!("its paths have more than {MAX_SEGMENTS} segments")));
        }
        let fill = path.fill().and_then(|f| self.paint(f.paint(), f.opacity().get()));
        let size = f64::from(transform.sx.hypot(transform.ky).max(transform.kx.hypot(transform.sy)));
        let stroke = path.stroke().and_then(|s| {
            Some((self.paint(s.paint(), s.opacity().get())?, f64::from(s.width().get()) * size * self.scale))
        });
        if fill.is_some() || stroke.is_some() {
            let path = self.commands(path.data().segments(), transform);
            self.shapes.push(OwnShape { path, fill, stroke });
        }
        Ok(())
    }

    fn commands(&self, segments: impl Iterator<Item = PathSegment>, transform: Transform) -> Path {
        let place = |mut p: Point| {
            transform.map_point(&mut p);
            pt(f64::from(p.x) * self.scale + self.shift.0, f64::from(p.y) * self.scale + self.shift.1)
        };
        let mut out = Path::default();
        let mut last = pt(0.0, 0.0);
        for segment in segments {
            let cmd = match segment {
                PathSegment::MoveTo(p) => Cmd::Move(place(p)),
                PathSegment::LineTo(p) => Cmd::Line(place(p)),
                PathSegment::QuadTo(a, p) => {
                    let (a, p) = (place(a), place(p));
                    let towards =
                        |q: crate::geom::Point| pt(q.x + (a.x - q.x) * 2.0 / 3.0, q.y + (a.y - q.y) * 2.0 / 3.0);
                    Cmd::Curve(towards(last), towards(p), p)
                }
                PathSegment::CubicTo(a, b, p) => Cmd::Curve(place(a), place(b), place(p)),
                PathSegment::Close => Cmd::Close,
            };
            if let Cmd::Move(p) | Cmd::Line(p) | Cmd::Curve(_, _, p) = cmd {
                last = p;
            }
            out.0.push(cmd);
        }
        out
    }

    /// A plain colour; that of a gradient is its first. What shines through is mixed with white.
    fn paint(&self, paint: &usvg::Paint, opacity: f32) -> Option<OwnPaint> {
        let (colour, own) = match paint {
            usvg::Paint::Color(colour) => (*colour, 1.0),
            usvg::Paint::LinearGradient(g) => g.stops().first().map(|s| (s.color(), s.opacity().get()))?,
            usvg::Paint::RadialGradient(g) => g.stops().first().map(|s| (s.color(), s.opacity().get()))?,
            usvg::Paint::Pattern(_) => return None,
        };
        let opacity = opacity * own;
        if opacity <= 0.01 {
            return None;
        }
        let is_black = (colour.red, colour.green, colour.blue) == (0, 0, 0);
        if self.takes_accent && is_black {
            return Some(OwnPaint::Accent);
        }
        let mixed = |c: u8| (f32::from(c) * opacity + 255.0 * (1.0 - opacity)).round() as u8;
        Some(OwnPaint::Colour(Colour { r: mixed(colour.red), g: mixed(colour.green), b: mixed(colour.blue) }))
    }
}

/// Keeps the chunks of a PNG that make its pixels, after they have been read once as a whole.
fn read_png(bytes: &[u8]) -> Result<Art, IconFault> {
    if bytes.len() > MAX_PNG {
        return Err(IconFault::TooLarge(MAX_PNG));
    }
    let broken = |why: &dyn std::fmt::Display| IconFault::Broken(why.to_string());
    let mut decoder = png::Decoder::new(std::io::Cursor::new(bytes));
    decoder.set_ignore_text_chunk(true);
    let mut reader = decoder.read_info().map_err(|e| broken(&e))?;
    let (width, height) = (reader.info().width, reader.info().height);
    if width.max(height) > MAX_SIDE {
        return Err(IconFault::Broken(format!("it has {width} × {height} pixels; a side may have {MAX_SIDE}")));
    }
    let size = reader.output_buffer_size().ok_or_else(|| IconFault::Broken("it has no size".to_owned()))?;
    reader.next_frame(&mut vec![0; size]).map_err(|e| broken(&e))?;
    let mut kept = bytes[..8].to_vec();
    let mut rest = &bytes[8..];
    // Length, kind, content, check sum.
    while let Some((head, after)) = rest.split_at_checked(8) {
        let length = u32::from_be_bytes([head[0], head[1], head[2], head[3]]) as usize;
        let Some((body, after)) = after.split_at_checked(length + 4) else { break };
        if PIXELS.iter().any(|kind| head[4..] == kind[..]) {
            kept.extend_from_slice(head);
            kept.extend_from_slice(body);
        }
        rest = after;
    }
    Ok(Art::Raster(kept.into(), [width, height]))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn svg(body: &str) -> Result<Art, IconFault> {
        read_own("a.svg", format!("<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" viewBox=\"0 0 48 24\">{body}</svg>").as_bytes())
    }

    #[test]
    fn geometry_and_colours_are_taken() {
        let Ok(Art::Shapes(shapes)) = svg(
            "<g transform='scale(2)' fill='#336699'><rect width='10' height='5'/></g><circle r='2' stroke='currentColor' fill='none'/>",
        ) else {
            panic!("it can be read")
        };
        assert_eq!(shapes.len(), 2);
        assert!(matches!(shapes[0].fill, Some(OwnPaint::Colour(c)) if c.hex() == "#336699"));
        assert!(matches!(shapes[1].stroke, Some((OwnPaint::Accent, _))));
        // A flat picture lies in the middle of its square.
        assert!(matches!(shapes[0].path.0[0], Cmd::Move(p) if p == pt(0.0, 6.0)), "{:?}", shapes[0].path.0[0]);
    }

    #[test]
    fn what_could_run_or_reach_outside_is_refused() {
        for (body, what) in [
            ("<script>alert(1)</script>", "a `script`"),
            ("<rect width='9' height='9' onclick='x()'/>", "the handler `onclick`"),
            ("<foreignObject/>", "a `foreignObject`"),
            ("<image href='data:image/png;base64,AAAA'/>", "a `image`"),
            ("<use xlink:href='other.svg#a'/>", "a reference to `other.svg#a`"),
            (
                "<rect width='9' height='9' fill='url(http://tide.invalid/a#b)'/>",
                "a reference to `url(http://tide.invalid/a#b)`",
            ),
            ("<style>@import 'a.css';</style>", "a `style`"),
            ("<mask id='m'><mask><rect width='9' height='9'/></mask></mask>", "a `mask`"),
            ("<clipPath id='c'><path d='M0 0L9 9'/></clipPath>", "a `clipPath`"),
            ("<defs><marker><path d='M0 0L9 9'/></marker></defs>", "a `marker`"),
        ] {
            assert_eq!(svg(body).err(), Some(IconFault::Unsafe(what.to_owned())), "{body}");
        }
        assert!(matches!(svg("<g>").err(), Some(IconFault::Broken(_))));
        assert!(matches!(svg("").err(), Some(IconFault::Broken(_))));
        assert!(matches!(svg(&" ".repeat(MAX_SVG)).err(), Some(IconFault::TooLarge(_))));
        let deep = format!("{}{}", "<g>".repeat(9_000), "</g>".repeat(9_000));
        assert!(matches!(svg(&deep).err(), Some(IconFault::Broken(_))));
        // Each level holds the one below ten times.
        let level = |i: usize| format!("<g id='l{i}'>{}</g>", format!("<use xlink:href='#l{}'/>", i + 1).repeat(10));
        let bomb: String = (0..20).map(level).collect();
        assert!(matches!(svg(&bomb).err(), Some(IconFault::Broken(_))));
        let many = format!("<path d='M0 0{}'/>", " L1 1 2 2".repeat(MAX_SEGMENTS));
        assert!(matches!(svg(&many).err(), Some(IconFault::Broken(_))));
        assert!(matches!(read_own("a.gif", b"GIF89a").err(), Some(IconFault::Broken(_))));
    }

    #[test]
    fn of_a_png_only_what_makes_pixels_is_kept() {
        let mut bytes = Vec::new();
        let mut encoder = png::Encoder::new(&mut bytes, 4, 2);
        encoder.set_color(png::ColorType::Rgb);
        encoder.add_text_chunk("Comment".to_owned(), "<script>".to_owned()).expect("a chunk");
        encoder.write_header().and_then(|mut w| w.write_image_data(&[7; 24])).expect("pixels");
        let Ok(Art::Raster(kept, sides)) = read_own("a.png", &bytes) else { panic!("it can be read") };
        assert_eq!(sides, [4, 2]);
        let has = |bytes: &[u8], what: &[u8]| bytes.windows(what.len()).any(|w| w == what);
        assert!(has(&bytes, b"<script>") && !has(&kept, b"<script>"));
        assert!(read_own("a.png", &kept).is_ok());
        assert!(matches!(read_own("a.png", &bytes[..bytes.len() - 30]).err(), Some(IconFault::Broken(_))));
        assert!(matches!(read_own("a.png", b"no").err(), Some(IconFault::Broken(_))));
    }
}

//! Reads the pictograms that a project brings, SVG and PNG. Of an SVG only geometry and plain colours are taken, after
//! whatever could reach outside or run has been refused. Of a PNG the chunks that make pixels are kept.

mod fault;
mod png;
mod shapes;
mod style;
mod svg;

pub use fault::IconFault;
pub use png::MAX_PNG;
pub use svg::MAX_SVG;

use super::Art;

/// Reads a file by its name and its bytes.
///
/// # Errors
/// If it is no SVG or PNG, is too large, or holds what could run or reach outside.
pub fn read_own(name: &str, bytes: &[u8]) -> Result<Art, IconFault> {
    let ending = name.rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
    match ending.as_str() {
        "svg" => svg::read_svg(bytes),
        "png" => png::read_png(bytes),
        _ => Err(IconFault::Broken("its name ends in neither .svg nor .png".to_owned())),
    }
}

#[cfg(test)]
mod tests {
    use super::super::OwnPaint;
    use super::svg::MAX_SEGMENTS;
    use super::*;
    use crate::geom::{Cmd, pt};

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
        let with_type = |declared: &str| {
            let text = format!(
                "<!DOCTYPE svg{declared}>\n<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 9 9'><path d='M0 0h9v9z'/></svg>"
            );
            read_own("a.svg", text.as_bytes())
        };
        let svg_1_1 = " PUBLIC '-//W3C//DTD SVG 1.1//EN' 'http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd'";
        assert!(with_type("").is_ok() && with_type(svg_1_1).is_ok(), "many programs write it");
        for declared in [" [<!ENTITY a 'b'>]", &format!("{svg_1_1} [<!ENTITY a SYSTEM 'file:///etc/hosts'>]"), " 'a"] {
            assert!(matches!(with_type(declared).err(), Some(IconFault::Broken(_))), "{declared}");
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
        let mut encoder = ::png::Encoder::new(&mut bytes, 4, 2);
        encoder.set_color(::png::ColorType::Rgb);
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

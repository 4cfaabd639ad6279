//! Letters of fonts that do not ship with the program, in a PDF: each glyph that is used as a small drawing of its own, with the
//! letters that it stands for (ISO 32000-1, 9.6.5: Type 3 fonts), so that a font of many MB need not be cut.

use super::fonts::stands_for;
use super::page::write_image;
use super::{Numbers, deflated};
use crate::letters::{Font, Letters, Run};
use crate::pixels::unpack;
use bathygram_core::geom::{Cmd, Path};
use pdf_writer::types::{SystemInfo, UnicodeCmap};
use pdf_writer::{Content, Dict, Filter, Finish, Name, Pdf, Rect, Ref, Str};
use std::collections::BTreeMap;

/// This many glyphs have room in a font: a code is one byte.
const ROOM: usize = 256;
/// An em has this many units.
const EM: f64 = 1000.0;

/// How codes become letters.
const SYSTEM: SystemInfo<'static> = SystemInfo { registry: Str(b"Adobe"), ordering: Str(b"UCS"), supplement: 0 };

/// The glyphs that pages use, in the order in which they came: their font and number, and the letters that they stand for.
#[derive(Default)]
pub(super) struct UsedSpare {
    glyphs: Vec<(usize, u16, String)>,
    codes: BTreeMap<(usize, u16), usize>,
}

impl UsedSpare {
    /// Takes up a glyph of a run; gives the name of its font and its code there.
    pub(super) fn take(&mut self, run: &Run<'_>, i: usize, font: usize) -> (String, u8) {
        let id = run.glyphs[i].id;
        let at = *self.codes.entry((font, id)).or_insert_with(|| {
            self.glyphs.push((font, id, stands_for(run, i).to_owned()));
            self.glyphs.len() - 1
        });
        (name(at / ROOM), (at % ROOM) as u8)
    }
}

fn name(font: usize) -> String {
    format!("T{font}")
}

/// A font of some glyphs, with the numbers of its objects.
struct Part<'a> {
    glyphs: &'a [(usize, u16, String)],
    font: Ref,
    unicode: Ref,
    drawings: Vec<Ref>,
    /// The images of glyphs that are pictures.
    images: Vec<(usize, Ref)>,
}

/// The fonts, with the numbers of their objects.
pub(super) struct EmbeddedSpare<'a>(Vec<Part<'a>>);

impl<'a> EmbeddedSpare<'a> {
    pub(super) fn new(used: &'a UsedSpare, letters: Letters<'_>, numbers: &mut Numbers) -> Self {
        let parts = used.glyphs.chunks(ROOM).map(|glyphs| {
            let is_image = |(font, id, _): &(usize, u16, String)| image(letters, *font, *id).is_some();
            let (font, unicode) = (numbers.next(), numbers.next());
            let drawings = glyphs.iter().map(|_| numbers.next()).collect();
            let images = (0..glyphs.len()).filter(|i| is_image(&glyphs[*i])).map(|i| (i, numbers.next())).collect();
            Part { glyphs, font, unicode, drawings, images }
        });
        Self(parts.collect())
    }

    /// Names them in the resources of a page.
    pub(super) fn name_in(&self, resources: &mut Dict<'_>) {
        for (i, part) in self.0.iter().enumerate() {
            resources.pair(Name(name(i).as_bytes()), part.font);
        }
    }

    /// Writes them.
    pub(super) fn write(&self, pdf: &mut Pdf, letters: Letters<'_>, numbers: &mut Numbers) {
        for part in &self.0 {
            part.write(pdf, letters);
            for (i, id) in &part.images {
                let (font, glyph, _) = &part.glyphs[*i];
                let pixels = image(letters, *font, *glyph).and_then(|image| unpack(image.png));
                pixels.iter().for_each(|pixels| write_image(pdf, pixels, *id, numbers.next()));
            }
        }
    }
}

fn image<'a>(letters: Letters<'a>, font: usize, glyph: u16) -> Option<bathygram_core::measure::GlyphImage<'a>> {
    letters.face(Font::Spare(font))?.image(glyph)
}

impl Part<'_> {
    fn write(&self, pdf: &mut Pdf, letters: Letters<'_>) {
        let advance = |font: usize, id: u16| letters.face(Font::Spare(font)).map_or(0.0, |face| face.advance(id));
        let widths: Vec<f32> = self.glyphs.iter().map(|(font, id, _)| (advance(*font, *id) * EM) as f32).collect();
        let mut font = pdf.type3_font(self.font);
        // An empty box is computed by the reader.
        font.bbox(Rect::new(0.0, 0.0, 0.0, 0.0)).matrix([0.001, 0.0, 0.0, 0.001, 0.0, 0.0]).to_unicode(self.unicode);
        font.first_char(0).last_char((self.glyphs.len() - 1) as u8).widths(widths.iter().copied());
        let names: Vec<String> = (0..self.glyphs.len()).map(|i| format!("g{i}")).collect();
        let mut drawings = font.char_procs();
        names.iter().zip(&self.drawings).for_each(|(name, id)| {
            drawings.pair(Name(name.as_bytes()), *id);
        });
        drawings.finish();
        font.encoding_custom().differences().consecutive(0, names.iter().map(|name| Name(name.as_bytes())));
        let mut resources = font.resources();
        if !self.images.is_empty() {
            let mut named = resources.x_objects();
            self.images.iter().for_each(|(i, id)| {
                named.pair(Name(format!("I{i}").as_bytes()), *id);
            });
        }
        resources.finish();
        font.finish();
        for (i, ((font, id, _), drawing)) in self.glyphs.iter().zip(&self.drawings).enumerate() {
            let mut content = Content::new();
            match image(letters, *font, *id) {
                Some(image) => {
                    let place = image.place;
                    let [x, lower, w, h] = [place.x, -place.bottom(), place.w, place.h].map(|v| (v * EM) as f32);
                    content.start_color_glyph(widths[i]).save_state().transform([w, 0.0, 0.0, h, x, lower]);
                    content.x_object(Name(format!("I{i}").as_bytes())).restore_state();
                }
                None => {
                    let outline = letters.outline(Font::Spare(*font), *id).unwrap_or_default();
                    let bounds = outline.bounds().unwrap_or_default();
                    let [left, lower, right, upper] =
                        [bounds.x, -bounds.bottom(), bounds.right(), -bounds.y].map(|v| (v * EM) as f32);
                    content.start_shape_glyph(widths[i], left, lower, right, upper);
                    draw(&mut content, &outline);
                }
            }
            pdf.stream(*drawing, &deflated(&content.finish())).filter(Filter::FlateDecode);
        }
        let mut map = UnicodeCmap::<u8>::new(Name(b"Letters"), SYSTEM);
        for (i, (_, _, stands_for)) in self.glyphs.iter().enumerate().filter(|(_, (_, _, letters))| !letters.is_empty())
        {
            map.pair_with_multiple(i as u8, stands_for.chars());
        }
        pdf.cmap(self.unicode, &map.finish());
    }
}

/// An outline, filled; y runs up in a font.
fn draw(content: &mut Content, outline: &Path) {
    let [x, y] = [|v: f64| (v * EM).round() as f32, |v: f64| (-v * EM).round() as f32];
    for cmd in &outline.0 {
        match cmd {
            Cmd::Move(p) => content.move_to(x(p.x), y(p.y)),
            Cmd::Line(p) => content.line_to(x(p.x), y(p.y)),
            Cmd::Curve(a, b, p) => content.cubic_to(x(a.x), y(a.y), x(b.x), y(b.y), x(p.x), y(p.y)),
            Cmd::Close => content.close_path(),
        };
    }
    if !outline.0.is_empty() {
        content.fill_nonzero();
    }
}

//! The fonts of a PDF: pages of those that ship with the program, with the widths and the letters of what is used
//! (ISO 32000-1, 9.7: composite fonts; 9.10.3: to Unicode).

use super::{Numbers, deflated};
use crate::letters::Run;
use bathygram_core::measure::{Face, Fonts};
use pdf_writer::types::{CidFontType, FontFlags, SystemInfo, UnicodeCmap};
use pdf_writer::writers::FontDescriptor;
use pdf_writer::{Dict, Filter, Finish, Name, Pdf, Rect, Ref, Str};
use std::collections::BTreeMap;

/// How codes become glyphs: a code is the number of a glyph.
const SYSTEM: SystemInfo<'static> = SystemInfo { registry: Str(b"Adobe"), ordering: Str(b"Identity"), supplement: 0 };

/// The glyphs that a page uses, of each face, with the letters that they stand for.
#[derive(Default)]
pub(super) struct Used(BTreeMap<Face, BTreeMap<u16, String>>);

impl Used {
    /// Takes up the glyphs of a run; gives the name of its font.
    pub(super) fn take(&mut self, run: &Run<'_>, face: Face) -> String {
        let glyphs = self.0.entry(face).or_default();
        for (i, glyph) in run.glyphs.iter().enumerate() {
            glyphs.entry(glyph.id).or_insert_with(|| stands_for(run, i).to_owned());
        }
        name(face)
    }
}

/// The letters that a glyph of a run stands for: up to the next glyph that stands for others.
pub(super) fn stands_for<'t>(run: &Run<'t>, i: usize) -> &'t str {
    let glyph = &run.glyphs[i];
    let others = run.glyphs.iter().map(|g| g.byte).filter(|byte| *byte > glyph.byte);
    let end = others.min().unwrap_or(run.text.len());
    let is_first = i == 0 || run.glyphs[i - 1].byte != glyph.byte;
    if is_first { &run.text[glyph.byte..end] } else { "" }
}

fn name(face: Face) -> String {
    format!("F{}", face as u8)
}

/// The fonts that a page uses, with the numbers of their objects.
pub(super) struct Embedded<'a>(Vec<(Face, &'a BTreeMap<u16, String>, [Ref; 5])>);

impl<'a> Embedded<'a> {
    pub(super) fn new(used: &'a Used, numbers: &mut Numbers) -> Self {
        let fonts = used.0.iter().map(|(face, glyphs)| (*face, glyphs, std::array::from_fn(|_| numbers.next())));
        Self(fonts.collect())
    }

    /// Names them in the resources of a page.
    pub(super) fn name_in(&self, resources: &mut Dict<'_>) {
        for (face, _, [font, ..]) in &self.0 {
            resources.pair(Name(name(*face).as_bytes()), *font);
        }
    }

    /// Writes them.
    pub(super) fn write(&self, pdf: &mut Pdf, fonts: &Fonts) {
        for (face, glyphs, [font, cid, descriptor, unicode, file]) in &self.0 {
            // Six letters before the name say that it is a part of a font (9.9.2); no two faces share them.
            let base = format!("BATHY{}+{}", char::from(b'A' + *face as u8), face.postscript_name());
            let base = Name(base.as_bytes());
            pdf.type0_font(*font)
                .base_font(base)
                .encoding_predefined(Name(b"Identity-H"))
                .descendant_font(*cid)
                .to_unicode(*unicode);
            let mut composite = pdf.cid_font(*cid);
            composite.subtype(CidFontType::Type2).base_font(base).system_info(SYSTEM).font_descriptor(*descriptor);
            composite.default_width(0.0).cid_to_gid_map_predefined(Name(b"Identity"));
            let mut widths = composite.widths();
            for glyph in glyphs.keys() {
                widths.consecutive(*glyph, [(fonts.advance(*face, *glyph) * 1000.0) as f32]);
            }
            widths.finish();
            composite.finish();
            describe(&mut pdf.font_descriptor(*descriptor), *face, fonts, base, *file);
            let mut map = UnicodeCmap::<u16>::new(Name(b"Letters"), SYSTEM);
            for (glyph, letters) in glyphs.iter().filter(|(_, letters)| !letters.is_empty()) {
                map.pair_with_multiple(*glyph, letters.chars());
            }
            pdf.cmap(*unicode, &map.finish());
            let bytes = fonts.file(*face);
            pdf.stream(*file, &deflated(bytes)).filter(Filter::FlateDecode).pair(Name(b"Length1"), bytes.len() as i32);
        }
    }
}

fn describe(descriptor: &mut FontDescriptor<'_>, face: Face, fonts: &Fonts, base: Name<'_>, file: Ref) {
    let metrics = fonts.metrics(face);
    let thousandths = |em: f64| (em * 1000.0) as f32;
    let mut flags = FontFlags::SYMBOLIC;
    flags.set(FontFlags::ITALIC, face.is_italic());
    flags.set(FontFlags::FIXED_PITCH, face == Face::Mono);
    let [left, bottom, right, top] = metrics.bounds.map(thousandths);
    descriptor
        .name(base)
        .flags(flags)
        .bbox(Rect::new(left, bottom, right, top))
        .italic_angle(metrics.italic_angle as f32)
        .ascent(thousandths(metrics.ascent))
        .descent(thousandths(metrics.descent))
        .cap_height(thousandths(metrics.cap_height))
        .stem_v(f32::from(face.weight()) / 5.0)
        .font_file2(file);
}

//! Drawings in every form, with fonts for all of their letters.

use crate::outcome::{Failure, Result};
use bathygram_core::container;
use bathygram_core::diag::Diagnostic;
use bathygram_core::measure::{Cluster, Fonts, SpareFonts};
use bathygram_core::pipeline::{Reading, Studio, unshipped_letters, weigh_missing};
use bathygram_core::scene::Drawing;
use bathygram_core::svg;
use bathygram_host::{Format, Project, fonts_for};
use bathygram_outputs::{Sheet, Tools, geometry, graphml, interactive, outlines, pdf, png};
use std::collections::BTreeSet;

/// How forms are made.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Finish {
    /// How large a PNG is.
    pub(crate) scale: png::Scale,
    /// What is below a PNG.
    pub(crate) below: png::Below,
    /// How large the pages of a PDF are.
    pub(crate) page: pdf::PageSize,
    /// What the letters of an SVG are.
    pub(crate) text: TextForm,
}

impl Default for Finish {
    fn default() -> Self {
        Self {
            scale: png::Scale::Factor(2.0),
            below: png::Below::Paper,
            page: pdf::PageSize::Fitted,
            text: TextForm::Embed,
        }
    }
}

/// What the letters of an SVG are.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub(crate) enum TextForm {
    /// Text, with its fonts in the picture
    #[default]
    Embed,
    /// Shapes: the same everywhere, but nothing to search or copy
    Outlines,
    /// Text in the fonts of whoever looks at it
    Plain,
}

/// Where a picture comes from, and what it carries.
#[derive(Clone, Copy)]
pub(crate) struct From<'a> {
    pub(crate) provenance: container::Provenance<'a>,
    /// The pictures that it leads to, by name, and those that these lead to.
    pub(crate) inside: &'a [(String, Drawing)],
}

/// The fonts for what the shipped ones lack.
///
/// # Errors
/// If a font that the project names cannot be read.
pub(crate) fn spare_fonts(project: &Project, drawings: &[&Drawing], fonts: &Fonts) -> Result<SpareFonts> {
    let lacking: BTreeSet<Cluster> = drawings.iter().flat_map(|d| d.scene.lacking(fonts)).collect();
    Ok(fonts_for(project, &lacking)?.fonts)
}

/// A drawing as PNG, with texts that it carries.
///
/// # Errors
/// If it would be too large.
pub(crate) fn png(
    project: &Project, studio: &Studio, drawing: &Drawing, (scale, below): (png::Scale, png::Below),
    texts: &[(&str, &str)],
) -> Result<Vec<u8>> {
    let spare = &spare_fonts(project, &[drawing], &studio.fonts)?;
    let tools = Tools { theme: &studio.themes.main, fonts: &studio.fonts, spare };
    Ok(png::write(drawing, tools, (scale, below), texts)?)
}

/// A drawing in a form.
///
/// # Errors
/// If it cannot be brought into that form.
pub(crate) fn into(
    format: Format, project: &Project, studio: &Studio, drawing: &Drawing, from: From<'_>, finish: Finish,
) -> Result<Vec<u8>> {
    match format {
        Format::Svg => svg(project, studio, drawing, from.provenance, finish.text),
        Format::Png => {
            let (digest, seal) = (container::digest(&from.provenance), container::open_seal());
            let texts = container::png_texts(&digest, from.provenance.source, &seal);
            png(project, studio, drawing, (finish.scale, finish.below), &texts)
        }
        Format::Json => Ok(geometry::write(drawing, &studio.fonts, &from.provenance)?.into_bytes()),
        Format::Graphml => Ok(graphml::write(drawing, &studio.fonts, &from.provenance).into_bytes()),
        Format::Html => {
            let sheet = Sheet { name: from.provenance.name, drawing };
            let others = from.inside.iter().map(|(name, drawing)| Sheet { name, drawing });
            let sheets: Vec<Sheet<'_>> = std::iter::once(sheet).chain(others).collect();
            Ok(interactive::write(&sheets, studio, &from.provenance).into_bytes())
        }
        Format::Pdf => {
            let sheet = Sheet { name: from.provenance.name, drawing };
            let digest = container::digest(&from.provenance);
            pdf(project, studio, &[sheet], (&[(from.provenance.file, from.provenance.source)], &digest), finish.page)
        }
    }
}

fn svg(
    project: &Project, studio: &Studio, drawing: &Drawing, provenance: container::Provenance<'_>, text: TextForm,
) -> Result<Vec<u8>> {
    let written = match text {
        TextForm::Embed => studio.svg(drawing, &provenance),
        TextForm::Plain => svg::write(drawing, studio, svg::Place::Plain(&provenance)),
        TextForm::Outlines => {
            let spare = &spare_fonts(project, &[drawing], &studio.fonts)?;
            let tools = Tools { theme: &studio.themes.main, fonts: &studio.fonts, spare };
            svg::write(&outlines::outlined(drawing, tools), studio, svg::Place::Plain(&provenance))
        }
    };
    Ok(written.into_bytes())
}

/// Drawings as the pages of a PDF. `carried` are the names of its sources with their texts, and the digest.
///
/// # Errors
/// If a drawing is too large for a page.
pub(crate) fn pdf(
    project: &Project, studio: &Studio, sheets: &[Sheet<'_>], carried: (&[(&str, &str)], &str), page: pdf::PageSize,
) -> Result<Vec<u8>> {
    let drawings: Vec<&Drawing> = sheets.iter().map(|sheet| sheet.drawing).collect();
    let spare = &spare_fonts(project, &drawings, &studio.fonts)?;
    let tools = Tools { theme: &studio.themes.main, fonts: &studio.fonts, spare };
    let about = pdf::About { sources: carried.0, digest: carried.1, language: studio.language.tag() };
    Ok(pdf::write(sheets, tools, &about, page)?)
}

/// Whether letters that a form lacks are boxes in it.
pub(crate) fn shows_boxes(format: Format) -> bool {
    matches!(format, Format::Png | Format::Pdf)
}

/// For each text the findings about letters that no font here has. Fonts are searched once for all of them.
///
/// # Errors
/// If a font that the project names cannot be read.
pub(crate) fn missing_letters<'r>(
    project: &Project, readings: impl IntoIterator<Item = &'r Reading>,
) -> Result<Vec<Vec<Diagnostic>>> {
    let fonts = Fonts::new();
    let unshipped: Vec<(&Reading, _)> = readings.into_iter().map(|r| (r, unshipped_letters(r, &fonts))).collect();
    let wanted = unshipped.iter().flat_map(|(_, letters)| letters.keys());
    let wanted = wanted.map(|text| Cluster { text: text.clone(), is_bold: false }).collect();
    let missing = fonts_for(project, &wanted).map_err(Failure::from)?.missing;
    let findings = unshipped.into_iter().map(|(reading, mut letters)| {
        letters.retain(|letter, _| missing.contains(letter));
        weigh_missing(reading, &letters)
    });
    Ok(findings.collect())
}

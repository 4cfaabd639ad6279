//! PDF, from drawings (ISO 32000-1): a page for each, text as text, links where an element leads to another picture, bookmarks,
//! and a description of every picture for those who cannot see it. The sources are attached as files; digest and seal stand in
//! a comment behind the end.

mod fonts;
mod page;
mod spare;

use crate::paint;
use crate::{Sheet, Tools, letters::Letters};
use bathygram_core::container;
use bathygram_core::geom::{Rect as Place, Size};
use bathygram_core::measure::Fonts;
use bathygram_core::scene::{Item, Scene};
use fonts::Embedded;
use page::Page;
use pdf_writer::types::{ActionType, AnnotationType, AssociationKind, StructRole};
use pdf_writer::writers::Catalog;
use pdf_writer::{Filter, Finish, Name, Pdf, Rect, Ref, Str, TextStr};
use spare::EmbeddedSpare;
use std::collections::{BTreeMap, BTreeSet};

/// A px is this many points.
// 96 px and 72 points are an inch each.
const POINTS: f64 = 0.75;
/// A side of a page has at most this many points (ISO 32000-1, annex C).
const LARGEST: f64 = 14_400.0;
/// White at the edges of a sheet of paper, in points: 10 mm.
const MARGIN: f64 = 28.35;

/// Why there is no PDF.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// No page has that size.
    #[error("no page is {width} × {height} points; the largest side is {LARGEST}")]
    Size {
        /// Its width.
        width: u64,
        /// Its height.
        height: u64,
    },
}

/// What a PDF carries.
#[derive(Clone, Copy, Debug)]
pub struct About<'a> {
    /// The names of its source files, with what they say; the first is the main one.
    pub sources: &'a [(&'a str, &'a str)],
    /// The digest of what it was drawn from.
    pub digest: &'a str,
    /// The language of its words (BCP 47).
    pub language: &'a str,
}

/// How large pages are.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum PageSize {
    /// As large as the picture.
    #[default]
    Fitted,
    /// ISO 216 A4.
    A4,
    /// ISO 216 A3.
    A3,
    /// 8.5 by 11 inches.
    Letter,
}

impl PageSize {
    /// All of them, with their names.
    pub const ALL: [(&'static str, PageSize); 4] =
        [("fitted", PageSize::Fitted), ("a4", PageSize::A4), ("a3", PageSize::A3), ("letter", PageSize::Letter)];

    /// The sides of its paper in points, upright.
    fn sides(self) -> Option<(f64, f64)> {
        match self {
            PageSize::Fitted => None,
            PageSize::A4 => Some((595.28, 841.89)),
            PageSize::A3 => Some((841.89, 1190.55)),
            PageSize::Letter => Some((612.0, 792.0)),
        }
    }

    /// The page for a picture of this many px: on paper it lies or stands as the picture does, which is shrunk if it must be.
    fn frame(self, picture: Size) -> Frame {
        let (w, h) = (picture.w * POINTS, picture.h * POINTS);
        let Some((short, long)) = self.sides() else {
            return Frame { width: w, height: h, scale: POINTS, left: 0.0, top: 0.0 };
        };
        let (width, height) = if w > h { (long, short) } else { (short, long) };
        let shrunk = ((width - 2.0 * MARGIN) / w).min((height - 2.0 * MARGIN) / h).min(1.0);
        let (left, top) = ((width - w * shrunk) / 2.0, (height - h * shrunk) / 2.0);
        Frame { width, height, scale: POINTS * shrunk, left, top }
    }
}

/// Where a picture is on its page, in points; y runs down from the upper edge.
#[derive(Clone, Copy)]
struct Frame {
    width: f64,
    height: f64,
    /// Points for each px.
    scale: f64,
    left: f64,
    top: f64,
}

impl Frame {
    /// A rectangle of the picture, as PDF counts: from the lower edge.
    fn rect(&self, place: Place) -> Rect {
        let x = |x: f64| (self.left + x * self.scale) as f32;
        let y = |y: f64| (self.height - self.top - y * self.scale) as f32;
        Rect::new(x(place.x), y(place.bottom()), x(place.right()), y(place.y))
    }
}

/// Gives out numbers of objects.
struct Numbers(i32);

impl Numbers {
    fn next(&mut self) -> Ref {
        self.0 += 1;
        Ref::new(self.0)
    }
}

/// The numbers of the objects of a page.
struct PageNumbers {
    page: Ref,
    contents: Ref,
    bookmark: Ref,
    figure: Ref,
    links: Vec<Ref>,
}

/// Draws pictures, each on a page.
///
/// # Errors
/// If a picture has a size that no page can have.
pub fn write(sheets: &[Sheet<'_>], tools: Tools<'_>, about: &About<'_>, size: PageSize) -> Result<Vec<u8>, Error> {
    let frames: Vec<Frame> = sheets.iter().map(|sheet| size.frame(sheet.drawing.scene.size)).collect();
    let is_page = |side: f64| (1.0..=LARGEST).contains(&side);
    if let Some(wrong) = frames.iter().find(|frame| !is_page(frame.width) || !is_page(frame.height)) {
        return Err(Error::Size { width: wrong.width as u64, height: wrong.height as u64 });
    }
    let mut numbers = Numbers(0);
    let [catalog, pages, info, outline, tree, document] = std::array::from_fn(|_| numbers.next());
    let files: Vec<[Ref; 2]> = about.sources.iter().map(|_| [numbers.next(), numbers.next()]).collect();
    // Of each font the part that holds the letters.
    let mut used_letters = BTreeMap::new();
    for sheet in sheets {
        for (face, letters) in sheet.drawing.scene.letters() {
            // The sans stands in for what another face lacks.
            for face in [face, face.sans()] {
                used_letters.entry(face).or_insert_with(BTreeSet::new).extend(letters.iter().copied());
            }
        }
    }
    let fonts = &Fonts::holding(&used_letters);
    let spare = &tools.spare.open();
    let letters = Letters { fonts, spare };
    // 1. Strokes, and which letters of which fonts they use.
    let mut page = Page::new(tools.theme, letters);
    let mut contents = Vec::new();
    for (sheet, frame) in sheets.iter().zip(&frames) {
        page.begin(&sheet.drawing.scene, frame);
        paint::items(&mut page, &sheet.drawing.scene.items);
        contents.push(page.end());
    }
    let links: Vec<Vec<(Place, &str)>> = sheets.iter().map(|sheet| links(&sheet.drawing.scene)).collect();
    let own: Vec<PageNumbers> = links
        .iter()
        .map(|links| PageNumbers {
            page: numbers.next(),
            contents: numbers.next(),
            bookmark: numbers.next(),
            figure: numbers.next(),
            links: links.iter().map(|_| numbers.next()).collect(),
        })
        .collect();
    let embedded = Embedded::new(&page.used, &mut numbers);
    let embedded_spare = EmbeddedSpare::new(&page.spare, letters, &mut numbers);
    let images: Vec<Ref> = page.images.iter().map(|_| numbers.next()).collect();
    // 2. The document.
    let mut pdf = Pdf::new();
    pdf.set_version(1, 7);
    let mut root = pdf.catalog(catalog);
    root.pages(pages).lang(TextStr(about.language)).viewer_preferences().display_doc_title(true);
    root.mark_info().marked(true);
    root.pair(Name(b"StructTreeRoot"), tree);
    if sheets.len() > 1 {
        root.outlines(outline);
    }
    attached_in(&mut root, about.sources, &files);
    root.finish();
    pdf.pages(pages).kids(own.iter().map(|page| page.page)).count(own.len() as i32);
    // 3. The pages.
    let bookmarked = own.iter().map(|own| own.bookmark).collect::<Vec<_>>();
    for (i, ((sheet, frame), own_numbers)) in sheets.iter().zip(&frames).zip(&own).enumerate() {
        let mut written = pdf.page(own_numbers.page);
        written.parent(pages).contents(own_numbers.contents).struct_parents(i as i32);
        written.media_box(Rect::new(0.0, 0.0, frame.width as f32, frame.height as f32));
        if !own_numbers.links.is_empty() {
            written.annotations(own_numbers.links.iter().copied());
        }
        let mut resources = written.resources();
        let mut named = resources.fonts();
        embedded.name_in(&mut named);
        embedded_spare.name_in(&mut named);
        named.finish();
        if !images.is_empty() {
            let mut named = resources.x_objects();
            for (i, id) in images.iter().enumerate() {
                named.pair(Name(format!("I{i}").as_bytes()), *id);
            }
        }
        resources.finish();
        written.finish();
        pdf.stream(own_numbers.contents, &deflated(&contents[i])).filter(Filter::FlateDecode);
        for ((place, target), id) in links[i].iter().zip(&own_numbers.links) {
            let there = sheets.iter().position(|sheet| sheet.name == *target).map(|i| own[i].page);
            write_link(&mut pdf, *id, frame.rect(*place), target, there);
        }
        let mut bookmark = pdf.outline_item(own_numbers.bookmark);
        bookmark.parent(outline).title(TextStr(sheet.title())).dest().page(own_numbers.page).fit();
        if i > 0 {
            bookmark.prev(bookmarked[i - 1]);
        }
        if let Some(next) = bookmarked.get(i + 1) {
            bookmark.next(*next);
        }
        bookmark.finish();
        // What the picture shows, for those who cannot see it.
        let scene = &sheet.drawing.scene;
        let words = [scene.title.as_str(), scene.desc.as_str()].join(". ");
        let mut figure = pdf.struct_element(own_numbers.figure);
        figure.kind(StructRole::Figure).parent(document).page(own_numbers.page).title(TextStr(sheet.title()));
        figure.alt(TextStr(&words)).children().marked_content_id(0);
        figure.finish();
    }
    if let (Some(first), Some(last)) = (bookmarked.first(), bookmarked.last()) {
        pdf.outline(outline).first(*first).last(*last).count(bookmarked.len() as i32);
    }
    write_structure(&mut pdf, (tree, document), about.language, &own.iter().map(|own| own.figure).collect::<Vec<_>>());
    // 4. Fonts and images.
    embedded.write(&mut pdf, fonts);
    embedded_spare.write(&mut pdf, letters, &mut numbers);
    for (image, id) in page.images.iter().zip(images) {
        page::write_image(&mut pdf, image, id, numbers.next());
    }
    // 5. The sources, and what they are.
    for (i, [file, spec]) in files.iter().enumerate() {
        attach(&mut pdf, (*file, *spec), attached_name(about.sources, i), about.sources[i].1);
    }
    let producer = format!("bathygram {}", env!("CARGO_PKG_VERSION"));
    let whole_title = sheets.first().map_or("", |sheet| sheet.title());
    pdf.document_info(info).title(TextStr(whole_title)).producer(TextStr(&producer));
    let main = about.sources.first().map_or("", |(file, _)| file);
    Ok(container::seal_pdf(pdf.finish(), about.digest, main))
}

/// Names the attached files.
fn attached_in(root: &mut Catalog<'_>, sources: &[(&str, &str)], files: &[[Ref; 2]]) {
    let mut named: Vec<(&str, Ref)> =
        files.iter().enumerate().map(|(i, f)| (attached_name(sources, i), f[1])).collect();
    // A tree of names stands in their order.
    named.sort_by_key(|(name, _)| *name);
    {
        let mut names = root.names();
        let mut tree = names.embedded_files();
        let mut attached = tree.names();
        named.iter().for_each(|(name, spec)| {
            attached.insert(Str(name.as_bytes()), *spec);
        });
    }
    let mut associated = root.insert(Name(b"AF")).array();
    files.iter().for_each(|[_, spec]| {
        associated.item(*spec);
    });
}

/// A link to another page of the document, or to the picture beside it.
fn write_link(pdf: &mut Pdf, id: Ref, place: Rect, target: &str, there: Option<Ref>) {
    let mut link = pdf.annotation(id);
    link.subtype(AnnotationType::Link).rect(place).border(0.0, 0.0, 0.0, None).contents(TextStr(target));
    let mut action = link.action();
    match there {
        Some(page) => action.action_type(ActionType::GoTo).destination().page(page).fit(),
        None => {
            let file = format!("{}.pdf", bathygram_core::markup::as_link(target));
            action.action_type(ActionType::Uri).uri(Str(file.as_bytes()));
        }
    }
}

/// How the document is made up, for those who cannot see it: one figure on each page.
fn write_structure(pdf: &mut Pdf, (tree, document): (Ref, Ref), language: &str, figures: &[Ref]) {
    let mut whole = pdf.struct_element(document);
    whole.kind(StructRole::Document).parent(tree).lang(TextStr(language));
    let mut children = whole.children();
    figures.iter().for_each(|figure| {
        children.struct_element(*figure);
    });
    children.finish();
    whole.finish();
    let mut structure = pdf.indirect(tree).dict();
    structure.pair(Name(b"Type"), Name(b"StructTreeRoot"));
    structure.insert(Name(b"K")).array().item(document);
    let mut parents = structure.insert(Name(b"ParentTree")).dict();
    let mut by_page = parents.insert(Name(b"Nums")).array();
    for (i, figure) in figures.iter().enumerate() {
        by_page.item(i as i32);
        by_page.push().array().item(*figure);
    }
    by_page.finish();
    parents.finish();
    structure.pair(Name(b"ParentTreeNextKey"), figures.len() as i32);
}

/// The elements that lead to other pictures: where they are, and the names of those.
fn links(scene: &Scene) -> Vec<(Place, &str)> {
    let mut found = Vec::new();
    let mut work: Vec<&Item> = scene.items.iter().rev().collect();
    while let Some(item) = work.pop() {
        let Item::Group(tag, inner) = item else { continue };
        if let Some(target) = tag.opens() {
            let bounds =
                inner.iter().filter_map(|item| if let Item::Path { path, .. } = item { path.bounds() } else { None });
            found.extend(bounds.reduce(Place::union).map(|place| (place, target)));
        }
        work.extend(inner.iter().rev());
    }
    found
}

/// The name of an attached file: the last part of its path, or all of it where two would have the same.
fn attached_name<'a>(sources: &[(&'a str, &str)], i: usize) -> &'a str {
    let last = |file: &'a str| file.rsplit('/').next().unwrap_or(file);
    let own = last(sources[i].0);
    let is_single = sources.iter().filter(|(file, _)| file.rsplit('/').next() == Some(own)).count() == 1;
    if is_single { own } else { sources[i].0 }
}

/// A source as an attached file (ISO 32000-1, 7.11.4).
fn attach(pdf: &mut Pdf, (file, spec): (Ref, Ref), name: &str, source: &str) {
    let packed = deflated(source.as_bytes());
    let mut embedded = pdf.embedded_file(file, &packed);
    embedded.subtype(Name(b"text/plain")).filter(Filter::FlateDecode);
    embedded.params().size(source.len() as i32);
    embedded.finish();
    let mut described = pdf.file_spec(spec);
    described.path(Str(name.as_bytes())).unic_file(TextStr(name)).embedded_file(file);
    described.description(TextStr("The text that this picture was drawn from"));
    described.association_kind(AssociationKind::Source);
}

/// Bytes, compressed (zlib, RFC 1950).
fn deflated(bytes: &[u8]) -> Vec<u8> {
    miniz_oxide::deflate::compress_to_vec_zlib(bytes, 6)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bathygram_core::measure::SpareFonts;
    use bathygram_core::pipeline::{DrawOptions, Setting, Studio, draw, read};
    use bathygram_core::source::Source;

    fn pdf(source: &str) -> Vec<u8> {
        let reading = read(Source::new("docs/f.bathy", source), "f", &Setting::default());
        let studio = Studio::new();
        let view = reading.pictures().next().expect("a picture").view();
        let drawing = draw(&studio, &reading, &view, &DrawOptions::default());
        let about = About { sources: &[("docs/f.bathy", source)], digest: "sha256:00", language: "en" };
        let (theme, fonts, spare) = (&studio.themes.main, &studio.fonts, &SpareFonts::default());
        let sheets = [Sheet { name: "f", drawing: &drawing }];
        write(&sheets, Tools { theme, fonts, spare }, &about, PageSize::Fitted).expect("drawn")
    }

    #[test]
    fn the_source_is_attached_and_the_bytes_are_the_same_each_time() {
        let source = "flow f\r\n  \"Grüße\"\n";
        let bytes = pdf(source);
        assert!(bytes.starts_with(b"%PDF-1.7"));
        assert_eq!(pdf(source), bytes);
        assert_eq!(container::source(&bytes).as_deref(), Some(source));
        assert_eq!(container::file(&bytes).as_deref(), Some("docs/f.bathy"));
        let carried = container::read(&bytes).expect("ours");
        assert!(carried.is_intact && carried.digest == "sha256:00");
        let mut edited = bytes.clone();
        edited[20] ^= 1;
        assert!(container::read(&edited).is_some_and(|c| !c.is_intact));
        for end in (0..bytes.len()).step_by(7) {
            container::read(&bytes[..end]);
            container::source(&bytes[..end]);
        }
    }
}

//! All files of a site, and what each is made from.

use crate::book::{Book, Entry};
use crate::links::{Links, Loose, copied};
use crate::pages::{self, Desk};
use crate::templates::{PICTURE, POLICY, STYLE};
use crate::{Input, search};
use bathygram_core::container::{self, Provenance};
use bathygram_core::jobs::{Jobs, map};
use bathygram_core::pipeline::{self, DrawOptions, Picture, Reading, Studio};
use bathygram_core::scene::Places;
use bathygram_core::svg;
use bathygram_outputs::interactive::{self, hash};
use sha2::{Digest, Sha256};
use std::collections::{BTreeMap, BTreeSet};

/// Counts up when the same inputs come to another site.
const FORM: u32 = 1;

/// The style of all pages.
const SITE_STYLE: &str = include_str!("../assets/site.css");
/// What all pages do: search.
const SITE_SCRIPT: &str = include_str!("../assets/site.js");
/// The search: `minisearch` from npm, bundled by `cargo xtask page`, with its licence in its first lines.
const SEARCH: &str = include_str!("../assets/minisearch.js");

/// Some files of the site that are made together.
pub struct Unit<'b> {
    /// Their paths in the site, with `/`.
    pub files: Vec<String>,
    /// A digest of all that they are made from: what has the same comes to the same bytes.
    pub inputs: String,
    work: Work<'b>,
}

enum Work<'b> {
    /// The bytes of the only file.
    Ready(Vec<u8>),
    /// A page with marks where its drawing goes, and the file of the picture where it has one.
    Drawn {
        html: String,
        reading: &'b Reading,
        picture: Picture<'b>,
        addresses: BTreeMap<String, String>,
        has_file: bool,
    },
}

/// A whole site.
pub struct Plan<'b> {
    /// Its files.
    pub units: Vec<Unit<'b>>,
    /// Images of the project that documents show: their files, and where they go in the site.
    pub copies: BTreeMap<String, String>,
    /// Links of documents that lead nowhere.
    pub loose: Vec<Loose>,
}

/// Plans a site, and hands it to `act`. Nothing is drawn yet.
pub fn plan<T>(input: &Input<'_>, jobs: &dyn Jobs, act: impl FnOnce(&Plan<'_>) -> T) -> T {
    let book = Book::of(input);
    act(&planned(&book, input, jobs))
}

fn planned<'b>(book: &'b Book<'_>, input: &'b Input<'_>, jobs: &dyn Jobs) -> Plan<'b> {
    let desk = Desk { book, input };
    let program = format!("{FORM} {} {}", env!("CARGO_PKG_VERSION"), interactive::colours(input.studio));
    let mut units = Vec::new();
    // 1. Documents, which say what they show.
    let links = Links::of(book, input);
    let documents = map(jobs, book.documents.len(), &|i| {
        let mut own = links.document(i);
        let html = pages::document(desk, i, &mut own);
        (html, own.loose, own.copies, own.uses)
    });
    let (mut copies, mut loose) = (BTreeSet::new(), Vec::new());
    let mut shown_in: Vec<BTreeSet<usize>> = vec![BTreeSet::new(); book.entries.len()];
    for (i, (html, own_loose, own_copies, uses)) in documents.into_iter().enumerate() {
        units.push(Unit::ready(&book.documents[i].page, html));
        loose.extend(own_loose);
        copies.extend(own_copies);
        uses.into_iter().for_each(|entry| _ = shown_in[entry].insert(i));
    }
    // 2. Pictures and their pages.
    units.extend(map(jobs, book.entries.len(), &|i| {
        let entry = &book.entries[i];
        let html = pages::diagram(desk, i, &shown_in[i]);
        let files = vec![entry.page.clone(), entry.file.clone()];
        Unit::drawn(&program, files, (html, entry.reading, entry.picture), book.addresses(entry))
    }));
    for entry in &book.entries {
        units.extend(versions(desk, entry));
    }
    // 3. Elements: those with something inside are drawn.
    for (number, model) in book.models.iter().enumerate() {
        let ties = pages::Ties::of(model);
        let pictures: BTreeMap<_, Picture<'b>> = model
            .levels
            .iter()
            .zip(Picture::of_stack(model.diagram, &model.levels))
            .filter_map(|(level, picture)| Some((level.inside?, picture)))
            .collect();
        units.extend(map(jobs, model.pages.len(), &|i| {
            let id = bathygram_core::model::ElementId(i as u32);
            let page = &model.pages[i];
            let html = pages::element(desk, number, &ties, id);
            match pictures.get(&id) {
                None => Unit::ready(page, html),
                Some(picture) => {
                    let addresses = book.model_addresses(model, model.diagram, page);
                    Unit::drawn(&program, vec![page.clone()], (html, model.reading, *picture), addresses)
                }
            }
        }));
    }
    // 4. What leads to them, and what they share.
    units.push(Unit::ready("index.html", pages::front(desk)));
    units.push(Unit::ready("kinds.html", pages::kinds(desk)));
    units.push(Unit::ready("elements.html", pages::elements(desk)));
    units.push(Unit::ready(search::INDEX, search::index(book, input)));
    units.push(Unit::ready("assets/site.css", interactive::colours(input.studio) + interactive::PARTS + SITE_STYLE));
    units.push(Unit::ready("assets/site.js", SITE_SCRIPT.to_owned()));
    units.push(Unit::ready("assets/search.js", SEARCH.to_owned()));
    units.push(Unit::ready("assets/viewer.js", format!("{}\n{}", interactive::PAN_AND_ZOOM, interactive::SCRIPT)));
    units.push(Unit::ready("assets/fonts.css", svg::font_faces(&letters(input), input.studio)));
    loose.sort();
    loose.dedup();
    let copies = copies.into_iter().map(|file| (file.clone(), copied(&file))).collect();
    Plan { units, copies, loose }
}

/// The letters beyond ASCII that any page may show.
fn letters(input: &Input<'_>) -> BTreeSet<char> {
    let sources = input.readings.iter().map(|reading| reading.source.text.as_str());
    let texts = sources.chain(input.documents.iter().map(|(_, text)| *text));
    let mut letters: BTreeSet<char> = texts.flat_map(str::chars).filter(|c| !c.is_ascii()).collect();
    // Those of the program's own words.
    letters.extend(['\u{2013}', '\u{203a}', '\u{2039}', '\u{2212}', 'é', 'ñ', 'ü']);
    letters
}

/// The pictures of a picture's versions.
fn versions<'b>(desk: Desk<'b, 'b>, entry: &Entry<'_>) -> Vec<Unit<'b>> {
    let all = pages::numbered(desk, entry);
    let drawn = all
        .into_iter()
        .filter_map(|(number, version)| Some(Unit::ready(&pages::version_file(entry, number), version.svg.clone()?)));
    drawn.collect()
}

impl<'b> Unit<'b> {
    pub(crate) fn ready(file: &str, text: String) -> Self {
        Self { files: vec![file.to_owned()], inputs: digest([text.as_str()]), work: Work::Ready(text.into_bytes()) }
    }

    fn drawn(
        program: &str, files: Vec<String>, (html, reading, picture): (String, &'b Reading, Picture<'b>),
        addresses: BTreeMap<String, String>,
    ) -> Self {
        let picture_digest = container::digest(&reading.provenance(picture.name));
        let links: String = addresses.iter().map(|(key, address)| format!("{key}\u{1}{address}\u{1}")).collect();
        let inputs = digest([program, &html, &picture_digest, &links]);
        let has_file = files.len() > 1;
        Self { files, inputs, work: Work::Drawn { html, reading, picture, addresses, has_file } }
    }

    /// The path and the text of the page, without its drawing; `None` if it is no page.
    pub(crate) fn page(&self) -> Option<(&str, &str)> {
        let path = self.files.first().filter(|file| file.ends_with(".html"))?;
        let html = match &self.work {
            Work::Ready(bytes) => std::str::from_utf8(bytes).ok()?,
            Work::Drawn { html, .. } => html,
        };
        Some((path, html))
    }

    /// Where its drawing leads to.
    pub(crate) fn addresses(&self) -> impl Iterator<Item = &str> {
        let addresses = match &self.work {
            Work::Ready(_) => None,
            Work::Drawn { addresses, .. } => Some(addresses.values().map(String::as_str)),
        };
        addresses.into_iter().flatten()
    }

    /// The picture that it draws into a file of its own: its source and its name.
    pub fn picture(&self) -> Option<(&'b Reading, &'b str)> {
        match &self.work {
            Work::Drawn { reading, picture, has_file: true, .. } => Some((*reading, picture.name)),
            _ => None,
        }
    }

    /// The bytes of its files, in their order. `earlier` is where an earlier picture has its elements, with its digest.
    pub fn write(&self, studio: &Studio, earlier: Option<(&Places, &str)>) -> Vec<Vec<u8>> {
        let (html, reading, picture, addresses, has_file) = match &self.work {
            Work::Ready(bytes) => return vec![bytes.clone()],
            Work::Drawn { html, reading, picture, addresses, has_file } => {
                (html, *reading, picture, addresses, *has_file)
            }
        };
        let options = DrawOptions {
            earlier: earlier.map(|(places, _)| places),
            share: picture.share(),
            ..DrawOptions::default()
        };
        let drawing = pipeline::draw(studio, reading, &picture.view(), &options);
        let dark = svg::dark_colours(&drawing, studio);
        let (style, policy) = match dark.is_empty() {
            true => (String::new(), pages::POLICY.to_owned()),
            false => {
                let allowed = format!("style-src 'self' '{}'", hash(&dark));
                (format!("<style>{dark}</style>\n"), pages::POLICY.replace("style-src 'self'", &allowed))
            }
        };
        let shown = svg::write(&drawing, studio, svg::Place::Site(addresses));
        let mut files = vec![filled(html, &[(POLICY, &policy), (STYLE, &style), (PICTURE, &shown)]).into_bytes()];
        if has_file {
            let provenance =
                Provenance { earlier: earlier.map(|(_, digest)| digest), ..reading.provenance(picture.name) };
            files.push(studio.svg(&drawing, &provenance).into_bytes());
        }
        files
    }
}

/// A page with what goes to its marks, each once.
fn filled(html: &str, marks: &[(&str, &str)]) -> String {
    let mut out = String::with_capacity(html.len() + marks.iter().map(|(_, text)| text.len()).sum::<usize>());
    let mut rest = html;
    for (mark, text) in marks {
        // What is filled in is not looked at again.
        let Some((before, behind)) = rest.split_once(mark) else { continue };
        out.push_str(before);
        out.push_str(text);
        rest = behind;
    }
    out + rest
}

fn digest<'t>(parts: impl IntoIterator<Item = &'t str>) -> String {
    let mut hash = Sha256::new();
    for part in parts {
        hash.update((part.len() as u64).to_le_bytes());
        hash.update(part.as_bytes());
    }
    hash.finalize().iter().map(|byte| format!("{byte:02x}")).collect()
}

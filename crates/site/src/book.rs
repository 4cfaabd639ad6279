//! What a site is about: the pictures, models and documents of a project, each with its address, and what refers to what.

use crate::Input;
use crate::address::{Names, anchors};
use bathygram_core::model::{Diagram, DiagramKind, Element, ElementId};
use bathygram_core::notation::{describe, name};
use bathygram_core::pipeline::{Picture, Reading};
use bathygram_core::views::{StackLevel, View, stack};
use std::collections::{BTreeMap, HashMap};

/// At most this many elements of other diagrams are listed that have the name of an element, or share its code.
// A name that every diagram has, such as "User", would fill every page.
const OTHERS: usize = 12;

/// Models of more elements than these have no page for each of them, but an entry in the list of their diagram.
// A machine wrote them; a page each would be hundreds of megabytes.
const PAGES: usize = 5_000;

/// One picture, which has a page.
pub(crate) struct Entry<'a> {
    pub(crate) reading: &'a Reading,
    pub(crate) picture: Picture<'a>,
    pub(crate) view: View,
    /// Its page.
    pub(crate) page: String,
    /// Its file.
    pub(crate) file: String,
    pub(crate) title: String,
    /// What it shows, in words.
    pub(crate) words: String,
    /// The anchors of its elements in its page, where they have no pages.
    pub(crate) anchors: Vec<String>,
    /// Its model, by number, if the elements of that have pages.
    pub(crate) model: Option<usize>,
}

impl Entry<'_> {
    pub(crate) fn kind(&self) -> DiagramKind {
        self.picture.diagram().kind
    }
}

/// A diagram whose elements have pages.
pub(crate) struct Model<'a> {
    pub(crate) reading: &'a Reading,
    pub(crate) diagram: &'a Diagram,
    /// The number of its picture.
    pub(crate) entry: usize,
    /// The page of each element.
    pub(crate) pages: Vec<String>,
    pub(crate) levels: Vec<StackLevel>,
}

/// A document.
pub(crate) struct Page<'a> {
    /// Its file in the project.
    pub(crate) name: &'a str,
    pub(crate) text: &'a str,
    pub(crate) page: String,
    pub(crate) title: String,
}

/// All that the pages show.
pub(crate) struct Book<'a> {
    pub(crate) entries: Vec<Entry<'a>>,
    pub(crate) models: Vec<Model<'a>>,
    pub(crate) documents: Vec<Page<'a>>,
    /// The pictures by the files and names of their sources.
    by_name: HashMap<(&'a str, &'a str), usize>,
    /// The elements by what they show: model or picture, and number.
    by_label: HashMap<String, Vec<Mention>>,
    /// For each model and each element, the pictures that show it.
    shown: HashMap<(usize, String), Vec<usize>>,
    /// The pictures of each file.
    of_file: HashMap<&'a str, Vec<usize>>,
    /// The pictures of files that take from a file.
    takers: HashMap<&'a str, Vec<usize>>,
    /// The pictures of each model.
    of_model: HashMap<usize, Vec<usize>>,
    /// Where the code of elements lies.
    codes: BTreeMap<String, Vec<(usize, ElementId)>>,
}

/// An element in a picture that is of no model, or in a model.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Mention {
    /// In a model, by their numbers.
    Model(usize, ElementId),
    /// In a picture that draws its whole diagram.
    Entry(usize, ElementId),
}

impl<'a> Book<'a> {
    /// Finds what a project has, and where it goes.
    pub(crate) fn of(input: &Input<'a>) -> Self {
        let mut book = Self {
            entries: Vec::new(),
            models: Vec::new(),
            documents: Vec::new(),
            by_name: HashMap::new(),
            by_label: HashMap::new(),
            shown: HashMap::new(),
            of_file: HashMap::new(),
            takers: HashMap::new(),
            of_model: HashMap::new(),
            codes: BTreeMap::new(),
        };
        book.take_pictures(input);
        book.take_models();
        book.take_documents(input);
        book.take_mentions();
        book
    }

    fn take_pictures(&mut self, input: &Input<'a>) {
        let mut names = Names::default();
        for reading in input.readings {
            for picture in reading.pictures() {
                let own = names.take(picture.name);
                let view = picture.view();
                let title = view.diagram.title.as_ref().map(|title| title.text().replace('\n', " "));
                let title = title.filter(|title| !title.trim().is_empty()).unwrap_or_else(|| picture.name.to_owned());
                let (page, file) = (format!("diagrams/{own}.html"), format!("pictures/{own}.svg"));
                let number = self.entries.len();
                self.by_name.insert((&reading.source.name, picture.name), number);
                self.of_file.entry(&reading.source.name).or_default().push(number);
                for source in &reading.document.imports.sources {
                    self.takers.entry(&source.name).or_default().push(number);
                }
                let words = describe(&view, &input.studio.language);
                let anchors = anchors(view.diagram.elements.iter().map(|e| e.key.as_str()));
                self.entries.push(Entry { reading, picture, view, page, file, title, words, anchors, model: None });
            }
        }
    }

    fn take_models(&mut self) {
        let mut names = Names::default();
        for number in 0..self.entries.len() {
            let entry = &self.entries[number];
            let (reading, diagram) = (entry.reading, entry.picture.diagram());
            let is_block = entry.picture.name == diagram.name && entry.picture.span == diagram.span;
            let has_pages =
                matches!(diagram.kind, DiagramKind::Architecture | DiagramKind::Classes | DiagramKind::Network);
            if !is_block || !has_pages || diagram.elements.len() > PAGES {
                continue;
            }
            let folder = names.take(&diagram.name);
            let mut own = Names::default();
            let pages =
                diagram.elements.iter().map(|e| format!("elements/{folder}/{}.html", own.take(&e.key))).collect();
            let levels = if diagram.kind == DiagramKind::Architecture { stack(diagram) } else { Vec::new() };
            self.models.push(Model { reading, diagram, entry: number, pages, levels });
        }
        let models: HashMap<(&str, &str), usize> = self
            .models
            .iter()
            .enumerate()
            .map(|(i, m)| ((m.reading.source.name.as_str(), m.diagram.name.as_str()), i))
            .collect();
        for entry in &mut self.entries {
            let diagram = entry.picture.diagram();
            // A sequence may be of an architecture, and a sheet of a diagram that another file has.
            let of = diagram.interaction().and_then(|i| i.of.as_deref()).unwrap_or(&diagram.name);
            let taken = entry.reading.document.imports.sources.iter().map(|source| source.name.as_str());
            let mut files = std::iter::once(entry.reading.source.name.as_str()).chain(taken);
            entry.model = files.find_map(|file| models.get(&(file, of)).copied());
        }
        for (i, entry) in self.entries.iter().enumerate() {
            entry.model.into_iter().for_each(|model| self.of_model.entry(model).or_default().push(i));
        }
    }

    fn take_documents(&mut self, input: &Input<'a>) {
        let mut names = Names::default();
        for (name, text) in input.documents {
            let path = name.rsplit_once('.').map_or(*name, |(stem, _)| stem);
            let page = format!("documents/{}.html", names.take_path(path));
            let title = crate::markdown::title(text);
            let title = title.unwrap_or_else(|| path.rsplit('/').next().unwrap_or(path).to_owned());
            self.documents.push(Page { name, text, page, title });
        }
    }

    fn take_mentions(&mut self) {
        let language = bathygram_core::language::Language::default();
        let mut by_label: HashMap<String, Vec<Mention>> = HashMap::new();
        for (i, model) in self.models.iter().enumerate() {
            for (id, element) in model.diagram.ids().filter(|(_, e)| !e.kind.is_mark() && !e.kind.is_box()) {
                by_label.entry(name(element, &language)).or_default().push(Mention::Model(i, id));
            }
            for (id, element) in model.diagram.ids() {
                code(element).into_iter().for_each(|code| self.codes.entry(code).or_default().push((i, id)));
            }
        }
        for (i, entry) in self.entries.iter().enumerate() {
            let diagram = &entry.view.diagram;
            match entry.model {
                Some(model) => {
                    for element in &diagram.elements {
                        self.shown.entry((model, element.key.clone())).or_default().push(i);
                    }
                }
                None => {
                    for (id, element) in diagram.ids().filter(|(_, e)| !e.kind.is_mark() && !e.kind.is_box()) {
                        by_label.entry(name(element, &language)).or_default().push(Mention::Entry(i, id));
                    }
                }
            }
        }
        by_label.retain(|_, mentions| mentions.len() > 1);
        self.by_label = by_label;
    }

    /// The number of a picture, by the file and the name of its source.
    pub(crate) fn entry_of(&self, file: &str, name: &str) -> Option<usize> {
        self.by_name.get(&(file, name)).copied()
    }

    /// The pictures of a file.
    pub(crate) fn of_file(&self, file: &str) -> &[usize] {
        self.of_file.get(file).map_or(&[], Vec::as_slice)
    }

    /// The pictures of files that take from a file.
    pub(crate) fn takers(&self, file: &str) -> &[usize] {
        self.takers.get(file).map_or(&[], Vec::as_slice)
    }

    /// The pictures of a model.
    pub(crate) fn of_model(&self, model: usize) -> &[usize] {
        self.of_model.get(&model).map_or(&[], Vec::as_slice)
    }

    /// The elements of other models whose code lies in the same place, around it or in it: the first ones, and how many more
    /// there are.
    pub(crate) fn sharing(&self, model: usize, element: &Element) -> (Vec<(usize, ElementId)>, usize) {
        let Some(own) = code(element) else { return (Vec::new(), 0) };
        let around = own.match_indices('/').map(|(at, _)| &own[..at]).chain([own.as_str()]);
        let around = around.filter_map(|folder| self.codes.get(folder)).flatten();
        let within = format!("{own}/");
        let within = self.codes.range(within.clone()..).take_while(|(code, _)| code.starts_with(&within));
        let found = around.chain(within.flat_map(|(_, all)| all));
        first_ones(found.filter(|(other, _)| *other != model).copied(), OTHERS)
    }

    /// The pictures that show an element of a model.
    pub(crate) fn showing(&self, model: usize, key: &str) -> &[usize] {
        self.shown.get(&(model, key.to_owned())).map_or(&[], Vec::as_slice)
    }

    /// What has the same name as an element, in other diagrams: the first ones, and how many more there are.
    pub(crate) fn namesakes(&self, own: Mention, shown: &str) -> (Vec<Mention>, usize) {
        let diagram = |mention: &Mention| match *mention {
            Mention::Model(model, _) => self.models[model].entry,
            Mention::Entry(entry, _) => entry,
        };
        let all = self.by_label.get(shown).map_or(&[][..], Vec::as_slice);
        first_ones(all.iter().filter(|other| diagram(other) != diagram(&own)).copied(), OTHERS)
    }

    /// Where the elements of a picture lead to, by their keys.
    pub(crate) fn addresses(&self, entry: &Entry<'_>) -> BTreeMap<String, String> {
        let Some(model) = entry.model.map(|model| &self.models[model]) else { return BTreeMap::new() };
        self.model_addresses(model, &entry.view.diagram, &entry.page)
    }

    /// The same for elements of a model in any page.
    pub(crate) fn model_addresses(&self, model: &Model<'_>, shown: &Diagram, from: &str) -> BTreeMap<String, String> {
        let ids: HashMap<&str, ElementId> = model.diagram.ids().map(|(id, e)| (e.key.as_str(), id)).collect();
        let keys = shown.elements.iter().map(|e| e.key.as_str());
        let found = keys.filter_map(|key| {
            let page = &model.pages[ids.get(key)?.index()];
            // A picture in the page of an element does not lead to that page again.
            (page != from).then(|| (key.to_owned(), crate::address::link(from, page)))
        });
        found.collect()
    }

    /// The page of an element, or its entry in the page of its diagram.
    pub(crate) fn address(&self, mention: Mention) -> String {
        match mention {
            Mention::Model(model, id) => self.models[model].pages[id.index()].clone(),
            Mention::Entry(entry, id) => {
                let entry = &self.entries[entry];
                format!("{}#{}", entry.page, entry.anchors[id.index()])
            }
        }
    }
}

/// The first of some elements, and how many more there are.
pub(crate) fn first_ones<T>(mut all: impl Iterator<Item = T>, most: usize) -> (Vec<T>, usize) {
    let first = all.by_ref().take(most).collect();
    (first, all.count())
}

/// The folder or file that the code of an element begins with, without patterns.
fn code(element: &Element) -> Option<String> {
    let written = element.properties.code.as_ref()?.with_signs();
    let plain = written.split(['*', '?', '[', '{']).next().unwrap_or_default();
    // A pattern may begin in the middle of a name.
    let is_whole = plain.len() == written.len();
    let whole = if is_whole { plain } else { plain.rsplit_once('/').map_or("", |(folder, _)| folder) };
    let whole = whole.trim_matches('/');
    (!whole.is_empty()).then(|| whole.to_owned())
}

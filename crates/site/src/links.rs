//! Where the links of a document lead: to pages of the site, to the web, or nowhere, which is found out here and not by a reader.

use crate::address::link;
use crate::book::Book;
use crate::markdown::{Around, Target, anchors};
use crate::{Input, PictureName};
use bathygram_outputs::html::escaped;
use bathygram_outputs::markdown::blocks;
use std::collections::{BTreeMap, BTreeSet};

/// Schemes that a link may have. What else a browser knows may act.
const SCHEMES: [&str; 3] = ["http://", "https://", "mailto:"];
/// Images that hold nothing but an image, by their endings: they are copied.
const IMAGES: [&str; 5] = ["png", "jpg", "jpeg", "gif", "webp"];

/// A link or an image of a document that the site has nothing for.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Loose {
    /// The document.
    pub file: String,
    /// The line, from 1.
    pub line: usize,
    /// What is written there.
    pub target: String,
    /// Why there is nothing.
    pub why: Why,
}

/// Why a link leads nowhere.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Why {
    /// The project has no such file.
    NoFile,
    /// The document has no such heading.
    NoHeading,
    /// It leads out of the project.
    Outside,
    /// It is an image that would have to be fetched from the web, or could act.
    ForeignImage,
}

/// What the documents of a project lead to.
pub(crate) struct Links<'b, 'a> {
    book: &'b Book<'a>,
    input: &'b Input<'a>,
    /// For each document its page, and the anchors in it.
    documents: BTreeMap<&'a str, (&'b str, BTreeSet<String>)>,
}

impl<'b, 'a> Links<'b, 'a> {
    pub(crate) fn of(book: &'b Book<'a>, input: &'b Input<'a>) -> Self {
        let documents =
            book.documents.iter().map(|page| (page.name, (page.page.as_str(), anchors(page.text)))).collect();
        Self { book, input, documents }
    }

    /// The links of one document.
    pub(crate) fn document(&self, number: usize) -> DocumentLinks<'_, 'b, 'a> {
        let document = &self.book.documents[number];
        let lines = document.text.match_indices('\n').map(|(at, _)| at).collect();
        let mut pictures: BTreeMap<u32, Vec<usize>> = BTreeMap::new();
        for entry in self.book.of_file(document.name) {
            pictures.entry(self.book.entries[*entry].reading.source.place().lines).or_default().push(*entry);
        }
        let blocks = blocks(document.text).iter().map(|b| pictures.remove(&(b.line - 1)).unwrap_or_default()).collect();
        let (loose, copies, uses) = Default::default();
        DocumentLinks { all: self, number, lines, blocks, loose, copies, uses }
    }
}

/// What one document leads to, and what it needs.
pub(crate) struct DocumentLinks<'l, 'b, 'a> {
    all: &'l Links<'b, 'a>,
    number: usize,
    /// Where its lines end.
    lines: Vec<usize>,
    /// The pictures of each block.
    blocks: Vec<Vec<usize>>,
    pub(crate) loose: Vec<Loose>,
    /// Images of the project that are copied.
    pub(crate) copies: BTreeSet<String>,
    /// Pictures that it shows or leads to.
    pub(crate) uses: BTreeSet<usize>,
}

/// The path in the site of an image of the project.
pub(crate) fn copied(file: &str) -> String {
    format!("files/{file}")
}

impl DocumentLinks<'_, '_, '_> {
    fn miss(&mut self, (written, at): (&str, usize), why: Why) -> Target {
        let file = self.all.book.documents[self.number].name.to_owned();
        let line = self.lines.partition_point(|end| *end < at) + 1;
        self.loose.push(Loose { file, line, target: written.to_owned(), why });
        Target::Nothing
    }

    /// The file that is meant, relative to the project, and the anchor in it.
    fn file(&self, written: &str) -> Option<(String, String)> {
        let (path, anchor) = written.split_once('#').unwrap_or((written, ""));
        let path = decoded(path.split('?').next().unwrap_or(path));
        let name = self.all.book.documents[self.number].name;
        if path.is_empty() {
            return Some((name.to_owned(), decoded(anchor)));
        }
        let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
        let mut parts: Vec<&str> = if path.starts_with('/') { Vec::new() } else { folder.split('/').collect() };
        for part in path.split('/') {
            match part {
                "" | "." => {}
                ".." => _ = parts.pop()?,
                other => parts.push(other),
            }
        }
        parts.retain(|part| !part.is_empty());
        Some((parts.join("/"), decoded(anchor)))
    }

    fn picture(&mut self, entry: usize) -> Target {
        self.uses.insert(entry);
        let here = &self.all.book.documents[self.number].page;
        let entry = &self.all.book.entries[entry];
        Target::Picture { page: link(here, &entry.page), file: link(here, &entry.file) }
    }

    /// The picture that a file of the project shows.
    fn drawn(&self, file: &str) -> Option<usize> {
        let PictureName { file, name } = self.all.input.pictures.get(file)?;
        self.all.book.entry_of(file, name)
    }

    fn copy(&mut self, file: &str) -> Option<Target> {
        let ending = file.rsplit_once('.')?.1.to_lowercase();
        if !IMAGES.contains(&ending.as_str()) || !self.all.input.files.contains(file) {
            return None;
        }
        self.copies.insert(file.to_owned());
        Some(Target::Address(link(&self.all.book.documents[self.number].page, &copied(file))))
    }
}

/// Whether a link has a scheme, or is one to another server.
fn is_elsewhere(written: &str) -> bool {
    let head = written.split(['/', '#', '?']).next().unwrap_or_default();
    head.contains(':') || written.starts_with("//")
}

pub(crate) fn has_safe_scheme(written: &str) -> bool {
    let small = written.to_ascii_lowercase();
    SCHEMES.iter().any(|scheme| small.starts_with(scheme))
}

impl Around for DocumentLinks<'_, '_, '_> {
    fn link(&mut self, written: &str, at: usize) -> Target {
        if has_safe_scheme(written) {
            return Target::Address(written.to_owned());
        }
        if is_elsewhere(written) {
            return self.miss((written, at), Why::Outside);
        }
        let Some((file, anchor)) = self.file(written) else { return self.miss((written, at), Why::Outside) };
        let here = self.all.book.documents[self.number].page.as_str();
        let inside = |name: &str| if file.is_empty() { name.to_owned() } else { format!("{file}/{name}") };
        let candidates = [file.clone(), inside("README.md"), inside("index.md")];
        if let Some((page, anchors)) = candidates.iter().find_map(|file| self.all.documents.get(file.as_str())) {
            return match anchor.is_empty() || anchors.contains(&anchor) {
                true if anchor.is_empty() => Target::Address(link(here, page)),
                true => Target::Address(link(here, &format!("{page}#{anchor}"))),
                false => self.miss((written, at), Why::NoHeading),
            };
        }
        if let Some(entry) = self.all.book.of_file(&file).first().copied().or_else(|| self.drawn(&file)) {
            return self.picture(entry);
        }
        if let Some(copied) = self.copy(&file) {
            return copied;
        }
        let folder = format!("{file}/");
        let is_folder = file.is_empty()
            || self.all.input.files.range(folder.clone()..).next().is_some_and(|f| f.starts_with(&folder));
        // What is there but no page of the site stays a word.
        match is_folder || self.all.input.files.contains(&file) {
            true => Target::Nothing,
            false => self.miss((written, at), Why::NoFile),
        }
    }

    fn image(&mut self, written: &str, at: usize) -> Target {
        if is_elsewhere(written) {
            return self.miss((written, at), Why::ForeignImage);
        }
        let Some((file, _)) = self.file(written) else { return self.miss((written, at), Why::Outside) };
        if let Some(entry) = self.drawn(&file) {
            return self.picture(entry);
        }
        match self.copy(&file) {
            Some(copied) => copied,
            None if self.all.input.files.contains(&file) => self.miss((written, at), Why::ForeignImage),
            None => self.miss((written, at), Why::NoFile),
        }
    }

    fn block(&mut self, number: usize) -> String {
        let book = self.all.book;
        let document = &book.documents[self.number];
        let mut out = String::new();
        for i in self.blocks.get(number).into_iter().flatten().copied() {
            let entry = &book.entries[i];
            self.uses.insert(i);
            let [page, file] = [&entry.page, &entry.file].map(|to| escaped(&link(&document.page, to)));
            let (words, title) = (escaped(&entry.words), escaped(&entry.title));
            out += &format!(
                "<figure><a class=\"figure\" href=\"{page}\"><img loading=\"lazy\" src=\"{file}\" alt=\"{words}\"></a>\
                 <figcaption><a href=\"{page}\">{title}</a></figcaption></figure>\n"
            );
        }
        out
    }
}

/// A part of an address as it was before it was written with `%`.
pub(crate) fn decoded(text: &str) -> String {
    let bytes = text.as_bytes();
    let mut out = Vec::with_capacity(bytes.len());
    let mut at = 0;
    while at < bytes.len() {
        let code = (bytes[at] == b'%').then(|| text.get(at + 1..at + 3)).flatten();
        match code.and_then(|code| u8::from_str_radix(code, 16).ok()) {
            Some(byte) => {
                out.push(byte);
                at += 3;
            }
            None => {
                out.push(bytes[at]);
                at += 1;
            }
        }
    }
    String::from_utf8_lossy(&out).into_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_read_as_they_were_meant() {
        assert_eq!(decoded("s%C3%BCd%20a%zz%"), "süd a%zz%");
        assert!(has_safe_scheme("HTTPS://x") && !has_safe_scheme("javascript:x"));
        assert!(is_elsewhere("JaVaScript:1") && is_elsewhere("//x.test/y") && !is_elsewhere("a/b:c.md"));
    }
}

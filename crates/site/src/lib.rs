//! A project as pages to read: a front page, a page for each diagram, for each element of a model and for each document, linked
//! to each other, with search. Input: files that were read. Output: [`Unit`]s, each some files of the site, with a digest of
//! what they are made from, so that whoever writes them knows which ones need not be made again.
//!
//! Nothing here touches the machine. All links are relative, no page asks anything of any server, and its policy forbids
//! whatever the program did not write into it.

mod address;
mod book;
mod check;
mod highlight;
mod links;
mod markdown;
mod pages;
mod plan;
mod search;
mod templates;

pub use check::{BrokenLink, broken_links};
pub use links::{Loose, Why};
pub use markdown::title as document_title;
pub use plan::{Plan, Unit, plan};

use bathygram_core::pipeline::{Reading, Studio};
use std::collections::{BTreeMap, BTreeSet};

/// What a site is made from.
#[derive(Clone, Copy)]
pub struct Input<'a> {
    /// What the project is called.
    pub project: &'a str,
    /// Its themes, fonts and words.
    pub studio: &'a Studio,
    /// Its files with diagrams, and the blocks of its documents, in the order of their names.
    pub readings: &'a [Reading],
    /// Its Markdown documents: names, and texts.
    pub documents: &'a [(&'a str, &'a str)],
    /// All its other files that documents may lead to, by their names.
    pub files: &'a BTreeSet<String>,
    /// Where the project's own pictures are, by their files relative to it: what they show.
    pub pictures: &'a BTreeMap<String, PictureName>,
    /// For pictures whose history is shown, its versions, the newest first.
    pub versions: &'a BTreeMap<PictureName, Vec<Version>>,
}

/// A picture, by the file of its source and its name.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct PictureName {
    /// The source's file.
    pub file: String,
    /// The name.
    pub name: String,
}

/// One version of a picture.
#[derive(Clone, Debug, Default)]
pub struct Version {
    /// When, as a date.
    pub date: String,
    /// Who.
    pub author: String,
    /// What was said of it.
    pub subject: String,
    /// What it changed, in sentences.
    pub says: Vec<String>,
    /// The picture, as SVG; `None` if it was not there.
    pub svg: Option<String>,
}

//! The boxes that a text has already: what people have drawn stays as it is, and only what lies in none of its boxes gets new ones.

use super::boxes::Cell;
use super::folders::Folders;
use bathygram_core::conform::{PathPatterns, innermost};
use bathygram_core::model::{Diagram, ElementId};
use std::collections::{BTreeMap, BTreeSet};

/// One box of a text.
#[derive(Clone, Debug)]
pub struct Given {
    name: String,
    label: String,
    /// What it was imported from, or the files that it stands for.
    paths: String,
    /// The number of the box around it.
    parent: Option<usize>,
}

/// The boxes of an architecture that stand for files, with those around them.
pub fn given(design: &Diagram) -> Vec<Given> {
    let text = |id: ElementId| {
        let properties = &design.element(id).properties;
        properties.origin.as_ref().or(properties.code.as_ref()).map(|text| text.with_signs())
    };
    let stands = design.ids().filter(|(id, _)| text(*id).is_some());
    let mut wanted: BTreeSet<ElementId> = BTreeSet::new();
    for (id, _) in stands {
        wanted.insert(id);
        wanted.extend(design.ancestors(id));
    }
    let numbers: BTreeMap<ElementId, usize> = wanted.iter().enumerate().map(|(number, id)| (*id, number)).collect();
    let one = |id: &ElementId| {
        let element = design.element(*id);
        let parent = element.parent.and_then(|parent| numbers.get(&parent).copied());
        Given {
            name: element.name.clone(),
            label: element.shown().text(),
            paths: text(*id).unwrap_or_default(),
            parent,
        }
    };
    wanted.iter().map(one).collect()
}

/// Cells for the boxes of a text, in their order, and new ones behind them.
pub(super) fn cells(folders: &Folders, given: &[Given]) -> Vec<Cell> {
    let patterns: Vec<PathPatterns> = given.iter().map(|one| PathPatterns::new(&one.paths)).collect();
    let is_frame: Vec<bool> = (0..given.len()).map(|i| given.iter().any(|other| other.parent == Some(i))).collect();
    let mut cells: Vec<Cell> = Vec::new();
    for (one, is_frame) in given.iter().zip(&is_frame) {
        let name = if one.label.is_empty() { one.name.clone() } else { one.label.clone() };
        let (paths, frame, is_frame) = (vec![one.paths.clone()], one.parent, *is_frame);
        cells.push(Cell {
            name,
            own_name: Some(one.name.clone()),
            paths,
            files: Vec::new(),
            frame,
            is_frame,
            is_entry: false,
        });
    }
    let lies_in = |inner: usize, outer: usize| {
        std::iter::successors(given[inner].parent, |at| given[*at].parent).any(|around| around == outer)
    };
    // The frame of each file that lies in no box.
    let mut bare: BTreeMap<u32, Option<usize>> = BTreeMap::new();
    for (file, path) in folders.paths.iter().enumerate() {
        let meant = patterns.iter().enumerate().filter_map(|(i, patterns)| Some((patterns.exactness(path)?, i)));
        let meant: Vec<(usize, usize)> = meant.collect();
        match innermost(&meant, lies_in) {
            Some(i) if !is_frame[i] => cells[i].files.push(file as u32),
            frame => _ = bare.insert(file as u32, frame),
        }
    }
    cells.extend(folders.new_cells(&bare));
    cells
}

impl Folders {
    /// Boxes for files that lie in none: the outermost folders in which only such lie.
    fn new_cells(&self, bare: &BTreeMap<u32, Option<usize>>) -> Vec<Cell> {
        let mut out = Vec::new();
        let mut open = vec![self.root];
        while let Some(node) = open.pop() {
            let files = self.files(node);
            let frames: BTreeSet<Option<&Option<usize>>> = files.iter().map(|file| bare.get(file)).collect();
            let whole = frames.first().copied().flatten().filter(|_| frames.len() == 1 && node != self.root);
            let own = &self.nodes[node];
            if let Some(frame) = whole {
                let (name, paths) = (own.name.clone(), vec![own.path.clone()]);
                out.push(Cell { name, own_name: None, paths, files, frame: *frame, is_frame: false, is_entry: false });
                continue;
            }
            // What stands for a folder that is shown.
            let entry: Vec<u32> = own.own.iter().copied().filter(|file| bare.contains_key(file)).collect();
            if let Some(frame) = entry.first().map(|file| bare[file]) {
                let (name, paths) = (self.entry_name(node), vec![self.entry_path(node)]);
                out.push(Cell {
                    name,
                    own_name: None,
                    paths,
                    files: entry,
                    frame,
                    is_frame: false,
                    is_entry: !own.is_file,
                });
            }
            open.extend(own.children.iter().rev());
        }
        out
    }
}

//! How a source tree hangs together: its folders, and what they import of each other, as an architecture.

mod boxes;
pub(crate) mod circles;
mod findings;
pub(crate) mod folders;
mod given;

use super::base::{CodeBase, Imports};
use super::resolve::{Dependencies, Dependency, Listed, Target};
use super::sources::Sources;
use super::syntax::Kind;
use super::tree::{Tree, is_within, meant_by};
use crate::facts::{Facts, Imported, Link, Thing};
use crate::finding::{Broken, Seen};
use crate::select::Selection;
use bathygram_core::jobs::Jobs;
use bathygram_core::model::{DiagramKind, ElementKind, Verb};
use boxes::Cell;
use circles::Uses;
pub(super) use findings::unread;
use folders::Folders;
pub use given::{Given, given};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// Tags of lines and boxes.
pub(crate) const CIRCLE: &str = "circle";
pub(crate) const CUT: &str = "cut";
pub(crate) const BYPASS: &str = "bypass";
pub(crate) const TYPES: &str = "types";
const ORPHAN: &str = "orphan";

/// What modules are read with.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// Which files are wanted, by their paths or those of the folders around them.
    pub selection: Selection,
    /// How deep folders are opened; as deep as can be read otherwise.
    pub depth: Option<usize>,
    /// Whether tests, examples and benchmarks are wanted.
    pub with_tests: bool,
    /// Whether packages that are not in the tree are shown.
    pub with_outside: bool,
    /// The boxes that there are already, if a text is brought up to date.
    pub given: Option<Vec<Given>>,
    /// Whether every import is listed with what it names.
    pub with_imports: bool,
}

/// Reads a tree.
///
/// # Errors
/// If there is no source code in it.
pub fn modules(tree: &dyn Tree, options: &Options, jobs: &dyn Jobs) -> Result<Facts, Broken> {
    let imports = if options.with_imports { Imports::Listed } else { Imports::Counted };
    let wants = |path: &str| wants(&options.selection, path);
    let base = CodeBase::of(tree, options.with_tests, &wants, imports, jobs)?;
    let folders = Folders::of(&base.sources);
    let map = Map::new(&base.sources, &base.dependencies, &folders, options);
    Ok(map.facts(options))
}

/// Whether a file is wanted, by its path or that of a folder around it.
pub(crate) fn wants(selection: &Selection, path: &str) -> bool {
    let is = |patterns: &[String]| meant_by(path).any(|at| Selection::any(patterns, at));
    (selection.only.is_empty() || is(&selection.only)) && !is(&selection.without)
}

/// Dependencies between boxes.
type Lines = BTreeMap<(usize, usize), Vec<Dependency>>;

/// The picture of a tree.
struct Map<'a> {
    sources: &'a Sources<'a>,
    dependencies: &'a Dependencies,
    folders: &'a Folders,
    cells: Vec<Cell>,
    /// The box of each file.
    box_of: BTreeMap<u32, usize>,
    /// Dependencies between boxes.
    lines: Lines,
    /// Names of the tree's files, shared by all places.
    names: Vec<Arc<str>>,
}

impl<'a> Map<'a> {
    fn new(sources: &'a Sources<'a>, dependencies: &'a Dependencies, folders: &'a Folders, options: &Options) -> Self {
        let mut links: BTreeMap<(u32, u32), u32> = BTreeMap::new();
        let used = || dependencies.all.iter().filter(|one| !hands_on(folders, sources, one));
        used().for_each(|one| *links.entry((one.from, one.reaches)).or_default() += 1);
        let cells = match &options.given {
            Some(given) => given::cells(folders, given),
            None => boxes::boxes(folders, &links, options.depth),
        };
        let mut box_of = BTreeMap::new();
        for (number, cell) in cells.iter().enumerate() {
            cell.files.iter().for_each(|file| _ = box_of.insert(*file, number));
        }
        let mut lines = Lines::new();
        for one in used() {
            if let (Some(from), Some(to)) = (box_of.get(&one.from), box_of.get(&one.reaches))
                && from != to
            {
                lines.entry((*from, *to)).or_default().push(*one);
            }
        }
        let names = sources.all.iter().map(|source| sources.tree.shown(&source.path).into()).collect();
        let mut map = Self { sources, dependencies, folders, cells, box_of, lines, names };
        map.take_loading();
        map
    }

    /// What only hands something on loads it, too: where that closes a circle, it is drawn.
    fn take_loading(&mut self) {
        let mut lines = self.lines.clone();
        let loads = |one: &&Dependency| {
            let language = self.sources.get(one.from).language;
            one.kind == Kind::Plain && language.loads() && hands_on(self.folders, self.sources, one)
        };
        for one in self.dependencies.all.iter().filter(loads) {
            if let (Some(from), Some(to)) = (self.box_of.get(&one.from), self.box_of.get(&one.to))
                && from != to
            {
                lines.entry((*from, *to)).or_default().push(*one);
            }
        }
        let circles = circles::circles(self.cells.len(), &uses(&lines));
        let is_round = |(from, to): &(usize, usize)| circles.iter().any(|all| all.contains(from) && all.contains(to));
        lines.retain(|pair, _| self.lines.contains_key(pair) || is_round(pair));
        self.lines = lines;
    }

    fn seen(&self, file: u32, line: u32) -> Seen {
        Seen { file: self.names[file as usize].clone(), line, ..Seen::default() }
    }

    fn facts(self, options: &Options) -> Facts {
        let mut facts = Facts::new(DiagramKind::Architecture);
        let uses = uses(&self.lines);
        let all_circles = circles::circles(self.cells.len(), &uses);
        let cuts: Vec<Vec<(usize, usize)>> = all_circles.iter().map(|members| circles::cuts(members, &uses)).collect();
        let bypasses = findings::bypasses(&self);
        let orphans = findings::orphans(&self);
        let shown = self.shown(&orphans);
        for cell in shown.keys().map(|cell| &self.cells[*cell]) {
            facts.things.push(self.thing(cell, &shown, &orphans));
        }
        for ((from, to), all) in &self.lines {
            let pair = (*from, *to);
            let mut link = Link::new(shown[from], Verb::Uses, shown[to], self.seen(all[0].from, all[0].line));
            link.label = Some(all.len().to_string());
            let is_round = all_circles.iter().any(|members| members.contains(from) && members.contains(to));
            let is_cut = cuts.iter().any(|cut| cut.contains(&pair));
            let passes = |one: &Dependency| bypasses.iter().any(|bypass| bypass.imports.contains(one));
            if !uses.contains_key(&pair) {
                link.tags.push(TYPES.to_owned());
            } else if is_cut {
                link.tags.push(CUT.to_owned());
            } else if is_round {
                link.tags.push(CIRCLE.to_owned());
            }
            link.tags.extend(all.iter().any(passes).then(|| BYPASS.to_owned()));
            facts.links.push(link);
        }
        facts.findings.extend(findings::circles(&self, &all_circles, &cuts));
        facts.findings.extend(bypasses.iter().map(|bypass| bypass.finding(&self)));
        facts.findings.extend(findings::others(&self, &orphans));
        if options.with_outside {
            self.outside(&shown, &mut facts);
        }
        facts.imports = self.imports();
        facts.call(&options.selection, &super::project::name(self.sources));
        facts.caption = (!facts.links.is_empty()).then(|| "Numbers on lines count imports.".to_owned());
        facts.counts.rows = self.sources.all.len() as u64;
        facts
    }

    /// The boxes that are shown, with their new numbers: a folder's own file only if it has something to do with others.
    fn shown(&self, orphans: &BTreeSet<u32>) -> BTreeMap<usize, usize> {
        let is_linked = |cell: usize| self.lines.keys().any(|(from, to)| *from == cell || *to == cell);
        let is_shown = |(number, cell): &(usize, &Cell)| {
            let is_needed =
                || !cell.is_entry || is_linked(*number) || cell.files.iter().any(|file| orphans.contains(file));
            self.has_files(*number) && is_needed()
        };
        let shown = self.cells.iter().enumerate().filter(is_shown).map(|(number, _)| number);
        shown.enumerate().map(|(new, old)| (old, new)).collect()
    }

    /// Whether there are files in a box, or in a frame; the boxes of a text may have lost theirs.
    fn has_files(&self, cell: usize) -> bool {
        let mut inner = self.cells.iter().enumerate().filter(|(_, other)| other.frame == Some(cell));
        !self.cells[cell].files.is_empty() || inner.any(|(number, _)| self.has_files(number))
    }

    fn thing(&self, cell: &Cell, shown: &BTreeMap<usize, usize>, orphans: &BTreeSet<u32>) -> Thing {
        let kind = if cell.is_frame { ElementKind::System } else { ElementKind::Part };
        let first = cell.files.first().map(|file| self.seen(*file, 1));
        let folder =
            || Seen { file: cell.paths.first().map(String::as_str).unwrap_or_default().into(), ..Seen::default() };
        let mut thing = Thing::new(&cell.paths.join(", "), kind, first.unwrap_or_else(folder));
        thing.called = Some(cell.own_name.clone().unwrap_or_else(|| cell.name.clone()));
        thing.label = Some(cell.name.clone());
        thing.holder = cell.frame.and_then(|frame| shown.get(&frame).copied());
        let is_orphan = !cell.files.is_empty() && cell.files.iter().all(|file| orphans.contains(file));
        thing.tags.extend(is_orphan.then(|| ORPHAN.to_owned()));
        thing
    }

    /// Every import, as it is listed.
    fn imports(&self) -> Vec<Imported> {
        let one = |Listed { from, import, target, .. }: &Listed| {
            let name = import.name.as_ref().map_or(String::new(), |name| format!(" {name}"));
            let (file, package) = match target {
                Target::File(file) => (Some(self.names[*file as usize].clone()), None),
                Target::Outside(package) => (None, Some(package.clone())),
                Target::Standard | Target::Nothing | Target::Missing => (None, None),
            };
            let kind = match import.kind {
                Kind::Plain => "plain",
                Kind::Types => "types",
                Kind::Dynamic => "dynamic",
            };
            Imported {
                seen: self.seen(*from, import.line),
                names: format!("{}{name}", import.path),
                kind,
                file,
                package,
            }
        };
        self.dependencies.listed.iter().filter(|listed| !listed.import.is_inline).map(one).collect()
    }

    /// Packages that are not in the tree, with who uses them.
    fn outside(&self, shown: &BTreeMap<usize, usize>, facts: &mut Facts) {
        for (package, places) in &self.dependencies.outside {
            let mut by_box: BTreeMap<usize, Vec<(u32, u32)>> = BTreeMap::new();
            for (file, line) in places {
                if let Some(cell) = self.box_of.get(file).and_then(|cell| shown.get(cell)) {
                    by_box.entry(*cell).or_default().push((*file, *line));
                }
            }
            let Some((file, line)) = by_box.values().flatten().next().copied() else { continue };
            let shown: Vec<Seen> = by_box.values().flatten().map(|(file, line)| self.seen(*file, *line)).collect();
            facts.findings.push(findings::outside(package, shown));
            let mut thing = Thing::new(package, ElementKind::System, self.seen(file, line));
            thing.is_external = true;
            facts.things.push(thing);
            let to = facts.things.len() - 1;
            for (from, places) in by_box {
                let (file, line) = places[0];
                let mut link = Link::new(from, Verb::Uses, to, self.seen(file, line));
                link.label = Some(places.len().to_string());
                facts.links.push(link);
            }
        }
    }
}

/// How many imports go from box to box, without those of types only.
fn uses(lines: &Lines) -> Uses {
    let loaded = |all: &[Dependency]| all.iter().filter(|one| one.kind != Kind::Types).count() as u32;
    lines.iter().map(|(pair, all)| (*pair, loaded(all))).filter(|(_, count)| *count > 0).collect()
}

/// Whether an import only hands something on that lies in the folder for which the file stands.
pub(super) fn hands_on(folders: &Folders, sources: &Sources<'_>, one: &Dependency) -> bool {
    let inner = &sources.get(one.to).path;
    one.is_exposed && folders.entry_of.get(&one.from).is_some_and(|folder| is_within(inner, folder))
}

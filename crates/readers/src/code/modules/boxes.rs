//! Which folders and files are boxes of the picture: between 7 and 25 of them, by how large they are and how they are linked.

use super::circles::{Uses, circles};
use super::folders::Folders;
use crate::code::tree::{file_name, join};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// A picture has at most this many boxes.
pub(super) const MOST: usize = 25;
/// Fewer boxes than these say little.
const FEWEST: usize = 7;
/// This many tell a newcomer enough: only what is much larger than the rest is opened then.
const ENOUGH: usize = 9;
/// The content of a folder that has more than these is put together.
const MOST_IN_ONE: usize = 14;
/// A picture with more lines between its boxes is hard to follow.
const MOST_LINES: usize = 40;
/// Which two of this many boxes are put together best is asked of all pairs; more are first put together by their ranks.
// The time grows with the third power.
const MOST_COMPARED: usize = 120;
/// This many of more boxes stay by themselves then: the largest.
const KEPT: usize = 40;

/// A box, or a frame around boxes.
#[derive(Clone, Debug)]
pub(super) struct Cell {
    /// What it is called.
    pub(super) name: String,
    /// Its name in a text that has it already.
    pub(super) own_name: Option<String>,
    /// The paths that it stands for.
    pub(super) paths: Vec<String>,
    /// The files in it.
    pub(super) files: Vec<u32>,
    /// The frame around it.
    pub(super) frame: Option<usize>,
    pub(super) is_frame: bool,
    /// Whether it is the file that stands for the folder around it.
    pub(super) is_entry: bool,
}

/// Boxes while they are found: nodes that are one box, and folders that are open.
struct Boxing<'f> {
    folders: &'f Folders,
    /// How many imports go from file to file.
    links: &'f BTreeMap<(u32, u32), u32>,
    /// What each open folder holds.
    open: HashMap<usize, Vec<Unit>>,
}

/// Nodes that are one box.
#[derive(Clone, Debug)]
struct Unit {
    nodes: Vec<usize>,
    /// Only the files that stand for the folder, not what lies in it.
    is_entry: bool,
    lines: u64,
}

/// The boxes of a tree; `depth` opens folders to that depth, whatever comes of it.
pub(super) fn boxes(folders: &Folders, links: &BTreeMap<(u32, u32), u32>, depth: Option<usize>) -> Vec<Cell> {
    let mut boxing = Boxing { folders, links, open: HashMap::new() };
    match depth {
        Some(depth) => boxing.open_to(depth),
        None => boxing.open_by_size(),
    }
    boxing.cells()
}

impl Boxing<'_> {
    fn open_to(&mut self, depth: usize) {
        let mut level = vec![self.folders.root];
        for _ in 0..depth.max(1) {
            let mut next = Vec::new();
            level.retain(|node| self.can_open(*node));
            for node in level {
                let units = self.units(node);
                next.extend(units.iter().filter(|unit| !unit.is_entry).flat_map(|unit| unit.nodes.clone()));
                self.open.insert(node, units);
            }
            level = next;
        }
    }

    /// Whether a folder holds more than one thing that could be a box.
    fn can_open(&self, node: usize) -> bool {
        let folder = &self.folders.nodes[node];
        let inner: u64 = folder.children.iter().map(|child| self.folders.nodes[*child].lines).sum();
        let parts = folder.children.len() + usize::from(folder.lines > inner);
        parts > 1 && !folder.children.is_empty() && !self.open.contains_key(&node)
    }

    /// Opens the largest folder, again and again, as long as the picture can be read.
    fn open_by_size(&mut self) {
        let root = self.folders.root;
        let total = self.folders.nodes[root].lines.max(1);
        let mut boxes = vec![Unit { nodes: vec![root], is_entry: false, lines: total }];
        loop {
            let mut largest: Vec<usize> =
                boxes.iter().filter(|unit| unit.nodes.len() == 1 && !unit.is_entry).map(|unit| unit.nodes[0]).collect();
            largest.retain(|node| self.can_open(*node));
            largest.sort_by_key(|node| (std::cmp::Reverse(self.folders.nodes[*node].lines), *node));
            // What is much smaller than the rest is no substitute for it.
            let share = if boxes.len() >= ENOUGH { 4 } else { 6 };
            let is_large = |node: &usize| self.folders.nodes[*node].lines * share >= total;
            if boxes.len() >= ENOUGH || largest.iter().any(is_large) {
                largest.retain(is_large);
            }
            let opened = largest.iter().find_map(|node| self.opened(*node, &boxes));
            let opened = opened.or_else(|| {
                let too_few = boxes.len() < FEWEST;
                largest.first().filter(|_| too_few).map(|node| (*node, self.put_together(*node, &boxes)))
            });
            let Some((node, units)) = opened else { return };
            boxes = Self::replaced(&boxes, node, &units);
            self.open.insert(node, units);
        }
    }

    /// What lies in a folder, if that can be shown beside the other boxes as it is.
    fn opened(&self, node: usize, boxes: &[Unit]) -> Option<(usize, Vec<Unit>)> {
        let units = self.units(node);
        if units.len() > MOST_IN_ONE || boxes.len() - 1 + units.len() > MOST {
            return None;
        }
        let is_readable = self.lines(&Self::replaced(boxes, node, &units)) <= MOST_LINES;
        is_readable.then_some((node, units))
    }

    /// What lies in a folder, put together until it can be read, but in no fewer boxes than say something.
    fn put_together(&self, node: usize, boxes: &[Unit]) -> Vec<Unit> {
        let fewest = (FEWEST + 2).saturating_sub(boxes.len());
        let most = MOST_IN_ONE.min(MOST + 1 - boxes.len());
        self.folded(self.units(node), most, &|units| {
            units.len() <= fewest || self.lines(&Self::replaced(boxes, node, units)) <= MOST_LINES
        })
    }

    /// The boxes with one of them opened.
    fn replaced(boxes: &[Unit], node: usize, units: &[Unit]) -> Vec<Unit> {
        let others = boxes.iter().filter(|unit| unit.is_entry || unit.nodes != [node]);
        others.chain(units).cloned().collect()
    }

    /// The box of each file.
    fn box_of(&self, units: &[Unit]) -> HashMap<u32, usize> {
        let all =
            units.iter().enumerate().flat_map(|(i, unit)| self.files(unit).into_iter().map(move |file| (file, i)));
        all.collect()
    }

    /// Which boxes use which.
    fn uses(&self, units: &[Unit]) -> BTreeSet<(usize, usize)> {
        let box_of = self.box_of(units);
        let pairs = self.links.keys().filter_map(|(from, to)| Some((*box_of.get(from)?, *box_of.get(to)?)));
        pairs.filter(|(from, to)| from != to).collect()
    }

    fn lines(&self, units: &[Unit]) -> usize {
        self.uses(units).len()
    }

    fn units(&self, node: usize) -> Vec<Unit> {
        let folder = &self.folders.nodes[node];
        let inner: u64 = folder.children.iter().map(|child| self.folders.nodes[*child].lines).sum();
        let own =
            (!folder.own.is_empty()).then(|| Unit { nodes: vec![node], is_entry: true, lines: folder.lines - inner });
        let children = folder.children.iter();
        let children = children.map(|child| Unit {
            nodes: vec![*child],
            is_entry: false,
            lines: self.folders.nodes[*child].lines,
        });
        own.into_iter().chain(children).collect()
    }

    fn files(&self, unit: &Unit) -> Vec<u32> {
        match unit.is_entry {
            true => self.folders.nodes[unit.nodes[0]].own.clone(),
            false => unit.nodes.iter().flat_map(|node| self.folders.files(*node)).collect(),
        }
    }

    /// Puts the smallest boxes together with such as have the same neighbours, until there are few enough and all is well.
    ///
    /// Boxes that reach each other by way of others are not put together: that would make a circle where there is none.
    fn folded(&self, units: Vec<Unit>, most: usize, is_well: &dyn Fn(&[Unit]) -> bool) -> Vec<Unit> {
        let mut units = self.thinned(units);
        while units.len() > most || !is_well(&units) {
            let graph = Neighbours::of(units.len(), &self.uses(&units));
            let mut smallest: Vec<usize> = (0..units.len()).filter(|i| !units[*i].is_entry).collect();
            smallest.sort_by_key(|i| (units[*i].lines, *i));
            let total: u64 = units.iter().map(|unit| unit.lines).sum();
            let partner = |small: usize| {
                let others = smallest.iter().copied().filter(|other| *other != small);
                // One box with nearly everything says nothing.
                let others = others.filter(|other| units[*other].lines * 5 <= total * 2 || units.len() <= 3);
                let others = others.filter(|other| !graph.makes_circle(small, *other));
                others
                    .max_by_key(|other| (graph.shared(small, *other), std::cmp::Reverse((units[*other].lines, *other))))
            };
            let found = smallest.iter().find_map(|small| Some((*small, partner(*small)?)));
            // Where everything hangs together, the two smallest are as good as any.
            let pair = found.or_else(|| Some((*smallest.first()?, *smallest.get(1)?)));
            let Some((small, other)) = pair else { break };
            let moved = units[small].clone();
            units[other].nodes.extend(moved.nodes);
            units[other].lines += moved.lines;
            units.remove(small);
        }
        units
    }

    /// Puts the small ones of very many boxes together by their ranks: what uses nothing first, then what uses only that, and so on.
    /// Boxes of one rank, and whole ranks beside each other, reach each other in one direction at most: no circle comes from it.
    fn thinned(&self, units: Vec<Unit>) -> Vec<Unit> {
        if units.len() <= MOST_COMPARED {
            return units;
        }
        let ranks = ranks(units.len(), &self.uses(&units));
        let highest = ranks.iter().copied().max().unwrap_or(0);
        // Where there are more ranks than boxes may be, several are one.
        let most_ranks = MOST_COMPARED - KEPT;
        let is_long = highest >= most_ranks;
        let mut by_size: Vec<usize> = (0..units.len()).filter(|i| !units[*i].is_entry).collect();
        by_size.sort_by_key(|i| (std::cmp::Reverse(units[*i].lines), *i));
        let kept: BTreeSet<usize> = by_size.into_iter().take(if is_long { 0 } else { KEPT }).collect();
        let mut together: BTreeMap<usize, Unit> = BTreeMap::new();
        let mut out = Vec::new();
        for (i, unit) in units.into_iter().enumerate() {
            if unit.is_entry || kept.contains(&i) {
                out.push(unit);
                continue;
            }
            let rank = if is_long { ranks[i] * most_ranks / (highest + 1) } else { ranks[i] };
            match together.get_mut(&rank) {
                Some(whole) => {
                    whole.lines += unit.lines;
                    whole.nodes.extend(unit.nodes);
                }
                None => _ = together.insert(rank, unit),
            }
        }
        out.extend(together.into_values());
        out
    }

    /// Open folders as frames, what they hold as boxes.
    fn cells(&self) -> Vec<Cell> {
        let mut out: Vec<Cell> = Vec::new();
        let root = self.folders.root;
        let Some(units) = self.open.get(&root) else {
            let node = &self.folders.nodes[root];
            return vec![self.cell(&Unit { nodes: vec![root], is_entry: false, lines: node.lines }, None)];
        };
        let mut open: Vec<(Option<usize>, &Unit)> = units.iter().rev().map(|unit| (None, unit)).collect();
        while let Some((frame, unit)) = open.pop() {
            let inner = (unit.nodes.len() == 1 && !unit.is_entry).then(|| self.open.get(&unit.nodes[0])).flatten();
            let mut cell = self.cell(unit, frame);
            let Some(inner) = inner else {
                out.push(cell);
                continue;
            };
            cell.is_frame = true;
            cell.files.clear();
            out.push(cell);
            let frame = out.len() - 1;
            open.extend(inner.iter().rev().map(|unit| (Some(frame), unit)));
        }
        out
    }

    fn cell(&self, unit: &Unit, frame: Option<usize>) -> Cell {
        let mut nodes: Vec<usize> = unit.nodes.clone();
        nodes.sort_by_key(|node| (std::cmp::Reverse(self.folders.nodes[*node].lines), *node));
        let name = |node: &usize| self.folders.nodes[*node].name.clone();
        let name = match &nodes[..] {
            [one] if unit.is_entry => self.folders.entry_name(*one),
            [one] => name(one),
            [first, second] => format!("{}, {}", name(first), name(second)),
            [first, second, rest @ ..] => format!("{}, {} and {} more", name(first), name(second), rest.len()),
            [] => String::new(),
        };
        let paths = nodes.iter().map(|node| match unit.is_entry {
            true => self.folders.entry_path(*node),
            false => self.folders.nodes[*node].path.clone(),
        });
        let paths = paths.collect();
        let files = self.files(unit);
        Cell { name, own_name: None, paths, files, frame, is_frame: false, is_entry: unit.is_entry }
    }
}

/// The rank of each box: how long the longest way is from it to what uses nothing. Those of a circle have one rank.
fn ranks(count: usize, uses: &BTreeSet<(usize, usize)>) -> Vec<usize> {
    let counted: Uses = uses.iter().map(|pair| (*pair, 1)).collect();
    // A circle is one, by its first member.
    let mut first: Vec<usize> = (0..count).collect();
    for members in circles(count, &counted) {
        members.iter().for_each(|member| first[*member] = members[0]);
    }
    let apart = uses.iter().map(|(from, to)| (first[*from], first[*to])).filter(|(from, to)| from != to);
    let graph = Neighbours::of(count, &apart.collect());
    let mut left: Vec<usize> = graph.out.iter().map(BTreeSet::len).collect();
    let mut ranks = vec![0; count];
    let mut open: Vec<usize> = (0..count).filter(|i| left[*i] == 0).collect();
    while let Some(at) = open.pop() {
        for user in &graph.back[at] {
            ranks[*user] = ranks[*user].max(ranks[at] + 1);
            left[*user] -= 1;
            open.extend((left[*user] == 0).then_some(*user));
        }
    }
    (0..count).map(|i| ranks[first[i]]).collect()
}

/// Boxes with those next to them.
struct Neighbours {
    out: Vec<BTreeSet<usize>>,
    back: Vec<BTreeSet<usize>>,
}

impl Neighbours {
    fn of(count: usize, uses: &BTreeSet<(usize, usize)>) -> Self {
        let mut all = Self { out: vec![BTreeSet::new(); count], back: vec![BTreeSet::new(); count] };
        for (from, to) in uses {
            all.out[*from].insert(*to);
            all.back[*to].insert(*from);
        }
        all
    }

    /// How many lines fewer there are if both are one.
    fn shared(&self, a: usize, b: usize) -> usize {
        let direct = usize::from(self.out[a].contains(&b)) + usize::from(self.out[b].contains(&a));
        direct + self.out[a].intersection(&self.out[b]).count() + self.back[a].intersection(&self.back[b]).count()
    }

    /// Whether one reaches the other by way of others, but not the other way round.
    fn makes_circle(&self, a: usize, b: usize) -> bool {
        let [there, back] = [self.reaches_indirectly(a, b), self.reaches_indirectly(b, a)];
        let is_circle_already = (there || self.out[a].contains(&b)) && (back || self.out[b].contains(&a));
        (there || back) && !is_circle_already
    }

    fn reaches_indirectly(&self, from: usize, to: usize) -> bool {
        let mut seen: BTreeSet<usize> = BTreeSet::from([from]);
        let mut open: Vec<usize> = self.out[from].iter().copied().filter(|next| *next != to).collect();
        while let Some(at) = open.pop() {
            if self.out[at].contains(&to) {
                return true;
            }
            if seen.insert(at) {
                open.extend(self.out[at].iter().copied().filter(|next| *next != to));
            }
        }
        false
    }
}

impl Folders {
    /// What the files are called that stand for a folder.
    pub(super) fn entry_name(&self, node: usize) -> String {
        let path = self.entry_path(node);
        let name = file_name(&path);
        if name.starts_with('*') { self.nodes[node].name.clone() } else { name.to_owned() }
    }

    /// The file that stands for a folder; all of its files, where a package has several.
    pub(super) fn entry_path(&self, node: usize) -> String {
        let paths = &self.paths;
        match &self.nodes[node].own[..] {
            // A package of Go may have more files one day.
            [one] if !paths[*one as usize].ends_with(".go") => paths[*one as usize].clone(),
            several => {
                let first = several.first().map_or("", |file| paths[*file as usize].as_str());
                let ending = first.rsplit_once('.').map_or("", |(_, ending)| ending);
                join(crate::code::tree::folder(first), &format!("*.{ending}"))
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ranks_are_the_longest_ways_and_circles_have_one() {
        let uses = BTreeSet::from([(0, 1), (1, 2), (0, 2), (3, 4), (4, 3), (4, 2), (5, 3)]);
        assert_eq!(ranks(7, &uses), [2, 1, 0, 1, 1, 2, 0]);
    }

    #[test]
    fn only_what_is_no_way_already_makes_a_circle() {
        let graph = Neighbours::of(4, &BTreeSet::from([(0, 1), (1, 2), (0, 2), (2, 3), (3, 2)]));
        assert!(graph.makes_circle(0, 2) && graph.makes_circle(0, 3));
        assert!(!graph.makes_circle(0, 1) && !graph.makes_circle(1, 2) && !graph.makes_circle(2, 3));
        assert_eq!((graph.shared(0, 1), graph.shared(1, 3)), (2, 1));
    }
}

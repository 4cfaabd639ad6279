//! What is said of a tree: circles, ways around entries, files that nobody needs, and what could not be read.

use super::Map;
use crate::code::language::Language;
use crate::code::resolve::Dependency;
use crate::code::syntax::Kind;
use crate::code::tree::{LeftOut, file_name, folder, is_within};
use crate::finding::{Finding, Level, Seen};
use std::collections::{BTreeMap, BTreeSet};

/// Places of one finding that are listed.
const MOST_PLACES: usize = 20;
/// Names of a circle that are listed.
const MOST_NAMES: usize = 6;

/// Imports of the inner files of a folder that has a file to be imported by.
pub(super) struct Bypass {
    folder: String,
    entry: u32,
    pub(super) imports: BTreeSet<Dependency>,
}

impl Bypass {
    pub(super) fn finding(&self, map: &Map<'_>) -> Finding {
        let places: Vec<Seen> = self.imports.iter().map(|one| map.seen(one.from, one.line)).collect();
        let first = self.imports.iter().next().map_or("", |one| map.sources.get(one.to).path.as_str());
        let entry = &map.sources.get(self.entry).path;
        let folder = &self.folder;
        let says = match self.imports.len() {
            1 => format!("`{first}` is imported from outside of `{folder}`, past `{entry}`"),
            count => {
                format!("{count} imports from outside of `{folder}` go past `{entry}`, such as this one of `{first}`")
            }
        };
        finding("bypass", Level::Warning, places, says)
    }
}

fn finding(code: &'static str, level: Level, places: Vec<Seen>, says: String) -> Finding {
    let mut places = places.into_iter();
    let seen = places.next().unwrap_or_default();
    Finding { code, level, seen, others: places.take(MOST_PLACES).collect(), says }
}

/// Imports that pass by the file that shows what a folder has.
///
/// A folder has such a file if that hands on something of what lies in the folder, and most imports from outside go that way. What
/// it shows as a whole (`pub mod`) may be imported as a whole.
pub(super) fn bypasses(map: &Map<'_>) -> Vec<Bypass> {
    let mut faces: BTreeMap<&str, u32> = BTreeMap::new();
    for one in map.dependencies.all.iter().filter(|one| super::hands_on(map.folders, map.sources, one)) {
        if let Some(folder) = map.folders.entry_of.get(&one.from) {
            faces.entry(folder).or_insert(one.from);
        }
    }
    let mut out: BTreeMap<&str, Bypass> = BTreeMap::new();
    for one in &map.dependencies.all {
        let [from, to] = [one.from, one.to].map(|file| map.sources.get(file).path.as_str());
        let around = std::iter::successors(Some(folder(to)), |at| (!at.is_empty()).then(|| folder(at)));
        let passed = around.filter(|at| !is_within(from, at) && faces.get(at).is_some_and(|entry| *entry != one.to));
        // Modules of Rust may stand beside their folder.
        let passed = passed.filter(|at| map.folders.entry_of.get(&one.from).is_none_or(|own| !is_within(own, at)));
        for at in passed {
            let entry = faces[at];
            let is_shown = map.dependencies.public.get(&entry).is_some_and(|shown| {
                shown.iter().any(|shown| {
                    *shown == one.to || map.folders.entry_of.get(shown).is_some_and(|own| is_within(to, own))
                })
            });
            let is_inner_entry = map.folders.entry_of.get(&one.to).is_some_and(|own| own == at);
            if !is_shown && !is_inner_entry {
                let bypass =
                    out.entry(at).or_insert_with(|| Bypass { folder: at.to_owned(), entry, imports: BTreeSet::new() });
                bypass.imports.insert(*one);
                break;
            }
        }
    }
    // Where most go past it, it is not the way in.
    let goes_in = |bypass: &Bypass| {
        let outside = |one: &&Dependency| !is_within(&map.sources.get(one.from).path, &bypass.folder);
        map.dependencies.all.iter().filter(outside).filter(|one| one.to == bypass.entry).count()
    };
    out.into_values().filter(|bypass| bypass.imports.len() <= goes_in(bypass)).collect()
}

/// Files that nobody imports, and that are not begun with either.
pub(super) fn orphans(map: &Map<'_>) -> BTreeSet<u32> {
    let mut reached: BTreeSet<u32> = map.dependencies.all.iter().flat_map(|one| [one.to, one.reaches]).collect();
    reached.extend(&map.dependencies.entries);
    let all = map.sources.all.iter().enumerate().map(|(number, source)| (number as u32, source));
    let orphans = all.filter(|(number, source)| {
        let parsed = &source.parsed;
        match source.language {
            // A module is reached by `mod`, whether somebody imports it or not.
            Language::Rust => map.dependencies.unreached.contains(number),
            // Packages are imported as a whole.
            Language::Go => false,
            // A script that gives nothing away is begun with by a page.
            Language::TypeScript | Language::JavaScript if !parsed.has_exports => false,
            _ => {
                let is_alone = !reached.contains(number) && !parsed.is_started && parsed.lines > 0;
                is_alone && !map.folders.entry_of.contains_key(number) && !is_begun_with(&source.path)
            }
        }
    });
    orphans.map(|(number, _)| number).collect()
}

/// Files that tools and people begin with.
fn is_begun_with(path: &str) -> bool {
    let name = file_name(path);
    let stem = name.split('.').next().unwrap_or_default();
    name.contains(".config.")
        || name.contains(".d.")
        || name.starts_with('.')
        || matches!(
            stem,
            "main" | "__main__" | "index" | "app" | "server" | "cli" | "setup" | "manage" | "wsgi" | "asgi" | "conf"
        )
        || path.split('/').any(|part| matches!(part, "bin" | "scripts" | "tools" | "migrations" | "docs"))
}

/// Circles between boxes, each with the imports to be cut.
pub(super) fn circles(map: &Map<'_>, circles: &[Vec<usize>], cuts: &[Vec<(usize, usize)>]) -> Vec<Finding> {
    let between = circles.iter().zip(cuts).map(|(members, cut)| {
        let names: Vec<String> = members.iter().map(|cell| format!("`{}`", map.cells[*cell].name)).collect();
        let imports: Vec<&Dependency> = cut
            .iter()
            .flat_map(|pair| map.lines.get(pair).into_iter().flatten())
            .filter(|one| one.kind != Kind::Types)
            .collect();
        let places = imports.iter().map(|one| map.seen(one.from, one.line)).collect();
        let ways: Vec<String> =
            cut.iter().map(|(from, to)| format!("`{}` to `{}`", map.cells[*from].name, map.cells[*to].name)).collect();
        let count = imports.len();
        let imports = if count == 1 { "1 import".to_owned() } else { format!("{count} imports") };
        let says = format!("{} use each other; without {imports}, from {}, they do not", listed(&names), listed(&ways));
        finding("circle", Level::Warning, places, says)
    });
    between.chain(inner_circles(map)).collect()
}

/// Circles of files within one box, where a language loads files one after the other.
fn inner_circles(map: &Map<'_>) -> Vec<Finding> {
    let loads = |file: u32| map.sources.get(file).language.loads();
    let mut uses = super::Uses::new();
    let mut first: BTreeMap<(usize, usize), Seen> = BTreeMap::new();
    for one in map.dependencies.all.iter().filter(|one| one.kind == Kind::Plain && loads(one.from)) {
        if map.box_of.get(&one.from) == map.box_of.get(&one.to) {
            let pair = (one.from as usize, one.to as usize);
            *uses.entry(pair).or_default() += 1;
            first.entry(pair).or_insert_with(|| map.seen(one.from, one.line));
        }
    }
    let all = super::circles::circles(map.sources.all.len(), &uses);
    let one = |members: &Vec<usize>| {
        let cut = super::circles::cuts(members, &uses);
        let count: u32 = cut.iter().map(|pair| uses[pair]).sum();
        let places = cut.iter().filter_map(|pair| first.get(pair).cloned()).collect();
        let names: Vec<String> = members.iter().map(|file| format!("`{}`", map.sources.all[*file].path)).collect();
        let imports = if count == 1 { "1 import".to_owned() } else { format!("{count} imports") };
        let says = format!("{} import each other; without {imports} they do not", listed(&names));
        finding("circle-inside", Level::Note, places, says)
    };
    all.iter().map(one).collect()
}

fn listed(names: &[String]) -> String {
    match names {
        [] => String::new(),
        [one] => one.clone(),
        names if names.len() > MOST_NAMES => {
            format!("{} and {} more", names[..MOST_NAMES].join(", "), names.len() - MOST_NAMES)
        }
        [all @ .., last] => format!("{} and {last}", all.join(", ")),
    }
}

/// What nobody needs, what is not there, and what could not be read.
pub(super) fn others(map: &Map<'_>, orphans: &BTreeSet<u32>) -> Vec<Finding> {
    let mut by_box: BTreeMap<Option<usize>, Vec<u32>> = BTreeMap::new();
    orphans.iter().for_each(|file| by_box.entry(map.box_of.get(file).copied()).or_default().push(*file));
    let orphans = by_box.into_values().map(|files| {
        let is_rust = map.sources.get(files[0]).language == Language::Rust;
        let says = match (is_rust, &files[..]) {
            (true, [_]) => "no `mod` leads to this file".to_owned(),
            (true, files) => format!("no `mod` leads to {} files here, such as this one", files.len()),
            (false, [_]) => "nobody imports this file".to_owned(),
            (false, files) => format!("nobody imports {} files here, such as this one", files.len()),
        };
        finding("orphan", Level::Note, files.into_iter().map(|file| map.seen(file, 0)).collect(), says)
    });
    let missing = map.dependencies.missing.iter().map(|(file, line, path)| {
        finding(
            "not-found",
            Level::Warning,
            vec![map.seen(*file, *line)],
            format!("`{path}` is imported, and is not there"),
        )
    });
    orphans.chain(missing).chain(unread(map.sources)).collect()
}

/// A package that is not in the tree, with the imports of it.
pub(super) fn outside(package: &str, places: Vec<Seen>) -> Finding {
    let says = match places.len() {
        1 => format!("`{package}` is imported once"),
        count => format!("`{package}` is imported {count} times"),
    };
    finding("outside", Level::Note, places, says)
}

/// What could not be read of a tree, and what is left out on purpose.
pub(crate) fn unread(sources: &crate::code::sources::Sources<'_>) -> Vec<Finding> {
    let broken = sources.all.iter().filter_map(|source| {
        let file = sources.tree.shown(&source.path).into();
        let seen = Seen { file, line: source.parsed.broken?, ..Seen::default() };
        let says = "this line could not be understood; what is around it is read as far as it can be".to_owned();
        Some(finding("not-understood", Level::Note, vec![seen], says))
    });
    let unread = sources.unread.iter().map(|(path, why)| {
        let seen = Seen { file: sources.tree.shown(path).into(), ..Seen::default() };
        finding("unread", Level::Warning, vec![seen], format!("it is not read: {why}"))
    });
    let whole = || Seen { file: sources.tree.name().into(), ..Seen::default() };
    let left = sources.left_out.iter().map(|(why, count)| {
        let files = if *count == 1 { "1 source file".to_owned() } else { format!("{count} source files") };
        let says = match why {
            LeftOut::Vendored => format!("{files} of others left out"),
            LeftOut::Generated => format!("{files} that programs have written left out"),
            LeftOut::Test => {
                format!("{files} of tests, examples and benchmarks left out; `--with-tests` takes them in")
            }
        };
        finding("left-out", Level::Note, vec![whole()], says)
    });
    broken.chain(unread).chain(left).collect()
}

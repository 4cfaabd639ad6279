//! Imports in the core follow the data: no module uses one that comes after it, and inside a folder no files use each
//! other in a circle. Read are `use` lines and paths in the code of every file, tests at its bottom left out; a name that a
//! folder hands on counts for the file that it comes from.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

/// The modules in the order of the data; a module may use those before it.
const ORDER: &[&str] = &[
    "source",
    "geom",
    "jobs",
    "markup",
    "vocabulary",
    "diag",
    "syntax",
    "model",
    "format",
    "views",
    "emit",
    "compare",
    "conform",
    "check",
    "language",
    "measure",
    "theme",
    "layout",
    "scene",
    "manner",
    "notation",
    "container",
    "svg",
    "pipeline",
    "facade",
    "review",
    "ide",
    "nudge",
    "merge",
];

type Module = Vec<String>;

/// The code of every module, by its path.
struct House {
    code: BTreeMap<Module, String>,
    /// Modules whose file is the head of a folder.
    heads: BTreeSet<Module>,
    /// By module: names that it hands on, and where they come from.
    handed: BTreeMap<Module, BTreeMap<String, Vec<String>>>,
}

fn read(folder: &Path, module: &Module, house: &mut House) {
    for entry in std::fs::read_dir(folder).expect("a folder").flatten() {
        let path = entry.path();
        let name = path.file_stem().expect("a name").to_string_lossy().into_owned();
        let mut inner = module.clone();
        if path.is_dir() {
            inner.push(name);
            read(&path, &inner, house);
        } else if path.extension().is_some_and(|e| e == "rs") && name != "lib" {
            if name == "mod" {
                house.heads.insert(inner.clone());
            } else {
                inner.push(name);
            }
            let text = std::fs::read_to_string(&path).expect("a source");
            let code = text.split("#[cfg(test)]\nmod ").next().unwrap_or_default();
            let code: String =
                code.lines().map(|l| l.split("//").next().unwrap_or_default().to_owned() + "\n").collect();
            house.code.insert(inner, code);
        }
    }
}

/// The paths of a `use` tree, and under which name each is known.
fn unfold(before: &[String], tree: &str, found: &mut Vec<(String, Vec<String>)>) {
    let mut depth = 0;
    let mut start = 0;
    let ends = tree.char_indices().chain([(tree.len(), ',')]);
    for (at, c) in ends {
        match c {
            '{' => depth += 1,
            '}' => depth -= 1,
            ',' if depth == 0 => {
                let item = tree[start..at].trim();
                start = (at + 1).min(tree.len());
                let mut path = before.to_vec();
                let words =
                    |s: &str| s.split("::").map(|w| w.trim().to_owned()).filter(|w| !w.is_empty()).collect::<Vec<_>>();
                match item.split_once('{') {
                    Some((head, rest)) => {
                        path.extend(words(head));
                        unfold(&path, rest.rsplit_once('}').map_or(rest, |r| r.0), found);
                    }
                    None if item.is_empty() => {}
                    None => {
                        let (item, known) = item.split_once(" as ").unwrap_or((item, ""));
                        path.extend(words(item));
                        let known =
                            if known.is_empty() { path.last().cloned().unwrap_or_default() } else { known.into() };
                        found.push((known, path));
                    }
                }
            }
            _ => {}
        }
    }
}

/// What a file uses, and what of that it hands on.
fn uses(code: &str) -> (Vec<Vec<String>>, BTreeMap<String, Vec<String>>) {
    let (mut used, mut handed) = (Vec::new(), BTreeMap::new());
    let mut body = String::new();
    for (i, piece) in code.split("use ").enumerate() {
        let before = body.trim_end();
        let is_line = i > 0 && (before.is_empty() || before.ends_with([';', '}', ')', ']']) || before.ends_with("pub"));
        let Some((tree, rest)) = piece.split_once(';').filter(|_| is_line) else {
            body.push_str(piece);
            continue;
        };
        let is_handed = before.ends_with("pub")
            || before.rsplit_once("pub(").is_some_and(|(_, r)| r.ends_with(')') && r.len() < 14);
        let mut found = Vec::new();
        unfold(&[], tree, &mut found);
        for (name, path) in found {
            used.push(path.clone());
            if is_handed {
                handed.insert(name, path);
            }
        }
        body.push_str(rest);
    }
    for start in ["crate::", "super::", "self::"] {
        for (at, _) in body.match_indices(start) {
            let path: String = body[at..].chars().take_while(|c| c.is_alphanumeric() || "_:".contains(*c)).collect();
            used.push(path.split("::").filter(|w| !w.is_empty()).map(str::to_owned).collect());
        }
    }
    (used, handed)
}

impl House {
    fn of_core() -> Self {
        let mut house = House { code: BTreeMap::new(), heads: BTreeSet::new(), handed: BTreeMap::new() };
        read(&Path::new(env!("CARGO_MANIFEST_DIR")).join("src"), &Vec::new(), &mut house);
        house.handed = house.code.iter().map(|(m, code)| (m.clone(), uses(code).1)).collect();
        house
    }

    /// The module that a path leads to, seen from another one.
    fn target(&self, from: &Module, path: &[String], depth: usize) -> Option<Module> {
        let (mut at, mut rest) = match path.first()?.as_str() {
            "crate" => (Vec::new(), &path[1..]),
            "self" => (from.clone(), &path[1..]),
            "super" => {
                let up = path.iter().take_while(|w| *w == "super").count();
                (from[..from.len().checked_sub(up)?].to_vec(), &path[up..])
            }
            first => {
                let inner: Module = from.iter().cloned().chain([first.to_owned()]).collect();
                self.code.contains_key(&inner).then(|| (from.clone(), path))?
            }
        };
        while let Some(first) = rest.first() {
            let inner: Module = at.iter().cloned().chain([first.clone()]).collect();
            if !self.code.contains_key(&inner) {
                break;
            }
            (at, rest) = (inner, &rest[1..]);
        }
        let onward = rest.first().and_then(|name| self.handed.get(&at)?.get(name)).filter(|_| depth < 8);
        let onward = onward.and_then(|path| self.target(&at, path, depth + 1));
        onward.or((!at.is_empty()).then_some(at))
    }

    /// Which module uses which.
    fn edges(&self) -> BTreeSet<(Module, Module)> {
        let mut edges = BTreeSet::new();
        for (module, code) in &self.code {
            let (used, handed) = uses(code);
            let is_head = self.heads.contains(module);
            // What the head of a folder hands on, it does not use.
            let used = used.into_iter().filter(|path| !is_head || !handed.values().any(|h| h == path));
            // The head of a folder calls its files by their names.
            for inner in self.code.keys().filter(|inner| is_head && inner.len() == module.len() + 1) {
                let called = format!("{}::", inner[module.len()]);
                let is_call = |(at, _): (usize, &str)| {
                    let before = &code[..at];
                    let is_handed = before.rsplit('\n').next().is_some_and(|row| row.contains("use "));
                    !is_handed && !before.ends_with(|c: char| c.is_alphanumeric() || c == '_' || c == ':')
                };
                if inner.starts_with(module) && code.match_indices(&called).any(is_call) {
                    edges.insert((module.clone(), inner.clone()));
                }
            }
            for path in used {
                edges.extend(self.target(module, &path, 0).filter(|t| t != module).map(|t| (module.clone(), t)));
            }
        }
        edges
    }
}

#[test]
fn imports_never_point_back() {
    let house = House::of_core();
    let modules: BTreeSet<&str> = house.code.keys().map(|m| m[0].as_str()).collect();
    assert_eq!(modules, ORDER.iter().copied().collect(), "the order names every module");
    let place = |module: &str| ORDER.iter().position(|m| *m == module);
    for (from, to) in house.edges().iter().filter(|(from, to)| from[0] != to[0]) {
        assert!(place(&from[0]) > place(&to[0]), "{} uses {}, which comes later", from.join("::"), to.join("::"));
    }
}

/// A way from something back to itself.
fn circle<'a>(
    at: &'a str, graph: &BTreeMap<&'a str, BTreeSet<&'a str>>, way: &mut Vec<&'a str>, done: &mut BTreeSet<&'a str>,
) -> Option<Vec<&'a str>> {
    if let Some(start) = way.iter().position(|w| *w == at) {
        return Some(way[start..].to_vec());
    }
    if !done.insert(at) {
        return None;
    }
    way.push(at);
    let found = graph.get(at).into_iter().flatten().find_map(|next| circle(next, graph, way, done));
    way.pop();
    found
}

#[test]
fn no_files_of_a_folder_use_each_other_in_a_circle() {
    let house = House::of_core();
    let edges = house.edges();
    assert!(edges.len() > 1000, "{} uses", edges.len());
    let folders: BTreeSet<&[String]> = house.code.keys().flat_map(|m| (0..m.len()).map(|n| &m[..n])).collect();
    for folder in folders {
        // The files of a folder, and folders in it, each as one.
        let child = |m: &'_ Module| m.starts_with(folder).then(|| m.get(folder.len()).cloned().unwrap_or_default());
        let pairs: BTreeSet<(String, String)> =
            edges.iter().filter_map(|(a, b)| Some((child(a)?, child(b)?))).filter(|(a, b)| a != b).collect();
        let mut graph: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
        for (a, b) in &pairs {
            graph.entry(a).or_default().insert(b);
        }
        let mut done = BTreeSet::new();
        let found = graph.keys().find_map(|start| circle(start, &graph, &mut Vec::new(), &mut done));
        assert_eq!(found, None, "in {}", folder.join("::"));
    }
}

#[test]
fn every_module_says_what_it_is() {
    fn check(folder: &Path) {
        for entry in std::fs::read_dir(folder).expect("a folder").flatten() {
            let path = entry.path();
            if path.is_dir() {
                check(&path);
            } else if path.extension().is_some_and(|e| e == "rs") {
                let text = std::fs::read_to_string(&path).expect("a source");
                assert!(text.starts_with("//!"), "{} begins with its purpose", path.display());
            }
        }
    }
    check(&Path::new(env!("CARGO_MANIFEST_DIR")).join("src"));
}

//! The folders of a tree with what lies in them. A folder that only holds another one is no level of its own.

use crate::code::language::Language;
use crate::code::sources::Sources;
use crate::code::tree::{file_name, folder, join, stem};
use std::collections::HashMap;

/// Names of folders that say nothing of what is in them.
const SILENT: [&str; 14] = [
    "src", "lib", "main", "java", "python", "source", "sources", "pkg", "packages", "crates", "internal", "js", "ts",
    "go",
];
/// Files that stand for their folder, in Rust and elsewhere.
const RUST_ENTRIES: [&str; 2] = ["mod", "lib"];
const ENTRIES: [&str; 3] = ["__init__", "index", "package-info"];

/// A folder or a file.
#[derive(Clone, Debug, Default)]
pub(crate) struct Node {
    /// Its path; the outermost one of folders that hold each other only.
    pub(crate) path: String,
    /// What it is called.
    pub(crate) name: String,
    /// Folders and files in it, in the order of their paths.
    pub(crate) children: Vec<usize>,
    /// The files that stand for the folder; for a file, itself; for a package of Go, all of its files.
    pub(crate) own: Vec<u32>,
    /// Lines of everything in it.
    pub(crate) lines: u64,
    pub(crate) is_file: bool,
}

/// All folders and files of a tree.
pub(crate) struct Folders {
    pub(crate) nodes: Vec<Node>,
    pub(crate) root: usize,
    /// The paths of all files.
    pub(crate) paths: Vec<String>,
    /// The folder for which each file stands, if it does.
    pub(crate) entry_of: HashMap<u32, String>,
}

impl Folders {
    pub(crate) fn of(sources: &Sources<'_>) -> Self {
        let mut building = Building { sources, nodes: vec![Node::default()], by_path: HashMap::new() };
        building.by_path.insert(String::new(), 0);
        let mut entry_of = HashMap::new();
        for (number, source) in sources.all.iter().enumerate() {
            let number = number as u32;
            match entry(sources, &source.path, source.language) {
                Some(at) => {
                    let node = building.folder(&at);
                    building.nodes[node].own.push(number);
                    entry_of.insert(number, at);
                }
                None => building.file(number, &source.path),
            }
        }
        building.weigh();
        let root = building.shortened(0);
        building.name(root);
        // The outermost folder is called as the project is.
        if building.nodes[root].name.is_empty() {
            building.nodes[root].name = crate::code::project::name(sources);
        }
        let paths = sources.all.iter().map(|source| source.path.clone()).collect();
        Self { nodes: building.nodes, root, paths, entry_of }
    }

    /// All files in a node.
    pub(crate) fn files(&self, node: usize) -> Vec<u32> {
        let mut out = Vec::new();
        let mut open = vec![node];
        while let Some(node) = open.pop() {
            out.extend(&self.nodes[node].own);
            open.extend(&self.nodes[node].children);
        }
        out.sort_unstable();
        out
    }
}

/// The folder for which a file stands.
fn entry(sources: &Sources<'_>, path: &str, language: Language) -> Option<String> {
    let at = folder(path);
    let name = stem(path);
    match language {
        Language::Go => Some(at.to_owned()),
        Language::Rust => {
            // `gauge.rs` beside the folder `gauge` is the module of that folder.
            let own = join(at, name);
            match RUST_ENTRIES.contains(&name) {
                true => Some(at.to_owned()),
                false => sources.has_folder(&own).then_some(own),
            }
        }
        _ => ENTRIES.contains(&name.strip_suffix(".d").unwrap_or(name)).then(|| at.to_owned()),
    }
}

struct Building<'s> {
    sources: &'s Sources<'s>,
    nodes: Vec<Node>,
    by_path: HashMap<String, usize>,
}

impl Building<'_> {
    /// The node of a folder, with those around it.
    fn folder(&mut self, path: &str) -> usize {
        if let Some(known) = self.by_path.get(path) {
            return *known;
        }
        // Folders may be nested as deep as they like.
        let around: Vec<&str> = std::iter::successors(Some(path), |at| (!at.is_empty()).then(|| folder(at))).collect();
        let mut parent = 0;
        for at in around.into_iter().rev().skip(1) {
            parent = match self.by_path.get(at) {
                Some(known) => *known,
                None => self.add(parent, Node { path: at.to_owned(), ..Node::default() }),
            };
        }
        parent
    }

    fn add(&mut self, parent: usize, node: Node) -> usize {
        let number = self.nodes.len();
        if !node.is_file {
            self.by_path.insert(node.path.clone(), number);
        }
        self.nodes.push(node);
        self.nodes[parent].children.push(number);
        number
    }

    fn file(&mut self, number: u32, path: &str) {
        let parent = self.folder(folder(path));
        let name = file_name(path).split('.').next().unwrap_or_default().to_owned();
        let name = if name.is_empty() { file_name(path).to_owned() } else { name };
        self.add(parent, Node { path: path.to_owned(), name, own: vec![number], is_file: true, ..Node::default() });
    }

    /// Adds up lines. What lies in something has a higher number than that.
    fn weigh(&mut self) {
        for number in (0..self.nodes.len()).rev() {
            let own =
                self.nodes[number].own.iter().map(|file| u64::from(self.sources.get(*file).parsed.lines)).sum::<u64>();
            let inner: u64 = self.nodes[number].children.iter().map(|child| self.nodes[*child].lines).sum();
            self.nodes[number].lines = own + inner;
        }
    }

    /// Leaves out folders that only hold another one; gives the node that is left.
    fn shortened(&mut self, root: usize) -> usize {
        for number in (0..self.nodes.len()).rev() {
            let children = self.nodes[number].children.clone();
            self.nodes[number].children = children.into_iter().map(|child| self.innermost(child)).collect();
        }
        self.innermost(root)
    }

    /// The folder that a folder only holds; it takes over the path.
    fn innermost(&mut self, node: usize) -> usize {
        let Node { children, own, is_file, path, .. } = &self.nodes[node];
        let [inner] = children[..] else { return node };
        if *is_file || !own.is_empty() || self.nodes[inner].is_file {
            return node;
        }
        let path = path.clone();
        // What a name says stands in the path: keep the whole of it for that.
        let below = self.nodes[inner].path[path.len()..].trim_start_matches('/').to_owned();
        let said = if self.nodes[inner].name.is_empty() { below } else { self.nodes[inner].name.clone() };
        let own = file_name(&path).to_owned();
        self.nodes[inner].name = if own.is_empty() { said } else { format!("{own}/{said}") };
        if node != 0 {
            self.nodes[inner].path = path;
        }
        inner
    }

    /// Names folders by what stands before their sources, or else by the last part of their paths that says something.
    fn name(&mut self, root: usize) {
        let mut open = vec![root];
        while let Some(number) = open.pop() {
            open.extend(&self.nodes[number].children);
            let node = &mut self.nodes[number];
            if node.is_file {
                continue;
            }
            let chain = if node.name.is_empty() { file_name(&node.path).to_owned() } else { node.name.clone() };
            let parts: Vec<&str> = chain.split('/').collect();
            let sources = parts.iter().position(|part| *part == "src").unwrap_or(0);
            let says = |part: &&&str| !SILENT.contains(*part);
            let said = parts[..sources].iter().rev().find(says).or_else(|| parts.iter().rev().find(says));
            node.name = said.or(parts.last()).copied().unwrap_or_default().to_owned();
        }
    }
}

//! Rust: crates, modules and paths (The Rust Reference, "Items: Modules", "Use declarations", "Paths").

use super::{FARTHEST, Resolver, Target};
use crate::code::language::Language;
use crate::code::sources::Sources;
use crate::code::syntax::{ALL, Import};
use crate::code::tree::{file_name, folder, is_within, join, normal, stem};
use std::collections::{HashMap, HashSet};
use toml::{Table, Value};

/// Crates that come with the language.
const STANDARD: [&str; 5] = ["std", "core", "alloc", "proc_macro", "test"];

/// A crate that another one may name.
#[derive(Clone, Debug)]
enum Named {
    /// A library of the tree, by its package.
    Own(String),
    Outside(String),
}

/// A package of a tree.
#[derive(Clone, Debug, Default)]
struct Package {
    folder: String,
    name: String,
    /// Whether paths of `use` begin at the root of the crate (edition 2015).
    is_old: bool,
    library: Option<String>,
    roots: Vec<String>,
    crates: HashMap<String, Named>,
}

/// One module: a file, or a block in one.
struct Module {
    file: u32,
    scope: usize,
    parent: Option<usize>,
    /// The outermost module of the crate.
    root: usize,
    package: Option<usize>,
    children: HashMap<String, usize>,
    /// Children that only this module and those in it may name.
    private: HashSet<String>,
    /// The folder in which the files of its modules lie.
    folder: String,
}

/// The crates of a tree.
pub(super) struct Crates<'s> {
    sources: &'s Sources<'s>,
    packages: Vec<Package>,
    modules: Vec<Module>,
    /// Modules by file and inline module.
    by_place: HashMap<(u32, usize), usize>,
    /// The outermost modules of libraries, by the names of their packages.
    libraries: HashMap<String, usize>,
    unreached: Vec<u32>,
    public: HashMap<u32, Vec<u32>>,
    roots: Vec<u32>,
}

/// Where a path leads.
enum Place {
    /// A module, and the names that are left: what is declared in it.
    Module(usize, Option<String>),
    Outside(String),
    Standard,
    Unknown,
}

impl<'s> Crates<'s> {
    pub(super) fn new(sources: &'s Sources<'s>) -> Self {
        let mut out = Self {
            sources,
            packages: Vec::new(),
            modules: Vec::new(),
            by_place: HashMap::new(),
            libraries: HashMap::new(),
            unreached: Vec::new(),
            public: HashMap::new(),
            roots: Vec::new(),
        };
        if !sources.has(Language::Rust) {
            return out;
        }
        out.read_packages();
        out.find_roots();
        out.take_the_rest();
        out
    }

    fn read_packages(&mut self) {
        let manifests: Vec<(&str, Table)> = self
            .sources
            .named("Cargo.toml")
            .into_iter()
            .filter_map(|(path, text)| Some((path, text.parse().ok()?)))
            .collect();
        let workspace: Vec<(String, Table)> = manifests
            .iter()
            .filter_map(|(path, manifest)| {
                let shared = manifest.get("workspace")?.as_table()?.clone();
                Some((folder(path).to_owned(), shared))
            })
            .collect();
        let mut own: HashSet<String> = HashSet::new();
        for (_, manifest) in &manifests {
            own.extend(package_name(manifest));
        }
        for (path, manifest) in &manifests {
            let at = folder(path);
            let Some(name) = package_name(manifest) else { continue };
            let around = workspace.iter().filter(|(folder, _)| is_within(at, folder));
            let shared = around.max_by_key(|(folder, _)| folder.len()).map(|(_, shared)| shared);
            self.packages.push(self.package(manifest, at, name, shared, &own));
        }
    }

    fn package(
        &self, manifest: &Table, at: &str, name: String, shared: Option<&Table>, own: &HashSet<String>,
    ) -> Package {
        let about = manifest.get("package").and_then(Value::as_table);
        let edition = about.and_then(|about| about.get("edition"));
        let mut out =
            Package { folder: at.to_owned(), name: name.clone(), is_old: edition.is_none(), ..Package::default() };
        out.is_old |= edition.and_then(Value::as_str) == Some("2015");
        let target_paths = |key: &str| -> Vec<String> {
            let all: Vec<&Value> = match manifest.get(key) {
                Some(Value::Array(all)) => all.iter().collect(),
                Some(one) => vec![one],
                None => Vec::new(),
            };
            let named = all.into_iter().filter_map(|target| {
                let target = target.as_table()?;
                let said = target.get("path").and_then(Value::as_str).map(str::to_owned);
                let usual = || Some(format!("src/bin/{}.rs", target.get("name")?.as_str()?));
                said.or_else(|| (key == "bin").then(usual).flatten())
            });
            named.filter_map(|path| normal(&join(at, &path))).collect()
        };
        let library = target_paths("lib").into_iter().next().unwrap_or_else(|| join(at, "src/lib.rs"));
        if self.sources.at(&library).is_some() {
            out.library = Some(library.clone());
            out.roots.push(library);
        }
        out.roots.extend(["src/main.rs", "build.rs"].map(|path| join(at, path)));
        out.roots.extend(["bin", "test", "example", "bench"].into_iter().flat_map(target_paths));
        let lib_name = manifest.get("lib").and_then(|lib| lib.get("name")?.as_str()).unwrap_or(&name);
        if out.library.is_some() {
            out.crates.insert(plain(lib_name), Named::Own(name.clone()));
        }
        for table in dependency_tables(manifest) {
            for (key, said) in table {
                let inherits = said.get("workspace").and_then(Value::as_bool) == Some(true);
                let shared = shared.filter(|_| inherits).and_then(|shared| shared.get("dependencies")?.get(key));
                let renamed = shared.unwrap_or(said).get("package").and_then(Value::as_str);
                let package = renamed.unwrap_or(key).to_owned();
                let named = if own.contains(&package) { Named::Own(package) } else { Named::Outside(package) };
                out.crates.insert(plain(key), named);
            }
        }
        out
    }

    fn find_roots(&mut self) {
        for number in 0..self.packages.len() {
            let package = self.packages[number].clone();
            let mut roots = package.roots.clone();
            let below = |name: &str| join(&package.folder, name);
            // Cargo finds these by their places.
            let is_target = |path: &str| {
                ["src/bin", "tests", "examples", "benches"].iter().any(|name| {
                    let at = below(name);
                    folder(path) == at || file_name(path) == "main.rs" && folder(folder(path)) == at
                })
            };
            let own = self.sources.all.iter().map(|source| source.path.as_str());
            let own = own.filter(|path| is_within(path, &package.folder) && is_target(path));
            roots.extend(own.map(str::to_owned));
            for root in roots {
                let Some(file) = self.sources.at(&root) else { continue };
                if self.by_place.contains_key(&(file, 0)) {
                    continue;
                }
                let module = self.add(file, 0, None, Some(number), folder(&root).to_owned());
                self.roots.push(file);
                if package.library.as_deref() == Some(&root) {
                    self.libraries.insert(package.name.clone(), module);
                }
                self.grow(module);
            }
        }
    }

    /// Files that no module leads to: outermost ones of crates without a manifest, and such as nobody needs any more.
    fn take_the_rest(&mut self) {
        for (number, source) in
            self.sources.all.iter().enumerate().filter(|(_, source)| source.language == Language::Rust)
        {
            let file = number as u32;
            if self.by_place.contains_key(&(file, 0)) {
                continue;
            }
            let package = self.package_around(&source.path);
            let name = file_name(&source.path);
            let is_root = matches!(name, "lib.rs" | "main.rs") || package.is_none() && !self.has_parent(&source.path);
            if is_root {
                let module = self.add(file, 0, None, package, folder(&source.path).to_owned());
                self.roots.push(file);
                self.grow(module);
            }
        }
        for (number, source) in
            self.sources.all.iter().enumerate().filter(|(_, source)| source.language == Language::Rust)
        {
            let file = number as u32;
            if !self.by_place.contains_key(&(file, 0)) {
                self.unreached.push(file);
                let parent = self.parent_of(&source.path);
                let package = self.package_around(&source.path);
                let module = self.add(file, 0, parent, package, own_folder(&source.path, false));
                self.grow(module);
            }
        }
    }

    fn package_around(&self, path: &str) -> Option<usize> {
        let around = self.packages.iter().enumerate().filter(|(_, package)| is_within(path, &package.folder));
        around.max_by_key(|(_, package)| package.folder.len()).map(|(number, _)| number)
    }

    /// Whether a file beside or above could declare it.
    fn has_parent(&self, path: &str) -> bool {
        let at = folder(path);
        let above = |name: &str| path != join(at, name) && self.sources.at(&join(at, name)).is_some();
        ["lib.rs", "main.rs", "mod.rs"].iter().any(|name| above(name))
            || self.sources.at(&format!("{at}.rs")).is_some()
            || file_name(path) == "mod.rs"
    }

    /// The module that would declare a file, by its place.
    fn parent_of(&self, path: &str) -> Option<usize> {
        let at = folder(path);
        let at = if file_name(path) == "mod.rs" { folder(at) } else { at };
        let files = ["mod.rs", "lib.rs", "main.rs"].map(|name| join(at, name));
        let files = files.into_iter().chain([format!("{at}.rs")]);
        files.filter_map(|file| self.by_place.get(&(self.sources.at(&file)?, 0)).copied()).next()
    }

    fn add(&mut self, file: u32, scope: usize, parent: Option<usize>, package: Option<usize>, folder: String) -> usize {
        let number = self.modules.len();
        let root = parent.map_or(number, |parent| self.modules[parent].root);
        self.modules.push(Module {
            file,
            scope,
            parent,
            root,
            package,
            children: HashMap::new(),
            private: HashSet::new(),
            folder,
        });
        self.by_place.entry((file, scope)).or_insert(number);
        number
    }

    /// Finds the modules in a module, to the innermost.
    fn grow(&mut self, from: usize) {
        let mut open = vec![from];
        while let Some(number) = open.pop() {
            let Module { file, scope, package, .. } = self.modules[number];
            let at = self.modules[number].folder.clone();
            let source = self.sources.get(file);
            for (inner, (around, name)) in source.parsed.scopes.iter().enumerate().skip(1) {
                if *around == scope && inner != scope {
                    let child = self.add(file, inner, Some(number), package, join(&at, name));
                    self.modules[number].children.insert(name.clone(), child);
                    open.push(child);
                }
            }
            let lines: Vec<_> = source.parsed.modules.iter().filter(|line| line.scope == scope).collect();
            for line in lines {
                if line.is_private {
                    self.modules[number].private.insert(line.name.clone());
                }
                for path in self.files_of(line, &source.path, &at) {
                    let Some(inner) = self.sources.at(&path) else { continue };
                    if line.is_public {
                        self.public.entry(file).or_default().push(inner);
                    }
                    if let Some(known) = self.by_place.get(&(inner, 0)) {
                        let known = *known;
                        self.modules[number].children.entry(line.name.clone()).or_insert(known);
                        continue;
                    }
                    let child = self.add(inner, 0, Some(number), package, own_folder(&path, !line.paths.is_empty()));
                    self.modules[number].children.entry(line.name.clone()).or_insert(child);
                    open.push(child);
                }
            }
        }
    }

    /// The files in which the module of a line may stand.
    fn files_of(&self, line: &crate::code::syntax::ModuleLine, path: &str, at: &str) -> Vec<String> {
        let named = line.paths.iter().filter_map(|said| {
            // Named paths begin at the folder of the file; inside a block, at the block's own.
            let base = if line.scope == 0 { folder(path) } else { at };
            normal(&join(base, said))
        });
        let usual = [join(at, &format!("{}.rs", line.name)), join(at, &format!("{}/mod.rs", line.name))];
        named.chain(usual).filter(|path| self.sources.at(path).is_some()).collect()
    }

    fn module_of(&self, file: u32, scope: usize) -> Option<usize> {
        self.by_place.get(&(file, scope)).or_else(|| self.by_place.get(&(file, 0))).copied()
    }

    /// Where a path leads, seen from a module.
    fn place(&self, from: usize, path: &str, is_inline: bool, left: usize) -> Place {
        let Some(left) = left.checked_sub(1) else { return Place::Unknown };
        let mut names: Vec<&str> = path.split("::").collect();
        let package = self.modules[from].package.map(|package| &self.packages[package]);
        let is_old = package.is_some_and(|package| package.is_old);
        let first = names.remove(0);
        match first {
            "crate" | "$crate" => self.walk(from, self.modules[from].root, &names, left),
            "self" => self.walk(from, from, &names, left),
            "super" => match self.modules[from].parent {
                Some(parent) => self.walk_up(from, parent, &names, left),
                None => Place::Unknown,
            },
            "Self" => Place::Unknown,
            "" if names.is_empty() => Place::Unknown,
            "" if is_old => self.place_below_root(from, names[0], &names, left),
            "" => self.krate(from, names[0], &names[1..], left),
            first => {
                names.insert(0, first);
                if is_old && !is_inline {
                    return self.place_below_root(from, first, &names, left);
                }
                if self.modules[from].children.contains_key(first) {
                    return self.walk(from, from, &names, left);
                }
                if is_inline {
                    // What was imported by this name is counted there.
                    let imports = &self.sources.get(self.modules[from].file).parsed.imports;
                    let is_imported = |import: &Import| !import.is_inline && name_of(import) == Some(first);
                    if imports.iter().any(is_imported) {
                        return Place::Unknown;
                    }
                    return self.krate_if_known(from, first, &names[1..], left).unwrap_or(Place::Unknown);
                }
                if let Some(found) = self.krate_if_known(from, first, &names[1..], left) {
                    return found;
                }
                match self.imported(from, first, left) {
                    Some(Place::Module(module, None)) => self.walk(from, module, &names[1..], left),
                    Some(found) => found,
                    None if self.declares(from, first) => Place::Unknown,
                    None => self.krate(from, first, &names[1..], left),
                }
            }
        }
    }

    fn place_below_root(&self, from: usize, first: &str, names: &[&str], left: usize) -> Place {
        let root = self.modules[from].root;
        if self.modules[root].children.contains_key(first) || self.declares(root, first) {
            return self.walk(from, root, names, left);
        }
        match self.krate_if_known(from, first, &names[1..], left) {
            Some(found) => found,
            None => match self.imported(root, first, left) {
                Some(Place::Module(module, None)) => self.walk(from, module, &names[1..], left),
                Some(found) => found,
                None => self.krate(from, first, &names[1..], left),
            },
        }
    }

    fn declares(&self, module: usize, name: &str) -> bool {
        let Module { file, scope, .. } = &self.modules[module];
        *scope == 0 && self.sources.get(*file).parsed.declared.iter().any(|declared| declared == name)
    }

    /// A crate by its name, if it is one that this package knows.
    fn krate_if_known(&self, from: usize, name: &str, rest: &[&str], left: usize) -> Option<Place> {
        if STANDARD.contains(&name) {
            return Some(Place::Standard);
        }
        let package = self.modules[from].package.map(|package| &self.packages[package])?;
        match package.crates.get(name)? {
            Named::Own(own) => Some(match self.libraries.get(own) {
                Some(root) => self.walk(from, *root, rest, left),
                None => Place::Outside(own.clone()),
            }),
            Named::Outside(name) => Some(Place::Outside(name.clone())),
        }
    }

    fn krate(&self, from: usize, name: &str, rest: &[&str], left: usize) -> Place {
        self.krate_if_known(from, name, rest, left).unwrap_or_else(|| Place::Outside(name.to_owned()))
    }

    fn walk_up(&self, from: usize, module: usize, names: &[&str], left: usize) -> Place {
        match (names.first(), self.modules[module].parent) {
            (Some(&"super"), Some(parent)) => self.walk_up(from, parent, &names[1..], left),
            (Some(&"super"), None) => Place::Unknown,
            _ => self.walk(from, module, names, left),
        }
    }

    /// Whether a module lies in another one, or is it.
    fn is_inside(&self, module: usize, outer: usize) -> bool {
        std::iter::successors(Some(module), |at| self.modules[*at].parent).any(|at| at == outer)
    }

    /// From a module inwards, as far as names are modules that the one who asks may name: a function may have the name of a module
    /// that nobody else sees.
    fn walk(&self, from: usize, module: usize, names: &[&str], left: usize) -> Place {
        let mut at = module;
        for (i, name) in names.iter().enumerate() {
            let child = self.modules[at].children.get(*name);
            if let Some(child) = child.filter(|_| !self.modules[at].private.contains(*name) || self.is_inside(from, at))
            {
                at = *child;
                continue;
            }
            // A module under another name.
            if i + 1 < names.len()
                && let Some(found) = self.imported(at, name, left)
            {
                return match found {
                    Place::Module(module, None) => self.walk(from, module, &names[i + 1..], left.saturating_sub(1)),
                    // What is declared in something is asked of the module that gives that.
                    Place::Module(..) | Place::Unknown => Place::Module(at, Some((*name).to_owned())),
                    other => other,
                };
            }
            return Place::Module(at, Some((*name).to_owned()));
        }
        Place::Module(at, None)
    }

    /// What a name means that a module has imported.
    fn imported(&self, module: usize, name: &str, left: usize) -> Option<Place> {
        let left = left.checked_sub(1)?;
        let Module { file, scope, .. } = &self.modules[module];
        let imports = &self.sources.get(*file).parsed.imports;
        let own = |import: &&Import| import.scope == *scope && !import.is_inline;
        let named = imports.iter().filter(own).find(|import| name_of(import) == Some(name) && import.path != name)?;
        Some(self.place(module, &named.path, false, left))
    }

    /// The file in which what a module hands on is declared. Modules may hand on each other's names in circles: each is asked for
    /// a name once.
    fn declaring(&self, module: usize, name: &str, asked: &mut HashSet<(usize, String)>) -> Option<u32> {
        let Module { file, scope, .. } = &self.modules[module];
        if self.declares(module, name) {
            return Some(*file);
        }
        if !asked.insert((module, name.to_owned())) {
            return None;
        }
        let imports = &self.sources.get(*file).parsed.imports;
        let handed_on = || imports.iter().filter(|import| import.scope == *scope && import.is_exposed);
        if let Some(import) = handed_on().find(|import| name_of(import) == Some(name)) {
            return match self.place(module, &import.path, false, FARTHEST) {
                Place::Module(inner, None) => Some(self.modules[inner].file),
                Place::Module(inner, Some(found)) => {
                    Some(self.declaring(inner, &found, asked).unwrap_or(self.modules[inner].file))
                }
                _ => None,
            };
        }
        let all = handed_on().filter(|import| import.name.as_deref() == Some(ALL));
        all.into_iter().find_map(|import| match self.place(module, &import.path, false, FARTHEST) {
            Place::Module(inner, None) => self.declaring(inner, name, asked),
            _ => None,
        })
    }

    fn of(&self, from: u32, import: &Import) -> Option<Place> {
        let module = self.module_of(from, import.scope)?;
        Some(self.place(module, &import.path, import.is_inline, FARTHEST))
    }
}

/// The name under which an import is known: `a::b as c` is `c`, `a::b` is `b`.
fn name_of(import: &Import) -> Option<&str> {
    if import.name.as_deref() == Some(ALL) {
        return None;
    }
    import.alias.as_deref().or_else(|| import.path.rsplit("::").next())
}

fn package_name(manifest: &Table) -> Option<String> {
    Some(manifest.get("package")?.get("name")?.as_str()?.to_owned())
}

fn plain(name: &str) -> String {
    name.replace('-', "_")
}

/// All tables of dependencies of a manifest, for whatever and wherever.
fn dependency_tables(manifest: &Table) -> Vec<&Table> {
    let kinds = ["dependencies", "dev-dependencies", "build-dependencies"];
    let targets = manifest.get("target").and_then(Value::as_table).into_iter().flat_map(Table::values);
    let all = std::iter::once(manifest).chain(targets.filter_map(Value::as_table));
    all.flat_map(|table| kinds.iter().filter_map(|kind| table.get(*kind)?.as_table())).collect()
}

/// The folder of the modules in a file.
fn own_folder(path: &str, is_named: bool) -> String {
    match is_named || file_name(path) == "mod.rs" {
        true => folder(path).to_owned(),
        false => join(folder(path), stem(path)),
    }
}

impl Resolver for Crates<'_> {
    fn target(&self, from: u32, import: &Import) -> (Target, Option<String>) {
        let target = match self.of(from, import) {
            Some(Place::Module(module, name)) => {
                let name = name.or_else(|| import.name.clone());
                return (Target::File(self.modules[module].file), name);
            }
            Some(Place::Outside(name)) => Target::Outside(name),
            Some(Place::Standard) => Target::Standard,
            Some(Place::Unknown) | None => Target::Nothing,
        };
        (target, None)
    }

    fn reached(&self, from: u32, import: &Import) -> Option<u32> {
        match self.of(from, import)? {
            Place::Module(module, Some(name)) => self.declaring(module, &name, &mut HashSet::new()),
            Place::Module(module, None) => Some(self.modules[module].file),
            _ => None,
        }
    }

    fn unreached(&self) -> Vec<u32> {
        self.unreached.clone()
    }

    fn public(&self) -> HashMap<u32, Vec<u32>> {
        self.public.clone()
    }

    fn entries(&self) -> Vec<u32> {
        self.roots.clone()
    }
}

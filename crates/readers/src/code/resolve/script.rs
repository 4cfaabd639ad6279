//! TypeScript and JavaScript: relative paths, `paths` of a `tsconfig.json`, packages of the tree with their `exports`, and imports
//! that begin with `#` (Node.js, "Modules: Packages"; TypeScript Handbook, "Modules: Reference").

use super::{Resolver, Target};
use crate::code::language::Language;
use crate::code::sources::Sources;
use crate::code::syntax::{Import, Kind};
use crate::code::tree::{folder, join, normal};
use serde_json::{Map, Value};
use std::collections::{BTreeMap, HashMap};

/// Endings that may be left out, in the order in which they are tried.
const ENDINGS: [&str; 11] = [".ts", ".tsx", ".d.ts", ".js", ".jsx", ".mts", ".d.mts", ".mjs", ".cts", ".d.cts", ".cjs"];
/// What a compiled file was written as.
const WRITTEN_AS: [(&str, &[&str]); 4] = [
    (".js", &[".ts", ".tsx", ".d.ts", ".jsx"]),
    (".jsx", &[".tsx", ".d.ts"]),
    (".mjs", &[".mts", ".d.mts"]),
    (".cjs", &[".cts", ".d.cts"]),
];
/// Conditions of `exports`, in the order in which they are asked for where an object has several; its own order decides.
const CONDITIONS: [&str; 9] =
    ["types", "import", "module", "node", "require", "default", "source", "development", "browser"];
/// Folders of what is built, and the folder that it is built from.
const BUILT: [&str; 5] = ["dist", "lib", "build", "out", "esm"];
/// Chains of `extends` and nested conditions end.
const DEEPEST: usize = 16;

/// What comes with Node.js.
const STANDARD: [&str; 41] = [
    "assert",
    "async_hooks",
    "buffer",
    "child_process",
    "cluster",
    "console",
    "constants",
    "crypto",
    "dgram",
    "diagnostics_channel",
    "dns",
    "domain",
    "events",
    "fs",
    "http",
    "http2",
    "https",
    "inspector",
    "module",
    "net",
    "os",
    "path",
    "perf_hooks",
    "process",
    "punycode",
    "querystring",
    "readline",
    "repl",
    "stream",
    "string_decoder",
    "sys",
    "timers",
    "tls",
    "trace_events",
    "tty",
    "url",
    "util",
    "v8",
    "vm",
    "worker_threads",
    "zlib",
];

struct Package {
    folder: String,
    about: Map<String, Value>,
}

/// What a `tsconfig.json` says about paths.
#[derive(Clone, Debug, Default)]
struct Paths {
    base: Option<String>,
    /// Patterns with what they stand for, relative to the folder.
    patterns: Vec<(String, Vec<String>)>,
    folder: String,
}

/// The packages of a tree.
pub(super) struct Packages<'s> {
    sources: &'s Sources<'s>,
    by_name: HashMap<String, usize>,
    by_folder: HashMap<String, usize>,
    packages: Vec<Package>,
    /// By the folder of each `tsconfig.json`.
    configs: BTreeMap<String, Paths>,
}

impl<'s> Packages<'s> {
    pub(super) fn new(sources: &'s Sources<'s>) -> Self {
        let mut out = Self {
            sources,
            by_name: HashMap::new(),
            by_folder: HashMap::new(),
            packages: Vec::new(),
            configs: BTreeMap::new(),
        };
        if !sources.has(Language::TypeScript) {
            return out;
        }
        for (path, text) in sources.named("package.json") {
            let Some(Value::Object(about)) = relaxed(&text) else { continue };
            if let Some(name) = about.get("name").and_then(Value::as_str) {
                out.by_name.entry(name.to_owned()).or_insert(out.packages.len());
            }
            out.by_folder.insert(folder(path).to_owned(), out.packages.len());
            out.packages.push(Package { folder: folder(path).to_owned(), about });
        }
        for name in ["jsconfig.json", "tsconfig.json"] {
            for (path, _) in sources.named(name) {
                let mut paths = Paths::default();
                config(sources, path, DEEPEST, &mut paths);
                out.configs.insert(folder(path).to_owned(), paths);
            }
        }
        out
    }

    /// The source file that a path means: itself, with an ending, or a folder's own file.
    fn file(&self, path: &str) -> Option<u32> {
        self.plain_file(path).or_else(|| self.in_folder(path, DEEPEST))
    }

    fn plain_file(&self, path: &str) -> Option<u32> {
        let written = WRITTEN_AS.iter().filter_map(|(end, others)| Some((path.strip_suffix(end)?, others)));
        let mut written = written.flat_map(|(stem, others)| others.iter().map(move |other| format!("{stem}{other}")));
        written
            .find_map(|path| self.sources.at(&path))
            .or_else(|| self.sources.at(path))
            .or_else(|| ENDINGS.iter().find_map(|ending| self.sources.at(&format!("{path}{ending}"))))
    }

    fn in_folder(&self, path: &str, left: usize) -> Option<u32> {
        let own = self.by_folder.get(path).and_then(|number| self.main(&self.packages[*number], left));
        own.or_else(|| self.plain_file(&join(path, "index")))
    }

    /// What a package is as a whole.
    fn main(&self, package: &Package, left: usize) -> Option<u32> {
        let fields = ["source", "types", "typings", "module", "main"];
        let named = fields.iter().filter_map(|field| package.about.get(*field)?.as_str());
        let found = named.filter_map(|path| self.in_package(package, path, left.checked_sub(1)?));
        found.into_iter().next()
    }

    /// A file that a package names, or the one that it is built from.
    fn in_package(&self, package: &Package, path: &str, left: usize) -> Option<u32> {
        let path = normal(path)?;
        let at = join(&package.folder, &path);
        let found =
            self.plain_file(&at).or_else(|| (at != package.folder).then(|| self.in_folder(&at, left)).flatten());
        found.or_else(|| {
            let (first, rest) = path.split_once('/')?;
            let rest = BUILT.contains(&first).then_some(rest)?;
            let stem = ENDINGS.iter().filter_map(|ending| rest.strip_suffix(ending)).min_by_key(|stem| stem.len());
            self.file(&join(&join(&package.folder, "src"), stem.unwrap_or(rest)))
        })
    }

    /// What a package gives for a path below its name.
    fn export(&self, package: &Package, below: &str) -> Option<u32> {
        let asked = if below.is_empty() { ".".to_owned() } else { format!("./{below}") };
        if let Some(exports) = package.about.get("exports") {
            let is_map = exports.as_object().is_some_and(|map| map.keys().any(|key| key.starts_with('.')));
            let entry = match (is_map, exports) {
                (true, Value::Object(map)) => matching(map, &asked),
                (_, exports) => (asked == ".").then(|| (exports.clone(), String::new())),
            };
            let found = entry.and_then(|(entry, star)| {
                targets(&entry, DEEPEST)
                    .into_iter()
                    .find_map(|to| self.in_package(package, &to.replace('*', &star), DEEPEST))
            });
            return found.or_else(|| (asked == ".").then(|| self.main(package, DEEPEST)).flatten());
        }
        let whole = || self.main(package, DEEPEST).or_else(|| self.file(&join(&package.folder, "src")));
        match below {
            "" => whole().or_else(|| self.file(&package.folder)),
            below => self
                .in_package(package, below, DEEPEST)
                .or_else(|| self.file(&join(&join(&package.folder, "src"), below))),
        }
    }

    /// The nearest package around a file.
    fn around(&self, path: &str) -> Option<&Package> {
        let holds = |package: &&Package| crate::code::tree::is_within(path, &package.folder);
        self.packages.iter().filter(holds).max_by_key(|package| package.folder.len())
    }

    /// What the nearest `tsconfig.json` says of a path.
    fn mapped(&self, from: &str, path: &str) -> Option<u32> {
        let around = std::iter::successors(Some(folder(from)), |at| (!at.is_empty()).then(|| folder(at)));
        let paths = around.filter_map(|at| self.configs.get(at)).next()?;
        let best = paths.patterns.iter().filter_map(|(pattern, to)| Some((pattern, stands_for(pattern, path)?, to)));
        // Without a star, then by the longest beginning.
        let best =
            best.max_by_key(|(pattern, ..)| (!pattern.contains('*'), pattern.find('*').unwrap_or(pattern.len())));
        if let Some((_, star, to)) = best {
            let base = paths.base.as_deref().unwrap_or(&paths.folder);
            let found = to.iter().filter_map(|to| normal(&join(base, &to.replace('*', star))));
            return found.into_iter().find_map(|path| self.file(&path));
        }
        paths.base.as_deref().and_then(|base| self.file(&normal(&join(base, path))?))
    }

    fn of(&self, from: &str, path: &str) -> Target {
        let path = path.split(['?', '!']).next().unwrap_or(path);
        if path.starts_with('.') || path.starts_with('/') {
            let Some(at) = normal(&join(folder(from), path)) else { return Target::Missing };
            return match self.file(&at) {
                Some(file) => Target::File(file),
                // Pictures, styles and data are imported, too; what is built is not there before; tests are not read.
                None if is_no_code(path) || is_built(&at) || self.sources.is_somewhere(&at) => Target::Nothing,
                None => Target::Missing,
            };
        }
        if let Some(file) = self.mapped(from, path) {
            return Target::File(file);
        }
        if path.starts_with('#') {
            let package = self.around(from);
            let found = package.and_then(|package| {
                let (entry, star) = matching(package.about.get("imports")?.as_object()?, path)?;
                targets(&entry, DEEPEST)
                    .into_iter()
                    .find_map(|to| self.in_package(package, &to.replace('*', &star), DEEPEST))
            });
            return found.map_or(Target::Nothing, Target::File);
        }
        let parts = if path.starts_with('@') { 2 } else { 1 };
        let name = path.splitn(parts + 1, '/').take(parts).collect::<Vec<_>>().join("/");
        if let Some(package) = self.by_name.get(&name).map(|number| &self.packages[*number]) {
            let below = path[name.len()..].trim_start_matches('/');
            return self.export(package, below).map_or(Target::Nothing, Target::File);
        }
        match path.starts_with("node:") || STANDARD.contains(&name.as_str()) {
            true => Target::Standard,
            false => Target::Outside(name),
        }
    }
}

impl Resolver for Packages<'_> {
    fn target(&self, from: u32, import: &Import) -> (Target, Option<String>) {
        match self.of(&self.sources.get(from).path, &import.path) {
            Target::Missing if import.kind == Kind::Dynamic => (Target::Nothing, None),
            target => (target, import.name.clone()),
        }
    }

    /// What packages are as a whole, and what they start.
    fn entries(&self) -> Vec<u32> {
        let mut out: Vec<u32> = Vec::new();
        for package in &self.packages {
            out.extend(self.export(package, ""));
            let mut named: Vec<String> = Vec::new();
            for field in ["bin", "exports", "main", "module", "types", "browser"] {
                package.about.get(field).into_iter().for_each(|value| strings(value, DEEPEST, &mut named));
            }
            out.extend(named.iter().filter_map(|path| self.in_package(package, path, DEEPEST)));
        }
        out
    }
}

fn is_no_code(path: &str) -> bool {
    let ending = path.rsplit('/').next().and_then(|name| name.rsplit_once('.')).map(|(_, ending)| ending);
    ending.is_some_and(|ending| {
        [
            "css", "scss", "less", "json", "svg", "png", "jpg", "gif", "html", "wasm", "node", "vue", "txt", "md",
            "graphql",
        ]
        .contains(&ending)
    })
}

fn is_built(path: &str) -> bool {
    path.split('/').any(|part| BUILT.contains(&part))
}

/// All strings in a value.
fn strings(value: &Value, left: usize, out: &mut Vec<String>) {
    let Some(left) = left.checked_sub(1) else { return };
    match value {
        Value::String(text) => out.push(text.clone()),
        Value::Object(map) => map.values().for_each(|value| strings(value, left, out)),
        Value::Array(all) => all.iter().for_each(|value| strings(value, left, out)),
        _ => {}
    }
}

/// What the conditions of an entry lead to, the best first.
fn targets(entry: &Value, left: usize) -> Vec<String> {
    let Some(left) = left.checked_sub(1) else { return Vec::new() };
    match entry {
        Value::String(path) => vec![path.clone()],
        Value::Array(all) => all.iter().flat_map(|entry| targets(entry, left)).collect(),
        Value::Object(map) => CONDITIONS
            .iter()
            .filter_map(|condition| map.get(*condition))
            .flat_map(|entry| targets(entry, left))
            .collect(),
        _ => Vec::new(),
    }
}

/// The entry of a map with patterns for a path, and what its star stands for; the longest pattern wins.
fn matching(map: &Map<String, Value>, path: &str) -> Option<(Value, String)> {
    if let Some(entry) = map.get(path) {
        return Some((entry.clone(), String::new()));
    }
    let found = map.iter().filter_map(|(pattern, entry)| Some((pattern, stands_for(pattern, path)?, entry)));
    let (_, star, entry) = found.max_by_key(|(pattern, ..)| pattern.find('*').unwrap_or(pattern.len()))?;
    Some((entry.clone(), star.to_owned()))
}

/// What the star of a pattern stands for in a path.
fn stands_for<'p>(pattern: &str, path: &'p str) -> Option<&'p str> {
    match pattern.split_once('*') {
        Some((before, after)) => path.strip_prefix(before)?.strip_suffix(after),
        None => (pattern == path).then_some(""),
    }
}

/// Reads what a config says about paths, and what it takes from others: what it says itself stands before.
fn config(sources: &Sources<'_>, path: &str, left: usize, out: &mut Paths) {
    let Some(left) = left.checked_sub(1) else { return };
    let Some(Value::Object(about)) = sources.text(path).and_then(|text| relaxed(&text)) else { return };
    let at = folder(path);
    let options = about.get("compilerOptions").and_then(Value::as_object);
    if out.patterns.is_empty()
        && let Some(Value::Object(patterns)) = options.and_then(|options| options.get("paths"))
    {
        out.folder = at.to_owned();
        let listed = |value: &Value| {
            value.as_array().into_iter().flatten().filter_map(Value::as_str).map(str::to_owned).collect()
        };
        out.patterns = patterns.iter().map(|(pattern, to)| (pattern.clone(), listed(to))).collect();
    }
    if out.base.is_none() {
        let base = options.and_then(|options| options.get("baseUrl")?.as_str());
        out.base = base.and_then(|base| normal(&join(at, base)));
    }
    let mut others: Vec<String> = Vec::new();
    about.get("extends").into_iter().for_each(|value| strings(value, DEEPEST, &mut others));
    // A config without files of its own only gathers others.
    if options.is_none_or(|options| !options.contains_key("paths")) {
        let gathered = about.get("references").and_then(Value::as_array).into_iter().flatten();
        others.extend(gathered.filter_map(|other| other.get("path")?.as_str()).map(str::to_owned));
    }
    for other in others.iter().filter(|other| other.starts_with('.')) {
        let Some(plain) = normal(&join(at, other)) else { continue };
        let candidates = [plain.clone(), format!("{plain}.json"), join(&plain, "tsconfig.json")];
        if let Some(found) = candidates.iter().find(|path| path.ends_with(".json") && sources.has_file(path)) {
            config(sources, found, left, out);
        }
    }
}

/// JSON with comments and commas at the end, as people write it in configs.
fn relaxed(text: &str) -> Option<Value> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    if let Ok(value) = serde_json::from_str(text) {
        return Some(value);
    }
    let mut out = String::with_capacity(text.len());
    let mut chars = text.chars().peekable();
    while let Some(c) = chars.next() {
        match c {
            '"' => {
                out.push(c);
                while let Some(inner) = chars.next() {
                    out.push(inner);
                    match inner {
                        '\\' => out.extend(chars.next()),
                        '"' => break,
                        _ => {}
                    }
                }
            }
            '/' if chars.peek() == Some(&'/') => _ = chars.by_ref().find(|c| *c == '\n'),
            '/' if chars.peek() == Some(&'*') => {
                let mut last = ' ';
                for c in chars.by_ref().skip(1) {
                    if last == '*' && c == '/' {
                        break;
                    }
                    last = c;
                }
            }
            '}' | ']' => {
                let kept = out.trim_end().trim_end_matches(',').len();
                out.truncate(kept);
                out.push(c);
            }
            c => out.push(c),
        }
    }
    serde_json::from_str(&out).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn configs_may_have_comments_and_commas() {
        let text = "{ // paths\n \"a\": [\"//x\", /* no */ \"y\",],\n}";
        assert_eq!(relaxed(text), Some(serde_json::json!({ "a": ["//x", "y"] })));
        assert_eq!(relaxed("{ \"a\": "), None);
    }

    #[test]
    fn a_star_stands_for_the_middle() {
        assert_eq!(stands_for("@tide/*", "@tide/gauge/level"), Some("gauge/level"));
        assert_eq!(stands_for("./*.js", "./a/b.js"), Some("a/b"));
        assert_eq!((stands_for("a", "a"), stands_for("a", "b")), (Some(""), None));
        let map = serde_json::json!({ "./*": "x", "./sea/*": "y", "./sea/a": "z" });
        let found = |path: &str| matching(map.as_object().expect("a map"), path);
        assert_eq!(found("./sea/b"), Some(("y".into(), "b".to_owned())));
        assert_eq!(found("./sea/a"), Some(("z".into(), String::new())));
    }
}

//! Code as it is published: packages that `scripts/packages.sh` has fetched, against what the languages' own tools say of them.

use crate::common::{Folder, repository};
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::Command;

/// This many of a hundred must be as the language's own tool says.
const WANTED: f64 = 99.0;

fn skipped(why: &str) {
    let _ = writeln!(std::io::stderr(), "skipped: {why}; `cargo xtask test` fetches it");
}

/// The folders of the fetched packages of a language.
fn packages(language: &str) -> Vec<PathBuf> {
    let folder = repository().join("target/packages").join(language);
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path());
    let mut found: Vec<PathBuf> = entries.filter(|path| path.is_dir()).collect();
    found.sort();
    found
}

/// The packages of Go, with their paths.
fn go_packages() -> Vec<(PathBuf, String)> {
    let paths = [
        "google.golang.org/grpc",
        "golang.org/x/tools",
        "github.com/prometheus/client_golang",
        "golang.org/x/net",
        "golang.org/x/text",
    ];
    let all = paths.map(|path| (repository().join("target/packages/go").join(path), path.to_owned()));
    all.into_iter().filter(|(folder, _)| folder.is_dir()).collect()
}

fn data(name: &str) -> PathBuf {
    repository().join("crates/cli/tests/data/code").join(name)
}

fn json(program: &str, arguments: &[&Path]) -> Option<Value> {
    let output = Command::new(program).args(arguments).output().ok()?;
    serde_json::from_slice(&output.stdout).ok()
}

/// What the program says of a package.
fn ours(folder: &Path, words: &[&str]) -> Value {
    let here = Folder::new();
    let path = folder.to_str().expect("a path");
    let words: Vec<&str> = [&["-q", "import", words[0], path, "--json"], &words[1..]].concat();
    serde_json::from_str(&here.run(&words).ends_with(0).out).expect("JSON")
}

/// The path of something inside a package.
fn inside(value: &Value, folder: &Path) -> Option<String> {
    let path = Path::new(value.as_str()?);
    let folder = folder.canonicalize().expect("a folder");
    let path = path.canonicalize().unwrap_or_else(|_| path.to_owned());
    Some(path.strip_prefix(folder).ok()?.to_string_lossy().into_owned())
}

/// Asserts that most are the same, and lists the others.
fn assert_most(what: &str, same: usize, others: &[String]) {
    let all = same + others.len();
    let share = 100.0 * same as f64 / all.max(1) as f64;
    let _ = writeln!(std::io::stderr(), "{what}: {same} of {all} as the language's own tool says");
    others.iter().for_each(|line| _ = writeln!(std::io::stderr(), "  not {line}"));
    assert!(all > 0 && share >= WANTED, "{what}: {share:.2} % of {all}\n{}", others.join("\n"));
}

/// The files that imports name, by the file in which they stand and what they name.
fn known_imports(
    ours: &Value, folder: &Path, plain: &dyn Fn(&str) -> String,
) -> BTreeMap<(String, String), Vec<Option<String>>> {
    let mut known: BTreeMap<(String, String), Vec<Option<String>>> = BTreeMap::new();
    for import in ours["imports"].as_array().expect("imports") {
        let file = inside(&import["seen"]["file"], folder).expect("a file inside");
        let names = plain(import["names"].as_str().expect("names"));
        known.entry((file, names)).or_default().push(inside(&import["file"], folder));
    }
    known
}

/// Compares imports with rows of file, line, names and the file found.
fn compare_imports(what: &str, folder: &Path, rows: &Value, plain: &dyn Fn(&str) -> String) {
    let ours = ours(folder, &["modules", "--with-tests"]);
    let known = known_imports(&ours, folder, plain);
    let files: BTreeSet<&str> = known.keys().map(|(file, _)| file.as_str()).collect();
    let (mut same, mut others) = (0, Vec::new());
    for row in rows.as_array().expect("rows") {
        let (file, names, found) = (row[0].as_str().expect("a file"), row[2].as_str().expect("names"), row[3].as_str());
        // Generated and built files are not read, and nobody finds what is in them.
        if !files.contains(file)
            || names.starts_with("__future__")
            || found.is_some_and(|found| !files.contains(found) && found.contains("dist/"))
        {
            continue;
        }
        let targets = known.get(&(file.to_owned(), names.to_owned()));
        let is_same =
            targets.is_some_and(|targets| targets.iter().any(|own| own.as_deref().map(stem) == found.map(stem)));
        match is_same {
            true => same += 1,
            false => others.push(format!("{file}:{} {names}: {found:?}, here {targets:?}", row[1])),
        }
    }
    assert_most(&format!("{what} {}", folder.display()), same, &others);
}

/// A path without its ending: a file may stand beside the declarations of its types.
fn stem(path: &str) -> &str {
    let path = path.split(".d.").next().unwrap_or(path);
    if path.ends_with(".py") { path } else { path.rsplit_once('.').map_or(path, |(stem, _)| stem) }
}

#[test]
fn python_s_imports_are_those_that_its_own_machinery_finds() {
    let packages = packages("python");
    if packages.is_empty() {
        return skipped("no package of Python is here");
    }
    for folder in packages {
        let Some(rows) = json("python3", &[&data("imports.py"), &folder]) else {
            return skipped("python3 is not here");
        };
        compare_imports("imports of", &folder, &rows, &|names| names.to_owned());
    }
}

#[test]
fn typescript_s_imports_are_those_that_its_compiler_resolves() {
    let compiler = repository().join("target/packages/compiler/node_modules/typescript");
    let packages = packages("script");
    if packages.is_empty() || !compiler.is_dir() {
        return skipped("no package or no compiler of TypeScript is here");
    }
    for folder in packages {
        let Some(rows) = json("node", &[&data("imports.mjs"), &folder, &compiler]) else {
            return skipped("node is not here");
        };
        compare_imports("imports of", &folder, &rows, &|names| names.split(' ').next().unwrap_or_default().to_owned());
    }
}

#[test]
fn go_s_imports_are_those_that_go_lists() {
    if go_packages().is_empty() || Command::new("go").arg("version").output().is_err() {
        return skipped("Go or its packages are not here");
    }
    for (folder, path) in go_packages() {
        let ours = ours(&folder, &["modules"]);
        let of = |file: &str| {
            Path::new(file).parent().map(|folder| folder.to_string_lossy().into_owned()).unwrap_or_default()
        };
        let mut known: BTreeMap<(String, String), Option<String>> = BTreeMap::new();
        for import in ours["imports"].as_array().expect("imports") {
            let file = inside(&import["seen"]["file"], &folder).expect("a file inside");
            let found = inside(&import["file"], &folder).map(|file| of(&file));
            known.insert((of(&file), import["names"].as_str().expect("names").to_owned()), found);
        }
        let Some(rows) = json("python3", &[&data("imports_go.py"), &folder, Path::new(&path)]) else { continue };
        let folders: BTreeSet<&String> = known.keys().map(|(folder, _)| folder).collect();
        let (mut same, mut others) = (0, Vec::new());
        for row in rows.as_array().expect("rows") {
            let plain =
                |value: &Value| value.as_str().map(|path| if path == "." { String::new() } else { path.to_owned() });
            let (package, names, found) =
                (plain(&row[0]).expect("a folder"), row[1].as_str().expect("names"), plain(&row[2]));
            // Generated files are not read, nor are folders of nothing else; a path with a version is found by modules only.
            let own = known.get(&(package.clone(), names.to_owned()));
            if !folders.contains(&package)
                || own.is_none()
                || found.as_ref().is_some_and(|found| !folders.contains(found))
            {
                continue;
            }
            match own {
                Some(own) if *own == found => same += 1,
                own => others.push(format!("{package} {names}: {found:?}, here {own:?}")),
            }
        }
        let others: Vec<String> = others.into_iter().filter(|line| !line.contains("/v4:")).collect();
        assert_most(&format!("imports of {path}"), same, &others);
    }
}

/// Compares classes with rows of file, name, bases and members.
fn compare_classes(folder: &Path, rows: &Value) {
    let ours = ours(folder, &["code", "--members", "all", "--with-tests"]);
    let things = ours["things"].as_array().expect("things");
    let origin =
        |number: &Value| things[number.as_u64().expect("a number") as usize]["origin"].as_str().expect("an origin");
    let plain =
        |name: &str| name.chars().map(|c| if c.is_alphanumeric() || c == '_' { c } else { '_' }).collect::<String>();
    let row_name = |text: &str| {
        let text = text.trim_start_matches(['+', '-', '#', '~', ' ']);
        text.split([':', '(', ' ']).next().unwrap_or_default().to_owned()
    };
    let mut members: BTreeMap<&str, BTreeSet<String>> = BTreeMap::new();
    let mut bases: BTreeMap<&str, BTreeSet<String>> = BTreeMap::new();
    let mut named: BTreeMap<String, usize> = BTreeMap::new();
    for thing in things.iter().filter(|thing| thing["origin"].as_str().is_some_and(|origin| origin.contains(':'))) {
        let rows = thing["members"].as_array().into_iter().flatten();
        let names = rows.map(|row| row_name(row["text"].as_str().unwrap_or_default())).collect();
        let origin = thing["origin"].as_str().expect("an origin");
        members.insert(origin, names);
        *named.entry(last(origin)).or_default() += 1;
    }
    for link in ours["links"].as_array().expect("links") {
        match link["ends"][1]["role"].as_str() {
            Some(role) => _ = members.entry(origin(&link["from"])).or_default().insert(plain(role)),
            None => _ = bases.entry(origin(&link["from"])).or_default().insert(last(origin(&link["to"]))),
        }
    }
    let files: BTreeSet<&str> = members.keys().filter_map(|origin| origin.split(':').next()).collect();
    let (mut same, mut others) = (0, Vec::new());
    for row in rows.as_array().expect("rows") {
        let file = row[0].as_str().expect("a file");
        // Files that programs have written are not read, nor declarations of the types of files that are there.
        if !files.contains(file) {
            continue;
        }
        let key = format!("{file}:{}", row[1].as_str().expect("a name"));
        let texts = |value: &Value| -> Vec<String> {
            value.as_array().expect("texts").iter().map(|text| text.as_str().unwrap_or_default().to_owned()).collect()
        };
        let wanted: BTreeSet<String> = texts(&row[3]).iter().map(|name| plain(name)).collect();
        let own_bases = bases.get(key.as_str()).cloned().unwrap_or_default();
        let written: BTreeSet<String> =
            texts(&row[2]).iter().map(|base| last(base.split(['<', '[']).next().unwrap_or(base))).collect();
        // What is found is written there; other names may be of something that is not in the package.
        let is_kind = own_bases.is_subset(&written) || file.ends_with(".py") || file.ends_with("ts");
        match members.get(key.as_str()) {
            Some(own) if *own == wanted && is_kind => same += 1,
            own => others.push(format!("{key}: {wanted:?} {written:?}, here {own:?} {own_bases:?}")),
        }
    }
    assert_most(&format!("classes of {}", folder.display()), same, &others);
}

/// The last part of a name.
fn last(name: &str) -> String {
    name.rsplit(['.', ':']).next().unwrap_or(name).to_owned()
}

#[test]
fn python_s_classes_are_those_that_its_own_parser_finds() {
    let packages = packages("python");
    if packages.is_empty() {
        return skipped("no package of Python is here");
    }
    for folder in packages {
        let Some(rows) = json("python3", &[&data("classes.py"), &folder]) else {
            return skipped("python3 is not here");
        };
        compare_classes(&folder, &rows);
    }
}

#[test]
fn typescript_s_classes_are_those_that_its_compiler_parses() {
    let compiler = repository().join("target/packages/compiler/node_modules/typescript");
    let packages = packages("script");
    if packages.is_empty() || !compiler.is_dir() {
        return skipped("no package or no compiler of TypeScript is here");
    }
    // Express has functions only.
    for folder in packages.iter().filter(|folder| !folder.ends_with("express")) {
        let Some(rows) = json("node", &[&data("classes.mjs"), folder, &compiler]) else {
            return skipped("node is not here");
        };
        compare_classes(folder, &rows);
    }
}

#[test]
fn java_s_classes_and_imports_are_those_that_its_compiler_parses() {
    let packages = packages("java");
    if packages.is_empty() {
        return skipped("no package of Java is here");
    }
    for folder in packages {
        let Some(rows) = json("java", &[&data("Classes.java"), &folder]) else {
            return skipped("no compiler of Java is here");
        };
        compare_classes(&folder, &rows["classes"]);
        compare_imports("imports of", &folder, &rows["imports"], &|names| names.trim_end_matches(" *").to_owned());
    }
}

#[test]
fn rust_s_imports_and_classes_are_those_that_its_compiler_documents() {
    let workspace = repository().join("target/packages/fetched/rust");
    let packages = packages("rust");
    if packages.is_empty() || !workspace.is_dir() {
        return skipped("no package of Rust is here");
    }
    let (mut same, mut others, mut classes, mut lacking) = (0, Vec::new(), 0, Vec::new());
    for folder in packages {
        let name = folder.file_name().expect("a name").to_string_lossy().into_owned();
        let options = [
            "--",
            "-Z",
            "unstable-options",
            "--output-format",
            "json",
            "--document-private-items",
            "--cap-lints",
            "allow",
        ];
        // The form is one of the compiler's that may change.
        let documented = Command::new("cargo")
            .args(["rustdoc", "-q", "-p", &name, "--lib", "--offline"])
            .args(options)
            .env("RUSTC_BOOTSTRAP", "1")
            .env_remove("CARGO_TARGET_DIR")
            .current_dir(&workspace)
            .output();
        let document = workspace.join("target/doc").join(format!("{name}.json"));
        if !documented.is_ok_and(|output| output.status.success()) || !document.is_file() {
            return skipped("the compiler documents no package here");
        }
        let asked = |what: &str| json("python3", &[&data("rust.py"), &document, &folder, Path::new(what)]);
        let (Some(imports), Some(declared)) = (asked("imports"), asked("classes")) else {
            return skipped("python3 is not here");
        };
        let found = ours(&folder, &["modules"]);
        let known = known_imports(&found, &folder, &|names| names.to_owned());
        for row in imports.as_array().expect("rows") {
            let key = (row[0].as_str().expect("a file").to_owned(), row[2].as_str().expect("names").to_owned());
            let wanted = row[3].as_str().map(str::to_owned);
            match known.get(&key) {
                Some(found) if found.contains(&wanted) => same += 1,
                found => others.push(format!("{name} {key:?}: {wanted:?}, here {found:?}")),
            }
        }
        let own = ours(&folder, &["code", "--members", "all"]);
        for row in declared.as_array().expect("rows") {
            let key = format!("{}:{}", row[0].as_str().expect("a file"), row[1].as_str().expect("a name"));
            let things = own["things"].as_array().expect("things").iter().enumerate();
            let found = things.filter(|(_, thing)| thing["origin"] == key.as_str());
            let has_all = |number: usize, thing: &Value| {
                let rows = thing["members"].as_array().into_iter().flatten().filter_map(|row| row["text"].as_str());
                let links = own["links"].as_array().expect("links").iter().filter(|link| link["from"] == number);
                let roles = links.filter_map(|link| link["ends"][1]["role"].as_str());
                let names = rows.map(|text| text.trim_start_matches(['+', '-', '#', '~', ' '])).chain(roles);
                let names: BTreeSet<&str> =
                    names.map(|text| text.split([':', '(', ' ']).next().unwrap_or_default()).collect();
                // What is there on other systems only, the compiler does not see here.
                row[2]
                    .as_array()
                    .expect("members")
                    .iter()
                    .all(|member| names.contains(member.as_str().unwrap_or_default()))
            };
            match found.into_iter().any(|(number, thing)| has_all(number, thing)) {
                true => classes += 1,
                false => lacking.push(key),
            }
        }
    }
    assert_most("imports of packages of Rust", same, &others);
    assert_most("classes of packages of Rust", classes, &lacking);
}

#[test]
fn every_package_is_a_picture_of_few_boxes() {
    let languages = ["python", "script", "rust", "java"].into_iter().flat_map(packages);
    let all: Vec<PathBuf> = languages.chain(go_packages().into_iter().map(|(folder, _)| folder)).collect();
    if all.len() < 20 {
        return skipped("the packages are not here");
    }
    for folder in &all {
        let here = Folder::new();
        let path = folder.to_str().expect("a path");
        let text = here.run(&["-q", "import", "modules", path]).ends_with(0).out;
        here.write("own.bathy", &text);
        here.run(&["-q", "check", "own.bathy", "--no-pictures"]).ends_with(0);
        let ours = ours(folder, &["modules"]);
        let things = ours["things"].as_array().expect("things");
        let holders: Vec<u64> = things.iter().filter_map(|thing| thing["holder"].as_u64()).collect();
        let boxes = (0..things.len() as u64).filter(|number| !holders.contains(number)).count();
        // Where there are fewer files than that, there are fewer boxes.
        assert!(
            boxes <= 25 && (boxes >= 7 || ours["counts"]["rows"].as_u64() < Some(60)),
            "{}: {boxes} boxes",
            folder.display()
        );
        let classes = here.run(&["-q", "import", "code", path, "--members", "none"]);
        // Some packages have functions only.
        if classes.status == 0 {
            here.write("classes.bathy", &classes.out);
            here.run(&["-q", "check", "classes.bathy", "--no-pictures"]).ends_with(0);
        } else {
            classes.ends_with(2).says("there are no classes");
        }
        here.run(&["-q", "conform", "own.bathy", "--code", path]).ends_with(0);
    }
}

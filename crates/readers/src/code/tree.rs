//! A source tree as the outside sees it, and what of it is source code.

use super::language::Language;
use std::path::Path;

/// A folder with its files. The outside walks it, and has left out what git ignores.
pub trait Tree: Sync {
    /// The paths of all files relative to the folder, with `/` between their parts, in their order.
    fn files(&self) -> &[String];

    /// The bytes of a file, by its number in [`Tree::files`].
    ///
    /// # Errors
    /// If it cannot be read: why.
    fn read(&self, file: usize) -> Result<Vec<u8>, String>;

    /// What the folder is called.
    fn name(&self) -> &str;

    /// The path of a file as people find it: by default, as it is.
    fn shown(&self, path: &str) -> String {
        path.to_owned()
    }
}

/// Why a file is not read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum LeftOut {
    /// It belongs to somebody else.
    Vendored,
    /// A program has written it.
    Generated,
    /// It tests others, or shows how they are used.
    Test,
}

/// Folders in which the code of others is kept.
const VENDORED: [&str; 8] =
    ["node_modules", "bower_components", "vendor", "third_party", "thirdparty", "site-packages", "venv", "_vendor"];
/// Folders of tests, examples and benchmarks.
const TESTS: [&str; 11] = [
    "test",
    "tests",
    "testing",
    "__tests__",
    "__mocks__",
    "testdata",
    "spec",
    "benches",
    "benchmarks",
    "examples",
    "fixtures",
];
/// Ends of the names of files that programs write.
const GENERATED: [&str; 9] = [
    ".min.js",
    ".bundle.js",
    "_pb2.py",
    "_pb2_grpc.py",
    ".pb.go",
    "_generated.go",
    ".g.ts",
    ".generated.ts",
    "_string.go",
];

/// Why a path is left out, by its name alone.
pub(crate) fn left_out(path: &str, language: Language) -> Option<LeftOut> {
    let (folders, name) = path.rsplit_once('/').unwrap_or(("", path));
    let mut folders = folders.split('/');
    if folders.clone().any(|folder| VENDORED.contains(&folder)) {
        return Some(LeftOut::Vendored);
    }
    if GENERATED.iter().any(|end| name.ends_with(end)) {
        return Some(LeftOut::Generated);
    }
    // A Java package may be called `test` as any other; its tests have a source root of their own.
    let is_test_folder = match language {
        Language::Java => path.contains("src/test/") || path.starts_with("test/"),
        // Tests stand beside what they test; every other folder is a package.
        Language::Go => folders.any(|folder| folder == "testdata" || folder == "examples"),
        _ => folders.any(|folder| TESTS.contains(&folder)),
    };
    (is_test_folder || is_test_name(name, language)).then_some(LeftOut::Test)
}

fn is_test_name(name: &str, language: Language) -> bool {
    let stem = name.split_once('.').map_or(name, |(stem, _)| stem);
    match language {
        Language::Python => stem.starts_with("test_") || stem.ends_with("_test") || name == "conftest.py",
        Language::TypeScript | Language::JavaScript => {
            [".test.", ".spec.", ".bench.", ".stories."].iter().any(|middle| name.contains(middle))
        }
        Language::Go => stem.ends_with("_test"),
        Language::Java => false,
        Language::Rust => matches!(stem, "tests" | "test"),
    }
}

/// Whether a program has written the file, by what it says of itself, or by lines that nobody writes.
pub(crate) fn is_generated(text: &[u8]) -> bool {
    let head = &text[..text.len().min(2048)];
    let says = |words: &str| head.windows(words.len()).any(|window| window == words.as_bytes());
    // Split, so that this file does not say it of itself.
    if says(concat!("@gene", "rated")) || says("DO NOT EDIT") && (says("enerated")) {
        return true;
    }
    let lines = 1 + text.iter().filter(|byte| **byte == b'\n').count();
    text.len() > 20_000 && text.len() / lines > 400
}

/// The folder of a path; empty for what lies outermost.
pub(crate) fn folder(path: &str) -> &str {
    path.rsplit_once('/').map_or("", |(folder, _)| folder)
}

/// The folders around a path, from the innermost on, without the outermost one of all.
pub(crate) fn around(path: &str) -> impl Iterator<Item = &str> {
    std::iter::successors(path.rsplit_once('/').map(|(folder, _)| folder), |at| {
        at.rsplit_once('/').map(|(folder, _)| folder)
    })
}

/// All that a path may be meant by: itself, the folders around it, and the names of all of these.
pub(crate) fn meant_by(path: &str) -> impl Iterator<Item = &str> {
    std::iter::once(path).chain(around(path)).flat_map(|at| [at, file_name(at)])
}

/// The name of a file without its folder.
pub(crate) fn file_name(path: &str) -> &str {
    path.rsplit_once('/').map_or(path, |(_, name)| name)
}

/// The name of a file without folder and ending.
pub(crate) fn stem(path: &str) -> &str {
    Path::new(file_name(path)).file_stem().and_then(|stem| stem.to_str()).unwrap_or_default()
}

/// A path below a folder.
pub(crate) fn join(folder: &str, name: &str) -> String {
    if folder.is_empty() { name.to_owned() } else { format!("{folder}/{name}") }
}

/// A path without `.` and `..`; nothing if it leaves the tree.
pub(crate) fn normal(path: &str) -> Option<String> {
    let mut parts: Vec<&str> = Vec::new();
    for part in path.split('/') {
        match part {
            "" | "." => {}
            ".." => _ = parts.pop()?,
            part => parts.push(part),
        }
    }
    Some(parts.join("/"))
}

/// Whether a path is a folder, or lies in it; everything lies in the outermost one.
pub(crate) fn is_within(path: &str, folder: &str) -> bool {
    folder.is_empty() || path.strip_prefix(folder).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_not_ours_is_left_out() {
        let left = |path: &str| Language::of(path).and_then(|language| left_out(path, language));
        assert_eq!(left("web/node_modules/a/index.js"), Some(LeftOut::Vendored));
        assert_eq!(left("api/surge_pb2.py"), Some(LeftOut::Generated));
        for test in ["tests/a.rs", "src/tests.rs", "a/test_gauge.py", "b/gauge.spec.ts", "c/gauge_test.go"] {
            assert_eq!(left(test), Some(LeftOut::Test), "{test}");
        }
        for own in ["src/main/java/harbour/test/Probe.java", "src/testament.rs", "a/latest.py", "b/spec.ts"] {
            assert_eq!(left(own), None, "{own}");
        }
        assert_eq!(left("a/src/test/java/T.java"), Some(LeftOut::Test));
    }

    #[test]
    fn generated_files_say_so() {
        assert!(is_generated(b"// Code generated by a tide table. DO NOT EDIT.\npackage tides\n"));
        assert!(is_generated("let a=1;".repeat(10_000).as_bytes()));
        assert!(!is_generated(b"// Levels are generated elsewhere.\nfn level() {}\n"));
    }

    #[test]
    fn paths_are_made_plain() {
        assert_eq!(normal("a/./b/../c").as_deref(), Some("a/c"));
        assert_eq!(normal("../c"), None);
        assert!(is_within("a/b", "a") && is_within("a", "a") && is_within("a", "") && !is_within("ab", "a"));
        assert_eq!((folder("a/b/c.rs"), file_name("a/b/c.rs"), stem("a/b/c.d.ts")), ("a/b", "c.rs", "c.d"));
    }
}

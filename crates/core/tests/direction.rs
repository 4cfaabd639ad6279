//! Imports in the core follow the data: no module uses one that comes after it.

#![allow(clippy::disallowed_methods, reason = "tests may read files")]

use std::path::Path;

/// The modules in the order of the data; a module may use those before it.
const ORDER: &[&str] = &[
    "source", "geom", "syntax", "diag", "measure", "model", "format", "compare", "check", "theme", "layout", "scene",
    "notation", "svg", "pipeline",
];

/// Uses against that order that are meant: the catalogue of messages names words of the vocabulary, the
/// syntax reports, and a test of comparison reads whole texts.
const MEANT: &[(&str, &str)] = &[("syntax", "diag")];

fn sources(folder: &Path, found: &mut Vec<(String, String)>) {
    for entry in std::fs::read_dir(folder).expect("a folder").flatten() {
        let path = entry.path();
        if path.is_dir() {
            sources(&path, found);
        } else {
            let text = std::fs::read_to_string(&path).expect("a source");
            // Tests at the bottom of a file may use everything.
            let code = text.split("#[cfg(test)]\nmod tests").next().unwrap_or_default().to_owned();
            found.push((path.to_string_lossy().into_owned(), code));
        }
    }
}

#[test]
fn imports_never_point_back() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    for (place, module) in ORDER.iter().enumerate() {
        let folder = root.join(module);
        let mut files = Vec::new();
        if folder.is_dir() {
            sources(&folder, &mut files);
        } else {
            let path = root.join(format!("{module}.rs"));
            files.push((path.to_string_lossy().into_owned(), std::fs::read_to_string(path).expect("a module")));
        }
        for (file, code) in files {
            for rest in code.split("crate::").skip(1) {
                let used: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
                let Some(at) = ORDER.iter().position(|m| *m == used) else { continue };
                let meant = MEANT.contains(&(*module, used.as_str()));
                assert!(at <= place || meant, "{file} uses {used}, which comes later");
            }
        }
    }
}

#[test]
fn every_module_says_what_it_is() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut files = Vec::new();
    sources(&root, &mut files);
    for (file, code) in files {
        assert!(code.starts_with("//!"), "{file} begins with its purpose");
    }
}

//! `cargo xtask page`: bundles what pages take from the npm registry, the editor of the preview and the search of a site. The
//! bundles are committed, so that nothing but this chore needs npm.

use crate::{root, run_in};
use anyhow::{Context, Result};
use sha2::{Digest, Sha256};
use std::fmt::Write;
use std::path::Path;

/// A bundle.
struct Bundle {
    /// The folder of what it is made from.
    from: &'static str,
    /// Its file.
    to: &'static str,
    /// The file of the licences of what is in it.
    licences: &'static str,
    /// What it is, for its first line.
    about: &'static str,
    /// How esbuild makes it.
    options: &'static [&'static str],
}

const BUNDLES: [Bundle; 2] = [
    Bundle {
        from: "crates/preview/page/editor",
        to: "crates/preview/page/editor.js",
        licences: "crates/preview/page/LICENSE-EDITOR",
        about: "CodeMirror 6 (MIT, see LICENSE-EDITOR)",
        options: &["--global-name=Editor"],
    },
    Bundle {
        from: "crates/site/search",
        to: "crates/site/assets/minisearch.js",
        licences: "crates/site/assets/LICENSE-SEARCH",
        about: "MiniSearch (MIT, Luca Ongaro)",
        options: &[],
    },
];

/// What a bundle is made from; its first line has the digest of these files.
const SOURCES: [&str; 3] = ["package.json", "package-lock.json", "entry.js"];

/// Makes the bundles, and the files with the licences of what is in them.
pub(crate) fn make() -> Result<()> {
    BUNDLES.iter().try_for_each(bundle)
}

fn bundle(wanted: &Bundle) -> Result<()> {
    let from = root().join(wanted.from);
    let work = root().join("target/page-tools").join(from.file_name().unwrap_or_default());
    std::fs::create_dir_all(&work)?;
    for name in SOURCES {
        let from = from.join(name);
        if from.is_file() {
            std::fs::copy(&from, work.join(name))?;
        }
    }
    // Without a lock file, this writes one.
    let how = if work.join("package-lock.json").is_file() { "ci" } else { "install" };
    run_in(&work, "npm", &[how, "--silent", "--no-audit", "--no-fund"])?;
    std::fs::copy(work.join("package-lock.json"), from.join("package-lock.json"))?;
    let bundle = work.join("bundle.js");
    let out = format!("--outfile={}", bundle.display());
    let esbuild = work.join("node_modules/.bin/esbuild");
    let options = ["entry.js", "--bundle", "--minify", "--format=iife", "--legal-comments=none", &out];
    run_in(&work, &esbuild.display().to_string(), &[&options, wanted.options].concat())?;
    let made = std::fs::read_to_string(&bundle)?;
    let head = format!("// {}, by `cargo xtask page` from {}\n", wanted.about, digest(&from)?);
    std::fs::write(root().join(wanted.to), head + &made)?;
    std::fs::write(root().join(wanted.licences), licences(&work.join("node_modules"))?)?;
    Ok(())
}

/// The digest of the sources.
fn digest(folder: &Path) -> Result<String> {
    let mut hash = Sha256::new();
    for name in SOURCES {
        hash.update(std::fs::read(folder.join(name)).with_context(|| name.to_owned())?);
    }
    Ok(hash.finalize().iter().map(|byte| format!("{byte:02x}")).collect())
}

/// The licences of all packages in the bundle.
fn licences(packages: &Path) -> Result<String> {
    let mut found = Vec::new();
    for folder in std::fs::read_dir(packages)?.flatten().map(|entry| entry.path()) {
        let is_scope = folder.file_name().is_some_and(|name| name.to_string_lossy().starts_with('@'));
        let own =
            if is_scope { std::fs::read_dir(&folder)?.flatten().map(|e| e.path()).collect() } else { vec![folder] };
        found.extend(own);
    }
    found.sort();
    let mut out = String::from("The bundle is made of these packages.\n");
    for package in found {
        let name = package.strip_prefix(packages)?.display().to_string();
        // The bundler is not in the bundle.
        let licence = ["LICENSE", "LICENSE.md", "LICENSE.txt"]
            .iter()
            .find_map(|file| std::fs::read_to_string(package.join(file)).ok());
        if let Some(licence) = licence.filter(|_| !name.contains("esbuild")) {
            write!(out, "\n## {name}\n\n{}\n", licence.trim())?;
        }
    }
    Ok(out)
}

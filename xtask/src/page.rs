//! `cargo xtask page`: bundles the editor of the preview's page from the npm registry. The bundle is committed, so that nothing
//! but this chore needs npm.

use crate::{root, run_in};
use anyhow::{Context, Result};
use sha2::{Digest, Sha256};
use std::fmt::Write;
use std::path::Path;

/// What the bundle is made from; the first line of the bundle has the digest of these files.
const SOURCES: [&str; 3] = ["package.json", "package-lock.json", "entry.js"];

/// Makes the bundle, and the file with the licences of what is in it.
pub(crate) fn make() -> Result<()> {
    let folder = root().join("crates/preview/page");
    let work = root().join("target/page-tools");
    std::fs::create_dir_all(&work)?;
    for name in SOURCES {
        let from = folder.join("editor").join(name);
        if from.is_file() {
            std::fs::copy(&from, work.join(name))?;
        }
    }
    // Without a lock file, this writes one.
    let how = if work.join("package-lock.json").is_file() { "ci" } else { "install" };
    run_in(&work, "npm", &[how, "--silent", "--no-audit", "--no-fund"])?;
    std::fs::copy(work.join("package-lock.json"), folder.join("editor/package-lock.json"))?;
    let bundle = work.join("editor.js");
    let out = format!("--outfile={}", bundle.display());
    let esbuild = work.join("node_modules/.bin/esbuild");
    let options =
        ["entry.js", "--bundle", "--minify", "--format=iife", "--global-name=Editor", "--legal-comments=none", &out];
    run_in(&work, &esbuild.display().to_string(), &options)?;
    let made = std::fs::read_to_string(&bundle)?;
    let head = format!(
        "// CodeMirror 6 (MIT, see LICENSE-EDITOR), by `cargo xtask page` from {}\n",
        digest(&folder.join("editor"))?
    );
    std::fs::write(folder.join("editor.js"), head + &made)?;
    std::fs::write(folder.join("LICENSE-EDITOR"), licences(&work.join("node_modules"))?)?;
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
    let mut out = String::from("The editor of the preview is made of these packages.\n");
    for package in found {
        let name = package.strip_prefix(packages)?.display().to_string();
        // The bundler is not in the bundle.
        let licence =
            ["LICENSE", "LICENSE.md"].iter().find_map(|file| std::fs::read_to_string(package.join(file)).ok());
        if let Some(licence) = licence.filter(|_| !name.contains("esbuild")) {
            write!(out, "\n## {name}\n\n{}\n", licence.trim())?;
        }
    }
    Ok(out)
}

//! What the words of a call name: files, all that a folder holds, and patterns.

use crate::outcome::{Failure, Result};
use bathygram_host::{Project, Seen, is_document, is_pipe};
use globset::GlobBuilder;
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// What a command reads.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Takes {
    /// Source files, and documents with blocks.
    Sources,
    /// Markdown documents.
    Documents,
}

/// The files that words name: a file is itself, a folder is what it holds of the kind, a pattern what it fits in the project, and `-`
/// stays what it is. Without a word, all of the project.
///
/// # Errors
/// If a word names nothing, or a file of another kind; all such words are in the message.
pub(crate) fn files(project: &Project, words: &[PathBuf], takes: Takes) -> Result<Vec<PathBuf>> {
    if words.is_empty() {
        return all(project, takes);
    }
    let (mut found, mut wrong) = (Vec::new(), Vec::new());
    for word in words {
        match meant(project, word, takes)? {
            Ok(files) => found.extend(files),
            Err(why) => wrong.push(why),
        }
    }
    if !wrong.is_empty() {
        return Err(Failure::Usage(wrong.join("\nerror: ")));
    }
    // A file that two words name is read once, where it was named first.
    let mut known = BTreeSet::new();
    found.retain(|path| known.insert(std::path::absolute(path).unwrap_or_else(|_| path.clone())));
    Ok(found)
}

/// What a project has of a kind.
fn all(project: &Project, takes: Takes) -> Result<Vec<PathBuf>> {
    Ok(match takes {
        Takes::Sources => project.texts()?,
        Takes::Documents => project.documents()?,
    })
}

/// What one word names, or why it names nothing.
fn meant(project: &Project, word: &Path, takes: Takes) -> Result<std::result::Result<Vec<PathBuf>, String>> {
    let shown = word.seen();
    if word == Path::new("-") || is_pipe(word) {
        return Ok(Ok(vec![word.to_owned()]));
    }
    if word.is_dir() {
        let files = in_folder(project, word, takes)?;
        return Ok(if files.is_empty() { Err(format!("{shown} holds no {}", called(takes))) } else { Ok(files) });
    }
    if let Ok(about) = std::fs::symlink_metadata(word) {
        // A pipe or a device is no file, whatever it is called: reading it says so.
        let is_special = !about.is_file() && !about.is_symlink();
        return Ok(match is_special || is_taken(word, takes) {
            true => Ok(vec![word.to_owned()]),
            false => Err(other_kind(word, takes)),
        });
    }
    let pattern = word.to_string_lossy();
    if !pattern.contains(['*', '?', '[']) {
        return Ok(Err(format!("{shown} is not there")));
    }
    let Ok(glob) = GlobBuilder::new(pattern.trim_start_matches("./")).literal_separator(true).build() else {
        return Ok(Err(format!(
            "`{shown}` is no pattern that can be read; write * for any letters, and ** for folders"
        )));
    };
    let matcher = glob.compile_matcher();
    let fits = |path: &PathBuf| matcher.is_match(project.from_here(&project.shown(path)));
    let files: Vec<PathBuf> = all(project, takes)?.into_iter().filter(fits).collect();
    Ok(if files.is_empty() {
        Err(format!("no {} of the project fits `{shown}`", called_one(takes)))
    } else {
        Ok(files)
    })
}

/// What a folder holds: of a folder in the project what belongs to that.
fn in_folder(project: &Project, folder: &Path, takes: Takes) -> Result<Vec<PathBuf>> {
    let absolute = |path: &Path| {
        let path = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
        path.canonicalize().unwrap_or(path)
    };
    let (root, inside) = (absolute(&project.root), absolute(folder));
    if !inside.starts_with(&root) {
        return all(&Project::without_config(folder), takes);
    }
    let found = all(project, takes)?.into_iter().filter(|path| absolute(path).starts_with(&inside));
    Ok(found.collect())
}

fn ending(path: &Path) -> String {
    path.extension().map_or_else(String::new, |ending| ending.to_string_lossy().to_ascii_lowercase())
}

fn is_taken(path: &Path, takes: Takes) -> bool {
    is_document(path) || takes == Takes::Sources && ending(path) == "bathy"
}

/// What a command reads, in words.
fn called(takes: Takes) -> &'static str {
    match takes {
        Takes::Sources => "files with diagrams, which end in .bathy or .md",
        Takes::Documents => "Markdown documents, which end in .md",
    }
}

fn called_one(takes: Takes) -> &'static str {
    match takes {
        Takes::Sources => "file with diagrams",
        Takes::Documents => "Markdown document",
    }
}

/// Why a file is not read, and which command does.
fn other_kind(path: &Path, takes: Takes) -> String {
    let shown = path.seen();
    match ending(path).as_str() {
        "bathy" => format!("{shown} is no Markdown document; `bathygram render {shown}` draws it"),
        "svg" | "png" | "pdf" | "html" => {
            format!(
                "{shown} is a picture, and no source; `bathygram recover {shown}` prints the source that it carries"
            )
        }
        "csv" | "tsv" | "xlsx" | "ods" => {
            format!("{shown} is a table; `bathygram import table {shown}` makes a source of it")
        }
        "graphml" => format!("{shown} is a graph; `bathygram import graph {shown}` makes a source of it"),
        "sqlite" | "db" => format!("{shown} is a database; `bathygram import database {shown}` makes a source of it"),
        "ttl" | "rdf" | "nt" | "owl" => {
            format!("{shown} is RDF data; `bathygram import rdf {shown}` makes a source of it")
        }
        "json" | "jsonl" => {
            format!(
                "{shown} holds no diagrams; if it holds traces, `bathygram import trace {shown}` makes a source of one"
            )
        }
        "txt" => {
            format!("{shown} holds no diagrams; `bathygram import outline {shown}` makes a source of a description")
        }
        _ => format!("{shown} is no source; name {}", called(takes)),
    }
}

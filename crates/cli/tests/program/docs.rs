//! Every example in the documents is rendered, and links lead somewhere.

use crate::common::{Folder, repository};
use std::path::PathBuf;

/// The fenced blocks of a language in a Markdown text, with their line numbers.
pub(crate) fn blocks(text: &str, language: &str) -> Vec<(usize, String)> {
    let mut found = Vec::new();
    let mut open: Option<(usize, String)> = None;
    for (i, line) in text.lines().enumerate() {
        match &mut open {
            None if line.trim_end() == format!("```{language}") => open = Some((i + 1, String::new())),
            Some(_) if line.starts_with("```") => found.extend(open.take()),
            Some((_, body)) => body.push_str(&format!("{line}\n")),
            None => {}
        }
    }
    found
}

/// A folder with an example of a document as `example.bathy`, and the files of the document that it takes from.
pub(crate) fn folder_of(document: &str, example: &str) -> Folder {
    let folder = Folder::new();
    folder.write("example.bathy", example);
    for name in document.lines().filter_map(|line| line.strip_prefix("```bathy file ")) {
        let (_, text) = blocks(document, &format!("bathy file {name}")).remove(0);
        if example.contains(&format!("from \"{name}\"")) {
            folder.write(name, text);
        }
    }
    folder
}

fn documents() -> Vec<PathBuf> {
    let root = repository();
    let mut found = vec![root.join("README.md"), root.join("CONTRIBUTING.md")];
    for folder in ["docs", "docs/decisions"] {
        let entries = std::fs::read_dir(root.join(folder)).expect(folder).flatten().map(|e| e.path());
        found.extend(entries.filter(|p| p.extension().is_some_and(|e| e == "md")));
    }
    found.sort();
    found
}

#[test]
fn every_example_is_rendered() {
    let mut count = 0;
    for path in documents() {
        let text = std::fs::read_to_string(&path).expect("a document");
        for (line, example) in blocks(&text, "bathy") {
            let run = folder_of(&text, &example).run(&["render", "example.bathy"]);
            assert_eq!(run.status, 0, "{}:{line}\n{}", path.display(), run.err);
            assert!(!run.err.contains("warning"), "{}:{line}\n{}", path.display(), run.err);
            count += 1;
        }
    }
    assert!(count >= 20, "{count} examples");
}

#[test]
fn the_first_diagram_of_the_readme_is_the_picture_below_it() {
    let text = std::fs::read_to_string(repository().join("README.md")).expect("the README");
    let (_, example) = blocks(&text, "bathy").remove(0);
    let folder = Folder::new();
    folder.write("watch.bathy", example);
    folder.run(&["render", "watch.bathy"]).ends_with(0).says("pictures/surge_watch.svg");
    let shown = std::fs::read_to_string(repository().join("docs/pictures/surge_watch.svg")).expect("the picture");
    assert!(text.contains("](docs/pictures/surge_watch.svg)"));
    // What it carries of its file is another name.
    let bare = |svg: &str| svg.split("<metadata").next().unwrap_or_default().to_owned();
    assert_eq!(bare(&folder.read("pictures/surge_watch.svg")), bare(&shown));
}

#[test]
fn every_theme_of_the_documents_draws_a_picture() {
    let mut count = 0;
    for path in documents() {
        let text = std::fs::read_to_string(&path).expect("a document");
        for (line, theme) in blocks(&text, "toml") {
            let folder = Folder::new();
            folder.write("flow.bathy", "flow tide\n  \"Read the gauge\"\n").write("own.toml", theme);
            let run = folder.run(&["render", "flow.bathy", "--theme", "own.toml", "--out", "tide.svg"]);
            assert_eq!(run.status, 0, "{}:{line}\n{}", path.display(), run.err);
            count += 1;
        }
    }
    assert!(count >= 1, "{count} themes");
}

#[test]
fn links_lead_somewhere() {
    for path in documents() {
        let text = std::fs::read_to_string(&path).expect("a document");
        // What is indented is an example.
        let text: String = text.lines().filter(|l| !l.starts_with("    ")).map(|l| format!("{l}\n")).collect();
        for target in text.split("](").skip(1).filter_map(|rest| rest.split(')').next()) {
            if target.starts_with("http") || target.contains(' ') || target.is_empty() {
                continue;
            }
            let file = path.parent().expect("a folder").join(target.split('#').next().unwrap_or(target));
            assert!(file.exists(), "{} links to {target}", path.display());
        }
    }
}

#[test]
fn help_is_there_for_every_command_and_its_examples_work_on_the_demo() {
    let folder = Folder::new();
    folder.run(&["--help"]).ends_with(0).says("bathygram demo").says("Draw diagrams from text");
    folder.run(&["--version"]).ends_with(0).says("bathygram 0.1.0");
    folder.run(&["demo", "."]).ends_with(0);
    folder.git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder
        .write("notes.md", "```bathygram\nflow travel\n  \"a\"\n```\n")
        .git(&["add", "."])
        .git(&["commit", "-qm", "two"]);
    let mut count = 0;
    for command in [
        "demo",
        "new",
        "render",
        "check",
        "format",
        "diff",
        "history",
        "recover",
        "illustrate",
        "icons",
        "themes",
        "share",
        "import",
        "import modules",
        "import code",
        "import table",
        "import database",
        "import graph",
        "import rdf",
        "import trace",
        "import outline",
        "conform",
        "site",
        "man",
    ] {
        let asked: Vec<&str> = command.split(' ').chain(["--help"]).collect();
        let help = folder.run(&asked).ends_with(0).says("Example").out;
        let examples =
            help.lines().skip_while(|l| !l.starts_with("Example")).filter_map(|l| l.trim().strip_prefix("bathygram "));
        for example in examples.filter(|e| !e.starts_with("demo") && !is_of_server(e)) {
            run_example(&folder, example);
            count += 1;
        }
    }
    assert!(count >= 30, "{count} examples");
}

/// Whether an example is about a server, which is not there; those have tests of their own.
fn is_of_server(example: &str) -> bool {
    example.contains("://")
}

/// Runs an example as a shell does, and keeps what it writes.
fn run_example(folder: &Folder, example: &str) {
    let (example, output) = example.split_once(" > ").unwrap_or((example, ""));
    let (words, input) = example.split_once(" < ").unwrap_or((example, ""));
    let input = input.split(' ').next().filter(|f| !f.is_empty()).map_or(String::new(), |f| folder.read(f));
    // What stands between quotes is one word.
    let parts = words.split(['"', '\'']).enumerate();
    let words: Vec<&str> = parts
        .flat_map(|(i, part)| match i % 2 {
            0 => part.split(' ').filter(|word| !word.is_empty()).collect(),
            _ => vec![part],
        })
        .collect();
    let run = folder.run_with(&words, &input);
    // The demo's drawings differ from its traces and its code.
    let wanted = i32::from(words[0] == "conform" && !words.contains(&"--write-baseline"));
    let run = run.ends_with(wanted);
    if !output.is_empty() {
        folder.write(output, run.out);
    }
}

#[test]
fn the_commands_of_the_pages_on_sources_work_on_the_demo() {
    let folder = Folder::new();
    folder.run(&["demo", "."]).ends_with(0);
    let table = folder.read("harbour_cabling.csv");
    folder.write(
        "cables.csv",
        table.replacen("From;From port;From rack;To;To port;", "Here;Socket;Rack;Target;Plug;", 1),
    );
    let mut count = 0;
    for page in ["docs/import.md", "docs/conform.md"] {
        let text = std::fs::read_to_string(repository().join(page)).expect(page);
        for example in text.lines().filter_map(|line| line.strip_prefix("    bathygram ")) {
            if is_of_server(example) {
                continue;
            }
            run_example(&folder, example);
            count += 1;
        }
    }
    assert!(count >= 10, "{count} commands");
}

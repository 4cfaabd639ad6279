//! Chores of the project: `cargo xtask test`, `cargo xtask docs`, `cargo xtask count`.

mod docs;

use anyhow::{Context, Result, bail};
use std::path::{Path, PathBuf};
use std::process::Command;

fn main() -> Result<()> {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    match words.as_slice() {
        ["test", rest @ ..] => test(rest),
        ["docs"] => docs::make(),
        ["count"] => count(),
        ["quality", rest @ ..] => quality(rest),
        _ => bail!(
            "chores: `test [ARGUMENTS OF CARGO TEST]` installs what tests need and runs them; `docs` draws the examples \
             of the language reference; `quality [--report]` measures the layout; `count` counts lines"
        ),
    }
}

/// Installs what the tests need beyond cargo, then runs them all.
fn test(rest: &[&str]) -> Result<()> {
    // The tests of `diff` and `check` work on real repositories.
    if !is_there("git") {
        run("apt-get", &["update"])?;
        run("apt-get", &["install", "-y", "--no-install-recommends", "git"])?;
    }
    let mut arguments = vec!["test", "--workspace"];
    arguments.extend(rest);
    run("cargo", &arguments)
}

/// Prints the quality of the layout on the corpus, or writes it into its page.
fn quality(arguments: &[&str]) -> Result<()> {
    let mut all = vec!["run", "--release", "--quiet", "-p", "bathygram-quality", "--"];
    all.extend(arguments);
    if arguments == ["--report"] {
        all.push("docs/layout-quality.md");
    }
    run("cargo", &all)
}

fn is_there(program: &str) -> bool {
    Command::new(program).arg("--version").output().is_ok_and(|o| o.status.success())
}

fn run(program: &str, arguments: &[&str]) -> Result<()> {
    let status = Command::new(program).args(arguments).current_dir(root()).status();
    let status = status.with_context(|| format!("{program} cannot be started; install it first"))?;
    if !status.success() {
        bail!("{program} {} failed", arguments.join(" "));
    }
    Ok(())
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

/// Lines of Rust that are not blank, and how many of them are tests; the longest files.
#[allow(clippy::print_stdout, reason = "its answer")]
fn count() -> Result<()> {
    let mut work = vec![root().join("crates"), root().join("xtask")];
    let (mut all, mut tests) = (0, 0);
    let mut longest: Vec<(usize, PathBuf)> = Vec::new();
    while let Some(folder) = work.pop() {
        for entry in std::fs::read_dir(&folder)?.flatten() {
            let path = entry.path();
            if path.is_dir() {
                work.push(path);
            } else if path.extension().is_some_and(|e| e == "rs") {
                let text = std::fs::read_to_string(&path)?;
                let lines: Vec<&str> = text.lines().filter(|l| !l.trim().is_empty()).collect();
                let is_test_file = path.components().any(|c| c.as_os_str() == "tests") || path.ends_with("tests.rs");
                let own = if is_test_file {
                    0
                } else {
                    lines.iter().position(|l| l.trim() == "#[cfg(test)]").unwrap_or(lines.len())
                };
                all += lines.len();
                tests += lines.len() - own;
                longest.push((own, path));
            }
        }
    }
    longest.sort_by(|a, b| b.cmp(a));
    println!("{all} lines of Rust, {tests} of them tests ({} %)", tests * 100 / all.max(1));
    for (lines, path) in longest.iter().take(8) {
        println!("{lines:6}  {}", path.strip_prefix(root()).unwrap_or(path).display());
    }
    Ok(())
}

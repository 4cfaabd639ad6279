//! Chores of the project: `cargo xtask test`, `cargo xtask docs`, `cargo xtask gallery`, `cargo xtask page`, `cargo xtask count`,
//! `cargo xtask hostile`, `cargo xtask dist`, `cargo xtask deb`, `cargo xtask licences`, `cargo xtask wasm`.

mod dist;
mod docs;
mod hostile;
mod page;

use anyhow::{Context, Result, bail};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::Command;

fn main() -> Result<()> {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    match words.as_slice() {
        ["test", rest @ ..] => test(rest),
        ["docs"] => docs::make(),
        ["dist"] => dist::archive(),
        ["deb"] => dist::debian(),
        ["licences"] => dist::licences(),
        ["wasm"] => wasm(),
        ["gallery"] => gallery(),
        ["page"] => page::make(),
        ["count"] => count(),
        ["hostile", rest @ ..] => hostile::run(rest),
        ["quality", rest @ ..] => quality(rest),
        _ => bail!(
            "chores: `test [ARGUMENTS OF CARGO TEST]` installs what tests need and runs them; `docs` draws the examples \
             of the documents; `dist` packs an archive, `deb` a Debian package; `licences` says which are inside; `wasm` builds the core for a browser; `gallery` draws every kind and the demo in every theme; `page` bundles the editor of the preview's page; `quality [--report]` measures the layout; `count` counts lines; `hostile [MINUTES [SEED]]` runs the program on files that nobody means"
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
    // Those of pages work in a real browser, and ask axe-core and html-validate about them.
    if !is_there("chromedriver") {
        wish("a browser", "apt-get", &["install", "-y", "--no-install-recommends", "chromium", "chromium-driver"]);
    }
    if !works("pdftoppm", &["-v"]) {
        wish("pdftoppm", "apt-get", &["install", "-y", "--no-install-recommends", "poppler-utils"]);
    }
    // Letters of all scripts are measured.
    let has_letters = "for l in 6f6e c870 e2a 91c 1f30a; do fc-list :charset=$l | grep -q . || exit 1; done";
    if !works("sh", &["-c", has_letters]) {
        let fonts = ["fonts-noto-core", "fonts-noto-cjk", "fonts-noto-color-emoji"];
        let install = [&["install", "-y", "--no-install-recommends"], &fonts[..]].concat();
        wish("fonts for all scripts", "apt-get", &install);
    }
    if !is_there("curl") {
        wish("curl", "apt-get", &["install", "-y", "--no-install-recommends", "curl"]);
    }
    if !is_there("nvim") {
        wish("Neovim", "apt-get", &["install", "-y", "--no-install-recommends", "neovim"]);
    }
    if !works("python3", &["-c", "import networkx"]) {
        wish("networkx", "python3", &["-m", "pip", "install", "--quiet", "--break-system-packages", "networkx"]);
    }
    let tools = root().join("target/browser-tools");
    if ["axe-core", "html-validate"].iter().any(|package| !tools.join("node_modules").join(package).is_dir()) {
        let folder = tools.display().to_string();
        let packages = ["axe-core@4.14.1", "html-validate@10.17.0"];
        let install = [&["install", "--silent", "--no-save", "--prefix", &folder], &packages[..]].concat();
        wish("axe-core and html-validate", "npm", &install);
    }
    // Databases and triple stores are asked on real servers.
    if !has_postgresql() {
        wish("PostgreSQL", "apt-get", &["install", "-y", "--no-install-recommends", "postgresql"]);
    }
    if !works("openssl", &["version"]) {
        wish("openssl", "apt-get", &["install", "-y", "--no-install-recommends", "openssl"]);
    }
    if !works("python3", &["-c", "import pyoxigraph"]) {
        wish(
            "pyoxigraph",
            "python3",
            &["-m", "pip", "install", "--quiet", "--break-system-packages", "pyoxigraph==0.5.13"],
        );
    }
    // Code is read as it is published; what cannot be fetched is not read.
    let packages = root().join("target/packages").display().to_string();
    wish("published packages", "timeout", &["400", "sh", "scripts/packages.sh", &packages]);
    if !is_there("go") {
        wish("Go", "apt-get", &["install", "-y", "--no-install-recommends", "golang-go"]);
    }
    let mut arguments = vec!["test", "--workspace"];
    arguments.extend(rest);
    run("cargo", &arguments)
}

/// Builds the core for a browser, where its target can be had.
fn wasm() -> Result<()> {
    let target = "wasm32-unknown-unknown";
    run("rustup", &["target", "add", target])?;
    run("cargo", &["check", "--quiet", "-p", "bathygram-core", "--target", target])
}

/// Draws, into `target/gallery`, for each theme a contact sheet with every kind of diagram, and the demo.
fn gallery() -> Result<()> {
    run("cargo", &["build", "--quiet", "--release", "-p", "bathygram-cli"])?;
    let program = target().join("release/bathygram").canonicalize()?;
    let folder = root().join("target/gallery");
    let listed = Command::new(&program).arg("themes").output()?;
    let listed = String::from_utf8(listed.stdout)?;
    for theme in listed.lines().filter_map(|line| line.split(' ').next()) {
        let own = folder.join(theme);
        std::fs::create_dir_all(&own)?;
        let sheet = folder.join(format!("{theme}.png"));
        let drawn = [
            Command::new(&program).args(["-q", "themes", theme, "--picture", "--out"]).arg(&sheet).status()?,
            Command::new(&program)
                .args(["-q", "render", "--theme", theme, "--out"])
                .arg(&own)
                .current_dir(root().join("demo/tidewatch"))
                .stdout(std::process::Stdio::null())
                .status()?,
        ];
        anyhow::ensure!(drawn.iter().all(|status| status.success()), "{theme} cannot be drawn");
        writeln!(std::io::stdout(), "{}", sheet.display())?;
    }
    Ok(())
}

/// Whether a server of PostgreSQL is installed, not only its client.
fn has_postgresql() -> bool {
    let versions = std::fs::read_dir("/usr/lib/postgresql").into_iter().flatten().flatten();
    versions.into_iter().any(|version| version.path().join("bin/postgres").is_file())
}

/// Installs what some tests need, if that can be done.
fn wish(what: &str, program: &str, arguments: &[&str]) {
    if run(program, arguments).is_err() {
        let _ = writeln!(std::io::stdout(), "{what} cannot be installed here: the tests that need it are skipped");
    }
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
    works(program, &["--version"])
}

/// Whether a program can be run so, without a word.
fn works(program: &str, arguments: &[&str]) -> bool {
    Command::new(program).args(arguments).output().is_ok_and(|o| o.status.success())
}

fn run(program: &str, arguments: &[&str]) -> Result<()> {
    run_in(&root(), program, arguments)
}

fn run_in(folder: &Path, program: &str, arguments: &[&str]) -> Result<()> {
    let status = Command::new(program).args(arguments).current_dir(folder).status();
    let status = status.with_context(|| format!("{program} cannot be started; install it first"))?;
    if !status.success() {
        bail!("{program} {} failed", arguments.join(" "));
    }
    Ok(())
}

/// The folder of what is built.
fn target() -> PathBuf {
    std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| root().join("target"), PathBuf::from)
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

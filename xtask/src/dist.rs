//! `cargo xtask dist`: an archive to hand out, with the program, manual pages, completions, licences and checksums; the same bytes
//! each time. `cargo xtask deb` makes a Debian package of the same. `cargo xtask licences` says which licences are inside.

use crate::{root, run_in};
use anyhow::{Context, Result, bail, ensure};
use flate2::{Compression, GzBuilder};
use serde_json::Value;
use sha2::{Digest, Sha256};
use spdx::{Expression, LicenseReq};
use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::fmt::Write as _;
use std::io::Write as _;
use std::path::{Path, PathBuf};
use std::process::Command;

/// The program is at most so large; in bytes.
const LARGEST: u64 = 25_000_000;

/// Licences that whoever hands the program on can keep by handing on their texts.
const ACCEPTED: [&str; 15] = [
    "MIT",
    "MIT-0",
    "Apache-2.0",
    "BSD-1-Clause",
    "BSD-2-Clause",
    "BSD-3-Clause",
    "ISC",
    "Zlib",
    "0BSD",
    "CC0-1.0",
    "Unlicense",
    "BSL-1.0",
    "Unicode-3.0",
    "OFL-1.1",
    "CDLA-Permissive-2.0",
];

/// What completions are called where shells look for them.
const SHELLS: [(&str, &str); 5] = [
    ("bash", "bathygram.bash"),
    ("zsh", "_bathygram"),
    ("fish", "bathygram.fish"),
    ("elvish", "bathygram.elv"),
    ("powershell", "_bathygram.ps1"),
];

/// Licences of what is inside and is no crate: the file, and what it is.
const OTHERS: [(&str, &str); 5] = [
    ("crates/core/fonts/LICENSE", "Fira Sans and Fira Mono"),
    ("crates/core/fonts/LICENSE-KALAM", "Kalam"),
    ("crates/preview/page/LICENSE-EDITOR", "The editor of the preview"),
    ("crates/site/assets/LICENSE-SEARCH", "The search of a site"),
    ("crates/outputs/page/panzoom.min.js", "Pan and zoom"),
];

/// Builds the archive, and its checksum beside it.
pub(crate) fn archive() -> Result<()> {
    let (folder, name) = staged()?;
    let out = folder.parent().context("a folder")?;
    let path = out.join(format!("{name}.tar.gz"));
    packed(&folder, &name, &path)?;
    let sum: String = Sha256::digest(std::fs::read(&path)?).iter().map(|byte| format!("{byte:02x}")).collect();
    std::fs::write(out.join(format!("{name}.tar.gz.sha256")), format!("{sum}  {name}.tar.gz\n"))?;
    say(&format!("{}\nSHA-256 {sum}", path.display()))
}

/// Builds the Debian package.
pub(crate) fn debian() -> Result<()> {
    staged()?;
    let is_there = Command::new("cargo").args(["deb", "--version"]).output().is_ok_and(|o| o.status.success());
    if !is_there {
        run_in(&root(), "cargo", &["install", "--quiet", "cargo-deb"])?;
    }
    // What `assets` in crates/cli/Cargo.toml names was staged.
    run_in(
        &root(),
        "cargo",
        &[
            "deb",
            "--quiet",
            "--no-build",
            "--no-strip",
            "-p",
            "bathygram-cli",
            "--profile",
            "dist",
            "-o",
            "target/dist/packages/",
        ],
    )?;
    for entry in std::fs::read_dir(root().join("target/dist/packages"))?.flatten() {
        if entry.path().extension().is_some_and(|e| e == "deb") {
            say(&entry.path().display().to_string())?;
        }
    }
    Ok(())
}

/// The folder with everything that is handed out, and what it is called.
fn staged() -> Result<(PathBuf, String)> {
    // Paths of this machine are no part of the program.
    let home = std::env::var("CARGO_HOME").or_else(|_| std::env::var("HOME").map(|home| format!("{home}/.cargo")))?;
    let top = root().canonicalize()?;
    let target = target()?;
    let flags = format!("--remap-path-prefix={}=. --remap-path-prefix={home}=cargo", top.display());
    let mut command = Command::new("cargo");
    command.args([
        "rustc",
        "--quiet",
        "--locked",
        "--profile",
        "dist",
        "-p",
        "bathygram-cli",
        "--bin",
        "bathygram",
        "--",
    ]);
    command.args(["-C", "strip=symbols"]).env("RUSTFLAGS", flags).current_dir(root());
    // The allocator's C source names the time at which it is compiled; this is the time for every compiler that knows the
    // variable (reproducible-builds.org).
    command.env("SOURCE_DATE_EPOCH", "0");
    if target == "x86_64-unknown-linux-gnu" {
        // The linker that comes with Rust here makes one function of several that are the same, where nobody asks for
        // their addresses, packs the list of addresses, and leaves out what only unwinding reads (decision 36).
        let script = format!("link-arg=-Wl,-T,{}", top.join("packaging/small.ld").display());
        command.args(["-C", "link-arg=-Wl,--icf=safe", "-C", "link-arg=-Wl,-z,pack-relative-relocs"]);
        command.args(["-C", "link-arg=-Wl,--no-eh-frame-hdr", "-C", &script]);
    }
    ensure!(command.status()?.success(), "the program cannot be built");
    let built = crate::target().join("dist/bathygram");
    let size = std::fs::metadata(&built)?.len();
    say(&format!("the program has {:.1} MB", size as f64 / 1e6))?;
    ensure!(size < LARGEST, "the program has {size} bytes, and may have {LARGEST}");
    let version = answer(&built, &["--version"])?;
    let version = version.split(' ').nth(1).context("a version")?.trim().to_owned();
    let name = format!("bathygram-{version}-{target}");
    let folder = crate::target().join("dist/packages/staged");
    let _ = std::fs::remove_dir_all(&folder);
    for inner in ["bin", "man", "completions", "licences"] {
        std::fs::create_dir_all(folder.join(inner))?;
    }
    std::fs::copy(&built, folder.join("bin/bathygram"))?;
    let done = Command::new(&built).args(["-q", "man", "--out"]).arg(folder.join("man")).status()?;
    ensure!(done.success(), "the manual pages cannot be written");
    for (shell, file) in SHELLS {
        std::fs::write(folder.join("completions").join(file), answer(&built, &["completions", shell])?)?;
    }
    for file in ["README.md", "CHANGELOG.md", "LICENSE-MIT", "LICENSE-APACHE"] {
        std::fs::copy(root().join(file), folder.join(file))?;
    }
    std::fs::write(folder.join("licences/THIRD-PARTY.txt"), third_party()?)?;
    Ok((folder, name))
}

/// Packs a folder: the same files give the same bytes, whoever packs them and when.
fn packed(folder: &Path, name: &str, to: &Path) -> Result<()> {
    let mut files = BTreeMap::new();
    let mut work = vec![folder.to_owned()];
    while let Some(at) = work.pop() {
        for path in std::fs::read_dir(&at)?.flatten().map(|entry| entry.path()) {
            match path.is_dir() {
                true => work.push(path),
                false => drop(files.insert(path.strip_prefix(folder)?.to_owned(), path)),
            }
        }
    }
    let gzip = GzBuilder::new().mtime(0).write(std::fs::File::create(to)?, Compression::best());
    let mut archive = tar::Builder::new(gzip);
    for (inside, path) in files {
        let bytes = std::fs::read(&path)?;
        let mut header = tar::Header::new_ustar();
        header.set_size(bytes.len() as u64);
        header.set_mode(if inside.starts_with("bin") { 0o755 } else { 0o644 });
        header.set_mtime(0);
        header.set_uid(0);
        header.set_gid(0);
        archive.append_data(&mut header, Path::new(name).join(inside), bytes.as_slice())?;
    }
    archive.into_inner()?.finish()?.flush()?;
    Ok(())
}

/// A package in the program.
struct Package {
    name: String,
    version: String,
    licence: Option<String>,
    folder: PathBuf,
}

/// The crates in the program, by name: those that it depends on when it runs.
fn packages() -> Result<Vec<Package>> {
    let asked = ["metadata", "--format-version", "1", "--locked", "--offline", "--filter-platform", &target()?];
    let metadata: Value = serde_json::from_str(&answer(Path::new("cargo"), &asked)?)?;
    let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
    let list = |value: &Value| value.as_array().cloned().unwrap_or_default();
    let nodes: BTreeMap<String, Vec<String>> = list(&metadata["resolve"]["nodes"])
        .iter()
        .map(|node| {
            // What only builds or tests is not inside.
            let is_inside =
                |dependency: &Value| list(&dependency["dep_kinds"]).iter().any(|kind| kind["kind"].is_null());
            let inside = list(&node["deps"]).into_iter().filter(is_inside).map(|dependency| text(&dependency["pkg"]));
            (text(&node["id"]), inside.collect())
        })
        .collect();
    let all = list(&metadata["packages"]);
    let first = all.iter().find(|package| package["name"] == "bathygram-cli").context("the program")?;
    let (mut known, mut work) = (BTreeSet::new(), VecDeque::from([text(&first["id"])]));
    while let Some(id) = work.pop_front() {
        if known.insert(id.clone()) {
            work.extend(nodes.get(&id).cloned().unwrap_or_default());
        }
    }
    let inside = all.iter().filter(|package| known.contains(&text(&package["id"])) && !package["source"].is_null());
    let mut found: Vec<Package> = inside
        .map(|package| Package {
            name: text(&package["name"]),
            version: text(&package["version"]),
            licence: package["license"].as_str().map(str::to_owned),
            folder: Path::new(&text(&package["manifest_path"])).parent().map(Path::to_owned).unwrap_or_default(),
        })
        .collect();
    found.sort_by(|a, b| (&a.name, &a.version).cmp(&(&b.name, &b.version)));
    Ok(found)
}

/// The texts of all licences of what is inside.
fn third_party() -> Result<String> {
    let mut out = String::from("What the program is made of, and under which licences.\n");
    for package in packages()? {
        let licence = package.licence.as_deref().unwrap_or("a licence of its own");
        write!(out, "\n{}\n{} {}: {licence}\n\n", "=".repeat(78), package.name, package.version)?;
        let mut files: Vec<PathBuf> = std::fs::read_dir(&package.folder)?.flatten().map(|entry| entry.path()).collect();
        files.sort();
        let is_licence = |path: &PathBuf| {
            let name = path.file_name().map(|name| name.to_string_lossy().to_uppercase()).unwrap_or_default();
            path.is_file()
                && ["LICENSE", "LICENCE", "COPYING", "NOTICE", "UNLICENSE"].iter().any(|word| name.starts_with(word))
        };
        for file in files.iter().filter(|path| is_licence(path)) {
            writeln!(out, "{}", String::from_utf8_lossy(&std::fs::read(file)?).trim())?;
        }
    }
    for (file, what) in OTHERS {
        let text = std::fs::read_to_string(root().join(file))?;
        // Of a script its first lines hold the licence.
        let text = match file.ends_with(".js") {
            true => text.lines().take_while(|line| line.len() < 400).collect::<Vec<_>>().join("\n"),
            false => text,
        };
        write!(out, "\n{}\n{what}\n\n{}\n", "=".repeat(78), text.trim())?;
    }
    Ok(out)
}

/// Refuses crates under licences that are not accepted, and those of which nobody knows.
pub(crate) fn licences() -> Result<()> {
    let mut counts: BTreeMap<String, usize> = BTreeMap::new();
    let mut refused = Vec::new();
    for package in packages()? {
        let written = package.licence.clone().unwrap_or_default();
        // Some crates write `/` for `OR`, as cargo did once.
        let is_accepted = Expression::parse(&written.replace('/', " OR ")).is_ok_and(|expression| {
            expression.evaluate(|wanted: &LicenseReq| {
                let id = wanted.license.id().map(|id| id.name);
                id.is_some_and(|id| ACCEPTED.contains(&id))
            })
        });
        if !is_accepted {
            refused.push(format!("{} {}: {written:?}", package.name, package.version));
        }
        *counts.entry(written).or_default() += 1;
    }
    for (licence, count) in &counts {
        say(&format!("{count:4}  {licence}"))?;
    }
    if refused.is_empty() { Ok(()) } else { bail!("not accepted:\n{}", refused.join("\n")) }
}

/// What the program is built for: this machine.
fn target() -> Result<String> {
    let about = answer(Path::new("rustc"), &["-vV"])?;
    Ok(about.lines().find_map(|line| line.strip_prefix("host: ")).context("a target")?.to_owned())
}

fn answer(program: &Path, arguments: &[&str]) -> Result<String> {
    let done = Command::new(program).args(arguments).current_dir(root()).output()?;
    ensure!(done.status.success(), "{}: {}", program.display(), String::from_utf8_lossy(&done.stderr));
    Ok(String::from_utf8(done.stdout)?)
}

fn say(words: &str) -> Result<()> {
    Ok(writeln!(std::io::stdout(), "{words}")?)
}

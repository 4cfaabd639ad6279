//! Runs the built program on what nobody means: files that are changed, cut, repeated and mixed, in a project with links, pictures of
//! others and a record that somebody else wrote. A run may refuse anything; it may not crash, hang, take a gigabyte, write outside of
//! its project, touch what is not its own, or print what acts on a terminal.

use anyhow::{Context, Result, bail};
use bathygram_corpus::Dice;
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

/// A run may take so long; twice what is promised, since two of them share a machine with the compiler.
const LONGEST: Duration = Duration::from_secs(20);
/// A run may take this many KiB of memory.
const MOST_MEMORY: u64 = 1024 * 1024;
/// Where finds are kept, a folder each: its files, and the call in `CALL`.
const FINDS: &str = "fuzz/hostile";
const CALL: &str = "CALL";

/// Calls by the kind of the file that was changed: its name in the project, and what is run then.
const KINDS: [(&str, &[&str]); 19] = [
    (
        "a.bathy",
        &[
            "check",
            "render --anyway",
            "format --check",
            "format",
            "diff a.bathy b.bathy --picture o",
            "render a.bathy --format json,graphml,html --out o --anyway",
            "site",
            "history a.bathy",
            "diff HEAD --html o.html",
        ],
    ),
    (
        "b.bathy",
        &[
            "render",
            "check --json",
            "check --fix",
            "diff b.bathy a.bathy --format markdown",
            "render b.bathy --format png,pdf --out o --anyway --scale 0.5",
        ],
    ),
    (
        "notes.md",
        &[
            "illustrate notes.md",
            "check",
            "format notes.md",
            "illustrate notes.md --hide-source",
            "diff notes.md a.bathy",
            "site",
        ],
    ),
    ("bathygram.toml", &["check", "render", "conform"]),
    (".bathygram/record.json", &["render", "check"]),
    (".bathygram/checked.json", &["check"]),
    (
        "old.svg",
        &["recover old.svg", "share old.svg", "diff old.svg a.svg", "render a.bathy --keep old.svg --out o", "check"],
    ),
    ("old.png", &["recover old.png", "share old.png"]),
    ("old.pdf", &["recover old.pdf", "diff old.pdf a.svg"]),
    ("icon.svg", &["render icon.bathy --out o", "check icon.bathy"]),
    ("look.toml", &["themes look.toml", "render a.bathy --theme look.toml --out o"]),
    ("mid.toml", &["themes mid.toml", "render a.bathy --theme mid.toml --out o"]),
    ("words.toml", &["render a.bathy --language words.toml --out o", "site --language words.toml"]),
    (".git/config", &["diff HEAD~1 HEAD", "history a.bathy", "check", "site --history"]),
    (".git/index", &["diff", "diff --index", "check"]),
    (".git/HEAD", &["diff", "history a.bathy --json"]),
    (".gitignore", &["check", "site", "render"]),
    ("data.csv", &["import graph data.csv", "import table data.csv"]),
    ("data.json", &["import trace data.json", "import outline data.json"]),
];

/// What texts hold that somebody wrote on purpose.
const SPITE: [&str; 24] = [
    "../../escaped",
    "`../x`",
    "`con`",
    "/etc/hosts",
    "\u{1b}[2J",
    "\u{202e}",
    "\u{0}",
    "\r",
    "\r\n",
    "\u{feff}",
    "\u{2028}",
    "\"\"\"",
    "<script>alert(1)</script>",
    "]]>",
    "-->",
    "18446744073709551616",
    "-1",
    "1e999",
    "NaN",
    "from \"../../a.bathy\"",
    "from \"a.bathy\"",
    "<<<<<<< ours\n",
    "=======\n>>>>>>> theirs\n",
    "${x}",
];

/// A file of the project with what it holds.
type Files = BTreeMap<String, Vec<u8>>;

/// Runs for some minutes, on all cores.
///
/// # Errors
/// If the program cannot be built, or something was found.
pub(crate) fn run(words: &[&str]) -> Result<()> {
    let minutes: f64 =
        words.first().map_or(Ok(10.0), |word| word.parse()).context("`hostile` takes a number of minutes")?;
    let seed: u64 = words.get(1).map_or(Ok(1), |word| word.parse()).context("the seed is a number")?;
    super::run("cargo", &["build", "--quiet", "--release", "-p", "bathygram-cli"])?;
    let program = super::target().join("release/bathygram").canonicalize()?;
    let (pool, base) = (pool()?, base(&program)?);
    replayed(&program, &base)?;
    let end = Instant::now() + Duration::from_secs_f64(minutes * 60.0);
    let (runs, finds) = (AtomicUsize::new(0), AtomicUsize::new(0));
    let hands = std::thread::available_parallelism().map_or(1, usize::from) as u64;
    std::thread::scope(|scope| -> Result<()> {
        let work = |hand: u64| -> Result<()> {
            let mut dice = Dice::new(seed.wrapping_mul(hands) + hand);
            while Instant::now() < end {
                let (name, calls) = dice.pick(&KINDS);
                let mut files = base.clone();
                let call = *dice.pick(calls);
                let folder = scratch("run")?;
                // A record counts only where it was made.
                let is_record = name.starts_with(".bathygram/");
                files.retain(|file, _| !file.starts_with(".bathygram/"));
                if !is_record {
                    let old = files.get(*name).cloned().unwrap_or_default();
                    files.insert((*name).to_owned(), changed(&old, &pool, &mut dice));
                }
                laid_out(&folder, &files)?;
                if is_record {
                    let made = folder.join("p").join(name);
                    for command in ["render", "check"] {
                        quietly(&program, command, &folder.join("p"))?;
                    }
                    let bytes = changed(&std::fs::read(&made).unwrap_or_default(), &pool, &mut dice);
                    std::fs::write(&made, &bytes)?;
                    files.insert((*name).to_owned(), bytes);
                }
                runs.fetch_add(1, Ordering::Relaxed);
                let found = fault(&program, &folder, call)?;
                std::fs::remove_dir_all(folder)?;
                if let Some(what) = found {
                    finds.fetch_add(1, Ordering::Relaxed);
                    keep(name, &files[*name], call, &what)?;
                }
            }
            Ok(())
        };
        let all: Vec<_> = (0..hands).map(|hand| scope.spawn(move || work(hand))).collect();
        all.into_iter().try_for_each(|hand| hand.join().unwrap_or_else(|_| bail!("a thread broke")))
    })?;
    let (runs, finds) = (runs.into_inner(), finds.into_inner());
    writeln!(std::io::stdout(), "{runs} runs in {minutes} minutes, seed {seed}: {finds} finds")?;
    if finds > 0 { bail!("{finds} finds are in {FINDS}") } else { Ok(()) }
}

/// Runs what was found before, which must not go wrong again.
fn replayed(program: &Path, base: &Files) -> Result<()> {
    for kept in std::fs::read_dir(super::root().join(FINDS)).into_iter().flatten().flatten() {
        let kept = kept.path();
        let Ok(about) = std::fs::read_to_string(kept.join(CALL)) else { continue };
        let [name, call, ..] = about.lines().collect::<Vec<_>>()[..] else { continue };
        let mut files = base.clone();
        files.insert(name.to_owned(), std::fs::read(kept.join(name.replace('/', "_")))?);
        let folder = scratch("again")?;
        laid_out(&folder, &files)?;
        let found = fault(program, &folder, call)?;
        std::fs::remove_dir_all(folder)?;
        if let Some(what) = found {
            bail!("{}: `{call}` goes wrong as before: {what}", kept.display());
        }
    }
    Ok(())
}

/// Texts to change and to mix.
fn pool() -> Result<Vec<Vec<u8>>> {
    let root = super::root();
    let folders = [
        "fuzz/corpus",
        "fuzz/finds",
        "demo/tidewatch",
        "docs",
        "crates/cli/tests/data/graphs",
        "crates/cli/tests/data/outlines",
        "crates/cli/tests/data/processes",
    ];
    let mut pool = Vec::new();
    for folder in folders {
        for entry in std::fs::read_dir(root.join(folder))?.flatten().filter(|entry| entry.path().is_file()) {
            pool.push(std::fs::read(entry.path())?);
        }
    }
    pool.sort();
    Ok(pool)
}

/// A project with one of everything, as the program itself makes it.
fn base(program: &Path) -> Result<Files> {
    let folder = scratch("base")?;
    let data = super::root().join("crates/cli/tests/data");
    let write = |name: &str, text: &str| std::fs::write(folder.join(name), text);
    write(
        "a.bathy",
        "architecture a \"Tidewatch\"\n  system core \"Core\" (icon \"icon.svg\")\n    service gate\n  actor keeper\n  keeper calls gate \"levels\"\n\nsheet inside of a\n  focus core\n",
    )?;
    write(
        "b.bathy",
        "from \"a.bathy\"\n\nsequence b of a \"Surge\"\n  keeper calls gate \"levels\"\n    gate answers \"3 m\"\n\nflow c\n  begin \"Gale\"\n  decide \"High?\"\n    when \"yes\"\n      \"Warn\"\n    or \"no\"\n      \"Wait\"\n  finish \"Over\"\n",
    )?;
    write("icon.bathy", "architecture i\n  system s (icon \"icon.svg\")\n")?;
    write(
        "icon.svg",
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 24 24\"><defs><path id=\"p\" d=\"M2 2h20v20z\"/></defs><use href=\"#p\" transform=\"rotate(5)\"/><g fill=\"red\"><circle r=\"4\" cx=\"9\" cy=\"9\"/></g></svg>",
    )?;
    write(
        "notes.md",
        "# Notes\n\n```bathygram\nflow n\n  begin \"Gale\"\n  finish \"Over\"\n```\n\n> ```bathygram\n> tree t\n>   \"a\"\n> ```\n",
    )?;
    write(
        "bathygram.toml",
        "pictures = \"pictures\"\nformats = [\"svg\"]\ntheme = \"shoal\"\nkeep = true\n\n[rules]\ndead-end = \"error\"\n",
    )?;
    write("look.toml", "extends = \"shoal\"\nname = \"harbour\"\n")?;
    write("mid.toml", "extends = \"look.toml\"\nname = \"mid\"\npaper = \"#ffffff\"\n")?;
    write("words.toml", "[page]\nfind = \"Zoek\"\n\n[relation]\ncalls = \"{from} roept {to}\"\n")?;
    write(".gitignore", "o\nsite\n")?;
    std::fs::copy(data.join("graphs/stations.csv"), folder.join("data.csv"))?;
    std::fs::copy(data.join("traces/surge.json"), folder.join("data.json"))?;
    for call in [
        "render",
        "check",
        "illustrate notes.md",
        "render a.bathy --only a --format svg,png,pdf --out .",
        "render a.bathy --only a --out old.svg",
        "render a.bathy --only a --out old.png --scale 0.3",
        "render a.bathy --only a --out old.pdf",
    ] {
        quietly(program, call, &folder)?;
    }
    // Two commits, the second with another name in it.
    let git = |words: &[&str]| -> Result<()> {
        let author =
            ["-c", "user.name=Keeper", "-c", "user.email=keeper@tidewatch.invalid", "-c", "core.fsmonitor=false"];
        let done = Command::new("git").args(author).args(words).current_dir(&folder).output()?;
        anyhow::ensure!(done.status.success(), "git: {}", String::from_utf8_lossy(&done.stderr));
        Ok(())
    };
    git(&["init", "-q", "--template="])?;
    git(&["add", "a.bathy", "b.bathy", "notes.md"])?;
    git(&["commit", "-qm", "first"])?;
    let renamed = std::fs::read_to_string(folder.join("a.bathy"))?.replace("keeper", "watch");
    write("a.bathy", &renamed)?;
    write("b.bathy", &std::fs::read_to_string(folder.join("b.bathy"))?.replace("keeper", "watch"))?;
    git(&["commit", "-qam", "second"])?;
    let mut files = Files::new();
    let mut work = vec![folder.clone()];
    while let Some(at) = work.pop() {
        for entry in std::fs::read_dir(&at)?.flatten() {
            if entry.path().is_dir() {
                work.push(entry.path());
            } else {
                let name = entry.path().strip_prefix(&folder)?.to_string_lossy().into_owned();
                files.insert(name, std::fs::read(entry.path())?);
            }
        }
    }
    std::fs::remove_dir_all(folder)?;
    Ok(files)
}

/// Runs the program, whatever it says.
fn quietly(program: &Path, call: &str, folder: &Path) -> Result<()> {
    let mut command = Command::new(program);
    command.args(call.split(' ')).current_dir(folder).stdout(Stdio::null()).stderr(Stdio::null());
    command.status()?;
    Ok(())
}

/// An empty folder of its own.
fn scratch(name: &str) -> Result<PathBuf> {
    let own = format!("bathygram-hostile-{}-{name}-{:?}", std::process::id(), std::thread::current().id());
    let folder = std::env::temp_dir().join(own.replace(['(', ')'], ""));
    let _ = std::fs::remove_dir_all(&folder);
    std::fs::create_dir_all(&folder)?;
    Ok(folder)
}

/// A file after some changes; mixed with others of the pool.
fn changed(old: &[u8], pool: &[Vec<u8>], dice: &mut Dice) -> Vec<u8> {
    let mut bytes = old.to_vec();
    if dice.percent(30) {
        bytes.clone_from(dice.pick(pool));
    }
    let most = if dice.percent(2) { 2 << 20 } else { 64 << 10 };
    for _ in 0..1 + dice.roll(6) {
        let at = dice.roll(bytes.len() + 1);
        let longest = 1 + dice.roll(400);
        let end = at + dice.roll((bytes.len() - at).min(longest) + 1);
        let lines = |bytes: &[u8]| bytes.split_inclusive(|b| *b == b'\n').map(<[u8]>::to_vec).collect::<Vec<_>>();
        match dice.roll(11) {
            0 => bytes.iter_mut().skip(at).take(1).for_each(|b| *b = b.wrapping_add(1 + dice.roll(255) as u8)),
            1 => drop(bytes.drain(at..end)),
            2 => bytes.truncate(at),
            3 => {
                let part = bytes[at..end].to_vec();
                let times = if dice.percent(20) { dice.roll(2_000) } else { dice.roll(8) };
                bytes.splice(at..at, part.repeat(times.min(most / part.len().max(1))));
            }
            4 => {
                let other = dice.pick(pool);
                let from = dice.roll(other.len() + 1);
                let to = from + dice.roll((other.len() - from).min(2_000) + 1);
                bytes.splice(at..end, other[from..to].iter().copied());
            }
            5 | 6 => drop(bytes.splice(at..at, dice.pick(&SPITE).bytes())),
            7 => {
                let mut all = lines(&bytes);
                let (a, b) = (dice.roll(all.len()), dice.roll(all.len()));
                if !all.is_empty() {
                    all.swap(a, b);
                }
                bytes = all.concat();
            }
            8 => {
                let mut all = lines(&bytes);
                let a = dice.roll(all.len());
                if let Some(line) = all.get_mut(a) {
                    let more = b" ".repeat(dice.roll(12));
                    line.splice(0..0, more);
                }
                bytes = all.concat();
            }
            9 => {
                let ends = ["\r\n", "\r", "\n\n", ""];
                let end = dice.pick(&ends).as_bytes();
                bytes = bytes.split(|b| *b == b'\n').collect::<Vec<_>>().join(end);
            }
            _ => {
                let digits: Vec<usize> = (0..bytes.len()).filter(|i| bytes[*i].is_ascii_digit()).collect();
                if !digits.is_empty() {
                    let at = *dice.pick(&digits);
                    let number = *dice.pick(&["0", "-1", "99999999999", "1e308", "4294967296"]);
                    bytes.splice(at..=at, number.bytes());
                }
            }
        }
        bytes.truncate(most);
    }
    bytes
}

/// Writes a project with these files into a folder, and what is not its own beside it.
fn laid_out(folder: &Path, files: &Files) -> Result<()> {
    let project = folder.join("p");
    for (name, bytes) in files {
        let path = project.join(name);
        std::fs::create_dir_all(path.parent().context("a parent")?)?;
        std::fs::write(path, bytes)?;
    }
    std::fs::create_dir_all(folder.join("outside/pictures"))?;
    std::fs::write(folder.join("outside/pictures/a.svg"), "<svg/>")?;
    std::fs::write(project.join("pictures/foreign.svg"), "<svg/>")?;
    #[cfg(unix)]
    std::os::unix::fs::symlink("../outside/pictures", project.join("linked"))?;
    Ok(())
}

/// What is wrong after a call in a project; `None` if nothing is.
fn fault(program: &Path, folder: &Path, call: &str) -> Result<Option<String>> {
    let project = folder.join("p");
    let before = outside(folder)?;
    let mut child = Command::new(program)
        .args(call.split(' '))
        .current_dir(&project)
        .env("HOME", folder.join("p"))
        .stdin(Stdio::null())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()?;
    let status_file = format!("/proc/{}/status", child.id());
    let (mut out, mut err) = (child.stdout.take().context("a pipe")?, child.stderr.take().context("a pipe")?);
    let readers = [
        std::thread::spawn(move || -> std::io::Result<Vec<u8>> {
            let mut all = Vec::new();
            out.read_to_end(&mut all)?;
            Ok(all)
        }),
        std::thread::spawn(move || -> std::io::Result<Vec<u8>> {
            let mut all = Vec::new();
            err.read_to_end(&mut all)?;
            Ok(all)
        }),
    ];
    let begun = Instant::now();
    let mut memory = 0;
    let status = loop {
        if let Some(status) = child.try_wait()? {
            break Some(status);
        }
        if let Ok(text) = std::fs::read_to_string(&status_file) {
            let line = text.lines().find_map(|line| line.strip_prefix("VmHWM:"));
            memory = line.and_then(|l| l.trim().trim_end_matches(" kB").parse().ok()).unwrap_or(memory);
        }
        if begun.elapsed() > LONGEST || memory > MOST_MEMORY {
            child.kill()?;
            child.wait()?;
            break None;
        }
        std::thread::sleep(Duration::from_millis(5));
    };
    let [out, err] = readers.map(|reader| reader.join().ok().and_then(|r| r.ok()).unwrap_or_default());
    let text = String::from_utf8_lossy(&err).into_owned();
    let acts = |text: &str| text.chars().find(|c| *c != '\n' && *c != '\t' && c.is_control());
    let is_text = ["check", "render", "diff", "format", "illustrate", "site", "history"]
        .iter()
        .any(|word| call.starts_with(word));
    let found = match status {
        None if memory > MOST_MEMORY => Some(format!("{memory} KiB of memory")),
        None => Some(format!("longer than {LONGEST:?}")),
        Some(status) if !matches!(status.code(), Some(0..=3)) => {
            Some(format!("{status}: {}", text.lines().rev().take(6).collect::<Vec<_>>().join(" | ")))
        }
        _ if text.contains("panicked") => Some(text.clone()),
        _ if acts(&text).is_some() => Some(format!("{:?} on standard error", acts(&text))),
        _ if is_text && acts(&String::from_utf8_lossy(&out)).is_some() => {
            Some("a control character on standard output".to_owned())
        }
        _ if outside(folder)? != before => Some("something outside of the project changed".to_owned()),
        _ if std::fs::read(project.join("pictures/foreign.svg")).ok().as_deref() != Some(b"<svg/>") => {
            Some("a picture of somebody else is gone".to_owned())
        }
        _ => script(&project)?,
    };
    Ok(found)
}

/// Everything beside the project, with its contents.
fn outside(folder: &Path) -> Result<Files> {
    let mut files = Files::new();
    let mut work = vec![folder.to_owned()];
    while let Some(at) = work.pop() {
        for entry in std::fs::read_dir(&at)?.flatten() {
            let path = entry.path();
            if path == folder.join("p") {
                continue;
            }
            let name = path.strip_prefix(folder)?.to_string_lossy().into_owned();
            if path.is_dir() {
                work.push(path);
                files.insert(name, Vec::new());
            } else {
                files.insert(name, std::fs::read(path)?);
            }
        }
    }
    Ok(files)
}

/// A picture with a script in it, if there is one.
fn script(project: &Path) -> Result<Option<String>> {
    for folder in ["pictures", "o"] {
        for entry in std::fs::read_dir(project.join(folder)).into_iter().flatten().flatten() {
            let path = entry.path();
            if path.extension().is_some_and(|e| e == "svg") && path.is_file() {
                let text = String::from_utf8_lossy(&std::fs::read(&path)?).to_lowercase();
                if text.contains("<script") || text.contains("javascript:") {
                    return Ok(Some(format!("a script in {}", path.display())));
                }
            }
        }
    }
    let mut work = vec![project.join("site")];
    while let Some(at) = work.pop() {
        for path in std::fs::read_dir(&at).into_iter().flatten().flatten().map(|entry| entry.path()) {
            if path.is_dir() && !path.is_symlink() {
                work.push(path);
            } else if path.extension().is_some_and(|e| e == "html") {
                // The scripts of the site have attributes, and stand in the last lines.
                let text = String::from_utf8_lossy(&std::fs::read(&path)?).to_lowercase();
                if text.contains("<script>") || text.contains("href=\"javascript:") {
                    return Ok(Some(format!("a script in {}", path.display())));
                }
            }
        }
    }
    Ok(None)
}

/// Keeps what was found.
fn keep(name: &str, bytes: &[u8], call: &str, what: &str) -> Result<()> {
    let digest: String =
        Sha256::digest([bytes, call.as_bytes()].concat()).iter().take(6).map(|b| format!("{b:02x}")).collect();
    let folder = super::root().join(FINDS).join(digest);
    std::fs::create_dir_all(&folder)?;
    std::fs::write(folder.join(name.replace('/', "_")), bytes)?;
    std::fs::write(folder.join(CALL), format!("{name}\n{call}\n{what}\n"))?;
    writeln!(std::io::stdout(), "{}: {call}: {}", folder.display(), what.lines().next().unwrap_or_default())?;
    Ok(())
}

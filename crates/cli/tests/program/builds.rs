//! The project's own pictures: the record, what is removed, and everything that can go wrong while they are written.

use crate::common::Folder;
use std::collections::BTreeMap;
use std::io::{BufRead, BufReader};
use std::process::{Command, Stdio};
use std::time::Duration;

fn flow(name: &str, step: &str) -> String {
    format!("flow {name}\n  begin \"Level read\"\n  \"{step}\"\n  finish \"Done\"\n")
}

/// Writes this many flows with this step.
fn write(folder: &Folder, count: usize, step: &str) {
    for i in 0..count {
        folder.write(&format!("f{i}.bathy"), flow(&format!("f{i}"), step));
    }
}

/// A project of this many flows that was just built.
fn built(count: usize) -> Folder {
    let folder = Folder::new();
    write(&folder, count, "Log it");
    settled();
    folder.run(&["render"]).ends_with(0);
    folder
}

/// What was written just now may change without getting another time, so it does not enter the record at once.
fn settled() {
    std::thread::sleep(Duration::from_millis(60));
}

#[test]
fn what_was_made_and_why() {
    let folder = built(2);
    folder.run(&["render"]).ends_with(0).says("2 pictures up to date");
    folder.write("f0.bathy", flow("f0", "Warn")).write("new.bathy", flow("new", "Log it"));
    let picture = folder.read("pictures/f1.svg");
    folder.write("pictures/f1.svg", picture.replace("Log it", "Lie"));
    let run = folder.run(&["render", "-v"]).ends_with(0);
    let run = run.says("3 pictures written (1 new, 1 changed, 1 edited by hand)");
    assert!(
        run.err.contains("f1: edited by hand") && run.err.contains("f0.bathy is read: its source changed"),
        "{}",
        run.err
    );
    assert_eq!(folder.read("pictures/f1.svg"), picture);
    std::fs::remove_file(folder.path("pictures/f0.svg")).expect("removed");
    folder.run(&["render"]).ends_with(0).says("1 picture written (1 new), 2 up to date");
}

#[test]
fn a_build_without_its_record_ends_the_same() {
    let folder = built(3);
    let before: Vec<String> = (0..3).map(|i| folder.read(&format!("pictures/f{i}.svg"))).collect();
    for damage in ["", "{", "{\"form\":1}"] {
        folder.write(".bathygram/record.json", damage);
        folder.run(&["render"]).ends_with(0).says("3 pictures up to date");
    }
    std::fs::remove_dir_all(folder.path(".bathygram")).expect("removed");
    folder.run(&["render", "--all"]).ends_with(0).says("3 pictures written");
    let after: Vec<String> = (0..3).map(|i| folder.read(&format!("pictures/f{i}.svg"))).collect();
    assert_eq!(after, before);
    assert_eq!(folder.read(".bathygram/.gitignore"), "*\n");
}

#[test]
fn every_form_is_kept_up_to_date() {
    let folder = Folder::new();
    folder.write("bathygram.toml", "formats = [\"svg\", \"png\", \"pdf\"]\n").write("f0.bathy", flow("f0", "Log it"));
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    for form in ["svg", "png", "pdf"] {
        let path = folder.path(&format!("pictures/f0.{form}"));
        let whole = std::fs::read(&path).expect("a picture");
        let mut edited = whole.clone();
        edited[whole.len() / 2] ^= 1;
        std::fs::write(&path, edited).expect("written");
        folder.run(&["check"]).ends_with(1).says("picture-edited");
        folder.run(&["render"]).ends_with(0).says("1 edited by hand");
        assert_eq!(std::fs::read(&path).expect("a picture"), whole, "{form}: the same bytes again");
    }
    std::fs::remove_file(folder.path("f0.bathy")).expect("removed");
    folder.write("f1.bathy", flow("f1", "Warn"));
    folder.run(&["render"]).ends_with(0).says("3 removed");
}

#[test]
fn what_a_text_takes_from_counts() {
    let folder = Folder::new();
    folder.write("looks.bathy", "look\n  service: fill sand\n");
    folder.write("map.bathy", "from \"looks.bathy\"\narchitecture map\n  service gateway \"Gateway\"\n");
    settled();
    folder.run(&["render"]).ends_with(0);
    folder.run(&["render"]).ends_with(0).says("1 picture up to date");
    folder.write("looks.bathy", "look\n  service: fill kelp\n");
    folder.run(&["render", "-v"]).ends_with(0).says("map.bathy is read: a file that it takes from changed");
}

#[test]
fn pictures_whose_text_is_gone_are_removed_if_they_are_ours() {
    let folder = built(3);
    folder.write("pictures/photo.svg", "<svg xmlns='http://www.w3.org/2000/svg'/>");
    folder.run(&["render", "f2.bathy", "--all"]).ends_with(0);
    folder.run(&["render", "f2.bathy", "--out", "pictures/copy.svg"]).ends_with(0);
    let edited = folder.read("pictures/f1.svg") + "<!-- mine -->";
    folder.write("pictures/f1.svg", edited);
    for gone in ["f0.bathy", "f1.bathy"] {
        std::fs::remove_file(folder.path(gone)).expect("removed");
    }
    folder
        .run(&["check"])
        .says("`bathygram render` does, if it drew it here")
        .says("it was changed since it was drawn");
    // Not while another text has errors: its pictures may come back.
    folder.write("bad.bathy", "flow bad\n  decid \"x\"\n");
    folder.run(&["render"]).ends_with(1);
    assert!(folder.files().contains(&"pictures/f0.svg".to_owned()));
    std::fs::remove_file(folder.path("bad.bathy")).expect("removed");
    folder
        .run(&["render"])
        .ends_with(0)
        .says("pictures/f0.svg removed")
        .says("pictures/f1.svg stays")
        .says("1 removed");
    assert_eq!(
        folder.files(),
        ["f2.bathy", "pictures/copy.svg", "pictures/f1.svg", "pictures/f2.svg", "pictures/photo.svg"]
    );
}

#[test]
fn a_file_with_an_error_is_read_until_it_is_mended() {
    let folder = built(1);
    folder.write("bad.bathy", "flow bad\n  decid \"x\"\n");
    for _ in 0..3 {
        folder.run(&["render"]).ends_with(1).says("`decid` means nothing");
    }
    folder.write("bad.bathy", flow("f0", "Warn"));
    folder.run(&["render"]).ends_with(2).says("both have a picture called `f0`");
}

#[test]
fn one_build_at_a_time() {
    let folder = built(1);
    let lock = std::fs::File::options().append(true).open(folder.path(".bathygram/lock")).expect("the lock");
    lock.lock().expect("free");
    folder.write("f0.bathy", flow("f0", "Warn"));
    let before = folder.read("pictures/f0.svg");
    let mut second = program(&folder).stderr(Stdio::piped()).spawn().expect("starts");
    let mut said = BufReader::new(second.stderr.take().expect("messages")).lines().map_while(Result::ok);
    assert_eq!(said.next().as_deref(), Some("another `bathygram render` is at work here; this one waits"));
    assert_eq!((folder.read("pictures/f0.svg"), second.try_wait().expect("a process")), (before, None));
    drop(lock);
    assert!(said.any(|line| line.contains("1 picture written (1 changed)")));
    assert!(second.wait().expect("ends").success());
}

#[test]
fn builds_at_the_same_time_lose_nothing() {
    let folder = built(30);
    write(&folder, 30, "Warn");
    let start = || program(&folder).spawn().expect("starts");
    let runs: Vec<_> = (0..4).map(|_| start()).collect();
    for mut run in runs {
        let status = run.wait().expect("ends").code();
        assert!(matches!(status, Some(0 | 3)), "{status:?}");
    }
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
}

fn program(folder: &Folder) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_bathygram"));
    command.arg("render").current_dir(folder.path("")).stdout(Stdio::null()).stderr(Stdio::null());
    command
}

#[test]
fn a_killed_build_leaves_everything_whole() {
    const FILES: usize = 12;
    let folder = built(FILES);
    let name = |i: usize| format!("f{i}");
    // What each picture may be: as it was drawn for one of the two texts.
    let mut whole: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for step in ["Warn", "Log it"] {
        write(&folder, FILES, step);
        folder.run(&["render"]).ends_with(0);
        (0..FILES).for_each(|i| whole.entry(name(i)).or_default().push(folder.read(&format!("pictures/f{i}.svg"))));
    }
    let begun = std::time::Instant::now();
    folder.run(&["render", "--all"]).ends_with(0);
    let usual = begun.elapsed();
    for round in 0..200_u32 {
        let step = ["Warn", "Log it"][round as usize % 2];
        write(&folder, FILES, step);
        let mut run = program(&folder).spawn().expect("starts");
        // Spread over the time of a run by an irrational step.
        let part = f64::from(round) * 0.618_034 % 1.0;
        std::thread::sleep(Duration::from_secs_f64(usual.as_secs_f64() * part));
        run.kill().expect("killed or ended");
        run.wait().expect("ended");
        for (name, texts) in &whole {
            let picture = folder.read(&format!("pictures/{name}.svg"));
            assert!(texts.contains(&picture), "round {round}: {name} is neither the old nor the new picture");
        }
        let record = folder.read(".bathygram/record.json");
        assert!(serde_json::from_str::<serde_json::Value>(&record).is_ok(), "round {round}");
        if round % 20 == 19 {
            folder.run(&["render"]).ends_with(0);
            folder.run(&["check"]).ends_with(0);
            let left: Vec<String> = folder.files().into_iter().filter(|f| f.contains(".bathygram-")).collect();
            assert!(left.is_empty(), "{left:?}");
        }
    }
}

#[test]
fn pictures_follow_their_texts_while_they_are_watched() {
    let folder = built(1);
    let mut watching = program(&folder).arg("--watch").spawn().expect("starts");
    let comes = |name: &str, text: &str| {
        (0..400).any(|_| {
            std::thread::sleep(Duration::from_millis(25));
            std::fs::read_to_string(folder.path(name)).is_ok_and(|svg| svg.contains(text))
        })
    };
    std::thread::sleep(Duration::from_millis(300));
    folder.write("f0.bathy", flow("f0", "Warn"));
    assert!(comes("pictures/f0.svg", "Warn"));
    // Saved by renaming, as many editors do; an error does not end it.
    folder.write("f0.tmp", flow("f0", "Call out").replace("begin", "begn"));
    std::fs::rename(folder.path("f0.tmp"), folder.path("f0.bathy")).expect("renamed");
    std::thread::sleep(Duration::from_millis(300));
    folder.write("f0.tmp", flow("f0", "Call out"));
    std::fs::rename(folder.path("f0.tmp"), folder.path("f0.bathy")).expect("renamed");
    assert!(comes("pictures/f0.svg", "Call out"));
    folder.write("new/f1.bathy", flow("f1", "Log it"));
    assert!(comes("pictures/f1.svg", "Log it"));
    // A document whose picture stands in it.
    let marks = "<!-- bathygram: drawn from the block above -->\n![n](<pictures/n.svg>)\n<!-- bathygram: end -->\n";
    folder.write("docs/n.md", format!("```bathygram\n{}```\n{marks}", flow("n", "Note it")));
    assert!(comes("docs/pictures/n.svg", "Note it"));
    assert!(watching.try_wait().expect("asked").is_none(), "it goes on");
    watching.kill().expect("ended");
    watching.wait().expect("ended");
    folder.run(&["render", "--watch", "--out", "x"]).ends_with(2);
}

#[cfg(unix)]
#[test]
fn nothing_is_written_through_links() {
    let folder = built(2);
    let outside = Folder::new();
    outside.write("secret", "mine").write("deep/.keep", "");
    std::fs::remove_file(folder.path("pictures/f0.svg")).expect("removed");
    std::os::unix::fs::symlink(outside.path("secret"), folder.path("pictures/f0.svg")).expect("linked");
    folder.write("f1.bathy", flow("f1", "Warn"));
    folder.run(&["render"]).ends_with(3).says("pictures/f0.svg is a symbolic link");
    assert_eq!(outside.read("secret"), "mine");
    // The other one was drawn.
    assert!(folder.read("pictures/f1.svg").contains("Warn"));
    std::fs::remove_dir_all(folder.path("pictures")).expect("removed");
    std::os::unix::fs::symlink(outside.path("deep"), folder.path("pictures")).expect("linked");
    folder.run(&["render"]).ends_with(3).says("is a symbolic link");
    assert_eq!(outside.files(), ["deep/.keep", "secret"]);
}

/// Whether the tests run as a user whom permissions do not stop.
#[cfg(target_os = "linux")]
fn is_root() -> bool {
    let status = std::fs::read_to_string("/proc/self/status").expect("the kernel tells");
    status.lines().any(|l| l.starts_with("Uid:\t0\t"))
}

/// A small file system of its own; `None` where the tests may not make one.
#[cfg(target_os = "linux")]
struct Small(Folder);

#[cfg(target_os = "linux")]
impl Small {
    fn new(options: &str) -> Option<Self> {
        let folder = Folder::new();
        let mount = |arguments: &[&str]| {
            Command::new("mount").args(arguments).arg(folder.path("")).stderr(Stdio::null()).status()
        };
        let is_made = is_root() && mount(&["-t", "tmpfs", "-o", options, "tmpfs"]).is_ok_and(|s| s.success());
        is_made.then_some(Self(folder))
    }

    fn remount(&self, options: &str) {
        let status = Command::new("mount").args(["-o", &format!("remount,{options}")]).arg(self.0.path("")).status();
        assert!(status.expect("mount starts").success());
    }
}

#[cfg(target_os = "linux")]
impl Drop for Small {
    fn drop(&mut self) {
        let _ = Command::new("umount").arg(self.0.path("")).status();
    }
}

#[cfg(target_os = "linux")]
#[test]
fn a_full_disk_and_a_read_only_one() {
    let Some(small) = Small::new("size=200k") else { return };
    let folder = &small.0;
    folder.write("f0.bathy", flow("f0", "Log it"));
    folder.run(&["render"]).ends_with(0);
    let before = folder.read("pictures/f0.svg");
    // Full: what was there stays, what had no room is reported.
    write(folder, 30, "Warn");
    let run = folder.run(&["render"]).ends_with(3);
    assert!(run.err.contains("cannot write") && run.err.contains("No space left"), "{}", run.err);
    assert_eq!(run.err.matches("No space left").count(), 1, "said once: {}", run.err);
    let now = folder.read("pictures/f0.svg");
    assert!(now == before || now.contains("Warn"));
    assert!(folder.files().iter().all(|f| !f.contains(".bathygram-")), "{:?}", folder.files());
    // Room again.
    (1..30).for_each(|i| drop(std::fs::remove_file(folder.path(&format!("f{i}.bathy")))));
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    // Read-only: nothing to do is done, and what cannot be written is reported.
    small.remount("ro");
    folder.run(&["render"]).ends_with(0).says("1 picture up to date");
    small.remount("rw");
    folder.write("f0.bathy", flow("f0", "Log it"));
    small.remount("ro");
    folder.run(&["render"]).ends_with(3).says("cannot write").says("Read-only file system");
}

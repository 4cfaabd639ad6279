//! What strangers' repositories and archives may hold: nothing leads out of the project, nothing of somebody else is lost, and
//! nothing makes the program wait.

use crate::common::{Folder, Run};
use std::os::unix::fs::symlink;
use std::path::Path;
use std::time::{Duration, Instant};

const FLOW: &str = "flow storm \"Storm\"\n  begin \"Gale\"\n  finish \"Over\"\n";
const FOREIGN: &str = "<svg xmlns=\"http://www.w3.org/2000/svg\"><circle r=\"9\"/></svg>\n";

fn named(name: &str) -> String {
    FLOW.replacen("storm", name, 1)
}

/// A pipe that nobody writes to: whoever opens it waits.
fn pipe(path: &Path) {
    std::fs::create_dir_all(path.parent().expect("a parent")).expect("folders");
    let status = std::process::Command::new("mkfifo").arg(path).status().expect("mkfifo");
    assert!(status.success());
}

/// A run that must not wait for anybody.
fn soon(folder: &Folder, arguments: &[&str]) -> Run {
    let begun = Instant::now();
    let run = folder.run(arguments);
    assert!(begun.elapsed() < Duration::from_secs(20), "{arguments:?} took {:?}", begun.elapsed());
    run
}

#[test]
fn no_name_becomes_a_path() {
    let folder = Folder::new();
    for name in ["`../../escaped`", "`/tmp/bathygram-escaped`", "`a/b`", "`con`", "`LPT1.x`", "`a?`", "`x.`"] {
        let project = Folder::new();
        project.write("p/q/a.bathy", named(name)).write("p/q/notes.md", format!("```bathygram\n{}```\n", named(name)));
        project.git(&["init", "-q", "."]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
        project.write("p/q/a.bathy", named(name).replace("Gale", "Storm"));
        for arguments in [
            &["render"][..],
            &["render", "--anyway"],
            &["render", "a.bathy", "--anyway", "--out", "o", "--format", "svg,png,html"],
            &["render", "--of", name, "--all-depths", "--anyway"],
            &["diff", "--picture", "o"],
            &["diff", "--html", "o.html"],
            &["illustrate", "notes.md"],
            &["history", "a.bathy", "--picture", "h.svg"],
        ] {
            project.run_in("p/q", arguments);
        }
        let outside: Vec<String> =
            project.files().into_iter().filter(|f| !f.starts_with("p/q/") && !f.starts_with(".git/")).collect();
        assert_eq!(outside, [""; 0], "{name}");
        let inside: Vec<String> = project.files().into_iter().filter(|f| f.contains("escaped")).collect();
        assert_eq!(inside, [""; 0], "{name}");
    }
    assert!(!Path::new("/tmp/bathygram-escaped.svg").exists());
    folder.write("a.bathy", named("storm")).write("b.bathy", named("Storm"));
    folder.run(&["render"]).ends_with(2).says("differ only in capitals");
    folder.run(&["check"]).ends_with(1).says("error[picture-name-taken]").says("differ only in capitals");
    folder.write("b.bathy", named("storm2") + "\n" + &named("STORM2"));
    folder.run(&["check", "b.bathy"]).ends_with(1).says("error[name-taken]");
}

#[test]
fn what_lies_behind_a_link_is_neither_removed_nor_written() {
    let folder = Folder::new();
    folder.write("other/storm.bathy", FLOW).write("mine/calm.bathy", named("calm"));
    folder.run_in("other", &["render"]).ends_with(0);
    let picture = folder.read("other/pictures/storm.svg");
    symlink("../other/pictures", folder.path("mine/pictures")).expect("linked");
    folder.write("mine/notes.md", format!("```bathygram\n{}```\n", named("quiet")));
    for arguments in [&["render"][..], &["render", "--all"], &["illustrate", "notes.md"], &["check"]] {
        folder.run_in("mine", arguments);
        assert_eq!(folder.read("other/pictures/storm.svg"), picture, "{arguments:?}");
        assert_eq!(std::fs::read_dir(folder.path("other/pictures")).expect("there").count(), 1, "{arguments:?}");
    }
    // A document that is a link out of the project stays as it is, too.
    folder.write("far.md", format!("```bathygram\n{FLOW}```\n"));
    let before = folder.read("far.md");
    std::fs::remove_file(folder.path("mine/pictures")).expect("unlinked");
    folder.write("mine/bathygram.toml", "");
    symlink("../far.md", folder.path("mine/far.md")).expect("linked");
    folder.run_in("mine", &["illustrate", "far.md"]).ends_with(2).says("leads out of the project");
    folder.run_in("mine", &["check", "--fix", "far.md"]);
    assert_eq!(folder.read("far.md"), before);
}

#[test]
fn files_of_others_stay_where_pictures_would_go() {
    let folder = Folder::new();
    folder.write("storm.bathy", FLOW).write("calm.bathy", named("calm")).write("pictures/storm.svg", FOREIGN);
    folder.run(&["render"]).ends_with(3).says("storm.svg is not drawn by this program").says("--force");
    assert_eq!(folder.read("pictures/storm.svg"), FOREIGN);
    assert!(folder.path("pictures/calm.svg").is_file(), "the others are drawn");
    folder.run(&["check"]).ends_with(1).says("error[picture-foreign]").says("this program did not draw it");
    folder.write("o/storm.svg", FOREIGN);
    folder.run(&["render", "storm.bathy", "--out", "o"]).ends_with(3);
    assert_eq!(folder.read("o/storm.svg"), FOREIGN);
    // A file that is named is meant.
    folder.run(&["render", "storm.bathy", "--out", "o/storm.svg"]).ends_with(0);
    assert_ne!(folder.read("o/storm.svg"), FOREIGN);
    folder.run(&["render", "--force"]).ends_with(0);
    assert_ne!(folder.read("pictures/storm.svg"), FOREIGN);
    folder.run(&["check"]).ends_with(0);
    folder.git(&["init", "-q", "."]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder.write("storm.bathy", FLOW.replace("Gale", "Squall")).write("changes/storm.svg", FOREIGN);
    folder.run(&["diff", "--picture", "changes"]).ends_with(3).says("not drawn by this program");
    assert_eq!(folder.read("changes/storm.svg"), FOREIGN);
    let text = folder.read("storm.bathy");
    for option in ["--picture", "--html"] {
        folder.run(&["history", "storm.bathy", option, "storm.bathy"]).ends_with(2).says("should end in");
        folder.run(&["diff", option, "storm.bathy"]);
        assert_eq!(folder.read("storm.bathy"), text);
    }
}

#[test]
fn the_record_is_only_a_cache() {
    let folder = Folder::new();
    folder.write("outside.bathy", FLOW).write("p/bathygram.toml", "").write("p/calm.bathy", named("calm"));
    folder.run_in("p", &["render"]).ends_with(0);
    folder.run_in("p", &["check"]).ends_with(0);
    // 1. One that somebody else made, with the same files, says nothing here.
    let record = folder.read("p/.bathygram/record.json");
    let copy = Folder::new();
    let status = std::process::Command::new("cp").arg("-a").arg(folder.path("p")).arg(copy.path("p")).status();
    assert!(status.expect("cp").success());
    let crafted = copy.read("p/.bathygram/record.json").replace("calm.bathy", "gone.bathy");
    copy.write("p/.bathygram/record.json", &crafted).write("p/.bathygram/checked.json", crafted);
    copy.write("p/calm.bathy", "flow calm\n  nonsense\n");
    copy.run_in("p", &["check"]).ends_with(1).says("calm.bathy");
    copy.run_in("p", &["render"]).ends_with(1).says("calm.bathy");
    // 2. Names that lead out are nobody's.
    for name in ["../outside.bathy", "/etc/hosts", "a/../../outside.bathy"] {
        let crafted = record.replace("calm.bathy", name);
        folder.write("p/.bathygram/record.json", &crafted).write("p/.bathygram/checked.json", &crafted);
        let run = folder.run_in("p", &["render", "-v"]).ends_with(0);
        assert!(!run.out.contains("outside") && !run.err.contains("outside"), "{}{}", run.out, run.err);
        assert!(folder.path("p/pictures/calm.svg").is_file());
        folder.run_in("p", &["check"]).ends_with(0);
    }
    // 3. Numbers of any size.
    for number in ["18446744073709551615", "-1", "1e300", "0"] {
        let crafted = record.replacen("\"written\":", &format!("\"written\":{number},\"was\":"), 1);
        folder.write("p/.bathygram/record.json", &crafted).write("p/.bathygram/checked.json", &crafted);
        folder.run_in("p", &["render"]).ends_with(0);
        folder.run_in("p", &["check"]).ends_with(0);
    }
    // 4. A folder that is a link, or has links in it, is refused.
    for (link, target) in
        [(".bathygram", "../far"), (".bathygram/lock", "../../lock"), (".bathygram/.gitignore", "../../x")]
    {
        let folder = Folder::new();
        folder.write("p/bathygram.toml", "").write("p/calm.bathy", named("calm")).write("far/here", "");
        std::fs::create_dir_all(folder.path("p").join(link).parent().expect("a parent")).expect("made");
        symlink(target, folder.path("p").join(link)).expect("linked");
        for command in ["render", "check"] {
            folder.run_in("p", &[command]).ends_with(3).says("is a symbolic link");
        }
        let outside: Vec<String> = folder.files().into_iter().filter(|f| !f.starts_with("p/")).collect();
        assert_eq!(outside, ["far/here"]);
    }
}

#[test]
fn pipes_and_devices_are_not_read() {
    let folder = Folder::new();
    folder.write("storm.bathy", FLOW);
    pipe(&folder.path("pictures/storm.svg"));
    soon(&folder, &["render"]).ends_with(3).says("not drawn by this program");
    soon(&folder, &["check"]).ends_with(1).says("picture-foreign");
    std::fs::remove_file(folder.path("pictures/storm.svg")).expect("removed");
    folder.run(&["render"]).ends_with(0);
    for place in [".gitignore", "sub/.gitignore", "sub/.ignore", ".git/info/exclude"] {
        let folder = Folder::new();
        folder.write("storm.bathy", FLOW);
        pipe(&folder.path(place));
        for command in ["render", "check", "format"] {
            soon(&folder, &[command]).ends_with(3).says("is no regular file").says(place);
        }
    }
    folder.write(".gitignore", vec![b'#'; 2_000_000]);
    folder.run(&["render"]).ends_with(3).says(".gitignore is larger than 1 MiB");
    std::fs::remove_file(folder.path(".gitignore")).expect("removed");
    pipe(&folder.path("earlier.svg"));
    symlink("/dev/zero", folder.path("zero.svg")).expect("linked");
    symlink("/dev/zero", folder.path("zero.md")).expect("linked");
    for (arguments, status) in [
        (&["render", "storm.bathy", "--keep", "earlier.svg"][..], 2),
        (&["render", "storm.bathy", "--keep", "zero.svg"], 2),
        (&["recover", "earlier.svg"], 3),
        (&["recover", "zero.svg"], 3),
        (&["illustrate", "zero.md"], 2),
        (&["format", "zero.md"], 3),
        (&["render", "/dev/zero"], 3),
        (&["share", "zero.svg"], 3),
    ] {
        let run = soon(&folder, arguments).ends_with(status);
        assert!(run.err.contains("no regular file") || run.err.contains("leads out"), "{arguments:?}: {}", run.err);
    }
    pipe(&folder.path("p/bathygram.toml"));
    folder.write("p/storm.bathy", FLOW);
    let run = folder.run_in("p", &["check"]).ends_with(3);
    assert!(run.err.contains("bathygram.toml is no regular file"), "{}", run.err);
}

#[test]
fn git_objects_are_weighed_before_they_are_read() {
    let folder = Folder::new();
    folder.git(&["init", "-q", "."]).write("storm.bathy", FLOW).write("calm.bathy", named("calm"));
    // A machine may have filters of its own for what is large.
    folder.git(&["config", "core.attributesFile", "/dev/null"]);
    folder.git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder.write("storm.bathy", vec![b'/'; 17 << 20]);
    folder.git(&["add", "."]).git(&["commit", "-qm", "large"]);
    folder
        .write("storm.bathy", FLOW.replace("Gale", "Squall"))
        .write("calm.bathy", named("calm").replace("Gale", "Dead calm"));
    folder.git(&["add", "."]).git(&["commit", "-qm", "two"]);
    let run = soon(&folder, &["diff", "HEAD~1", "HEAD"]).ends_with(3);
    assert!(
        run.err.contains("storm.bathy is larger than 16 MiB") && run.out.contains("Dead calm"),
        "{}{}",
        run.out,
        run.err
    );
    let run = soon(&folder, &["history", "storm.bathy"]).ends_with(3);
    assert!(
        run.err.contains("storm.bathy is larger than 16 MiB") && run.out.lines().count() == 3,
        "{}{}",
        run.out,
        run.err
    );
    soon(&folder, &["history", "storm.bathy", "--last", "1"]).ends_with(0).says("storm");
}

/// A repository with changes, and what `diff` and `history` say there.
fn repository() -> Folder {
    let folder = Folder::new();
    folder.git(&["init", "-q", "."]).write("storm.bathy", FLOW).write("calm.bathy", named("calm"));
    folder.git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder.write("storm.bathy", FLOW.replace("Gale", "Squall"));
    folder.git(&["add", "."]).git(&["commit", "-qm", "two"]);
    folder.write("calm.bathy", named("calm").replace("Gale", "Doldrums")).write("new.bathy", named("new"));
    folder
}

fn answers(folder: &Folder, environment: &[(&str, &str)]) -> Vec<String> {
    [&["diff", "HEAD~1"][..], &["diff", "HEAD~1", "HEAD", "--json"], &["history", "storm.bathy"], &["diff", "--index"]]
        .iter()
        .map(|arguments| {
            let run = folder.start(".", arguments, "", environment).ends_with(0);
            run.out.replace(|c: char| c.is_ascii_hexdigit(), "") + &run.err
        })
        .collect()
}

#[test]
fn the_configuration_of_a_repository_neither_runs_programs_nor_changes_answers() {
    let plain = answers(&repository(), &[]);
    assert!(plain[0].contains("Doldrums") || plain[0].contains("storm"), "{}", plain[0]);
    let folder = repository();
    let ran = folder.path("ran");
    let program = folder.path("program");
    std::fs::write(&program, format!("#!/bin/sh\necho \"$0 $*\" >> {}\ncat\n", ran.display())).expect("written");
    std::fs::set_permissions(&program, std::os::unix::fs::PermissionsExt::from_mode(0o755)).expect("made runnable");
    let program = program.display().to_string();
    folder.write(".git/info/attributes", "*.bathy filter=evil diff=evil merge=evil\n*.bathy filter=e=vil\n");
    for hook in ["post-index-change", "post-checkout", "pre-auto-gc"] {
        folder.write(&format!(".git/hooks/{hook}"), format!("#!/bin/sh\necho hook >> {}\n", ran.display()));
        let path = folder.path(&format!(".git/hooks/{hook}"));
        std::fs::set_permissions(path, std::os::unix::fs::PermissionsExt::from_mode(0o755)).expect("made runnable");
    }
    let config = format!(
        "\n[core]\n fsmonitor = {program}\n pager = {program}\n sshCommand = {program}\n quotePath = true\n askPass = {program}\n\
         [color]\n ui = always\n diff = always\n[log]\n showSignature = true\n showRoot = false\n follow = true\n[gpg]\n program = {program}\n\
         [filter \"evil\"]\n clean = {program} clean\n smudge = {program}\n process = {program}\n required = true\n\
         [filter \"e=vil\"]\n clean = {program} clean\n required = true\n\
         [diff]\n external = {program}\n noprefix = true\n mnemonicPrefix = true\n relative = true\n renames = false\n orderFile = none\n\
         [diff \"evil\"]\n command = {program}\n textconv = {program}\n[alias]\n diff = !{program}\n log = !{program}\n\
         [pager]\n diff = {program}\n log = {program}\n[submodule]\n recurse = true\n[format]\n pretty = oneline\n[status]\n short = true\n\
         [remote \"origin\"]\n url = ext::{program}\n promisor = true\n partialclonefilter = blob:none\n"
    );
    let old = folder.read(".git/config");
    folder.write(".git/config", old + &config);
    // What git keeps of a file's time is no reason to ask a filter.
    let status = std::process::Command::new("touch").arg(folder.path("storm.bathy")).status();
    assert!(status.expect("touch").success());
    let environment = [
        ("GIT_EXTERNAL_DIFF", program.as_str()),
        ("GIT_LITERAL_PATHSPECS", "1"),
        ("GIT_PAGER", &program),
        ("GIT_SSH_COMMAND", &program),
        ("GIT_DIFF_OPTS", "-u0"),
    ];
    assert_eq!(answers(&folder, &environment), plain);
    assert!(!ran.exists(), "it ran: {}", folder.read("ran"));
    for odd in ["^HEAD", "--output=x", "-p"] {
        let run = folder.run(&["diff", "--", odd, "HEAD"]);
        assert_eq!(run.status, 2, "{odd}: {}{}", run.out, run.err);
    }
    assert!(!folder.path("x").exists());
}

#[test]
fn git_s_own_diff_shows_pictures_of_others_and_odd_names() {
    let folder = Folder::new();
    let program = env!("CARGO_BIN_EXE_bathygram");
    folder.git(&["init", "-q", "."]).write("pictures/photo.svg", FOREIGN).write("-storm.bathy", FLOW);
    folder
        .write(".gitattributes", "*.bathy diff=bathygram\n*.svg diff=bathygram-picture\n")
        .write("bad.bathy", b"flow \xff\n");
    folder.git(&["config", "diff.bathygram.command", &format!("{program} diff --driver")]);
    folder.git(&["config", "diff.bathygram-picture.textconv", &format!("{program} recover --any-file")]);
    folder.git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder
        .write("pictures/photo.svg", FOREIGN.replace("circle", "ellipse"))
        .write("-storm.bathy", FLOW.replace("Gale", "Squall"));
    folder.write("bad.bathy", b"flow \xfe\n");
    let out = std::process::Command::new("git").args(["diff"]).current_dir(folder.path(".")).output().expect("git");
    let text = String::from_utf8_lossy(&out.stdout);
    assert!(out.status.success(), "{text}{}", String::from_utf8_lossy(&out.stderr));
    assert!(text.contains("ellipse") && text.contains("Squall") && text.contains("not UTF-8"), "{text}");
    folder.run(&["recover", "pictures/photo.svg"]).ends_with(2).says("no picture that this program drew");
}

#[test]
fn what_is_printed_does_not_act() {
    let folder = Folder::new();
    let evil = "\u{1b}[2J\u{1b}]0;x\u{7}\u{202e}abc\u{9b}31m`@team` <script> ![x](y) #1";
    let text = format!("flow storm \"{evil}\"\n  begin \"{evil}\"\n  step `n{evil}` \"{evil}\"\n  stop `{evil}`\n")
        .replace('`', "");
    folder.git(&["init", "-q", "."]).write("storm.bathy", FLOW);
    folder.git(&["add", "."]).git(&[
        "commit",
        "-qm",
        evil,
        &format!("--author={} <a@tidewatch.invalid>", evil.replace(['<', '>'], "")),
    ]);
    folder.write("storm.bathy", &text).write("notes\u{1b}[31m.bathy", "flow \u{1b}[31mx\n  ?\n");
    let acts = |c: char| c != '\n' && (c.is_control() || matches!(c, '\u{202a}'..='\u{202e}'));
    for arguments in [
        &["check"][..],
        &["render"],
        &["render", "--anyway"],
        &["diff"],
        &["diff", "--format", "markdown"],
        &["history", "storm.bathy"],
        &["format", "--check"],
        &["check", "no\u{1b}[31m.bathy"],
        &["themes", "no\u{1b}[31m"],
        &["check", "--explain", "no\u{1b}[31m"],
    ] {
        let run = folder.run(arguments);
        let found = run.out.chars().chain(run.err.chars()).find(|c| acts(*c));
        assert_eq!(found, None, "{arguments:?}:\n{}\n{}", run.out, run.err);
    }
    folder.run(&["diff"]).says("\\u{1b}[2J").says("\\u{202e}");
}

#[test]
fn every_line_end_is_a_line_end_or_refused() {
    let folder = Folder::new();
    let texts = [
        FLOW,
        "flow storm\n  \"x\" ?\n  ..\n",
        "\n\n",
        "sequence s\n  actor a\n  a calls b \"x\n",
        "class",
        "\"\"\"\n",
    ];
    for text in texts {
        for end in ["\n", "\r\n", "\r", "\r\r", "\r\r\n", "\n\r", "\u{2028}", "\u{85}", "\u{b}"] {
            let text = text.replace('\n', end);
            folder.write("a.bathy", &text);
            for arguments in
                [&["check", "--no-pictures"][..], &["render", "--anyway"], &["format", "--check"], &["format"]]
            {
                let run = folder.run(arguments);
                assert!([0, 1].contains(&run.status), "{arguments:?} {text:?}: {}{}", run.out, run.err);
            }
            if end.starts_with('\r') && end != "\r\n" && text.contains('\r') {
                assert_eq!(folder.read("a.bathy"), text, "`format` leaves it");
                folder.run(&["check", "--no-pictures"]).ends_with(1).says("error[line-ends]");
                folder.run(&["format"]).ends_with(1).says("carriage return");
            }
        }
    }
    folder.write("bathygram.toml", "formats = []\n").write("a.bathy", FLOW);
    for command in ["render", "check"] {
        folder.run(&[command]).ends_with(3).says("`formats` names at least one form");
    }
}

#[test]
fn every_limit_is_an_error_that_says_so() {
    let folder = Folder::new();
    let many = |line: &str, count: usize| format!("architecture a\n  system x\n{}", line.repeat(count));
    for (text, code, says) in [
        (many("// a\n", 1_000_000), "too-many-lines", "may have 1000000 lines"),
        (many("  nonsense\n", 6_000), "too-many-findings", "more are only counted"),
        (format!("flow f\n  \"{}\"\n", "x".repeat(300_000)), "text-too-long", "may have 262144 bytes"),
        (many(&format!("  x uses x \"{}\"\n", "y".repeat(100_000)), 84), "too-much-text", "may have 8388608 bytes"),
        (many("  x uses x \"a\"\n", 50_001), "too-many-relations", "at most 50000 relations"),
        ((0..=5_000).map(|i| format!("tree t{i}\n  \"a\"\n")).collect(), "too-many-blocks", "at most 5000 diagrams"),
        (
            (0..1_000).map(|i| format!("  lane l{i}\n")).fold("flow f\n".to_owned(), |all, lane| all + &lane),
            "too-many-lanes",
            "at most 400 lanes",
        ),
        // Each picture would carry all of it.
        (many(&format!("flow f\n  \"{}\"\n", "x".repeat(100_000)), 80), "too-many-blocks", "at most 67 diagrams"),
    ] {
        folder.write("a.bathy", &text);
        let run = soon(&folder, &["check", "--no-pictures"]).ends_with(1);
        assert!(run.out.len() < 100_000, "{} bytes about {code}", run.out.len());
        assert!(run.out.contains(says) || run.out.contains(code), "{code}: {}", run.out);
        soon(&folder, &["check", "--no-pictures", "--json"]).ends_with(1).says(code);
    }
    // Labels of any length are cut in messages.
    folder.write("a.bathy", format!("flow f\n  \"x\"\n  go {}\n", "y".repeat(1_000_000)));
    let run = soon(&folder, &["check", "--no-pictures"]).ends_with(1);
    assert!(run.out.len() < 20_000, "{} bytes", run.out.len());
    // What is not read is not formatted either.
    let long = many("// a\n", 1_000_000);
    folder.write("a.bathy", &long);
    folder.run(&["format"]);
    assert_eq!(folder.read("a.bathy"), long);
}

#[test]
fn a_picture_that_is_too_large_is_refused_with_the_scale_that_fits() {
    let folder = Folder::new();
    let steps: String = (0..200).map(|i| format!("  s{i} uses s{}\n", i + 1)).collect();
    folder.write("a.bathy", format!("architecture a\n  heading down\n{steps}"));
    let run = folder.run(&["render", "a.bathy", "--anyway", "--out", "a.png", "--scale", "16"]).ends_with(3);
    let fits = run.err.split("--scale ").nth(1).and_then(|rest| rest.split(' ').next()).expect("a scale").to_owned();
    assert!(run.err.contains("100 million"), "{}", run.err);
    assert!(!folder.path("a.png").exists());
    folder.run(&["render", "a.bathy", "--anyway", "--out", "a.png", "--scale", &fits]);
    assert!(folder.path("a.png").is_file(), "{fits} fits");
}

#[test]
fn pictures_of_other_projects_are_no_strays_of_this_one() {
    let folder = Folder::new();
    folder
        .write("other/far.bathy", named("far"))
        .write("mine/storm.bathy", FLOW)
        .write("mine/calm.bathy", named("calm"));
    folder.run_in("other", &["render"]).ends_with(0);
    folder.run_in("mine", &["render"]).ends_with(0);
    let far = folder.read("other/pictures/far.svg");
    folder.write("mine/pictures/far.svg", &far);
    std::fs::remove_file(folder.path("mine/calm.bathy")).expect("removed");
    let run = folder.run_in("mine", &["render"]).ends_with(0);
    assert!(run.err.contains("far.svg stays") && run.err.contains("it was not drawn here"), "{}", run.err);
    assert!(run.err.contains("calm.svg removed"), "{}", run.err);
    assert_eq!(folder.read("mine/pictures/far.svg"), far);
    // The record goes on knowing what was drawn here when the config is another one.
    folder.write("mine/calm.bathy", named("calm"));
    folder.run_in("mine", &["render"]).ends_with(0);
    folder.write("mine/bathygram.toml", "keep = true\n");
    std::fs::remove_file(folder.path("mine/calm.bathy")).expect("removed");
    folder.run_in("mine", &["render"]).ends_with(0).says("calm.svg removed");
}

#[test]
fn many_texts_take_from_one_large_file() {
    let folder = Folder::new();
    let large: String = (0..5_000).map(|i| format!("  system s{i} \"System {i}\"\n")).collect();
    folder.write("large.bathy", format!("architecture large\n{large}  s1 uses s2\n"));
    for i in 0..40 {
        folder.write(&format!("p{i}.bathy"), format!("from \"large.bathy\"\n\nsheet p{i} of large\n  focus s{i}\n"));
    }
    let run = soon(&folder, &["check", "--no-pictures"]);
    assert!([0, 1].contains(&run.status), "{}", run.err);
    let list: Vec<String> = (0..40).map(|i| format!("p{i}.bathy")).collect();
    let arguments: Vec<&str> = ["render", "--out", "o"].into_iter().chain(list.iter().map(String::as_str)).collect();
    let run = soon(&folder, &arguments);
    assert!(folder.path("o/p39.svg").is_file(), "{}{}", run.out, run.err);
}

#[test]
fn a_text_of_which_every_line_changes_is_shown_soon() {
    let folder = Folder::new();
    let lines: String = (0..60_000).map(|i| format!("   tide    calls   buoy   \"m{i}\"\n\n\n")).collect();
    folder.write("a.bathy", format!("sequence a\n{lines}"));
    let run = soon(&folder, &["format", "--check"]).ends_with(1);
    assert_eq!(run.out.lines().filter(|line| line.starts_with("+  tide calls buoy")).count(), 60_000);
    soon(&folder, &["format"]).ends_with(0);
    soon(&folder, &["format", "--check"]).ends_with(0);
}

#[test]
fn parts_of_a_large_picture_get_what_one_of_its_size_gets() {
    let folder = Folder::new();
    // Ten circles of systems that nothing joins with each other, each with many lines from system to system.
    let services = |i: usize| (0..7).map(|j| format!("    service e{i}_{j}\n")).collect::<String>();
    let systems: String = (0..450).map(|i| format!("  system s{i}\n{}", services(i))).collect();
    let lines = |i: usize| {
        let next = i / 45 * 45 + (i * 7 + 1) % 45;
        format!("  e{i}_{} uses e{next}_{}\n", i % 7, i * 5 % 7).repeat(if next == i { 0 } else { 16 })
    };
    let lines: String = (0..450).map(lines).collect();
    folder.write("a.bathy", format!("architecture a\n{systems}{lines}"));
    soon(&folder, &["render", "a.bathy", "--out", "o.svg"]).ends_with(0);
}

#[test]
fn documents_of_any_shape_are_read_soon() {
    let folder = Folder::new();
    folder.write("a.bathy", FLOW);
    let marks = "<!-- bathygram: drawn from the block above -->x<!-- bathygram: end -->";
    for text in ["<b>".repeat(400_000), "# N\n\n".repeat(100_000), marks.repeat(20_000)] {
        folder.write("notes.md", &text);
        for arguments in [&["check", "notes.md", "--no-pictures"][..], &["illustrate", "notes.md"], &["site"]] {
            soon(&folder, arguments).ends_with(0);
        }
    }
}

#[test]
fn thousands_of_faulty_blocks_take_seconds() {
    let folder = Folder::new();
    let block = |i: usize| format!("```bathygram\nflow f{i}\n  ?\n```\n\n");
    folder.write("notes.md", (0..3_000).map(block).collect::<String>());
    for arguments in [&["check", "--no-pictures"][..], &["illustrate", "notes.md"], &["format", "--check"]] {
        let run = soon(&folder, arguments);
        assert!([0, 1].contains(&run.status), "{arguments:?}");
    }
    folder.write("more.md", (0..=5_000).map(block).collect::<String>());
    for arguments in [&["check", "more.md"][..], &["illustrate", "more.md"]] {
        soon(&folder, arguments).says("holds at most 5000 diagrams, and this one has 5001");
    }
    std::fs::remove_file(folder.path("more.md")).expect("removed");
    folder
        .write("open.md", "```bathygram\n".repeat(20_000))
        .write("deep.md", "> ".repeat(2_000) + "```bathygram\nflow f\n");
    soon(&folder, &["check", "open.md", "deep.md", "--no-pictures"]);
}

#[test]
fn comparing_thousands_takes_seconds() {
    let folder = Folder::new();
    let many = |count: usize, line: &dyn Fn(usize) -> String| (0..count).map(line).collect::<String>();
    let services = |name: &str, label: &str, step: usize| {
        let all = many(4_000, &|i| format!("  service {name}{i} \"{label} {i}\"\n"));
        let calls = many(8_000, &|i| format!("  {name}{} calls {name}{}\n", i % 4_000, (i * step + 1) % 4_000));
        format!("architecture a\n{all}{calls}")
    };
    let steps = |word: &str| {
        let all = many(8_000, &|i| format!("  \"{word} {i}\"\n"));
        format!("flow a\n  begin \"Gale\"\n{all}  finish \"Over\"\n")
    };
    let messages = |word: &str| format!("sequence a\n{}", many(20_000, &|i| format!("  b sends c \"{word} {i}\"\n")));
    let members = |word: &str| format!("classes a\n  class B\n{}", many(20_000, &|i| format!("    {word}{i}: int\n")));
    let blocks = |word: &str| many(3_000, &|i| format!("flow {word}{i}\n  begin \"Gale\"\n  \"{word}\"\n\n"));
    let fragments = |word: &str| {
        let one = |i: usize| format!("  repeat \"{}\"\n    b sends c \"{word} {i}\"\n  remark on b \"{i}\"\n", i % 3);
        format!("sequence a\n{}", many(4_000, &one))
    };
    for (old, new) in [
        (services("s", "Gauge", 7), services("s", "Gauge", 11)),
        (services("s", "Gauge", 7), services("t", "Buoy", 7)),
        (steps("Warn"), steps("Log")),
        (messages("Level"), messages("Wave")),
        (members("depth"), members("height")),
        (blocks("ebb"), blocks("flood")),
        (fragments("Level"), fragments("Wave")),
    ] {
        folder.write("a.bathy", &old).write("b.bathy", &new);
        let begun = &old[..30];
        let run = soon(&folder, &["diff", "a.bathy", "b.bathy"]).ends_with(0);
        assert!(run.out.lines().count() > 1_000, "{begun}: {}", run.out.len());
    }
    // What nobody could read is not drawn as one picture, and said.
    soon(&folder, &["diff", "a.bathy", "b.bathy", "--picture", "c.svg"]).ends_with(0);
    folder.write("a.bathy", messages("Level")).write("b.bathy", messages("Wave"));
    soon(&folder, &["diff", "a.bathy", "b.bathy", "--picture", "d.svg"]).ends_with(3).says("at most 20000 elements");
    assert!(folder.path("c.svg").is_file() && !folder.path("d.svg").exists());
}

#[test]
fn history_draws_as_much_as_one_picture_of_a_file_asks_for() {
    let folder = Folder::new();
    folder.git(&["init", "-q", "."]);
    let large = (0..31_000).map(|i| format!("  service s{i}\n")).collect::<String>();
    for (word, label) in [("Gale", "Gauge"), ("Storm", "Buoy")] {
        let text = format!("{}architecture large\n  service first \"{label}\"\n{large}", FLOW.replace("Gale", word));
        folder.write("a.bathy", text).git(&["add", "."]).git(&["commit", "-qm", word]);
    }
    let history = |more: &[&str]| soon(&folder, &[&["history", "a.bathy", "--picture", "h.svg"][..], more].concat());
    history(&["--only", "storm"]).ends_with(0);
    history(&["--only", "large"]).ends_with(2).says("at most 60000 are drawn side by side; `--last N`");
    history(&["--only", "large", "--last", "1"]).ends_with(0);
}

#[test]
fn what_was_imported_fits_a_text_or_is_refused() {
    let folder = Folder::new();
    let chain = |count: usize| (1..count).map(|i| format!("n{i},service,n{}\n", i - 1)).collect::<String>();
    folder.write("deep.csv", format!("name,kind,parent\n{}", chain(3_000)));
    soon(&folder, &["import", "table", "deep.csv"]).ends_with(1).says("levels deep, and a text has at most 100");
    let lines = (0..50_001).map(|i| format!("a{},a{}\n", i % 300, i / 300)).collect::<String>();
    folder.write("wide.csv", format!("from,to\n{lines}"));
    soon(&folder, &["import", "table", "wide.csv"]).ends_with(1).says("a diagram holds at most 100000 and 50000");
    soon(&folder, &["import", "table", "wide.csv", "--json"]).ends_with(0);
    folder.write("large.md", "[a](b) *c ".repeat(500_000));
    for arguments in [&["check", "large.md"][..], &["illustrate", "large.md"]] {
        soon(&folder, arguments).says("larger than 4 MiB; divide it");
    }
    folder.write("long.md", format!("# Tide\n\nThe clerk {}\n", "checks the form and ".repeat(20_000)));
    soon(&folder, &["import", "outline", "long.md"]).ends_with(0);
    let classes = |i: usize| (0..300).map(|j| format!("<urn:c{}>", (i + j) % 900)).collect::<Vec<_>>().join(", ");
    let one = |i: usize| format!("<urn:{i}> a {} ; <urn:p> <urn:{}> .\n", classes(i), (i + 7) % 300);
    folder.write("a.ttl", (0..300).map(one).collect::<String>());
    soon(&folder, &["import", "rdf", "a.ttl"]).ends_with(2).says("too many classes each");
}

#[test]
fn thousands_of_pins_and_of_new_elements_take_seconds() {
    let folder = Folder::new();
    let services = |count: usize| (0..count).map(|i| format!("  service s{i}\n")).collect::<String>();
    let pins = |at: &dyn Fn(usize) -> (usize, usize)| -> String {
        (0..1_000).map(|i| (i, at(i))).map(|(i, (x, y))| format!("  pin s{i} {x} {y}\n")).collect()
    };
    // Each after the one before; all in one place; nearly all in the way of another.
    let places = (0..1_999).map(|i| format!("  place s{i} right of s{}\n", i + 1)).collect::<String>();
    let ordered = format!("{places}{}", pins(&|i| (i * 13 % 997, i * 7 % 991)));
    for (name, lines) in [("ordered", ordered), ("heap", pins(&|_| (100, 100))), ("row", pins(&|i| (i * 40, 100)))] {
        folder.write("p.bathy", format!("architecture p\n{}{lines}", services(2_000)));
        soon(&folder, &["render", "p.bathy"]).says("hint-not-kept");
        assert!(folder.path("pictures/p.svg").is_file(), "{name}");
    }
    // What is new finds its place near what it is joined with, or below the picture where that is full.
    let star = |count: usize| (1..count).map(|i| format!("  s0 calls s{i}\n")).collect::<String>();
    let text = |count: usize| format!("architecture k\n{}{}", services(count), star(count));
    folder.write("k.bathy", text(1_600));
    soon(&folder, &["render", "k.bathy", "-o", "before.svg"]).ends_with(0);
    folder.write("k.bathy", text(3_000));
    soon(&folder, &["render", "k.bathy", "-o", "after.svg", "--keep", "before.svg"]).ends_with(0);
}

#[test]
fn icons_may_say_their_document_type() {
    let folder = Folder::new();
    let icon = |declared: &str| {
        format!(
            "<?xml version=\"1.0\"?>\n<!DOCTYPE svg{declared}>\n<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 9 9\"><path d=\"M0 0h9v9z\"/></svg>"
        )
    };
    folder.write("a.bathy", "architecture a\n  system b (icon \"b.svg\")\n");
    folder.write(
        "b.svg",
        icon(" PUBLIC \"-//W3C//DTD SVG 1.1//EN\" \"http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd\""),
    );
    folder.run(&["render"]).ends_with(0);
    folder.write("b.svg", icon(" [<!ENTITY a \"b\">]"));
    folder.run(&["render"]).ends_with(1).says("its document type declares more than a name");
}

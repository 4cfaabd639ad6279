//! Every command, called wrongly or on hostile files: it says what is wrong and what to do, ends with the status for that,
//! and writes nothing.

use crate::common::Folder;

const TEXT: &str = "architecture a\n  service gateway \"Gateway\"\n  store readings\n  gateway writes readings\n\
                    sheet one of a\n  show gateway\n";

/// Arguments, exit status, and a part of what is said.
type Call = (&'static str, i32, &'static str);

const CALLS: &[Call] = &[
    ("rendr", 2, "'render'"),
    ("render nothere.bathy", 2, "nothere.bathy is not there"),
    ("recover .", 3, ". is a folder: name the files in it, or none for the whole project"),
    ("render a.bathy --out x.gif", 2, "pictures are svg, png, pdf, html, json or graphml, not gif"),
    ("render a.bathy --out sub/x.JPG", 2, "pictures are svg, png, pdf, html, json or graphml, not jpg"),
    ("render a.bathy --out x.svg", 2, "choose one with --only NAME"),
    ("render a.bathy --only two", 2, "no picture is called `two`; there are a, one"),
    ("render a.bathy --depth 0", 2, "--depth"),
    ("render --depth 2 --all-depths", 2, "cannot be used with"),
    ("render a.bathy --of b", 2, "there is no architecture `b`"),
    ("render --of a --focus gatway", 1, "no element `gatway`"),
    ("render --of a --follow nothing", 1, "no element `nothing`"),
    ("render --format gif", 2, "possible values: svg, png, pdf"),
    ("render --format", 2, "a value is required"),
    ("render --outt x", 2, "'--out'"),
    ("render a.bathy --only a --keep x.svg", 2, "x.svg cannot be kept"),
    ("render a.bathy --keep a.bathy", 2, "a.bathy is no picture that this program drew"),
    ("render --watch --out x", 2, "cannot be used with"),
    ("render - a.bathy", 2, "`-` stands alone"),
    ("check nothere.bathy", 2, "nothere.bathy is not there"),
    ("check --format x", 2, "possible values"),
    ("check --explain nothing", 2, "no rule and no error has the code `nothing`"),
    ("format nothere.bathy", 2, "nothere.bathy is not there"),
    ("format - a.bathy", 2, "`-` stands alone"),
    ("diff", 3, "needs no repository"),
    ("diff HEAD", 3, "needs no repository"),
    ("diff a.bathy nothere.bathy", 3, "needs no repository"),
    ("history a.bathy", 3, "not a git repository"),
    ("recover a.bathy", 2, "no picture that this program drew"),
    ("recover nothere.svg", 2, "nothere.svg is not there"),
    ("icons zzzz", 1, "no pictogram is found by `zzzz`"),
    ("icons --out x.svg", 2, "--picture"),
    ("icons --picture --out x.gif", 2, "svg or .png"),
    ("new sequenze wait", 2, "'sequence'"),
    ("new flow", 2, "<NAME>"),
    ("new architecture a", 2, "a.bathy"),
    ("illustrate a.bathy", 2, "`bathygram render a.bathy` draws it"),
    ("illustrate nothere.md", 2, "nothere.md is not there"),
];

#[test]
fn a_wrong_call_says_what_is_wrong_and_writes_nothing() {
    let folder = Folder::new();
    folder.write("a.bathy", TEXT);
    for (call, status, part) in CALLS {
        let arguments: Vec<&str> = call.split(' ').collect();
        let run = folder.run(&arguments);
        assert_eq!(run.status, *status, "`{call}`:\n{}{}", run.out, run.err);
        run.says(part);
        assert_eq!(folder.files(), ["a.bathy"], "`{call}` wrote something");
        assert_eq!(folder.read("a.bathy"), TEXT, "`{call}` changed the text");
    }
}

/// What a file may hold that is no text of ours.
fn hostile() -> Vec<(&'static str, Vec<u8>)> {
    let deep: String = (0..400).map(|i| format!("{}system s{i}\n", "  ".repeat(i + 1))).collect();
    vec![
        ("nothing", Vec::new()),
        ("no text", vec![0xff, 0xfe, 0x00, 0x01, 0x80]),
        ("zeros", vec![0; 4_096]),
        ("one long line", vec![b'a'; 300_000]),
        ("only quotes", b"\"\"\"\"\"\"\"".to_vec()),
        ("carriage returns", b"\r\r\rflow f\r\r".to_vec()),
        ("a mark in front", b"\xef\xbb\xbfflow f\r\n  begin \"a\"\r\n".to_vec()),
        ("depth", format!("architecture a\n{deep}").into_bytes()),
        ("marks of a merge", b"<<<<<<< ours\nflow f\n=======\nflow g\n>>>>>>> theirs\n".to_vec()),
        ("another language", b"<html><script>alert(1)</script></html>\n".to_vec()),
        ("a huge range", b"architecture a\n  x1..x999999999 uses y\n".to_vec()),
        ("a huge number", b"network n\n  host a\n  pin a 99999999999999999999 -1e999\n".to_vec()),
        ("a name like a path", b"flow `../../escaped`\n  begin \"a\"\n".to_vec()),
        ("itself", b"architecture a\n  from \"a.bathy\"\n".to_vec()),
        ("brackets", "(".repeat(20_000).into_bytes()),
    ]
}

#[test]
fn no_content_makes_a_command_fail_in_another_way() {
    let outside = Folder::new();
    for (what, bytes) in hostile() {
        let folder = Folder::new();
        folder
            .write("work/a.bathy", &bytes)
            .write("work/notes.md", [b"```bathygram\n", &bytes[..], b"\n```\n"].concat());
        for call in [
            "check a.bathy",
            "check --json",
            "check --fix --no-pictures",
            "render a.bathy --anyway",
            "render --of a --all-depths",
            "format a.bathy --check",
            "format a.bathy",
            "illustrate notes.md",
            "recover a.bathy",
            "diff a.bathy a.bathy",
            "diff a.bathy notes.md",
        ] {
            let arguments: Vec<&str> = call.split(' ').collect();
            let run = folder.run_in("work", &arguments);
            assert!((0..=3).contains(&run.status), "{what}, `{call}`: {}\n{}", run.status, run.err);
            assert!(!run.err.contains("panicked"), "{what}, `{call}`:\n{}", run.err);
        }
        // Whatever was written lies in the folder of the project.
        let strays: Vec<String> = folder.files().into_iter().filter(|f| !f.starts_with("work/")).collect();
        assert_eq!(strays, [""; 0], "{what}");
    }
    assert_eq!(outside.files(), [""; 0]);
}

#[test]
fn a_folder_with_the_name_of_a_file_is_no_file() {
    let folder = Folder::new();
    folder.write("a.bathy/b.bathy", TEXT);
    folder.run(&["check", "--no-pictures", "a.bathy"]).says("1 file");
    folder.run(&["format", "--check", "a.bathy"]).says("1 file");
    folder.run(&["illustrate", "a.bathy"]).ends_with(2).says("a.bathy holds no Markdown documents");
    folder.run(&["history", "a.bathy"]).ends_with(3);
    folder.run(&["recover", "a.bathy"]).ends_with(3).says("is a folder");
    assert_eq!(folder.files(), ["a.bathy/b.bathy"]);
}

#[cfg(unix)]
#[test]
fn format_does_not_write_what_a_link_leads_to_outside() {
    let (folder, outside) = (Folder::new(), Folder::new());
    let loose = "flow f\n      begin \"a\"\n";
    outside.write("theirs.bathy", loose);
    folder.write("work/bathygram.toml", "").write("work/own.bathy", loose);
    std::os::unix::fs::symlink(outside.path("theirs.bathy"), folder.path("work/linked.bathy")).expect("a link");
    let run = folder.run_in("work", &["format", "own.bathy", "linked.bathy"]).ends_with(3);
    run.says("linked.bathy: a link out of the project; what it leads to is not written");
    assert_eq!(outside.read("theirs.bathy"), loose);
    assert_eq!(folder.read("work/own.bathy"), "flow f\n  begin \"a\"\n");
    // A link that stays inside stays a link, and what it leads to is written.
    std::fs::remove_file(folder.path("work/linked.bathy")).expect("removed");
    folder.write("work/sub/real.bathy", loose);
    std::os::unix::fs::symlink("sub/real.bathy", folder.path("work/linked.bathy")).expect("a link");
    folder.run_in("work", &["format", "linked.bathy"]).ends_with(0);
    assert_eq!(folder.read("work/sub/real.bathy"), "flow f\n  begin \"a\"\n");
    assert!(folder.path("work/linked.bathy").is_symlink());
}

#[test]
fn fates_of_changes_are_words_of_the_trade() {
    let folder = Folder::new();
    folder.write("old.bathy", TEXT).write("new.bathy", TEXT.replace("gateway writes", "gateway reads"));
    let run = folder.run(&["diff", "old.bathy", "new.bathy", "--json"]).ends_with(0);
    let json: serde_json::Value = serde_json::from_str(&run.out).expect("JSON");
    let fates: Vec<&str> = json["diagrams"]
        .as_array()
        .expect("a list")
        .iter()
        .flat_map(|d| d["changes"].as_array().expect("a list"))
        .filter_map(|c| c["fate"].as_str())
        .collect();
    assert!(
        !fates.is_empty() && fates.iter().all(|f| ["added", "removed", "changed", "moved"].contains(f)),
        "{fates:?}"
    );
}

#[test]
fn what_cannot_be_read_is_not_called_good() {
    let folder = Folder::new();
    folder.write("flow.bathy", "flow f\n  begin \"Berth\"\n  finish \"Cast off\"\n");
    folder.write("bytes.bathy", [0xff, 0xfe, 0x00]);
    let run = folder.run(&["check", "--no-pictures", "bytes.bathy"]).ends_with(3);
    assert!(!run.err.contains("nothing to complain") && !run.out.contains("nothing to complain"), "{}", run.err);
    let both = folder.run(&["check", "--no-pictures", "flow.bathy", "bytes.bathy"]).ends_with(3);
    both.says("1 file and 0 pictures: nothing to complain about in what could be read");
    std::fs::remove_file(folder.path("bytes.bathy")).expect("removed");
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check", "flow.bathy"]).ends_with(0).says("1 file and 1 picture: nothing to complain about");
}

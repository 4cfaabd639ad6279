//! `diff`, `history` and `recover` with real repositories of every kind.

use crate::common::{Folder, repository};
use std::process::Command;

const MAP: &str = "architecture map \"Map\"\n  service gateway \"Gateway\"\n  store readings \"Readings\"\n  gateway writes readings \"appends\"\n";

fn committed() -> Folder {
    let folder = Folder::new();
    folder.write("map.bathy", MAP).write("storm.bathy", "sequence storm\n  buoy sends desk \"4.2 m\"\n");
    folder.git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder
}

fn adds() -> String {
    MAP.replace("appends", "adds")
}

#[test]
fn the_index_is_a_version_too() {
    let folder = committed();
    folder.write("map.bathy", adds()).git(&["add", "map.bathy"]);
    folder.write("map.bathy", adds() + "  actor keeper\n");
    let run = folder.run(&["diff", "--index"]).ends_with(0).says("label: \"appends\" became \"adds\"");
    assert!(!run.out.contains("keeper"), "{}", run.out);
    folder.run(&["diff"]).ends_with(0).says("actor `keeper` is new");
    folder.run(&["diff", "HEAD", "HEAD", "--index"]).ends_with(2).says("--index is the newer version");
    // What git does not know yet is there too.
    folder.write("new.bathy", "flow f\n  \"x\"\n");
    folder.run(&["diff"]).ends_with(0).says("flow `f` is new");
    assert!(!folder.run(&["diff", "--index"]).out.contains("flow"));
}

#[test]
fn a_change_reaches_the_texts_that_take_from_it() {
    let folder = committed();
    folder.write("parts.bathy", "architecture parts\n  service gateway \"Gateway\"\n  actor desk\n");
    folder.write("whole.bathy", "from \"parts.bathy\"\nsequence whole of parts\n  gateway sends desk \"x\"\n");
    folder.git(&["add", "."]).git(&["commit", "-qm", "two"]);
    folder.write("parts.bathy", "architecture parts\n  service gateway \"Intake\"\n  actor desk\n");
    let run = folder.run(&["diff"]).ends_with(0);
    let heads: Vec<&str> = run.out.lines().filter(|l| !l.starts_with(' ') && !l.is_empty()).collect();
    assert!(heads.contains(&"parts (parts.bathy)") && !run.out.contains("map.bathy"), "{}", run.out);
}

#[test]
fn repositories_of_every_kind() {
    // Without a commit.
    let folder = Folder::new();
    folder.write("map.bathy", MAP).git(&["init", "-q"]);
    folder.run(&["diff"]).ends_with(0).says("architecture `map` is new");
    folder.run(&["diff", "HEAD~1"]).ends_with(2).says("no revision is called `HEAD~1`");
    folder.run(&["history", "map.bathy"]).ends_with(0).says("not yet");
    // A detached head, a worktree, a shallow clone.
    let folder = committed();
    folder.write("map.bathy", adds()).git(&["commit", "-qam", "two"]).git(&["checkout", "-q", "--detach", "HEAD~1"]);
    folder.run(&["diff", "HEAD", "main"]).ends_with(0).says("became \"adds\"");
    let (tree, shallow) = (Folder::new(), Folder::new());
    folder.git(&["worktree", "add", "-q", &tree.path("w").to_string_lossy(), "main"]);
    tree.run_in("w", &["diff", "HEAD~1"]).ends_with(0).says("became \"adds\"");
    let source = format!("file://{}", folder.path("").to_string_lossy());
    shallow.git(&["clone", "-q", "--depth", "1", "--branch", "main", &source, "s"]);
    shallow.run_in("s", &["diff", "HEAD~1"]).ends_with(2).says("this is a shallow clone");
    shallow.run_in("s", &["history", "map.bathy"]).ends_with(0).says("shallow clone");
}

#[test]
fn a_submodule_is_a_repository_of_its_own() {
    let (inner, outer) = (committed(), Folder::new());
    outer.write("top.bathy", "flow top\n  \"x\"\n").git(&["init", "-q"]);
    let source = inner.path("").to_string_lossy().into_owned();
    outer.git(&["-c", "protocol.file.allow=always", "submodule", "--quiet", "add", &source, "coast"]);
    outer.git(&["add", "."]).git(&["commit", "-qm", "one"]);
    outer.write("coast/map.bathy", adds());
    outer.run_in("coast", &["diff"]).ends_with(0).says("became \"adds\"");
    outer.run(&["diff", "--exit-code"]).ends_with(0);
    outer.run_in("coast", &["history", "map.bathy"]).ends_with(0).says("working tree: `gateway` writes `readings`");
}

#[test]
fn odd_names_are_names() {
    let folder = Folder::new();
    let names = ["two words.bathy", "grüße.bathy", "-dash.bathy", "[a]*?.bathy", "quote\".bathy", "sub/ünter/x.bathy"];
    for (i, name) in names.iter().enumerate() {
        folder.write(name, format!("flow f{i}\n  \"a\"\n"));
    }
    folder.git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    for (i, name) in names.iter().enumerate() {
        folder.write(name, format!("flow f{i}\n  \"a\"\n  \"b\"\n"));
    }
    let run = folder.run(&["diff"]).ends_with(0);
    for (i, name) in names.iter().enumerate() {
        assert!(run.out.contains(&format!("f{i} ({name})")), "{name}: {}", run.out);
        let word = format!("./{name}");
        let run = folder.run(&["diff", "HEAD", &word]).ends_with(0);
        assert_eq!(run.out.matches("step \"b\" is new").count(), 1, "{name}: {}", run.out);
        folder.run(&["history", &word]).ends_with(0).says("Keeper: 1 element");
    }
    folder.run_in("sub/ünter", &["diff"]).ends_with(0).says("f5 ");
}

#[test]
fn history_follows_renames_and_tells_each_change() {
    let folder = committed();
    folder.git(&["mv", "map.bathy", "chart.bathy"]).git(&["commit", "-qm", "Call it a chart"]);
    folder.write("chart.bathy", adds()).git(&["commit", "-qam", "Say it shorter"]);
    folder.write("chart.bathy", adds() + "// a remark\n").git(&["commit", "-qam", "A remark"]);
    folder.write("chart.bathy", adds() + "  actor keeper \"Keeper\"\n  keeper uses gateway\n");
    let run = folder.run(&["history", "chart.bathy"]).ends_with(0);
    let listed: Vec<&str> = run.out.lines().filter_map(|l| l.split_once(": ").map(|t| t.1)).collect();
    assert_eq!(
        listed,
        [
            "actor `keeper` is new, and 1 more",
            "nothing that is drawn",
            "`gateway` writes `readings`: label: \"appends\" became \"adds\"",
            "nothing that is drawn",
            "2 elements, 1 relation",
        ]
    );
    let run = folder.run(&["history", "chart.bathy", "--json", "--last", "3"]).ends_with(0);
    let json: serde_json::Value = serde_json::from_str(&run.out).expect("JSON");
    assert_eq!(json["versions"].as_array().map(Vec::len), Some(3));
    assert_eq!(json["versions"][1]["subject"], "A remark");
    assert_eq!(
        (&json["versions"][0]["commit"], &json["versions"][2]["author"]),
        (&serde_json::Value::Null, &"Keeper".into())
    );
    folder.run(&["history", "chart.bathy", "--picture", "strip.svg", "--html", "steps.html"]).ends_with(0);
    let strip = folder.read("strip.svg");
    // Each version is drawn in it, and no picture inside a picture.
    assert_eq!(strip.matches(">Gateway<").count(), 5, "{strip}");
    assert!(
        !strip.contains("<image ") && strip.contains("Say it shorter") && folder.read("steps.html").contains("5 of 5")
    );
    folder.run(&["history", "chart.bathy", "--picture", "strip.png"]).ends_with(0);
    folder.run(&["history", "chart.bathy", "--picture", "x.svg", "--only", "none"]).ends_with(2).says("there are map");
    folder.run(&["history", "none.bathy"]).ends_with(2).says("neither here nor in git");
}

#[test]
fn what_changed_is_drawn() {
    let folder = committed();
    folder.write("map.bathy", adds() + "  actor keeper \"Keeper\"\n");
    folder.run(&["diff", "--picture", "changes.svg", "--html", "changes.html"]).ends_with(0);
    let svg = folder.read("changes.svg");
    for sign in ["+ Keeper", "± adds", "+ new"] {
        assert!(svg.contains(sign), "{sign}");
    }
    let page = folder.read("changes.html");
    assert!(page.contains("<input type=\"range\"") && page.matches("<svg ").count() == 3);
    folder.write("storm.bathy", "sequence storm\n  buoy sends keeper \"4.2 m\"\n");
    folder.run(&["diff", "--picture", "changes.svg"]).ends_with(2).says("2 pictures changed, map, storm");
    let words = ["diff", "--picture", "out", "--format", "markdown", "--picture-url", "https://tidewatch.invalid"];
    let run = folder.run(&words).ends_with(0);
    assert!(run.out.contains("![What changed in storm](<https://tidewatch.invalid/storm.svg>)"), "{}", run.out);
    assert!(run.out.contains("- **new**: actor `keeper` is new"), "{}", run.out);
    // A picture of changes is nobody's picture.
    folder.run(&["diff", "HEAD", "storm.bathy", "--picture", "pictures/storm.svg"]).ends_with(0);
    folder.run(&["check", "storm.bathy"]).ends_with(1).says("out of date");
}

#[test]
fn markdown_shows_texts_as_they_are() {
    let folder = committed();
    folder.write("map.bathy", MAP.replace("\"Gateway\"", "\"*Gate* <b> _x_\""));
    let run = folder.run(&["diff", "--format", "markdown"]).ends_with(0);
    assert!(run.out.contains("became \"Gate \\<b\\> \\_x\\_\""), "{}", run.out);
}

#[test]
fn git_shows_changes_in_words() {
    let folder = committed();
    folder.run(&["init"]).ends_with(0);
    let attributes = folder.read(".gitattributes");
    assert!(attributes.contains("*.bathy text eol=lf diff=bathygram"), "{attributes}");
    let program = env!("CARGO_BIN_EXE_bathygram");
    folder.git(&["config", "diff.bathygram.command", &format!("'{program}' diff --driver")]);
    folder.git(&["config", "diff.bathygram-picture.textconv", &format!("'{program}' recover")]);
    folder.run(&["render"]).ends_with(0);
    folder.git(&["add", "."]).git(&["commit", "-qm", "two"]);
    let shown = |arguments: &[&str]| {
        let run = Command::new("git").args(arguments).current_dir(folder.path("")).output().expect("git starts");
        assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
        String::from_utf8_lossy(&run.stdout).into_owned()
    };
    folder.write("map.bathy", adds());
    folder.run(&["render"]).ends_with(0);
    let listed = shown(&["diff"]);
    assert!(listed.contains("~ `gateway` writes `readings`: label: \"appends\" became \"adds\""), "{listed}");
    // The picture is shown as its text.
    assert!(listed.contains("+  gateway writes readings \"adds\"") && !listed.contains("<path"), "{listed}");
    folder.write("map.bathy", format!("// remark\n{MAP}"));
    assert!(shown(&["diff", "map.bathy"]).contains("nothing that is drawn changed"));
    folder.git(&["checkout", "-q", "map.bathy"]).git(&["mv", "map.bathy", "chart.bathy"]);
    folder
        .write("chart.bathy", adds())
        .write("new.bathy", "flow f\n  \"x\"\n")
        .git(&["rm", "-q", "storm.bathy"])
        .git(&["add", "-A"]);
    let listed = shown(&["diff", "--cached", "-M"]);
    for part in ["map.bathy, now chart.bathy", "flow `f` is new", "sequence `storm` is gone"] {
        assert!(listed.contains(part), "{part}: {listed}");
    }
    // Its own comparison does not call itself.
    folder.run(&["diff"]).ends_with(0).says("flow `f` is new");
    folder.run(&["diff", "--driver", "a", "b"]).ends_with(2).says("docs/git.md");
}

#[test]
fn merges_are_shown_and_pictures_drawn_again() {
    let folder = committed();
    folder.run(&["init"]).ends_with(0);
    folder.run(&["render"]).ends_with(0);
    folder.git(&["add", "."]).git(&["commit", "-qm", "two"]).git(&["checkout", "-qb", "side"]);
    folder.write("map.bathy", MAP.replace("\"Gateway\"", "\"Intake\""));
    folder.run(&["render"]).ends_with(0);
    folder.git(&["commit", "-qam", "side"]).git(&["checkout", "-q", "-"]);
    folder.write("map.bathy", adds());
    folder.run(&["render"]).ends_with(0);
    folder.git(&["commit", "-qam", "main"]);
    let merge =
        Command::new("git").args(["merge", "-q", "side"]).current_dir(folder.path("")).output().expect("git starts");
    assert!(!merge.status.success(), "the pictures differ on both sides");
    let picture = folder.read("pictures/map.svg");
    assert!(!picture.contains("<<<<<<<"), "git leaves a whole picture");
    // Texts merge line by line; the picture is drawn again.
    folder.write("map.bathy", adds().replace("\"Gateway\"", "\"Intake\""));
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    let picture = folder.read("pictures/map.svg");
    assert!(picture.contains("Intake") && picture.contains("adds"));
}

#[test]
fn the_source_comes_back_byte_for_byte() {
    let demo = repository().join("demo/tidewatch");
    let folder = Folder::new();
    for entry in std::fs::read_dir(&demo).expect("the demo").flatten().filter(|e| e.path().is_file()) {
        folder.write(&entry.file_name().to_string_lossy(), std::fs::read(entry.path()).expect("a text"));
    }
    folder.run(&["render", "--format", "svg,png,pdf"]).ends_with(0);
    let texts: Vec<Vec<u8>> = folder
        .files()
        .iter()
        .filter(|f| f.ends_with(".bathy"))
        .map(|f| std::fs::read(folder.path(f)).expect("a text"))
        .collect();
    for picture in folder.files().iter().filter(|f| f.starts_with("pictures/")) {
        let run = folder.run(&["recover", picture]).ends_with(0);
        assert!(texts.contains(&run.bytes), "{picture}");
    }
    let odd = "flow f \"Odd\"\r\n  \"a\tb\"\r\n  \"grüße \u{1f30a}\"\n\n";
    folder.write("odd.bathy", odd);
    folder.run(&["render", "odd.bathy", "--format", "svg,png,pdf"]).ends_with(0);
    for picture in ["pictures/f.svg", "pictures/f.png", "pictures/f.pdf"] {
        assert_eq!(folder.run(&["recover", picture]).ends_with(0).bytes, odd.as_bytes(), "{picture}");
    }
    folder.run(&["recover", "pictures/f.svg", "--out", "back.bathy"]).ends_with(0);
    assert_eq!(folder.read("back.bathy"), odd);
    folder.run(&["recover", "pictures/f.svg", "--out", "back.bathy"]).ends_with(2).says("is there already");
    folder.write("pictures/f.svg", folder.read("pictures/f.svg").replace("Odd", "Even"));
    folder.run(&["recover", "pictures/f.svg"]).ends_with(0).says("was changed since it was drawn");
    folder.write("photo.svg", "<svg/>");
    folder.run(&["recover", "photo.svg"]).ends_with(2).says("no picture that this program drew");
    folder.run(&["recover", "none.svg"]).ends_with(2).says("none.svg is not there");
}

#[test]
fn pictures_of_a_stack_lead_to_their_text() {
    let folder = Folder::new();
    let part = |i: usize| {
        format!("  system s{i} \"System {i} {}\"\n    service a \"A\"\n    service b \"B\"\n", "x".repeat(i % 97))
    };
    // Long and hardly compressible.
    let noise: String =
        (0..6000_u64).map(|i| format!("// {:x}\n", (i + 1).wrapping_mul(0x9e37_79b9_7f4a_7c15))).collect();
    let text = format!("architecture big\n{}{noise}", (0..6).map(part).collect::<String>());
    folder.write("big.bathy", &text);
    folder.run(&["render", "--all-depths"]).ends_with(0);
    let inside = folder
        .files()
        .into_iter()
        .find(|f| f.starts_with("pictures/big/") && !f.ends_with("index.svg"))
        .expect("a stack");
    assert_eq!(folder.run(&["recover", &inside]).ends_with(0).out, text);
    std::fs::remove_file(folder.path("pictures/big/index.svg")).expect("removed");
    folder.run(&["recover", &inside]).ends_with(2).says("is in index.svg beside it, which is not there");
}

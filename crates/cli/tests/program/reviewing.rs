//! What a reviewer relies on: `diff` and `history` in repositories with a moved main, conflicts, renames, documents and
//! pictures; answers as JSON and as Markdown.

use crate::common::{Folder, Run, repository};
use serde_json::Value;

const MAP: &str = "architecture map \"Map\"\n  service gateway \"Gateway\"\n  store readings \"Readings\"\n  gateway writes readings \"appends\"\n";
const WARN: &str = "flow warn \"Warn\"\n  begin \"Frame\"\n  \"Check\"\n  finish \"Done\"\n";

fn committed() -> Folder {
    let folder = Folder::new();
    folder.write("map.bathy", MAP).write("sub/warn.bathy", WARN);
    folder.git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder
}

fn json(run: &Run) -> Value {
    serde_json::from_str(&run.out).expect("JSON")
}

/// Asserts that an answer is as its schema says, and that the schema is the one in the docs.
fn fits(folder: &Folder, command: &[&str], schema: &str, answer: &Value) {
    let printed = folder.run(command).ends_with(0).out;
    let committed = std::fs::read_to_string(repository().join("docs").join(schema)).expect("the schema");
    assert_eq!(printed, committed, "docs/{schema} is what `bathygram {}` prints", command.join(" "));
    let schema = jsonschema::validator_for(&serde_json::from_str(&printed).expect("JSON")).expect("a schema");
    let faults: Vec<String> = schema.iter_errors(answer).map(|e| e.to_string()).collect();
    assert_eq!(faults, [""; 0], "{answer:#}");
}

#[test]
fn ranges_mean_what_they_mean_to_git() {
    let folder = committed();
    folder.git(&["checkout", "-qb", "topic"]);
    folder.write("map.bathy", MAP.replace("appends", "adds")).git(&["commit", "-qam", "topic"]);
    // Main moves on.
    folder.git(&["checkout", "-q", "main"]);
    folder.write("sub/warn.bathy", WARN.replace("Check", "Look")).git(&["commit", "-qam", "main"]);
    let both = folder.run(&["diff", "main..topic"]).ends_with(0);
    assert!(both.out.contains("adds") && both.out.contains("\"Look\""), "{}", both.out);
    assert_eq!(both.out, folder.run(&["diff", "main", "topic"]).out);
    let own = folder.run(&["diff", "main...topic"]).ends_with(0);
    assert!(own.out.contains("adds") && !own.out.contains("Look"), "only what the topic did: {}", own.out);
    folder.run(&["diff", "topic...", "--json"]).ends_with(0).says("the merge base of topic and HEAD");
    folder.run(&["diff", "main...none"]).ends_with(2).says("no revision is called `none`");
    folder.run(&["diff", "main..topic", "main"]).ends_with(2).says("one revision too many");
    folder.run(&["diff", "main..topic", "--index"]).ends_with(2).says("--index is the newer version");
}

#[test]
fn folders_and_pictures_can_be_named() {
    let folder = committed();
    folder.write("map.bathy", MAP.replace("appends", "adds")).write("sub/warn.bathy", WARN.replace("Check", "Look"));
    let heads = |words: &[&str]| -> Vec<String> {
        let out = folder.run(words).ends_with(0).out;
        out.lines().filter(|l| !l.starts_with(' ') && !l.is_empty()).map(str::to_owned).collect()
    };
    assert_eq!(heads(&["diff"]), ["map (map.bathy)", "warn (sub/warn.bathy)"]);
    assert_eq!(heads(&["diff", "HEAD", "sub"]), ["warn (sub/warn.bathy)"]);
    assert_eq!(heads(&["diff", "warn"]), ["warn (sub/warn.bathy)"]);
    assert_eq!(heads(&["diff", "HEAD", "HEAD", "map"]), [""; 0], "it is there, and did not change");
    folder.run(&["diff", "nothing"]).ends_with(2).says("`nothing` is no revision, file, folder or picture");
    folder.write("notes.txt", "x");
    folder.run(&["diff", "notes.txt"]).ends_with(2).says("holds no diagrams");
    // Paths lead from where the program is called.
    assert!(folder.run_in("sub", &["diff", "warn"]).ends_with(0).out.starts_with("warn (warn.bathy)"));
}

#[test]
fn documents_and_pictures_are_compared() {
    let folder = committed();
    let notes = format!(
        "# Notes\n\n> - One:\n>\n>   ```bathygram\n>   {}>   ```\n",
        WARN.replace('\n', "\n>   ").trim_end_matches(' ').trim_end_matches("  ")
    );
    let notes = notes.replace(">   >   ```", ">   ```");
    folder.write("notes.md", &notes).write("old.bathy", MAP).write("new.bathy", MAP.replace("appends", "adds"));
    folder.git(&["add", "."]).git(&["commit", "-qm", "two"]);
    folder.write("notes.md", notes.replace("Check", "Look"));
    let run = folder.run(&["diff", "HEAD", "notes.md"]).ends_with(0);
    assert!(
        run.out.starts_with("warn (notes.md)\n") && run.out.contains("(line 8)"),
        "the document's line: {}",
        run.out
    );
    folder.run(&["history", "notes.md"]).ends_with(0).says("\"Check\" says \"Look\" now");
    folder.write("other.md", notes.replace("Check", "See"));
    folder.run(&["diff", "notes.md", "other.md"]).ends_with(0).says("\"Look\" says \"See\" now");
    // Pictures by what they were drawn from.
    folder.run(&["render", "old.bathy", "--out", "a.svg"]).ends_with(0);
    folder.run(&["render", "new.bathy", "--out", "b.png"]).ends_with(0);
    folder.run(&["diff", "a.svg", "b.png"]).ends_with(0).says("label: \"appends\" became \"adds\"");
    folder.write("foreign.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>");
    folder.run(&["diff", "a.svg", "foreign.svg"]).ends_with(2).says("no picture that this program drew");
}

#[test]
fn a_bare_repository_has_versions() {
    let folder = committed();
    folder.write("map.bathy", MAP.replace("appends", "adds")).git(&["commit", "-qam", "two"]);
    let bare = Folder::new();
    let source = format!("file://{}", folder.path("").to_string_lossy());
    bare.git(&["clone", "-q", "--bare", &source, "b.git"]);
    bare.run_in("b.git", &["diff", "HEAD~1", "HEAD"]).ends_with(0).says("label: \"appends\" became \"adds\"");
    bare.run_in("b.git", &["diff", "HEAD~1"]).ends_with(0).says("became \"adds\"");
    bare.run_in("b.git", &["diff", "--index"]).ends_with(3).says("without a working tree; name two revisions");
    bare.run_in("b.git", &["history", "map.bathy"]).ends_with(0).says("label: \"appends\" became \"adds\"");
    bare.run_in("b.git", &["history", "sub/warn.bathy"]).ends_with(0).says("Keeper");
}

#[test]
fn what_others_take_from_is_followed_all_the_way() {
    let folder = Folder::new();
    folder.write("looks.bathy", "look\n  service: fill sand\n");
    folder.write("parts.bathy", "from \"looks.bathy\"\narchitecture parts\n  service gateway\n");
    folder.write(
        "whole.bathy",
        "from \"parts.bathy\"\narchitecture whole\n  service desk\n  system all\n    from \"parts.bathy\"\n",
    );
    folder.git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder.write("looks.bathy", "look\n  service: fill azure\n");
    let run = folder.run(&["diff", "HEAD", "whole.bathy"]).ends_with(0);
    assert!(run.out.starts_with("whole (whole.bathy)") && run.out.contains("drawn differently"), "{}", run.out);
    assert!(!run.out.contains("parts.bathy)"), "only what was named: {}", run.out);
}

#[test]
fn looks_of_all_pictures_and_of_icons_count() {
    let folder = committed();
    folder.write(
        "icons/gate.svg",
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 24 24\"><path d=\"M2 2h20v20h-20z\"/></svg>",
    );
    folder.write("map.bathy", MAP.replace("\"Gateway\"", "\"Gateway\" (icon \"icons/gate.svg\")"));
    folder.write("bathygram.toml", "theme = \"looks/own.toml\"\n").write("looks/own.toml", "extends = \"shoal\"\n");
    folder.git(&["add", "."]).git(&["commit", "-qm", "two"]);
    assert_eq!(folder.run(&["diff", "--exit-code"]).ends_with(0).out, "");
    let icon = folder.read("icons/gate.svg");
    folder.write("icons/gate.svg", icon.replace("h20v20h-20z", "h12v20h-12z"));
    folder.run(&["diff", "--exit-code"]).ends_with(1).says("the picture is drawn differently");
    folder.write("icons/gate.svg", icon).write("looks/own.toml", "extends = \"ink\"\n");
    folder.run(&["diff"]).ends_with(0).says("`looks/own.toml`: changed; every picture is drawn differently");
    folder.write("bathygram.toml", "theme = \"abyss\"\n# a remark\n");
    folder
        .run(&["diff"])
        .ends_with(0)
        .says("`theme`: \"looks/own.toml\" became \"abyss\"; every picture is drawn differently");
    folder
        .write("bathygram.toml", "# a remark\ntheme = \"looks/own.toml\"\n")
        .write("looks/own.toml", "extends = \"shoal\"\n");
    assert_eq!(folder.run(&["diff"]).ends_with(0).out, "", "a comment is no change");
}

#[test]
fn renamed_blocks_are_renames_everywhere() {
    let folder = committed();
    folder.write("sub/warn.bathy", WARN.replace("flow warn", "flow alert")).git(&["commit", "-qam", "two"]);
    folder.write("sub/warn.bathy", WARN.replace("flow warn", "flow alert").replace("Check", "Look"));
    folder.run(&["diff", "HEAD~1", "HEAD"]).ends_with(0).says("flow `warn` is called `alert` now");
    let run = folder.run(&["history", "sub/warn.bathy", "--html", "steps.html"]).ends_with(0);
    assert!(run.out.contains("flow `warn` is called `alert` now"), "{}", run.out);
    let page = folder.read("steps.html");
    assert_eq!(
        (page.matches("<img ").count(), page.contains("is not there")),
        (3, false),
        "every version has its frame"
    );
    folder.run(&["history", "sub/warn.bathy", "--only", "warn", "--html", "steps.html"]).ends_with(0);
    assert_eq!(folder.read("steps.html").matches("<img ").count(), 3);
    let drawn = folder.run(&["diff", "HEAD~1", "--html", "changes.html"]).ends_with(0);
    assert!(drawn.err.contains("changes.html written"));
    let page = folder.read("changes.html");
    assert_eq!((page.matches("<section").count(), page.contains("This picture is new")), (1, false), "{page:.400}");
}

#[test]
fn both_sides_of_a_conflict_are_shown() {
    let folder = committed();
    folder.git(&["checkout", "-qb", "topic"]);
    folder.write("map.bathy", MAP.replace("appends", "adds")).git(&["commit", "-qam", "topic"]);
    folder.git(&["checkout", "-q", "main"]);
    folder.write("map.bathy", MAP.replace("appends", "stores")).git(&["commit", "-qam", "main"]);
    let merged = std::process::Command::new("git")
        .args(["-c", "user.name=K", "-c", "user.email=k@x.invalid", "merge", "-q", "topic"])
        .current_dir(folder.path(""))
        .output()
        .expect("git starts");
    assert!(!merged.status.success() && folder.read("map.bathy").contains("<<<<<<<"));
    // Every command says what it is.
    folder
        .run(&["check"])
        .ends_with(1)
        .says("merge-conflict")
        .says("the merge of `HEAD` and `topic` is not finished here");
    assert!(!folder.run(&["check", "--no-pictures"]).out.contains("unknown-word"));
    folder.run(&["render"]).ends_with(1).says("merge-conflict");
    let text = folder.read("map.bathy");
    folder.run(&["format", "map.bathy"]).ends_with(1).says("map.bathy:4: a merge is not finished here");
    assert_eq!(folder.read("map.bathy"), text);
    let run = folder.run(&["diff"]).ends_with(1);
    assert!(run.out.contains("map.bathy: the merge is not finished; from HEAD to topic:"), "{}", run.out);
    assert!(run.out.contains("label: \"stores\" became \"adds\""), "{}", run.out);
    let answer = json(&folder.run(&["diff", "--json"]).ends_with(1));
    assert_eq!(
        (&answer["has_errors"], &answer["conflicts"][0]["file"]),
        (&Value::Bool(true), &Value::from("map.bathy"))
    );
    fits(&folder, &["diff", "--schema"], "diff.schema.json", &answer);
    folder.run(&["diff", "--format", "markdown"]).ends_with(1).says("## Not merged: `map.bathy`, HEAD to topic");
    folder.run(&["diff", "--html", "page.html"]).ends_with(1);
    assert!(folder.read("page.html").contains("The merge is not finished."));
}

#[test]
fn errors_are_in_the_answer_and_in_the_status() {
    let folder = committed();
    folder.write("map.bathy", format!("{MAP}  bogus line\n"));
    let answer = json(&folder.run(&["diff", "--json"]).ends_with(1).says("map.bathy has errors"));
    assert_eq!(answer["has_errors"], Value::Bool(true));
    assert_eq!(answer["files_with_errors"][0]["file"], "map.bathy");
    assert_eq!(answer["files_with_errors"][0]["version"], "the working tree");
    // One file that is no text costs its own comparison.
    folder
        .write("sub/warn.bathy", WARN.replace("Check", "Look"))
        .write("map.bathy", b"architecture m\n  service \xff\n");
    let run = folder.run(&["diff"]).ends_with(3).says("map.bathy");
    assert!(
        run.err.contains("not UTF-8 text") && run.out.contains("\"Check\" says \"Look\" now"),
        "{}\n{}",
        run.out,
        run.err
    );
}

#[test]
fn answers_say_where_and_fit_their_schemas() {
    let folder = committed();
    folder
        .write("map.bathy", format!("// first\n{}", MAP.replace("appends", "adds")))
        .write("new.bathy", "flow fresh\n  begin \"a\"\n  finish \"b\"\n");
    let answer = json(&folder.run(&["diff", "--json", "--picture", "out"]).ends_with(0));
    fits(&folder, &["diff", "--schema"], "diff.schema.json", &answer);
    let map = &answer["diagrams"][0];
    assert_eq!((&map["file"], &map["old_file"]), (&Value::from("map.bathy"), &Value::from("map.bathy")));
    let change = &map["changes"][0];
    assert_eq!((&change["line"], &change["old_line"]), (&Value::from(5), &Value::from(4)));
    assert_eq!((&answer["diagrams"][1]["old_file"], &answer["diagrams"][1]["old_name"]), (&Value::Null, &Value::Null));
    assert_eq!(answer["from_commit"].as_str().map(str::len), Some(40));
    assert_eq!(answer["to_commit"], Value::Null);
    assert_eq!(
        (&answer["pictures"][0]["file"], &answer["pictures"][0]["format"]),
        (&Value::from("out/map.svg"), &Value::from("svg"))
    );
    let answer = json(&folder.run(&["history", "map.bathy", "--json", "--picture", "strip.png"]).ends_with(0));
    fits(&folder, &["history", "--schema"], "history.schema.json", &answer);
    assert_eq!(answer["versions"][0]["diagrams"][0]["changes"][0]["old_line"], 4);
    assert_eq!(answer["pictures"][0]["format"], "png");
    let answer = json(&folder.run(&["render", "--json"]).ends_with(0));
    fits(&folder, &["render", "--json", "--schema"], "render.schema.json", &answer);
    let first = &answer["pictures"][0];
    assert_eq!(
        (&first["file"], &first["picture"], &first["why"]),
        (&Value::from("map.bathy"), &Value::from("pictures/map.svg"), &Value::from("new"))
    );
    let answer = json(&folder.run(&["render", "--json"]).ends_with(0));
    assert_eq!((answer["pictures"].as_array().map(Vec::len), &answer["up_to_date"]), (Some(0), &Value::from(3)));
    let answer = json(&folder.run(&["check", "--json"]).ends_with(0));
    fits(&folder, &["check", "--schema"], "check.schema.json", &answer);
    assert_eq!(answer["pictures"][0]["pictures"][0]["file"], "pictures/map.svg");
    folder.write("docs/notes.md", format!("```bathygram\n{WARN}```\n"));
    let answer = json(&folder.run(&["illustrate", "docs/notes.md", "--json"]).ends_with(0));
    fits(&folder, &["illustrate", "--schema"], "illustrate.schema.json", &answer);
    assert_eq!(answer["documents"][0]["pictures"][0]["file"], "docs/pictures/warn.svg");
}

#[test]
fn markdown_for_a_review_holds_nothing_local_and_mentions_nobody() {
    let folder = committed();
    let label = "ask @keeper about #12 `twice` <b>|x";
    folder.write("map.bathy", MAP.replace("appends", label)).write("sub/warn.bathy", WARN.replace("Check", "Look"));
    let run = folder.run(&["diff", "--format", "markdown", "--picture", "out"]).ends_with(0);
    assert!(run.out.contains("**2 diagrams changed**: 2 changed."), "{}", run.out);
    assert!(!run.out.contains("out/") && !run.out.contains("!["), "no path of this machine: {}", run.out);
    assert!(!run.out.contains("@keeper") && !run.out.contains("#12") && !run.out.contains("<b>"), "{}", run.out);
    let run = folder.run(&[
        "diff",
        "--format",
        "markdown",
        "--picture",
        "out",
        "--picture-url",
        "https://tidewatch.invalid/p/",
        "--source-url",
        "https://tidewatch.invalid/s",
    ]);
    assert!(run.out.contains("](<https://tidewatch.invalid/p/map.svg>)"), "{}", run.out);
    assert!(run.out.contains("([line 4](<https://tidewatch.invalid/s/map.bathy#L4>))"), "{}", run.out);
    let short = folder.run(&["diff", "--format", "markdown", "--limit", "300"]).ends_with(0).out;
    assert!(
        short.chars().count() < 400 && short.contains("… and ") && short.contains(" more: run `bathygram diff`"),
        "{short}"
    );
    folder.run(&["diff", "--picture-url", "https://x.invalid"]).ends_with(2);
}

#[test]
fn a_page_of_many_changes_shares_its_fonts() {
    let folder = Folder::new();
    let flow = |i: usize, word: &str| {
        format!("flow f{i} \"Flow {i}\"\n  begin \"Frame\"\n  \"{word}\"\n  \"Warn the desk\"\n  finish \"Done\"\n")
    };
    let text = |word: &str| (0..60).map(|i| flow(i, word)).collect::<String>();
    folder.write("all.bathy", text("Check")).git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder.write("all.bathy", text("Look"));
    folder.run(&["diff", "--html", "page.html"]).ends_with(0);
    let page = folder.read("page.html");
    assert_eq!(page.matches("<section").count(), 60);
    assert!(page.matches("@font-face").count() <= 6, "fonts once: {}", page.matches("@font-face").count());
    assert!(page.len() < 60 * 3 * 12_000, "{} bytes", page.len());
}

#[test]
fn projects_inside_stand_alone() {
    let folder = Folder::new();
    folder.write("top.bathy", WARN).git(&["init", "-q"]);
    folder.write("inner/bathygram.toml", "pictures = \"out\"\n").write("inner/map.bathy", MAP);
    let run = folder.run(&["render"]).ends_with(0);
    assert_eq!(run.out.lines().count(), 1, "the inner project is left out: {}", run.out);
    folder.run_in("inner", &["render"]).ends_with(0);
    assert!(folder.files().contains(&"inner/out/map.svg".to_owned()));
    folder.run(&["check"]).ends_with(0).says("1 file");
    folder.run_in("inner", &["check"]).ends_with(0).says("1 file");
    folder.run(&["render", "inner/map.bathy"]).ends_with(2).says("inside this one; run the command in inner");
    folder.run(&["check", "inner/map.bathy"]).ends_with(2).says("inside this one");
    folder.run(&["render", "inner/map.bathy", "--out", "x.svg"]).ends_with(0);
    std::fs::remove_file(folder.path("x.svg")).expect("removed");
    // `demo` and `init` in a folder leave the outer project as it was.
    folder.run(&["demo", "demo"]).ends_with(0);
    std::fs::create_dir(folder.path("fresh")).expect("a folder");
    folder.run_in("fresh", &["init"]).ends_with(0);
    folder.run(&["check"]).ends_with(0).says("1 file");
    assert!(folder.run(&["render"]).ends_with(0).err.contains("1 picture up to date"));
    folder.git(&["add", "."]).git(&["commit", "-qm", "one"]);
    folder.write("inner/map.bathy", MAP.replace("appends", "adds"));
    assert_eq!(folder.run(&["diff"]).ends_with(0).out, "", "the inner project's");
    folder.run_in("inner", &["diff"]).ends_with(0).says("became \"adds\"");
    // Code scanners look from the top of the repository.
    folder.write("inner/map.bathy", format!("{MAP}  gateway uses nothing\n"));
    let log = json(&folder.run_in("inner", &["check", "--format", "sarif"]).ends_with(1));
    assert_eq!(
        log["runs"][0]["results"][0]["locations"][0]["physicalLocation"]["artifactLocation"]["uri"],
        "inner/map.bathy"
    );
}

#[test]
fn what_has_no_name_stays_where_it_was() {
    let folder = committed();
    let place = |svg: &str, words: &str| -> String {
        let at = svg.find(words).unwrap_or_else(|| panic!("{words} in {svg:.300}"));
        let text = svg[..at].rfind("<text").expect("a text");
        svg[text..at].split(" y=\"").nth(1).and_then(|y| y.split('"').next()).unwrap_or_default().to_owned()
    };
    let flow =
        |word: &str| format!("flow warn \"Warn\"\n  begin \"Frame\"\n  \"{word}\"\n  \"Note it\"\n  finish \"Done\"\n");
    folder.write("sub/warn.bathy", flow("Check")).git(&["commit", "-qam", "two"]);
    folder.write("sub/warn.bathy", flow("Look well"));
    folder.run(&["diff", "--html", "page.html"]).ends_with(0);
    let page = folder.read("page.html");
    let layers: Vec<&str> = page.split("<figure").skip(1).collect();
    assert_eq!(place(layers[0], ">Check<"), place(layers[1], ">Look well<"), "before and after on one layout");
}

#[test]
fn the_picture_of_changes_shows_what_was() {
    let folder = committed();
    let nested = "architecture map \"Map\"\n  system core \"Core\"\n    service gateway \"Intake\"\n  store readings \"Readings\"\n  gateway writes readings \"adds\"\n";
    folder.write("map.bathy", nested);
    folder.run(&["diff", "--picture", "changes.svg"]).ends_with(0);
    let svg = folder.read("changes.svg");
    let text: String = svg.replace("</tspan>", "").replace("<tspan>", "");
    for words in ["was: Gateway", "was: appends", "moved"] {
        assert!(text.contains(words), "{words}");
    }
    assert!(!text.contains("\u{2212} gone"), "only marks that are there are explained");
}

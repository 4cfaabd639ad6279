//! `site`: pages for every diagram, element and document, made again only where something changed.

use crate::common::{Folder, Run, repository};
use std::collections::BTreeMap;

fn demo() -> Folder {
    let folder = Folder::new();
    folder.run(&["-q", "demo", "."]).ends_with(0);
    folder
}

/// All files of a site, by their paths in it.
fn pages(folder: &Folder, site: &str) -> BTreeMap<String, Vec<u8>> {
    let prefix = format!("{site}/");
    let files = folder.files().into_iter().filter_map(|file| Some((file.strip_prefix(&prefix)?.to_owned(), file)));
    files.map(|(name, file)| (name, std::fs::read(folder.path(&file)).expect("there"))).collect()
}

/// What a run wrote, as it says in JSON.
fn written(run: &Run) -> Vec<String> {
    let report: serde_json::Value = serde_json::from_str(&run.out).expect("JSON");
    report["written"].as_array().expect("a list").iter().filter_map(|f| f.as_str().map(str::to_owned)).collect()
}

#[test]
fn pages_list_a_few_elements_with_the_same_code_and_count_the_others() {
    let folder = Folder::new();
    for name in ["north", "south"] {
        let gauges: String = (0..20).map(|i| format!("  service {name}{i}\n    code \"src/gauge/**\"\n")).collect();
        folder.write(&format!("{name}.bathy"), format!("architecture {name}\n{gauges}"));
    }
    folder.run(&["site"]).ends_with(0);
    let page = folder.read("site/elements/north/north3.html");
    assert_eq!(page.matches("href=\"../south/").count(), 12, "{page}");
    assert!(page.contains("8 more"), "{page}");
}

#[test]
fn the_demo_becomes_a_site() {
    let folder = demo();
    let run = folder.run(&["site"]).ends_with(0);
    assert_eq!(run.out, "site/index.html\n");
    let front = folder.read("site/index.html");
    for part in
        ["<title>Tidewatch</title>", "diagrams/surge_warning.html", "documents/silent_gauge.html", "23 diagrams"]
    {
        assert!(front.contains(part), "{part}");
    }
    let map = folder.read("site/diagrams/tidewatch.html");
    // The picture leads to pages, also without scripts; what it says is there in words; the source is there.
    assert!(
        map.contains("<a href=\"../elements/tidewatch/core.gateway.html\" aria-label=\"Ingest gateway Rust, service\""),
        "{map}"
    );
    for part in [
        "Checks and orders what stations send",
        "../diagrams/",
        "storm_drill.bathy",
        "<span class=\"w-key\">architecture</span>",
    ] {
        assert!(map.contains(part) || part == "../diagrams/", "{part}");
    }
    let gateway = folder.read("site/elements/tidewatch/core.gateway.html");
    for part in [
        "Frame decoder",
        "Ingest host",
        "architecture.bathy:22",
        "surge_warning.html#element-gateway",
        "role=\"group\" aria-label=\"Tidewatch core / Ingest gateway\"",
    ] {
        assert!(gateway.contains(part), "{part} in {gateway}");
    }
    let document = folder.read("site/documents/silent_gauge.html");
    assert!(document.contains("<h1 id=\"a-gauge-goes-silent\">"), "{document}");
    let index = folder.read("site/assets/index.js");
    assert!(index.contains("[\"Ingest gateway\",\"elements/tidewatch/core.gateway.html\",\"service\""), "{index}");
}

#[test]
fn the_answer_has_the_committed_schema() {
    let folder = demo();
    let schema = folder.run(&["site", "--schema"]).ends_with(0).out;
    let committed = std::fs::read_to_string(repository().join("docs/site.schema.json")).expect("the schema");
    assert_eq!(schema, committed, "docs/site.schema.json is what `site --schema` prints");
    let schema = serde_json::from_str(&schema).expect("JSON");
    folder.write("notes.md", "[gone](gone.md)\n");
    let answer = serde_json::from_str(&folder.run(&["-q", "site", "--json"]).ends_with(0).out).expect("JSON");
    jsonschema::validate(&schema, &answer).expect("an answer of its schema");
    assert_eq!(answer["loose"][0]["target"], "gone.md");
}

#[test]
fn only_what_changed_is_made_again() {
    let folder = demo();
    folder.run(&["-q", "site"]).ends_with(0);
    folder.run(&["site"]).ends_with(0).says("0 files written");
    let text = folder.read("surge_warning.bathy").replace("level 4.2 m", "level 4.3 m");
    folder.write("surge_warning.bathy", text);
    let again = folder.run(&["-q", "site", "--json"]).ends_with(0);
    assert_eq!(written(&again), ["diagrams/surge_warning.html", "pictures/surge_warning.svg"]);
    // A page that somebody changed or removed is made again.
    std::fs::remove_file(folder.path("site/kinds.html")).expect("removed");
    folder.write("site/elements.html", folder.read("site/elements.html") + " ");
    let again = folder.run(&["-q", "site", "--json"]).ends_with(0);
    assert_eq!(written(&again), ["kinds.html", "elements.html"]);
    // What is gone from the project goes from the site.
    std::fs::remove_file(folder.path("recalibrate.bathy")).expect("removed");
    folder.run(&["-q", "site"]).ends_with(0);
    assert!(!folder.path("site/diagrams/recalibrate.html").exists());
    assert!(!folder.read("site/index.html").contains("recalibrate"));
}

#[test]
fn the_same_project_has_the_same_bytes() {
    let (one, other) = (demo(), demo());
    one.run(&["-q", "site", "--out", "a"]).ends_with(0);
    other.run(&["-q", "site", "--out", "b"]).ends_with(0);
    let (a, b) = (pages(&one, "a"), pages(&other, "b"));
    assert_eq!(a.keys().collect::<Vec<_>>(), b.keys().collect::<Vec<_>>());
    let different: Vec<&String> = a.iter().filter(|(name, bytes)| b[*name] != **bytes).map(|(name, _)| name).collect();
    assert_eq!(different, Vec::<&String>::new());
    // In steps, too.
    let text = other.read("warning_flow.bathy");
    other.write("warning_flow.bathy", text.clone() + "// later\n");
    other.run(&["-q", "site", "--out", "b"]).ends_with(0);
    other.write("warning_flow.bathy", text);
    other.run(&["-q", "site", "--out", "b"]).ends_with(0);
    assert!(pages(&other, "b") == b);
}

#[test]
fn what_others_wrote_stays() {
    let folder = demo();
    folder.write("site/index.html", "<p>mine</p>").write("site/notes.txt", "mine");
    let run = folder.run(&["site"]);
    assert_eq!(run.status, 3, "{}", run.err);
    assert!(run.err.contains("site/index.html") && run.err.contains("--force"), "{}", run.err);
    assert_eq!(folder.read("site/index.html"), "<p>mine</p>");
    folder.run(&["-q", "site", "--force"]).ends_with(0);
    assert!(folder.read("site/index.html").contains("<title>Tidewatch</title>"));
    // A page of a diagram that is gone stays where somebody changed it.
    folder.write("site/diagrams/recalibrate.html", "<p>mine now</p>");
    std::fs::remove_file(folder.path("recalibrate.bathy")).expect("removed");
    folder.run(&["-q", "site"]).ends_with(0);
    assert_eq!(folder.read("site/diagrams/recalibrate.html"), "<p>mine now</p>");
    assert_eq!(folder.read("site/notes.txt"), "mine");
    // What is written for a folder with other things in it: nothing goes without a record.
    std::fs::remove_dir_all(folder.path(".bathygram")).expect("removed");
    std::fs::remove_file(folder.path("dredging.bathy")).expect("removed");
    folder.run(&["-q", "site"]).ends_with(0);
    assert!(folder.path("site/diagrams/dredging.html").exists());
}

#[cfg(unix)]
#[test]
fn nothing_is_written_through_links() {
    let (folder, outside) = (demo(), Folder::new());
    std::fs::create_dir(folder.path("site")).expect("made");
    std::os::unix::fs::symlink(outside.path("."), folder.path("site/diagrams")).expect("linked");
    let run = folder.run(&["site"]);
    assert_eq!(run.status, 3, "{}", run.err);
    assert!(outside.files().is_empty());
}

#[test]
fn a_site_is_no_part_of_its_project() {
    let folder = demo();
    folder.run(&["-q", "site"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    folder.write("site/stray.md", "# Not of the project\n");
    folder.run(&["-q", "site"]).ends_with(0);
    assert!(!folder.path("site/documents/site/stray.html").exists());
    for (out, why) in [
        (".", "holds the project"),
        ("..", "holds the project"),
        ("pictures", "pictures"),
        ("domain.bathy", "is a file"),
    ] {
        folder.run(&["site", "--out", out]).ends_with(2).says(why);
    }
}

#[test]
fn documents_lead_into_the_site_or_nowhere() {
    let folder = Folder::new();
    folder.write(
        "docs/a.md",
        "# All *about* it\n\n[b](b.md#second-part) [gone](c.md) [no part](b.md#third) [flow](../ebb.bathy) [web](https://tidewatch.invalid/x)\n\
         [act](javascript:alert(1)) [out](../../etc/passwd) [here](#all-about-it) [code](../src/main.rs) [folder](../docs)\n\n\
         ![the ebb](../pictures/ebb.svg) ![buoy](buoy%20one.png) ![far](https://tidewatch.invalid/a.png) ![own](own.svg)\n\n\
         <script>alert(1)</script>\n\n```bathygram\nflow tide \"Tide\"\n  step low\n  step high\n```\n",
    );
    folder
        .write("docs/b.md", "Second part\n-----------\n\n# B\n")
        .write("ebb.bathy", "flow ebb \"Ebb\"\n  step a\n  step b\n");
    folder.write("docs/buoy one.png", [137, 80]).write("docs/own.svg", "<svg onload='x'/>").write("src/main.rs", "");
    let run = folder.run(&["site", "--title", "Ebb & flow"]).ends_with(0);
    let page = folder.read("site/documents/docs/a.html");
    for part in [
        "<a href=\"b.html#second-part\">b</a>",
        "<span class=\"nowhere\">gone</span>",
        "<span class=\"nowhere\">no part</span>",
        "<a href=\"../../diagrams/ebb.html\">flow</a>",
        "<a href=\"https://tidewatch.invalid/x\">web</a>",
        "<span class=\"nowhere\">act</span>",
        "<span class=\"nowhere\">out</span>",
        "<a href=\"a.html#all-about-it\">here</a>",
        "<span class=\"nowhere\">code</span>",
        "<a class=\"figure\" href=\"../../diagrams/ebb.html\"><img loading=\"lazy\" src=\"../../pictures/ebb.svg\" alt=\"the ebb\"></a>",
        "src=\"../../files/docs/buoy%20one.png\"",
        "<em>far</em>",
        "<em>own</em>",
        "&lt;script&gt;",
        "<figure><a class=\"figure\" href=\"../../diagrams/tide.html\">",
        "Ebb &amp; flow",
    ] {
        assert!(page.contains(part), "{part} in {page}");
    }
    assert_eq!(std::fs::read(folder.path("site/files/docs/buoy one.png")).expect("copied"), [137, 80]);
    for warning in [
        "docs/a.md:3: `c.md` is not there",
        "docs/a.md:3: `b.md#third` names a heading",
        "docs/a.md:4: `javascript:alert(1)` leads out",
        "docs/a.md:4: `../../etc/passwd` leads out",
        "docs/a.md:6: `https://tidewatch.invalid/a.png` is not shown",
        "docs/a.md:6: `own.svg` is not shown",
    ] {
        assert!(run.err.contains(warning), "{warning} in {}", run.err);
    }
    assert_eq!(run.err.matches("warning:").count(), 6, "{}", run.err);
    // The page of a diagram says where it is shown.
    assert!(folder.read("site/diagrams/tide.html").contains("<a href=\"../documents/docs/a.html\">All about it</a>"));
}

#[test]
fn the_history_of_a_diagram_is_told_with_before_and_after() {
    let folder = Folder::new();
    folder.git(&["init", "-q"]);
    folder
        .write("ebb.bathy", "flow ebb \"Ebb\"\n  step a\n  step b\n")
        .git(&["add", "."])
        .git(&["commit", "-qm", "The ebb"]);
    folder.write("ebb.bathy", "flow ebb \"Ebb\"\n  step a\n  step b\n  step c\n").git(&[
        "commit",
        "-qam",
        "<Then> the flood",
    ]);
    folder.write("ebb.bathy", "// words only\nflow ebb \"Ebb\"\n  step a\n  step b\n  step c\n").git(&[
        "commit",
        "-qam",
        "A comment",
    ]);
    folder.run(&["-q", "site", "--history"]).ends_with(0);
    let page = folder.read("site/diagrams/ebb.html");
    for part in
        ["&#60;Then&#62; the flood", "The ebb", "<code>c</code>", "../history/ebb/1.svg", "../history/ebb/2.svg"]
    {
        assert!(page.contains(part), "{part} in {page}");
    }
    assert!(!page.contains("A comment"), "{page}");
    assert!(folder.read("site/history/ebb/2.svg").starts_with("<svg"));
    // Without the option it goes.
    folder.run(&["-q", "site"]).ends_with(0);
    assert!(!folder.path("site/history").exists());
    // Of very large versions the newest are drawn, and the others are there in words.
    for version in ["first", "second"] {
        let messages: String = (0..31_000).map(|i| format!("  buoy calls gauge \"{i}\"\n")).collect();
        folder.write("ebb.bathy", format!("sequence ebb \"{version}\"\n{messages}"));
        folder.git(&["commit", "-qam", version]);
    }
    folder.run(&["-q", "site", "--history"]).ends_with(0);
    let page = folder.read("site/diagrams/ebb.html");
    assert!(page.contains("first") && page.contains("second") && page.contains("The ebb"), "{page}");
    assert!(folder.path("site/history/ebb/4.svg").is_file() && !folder.path("site/history/ebb/3.svg").exists());
    let other = Folder::new();
    other.write("ebb.bathy", "flow ebb\n  step a\n  step b\n");
    let run = other.run(&["site", "--history"]);
    assert_eq!(run.status, 3, "{}", run.err);
}

#[test]
fn names_that_collide_have_pages_of_their_own() {
    let folder = Folder::new();
    folder.write("a.md", "```bathygram\nflow tide\n  step a\n  step b\n```\n");
    folder.write(
        "b.md",
        "```bathygram\narchitecture Tide\n  service x\n  service X\n    part `../y`\n  x sends X\n```\n",
    );
    folder.run(&["-q", "site"]).ends_with(0);
    let mut names: Vec<String> = pages(&folder, "site").into_keys().collect();
    names.retain(|name| name.starts_with("diagrams/") || name.starts_with("elements/"));
    assert_eq!(
        names,
        [
            "diagrams/Tide-2.html",
            "diagrams/tide.html",
            "elements/Tide/X-2.html",
            "elements/Tide/X...-y.html",
            "elements/Tide/x.html"
        ]
    );
}

#[test]
fn texts_with_errors_are_left_out() {
    let folder = Folder::new();
    folder.write("good.bathy", "flow good\n  step a\n  step b\n").write("bad.bathy", "flow bad\n  nonsense here !\n");
    let run = folder.run(&["site"]).ends_with(1).says("1 source with errors left out");
    assert!(run.err.contains("bad.bathy:2"), "{}", run.err);
    assert!(folder.path("site/diagrams/good.html").exists() && !folder.path("site/diagrams/bad.html").exists());
    Folder::new().run(&["site"]).ends_with(2).says("there is no .bathy file or document");
}

#[test]
fn pages_have_the_theme_and_the_language_of_the_project() {
    let folder = Folder::new();
    folder.write("ebb.bathy", "flow ebb\n  step a\n  step b\n");
    folder.write(
        "bathygram.toml",
        "theme = \"ink\"\nlanguage = \"de\"\n[site]\ntitle = \"Ebbe\"\nfolder = \"out/pages\"\n",
    );
    folder.run(&["-q", "site"]).ends_with(0);
    let page = folder.read("out/pages/diagrams/ebb.html");
    assert!(page.contains("<html lang=\"de\">") && page.contains("Quelltext") && page.contains("Ebbe"), "{page}");
    assert!(!page.contains("prefers-color-scheme"), "one theme");
    folder.run(&["-q", "site", "--theme", "shoal+abyss", "--language", "fr"]).ends_with(0);
    let page = folder.read("out/pages/diagrams/ebb.html");
    assert!(page.contains("prefers-color-scheme: dark") && page.contains("Éléments"), "{page}");
    folder.write("bathygram.toml", "[site]\nfolder = \"../out\"\n");
    folder.run(&["site"]).ends_with(3).says("`folder` of the site");
}

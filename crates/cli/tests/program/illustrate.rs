//! `illustrate`: diagrams in Markdown.

use crate::common::Folder;

const NOTES: &str = "# Notes\r\n\r\nHow a level travels:\r\n\r\n```bathygram\r\nflow travel \"A level travels\"\r\n  begin \"Buoy\"\r\n  finish \"Desk\"\r\n```\r\n\r\n- and who is told:\r\n\r\n  ~~~bathygram\r\n  sequence told\r\n    desk sends keeper \"surge\"\r\n  ~~~\r\n\r\nThe end, without a line end";

#[test]
fn pictures_stand_below_their_blocks_and_stay_up_to_date() {
    let folder = Folder::new();
    folder.write("docs/notes.md", NOTES);
    folder.run(&["illustrate", "docs/notes.md", "--check"]).ends_with(1).says("docs/notes.md is not up to date");
    assert_eq!(folder.files(), ["docs/notes.md"], "--check writes nothing");
    folder.run(&["illustrate", "docs/notes.md"]).ends_with(0).says("2 pictures, 2 drawn, 0 removed");
    let drawn = folder.read("docs/notes.md");
    assert!(drawn.contains("```\r\n<!-- bathygram: drawn from the block above -->\r\n!["), "{drawn}");
    assert!(drawn.contains("](<pictures/travel.svg>)\r\n<!-- bathygram: end -->\r\n\r\n- and who"), "{drawn}");
    assert!(drawn.contains("  ![") && drawn.ends_with("\r\n\r\nThe end, without a line end"), "{drawn}");
    assert!(drawn.contains("A level travels"), "the picture in words: {drawn}");
    assert_eq!(folder.files(), ["docs/notes.md", "docs/pictures/told.svg", "docs/pictures/travel.svg"]);
    folder.run(&["illustrate", "docs/notes.md", "--check"]).ends_with(0);
    folder.run(&["illustrate", "docs/notes.md"]).ends_with(0).says("2 pictures, 0 drawn");
    assert_eq!(folder.read("docs/notes.md"), drawn);
    // A changed block, an edited picture, and a block that is gone.
    folder.write("docs/notes.md", drawn.replace("\"Desk\"", "\"Alert desk\""));
    folder.run(&["illustrate", "docs/notes.md"]).ends_with(0).says("1 drawn");
    assert!(folder.read("docs/pictures/travel.svg").contains("Alert desk"));
    let picture = folder.read("docs/pictures/told.svg");
    folder.write("docs/pictures/told.svg", picture.replace("surge", "SURGE"));
    folder.run(&["illustrate", "docs/notes.md", "--check"]).ends_with(1);
    folder.run(&["illustrate", "docs/notes.md"]).ends_with(0).says("1 drawn");
    assert_eq!(folder.read("docs/pictures/told.svg"), picture);
    let (head, _) = drawn.split_once("- and who").expect("two parts");
    folder.write("docs/notes.md", head);
    folder.run(&["illustrate", "docs/notes.md"]).ends_with(0).says("1 removed");
    assert_eq!(folder.files(), ["docs/notes.md", "docs/pictures/travel.svg"]);
    assert!(folder.run(&["recover", "docs/pictures/travel.svg"]).ends_with(0).out.starts_with("flow travel"));
}

#[test]
fn only_markdown_is_illustrated() {
    let folder = Folder::new();
    folder.write("surge.bathy", "flow surge\n  begin \"x\"\n  finish \"y\"\n").write("surge.txt", "");
    folder.run(&["render"]).ends_with(0);
    folder.run(&["illustrate", "surge.bathy"]).ends_with(2).says("`bathygram render surge.bathy` draws it");
    folder.run(&["illustrate", "surge.txt"]).ends_with(2).says("holds no diagrams");
    assert_eq!(folder.files(), ["pictures/surge.svg", "surge.bathy", "surge.txt"]);
}

#[test]
fn the_example_of_the_docs_is_true() {
    let text = std::fs::read_to_string(crate::common::repository().join("docs/markdown.md")).expect("the page");
    let from = text.find("    ```bathygram").expect("the example");
    let lines = |from: usize| text[from..].lines().take_while(|l| l.starts_with("    "));
    let example: String = lines(from).map(|l| format!("{}\n", &l[4..])).collect();
    let folder = Folder::new();
    folder.write("notes.md", &example);
    folder.run(&["illustrate", "notes.md"]).ends_with(0);
    let drawn = folder.read("notes.md");
    let below: Vec<&str> = drawn[example.len()..].lines().collect();
    let listed: Vec<&str> = lines(text.find("    <!-- bathygram").expect("the marks")).map(|l| &l[4..]).collect();
    assert_eq!((below[0], below[2], below.len()), (listed[0], listed[2], listed.len()));
    let (head, tail) = listed[1].split_once('…').expect("an abbreviation");
    assert!(below[1].starts_with(head) && below[1].ends_with(tail), "{}", below[1]);
}

#[test]
fn sources_can_be_folded_away() {
    let folder = Folder::new();
    folder.write("notes.md", NOTES);
    folder.run(&["illustrate", "notes.md", "--hide-source"]).ends_with(0);
    let folded = folder.read("notes.md");
    assert_eq!(folded.matches("<details><summary>").count(), 2, "{folded}");
    let places = [folded.find("](<pictures/travel.svg>)"), folded.find("<details>"), folded.find("flow travel")];
    assert!(places[0] < places[1] && places[1] < places[2], "{folded}");
    folder.run(&["illustrate", "notes.md"]).ends_with(0);
    assert_eq!(folder.read("notes.md"), folded, "they stay folded");
    folder.run(&["illustrate", "notes.md", "--show-source"]).ends_with(0);
    let shown = folder.read("notes.md");
    folder.write("notes.md", NOTES);
    folder.run(&["illustrate", "notes.md"]).ends_with(0);
    assert_eq!(folder.read("notes.md"), shown);
}

#[test]
fn errors_are_reported_where_they_stand() {
    let folder = Folder::new();
    folder.write("notes.md", NOTES.replace("begin", "begn"));
    let run = folder.run(&["illustrate", "notes.md"]).ends_with(1).says("notes.md:7:3");
    run.says("blocks with errors keep the pictures that they have");
    assert_eq!(folder.files(), ["notes.md", "pictures/told.svg"], "the other one is drawn");
    folder.write("open.md", "```bathygram\nflow f\n");
    folder.run(&["illustrate", "open.md"]).ends_with(1).says("open.md:1: the fence of this block is not closed");
    folder.write("twice.md", "```bathygram\nflow f\n  \"a\"\n```\n\n```bathygram\nflow f\n  \"b\"\n```\n");
    folder.run(&["illustrate", "twice.md"]).ends_with(2).says("both have a picture called `f`");
    folder.run(&["illustrate", "none.md"]).ends_with(2).says("none.md is not there");
}

#[test]
fn documents_and_the_project_share_a_picture_folder() {
    let folder = Folder::new();
    folder.write("storm.bathy", "flow storm\n  \"a\"\n").write("notes.md", NOTES);
    folder.run(&["render"]).ends_with(0);
    folder.run(&["illustrate", "notes.md"]).ends_with(0);
    // The project leaves the pictures of documents alone, and the other way round.
    folder.run(&["check"]).ends_with(0);
    folder.write("other.bathy", "flow other\n  \"a\"\n");
    folder.run(&["render"]).ends_with(0);
    assert!(folder.files().contains(&"pictures/travel.svg".to_owned()));
    folder.write("clash.md", "```bathygram\nflow storm\n  \"b\"\n```\n");
    folder.run(&["illustrate", "clash.md"]).ends_with(2).says("pictures/storm.svg is the picture of storm.bathy");
    // A document that is gone leaves strays.
    std::fs::remove_file(folder.path("notes.md")).expect("removed");
    folder.write("more.bathy", "flow more\n  \"a\"\n");
    folder.run(&["render"]).ends_with(0).says("2 removed");
}

#[cfg(unix)]
#[test]
fn nothing_is_written_outside() {
    let (folder, outside) = (Folder::new(), Folder::new());
    outside.write("keep", "mine");
    folder.write("notes.md", NOTES);
    std::os::unix::fs::symlink(outside.path(""), folder.path("pictures")).expect("linked");
    folder.run(&["illustrate", "notes.md"]).ends_with(3).says("is a symbolic link");
    assert_eq!(outside.files(), ["keep"]);
    assert_eq!(folder.read("notes.md"), NOTES, "the document names no picture that is not there");
}

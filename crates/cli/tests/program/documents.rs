//! Diagrams in Markdown are diagrams for every command; nothing that somebody wrote is lost.

use crate::common::Folder;

const WARN: &str = "flow warn \"Warn\"\n  begin \"Frame\"\n  \"Check\"\n  finish \"Done\"\n";

fn block(text: &str) -> String {
    format!("```bathygram\n{text}```\n")
}

#[test]
fn blocks_are_checked_formatted_and_corrected() {
    let folder = Folder::new();
    folder.write(
        "notes.md",
        format!("# Notes\n\n> {}\n", "```bathygram\n> flow warn\n>   begin \"Frame\n>   finish   \"Done\"\n> ```"),
    );
    let run = folder.run(&["check", "--no-pictures"]).ends_with(1).says("unclosed-text");
    assert!(run.out.contains("notes.md:5:11"), "the document's line and column: {}", run.out);
    folder.run(&["check", "--fix", "--no-pictures"]).ends_with(0);
    folder.run(&["format", "--check"]).ends_with(1).says("notes.md");
    folder.run(&["format"]).ends_with(0).says("notes.md");
    assert_eq!(
        folder.read("notes.md"),
        "# Notes\n\n> ```bathygram\n> flow warn\n>   begin \"Frame\"\n>   finish \"Done\"\n> ```\n"
    );
    folder.run(&["format", "--check"]).ends_with(0);
    let json = folder.run(&["check", "--json"]).ends_with(0).out;
    assert!(json.contains("\"pictures\": []"), "nobody asked for its picture yet: {json}");
}

#[test]
fn pictures_of_documents_stay_fresh() {
    let folder = Folder::new();
    folder.write("docs/notes.md", block(WARN)).write("top.bathy", WARN.replace("warn", "top"));
    folder.run(&["render"]).ends_with(0);
    assert_eq!(
        folder.files(),
        ["docs/notes.md", "pictures/top.svg", "top.bathy"],
        "a block without a picture has none"
    );
    folder.run(&["illustrate", "docs/notes.md"]).ends_with(0);
    folder.run(&["check"]).ends_with(0);
    assert!(folder.run(&["render"]).ends_with(0).err.contains("2 pictures up to date"));
    let old = folder.read("docs/notes.md");
    folder.write("docs/notes.md", old.replace("Check", "Look"));
    let run = folder.run(&["check"]).ends_with(1).says("the picture of `warn` is out of date");
    assert!(run.out.contains("run `bathygram illustrate docs/notes.md`"), "{}", run.out);
    folder.run(&["render"]).ends_with(0).says("docs/pictures/warn.svg");
    assert!(folder.read("docs/pictures/warn.svg").contains("Look"));
    folder.run(&["check"]).ends_with(0);
    // One that is named is drawn, whether it is illustrated or not.
    folder.write("other.md", block(&WARN.replace("warn", "other")));
    folder.run(&["render", "other.md"]).ends_with(0).says("pictures/other.svg");
    assert_eq!(
        folder.read("other.md"),
        block(&WARN.replace("warn", "other")),
        "a document is written by `illustrate` alone"
    );
}

#[test]
fn names_are_used_once_across_documents_and_sources() {
    let folder = Folder::new();
    folder.write("a.md", block(WARN)).write("b.md", block(WARN));
    folder.run(&["illustrate", "a.md", "b.md"]).ends_with(2).says("a.md and b.md both have a picture called `warn`");
    assert_eq!(folder.files(), ["a.md", "b.md"], "nothing is written");
    folder.write("c.bathy", WARN);
    folder.run(&["illustrate", "a.md"]).ends_with(2).says("c.bathy and a.md both have a picture called `warn`");
    std::fs::remove_file(folder.path("c.bathy")).expect("removed");
    folder.run(&["illustrate", "a.md"]).ends_with(0);
    let picture = folder.read("pictures/warn.svg");
    folder.write("c.bathy", WARN.replace("Check", "Look"));
    folder.run(&["render", "c.bathy"]).ends_with(2).says("pictures/warn.svg is the picture of a.md");
    assert_eq!(folder.read("pictures/warn.svg"), picture);
}

#[test]
fn blocks_without_names_are_told_apart() {
    let folder = Folder::new();
    let bare = "flow\n  begin \"a\"\n  finish \"b\"\n";
    folder.write("notes.md", (0..11).map(|_| block(bare)).collect::<Vec<_>>().join("\n"));
    folder.write("notes_1.md", block(bare));
    folder.run(&["illustrate", "notes.md", "notes_1.md"]).ends_with(0);
    assert_eq!(folder.files().iter().filter(|f| f.ends_with(".svg")).count(), 12);
    let two = format!(
        "{bare}{}",
        bare.replace("flow", "states")
            .replace("begin \"a\"", "begin becomes x")
            .replace("finish \"b\"", "x becomes finish")
    );
    folder.write("two.md", block(&two));
    folder.run(&["check", "two.md", "--no-pictures"]).ends_with(1).says("name-taken");
}

#[test]
fn what_an_open_fence_swallows_is_not_removed() {
    let folder = Folder::new();
    folder.write("notes.md", format!("{}\n{}", block(WARN), block(&WARN.replace("warn", "later"))));
    folder.run(&["illustrate", "notes.md"]).ends_with(0);
    let (whole, files) = (folder.read("notes.md"), folder.files());
    let open = whole.replacen("finish \"Done\"\n```\n", "finish \"Done\"\n", 1);
    folder.write("notes.md", &open);
    folder.run(&["illustrate", "notes.md"]).ends_with(1).says("notes.md:1: the fence of this block is not closed");
    assert_eq!((folder.read("notes.md"), folder.files()), (open, files));
    folder.write("notes.md", &whole);
    folder.run(&["illustrate", "notes.md", "--check"]).ends_with(0);
    // A block that is gone takes its marks and its picture along; words of the author's stay.
    let gone = whole.replace(&block(WARN), "A remark instead.\n");
    folder.write("notes.md", &gone);
    folder.run(&["illustrate", "notes.md"]).ends_with(0).says("1 removed");
    let left = folder.read("notes.md");
    assert!(left.starts_with("A remark instead.\n\n```bathygram\nflow later"), "{left}");
    assert_eq!(left.matches("bathygram: end").count(), 1);
}

//! Projects on disk, and git.

use bathygram_core::container;
use bathygram_core::pipeline::{DrawOptions, Setting, Studio, draw, read};
use bathygram_core::source::Source;
use bathygram_host::{Error, Format, Found, Freshness, Git, PictureOf, Project, Version, read_source, write_whole};
use std::path::Path;
use std::process::Command;

fn folder() -> tempfile::TempDir {
    tempfile::tempdir().expect("a folder")
}

fn write(folder: &Path, name: &str, text: &str) {
    write_whole(&folder.join(name), text.as_bytes()).expect("written");
}

fn git(folder: &Path, arguments: &[&str]) {
    let out = Command::new("git")
        .args(["-c", "user.name=Keeper", "-c", "user.email=keeper@tidewatch.invalid"])
        .args(arguments)
        .current_dir(folder)
        .output()
        .expect("git");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
}

#[test]
fn the_config_is_optional_and_found_upwards() {
    let folder = folder();
    let bare = Project::find(folder.path()).expect("a project");
    assert_eq!((bare.root.as_path(), bare.pictures()), (folder.path(), folder.path().join("pictures")));
    write(folder.path(), "bathygram.toml", "pictures = \"drawn\"\nformats = [\"png\"]\n");
    std::fs::create_dir_all(folder.path().join("a/b")).expect("folders");
    let found = Project::find(&folder.path().join("a/b")).expect("a project");
    assert_eq!((found.root.as_path(), found.pictures()), (folder.path(), folder.path().join("drawn")));
    assert_eq!(found.config.formats(), [Format::Png]);
}

#[test]
fn a_config_with_errors_is_refused_with_its_place() {
    for (text, part) in [
        ("picture = \"x\"\n", "unknown field"),
        ("formats = [\"gif\"]\n", "gif"),
        ("pictures = \"/etc\"\n", "inside the project"),
        ("pictures = \"../x\"\n", "inside the project"),
        ("pictures = \n", "bathygram.toml"),
    ] {
        let folder = folder();
        write(folder.path(), "bathygram.toml", text);
        let error = Project::find(folder.path()).expect_err(text).to_string();
        assert!(error.contains(part), "{text:?}: {error}");
    }
}

#[test]
fn sources_are_sorted_and_leave_out_what_git_leaves_out() {
    let folder = folder();
    for name in ["b.bathy", "a/c.bathy", "a/d.txt", ".hidden/e.bathy", "build/f.bathy"] {
        write(folder.path(), name, "flow\n  \"x\"\n");
    }
    write(folder.path(), ".gitignore", "build/\n");
    let project = Project::find(folder.path()).expect("a project");
    let shown: Vec<String> = project.sources().expect("walked").iter().map(|p| project.shown(p)).collect();
    assert_eq!(shown, ["a/c.bathy", "b.bathy"]);
}

#[test]
fn names_shown_tell_nothing_of_the_machine() {
    let folder = folder();
    let project = Project::find(folder.path()).expect("a project");
    assert_eq!(project.shown(&folder.path().join("docs/a.bathy")), "docs/a.bathy");
    assert_eq!(project.shown(Path::new("/somewhere/else/b.bathy")), "b.bathy");
}

#[test]
fn what_cannot_be_read_says_why() {
    let folder = folder();
    assert!(matches!(read_source(&folder.path().join("none")), Err(Error::Read { .. })));
    std::fs::write(folder.path().join("bytes"), b"one\n\xff").expect("written");
    assert!(matches!(read_source(&folder.path().join("bytes")), Err(Error::NotText { line: 2, .. })));
    let huge = std::fs::File::create(folder.path().join("huge")).expect("a file");
    huge.set_len(bathygram_host::MAX_SOURCE + 1).expect("a length");
    assert!(matches!(read_source(&folder.path().join("huge")), Err(Error::TooLarge { .. })));
}

#[test]
fn freshness_is_known_by_the_digest_in_the_picture() {
    let folder = folder();
    write(folder.path(), "bathygram.toml", "formats = [\"svg\", \"png\"]\n");
    let project = Project::find(folder.path()).expect("a project");
    assert_eq!(PictureOf { source: "x.bathy", name: "x" }.freshness(&project, "sha256:0123"), Freshness::Missing);
    // Pictures as the program draws them; the text stands for the digest.
    let drawn = |text: &str| {
        let reading = read(Source::new("x.bathy", text), "x", &Setting::default());
        let (studio, provenance) = (Studio::new(), reading.provenance("x"));
        let view = reading.pictures().next().expect("a picture").view();
        let svg = studio.svg(&draw(&studio, &reading, &view, &DrawOptions::default()), &provenance);
        (container::digest(&provenance), svg)
    };
    let (digest, picture) = drawn("flow x\n  begin \"a\"\n  finish \"b\"\n");
    let (_, other) = drawn("flow x\n  begin \"a\"\n  finish \"c\"\n");
    let digest = digest.as_str();
    write(folder.path(), "pictures/x.svg", &picture);
    assert_eq!(
        PictureOf { source: "x.bathy", name: "x" }.freshness(&project, digest),
        Freshness::Missing,
        "the PNG is not there"
    );
    // What counts is what a picture holds, not what it is called.
    write(folder.path(), "pictures/x.png", &picture);
    assert_eq!(PictureOf { source: "x.bathy", name: "x" }.freshness(&project, digest), Freshness::Fresh);
    write(folder.path(), "pictures/x.svg", &other);
    assert_eq!(PictureOf { source: "x.bathy", name: "x" }.freshness(&project, digest), Freshness::OutOfDate);
    write(folder.path(), "pictures/x.svg", &picture.replace("<svg ", "<svg  "));
    assert_eq!(PictureOf { source: "x.bathy", name: "x" }.freshness(&project, digest), Freshness::Edited);
}

#[test]
fn git_gives_files_and_texts_of_revisions() {
    let folder = folder();
    git(folder.path(), &["init", "-q"]);
    write(folder.path(), "docs/a b.bathy", "one");
    write(folder.path(), "other.txt", "no");
    git(folder.path(), &["add", "."]);
    git(folder.path(), &["commit", "-qm", "one"]);
    write(folder.path(), "docs/a b.bathy", "two");
    let repository = Git::find(&folder.path().join("docs")).expect("a repository");
    let head = repository.revision("HEAD").expect("a revision");
    assert_eq!(repository.head(), head);
    let changed = repository.changed([&head, &Version::WorkingTree]).expect("changes");
    let path = Path::new("docs/a b.bathy");
    assert_eq!(changed.iter().map(|c| c.new.as_ref().map(|b| b.path.as_path())).collect::<Vec<_>>(), [Some(path)]);
    assert_eq!(repository.changed([&head, &Version::Index]).expect("changes"), []);
    assert_eq!(repository.bytes(&head, path, 3), Found::Bytes(b"one".to_vec()));
    assert_eq!(repository.bytes(&head, path, 2), Found::TooLarge, "its size is asked first");
    assert_eq!(repository.bytes(&Version::WorkingTree, path, 3), Found::Bytes(b"two".to_vec()));
    assert_eq!(repository.bytes(&head, Path::new("docs/none.bathy"), 3), Found::Nothing);
    let name = format!("{}:docs/a b.bathy", "HEAD");
    let contents = repository.contents(&[name.clone(), "HEAD:none".to_owned()], 3).expect("contents");
    assert_eq!(contents.into_iter().collect::<Vec<_>>(), [(name, Found::Bytes(b"one".to_vec()))]);
    let log = repository.log(path, None).expect("a log");
    assert_eq!((log.len(), log[0].subject.as_str(), log[0].path.as_deref()), (1, "one", Some(path)));
}

#[test]
fn git_says_what_it_does_not_know() {
    let folder = folder();
    assert!(matches!(Git::find(folder.path()), Err(Error::Git(_))));
    git(folder.path(), &["init", "-q"]);
    let repository = Git::find(folder.path()).expect("a repository");
    for name in ["HEAD", "none", "--help", "-x", "HEAD:file"] {
        let error = repository.revision(name).expect_err(name).to_string();
        assert!(error.contains(&format!("no revision is called `{name}`")), "{error}");
    }
}

#[test]
fn files_are_given_from_inside_the_project_only() {
    use bathygram_core::source::world::{Unopened, World};
    use bathygram_host::Disk;
    let folder = tempfile::tempdir().expect("a folder");
    let inside = folder.path().join("project");
    std::fs::create_dir_all(inside.join("maps")).expect("folders");
    std::fs::write(folder.path().join("outside.bathy"), "flow o\n").expect("written");
    std::fs::write(inside.join("bathygram.toml"), "").expect("written");
    std::fs::write(inside.join("maps/a.bathy"), "flow a\n").expect("written");
    std::fs::write(inside.join("bad.bathy"), [0xff]).expect("written");
    let project = Project::find(&inside).expect("a project");
    let disk = Disk::around(&project, &inside.join("maps/a.bathy"));
    assert_eq!(disk.text("maps/a.bathy").as_deref(), Ok("flow a\n"));
    assert_eq!(disk.text("maps/b.bathy"), Err(Unopened::Missing));
    assert_eq!(disk.text("../outside.bathy"), Err(Unopened::Outside));
    assert!(matches!(disk.text("maps"), Err(Unopened::Unreadable(_))));
    assert!(matches!(disk.text("bad.bathy"), Err(Unopened::Unreadable(_))));
    // A source outside of the project has its own folder for a world.
    let other = Disk::around(&project, &folder.path().join("outside.bathy"));
    assert_eq!(other.text("outside.bathy").as_deref(), Ok("flow o\n"));
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink(folder.path().join("outside.bathy"), inside.join("link.bathy")).expect("a link");
        assert_eq!(disk.text("link.bathy"), Err(Unopened::Outside));
    }
}

#[test]
fn a_project_says_how_much_rules_weigh() {
    use bathygram_core::diag::RuleLevel as Level;
    let folder = tempfile::tempdir().expect("a folder");
    let write = |text: &str| std::fs::write(folder.path().join("bathygram.toml"), text).expect("written");
    write("[rules]\ndead-end = \"error\"\nunused-lane = \"off\"\n");
    let levels = Project::find(folder.path()).expect("a project").levels;
    let listed = ["dead-end", "unused-lane", "two-beginnings", "forbidden-relation"].map(|code| levels.level(code));
    assert_eq!(listed, [Level::Error, Level::Off, Level::Warning, Level::Error]);
    for wrong in ["[rules]\ndead-and = \"off\"\n", "[rules]\ndead-end = \"no\"\n", "[rule]\ndead-end = \"off\"\n"] {
        write(wrong);
        assert!(Project::find(folder.path()).is_err(), "{wrong}");
    }
}

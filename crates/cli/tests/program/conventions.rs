//! What holds for all commands: words that name files, standard output, colours, completions, manual pages, `--open`.

use crate::common::Folder;

const FLOW: &str = "flow ebb \"Ebb\"\n  begin \"High water\"\n  step \"Wait\"\n  finish \"Low water\"\n";

/// A project with sources in two folders, and a document.
fn project() -> Folder {
    let folder = Folder::new();
    folder.write("bathygram.toml", "").write("north/ebb.bathy", FLOW);
    folder.write("south/flood.bathy", FLOW.replace("ebb", "flood")).write("south/notes.md", "# Notes\n");
    folder
}

#[test]
fn words_name_files_folders_and_patterns() {
    let folder = project();
    folder.run(&["render", "north"]).ends_with(0).says("pictures/ebb.svg");
    assert!(!folder.path("pictures/flood.svg").exists());
    folder.run(&["render", "*/f*.bathy"]).ends_with(0).says("pictures/flood.svg");
    folder.run(&["-q", "check", "north", "south/*.bathy", "north/ebb.bathy"]).ends_with(0);
    folder.run(&["check", "north", "north/ebb.bathy"]).says("1 file and 1 picture");
    folder.run(&["format", "--check", "."]).ends_with(0).says("3 files");
    folder.run_in("south", &["format", "--check", "*.bathy"]).ends_with(0).says("1 file,");
    folder.run(&["illustrate", "--check", "south"]).ends_with(0);
}

#[test]
fn paths_are_printed_as_they_are_reached_from_here() {
    let folder = project();
    assert_eq!(folder.run(&["-q", "render", "north"]).ends_with(0).out, "pictures/ebb.svg\n");
    assert_eq!(folder.run_in("south", &["-q", "render", "flood.bathy"]).ends_with(0).out, "../pictures/flood.svg\n");
    assert_eq!(folder.run_in("south", &["-q", "render", ".", "--out", "x"]).ends_with(0).out, "x/flood.svg\n");
    assert_eq!(folder.run_in("south", &["-q", "site"]).ends_with(0).out, "../site/index.html\n");
}

#[test]
fn words_that_name_nothing_are_all_reported_and_nothing_is_done() {
    let folder = project();
    folder.write("levels.csv", "a,b\n").write("empty/readme.txt", "").write("old.svg", "<svg/>");
    let run = folder.run(&["render", "nope.bathy", "levels.csv", "empty", "x*.bathy", "old.svg", "north"]).ends_with(2);
    for part in [
        "error: nope.bathy is not there",
        "error: levels.csv is a table; `bathygram import table levels.csv`",
        "error: empty holds no files with diagrams",
        "error: no file with diagrams of the project fits `x*.bathy`",
        "error: old.svg is a picture, and no source; `bathygram recover old.svg`",
    ] {
        assert!(run.err.contains(part), "{part} in {}", run.err);
    }
    assert!(!folder.path("pictures").exists());
    for command in ["check", "format", "preview"] {
        folder.run(&[command, "old.svg"]).ends_with(2).says("is a picture");
    }
    assert_eq!(folder.read("old.svg"), "<svg/>", "a picture is no source, and is never formatted");
    folder.run(&["illustrate", "north/ebb.bathy"]).ends_with(2).says("`bathygram render north/ebb.bathy`");
    folder.run(&["conform", "--code", ".", "old.svg"]).ends_with(2).says("is a picture");
}

#[test]
fn standard_output_is_a_target_wherever_one_file_is_written() {
    let folder = project();
    folder.git(&["init", "-q"]).git(&["add", "."]).git(&["commit", "-qm", "first"]);
    folder.write("north/ebb.bathy", FLOW.replace("Wait", "Wait long"));
    folder.run(&["-q", "render", "north", "south"]).ends_with(0);
    let calls: [&[&str]; 7] = [
        &["render", "north", "-o", "-"],
        &["recover", "pictures/ebb.svg", "-o", "-"],
        &["icons", "--picture", "-o", "-"],
        &["themes", "shoal", "--picture", "-o", "-"],
        &["history", "north/ebb.bathy", "--picture", "-"],
        &["history", "north/ebb.bathy", "--html", "-"],
        &["diff", "--picture", "-"],
    ];
    for call in calls {
        let run = folder.run(call).ends_with(0);
        assert!(["<svg", "<!DOCTYPE", "flow"].iter().any(|start| run.out.starts_with(start)), "{call:?}: {}", run.out);
        assert!(!folder.path("-").exists(), "{call:?}");
    }
}

#[test]
fn quiet_prints_errors_only() {
    let folder = Folder::new();
    folder.write("a.bathy", "sequence a\n  service x\n  service y\n  x calls y\n  service z\n");
    folder.run(&["render"]).ends_with(0).says("silent-party");
    let run = folder.run(&["-q", "render", "--all"]).ends_with(0);
    assert_eq!(run.err, "");
    let run = folder.run(&["-q", "check"]).ends_with(0);
    assert_eq!((run.out.as_str(), run.err.as_str()), ("", ""));
    folder.write("a.bathy", "sequence a\n  service x\n  nonsense !\n");
    let run = folder.run(&["-q", "render", "--all"]).ends_with(1);
    assert!(run.err.contains("error[") && !run.err.contains("warning["), "{}", run.err);
}

#[test]
fn colours_follow_the_option_then_the_environment() {
    let folder = Folder::new();
    folder.write("a.bathy", "nonsense\n");
    let coloured = |arguments: &[&str], environment: &[(&str, &str)]| {
        folder.start(".", arguments, "", environment).err.contains('\u{1b}')
    };
    let call = ["render", "a.bathy"];
    assert!(!coloured(&call, &[]), "no terminal");
    assert!(coloured(&["--color", "always", "render", "a.bathy"], &[]), "the option counts more than NO_COLOR");
    assert!(coloured(&call, &[("NO_COLOR", ""), ("CLICOLOR_FORCE", "1")]));
    assert!(!coloured(&call, &[("NO_COLOR", ""), ("CLICOLOR_FORCE", "0")]));
    assert!(!coloured(&call, &[("NO_COLOR", "1"), ("CLICOLOR_FORCE", "1")]));
    assert!(!coloured(&["render", "a.bathy", "--color", "never"], &[("NO_COLOR", ""), ("CLICOLOR_FORCE", "1")]));
}

#[test]
fn numbers_out_of_range_are_told_in_words() {
    let folder = project();
    let said = |arguments: &[&str], words: &str| drop(folder.run(arguments).ends_with(2).says(words));
    said(&["render", "--width", "5", "--format", "png"], "a whole number from 16 to 16384 is expected");
    said(&["render", "--depth", "0"], "a whole number from 1 is expected");
    said(&["render", "--scale", "99", "--format", "png"], "the scale is between 0.1 and 16");
    said(&["import", "modules", ".", "--depth", "x"], "a whole number from 1 to 20 is expected");
}

#[test]
fn every_shell_gets_completions() {
    let folder = Folder::new();
    for (shell, part) in [
        ("bash", "complete -F _bathygram"),
        ("zsh", "#compdef bathygram"),
        ("fish", "complete -c bathygram"),
        ("elvish", "edit:completion:arg-completer[bathygram]"),
        ("powershell", "Register-ArgumentCompleter"),
    ] {
        let run = folder.run(&["completions", shell]).ends_with(0).says(part);
        for command in ["render", "site", "conform"] {
            assert!(run.out.contains(command), "{command} in {shell}");
        }
    }
    folder.run(&["completions", "nosuch"]).ends_with(2);
    // A shell that is here reads them.
    let script = folder.run(&["completions", "bash"]).out;
    let asked = format!(
        "{script}\nCOMP_WORDS=(bathygram ren); COMP_CWORD=1; _bathygram bathygram ren bathygram; echo \"${{COMPREPLY[@]}}\""
    );
    if let Ok(done) = std::process::Command::new("bash").arg("-c").arg(asked).output() {
        assert_eq!(String::from_utf8_lossy(&done.stdout).trim(), "render");
    }
}

#[test]
fn every_command_has_a_manual_page() {
    let folder = Folder::new();
    folder.run(&["man"]).ends_with(0).says(".TH BATHYGRAM 1");
    let page = folder.run(&["man", "import", "table"]).ends_with(0).says(".TH BATHYGRAM-IMPORT-TABLE 1");
    assert!(page.out.contains("harbour_cabling.csv"), "with its examples: {}", page.out);
    folder.run(&["man", "nosuch"]).ends_with(2).says("has no command `nosuch`");
    folder.run(&["man", "--out", "pages"]).ends_with(0);
    let pages = folder.files();
    for name in ["bathygram", "bathygram-render", "bathygram-site", "bathygram-import-database", "bathygram-man"] {
        assert!(pages.contains(&format!("pages/{name}.1")), "{name} in {pages:?}");
    }
}

/// A folder with a program that shows files: it writes down what it is given.
#[cfg(unix)]
fn desktop(folder: &Folder, status: u8) -> String {
    use std::os::unix::fs::PermissionsExt;
    for name in ["xdg-open", "gio", "open"] {
        folder.write(&format!("bin/{name}"), format!("#!/bin/sh\necho \"$@\" >> shown\nexit {status}\n"));
        let path = folder.path(&format!("bin/{name}"));
        std::fs::set_permissions(path, std::fs::Permissions::from_mode(0o755)).expect("allowed");
    }
    format!("{}:{}", folder.path("bin").display(), std::env::var("PATH").expect("a path"))
}

#[cfg(unix)]
#[test]
fn what_is_drawn_is_opened() {
    let folder = project();
    let path = desktop(&folder, 0);
    let open = |arguments: &[&str], input: &str| folder.start(".", arguments, input, &[("PATH", &path)]).ends_with(0);
    open(&["render", "north", "--open"], "");
    assert!(folder.read("shown").contains("/pictures/ebb.svg"), "{}", folder.read("shown"));
    std::fs::remove_file(folder.path("shown")).expect("removed");
    // Also what is up to date.
    open(&["render", "north", "--open"], "").says("1 picture up to date");
    assert!(folder.read("shown").contains("/pictures/ebb.svg"));
    let run = open(&["render", "-", "--open", "--format", "html"], FLOW);
    let shown = run.out.trim();
    assert!(
        shown.ends_with("/ebb.html") && std::fs::read_to_string(shown).expect("there").contains("High water"),
        "{shown}"
    );
    assert!(folder.read("shown").contains(shown));
    std::fs::remove_dir_all(std::path::Path::new(shown).parent().expect("a folder")).expect("removed");
}

#[cfg(unix)]
#[test]
fn where_nothing_shows_pictures_the_file_is_named() {
    let folder = project();
    let path = desktop(&folder, 3);
    let run = folder.start(".", &["render", "north", "--open"], "", &[("PATH", &path)]).ends_with(0);
    assert!(run.err.contains("Nothing here shows pictures; open pictures/ebb.svg in a browser."), "{}", run.err);
}

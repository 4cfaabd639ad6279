//! `check --fix`: what is certain is corrected, a file at a time, and the rest is reported.

use crate::common::Folder;

const WRONG: &str = "architecture a\n  service gateway \"Gateway\"\n  store readings\n  gatway writes readings \"appends\n  gateway usess readings\n";
const RIGHT: &str = "architecture a\n  service gateway \"Gateway\"\n  store readings\n  gateway writes readings \"appends\"\n  gateway uses readings\n";

#[test]
fn what_is_certain_is_corrected_in_every_file() {
    let folder = Folder::new();
    folder.write("a.bathy", WRONG).write("sub/b.bathy", "flow f\n  begin \"a\"\n  finsh \"b\"\n");
    let run = folder.run(&["check", "--fix", "--no-pictures"]).ends_with(0);
    run.says("a.bathy:4:3: `gatway` is `gateway` now")
        .says("a.bathy:4:26: `\"` is added")
        .says("a.bathy:5:11: `usess` is `uses` now")
        .says("sub/b.bathy:3:3: `finsh` is `finish` now");
    assert_eq!(folder.read("a.bathy"), RIGHT);
    assert_eq!(folder.read("sub/b.bathy"), "flow f\n  begin \"a\"\n  finish \"b\"\n");
    // Nothing is left to be done.
    let again = folder.run(&["check", "--fix", "--no-pictures"]).ends_with(0);
    assert!(!again.err.contains(" now") && !again.out.contains(" now"), "{}{}", again.out, again.err);
}

#[test]
fn what_follows_a_bare_in_is_indented_and_lies_where_it_was_meant() {
    let folder = Folder::new();
    let bare = "flow f\n  lane a\n  lane b\n  in a\n  begin \"x\"\n  decide \"y?\"\n    when \"no\"\n      in b\n      \"z\"\n    or \"yes\"\n      \"v\"\n  in b\n  finish \"end\"\n  caption \"Two lanes\"\n";
    folder.write("f.bathy", bare);
    folder.run(&["check", "--no-pictures"]).ends_with(1).says("nothing is indented under this `in`");
    // What can be read of it lies there all the same.
    folder.run(&["render", "f.bathy", "--anyway", "--out", "anyway.svg"]).ends_with(1);
    folder.run(&["check", "--fix", "--no-pictures"]).ends_with(0).says("f.bathy:4:3");
    let fixed = folder.read("f.bathy");
    folder.run(&["format", "f.bathy"]).ends_with(0);
    assert_eq!(folder.read("f.bathy"), fixed, "it is in its form");
    folder.run(&["render", "f.bathy", "--out", "fixed.svg"]).ends_with(0);
    let drawn = |name: &str| folder.read(name).split("<metadata>").next().map(str::to_owned);
    assert_eq!(drawn("anyway.svg"), drawn("fixed.svg"));
}

#[test]
fn what_might_be_meant_otherwise_stays() {
    let folder = Folder::new();
    // Two names are equally near.
    let text = "architecture a\n  service lampa\n  service lampb\n  service x\n  x uses lamp\n";
    folder.write("a.bathy", text);
    folder.run(&["check", "--fix", "--no-pictures"]).ends_with(1).says("no element `lamp`");
    assert_eq!(folder.read("a.bathy"), text);
    // A quote with a comment behind it may end anywhere.
    let text = "architecture a\n  service x \"Open // or not\n";
    folder.write("a.bathy", text);
    folder.run(&["check", "--fix", "--no-pictures"]).ends_with(1);
    assert_eq!(folder.read("a.bathy"), text);
}

#[test]
fn only_what_lies_in_the_project_is_written() {
    let folder = Folder::new();
    folder.write("a.bathy", "architecture a\n  service x\n  service y\n  x uses y\n");
    let run = folder.run_with(&["check", "--fix", "-"], "architecture b\n  sevice x\n");
    assert!(!folder.files().iter().any(|f| f == "-"), "{}{}", run.out, run.err);
    #[cfg(unix)]
    {
        let outside = Folder::new();
        outside.write("secret.bathy", WRONG);
        std::os::unix::fs::symlink(outside.path("secret.bathy"), folder.path("linked.bathy")).expect("a link");
        folder.run(&["check", "--fix", "--no-pictures", "linked.bathy"]).says("a link out of the project");
        assert_eq!(outside.read("secret.bathy"), WRONG);
    }
}

#[test]
fn a_correction_in_a_part_is_made_in_its_own_file() {
    let folder = Folder::new();
    folder.write("whole.bathy", "architecture whole\n  system core\n    from \"part.bathy\"\n");
    folder.write("part.bathy", "architecture part\n  service gateway\n  service desk\n  gatway calls desk\n");
    folder.run(&["check", "--fix", "--no-pictures"]).says("part.bathy:4:3: `gatway` is `gateway` now");
    assert!(folder.read("part.bathy").contains("  gateway calls desk"));
    assert_eq!(folder.read("whole.bathy"), "architecture whole\n  system core\n    from \"part.bathy\"\n");
}

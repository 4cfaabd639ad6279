//! Help for newcomers: what other notations write, and what is meant here.

use crate::common::Folder;

/// What is said of a text, in one line.
fn said(text: &str) -> String {
    let folder = Folder::new();
    folder.write("x.bathy", text);
    folder.run(&["check", "x.bathy", "--no-pictures"]).out.replace('\n', " ")
}

#[test]
fn an_unknown_verb_is_told_with_those_that_fit() {
    let texts = [
        (
            "architecture a\n  service gateway\n  store readings\n  gateway foos readings \"x\"\n",
            "`foos` is no verb of an architecture",
            "`uses`, `calls`",
        ),
        ("sequence a\n  gateway foos readings \"x\"\n", "`foos` is no verb", "`sends`"),
        ("flow a\n  begin \"x\"\n  step s \"y\"\n  s foos x\n  finish \"z\"\n", "`foos` is no verb", "`then`"),
        ("states a\n  idle foos busy on \"x\"\n", "`foos` is no verb", "`becomes`"),
        ("network a\n  device x\n  device y\n  x foos y\n", "`foos` is no verb", "`joins`"),
        ("classes a\n  class X\n  class Y\n  X foos Y\n", "`foos` is no verb", "`extends`"),
    ];
    for (text, error, help) in texts {
        let out = said(text);
        assert!(out.contains(error) && out.contains(help), "{text}\n{out}");
    }
}

#[test]
fn lines_that_mean_nothing_are_no_longer_accepted() {
    let texts = [
        ("tree t \"T\"\n  root \"A\"\n    item \"b\"\n", "`root` means nothing", "`item \"…\"`"),
        ("tree t \"T\"\n  node \"A\"\n    item \"b\"\n", "`node` means nothing", "`item \"…\"`"),
        ("tree t \"T\"\n  item \"A\"\n    payoff \"4\"\n", "`payoff` means nothing", "`outcome \"…\"`"),
        (
            "states s\n  state a\n    entry do \"lock\"\n  a becomes finish\n",
            "`entry do` means nothing",
            "`arriving do \"…\"`",
        ),
        (
            "states s\n  state a\n    exit do \"lock\"\n  a becomes finish\n",
            "`exit do` means nothing",
            "`leaving do \"…\"`",
        ),
        ("architecture m\n  service api.gateway \"x\"\n", "cannot be declared so", "``"),
    ];
    for (text, error, help) in texts {
        let out = said(text);
        assert!(out.contains(error) && out.contains(help), "{text}\n{out}");
    }
    // Names are free otherwise.
    for text in [
        "tree t\n  root\n    node\n",
        "tree t\n  crane \"The crane\"\n",
        "states s\n  begin becomes a\n  a becomes finish\n  state a\n    entry door\n",
    ] {
        assert!(!said(text).contains("error"), "{text}\n{}", said(text));
    }
}

#[test]
fn what_others_write_is_answered_by_what_is_written_here() {
    let texts = [
        ("flow f\n  if \"x\"\n", "`decide \"…?\"`, with `when \"…\"` and `or \"…\"` below it"),
        ("flow f\n  begin \"a\"\n  end \"Done\"\n", "`finish \"…\"`"),
        ("flow f\n  case \"x\"\n", "`decide \"…?\"`"),
        ("flow f\n  input \"x\"\n", "`enter \"…\"`"),
        ("flow f\n  subprocess \"x\"\n", "`call \"…\"`"),
        ("flow f\n  title \"x\"\n", "behind the name of the block"),
        ("flow f\n  delay \"x\"\n", "`wait \"…\"`"),
        ("architecture a\n  layout horizontal\n", "`arrange tree`"),
        ("architecture a\n  direction right\n", "`heading right`"),
        ("architecture a\n  direction left\n", "`heading left`"),
        ("sequence s\n  actor boss as \"The boss\"\n", "`actor boss \"The boss\"`"),
        ("sequence s\n  autonumber\n", "(numbered)"),
        ("sequence s\n  lifeline a\n", "`party`"),
        ("sequence s\n  delay \"3 s\"\n", "`pause \"…\"`"),
        ("classes c\n  table t\n    id int pk\n", "`id: integer (key)`"),
        ("classes c\n  table t\n    x int fk\n", "(refers T.id)"),
        ("classes c\n  table t\n    primary key id\n", "`key a, b`"),
        ("classes c\n  enumeration E\n", "`enum`"),
        ("classes c\n  abstract class Q\n", "`class NAME (abstract)`"),
        ("classes c\n  class A\n  class B\n  A knows B 0..*\n", "before the name that it is about"),
        ("theme dark\nflow f\n  begin \"a\"\n  finish \"b\"\n", "bathygram.toml"),
        ("flow f\n  begin \u{201c}a\u{201d}\n  finish \"b\"\n", "straight quotes"),
        ("architecture m\n  service a\nsequence x \"T\" of m\n  a sends a \"y\"\n", "before the title"),
        ("architecture m\n  service my gateway \"x\"\n", "a name of several words goes in backquotes"),
        ("sequence x\n  heading right\n  a sends b \"y\"\n", "a sequence reads down"),
    ];
    for (text, help) in texts {
        let out = said(text);
        assert!(out.contains(help), "{text}\n{out}");
        // Backquotes come in pairs.
        assert_eq!(out.matches('`').count() % 2, 0, "{out}");
    }
}

#[test]
fn findings_of_one_picture_are_those_of_its_file() {
    let folder = Folder::new();
    folder.write("good.bathy", "flow good\n  begin \"a\"\n  finish \"b\"\n").write("bad.bathy", "flow bad\n  \"a\"\n");
    let run = folder.run(&["render", "--only", "good", "--out", "x.svg"]).ends_with(0);
    assert!(!run.err.contains("bad.bathy"), "{}", run.err);
    folder.run(&["render", "--only", "bad", "--out", "y.svg"]).ends_with(0).says("bad.bathy");
}

#[test]
fn sheets_in_other_files_count() {
    let folder = Folder::new();
    let parts: String = (0..42).map(|i| format!("  system z{i}\n")).collect();
    folder.write("map.bathy", format!("architecture map\n  system x\n    part p\n    part q\n    p uses q\n    q uses p\n{parts}sheet s of map\n  depth 1\n"));
    let run = folder.run(&["check", "--no-pictures"]).ends_with(0);
    assert!(run.out.contains("shows `x.p`, `x.q`") || run.out.contains("shown-nowhere"), "{}", run.out);
    folder.write("inside.bathy", "from \"map.bathy\"\nsheet inside of map\n  open x\n");
    let run = folder.run(&["check", "--no-pictures"]).ends_with(0);
    assert!(!run.out.contains("shown-nowhere"), "{}", run.out);
    let run = folder.run(&["check", "map.bathy", "--no-pictures"]).ends_with(0);
    assert!(!run.out.contains("shown-nowhere"), "named alone, too: {}", run.out);
    // It is clean for what another file says, and is asked again when that says something else.
    folder.run(&["render"]).ends_with(0);
    std::thread::sleep(std::time::Duration::from_millis(60));
    assert!(!folder.run(&["check"]).ends_with(0).out.contains("shown-nowhere"));
    folder.write("inside.bathy", "flow inside\n  begin \"a\"\n  finish \"b\"\n");
    assert!(folder.run(&["check"]).out.contains("shown-nowhere"));
}

#[test]
fn a_focus_has_no_neighbours_by_what_must_not_be() {
    let folder = Folder::new();
    folder.write("map.bathy", "architecture map\n  service a\n  service b\n  service c\n  a uses b\n  a never uses c \"no\"\nsheet s of map\n  focus a\n");
    folder.run(&["render"]).ends_with(0);
    let svg = folder.read("pictures/s.svg");
    assert!(svg.contains("data-element=\"b\"") && !svg.contains("data-element=\"c\""));
}

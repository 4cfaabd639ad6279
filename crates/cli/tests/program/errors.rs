//! Every class of error yields a sentence with its place and what to write instead. The tables below
//! are: text, code, line and column, and a part of the help.

use crate::common::Folder;

type Case = (&'static str, &'static str, &'static str, &'static str);

const CASES: &[Case] = &[
    ("", "empty-file", "1:1", "begin with a block"),
    ("flow x \"open\n", "", "", ""),
    ("sequence s \"open\n  a sends b\n", "unclosed-text", "1:12", "write \" where it ends"),
    ("flow f\n    \"a\"\n  \"b\"\n   \"c\"\n      \"d\"\n     \"e\"\n", "uneven-indent", "3:3", "indent it by 4"),
    ("  flow f\n", "indented-block", "1:3", "remove the spaces"),
    ("sequnce s\n", "unknown-block", "1:1", "did you mean `sequence`?"),
    ("flowchart s\n", "unknown-block", "1:1", "did you mean `flow`?"),
    ("flow f\n  decid \"x\"\n", "unknown-word", "2:3", "did you mean `decide`?"),
    ("sequence s\n  alt \"x\"\n", "unknown-word", "2:3", "`when \"…\"`"),
    ("sequence s\n  else\n", "unknown-word", "2:3", "otherwise"),
    ("flow f\n  start \"x\"\n", "unknown-word", "2:3", "`begin`"),
    ("sequence s\n  note \"x\"\n", "unknown-word", "2:3", "remark on NAME"),
    ("sequence s\n  a --> b\n", "arrow", "2:5", "such as `a calls b`"),
    ("architecture a\n  x -> y\n", "arrow", "2:5", "such as `a uses b`"),
    ("sequence s\n  a snds b \"x\"\n", "unknown-verb", "2:5", "did you mean `sends`?"),
    ("sequence s\n  a uses b\n", "unknown-verb", "2:5", "it belongs to `classes` and `architecture`"),
    ("architecture a\n  service gateway\n  gatway uses store\n", "unknown-name", "3:3", "did you mean `gateway`?"),
    ("architecture a (declared)\n  system x\n  x uses elsewhere\n", "unknown-name", "3:10", ""),
    ("flow f\n  \"a\"\n  go nowhere\n", "unknown-name", "3:6", ""),
    (
        "architecture a\n  system p\n    part x\n  system q\n    part x\n  p uses x\n",
        "ambiguous-name",
        "6:10",
        "write the path",
    ),
    ("architecture a\n  system x\n  system x\n", "declared-twice", "3:10", "another name"),
    ("flow f\n  \"a\"\nflow f\n  \"b\"\n", "name-taken", "3:1", "a name of its own"),
    ("architecture a\n  system x (fil coral)\n", "unknown-trait", "2:13", "did you mean `fill`?"),
    ("architecture a\n  system x (fill corl)\n", "unknown-colour", "2:18", "did you mean `coral`?"),
    ("architecture a\n  system x (fill coral\n", "unclosed-traits", "2:12", "write `)`"),
    ("architecture a\n  heading sideways\n", "bad-value", "2:11", "down, up, right or left"),
    ("architecture a\n  about \"x\"\n", "property-of-nothing", "2:3", "indent it under its element"),
    ("architecture a\n  system x\n    about Rust\n", "text-expected", "3:11", "write `about \"…\"`"),
    ("architecture a\n  uses x\n", "subject-missing", "2:3", "indent it under"),
    ("architecture a\n  a uses b\n    \"x\"\n", "no-body", "3:5", "to the left"),
    ("architecture a\n  a never likes b\n", "never-uses", "2:11", "never uses NAME"),
    ("architecture a\n  system x\n    part y\n  x uses y\n", "own-container", "4:3", "outside"),
    ("architecture a\n  a uses b \"x\" nonsense\n", "leftover", "2:16", "`over`"),
    ("architecture a\n  lamp4..lamp1 uses x\n", "bad-range", "2:3", "lamp1..lamp4"),
    ("classes c\n  A knows 5..1 B\n", "bad-multiplicity", "2:11", "write 1..5"),
    ("classes c\n  section \"x\"\n", "only-inside", "2:3", "indent it under one"),
    ("classes c\n  table t\n    x: int (refers nothing.id)\n", "unknown-name", "3:5", ""),
    ("flow f\n  decide \"a?\"\n    \"b\"\n", "decide-holds-branches", "3:5", "indent this line under a branch"),
    (
        "flow f\n  decide \"a?\"\n    or \"b\"\n      \"c\"\n    or \"d\"\n      \"e\"\n",
        "branch-order",
        "3:5",
        "write `when`",
    ),
    ("flow f\n  decide \"a?\"\n    when \"b\"\n      \"c\"\n", "one-armed-decision", "2:3", "otherwise"),
    ("flow f\n  or \"b\"\n", "only-inside", "2:3", "indent it under one"),
    ("flow f\n  \"a\"\n    \"b\"\n", "step-holds-no-lines", "3:5", "to the left"),
    ("flow f\n  lane a\n    \"b\"\n", "lane-holds-no-lines", "3:5", "write `in NAME`"),
    ("flow f\n  step a\n    lane b\n", "lane-inside", "3:5", "declare it at the beginning"),
    ("flow f\n  decide \"a?\"\n    lane b\n", "lane-inside", "3:5", "write `in NAME`"),
    ("flow f\n  group g\n    lane b\n", "lane-inside", "3:5", "write `in NAME`"),
    ("flow f\n  lane a\n    lane b\n  begin \"x\" in a\n", "divided-lane", "4:3", "`in b`"),
    ("flow f\n  group g in g\n", "in-itself", "2:14", "around it"),
    (
        "flow f\n  begin \"a\"\n  together\n    step b\n  and\n    \"c\"\n  go b\n",
        "enter-together",
        "7:3",
        "before the `together`",
    ),
    ("flow f\n  repeat \"x\"\n", "empty-part", "2:3", "remove it"),
    ("flow f\n  begin \"x\"\n  repeat\n    \"y\"\n", "text-expected", "3:9", "write `repeat \"…\"`"),
    ("states s\n  a becomes b when\n", "text-expected", "2:19", "write `when \"…\"`"),
    ("states s\n  step a\n", "unknown-word", "2:3", "`state`"),
    ("flow f\n  step a\n  in a\n    \"b\"\n", "not-a-place", "3:6", "name a lane or a group"),
    ("flow f\n  lane a\n  in a\n  \"b\"\n", "in-without-body", "3:3", "indent what happens there under it"),
    ("flow f\n  together\n", "empty-part", "2:3", "remove it"),
    ("flow f\n  begin\n  finish \"x\"\n  go begin\n", "unknown-name", "4:6", ""),
    ("flow f\n  begin \"a\"\n  finish \"x\"\n  go \"a\"\n", "nothing-flows-here", "4:3", "move it"),
    ("sequence s\n  or \"x\"\n    a sends b\n", "without-opening", "2:3", "write `when` first"),
    ("sequence s\n  when \"x\"\n", "empty-part", "2:3", "remove it"),
    ("sequence s\n  a answers\n", "nobody-to-answer", "2:3", "name one"),
    ("sequence s\n  a answers b \"x\" returning \"y\"\n", "no-reply-here", "2:29", "use `calls`"),
    ("sequence s\n  a calls b returning \"x\"\n    answers \"y\"\n", "two-replies", "2:3", "keep one of the two"),
    ("sequence s\n  group \"g\"\n    a sends b\n", "group-holds-parties", "3:5", "out of the group"),
    ("sequence s\n  remark \"x\"\n", "remark-place", "2:10", "remark on NAME"),
    ("sequence s\n  leave \"x\"\n    a sends b\n", "word-expected", "2:9", "write `when"),
    ("look\n  actor fill sand\n", "look-rule", "2:3", "colon"),
    ("look\n  boat: fill sand\nflow f\n  \"x\"\n", "rule-of-nothing", "2:3", ""),
    ("architecture shore\n  system x\nsheet s \"S\"\n", "sheet-of-what", "3:9", "write `of shore`"),
    ("sheet s of nothing\n", "unknown-name", "1:12", ""),
    ("flow f\n  \"x\"\nsheet s of f\n", "sheet-of", "3:12", "name an architecture"),
    ("architecture a\n  system x\nsheet s of a\n  open y\n", "unknown-name", "4:8", ""),
    ("architecture a\n  system x\nsheet s of a\n  hide tag slow\n", "tag-of-nothing", "4:8", ""),
    ("flow `a/b`\n  \"x\"\n", "bad-picture-name", "1:6", "use letters"),
];

#[test]
fn every_class_of_error_is_explained() {
    for (text, code, place, help) in CASES.iter().filter(|c| !c.1.is_empty()) {
        let folder = Folder::new();
        folder.write("t.bathy", text);
        let run = folder.run(&["check", "--no-pictures", "t.bathy"]);
        let all = &run.out;
        assert!(all.contains(&format!("[{code}]")), "{text:?} should give {code}:\n{all}");
        let at = all.find(&format!("[{code}]")).expect("there");
        let own = &all[at..all[at..].find("\n\n").map_or(all.len(), |e| at + e)];
        assert!(own.contains(&format!("t.bathy:{place}")), "{text:?} should be at {place}:\n{own}");
        assert!(own.contains(help), "{text:?} should help with {help:?}:\n{own}");
        let is_error = all.contains("error[");
        assert_eq!(run.status, i32::from(is_error), "{text:?}\n{all}");
    }
}

#[test]
fn every_error_of_a_file_is_reported_at_once() {
    let folder = Folder::new();
    folder.write(
        "t.bathy",
        "sequence s \"x\"\n  service gateway\n  gatway sends desk\n  gateway snds desk\n  alt \"x\"\nflw y\n",
    );
    let run = folder.run(&["check", "--no-pictures"]).ends_with(1);
    for code in ["unknown-name", "unknown-verb", "unknown-word", "unknown-block"] {
        assert!(run.out.contains(code), "{}", run.out);
    }
    assert!(run.err.contains("4 errors"), "{}", run.err);
    assert!(run.out.contains("  |   ^^^^^^"), "the place is underlined:\n{}", run.out);
}

#[test]
fn thousands_of_errors_stay_readable() {
    let folder = Folder::new();
    folder.write("t.bathy", format!("flow f\n{}", "  bogus line\n".repeat(3000)));
    let run = folder.run(&["check", "--no-pictures"]).ends_with(1).says("2950 more findings").says("3000 errors");
    assert!(run.out.lines().count() < 400);
}

#[test]
fn words_of_the_language_can_be_names() {
    let folder = Folder::new();
    let text = "sequence s\n  party phase\n  party `sends`\n  phase sends `sends` \"x\"\n  `sends` calls phase \"y\" returning \"z\"\n";
    folder.write("t.bathy", text);
    folder.run(&["check", "--no-pictures"]).ends_with(0);
}

/// What newcomers write, and what they read in answer: text, and a part of the answer.
const NEWCOMERS: &[(&str, &str)] = &[
    // A kind, a verb, a name, an indentation, a quote, a trait.
    ("architecture a\n  servce gateway\n", "did you mean `service`?"),
    ("states s\n  stat raised\n", "did you mean `state`?"),
    ("network n\n  devic a\n", "did you mean `device`?"),
    ("tree t\n  outcme \"x\"\n", "did you mean `outcome`?"),
    ("classes c\n  interfce A\n", "did you mean `interface`?"),
    ("states s\n  a becoms b\n", "did you mean `becomes`?"),
    ("network n\n  a jons b\n", "did you mean `joins`?"),
    ("classes c\n  A extnds B\n", "did you mean `extends`?"),
    ("flow f\n  step collect\n  go colect\n", "did you mean `collect`?"),
    ("states s\n  state raised\n  begin becomes rased\n", "did you mean `raised`?"),
    ("architecture a\n  system core\nsheet s of aa\n", "no element `aa`"),
    ("flow f\n    begin \"a\"\n  finish \"b\"\n", "indent it by 4"),
    ("flow f\n  begin \"a\n  finish \"b\"\n", "write \" where it ends"),
    ("flow f\n  step `a b\n", "write ` where it ends"),
    ("architecture a\n  system x (hiden)\n", "did you mean `hidden`?"),
    ("architecture a\n  system x (shape hexagn)\n", "write box, round"),
    ("classes c\n  class A\n    + x: Int (statc)\n", "did you mean `static`?"),
    ("network n\n  a joins b (end circl)\n", "`end circle` or `end cross`"),
    // Words of the trade.
    ("sequence s\n  alt \"x\"\n    a sends b\n", "`when \"…\"`"),
    ("sequence s\n  opt \"x\"\n    a sends b\n", "`when \"…\"`"),
    ("sequence s\n  loop \"x\"\n    a sends b\n", "`repeat \"…\"`"),
    ("sequence s\n  par\n    a sends b\n", "`together`"),
    ("flow f\n  else\n", "`otherwise`"),
    ("sequence s\n  a sends b\n  end\n", "remove it: what is indented ends"),
    ("flow f\n  begin \"a\"\n  end\n", "remove it: what is indented ends"),
    ("flow f\n  start \"a\"\n", "`begin`"),
    ("states s\n  start a\n", "`begin becomes NAME`"),
    ("states s\n  end a\n", "`NAME becomes finish`"),
    ("flow f\n  stop \"a\"\n", "`finish`"),
    ("sequence s\n  note \"x\"\n", "remark on NAME"),
    ("classes c\n  note \"x\"\n", "remark on NAME"),
    ("sequence s\n  participant a\n", "`party`"),
    ("sequence s\n  activate a\n", "an indented body under the message"),
    ("classes c\n  package p\n", "`group`"),
    ("network n\n  node a\n", "`device`"),
    ("architecture a\n  database d\n", "`store`"),
    ("architecture a\n  person p\n", "`actor`"),
    ("flow f\n  swimlane a\n", "`lane`"),
    ("sequence s\n  a --> b\n", "such as `a calls b`"),
    ("states s\n  a -> b\n", "such as `a becomes b`"),
    ("network n\n  a -- b\n", "such as `a joins b`"),
    ("tree t\n  a -> b\n", "indent what hangs below"),
    ("flowchart f\n", "did you mean `flow`?"),
    ("statechart s\n", "did you mean `states`?"),
    ("erd e\n", "did you mean `classes`?"),
    ("import \"x\"\n", "did you mean `from"),
];

#[test]
fn newcomers_read_what_to_write() {
    for (text, answer) in NEWCOMERS {
        let folder = Folder::new();
        let run = folder.run_with(&["check", "--no-pictures", "-"], text).ends_with(1);
        assert!(run.out.contains(answer), "{text:?} should be answered by {answer:?}:\n{}", run.out);
    }
}

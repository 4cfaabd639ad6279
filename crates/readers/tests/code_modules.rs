//! Which boxes a source tree becomes, and what is said of it.

mod common;

use bathygram_core::conform::architecture;
use bathygram_core::emit::emit;
use bathygram_core::jobs::OneByOne;
use bathygram_core::model::DiagramKind;
use bathygram_core::pipeline::{Setting, read};
use bathygram_core::source::Source;
use bathygram_readers::code::{CodeBase, ModulesOptions, given, modules};
use bathygram_readers::{Facts, Selection};
use common::{Files, findings};

fn facts(files: &[(&str, &str)], options: &ModulesOptions) -> Facts {
    modules(&Files::new(files), options, &OneByOne).expect("facts")
}

fn usual(files: &[(&str, &str)]) -> Facts {
    facts(files, &ModulesOptions::default())
}

/// Boxes by their paths, in brackets what lies in them.
fn boxes(facts: &Facts) -> String {
    fn of(facts: &Facts, holder: Option<usize>) -> String {
        let own = facts.things.iter().enumerate().filter(|(_, thing)| thing.holder == holder);
        let each = own.map(|(i, thing)| match of(facts, Some(i)) {
            inner if inner.is_empty() => thing.shown().to_owned(),
            inner => format!("{} ({inner})", thing.shown()),
        });
        each.collect::<Vec<_>>().join(", ")
    }
    of(facts, None)
}

fn links(facts: &Facts) -> Vec<String> {
    let name = |number: usize| facts.things[number].shown();
    let one = |link: &bathygram_readers::Link| {
        let tags = link.tags.join(" ");
        let label = link.label.as_deref().unwrap_or("");
        format!("{} > {} {label} {tags}", name(link.from), name(link.to)).trim_end().to_owned()
    };
    facts.links.iter().map(one).collect()
}

/// A tree of Python packages with this many modules each; every module imports the one before it.
fn packages(sizes: &[usize]) -> Vec<(String, String)> {
    let mut out = Vec::new();
    for (package, size) in sizes.iter().enumerate() {
        for module in 0..*size {
            let before = if module > 0 { format!("from . import m{}\n", module - 1) } else { String::new() };
            out.push((format!("bay/p{package}/m{module}.py"), before + &"x = 1\n".repeat(20)));
        }
    }
    out
}

fn borrowed(files: &[(String, String)]) -> Vec<(&str, &str)> {
    files.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect()
}

#[test]
fn boxes_are_between_seven_and_twenty_five() {
    for sizes in [vec![30], vec![3, 4, 5], vec![60, 2], vec![1; 60], vec![9; 9], vec![200, 100, 50, 3, 3], vec![8]] {
        let files = packages(&sizes);
        let facts = usual(&borrowed(&files));
        let parents: Vec<usize> = facts.things.iter().filter_map(|thing| thing.holder).collect();
        let leaves = (0..facts.things.len()).filter(|number| !parents.contains(number)).count();
        assert!((7..=25).contains(&leaves), "{sizes:?}: {leaves} boxes: {}", boxes(&facts));
        // Every file lies in one of them.
        let covered: Vec<&str> = facts.things.iter().flat_map(|thing| thing.origin.split(", ")).collect();
        for (path, _) in &files {
            assert!(
                covered.iter().any(|at| path == at || path.starts_with(&format!("{at}/"))),
                "{path} in {covered:?}"
            );
        }
    }
}

#[test]
fn very_many_files_of_one_folder_become_few_boxes_without_a_new_circle() {
    // Each imports some before it: there is no circle. One tree is broad, the other a chain.
    for (count, far) in [(3_000, 700), (1_500, 1)] {
        let import =
            |i: usize, step: usize| i.checked_sub(1 + i * step % far).map(|to| format!("from . import m{to}\n"));
        let files: Vec<(String, String)> = (0..count)
            .map(|i| {
                let imports: String = [7, 13].into_iter().filter_map(|step| import(i, step)).collect();
                (format!("bay/m{i}.py"), imports + &"x = 1\n".repeat(i % 50))
            })
            .collect();
        let facts = usual(&borrowed(&files));
        assert!((7..=25).contains(&facts.things.len()), "{} boxes", facts.things.len());
        assert!(facts.findings.iter().all(|finding| finding.code != "circle"), "{:?}", findings(&facts));
    }
}

#[test]
fn depth_opens_folders_and_names_leave_out_what_says_nothing() {
    let files = [
        ("core/src/main/java/bay/sea/Gauge.java", "package bay.sea; class Gauge {}"),
        ("core/src/main/java/bay/sea/deep/Wave.java", "package bay.sea.deep; class Wave {}"),
        ("core/src/main/java/bay/desk/Desk.java", "package bay.desk; import bay.sea.Gauge; class Desk {}"),
        ("web/src/index.ts", "export const a = 1;"),
        ("web/src/board.ts", "import { a } from './index';"),
    ];
    let at = |depth| facts(&files, &ModulesOptions { depth: Some(depth), ..ModulesOptions::default() });
    assert_eq!(boxes(&at(1)), "core, web");
    assert_eq!(boxes(&at(2)), "core (desk, sea), web (index.ts, board)");
    assert_eq!(boxes(&at(9)), "core (desk, sea (Gauge, deep)), web (index.ts, board)");
}

#[test]
fn only_some_files_are_read() {
    let files = packages(&[3, 3, 3]);
    let selection = Selection {
        only: vec!["bay/p0".into(), "*/p1/*".into()],
        without: vec!["*m2.py".into()],
        name: Some("some".into()),
    };
    let facts = facts(&borrowed(&files), &ModulesOptions { selection, ..ModulesOptions::default() });
    assert_eq!((facts.counts.rows, facts.name.as_str()), (4, "some"));
}

#[test]
fn circles_are_cut_where_it_costs_least() {
    let facts = usual(&[
        ("a/one.py", "from b import one\nfrom b import two\nfrom c import one as c1\n"),
        ("a/two.py", "from b import one\n"),
        ("b/one.py", "x = 1\n"),
        ("b/two.py", "def late():\n    import a.one\n"),
        ("c/one.py", "from a import two\nTYPE_CHECKING = False\nif TYPE_CHECKING:\n    from b import one\n"),
        ("d/one.py", "import a.one, c.one\n"),
    ]);
    let circle = facts.findings.iter().find(|finding| finding.code == "circle").expect("a circle");
    assert!(
        circle.says.starts_with("`one`, `two`, `b` and `c`") || circle.says.contains("use each other"),
        "{}",
        circle.says
    );
    assert!(circle.says.contains("without 2 imports") || circle.says.contains("without 1 import"), "{}", circle.says);
    let tagged: Vec<String> = links(&facts).into_iter().filter(|link| link.contains("cut")).collect();
    assert!(!tagged.is_empty() && tagged.len() <= 2, "{tagged:?}");
    // What is only for types makes no circle.
    assert!(links(&facts).iter().any(|link| link.ends_with("types")), "{:?}", links(&facts));
}

#[test]
fn ways_past_an_entry_are_named() {
    let facts = usual(&[
        ("sea/index.ts", "export { Gauge } from './gauge';\nexport * from './level';\n"),
        ("sea/gauge.ts", "import './inner/deep';\nexport class Gauge {}\n"),
        ("sea/level.ts", "import { Gauge } from './gauge';\nexport const high = 1;\n"),
        ("sea/inner/deep.ts", "import { Gauge } from '..';\nexport const x = 1;\n"),
        ("desk/desk.ts", "import { Gauge, high } from '../sea';\nimport { high as h } from '../sea/level';\n"),
        ("plain/index.ts", "export const nothing = 1;\n"),
        ("plain/inner.ts", "export const y = 1;\n"),
        ("desk/other.ts", "import { y } from '../plain/inner';\n"),
    ]);
    let bypasses: Vec<String> =
        facts.findings.iter().filter(|f| f.code == "bypass").map(|f| format!("{} {}", f.seen, f.says)).collect();
    assert_eq!(bypasses, ["desk/desk.ts:2 `sea/level.ts` is imported from outside of `sea`, past `sea/index.ts`"]);
    // A name that is handed on is a use of the file that declares it.
    let own = links(&facts);
    assert!(
        own.contains(&"desk > gauge 1".to_owned())
            || own.iter().any(|link| link.starts_with("desk") && link.contains("gauge")),
        "{own:?}"
    );
}

#[test]
fn an_entry_that_most_pass_by_is_none() {
    let facts = usual(&[
        ("sea/__init__.py", "from .gauge import Gauge\n"),
        ("sea/gauge.py", "class Gauge: ...\n"),
        ("sea/level.py", "class Level: ...\n"),
        ("desk/one.py", "from sea import Gauge\nfrom sea.level import Level\nfrom sea.gauge import Gauge as G\n"),
    ]);
    assert!(findings(&facts).iter().all(|finding| !finding.starts_with("bypass")), "{:?}", findings(&facts));
}

#[test]
fn the_package_of_a_whole_project_is_called_as_that() {
    let files = [
        ("go.mod", "module harbour.example/bay\n"),
        ("bay.go", "package bay\nimport \"harbour.example/bay/sea\"\nvar x = sea.X\n"),
        ("sea/sea.go", "package sea\nvar X = 1\n"),
    ];
    assert_eq!(boxes(&usual(&files)), "bay, sea");
}

#[test]
fn modules_that_everybody_may_see_are_no_way_past() {
    let facts = usual(&[
        ("Cargo.toml", "[workspace]\nmembers = [\"sea\", \"desk\"]\n"),
        ("sea/Cargo.toml", "[package]\nname = \"sea\"\nedition = \"2021\"\n"),
        ("sea/src/lib.rs", "pub mod open;\npub(crate) mod shut;\npub use shut::Shut;\n"),
        ("sea/src/open.rs", "pub struct Open;\n"),
        ("sea/src/shut.rs", "pub struct Shut;\n"),
        (
            "desk/Cargo.toml",
            "[package]\nname = \"desk\"\nedition = \"2021\"\n[dependencies]\nsea = { path = \"../sea\" }\n",
        ),
        ("desk/src/main.rs", "use sea::open::Open;\nuse sea::Shut;\nfn main() {}\n"),
    ]);
    assert_eq!(findings(&facts), Vec::<String>::new());
}

#[test]
fn files_that_nobody_needs_are_told_from_those_that_are_begun_with() {
    let facts = usual(&[
        ("Cargo.toml", "[package]\nname = \"bay\"\nedition = \"2021\"\n"),
        ("src/lib.rs", "mod used;\n"),
        ("src/used.rs", ""),
        ("src/left.rs", ""),
        ("py/main.py", "import used_too\n"),
        ("py/used_too.py", "x = 1\n"),
        ("py/alone.py", "x = 1\n"),
        ("py/run.py", "if __name__ == \"__main__\":\n    pass\n"),
        ("py/empty.py", ""),
        ("web/page.js", "document.title = 'Tide';\n"),
        ("web/lib.js", "module.exports = 1;\n"),
        ("web/vite.config.js", "export default {};\n"),
    ]);
    let orphans: Vec<String> = findings(&facts).into_iter().filter(|finding| finding.starts_with("orphan")).collect();
    assert_eq!(orphans, ["orphan py/alone.py", "orphan src/left.rs", "orphan web/lib.js"]);
}

/// Why nothing is found.
fn none_of(files: &[(&str, &str)]) -> String {
    modules(&Files::new(files), &ModulesOptions::default(), &OneByOne).expect_err("nothing").to_string()
}

#[test]
fn types_close_no_circle_and_draw_no_line_of_what_is_handed_on() {
    let facts = usual(&[
        ("a/__init__.py", "from .one import One\n"),
        ("a/one.py", "from typing import TYPE_CHECKING\nif TYPE_CHECKING:\n    from b import two\nclass One: ...\n"),
        ("b/two.py", "import a\n"),
        ("c/x.py", "import b.two\n"),
        ("c/y.py", "import c.x\n"),
    ]);
    assert!(findings(&facts).iter().all(|finding| !finding.starts_with("circle")), "{:?}", findings(&facts));
    assert!(links(&facts).iter().all(|link| !link.starts_with("__init__.py > one")), "{:?}", links(&facts));
}

#[test]
fn what_is_left_out_is_counted() {
    let files = [
        ("a.py", "import json\n"),
        ("tests/test_a.py", ""),
        ("node_modules/x/index.js", ""),
        ("a_pb2.py", ""),
        ("made.go", "// Code generated by hand. DO NOT EDIT.\npackage made\n"),
        ("web/dist/index.js", ""),
        ("web/src/index.ts", ""),
        ("web/src/index.d.ts", ""),
    ];
    let facts = usual(&files);
    let says: Vec<&str> = facts.findings.iter().filter(|f| f.code == "left-out").map(|f| f.says.as_str()).collect();
    assert_eq!(
        says,
        [
            "1 source file of others left out",
            "3 source files that programs have written left out",
            "1 source file of tests, examples and benchmarks left out; `--with-tests` takes them in"
        ]
    );
    assert_eq!(facts.counts.rows, 2);
    let none = modules(&Files::new(&[("tests/a.py", ""), ("read.me", "")]), &ModulesOptions::default(), &OneByOne);
    assert!(none.expect_err("nothing").to_string().contains("--with-tests"));
    assert!(none_of(&[("tests/a.py", "")]).starts_with("bay: its one source file is a test"));
    assert!(none_of(&[("tests/a.py", ""), ("tests/b.py", "")]).starts_with("bay: all of its 2 source files are tests"));
    let none = modules(&Files::new(&[]), &ModulesOptions::default(), &OneByOne);
    assert!(none.expect_err("nothing").to_string().contains("no source code"));
}

#[test]
fn packages_from_outside_are_shown_when_asked_for() {
    let files = [("a/one.py", "import numpy\nimport json\n"), ("b/two.py", "from numpy import array\nimport a.one\n")];
    let shown = facts(&files, &ModulesOptions { with_outside: true, ..ModulesOptions::default() });
    assert!(shown.things.iter().any(|thing| thing.origin == "numpy" && thing.is_external));
    assert_eq!(shown.things.iter().filter(|thing| thing.is_external).count(), 1);
    assert_eq!(links(&shown).iter().filter(|link| link.contains("numpy 1")).count(), 2);
    assert!(emit(&shown.document()).contains("external"));
    let finding = shown.findings.iter().find(|finding| finding.code == "outside").expect("a finding");
    assert_eq!((finding.says.as_str(), finding.others.len()), ("`numpy` is imported 2 times", 1));
}

#[test]
fn a_project_has_the_name_of_its_manifest() {
    let named = |file: &str, text: &str| usual(&[(file, text), ("a.py", "x = 1\n")]).name;
    assert_eq!(named("Cargo.toml", "[package]\nname = \"sea-level\"\n"), "sea-level");
    assert_eq!(named("pyproject.toml", "[project]\nname = \"tide\"\n"), "tide");
    assert_eq!(named("package.json", "{ \"name\": \"@bay/desk\" }"), "desk");
    assert_eq!(named("go.mod", "module harbour.example/bay\n"), "bay");
    assert_eq!(named("go.mod", "module harbour.example/bay/v4\n"), "bay");
    assert_eq!(named("package.json", "not JSON"), "bay");
}

#[test]
fn the_boxes_of_a_text_are_kept_and_only_what_is_new_gets_a_box() {
    let text = "architecture bay\n  system west \"West side\"\n    part gauges (code \"a/**\")\n  part east (origin b)\n  part hand\n";
    let reading = read(Source::new("bay.bathy", text), "bay", &Setting::default());
    assert!(!reading.has_errors(), "{:?}", reading.diagnostics);
    let design = reading.document.diagrams.iter().find(|d| d.kind == DiagramKind::Architecture).expect("one");
    let options = ModulesOptions { given: Some(given(design)), ..ModulesOptions::default() };
    let found = facts(
        &[
            ("a/one.py", "from b import two\n"),
            ("b/two.py", "from c.deep import three\n"),
            ("c/deep/three.py", "x = 1\n"),
            ("c/deep/four.py", "import a.one\n"),
            ("top.py", "import b.two\n"),
        ],
        &options,
    );
    assert_eq!(boxes(&found), "West side (gauges), east, deep, top");
    assert_eq!(
        links(&found),
        ["gauges > east 1 circle", "east > deep 1 circle", "deep > gauges 1 cut", "top > east 1"]
    );
}

#[test]
fn files_belong_to_the_boxes_that_conform_says_they_do() {
    let text = "architecture bay\n  system west (code src)\n    part inner (code \"src/x\")\n  part exact (code \"src/x/y\")\n  exact uses inner\n";
    let reading = read(Source::new("bay.bathy", text), "bay", &Setting::default());
    let design = &reading.document.diagrams[0];
    let files = [("src/x/one.py", "x = 1\n"), ("src/x/y/two.py", "import src.x.one\n")];
    let options = ModulesOptions { given: Some(given(design)), ..ModulesOptions::default() };
    assert_eq!(links(&facts(&files, &options)), ["exact > inner 1"]);
    let uses = CodeBase::read(&Files::new(&files), false, &OneByOne).expect("code").uses("");
    assert_eq!(architecture(design, &uses).deviations(design), Vec::new());
}

#[test]
fn the_same_tree_gives_the_same_text() {
    let files = packages(&[12, 30, 4, 7]);
    let text = || emit(&usual(&borrowed(&files)).document());
    let first = text();
    assert!(first.starts_with("architecture bay"));
    assert_eq!(first, text());
    let reading = read(Source::new("bay.bathy", first), "bay", &Setting::default());
    assert!(!reading.has_errors(), "{:?}", reading.diagnostics);
}

#[test]
fn random_trees_give_texts_without_errors() {
    let mut seed = 3u64;
    let mut random = |below: u64| {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (seed >> 33) % below
    };
    for round in 0..60 {
        let count = 1 + random(40);
        let names: Vec<String> = (0..count)
            .map(|i| (0..=random(3)).map(|_| format!("f{}/", random(4))).collect::<String>() + &format!("m{i}"))
            .collect();
        let files: Vec<(String, String)> = names
            .iter()
            .map(|name| {
                let imports: String = (0..random(4))
                    .map(|_| format!("import {}\n", names[random(count) as usize].replace('/', ".")))
                    .collect();
                (format!("{name}.py"), imports + &"x = 1\n".repeat(random(50) as usize))
            })
            .collect();
        let facts = usual(&borrowed(&files));
        let reading = read(Source::new("bay.bathy", emit(&facts.document())), "bay", &Setting::default());
        assert!(!reading.has_errors(), "round {round}: {:?}", reading.diagnostics);
        let parents: Vec<usize> = facts.things.iter().filter_map(|thing| thing.holder).collect();
        let leaves = (0..facts.things.len()).filter(|number| !parents.contains(number)).count();
        assert!(leaves <= 25, "round {round}: {leaves}");
    }
}

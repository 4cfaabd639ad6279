//! Architectures against source code: laws, and cases by hand.

use bathygram_core::conform::{
    ArchitectureConformance, Code, CodeUse, OutsideUse, Weight, actual_architecture, architecture,
};
use bathygram_core::model::{Diagram, DiagramKind};
use bathygram_core::pipeline::{Setting, read};
use bathygram_core::source::Source;
use std::collections::BTreeSet;

fn design(text: &str) -> Diagram {
    let reading = read(Source::new("bay.bathy", text), "bay", &Setting::default());
    assert!(!reading.has_errors(), "{:?}", reading.diagnostics);
    reading.document.diagrams.into_iter().find(|d| d.kind == DiagramKind::Architecture).expect("an architecture")
}

/// Code from pairs of files, each in the line of its number.
fn code(files: &[&str], uses: &[(&str, &str)]) -> Code {
    let number = |file: &str| files.iter().position(|own| *own == file).expect("a file");
    let files_owned: Vec<String> = files.iter().map(|file| (*file).to_owned()).collect();
    let uses = uses.iter().enumerate();
    Code {
        shown: files_owned.clone(),
        files: files_owned,
        uses: uses
            .map(|(i, (a, b))| CodeUse { from: number(a), to: number(b), line: i as u32 + 1, is_handed_on: false })
            .collect(),
        outside: Vec::new(),
    }
}

/// What differs, as `code [line]: sentence (places)`.
fn told(design: &Diagram, of: &ArchitectureConformance) -> Vec<String> {
    let all = of.deviations(design).into_iter();
    all.map(|one| format!("{}: {} ({})", one.code, one.says, one.places.join(", "))).collect()
}

const DESIGN: &str = "architecture bay
  system service
    part gate (code \"src/gate/**\")
    part rules
      code \"src/rules\"
    part store (code \"src/{store,table}.rs\")
  part desk (code desk)
  system met (external)
  gate uses rules
  rules uses store
  desk uses service
  gate never uses store \"through the rules\"
";

#[test]
fn what_differs_is_told_with_its_lines() {
    let design = design(DESIGN);
    let files = [
        "desk/a.rs",
        "src/gate/in/a.rs",
        "src/gate/b.rs",
        "src/rules/a.rs",
        "src/store.rs",
        "src/table.rs",
        "src/main.rs",
    ];
    let uses = [
        ("src/gate/in/a.rs", "src/rules/a.rs"),
        ("src/gate/b.rs", "src/table.rs"),
        ("src/store.rs", "src/rules/a.rs"),
        ("src/store.rs", "src/table.rs"),
        ("desk/a.rs", "src/gate/b.rs"),
        ("src/main.rs", "desk/a.rs"),
    ];
    let of = architecture(&design, &code(&files, &uses));
    assert_eq!(
        told(&design, &of),
        [
            "surprise: `store` uses `rules` in 1 import; the diagram does not say so (src/store.rs:3)",
            "absent: `rules` uses `store` nowhere in the code ()",
            "forbidden: `gate` uses `store` in 1 import; the diagram says never \"through the rules\" (src/gate/b.rs:2)",
            "uncovered: no element stands for `src/main.rs`, which is source code ()",
        ]
    );
    assert_eq!((of.covered, of.agreements.len()), (6, 2));
    let weights: Vec<Weight> = of.deviations(&design).iter().map(|one| one.weight).collect();
    assert_eq!(weights[3], Weight::Note);
    assert!(weights[..3].iter().all(|weight| *weight == Weight::Difference));
    // Drawn as it is: without what is absent, with what nobody drew.
    let actual = actual_architecture(&design, &of);
    assert_eq!(actual.relations.len(), design.relations.len() - 1 + 2);
}

#[test]
fn inner_elements_take_precedence_and_exact_patterns_do() {
    let design = design(
        "architecture bay\n  system all (code \"src/**\")\n    part inner (code \"src/inner/**\")\n  part one (code \"lib/**\")\n  part other (code \"lib/other/**\")\n  one uses other\n  inner uses one\n",
    );
    let files = ["src/a.rs", "src/inner/b.rs", "lib/c.rs", "lib/other/d.rs"];
    let uses = [
        ("src/a.rs", "src/inner/b.rs"),
        ("src/inner/b.rs", "src/a.rs"),
        ("lib/c.rs", "lib/other/d.rs"),
        ("src/inner/b.rs", "lib/c.rs"),
    ];
    let of = architecture(&design, &code(&files, &uses));
    assert_eq!(told(&design, &of), Vec::<String>::new());
    assert_eq!((of.covered, of.agreements.len()), (4, 2));
}

#[test]
fn data_may_flow_either_way_and_lines_over_a_network_need_no_import() {
    let design = design(
        "architecture bay\n  part a (code a)\n  part b (code b)\n  part c (code c)\n  a sends b \"levels\"\n  a calls c \"asks\"\n  b uses c over \"HTTP\"\n",
    );
    let of = architecture(&design, &code(&["a/x", "b/x", "c/x"], &[("b/x", "a/x")]));
    assert_eq!(told(&design, &of), Vec::<String>::new());
    let of = architecture(&design, &code(&["a/x", "b/x", "c/x"], &[("c/x", "a/x")]));
    assert_eq!(told(&design, &of).len(), 1);
}

#[test]
fn what_is_only_handed_on_needs_no_line() {
    let design = design("architecture bay\n  part a (code a)\n  part b (code b)\n  part c (code c)\n  a uses b\n");
    let mut code = code(&["a/x", "b/x", "c/x"], &[("a/x", "b/x"), ("a/x", "c/x")]);
    code.uses.iter_mut().for_each(|one| one.is_handed_on = true);
    assert_eq!(told(&design, &architecture(&design, &code)), Vec::<String>::new());
}

#[test]
fn packages_that_are_elsewhere_are_known_by_their_names() {
    let design = design(
        "architecture bay\n  part a (code a)\n  system numbers \"numpy\" (external)\n  system other (external)\n  part b (code b)\n  b uses numbers\n  a uses other\n",
    );
    let mut code = code(&["a/x", "b/x"], &[]);
    code.outside.push(OutsideUse { from: 0, package: "numpy".to_owned(), line: 4 });
    let of = architecture(&design, &code);
    assert_eq!(
        told(&design, &of),
        [
            "surprise: `a` uses `numbers` in 1 import; the diagram does not say so (a/x:4)",
            "absent: `b` uses `numbers` nowhere in the code ()",
            "absent: `a` uses `other` nowhere in the code ()",
        ]
    );
}

#[test]
fn elements_without_files_are_named_and_origins_are_no_promise() {
    let design = design(
        "architecture bay\n  part a (code \"gone/**\")\n  part b (origin \"calls to the sea\")\n  part c (code c)\n",
    );
    let of = architecture(&design, &code(&["c/x"], &[]));
    assert_eq!(told(&design, &of), ["no-code: `a`: `gone/**` names no source file ()"]);
    let nothing = architecture(&design, &code(&["d/x"], &[]));
    assert!(nothing.is_about_code());
    let plain = self::design("architecture bay\n  part a\n  a uses b\n");
    assert!(!architecture(&plain, &code(&["d/x"], &[])).is_about_code());
}

#[test]
fn what_is_accepted_stays_accepted_when_lines_move() {
    let design = design(DESIGN);
    let files = ["src/gate/a.rs", "src/rules/a.rs", "src/store.rs", "src/main.rs", "desk/a.rs"];
    let first = [("src/store.rs", "src/rules/a.rs"), ("src/gate/a.rs", "src/store.rs")];
    let of = architecture(&design, &code(&files, &first));
    let keys: BTreeSet<String> = of.deviations(&design).into_iter().flat_map(|one| one.keys).collect();
    assert!(keys.contains("surprise service.store > service.rules: src/store.rs > src/rules/a.rs"), "{keys:?}");
    // Other lines, and one use more.
    let second = [
        ("desk/a.rs", "src/rules/a.rs"),
        ("src/gate/a.rs", "src/store.rs"),
        ("src/store.rs", "src/rules/a.rs"),
        ("src/store.rs", "desk/a.rs"),
    ];
    let mut of = architecture(&design, &code(&files, &second));
    let found = of.accept(&design, &keys);
    assert!(found.len() < keys.len(), "the desk uses the service now");
    assert_eq!(
        told(&design, &of),
        ["surprise: `store` uses `desk` in 1 import; the diagram does not say so (src/store.rs:4)"]
    );
}

#[test]
fn a_design_made_of_the_code_conforms_and_every_change_is_found() {
    let mut seed = 11u64;
    let mut random = |below: usize| {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (seed >> 33) as usize % below
    };
    for round in 0..200 {
        let count = 3 + random(6);
        let files: Vec<String> = (0..count * 2).map(|i| format!("p{}/f{i}", i / 2)).collect();
        let files: Vec<&str> = files.iter().map(String::as_str).collect();
        let mut pairs: BTreeSet<(usize, usize)> = BTreeSet::new();
        for _ in 0..random(20) {
            let (a, b) = (random(count), random(count));
            pairs.extend((a != b).then_some((a, b)));
        }
        let uses: Vec<(&str, &str)> =
            pairs.iter().map(|(a, b)| (files[a * 2 + random(2)], files[b * 2 + random(2)])).collect();
        let text = |pairs: &BTreeSet<(usize, usize)>| {
            let parts: String = (0..count).map(|i| format!("  part p{i} (code \"p{i}/**\")\n")).collect();
            let lines: String = pairs.iter().map(|(a, b)| format!("  p{a} uses p{b}\n")).collect();
            format!("architecture bay\n{parts}{lines}")
        };
        let code = code(&files, &uses);
        let own = design(&text(&pairs));
        let of = architecture(&own, &code);
        assert_eq!(told(&own, &of), Vec::<String>::new(), "round {round}");
        assert_eq!(of.agreements.len(), pairs.len());
        // One line less is a surprise, one line more is absent.
        if let Some(gone) = pairs.iter().nth(random(pairs.len().max(1))).copied() {
            let mut less = pairs.clone();
            less.remove(&gone);
            let own = design(&text(&less));
            let told = told(&own, &architecture(&own, &code));
            assert!(
                told.len() == 1 && told[0].starts_with(&format!("surprise: `p{}` uses `p{}`", gone.0, gone.1)),
                "{told:?}"
            );
        }
        let (a, b) = (random(count), random(count));
        if a != b && !pairs.contains(&(a, b)) {
            let mut more = pairs.clone();
            more.insert((a, b));
            let own = design(&text(&more));
            assert_eq!(
                told(&own, &architecture(&own, &code)),
                [format!("absent: `p{a}` uses `p{b}` nowhere in the code ()")]
            );
        }
    }
}

#[test]
fn stars_of_patterns_are_no_emphasis() {
    let design =
        design("architecture bay\n  part a (code \"src/*/a/*.rs\")\n  part b\n    code \"**/b/**\"\n  a uses b\n");
    let of =
        architecture(&design, &code(&["src/x/a/one.rs", "src/y/b/two.rs"], &[("src/x/a/one.rs", "src/y/b/two.rs")]));
    assert_eq!((told(&design, &of), of.covered), (Vec::new(), 2));
}

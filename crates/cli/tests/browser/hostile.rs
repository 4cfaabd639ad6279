//! Fifty labels that would do something if they were not texts, in every place that takes one: nothing runs, nothing is asked for.

use crate::driver::Browser;
use crate::files::Folder;
use serde_json::json;
use std::process::Command;

/// Labels that act where they are not escaped; each sets `window.hit`, or asks for something.
fn labels() -> Vec<String> {
    let acts = [
        "<script>window.hit=1</script>",
        "<img src=x onerror=window.hit=1>",
        "<svg onload=window.hit=1>",
        "<iframe src=javascript:parent.hit=1>",
    ];
    let opens = [
        "",
        "'>",
        "</text>",
        "</svg>",
        "</title>",
        "</script>",
        "</style>",
        "-->",
        "]]>",
        "</desc>",
        "&lt;/text&gt;",
        "&#60;",
    ];
    let mut all: Vec<String> =
        acts.iter().flat_map(|act| opens.iter().map(move |open| format!("{open}{act}"))).collect();
    all.push("javascript:window.hit=1".to_owned());
    all.push("url(http://tide.invalid/x)@import 'http://tide.invalid/y'".to_owned());
    assert_eq!(all.len(), 50);
    all
}

/// Texts of every kind with a label in every place.
fn texts(label: &str, n: usize) -> String {
    format!(
        "architecture a{n} \"{label}\"\n  system x \"{label}\" (tag t)\n    about \"{label}\"\n    owner \"{label}\"\n    built \"{label}\"\n    \
         service y \"{label}\"\n  group \"{label}\"\n    actor z \"{label}\"\n  z calls y \"{label}\" over \"{label}\"\n  remark on x \"{label}\"\n\n\
         sequence s{n} \"{label}\"\n  actor p \"{label}\"\n  p calls q \"{label}\"\n    q answers \"{label}\"\n  remark on p \"{label}\"\n\n\
         flow f{n} \"{label}\"\n  begin \"{label}\"\n  decide \"{label}\"\n    when \"{label}\"\n      \"{label}\"\n    or \"no\"\n      \"b\"\n  finish \"{label}\"\n\n\
         classes c{n} \"{label}\"\n  class k \"{label}\"\n    m: Int\n  class l\n  k uses l \"{label}\"\n\n\
         states t{n} \"{label}\"\n  state o \"{label}\"\n  state u\n  o becomes u \"{label}\"\n\n\
         network n{n} \"{label}\"\n  device d \"{label}\"\n  device e\n  d joins e \"{label}\"\n\n\
         tree r{n} \"{label}\"\n  \"{label}\"\n    \"{label}\"\n"
    )
}

#[test]
fn fifty_hostile_labels_in_every_place_run_and_request_nothing() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::new();
    let all: Vec<String> = labels().iter().enumerate().map(|(n, label)| texts(label, n)).collect();
    folder.write("all.bathy", &all.join("\n"));
    let commit = ["commit", "-qm", "</script><script>window.hit=1</script>"];
    for arguments in [&["init", "-q", "."][..], &["add", "."], &commit[..]] {
        let mut git = Command::new("git");
        git.args(["-c", "user.name=</script>Keeper", "-c", "user.email=keeper@tide.invalid"]).args(arguments);
        assert!(git.current_dir(folder.path(".")).status().expect("git").success());
    }
    let pictures = folder.answer(&["-q", "render", "all.bathy", "--anyway", "--format", "svg", "--out", "out"]);
    assert!(pictures.lines().count() >= 300, "{pictures}");
    // Every picture in one page, as pictures of the document: what a site that shows them has in it.
    let inside = pictures.lines().map(|path| std::fs::read_to_string(folder.path(path)).expect("a picture"));
    folder.write("inline.html", &format!("<!doctype html><title>x</title><body>{}", inside.collect::<String>()));
    folder.run(&["-q", "render", "all.bathy", "--anyway", "--out", "pages.html"]);
    folder.write("all.bathy", &all.join("\n").replace("    m: Int\n", "    m: Text\n"));
    folder.run(&["-q", "diff", "HEAD", "--html", "changes.html"]);
    folder.run(&["-q", "history", "all.bathy", "--html", "steps.html"]);
    let alone = pictures.lines().step_by(29).map(str::to_owned);
    for page in ["inline.html", "pages.html", "changes.html", "steps.html"].into_iter().map(str::to_owned).chain(alone)
    {
        browser.show(&folder.path(&page));
        // Pages have pictures of their own, as data.
        let found = browser.run(
            "return [window.hit ?? null, document.querySelectorAll('iframe, object, embed, img:not([src^=\"data:\"])').length,
               performance.getEntriesByType('resource').map((e) => e.name).filter((n) => !n.startsWith('data:') && !n.startsWith('file:'))]",
        );
        assert_eq!(found, json!([null, 0, []]), "{page}");
    }
}

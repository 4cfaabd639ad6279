//! The page of what changed, in a real browser: the ways of comparing, and what holds for all pages.

use crate::driver::Browser;
use crate::files::{Folder, axe};
use serde_json::json;
use std::process::Command;

const MAP: &str = "architecture map \"Map\"\n  system core \"Core\"\n    service gateway \"Gateway\"\n    store readings \"Readings\"\n  service desk \"Desk\"\n  actor keeper \"Keeper\"\n  keeper uses desk\n  desk uses gateway \"asks\"\n  gateway writes readings \"appends\"\n";

/// A repository in which a map changed, and the page of that.
fn page(new: &str) -> Folder {
    let folder = Folder::new();
    folder.write("map.bathy", MAP);
    for words in [&["init", "-q"][..], &["add", "."], &["commit", "-qm", "one"]] {
        let git = Command::new("git")
            .args(["-c", "user.name=Keeper", "-c", "user.email=keeper@tidewatch.invalid"])
            .args(words)
            .current_dir(folder.path(""))
            .status();
        assert!(git.expect("git starts").success());
    }
    folder.write("map.bathy", new);
    folder.run(&["-q", "diff", "--html", "changes.html"]);
    folder
}

fn changed() -> Folder {
    page(
        &MAP.replace("\"Gateway\"", "\"Intake of levels\"")
            .replace("  keeper uses desk\n", "  service pager \"Pager\"\n  desk uses pager\n  keeper uses desk\n"),
    )
}

/// Chooses a way of comparing.
fn choose(browser: &Browser, way: &str) {
    browser.run(&format!("document.querySelector('input[value={way}]').click(); return null"));
}

fn slide(browser: &Browser, part: u32) {
    browser.run(&format!(
        "const slider = document.querySelector('.slider input'); slider.value = {part}; slider.dispatchEvent(new Event('input')); return null"
    ));
}

#[test]
fn before_and_after_lie_on_each_other_and_the_ends_of_the_slider_show_what_they_say() {
    let Some(browser) = Browser::open() else { return };
    browser.resize(1280, 900);
    let folder = changed();
    browser.show(&folder.path("changes.html"));
    let shown = "return ['.marked', '.both', '.slider'].map((part) => getComputedStyle(document.querySelector(part)).display !== 'none')";
    assert_eq!(browser.run(shown), json!([true, false, false]), "what changed comes first");
    choose(&browser, "beside");
    let apart =
        "const [a, b] = ['.before', '.after'].map((part) => document.querySelector(part).getBoundingClientRect());
        return a.right <= b.left + 1 && Math.abs(a.top - b.top) < 1";
    assert_eq!(browser.run(apart), json!(true));
    choose(&browser, "slide");
    // What is in both versions is at one place.
    let places = "const place = (part, key) => document.querySelector(`${part} [data-element='${key}']`).getBoundingClientRect();
        return ['core.gateway', 'core.readings', 'desk', 'keeper'].map((key) => {
          const [a, b] = ['.before', '.after'].map((part) => place(part, key));
          return Math.abs(a.left + a.right - b.left - b.right) < 60 && Math.abs(a.top - b.top) < 3 || `${key}: ${JSON.stringify([a, b])}`;
        })";
    assert_eq!(browser.run(places), json!([true, true, true, true]));
    // The slider spans the picture.
    let spans = "const a = document.querySelector('.slider input').getBoundingClientRect(), b = document.querySelector('.before .sheet').getBoundingClientRect();
        return Math.abs(a.left + 8 - b.left) < 2 && Math.abs(a.right - 8 - b.right) < 2 || JSON.stringify([a, b])";
    assert_eq!(browser.run(spans), json!(true));
    let cut = "return getComputedStyle(document.querySelector('.after')).clipPath";
    slide(&browser, 0);
    assert_eq!(browser.run(cut), json!("inset(0px 100% 0px 0px)"), "at `before` nothing of what is after");
    slide(&browser, 1000);
    assert_eq!(browser.run(cut), json!("inset(0px 0% 0px 0px)"), "at `after` all of it");
    choose(&browser, "fade");
    slide(&browser, 250);
    assert_eq!(browser.run("return getComputedStyle(document.querySelector('.after')).opacity"), json!("0.25"));
    assert_eq!(browser.log(), [""; 0]);
}

#[test]
fn a_page_of_changes_asks_for_nothing_and_nothing_in_it_acts() {
    let Some(browser) = Browser::open() else { return };
    let hostile = "<script>window.hit = 1</script><img src=x onerror='window.hit = 2'>`x`";
    let folder = page(
        &MAP.replace("\"Gateway\"", &format!("\"{}\"", hostile.replace('"', "'")))
            .replace("architecture map", "architecture `&lt;b&map`"),
    );
    browser.show(&folder.path("changes.html"));
    let found = browser.run(
        "return [window.hit ?? null, performance.getEntriesByType('resource').map((e) => e.name).filter((n) => !n.startsWith('data:')),
           document.documentElement.scrollWidth <= innerWidth, document.querySelectorAll('img, b').length]",
    );
    assert_eq!(found, json!([null, [], true, 0]));
    // Without scripts what changed, before and after are seen.
    let page = std::fs::read_to_string(folder.path("changes.html")).expect("the page");
    let script = page.rfind("<script>").expect("the script");
    folder.write("plain.html", &format!("{}</body></html>", &page[..script]));
    browser.show(&folder.path("plain.html"));
    let seen = "return [...document.querySelectorAll('.marked svg, .before svg, .after svg')].map((svg) => svg.getBoundingClientRect().height > 100)";
    assert_eq!(browser.run(seen), json!([true, true, true]));
    assert_eq!(browser.log(), [""; 0]);
}

#[test]
fn axe_finds_nothing_in_a_page_of_changes() {
    let Some(browser) = Browser::open() else { return };
    let Some(axe) = axe() else { return };
    browser.show(&changed().path("changes.html"));
    for way in ["marked", "beside", "slide"] {
        choose(&browser, way);
        let found = browser.wait_for(&format!(
            "{axe}; const found = await axe.run(); return found.violations.map((v) => v.id + ': ' + v.nodes[0].html);"
        ));
        assert_eq!(found, json!([]), "{way}");
    }
}

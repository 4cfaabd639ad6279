//! The page to walk through: everything is reached by pointer and by keys, and nothing is asked of anybody.

use crate::driver::Browser;
use crate::files::{Folder, axe};
use serde_json::json;

/// The page of the demo's map, with what is inside of its elements.
fn map(browser: &Browser) -> Folder {
    let folder = Folder::demo();
    folder.run(&["-q", "render", "architecture.bathy", "--only", "tidewatch_around", "--format", "html", "--out", "."]);
    browser.show(&folder.path("tidewatch_around.html"));
    folder
}

/// Labels of what stands out.
const LIT: &str = "return [...document.querySelectorAll('.lit')].map((e) => e.dataset.says ?? '').sort()";

#[test]
fn what_is_chosen_stands_out_with_what_it_touches() {
    let Some(browser) = Browser::open() else { return };
    let folder = map(&browser);
    assert_eq!(browser.run(LIT), json!([]));
    browser.click("[data-element='portal'] [data-role=frame]");
    let lit = browser.run(LIT);
    let lit: Vec<&str> = lit.as_array().expect("a list").iter().filter_map(|l| l.as_str()).collect();
    assert!(lit.contains(&"Public portal") && lit.contains(&"Mariner"), "{lit:?}");
    assert!(!lit.contains(&"Duty keeper"), "{lit:?}");
    let dimmed = "return getComputedStyle(document.querySelector('[data-element=keeper]')).opacity < 0.5";
    browser.until(dimmed, &json!(true));
    assert_eq!(browser.run("return document.querySelector('#facts h2').textContent"), json!("Public portal"));
    assert_eq!(browser.run("return location.hash"), json!("#tidewatch_around/portal"));
    browser.press(&["Escape"]);
    assert_eq!(browser.run(LIT), json!([]));
    // An address leads to what was chosen.
    let page = folder.path("tidewatch_around.html").canonicalize().expect("the page");
    browser.visit("about:blank");
    browser.visit(&format!("file://{}#tidewatch_core/core.gateway", page.display()));
    let heading = "return document.querySelector('#facts h2').textContent";
    browser.until(heading, &json!("Ingest gateway"));
}

#[test]
fn insides_are_entered_and_left() {
    let Some(browser) = Browser::open() else { return };
    let _folder = map(&browser);
    browser.click("[data-element='core'] [data-role=frame]");
    browser.click("#facts .inside");
    let shown = "return [...document.querySelectorAll('.sheet')].filter((s) => !s.hidden).map((s) => s.dataset.name)";
    assert_eq!(browser.run(shown), json!(["tidewatch_core"]));
    assert_eq!(browser.run("return location.hash"), json!("#tidewatch_core"));
    browser.click("#title a");
    browser.until(shown, &json!(["tidewatch_around"]));
    browser.back();
    browser.until(shown, &json!(["tidewatch_core"]));
}

#[test]
fn keys_alone_find_choose_and_walk() {
    let Some(browser) = Browser::open() else { return };
    let _folder = map(&browser);
    browser.press(&["/", "d", "u", "t", "y"]);
    let chosen = "return document.querySelector('.chosen')?.dataset.says ?? ''";
    // Typing is looked at when the page comes to it.
    browser.until(chosen, &json!("Duty keeper"));
    browser.press(&["Escape"]);
    browser.run("document.querySelector('[data-element=core]').focus()");
    let focused = || browser.run("return document.activeElement.getAttribute('aria-label')");
    browser.press(&["ArrowLeft"]);
    let first = focused();
    assert!(first.as_str().is_some_and(|label| !label.starts_with("Tidewatch core ")), "{first}");
    browser.press(&["Enter"]);
    let chosen = "return document.querySelector('.chosen').getAttribute('aria-label')";
    assert_eq!(browser.run(chosen), first);
}

#[test]
fn a_sequence_and_a_scenario_go_step_by_step() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::demo();
    for (file, picture) in [("surge_warning.bathy", "surge_warning"), ("storm_drill.bathy", "storm_drill_map")] {
        folder.run(&["-q", "render", file, "--only", picture, "--format", "html", "--out", "."]);
        browser.show(&folder.path(&format!("{picture}.html")));
        let now = "return [...document.querySelectorAll('.now')].map((e) => e.dataset.steps)";
        browser.click("#later");
        assert_eq!(browser.run(now), json!(["1"]), "{picture}");
        browser.press(&["n", "n"]);
        assert_eq!(browser.run(now)[0].as_str().map(|s| s.split(' ').any(|s| s == "3")), Some(true), "{picture}");
        let hidden =
            "return [...document.querySelectorAll('[data-steps]')].filter((e) => !e.classList.contains('past')).length";
        assert!(browser.run(hidden).as_u64().expect("a number") > 0, "{picture}");
        browser.click("#whole");
        assert_eq!(browser.run(now), json!([]), "{picture}");
    }
}

#[test]
fn a_port_is_chosen_with_the_cables_in_it() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::demo();
    folder.run(&["-q", "render", "shore_cabling.bathy", "--format", "html", "--out", "."]);
    browser.show(&folder.path("shore_cabling.html"));
    browser.click("[data-relation='core1 joins host1'] [data-role=end-label] text");
    let heading = browser.run("return document.querySelector('#facts h2').textContent");
    assert!(heading == json!("1/1") || heading == json!("eth0"), "{heading}");
}

#[test]
fn a_page_asks_for_nothing_and_fits_every_window() {
    let Some(browser) = Browser::open() else { return };
    let folder = map(&browser);
    for (width, height) in [(1280, 800), (400, 800)] {
        browser.resize(width, height);
        browser.show(&folder.path("tidewatch_around.html"));
        let asked = browser.run(
            "return performance.getEntriesByType('resource').map((e) => e.name).filter((n) => !n.startsWith('data:'))",
        );
        assert_eq!(asked, json!([]));
        let fits = "const box = document.querySelector('.sheet:not([hidden]) svg').getBoundingClientRect();
            const field = document.querySelector('.sheet:not([hidden]) .field').getBoundingClientRect();
            return document.documentElement.scrollWidth <= innerWidth
              && box.left >= field.left - 1 && box.right <= field.right + 1 && box.top >= field.top - 1 && box.bottom <= field.bottom + 1
              || JSON.stringify([innerWidth, document.documentElement.scrollWidth, box, field])";
        assert_eq!(browser.run(fits), json!(true), "{width}");
    }
    assert_eq!(browser.log(), [""; 0]);
}

#[test]
fn nothing_in_a_text_acts_in_a_page() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::new();
    let long = "x".repeat(10_000);
    let labels = [
        "<script>window.hit = 1</script>",
        "</script><img src=x onerror='window.hit = 2'>",
        "]]> --> <!-- \u{202e}",
        "javascript:window.hit=3",
        "' onload='window.hit = 4",
        &long,
    ];
    let mut text = "architecture bad\n".to_owned();
    for (i, label) in labels.iter().enumerate() {
        text += &format!("  service s{i} \"{label}\"\n");
    }
    folder.write("bad.bathy", &text);
    folder.run(&["-q", "render", "bad.bathy", "--format", "html,svg,pdf", "--out", "."]);
    for file in ["bad.html", "bad.svg"] {
        browser.show(&folder.path(file));
        assert_eq!(browser.run("return window.hit ?? null"), json!(null), "{file}");
        let wrong = browser.run(
            "return [...document.querySelectorAll('[data-element] text')].filter((text) => {
               const frame = text.closest('[data-element]').querySelector('[data-role=frame]').getBoundingClientRect();
               const box = text.getBoundingClientRect();
               return box.left < frame.left - 1 || box.right > frame.right + 1 || box.bottom > frame.bottom + 1;
             }).map((text) => text.textContent)",
        );
        assert_eq!(wrong, json!([]), "{file}");
    }
    assert_eq!(browser.log(), [""; 0]);
}

#[test]
fn axe_finds_nothing() {
    let Some(browser) = Browser::open() else { return };
    let Some(axe) = axe() else { return };
    let folder = Folder::demo();
    folder.run(&["-q", "render", "--format", "html", "--out", "."]);
    for name in ["tidewatch", "surge_warning", "domain", "warning_life", "shore_cabling", "dredging", "recalibrate"] {
        browser.show(&folder.path(&format!("{name}.html")));
        let found = browser.wait_for(&format!(
            "{axe}; const first = await axe.run(); document.querySelector('svg [role=button]').dispatchEvent(new MouseEvent('click', {{bubbles: true}}));
             const second = await axe.run(); return [...first.violations, ...second.violations].map((v) => v.id + ': ' + v.nodes[0].html);"
        ));
        assert_eq!(found, json!([]), "{name}");
    }
}

#[test]
fn a_shared_link_shows_the_picture() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::demo();
    let link = folder.answer(&["share", "dredging.bathy"]);
    browser.visit(link.trim_end());
    let shown = browser.wait_for(
        "for (let i = 0; i < 50 && !document.querySelector('svg'); i++) await new Promise((go) => setTimeout(go, 50));
         return document.querySelectorAll('svg [data-element]').length",
    );
    assert!(shown.as_u64().expect("a number") > 5, "{shown}");
}

#[test]
fn without_scripts_the_pictures_and_their_words_remain() {
    let Some(browser) = Browser::open() else { return };
    let folder = map(&browser);
    let page = std::fs::read_to_string(folder.path("tidewatch_around.html")).expect("the page");
    let script = page.rfind("<script>").expect("the script");
    folder.write("plain.html", &format!("{}</body></html>", &page[..script]));
    browser.show(&folder.path("plain.html"));
    let shown = browser.run(
        "return [...document.querySelectorAll('.sheet')].map((sheet) => {
           const box = sheet.querySelector('svg').getBoundingClientRect();
           const field = sheet.querySelector('.field').getBoundingClientRect();
           return box.height > 100 && box.right <= innerWidth + 1 && box.bottom <= field.bottom + 1
             && getComputedStyle(sheet.querySelector('details')).display !== 'none';
         })",
    );
    assert_eq!(shown, json!([true, true, true]));
    assert_eq!(browser.run("return getComputedStyle(document.querySelector('.tools')).display"), json!("none"));
}

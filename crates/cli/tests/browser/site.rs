//! A site: read from a disk, searched, walked through, without scripts, in the dark, in print; nothing is asked of any server.

use crate::driver::{Browser, Scheme};
use crate::files::{Folder, axe, repository, skipped};
use serde_json::{Value, json};
use std::path::Path;
use std::process::Command;

/// The site of the demo, with a document that shows a block.
fn site() -> Folder {
    let folder = Folder::demo();
    folder.write(
        "README.md",
        "# Tidewatch\n\nBegin with [the map](architecture.bathy).\n\n```bathygram\nflow ebb \"Ebb\"\n  step fall \"The water falls\"\n  \
         step stand \"It stands\"\n```\n\n| gauge | level |\n|---|---|\n| pier | 4.2 m |\n\n- [x] read\n\n```sh\nbathygram site\n```\n",
    );
    folder.run(&["-q", "site"]);
    folder
}

fn show(browser: &Browser, folder: &Folder, page: &str) {
    browser.show(&folder.path(&format!("site/{page}")));
}

#[test]
fn a_search_finds_names_labels_and_descriptions() {
    let Some(browser) = Browser::open() else { return };
    let folder = site();
    show(&browser, &folder, "documents/silent_gauge.html");
    browser.press(&["/"]);
    let found = "return [...document.querySelectorAll('#results a')].map((a) => a.textContent)";
    let has = |words: &str| {
        let has = format!(
            "return [...document.querySelectorAll('#results a')].some((a) => a.textContent.startsWith({words:?}))"
        );
        browser.until(&has, &json!(true));
    };
    browser.type_text("ingest gat");
    has("Ingest gateway service");
    browser.run("document.getElementById('search').value = ''");
    // A word of a description, with a mistake in it.
    browser.type_text("passsage");
    has("Mariner actor");
    assert_eq!(browser.run("return document.getElementById('search').getAttribute('aria-expanded')"), json!("true"));
    browser.press(&["Enter"]);
    browser.until("return document.querySelector('h1').textContent", &json!("Mariner"));
    browser.press(&["/"]);
    browser.type_text("zzzzzz");
    browser.until("return document.getElementById('counted').textContent", &json!("Nothing is called so"));
    assert_eq!(browser.run(found), json!([]));
    browser.press(&["Escape"]);
    assert_eq!(browser.run("return document.getElementById('results').hidden"), json!(true));
}

#[test]
fn an_architecture_is_browsed_by_going_in_and_out() {
    let Some(browser) = Browser::open() else { return };
    let folder = site();
    show(&browser, &folder, "index.html");
    browser.click("a[href='diagrams/tidewatch.html']");
    browser.until("return document.querySelector('h1').textContent", &json!("Tidewatch: from the water to the bridge"));
    // Until its script runs, a picture is one of links.
    browser.until("return document.body.classList.contains('scripted')", &json!(true));
    // A click chooses, and shows what is known; the second one goes in.
    browser.click("[data-element='core.gateway'] text");
    assert_eq!(browser.run("return document.querySelector('#facts h2').textContent"), json!("Ingest gateway"));
    let lit = browser.run("return [...document.querySelectorAll('.lit')].map((e) => e.dataset.says ?? '')");
    assert!(lit.as_array().is_some_and(|lit| lit.contains(&json!("Level stream"))), "{lit}");
    browser.click("#facts a.inside");
    browser.until("return document.querySelector('h1').textContent", &json!("Ingest gateway"));
    assert_eq!(
        browser.run("return document.querySelectorAll('.field [data-element=\"core.gateway.decoder\"]').length"),
        json!(1)
    );
    // Out again, by the way that is shown.
    browser.click(".trail a:last-child");
    browser.until("return document.querySelector('h1').textContent", &json!("Tidewatch core"));
    browser.back();
    browser.until("return document.querySelector('h1').textContent", &json!("Ingest gateway"));
    // An address leads to an element in a picture.
    let page = folder.path("site/diagrams/tidewatch.html").canonicalize().expect("the page");
    browser.visit("about:blank");
    browser.visit(&format!("file://{}#tidewatch/met", page.display()));
    browser.until("return document.querySelector('#facts h2')?.textContent", &json!("Weather office"));
    assert_eq!(browser.log(), [""; 0]);
}

#[test]
fn scenarios_go_step_by_step() {
    let Some(browser) = Browser::open() else { return };
    let folder = site();
    for page in ["diagrams/surge_warning.html", "diagrams/storm_drill_map.html"] {
        show(&browser, &folder, page);
        let now = "return [...document.querySelectorAll('.now')].map((e) => e.dataset.steps)";
        browser.click("#later");
        assert_eq!(browser.run(now), json!(["1"]), "{page}");
        browser.press(&["n"]);
        assert_eq!(
            browser.run("return document.getElementById('step').textContent.split(' ')[0]"),
            json!("2"),
            "{page}"
        );
        browser.click("#whole");
        assert_eq!(browser.run(now), json!([]), "{page}");
    }
}

/// Some of each kind of page.
const PAGES: [&str; 9] = [
    "index.html",
    "kinds.html",
    "elements.html",
    "diagrams/tidewatch.html",
    "diagrams/surge_warning.html",
    "diagrams/readings_schema.html",
    "elements/tidewatch/core.gateway.html",
    "elements/readings_schema/reading.html",
    "documents/README.html",
];

#[test]
fn every_page_fits_every_window_and_asks_only_for_the_site() {
    let Some(browser) = Browser::open() else { return };
    let folder = site();
    let root = format!("file://{}", folder.path("site").canonicalize().expect("the site").display());
    for (width, height) in [(1280, 800), (400, 800)] {
        browser.resize(width, height);
        for page in PAGES {
            show(&browser, &folder, page);
            let asked = browser.run(&format!(
                "return performance.getEntriesByType('resource').map((e) => e.name)
                   .filter((n) => !n.startsWith('data:') && !n.startsWith({root:?}))"
            ));
            assert_eq!(asked, json!([]), "{page}");
            let wide = browser.run("return document.documentElement.scrollWidth - innerWidth");
            assert!(wide.as_i64().is_some_and(|wide| wide <= 0), "{page} at {width}: {wide}");
            assert_eq!(browser.run("return document.fonts.check('16px \"Fira Sans\"')"), json!(true), "{page}");
        }
    }
    assert_eq!(browser.log(), [""; 0]);
}

#[test]
fn axe_finds_nothing_on_any_page() {
    let Some(axe) = axe() else { return };
    for scheme in [Scheme::Light, Scheme::Dark] {
        let Some(browser) = Browser::open_in(scheme) else { return };
        let folder = site();
        // What is dark has the same parts.
        let pages = if matches!(scheme, Scheme::Light) { &PAGES[..] } else { &PAGES[3..5] };
        for page in pages {
            show(&browser, &folder, page);
            let found = browser.wait_for(&format!(
                "{axe}; const first = await axe.run();
                 document.querySelector('.field [data-element]')?.dispatchEvent(new MouseEvent('click', {{bubbles: true, cancelable: true}}));
                 const search = document.getElementById('search');
                 search.focus(); search.value = 'tide'; search.dispatchEvent(new Event('input'));
                 for (let i = 0; i < 80 && document.getElementById('results').hidden; i++) await new Promise((go) => setTimeout(go, 50));
                 const second = await axe.run();
                 return [...first.violations, ...second.violations].map((v) => v.id + ': ' + v.nodes[0].html);"
            ));
            assert_eq!(found, json!([]), "{page}");
        }
    }
}

#[test]
fn pages_are_dark_where_somebody_likes_that() {
    let Some(browser) = Browser::open_in(Scheme::Dark) else { return };
    let folder = site();
    show(&browser, &folder, "diagrams/tidewatch.html");
    // How light the page is, and the picture's ground, from 0 to 255.
    let light = browser.run(
        "const of = (colour) => Math.max(...colour.match(/\\d+/g).slice(0, 3).map(Number));
         return [of(getComputedStyle(document.body).backgroundColor), of(getComputedStyle(document.querySelector('.field svg > rect')).fill)]",
    );
    assert!(light.as_array().is_some_and(|all| all.iter().all(|l| l.as_u64() < Some(90))), "{light}");
}

#[test]
fn without_scripts_pictures_and_links_remain() {
    let Some(browser) = Browser::open() else { return };
    let folder = site();
    let page = folder.path("site/diagrams/tidewatch.html");
    let text = std::fs::read_to_string(&page).expect("the page");
    let plain: String =
        text.split("<script").map(|part| part.split_once("</script>").map_or(part, |(_, rest)| rest)).collect();
    std::fs::write(folder.path("site/diagrams/plain.html"), plain).expect("written");
    show(&browser, &folder, "diagrams/plain.html");
    let shown = "const box = document.querySelector('.field svg').getBoundingClientRect();
        return [box.height > 100, box.right <= innerWidth, getComputedStyle(document.querySelector('.tools')).display,
          getComputedStyle(document.querySelector('.search')).display]";
    assert_eq!(browser.run(shown), json!([true, true, "none", "none"]));
    browser.click("[data-element='met'] [data-role=frame]");
    browser.until("return document.querySelector('h1').textContent", &json!("Weather office"));
}

#[test]
fn pages_are_printed_with_their_pictures() {
    let Some(browser) = Browser::open() else { return };
    let folder = site();
    show(&browser, &folder, "diagrams/tidewatch.html");
    let printed = browser.print();
    let pdf = folder.path("printed.pdf");
    std::fs::write(&pdf, printed).expect("written");
    let Ok(text) = Command::new("pdftotext").arg(&pdf).arg("-").output() else {
        skipped("there is no pdftotext here");
        return;
    };
    let text = String::from_utf8_lossy(&text.stdout);
    // The picture, the lists and the source; not what is pressed.
    for part in ["Ingest gateway", "Checks and orders what stations send", "architecture tidewatch"] {
        assert!(text.contains(part), "{part} in {text}");
    }
    assert!(!text.contains("Open the picture"), "{text}");
}

#[test]
fn html_validate_finds_nothing() {
    let program = repository("target/browser-tools/node_modules/.bin/html-validate");
    if !program.is_file() {
        skipped("html-validate is not here");
        return;
    }
    let folder = site();
    folder.write("validate.json", "{\"root\": true, \"extends\": [\"html-validate:recommended\"]}");
    let mut command = Command::new(program);
    command.args(["-c", "validate.json", "--formatter", "text", "site/**/*.html"]).current_dir(folder.path("."));
    let done = run(&mut command);
    assert!(done.0, "{}", done.1);
}

/// Whether a command succeeds, and what it says.
fn run(command: &mut Command) -> (bool, String) {
    let done = command.output().expect("it starts");
    let said = [done.stdout, done.stderr].concat();
    (done.status.success(), String::from_utf8_lossy(&said).into_owned())
}

#[test]
fn every_link_of_every_page_leads_somewhere() {
    let Some(browser) = Browser::open() else { return };
    let folder = site();
    let root = folder.path("site");
    let mut pages = Vec::new();
    let mut work = vec![root.clone()];
    while let Some(at) = work.pop() {
        for entry in std::fs::read_dir(&at).expect("a folder").flatten() {
            let path = entry.path();
            match path.is_dir() {
                true => work.push(path),
                false => pages.extend(Some(path).filter(|path| path.extension().is_some_and(|e| e == "html"))),
            }
        }
    }
    assert!(pages.len() > 100, "{}", pages.len());
    pages.sort();
    let mut checked = 0;
    // The program looks at all of them when it writes them.
    for page in pages.into_iter().step_by(4) {
        browser.show(&page);
        // As the browser understands them, the links in pictures too.
        let links = browser.run(
            "const own = [...document.querySelectorAll('a[href], img[src], link[href], script[src]')].map((e) => e.getAttribute('href') ?? e.getAttribute('src'));
             return own.map((link) => new URL(link, document.baseURI)).map((url) => [decodeURIComponent(url.pathname), decodeURIComponent(url.hash.slice(1))])",
        );
        for link in links.as_array().expect("a list") {
            let (path, anchor) = (link[0].as_str().expect("a path"), link[1].as_str().expect("an anchor"));
            assert!(Path::new(path).is_file(), "{} leads to {path}", page.display());
            if !anchor.is_empty() {
                let target = std::fs::read_to_string(path).expect("a page");
                assert!(target.contains(&format!(" id=\"{anchor}\"")), "{} leads to {path}#{anchor}", page.display());
            }
            checked += 1;
        }
    }
    assert!(checked > 500, "{checked}");
}

#[test]
fn nothing_in_a_text_or_a_document_acts() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::new();
    let bad = [
        "<script>window.hit=1</script>",
        "</script><img src=x onerror='window.hit=2'>",
        "\u{1}picture\u{1}",
        "{{ 7 * 7 }}",
    ];
    let mut text = "architecture bad \"</title><script>window.hit=3</script>\"\n".to_owned();
    for (i, label) in bad.iter().enumerate() {
        text += &format!(
            "  service s{i} \"{label}\"\n    about \"{label}\"\n    link \"javascript:window.hit=4\"\n    owner \"{label}\"\n"
        );
    }
    folder.write("bad.bathy", &text);
    folder.write("bad.md", &format!("# {0}\n\n{0}\n\n[x](javascript:window.hit=5) <a href=\"javascript:window.hit=6\">y</a> ![z](x\" onerror=\"window.hit=7)\n", bad[1]));
    let done = Command::new(env!("CARGO_BIN_EXE_bathygram"))
        .args(["site"])
        .current_dir(folder.path("."))
        .output()
        .expect("it runs");
    let said = String::from_utf8_lossy(&done.stderr).into_owned();
    let mut shown = 0;
    for page in ["index.html", "diagrams/bad.html", "elements/bad/s0.html", "documents/bad.html", "elements.html"] {
        if !folder.path(&format!("site/{page}")).is_file() {
            continue;
        }
        shown += 1;
        show(&browser, &folder, page);
        browser.run("document.querySelectorAll('a, svg a').forEach((a) => { if (/^javascript/i.test(a.getAttribute('href'))) window.hit = 8; })");
        assert_eq!(browser.run("return window.hit ?? null"), json!(null), "{page}");
        assert_eq!(
            browser.run("return document.querySelectorAll('[onerror], [onload], [onclick]').length"),
            json!(0),
            "{page}"
        );
        let search = browser.wait_for(
            "const search = document.getElementById('search'); search.focus(); search.value = 'script'; search.dispatchEvent(new Event('input'));
             for (let i = 0; i < 80 && document.getElementById('results').hidden; i++) await new Promise((go) => setTimeout(go, 50));
             return [window.hit ?? null, document.querySelectorAll('#results script, #results img').length]",
        );
        assert_eq!(search, Value::from(vec![Value::Null, json!(0)]), "{page}");
    }
    assert_eq!(shown, 5, "{said}");
}

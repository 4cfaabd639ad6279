//! The preview as people meet it: what is typed is drawn, shapes and lines point at each other, what is dragged is written.

use crate::driver::{Browser, Scheme};
use crate::files::{Folder, axe};
use serde_json::{Value, json};
use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

/// A folder, and a preview of it.
struct Served {
    folder: Folder,
    program: Child,
    address: String,
}

impl Served {
    fn of(folder: Folder) -> Self {
        let mut program = Command::new(env!("CARGO_BIN_EXE_bathygram"))
            .arg("preview")
            .current_dir(folder.path(""))
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .expect("the program starts");
        let mut address = String::new();
        BufReader::new(program.stdout.take().expect("its answer")).read_line(&mut address).expect("an address");
        Self { folder, program, address: address.trim().to_owned() }
    }

    /// With some files.
    fn with(files: &[(&str, &str)]) -> Self {
        let folder = Folder::new();
        files.iter().for_each(|(name, text)| folder.write(name, text));
        Self::of(folder)
    }

    /// Opens a file in the page.
    fn show(&self, browser: &Browser, file: &str) {
        browser.visit("about:blank");
        browser.visit(&format!("{}#{file}", self.address));
        browser.until("return document.body.dataset.ready ?? ''", &json!("true"));
        browser.until("return document.querySelector('#sheet svg') !== null", &json!(true));
    }

    fn on_disk(&self, name: &str) -> String {
        std::fs::read_to_string(self.folder.path(name)).expect("a file")
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.program.kill();
        let _ = self.program.wait();
    }
}

/// The lines of the text that the page shows.
const TEXT: &str = "return [...document.querySelectorAll('.cm-line')].map((line) => line.textContent).join('\\n')";
/// What the picture has, by keys.
const ELEMENTS: &str =
    "return [...document.querySelectorAll('#sheet [data-element]')].map((e) => e.dataset.element).sort()";

fn text(browser: &Browser) -> String {
    browser.run(TEXT).as_str().expect("a text").to_owned()
}

/// Where the elements stand in the window, by keys, in px.
fn places(browser: &Browser) -> Value {
    browser.run(
        "return Object.fromEntries([...document.querySelectorAll('#sheet [data-element][role=button]')].map((e) => {
           const box = (e.querySelector('[data-role=frame]') ?? e).getBoundingClientRect();
           return [e.dataset.element, [Math.round(box.left + box.width / 2), Math.round(box.top + box.height / 2)]]; }))",
    )
}

fn place(places: &Value, key: &str) -> (i64, i64) {
    let at = |i: usize| places[key][i].as_i64().unwrap_or_else(|| panic!("{key} in {places}"));
    (at(0), at(1))
}

/// Waits until typing rests and the picture is as it will be kept.
fn rest() {
    std::thread::sleep(Duration::from_millis(900));
}

const SURGE: &str = "sequence surge \"A surge\"\n  buoy sends gateway \"level\"\n  gateway calls desk \"warn\"\n";
const MAP: &str = "architecture map \"A map\"\n  device buoy \"Tide buoy\"\n  service gateway \"Gateway\"\n  store readings \"Readings\"\n  \
                   service desk \"Desk\"\n  buoy sends gateway \"levels\"\n  gateway writes readings\n  gateway calls desk \"warns\"\n";

#[test]
fn what_is_typed_is_drawn_and_saved() {
    let Some(browser) = Browser::open() else { return };
    let served = Served::with(&[("surge.bathy", SURGE)]);
    served.show(&browser, "surge.bathy");
    browser.until(ELEMENTS, &json!(["activation 1", "buoy", "desk", "gateway"]));
    browser.click(".cm-line:nth-child(3)");
    browser.press(&["End", "Enter"]);
    browser.type_text("desk sends keeper \"call");
    browser.until("return document.querySelector('[data-element=keeper]') !== null", &json!(true));
    assert!(
        text(&browser).contains("\n  desk sends keeper \"call\"\n"),
        "indented, and the quote is closed:\n{}",
        text(&browser)
    );
    assert_eq!(browser.run("return document.getElementById('state').textContent"), json!("not saved"));
    assert_eq!(served.on_disk("surge.bathy"), SURGE, "nothing is written that nobody saved");
    browser.press_with("Control", "s");
    browser.until("return document.getElementById('state').textContent", &json!("saved"));
    assert!(served.on_disk("surge.bathy").contains("  desk sends keeper \"call\"\n"));
    let log: Vec<String> = browser.log().into_iter().filter(|line| !line.contains("autocomplete")).collect();
    assert!(log.is_empty(), "{log:?}");
    let foreign = "return performance.getEntriesByType('resource').map((e) => e.name).filter((name) => !name.startsWith(location.origin) && !name.startsWith('data:'))";
    assert_eq!(browser.run(foreign), json!([]), "nothing is asked of anybody else");
}

#[test]
fn five_lines_are_written_seen_and_exported_by_somebody_new() {
    let Some(browser) = Browser::open() else { return };
    let served = Served::with(&[]);
    browser.visit(&served.address);
    browser.until("return document.body.dataset.ready ?? ''", &json!("true"));
    assert!(
        browser
            .run("return document.querySelector('.cm-placeholder').textContent")
            .to_string()
            .contains("sequence first")
    );
    browser.type_text("sequence first \"A warning\"\nbuoy sends gateway \"level 4.2 m\"\ngateway calls desk \"raise\"\ndesk sends keeper \"call-out\"\nkeeper calls desk \"done\"");
    browser.until("return document.querySelectorAll('#sheet [data-relation]').length", &json!(4));
    browser.press_with("Control", "s");
    browser.until("return document.getElementById('state').textContent", &json!("saved"));
    assert_eq!(served.on_disk("first.bathy").lines().count(), 5);
    browser.click("#export");
    for form in ["svg", "png", "pdf", "html", "json", "graphml"] {
        browser.click(&format!("[data-form={form}]"));
        browser.until(
            "return document.getElementById('copied').textContent",
            &json!(format!("first.{form} is among your downloads.")),
        );
    }
    assert_eq!(browser.run("return document.getElementById('notice').hidden"), json!(true));
}

#[test]
fn shapes_and_lines_point_at_each_other() {
    let Some(browser) = Browser::open() else { return };
    let served = Served::with(&[(
        "plan.bathy",
        "classes plan\n  class Tide\n    level: Metres\n    time: Time\n  class Gauge\n  Gauge owns Tide \"measures\"\n",
    )]);
    served.show(&browser, "plan.bathy");
    rest();
    let pointed = "return [...document.querySelectorAll('.cm-line.pointed')].map((line) => line.textContent.trim())";
    browser.point_at("[data-element=Gauge] [data-role=frame]");
    browser.until(pointed, &json!(["class Gauge"]));
    browser.point_at("[data-relation] [data-role=label] text");
    browser.until(pointed, &json!(["Gauge owns Tide \"measures\""]));
    // A member has a line of its own.
    browser.point_at("[data-role=row][data-line='4'] text");
    browser.until(pointed, &json!(["time: Time"]));
    let at = "return [...document.querySelectorAll('#sheet .at')].map((e) => e.dataset.element ?? e.dataset.relation ?? e.textContent.trim())";
    browser.click(".cm-line:nth-child(3)");
    browser.until(at, &json!(["level: Metres"]));
    browser.click(".cm-line:nth-child(6)");
    browser.until("return document.querySelectorAll('#sheet [data-relation].at').length", &json!(1));
    // A shape that is chosen takes the caret to its line.
    browser.click("[data-element=Tide] > text");
    browser.until("return document.querySelector('.cm-activeLine').textContent.trim()", &json!("class Tide"));
    // Lines still find their shapes while the text above them grows.
    browser.click(".cm-line:nth-child(1)");
    browser.press(&["End", "Enter"]);
    rest();
    browser.point_at("[data-element=Gauge] [data-role=frame]");
    browser.until(pointed, &json!(["class Gauge"]));
}

#[test]
fn what_is_dragged_is_written_and_can_be_undone() {
    let Some(browser) = Browser::open() else { return };
    let served = Served::with(&[("map.bathy", MAP)]);
    served.show(&browser, "map.bathy");
    rest();
    let before = places(&browser);
    browser.drag("[data-element=desk] [data-role=frame]", (120, 56));
    browser.until(
        "return [...document.querySelectorAll('.cm-line')].some((line) => line.textContent.includes('pin desk'))",
        &json!(true),
    );
    rest();
    let after = places(&browser);
    let (a, b) = (place(&before, "desk"), place(&after, "desk"));
    assert!(
        (b.0 - a.0 - 120).abs() <= 8 && (b.1 - a.1 - 56).abs() <= 8,
        "dropped at {a:?} + (120, 56), stands at {b:?}"
    );
    for other in ["buoy", "gateway", "readings"] {
        let (a, b) = (place(&before, other), place(&after, other));
        assert!((a.0 - b.0).abs() <= 8 && (a.1 - b.1).abs() <= 8, "{other} moved from {a:?} to {b:?}");
    }
    assert!(
        browser.run("return document.getElementById('told').textContent").to_string().contains("Written: pin desk")
    );
    browser.press_with("Control", "z");
    browser.until(TEXT, &json!(MAP));
    // By keys alone.
    browser.run("document.querySelector('[data-element=buoy]').focus()");
    for _ in 0..4 {
        browser.press_with("Alt", "ArrowLeft");
    }
    browser.until(
        "return [...document.querySelectorAll('.cm-line')].some((line) => line.textContent.includes('pin buoy'))",
        &json!(true),
    );
}

#[test]
fn a_party_and_a_step_are_dragged() {
    let Some(browser) = Browser::open() else { return };
    let lanes = "flow f\n  lane keeper \"Keeper\"\n  lane office \"Office\"\n  in keeper\n    begin \"Begin\"\n    step note \"Note the level\"\n    finish \"End\"\n";
    let served = Served::with(&[("surge.bathy", SURGE), ("f.bathy", lanes)]);
    served.show(&browser, "surge.bathy");
    rest();
    let all = places(&browser);
    let far = place(&all, "desk").0 - place(&all, "buoy").0 + 60;
    browser.drag("[data-element=buoy] [data-role=frame]", (far, 0));
    browser
        .until(TEXT, &json!(format!("{SURGE}  place buoy right of desk\n").trim_end_matches('\n').to_owned() + "\n"));
    browser.until(
        "const x = (key) => document.querySelector(`[data-element=${key}]`).getBoundingClientRect().left; return x('buoy') > x('desk')",
        &json!(true),
    );
    served.show(&browser, "f.bathy");
    rest();
    let all = places(&browser);
    let far = place(&all, "office").0 - place(&all, "note").0;
    browser.drag("[data-element=note] [data-role=frame]", (far, 0));
    browser.until("return [...document.querySelectorAll('.cm-line')].some((line) => line.textContent === '    step note \"Note the level\" in office')", &json!(true));
    browser.until("return document.querySelector('[data-element=note]').dataset.lane", &json!("office"));
}

#[test]
fn what_somebody_else_writes_is_followed_and_never_overwritten() {
    let Some(browser) = Browser::open() else { return };
    let served = Served::with(&[("surge.bathy", SURGE)]);
    served.show(&browser, "surge.bathy");
    let theirs = SURGE.replace("\"warn\"", "\"theirs\"");
    served.folder.write("surge.bathy", &theirs);
    browser.until(TEXT, &json!(theirs));
    // With changes of one's own, both are shown.
    browser.click(".cm-line:nth-child(3)");
    browser.press(&["End", "Enter"]);
    browser.type_text("desk sends mine");
    let newer = SURGE.replace("\"warn\"", "\"newer\"");
    served.folder.write("surge.bathy", &newer);
    browser.until(
        "return document.getElementById('notice').textContent.includes('changed by somebody else')",
        &json!(true),
    );
    browser.press_with("Control", "s");
    std::thread::sleep(Duration::from_millis(300));
    assert_eq!(served.on_disk("surge.bathy"), newer, "nothing is overwritten");
    assert!(text(&browser).contains("desk sends mine"));
    browser
        .run("[...document.querySelectorAll('#notice button')].find((b) => b.textContent === 'Show theirs').click()");
    browser.until(TEXT, &json!(newer));
    browser
        .run("[...document.querySelectorAll('#notice button')].find((b) => b.textContent === 'Back to mine').click()");
    browser.until("return [...document.querySelectorAll('.cm-line')].some((line) => line.textContent.includes('desk sends mine'))", &json!(true));
    browser.press_with("Control", "s");
    browser.until("return document.getElementById('state').textContent", &json!("saved"));
    assert!(served.on_disk("surge.bathy").contains("desk sends mine"));
}

#[test]
fn two_pages_see_the_same_file() {
    let (Some(first), Some(second)) = (Browser::open(), Browser::open()) else { return };
    let served = Served::with(&[("surge.bathy", SURGE)]);
    served.show(&first, "surge.bathy");
    served.show(&second, "surge.bathy");
    first.click(".cm-line:nth-child(3)");
    first.press(&["End", "Enter"]);
    first.type_text("desk sends keeper");
    first.press_with("Control", "s");
    second.until("return document.querySelector('[data-element=keeper]') !== null", &json!(true));
    assert_eq!(text(&first), text(&second));
}

#[test]
fn errors_are_listed_with_their_corrections_and_the_picture_stays() {
    let Some(browser) = Browser::open() else { return };
    let served = Served::with(&[("map.bathy", MAP)]);
    served.show(&browser, "map.bathy");
    rest();
    browser.click(".cm-line:nth-child(8)");
    browser.press(&["End", "Enter"]);
    browser.type_text("gatway uses desk");
    browser.until(
        "return document.querySelector('#findings .error .go')?.textContent.includes('gatway') ?? false",
        &json!(true),
    );
    browser.until("return document.querySelectorAll('.cm-lintRange-error').length > 0", &json!(true));
    // What the error is not about is still there.
    browser.until("return document.querySelectorAll('#sheet [data-relation]').length", &json!(3));
    browser.click("#findings .fix");
    browser.until("return document.querySelectorAll('#sheet [data-relation]').length", &json!(4));
    assert!(text(&browser).contains("  gateway uses desk"), "{}", text(&browser));
    // The first line is broken: the picture of before stays, and says so.
    browser.click(".cm-line:nth-child(1)");
    browser.press(&["Home"]);
    browser.type_text("x");
    browser.until("return document.getElementById('held').hidden", &json!(false));
    assert_eq!(browser.run("return document.querySelectorAll('#sheet [data-relation]').length"), json!(4));
}

#[test]
fn a_sequence_is_presented_by_keys() {
    let Some(browser) = Browser::open() else { return };
    let served = Served::with(&[("surge.bathy", SURGE), ("map.bathy", MAP)]);
    served.show(&browser, "surge.bathy");
    browser.press_with("Control", "Enter");
    browser.until("return document.body.classList.contains('presenting')", &json!(true));
    assert_eq!(browser.run("return getComputedStyle(document.getElementById('writing')).display"), json!("none"));
    let now = "return [...document.querySelectorAll('#sheet .now [data-role=label]')].map((e) => e.textContent.trim())";
    browser.press(&["ArrowRight"]);
    browser.until(now, &json!(["level"]));
    browser.press(&["ArrowRight"]);
    browser.until(now, &json!(["warn"]));
    browser.press(&["ArrowLeft"]);
    browser.until(now, &json!(["level"]));
    browser.press(&["Escape"]);
    browser.until("return document.body.classList.contains('presenting')", &json!(false));
    assert_eq!(browser.run("return document.body.classList.contains('stepping')"), json!(false));
}

#[test]
fn the_last_commit_is_compared() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::new();
    folder.write("surge.bathy", SURGE);
    let git = |arguments: &[&str]| {
        let identity = ["-c", "user.name=Keeper", "-c", "user.email=keeper@tidewatch.example"];
        let done = Command::new("git").args(identity).args(arguments).current_dir(folder.path("")).output();
        assert!(done.expect("git").status.success(), "{arguments:?}");
    };
    git(&["init", "-q"]);
    git(&["add", "-A"]);
    git(&["commit", "-q", "-m", "first"]);
    let served = Served::of(folder);
    served.show(&browser, "surge.bathy");
    browser.click(".cm-line:nth-child(3)");
    browser.press(&["End", "Enter"]);
    browser.type_text("desk sends keeper");
    rest();
    browser.click("#compare");
    browser.until(
        "return [...document.querySelectorAll('#says li')].map((li) => li.textContent)[0]?.includes('keeper') ?? false",
        &json!(true),
    );
    browser.click("[data-side=before]");
    browser.until("return document.querySelector('[data-element=keeper]') === null", &json!(true));
    browser.click("[data-side=after]");
    browser.until("return document.querySelector('[data-element=keeper]') !== null", &json!(true));
    browser.click("#compare");
    browser.until("return document.getElementById('says').hidden", &json!(true));
}

#[test]
fn a_narrow_window_shows_both() {
    let Some(browser) = Browser::open() else { return };
    let served = Served::with(&[("map.bathy", MAP)]);
    for (width, height) in [(400, 800), (4000, 1400)] {
        browser.resize(width, height);
        served.show(&browser, "map.bathy");
        rest();
        let found = browser.run(
            "const box = (id) => document.getElementById(id).getBoundingClientRect();
             const wide = [...document.querySelectorAll('button, select, #sheet svg')].filter((e) => e.offsetParent !== null && e.getBoundingClientRect().right > innerWidth + 1);
             const svg = document.querySelector('#sheet svg').getBoundingClientRect();
             return [document.documentElement.scrollWidth <= innerWidth, wide.length, box('editor').height > 150, box('field').height > 150, svg.width > 100]",
        );
        assert_eq!(found, json!([true, 0, true, true, true]), "{width} px wide");
    }
}

#[test]
fn axe_finds_nothing_in_the_preview() {
    let Some(browser) = Browser::open() else { return };
    let Some(axe) = axe() else { return };
    let served = Served::of(Folder::demo());
    let ask = |what: &str| {
        let found = browser.wait_for(&format!(
            "{axe}; const found = await axe.run(); return found.violations.map((v) => v.id + ': ' + v.nodes[0].html.slice(0, 200));"
        ));
        assert_eq!(found, json!([]), "{what}");
    };
    for file in ["surge_warning.bathy", "architecture.bathy", "domain.bathy"] {
        served.show(&browser, file);
        rest();
        ask(file);
    }
    browser.click(".cm-line:nth-child(2)");
    browser.press(&["End"]);
    browser.type_text(" nonsense");
    browser.until("return document.getElementById('findings').hidden", &json!(false));
    ask("with an error");
    for dialog in ["pick", "export", "help"] {
        browser.click(&format!("#{dialog}"));
        std::thread::sleep(Duration::from_millis(300));
        ask(dialog);
        browser.press(&["Escape"]);
    }
}

#[test]
fn hostile_texts_do_nothing() {
    let Some(browser) = Browser::open() else { return };
    let hostile = "\\\"><script>window.bad = 1</script><img src=x onerror='window.bad = 1'>";
    let text = format!(
        "sequence surge \"{hostile}\"\n  a sends b \"{hostile}\"\n  remark on a \"</svg><script>window.bad = 1</script>\"\n"
    );
    let served =
        Served::with(&[("surge.bathy", &text), ("<img src=x onerror=bad>.bathy", "sequence odd\n  a sends b\n")]);
    served.show(&browser, "surge.bathy");
    rest();
    browser.point_at("#sheet [data-relation] text");
    browser.click("#pick");
    std::thread::sleep(Duration::from_millis(300));
    browser.press(&["Escape"]);
    browser.click("#compare");
    std::thread::sleep(Duration::from_millis(300));
    assert_eq!(browser.run("return window.bad ?? null"), Value::Null);
    assert_eq!(
        browser.run("return document.querySelectorAll('#sheet script, #sheet img, header img').length"),
        json!(0)
    );
}

#[test]
fn insides_are_opened_whether_a_sheet_shows_them_or_not() {
    let Some(browser) = Browser::open() else { return };
    let map = "architecture map\n  actor keeper\n  system core \"Core\"\n    service gate \"Gateway\"\n      part limiter\n    store data\n  keeper uses core\n\n\
               sheet around of map \"Around\"\n  depth 1\n";
    let served = Served::with(&[("map.bathy", map)]);
    served.show(&browser, "map.bathy/around");
    rest();
    let elements =
        "return [...document.querySelectorAll('#sheet [data-element]')].map((e) => e.dataset.element).sort()";
    assert_eq!(browser.run(elements), json!(["core", "keeper"]));
    let open = |key: &str| {
        browser.run(&format!(
            "document.querySelector('[data-element=\"{key}\"]').dispatchEvent(new MouseEvent('dblclick', {{bubbles: true}}))"
        ))
    };
    open("core");
    browser.until("return document.querySelector('[data-element=\"core.gate\"]') !== null", &json!(true));
    assert_eq!(browser.run("return document.getElementById('picture').value"), json!("map/core"));
    open("core.gate");
    browser.until("return document.querySelector('[data-element=\"core.gate.limiter\"]') !== null", &json!(true));
    browser.click("#back");
    browser.click("#back");
    browser.until("return document.getElementById('picture').value", &json!("around"));
}

/// Killed at any moment, the program leaves each file whole.
#[test]
fn a_killed_server_tears_no_file() {
    let texts: Vec<String> =
        (0..2).map(|i| format!("sequence s{i}\n{}", format!("  a sends b \"{i}\"\n").repeat(20_000))).collect();
    let agent: ureq::Agent = ureq::Agent::config_builder().http_status_as_error(false).build().into();
    for round in 0..12_u64 {
        let served = Served::with(&[("surge.bathy", &texts[0])]);
        let (address, wanted) = (served.address.clone(), texts.clone());
        let agent = agent.clone();
        let saver = std::thread::spawn(move || {
            let ask = |name: &str, body: &Value| -> Option<Value> {
                agent.post(format!("{address}{name}")).send_json(body).ok()?.body_mut().read_json().ok()
            };
            let mut base =
                ask("text", &json!({"file": "surge.bathy"})).map_or(Value::Null, |text| text["base"].clone());
            for i in 1.. {
                let Some(saved) = ask("save", &json!({"file": "surge.bathy", "text": wanted[i % 2], "base": base}))
                else {
                    return i;
                };
                base = saved["saved"].clone();
            }
            0
        });
        let start = Instant::now();
        std::thread::sleep(Duration::from_millis(40 + 23 * round));
        drop_program(served, &texts, start);
        let saved = saver.join().expect("ended");
        assert!(saved > 0, "it was killed while it saved");
    }
}

fn drop_program(mut served: Served, texts: &[String], start: Instant) {
    let _ = served.program.kill();
    let _ = served.program.wait();
    let found = served.on_disk("surge.bathy");
    assert!(texts.contains(&found), "torn after {:?}: {} bytes", start.elapsed(), found.len());
}

/// What the documentation shows of the page; written where `SHOTS` names a folder.
#[test]
fn the_page_in_light_and_dark_with_an_error_and_while_presenting() {
    let served = Served::of(Folder::demo());
    let shot = |browser: &Browser, name: &str| {
        let png = browser.picture();
        assert!(png.starts_with(b"\x89PNG") && png.len() > 20_000, "{name}: {} bytes", png.len());
        if let Ok(folder) = std::env::var("SHOTS") {
            std::fs::write(std::path::Path::new(&folder).join(format!("{name}.png")), png).expect("written");
        }
    };
    let Some(browser) = Browser::open() else { return };
    browser.resize(1280, 939);
    served.show(&browser, "recalibrate.bathy");
    rest();
    browser.point_at("[data-element=adjust] [data-role=frame]");
    std::thread::sleep(Duration::from_millis(300));
    shot(&browser, "preview");
    served.show(&browser, "storm_drill.bathy");
    rest();
    browser.press_with("Control", "Enter");
    browser.until("return document.fullscreenElement !== null", &json!(true));
    browser.resize(1280, 800);
    (0..6).for_each(|_| browser.press(&["ArrowRight"]));
    std::thread::sleep(Duration::from_millis(300));
    shot(&browser, "presenting");
    drop(browser);
    let Some(browser) = Browser::open_in(Scheme::Dark) else { return };
    browser.resize(1280, 939);
    served.show(&browser, "storm_drill.bathy");
    rest();
    browser.run(
        "const select = document.getElementById('theme'); select.value = 'abyss'; select.dispatchEvent(new Event('change'))",
    );
    browser.click(".cm-line:nth-child(4)");
    browser.press(&["End", "Enter"]);
    browser.type_text("gatway calls desk \"is anybody there?");
    browser.point_at("#scale");
    browser.until("return document.getElementById('findings').hidden", &json!(false));
    rest();
    shot(&browser, "preview_dark");
}

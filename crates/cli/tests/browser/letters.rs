//! Letters of many scripts: what is measured is what a browser draws, and nothing leaves its box.

use crate::driver::Browser;
use crate::files::{Folder, repository, skipped};

/// Words that the shipped fonts have, and words that they lack.
const SHIPPED: &[&str] = &[
    "AV To Wave",
    "Type P. L'Art",
    "Yfjord WATT",
    "Größe über Öl",
    "Łódź źdźbło",
    "Ærø Åre søster",
    "piñata ¿qué?",
    "çà et là, œuvre",
    "Señal №4 ±0.5",
    "háček ěščřž",
    "İğne şöyle",
    "Nîmes Ünnep ő",
    "Κύμα της θάλασσας",
    "Παλίρροια ΑΩ",
    "Ώρα ένδειξης",
    "Прилив и отлив",
    "Уровень воды ЖЩЫ",
    "Ґанок їжа",
    "Ђурђевак љуљашка",
    "4,711.50 €",
    "a → b ≤ 3 × 4",
    "«first» „second“ – third",
    "100 % … 37 °C",
    "ffi fl fj Tfi",
    "(level) [m] {x}",
    "1/2 a_b-c.d:e",
    "WWW iii MMM lll",
    "rn m cl d",
    "AVAVAVAV TeTeTe",
    "+49 (0)4711-815",
];
const LACKING: &[&str] = &[
    "潮汐观测站",
    "潮位を読む",
    "調査・記録",
    "読み取り",
    "조석 관측소",
    "수위 기록",
    "محطة المد",
    "يرسل القراءات",
    "تنبيه 4",
    "תחנת גאות",
    "שולח 12",
    "קריאה",
    "สถานีวัด",
    "ระดับน้ำ",
    "ज्वार केंद्र",
    "जल स्तर",
    "🌊 wave",
    "alert 🔔",
    "👩‍🚀 👍🏽",
    "⚓ 🚢",
];

/// Whether this machine has a font for each of the scripts that the shipped fonts lack: without one, a browser draws a box for
/// every letter and mark, and nothing is measured.
fn has_fonts() -> bool {
    let has = |letter: &str| {
        let listed = std::process::Command::new("fc-list").arg(format!(":charset={letter}")).output();
        listed.is_ok_and(|listed| !listed.stdout.is_empty())
    };
    ["6f6e", "3080", "c870", "645", "5ea", "e2a", "91c", "1f30a"].iter().all(|letter| has(letter))
}

/// Two hundred strings.
fn strings() -> Vec<String> {
    let all: Vec<&str> = SHIPPED.iter().chain(LACKING).copied().collect();
    let own = all.iter().map(|s| (*s).to_owned());
    let pairs = (0..3).flat_map(|k| (0..all.len()).map(move |i| (i, (i * (2 * k + 3) + 7 * k + 1) % 50)));
    own.chain(pairs.map(|(i, j)| format!("{} {}", all[i], all[j]))).collect()
}

#[test]
fn two_hundred_strings_are_as_wide_as_measured_and_stay_in_their_boxes() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::new();
    let mut strings = strings();
    assert_eq!(strings.len(), 200);
    let has_fonts = has_fonts();
    if !has_fonts {
        skipped("fonts for all scripts are not here: only letters of the shipped fonts are measured");
        strings.retain(|string| !LACKING.iter().any(|lacking| string.contains(lacking)));
    }
    let mut text = "architecture letters\n".to_owned();
    for (i, string) in strings.iter().enumerate() {
        text += &format!("  service s{i} \"{string}\"\n");
    }
    folder.write("letters.bathy", &text);
    folder.run(&["-q", "render", "letters.bathy", "--out", "."]);
    browser.show(&folder.path("letters.svg"));
    let found = browser.wait_for(
        "await document.fonts.ready;
         const wrong = []; let measured = 0;
         for (const text of document.querySelectorAll('text')) {
           const said = Number(text.getAttribute('textLength'));
           if (said) {
             text.removeAttribute('textLength');
             const drawn = text.getComputedTextLength();
             measured += 1;
             if (Math.abs(drawn - said) > Math.max(1, said / 100)) wrong.push([text.textContent, said, drawn]);
           }
           const frame = text.closest('[data-element]').querySelector('[data-role=frame]').getBBox();
           const box = text.getBBox();
           if (box.x < frame.x || box.x + box.width > frame.x + frame.width) wrong.push([text.textContent, frame.width, box.width]);
         }
         return [measured, wrong];",
    );
    let least = if has_fonts { 100 } else { strings.len() as u64 - 1 };
    assert!(found[0].as_u64().expect("a number") > least, "{found}");
    assert_eq!(found[1].as_array().expect("a list").len(), 0, "{:#}", found[1]);
}

#[test]
fn without_the_embedded_fonts_no_text_leaves_its_box() {
    let Some(browser) = Browser::open() else { return };
    let folder = Folder::new();
    for entry in std::fs::read_dir(repository("demo/tidewatch/pictures")).expect("pictures").flatten() {
        let name = entry.file_name().to_string_lossy().into_owned();
        let svg = std::fs::read_to_string(entry.path()).expect("a picture");
        // As wide a font as viewers have.
        let stripped =
            svg.replace("font/woff2;base64,", "font/woff2;base64,x").replace("'Fira Sans', Arial", "'DejaVu Sans'");
        assert_ne!(svg, stripped, "{name}");
        folder.write(&name, &stripped);
        browser.show(&folder.path(&name));
        let wrong = browser.wait_for(
            "await document.fonts.ready;
             const wrong = [];
             for (const text of document.querySelectorAll('[data-element] text')) {
               const frame = text.closest('[data-element]').querySelector('[data-role=frame]').getBBox();
               const box = text.getBBox();
               if (box.x < frame.x - 1 || box.x + box.width > frame.x + frame.width + 1) wrong.push(text.textContent);
             }
             return wrong;",
        );
        assert_eq!(wrong.as_array().expect("a list").len(), 0, "{name}: {wrong}");
    }
}

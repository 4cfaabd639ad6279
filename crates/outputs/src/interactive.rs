//! A page that shows a picture to walk through: one file, with everything it needs. It asks nothing of any server, and its
//! policy forbids whatever the program did not write into it.

use crate::Sheet;
use crate::html::escaped;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use bathygram_core::container::{self, Provenance};
use bathygram_core::language::Language;
use bathygram_core::pipeline::Studio;
use bathygram_core::scene::Drawing;
use bathygram_core::svg::{self, Place};
use bathygram_core::theme::{Ground, Paint, Palette, Theme};
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;
use std::fmt::Write;

/// How it looks.
const STYLE: &str = include_str!("../page/page.css");
/// What all pages share whose drawings can be pointed at.
pub const PARTS: &str = include_str!("../page/parts.css");
/// What it does: the same in a page of its own, and in one of a site.
pub const SCRIPT: &str = include_str!("../page/page.js");
/// Pan and zoom: `@panzoom/panzoom` from npm, as it is published there, with its licence in its first lines.
pub const PAN_AND_ZOOM: &str = include_str!("../page/panzoom.min.js");

/// Writes a page with pictures: the first is shown, the others are reached from it.
pub fn write(sheets: &[Sheet<'_>], studio: &Studio, provenance: &Provenance<'_>) -> String {
    let drawings: Vec<&Drawing> = sheets.iter().map(|sheet| sheet.drawing).collect();
    let style = format!("{}{PARTS}{STYLE}{}", colours(studio), svg::style_sheet(&drawings, studio));
    let script = format!("{PAN_AND_ZOOM}\n{SCRIPT}");
    let language = &studio.language;
    let words = words(language);
    let title = sheets.first().map_or(String::new(), |sheet| escaped(sheet.title()));
    let policy = format!(
        "default-src 'none'; style-src '{}'; script-src '{}' '{}'; font-src data:; img-src data:; base-uri 'none'; form-action 'none'",
        hash(&style),
        hash(&script),
        hash(&words)
    );
    let mut out = format!(
        "<!DOCTYPE html>\n<html lang=\"{}\">\n<head>\n<meta charset=\"utf-8\">\n\
         <meta http-equiv=\"Content-Security-Policy\" content=\"{policy}\">\n\
         <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>{title}</title>\n\
         <style>{style}</style>\n</head>\n<body>\n{}<main>\n",
        escaped(language.tag()),
        header(&title, language)
    );
    for (i, sheet) in sheets.iter().enumerate() {
        let place = Place::Page((i == 0).then_some(provenance));
        let scene = &sheet.drawing.scene;
        let _ = write!(
            out,
            "<section class=\"sheet\" id=\"{name}\" data-name=\"{name}\" data-title=\"{}\" aria-label=\"{}\">\n\
             <div class=\"field\">\n{}</div>\n<details><summary>{}</summary><p>{}</p></details>\n</section>\n",
            escaped(sheet.title()),
            escaped(sheet.title()),
            svg::write(sheet.drawing, studio, place),
            escaped(language.say("page", "words")),
            escaped(&scene.desc),
            name = escaped(sheet.name),
        );
    }
    let _ = write!(
        out,
        "<aside id=\"facts\" aria-label=\"{}\" hidden></aside>\n</main>\n\
         <script id=\"words\" type=\"application/json\">{words}</script>\n<script>{script}</script>\n</body>\n</html>\n",
        escaped(language.say("page", "chosen"))
    );
    container::sealed(out)
}

/// What stands above the picture. Without scripts, nothing there can do anything, and is hidden.
fn header(title: &str, language: &Language) -> String {
    let say = |key: &'static str| escaped(language.say("page", key));
    let [find, steps, back, next, all] = ["find", "steps", "back", "next", "all"].map(say);
    let [zoom, smaller, larger, fit] = ["zoom", "smaller", "larger", "fit"].map(say);
    format!(
        "<header>\n<h1 id=\"title\"><span>{title}</span></h1>\n\
         <div class=\"tools\" hidden><label class=\"hint\" for=\"find\">{find}</label>\
         <input id=\"find\" type=\"search\" placeholder=\"{find}\" autocomplete=\"off\" spellcheck=\"false\"></div>\n\
         <div class=\"tools\" id=\"steps\" role=\"group\" aria-label=\"{steps}\" hidden>\
         <button id=\"earlier\" aria-label=\"{back}\">\u{2039}</button><output id=\"step\"></output>\
         <button id=\"later\" aria-label=\"{next}\">\u{203a}</button><button id=\"whole\">{all}</button></div>\n\
         <div class=\"tools\" role=\"group\" aria-label=\"{zoom}\" hidden>\
         <button id=\"smaller\" aria-label=\"{smaller}\">\u{2212}</button><output id=\"scale\"></output>\
         <button id=\"larger\" aria-label=\"{larger}\">+</button><button id=\"fit\">{fit}</button></div>\n\
         <div id=\"said\" class=\"hint\" role=\"status\"></div>\n</header>\n"
    )
}

/// The words that the script says, as JSON; `<` is written otherwise, so that nothing ends the script.
fn words(language: &Language) -> String {
    let words = ["relation", "inside", "nothing"].map(|key| (key, language.say("page", key)));
    let words: BTreeMap<&str, &str> = words.into_iter().collect();
    serde_json::to_string(&words).unwrap_or_default().replace('<', "\\u003c")
}

/// The colours of a page as a style sheet: those of the theme, or of two.
pub fn colours(studio: &Studio) -> String {
    let rules = |theme: &Theme| {
        let palette = Palette::new(theme, Ground::Paper);
        let colour = |paint: Paint| palette.colour(paint).hex();
        format!(
            "--paper:{};--ink:{};--quiet:{};--edge:{};--accent:{}",
            theme.paper.hex(),
            colour(Paint::INK),
            colour(Paint::Quiet),
            colour(Paint::Guide),
            colour(Paint::Accent)
        )
    };
    let main = format!(":root{{{}}}\n", rules(&studio.themes.main));
    let dark = studio.themes.dark.as_ref();
    main + &dark.map_or(String::new(), |dark| {
        format!("@media (prefers-color-scheme: dark){{:root{{color-scheme:dark;{}}}}}\n", rules(dark))
    })
}

/// How a policy names a script or a style that it allows.
pub fn hash(text: &str) -> String {
    format!("sha256-{}", STANDARD.encode(Sha256::digest(text.as_bytes())))
}

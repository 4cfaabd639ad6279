//! Drawing what is being typed: at once, near where the picture has everything; and as `render` does, once typing rests.

use crate::depths;
use crate::files::{self, ListedPicture};
use crate::positions::Positions;
use crate::shared::Shared;
use bathygram_core::check::is_error;
use bathygram_core::container;
use bathygram_core::diag::Diagnostic;
use bathygram_core::ide::{self, TokenClass};
use bathygram_core::layout::Share;
use bathygram_core::pipeline::{self, DrawOptions, Picture, Reading};
use bathygram_core::scene::{Drawing, Places};
use bathygram_core::source::TextEdit;
use bathygram_core::svg::{self, Place};
use bathygram_host::{Format, Project, picture_file};
use serde::{Deserialize, Serialize};

/// A text to be drawn.
#[derive(Deserialize)]
pub(crate) struct Asked {
    /// The page that asks.
    page: String,
    /// The number of the text in that page; a larger one is newer.
    number: u64,
    file: String,
    text: String,
    /// The picture; without one, that in whose lines the caret is, or the first.
    picture: Option<String>,
    /// Where the caret is.
    caret: usize,
    theme: Option<String>,
    /// Whether typing rests.
    rest: bool,
    /// The part of the text that is seen.
    seen: (usize, usize),
}

/// A text that was drawn.
#[derive(Serialize)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Answer {
    /// A newer text came meanwhile.
    Old,
    /// What is in it.
    Drawn(Box<Drawn>),
}

#[derive(Serialize)]
pub(crate) struct Drawn {
    findings: Vec<Finding>,
    errors: usize,
    pictures: Vec<ListedPicture>,
    /// The picture that is drawn.
    picture: Option<String>,
    svg: Option<String>,
    /// Its fonts and colours, once typing rests.
    style: Option<String>,
    /// How many elements and relations it has.
    count: usize,
    words: Option<String>,
    /// Words of the text that is seen: where they begin and end, and what they are.
    tokens: Vec<(usize, usize, &'static str)>,
    /// Lines that can be folded.
    folds: Vec<(u32, u32)>,
}

/// A finding, in units of the browser.
#[derive(Serialize)]
struct Finding {
    from: usize,
    to: usize,
    severity: &'static str,
    message: String,
    help: Option<String>,
    rule: &'static str,
    /// The file in which it stands, if that is another one.
    file: Option<String>,
    line: u32,
    fixes: Vec<Fix>,
}

#[derive(Serialize)]
struct Fix {
    title: String,
    edits: Vec<Edit>,
}

/// A piece of text that is replaced, in units of the browser.
#[derive(Debug, Serialize)]
pub(crate) struct Edit {
    from: usize,
    to: usize,
    insert: String,
}

/// Edits of the text itself, in units of the browser.
pub(crate) fn edits(edits: &[TextEdit], positions: &Positions<'_>) -> Vec<Edit> {
    let own = edits.iter().filter(|edit| edit.span.source.is_root());
    let edit = |edit: &TextEdit| Edit {
        from: positions.unit(edit.span.start as usize),
        to: positions.unit(edit.span.end as usize),
        insert: edit.text.clone(),
    };
    own.map(edit).collect()
}

/// Draws a text.
///
/// # Errors
/// If there is no such theme.
pub(crate) fn draw(shared: &Shared, asked: &Asked) -> Result<Answer, String> {
    let page = shared.pages.page(&asked.page);
    if !page.begin(asked.number) {
        return Ok(Answer::Old);
    }
    let stop = || page.is_old(asked.number);
    let set = shared.set(asked.theme.as_deref())?;
    let project = &set.project;
    let Some(mut reading) = shared.read_unless(project, &asked.file, asked.text.clone(), &stop) else {
        return Ok(Answer::Old);
    };
    let positions = Positions::new(&asked.text);
    let own = || chosen(&reading, asked.picture.as_deref(), positions.byte(asked.caret)).map(|p| p.name.to_owned());
    let is_inside = |name: &&String| depths::with_picture(&reading, name, |_| ()).is_some();
    let name = asked.picture.as_ref().filter(is_inside).cloned().or_else(own);
    let drawing = name.as_deref().and_then(|name| {
        depths::with_picture(&reading, name, |picture| {
            let what = format!("{}\n{name}\n{}", asked.file, asked.theme.as_deref().unwrap_or_default());
            let seen = page.places(&what);
            let earlier = if asked.rest { earlier(project, name) } else { None };
            let options = DrawOptions {
                earlier: if asked.rest { earlier.as_ref() } else { seen.as_deref() },
                share: if asked.rest { picture.share() } else { Share::Moment },
                stop: Some(&stop),
                ..DrawOptions::default()
            };
            let mut drawing = pipeline::draw(&set.studio, &reading, &picture.view(), &options);
            depths::lead_inside(&reading, &picture, &mut drawing);
            if !stop() {
                page.show(what, drawing.places.clone());
            }
            drawing
        })
    });
    if stop() {
        return Ok(Answer::Old);
    }
    if let Some(drawing) = drawing.as_ref().filter(|_| asked.rest) {
        let unmet = pipeline::weigh_unmet(&reading, &drawing.unmet);
        reading.add_findings(unmet);
    }
    let seen = positions.byte(asked.seen.0)..positions.byte(asked.seen.1);
    let tokens = ide::word_classes(&reading).into_iter();
    let tokens = tokens.filter(|word| word.span.end as usize >= seen.start && (word.span.start as usize) < seen.end);
    let drawn = Drawn {
        findings: reading.diagnostics.iter().map(|found| finding(&reading, found, &positions)).collect(),
        errors: reading.diagnostics.iter().filter(|d| is_error(d)).count(),
        pictures: files::pictures(&reading),
        picture: name,
        svg: drawing.as_ref().map(|drawing| svg::write(drawing, &set.studio, Place::Page(None))),
        style: drawing.as_ref().filter(|_| asked.rest).map(|drawing| svg::style_sheet(&[drawing], &set.studio)),
        count: drawing.as_ref().map_or(0, count),
        words: drawing.as_ref().map(|drawing| drawing.scene.desc.clone()),
        tokens: tokens
            .map(|word| {
                let [from, to] = [word.span.start, word.span.end].map(|byte| positions.unit(byte as usize));
                (from, to, class(word.class))
            })
            .collect(),
        folds: ide::folds(&reading).into_iter().map(|fold| (fold.first, fold.last)).collect(),
    };
    Ok(Answer::Drawn(Box::new(drawn)))
}

/// The picture that is meant: by its name, by the caret, or the first.
pub(crate) fn chosen<'r>(reading: &'r Reading, name: Option<&str>, caret: usize) -> Option<Picture<'r>> {
    let named = name.and_then(|name| reading.pictures().find(|picture| picture.name == name));
    let own = || reading.pictures().filter(|p| p.span.start as usize <= caret).max_by_key(|p| p.span.start);
    named.or_else(own).or_else(|| reading.pictures().next())
}

/// Where the picture on disk has its elements, in a project that keeps them.
pub(crate) fn earlier(project: &Project, name: &str) -> Option<Places> {
    if !project.config.keep {
        return None;
    }
    let file = picture_file(&project.pictures(), name, Format::Svg).ok()?;
    let svg = bathygram_host::read_text(&file, bathygram_host::MAX_PICTURE).ok()?;
    container::read_places(&svg).map(|text| Places::from_text(&text))
}

fn count(drawing: &Drawing) -> usize {
    use bathygram_core::scene::{Item, Tag};
    let is_part = |item: &&Item| matches!(item, Item::Group(Tag::Element { .. } | Tag::Relation { .. }, _));
    drawing.scene.items.iter().filter(is_part).count()
}

fn finding(reading: &Reading, found: &Diagnostic, positions: &Positions<'_>) -> Finding {
    let sources = reading.sources();
    let words = found.words(&sources);
    let is_own = found.span.source.is_root();
    let [from, to] = match is_own {
        true => [found.span.start, found.span.end].map(|byte| positions.unit(byte as usize)),
        false => [0, 0],
    };
    let fix = |fix: &bathygram_core::diag::Fix| Fix { title: fix.title.clone(), edits: edits(&fix.edits, positions) };
    Finding {
        from,
        to,
        severity: found.severity.word(),
        message: words.sentence,
        help: words.help,
        rule: found.code,
        file: sources.other_file(found.span).map(str::to_owned),
        line: sources.line(found.span),
        fixes: found.fixes.iter().map(fix).collect(),
    }
}

/// The word by which the page knows a class of words.
fn class(class: TokenClass) -> &'static str {
    match class {
        TokenClass::Keyword => "keyword",
        TokenClass::Kind => "kind",
        TokenClass::Verb => "verb",
        TokenClass::Property => "property",
        TokenClass::Block => "block",
        TokenClass::Element => "element",
        TokenClass::Text => "text",
        TokenClass::Number => "number",
        TokenClass::Comment => "comment",
    }
}

//! `themes`: the themes that there are, in the terminal, as text and as a picture.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::container::{Packed, Provenance};
use bathygram_core::geom::Size;
use bathygram_core::pipeline::{self, DrawOptions, Studio};
use bathygram_core::scene::{Drawing, Item, Places, Scene, Tag};
use bathygram_core::source::world::Alone;
use bathygram_core::theme::{self, Ground, Theme, Themes};
use bathygram_host::{Project, theme_schema};
use serde::Serialize;
use std::fmt::Write;
use std::path::PathBuf;

/// What the sheet of a theme shows.
const SHEET: &str = include_str!("themes.bathy");
/// Room around and between the pictures of a sheet, and how wide their rows are; px.
const GAP: f64 = 36.0;
const ROW: f64 = 1480.0;

/// List the themes, or show one of them as text or as a picture
///
/// A project names its theme in bathygram.toml: `theme = "abyss"`, a file of its own as `theme = "looks/harbour.toml"`, or
/// two as `theme = "shoal+abyss"`: then one SVG follows the colour scheme of light and dark pages.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram themes\n  bathygram themes abyss --picture --out abyss.svg\n  \
    bathygram themes shoal --source\n  bathygram themes --schema")]
pub(crate) struct Arguments {
    /// A theme: a built-in one, a file that ends in .toml, or two as shoal+abyss
    name: Option<String>,
    /// Draw a sheet with every kind of diagram
    #[arg(long, requires = "name")]
    picture: bool,
    /// The file of that picture, SVG or PNG
    #[arg(long, short, value_name = "PATH", default_value = "theme.svg", requires = "picture")]
    out: PathBuf,
    /// Print the text of a built-in theme, to start an own one from
    #[arg(long, requires = "name", conflicts_with = "picture")]
    source: bool,
    /// Print the JSON Schema of themes, for editors
    #[arg(long, conflicts_with_all = ["name", "json"])]
    schema: bool,
    /// Answer as JSON
    #[arg(long, conflicts_with_all = ["picture", "source"])]
    json: bool,
}

#[derive(Serialize)]
struct Answer {
    version: u32,
    themes: Vec<Shown>,
}

/// A theme in a list.
#[derive(Serialize)]
struct Shown {
    name: String,
    about: String,
    /// Whether the project's pictures are drawn in it.
    used: bool,
}

/// Runs the command.
///
/// # Errors
/// If there is no such theme, or the picture cannot be written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    if arguments.schema {
        session::answer(&theme_schema())?;
        return Ok(Outcome::Done);
    }
    let project = session::project()?;
    match &arguments.name {
        Some(name) if arguments.source => {
            let Some(text) = theme::source(name) else {
                let names: Vec<&str> = theme::built_in().collect();
                return Err(Failure::Usage(format!(
                    "no built-in theme is called `{name}`; there are {}",
                    names.join(", ")
                )));
            };
            session::answer(text)?;
        }
        Some(name) if arguments.picture => picture(arguments, session::in_themes(project, name)?, voice)?,
        Some(name) => answer(arguments, in_use(&session::in_themes(project, name)?.themes).map(Shown::used).collect())?,
        None => answer(arguments, all(&project.themes))?,
    }
    Ok(Outcome::Done)
}

/// The one theme, or both.
fn in_use(themes: &Themes) -> impl Iterator<Item = &Theme> {
    std::iter::once(&themes.main).chain(&themes.dark)
}

impl Shown {
    fn used(theme: &Theme) -> Self {
        Self { name: theme.name.clone(), about: theme.about.clone(), used: true }
    }
}

/// The built-in themes, and those of the project.
fn all(themes: &Themes) -> Vec<Shown> {
    let is_used = |name: &str| in_use(themes).any(|theme| theme.name == name);
    let built_in = theme::built_in().filter_map(|name| theme::named(name, None).ok());
    let own = in_use(themes).filter(|theme| theme::source(&theme.name).is_none()).map(Shown::used);
    built_in
        .map(|theme| Shown { used: is_used(&theme.name), name: theme.name, about: theme.about })
        .chain(own)
        .collect()
}

fn answer(arguments: &Arguments, themes: Vec<Shown>) -> Result<()> {
    if arguments.json {
        return session::answer_json(&Answer { version: 1, themes });
    }
    let width = themes.iter().map(|theme| theme.name.len()).max().unwrap_or(0);
    let mut text = String::new();
    for theme in themes {
        let used = if theme.used && arguments.name.is_none() { ", used here" } else { "" };
        let _ = writeln!(text, "{:width$}  {}{used}", theme.name, theme.about);
    }
    session::answer(&text)
}

fn picture(arguments: &Arguments, project: Project, voice: Voice) -> Result<()> {
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let drawing = sheet(&studio, &project);
    let packed = Packed::default();
    let from = Provenance { source: SHEET, look: &project.look, ..Provenance::without_text("theme", &packed) };
    session::write_sheet(&project, &arguments.out, &drawing, &studio, &from)?;
    voice.say("1 picture written");
    Ok(())
}

/// Every kind of diagram and the palette, in rows.
fn sheet(studio: &Studio, project: &Project) -> Drawing {
    let reading = session::read_text(project, "themes.bathy", SHEET.to_owned(), &Alone);
    let drawn: Vec<Scene> = reading
        .pictures()
        .map(|picture| pipeline::draw(studio, &reading, &picture.view(), &DrawOptions::default()).scene)
        .collect();
    // Pictures of a height stand in one row.
    let mut order: Vec<usize> = (0..drawn.len()).collect();
    order.sort_by(|a, b| drawn[*b].size.h.total_cmp(&drawn[*a].size.h));
    let (mut x, mut y, mut high, mut wide) = (GAP, GAP, 0.0, 0.0);
    let mut items = Vec::new();
    for i in order {
        let scene = &drawn[i];
        if x > GAP && x + scene.size.w + GAP > ROW {
            (x, y, high) = (GAP, y + high + GAP, 0.0);
        }
        let moved = scene.items.iter().cloned().map(|item| item.placed(1.0, x, y)).collect();
        items.push(Item::Group(Tag::Plain, moved));
        x += scene.size.w + GAP;
        (high, wide) = (f64::max(high, scene.size.h), f64::max(wide, x));
    }
    let titles: Vec<&str> = drawn.iter().map(|scene| scene.title.as_str()).collect();
    let scene = Scene {
        size: Size::new(wide, y + high + GAP),
        title: format!("The theme {}", studio.themes.main.name),
        desc: format!("{} pictures: {}.", drawn.len(), titles.join(", ")),
        ground: Ground::Paper,
        items,
    };
    Drawing { scene, places: Places::default(), report: None, unmet: Vec::new() }
}

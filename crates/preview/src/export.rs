//! Pictures as files, and to hand on.

use crate::depths::with_picture;
use crate::draw::earlier;
use crate::shared::Shared;
use bathygram_core::pipeline::{self, DrawOptions, Picture, Reading};
use bathygram_host::{Format, Project};
use bathygram_outputs::share::{self, Shared as HandedOn};
use serde::{Deserialize, Serialize};

/// How a picture becomes a file: the program's own way, with its fonts.
///
/// # Errors
/// The reason, in a sentence.
pub type Export = Box<dyn Fn(&Project, &Reading, Picture<'_>, Format) -> Result<Vec<u8>, String> + Send + Sync>;

/// A picture that is asked for.
#[derive(Deserialize)]
pub(crate) struct Asked {
    pub(crate) file: String,
    pub(crate) text: String,
    pub(crate) picture: String,
    pub(crate) theme: Option<String>,
    /// The form of the file, where one is made.
    #[serde(default)]
    format: String,
}

/// The file of a picture, and its kind.
///
/// # Errors
/// If there is no such picture or form, or it cannot be made.
pub(crate) fn file(shared: &Shared, asked: &Asked) -> Result<(&'static str, Vec<u8>), String> {
    let format = Format::from_ending(&asked.format).ok_or_else(|| format!("forms are {}", Format::listed()))?;
    let set = shared.set(asked.theme.as_deref())?;
    let reading = shared.read(&set.project, &asked.file, asked.text.clone());
    let export = |picture: Picture<'_>| (shared.export)(&set.project, &reading, picture, format);
    let bytes = with_picture(&reading, &asked.picture, export).ok_or_else(|| unknown(&asked.picture))??;
    let kind = match format {
        Format::Svg => "image/svg+xml",
        Format::Png => "image/png",
        Format::Pdf => "application/pdf",
        // Nothing that is handed out acts as a page of this server.
        Format::Html => "application/octet-stream",
        Format::Json => "application/json",
        Format::Graphml => "application/xml",
    };
    Ok((kind, bytes))
}

fn unknown(name: &str) -> String {
    format!("no picture is called `{name}`")
}

#[derive(Serialize)]
pub(crate) struct Snippets {
    link: String,
    markdown: String,
    html: String,
}

/// A link that holds the picture, and lines for Markdown and HTML.
///
/// # Errors
/// If there is no such picture.
pub(crate) fn shared(shared: &Shared, asked: &Asked) -> Result<Snippets, String> {
    let set = shared.set(asked.theme.as_deref())?;
    let reading = shared.read(&set.project, &asked.file, asked.text.clone());
    let draw = |picture: Picture<'_>| {
        let kept = earlier(&set.project, picture.name);
        let options = DrawOptions { earlier: kept.as_ref(), share: picture.share(), ..DrawOptions::default() };
        (pipeline::draw(&set.studio, &reading, &picture.view(), &options), picture.name.to_owned())
    };
    let (drawing, name) = with_picture(&reading, &asked.picture, draw).ok_or_else(|| unknown(&asked.picture))?;
    let svg = set.studio.svg(&drawing, &reading.provenance(&name));
    let scene = &drawing.scene;
    let handed =
        HandedOn { svg: &svg, title: &scene.title, description: &scene.desc, size: (scene.size.w, scene.size.h) };
    let folder = set.project.config.pictures.to_string_lossy().replace('\\', "/");
    let path = format!("{folder}/{name}.svg");
    let path: Vec<String> = path.split('/').map(bathygram_core::markup::as_link).collect();
    let path = path.join("/");
    Ok(Snippets {
        link: share::link(handed),
        markdown: share::markdown(handed, &path),
        html: share::html(handed, &path),
    })
}

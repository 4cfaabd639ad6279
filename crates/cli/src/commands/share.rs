//! `share`: a picture to hand on, as a link that holds it or as lines for Markdown and HTML.

use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::pipeline::{self, DrawOptions, Picture, Studio};
use bathygram_host::{Format, picture_file};
use bathygram_outputs::share::{self, Shared};
use std::path::PathBuf;

/// Hand on a picture: print a link that holds it, or a line of Markdown or HTML with words for those who cannot see it
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram share surge_warning.bathy\n  \
    bathygram share architecture.bathy --only tidewatch_core --as markdown\n  \
    bathygram share recalibrate.bathy --as html --embed > recalibrate.html")]
pub(crate) struct Arguments {
    /// The source, `-` for standard input
    file: PathBuf,
    /// Only the picture with this name
    #[arg(long, value_name = "NAME")]
    only: Option<String>,
    /// What is written
    #[arg(long = "as", value_enum, value_name = "FORM", default_value_t = Form::Link)]
    form: Form,
    /// Put the picture into the Markdown or HTML itself, instead of the path of its file
    #[arg(long)]
    embed: bool,
}

#[derive(Clone, Copy, PartialEq, Eq, clap::ValueEnum)]
enum Form {
    /// A link for the address line of a browser
    Link,
    /// A line of Markdown
    Markdown,
    /// A figure in HTML
    Html,
}

/// Runs the command.
///
/// # Errors
/// If there is no such picture.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let project = session::project()?;
    let reading = session::open(&project, &arguments.file)?;
    let printed = voice.findings(&project, [(&reading, &reading.diagnostics[..])]);
    if printed.errors > 0 {
        voice.say(&format!("{}: a file with errors is not drawn", session::counted(printed)));
        return Ok(Outcome::Denied);
    }
    let pictures: Vec<Picture<'_>> = reading.pictures().collect();
    let names = || pictures.iter().map(|p| p.name).collect::<Vec<_>>().join(", ");
    let picture = match (&arguments.only, pictures.as_slice()) {
        (None, [only]) => *only,
        (None, []) => return Err(Failure::Usage("this source has no picture".into())),
        (None, _) => {
            return Err(Failure::Usage(format!(
                "there are several pictures, {}; choose one with --only NAME",
                names()
            )));
        }
        (Some(name), all) => *all
            .iter()
            .find(|picture| picture.name == name)
            .ok_or_else(|| Failure::Usage(format!("no picture is called `{name}`; there are {}", names())))?,
    };
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let drawing = pipeline::draw(&studio, &reading, &picture.view(), &DrawOptions::default());
    let svg = studio.svg(&drawing, &reading.provenance(picture.name));
    let scene = &drawing.scene;
    let shared =
        Shared { svg: &svg, title: &scene.title, description: &scene.desc, size: (scene.size.w, scene.size.h) };
    let address = || -> Result<String> {
        if arguments.embed {
            return Ok(share::image(shared));
        }
        let file = picture_file(&project.pictures(), picture.name, Format::Svg)?;
        let shown = project.shown(&file);
        if !file.is_file() {
            voice.say(&format!("{shown} is not there yet; `bathygram render` draws it"));
        }
        // Every part of the path is a name of its own.
        Ok(shown.split('/').map(bathygram_core::markup::as_link).collect::<Vec<_>>().join("/"))
    };
    let answer = match arguments.form {
        Form::Link => share::link(shared) + "\n",
        Form::Markdown => share::markdown(shared, &address()?),
        Form::Html => share::html(shared, &address()?),
    };
    session::answer(&answer)?;
    Ok(Outcome::Done)
}

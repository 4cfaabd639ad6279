//! The design with the differences marked, as `diff` marks changes: from what is drawn to what really happens.

use super::compared::{Actual, Compared};
use crate::commands::diff::drawn::fit_one_picture;
use crate::forms;
use crate::outcome::{Failure, Result};
use crate::session::{self, Voice};
use bathygram_core::compare::{self, Sides};
use bathygram_core::pipeline::{self, DrawOptions, Picture, Studio};
use bathygram_host::{Project, Seen};
use bathygram_outputs::png::{Below, Scale};
use std::path::Path;

/// Writes the picture of the one diagram of which something was seen.
///
/// # Errors
/// If there is none, or there are several, or the file cannot be written.
pub(super) fn write(project: &Project, target: &Path, compared: &[Compared<'_>], voice: Voice) -> Result<()> {
    let shown: Vec<_> = compared.iter().filter_map(|compared| Some((compared, compared.actual()?))).collect();
    let [(only, happened)] = &shown[..] else {
        let names: Vec<&str> = shown.iter().map(|(compared, _)| compared.design.name.as_str()).collect();
        let what =
            if compared.iter().all(|one| matches!(one.actual, Actual::Traces(..))) { "sequences" } else { "diagrams" };
        let message = match names.is_empty() {
            true => "no trace is of any of these sequences; there is nothing to draw".to_owned(),
            false => format!("several {what} can be drawn, {}; name the file of one", names.join(", ")),
        };
        return Err(Failure::Usage(message));
    };
    let view = |diagram| Picture::of_diagram(diagram).view();
    fit_one_picture(&only.design.name, [only.design, happened]).map_err(Failure::Input)?;
    let marked = compare::merged(&view(only.design), &view(happened), Sides::Reality, &Default::default());
    let studio = Studio::new().in_themes(&project.themes).in_language(&project.language);
    let options = DrawOptions { more_looks: &marked.looks, ..DrawOptions::default() };
    let drawing = pipeline::draw(&studio, only.reading, &marked.view, &options);
    let bytes = match target.extension().is_some_and(|ending| ending == "png") {
        true => forms::png(project, &studio, &drawing, (Scale::Factor(2.0), Below::Paper), &[])?,
        // It is nobody's picture: no text has this name.
        false => {
            studio.svg(&drawing, &only.reading.provenance(&format!("differences of {}", only.design.name))).into_bytes()
        }
    };
    session::write_target(target, &bytes)?;
    if !session::is_stdout(target) {
        voice.say(&format!("{} written", target.seen()));
    }
    Ok(())
}

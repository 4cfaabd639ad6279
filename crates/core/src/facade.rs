//! The front door for other programs: source text in, pictures as SVG out, or everything that is wrong with it.
//!
//! What is here and in [`source::world`](crate::source::world) stays as it is until the major version grows; see the README of the
//! crate.

use crate::check;
use crate::diag::Diagnostic;
use crate::pipeline::{self, DrawOptions, Reading, Setting, Studio};
use crate::source::Source;
use crate::source::world::{Alone, World};
use crate::theme::{self, Themes};
use std::fmt;

/// How sources become pictures.
#[derive(Default)]
pub struct Renderer<'w> {
    studio: Studio,
    world: Option<&'w dyn World>,
}

/// A picture.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rendered {
    /// Its name, by which other sources and links know it.
    pub name: String,
    /// Its title; its name if it has none.
    pub title: String,
    /// What it shows, in words, for those who cannot see it.
    pub description: String,
    /// The picture as the text of an SVG file, with its fonts and its source in it.
    pub svg: String,
}

/// Something that is wrong, or doubtful, in a source.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// Whether it keeps the source from being drawn.
    pub is_error: bool,
    /// Its stable code, such as `unknown-verb`.
    pub code: &'static str,
    /// The file in which it stands.
    pub file: String,
    /// Its line, from 1.
    pub line: u32,
    /// Its column, in characters from 1.
    pub column: u32,
    /// What is wrong, in a sentence.
    pub sentence: String,
    /// What to write instead, where one thing is likely.
    pub help: Option<String>,
}

/// The errors of a source that was not drawn, in the order of its lines.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rejected {
    /// The errors; there is one at least.
    pub errors: Vec<Finding>,
}

impl<'w> Renderer<'w> {
    /// Renders with the default theme and in English; sources take from no other files.
    pub fn new() -> Self {
        Self::default()
    }

    /// The same with other files that sources may take from, such as `from "shared.bathy"` and icons.
    pub fn in_world(self, world: &'w dyn World) -> Self {
        Self { world: Some(world), ..self }
    }

    /// The same with a built-in theme, such as `abyss`, or two for light and dark pages, as `shoal+abyss`.
    ///
    /// # Errors
    /// If there is no such theme; the message says which there are.
    pub fn in_theme(self, name: &str) -> Result<Self, String> {
        let named = |name: &str| theme::named(name.trim(), None).map_err(|why| why.message);
        let themes = match name.split_once('+') {
            Some((light, dark)) => Themes::pair(named(light)?, named(dark)?)?,
            None => Themes::from(named(name)?),
        };
        Ok(Self { studio: self.studio.in_themes(&themes), ..self })
    }

    /// Draws all pictures of a source: its diagrams, then its sheets. `file` is the name of its file, relative to the world, with `/`.
    ///
    /// # Errors
    /// If the source has errors: all of them.
    pub fn render(&self, file: &str, text: &str) -> Result<Vec<Rendered>, Rejected> {
        let reading = self.read(file, text);
        let errors: Vec<Finding> =
            reading.diagnostics.iter().filter(|d| check::is_error(d)).map(|d| finding(&reading, d)).collect();
        if !errors.is_empty() {
            return Err(Rejected { errors });
        }
        let drawn = reading.pictures().map(|picture| {
            let drawing = pipeline::draw(&self.studio, &reading, &picture.view(), &DrawOptions::default());
            let title = &drawing.scene.title;
            Rendered {
                name: picture.name.to_owned(),
                title: if title.is_empty() { picture.name.to_owned() } else { title.clone() },
                description: drawing.scene.desc.clone(),
                svg: self.studio.svg(&drawing, &reading.provenance(picture.name)),
            }
        });
        Ok(drawn.collect())
    }

    /// Everything that is wrong or doubtful in a source, in the order of its lines.
    pub fn check(&self, file: &str, text: &str) -> Vec<Finding> {
        let reading = self.read(file, text);
        reading.diagnostics.iter().map(|d| finding(&reading, d)).collect()
    }

    fn read(&self, file: &str, text: &str) -> Reading {
        let name = file.rsplit('/').next().unwrap_or(file);
        let stem = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
        let look = self.studio.themes.fingerprint();
        let setting = Setting { world: self.world.unwrap_or(&Alone), look: &look, ..Setting::default() };
        pipeline::read(Source::new(file, text), stem, &setting)
    }
}

fn finding(reading: &Reading, diagnostic: &Diagnostic) -> Finding {
    let sources = reading.sources();
    let source = sources.get(diagnostic.span.source).unwrap_or(&reading.source);
    let (line, column) = source.position(diagnostic.span.start);
    let words = diagnostic.words(&sources);
    Finding {
        is_error: check::is_error(diagnostic),
        code: diagnostic.code,
        file: source.name.clone(),
        line,
        column,
        sentence: words.sentence,
        help: words.help,
    }
}

impl fmt::Display for Finding {
    /// `file:line:column: sentence; help`, in one line.
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { file, line, column, sentence, .. } = self;
        write!(out, "{file}:{line}:{column}: {sentence}")?;
        self.help.as_ref().map_or(Ok(()), |help| write!(out, "; {help}"))
    }
}

impl fmt::Display for Rejected {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        let lines: Vec<String> = self.errors.iter().map(Finding::to_string).collect();
        out.write_str(&lines.join("\n"))
    }
}

impl std::error::Error for Rejected {}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::world::Unopened;

    /// A world of one file.
    struct One;

    impl World for One {
        fn text(&self, name: &str) -> Result<String, Unopened> {
            let map = "architecture map\n  service gateway \"Gateway\"\n  store readings\n  gateway writes readings\n";
            if name == "shared/map.bathy" { Ok(map.to_owned()) } else { Err(Unopened::Missing) }
        }
    }

    #[test]
    fn sources_become_pictures_with_names_titles_and_words() {
        let text = "flow ebb \"The ebb\"\n  begin \"High\"\n  \"Wait\"\n  finish \"Low\"\n";
        let all = Renderer::new().render("tides/ebb.bathy", text).expect("pictures");
        assert_eq!((all.len(), all[0].name.as_str(), all[0].title.as_str()), (1, "ebb", "The ebb"));
        assert!(all[0].svg.starts_with("<svg") && all[0].description.contains("High leads to Wait"));
        let nameless =
            Renderer::new().render("tides/ebb.bathy", "flow\n  begin \"a\"\n  finish \"b\"\n").expect("pictures");
        assert_eq!((nameless[0].name.as_str(), nameless[0].title.as_str()), ("ebb", "ebb"));
        let dark = Renderer::new().in_theme("abyss").expect("a theme").render("ebb.bathy", text).expect("pictures");
        assert_ne!(dark[0].svg, all[0].svg);
        assert!(Renderer::new().in_theme("nosuch").is_err_and(|why| why.contains("shoal")));
    }

    #[test]
    fn a_world_has_the_files_that_sources_take_from() {
        let text = "from \"shared/map.bathy\"\n\nsheet near of map\n  focus gateway\n";
        let all = Renderer::new().in_world(&One).render("a.bathy", text).expect("pictures");
        assert_eq!(all[0].name, "near");
        let alone = Renderer::new().render("a.bathy", text).expect_err("no such file");
        assert_eq!((alone.errors[0].line, alone.errors[0].file.as_str()), (1, "a.bathy"));
    }

    #[test]
    fn every_error_is_told_with_its_place() {
        let rejected = Renderer::new().render("a.bathy", "flow a\n  nonsense !\n  go x\n").expect_err("errors");
        let lines: Vec<u32> = rejected.errors.iter().map(|e| e.line).collect();
        assert_eq!(lines, [2, 3]);
        assert!(rejected.to_string().starts_with("a.bathy:2:"), "{rejected}");
        let doubts = Renderer::new().check("a.bathy", "flow a\n  \"step\"\n");
        assert!(doubts.iter().all(|f| !f.is_error) && !doubts.is_empty());
    }
}

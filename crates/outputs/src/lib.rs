//! Other forms of a drawing: PNG, PDF, pages, and pictures in Markdown. A new form is a file here that takes a
//! [`Drawing`](bathygram_core::scene::Drawing), and a variant of `Format` in the host, where forms are listed once.

pub mod geometry;
pub mod graphml;
pub mod html;
pub mod interactive;
mod letters;
pub mod markdown;
pub mod outlines;
mod paint;
mod parts;
pub mod pdf;
mod pixels;
pub mod png;
pub mod share;

/// A picture among others in one file.
#[derive(Clone, Copy, Debug)]
pub struct Sheet<'a> {
    /// Its name: what links lead to.
    pub name: &'a str,
    /// What is on it.
    pub drawing: &'a bathygram_core::scene::Drawing,
}

impl<'a> Sheet<'a> {
    /// What it is called.
    fn title(&self) -> &'a str {
        let own = self.drawing.scene.title.as_str();
        if own.is_empty() { self.name } else { own }
    }
}

/// What a drawing is brought into another form with.
#[derive(Clone, Copy)]
pub struct Tools<'a> {
    /// The colours.
    pub theme: &'a bathygram_core::theme::Theme,
    /// The fonts that ship with the program.
    pub fonts: &'a bathygram_core::measure::Fonts,
    /// Those for letters that the shipped ones lack.
    pub spare: &'a bathygram_core::measure::SpareFonts,
}

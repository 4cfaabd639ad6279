//! What drawing needs besides the diagram.

use super::pictogram::Icons;
use crate::jobs::Jobs;
use crate::language::Language;
use crate::layout::Share;
use crate::measure::Fonts;
use crate::model::LookRule;
use crate::scene::Places;
use crate::source::Sources;
use crate::views::View;

/// What drawing needs besides the diagram.
pub struct Context<'a> {
    /// What is drawn.
    pub view: &'a View,
    /// The sources in which it was written.
    pub sources: &'a Sources<'a>,
    /// The fonts.
    pub fonts: &'a Fonts,
    /// The style rules of the file.
    pub looks: &'a [LookRule],
    /// The places of an earlier picture that is to be kept.
    pub earlier: Option<&'a Places>,
    /// How much time the picture may take of a run.
    pub share: Share,
    /// The pictograms.
    pub icons: &'a Icons,
    /// The language of words that no text has.
    pub language: &'a Language,
    /// What runs independent work.
    pub jobs: &'a dyn Jobs,
}

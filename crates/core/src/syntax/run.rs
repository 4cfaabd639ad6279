//! Runs: letters in one style.

/// The style of a run of letters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub enum RunStyle {
    /// As it comes.
    #[default]
    Plain,
    /// `*emphasis*`, set in italics.
    Emphasis,
    /// `**strong**`, set semi-bold.
    Strong,
    /// `` `code` ``, set in the mono face.
    Code,
    /// A subscript of a formula.
    Below,
    /// A superscript of a formula.
    Above,
}

/// Letters in one style; `\n` breaks the line.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Run {
    /// The letters.
    pub text: String,
    /// Their style.
    pub style: RunStyle,
}

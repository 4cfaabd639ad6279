//! Edits as data: fixes, renames, nudges and merges are all lists of [`TextEdit`]s, and one function applies them.

use super::{Source, Span};

/// A piece of a source, and what stands there instead.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct TextEdit {
    /// What is replaced; empty where something is put in.
    pub span: Span,
    /// What stands there then.
    pub text: String,
}

impl TextEdit {
    /// Replaces a piece.
    pub fn new(span: Span, text: impl Into<String>) -> Self {
        Self { span, text: text.into() }
    }
}

/// Two edits that cannot both be made.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Overlap {
    /// The one that stands first.
    pub first: TextEdit,
    /// The one that begins inside the first, or puts something into the same place.
    pub second: TextEdit,
}

/// The text of a source with edits made, all of them or none. Edits of other sources are left out, equal ones count once.
///
/// # Errors
/// If two edits overlap, or put different things into one place.
pub fn apply(source: &Source, edits: &[TextEdit]) -> Result<String, Overlap> {
    let mut own: Vec<&TextEdit> = edits.iter().filter(|e| e.span.source == source.id).collect();
    own.sort_unstable();
    own.dedup();
    for pair in own.windows(2) {
        let is_same_place = pair[0].span == pair[1].span;
        if is_same_place || pair[1].span.start < pair[0].span.end {
            return Err(Overlap { first: pair[0].clone(), second: pair[1].clone() });
        }
    }
    let mut out = String::with_capacity(source.text.len());
    let mut at = 0;
    for edit in own {
        out.push_str(&source.text[at..edit.span.start as usize]);
        out.push_str(&edit.text);
        at = edit.span.end as usize;
    }
    out.push_str(&source.text[at..]);
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::super::SourceId;
    use super::*;

    #[test]
    fn edits_are_made_all_or_none() {
        let source = Source::new("a.bathy", "tide and surge");
        let edit = |from: usize, to: usize, text: &str| TextEdit::new(source.span(from, to), text);
        let made = apply(&source, &[edit(9, 14, "ebb"), edit(0, 4, "flood"), edit(4, 4, " high")]);
        assert_eq!(made.as_deref(), Ok("flood high and ebb"));
        assert_eq!(apply(&source, &[edit(0, 4, "ebb"), edit(0, 4, "ebb")]).as_deref(), Ok("ebb and surge"));
        let other = TextEdit::new(Span::new(SourceId::new(1), 0, 4), "ebb");
        assert_eq!(apply(&source, &[other]).as_deref(), Ok("tide and surge"));
        assert!(apply(&source, &[edit(0, 4, "a"), edit(2, 6, "b")]).is_err(), "they overlap");
        assert!(apply(&source, &[edit(4, 4, "a"), edit(4, 4, "b")]).is_err(), "which comes first?");
    }
}

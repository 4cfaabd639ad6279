//! Lines with what is indented under them, and the order in which they stand.

use crate::source::Span;
use std::collections::BTreeMap;

/// Lines of one body. Each knows where it was read, the lines under it too.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Lines(Vec<Line>);

/// One line with what is indented under it.
#[derive(Clone, Debug, Eq)]
pub(crate) struct Line {
    pub(crate) at: Span,
    pub(crate) text: String,
    pub(crate) body: Lines,
}

impl PartialEq for Line {
    /// Wherever they were read.
    fn eq(&self, other: &Self) -> bool {
        (&self.text, &self.body) == (&other.text, &other.body)
    }
}

impl Lines {
    /// The lines of this body, in order.
    pub(crate) fn rows(&self) -> &[Line] {
        &self.0
    }

    /// Puts comments at the ends of lines, by the byte at which what they say was read.
    pub(super) fn comment(&mut self, comments: &BTreeMap<u32, String>) {
        for line in &mut self.0 {
            if let Some(comment) = comments.get(&line.at.start) {
                line.text += &format!(" // {}", comment.replace(['\n', '\r'], " "));
            }
            line.body.comment(comments);
        }
    }

    pub(super) fn push(&mut self, at: Span, text: String) {
        self.push_with(at, text, Self::default());
    }

    pub(super) fn push_with(&mut self, at: Span, text: String, body: Self) {
        self.0.push(Line { at, text, body });
    }

    pub(super) fn extend(&mut self, other: Self) {
        self.0.extend(other.0);
    }

    /// Puts these lines between lines whose order means something and stays: each before the first of them that was read
    /// after it.
    pub(super) fn among(self, fixed: Self) -> Self {
        let mut out = Vec::with_capacity(self.0.len() + fixed.0.len());
        let mut loose = self.in_order().0.into_iter().peekable();
        for line in fixed.0 {
            while let Some(before) = loose.next_if(|l| l.at.start < line.at.start) {
                out.push(before);
            }
            out.push(line);
        }
        out.extend(loose);
        Self(out)
    }

    /// The same in the order in which they were read; what was read nowhere stays first.
    pub(super) fn in_order(mut self) -> Self {
        self.0.sort_by_key(|line| (line.at.source, line.at.start));
        self
    }

    /// The rows of a text, two spaces for each level.
    pub(super) fn to_text(&self) -> String {
        let mut out = String::new();
        self.write(&mut out, 0);
        out
    }

    fn write(&self, out: &mut String, depth: usize) {
        for line in &self.0 {
            out.extend(std::iter::repeat_n("  ", depth));
            out.push_str(&line.text);
            out.push('\n');
            line.body.write(out, depth + 1);
        }
    }
}

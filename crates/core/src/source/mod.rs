//! Source text with positions. Input: a file's name and text. Output: [`Source`] with byte [`Span`]s
//! that turn into lines and columns. Guarantees: every span handed out lies on character boundaries.

pub mod world;

/// A half-open range of bytes in one source text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct Span {
    /// First byte.
    pub start: u32,
    /// One past the last byte.
    pub end: u32,
}

impl Span {
    /// The span from `start` to `end` (bytes).
    pub fn new(start: usize, end: usize) -> Self {
        Self { start: start as u32, end: end as u32 }
    }

    /// The smallest span that holds both.
    pub fn to(self, other: Span) -> Span {
        Span { start: self.start.min(other.start), end: self.end.max(other.end) }
    }

    /// The span as a range of `usize`, for slicing.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }
}

/// A value with the place it was written at.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Spanned<T> {
    /// The value.
    pub value: T,
    /// Where it stands.
    pub span: Span,
}

/// One source text and where its lines begin.
#[derive(Clone, Debug)]
pub struct Source {
    /// The file's name as shown to people, with `/` as separator.
    pub name: String,
    /// The text, valid UTF-8.
    pub text: String,
    line_starts: Vec<u32>,
}

impl Source {
    /// A source from its shown name and text.
    pub fn new(name: impl Into<String>, text: impl Into<String>) -> Self {
        let text = text.into();
        let starts = text.bytes().enumerate().filter(|(_, b)| *b == b'\n').map(|(i, _)| i as u32 + 1);
        let line_starts = std::iter::once(0).chain(starts).collect();
        Self { name: name.into(), text, line_starts }
    }

    /// The line (from 1) that holds a byte.
    pub fn line(&self, byte: u32) -> u32 {
        self.line_starts.partition_point(|start| *start <= byte) as u32
    }

    /// Line and column (both from 1, the column in characters) of a byte.
    pub fn position(&self, byte: u32) -> (u32, u32) {
        let line = self.line(byte);
        let start = self.line_starts[line as usize - 1] as usize;
        let end = (byte as usize).min(self.text.len());
        (line, self.text[start..end].chars().count() as u32 + 1)
    }

    /// The text of a span.
    pub fn slice(&self, span: Span) -> &str {
        &self.text[span.range()]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn positions_count_characters_not_bytes() {
        let source = Source::new("a.bathy", "Gezeiten\nÜber uns\n");
        assert_eq!(source.position(0), (1, 1));
        assert_eq!(source.position(9), (2, 1));
        assert_eq!(source.position(11), (2, 2));
        assert_eq!(source.line(source.text.len() as u32), 3);
    }
}

//! Positions: lines and columns, in the units that a client counts in, and bytes.

use bathygram_core::source::Units;
use lsp_types::{Position, Range};

/// What a column counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Encoding {
    /// Bytes.
    Utf8,
    /// Units of 16 bits.
    Utf16,
    /// Letters of Unicode.
    Utf32,
}

impl Encoding {
    /// How many units a character has.
    fn length(self) -> fn(char) -> usize {
        match self {
            Encoding::Utf8 => char::len_utf8,
            Encoding::Utf16 => char::len_utf16,
            Encoding::Utf32 => |_| 1,
        }
    }

    /// A text, counted.
    pub(crate) fn units(self, text: &str) -> Units {
        Units::new(text, self.length())
    }

    /// The byte of a position; a line or a column that is not there is the last one that is.
    pub(crate) fn byte(self, text: &str, position: Position) -> usize {
        let mut start = 0;
        for _ in 0..position.line {
            match text[start..].find('\n') {
                Some(end) => start += end + 1,
                None => return text.len(),
            }
        }
        let mut column = 0;
        for (at, c) in text[start..].char_indices() {
            if column >= position.character || c == '\n' {
                return start + at;
            }
            column += self.length()(c) as u32;
        }
        text.len()
    }

    /// The position of a byte.
    pub(crate) fn position(self, text: &str, byte: usize) -> Position {
        let mut byte = byte.min(text.len());
        while !text.is_char_boundary(byte) {
            byte -= 1;
        }
        let before = &text[..byte];
        let line = before.bytes().filter(|b| *b == b'\n').count() as u32;
        let start = before.rfind('\n').map_or(0, |at| at + 1);
        Position { line, character: before[start..].chars().map(self.length()).sum::<usize>() as u32 }
    }

    /// The range of some bytes.
    pub(crate) fn range(self, text: &str, bytes: std::ops::Range<usize>) -> Range {
        Range { start: self.position(text, bytes.start), end: self.position(text, bytes.end) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn positions_and_bytes_are_each_others() {
        let text = "a\nü🌊b\n";
        let at = |line, character| Position { line, character };
        for (encoding, column) in [(Encoding::Utf8, 6), (Encoding::Utf16, 3), (Encoding::Utf32, 2)] {
            let byte = text.find('b').expect("a letter");
            assert_eq!(encoding.position(text, byte), at(1, column));
            assert_eq!(encoding.byte(text, at(1, column)), byte);
            assert_eq!(encoding.byte(text, at(1, 99)), text.len() - 1, "the end of the line");
            assert_eq!(encoding.byte(text, at(9, 0)), text.len());
        }
        assert_eq!(Encoding::Utf8.position(text, 3), at(1, 0), "inside of a letter");
    }
}

//! Bytes as text, whatever wrote them: UTF-8, UTF-16 with its mark, or Latin-1 where bytes are no UTF-8.

use std::io::{self, Read};

/// How the bytes of a source are to be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Encoding {
    /// UTF-8, or Latin-1 where it is none.
    Bytes,
    /// UTF-16, the low byte first.
    Utf16Low,
    /// UTF-16, the high byte first.
    Utf16High,
}

impl Encoding {
    /// The encoding that the first bytes tell (Unicode 15, 2.13), and how many of them are its mark.
    pub(crate) fn of(first: &[u8]) -> (Self, usize) {
        match first {
            [0xff, 0xfe, ..] => (Self::Utf16Low, 2),
            [0xfe, 0xff, ..] => (Self::Utf16High, 2),
            [0xef, 0xbb, 0xbf, ..] => (Self::Bytes, 3),
            _ => (Self::Bytes, 0),
        }
    }
}

/// Text of one cell, and whether its bytes were no UTF-8.
pub(crate) fn cell(bytes: &[u8]) -> (String, bool) {
    match std::str::from_utf8(bytes) {
        Ok(text) => (text.to_owned(), false),
        // In Latin-1 every byte is the letter of its number.
        Err(_) => (bytes.iter().map(|byte| char::from(*byte)).collect(), true),
    }
}

/// Says one thing more in a comment.
pub(crate) fn add(comment: &mut Option<String>, more: &str) {
    *comment = Some(comment.take().map_or(more.to_owned(), |said| format!("{said}; {more}")));
}

/// `1 node`, `12 nodes`.
pub(crate) fn counted(count: u64, one: &str) -> String {
    format!("{count} {one}{}", if count == 1 { "" } else { "s" })
}

/// UTF-16 as UTF-8, piece by piece.
pub(crate) struct FromUtf16<R> {
    inner: R,
    encoding: Encoding,
    /// What is decoded and not read yet.
    ready: Vec<u8>,
    at: usize,
    /// A half of a unit, and a half of a letter.
    odd: Option<u8>,
    high: Option<u16>,
}

impl<R: Read> FromUtf16<R> {
    pub(crate) fn new(inner: R, encoding: Encoding) -> Self {
        Self { inner, encoding, ready: Vec::new(), at: 0, odd: None, high: None }
    }

    fn take(&mut self, unit: u16) {
        let mut push = |c: char| self.ready.extend(c.encode_utf8(&mut [0; 4]).bytes());
        match (self.high.take(), unit) {
            (Some(high), 0xdc00..=0xdfff) => {
                let code = 0x1_0000 + ((u32::from(high) - 0xd800) << 10) + (u32::from(unit) - 0xdc00);
                push(char::from_u32(code).unwrap_or(char::REPLACEMENT_CHARACTER));
            }
            (before, 0xd800..=0xdbff) => {
                before.iter().for_each(|_| push(char::REPLACEMENT_CHARACTER));
                self.high = Some(unit);
            }
            (before, unit) => {
                before.iter().for_each(|_| push(char::REPLACEMENT_CHARACTER));
                push(char::from_u32(u32::from(unit)).unwrap_or(char::REPLACEMENT_CHARACTER));
            }
        }
    }
}

impl<R: Read> Read for FromUtf16<R> {
    fn read(&mut self, out: &mut [u8]) -> io::Result<usize> {
        while self.at == self.ready.len() {
            self.ready.clear();
            self.at = 0;
            let mut piece = [0; 8192];
            let n = self.inner.read(&mut piece)?;
            if n == 0 {
                return Ok(0);
            }
            let odd = self.odd.take();
            let mut bytes = odd.into_iter().chain(piece[..n].iter().copied());
            while let Some(first) = bytes.next() {
                let Some(second) = bytes.next() else {
                    self.odd = Some(first);
                    break;
                };
                let pair = [first, second];
                let unit = match self.encoding {
                    Encoding::Utf16High => u16::from_be_bytes(pair),
                    _ => u16::from_le_bytes(pair),
                };
                self.take(unit);
            }
        }
        let n = out.len().min(self.ready.len() - self.at);
        out[..n].copy_from_slice(&self.ready[self.at..self.at + n]);
        self.at += n;
        Ok(n)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn utf_16_is_read_in_both_orders() {
        let text = "Gerät;ü🌊\n".repeat(2000);
        for (encoding, mark) in [(Encoding::Utf16Low, [0xff, 0xfe]), (Encoding::Utf16High, [0xfe, 0xff])] {
            let bytes: Vec<u8> = text
                .encode_utf16()
                .flat_map(|unit| if encoding == Encoding::Utf16Low { unit.to_le_bytes() } else { unit.to_be_bytes() })
                .collect();
            assert_eq!(Encoding::of(&mark), (encoding, 2));
            let mut read = String::new();
            FromUtf16::new(&bytes[..], encoding).read_to_string(&mut read).expect("text");
            assert!(read == text);
        }
        assert_eq!(cell(&[b'S', 0xfc, b'd']), ("Süd".to_owned(), true));
        assert_eq!(Encoding::of(b"a,b"), (Encoding::Bytes, 0));
    }
}

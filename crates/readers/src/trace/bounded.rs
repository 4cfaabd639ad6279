//! JSON out of a packed file, in which a small file may stand for a text of any length: texts of more than some megabytes are refused,
//! since a text is kept in memory until it ends.

use std::io::{Error, Read, Result};

/// A text has at most this many bytes.
// What is drawn of a span, names and addresses, has some hundred.
const LONGEST: usize = 16 * 1024 * 1024;

/// Bytes of JSON whose texts are bounded.
pub(super) struct Bounded<R> {
    inner: R,
    /// How long the text is that is read; `None` between texts.
    length: Option<usize>,
    is_escaped: bool,
}

impl<R> Bounded<R> {
    pub(super) fn new(inner: R) -> Self {
        Self { inner, length: None, is_escaped: false }
    }

    fn take(&mut self, byte: u8) -> Result<()> {
        let Some(length) = &mut self.length else {
            self.length = (byte == b'"').then_some(0);
            return Ok(());
        };
        *length += 1;
        if *length > LONGEST {
            return Err(Error::other(format!("a text of more than {} MB", LONGEST / 1024 / 1024)));
        }
        match byte {
            _ if self.is_escaped => self.is_escaped = false,
            b'\\' => self.is_escaped = true,
            b'"' => self.length = None,
            _ => {}
        }
        Ok(())
    }
}

impl<R: Read> Read for Bounded<R> {
    fn read(&mut self, out: &mut [u8]) -> Result<usize> {
        let n = self.inner.read(out)?;
        out[..n].iter().try_for_each(|byte| self.take(*byte))?;
        Ok(n)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_are_bounded_and_all_else_passes() {
        let read = |json: &[u8]| {
            let mut out = Vec::new();
            Bounded::new(json).read_to_end(&mut out).map(|_| out)
        };
        let many = br#"{"a": "b\"c", "d": [1, 2]}"#.repeat(2_000_000);
        assert_eq!(read(&many).expect("short texts"), many);
        let long = format!("{{\"a\": \"{}\"}}", "\\\"x".repeat(6_000_000));
        assert!(read(long.as_bytes()).is_err());
    }
}

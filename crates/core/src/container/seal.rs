//! The seal: a digest of the file itself, which tells whether somebody changed it since it was drawn.

use sha2::{Digest, Sha256};
use std::fmt::Write;

/// How many digits a seal has.
pub(super) const DIGITS: usize = 64;

/// Whether the bytes are text, whose line ends do not count: git may turn them.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Bytes {
    /// Text.
    Text,
    /// Anything else.
    Binary,
}

/// The seal before it is known.
pub fn open_seal() -> String {
    "0".repeat(DIGITS)
}

/// The digest of bytes in which this many are taken as zeros: the digits `0` of text, and bytes of value 0 behind them.
pub(super) fn digest_without(bytes: &[u8], at: usize, count: usize, kind: Bytes) -> [u8; 32] {
    let mut hash = Sha256::new();
    for part in [&bytes[..at], &[b'0'; DIGITS], &[0; 4][..count - DIGITS], &bytes[at + count..]] {
        // The texts that we write have no carriage returns: whoever added them, git say, did not change the picture.
        match kind {
            Bytes::Text => part.split(|b| *b == b'\r').for_each(|piece| hash.update(piece)),
            _ => hash.update(part),
        }
    }
    hash.finalize().into()
}

/// Bytes as digits.
pub(super) fn hex(bytes: &[u8]) -> String {
    bytes.iter().fold(String::new(), |mut out, byte| {
        let _ = write!(out, "{byte:02x}");
        out
    })
}

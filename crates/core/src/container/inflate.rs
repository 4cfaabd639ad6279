//! Texts, compressed (zlib, RFC 1950) and written as base64 (RFC 4648).

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use miniz_oxide::deflate::compress_to_vec_zlib;
use std::io::Read;

/// A source text is at most this long when it is read back, in bytes.
// A few bytes can unpack to gigabytes; a source has at most 16 MiB with what it takes from others.
const MAX_SOURCE: u64 = 64 * 1024 * 1024;

/// A text longer than this is packed in less time, in bytes.
// The best packing of it takes longer than drawing the picture.
const LARGE: usize = 128 * 1024;

/// Packs a text.
pub(super) fn packed(text: &str) -> String {
    // The last tenth of a long text's size is not worth the time it takes.
    let level = if text.len() > LARGE { 4 } else { 9 };
    // One packer by name: what another crate asks of a common one must not change the bytes of pictures.
    STANDARD.encode(compress_to_vec_zlib(text.as_bytes(), level))
}

/// A text out of its packed bytes, up to a limit.
pub(super) fn inflated(packed: &[u8]) -> Option<String> {
    let mut text = String::new();
    flate2::read::ZlibDecoder::new(packed).take(MAX_SOURCE).read_to_string(&mut text).ok()?;
    Some(text)
}

/// The text that is packed up to the next tag.
pub(super) fn unpacked(rest: &str) -> Option<String> {
    inflated(&STANDARD.decode(rest.split('<').next()?).ok()?)
}

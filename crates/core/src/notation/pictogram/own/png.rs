//! Reads a PNG of a project. Input: the bytes of a file. Output: its chunks that make pixels, and its sides. Guarantees: the
//! whole file was decoded once without an error, and nothing but pixels is kept.

use super::super::Art;
use super::fault::IconFault;

/// A PNG file may have this many bytes.
// It is embedded in every picture that shows it.
pub const MAX_PNG: usize = 256 * 1024;
/// A side of a PNG may have this many pixels.
// A pictogram is drawn 24 px wide; more than forty times that is a mistake, or an attack.
const MAX_SIDE: u32 = 1024;
/// Chunks of a PNG that make its pixels (ISO/IEC 15948).
const PIXELS: [&[u8; 4]; 7] = [b"IHDR", b"PLTE", b"tRNS", b"gAMA", b"sRGB", b"IDAT", b"IEND"];

/// Reads a PNG.
pub(super) fn read_png(bytes: &[u8]) -> Result<Art, IconFault> {
    if bytes.len() > MAX_PNG {
        return Err(IconFault::TooLarge(MAX_PNG));
    }
    let mut decoder = png::Decoder::new(std::io::Cursor::new(bytes));
    decoder.set_ignore_text_chunk(true);
    let mut reader = decoder.read_info().map_err(IconFault::broken)?;
    let (width, height) = (reader.info().width, reader.info().height);
    if width.max(height) > MAX_SIDE {
        return Err(IconFault::Broken(format!("it has {width} × {height} pixels; a side may have {MAX_SIDE}")));
    }
    let size = reader.output_buffer_size().ok_or_else(|| IconFault::broken("it has no size"))?;
    reader.next_frame(&mut vec![0; size]).map_err(IconFault::broken)?;
    Ok(Art::Raster(pixels(bytes).into(), [width, height]))
}

/// The chunks of a PNG that make its pixels: texts, times and what else a camera writes stay behind.
fn pixels(bytes: &[u8]) -> Vec<u8> {
    let mut kept = bytes[..8].to_vec();
    let mut rest = &bytes[8..];
    // Length, kind, content, check sum.
    while let Some((head, after)) = rest.split_at_checked(8) {
        let length = u32::from_be_bytes([head[0], head[1], head[2], head[3]]) as usize;
        let Some((body, after)) = after.split_at_checked(length + 4) else { break };
        if PIXELS.iter().any(|kind| head[4..] == kind[..]) {
            kept.extend_from_slice(head);
            kept.extend_from_slice(body);
        }
        rest = after;
    }
    kept
}

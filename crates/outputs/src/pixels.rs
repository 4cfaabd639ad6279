//! The pixels of a PNG that a drawing shows.

/// Pixels with their sides; four bytes each, red, green, blue and opacity, not premultiplied.
pub(crate) struct Pixels {
    pub(crate) width: u32,
    pub(crate) height: u32,
    pub(crate) bytes: Vec<u8>,
}

/// Unpacks a PNG; `None` if it is damaged. Those of a drawing were read as a whole before.
pub(crate) fn unpack(png: &[u8]) -> Option<Pixels> {
    let mut decoder = png::Decoder::new(std::io::Cursor::new(png));
    decoder.set_transformations(png::Transformations::normalize_to_color8() | png::Transformations::ALPHA);
    let mut reader = decoder.read_info().ok()?;
    let mut bytes = vec![0; reader.output_buffer_size()?];
    let frame = reader.next_frame(&mut bytes).ok()?;
    bytes.truncate(frame.buffer_size());
    let bytes = match frame.color_type {
        png::ColorType::Rgba => bytes,
        png::ColorType::Rgb => bytes.chunks_exact(3).flat_map(|p| [p[0], p[1], p[2], 255]).collect(),
        png::ColorType::GrayscaleAlpha => bytes.chunks_exact(2).flat_map(|p| [p[0], p[0], p[0], p[1]]).collect(),
        png::ColorType::Grayscale => bytes.iter().flat_map(|v| [*v, *v, *v, 255]).collect(),
        png::ColorType::Indexed => return None,
    };
    Some(Pixels { width: frame.width, height: frame.height, bytes })
}

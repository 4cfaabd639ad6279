//! A source to a picture in ten lines: `cargo run -p bathygram-core --example text_to_svg < FILE > PICTURE`.

use bathygram_core::facade::Renderer;
use std::io::{Read, Write};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut text = String::new();
    std::io::stdin().read_to_string(&mut text)?;
    let pictures = Renderer::new().render("stdin.bathy", &text)?;
    let first = pictures.first().ok_or("there is no diagram in it")?;
    std::io::stdout().write_all(first.svg.as_bytes())?;
    Ok(())
}

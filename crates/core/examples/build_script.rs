//! A picture in a build script: what `build.rs` of another crate does so that its documentation shows diagrams that are never out of
//! date. Here the variables that cargo sets are arguments: `--example build_script SOURCE FOLDER`.

#![allow(clippy::disallowed_methods, reason = "a build script reads and writes files; the core does not")]

use bathygram_core::facade::Renderer;
use std::path::Path;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let [source, out] = arguments.as_slice() else { return Err("name a source and a folder".into()) };
    // In a build script: `println!("cargo::rerun-if-changed={source}")`, and `out` is `OUT_DIR`.
    let text = std::fs::read_to_string(source)?;
    // An error stops the build, and says where.
    for picture in Renderer::new().in_theme("shoal+abyss")?.render(source, &text)? {
        std::fs::write(Path::new(out).join(format!("{}.svg", picture.name)), picture.svg)?;
    }
    Ok(())
}

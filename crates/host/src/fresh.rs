//! Whether pictures on disk are those of their texts, by digest.

use crate::{Format, Project};
use bathygram_core::svg::read_digest;
use std::path::Path;

/// The state of one picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Freshness {
    /// It shows what its text says.
    Fresh,
    /// Its text has changed since.
    OutOfDate,
    /// There is no such file.
    Missing,
}

/// Compares the picture of a name with the digest of its text. Of several formats, the worst counts.
pub fn freshness(project: &Project, name: &str, digest: &str) -> Freshness {
    let state = |format: &Format| {
        let path = project.pictures().join(format!("{name}.{}", format.ending()));
        of_file(&path, *format, digest)
    };
    let states: Vec<Freshness> = project.config.formats.iter().map(state).collect();
    [Freshness::Missing, Freshness::OutOfDate].into_iter().find(|s| states.contains(s)).unwrap_or(Freshness::Fresh)
}

/// Compares one file.
fn of_file(path: &Path, format: Format, digest: &str) -> Freshness {
    let Ok(bytes) = std::fs::read(path) else { return Freshness::Missing };
    let same = match format {
        Format::Svg => std::str::from_utf8(&bytes).ok().and_then(read_digest).is_some_and(|d| d == digest),
        // The digest stands in the file as it is, in a text chunk near its beginning.
        Format::Png => {
            let head = &bytes[..bytes.len().min(512)];
            head.windows(digest.len()).any(|w| w == digest.as_bytes())
        }
    };
    if same { Freshness::Fresh } else { Freshness::OutOfDate }
}

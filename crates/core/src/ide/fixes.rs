//! The corrections that belong to a place.

use crate::diag::{Diagnostic, Fix};
use crate::pipeline::Reading;
use std::ops::Range;

/// The corrections of findings that stand in a range of bytes, the findings in the order of the text.
pub fn fixes(reading: &Reading, range: Range<u32>) -> impl Iterator<Item = (&Diagnostic, &Fix)> {
    let is_there =
        move |d: &&Diagnostic| d.span.source.is_root() && d.span.start <= range.end && range.start <= d.span.end;
    let found = reading.diagnostics.iter().filter(is_there);
    found.flat_map(|diagnostic| diagnostic.fixes.iter().map(move |fix| (diagnostic, fix)))
}

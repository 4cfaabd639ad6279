//! Numbers as arguments, with errors that say which ones can be.

use std::ops::RangeInclusive;

/// Reads a whole number in a range.
pub(crate) fn between(
    range: RangeInclusive<u32>,
) -> impl Fn(&str) -> Result<u32, String> + Clone + Send + Sync + 'static {
    move |text: &str| {
        let (low, high) = (range.start(), range.end());
        let expected = match *high {
            u32::MAX => format!("a whole number from {low} is expected"),
            high => format!("a whole number from {low} to {high} is expected"),
        };
        text.parse().ok().filter(|number| range.contains(number)).ok_or(expected)
    }
}

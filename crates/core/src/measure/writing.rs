//! In which direction a text is written.

use unicode_bidi::{Direction, get_base_direction};

/// In which direction a text is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Writing {
    /// From left to right.
    #[default]
    LeftToRight,
    /// From right to left, as Hebrew and Arabic are.
    RightToLeft,
}

/// The first letter of a script that runs from right to left: no text without one like it needs a closer look.
const FIRST_HEBREW: char = '\u{590}';

impl Writing {
    /// That of a text: of its first letter that has one (Unicode Standard Annex 9, rules P2 and P3).
    pub fn of(text: &str) -> Self {
        let is_rtl = text.chars().any(|c| c >= FIRST_HEBREW) && get_base_direction(text) == Direction::Rtl;
        if is_rtl { Writing::RightToLeft } else { Writing::LeftToRight }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_letter_decides() {
        assert_eq!(Writing::of("12 שלום tide"), Writing::RightToLeft);
        assert_eq!(Writing::of("tide שלום"), Writing::LeftToRight);
        assert_eq!(Writing::of("潮 ⟶ 4"), Writing::LeftToRight);
        assert_eq!(Writing::of(""), Writing::LeftToRight);
    }
}

//! Places in a text as a browser counts them, in UTF-16 units, and as we do, in bytes.

use bathygram_core::source::Units;

/// A text with what is needed to count in both ways quickly.
pub(crate) struct Positions<'a> {
    text: &'a str,
    /// Nothing where both are the same.
    units: Option<Units>,
}

impl<'a> Positions<'a> {
    pub(crate) fn new(text: &'a str) -> Self {
        Self { text, units: (!text.is_ascii()).then(|| Units::new(text, char::len_utf16)) }
    }

    /// The byte at a unit; inside of a character, where that begins.
    pub(crate) fn byte(&self, unit: usize) -> usize {
        self.units.as_ref().map_or(unit.min(self.text.len()), |units| units.byte(self.text, unit))
    }

    /// The unit at a byte.
    pub(crate) fn unit(&self, byte: usize) -> usize {
        self.units.as_ref().map_or(byte.min(self.text.len()), |units| units.before(self.text, byte))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_ways_of_counting_lead_back() {
        for text in ["", "plain\ntext", "tïde\n🌊 surge\n\nébb", "\u{feff}a\r\nb"] {
            let positions = Positions::new(text);
            let mut unit = 0;
            for (byte, letter) in text.char_indices() {
                assert_eq!((positions.unit(byte), positions.byte(unit)), (unit, byte), "{text:?} at {byte}");
                unit += letter.len_utf16();
            }
            assert_eq!((positions.unit(text.len()), positions.byte(unit)), (unit, text.len()), "{text:?}");
            assert_eq!((positions.unit(text.len() + 9), positions.byte(unit + 9)), (unit, text.len()), "{text:?}");
        }
        // Inside of a pair of units.
        assert_eq!(Positions::new("🌊a").byte(1), 0);
    }
}

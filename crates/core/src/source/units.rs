//! A text counted in other units than bytes: letters, or the units of UTF-16 in which editors and browsers count.

/// How far apart the bytes are for which the count is kept. A text of 16 MB has 65,000 of them, and what lies between two is counted in
/// less than a microsecond.
const STEP: usize = 256;

/// How many units of a text stand before each of its bytes, however long the text or one of its lines is.
#[derive(Clone, Debug)]
pub struct Units {
    /// The units of the characters that begin before every [`STEP`]th byte.
    before: Vec<usize>,
    length: fn(char) -> usize,
}

impl Units {
    /// Counts a text; `length` is how many units a character has.
    pub fn new(text: &str, length: fn(char) -> usize) -> Self {
        let mut before = Vec::with_capacity(text.len() / STEP + 1);
        let mut units = 0;
        for (at, c) in text.char_indices() {
            if before.len() * STEP <= at {
                before.push(units);
            }
            units += length(c);
        }
        Self { before, length }
    }

    /// How many units of the text stand before a byte; before the character that it lies in.
    pub fn before(&self, text: &str, byte: usize) -> usize {
        let byte = text.floor_char_boundary(byte);
        let (start, units) = self.known(text, (byte / STEP).min(self.before.len().saturating_sub(1)));
        units + text.get(start..byte).map_or(0, |rest| rest.chars().map(self.length).sum())
    }

    /// The byte behind so many units; where the character begins that they end in.
    pub fn byte(&self, text: &str, units: usize) -> usize {
        let number = self.before.partition_point(|before| *before <= units).saturating_sub(1);
        let (start, mut seen) = self.known(text, number);
        for (at, c) in text[start..].char_indices() {
            seen += (self.length)(c);
            if seen > units {
                return start + at;
            }
        }
        text.len()
    }

    /// A character from which it is known how many units stand before it.
    fn known(&self, text: &str, number: usize) -> (usize, usize) {
        (text.ceil_char_boundary(number * STEP), self.before.get(number).copied().unwrap_or(0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_ways_of_counting_lead_back() {
        let long = "tïde 🌊 surge, ébb; ".repeat(300);
        for text in ["", "plain\ntext", "tïde\n🌊 surge\n\nébb", "\u{feff}a\r\nb", &long, &"🌊".repeat(400)] {
            for length in [char::len_utf8, char::len_utf16, |_| 1] {
                let units = Units::new(text, length);
                let mut count = 0;
                for (byte, c) in text.char_indices() {
                    assert_eq!(
                        (units.before(text, byte), units.byte(text, count)),
                        (count, byte),
                        "{text:?} at {byte}"
                    );
                    count += length(c);
                }
                assert_eq!((units.before(text, text.len()), units.byte(text, count)), (count, text.len()), "{text:?}");
                assert_eq!((units.before(text, text.len() + 9), units.byte(text, count + 9)), (count, text.len()));
            }
        }
        let wave = Units::new("🌊a", char::len_utf16);
        assert_eq!(
            (wave.byte("🌊a", 1), wave.before("🌊a", 2)),
            (0, 0),
            "inside of a pair of units, and of a character"
        );
    }
}

//! Places in a text as a browser counts them, in UTF-16 units, and as we do, in bytes.

/// A text with what is needed to count in both ways quickly.
pub(crate) struct Positions<'a> {
    text: &'a str,
    /// Where each line begins, in bytes and in units; nothing where both are the same.
    lines: Vec<(usize, usize)>,
}

impl<'a> Positions<'a> {
    pub(crate) fn new(text: &'a str) -> Self {
        let mut lines = Vec::new();
        if !text.is_ascii() {
            let (mut byte, mut unit) = (0, 0);
            for line in text.split_inclusive('\n') {
                lines.push((byte, unit));
                byte += line.len();
                unit += units(line);
            }
            lines.push((byte, unit));
        }
        Self { text, lines }
    }

    /// The byte at a unit; inside of a character, where that begins.
    pub(crate) fn byte(&self, unit: usize) -> usize {
        let at = self.lines.partition_point(|(_, own)| *own <= unit);
        let Some((start, mut seen)) = at.checked_sub(1).map(|at| self.lines[at]) else {
            return unit.min(self.text.len());
        };
        for (byte, letter) in self.text[start..].char_indices() {
            if seen + letter.len_utf16() > unit {
                return start + byte;
            }
            seen += letter.len_utf16();
        }
        self.text.len()
    }

    /// The unit at a byte.
    pub(crate) fn unit(&self, byte: usize) -> usize {
        let byte = byte.min(self.text.len());
        let at = self.lines.partition_point(|(own, _)| *own <= byte);
        let Some((start, seen)) = at.checked_sub(1).map(|at| self.lines[at]) else { return byte };
        seen + self.text.get(start..byte).map_or(0, units)
    }
}

fn units(text: &str) -> usize {
    text.chars().map(char::len_utf16).sum()
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
            assert_eq!(positions.byte(unit + 9), text.len());
        }
        // Inside of a pair of units.
        assert_eq!(Positions::new("🌊a").byte(1), 0);
    }
}

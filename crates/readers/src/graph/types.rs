//! The types of properties, by what their values look like.

/// What values may be, as bits: each value rules some out.
#[derive(Clone, Copy, Debug)]
pub(super) struct Stat {
    /// How many have a value.
    pub(super) count: u64,
    may_be: u8,
}

const BOOLEAN: u8 = 1;
const INTEGER: u8 = 2;
const DECIMAL: u8 = 4;
const DATE: u8 = 8;
const TIME: u8 = 16;

impl Default for Stat {
    fn default() -> Self {
        Self { count: 0, may_be: BOOLEAN | INTEGER | DECIMAL | DATE | TIME }
    }
}

impl Stat {
    /// Takes a value into account.
    pub(super) fn take(&mut self, value: &[u8]) {
        self.count += 1;
        // Texts stay texts.
        if self.may_be == 0 {
            return;
        }
        if self.may_be & BOOLEAN > 0 && !matches!(value, b"true" | b"false" | b"True" | b"False" | b"TRUE" | b"FALSE") {
            self.may_be &= !BOOLEAN;
        }
        if self.may_be & (INTEGER | DECIMAL) > 0 {
            self.may_be &= !(INTEGER | DECIMAL) | number(value);
        }
        if self.may_be & (DATE | TIME) > 0 {
            self.may_be &= !(DATE | TIME) | date(value);
        }
    }

    /// The word for its type.
    pub(super) fn word(&self) -> &'static str {
        match self.may_be {
            b if b & BOOLEAN > 0 => "Boolean",
            b if b & INTEGER > 0 => "Integer",
            b if b & DECIMAL > 0 => "Decimal",
            b if b & DATE > 0 => "Date",
            b if b & TIME > 0 => "Time",
            _ => "Text",
        }
    }
}

/// Counts a value of a property.
pub(super) fn take(stats: &mut Vec<Stat>, property: u32, value: &[u8]) {
    let at = property as usize;
    if stats.len() <= at {
        stats.resize(at + 1, Stat::default());
    }
    stats[at].take(value);
}

/// Whether it is a whole or a decimal number.
fn number(value: &[u8]) -> u8 {
    let digits = value.strip_prefix(b"-").or(value.strip_prefix(b"+")).unwrap_or(value);
    // Figures with a zero before them are codes, not numbers.
    let is_code = digits.len() > 1 && digits[0] == b'0' && digits[1].is_ascii_digit();
    if digits.is_empty() || is_code {
        return 0;
    }
    if digits.iter().all(u8::is_ascii_digit) {
        return INTEGER | DECIMAL;
    }
    let is_number = digits[0].is_ascii_digit() || digits[0] == b'.';
    // Figures, a point, figures: most are, and need no closer look.
    let is_plain = |c: &u8| c.is_ascii_digit() || *c == b'.';
    if is_number && digits.iter().all(is_plain) && digits.iter().filter(|c| **c == b'.').count() == 1 {
        return if digits.len() > 1 { DECIMAL } else { 0 };
    }
    let parses = || std::str::from_utf8(digits).is_ok_and(|text| text.parse::<f64>().is_ok());
    if is_number && parses() { DECIMAL } else { 0 }
}

/// Whether it is a date, or a date with a time (ISO 8601).
fn date(value: &[u8]) -> u8 {
    let shape = |value: &[u8], shape: &[u8]| {
        value.len() == shape.len()
            && value.iter().zip(shape).all(|(c, s)| if *s == b'0' { c.is_ascii_digit() } else { c == s })
    };
    let Some((day, rest)) = value.split_at_checked(10) else { return 0 };
    if !shape(day, b"0000-00-00") {
        return 0;
    }
    let is_time = rest.len() >= 6 && matches!(rest[0], b'T' | b' ') && shape(&rest[1..6], b"00:00");
    match rest {
        [] => DATE,
        _ if is_time => TIME,
        _ => 0,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn types_are_told_by_all_values() {
        let word = |values: &[&str]| {
            let mut stat = Stat::default();
            values.iter().for_each(|value| stat.take(value.as_bytes()));
            stat.word()
        };
        for (values, wanted) in [
            (&["1", "-2", "30"][..], "Integer"),
            (&["1", "2.5", "1e3"], "Decimal"),
            (&["true", "False"], "Boolean"),
            (&["2026-11-30", "2025-01-01"], "Date"),
            (&["2026-11-30T01:02", "2026-11-30 01:02:03Z"], "Time"),
            (&["1", "two"], "Text"),
            (&["007", "008"], "Text"),
            (&["2026-11-30", "later"], "Text"),
            (&["nan", "inf"], "Text"),
            (&["-", "+"], "Text"),
        ] {
            assert_eq!(word(values), wanted, "{values:?}");
        }
    }
}

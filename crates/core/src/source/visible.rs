//! Text of unknown origin, as people may see it. Input: a text that a file, a name or git gave. Output: the same in one line, in which
//! nothing moves the cursor, hides what stands there, or turns its order around: such characters are written as `\u{1b}`.

use std::borrow::Cow;
use std::fmt::Write;

/// A text in a message is cut to this many characters.
// Two screens wide; a label of megabytes says no more.
const LONGEST: usize = 400;
/// This many of them are those of its end.
const END: usize = 100;

/// Whether a character has no shape of its own, and changes how others are seen: controls of directions (Unicode Standard Annex 9),
/// separators of lines, and tags. The joiners, which letters and signs need, are none.
pub fn is_invisible(c: char) -> bool {
    matches!(
        c,
        '\u{61c}' | '\u{200b}' | '\u{200e}' | '\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}'
            | '\u{fff9}'..='\u{fffb}' | '\u{e0000}'..='\u{e007f}'
    )
}

/// A text in one line without anything that acts on a terminal: ends of lines and tabs are spaces, other characters without a shape
/// are written as their numbers.
pub fn visible(text: &str) -> Cow<'_, str> {
    escaped(text, |c| matches!(c, '\n' | '\r' | '\t'), |_| ' ')
}

/// As [`visible`], with the lines and tabs that a text has.
pub fn visible_lines(text: &str) -> Cow<'_, str> {
    escaped(text, |c| matches!(c, '\n' | '\t'), |c| c)
}

fn escaped(text: &str, is_known: impl Fn(char) -> bool, known: impl Fn(char) -> char) -> Cow<'_, str> {
    if !text.chars().any(|c| c.is_control() || is_invisible(c)) {
        return Cow::Borrowed(text);
    }
    let mut out = String::with_capacity(text.len() + 8);
    for c in text.chars() {
        if is_known(c) {
            out.push(known(c));
        } else if c.is_control() || is_invisible(c) {
            let _ = write!(out, "\\u{{{:x}}}", u32::from(c));
        } else {
            out.push(c);
        }
    }
    Cow::Owned(out)
}

/// As [`visible`], cut in its middle where it is longer than a message may be.
pub fn visible_cut(text: &str) -> Cow<'_, str> {
    if text.len() <= LONGEST || text.chars().count() <= LONGEST {
        return visible(text);
    }
    let start: String = text.chars().take(LONGEST - END).collect();
    let end: Vec<char> = text.chars().rev().take(END).collect();
    let end: String = end.into_iter().rev().collect();
    Cow::Owned(format!("{} … {}", visible(&start), visible(&end)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_acts_on_a_terminal_is_written_out() {
        assert_eq!(visible("gauge \u{1b}[2J\u{7}\nb"), "gauge \\u{1b}[2J\\u{7} b");
        assert_eq!(visible("a\u{202e}b\u{9b}1m"), "a\\u{202e}b\\u{9b}1m");
        assert_eq!(visible_lines("a\nb\tc\r"), "a\nb\tc\\u{d}");
        for text in ["Größe", "👩‍🔬 mia", "می‌خواهم", ""] {
            assert_eq!(visible(text), text);
        }
    }

    #[test]
    fn long_texts_are_cut() {
        let long = "ä".repeat(1_000_000) + "end";
        let cut = visible_cut(&long);
        assert!(cut.ends_with("end") && cut.contains(" … ") && cut.chars().count() == LONGEST + 3);
        assert_eq!(visible_cut("short"), "short");
    }
}

//! Which lines formatting changes. Input: the lines of a text, and those of its canonical form. Output: [`LineChange`]s. Formatting
//! may change every line and takes empty ones away, which a general comparison of lists pays for with the square of their number;
//! here lines are known by their words, in O(n log n).

use crate::source::increasing::kept;
use std::collections::{HashMap, VecDeque};
use std::ops::Range;

/// Lines of a text, and what stands there instead, by their places.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LineChange {
    /// In the text.
    pub old: Range<usize>,
    /// In its canonical form.
    pub new: Range<usize>,
}

/// What formatting changes, in order. A line that only has other spaces is a change of its own.
pub fn line_changes(old: &[&str], new: &[&str]) -> Vec<LineChange> {
    let mut found = Vec::new();
    let mut next = (0, 0);
    for (i, j) in same_words(old, new).into_iter().chain([(old.len(), new.len())]) {
        between(old, new, LineChange { old: next.0..i, new: next.1..j }, &mut found);
        if i < old.len() && old[i] != new[j] {
            // What is put in right before a line that changes is one change with it: both would begin at one place.
            let put_in = found.pop_if(|last| last.old.is_empty() && last.old.end == i && last.new.end == j);
            found.push(LineChange { old: i..i + 1, new: put_in.map_or(j, |last| last.new.start)..j + 1 });
        }
        next = (i + 1, j + 1);
    }
    found
}

/// Lines with the same words, in an order that both have; each with its place in the other text.
fn same_words(old: &[&str], new: &[&str]) -> Vec<(usize, usize)> {
    let words = |line: &str| Some(line.split_whitespace().collect::<String>()).filter(|words| !words.is_empty());
    let mut places: HashMap<String, VecDeque<usize>> = HashMap::new();
    for (j, line) in new.iter().enumerate() {
        if let Some(words) = words(line) {
            places.entry(words).or_default().push_back(j);
        }
    }
    let place = |(i, line): (usize, &&str)| Some((i, places.get_mut(&words(line)?)?.pop_front()?));
    let pairs: Vec<(usize, usize)> = old.iter().enumerate().filter_map(place).collect();
    let stays = kept(&pairs.iter().map(|(_, j)| *j).collect::<Vec<_>>());
    pairs.into_iter().zip(stays).filter(|(_, stays)| *stays).map(|(pair, _)| pair).collect()
}

/// What changes between two lines that stay: all but what is the same at both ends.
fn between(old: &[&str], new: &[&str], gap: LineChange, found: &mut Vec<LineChange>) {
    let (mut before, mut after) = (&old[gap.old.clone()], &new[gap.new.clone()]);
    let (mut from, mut to) = (gap.old.start, gap.new.start);
    while let ([a, rest @ ..], [b, other @ ..]) = (before, after)
        && a == b
    {
        (before, after, from, to) = (rest, other, from + 1, to + 1);
    }
    while let ([rest @ .., a], [other @ .., b]) = (before, after)
        && a == b
    {
        (before, after) = (rest, other);
    }
    if !before.is_empty() || !after.is_empty() {
        found.push(LineChange { old: from..from + before.len(), new: to..to + after.len() });
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The lines of a text after its changes.
    fn changed<'a>(old: &[&'a str], new: &[&'a str]) -> Vec<&'a str> {
        let mut lines = Vec::new();
        let mut next = 0;
        for change in line_changes(old, new) {
            lines.extend(&old[next..change.old.start]);
            lines.extend(&new[change.new]);
            next = change.old.end;
        }
        lines.extend(&old[next..]);
        lines
    }

    #[test]
    fn changes_lead_from_a_text_to_its_form() {
        let texts = [
            ("", ""),
            ("a\n\n\nb", "a\n\nb"),
            ("  a  b\n c\n", "a b\n  c\n"),
            ("pin b\npin a\nx", "x\npin a\npin b"),
            ("\n\na\n", "a\n"),
            ("a\na\nb", "b\na\na"),
            ("a", "b\nc"),
        ];
        for (old, new) in texts {
            let lines = |text: &'static str| text.split('\n').collect::<Vec<_>>();
            assert_eq!(changed(&lines(old), &lines(new)), lines(new), "{old:?}");
        }
        let one = line_changes(&["x", " a  b", "", "", "c"], &["x", "a b", "", "c"]);
        let change = |old, new| LineChange { old, new };
        assert_eq!(one, [change(1..2, 1..2), change(3..4, 3..3)], "what stays is no part of a change");
        assert_eq!(line_changes(&["a", " b"], &["a", "", "b"]), [change(1..2, 1..3)]);
    }
}

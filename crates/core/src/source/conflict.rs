//! Merge conflicts in a text, as git marks them: lines that begin with seven `<`, `|`, `=` and `>`. Guarantees: a text without
//! such lines is left alone; both sides of a text with them can be had, and one of them byte for byte at its places.

use std::borrow::Cow;
use std::ops::Range;

/// How many letters make a mark.
// git's `merge.conflictMarkerSize`, where nothing else is asked for.
const LENGTH: usize = 7;

/// A conflict in a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Conflict {
    /// The bytes of its first mark, without the line break.
    pub mark: Range<usize>,
    /// What the side above is called, such as `HEAD`; empty where nothing is said.
    pub ours: String,
    /// What the side below is called.
    pub theirs: String,
}

/// One of the two sides.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Choice {
    /// The one above, which git calls ours.
    Ours,
    /// The one below, which git calls theirs.
    Theirs,
}

/// What a line is among the others.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Row {
    Text,
    Mark,
    Ours,
    Base,
    Theirs,
}

/// The conflicts of a text, in order. A mark that stands alone, left over from one, is one too.
pub fn conflicts(text: &str) -> Vec<Conflict> {
    rows(text).1
}

/// One side of a text with conflicts.
pub fn side(text: &str, choice: Choice) -> String {
    let is_kept = |row: &Row| match choice {
        Choice::Ours => matches!(row, Row::Text | Row::Ours),
        Choice::Theirs => matches!(row, Row::Text | Row::Theirs),
    };
    let (rows, _) = rows(text);
    text.split_inclusive('\n').zip(rows).filter(|(_, row)| is_kept(row)).map(|(line, _)| line).collect()
}

/// The side above, with spaces in place of all else: what is left stands where it stood.
pub(crate) fn without_marks(text: &str) -> Cow<'_, str> {
    if !text.contains("<<<<<<<") && !text.contains(">>>>>>>") {
        return Cow::Borrowed(text);
    }
    let (rows, conflicts) = rows(text);
    if conflicts.is_empty() {
        return Cow::Borrowed(text);
    }
    let mut out = String::with_capacity(text.len());
    for (line, row) in text.split_inclusive('\n').zip(rows) {
        if matches!(row, Row::Text | Row::Ours) {
            out.push_str(line);
            continue;
        }
        let end = line.trim_end_matches(['\n', '\r']).len();
        out.extend(std::iter::repeat_n(' ', end));
        out.push_str(&line[end..]);
    }
    Cow::Owned(out)
}

/// What follows a mark of a letter in a line, if the line is one.
fn mark(line: &str, letter: char) -> Option<&str> {
    let line = line.trim_end_matches(['\n', '\r']);
    let rest = line.trim_start_matches(letter);
    let is_mark = line.len() - rest.len() == LENGTH && (rest.is_empty() || rest.starts_with(' '));
    is_mark.then(|| rest.trim())
}

fn rows(text: &str) -> (Vec<Row>, Vec<Conflict>) {
    let (mut rows, mut conflicts) = (Vec::new(), Vec::<Conflict>::new());
    let mut inside = Row::Text;
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let place = at..at + line.trim_end_matches(['\n', '\r']).len();
        at += line.len();
        let row = if let Some(ours) = mark(line, '<') {
            conflicts.push(Conflict { mark: place, ours: ours.to_owned(), theirs: String::new() });
            inside = Row::Ours;
            Row::Mark
        } else if mark(line, '|').is_some() && inside == Row::Ours {
            inside = Row::Base;
            Row::Mark
        } else if mark(line, '=').is_some() && matches!(inside, Row::Ours | Row::Base) {
            inside = Row::Theirs;
            Row::Mark
        } else if let Some(theirs) = mark(line, '>') {
            match conflicts.last_mut().filter(|_| inside != Row::Text) {
                Some(conflict) => theirs.clone_into(&mut conflict.theirs),
                None => conflicts.push(Conflict { mark: place, ours: String::new(), theirs: theirs.to_owned() }),
            }
            inside = Row::Text;
            Row::Mark
        } else {
            inside
        };
        rows.push(row);
    }
    (rows, conflicts)
}

#[cfg(test)]
mod tests {
    use super::*;

    const TEXT: &str =
        "flow f\n<<<<<<< HEAD\n  \"ä\"\n||||||| base\n  \"o\"\n=======\n  \"b\"\n>>>>>>> topic\n  \"c\"\n";

    #[test]
    fn both_sides_are_found() {
        let found = conflicts(TEXT);
        assert_eq!((found.len(), found[0].ours.as_str(), found[0].theirs.as_str()), (1, "HEAD", "topic"));
        assert_eq!(&TEXT[found[0].mark.clone()], "<<<<<<< HEAD");
        assert_eq!(side(TEXT, Choice::Ours), "flow f\n  \"ä\"\n  \"c\"\n");
        assert_eq!(side(TEXT, Choice::Theirs), "flow f\n  \"b\"\n  \"c\"\n");
        let left = without_marks(TEXT);
        assert_eq!(left.len(), TEXT.len());
        assert_eq!(left.find("\"c\""), TEXT.find("\"c\""));
        assert!(left.contains("\"ä\"") && !left.contains("\"b\"") && !left.contains('<'));
        let windows = TEXT.replace('\n', "\r\n");
        assert_eq!(side(&windows, Choice::Theirs), "flow f\r\n  \"b\"\r\n  \"c\"\r\n");
    }

    #[test]
    fn other_texts_are_left_alone() {
        for text in ["", "flow f\n  \"<<<<<<< HEAD\"\n", "=======\n", "<<<<<<<< eight\n", "<<<<<<<HEAD\n"] {
            assert!(conflicts(text).is_empty(), "{text}");
            assert!(matches!(without_marks(text), Cow::Borrowed(_)), "{text}");
        }
        assert_eq!(conflicts("flow f\n>>>>>>> topic\n").len(), 1, "a mark that was left over");
    }
}

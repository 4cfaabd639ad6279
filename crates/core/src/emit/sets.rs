//! Sets: what one line says of several elements is written in one line again. Names that count up are a range.

use crate::source::Span;
use std::collections::HashSet;
use std::hash::Hash;

/// Names with commas between them; three or more that count up are a range.
pub(super) fn folded(names: Vec<String>) -> String {
    let mut out: Vec<String> = Vec::new();
    let mut at = 0;
    while at < names.len() {
        let run = run_length(&names[at..]);
        if run > 2 {
            out.push(format!("{}..{}", names[at], names[at + run - 1]));
        } else {
            out.extend_from_slice(&names[at..at + run]);
        }
        at += run;
    }
    out.join(", ")
}

/// How many names from the first on count up by one.
fn run_length(names: &[String]) -> usize {
    let first = numbered(&names[0]);
    let Some((stem, number)) = first else { return 1 };
    let goes_on = |(i, name): &(usize, &String)| numbered(name) == Some((stem, number + *i as u64));
    names.iter().enumerate().take_while(goes_on).count().max(1)
}

/// A name that ends with a number as it is counted, without leading zeros.
fn numbered(name: &str) -> Option<(&str, u64)> {
    let stem = name.trim_end_matches(|c: char| c.is_ascii_digit());
    let figures = &name[stem.len()..];
    let is_counted = !stem.is_empty() && !figures.is_empty() && (figures == "0" || !figures.starts_with('0'));
    figures.parse().ok().filter(|_| is_counted && !name.contains(['`', '"', '.'])).map(|n| (stem, n))
}

/// Things in groups: those behind each other that were read at one place, and may be written at once. What was read nowhere
/// stays alone.
pub(super) fn grouped<T>(all: &[T], span: impl Fn(&T) -> Span, at_once: impl Fn(&[T]) -> bool) -> Vec<&[T]> {
    let is_one_line = |a: &T, b: &T| span(a) == span(b) && span(a) != Span::default();
    let mut out = Vec::new();
    for group in all.chunk_by(is_one_line) {
        if group.len() == 1 || at_once(group) {
            out.push(group);
        } else {
            out.extend(group.chunks(1));
        }
    }
    out
}

/// The first and the second members of pairs, each once, in order, if the pairs are all that can be made of them; pairs of
/// one with itself are left out where there are others.
pub(super) fn product<A: Eq + Hash + Clone>(pairs: &[(A, A)]) -> Option<(Vec<A>, Vec<A>)> {
    let from = each_once(pairs.iter().map(|(a, _)| a));
    let to = each_once(pairs.iter().map(|(_, b)| b));
    let all = from.iter().flat_map(|a| to.iter().map(move |b| (a, b)));
    let real: Vec<(&A, &A)> = all.filter(|(a, b)| a != b || pairs.len() == 1).collect();
    let same = real.len() == pairs.len() && real.iter().zip(pairs).all(|((a, b), (x, y))| (*a, *b) == (x, y));
    same.then_some((from, to))
}

fn each_once<'a, A: Eq + Hash + Clone + 'a>(all: impl Iterator<Item = &'a A>) -> Vec<A> {
    let mut seen = HashSet::new();
    all.filter(|one| seen.insert(*one)).cloned().collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn names(list: &[&str]) -> Vec<String> {
        list.iter().map(|s| (*s).to_owned()).collect()
    }

    #[test]
    fn three_that_count_up_are_a_range() {
        assert_eq!(folded(names(&["lamp1", "lamp2", "lamp3", "x"])), "lamp1..lamp3, x");
        assert_eq!(folded(names(&["lamp1", "lamp2"])), "lamp1, lamp2");
        assert_eq!(folded(names(&["a01", "a02", "a03"])), "a01, a02, a03");
        assert_eq!(folded(names(&["lamp3", "lamp2", "lamp1"])), "lamp3, lamp2, lamp1");
    }

    #[test]
    fn all_pairs_are_two_sets() {
        assert_eq!(product(&[(1, 3), (1, 4), (2, 3), (2, 4)]), Some((vec![1, 2], vec![3, 4])));
        assert_eq!(product(&[(1, 2), (2, 1)]), Some((vec![1, 2], vec![2, 1])), "none with itself");
        assert_eq!(product(&[(1, 3), (2, 4)]), None);
        assert_eq!(product(&[(1, 1)]), Some((vec![1], vec![1])));
    }
}

//! Letters that no font has. SVG leaves them to the reader's fonts; PNG and PDF are drawn here, and show a box. Which fonts a
//! machine has is known outside, so the outside is told which letters to look for, and says which were not found.

use crate::diag::{Diagnostics, Message};
use crate::source::Span;
use std::collections::BTreeMap;

/// What was found nowhere: one finding, at the first of them.
pub fn of_missing(missing: &BTreeMap<String, Span>, diags: &mut Diagnostics) {
    let mut order: Vec<(&String, Span)> = missing.iter().map(|(letter, span)| (letter, *span)).collect();
    order.sort_by_key(|(_, span)| span.start);
    if let Some((_, first)) = order.first() {
        let letters = order.iter().map(|(letter, _)| (*letter).clone()).collect();
        diags.report(*first, Message::MissingLetter { letters });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::Source;

    #[test]
    fn one_finding_stands_at_the_first() {
        let source = Source::new("t.bathy", "flow f\n  \"潮 汐\"\n");
        let at = |start: u32| Span { start, end: start + 3, ..Span::default() };
        let missing = BTreeMap::from([("汐".to_owned(), at(14)), ("潮".to_owned(), at(10))]);
        let mut diags = Diagnostics::default();
        of_missing(&missing, &mut diags);
        of_missing(&BTreeMap::new(), &mut diags);
        let reported = diags.into_sorted();
        assert_eq!(reported.len(), 1);
        assert_eq!(source.position(reported[0].span.start), (2, 4));
    }
}

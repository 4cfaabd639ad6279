//! What the words of the language mean, in a sentence each.

use crate::model::{Arrangement, ChoiceWord, DiagramKind, ElementKind, Heading, Placing, Routing, ShownMembers, Verb};
use crate::vocabulary::TraitWord;

/// Words that no list of the language explains.
const OTHERS: &[(&str, &str)] = &[
    ("sheet", "One of several pictures of a block."),
    ("look", "Rules for how things look."),
    ("from", "What is taken from another file."),
    ("caption", "A line under the picture."),
    ("legend", "Explains what occurs in the picture."),
    ("heading", "Which way the picture reads."),
    ("arrange", "How elements are arranged."),
    ("route", "How lines run."),
    ("spacing", "How wide gaps are, from 0.5 to 4."),
    ("row", "These stand level."),
    ("order", "These stand in this order."),
    ("place", "One stands beside another."),
    ("pin", "One stands at a place, in px."),
    ("when", "Only under a condition."),
    ("or", "Else, under another condition."),
    ("otherwise", "In all other cases."),
    ("repeat", "Again and again."),
    ("together", "At the same time."),
    ("and", "The next of what happens at the same time."),
    ("leave", "Leaves what is around it."),
    ("undivided", "Nothing may come in between."),
    ("in", "In a lane, or in order."),
    ("never", "What must not happen."),
    ("see", "What another sequence shows."),
    ("phase", "A heading between messages."),
    ("pause", "Time goes by."),
    ("remark", "A remark beside something."),
    ("section", "A compartment of a classifier."),
    ("key", "What identifies a row."),
    ("unique", "What no two rows share."),
    ("refers", "What several columns refer to."),
    ("check", "What holds for every row."),
    ("multiplicity", "How many there are."),
    ("go", "Goes on elsewhere."),
    ("aside", "What stands beside a step."),
    ("arriving", "Done when a state is entered."),
    ("staying", "Done as long as a state lasts."),
    ("leaving", "Done when a state is left."),
    ("on", "The trigger of a transition."),
    ("do", "What a transition does."),
    ("over", "The protocol."),
    ("within", "How long it may take."),
    ("returning", "What is answered."),
    ("depth", "So many levels are shown."),
    ("tell", "Descriptions are drawn."),
    ("follow", "The messages of a sequence as numbered steps."),
    ("by", "By hosts: what runs where."),
    ("members", "Which members are drawn."),
    ("about", "A description."),
    ("built", "The technology."),
    ("link", "Where more is to be read."),
    ("tag", "Tags, for rules of looks and for sheets."),
    ("icon", "A pictogram."),
    ("code", "The source files."),
    ("owner", "Who looks after it."),
    ("origin", "What it was imported from."),
    ("of", "What it is of."),
    ("picture", "The ground of the picture."),
];

/// What a word means; empty for one that is no word of the language.
pub(super) fn about(word: &str) -> &'static str {
    DiagramKind::from_word(word)
        .map(DiagramKind::about)
        .or_else(|| Verb::from_word(word).map(Verb::about))
        .or_else(|| OTHERS.iter().find(|(own, _)| *own == word).map(|(_, about)| *about))
        .or_else(|| ElementKind::from_word(word).map(ElementKind::about))
        .or_else(|| ChoiceWord::from_word(word).map(ChoiceWord::about))
        .or_else(|| TraitWord::from_word(word).map(TraitWord::about))
        .or_else(|| Heading::from_word(word).map(Heading::about))
        .or_else(|| Arrangement::from_word(word).map(Arrangement::about))
        .or_else(|| Routing::from_word(word).map(Routing::about))
        .or_else(|| ShownMembers::from_word(word).map(ShownMembers::about))
        .or_else(|| Placing::from_word(word).map(Placing::about))
        .unwrap_or("")
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::vocabulary::{BLOCKS, DIAGRAMS, PICTURE, SHEET};

    #[test]
    fn every_word_that_begins_a_line_is_explained() {
        let all = DIAGRAMS.iter().flat_map(|v| v.starters()).chain(SHEET.starters());
        for word in all.chain(BLOCKS.iter().copied()).chain(PICTURE.iter().copied()) {
            assert!(about(word).ends_with('.'), "{word}");
        }
        assert_eq!(about("harbour"), "");
    }
}

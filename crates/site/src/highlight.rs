//! A source as HTML, its words coloured by what they mean.

use bathygram_core::ide::{TokenClass, word_classes_in};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::Span;
use bathygram_outputs::html::escaped_lines;
use std::fmt::Write;
use std::ops::Range;

/// A source is shown whole up to this many bytes.
// Each picture of a file has a page: of a long file with many pictures they would hold it as many times.
const WHOLE: usize = 16 * 1024;

/// A source, or of a long one the block whose first line is given.
pub(crate) fn source(reading: &Reading, block: Span) -> String {
    let all = reading.source.text.as_str();
    let part = if all.len() <= WHOLE { 0..all.len() } else { part(reading, block) };
    let text = &all[..part.end];
    let mut out = String::with_capacity(2 * part.len());
    let mut at = part.start;
    for word in word_classes_in(reading, part.start as u32..part.end as u32) {
        let range = word.span.range();
        let Some(plain) = text.get(at..range.start).filter(|_| range.start >= at) else { continue };
        let Some(shown) = text.get(range.clone()) else { continue };
        out.push_str(&escaped_lines(plain));
        let _ = write!(out, "<span class=\"{}\">{}</span>", class(word.class), escaped_lines(shown));
        at = range.end;
    }
    out.push_str(&escaped_lines(text.get(at..).unwrap_or_default()));
    out
}

/// The lines of a block, up to the next one.
fn part(reading: &Reading, block: Span) -> Range<usize> {
    let roots = &reading.tree.roots;
    let starts = |number: usize| roots.get(number).map(|id| reading.tree.line(*id).span.start as usize);
    let own = roots.partition_point(|id| reading.tree.line(*id).span.start < block.start);
    starts(own).unwrap_or_default()..starts(own + 1).unwrap_or(reading.source.text.len())
}

fn class(class: TokenClass) -> &'static str {
    match class {
        TokenClass::Keyword | TokenClass::Verb => "w-key",
        TokenClass::Kind => "w-kind",
        TokenClass::Property => "w-property",
        TokenClass::Block | TokenClass::Element => "w-name",
        TokenClass::Text => "w-text",
        TokenClass::Number => "w-number",
        TokenClass::Comment => "w-comment",
    }
}

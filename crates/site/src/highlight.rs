//! A source as HTML, its words coloured by what they mean.

use bathygram_core::ide::{TokenClass, word_classes};
use bathygram_core::pipeline::Reading;
use bathygram_outputs::html::escaped_lines;
use std::fmt::Write;

/// The lines of a source, each with its number as an anchor.
pub(crate) fn source(reading: &Reading) -> String {
    let text = reading.source.text.as_str();
    let mut out = String::with_capacity(2 * text.len());
    let mut at = 0;
    for word in word_classes(reading) {
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

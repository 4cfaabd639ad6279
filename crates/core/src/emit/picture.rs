//! The first line of a block, and lines about its picture.

use super::lines::Lines;
use super::phrases::{Naming, clause, label, name, text};
use crate::model::{Constraint, Content, Diagram, Element, ElementId, Picture, Sheet, WrittenConstraint};
use crate::source::{Span, Spanned};

/// The first line of a diagram.
pub(super) fn header(diagram: &Diagram) -> String {
    let mut traits: Vec<(Span, String)> = Vec::new();
    if diagram.declared {
        traits.push((Span::default(), "declared".to_owned()));
    }
    let mut of = String::new();
    match &diagram.content {
        Content::Sequence(interaction) => {
            of = interaction.of.as_ref().map(|base| format!(" of {}", name(base, &[]))).unwrap_or_default();
            let flags = [("numbered", interaction.numbered), ("foot", interaction.foot)];
            traits.extend(flags.iter().filter(|(_, is)| *is).map(|(word, _)| (Span::default(), (*word).to_owned())));
        }
        Content::Classes(classes) => {
            let here = classes.crows_feet.filter(|span| is_within(diagram.span, *span));
            traits.extend(here.map(|span| (span, "multiplicity crowfoot".to_owned())));
        }
        _ => {}
    }
    let own = words(&diagram.picture).into_iter().filter(|(span, _)| is_within(diagram.span, *span));
    traits.extend(own);
    traits.sort_by_key(|(span, _)| span.start);
    let traits: Vec<String> = traits.into_iter().map(|(_, t)| t).collect();
    let traits = if traits.is_empty() { String::new() } else { format!(" ({})", traits.join(", ")) };
    let (kind, own) = (diagram.kind.word(), name(&diagram.name, &[]));
    format!("{kind} {own}{of}{}{traits}", label(diagram.title.as_ref()))
}

/// The first line of a sheet.
pub(super) fn sheet_header(sheet: &Sheet) -> String {
    let own = words(&sheet.picture).into_iter().filter(|(span, _)| is_within(sheet.span, *span));
    let traits: Vec<String> = own.map(|(_, t)| t).collect();
    let traits = if traits.is_empty() { String::new() } else { format!(" ({})", traits.join(", ")) };
    let (own, of) = (name(&sheet.name, &[]), name(&sheet.of, &[]));
    format!("sheet {own} of {of}{}{traits}", label(sheet.title.as_ref()))
}

/// Words about a picture, each with where it was read.
fn words(picture: &Picture) -> Vec<(Span, String)> {
    fn said<T>(out: &mut Vec<(Span, String)>, word: &str, value: &Option<Spanned<T>>, written: impl Fn(&T) -> String) {
        out.extend(value.as_ref().map(|v| (v.span, format!("{word} {}", written(&v.value)))));
    }
    let mut out = Vec::new();
    said(&mut out, "heading", &picture.heading, |h| h.word().to_owned());
    said(&mut out, "arrange", &picture.arrangement, |a| a.word().to_owned());
    said(&mut out, "route", &picture.routing, |r| r.word().to_owned());
    said(&mut out, "spacing", &picture.spacing, f64::to_string);
    out.sort_by_key(|(span, _)| span.start);
    out
}

/// Whether something was read in a line.
pub(super) fn is_within(line: Span, span: Span) -> bool {
    line.source == span.source && line.start <= span.start && span.end <= line.end
}

/// The lines about a picture that stand at the level of the block, below its first line.
pub(super) fn lines(block: Span, picture: &Picture, naming: &Naming<'_>, lines: &mut Lines) {
    for (span, word) in words(picture).into_iter().filter(|(span, _)| !is_within(block, *span)) {
        lines.push(span, word);
    }
    if let Some(caption) = &picture.caption {
        lines.push(caption.span, clause("caption", Some(caption)).trim_start().to_owned());
    }
    if let Some(span) = picture.legend {
        lines.push(span, "legend".to_owned());
    }
    constraints(picture, None, block, naming, lines);
}

/// Constraints that were written in the body of an element, or at the level of the block.
pub(super) fn constraints(
    picture: &Picture, written_in: Option<ElementId>, block: Span, naming: &Naming<'_>, lines: &mut Lines,
) {
    // A heading is that of the element in whose body it stands.
    let stands_in = |written: &WrittenConstraint| {
        if let Constraint::Heading(id, _) = written.constraint { Some(id) } else { written.written_in }
    };
    for written in picture.constraints.iter().filter(|h| stands_in(h) == written_in && h.span.source == block.source) {
        let line = written.constraint.written(|ids| naming.paths(ids, written_in));
        lines.push(written.span, line);
    }
}

/// A remark on its targets; `written_in` the only one of them, it needs no name.
pub(super) fn remark(
    remark: &Element, targets: &[ElementId], written_in: Option<ElementId>, naming: &Naming<'_>,
) -> String {
    let on = match targets {
        [only] if Some(*only) == written_in => String::new(),
        [only] => format!(" on {}", naming.path(*only, written_in)),
        several => format!(" across {}", naming.paths(several, written_in)),
    };
    let said = remark.label.as_ref().map(text).unwrap_or_else(|| "\"\"".to_owned());
    format!("remark{on} {said}{}", super::phrases::traits(&remark.traits))
}

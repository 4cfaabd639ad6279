//! A constraint about the picture that the layout does not keep. Which ones it keeps is known once the picture is laid out, so
//! the pipeline asks the layout's report; a sequence has a layout of its own, which keeps the order of its parties.

use crate::diag::{Diagnostics, Message};
use crate::model::{Diagram, DiagramKind, Heading, Unmet};

/// The constraints of a sequence: its layout reads down, and arranges and routes in one way only. Its parties stand in the
/// order that was asked for, as far as nothing contradicts.
pub(super) fn of_sequence(diagram: &Diagram, diags: &mut Diagnostics) {
    if diagram.kind != DiagramKind::Sequence {
        return;
    }
    let picture = &diagram.picture;
    let words = [
        (picture.arrangement.as_ref().map(|a| a.span), "arrange"),
        (picture.routing.as_ref().map(|r| r.span), "route"),
        (picture.spacing.as_ref().filter(|s| s.value != 1.0).map(|s| s.span), "spacing"),
        (picture.heading.as_ref().filter(|h| h.value != Heading::Down).map(|h| h.span), "heading"),
    ];
    for (span, word) in words {
        span.into_iter().for_each(|span| diags.report(span, Message::SequenceReadsDown { word }));
    }
    for i in diagram.columns().dropped {
        let written = &picture.constraints[i];
        diags.report(written.span, Message::HintNotKept { word: written.constraint.word(), against: None });
    }
}

/// What a drawing could not keep.
pub fn of_drawing(unmet: &[Unmet], diags: &mut Diagnostics) {
    for one in unmet {
        diags.report(one.span, Message::HintNotKept { word: one.word, against: one.against.clone() });
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;
    use crate::pipeline::{DrawOptions, Setting, Studio, draw, read};
    use crate::source::Source;

    /// The lines of what the drawing of a text does not keep.
    fn unmet(text: &str) -> Vec<u32> {
        let reading = read(Source::new("t.bathy", text), "t", &Setting::default());
        let view = reading.pictures().next().expect("a picture").view();
        let drawing = draw(&Studio::new(), &reading, &view, &DrawOptions::default());
        drawing.unmet.iter().map(|u| reading.source.line(u.span.start)).collect()
    }

    #[test]
    fn constraints_that_are_not_kept_are_reported() {
        // What leads to something cannot stand below it.
        let text = "network n (arrange layered)\n  a joins b\n  b joins c\n  row a, b\n  place a below c\n";
        assert_eq!(unmet(text), [5]);
        assert_eq!(unmet("network n\n  a joins b\n  heading right\n  spacing 1.5\n  arrange force\n"), [0; 0]);
        let circle = "architecture a\n  service x\n  service y\n  service z\n  x uses y\n  x uses z\n  y uses z\n";
        assert_eq!(unmet(&format!("{circle}  arrange tree\n")), [8]);
        assert_eq!(unmet(&format!("{circle}  order x, y\n  order y, x\n")), [9]);
        assert_eq!(lines("sequence s\n  a sends b \"level\"\n  arrange grid\n", "hint-not-kept"), [3]);
    }
}

//! A wish about the picture that the layout does not keep.

use crate::diag::{Diagnostics, Message};
use crate::model::{Arrangement, DiagramKind, Heading, Picture, Routing, Wish};

/// The layout of this version is layered and stepped, and a sequence's reads down. It keeps the `heading` of a
/// whole graph, and no hint about single elements.
pub(super) fn check(picture: &Picture, kind: DiagramKind, diags: &mut Diagnostics) {
    let sequence = kind == DiagramKind::Sequence;
    let arrangement = picture.arrangement.as_ref().filter(|a| sequence || a.value != Arrangement::Layered);
    let routing = picture.routing.as_ref().filter(|r| sequence || r.value != Routing::Stepped);
    let spacing = picture.spacing.as_ref().filter(|s| s.value != 1.0);
    let heading = picture.heading.as_ref().filter(|h| sequence && h.value != Heading::Down);
    let words = [
        (arrangement.map(|a| a.span), "arrange"),
        (routing.map(|r| r.span), "route"),
        (spacing.map(|s| s.span), "spacing"),
        (heading.map(|h| h.span), "heading"),
    ];
    for (span, word) in words {
        span.into_iter().for_each(|span| diags.report(span, Message::HintNotKept { word }));
    }
    for hint in &picture.hints {
        let word = match hint.wish {
            Wish::Row(_) => "row",
            Wish::Order(_) => "order",
            Wish::Place(..) => "place",
            Wish::Pin(..) => "pin",
            Wish::Heading(..) => "heading",
        };
        diags.report(hint.span, Message::HintNotKept { word });
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::{codes, lines};

    #[test]
    fn wishes_that_are_not_kept_are_told() {
        let text =
            "network n (heading right, arrange layered)\n  a joins b\n  row a, b\n  arrange force\n  route stepped\n";
        assert_eq!(lines(text, "hint-not-kept"), [3, 4]);
        assert_eq!(codes("network n\n  a joins b\n  heading right\n  spacing 1\n"), [""; 0]);
    }
}

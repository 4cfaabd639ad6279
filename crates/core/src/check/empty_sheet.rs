//! A sheet that shows nothing.

use crate::diag::{Diagnostics, Message};
use crate::model::{Document, Sheet};
use crate::views::shows_nothing;

/// Sheets whose picture has no element.
pub(super) fn check(document: &Document, sheet: &Sheet, diags: &mut Diagnostics) {
    let Some(diagram) = document.diagram(&sheet.of) else { return };
    if shows_nothing(diagram, sheet) {
        diags.report(sheet.span, Message::EmptySheet { sheet: sheet.name.clone() });
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn a_sheet_shows_something() {
        let text = "architecture a\n  system x (tag t)\nsheet s of a\n  hide tag t\nsheet h of a\n  by hosts\nsheet u of a\n  depth 1\n";
        assert_eq!(lines(text, "empty-sheet"), [3, 5]);
    }
}

//! What a reviewer would ask about. Input: a document. Output: warnings, each with the code of its rule.
//! One rule a file; adding one is copying one and naming it in [`RULES`] and [`run`]. What stops a text
//! from having a meaning is not a rule but an error, and is reported where it is read.

mod ambiguous_transition;
mod dead_end;
mod duplicate_member;
mod duplicate_relation;
mod empty_sheet;
mod endless_loop;
mod extends_interface;
mod forbidden_relation;
mod graph;
pub mod hint_not_kept;
mod inheritance_cycle;
mod judge;
mod member_form;
mod message_to_destroyed;
pub mod missing_letter;
mod no_beginning;
mod no_way_in;
mod no_way_out;
mod refusal;
mod rejection;
mod reply_without_call;
mod same_branch;
pub(crate) mod shown_nowhere;
mod silent_party;
mod two_beginnings;
mod undescribed;
mod unknown_column;
mod unreachable_step;
mod unused_lane;

pub use judge::{Bench, Broken, Levels, judge, judge_late};

use crate::diag::{Diagnostic, Diagnostics, RuleLevel, Severity};
use crate::model::{Diagram, DiagramKind, Document};

/// A rule: its code, and how much it weighs unless the config says otherwise.
#[derive(Clone, Copy, Debug)]
pub struct Rule {
    /// Its stable code.
    pub code: &'static str,
    /// Its weight.
    pub level: RuleLevel,
}

const fn warns(code: &'static str) -> Rule {
    Rule { code, level: RuleLevel::Warning }
}

const fn denies(code: &'static str) -> Rule {
    Rule { code, level: RuleLevel::Error }
}

/// Every rule, by code. Some are reported by the reader of a block or by the looks, since they fall out
/// there; those about pictures need the disk and are the program's.
pub const RULES: &[Rule] = &[
    warns("ambiguous-transition"),
    warns("dead-end"),
    warns("duplicate-member"),
    warns("duplicate-relation"),
    warns("empty-sheet"),
    warns("endless-loop"),
    warns("extends-interface"),
    denies("forbidden-relation"),
    warns("hint-not-kept"),
    warns("inheritance-cycle"),
    warns("look-without-effect"),
    warns("member-form"),
    warns("message-to-destroyed"),
    warns("missing-letter"),
    warns("no-beginning"),
    warns("no-way-in"),
    warns("no-way-out"),
    warns("nothing-flows-here"),
    warns("one-armed-decision"),
    denies("picture-edited"),
    denies("picture-foreign"),
    denies("picture-missing"),
    denies("picture-name-taken"),
    denies("picture-out-of-date"),
    warns("picture-stray"),
    warns("refusal-goes-on"),
    warns("rejection-without-return"),
    warns("reply-without-call"),
    warns("rule-of-nothing"),
    warns("same-guard"),
    warns("same-place"),
    warns("shown-nowhere"),
    warns("silent-party"),
    warns("step-of-nobody"),
    warns("tag-of-nothing"),
    warns("two-beginnings"),
    warns("undescribed-element"),
    warns("unknown-column"),
    warns("unknown-rule"),
    warns("unreachable-step"),
    warns("unrelated-step"),
    warns("unused-allow"),
    warns("unused-lane"),
];

/// The rule with a code.
pub fn rule(code: &str) -> Option<&'static Rule> {
    RULES.iter().find(|r| r.code == code)
}

/// Whether a finding is an error, so that the text does not say all that it should. A rule that is broken is
/// none, however much it weighs.
pub fn is_error(finding: &Diagnostic) -> bool {
    finding.severity == Severity::Error && rule(finding.code).is_none()
}

/// Reads a document as a reviewer would. Blocks with errors are left alone: what they lack may be what
/// could not be read.
pub fn run(document: &Document, broken: &Broken, levels: &Levels, diags: &mut Diagnostics) {
    for diagram in document.diagrams.iter().filter(|d| !broken.holds(d.span)) {
        for check in of_kind(diagram.kind) {
            check(diagram, diags);
        }
        if diagram.kind == DiagramKind::Flow {
            refusal::check(diagram, levels.refused(), diags);
        }
        hint_not_kept::of_sequence(diagram, diags);
        let has_sheets = matches!(diagram.kind, DiagramKind::Architecture | DiagramKind::Classes);
        if has_sheets && document.sheets.iter().all(|s| s.of != diagram.name || !broken.holds(s.span)) {
            shown_nowhere::check(document, diagram, diags);
        }
    }
    let is_whole = |of: &str| document.diagrams.iter().all(|d| d.name != of || !broken.holds(d.span));
    for sheet in document.sheets.iter().filter(|s| !broken.holds(s.span) && is_whole(&s.of)) {
        empty_sheet::check(document, sheet, diags);
    }
}

type Check = fn(&Diagram, &mut Diagnostics);

/// The rules for one kind of diagram.
fn of_kind(kind: DiagramKind) -> &'static [Check] {
    match kind {
        DiagramKind::Flow => &[
            no_beginning::check,
            unreachable_step::check,
            dead_end::check,
            endless_loop::check,
            same_branch::check,
            rejection::check,
            two_beginnings::check,
            unused_lane::check,
        ],
        DiagramKind::Sequence => &[reply_without_call::check, silent_party::check, message_to_destroyed::check],
        DiagramKind::Classes => &[
            inheritance_cycle::check,
            extends_interface::check,
            duplicate_member::check,
            member_form::check,
            unknown_column::check,
            duplicate_relation::check,
        ],
        DiagramKind::States => &[no_way_in::check, no_way_out::check, ambiguous_transition::check],
        DiagramKind::Architecture => &[forbidden_relation::check, undescribed::check, duplicate_relation::check],
        DiagramKind::Network => &[duplicate_relation::check],
        DiagramKind::Tree => &[],
    }
}

/// What the tests of the rules share: the codes found in a text.
#[cfg(test)]
mod tests_support {
    use crate::pipeline::{Setting, read};
    use crate::source::Source;

    /// The codes found in a text with one `#` where the first of them must point, and that line.
    pub(super) fn codes(text: &str) -> Vec<&'static str> {
        let reading = read(Source::new("t.bathy", text), "t", &Setting::default());
        reading.diagnostics.iter().map(|d| d.code).collect()
    }

    /// The lines at which a rule was broken.
    pub(super) fn lines(text: &str, code: &str) -> Vec<u32> {
        let reading = read(Source::new("t.bathy", text), "t", &Setting::default());
        let found = reading.diagnostics.iter().filter(|d| d.code == code);
        found.map(|d| reading.source.line(d.span.start)).collect()
    }
}

//! Weighing what was found. Input: findings, the comments of a text, and the project's levels. Output: the
//! findings that are left, with their weights. `// allow CODE` in a text allows what breaks a rule on its
//! row, or on the next row if the comment stands alone; an allowance that allows nothing is reported.

use super::{RULES, Rule, is_error, rule};
use crate::diag::{Diagnostic, Diagnostics, ERRORS, Message, RuleLevel, Severity, nearest, suggest};
use crate::source::{Source, SourceId, Span, Spanned};
use crate::syntax::{TokenKind, Tree, parse};
use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;

/// How much rules weigh in a project, by code; those left out weigh as usual. And the words that refuse in a project, besides
/// those that refuse everywhere.
#[derive(Clone, Debug, Default)]
pub struct Levels {
    by_code: BTreeMap<String, RuleLevel>,
    refused: Vec<String>,
}

impl Levels {
    /// Every rule as usual.
    pub const fn new() -> Self {
        Self { by_code: BTreeMap::new(), refused: Vec::new() }
    }

    /// The same, with words on branches of flows that refuse, such as "stale".
    pub fn refusing(self, words: &[String]) -> Self {
        Self { refused: words.iter().map(|word| word.trim().to_lowercase()).collect(), ..self }
    }

    /// The words that refuse in this project, in small letters.
    pub(super) fn refused(&self) -> &[String] {
        &self.refused
    }

    /// Sets the level of a rule.
    ///
    /// # Errors
    /// If there is no such rule; then the code of one that resembles it is given.
    pub fn set(&mut self, code: &str, level: RuleLevel) -> Result<(), Option<&'static str>> {
        if rule(code).is_none() {
            return Err(nearest(code, RULES.iter().map(|r| r.code)));
        }
        self.by_code.insert(code.to_owned(), level);
        Ok(())
    }

    /// The level of the rule with a code; what is no rule is denied.
    pub fn level(&self, code: &str) -> RuleLevel {
        rule(code).map_or(RuleLevel::Error, |rule| self.of(rule))
    }

    fn of(&self, rule: &Rule) -> RuleLevel {
        self.by_code.get(rule.code).copied().unwrap_or(rule.level)
    }
}

/// The blocks of a text that have errors.
#[derive(Clone, Debug, Default)]
pub struct Broken {
    /// Rows from the first of a block up to the first of the next.
    blocks: Vec<Range<u32>>,
    /// The first row of each block, by the byte at which it begins.
    starts: Vec<(u32, u32)>,
}

impl Broken {
    /// The blocks in which an error was found.
    pub fn of(source: &Source, tree: &Tree, found: &[Diagnostic]) -> Self {
        let own = found.iter().filter(|d| d.span.source == source.id && is_error(d));
        let rows: BTreeSet<u32> = own.map(|d| source.line(d.span.start)).collect();
        let starts: Vec<u32> = tree.roots.iter().map(|id| tree.line(*id).number).collect();
        let ends = starts.iter().copied().skip(1).chain([u32::MAX]);
        let blocks = starts.iter().zip(ends).map(|(start, end)| *start..end);
        let blocks = blocks.filter(|b| rows.range(b.clone()).next().is_some()).collect();
        let starts = tree.roots.iter().map(|id| tree.line(*id)).map(|line| (line.span.start, line.number)).collect();
        Self { blocks, starts }
    }

    /// Whether what begins here, a block or something in one, lies in such a block. What other files hold does not.
    pub fn holds(&self, span: Span) -> bool {
        let after = self.starts.partition_point(|(start, _)| *start <= span.start);
        let row = after.checked_sub(1).map(|i| self.starts[i].1);
        span.source.is_root() && row.is_some_and(|row| self.holds_row(row))
    }

    /// Whether a row lies in such a block.
    fn holds_row(&self, row: u32) -> bool {
        let after = self.blocks.partition_point(|b| b.start <= row);
        after.checked_sub(1).is_some_and(|i| self.blocks[i].contains(&row))
    }
}

/// One code of an allowance.
struct Allowance {
    code: Spanned<String>,
    /// The row that it is about.
    row: u32,
    used: bool,
}

/// What findings are weighed with.
pub struct Bench<'a> {
    /// The file that is read.
    pub source: &'a Source,
    /// Its lines.
    pub tree: &'a Tree,
    /// The files that it takes from.
    pub taken: &'a [Source],
    /// Its blocks with errors.
    pub broken: &'a Broken,
    /// How much each rule weighs.
    pub levels: &'a Levels,
}

/// Rules that are asked only where a picture is drawn: nothing says of them that an allowance is not needed.
const ASKED_LATER: &[&str] = &["hint-not-kept", "missing-letter"];

/// Weighs findings, which are in the order of the text.
pub fn judge(found: Vec<Diagnostic>, bench: &Bench<'_>) -> Vec<Diagnostic> {
    let mut allowances = allowances(bench.source, bench.tree);
    let mut out = weighed(found, bench, &mut allowances);
    let mut late = Diagnostics::default();
    for allowance in &allowances {
        let (code, span) = (allowance.code.value.clone(), allowance.code.span);
        match rule(&code) {
            None => {
                let suggestion = suggest(&code, RULES.iter().map(|r| r.code));
                let is_error = ERRORS.contains(&code.as_str());
                late.report(span, Message::UnknownRule { code, suggestion, is_error });
            }
            // In a block with errors not every rule was asked.
            Some(rule)
                if !allowance.used
                    && !ASKED_LATER.contains(&rule.code)
                    && bench.levels.of(rule) != RuleLevel::Off
                    && !bench.broken.holds_row(allowance.row) =>
            {
                late.report(span, Message::UnusedAllow { code });
            }
            Some(_) => {}
        }
    }
    let late = late.into_sorted();
    if !late.is_empty() {
        out.extend(late.into_iter().filter_map(|d| weigh(bench.source, d, &mut [], bench.levels)));
        out.sort_by_key(|d| (d.span, d.code));
    }
    out
}

/// Weighs what was found where a picture was drawn, after everything else.
pub fn judge_late(found: Vec<Diagnostic>, bench: &Bench<'_>) -> Vec<Diagnostic> {
    // Where many pictures come from one large text, most keep everything.
    if found.is_empty() {
        return found;
    }
    weighed(found, bench, &mut allowances(bench.source, bench.tree))
}

/// Findings with their weights. What stands in a file that is taken from was allowed there or nowhere.
fn weighed(found: Vec<Diagnostic>, bench: &Bench<'_>, own: &mut [Allowance]) -> Vec<Diagnostic> {
    let mut others: BTreeMap<SourceId, Vec<Allowance>> = BTreeMap::new();
    let mut out = Vec::with_capacity(found.len());
    for finding in found {
        let id = finding.span.source;
        let taken = bench.taken.iter().find(|s| s.id == id && !id.is_root());
        out.extend(match taken {
            None => weigh(bench.source, finding, own, bench.levels),
            Some(source) => {
                let read = || allowances(source, &parse(source, &mut Diagnostics::default()));
                weigh(source, finding, others.entry(id).or_insert_with(read), bench.levels)
            }
        });
    }
    out
}

/// A finding with its weight, unless it is allowed or its rule is off.
fn weigh(source: &Source, finding: Diagnostic, allowances: &mut [Allowance], levels: &Levels) -> Option<Diagnostic> {
    let Some(rule) = rule(finding.code) else { return Some(finding) };
    let row = source.line(finding.span.start);
    // Allowances are in the order of their rows.
    let first = allowances.partition_point(|a| a.row < row);
    let here = allowances[first..].iter_mut().take_while(|a| a.row == row);
    let mut is_allowed = false;
    for allowance in here.filter(|a| a.code.value == finding.code) {
        allowance.used = true;
        is_allowed = true;
    }
    let severity = match levels.of(rule) {
        _ if is_allowed => return None,
        RuleLevel::Off => return None,
        RuleLevel::Warning => Severity::Warning,
        RuleLevel::Error => Severity::Error,
    };
    Some(Diagnostic { severity, ..finding })
}

/// The codes in comments that begin with `allow`, up to a colon, after which a reason may stand.
fn allowances(source: &Source, tree: &Tree) -> Vec<Allowance> {
    let mut found = Vec::new();
    // Codes in comments that stand alone wait for the row of the next word.
    let mut waiting: Vec<Spanned<String>> = Vec::new();
    let mut has_words = false;
    for token in &tree.tokens {
        match token.kind {
            TokenKind::Newline => has_words = false,
            TokenKind::Space => {}
            TokenKind::Comment => {
                let codes = codes(source, token.span);
                let row = source.line(token.span.start);
                if has_words {
                    found.extend(codes.into_iter().map(|code| Allowance { code, row, used: false }));
                } else {
                    waiting.extend(codes);
                }
            }
            _ => {
                has_words = true;
                if !waiting.is_empty() {
                    let row = source.line(token.span.start);
                    found.extend(waiting.drain(..).map(|code| Allowance { code, row, used: false }));
                }
            }
        }
    }
    found.extend(waiting.into_iter().map(|code| Allowance { code, row: u32::MAX, used: false }));
    found.sort_by_key(|a| a.row);
    found
}

fn codes(source: &Source, comment: Span) -> Vec<Spanned<String>> {
    let text = source.slice(comment).trim_start_matches('/');
    let Some(list) = text.trim_start().strip_prefix("allow ") else { return Vec::new() };
    let list = list.split(':').next().unwrap_or(list);
    let base = source.text.as_ptr() as usize;
    list.split([' ', ',', '\t'])
        .filter(|code| !code.is_empty())
        .map(|code| {
            let start = code.as_ptr() as usize - base;
            Spanned { value: code.to_owned(), span: source.span(start, start + code.len()) }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::check::tests_support::codes;
    use crate::pipeline::{Setting, read};

    #[test]
    fn a_comment_allows_on_its_row_or_the_next() {
        assert_eq!(codes("flow f\n  begin \"a\"\n  \"b\"\n"), ["dead-end"]);
        assert_eq!(codes("flow f\n  begin \"a\"\n  \"b\" // allow dead-end: it goes on elsewhere\n"), [""; 0]);
        assert_eq!(codes("flow f\n  begin \"a\"\n  // allow dead-end\n\n  \"b\"\n"), [""; 0]);
    }

    #[test]
    fn allowances_are_needed_and_known() {
        assert_eq!(codes("flow f // allow dead-end\n  begin \"a\"\n  finish \"b\"\n"), ["unused-allow"]);
        assert_eq!(codes("flow f // allow dead-and\n  begin \"a\"\n  finish \"b\"\n"), ["unknown-rule"]);
        assert_eq!(codes("flow f\n  bogus // allow unknown-word\n"), ["unknown-word", "unknown-rule"]);
        assert_eq!(codes("flow f // allow unused-lane, two-beginnings: why\n"), ["unused-allow"; 2]);
    }

    #[test]
    fn blocks_with_errors_are_left_alone() {
        assert_eq!(codes("flow f\n  begin \"a\"\n  bogus\n  \"b\" // allow two-beginnings\n"), ["unknown-word"]);
        let text = "flow f\n  begin \"a\"\n  bogus\nflow g\n  begin \"a\"\n  \"b\"\n";
        assert_eq!(codes(text), ["unknown-word", "dead-end"]);
    }

    #[test]
    fn a_project_says_how_much_rules_weigh() {
        let mut levels = Levels::default();
        assert_eq!(levels.set("dead-and", RuleLevel::Off), Err(Some("dead-end")));
        levels.set("dead-end", RuleLevel::Error).expect("a rule");
        levels.set("two-beginnings", RuleLevel::Off).expect("a rule");
        let text = "flow f\n  begin \"a\"\n  begin \"b\"\n";
        let reading = read(Source::new("t", text), "t", &Setting { levels: &levels, ..Setting::default() });
        let found: Vec<_> = reading.diagnostics.iter().map(|d| (d.code, d.severity)).collect();
        assert_eq!(found, [("dead-end", Severity::Error)]);
        assert!(!reading.has_errors(), "what a rule denies can be drawn");
    }
}

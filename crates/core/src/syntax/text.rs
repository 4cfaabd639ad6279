//! Texts in quotes. Input: a text as written. Output: a [`Label`]: plain runs in their styles.
//! Escapes are resolved, `*emphasis*`, `**strong**` and `` `code` `` are read.

use super::run::{Run, RunStyle};
use crate::source::Span;

/// A text with its styles and its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Label {
    /// The runs, none empty.
    pub runs: Vec<Run>,
    /// Where it stands, quotes included.
    pub span: Span,
    /// As it was written, where the runs alone do not say: a text block, or a text with a formula.
    pub written: Option<Box<str>>,
}

impl Label {
    /// A label of plain letters.
    pub fn plain(text: impl Into<String>, span: Span) -> Self {
        Self::of(vec![Run { text: text.into(), style: RunStyle::Plain }], span)
    }

    /// A label of these runs.
    pub fn of(runs: Vec<Run>, span: Span) -> Self {
        Self { runs, span, written: None }
    }

    /// The letters alone.
    pub fn text(&self) -> String {
        self.runs.iter().map(|r| r.text.as_str()).collect()
    }

    /// The letters with the signs of emphasis and code: what is no prose, such as a pattern for paths, means them as they are.
    pub fn with_signs(&self) -> String {
        let sign = |style: RunStyle| match style {
            RunStyle::Emphasis => "*",
            RunStyle::Strong => "**",
            RunStyle::Code => "`",
            RunStyle::Plain | RunStyle::Below | RunStyle::Above => "",
        };
        self.runs.iter().map(|run| format!("{0}{1}{0}", sign(run.style), run.text)).collect()
    }

    /// Reads a text in quotes, `"…"` or `"""…"""`.
    pub fn read(written: &str, span: Span) -> Self {
        if let Some(block) = written.strip_prefix("\"\"\"") {
            let body = block_lines(block.strip_suffix("\"\"\"").unwrap_or(block)).join("\n");
            let written = format!("\"\"\"\n{body}\n\"\"\"");
            return Self { runs: runs(&body), span, written: Some(written.into()) };
        }
        let rest = written.strip_prefix('"').unwrap_or(written);
        let body = rest.strip_suffix('"').filter(|_| written.len() > 1).unwrap_or(rest);
        Self { runs: runs(body), span, written: body.contains('$').then(|| written.into()) }
    }
}

/// The lines of a text block: the common indentation is removed, as are spaces at the ends of lines, an
/// empty first line and empty lines at the end. Text on the opening line is a line of its own.
pub(crate) fn block_lines(block: &str) -> Vec<&str> {
    let mut lines = block.lines();
    let first = lines.next().unwrap_or("").trim();
    let rest: Vec<&str> = lines.collect();
    let indent = |l: &&str| l.len() - l.trim_start_matches([' ', '\t']).len();
    let common = rest.iter().filter(|l| !l.trim().is_empty()).map(indent).min().unwrap_or(0);
    let cut = rest.iter().map(|l| l.get(common..).unwrap_or("").trim_end());
    let mut out: Vec<&str> = Some(first).filter(|f| !f.is_empty()).into_iter().chain(cut).collect();
    while out.last().is_some_and(|l| l.is_empty()) {
        out.pop();
    }
    out
}

fn runs(body: &str) -> Vec<Run> {
    let mut out: Vec<Run> = Vec::new();
    let mut text = String::new();
    let mut style = RunStyle::Plain;
    let mut rest = body;
    while let Some(c) = rest.chars().next() {
        if let Some(escaped) = rest.strip_prefix('\\').and_then(|r| r.chars().next()) {
            text.push(if escaped == 'n' { '\n' } else { escaped });
            rest = &rest[1 + escaped.len_utf8()..];
            continue;
        }
        if style == RunStyle::Plain
            && let Some((formula, after)) = formula(rest)
        {
            flush(&mut text, style, &mut out);
            out.extend(super::formula::read(formula));
            rest = after;
            continue;
        }
        let (mark, marked) = match c {
            '*' if rest.starts_with("**") => ("**", RunStyle::Strong),
            '*' => ("*", RunStyle::Emphasis),
            '`' => ("`", RunStyle::Code),
            _ => ("", RunStyle::Plain),
        };
        let after = &rest[mark.len().max(c.len_utf8())..];
        let opens = style == RunStyle::Plain && !mark.is_empty() && closes_later(after, mark);
        if opens || (style == marked && style != RunStyle::Plain) {
            flush(&mut text, style, &mut out);
            style = if opens { marked } else { RunStyle::Plain };
            rest = after;
        } else {
            text.push(c);
            rest = &rest[c.len_utf8()..];
        }
    }
    flush(&mut text, style, &mut out);
    out
}

/// Ends a run, if it has any text.
fn flush(text: &mut String, style: RunStyle, out: &mut Vec<Run>) {
    if !text.is_empty() {
        out.push(Run { text: std::mem::take(text), style });
    }
}

/// A formula `$…$` at the start of a text: it opens before a non-space, and closes before a non-digit.
fn formula(rest: &str) -> Option<(&str, &str)> {
    let inner = rest.strip_prefix('$')?;
    if inner.starts_with(|c: char| c.is_whitespace() || c == '$') {
        return None;
    }
    let is_escaped = |at: usize| inner[..at].ends_with('\\');
    let closes = |at: &usize| !is_escaped(*at) && !inner[at + 1..].starts_with(|c: char| c.is_ascii_digit());
    // The search is bounded, so that many openings that are never closed cost linear time.
    let end = inner.match_indices('$').map(|(at, _)| at).take(64).find(closes)?;
    (end > 0 && !inner[..end].contains('\n')).then(|| (&inner[..end], &inner[end + 1..]))
}

/// Whether an opening mark touches a letter and is closed on the same text.
fn closes_later(after: &str, mark: &str) -> bool {
    !after.starts_with([' ', '\n']) && after.find(mark).is_some_and(|at| at > 0)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(written: &str) -> Vec<(String, RunStyle)> {
        let label = Label::read(written, Span::default());
        label.runs.into_iter().map(|r| (r.text, r.style)).collect()
    }

    #[test]
    fn reads_styles_and_escapes() {
        use RunStyle::*;
        assert_eq!(
            read(r#""tide *over* **4 m** `raw` \"ok\" a\nb""#),
            [
                ("tide ".into(), Plain),
                ("over".into(), Emphasis),
                (" ".into(), Plain),
                ("4 m".into(), Strong),
                (" ".into(), Plain),
                ("raw".into(), Code),
                (" \"ok\" a\nb".into(), Plain)
            ]
        );
        assert_eq!(read("\"$40 to $50, \\$x\""), [("$40 to $50, $x".into(), Plain)]);
        assert_eq!(
            read("\"up $h^2$.\""),
            [("up ".into(), Plain), ("h".into(), Emphasis), ("2".into(), Above), (".".into(), Plain)]
        );
        assert_eq!(read("\"2 * 3 \\* 4\""), [("2 * 3 * 4".into(), Plain)]);
        assert_eq!(read("\"open"), [("open".into(), Plain)]);
    }

    #[test]
    fn text_blocks_lose_their_indentation() {
        assert_eq!(read("\"\"\"\n    one\n      two\n  \"\"\""), [("one\n  two".into(), RunStyle::Plain)]);
    }
}

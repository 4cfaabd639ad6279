//! Members that are not in UML's textual form (UML 2.5.1, 9.5.4 and 9.6.4). They are shown as written all the same.

use crate::diag::{Diagnostics, Message};
use crate::model::Diagram;

/// One report for each member with a fault in its form: the first that a reader meets.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let members = diagram.elements.iter().filter_map(|e| e.class.as_ref()).flat_map(|body| body.members());
    for member in members.filter(|member| member.constraint.is_none()) {
        if let Some((fault, help)) = fault(&without_quoted(&member.text)) {
            diags.report(member.span, Message::MemberForm { fault, help });
        }
    }
}

/// A text with a letter for every name in backquotes and every value in single quotes.
fn without_quoted(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find(['`', '\'']) {
        let mark = &rest[at..at + 1];
        let Some(end) = rest[at + 1..].find(mark) else { break };
        out.push_str(&rest[..at]);
        out.push('x');
        rest = &rest[at + end + 2..];
    }
    out + rest
}

/// What is wrong with a member, and what to write instead.
fn fault(text: &str) -> Option<(String, String)> {
    let listed = |fault: &str, help: &str| Some((fault.to_owned(), help.to_owned()));
    if let Some(fault) = open_bracket(text) {
        return Some(fault);
    }
    let rest = text.trim_start_matches(['+', '-', '#', '~']).trim_start().trim_start_matches('/');
    let end = rest.find([':', '(', '[', '=', '{', '<']).unwrap_or(rest.len());
    if rest[..end].trim().is_empty() {
        return listed("this member has no name", "write a name first, as in `level: Metres`");
    }
    // Each part ends where the next one begins, outside of brackets and texts.
    let mut parts: Vec<(char, &str)> = Vec::new();
    let (mut begins, mut sign) = (0, ' ');
    for (at, c) in outside_brackets(rest) {
        let is_next = match c {
            ':' => sign == ' ',
            '=' => sign != '=',
            '{' => true,
            _ => false,
        };
        if is_next {
            parts.push((sign, &rest[begins..at]));
            (begins, sign) = (at + c.len_utf8(), c);
        }
    }
    parts.push((sign, &rest[begins..]));
    let is_empty = |wanted: char| parts.iter().any(|(sign, part)| *sign == wanted && part.trim().is_empty());
    if is_empty(':') {
        return listed("no type follows the colon", "write the type, or leave the colon out");
    }
    if is_empty('=') {
        return listed("no default follows `=`", "write the default, or leave `=` out");
    }
    let before_default = parts.iter().filter(|(sign, _)| *sign == ' ' || *sign == ':').map(|(_, part)| *part);
    before_default.filter_map(|part| part.trim_end().strip_suffix(']')?.rsplit_once('[')).find_map(|(_, bounds)| {
        let (low, high) = bounds.split_once("..")?;
        let (least, most): (u64, u64) = (low.trim().parse().ok()?, high.trim().parse().ok()?);
        let fault = || format!("the multiplicity [{bounds}] has its bounds the wrong way round");
        (least > most).then(|| (fault(), format!("write [{most}..{least}]")))
    })
}

/// The characters of a member that stand in no bracket and no text in quotes, and brackets that open there.
fn outside_brackets(text: &str) -> impl Iterator<Item = (usize, char)> {
    let (mut depth, mut is_quoted) = (0_usize, false);
    text.char_indices().filter(move |(_, c)| {
        let is_outside = depth == 0 && !is_quoted;
        match c {
            '"' => is_quoted = !is_quoted,
            '(' | '[' | '{' | '<' if !is_quoted => depth += 1,
            ')' | ']' | '}' | '>' if !is_quoted => depth = depth.saturating_sub(1),
            _ => {}
        }
        is_outside
    })
}

/// A round, square or curly bracket without its partner.
fn open_bracket(text: &str) -> Option<(String, String)> {
    const PAIRS: [(char, char); 3] = [('(', ')'), ('[', ']'), ('{', '}')];
    let mut open: Vec<(char, char)> = Vec::new();
    let mut is_quoted = false;
    for c in text.chars() {
        is_quoted ^= c == '"';
        if is_quoted {
            continue;
        }
        if let Some(pair) = PAIRS.into_iter().find(|(opens, _)| *opens == c) {
            open.push(pair);
        } else if let Some((opens, closes)) = PAIRS.into_iter().find(|(_, closes)| *closes == c)
            && open.pop() != Some((opens, closes))
        {
            return Some((format!("`{closes}` closes nothing"), format!("write `{opens}` before it, or leave it out")));
        }
    }
    let (opens, closes) = open.pop()?;
    Some((format!("`{opens}` is not closed"), format!("write `{closes}` where it ends")))
}

#[cfg(test)]
mod tests {
    use super::fault;
    use crate::check::tests_support::lines;

    #[test]
    fn members_in_umls_form_are_in_order() {
        for member in [
            "name",
            "+ name: Text",
            "+ /age: Years",
            "- position: Position [0..1] = origin {readOnly, unique}",
            "# readings: Reading [1..*] {ordered}",
            "+ lastReading(): Reading [0..1]",
            "raise(level: Level = calm, to: Keeper [1..3]): Warning {query}",
            "id: decimal(6,3)",
            "series: Map<Text, List<Reading>>",
            "greeting: Text = \"a: (b\"",
            "ratio = a:b",
            "at = 07:30",
            "level(",
        ] {
            assert_eq!(fault(member).is_some(), member == "level(", "{member}");
        }
    }

    #[test]
    fn each_fault_says_what_to_write() {
        for (member, says, help) in [
            ("+ : Text", "this member has no name", "write a name first, as in `level: Metres`"),
            ("- (a: Int)", "this member has no name", "write a name first, as in `level: Metres`"),
            ("+ f(a: Int", "`(` is not closed", "write `)` where it ends"),
            ("+ f a)", "`)` closes nothing", "write `(` before it, or leave it out"),
            ("x: Int [1", "`[` is not closed", "write `]` where it ends"),
            ("x: {readOnly}", "no type follows the colon", "write the type, or leave the colon out"),
            ("x:", "no type follows the colon", "write the type, or leave the colon out"),
            ("x: Int =", "no default follows `=`", "write the default, or leave `=` out"),
            ("x: Int [5..1]", "the multiplicity [5..1] has its bounds the wrong way round", "write [1..5]"),
            ("f(): Int [3..2] {query}", "the multiplicity [3..2] has its bounds the wrong way round", "write [2..3]"),
        ] {
            assert_eq!(fault(member), Some((says.to_owned(), help.to_owned())), "{member}");
        }
    }

    #[test]
    fn they_are_reported_where_they_stand() {
        let text = "classes c\n  class A\n    + x: Int\n    + : Text\n    - y: Int [5..1]\n  enum E\n    calm\n";
        assert_eq!(lines(text, "member-form"), [4, 5]);
    }
}

//! Formulas in labels. Input: what stands between two `$`. Output: runs with Greek letters, operators,
//! slanted variables, and sub- and superscripts. Names are written without a backslash.

use super::run::{Run, RunStyle};

/// Names of letters and signs.
const NAMES: &[(&str, &str)] = &[
    ("alpha", "α"),
    ("beta", "β"),
    ("gamma", "γ"),
    ("delta", "δ"),
    ("epsilon", "ε"),
    ("zeta", "ζ"),
    ("eta", "η"),
    ("theta", "θ"),
    ("iota", "ι"),
    ("kappa", "κ"),
    ("lambda", "λ"),
    ("mu", "μ"),
    ("nu", "ν"),
    ("xi", "ξ"),
    ("omicron", "ο"),
    ("pi", "π"),
    ("rho", "ρ"),
    ("sigma", "σ"),
    ("tau", "τ"),
    ("upsilon", "υ"),
    ("phi", "φ"),
    ("chi", "χ"),
    ("psi", "ψ"),
    ("omega", "ω"),
    ("Gamma", "Γ"),
    ("Delta", "Δ"),
    ("Theta", "Θ"),
    ("Lambda", "Λ"),
    ("Xi", "Ξ"),
    ("Pi", "Π"),
    ("Sigma", "Σ"),
    ("Phi", "Φ"),
    ("Psi", "Ψ"),
    ("Omega", "Ω"),
    ("sqrt", "√"),
    ("sum", "∑"),
    ("prod", "∏"),
    ("int", "∫"),
    ("partial", "∂"),
    ("inf", "∞"),
    ("infinity", "∞"),
    ("deg", "°"),
];

/// Operators by name or by marks; they are set with a space on either side.
const OPERATORS: &[(&str, &str)] = &[
    ("<=", "≤"),
    (">=", "≥"),
    ("!=", "≠"),
    ("+-", "±"),
    ("->", "→"),
    ("<", "<"),
    (">", ">"),
    ("=", "="),
    ("+", "+"),
    ("-", "−"),
    ("*", "·"),
    ("times", "×"),
    ("approx", "≈"),
    ("cdot", "·"),
];

/// Functions are set upright.
const FUNCTIONS: &[&str] = &["sin", "cos", "tan", "log", "ln", "exp", "min", "max", "lim"];

/// The space of formulas, which breaks a line only where a formula is too long for one.
pub const FORMULA_SPACE: char = '\u{a0}';
const SPACE: &str = "\u{a0}";
/// Signs that belong to what follows them.
const PREFIXES: &[char] = &['Δ', '∂', '√', '°'];

/// Reads a formula. Anything that is no formula stays as it was written.
pub(super) fn read(body: &str) -> Vec<Run> {
    let mut out: Vec<Run> = Vec::new();
    let mut rest = body.trim();
    let mut gap = false;
    while let Some(first) = rest.chars().next() {
        if first.is_whitespace() {
            rest = rest.trim_start();
            gap = true;
            continue;
        }
        if matches!(first, '_' | '^') && !out.is_empty() {
            let style = if first == '_' { RunStyle::Below } else { RunStyle::Above };
            let (group, after) = group(&rest[1..]);
            if !group.is_empty() {
                push(&mut out, &flat(group), style);
                rest = after;
                gap = false;
                continue;
            }
        }
        let is_prefix = is_prefix(&out);
        let (text, style, is_operator, length) =
            sign(rest, if is_prefix { SignPlace::Before } else { SignPlace::Between });
        let spaced = is_operator && !is_prefix;
        let ends_spaced = out.last().is_none_or(|r| {
            r.text.ends_with(SPACE) || r.text.ends_with(PREFIXES) && !(spaced && r.text.ends_with('°'))
        });
        // A degree belongs to its number, one of temperature to its unit.
        let is_angle = text == "°" && !rest[length..].trim_start().starts_with(char::is_alphabetic);
        if (spaced || gap && !is_angle) && !ends_spaced {
            push(&mut out, SPACE, RunStyle::Plain);
        }
        let is_unit = out.last().is_some_and(|run| run.text.ends_with('°'));
        push(&mut out, &text, if is_unit { RunStyle::Plain } else { style });
        if spaced {
            push(&mut out, SPACE, RunStyle::Plain);
        }
        gap = false;
        rest = &rest[length..];
    }
    out
}

/// Whether a plus or a minus would be that of a number here: at the beginning, in a bracket, after another operator.
fn is_prefix(out: &[Run]) -> bool {
    let Some(last) = out.last() else { return true };
    let text = last.text.trim_end_matches(SPACE);
    let is_spaced = text.len() < last.text.len();
    text.ends_with(['(', '[', '{', ',']) || is_spaced && last.style == RunStyle::Plain && ends_with_operator(text)
}

/// Whether a text ends with the sign of an operator.
pub fn ends_with_operator(text: &str) -> bool {
    OPERATORS.iter().any(|(_, sign)| text.ends_with(sign))
}

/// Where an operator may stand.
#[derive(Clone, Copy, PartialEq, Eq)]
enum SignPlace {
    /// In front of everything: it belongs to what follows.
    Before,
    Between,
}

/// The next sign: its text, its style, whether it is an operator between two others, and its length.
fn sign(rest: &str, place: SignPlace) -> (String, RunStyle, bool, usize) {
    let word = rest.find(|c: char| !c.is_alphabetic()).unwrap_or(rest.len());
    let marks = if word > 0 { &rest[..word] } else { rest };
    let operator = |(name, _): &&(&str, &str)| {
        if word > 0 { *name == marks } else { marks.starts_with(name) && !name.starts_with(char::is_alphabetic) }
    };
    if let Some((name, sign)) = OPERATORS.iter().find(operator) {
        return ((*sign).to_owned(), RunStyle::Plain, place == SignPlace::Between, name.len());
    }
    if word > 0 {
        let named = NAMES.iter().find(|(name, _)| *name == marks);
        let upright = named.is_some_and(|(_, s)| !s.starts_with(char::is_alphabetic)) || FUNCTIONS.contains(&marks);
        let text = named.map_or(marks, |(_, sign)| sign).to_owned();
        return (text, if upright { RunStyle::Plain } else { RunStyle::Emphasis }, false, word);
    }
    let length = rest.chars().next().map_or(1, char::len_utf8);
    (rest[..length].to_owned(), RunStyle::Plain, false, length)
}

/// What a sub- or superscript holds: a group in round or curly brackets, a word, or a number.
fn group(rest: &str) -> (&str, &str) {
    for (open, close) in [('{', '}'), ('(', ')')] {
        if let Some(inner) = rest.strip_prefix(open)
            && let Some(at) = inner.find(close)
        {
            return (&inner[..at], &inner[at + 1..]);
        }
    }
    let signed = usize::from(rest.starts_with(['-', '+']));
    let same = |c: char| c.is_alphanumeric() || c == '.';
    let end = rest[signed..].find(|c| !same(c)).map_or(rest.len(), |i| i + signed);
    // A full stop after it is the sentence's.
    let end = end - (end - rest[..end].trim_end_matches('.').len());
    if end > signed { rest.split_at(end) } else { ("", rest) }
}

/// Names and operators resolved, nothing styled.
fn flat(group: &str) -> String {
    let mut out = String::new();
    let mut rest = group;
    while !rest.is_empty() {
        let (text, _, _, length) = sign(rest, SignPlace::Before);
        out += &text;
        rest = &rest[length..];
    }
    out
}

fn push(out: &mut Vec<Run>, text: &str, style: RunStyle) {
    match out.last_mut() {
        Some(last) if last.style == style => last.text += text,
        _ => out.push(Run { text: text.to_owned(), style }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shown(body: &str) -> String {
        let mark = |style| match style {
            RunStyle::Emphasis => "i",
            RunStyle::Below => "_",
            RunStyle::Above => "^",
            _ => "",
        };
        read(body).iter().map(|r| format!("{}[{}]", mark(r.style), r.text.replace(SPACE, " "))).collect()
    }

    #[test]
    fn letters_operators_and_scripts() {
        assert_eq!(shown("Delta h_max <= 2 pi r^2"), "i[Δh]_[max][ ≤ 2 ]i[π][ ]i[r]^[2]");
        assert_eq!(shown("c = 40"), "i[c][ = 40]");
        assert_eq!(shown("-x"), "[−]i[x]");
        assert_eq!(shown("e^{-i pi}"), "i[e]^[−i π]");
        assert_eq!(shown("sin(theta)"), "[sin(]i[θ][)]");
        assert_eq!(shown("x_(i+1)^2"), "i[x]_[i+1]^[2]");
        assert_eq!(shown("20 deg C"), "[20 °C]");
        assert_eq!(shown("45 deg < alpha"), "[45° < ]i[α]");
    }

    #[test]
    fn signs_belong_to_their_numbers() {
        assert_eq!(shown("v = -80"), "i[v][ = −80]");
        assert_eq!(shown("v=-80"), "i[v][ = −80]");
        assert_eq!(shown("5 - -3"), "[5 − −3]");
        assert_eq!(shown("a * (-3 + 2)"), "i[a][ · (−3 + 2)]");
        assert_eq!(shown("+-2, -1"), "[±2, −1]");
    }

    #[test]
    fn what_is_no_formula_stays() {
        assert_eq!(shown("_"), "[_]");
        assert_eq!(shown("a^"), "i[a][^]");
        assert_eq!(shown(""), "");
        assert_eq!(shown("ä²"), "i[ä][²]");
    }
}

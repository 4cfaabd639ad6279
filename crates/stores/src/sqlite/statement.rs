//! The conditions in a `CREATE TABLE` statement, as its author wrote them.

/// A piece of a statement.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Piece<'a> {
    Word(&'a str),
    /// In quotes of any sort, with these.
    Quoted(&'a str),
    Sign(&'a str),
}

/// The conditions of `CHECK (…)`, without their outer brackets.
pub(super) fn checks(sql: &str) -> Vec<String> {
    let pieces = pieces(sql);
    let mut out = Vec::new();
    let mut at = 0;
    while at < pieces.len() {
        let is_check = matches!(pieces[at], Piece::Word(word) if word.eq_ignore_ascii_case("check"));
        if !is_check || pieces.get(at + 1) != Some(&Piece::Sign("(")) {
            at += 1;
            continue;
        }
        let (start, mut depth) = (at + 2, 1);
        at = start;
        while at < pieces.len() {
            match pieces[at] {
                Piece::Sign("(") => depth += 1,
                Piece::Sign(")") => depth -= 1,
                _ => {}
            }
            if depth == 0 {
                out.push(text(sql, &pieces[start..at]));
                break;
            }
            at += 1;
        }
    }
    out
}

/// Pieces as they were written, comments left out and breaks as spaces.
fn text(sql: &str, pieces: &[Piece<'_>]) -> String {
    let mut out = String::new();
    let mut end = None;
    for piece in pieces {
        let (Piece::Word(text) | Piece::Quoted(text) | Piece::Sign(text)) = piece;
        let start = text.as_ptr() as usize - sql.as_ptr() as usize;
        if end.is_some_and(|end| end < start) {
            out.push(' ');
        }
        out.push_str(text);
        end = Some(start + text.len());
    }
    out
}

fn pieces(sql: &str) -> Vec<Piece<'_>> {
    let mut out = Vec::new();
    let mut rest = sql;
    while let Some(first) = rest.chars().next() {
        let to = |end: Option<usize>| end.unwrap_or(rest.len());
        let (length, piece) = match first {
            c if c.is_whitespace() => (c.len_utf8(), None),
            '-' if rest.starts_with("--") => (to(rest.find('\n')), None),
            '/' if rest.starts_with("/*") => (to(rest.find("*/").map(|end| end + 2)), None),
            '\'' | '"' | '`' => {
                let length = quoted(rest, first);
                (length, Some(Piece::Quoted(&rest[..length])))
            }
            '[' => {
                let length = to(rest.find(']').map(|end| end + 1));
                (length, Some(Piece::Quoted(&rest[..length])))
            }
            c if c.is_alphanumeric() || c == '_' => {
                let length = to(rest.find(|c: char| !(c.is_alphanumeric() || c == '_' || c == '.')));
                (length, Some(Piece::Word(&rest[..length])))
            }
            c => (c.len_utf8(), Some(Piece::Sign(&rest[..c.len_utf8()]))),
        };
        out.extend(piece);
        rest = &rest[length..];
    }
    out
}

/// The length of a text in quotes; two quotes stand for one.
fn quoted(text: &str, mark: char) -> usize {
    let mut at = 1;
    while let Some(end) = text[at..].find(mark) {
        at += end + 1;
        if !text[at..].starts_with(mark) {
            return at;
        }
        at += 1;
    }
    text.len()
}

#[cfg(test)]
mod tests {
    use super::checks;

    #[test]
    fn conditions_are_as_they_were_written() {
        let sql = "CREATE TABLE \"check (x)\" (\n  level REAL CHECK (level > -20 -- metres\n    AND level < 20),\n  \
                   kind TEXT DEFAULT 'check (no)' CHECK(kind IN ('a)', 'it''s')),\n  /* CHECK (never) */\n  \
                   CONSTRAINT c CHECK ((a.b) <> \"x(\")\n)";
        assert_eq!(checks(sql), ["level > -20 AND level < 20", "kind IN ('a)', 'it''s')", "(a.b) <> \"x(\""]);
    }

    #[test]
    fn broken_statements_have_no_conditions() {
        for sql in ["", "check", "CREATE TABLE t (x CHECK (", "CHECK 'x", "/* CHECK (x)", "CHECK ("] {
            assert!(checks(sql).is_empty(), "{sql}");
        }
    }
}

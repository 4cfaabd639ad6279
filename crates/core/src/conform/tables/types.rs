//! What a column says, and when two databases mean the same by it: types, defaults, conditions, numbers.

/// Whether two numbers say the same: `*` is `0..*`.
pub(super) fn is_same_count(a: &str, b: &str) -> bool {
    let full = |count: &str| match count.split_once("..") {
        Some((low, high)) => (low.trim().to_owned(), high.trim().to_owned()),
        None if count == "*" => ("0".to_owned(), "*".to_owned()),
        None => (count.to_owned(), count.to_owned()),
    };
    let ((low, high), (other_low, other_high)) = (full(a), full(b));
    // At least one of many is drawn where a database cannot say so.
    let is_low = low == other_low || low == "1" && other_low == "0" && high != "1";
    is_low && high == other_high
}

/// The type and the default in what stands behind the colon of a column; modifiers are left out.
pub(super) fn column_parts(rest: &str) -> (String, Option<String>) {
    let (mut depth, mut quote) = (0_u32, None);
    let mut cut = rest.len();
    let mut equals = None;
    for (at, c) in rest.char_indices() {
        match (quote, c) {
            (Some(mark), c) if mark == c => quote = None,
            (Some(_), _) => {}
            (None, '\'' | '"') => quote = Some(c),
            (None, '(' | '[') => depth += 1,
            (None, ')' | ']') => depth = depth.saturating_sub(1),
            (None, '=') if depth == 0 && equals.is_none() => equals = Some(at),
            (None, '{') if depth == 0 => {
                cut = at;
                break;
            }
            _ => {}
        }
    }
    let of = rest[..equals.unwrap_or(cut)].trim();
    let default = equals.map(|at| rest[at + 1..cut].trim());
    // A value in double quotes is one that could not stand bare.
    let unquoted = |text: &str| {
        let inner = text.strip_prefix('"').and_then(|text| text.strip_suffix('"'));
        inner.map_or_else(|| text.to_owned(), |inner| inner.replace("\\\"", "\"").replace("\\\\", "\\"))
    };
    (unquoted(of), default.map(unquoted))
}

/// Types that have several names (SQL:2016, 6.1, and what databases add), by the name that stands for all of them here.
const ALIASES: [(&str, &[&str]); 12] = [
    ("integer", &["int", "int4", "serial", "serial4"]),
    ("bigint", &["int8", "bigserial", "serial8"]),
    ("smallint", &["int2", "smallserial", "serial2"]),
    ("numeric", &["decimal", "dec"]),
    ("real", &["float4"]),
    ("double precision", &["float8", "double", "float"]),
    ("boolean", &["bool"]),
    ("character varying", &["varchar", "nvarchar"]),
    ("character", &["char", "nchar", "bpchar"]),
    ("timestamp with time zone", &["timestamptz"]),
    ("timestamp without time zone", &["timestamp"]),
    ("time without time zone", &["time"]),
];

/// Whether two types are the same: in other capitals, under another name, without the size that only one of them says.
pub(super) fn is_same_type(a: &str, b: &str) -> bool {
    let split = |text: &str| -> (String, Option<String>, bool) {
        let text = text.to_lowercase();
        let is_list = text.ends_with("[]") || text.ends_with("[0..*]") || text.ends_with("[*]");
        let text = text.split('[').next().unwrap_or_default().trim().to_owned();
        let (base, size) = match (text.find('('), text.find(')')) {
            (Some(open), Some(close)) if open < close => {
                let size: String = text[open + 1..close].chars().filter(|c| !c.is_whitespace()).collect();
                (format!("{}{}", &text[..open], &text[close + 1..]), Some(size))
            }
            _ => (text, None),
        };
        let base = base.split_whitespace().collect::<Vec<_>>().join(" ");
        // A schema in front says where the type is, not what it is.
        let base = base.rsplit('.').next().unwrap_or_default().replace('"', "");
        let known = ALIASES.iter().find(|(name, others)| base == *name || others.contains(&base.as_str()));
        (known.map_or(base, |(name, _)| (*name).to_owned()), size, is_list)
    };
    let (a, b) = (split(a), split(b));
    let is_sized = |size: &Option<String>, other: &Option<String>| size.is_none() || other.is_none() || size == other;
    a.0 == b.0 && a.2 == b.2 && is_sized(&a.1, &b.1)
}

/// A condition or a value without spaces, capitals, and outer brackets.
pub(super) fn bare(text: &str) -> String {
    let text: String = text.chars().filter(|c| !c.is_whitespace()).collect::<String>().to_lowercase();
    let inner = text.strip_prefix('(').and_then(|text| text.strip_suffix(')'));
    let is_closed = |inner: &str| {
        let depth = inner.chars().try_fold(0_i32, |depth, c| match c {
            '(' => Some(depth + 1),
            ')' if depth == 0 => None,
            ')' => Some(depth - 1),
            _ => Some(depth),
        });
        depth == Some(0)
    };
    inner.filter(|inner| is_closed(inner)).map(str::to_owned).unwrap_or(text)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::Member;
    use crate::source::Span;

    #[test]
    fn types_have_several_names() {
        for (a, b) in [
            ("int", "INTEGER"),
            ("varchar(20)", "character varying(20)"),
            ("varchar", "character varying(20)"),
            ("decimal(6, 3)", "numeric(6,3)"),
            ("timestamptz", "timestamp with time zone"),
            ("timestamp(3) with time zone", "timestamptz"),
            ("text[]", "TEXT[]"),
            ("shore.level", "level"),
        ] {
            assert!(is_same_type(a, b), "{a} {b}");
        }
        for (a, b) in [("int", "bigint"), ("numeric(6,3)", "numeric(6,2)"), ("text", "text[]"), ("date", "timestamp")] {
            assert!(!is_same_type(a, b), "{a} {b}");
        }
    }

    #[test]
    fn columns_are_taken_apart() {
        let parts = |text: &str| column_parts(Member::plain(text.to_owned(), Span::default()).column().1);
        assert_eq!(parts("a: numeric(6,3) = (1 + 2) {generated}"), ("numeric(6,3)".into(), Some("(1 + 2)".into())));
        assert_eq!(parts("`a: b`: text = 'x = {y}'"), ("text".into(), Some("'x = {y}'".into())));
        assert_eq!(parts("a: text = \"'a \\\"b'\""), ("text".into(), Some("'a \"b'".into())));
        assert_eq!(parts("a"), (String::new(), None));
    }

    #[test]
    fn numbers_are_compared_as_a_database_can_tell_them() {
        assert!(is_same_count("*", "0..*") && is_same_count("1..*", "0..*") && is_same_count("1", "1..1"));
        assert!(!is_same_count("1", "0..1") && !is_same_count("0..1", "0..*"));
    }

    #[test]
    fn conditions_are_compared_without_their_form() {
        assert_eq!(bare("(Level > 0)"), bare("level>0"));
        assert_ne!(bare("(a) or (b)"), bare("a) or (b"));
    }
}

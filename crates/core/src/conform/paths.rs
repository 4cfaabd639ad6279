//! Patterns for paths: which source files an element stands for.

use crate::model::Element;

/// Patterns for paths, as people write them: `src/gateway/**`, `src/{level,gauge}.rs`, several with commas between them. A folder
/// stands for everything in it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct PathPatterns(Vec<String>);

impl PathPatterns {
    /// The patterns in a text.
    pub fn new(text: &str) -> Self {
        let parts = split(text, ',')
            .into_iter()
            .map(|part| part.trim().trim_start_matches("./").trim_end_matches('/').to_owned());
        Self(parts.filter(|part| !part.is_empty()).flat_map(|part| alternatives(&part)).collect())
    }

    /// Those of an element: its `code`, or its `origin`. The second says whether they are its `code`.
    pub fn of(element: &Element) -> Option<(Self, bool)> {
        let code = element.properties.code.as_ref().map(|text| (Self::new(&text.with_signs()), true));
        code.or_else(|| element.properties.origin.as_ref().map(|text| (Self::new(&text.with_signs()), false)))
    }

    /// How exactly one of them says that a path is meant: the letters before its first sign; nothing if none does.
    pub fn exactness(&self, path: &str) -> Option<usize> {
        let matching = self.0.iter().filter(|pattern| is_match(pattern, path));
        matching.map(|pattern| pattern.find(['*', '?']).unwrap_or(pattern.len())).max()
    }
}

/// Of all that a path may belong to, each with how exactly that is said, what it does belong to: what lies in another of them takes
/// precedence, and then the more exact; of equals, the first.
pub fn innermost<T: Copy + Ord>(meant: &[(usize, T)], lies_in: impl Fn(T, T) -> bool) -> Option<T> {
    let is_outer = |outer: T| meant.iter().any(|(_, inner)| lies_in(*inner, outer));
    let inner = meant.iter().filter(|(_, id)| !is_outer(*id));
    inner.max_by_key(|(exactness, id)| (*exactness, std::cmp::Reverse(*id))).map(|(_, id)| *id)
}

/// The parts of a text between signs that stand in no curly brackets.
fn split(text: &str, sign: char) -> Vec<&str> {
    let (mut depth, mut start, mut out) = (0usize, 0, Vec::new());
    for (at, c) in text.char_indices() {
        match c {
            '{' => depth += 1,
            '}' => depth = depth.saturating_sub(1),
            c if c == sign && depth == 0 => {
                out.push(&text[start..at]);
                start = at + c.len_utf8();
            }
            _ => {}
        }
    }
    out.push(&text[start..]);
    out
}

/// A pattern for each of the alternatives in curly brackets; at most a hundred.
fn alternatives(pattern: &str) -> Vec<String> {
    let mut done = Vec::new();
    let mut open = vec![pattern.to_owned()];
    while let Some(pattern) = open.pop() {
        let inner = pattern.find('{').and_then(|from| Some((from, from + pattern[from..].find('}')?)));
        match inner {
            Some((from, to)) if open.len() + done.len() + split(&pattern[from + 1..to], ',').len() <= 100 => {
                let (before, after) = (&pattern[..from], &pattern[to + 1..]);
                open.extend(
                    split(&pattern[from + 1..to], ',').into_iter().rev().map(|one| format!("{before}{one}{after}")),
                );
            }
            _ => done.push(pattern),
        }
    }
    done
}

/// Whether a path, or a folder around it, matches a pattern: `*` stands for letters of one name, `**` for any.
fn is_match(pattern: &str, path: &str) -> bool {
    let (pattern, path) = (pattern.as_bytes(), path.as_bytes());
    // The last star, the byte that it reaches, and whether it passes `/`: only what comes last is tried again, and before it the
    // last one that passes.
    let (mut p, mut n) = (0, 0);
    let mut star: Option<(usize, usize)> = None;
    let mut far: Option<(usize, usize)> = None;
    loop {
        let is_end = p == pattern.len() && (n == path.len() || path[n] == b'/');
        if is_end {
            return true;
        }
        let is_far = pattern[p..].starts_with(b"**");
        if is_far {
            p += 2;
            // `a/**/b` is `a/b`, too.
            if pattern.get(p) == Some(&b'/') && (n == 0 || path[n - 1] == b'/') {
                p += 1;
            }
            (far, star) = (Some((p, n)), None);
        } else if pattern.get(p) == Some(&b'*') {
            p += 1;
            star = Some((p, n));
        } else if n < path.len()
            && p < pattern.len()
            && (pattern[p] == path[n] || pattern[p] == b'?' && path[n] != b'/')
        {
            (p, n) = (p + 1, n + 1);
        } else if let Some((at, reached)) = star.filter(|(_, reached)| *reached < path.len() && path[*reached] != b'/')
        {
            (p, n) = (at, reached + 1);
            star = Some((at, reached + 1));
        } else if let Some((at, reached)) = far.filter(|(_, reached)| *reached < path.len()) {
            (p, n) = (at, reached + 1);
            (far, star) = (Some((at, reached + 1)), None);
        } else {
            return false;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn patterns_match_paths() {
        for (pattern, path) in [
            ("src/gateway", "src/gateway/a.rs"),
            ("src/*", "src/a.rs"),
            ("src/*", "src/deep/a.rs"),
            ("src/**", "src/a/b/c.rs"),
            ("**/warn/**", "a/warn/b.rs"),
            ("**/warn", "warn/b.rs"),
            ("a/**/b.rs", "a/b.rs"),
            ("src/{level,gauge}.rs", "src/gauge.rs"),
            ("x.rs, src/?.rs", "src/a.rs"),
            ("./src/", "src/a.rs"),
            ("*", "a"),
            ("a*c/d", "abc/d/e"),
        ] {
            assert!(PathPatterns::new(pattern).exactness(path).is_some(), "{pattern} {path}");
        }
        for (pattern, path) in [
            ("src/gate", "src/gateway/a.rs"),
            ("*.rs", "src/a.rs"),
            ("src/*.rs", "src/b/a.rs"),
            ("", "a"),
            ("src/?.rs", "src/ab.rs"),
            ("a/**/b.rs", "a/c.rs"),
        ] {
            assert!(PathPatterns::new(pattern).exactness(path).is_none(), "{pattern} {path}");
        }
    }

    #[test]
    fn the_more_exact_pattern_is_told() {
        let exactness = |pattern: &str| PathPatterns::new(pattern).exactness("src/rules/level.rs");
        assert!(
            exactness("src/**") < exactness("src/rules/**")
                && exactness("src/rules/**") < exactness("src/rules/level.rs")
        );
        assert_eq!(exactness("**"), Some(0));
    }

    #[test]
    fn many_stars_end() {
        let pattern = "*a".repeat(60) + "b";
        assert!(PathPatterns::new(&pattern).exactness(&"a".repeat(4000)).is_none());
        let pattern = "**/a".repeat(40);
        assert!(PathPatterns::new(&pattern).exactness(&"a/".repeat(30)).is_none());
        assert_eq!(PathPatterns::new(&"{a,b}".repeat(20)).0.len(), 100);
    }
}

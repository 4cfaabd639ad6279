//! What of a source is wanted, by names.

/// What of a source is wanted.
#[derive(Clone, Debug, Default)]
pub struct Selection {
    /// Only things whose names match one of these patterns.
    pub only: Vec<String>,
    /// No things whose names match one of these.
    pub without: Vec<String>,
    /// The name of the picture; by the source otherwise.
    pub name: Option<String>,
}

impl Selection {
    /// Whether a name is wanted: it matches a pattern of those asked for, if there are any, and none of those that are left out.
    pub(crate) fn wants(&self, name: &str) -> bool {
        (self.only.is_empty() || Self::any(&self.only, name)) && !Self::any(&self.without, name)
    }

    /// Whether a name matches one of some patterns.
    pub(crate) fn any(patterns: &[String], name: &str) -> bool {
        patterns.iter().any(|pattern| matches(pattern, name))
    }
}

/// Whether a name matches a pattern, in which `*` stands for any letters and `?` for one.
fn matches(pattern: &str, name: &str) -> bool {
    let (pattern, name): (Vec<char>, Vec<char>) = (pattern.chars().collect(), name.chars().collect());
    // The last star, and the letter up to which it reaches: only that one is ever tried again.
    let (mut p, mut n, mut star) = (0, 0, None);
    while n < name.len() {
        match pattern.get(p) {
            Some('*') => {
                star = Some((p, n));
                p += 1;
            }
            Some(c) if *c == '?' || *c == name[n] => (p, n) = (p + 1, n + 1),
            _ => match star {
                Some((at, reached)) => {
                    star = Some((at, reached + 1));
                    (p, n) = (at + 1, reached + 1);
                }
                None => return false,
            },
        }
    }
    pattern[p..].iter().all(|c| *c == '*')
}

#[cfg(test)]
mod tests {
    use super::matches;

    #[test]
    fn patterns_match_names() {
        for (pattern, name) in
            [("*", ""), ("core-*", "core-1"), ("*sw*", "core-sw-1"), ("?1", "a1"), ("a*b*c", "aXbYbZc")]
        {
            assert!(matches(pattern, name), "{pattern} {name}");
        }
        for (pattern, name) in [("", "a"), ("core", "core1"), ("a*b", "abc"), ("?", "")] {
            assert!(!matches(pattern, name), "{pattern} {name}");
        }
    }
}

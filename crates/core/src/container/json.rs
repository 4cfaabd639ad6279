//! What a drawing as JSON carries: digest and seal among its first lines, before anything that a user wrote.

use super::carried::Carried;
use super::seal::{Bytes, DIGITS, digest_without, hex};

/// What it begins with.
pub(super) const BEGIN: &[u8] = b"{\n  \"version\"";

/// A value among the first lines, by its name, with where it begins.
fn value<'a>(json: &'a str, name: &str) -> Option<(usize, &'a str)> {
    let wanted = format!("\"{name}\": \"");
    let line = json.lines().take(5).find(|line| line.trim_start().starts_with(&wanted))?;
    let value = line.trim_start().strip_prefix(&wanted)?.split('"').next()?;
    Some((value.as_ptr() as usize - json.as_ptr() as usize, value))
}

fn seal_at(json: &str) -> Option<usize> {
    value(json, "seal").filter(|(_, seal)| seal.len() == DIGITS).map(|(at, _)| at)
}

/// Seals a drawing as JSON, whose seal is open.
pub fn seal_json(mut json: String) -> String {
    if let Some(at) = seal_at(&json) {
        let seal = hex(&digest_without(json.as_bytes(), at, DIGITS, Bytes::Text));
        json.replace_range(at..at + DIGITS, &seal);
    }
    json
}

/// What it carries.
pub(super) fn read(json: &str) -> Option<Carried> {
    let digest = value(json, "digest")?.1.to_owned();
    let is_intact = seal_at(json)
        .is_some_and(|at| json[at..at + DIGITS] == hex(&digest_without(json.as_bytes(), at, DIGITS, Bytes::Text)));
    digest.starts_with("sha256:").then_some(Carried { digest, is_intact })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sealed_drawing_is_intact_until_it_is_changed() {
        let open = format!(
            "{{\n  \"version\": 1,\n  \"digest\": \"sha256:00\",\n  \"seal\": \"{}\",\n  \"title\": \"a\"\n}}\n",
            "0".repeat(DIGITS)
        );
        let sealed = seal_json(open);
        assert_eq!(read(&sealed), Some(Carried { digest: "sha256:00".to_owned(), is_intact: true }));
        assert!(read(&sealed.replace("\n", "\r\n")).is_some_and(|carried| carried.is_intact));
        assert!(read(&sealed.replace("\"a\"", "\"b\"")).is_some_and(|carried| !carried.is_intact));
        assert_eq!(read("{\n  \"version\": 1\n}\n"), None);
    }
}

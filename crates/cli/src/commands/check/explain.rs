//! The page of a rule or a mistake, out of the manual that ships inside the program.

/// The manual: a heading `## code` begins a page.
const MANUAL: &str = include_str!("../../../../../docs/rules.md");

/// The page with a code; for an empty code, the list of all.
///
/// Fails with what to write instead, if there is no such page.
pub(super) fn page(code: &str) -> Result<String, String> {
    let pages = || MANUAL.split("\n## ").skip(1);
    let head = |page: &str| page.lines().next().unwrap_or_default().to_owned();
    if code.is_empty() {
        let line = |page: &str| {
            let about = page.lines().skip(1).find(|l| !l.trim().is_empty()).unwrap_or_default();
            format!("{:26} {about}\n", head(page))
        };
        return Ok(pages().map(line).collect());
    }
    match pages().find(|page| head(page) == code) {
        // A page ends where a part of the manual begins.
        Some(page) => Ok(format!("{}\n", page.split("\n# ").next().unwrap_or(page).trim_end())),
        None => {
            let codes: Vec<String> = pages().map(head).collect();
            let meant = bathygram_core::diag::nearest(code, codes.iter().map(String::as_str));
            let hint = meant.map_or("`check --explain` lists them".to_owned(), |m| format!("did you mean `{m}`?"));
            Err(format!("no rule and no mistake has the code `{code}`; {hint}"))
        }
    }
}

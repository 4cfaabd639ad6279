//! The page of a rule or an error, out of the manual that ships inside the program.

/// The manual: a heading `## code` begins a page.
const MANUAL: &str = include_str!("../../../../../docs/rules.md");

/// The page with a code, as Markdown.
pub(super) fn markdown(code: &str) -> Option<&'static str> {
    let page = MANUAL.split("\n## ").skip(1).find(|page| page.lines().next() == Some(code))?;
    // A page ends where a part of the manual begins.
    Some(page.split("\n# ").next().unwrap_or(page).trim_end())
}

/// The first sentence of a page.
pub(super) fn about(page: &str) -> String {
    let paragraph = page.lines().skip(1).skip_while(|l| l.trim().is_empty()).take_while(|l| !l.trim().is_empty());
    let text = paragraph.collect::<Vec<_>>().join(" ");
    text.find(". ").map_or(text.clone(), |end| text[..=end].to_owned())
}

/// The column at which lines of text are broken.
// Longer lines are hard to find the next one of; terminals are wider than that.
const WIDTH: usize = 96;

/// A page as plain text: examples are indented and named, paragraphs are broken.
fn for_terminal(page: &str) -> String {
    let mut out = String::new();
    let mut in_example = false;
    let mut paragraph: Vec<&str> = Vec::new();
    for line in page.lines().chain([""]) {
        // The code stands on a line of its own.
        if !in_example && !line.is_empty() && !line.starts_with("```") && !out.is_empty() {
            paragraph.push(line);
            continue;
        }
        if !paragraph.is_empty() {
            out.push_str(&broken(&std::mem::take(&mut paragraph).join(" ")));
        }
        match line {
            "```bathy wrong" => (in_example, out) = (true, out + "Wrong:\n\n"),
            "```bathy" => (in_example, out) = (true, out + "Right:\n\n"),
            "```" => in_example = false,
            _ if in_example => out.push_str(&format!("    {line}\n")),
            _ => out.push_str(&format!("{line}\n")),
        }
    }
    format!("{}\n", out.trim_end())
}

/// A paragraph, broken between words.
fn broken(paragraph: &str) -> String {
    let mut out = String::new();
    let mut width = 0;
    for word in paragraph.split(' ') {
        let length = word.chars().count();
        if width > 0 && width + 1 + length > WIDTH {
            out.push('\n');
            width = 0;
        } else if width > 0 {
            out.push(' ');
            width += 1;
        }
        out.push_str(word);
        width += length;
    }
    out.push('\n');
    out
}

/// The page with a code; for an empty code, the list of all.
///
/// Fails with what to write instead, if there is no such page.
pub(super) fn page(code: &str) -> Result<String, String> {
    let pages = || MANUAL.split("\n## ").skip(1);
    let head = |page: &str| page.lines().next().unwrap_or_default().to_owned();
    if code.is_empty() {
        let line = |page: &str| format!("{:26} {}\n", head(page), about(page));
        return Ok(pages().map(line).collect());
    }
    match markdown(code) {
        Some(page) => Ok(for_terminal(page)),
        None => {
            let codes: Vec<String> = pages().map(head).collect();
            let meant = bathygram_core::diag::nearest(code, codes.iter().map(String::as_str));
            let hint = meant.map_or("`check --explain` lists them".to_owned(), |m| format!("did you mean `{m}`?"));
            Err(format!("no rule and no error has the code `{code}`; {hint}"))
        }
    }
}

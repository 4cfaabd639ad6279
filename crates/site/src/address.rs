//! Where pages are: names of files that any disk and any server can hold, and relative links between them.

use bathygram_core::markup::as_link;
use bathygram_core::source::Unique;
use bathygram_core::views::file_name;

/// The link from one page to another, both by their paths in the site.
pub(crate) fn link(from: &str, to: &str) -> String {
    let (to, anchor) = to.split_once('#').map_or((to, None), |(page, anchor)| (page, Some(anchor)));
    let mut here: Vec<&str> = from.split('/').collect();
    here.pop();
    let there: Vec<&str> = to.split('/').collect();
    let shared = here.iter().zip(&there[..there.len() - 1]).take_while(|(a, b)| a == b).count();
    let up = std::iter::repeat_n("..".to_owned(), here.len() - shared);
    let path: Vec<String> = up.chain(there[shared..].iter().map(|part| as_link(part))).collect();
    let anchor = anchor.map_or(String::new(), |anchor| format!("#{}", as_link(anchor)));
    path.join("/") + &anchor
}

/// The way from a page up to the front page's folder, such as `../`.
pub(crate) fn root(from: &str) -> String {
    "../".repeat(from.matches('/').count())
}

/// The anchors of elements in the page of their diagram, by their keys: letters, digits, `-` and `_`.
pub(crate) fn anchors<'k>(keys: impl Iterator<Item = &'k str>) -> Vec<String> {
    let mut names = Names::default();
    let plain = |c: char| if c.is_alphanumeric() || c == '_' { c } else { '-' };
    keys.map(|key| format!("element-{}", names.take(&key.chars().map(plain).collect::<String>()))).collect()
}

/// The names of files in one folder.
#[derive(Debug)]
pub(crate) struct Names(Unique);

impl Default for Names {
    fn default() -> Self {
        Self(Unique::whatever_the_case())
    }
}

impl Names {
    /// A name that no other file of the folder has, without its ending.
    pub(crate) fn take(&mut self, wanted: &str) -> String {
        file_name(wanted, &mut self.0)
    }

    /// A path of such names.
    pub(crate) fn take_path(&mut self, wanted: &str) -> String {
        let parts: Vec<String> = wanted.split('/').map(|part| file_name(part, &mut Unique::default())).collect();
        let wanted = parts.join("/");
        self.0.give(&wanted, |number| format!("{wanted}-{number}"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn links_lead_from_folder_to_folder() {
        assert_eq!(link("index.html", "diagrams/a.html"), "diagrams/a.html");
        assert_eq!(link("diagrams/a.html", "diagrams/b.html"), "b.html");
        assert_eq!(link("elements/m/a.html", "elements/m/b.html#x"), "b.html#x");
        assert_eq!(link("elements/m/a.html", "elements/n/süd.html"), "../n/s%C3%BCd.html");
        assert_eq!(link("elements/m/a.html", "index.html"), "../../index.html");
        assert_eq!(root("elements/m/a.html"), "../../");
    }

    #[test]
    fn paths_differ_even_without_capitals_and_never_lead_out() {
        let mut names = Names::default();
        assert_eq!(names.take_path("docs/Start"), "docs/Start");
        assert_eq!(names.take_path("docs/start"), "docs/start-2");
        assert_eq!(names.take_path("../x"), "-2/x");
    }
}

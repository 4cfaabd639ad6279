//! Whether every link of every page leads to something that the site has.

use crate::plan::Unit;
use bathygram_core::jobs::{Jobs, map};
use std::collections::{BTreeMap, BTreeSet};

/// A link that leads nowhere.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct BrokenLink {
    /// The page.
    pub page: String,
    /// The address as it stands there.
    pub target: String,
}

/// The links of all pages that lead to no file of the site, or to no place in a page.
pub fn broken_links(units: &[Unit<'_>], copies: &BTreeSet<String>, jobs: &dyn Jobs) -> Vec<BrokenLink> {
    let files: BTreeSet<&str> = units
        .iter()
        .flat_map(|unit| unit.files.iter().map(String::as_str))
        .chain(copies.iter().map(String::as_str))
        .collect();
    let mut anchors: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
    for (page, html) in units.iter().filter_map(Unit::page) {
        anchors.insert(page, values(html, " id=\"").collect());
    }
    let of_page = |i: usize| -> Vec<BrokenLink> {
        let Some((page, html)) = units[i].page() else { return Vec::new() };
        let written = values(html, " href=\"").chain(values(html, " src=\"")).chain(units[i].addresses());
        let lost = written.filter(|target| !is_reached(page, target, &files, &anchors));
        lost.map(|target| BrokenLink { page: page.to_owned(), target: target.to_owned() }).collect()
    };
    let mut broken: Vec<BrokenLink> = map(jobs, units.len(), &of_page).into_iter().flatten().collect();
    broken.sort();
    broken.dedup();
    broken
}

/// The values of an attribute in a page that this crate made: always between double quotes.
fn values<'h>(html: &'h str, attribute: &'h str) -> impl Iterator<Item = &'h str> {
    html.split(attribute).skip(1).filter_map(|rest| rest.split_once('"').map(|(value, _)| value))
}

fn is_reached(page: &str, target: &str, files: &BTreeSet<&str>, anchors: &BTreeMap<&str, BTreeSet<&str>>) -> bool {
    if crate::links::has_safe_scheme(target) {
        return true;
    }
    let (path, anchor) = target.split_once('#').unwrap_or((target, ""));
    let mut parts: Vec<&str> = page.split('/').collect();
    parts.pop();
    let path = crate::links::decoded(path);
    let to = if path.is_empty() {
        page.to_owned()
    } else {
        for part in path.split('/') {
            match part {
                ".." if parts.pop().is_none() => return false,
                ".." => {}
                part => parts.push(part),
            }
        }
        parts.join("/")
    };
    let anchor = crate::links::decoded(anchor);
    let anchor = bathygram_outputs::html::escaped(&anchor);
    files.contains(to.as_str())
        && (anchor.is_empty() || anchors.get(to.as_str()).is_some_and(|all| all.contains(anchor.as_str())))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_link_to_nothing_is_found() {
        let page = |path: &str, html: &str| Unit::ready(path, html.to_owned());
        let units = [
            page("index.html", "<a href=\"a/b.html#x\"></a><a href=\"a/b.html#y\"></a><a href=\"https://x.test\"></a>"),
            page("a/b.html", "<p id=\"x\"><a href=\"../index.html\"></a><a href=\"../../out\"></a><img src=\"c.svg\">"),
        ];
        let broken: Vec<String> = broken_links(&units, &BTreeSet::new(), &bathygram_core::jobs::OneByOne)
            .into_iter()
            .map(|b| format!("{} {}", b.page, b.target))
            .collect();
        assert_eq!(broken, ["a/b.html ../../out", "a/b.html c.svg", "index.html a/b.html#y"]);
    }
}

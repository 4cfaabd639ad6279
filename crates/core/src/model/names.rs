//! Finding elements by name. A name is looked up from the innermost scope outwards, then in the rest
//! of the block if it is unique there.

use super::{Diagram, Element, ElementId, ElementKind};
use crate::diag::{Diagnostics, Message, nearest};
use crate::syntax::Path;
use std::cell::Cell;
use std::collections::{BTreeSet, HashMap};

/// Which elements bear a name, and what resembles an unknown one.
#[derive(Debug, Default)]
pub(super) struct Names {
    by_name: HashMap<String, Vec<ElementId>>,
    by_label: HashMap<String, Vec<ElementId>>,
    /// Declared names, for suggestions; sorted, so that the same one is suggested every time.
    declared: BTreeSet<String>,
    /// Tables often bear the name of a class in small letters.
    tables: BTreeSet<String>,
    keys: HashMap<String, u32>,
    compared: Cell<usize>,
}

/// At most this many declared names are compared with an unknown one.
const SUGGESTIONS: usize = 5_000;
/// So many comparisons are made in a block; after that, unknown names come into being.
const COMPARISONS: usize = 1_000_000;

impl Names {
    /// The names of all elements of a diagram.
    pub(super) fn of(diagram: &Diagram) -> Self {
        let mut names = Self::default();
        diagram.ids().for_each(|(id, _)| names.add(diagram, id));
        names
    }

    /// Takes up an element under its name and its label.
    pub(super) fn add(&mut self, diagram: &Diagram, id: ElementId) {
        let element = diagram.element(id);
        if !element.name.is_empty() {
            self.by_name.entry(element.name.clone()).or_default().push(id);
            if !element.implicit {
                let tables = element.kind == ElementKind::Table;
                if tables { &mut self.tables } else { &mut self.declared }.insert(element.name.clone());
            }
        }
        self.add_label(element, id);
    }

    /// Takes up an element under its label, once.
    pub(super) fn add_label(&mut self, element: &Element, id: ElementId) {
        if let Some(label) = &element.label {
            let bearers = self.by_label.entry(label.text()).or_default();
            if bearers.last() != Some(&id) {
                bearers.push(id);
            }
        }
    }

    /// A key like `wanted` that no other element of the diagram has.
    pub(super) fn unique_key(&mut self, wanted: &str) -> String {
        let mut key = wanted.to_owned();
        while self.keys.contains_key(&key) {
            let count = self.keys.entry(wanted.to_owned()).or_insert(0);
            *count += 1;
            key = format!("{wanted} ({count})");
        }
        self.keys.insert(key.clone(), 1);
        key
    }

    /// The element that a path names, seen from inside `scope`.
    ///
    /// `Ok(None)` if there is none; an ambiguous path is reported and yields `Err`.
    pub(super) fn find(
        &self, diagram: &Diagram, path: &Path, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Result<Option<ElementId>, ()> {
        let last = &path.names[path.names.len() - 1];
        let index = if last.by_label { &self.by_label } else { &self.by_name };
        let Some(all) = index.get(&last.text) else { return Ok(None) };
        let found: Vec<ElementId> = all.iter().copied().filter(|id| matches(diagram, *id, path)).collect();
        match found.as_slice() {
            [] => Ok(None),
            [only] => Ok(Some(*only)),
            _ => self.innermost(diagram, &found, path, scope).map(Some).ok_or_else(|| {
                let candidates = found.iter().map(|id| diagram.element(*id).key.clone()).collect();
                diags.report(path.span, Message::AmbiguousName { name: path.text(), candidates });
            }),
        }
    }

    /// The element that a path names; if there is none, that is reported.
    pub(super) fn expect(
        &self, diagram: &Diagram, path: &Path, scope: Option<ElementId>, diags: &mut Diagnostics,
    ) -> Option<ElementId> {
        let found = self.find(diagram, path, scope, diags).ok()?;
        if found.is_none() && !self.report_resembling(path, diags) {
            diags.report(path.span, Message::UnknownName { name: path.text(), suggestion: None });
        }
        found
    }

    fn innermost(
        &self, diagram: &Diagram, found: &[ElementId], path: &Path, scope: Option<ElementId>,
    ) -> Option<ElementId> {
        let steps = path.names.len() - 1;
        let base = |id: ElementId| std::iter::successors(Some(id), |i| owner(diagram, *i)).nth(steps);
        let parent = |id: ElementId| base(id).and_then(|b| owner(diagram, b));
        let mut scopes: Vec<Option<ElementId>> = Vec::new();
        let mut at = scope;
        while let Some(id) = at {
            scopes.push(Some(id));
            at = owner(diagram, id);
        }
        scopes.push(None);
        scopes.into_iter().find_map(|s| {
            let mut here = found.iter().copied().filter(|id| parent(*id) == s);
            here.next().filter(|_| here.next().is_none())
        })
    }

    /// Reports an unknown name that resembles a declared one; says whether it does.
    pub(super) fn report_resembling(&self, path: &Path, diags: &mut Diagnostics) -> bool {
        let last = &path.names[path.names.len() - 1];
        if last.by_label {
            let labels: BTreeSet<&str> = self.by_label.keys().map(String::as_str).take(SUGGESTIONS).collect();
            let suggestion = nearest(&last.text, labels).map(|s| format!("\"{s}\""));
            diags.report(path.span, Message::UnknownName { name: format!("\"{}\"", last.text), suggestion });
            return true;
        }
        let declared = (self.declared.len() + self.tables.len()).min(SUGGESTIONS);
        if self.compared.replace(self.compared.get() + declared) > COMPARISONS {
            return false;
        }
        let in_small = last.text.to_lowercase();
        let tables = self.tables.iter().filter(|t| t.to_lowercase() != in_small);
        let names = self.declared.iter().chain(tables).map(String::as_str).take(SUGGESTIONS);
        let suggestion = nearest(&last.text, names).filter(|s| !differ_by_figures(&last.text, s));
        let reported = suggestion.is_some() || path.names.len() > 1;
        if reported {
            let suggestion = suggestion.map(str::to_owned);
            diags.report(path.span, Message::UnknownName { name: path.text(), suggestion });
        }
        reported
    }
}

/// `lamp2` is no mistyped `lamp1`.
fn differ_by_figures(a: &str, b: &str) -> bool {
    let stem = |s: &str| s.trim_end_matches(|c: char| c.is_ascii_digit()).to_owned();
    stem(a) == stem(b)
}

/// What an element lies in, groups and lanes not counted.
pub(super) fn owner(diagram: &Diagram, id: ElementId) -> Option<ElementId> {
    diagram.ancestors(id).find(|p| !diagram.element(*p).kind.is_box())
}

/// Whether the last names of an element's path are this path.
fn matches(diagram: &Diagram, id: ElementId, path: &Path) -> bool {
    let mut at = Some(id);
    for (i, name) in path.names.iter().rev().enumerate() {
        match at {
            Some(id) => {
                let element = diagram.element(id);
                let same = element.name == name.text
                    || name.by_label && element.label.as_ref().is_some_and(|l| l.text() == name.text);
                if !same {
                    return false;
                }
                at = owner(diagram, id);
            }
            // A path may start at the block's own name.
            None => return i + 1 == path.names.len() && diagram.name == name.text,
        }
    }
    true
}

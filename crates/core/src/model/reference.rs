//! What columns of a table refer to (SQL:2016, 11.8: referential constraints). Input: the traits of a column. Output: a
//! [`Reference`].

use crate::diag::{Diagnostics, Message};
use crate::syntax::Trait;
use std::fmt;

/// A reference from columns to a row of a table.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Reference {
    /// The names of its columns.
    pub columns: Vec<String>,
    /// The table: its name, or the names of packages and its own.
    pub table: Vec<String>,
    /// The columns there; its key if they are not said.
    pub targets: Vec<String>,
    /// What happens to a row when the row that it refers to is deleted.
    pub on_delete: Option<Action>,
    /// What happens to it when that row gets another key.
    pub on_update: Option<Action>,
}

/// What happens to a row that refers to a changed one; nothing said is no action.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Action {
    /// The same.
    Cascade,
    /// The change is refused.
    Restrict,
    /// It refers to nothing from then on.
    SetNull,
    /// It gets the default.
    SetDefault,
}

impl Action {
    const ALL: [(Self, &'static str); 4] = [
        (Self::Cascade, "cascade"),
        (Self::Restrict, "restrict"),
        (Self::SetNull, "set null"),
        (Self::SetDefault, "set default"),
    ];

    /// As SQL says it.
    pub fn words(self) -> &'static str {
        Self::ALL.iter().find(|(action, _)| *action == self).map_or("", |(_, words)| words)
    }

    /// The action that SQL calls so; `None` for no action, too.
    pub fn from_words(words: &str) -> Option<Self> {
        Self::ALL.iter().find(|(_, own)| own.eq_ignore_ascii_case(words)).map(|(action, _)| *action)
    }
}

impl fmt::Display for Reference {
    /// The table, with its columns if they are said.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.table.join("."))?;
        match &self.targets[..] {
            [] => Ok(()),
            [one] => write!(f, ".{one}"),
            several => write!(f, " ({})", several.join(", ")),
        }
    }
}

impl Reference {
    /// A reference to a table's key, without actions.
    pub fn new(columns: Vec<String>, table: Vec<String>) -> Self {
        Self { columns, table, targets: Vec::new(), on_delete: None, on_update: None }
    }

    /// What happens when the other row changes, each in brackets after a space.
    pub(crate) fn actions(&self) -> String {
        self.written_actions().iter().map(|words| format!(" ({words})")).collect()
    }

    /// What happens when the other row changes, as it is written.
    pub(crate) fn written_actions(&self) -> Vec<String> {
        let actions = [("delete", self.on_delete), ("update", self.on_update)];
        actions.iter().filter_map(|(event, action)| Some(format!("on {event} {}", action.as_ref()?.words()))).collect()
    }
}

/// Splits a path at its dots, names in backquotes whole.
pub(super) fn names(path: &str) -> Vec<String> {
    let mut names = vec![String::new()];
    let mut is_quoted = false;
    for c in path.chars() {
        match c {
            '`' => is_quoted = !is_quoted,
            '.' if !is_quoted => names.push(String::new()),
            _ => names.last_mut().into_iter().for_each(|name| name.push(c)),
        }
    }
    names
}

/// The reference that the traits of a column say.
pub(super) fn of_column(traits: &[Trait], column: String, diags: &mut Diagnostics) -> Option<Reference> {
    let said = traits.iter().find(|t| t.word.value == "refers");
    let value = said.and_then(|t| t.values.first());
    let reference = value.map(|value| {
        let mut table = names(&value.value);
        let target = if table.len() > 1 { table.pop() } else { None };
        Reference { targets: target.into_iter().collect(), ..Reference::new(vec![column], table) }
    });
    with_actions(reference, traits, diags)
}

/// Takes `on delete …` and `on update …` into a reference.
pub(super) fn with_actions(
    mut reference: Option<Reference>, traits: &[Trait], diags: &mut Diagnostics,
) -> Option<Reference> {
    for t in traits.iter().filter(|t| t.word.value == "on") {
        let words: Vec<&str> = t.values.iter().map(|value| value.value.as_str()).collect();
        let (event, action) = words.split_first().map_or(("", String::new()), |(event, rest)| (*event, rest.join(" ")));
        let is_known = matches!(event, "delete" | "update")
            && (Action::from_words(&action).is_some() || action.eq_ignore_ascii_case("no action"));
        match (&mut reference, is_known) {
            (Some(reference), true) if event == "delete" => reference.on_delete = Action::from_words(&action),
            (Some(reference), true) => reference.on_update = Action::from_words(&action),
            _ => {
                let values = "`on delete` or `on update` with `cascade`, `restrict`, `set null` or `set default`, beside `refers`";
                let word = std::iter::once("on").chain(words).collect::<Vec<_>>().join(" ");
                diags.report(t.span(), Message::BadValue { word, of: "refers", values });
            }
        }
    }
    reference
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_are_split_at_dots_outside_of_backquotes() {
        assert_eq!(names("a.b"), ["a", "b"]);
        assert_eq!(names("`a.b`.`c d`"), ["a.b", "c d"]);
        assert_eq!(names("a"), ["a"]);
    }

    #[test]
    fn actions_are_those_of_sql() {
        assert_eq!(Action::from_words("SET NULL"), Some(Action::SetNull));
        assert_eq!(Action::from_words("no action"), None);
        assert!(Action::ALL.iter().all(|(action, words)| Action::from_words(words) == Some(*action)));
    }
}

//! What the columns of a table hold, by their headings or as the user says.

use super::rows::Row;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// The usual spellings.
#[derive(Deserialize)]
struct Words {
    sides: BTreeMap<String, Vec<String>>,
    ends: BTreeMap<End, Vec<String>>,
    cable: BTreeMap<Of, Vec<String>>,
    element: BTreeMap<Is, Vec<String>>,
    icons: BTreeMap<String, Vec<String>>,
}

static WORDS: LazyLock<Words> =
    LazyLock::new(|| toml::from_str(include_str!("../../words/tables.toml")).unwrap_or_else(|why| panic!("{why}")));

/// One side of a cable.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Side {
    First,
    Second,
}

/// What a column of one side holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(super) enum End {
    Device,
    Port,
    Rack,
    Site,
    Kind,
    Speed,
    Medium,
}

/// What a column holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Role {
    /// Something of one end of a cable.
    End(Side, End),
    /// Something of the whole cable.
    Cable(Of),
    /// Something of an element.
    Element(Is),
}

/// What is said of a cable.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(super) enum Of {
    Speed,
    Medium,
    Label,
    Vlan,
    About,
}

/// What is said of an element.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(super) enum Is {
    Name,
    Label,
    Kind,
    Parent,
    Rack,
    Site,
    About,
    Built,
    Owner,
    Tag,
}

impl Role {
    /// Headings of devices, for messages.
    pub(super) const END_EXAMPLES: &'static str = "such as `From device` and `To device`";
}

/// What columns hold, as the user says: a role for a heading, or for the letter of a column.
#[derive(Clone, Debug, Default)]
pub struct Columns(Vec<(Role, String)>);

impl Columns {
    /// Reads `from=A, from port=B, to=Target`.
    ///
    /// # Errors
    /// If a role is none: with those that there are.
    pub fn read(text: &str) -> Result<Self, String> {
        let mut all = Vec::new();
        for part in text.split(',').map(str::trim).filter(|part| !part.is_empty()) {
            let Some((role, column)) = part.split_once('=') else {
                return Err(format!("`{part}` names no column; write `from=A`, or a heading instead of the letter"));
            };
            let role = role.trim();
            let found = side_role(role)
                .or_else(|| look(&WORDS.cable, &plain(role)).map(Role::Cable))
                .or_else(|| look(&WORDS.element, &plain(role)).map(Role::Element));
            let Some(found) = found else {
                return Err(format!(
                    "`{role}` is nothing that a column holds; there are from, from port, to, to port, rack, site, kind, speed, \
                     medium, label, vlan, about, name, parent, built, owner and tag"
                ));
            };
            all.push((found, column.trim().to_owned()));
        }
        Ok(Self(all))
    }
}

/// What a table is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum What {
    Connections,
    Elements,
}

/// The columns of a table.
pub(super) struct Headings {
    pub(super) what: What,
    columns: BTreeMap<Role, usize>,
}

impl Headings {
    /// The columns that a row of headings tells; `None` if it is none.
    pub(super) fn of(row: &Row, asked: &Columns) -> Option<Self> {
        let mut columns: BTreeMap<Role, usize> = BTreeMap::new();
        for (role, column) in &asked.0 {
            let by_heading = row.cells.iter().position(|cell| plain(cell) == plain(column) && !cell.is_empty());
            let by_letter = || number_of(column).filter(|at| *at < row.cells.len());
            if let Some(at) = by_heading.or_else(by_letter) {
                columns.insert(*role, at);
            }
        }
        let is_asked = !columns.is_empty();
        // Columns of both sides come first: "Type" alone may be the cable's, or an element's.
        let ends: Vec<(usize, Role)> =
            row.cells.iter().enumerate().filter_map(|(at, cell)| Some((at, side_role(cell)?))).collect();
        let mut all = columns.clone();
        ends.iter().for_each(|(at, role)| _ = all.entry(*role).or_insert(*at));
        let has = |side: Side| all.contains_key(&Role::End(side, End::Device));
        if has(Side::First) && has(Side::Second) {
            columns = all;
            let taken: Vec<usize> = columns.values().copied().collect();
            for (at, cell) in row.cells.iter().enumerate().filter(|(at, _)| !taken.contains(at)) {
                if let Some(role) = look(&WORDS.cable, &plain(cell)).map(Role::Cable) {
                    columns.entry(role).or_insert(at);
                }
            }
            return Some(Self { what: What::Connections, columns });
        }
        for (at, cell) in row.cells.iter().enumerate() {
            if let Some(role) = look(&WORDS.element, &plain(cell)).map(Role::Element) {
                columns.entry(role).or_insert(at);
            }
        }
        let has_name = columns.contains_key(&Role::Element(Is::Name));
        // A name alone is a list, which says nothing about what is in it.
        let is_table = has_name && columns.keys().filter(|role| matches!(role, Role::Element(_))).count() > 1;
        (is_table || has_name && is_asked).then_some(Self { what: What::Elements, columns })
    }

    /// The column that holds something.
    pub(super) fn column(&self, role: Role) -> Option<usize> {
        self.columns.get(&role).copied()
    }

    /// What a row has there.
    pub(super) fn cell<'r>(&self, row: &'r Row, role: Role) -> Option<&'r str> {
        row.cell(self.column(role)?)
    }
}

/// A heading of one side: "A port", "Port (B)", "Source host".
fn side_role(heading: &str) -> Option<Role> {
    let words = plain(heading);
    for (side, name) in [(Side::First, "first"), (Side::Second, "second")] {
        for word in WORDS.sides.get(name).into_iter().flatten() {
            let rest = if words == *word {
                Some(String::new())
            } else if let Some(rest) = words.strip_prefix(&format!("{word} ")) {
                Some(rest.to_owned())
            } else {
                words.strip_suffix(&format!(" {word}")).map(str::to_owned)
            };
            let Some(rest) = rest else { continue };
            if rest.is_empty() {
                // "Start" alone may be anything; "1" is a number.
                if matches!(
                    word.as_str(),
                    "1" | "2" | "z" | "end" | "left" | "right" | "near" | "far" | "this" | "other" | "start"
                ) {
                    continue;
                }
                return Some(Role::End(side, End::Device));
            }
            if let Some(end) = look(&WORDS.ends, &rest) {
                return Some(Role::End(side, end));
            }
        }
    }
    None
}

/// What a spelling is listed under.
fn look<K: Clone>(words: &BTreeMap<K, Vec<String>>, spelling: &str) -> Option<K> {
    let found = words.iter().find(|(_, all)| all.iter().any(|own| own == spelling));
    found.map(|(name, _)| name.clone())
}

/// The pictogram for a kind of device.
pub(super) fn icon(kind: &str) -> Option<String> {
    let kind = plain(kind);
    let exact = look(&WORDS.icons, &kind);
    // "Access switch 48p" is a switch.
    let within = || {
        let has = |all: &Vec<String>| all.iter().any(|own| kind.split(' ').any(|word| word == own));
        WORDS.icons.iter().find(|(_, all)| has(all)).map(|(name, _)| name.clone())
    };
    exact.or_else(within)
}

/// A heading without marks: small letters and single spaces.
fn plain(text: &str) -> String {
    let mut out = String::new();
    let mut was_small = false;
    for c in text.chars() {
        if c.is_alphanumeric() {
            // "FromPort" is two words.
            if c.is_uppercase() && was_small {
                out.push(' ');
            }
            out.extend(c.to_lowercase());
        } else if !out.ends_with(' ') && !out.is_empty() {
            out.push(' ');
        }
        was_small = c.is_lowercase();
    }
    out.trim_end().to_owned()
}

/// The number of a column by its letters, from 0.
fn number_of(letters: &str) -> Option<usize> {
    let is_letters = !letters.is_empty() && letters.len() <= 3 && letters.chars().all(|c| c.is_ascii_alphabetic());
    let digit = |c: char| c.to_ascii_uppercase() as usize - 'A' as usize + 1;
    is_letters.then(|| letters.chars().fold(0, |sum, c| sum * 26 + digit(c)) - 1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::finding::Seen;

    fn row(cells: &[&str]) -> Row {
        Row { seen: Seen::default(), cells: cells.iter().map(|c| (*c).to_owned()).collect() }
    }

    #[test]
    fn usual_spellings_are_known() {
        let spellings: [&[&str]; 9] = [
            &["From", "From port", "To", "To port"],
            &["Source", "Source Interface", "Target", "Target Interface"],
            &["A device", "A port", "B device", "B port"],
            &["Device A", "Port A", "Device B", "Port B"],
            &["Host (A)", "NIC (A)", "Host (B)", "NIC (B)"],
            &["local_host", "local_if", "remote_host", "remote_if"],
            &["FromDevice", "FromPort", "ToDevice", "ToPort"],
            &["Hostname 1", "Socket 1", "Hostname 2", "Socket 2"],
            &["Near node", "Near jack", "Far node", "Far jack"],
        ];
        for cells in spellings {
            let found = Headings::of(&row(cells), &Columns::default()).unwrap_or_else(|| panic!("{cells:?}"));
            let roles = [
                (Side::First, End::Device),
                (Side::First, End::Port),
                (Side::Second, End::Device),
                (Side::Second, End::Port),
            ];
            let at = roles.map(|(side, end)| found.column(Role::End(side, end)));
            assert_eq!((found.what, at), (What::Connections, [Some(0), Some(1), Some(2), Some(3)]), "{cells:?}");
        }
        let found = Headings::of(&row(&["Asset", "Type", "Rack", "Room"]), &Columns::default()).expect("an inventory");
        assert_eq!(found.what, What::Elements);
        assert!(Headings::of(&row(&["Harbour authority", "2026"]), &Columns::default()).is_none(), "a title");
        assert!(Headings::of(&row(&["Name"]), &Columns::default()).is_none(), "a list of names");
    }

    #[test]
    fn the_user_says_what_columns_hold() {
        let asked = Columns::read("from=A, from port=B, to=Ziel, to port = D, speed=E").expect("columns");
        let found = Headings::of(&row(&["Gerät", "Anschluss", "Ziel", "Buchse", "Tempo"]), &asked).expect("headings");
        assert_eq!(found.column(Role::End(Side::Second, End::Device)), Some(2));
        assert_eq!(found.column(Role::Cable(Of::Speed)), Some(4));
        assert!(Columns::read("colour=A").expect_err("no such role").contains("from port"));
        assert!(Columns::read("from").is_err());
        assert_eq!(["A", "z", "AA", "AAAA", "1"].map(number_of), [Some(0), Some(25), Some(26), None, None]);
    }
}

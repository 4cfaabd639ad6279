//! Tables of connections and of elements: separated values and workbooks. Input: bytes. Output: [`Facts`].
//!
//! What a column holds is told by its heading, in the usual spellings (`words/tables.toml`), or by the user.

mod connections;
mod elements;
mod headings;
mod rows;
mod separated;
mod things;
mod workbook;

use crate::facts::Facts;
use crate::finding::{Broken, Finding, Level, Seen};
use crate::select::Selection;
use connections::Connections;
use elements::Elements;
pub(crate) use elements::kind_of;
pub use headings::Columns;
use headings::{Headings, Role, What};
use rows::{Row, Rows};
pub(crate) use separated::{Ahead, Cells, Separated};
use std::collections::VecDeque;
use std::io::Read;
use std::path::Path;
use std::sync::Arc;

/// Headings are looked for in this many rows.
// Above them stand titles, dates and empty rows.
const FIRST: usize = 30;

/// What a table is read with.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// What columns hold, where their headings do not say it.
    pub columns: Columns,
    /// What is wanted of it.
    pub selection: Selection,
    /// What elements become; connections are always a network.
    pub form: Form,
}

/// What elements with parents become.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Form {
    /// An architecture.
    #[default]
    Architecture,
    /// A tree.
    Tree,
}

/// Reads a table: a workbook by its ending, separated values otherwise.
///
/// # Errors
/// If it is broken, or no column of it is recognised.
pub fn read(path: &Path, mut bytes: impl Read + Send + 'static, options: &Options) -> Result<Facts, Broken> {
    let file: Arc<str> = path.file_name().map_or("table".into(), |name| name.to_string_lossy().into_owned().into());
    let ending = path.extension().map(|ending| ending.to_string_lossy().to_ascii_lowercase()).unwrap_or_default();
    let broken = |why: String| Broken { seen: Seen { file: file.clone(), ..Seen::default() }, why };
    let mut desk = Desk::new(&file, options);
    if workbook::is_workbook(&ending) {
        let mut all = Vec::new();
        bytes.by_ref().take(workbook::LARGEST + 1).read_to_end(&mut all).map_err(|e| broken(e.to_string()))?;
        for mut sheet in workbook::open(&all, &file, &ending)? {
            desk.take(&mut sheet)?;
        }
    } else {
        desk.take(&mut Separated::open(bytes, &file)?)?;
    }
    desk.finish(path)
}

/// What was read so far.
struct Desk<'a> {
    file: &'a Arc<str>,
    options: &'a Options,
    connections: Connections,
    elements: Elements,
    findings: Vec<Finding>,
    rows: u64,
    empty: u64,
    /// Headings that nothing was made of.
    strange: Vec<(Seen, String)>,
}

impl<'a> Desk<'a> {
    fn new(file: &'a Arc<str>, options: &'a Options) -> Self {
        Self {
            file,
            options,
            connections: Connections::default(),
            elements: Elements::default(),
            findings: Vec::new(),
            rows: 0,
            empty: 0,
            strange: Vec::new(),
        }
    }

    /// Reads one sheet: its headings, then row after row.
    fn take(&mut self, rows: &mut dyn Rows) -> Result<(), Broken> {
        let mut first: VecDeque<Row> = VecDeque::new();
        let mut headings = None;
        while first.len() < FIRST {
            let Some(row) = rows.next()? else { break };
            if let Some(found) = Headings::of(&row, &self.options.columns) {
                headings = Some(found);
                first.clear();
                break;
            }
            first.push_back(row);
        }
        let Some(headings) = headings else {
            self.strange
                .extend(first.into_iter().find(|row| !row.is_empty()).map(|row| (row.seen.clone(), row.shown())));
            return Ok(());
        };
        while let Some(row) = rows.next()? {
            self.rows += 1;
            if row.is_empty() {
                self.empty += 1;
                continue;
            }
            match headings.what {
                What::Connections => self.connections.add(&headings, &row, &mut self.findings),
                What::Elements => self.elements.add(&headings, &row, &mut self.findings),
            }
        }
        if let Some((seen, letters)) = rows.latin() {
            let says = format!("{letters} is no UTF-8; it was read as Latin-1");
            self.findings.push(Finding::new("latin", Level::Note, seen, says));
        }
        Ok(())
    }

    fn finish(mut self, path: &Path) -> Result<Facts, Broken> {
        if self.connections.is_empty() && self.elements.is_empty() {
            return Err(self.nothing());
        }
        for (seen, row) in std::mem::take(&mut self.strange) {
            let says = format!("no column here is recognised, and nothing was taken from it: {row}");
            self.findings.push(Finding::new("no-columns", Level::Note, seen, says));
        }
        let stem = path.file_stem().map_or("table".into(), |stem| stem.to_string_lossy().into_owned());
        let mut facts = if self.connections.is_empty() {
            self.elements.facts(self.options)
        } else {
            self.connections.facts(&self.elements, self.options, &mut self.findings)
        };
        facts.call(&self.options.selection, &stem);
        facts.counts.rows = self.rows;
        facts.counts.empty = self.empty;
        self.findings.append(&mut facts.findings);
        self.findings.sort_by(|a, b| a.seen.cmp(&b.seen));
        facts.findings = self.findings;
        Ok(facts)
    }

    /// Why nothing was found.
    fn nothing(&self) -> Broken {
        let hint = format!(
            "; a table of connections has a device at both ends ({}), one of elements has names; `--columns \"from=A, to=B\"` \
             says what columns hold",
            Role::END_EXAMPLES
        );
        match self.strange.first() {
            Some((seen, row)) => {
                Broken { seen: seen.clone(), why: format!("no column is recognised by its heading: {row}{hint}") }
            }
            None => {
                let seen = Seen { file: self.file.clone(), ..Seen::default() };
                Broken { seen, why: format!("there are no rows below the headings{hint}") }
            }
        }
    }
}

//! Rows of a sheet, one after the other.

use crate::finding::{Broken, Seen};

/// A row.
pub(super) struct Row {
    /// Where it is.
    pub(super) seen: Seen,
    /// Its cells, without space around them.
    pub(super) cells: Vec<String>,
}

impl Row {
    /// Whether nothing stands in it.
    pub(super) fn is_empty(&self) -> bool {
        self.cells.iter().all(String::is_empty)
    }

    /// A cell; nothing where it is empty or not there.
    pub(super) fn cell(&self, column: usize) -> Option<&str> {
        self.cells.get(column).map(String::as_str).filter(|text| !text.is_empty())
    }

    /// The place of a cell.
    pub(super) fn place(&self, column: usize) -> Seen {
        Seen { column: Some(column as u32 + 1), ..self.seen.clone() }
    }

    /// Its first cells, for a message.
    pub(super) fn shown(&self) -> String {
        let cells = self.cells.iter().filter(|cell| !cell.is_empty());
        let short = |cell: &String| {
            let cut: String = cell.chars().take(20).collect();
            if cut.len() < cell.len() { format!("{cut}…") } else { cut }
        };
        let shown: Vec<String> = cells.clone().take(6).map(short).collect();
        shown.join(", ") + if cells.count() > 6 { ", …" } else { "" }
    }
}

/// The rows of a sheet.
pub(super) trait Rows {
    /// The next row.
    ///
    /// # Errors
    /// If the sheet is broken there.
    fn next(&mut self) -> Result<Option<Row>, Broken>;

    /// The first cell that was no UTF-8, if there was one.
    fn latin(&self) -> Option<(Seen, String)> {
        None
    }
}

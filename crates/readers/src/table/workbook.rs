//! Workbooks: XLSX and ODS. Cells that are merged have their value in each of their rows and columns; formulas have the value that
//! was saved with them.

use super::rows::{Row, Rows};
use crate::finding::{Broken, Seen};
use calamine::{Data, Ods, Range, Reader, Xls, Xlsx, open_workbook_from_rs};
use quick_xml::events::Event;
use std::collections::BTreeMap;
use std::io::{Cursor, Read};
use std::sync::Arc;

/// A workbook may have this many bytes, packed and unpacked.
pub(super) const LARGEST: u64 = 64 * 1024 * 1024;
const LARGEST_UNPACKED: u64 = 1024 * 1024 * 1024;
/// A sheet may have this many cells.
const MOST_CELLS: usize = 20_000_000;

/// Whether a file with this ending is a workbook.
pub(super) fn is_workbook(ending: &str) -> bool {
    matches!(ending, "xlsx" | "xlsm" | "ods" | "xls")
}

/// The sheets of a workbook.
///
/// # Errors
/// If it is broken, or would be too large unpacked.
pub(super) fn open(bytes: &[u8], file: &Arc<str>, ending: &str) -> Result<Vec<Sheet>, Broken> {
    let broken = |why: String| Broken { seen: Seen { file: file.clone(), ..Seen::default() }, why };
    if bytes.len() as u64 > LARGEST {
        return Err(broken(format!("a workbook may have {} MB; save its sheet as separated values", LARGEST >> 20)));
    }
    if ending != "xls" {
        unpacks(bytes).map_err(broken)?;
    }
    let failed = |why: &dyn std::fmt::Display| broken(format!("this is no whole workbook: {why}"));
    let cursor = Cursor::new(bytes);
    match ending {
        "ods" => {
            let book: Ods<_> = open_workbook_from_rs(cursor).map_err(|e: calamine::OdsError| failed(&e))?;
            let merged = spanned(bytes).unwrap_or_default();
            sheets(book, file, |_, name| merged.get(name).cloned().unwrap_or_default())
        }
        "xls" => {
            let book: Xls<_> = open_workbook_from_rs(cursor).map_err(|e: calamine::XlsError| failed(&e))?;
            sheets(book, file, |_, _| Vec::new())
        }
        _ => {
            let book: Xlsx<_> = open_workbook_from_rs(cursor).map_err(|e: calamine::XlsxError| failed(&e))?;
            sheets(book, file, |book, name| {
                let merged = book.merge_cells_by_sheet_name(name).unwrap_or_default();
                merged.iter().map(|cells| (cells.start, cells.end)).collect()
            })
        }
    }
}

/// Upper left and lower right corner of merged cells.
type Merged = ((u32, u32), (u32, u32));

fn sheets<B: Reader<Cursor<T>>, T: AsRef<[u8]>>(
    mut book: B, file: &Arc<str>, merged: impl Fn(&mut B, &str) -> Vec<Merged>,
) -> Result<Vec<Sheet>, Broken> {
    let names = book.sheet_names();
    let mut sheets = Vec::new();
    for name in names {
        let seen = Seen { file: file.clone(), sheet: Some(name.as_str().into()), ..Seen::default() };
        let range = book.worksheet_range(&name).map_err(|e| Broken { seen: seen.clone(), why: format!("{e:?}") })?;
        let (rows, columns) = range.get_size();
        if rows.saturating_mul(columns) > MOST_CELLS {
            let why = format!("sheet {name} has {rows} rows and {columns} columns; that is no table that people wrote");
            return Err(Broken { seen, why });
        }
        let merged = merged(&mut book, &name);
        sheets.push(Sheet { range, merged: Below::new(merged), row: 0, file: file.clone(), name: name.into() });
    }
    Ok(sheets)
}

/// The merged cells of each sheet of an ODS file (OpenDocument 1.3, part 3, 9.1): cells that span rows or columns.
fn spanned(bytes: &[u8]) -> Option<BTreeMap<String, Vec<Merged>>> {
    let mut packed = zip::ZipArchive::new(Cursor::new(bytes)).ok()?;
    let content = std::io::BufReader::new(packed.by_name("content.xml").ok()?);
    let mut xml = quick_xml::Reader::from_reader(content);
    let (mut found, mut buffer): (BTreeMap<String, Vec<Merged>>, _) = (BTreeMap::new(), Vec::new());
    let (mut sheet, mut row, mut column, mut repeated) = (String::new(), 0_u32, 0_u32, 1_u32);
    loop {
        let event = xml.read_event_into(&mut buffer).ok()?;
        if let Event::Eof = event {
            return Some(found);
        }
        if let Event::Start(tag) | Event::Empty(tag) = &event {
            let attribute = |name: &str| {
                let all = tag.attributes().flatten().find(|attribute| attribute.key.local_name().as_ref() == name);
                all.map(|attribute| attribute.value.into_owned())
            };
            let number = |name: &str| attribute(name).and_then(|text| text.parse::<u32>().ok()).unwrap_or(1);
            match tag.local_name().as_ref() {
                "table" => (sheet, row) = (attribute("name").unwrap_or_default(), 0),
                "table-row" => (column, repeated) = (0, number("number-rows-repeated")),
                "table-cell" | "covered-table-cell" => {
                    let (rows, columns) = (number("number-rows-spanned"), number("number-columns-spanned"));
                    if rows > 1 || columns > 1 {
                        let end = (row.saturating_add(rows - 1), column.saturating_add(columns - 1));
                        found.entry(sheet.clone()).or_default().push(((row, column), end));
                    }
                    column = column.saturating_add(number("number-columns-repeated"));
                }
                _ => {}
            }
        }
        if let Event::End(tag) = &event
            && tag.local_name().as_ref() == "table-row"
        {
            row = row.saturating_add(repeated);
        }
        buffer.clear();
    }
}

/// Whether a packed file is whole, and how large it is unpacked: what unpacks without end is no workbook.
fn unpacks(bytes: &[u8]) -> Result<(), String> {
    let mut packed =
        zip::ZipArchive::new(Cursor::new(bytes)).map_err(|why| format!("this is no whole workbook: {why}"))?;
    let mut left = LARGEST_UNPACKED;
    for i in 0..packed.len() {
        let entry = packed.by_index(i).map_err(|why| format!("this is no whole workbook: {why}"))?;
        let size = std::io::copy(&mut entry.take(left + 1), &mut std::io::sink());
        let size = size.map_err(|why| format!("this is no whole workbook: {why}"))?;
        left = left.checked_sub(size).ok_or_else(|| {
            format!(
                "unpacked, this workbook has more than {} MB; save its sheet as separated values",
                LARGEST_UNPACKED >> 20
            )
        })?;
    }
    Ok(())
}

/// One sheet.
pub(super) struct Sheet {
    range: Range<Data>,
    merged: Below,
    row: usize,
    file: Arc<str>,
    name: Arc<str>,
}

/// Merged cells, taken up from row to row: each is looked at once, whatever number of cells is empty.
struct Below {
    /// Those that begin further down, the next one last.
    later: Vec<Merged>,
    /// Those that the row may be in, by their first columns.
    now: BTreeMap<u32, Merged>,
}

impl Below {
    fn new(mut all: Vec<Merged>) -> Self {
        all.sort_unstable_by(|a, b| b.cmp(a));
        Self { later: all, now: BTreeMap::new() }
    }

    /// Goes on to a row; rows come in their order.
    fn go_to(&mut self, row: u32) {
        while let Some(cells) = self.later.pop_if(|(start, _)| start.0 <= row) {
            // What lies above it has ended.
            self.now.retain(|column, _| !(cells.0.1..=cells.1.1).contains(column));
            self.now.insert(cells.0.1, cells);
        }
    }

    /// The cell that has the value of this one.
    fn holder(&self, row: u32, column: u32) -> Option<(u32, u32)> {
        // Merged cells do not overlap: the nearest to the left is the only one that may reach here.
        let (start, end) = *self.now.range(..=column).next_back()?.1;
        (row <= end.0 && column <= end.1).then_some(start)
    }
}

impl Sheet {
    /// The value of a cell, by its place in the sheet.
    fn value(&self, row: u32, column: u32) -> String {
        let own = self.range.get_value((row, column)).map(shown).unwrap_or_default();
        if !own.is_empty() {
            return own;
        }
        let holder = self.merged.holder(row, column);
        holder.and_then(|cell| self.range.get_value(cell)).map(shown).unwrap_or_default()
    }
}

impl Rows for Sheet {
    fn next(&mut self) -> Result<Option<Row>, Broken> {
        let (rows, columns) = self.range.get_size();
        if self.row >= rows {
            return Ok(None);
        }
        let (first_row, first_column) = self.range.start().unwrap_or_default();
        let row = first_row + self.row as u32;
        self.row += 1;
        self.merged.go_to(row);
        // Columns count from the first of the sheet, as people do.
        let cells = (0..first_column + columns as u32).map(|column| self.value(row, column)).collect();
        let seen = Seen { file: self.file.clone(), sheet: Some(self.name.clone()), line: row + 1, column: None };
        Ok(Some(Row { seen, cells }))
    }
}

/// A cell as it is shown.
fn shown(cell: &Data) -> String {
    match cell {
        // Whole numbers have no decimals.
        Data::Float(number) if number.fract() == 0.0 && number.abs() < 1e15 => format!("{number:.0}"),
        other => other.to_string().trim().to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn merged_cells_are_found_from_row_to_row() {
        // Two above a wide one, and one beside them that goes through.
        let all = vec![((2, 1), (4, 6)), ((0, 3), (1, 4)), ((0, 1), (1, 2)), ((0, 8), (4, 8))];
        let mut below = Below::new(all.clone());
        for row in 0..6 {
            below.go_to(row);
            for column in 0..10 {
                let holds =
                    |(start, end): &&Merged| (start.0..=end.0).contains(&row) && (start.1..=end.1).contains(&column);
                let wanted = all.iter().find(holds).map(|(start, _)| *start);
                assert_eq!(below.holder(row, column), wanted, "{row}:{column}");
            }
        }
    }
}

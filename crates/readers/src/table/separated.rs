//! Separated values: commas, semicolons, tabs or bars, as the first lines tell.

use super::rows::{Row, Rows};
use crate::finding::{Broken, Seen};
use crate::text::{Encoding, FromUtf16, cell};
use std::io::{Cursor, Read};
use std::sync::Arc;

/// So much of a file tells how it is separated.
const SAMPLE: usize = 64 * 1024;
/// A cell may have this many bytes, and a row so many cells.
// What is larger is no table that people wrote: a quote that is never closed takes the rest of a file.
const LARGEST_CELL: usize = 1024 * 1024;
const MOST_CELLS: usize = 10_000;

/// Rows of separated values.
pub(super) struct Separated<R> {
    inner: csv::Reader<R>,
    record: csv::ByteRecord,
    file: Arc<str>,
    latin: Option<(Seen, String)>,
}

/// Opens separated values.
///
/// # Errors
/// If nothing can be read.
pub(super) fn open(mut bytes: impl Read + 'static, file: &Arc<str>) -> Result<Separated<Box<dyn Read>>, Broken> {
    let broken =
        |why: std::io::Error| Broken { seen: Seen { file: file.clone(), ..Seen::default() }, why: why.to_string() };
    let mut first = Vec::new();
    bytes.by_ref().take(SAMPLE as u64).read_to_end(&mut first).map_err(broken)?;
    if first.starts_with(b"PK\x03\x04") {
        let why = "this is a packed file, such as a workbook; its name ends in .xlsx or .ods then".to_owned();
        return Err(Broken { seen: Seen { file: file.clone(), ..Seen::default() }, why });
    }
    let (encoding, mark) = Encoding::of(&first);
    let whole = Cursor::new(first[mark..].to_vec()).chain(bytes);
    let mut text: Box<dyn Read> = match encoding {
        Encoding::Bytes => Box::new(whole),
        _ => Box::new(FromUtf16::new(whole, encoding)),
    };
    let mut sample = Vec::new();
    text.by_ref().take(SAMPLE as u64).read_to_end(&mut sample).map_err(broken)?;
    let separator = separator(&sample);
    let text: Box<dyn Read> = Box::new(Cursor::new(sample).chain(text));
    let inner = csv::ReaderBuilder::new().has_headers(false).flexible(true).delimiter(separator).from_reader(text);
    Ok(Separated { inner, record: csv::ByteRecord::new(), file: file.clone(), latin: None })
}

/// The mark that stands in most lines, and about as often in each.
fn separator(sample: &[u8]) -> u8 {
    let lines: Vec<&[u8]> = sample.split(|byte| *byte == b'\n').filter(|line| !line.is_empty()).take(40).collect();
    let score = |mark: u8| -> usize {
        let counts: Vec<usize> = lines.iter().map(|line| outside_quotes(line, mark)).collect();
        let most = counts.iter().copied().max().unwrap_or(0);
        let same = counts.iter().filter(|count| **count == most).count();
        if most == 0 { 0 } else { same * 100 + most.min(99) }
    };
    // Of equal ones the first: a comma may also stand in a text.
    [b'\t', b';', b',', b'|']
        .into_iter()
        .rev()
        .max_by_key(|mark| score(*mark))
        .filter(|mark| score(*mark) > 0)
        .unwrap_or(b',')
}

fn outside_quotes(line: &[u8], mark: u8) -> usize {
    let mut is_quoted = false;
    let mut count = 0;
    for byte in line {
        is_quoted ^= *byte == b'"';
        count += usize::from(*byte == mark && !is_quoted);
    }
    count
}

impl<R: Read> Rows for Separated<R> {
    fn next(&mut self) -> Result<Option<Row>, Broken> {
        let at =
            |line: u64, column: Option<u32>| Seen { file: self.file.clone(), sheet: None, line: line as u32, column };
        match self.inner.read_byte_record(&mut self.record) {
            Ok(true) => {}
            Ok(false) => return Ok(None),
            Err(why) => {
                let line = why.position().map_or(0, csv::Position::line);
                return Err(Broken { seen: at(line, None), why: why.to_string() });
            }
        }
        let line = self.record.position().map_or(0, csv::Position::line);
        if self.record.len() > MOST_CELLS {
            let why = format!("a row of {} cells; tables have at most {MOST_CELLS} columns", self.record.len());
            return Err(Broken { seen: at(line, None), why });
        }
        let mut cells = Vec::with_capacity(self.record.len());
        for (i, bytes) in self.record.iter().enumerate() {
            if bytes.len() > LARGEST_CELL {
                let why = format!("a cell of {} bytes; is a quote not closed?", bytes.len());
                return Err(Broken { seen: at(line, Some(i as u32 + 1)), why });
            }
            let (text, is_latin) = cell(bytes);
            if is_latin && self.latin.is_none() {
                self.latin = Some((at(line, Some(i as u32 + 1)), format!("`{}`", text.trim())));
            }
            cells.push(text.trim().to_owned());
        }
        Ok(Some(Row { seen: at(line, None), cells }))
    }

    fn latin(&self) -> Option<(Seen, String)> {
        self.latin.clone()
    }
}

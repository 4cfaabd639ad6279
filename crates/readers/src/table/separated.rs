//! Separated values: commas, semicolons, tabs or bars, as the first lines tell.

use super::rows::{Row, Rows};
use crate::finding::{Broken, Seen};
use crate::text::{Encoding, FromUtf16, cell};
use std::io::{Cursor, Read};
use std::sync::Arc;
use std::sync::mpsc::{Receiver, Sender, channel, sync_channel};

/// So much of a file tells how it is separated.
const SAMPLE: usize = 64 * 1024;
/// So much is read at once.
const BUFFER: usize = 256 * 1024;
/// A cell may have this many bytes, and a row so many cells.
// What is larger is no table that people wrote: a quote that is never closed takes the rest of a file.
const LARGEST_CELL: usize = 1024 * 1024;
const MOST_CELLS: usize = 10_000;

/// Rows of separated values.
pub(crate) struct Separated {
    inner: csv::Reader<Box<dyn Read + Send>>,
    record: csv::ByteRecord,
    file: Arc<str>,
    latin: Option<(Seen, String)>,
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

impl Separated {
    /// Opens separated values.
    ///
    /// # Errors
    /// If nothing can be read.
    pub(crate) fn open(mut bytes: impl Read + Send + 'static, file: &Arc<str>) -> Result<Self, Broken> {
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
        let mut text: Box<dyn Read + Send> = match encoding {
            Encoding::Bytes => Box::new(whole),
            _ => Box::new(FromUtf16::new(whole, encoding)),
        };
        let mut sample = Vec::new();
        text.by_ref().take(SAMPLE as u64).read_to_end(&mut sample).map_err(broken)?;
        let separator = separator(&sample);
        let text: Box<dyn Read + Send> = Box::new(Cursor::new(sample).chain(text));
        let inner = csv::ReaderBuilder::new()
            .has_headers(false)
            .flexible(true)
            .delimiter(separator)
            .buffer_capacity(BUFFER)
            .from_reader(text);
        Ok(Self { inner, record: csv::ByteRecord::new(), file: file.clone(), latin: None })
    }

    /// The next row as it is, with its line.
    ///
    /// # Errors
    /// If the table is broken there.
    pub(crate) fn record(&mut self) -> Result<Option<(&csv::ByteRecord, u64)>, Broken> {
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
        if self.record.as_slice().len() > LARGEST_CELL
            && let Some(i) = self.record.iter().position(|cell| cell.len() > LARGEST_CELL)
        {
            let why = format!("a cell of {} bytes; is a quote not closed?", self.record[i].len());
            return Err(Broken { seen: at(line, Some(i as u32 + 1)), why });
        }
        Ok(Some((&self.record, line)))
    }
}

/// So many rows are handed over at once.
const BATCH: usize = 1024;

/// Rows that another thread reads ahead: splitting them takes as long as looking at them.
pub(crate) struct Ahead {
    full: Receiver<Result<Vec<csv::ByteRecord>, Broken>>,
    empty: Sender<Vec<csv::ByteRecord>>,
    batch: Vec<csv::ByteRecord>,
    at: usize,
}

impl Ahead {
    pub(crate) fn of(mut table: Separated) -> Self {
        let (send, full) = sync_channel(4);
        let (empty, take) = channel::<Vec<csv::ByteRecord>>();
        std::thread::spawn(move || {
            loop {
                let mut batch = take.try_recv().unwrap_or_default();
                batch.resize_with(BATCH, csv::ByteRecord::new);
                let mut n = 0;
                while n < BATCH {
                    match table.record() {
                        Ok(Some(_)) => std::mem::swap(&mut batch[n], &mut table.record),
                        Ok(None) => break,
                        Err(why) => {
                            batch.truncate(n);
                            // Nobody listens any more once an earlier row was refused.
                            _ = send.send(Ok(batch)).and_then(|()| send.send(Err(why)));
                            return;
                        }
                    }
                    n += 1;
                }
                batch.truncate(n);
                if send.send(Ok(batch)).is_err() || n < BATCH {
                    return;
                }
            }
        });
        Self { full, empty, batch: Vec::new(), at: 0 }
    }

    /// The next row, with its line.
    ///
    /// # Errors
    /// If the table is broken there.
    pub(crate) fn record(&mut self) -> Result<Option<(&csv::ByteRecord, u64)>, Broken> {
        if self.at == self.batch.len() {
            // The other thread may have ended: then it needs none.
            _ = self.empty.send(std::mem::take(&mut self.batch));
            self.at = 0;
            match self.full.recv() {
                Ok(Ok(batch)) if !batch.is_empty() => self.batch = batch,
                Ok(Err(why)) => return Err(why),
                _ => return self.full.recv().map_or(Ok(None), |last| last.map(|_| None)),
            }
        }
        self.at += 1;
        let record = &self.batch[self.at - 1];
        Ok(Some((record, record.position().map_or(0, csv::Position::line))))
    }
}

impl Rows for Separated {
    fn next(&mut self) -> Result<Option<Row>, Broken> {
        let Some((record, line)) = self.record()? else { return Ok(None) };
        let (mut cells, mut latin) = (Vec::with_capacity(record.len()), None);
        for (i, bytes) in record.iter().enumerate() {
            let (text, is_latin) = cell(bytes);
            if is_latin && latin.is_none() {
                latin = Some((i as u32 + 1, format!("`{}`", text.trim())));
            }
            cells.push(text.trim().to_owned());
        }
        let seen = Seen { file: self.file.clone(), sheet: None, line: line as u32, column: None };
        if let (Some((column, text)), None) = (latin, &self.latin) {
            self.latin = Some((Seen { column: Some(column), ..seen.clone() }, text));
        }
        Ok(Some(Row { seen, cells }))
    }

    fn latin(&self) -> Option<(Seen, String)> {
        self.latin.clone()
    }
}

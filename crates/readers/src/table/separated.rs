//! Separated values: commas, semicolons, tabs or bars, as the first lines tell.

use super::rows::{Row, Rows};
use crate::finding::{Broken, Seen};
use crate::text::{Encoding, FromUtf16, cell};
use std::io::{Cursor, Read};
use std::ops::Range;
use std::sync::Arc;
use std::sync::mpsc::{Receiver, Sender, channel, sync_channel};

/// This much of a file tells how it is separated.
const SAMPLE: usize = 64 * 1024;
/// This much is read at once.
const BUFFER: usize = 256 * 1024;
/// A cell may have this many bytes, and a row this many cells.
// What is larger is no table that people wrote: a quote that is never closed takes the rest of a file.
const LARGEST_CELL: usize = 1024 * 1024;
const MOST_CELLS: usize = 10_000;

/// Separated values, split by csv-core.
pub(crate) struct Separated {
    input: Box<dyn Read + Send>,
    core: csv_core::Reader,
    buffer: Vec<u8>,
    /// What of the buffer is not split yet.
    rest: Range<usize>,
    is_done: bool,
    /// How many line breaks were passed before rows.
    skipped: u64,
    /// The row that is read alone.
    batch: Batch,
    file: Arc<str>,
    latin: Option<(Seen, String)>,
}

/// Rows beside each other in one piece of memory.
#[derive(Default)]
pub(crate) struct Batch {
    /// The cells of all rows, one behind the other.
    bytes: Vec<u8>,
    used: usize,
    /// Where each cell ends, from the beginning of its row.
    ends: Vec<usize>,
    ends_used: usize,
    rows: Vec<RowAt>,
}

/// Where a row stands in a batch, and in the file.
struct RowAt {
    bytes: Range<usize>,
    ends: Range<usize>,
    line: u64,
}

/// The cells of a row.
#[derive(Clone, Copy)]
pub(crate) struct Cells<'b> {
    bytes: &'b [u8],
    ends: &'b [usize],
}

impl<'b> Cells<'b> {
    /// A cell; an empty one where there is none.
    pub(crate) fn get(self, column: usize) -> &'b [u8] {
        let Some(end) = self.ends.get(column) else { return &[] };
        let start = column.checked_sub(1).map_or(0, |before| self.ends[before]);
        &self.bytes[start..*end]
    }

    pub(crate) fn len(self) -> usize {
        self.ends.len()
    }

    pub(crate) fn iter(self) -> impl Iterator<Item = &'b [u8]> {
        (0..self.len()).map(move |column| self.get(column))
    }
}

impl Batch {
    fn clear(&mut self) {
        (self.used, self.ends_used) = (0, 0);
        self.rows.clear();
    }

    /// A row with its line.
    fn row(&self, number: usize) -> (Cells<'_>, u64) {
        let RowAt { bytes, ends, line } = &self.rows[number];
        (Cells { bytes: &self.bytes[bytes.clone()], ends: &self.ends[ends.clone()] }, *line)
    }
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
        let core = csv_core::ReaderBuilder::new().delimiter(separator(&sample)).build();
        let input = Box::new(Cursor::new(sample).chain(text));
        let (buffer, rest) = (vec![0; BUFFER], 0..0);
        Ok(Self {
            input,
            core,
            buffer,
            rest,
            is_done: false,
            skipped: 0,
            batch: Batch::default(),
            file: file.clone(),
            latin: None,
        })
    }

    fn broken(&self, line: u64, column: Option<u32>, why: String) -> Broken {
        Broken { seen: Seen { file: self.file.clone(), sheet: None, line: line as u32, column }, why }
    }

    /// The next row alone, with its line.
    ///
    /// # Errors
    /// If the table is broken there.
    pub(crate) fn row(&mut self) -> Result<Option<(Cells<'_>, u64)>, Broken> {
        let mut batch = std::mem::take(&mut self.batch);
        batch.clear();
        let is_there = self.read_into(&mut batch)?;
        self.batch = batch;
        Ok(is_there.then(|| self.batch.row(0)))
    }

    /// Reads on if nothing is left of the buffer.
    fn fill(&mut self) -> Result<(), Broken> {
        if self.rest.is_empty() && !self.is_done {
            let line = self.core.line() + self.skipped;
            let read = self.input.read(&mut self.buffer).map_err(|why| self.broken(line, None, why.to_string()))?;
            (self.rest, self.is_done) = (0..read, read == 0);
        }
        Ok(())
    }

    /// Empty lines are no rows; a row is in the line in which it begins.
    fn skip_empty_lines(&mut self) -> Result<(), Broken> {
        loop {
            self.fill()?;
            match self.buffer[self.rest.clone()].first() {
                Some(b'\n') => self.skipped += 1,
                Some(b'\r') => {}
                _ => return Ok(()),
            }
            self.rest.start += 1;
        }
    }

    /// Puts the next row into a batch; `false` if there is none.
    ///
    /// # Errors
    /// If the table cannot be read, or is none.
    fn read_into(&mut self, batch: &mut Batch) -> Result<bool, Broken> {
        use csv_core::ReadRecordResult::{End, InputEmpty, OutputEndsFull, OutputFull, Record};
        // Most rows begin where the one before ended.
        if self.rest.is_empty() || matches!(self.buffer[self.rest.start], b'\n' | b'\r') {
            self.skip_empty_lines()?;
        }
        let line = self.core.line() + self.skipped;
        let (start, first) = (batch.used, batch.ends_used);
        loop {
            self.fill()?;
            let (bytes, ends) = (&mut batch.bytes[batch.used..], &mut batch.ends[batch.ends_used..]);
            let (result, taken, written, ended) = self.core.read_record(&self.buffer[self.rest.clone()], bytes, ends);
            self.rest.start += taken;
            batch.used += written;
            batch.ends_used += ended;
            let cells = batch.ends_used - first;
            match result {
                InputEmpty => {}
                OutputFull => {
                    let begun = cells.checked_sub(1).map_or(0, |last| batch.ends[first + last]);
                    if batch.used - start - begun > LARGEST_CELL {
                        return Err(self.broken(line, Some(cells as u32 + 1), too_large()));
                    }
                    batch.bytes.resize((batch.bytes.len() * 2).max(BUFFER), 0);
                }
                OutputEndsFull if cells > 100 * MOST_CELLS => return Err(self.broken(line, None, too_wide(cells))),
                OutputEndsFull => batch.ends.resize((batch.ends.len() * 2).max(BUFFER / 8), 0),
                Record => {
                    let row = RowAt { bytes: start..batch.used, ends: first..batch.ends_used, line };
                    if cells > MOST_CELLS {
                        return Err(self.broken(line, None, too_wide(cells)));
                    }
                    let is_large = row.bytes.len() > LARGEST_CELL;
                    batch.rows.push(row);
                    let large = || batch.row(batch.rows.len() - 1).0.iter().position(|cell| cell.len() > LARGEST_CELL);
                    match is_large.then(large).flatten() {
                        Some(column) => return Err(self.broken(line, Some(column as u32 + 1), too_large())),
                        None => return Ok(true),
                    }
                }
                End => return Ok(false),
            }
        }
    }
}

fn too_large() -> String {
    format!("a cell of more than {} MB; is a quote not closed?", LARGEST_CELL / 1024 / 1024)
}

fn too_wide(cells: usize) -> String {
    format!("a row of {cells} cells; tables have at most {MOST_CELLS} columns")
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

/// This many rows are handed over at once.
const BATCH: usize = 1024;

/// Rows that another thread reads ahead: splitting them takes as long as looking at them.
pub(crate) struct Ahead {
    full: Receiver<Result<Batch, Broken>>,
    empty: Sender<Batch>,
    batch: Batch,
    at: usize,
}

impl Ahead {
    pub(crate) fn of(mut table: Separated) -> Self {
        let (send, full) = sync_channel(4);
        let (empty, take) = channel::<Batch>();
        std::thread::spawn(move || {
            loop {
                let mut batch = take.try_recv().unwrap_or_default();
                batch.clear();
                let mut rest = Ok(true);
                while batch.rows.len() < BATCH && matches!(rest, Ok(true)) {
                    rest = table.read_into(&mut batch);
                }
                // Nobody listens any more once an earlier row was refused.
                let is_sent = batch.rows.is_empty() || send.send(Ok(batch)).is_ok();
                match rest {
                    Ok(true) if is_sent => {}
                    Ok(_) => return,
                    Err(why) => return drop(send.send(Err(why))),
                }
            }
        });
        Self { full, empty, batch: Batch::default(), at: 0 }
    }

    /// The next row, with its line.
    ///
    /// # Errors
    /// If the table is broken there.
    pub(crate) fn row(&mut self) -> Result<Option<(Cells<'_>, u64)>, Broken> {
        if self.at == self.batch.rows.len() {
            // The other thread may have ended: then it needs none.
            _ = self.empty.send(std::mem::take(&mut self.batch));
            self.at = 0;
            match self.full.recv() {
                Ok(batch) => self.batch = batch?,
                Err(_) => return Ok(None),
            }
        }
        self.at += 1;
        Ok(Some(self.batch.row(self.at - 1)))
    }
}

impl Rows for Separated {
    fn next(&mut self) -> Result<Option<Row>, Broken> {
        let file = self.file.clone();
        let Some((row, line)) = self.row()? else { return Ok(None) };
        let (mut cells, mut latin) = (Vec::with_capacity(row.len()), None);
        for (i, bytes) in row.iter().enumerate() {
            let (text, is_latin) = cell(bytes);
            if is_latin && latin.is_none() {
                latin = Some((i as u32 + 1, format!("`{}`", text.trim())));
            }
            cells.push(text.trim().to_owned());
        }
        let seen = Seen { file, sheet: None, line: line as u32, column: None };
        if let (Some((column, text)), None) = (latin, &self.latin) {
            self.latin = Some((Seen { column: Some(column), ..seen.clone() }, text));
        }
        Ok(Some(Row { seen, cells }))
    }

    fn latin(&self) -> Option<(Seen, String)> {
        self.latin.clone()
    }
}

//! Traces, as OpenTelemetry writes them (OTLP JSON): one document or one a line, also compressed. Input: bytes. Output: [`Facts`]:
//! one trace as a sequence, or who calls whom over all of them as an architecture.
//!
//! A client span and the server span below it are one call; producers and consumers send; attributes name what has no spans of its
//! own, such as a database. Memory grows with the number of spans, some hundred bytes each, not with what they carry.

mod bounded;
mod calls;
mod map;
mod observed;
mod otlp;
mod parties;
mod sequence;
mod spans;

use crate::facts::Facts;
use crate::finding::{Broken, Seen};
use crate::select::Selection;
use bathygram_core::conform::Trace;
use bounded::Bounded;
use calls::Forest;
use otlp::Attributes;
use spans::Spans;
use std::io::{BufRead, BufReader, Read};
use std::path::Path;
use std::sync::Arc;

pub use calls::Which;

/// A file may have this many spans.
// A span takes 120 bytes: these take 2.4 GB.
const MOST_SPANS: usize = 20_000_000;

/// What traces are read with.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// What is wanted of them: parties by their names.
    pub selection: Selection,
    /// Which trace; by their number otherwise.
    pub which: Option<Which>,
}

/// Reads traces.
///
/// # Errors
/// If they are broken, or there are no spans.
pub fn read(path: &Path, bytes: impl Read + 'static, options: &Options) -> Result<Facts, Broken> {
    let traces = Traces::read(path, bytes)?;
    let forest = Forest::of(&traces.spans);
    let stem = crate::names::stem(path, "trace");
    let mut facts = match (&options.which, forest.traces.len()) {
        (Some(Which::All), _) | (None, 2..) => map::facts(&traces.spans, &forest, &options.selection),
        (which, _) => {
            let which = which.clone().unwrap_or(Which::Usual);
            let chosen =
                forest.choose(&traces.spans, &which).ok_or_else(|| traces.broken(no_such_trace(&forest, &which)))?;
            sequence::facts(&traces.spans, &forest, &chosen, &options.selection)
        }
    };
    facts.call(&options.selection, &stem);
    facts.counts.rows = traces.spans.all.len() as u64;
    facts.findings.sort_by(|a, b| a.seen.cmp(&b.seen));
    Ok(facts)
}

/// Reads traces as calls, to be compared with a diagram.
///
/// # Errors
/// If they are broken, or there are no spans.
pub fn observed(path: &Path, bytes: impl Read + 'static) -> Result<Vec<Trace>, Broken> {
    let traces = Traces::read(path, bytes)?;
    Ok(observed::traces(&traces.spans, &Forest::of(&traces.spans)))
}

fn no_such_trace(forest: &Forest, which: &Which) -> String {
    let ids: Vec<String> = forest.traces.iter().take(3).map(|trace| format!("{:032x}", trace.id)).collect();
    let more = if forest.traces.len() > 3 { ", …" } else { "" };
    match which {
        Which::Id(id) => format!("no trace begins with `{id}`; there are {}{more}", ids.join(", ")),
        _ => "there is no trace".to_owned(),
    }
}

/// The spans of a file.
pub(crate) struct Traces {
    file: Arc<str>,
    spans: Spans,
}

impl Traces {
    /// Reads all spans of a file.
    fn read(path: &Path, bytes: impl Read + 'static) -> Result<Self, Broken> {
        let file: Arc<str> = path.file_name().map_or("trace".into(), |name| name.to_string_lossy().into_owned().into());
        let mut traces = Self { spans: Spans::new(&file), file };
        let mut plain = unpacked(bytes).map_err(|why| traces.broken(why.to_string()))?;
        traces.take(&mut plain)?;
        if traces.spans.all.is_empty() {
            let why = "there are no spans in it; traces are OTLP JSON, with `resourceSpans`, `scopeSpans` and `spans`";
            return Err(traces.broken(why.to_owned()));
        }
        Ok(traces)
    }

    fn broken(&self, why: String) -> Broken {
        Broken { seen: Seen { file: self.file.clone(), ..Seen::default() }, why }
    }

    /// Reads documents: one a line if the first line is a whole one, one after the other otherwise.
    fn take(&mut self, plain: &mut dyn BufRead) -> Result<(), Broken> {
        let mut line = Vec::new();
        let mut number = 0;
        loop {
            line.clear();
            let n =
                plain.take(LONGEST_LINE).read_until(b'\n', &mut line).map_err(|why| self.broken(why.to_string()))?;
            if n == 0 {
                return Ok(());
            }
            number += 1;
            if line.iter().all(u8::is_ascii_whitespace) {
                continue;
            }
            let before = self.spans.mark();
            self.spans.line = number;
            let mut reader = serde_json::Deserializer::from_slice(&line);
            // A line may hold several documents.
            let mut taken = Attributes::take(&mut reader, &mut self.spans);
            while taken.is_ok() && reader.end().is_err() {
                taken = Attributes::take(&mut reader, &mut self.spans);
            }
            match taken {
                Ok(()) => {}
                // The document goes on in the next line, or this piece of a long one is not all of it.
                Err(why) if why.is_eof() && !self.spans.has_documents => {
                    self.spans.reset(before);
                    return self.take_whole(std::io::Cursor::new(std::mem::take(&mut line)).chain(plain), number);
                }
                Err(why) => return Err(self.broken_at(&why, number - 1)),
            }
            self.spans.has_documents = true;
        }
    }

    /// Reads documents that are longer than a line.
    fn take_whole(&mut self, plain: impl BufRead, first: u32) -> Result<(), Broken> {
        self.spans.line = first;
        let mut reader = serde_json::Deserializer::from_reader(plain);
        while let Err(not_yet) = reader.end() {
            if not_yet.is_io() {
                return Err(self.broken(not_yet.to_string()));
            }
            Attributes::take(&mut reader, &mut self.spans).map_err(|why| self.broken_at(&why, first - 1))?;
        }
        Ok(())
    }

    fn broken_at(&self, why: &serde_json::Error, before: u32) -> Broken {
        let (line, column) = (before + why.line() as u32, why.column() as u32);
        let text = why.to_string();
        // The place stands before the sentence.
        let said = text.rsplit_once(" at line ").map_or(text.as_str(), |(said, _)| said);
        let hint = if why.is_eof() { "; the file ends in the middle" } else { "" };
        Broken {
            seen: Seen { file: self.file.clone(), sheet: None, line, column: Some(column.max(1)) },
            why: format!("{said}{hint}"),
        }
    }
}

/// A line that is a whole document has at most this many bytes.
const LONGEST_LINE: u64 = 64 * 1024 * 1024;

/// What is packed, unpacked: gzip (RFC 1952) and Zstandard (RFC 8878), by their first bytes.
fn unpacked(bytes: impl Read + 'static) -> std::io::Result<Box<dyn BufRead>> {
    let mut plain = BufReader::with_capacity(256 * 1024, bytes);
    let first = plain.fill_buf()?;
    let bounded = |packed: Box<dyn Read>| BufReader::with_capacity(256 * 1024, Bounded::new(packed));
    Ok(match first {
        [0x1f, 0x8b, ..] => Box::new(bounded(Box::new(flate2::bufread::MultiGzDecoder::new(plain)))),
        [0x28, 0xb5, 0x2f, 0xfd, ..] => Box::new(bounded(Box::new(zstd::stream::read::Decoder::with_buffer(plain)?))),
        _ => Box::new(plain),
    })
}

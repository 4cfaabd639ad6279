//! What RDF/XML needs beside its parser: lines of errors, and entities that stay small.

use std::cell::RefCell;
use std::collections::{BTreeMap, VecDeque};
use std::io::{self, Read};
use std::rc::Rc;

/// What stands before the first element has at most this many bytes.
const LONGEST_PROLOG: usize = 1 << 18;
/// An entity stands for at most this many bytes.
// Namespaces have less than a tenth of that; entities of entities of entities have any number.
const LONGEST_ENTITY: usize = 1024;

/// A source whose entities stand for little: the parser puts them in wherever they are named.
///
/// # Errors
/// If an entity stands for more, or there is no element within reach.
pub(super) fn with_small_entities(mut bytes: impl Read) -> Result<impl Read, String> {
    let mut prolog = Vec::new();
    let mut piece = [0_u8; 4096];
    let end = loop {
        if let Some(end) = first_element(&prolog) {
            break Some(end);
        }
        if prolog.len() > LONGEST_PROLOG {
            return Err("there is no element in its first 256 KB: it is no RDF/XML".to_owned());
        }
        let count = bytes.read(&mut piece).map_err(|why| format!("cannot be read: {why}"))?;
        if count == 0 {
            break None;
        }
        prolog.extend_from_slice(&piece[..count]);
    };
    let declared = String::from_utf8_lossy(&prolog[..end.unwrap_or(prolog.len())]).into_owned();
    if let Some(name) = large_entity(&declared) {
        return Err(format!(
            "the entity `{name}` stands for more than {LONGEST_ENTITY} bytes; write out what it means"
        ));
    }
    Ok(io::Cursor::new(prolog).chain(bytes))
}

/// Where the first element begins, outside of comments and of the document type.
fn first_element(bytes: &[u8]) -> Option<usize> {
    let mut at = 0;
    let mut depth = 0_usize;
    while at < bytes.len() {
        let rest = &bytes[at..];
        if rest.starts_with(b"<!--") {
            at += 4 + find(&rest[4..], b"-->")? + 3;
            continue;
        }
        match rest[0] {
            b'"' | b'\'' if depth > 0 => at += 1 + find(&rest[1..], &rest[..1])?,
            b'<' if rest.starts_with(b"<!") => depth += 1,
            b'<' if rest.starts_with(b"<?") => at += find(rest, b"?>")?,
            b'<' if depth == 0 && rest.len() > 1 => return Some(at),
            b'>' => depth = depth.saturating_sub(1),
            _ => {}
        }
        at += 1;
    }
    None
}

fn find(bytes: &[u8], wanted: &[u8]) -> Option<usize> {
    bytes.windows(wanted.len()).position(|window| window == wanted)
}

/// The first entity that stands for too much, with all that it names.
fn large_entity(prolog: &str) -> Option<String> {
    let mut sizes: BTreeMap<&str, usize> = BTreeMap::new();
    for declaration in prolog.split("<!ENTITY").skip(1) {
        let mut words = declaration.split_whitespace();
        let name = words.next().filter(|name| *name != "%").or_else(|| words.next())?;
        let value = declaration.find(['"', '\'']).and_then(|start| {
            let mark = &declaration[start..start + 1];
            declaration[start + 1..].split(mark).next()
        });
        let value = value.unwrap_or_default();
        let named = value.split('&').skip(1).filter_map(|rest| rest.split(';').next());
        let size = named.map(|name| sizes.get(name).copied().unwrap_or(1)).fold(value.len(), usize::saturating_add);
        if size > LONGEST_ENTITY {
            return Some(name.chars().take(40).collect());
        }
        sizes.insert(name, size);
    }
    None
}

/// Where the lines of a source begin, as far as a reader that reads ahead may ask.
#[derive(Default)]
pub(super) struct Lines {
    read: u64,
    /// Breaks before those that are kept.
    before: u64,
    breaks: VecDeque<u64>,
}

impl Lines {
    /// A reader looks back by less than this.
    const KEPT: usize = 1 << 17;

    /// The line of a byte, from 1.
    pub(super) fn line(&self, byte: u64) -> u64 {
        self.before + self.breaks.iter().filter(|at| **at < byte).count() as u64 + 1
    }
}

/// A source whose lines are counted.
pub(super) struct Counted<R> {
    inner: R,
    lines: Rc<RefCell<Lines>>,
}

impl<R> Counted<R> {
    pub(super) fn new(inner: R, lines: &Rc<RefCell<Lines>>) -> Self {
        Self { inner, lines: Rc::clone(lines) }
    }
}

impl<R: Read> Read for Counted<R> {
    fn read(&mut self, out: &mut [u8]) -> io::Result<usize> {
        let count = self.inner.read(out)?;
        let mut lines = self.lines.borrow_mut();
        let start = lines.read;
        lines.breaks.extend((start..).zip(&out[..count]).filter(|(_, byte)| **byte == b'\n').map(|(at, _)| at));
        while lines.breaks.len() > Lines::KEPT {
            lines.breaks.pop_front();
            lines.before += 1;
        }
        lines.read += count as u64;
        Ok(count)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn entities_are_measured_with_all_that_they_name() {
        assert_eq!(large_entity("<!ENTITY a \"http://x#\"><!ENTITY b '&a;&a;y'>"), None);
        let nested: String = (0..8).map(|i| format!("<!ENTITY e{} '&e{i};&e{i};&e{i};&e{i};'>", i + 1)).collect();
        assert_eq!(large_entity(&format!("<!ENTITY e0 'xxxx'>{nested}")).as_deref(), Some("e4"));
        assert_eq!(large_entity("<!ENTITY"), None);
    }

    #[test]
    fn the_prolog_ends_with_the_first_element() {
        for (text, end) in [
            ("<?xml version='1.0'?><a/>", Some(21)),
            ("<!-- <x> --><!DOCTYPE r [<!ENTITY a '<b>'>]><rdf:RDF>", Some(44)),
            ("<!DOCTYPE r", None),
            ("<", None),
            ("", None),
        ] {
            assert_eq!(first_element(text.as_bytes()), end, "{text}");
        }
        assert!(with_small_entities(&vec![b' '; 1 << 20][..]).is_err());
    }
}

//! What is in RDF data: classes with how many instances they have, their properties with observed types, ranges and multiplicities,
//! and which class is a subclass of which (RDF 1.1, RDF Schema 1.1). Input: triples, from files or summed up by an endpoint. Output:
//! [`Facts`](crate::Facts), by way of a [`Vocabulary`].
//!
//! Triples are read in one pass. Memory grows with nodes up to a fixed number; beyond it, what is said of properties is counted on
//! a part of the nodes that their hashes choose.

mod draw;
mod names;
mod profile;
mod vocabulary;
mod xml;

pub use draw::facts;
pub use names::Prefixes;
pub use vocabulary::{Class, CountedOn, Property, Range, Vocabulary};

use crate::finding::{Broken, Seen};
use oxrdf::Triple;
use oxrdfxml::{RdfXmlParseError, RdfXmlParser};
use oxttl::{NTriplesParser, TurtleParseError, TurtleParser};
use profile::Profile;
use std::cell::RefCell;
use std::io::{self, BufReader, Read};
use std::path::Path;
use std::rc::Rc;
use xml::{Counted, Lines, with_small_entities};

/// The namespaces that say what RDF itself is made of.
pub(crate) const RDF: &str = "http://www.w3.org/1999/02/22-rdf-syntax-ns#";
pub(crate) const RDFS: &str = "http://www.w3.org/2000/01/rdf-schema#";
pub(crate) const OWL: &str = "http://www.w3.org/2002/07/owl#";
pub(crate) const XSD: &str = "http://www.w3.org/2001/XMLSchema#";

/// Those in which a class is none of the data's.
pub const LANGUAGE: [&str; 3] = [RDF, RDFS, OWL];

/// Whether a class belongs to the language, not to what is described in it.
pub fn is_of_language(iri: &str) -> bool {
    LANGUAGE.iter().any(|namespace| iri.starts_with(namespace))
}

/// How the triples of a file are written.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Form {
    Turtle,
    Lines,
    Xml,
}

/// Reads a file: Turtle, N-Triples or RDF/XML, by its ending, or by how it begins.
///
/// # Errors
/// If it is broken, or there is no triple in it.
pub fn read(path: &Path, bytes: impl Read) -> Result<Vocabulary, Broken> {
    let file: std::sync::Arc<str> = path.display().to_string().into();
    let broken = |line: u64, why: String| Broken {
        seen: Seen { file: file.clone(), line: u32::try_from(line).unwrap_or(u32::MAX), ..Seen::default() },
        why,
    };
    let mut bytes = BufReader::with_capacity(1 << 16, bytes);
    let start = first(&mut bytes).map_err(|why| broken(0, format!("cannot be read: {why}")))?;
    let form = form(path, &start).map_err(|why| broken(0, why))?;
    let bytes = io::Cursor::new(start).chain(bytes);
    let mut profile = Profile::default();
    match form {
        Form::Turtle => {
            let mut triples = TurtleParser::new().for_reader(bytes);
            for triple in triples.by_ref() {
                profile.take(&triple.map_err(|why| of_turtle(why, &broken))?);
            }
            let prefixes = triples.prefixes().map(|(prefix, iri)| (prefix.to_owned(), iri.to_owned())).collect();
            profile.prefixes = prefixes;
        }
        Form::Lines => {
            for triple in NTriplesParser::new().for_reader(bytes) {
                profile.take(&triple.map_err(|why| of_turtle(why, &broken))?);
            }
        }
        Form::Xml => {
            let lines = Rc::new(RefCell::new(Lines::default()));
            let bytes = with_small_entities(bytes).map_err(|why| broken(1, why))?;
            let mut triples = RdfXmlParser::new().for_reader(Counted::new(bytes, &lines));
            loop {
                let triple: Triple = match triples.next() {
                    None => break,
                    Some(Ok(triple)) => triple,
                    Some(Err(RdfXmlParseError::Io(why))) => return Err(broken(0, format!("cannot be read: {why}"))),
                    Some(Err(why)) => {
                        return Err(broken(lines.borrow().line(triples.buffer_position()), why.to_string()));
                    }
                };
                profile.take(&triple);
            }
            profile.prefixes = triples.prefixes().map(|(prefix, iri)| (prefix.to_owned(), iri.to_owned())).collect();
        }
    }
    if profile.triples == 0 {
        return Err(broken(0, "there is no triple in it".to_owned()));
    }
    let mut vocabulary = profile.finish().map_err(|why| broken(0, why))?;
    vocabulary.source = file.to_string();
    vocabulary.name = crate::names::stem(path, "rdf");
    Ok(vocabulary)
}

fn of_turtle(why: TurtleParseError, broken: &impl Fn(u64, String) -> Broken) -> Broken {
    match why {
        TurtleParseError::Io(why) => broken(0, format!("cannot be read: {why}")),
        TurtleParseError::Syntax(why) => broken(why.location().start.line + 1, why.message().to_owned()),
    }
}

/// The first bytes of a source.
fn first(bytes: &mut impl Read) -> io::Result<Vec<u8>> {
    let mut start = Vec::new();
    bytes.take(4096).read_to_end(&mut start)?;
    // The mark of UTF-8 is none of the text.
    if start.starts_with(b"\xef\xbb\xbf") {
        start.drain(..3);
    }
    Ok(start)
}

fn form(path: &Path, start: &[u8]) -> Result<Form, String> {
    let ending = path.extension().map(|ending| ending.to_string_lossy().to_lowercase()).unwrap_or_default();
    match ending.as_str() {
        "ttl" | "turtle" => return Ok(Form::Turtle),
        "nt" | "ntriples" => return Ok(Form::Lines),
        "rdf" | "rdfs" => return Ok(Form::Xml),
        "nq" | "trig" | "jsonld" | "json" => {
            return Err(format!("`.{ending}` is not read; write the data as Turtle, N-Triples or RDF/XML"));
        }
        _ => {}
    }
    let start = String::from_utf8_lossy(start);
    let start = start.trim_start();
    let is_xml = start.starts_with("<?xml") || start.starts_with("<!") || start.starts_with("<rdf:RDF");
    // N-Triples are Turtle, too.
    Ok(if is_xml { Form::Xml } else { Form::Turtle })
}

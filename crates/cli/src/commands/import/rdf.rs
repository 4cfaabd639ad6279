//! `import rdf`: the classes in RDF data, from a file or a SPARQL endpoint.

use super::{Common, answer_in_sheets, broken};
use crate::outcome::Result;
use crate::session::Voice;
use crate::stores::{Access, Asked, vocabulary};
use bathygram_readers::rdf::facts;

/// Draft the classes in RDF data, with properties as they occur
///
/// Turtle, N-Triples or RDF/XML, or a SPARQL 1.1 endpoint by its address. Classes come with how many instances they have, properties
/// with the types of their values, how many there are, and how many one instance has. An endpoint counts by itself; of large classes a
/// number of instances is looked at.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram import rdf moorings.ttl --picture moorings.svg > moorings.bathy\n  \
    bathygram import rdf moorings.ttl --only Buoy --only Station > buoys.bathy\n  \
    bathygram import rdf https://data.tidewatch.example/sparql --timeout 60 > data.bathy")]
pub(super) struct Arguments {
    /// A file, `-` for Turtle on standard input, or the address of an endpoint
    source: String,
    #[command(flatten)]
    asked: Asked,
    #[command(flatten)]
    access: Access,
    #[command(flatten)]
    common: Common,
}

/// Runs the command.
///
/// # Errors
/// If the source cannot be read, or there is no class in it.
pub(super) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let selection = arguments.common.selection();
    let found = vocabulary(&arguments.source, &selection.only, (&arguments.asked, &arguments.access), voice)?;
    let facts = facts(&found, &selection).map_err(broken)?;
    let unit = if found.triples.is_some() { "triple" } else { "class" };
    answer_in_sheets(&arguments.common, facts, unit, voice)
}

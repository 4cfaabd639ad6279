//! Short names: the part of an IRI that people say, and prefixes for the rest.

use super::{OWL, RDF, RDFS, XSD};
use std::collections::BTreeMap;

/// Namespaces by their prefixes.
pub type Prefixes = BTreeMap<String, String>;

/// The namespace of an IRI and the name in it: split behind the last `#`, `/` or `:`.
pub(super) fn split(iri: &str) -> (&str, &str) {
    let trimmed = iri.trim_end_matches(['#', '/', ':']);
    let at = trimmed.rfind(['#', '/', ':']).map_or(0, |at| at + 1);
    (&iri[..at], &iri[at..])
}

/// The name that people say.
pub(super) fn local(iri: &str) -> &str {
    let (_, name) = split(iri);
    if name.is_empty() { iri } else { name }
}

/// The prefix of a namespace, if it has one; for those of the language everybody knows it.
pub(super) fn prefix<'a>(prefixes: &'a Prefixes, namespace: &str) -> Option<&'a str> {
    let known = [(RDF, "rdf"), (RDFS, "rdfs"), (OWL, "owl"), (XSD, "xsd")];
    let known = known.iter().find(|(iri, _)| *iri == namespace).map(|(_, prefix)| *prefix);
    let own = prefixes.iter().find(|(prefix, iri)| *iri == namespace && !prefix.is_empty());
    own.map(|(prefix, _)| prefix.as_str()).or(known)
}

/// `prefix:name`, or the IRI in angle brackets.
pub(super) fn short(prefixes: &Prefixes, iri: &str) -> String {
    let (namespace, name) = split(iri);
    prefix(prefixes, namespace).map_or_else(|| format!("<{iri}>"), |prefix| format!("{prefix}:{name}"))
}

/// What a package of a namespace is called: its prefix, or the last word of it.
pub(super) fn package(prefixes: &Prefixes, namespace: &str) -> String {
    let last = namespace.trim_end_matches(['#', '/', ':']).rsplit(['/', '#', ':']).next().unwrap_or_default();
    prefix(prefixes, namespace).map_or_else(|| if last.is_empty() { namespace } else { last }.to_owned(), str::to_owned)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_what_people_say() {
        assert_eq!(split("https://tidewatch.example/shore#Station"), ("https://tidewatch.example/shore#", "Station"));
        assert_eq!(split("https://tidewatch.example/shore/"), ("https://tidewatch.example/", "shore/"));
        assert_eq!(local("urn:tide:Buoy"), "Buoy");
        assert_eq!(local("x"), "x");
        let prefixes = Prefixes::from([("tw".to_owned(), "https://tidewatch.example/shore#".to_owned())]);
        assert_eq!(short(&prefixes, "https://tidewatch.example/shore#Station"), "tw:Station");
        assert_eq!(short(&prefixes, &format!("{XSD}decimal")), "xsd:decimal");
        assert_eq!(short(&prefixes, "https://other.example/x"), "<https://other.example/x>");
        assert_eq!(package(&prefixes, "https://other.example/charts/"), "charts");
    }
}

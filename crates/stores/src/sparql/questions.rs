//! The questions. Each groups and counts at the endpoint, and orders its answers so that they can be had page by page.

use bathygram_readers::rdf::LANGUAGE;

const PREFIXES: &str = "PREFIX rdfs: <http://www.w3.org/2000/01/rdf-schema#>\n";

/// An IRI as a query writes it; what could end it is left out.
fn iri(text: &str) -> String {
    let kept = text.chars().filter(|c| !c.is_control() && !" <>\"{}|^`\\".contains(*c));
    format!("<{}>", kept.collect::<String>())
}

fn listed(iris: &[String]) -> String {
    iris.iter().map(|text| iri(text)).collect::<Vec<_>>().join(" ")
}

/// A pattern with stars as a regular expression in a string of a query.
fn expression(pattern: &str) -> String {
    let mut out = String::new();
    for c in pattern.chars() {
        match c {
            '*' => out.push_str(".*"),
            '?' => out.push('.'),
            c if c.is_alphanumeric() || c == '_' || c == '-' || c == '/' || c == ':' => out.push(c),
            // A stroke in a string is written twice.
            c if c.is_ascii_punctuation() => out.extend(['\\', '\\', c].iter().filter(|_| c != '"')),
            c => out.push(c),
        }
    }
    let is_whole = pattern.contains("://") || pattern.starts_with("urn:");
    if is_whole { format!("^{out}$") } else { format!("(^|[#/:]){out}$") }
}

/// Classes with how many instances they have.
pub(super) fn classes(only: &[String]) -> String {
    // A prefix is known to whoever wrote it only: what stands behind it is what is looked for.
    let behind = |pattern: &String| match pattern.split_once(':') {
        Some((_, name)) if !pattern.contains("://") && !pattern.starts_with("urn:") => name.to_owned(),
        _ => pattern.clone(),
    };
    let chosen = only.iter().map(behind).map(|pattern| format!("regex(str(?c), \"{}\")", expression(&pattern)));
    let chosen: Vec<String> = chosen.collect();
    let chosen = if chosen.is_empty() { String::new() } else { format!(" FILTER({})", chosen.join(" || ")) };
    let own = LANGUAGE.map(|namespace| format!("!strstarts(str(?c), \"{namespace}\")")).join(" && ");
    format!(
        "SELECT ?c (COUNT(?s) AS ?n) WHERE {{ ?s a ?c . FILTER(isIRI(?c) && {own}){chosen} }} GROUP BY ?c ORDER BY DESC(?n) ?c"
    )
}

/// The classes above some.
pub(super) fn parents(classes: &[String]) -> String {
    let of = listed(classes);
    format!(
        "{PREFIXES}SELECT DISTINCT ?c ?p WHERE {{ VALUES ?c {{ {of} }} ?c rdfs:subClassOf ?p . FILTER(isIRI(?p)) }} ORDER BY ?c ?p"
    )
}

/// What classes are called and what is said of them, in no language or in English.
pub(super) fn descriptions(classes: &[String]) -> String {
    let of = listed(classes);
    format!(
        "{PREFIXES}SELECT ?c ?p ?t WHERE {{ VALUES ?c {{ {of} }} VALUES ?p {{ rdfs:label rdfs:comment }} ?c ?p ?t . \
         FILTER(lang(?t) = \"\" || langMatches(lang(?t), \"en\")) }} ORDER BY ?c ?p ?t"
    )
}

/// Properties with literals: how many instances have one, how many values there are, how many one instance has at most.
pub(super) fn literals(class: &str, sample: u32) -> String {
    counted(class, sample, "?d", "FILTER(isLiteral(?o)) BIND(datatype(?o) AS ?d)")
}

/// The same whatever the datatype, for properties with several.
pub(super) fn any_literals(class: &str, sample: u32) -> String {
    counted(class, sample, "", "FILTER(isLiteral(?o))")
}

/// The same for properties that lead to other nodes, by the classes of these.
pub(super) fn links(class: &str, sample: u32) -> String {
    counted(class, sample, "?r", "FILTER(!isLiteral(?o)) OPTIONAL { ?o a ?r }")
}

/// What some instances of a class have, by property and by one variable more, which a condition on the values sets.
fn counted(class: &str, sample: u32, by: &str, condition: &str) -> String {
    let class = iri(class);
    format!(
        "SELECT ?p {by} (COUNT(?s) AS ?n) (SUM(?k) AS ?v) (MAX(?k) AS ?m) WHERE {{ \
         {{ SELECT ?s ?p {by} (COUNT(?o) AS ?k) WHERE {{ {{ SELECT DISTINCT ?s WHERE {{ ?s a {class} }} LIMIT {sample} }} \
         ?s ?p ?o . {condition} }} GROUP BY ?s ?p {by} }} }} GROUP BY ?p {by} ORDER BY ?p {by}"
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_ends_an_iri_or_a_string_but_their_marks() {
        assert_eq!(iri("urn:x> ?s ?p <y"), "<urn:x?s?py>");
        assert_eq!(expression("St*on.x"), "(^|[#/:])St.*on\\\\.x$");
        assert!(!expression("a\") } # \"").contains('"'));
        assert!(classes(&["tw:Station".to_owned()]).contains("(^|[#/:])Station$"));
        assert!(classes(&["https://x/A*".to_owned()]).contains("^https://x/A.*$"));
    }
}

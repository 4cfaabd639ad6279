//! The JSON results of SPARQL 1.1.

use serde::Deserialize;
use std::collections::BTreeMap;

/// One row of an answer.
#[derive(Debug)]
pub(super) struct Row(BTreeMap<String, Value>);

#[derive(Debug, Deserialize)]
struct Value {
    #[serde(rename = "type")]
    sort: String,
    value: String,
}

#[derive(Deserialize)]
struct Answer {
    results: Results,
}

#[derive(Deserialize)]
struct Results {
    bindings: Vec<BTreeMap<String, Value>>,
}

/// The rows of an answer; those without any value say nothing.
pub(super) fn rows(body: &str) -> Result<Vec<Row>, String> {
    let answer: Answer = serde_json::from_str(body).map_err(|why| why.to_string())?;
    Ok(answer.results.bindings.into_iter().map(Row).collect())
}

impl Row {
    /// The IRI that a variable stands for.
    pub(super) fn iri(&self, name: &str) -> Option<&str> {
        self.0.get(name).filter(|value| value.sort == "uri").map(|value| value.value.as_str())
    }

    /// The text of a literal.
    pub(super) fn text(&self, name: &str) -> Option<&str> {
        self.0.get(name).filter(|value| value.sort != "uri").map(|value| value.value.as_str())
    }

    /// The number of a literal.
    pub(super) fn number(&self, name: &str) -> Option<u64> {
        let text = self.text(name)?;
        text.parse().ok().or_else(|| text.parse::<f64>().ok().filter(|n| *n >= 0.0).map(|n| n as u64))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_are_read() {
        let body = r#"{"head":{"vars":["c","n"]},"results":{"bindings":[
            {"c":{"type":"uri","value":"urn:x"},"n":{"type":"literal","datatype":"xsd:integer","value":"12"}},
            {"n":{"type":"typed-literal","value":"3.0"}}]}}"#;
        let rows = rows(body).expect("rows");
        assert_eq!((rows[0].iri("c"), rows[0].number("n")), (Some("urn:x"), Some(12)));
        assert_eq!((rows[1].iri("c"), rows[1].number("n"), rows[1].iri("n")), (None, Some(3), None));
        assert!(super::rows("<html>").is_err() && super::rows("{\"boolean\": true}").is_err());
    }
}

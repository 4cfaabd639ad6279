//! Findings as a SARIF log (OASIS, Static Analysis Results Interchange Format 2.1.0).

use super::report::{Finding, Report};
use crate::sarif;
use serde_json::{Value, json};
use std::collections::BTreeSet;

/// The log of one run.
pub(super) fn log(report: &Report<'_>) -> Value {
    let findings = report.findings();
    let codes: BTreeSet<&str> = findings.iter().map(|f| f.code).collect();
    let codes: Vec<&str> = codes.into_iter().collect();
    let rules = codes.iter().map(|code| rule(code)).collect();
    let base = sarif::base(report.project);
    sarif::log(rules, findings.iter().map(|f| result(f, &codes, &base)).collect())
}

fn rule(code: &str) -> Value {
    let page = super::explain::markdown(code).unwrap_or_default();
    json!({
        "id": code,
        "shortDescription": { "text": super::explain::about(page) },
        "help": { "text": super::explain::page(code).unwrap_or_default(), "markdown": format!("## {page}") },
    })
}

fn result(finding: &Finding, codes: &[&str], base: &str) -> Value {
    let text = match &finding.help {
        Some(help) => format!("{}. {help}", finding.message),
        None => finding.message.clone(),
    };
    let mut place = json!({ "artifactLocation": { "uri": sarif::uri(&format!("{base}{}", finding.file)), "uriBaseId": "%SRCROOT%" } });
    if finding.line > 0 {
        place["region"] = json!({
            "startLine": finding.line,
            "startColumn": finding.column,
            "endLine": finding.end_line,
            "endColumn": finding.end_column,
        });
    }
    json!({
        "ruleId": finding.code,
        "ruleIndex": codes.iter().position(|c| *c == finding.code),
        "level": finding.severity,
        "message": { "text": text },
        "locations": [{ "physicalLocation": place }],
    })
}

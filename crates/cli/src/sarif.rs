//! SARIF logs (OASIS, Static Analysis Results Interchange Format 2.1.0).

use bathygram_host::{Git, Project};
use serde_json::{Value, json};

/// The project's folder in its repository, as paths of a log begin: empty, or with `/` behind it.
pub(crate) fn base(project: &Project) -> String {
    let folder = || {
        let git = Git::find(&project.root).ok().filter(|git| !git.is_bare)?;
        let root = project.root.canonicalize().ok()?;
        let folder = root.strip_prefix(git.top.canonicalize().ok()?).ok()?.to_string_lossy().replace('\\', "/");
        (!folder.is_empty()).then(|| format!("{folder}/"))
    };
    folder().unwrap_or_default()
}

/// The log of one run: its rules, and what it found.
pub(crate) fn log(rules: Vec<Value>, results: Vec<Value>) -> Value {
    let version = env!("CARGO_PKG_VERSION");
    json!({
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": { "name": "bathygram", "version": version, "semanticVersion": version, "rules": rules } },
            // Columns count characters.
            "columnKind": "unicodeCodePoints",
            "results": results,
        }]
    })
}

/// A place in a file; a file as a whole without a line.
pub(crate) fn location(file: &str, line: Option<u32>) -> Value {
    let mut place = json!({ "artifactLocation": { "uri": uri(file) } });
    if let Some(line) = line {
        place["region"] = json!({ "startLine": line });
    }
    json!({ "physicalLocation": place })
}

/// A path as a relative reference (RFC 3986): what is no letter, digit or plain mark is escaped.
pub(crate) fn uri(path: &str) -> String {
    let mut out = String::new();
    for byte in path.bytes() {
        match byte {
            b'A'..=b'Z' | b'a'..=b'z' | b'0'..=b'9' | b'-' | b'.' | b'_' | b'~' | b'/' => out.push(char::from(byte)),
            _ => out.push_str(&format!("%{byte:02X}")),
        }
    }
    out
}

//! What a project calls itself, in the manifests of its languages.

use super::sources::Sources;
use toml::Table;

/// The name of the project, or that of its folder.
pub(crate) fn name(sources: &Sources<'_>) -> String {
    let said = [cargo, python, script, go].into_iter().find_map(|read| read(sources));
    let said = said.filter(|name| !name.trim().is_empty());
    said.unwrap_or_else(|| sources.tree.name().to_owned())
}

fn manifest(sources: &Sources<'_>, path: &str) -> Option<Table> {
    sources.text(path)?.parse().ok()
}

fn cargo(sources: &Sources<'_>) -> Option<String> {
    Some(manifest(sources, "Cargo.toml")?.get("package")?.get("name")?.as_str()?.to_owned())
}

fn python(sources: &Sources<'_>) -> Option<String> {
    Some(manifest(sources, "pyproject.toml")?.get("project")?.get("name")?.as_str()?.to_owned())
}

fn script(sources: &Sources<'_>) -> Option<String> {
    let about: serde_json::Value = serde_json::from_str(&sources.text("package.json")?).ok()?;
    Some(about.get("name")?.as_str()?.rsplit('/').next()?.to_owned())
}

fn go(sources: &Sources<'_>) -> Option<String> {
    let text = sources.text("go.mod")?;
    let path = text.lines().find_map(|line| line.trim().strip_prefix("module "))?;
    let mut parts = path.trim().trim_matches('"').rsplit('/');
    // The last part may be a version: `harbour.example/bay/v4`.
    let is_version = |part: &&str| {
        part.strip_prefix('v').is_some_and(|rest| !rest.is_empty() && rest.chars().all(|c| c.is_ascii_digit()))
    };
    Some(parts.find(|part| !is_version(part))?.to_owned())
}

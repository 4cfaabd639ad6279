//! Source trees in memory.

use bathygram_readers::Facts;
use bathygram_readers::code::Tree;

/// A folder with files, by their paths.
pub(crate) struct Files {
    paths: Vec<String>,
    texts: Vec<String>,
}

impl Files {
    /// Of pairs of paths and texts.
    pub(crate) fn new(files: &[(&str, &str)]) -> Self {
        let mut files: Vec<(String, String)> =
            files.iter().map(|(path, text)| ((*path).to_owned(), (*text).to_owned())).collect();
        files.sort();
        let (paths, texts) = files.into_iter().unzip();
        Self { paths, texts }
    }
}

impl Tree for Files {
    fn files(&self) -> &[String] {
        &self.paths
    }

    fn read(&self, file: usize) -> Result<Vec<u8>, String> {
        Ok(self.texts[file].clone().into_bytes())
    }

    fn name(&self) -> &str {
        "bay"
    }
}

/// Findings as `code file:line`.
#[allow(dead_code)]
pub(crate) fn findings(facts: &Facts) -> Vec<String> {
    facts.findings.iter().map(|finding| format!("{} {}", finding.code, finding.seen)).collect()
}

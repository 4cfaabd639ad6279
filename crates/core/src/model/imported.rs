//! What a file takes from others, once they are read.

use super::{Diagram, LookRule};
use crate::source::Source;
use std::sync::Arc;

/// What other files give.
#[derive(Clone, Debug, Default)]
pub struct Imports {
    /// Their diagrams; other readings may have the same ones.
    pub diagrams: Vec<Arc<Diagram>>,
    /// The file of each of these.
    pub files: Vec<String>,
    /// Their style rules, in order.
    pub looks: Vec<LookRule>,
    /// Their texts, each once.
    pub sources: Vec<Source>,
}

impl Imports {
    /// The diagrams of other files.
    pub fn diagrams(&self) -> impl Iterator<Item = &Diagram> {
        self.diagrams.iter().map(Arc::as_ref)
    }
}

/// Whether the name of a pictogram is that of a file of the project.
pub fn is_icon_file(name: &str) -> bool {
    let ending = name.rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
    name.contains('/') || name.contains('.') && matches!(ending.as_str(), "svg" | "png")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_with_a_folder_or_an_ending_are_files() {
        assert!(is_icon_file("art/buoy.svg") && is_icon_file("buoy.PNG") && is_icon_file("./buoy"));
        assert!(!is_icon_file("buoy") && !is_icon_file("svg"));
    }
}

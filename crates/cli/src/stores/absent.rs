//! Stands for the crate `stores` in a program that is built without it, and says so.

use super::{Access, Asked};
use crate::outcome::{Failure, Result};
use bathygram_readers::database::Catalogue;
use bathygram_readers::rdf::Vocabulary;

/// Refuses.
pub(super) fn vocabulary(source: &str, _: &[String], _: (&Asked, &Access)) -> Result<Vocabulary> {
    Err(refused(source))
}

/// Refuses.
pub(super) fn catalogue(source: &str, _: (bool, bool), _: &Access) -> Result<Catalogue> {
    Err(refused(source))
}

fn refused(source: &str) -> Failure {
    Failure::Usage(format!("`{source}` cannot be read: this program was built without the feature `databases`"))
}

//! To come.
use crate::outcome::{Outcome, Result};
use crate::session::Voice;
/// To come
#[derive(clap::Args)]
pub(crate) struct Arguments {}
/// To come.
pub(crate) fn run(_: &Arguments, _: Voice) -> Result {
    Ok(Outcome::Done)
}

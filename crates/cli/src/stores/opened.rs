//! Databases and endpoints, opened by the crate `stores`.

use super::{Access, Asked};
use crate::outcome::{Failure, Result};
use bathygram_readers::database::Catalogue;
use bathygram_readers::rdf::Vocabulary;
use bathygram_stores::sparql::{self, Endpoint};
use bathygram_stores::{Request, Secret, StoreError, postgres, sqlite};
use std::path::Path;
use std::time::Duration;

impl Access {
    /// The password, if there is a file for it.
    fn password(&self) -> Result<Option<Secret>> {
        self.password_file.as_deref().map(Secret::from_file).transpose().map_err(refused)
    }

    /// How long an answer may take.
    fn limit(&self) -> Duration {
        Duration::from_secs(u64::from(self.timeout.max(1)))
    }
}

/// What the triples at an endpoint are made of.
pub(super) fn vocabulary(source: &str, only: &[String], (asked, access): (&Asked, &Access)) -> Result<Vocabulary> {
    if !sparql::is_address(source) {
        let scheme = source.split_once("://").map_or(source, |(scheme, _)| scheme);
        let says =
            format!("`{scheme}` is no address of an endpoint; name a file, or an endpoint as `https://host/sparql`");
        return Err(Failure::Usage(says));
    }
    let password = access.password()?.or_else(|| std::env::var("BATHYGRAM_PASSWORD").ok().map(Secret::new));
    let mut endpoint = Endpoint::new(source, password, access.limit(), asked.sample).map_err(refused)?;
    endpoint.graph.clone_from(&asked.graph);
    sparql::read(&endpoint, only).map_err(refused)
}

/// What a database holds: of a file, or of a server.
pub(super) fn catalogue(source: &str, (views, rows): (bool, bool), access: &Access) -> Result<Catalogue> {
    let request = Request { views, rows, limit: access.limit() };
    if postgres::is_address(source) {
        let address = postgres::Address::parse(source, |name| std::env::var(name).ok()).map_err(refused)?;
        return postgres::read(&address, access.password()?, &request).map_err(refused);
    }
    if let Some((scheme, _)) = source.split_once("://") {
        return Err(Failure::Usage(format!(
            "`{scheme}` is no database that can be read; name an SQLite file, or a server as `postgresql://user@host/database`"
        )));
    }
    sqlite::read(Path::new(source), &request).map_err(refused)
}

/// A store that gave no answer, as the command's own failure.
fn refused(why: StoreError) -> Failure {
    match why {
        StoreError::Named(says) => Failure::Usage(says),
        StoreError::Refused(says) => Failure::Outside(anyhow::Error::msg(says)),
    }
}

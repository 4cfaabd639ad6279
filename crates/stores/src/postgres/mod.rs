//! PostgreSQL servers. Only the system catalogues are read, in one read-only transaction with a time limit, so that no permission on
//! a table is needed and no table is locked.

mod address;
mod assemble;
mod connect;
mod password;

pub use address::{Address, is_address};

use crate::{Request, Secret, StoreError};
use assemble::Rows;
use bathygram_readers::database::Catalogue;
use postgres::error::SqlState;
use postgres::{Client, IsolationLevel};
use std::sync::mpsc;
use std::time::Duration;

/// What a server holds in one database. `password` comes before what the environment and the password file of PostgreSQL say.
///
/// # Errors
/// If the server cannot be reached, refuses, or does not answer in time.
pub fn read(address: &Address, password: Option<Secret>, request: &Request) -> Result<Catalogue, StoreError> {
    // A server that stops in the middle leaves a connection on which nothing ever comes: whoever waits has a clock.
    let (sender, receiver) = mpsc::channel();
    let (own, request) = (address.clone(), *request);
    std::thread::spawn(move || {
        let answer = asked(&own, password, &request);
        let _ = sender.send(answer);
    });
    let patience = request.limit + Duration::from_secs(2);
    receiver.recv_timeout(patience).unwrap_or_else(|_| {
        Err(StoreError::Refused(format!(
            "{}: no answer within {} s; try again, or allow more with `--timeout SECONDS`",
            address.shown,
            request.limit.as_secs()
        )))
    })
}

fn asked(address: &Address, password: Option<Secret>, request: &Request) -> Result<Catalogue, StoreError> {
    let mut client = connect::connect(address, password, request)?;
    let rows = rows(&mut client, request).map_err(|why| refused(address, &why, request))?;
    let mut catalogue = rows.catalogue(request);
    catalogue.source.clone_from(&address.shown);
    catalogue.name.clone_from(&address.database);
    Ok(catalogue)
}

fn rows(client: &mut Client, request: &Request) -> Result<Rows, postgres::Error> {
    let limit = request.limit.as_millis();
    let mut all = client.build_transaction().read_only(true).isolation_level(IsolationLevel::RepeatableRead).start()?;
    // With nothing on the path, types and functions are named in full, whoever asks.
    all.batch_execute(&format!(
        "SET LOCAL statement_timeout = {limit}; SET LOCAL lock_timeout = {limit}; SET LOCAL search_path = ''"
    ))?;
    let rows = Rows::ask(&mut all)?;
    all.rollback()?;
    Ok(rows)
}

/// Why a server gives no answer, and what to do.
fn refused(address: &Address, why: &postgres::Error, request: &Request) -> StoreError {
    let shown = &address.shown;
    let user = &address.user;
    let says = match why.as_db_error() {
        Some(answer) => {
            let code = answer.code();
            let said = answer.message();
            if *code == SqlState::INVALID_PASSWORD {
                format!(
                    "{shown}: the password of {user} is wrong, or there is no such user; it comes from `--password-file FILE`, PGPASSWORD or the password file"
                )
            } else if *code == SqlState::INVALID_CATALOG_NAME {
                format!("{shown}: there is no such database on this server; put another name behind the last `/`")
            } else if *code == SqlState::INVALID_AUTHORIZATION_SPECIFICATION {
                format!(
                    "{shown}: the server does not let {user} in ({said}); name another user as `postgresql://user@host/database`"
                )
            } else if *code == SqlState::INSUFFICIENT_PRIVILEGE {
                format!(
                    "{shown}: {user} may not read the catalogue ({said}); ask for the right to, or name another user"
                )
            } else if *code == SqlState::QUERY_CANCELED || *code == SqlState::LOCK_NOT_AVAILABLE {
                format!(
                    "{shown}: no answer within {} s; try again, or allow more with `--timeout SECONDS`",
                    request.limit.as_secs()
                )
            } else if *code == SqlState::TOO_MANY_CONNECTIONS || *code == SqlState::CANNOT_CONNECT_NOW {
                format!("{shown}: the server has no room now ({said}); try again later")
            } else if *code == SqlState::ADMIN_SHUTDOWN || *code == SqlState::CRASH_SHUTDOWN {
                format!("{shown}: the server stopped before all was read; try again when it is up")
            } else {
                format!("{shown}: the server refuses: {said} ({})", code.code())
            }
        }
        None if why.is_closed() => format!("{shown}: the server stopped before all was read; try again when it is up"),
        None => {
            let cause = std::iter::successors(std::error::Error::source(why), |cause| cause.source()).last();
            let cause = cause.map_or_else(|| why.to_string(), ToString::to_string);
            match cause.contains("certificate") {
                true => format!(
                    "{shown}: the certificate of the server is not trusted ({cause}); name the file with that of its issuer as \
                     `sslrootcert=FILE` behind the `?` of the address, or write `sslmode=require`"
                ),
                false => format!("{shown}: {cause}; is a PostgreSQL server up at this address?"),
            }
        }
    };
    StoreError::Refused(says)
}

//! The address of a server and a database, `postgresql://user@host:port/database` (libpq's connection URIs).

use crate::StoreError;
use std::path::PathBuf;

/// Where a database is, and how to reach it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Address {
    /// As people name it.
    pub shown: String,
    /// The host, or the folder of a socket.
    pub host: String,
    /// The port.
    pub port: u16,
    /// The database.
    pub database: String,
    /// The user.
    pub user: String,
    /// How the connection is protected.
    pub protection: Protection,
    /// The file with the certificates that are trusted; those of the machine otherwise.
    pub roots: Option<PathBuf>,
}

/// Whether a connection is encrypted, and whether the server's certificate is checked (libpq's `sslmode`).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Protection {
    /// Never.
    None,
    /// Where the server can.
    IfPossible,
    /// Always.
    Encrypted,
    /// Always, and only with the server that the certificate names.
    Verified,
}

/// Whether a source is such an address.
pub fn is_address(source: &str) -> bool {
    ["postgresql://", "postgres://"].iter().any(|scheme| source.starts_with(scheme))
}

impl Address {
    /// Reads an address; what it does not say comes from the environment, as for every client of PostgreSQL.
    ///
    /// # Errors
    /// If it is no address, or holds a password.
    pub fn parse(source: &str, environment: impl Fn(&str) -> Option<String>) -> Result<Self, StoreError> {
        let rest = source.split_once("://").map_or(source, |(_, rest)| rest);
        let (rest, query) = rest.split_once('?').unwrap_or((rest, ""));
        let (authority, database) = rest.split_once('/').unwrap_or((rest, ""));
        let (user, place) = authority.rsplit_once('@').map_or(("", authority), |(user, place)| (user, place));
        let options: Vec<(String, String)> = query
            .split('&')
            .filter_map(|pair| pair.split_once('='))
            .map(|(key, value)| (key.to_owned(), decoded(value)))
            .collect();
        let option = |name: &str| options.iter().find(|(key, _)| key == name).map(|(_, value)| value.clone());
        if user.contains(':') || option("password").is_some() {
            return Err(StoreError::Named(
                "a password on the command line can be read by others; leave it out of the address, and put it into a file for \
                 `--password-file FILE`, or into PGPASSWORD"
                    .to_owned(),
            ));
        }
        let known = ["host", "port", "user", "dbname", "sslmode", "sslrootcert"];
        if let Some((unknown, _)) = options.iter().find(|(key, _)| !known.contains(&key.as_str())) {
            let known = known.map(|word| format!("`{word}`")).join(", ");
            return Err(StoreError::Named(format!("`{unknown}` says nothing in an address here; known are {known}")));
        }
        let (host, port) = match place.strip_prefix('[').and_then(|rest| rest.split_once(']')) {
            Some((host, port)) => (host, port.strip_prefix(':').unwrap_or_default()),
            None => place.rsplit_once(':').unwrap_or((place, "")),
        };
        let given = |text: &str| Some(decoded(text)).filter(|text| !text.is_empty());
        let or_environment = |own: Option<String>, name: &str| own.or_else(|| environment(name));
        let host = or_environment(given(host).or_else(|| option("host")), "PGHOST").unwrap_or("localhost".to_owned());
        let port = or_environment(given(port).or_else(|| option("port")), "PGPORT").unwrap_or("5432".to_owned());
        let number: u16 =
            port.parse().map_err(|_| StoreError::Named(format!("`{port}` is no port: write a number such as 5432")))?;
        let user = or_environment(given(user).or_else(|| option("user")), "PGUSER")
            .or_else(|| environment("USER"))
            .or_else(|| environment("LOGNAME"))
            .ok_or_else(|| StoreError::Named("name a user, as in `postgresql://user@host/database`".to_owned()))?;
        let database = or_environment(given(database).or_else(|| option("dbname")), "PGDATABASE");
        let database = database.unwrap_or_else(|| user.clone());
        let protection = match or_environment(option("sslmode"), "PGSSLMODE").as_deref() {
            Some("disable") => Protection::None,
            None | Some("allow" | "prefer") => Protection::IfPossible,
            Some("require") => Protection::Encrypted,
            Some("verify-ca" | "verify-full") => Protection::Verified,
            Some(other) => {
                let message = "write `disable`, `prefer`, `require` or `verify-full`";
                return Err(StoreError::Named(format!("`sslmode={other}` says nothing; {message}")));
            }
        };
        let roots = or_environment(option("sslrootcert"), "PGSSLROOTCERT").map(PathBuf::from);
        let place = if host.contains(':') { format!("[{host}]") } else { host.clone() };
        let is_usual = number == 5432;
        let port = if is_usual { String::new() } else { format!(":{number}") };
        // A socket is in a folder, which is no host of an address.
        let shown = match host.starts_with('/') {
            true => format!(
                "postgresql:///{database}?host={host}{}",
                if is_usual { String::new() } else { format!("&port={number}") }
            ),
            false => format!("postgresql://{place}{port}/{database}"),
        };
        Ok(Self { shown, host, port: number, database, user, protection, roots })
    }
}

/// A text in which `%41` stands for `A` (RFC 3986, 2.1).
fn decoded(text: &str) -> String {
    let bytes = text.as_bytes();
    let (mut out, mut at) = (Vec::with_capacity(bytes.len()), 0);
    while at < bytes.len() {
        let figure = |i: usize| bytes.get(i).and_then(|b| char::from(*b).to_digit(16));
        match (bytes[at], figure(at + 1), figure(at + 2)) {
            (b'%', Some(high), Some(low)) => {
                out.push((high * 16 + low) as u8);
                at += 3;
            }
            (byte, ..) => {
                out.push(byte);
                at += 1;
            }
        }
    }
    String::from_utf8_lossy(&out).into_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(source: &str) -> Result<Address, StoreError> {
        Address::parse(source, |name| (name == "USER").then(|| "ada".to_owned()))
    }

    #[test]
    fn addresses_are_read() {
        let address = read("postgresql://eve@db.tidewatch.example:6000/readings?sslmode=require").expect("an address");
        assert_eq!((address.host.as_str(), address.port, address.user.as_str()), ("db.tidewatch.example", 6000, "eve"));
        assert_eq!((address.database.as_str(), address.protection), ("readings", Protection::Encrypted));
        assert_eq!(address.shown, "postgresql://db.tidewatch.example:6000/readings");
        let address = read("postgres:///read%20ings?host=/var/run/postgresql").expect("a socket");
        assert_eq!((address.host.as_str(), address.database.as_str()), ("/var/run/postgresql", "read ings"));
        assert_eq!(address.user, "ada");
        let address = read("postgresql://[::1]:5433").expect("an address of figures");
        assert_eq!((address.host.as_str(), address.port, address.database.as_str()), ("::1", 5433, "ada"));
        assert_eq!(address.shown, "postgresql://[::1]:5433/ada");
    }

    #[test]
    fn passwords_and_nonsense_are_refused() {
        for source in ["postgresql://eve:hunter2@db/x", "postgresql://db/x?password=hunter2", "postgresql://e:@db/x"] {
            let why = read(source).expect_err(source).to_string();
            assert!(why.contains("--password-file") && !why.contains("hunter2"), "{why}");
        }
        for source in ["postgresql://db:port/x", "postgresql://db/x?sslmode=maybe", "postgresql://db/x?colour=blue"] {
            assert!(read(source).is_err(), "{source}");
        }
        assert!(is_address("postgres://x") && !is_address("readings.sqlite"));
    }
}

//! The password file of PostgreSQL's clients: lines of `host:port:database:user:password`, in which `*` stands for anything.

use super::Address;
use std::path::{Path, PathBuf};

/// Where the file is, and what it says.
pub(super) enum Found {
    /// A password.
    Password(String),
    /// Nothing for this address.
    Nothing,
    /// A file that others can read, which is not used.
    Open(PathBuf),
}

/// What the password file says for an address.
pub(super) fn from_file(address: &Address) -> Found {
    let Some(path) = place() else { return Found::Nothing };
    let Ok(text) = std::fs::read_to_string(&path) else { return Found::Nothing };
    if is_open(&path) {
        return Found::Open(path);
    }
    lookup(&text, address).map_or(Found::Nothing, Found::Password)
}

fn place() -> Option<PathBuf> {
    std::env::var_os("PGPASSFILE")
        .map(PathBuf::from)
        .or_else(|| Some(PathBuf::from(std::env::var_os("HOME")?).join(".pgpass")))
}

#[cfg(unix)]
fn is_open(path: &Path) -> bool {
    use std::os::unix::fs::PermissionsExt;
    std::fs::metadata(path).is_ok_and(|about| about.is_file() && about.permissions().mode() & 0o077 != 0)
}

#[cfg(not(unix))]
fn is_open(_: &Path) -> bool {
    false
}

/// The password of the first line that fits.
fn lookup(text: &str, address: &Address) -> Option<String> {
    let port = address.port.to_string();
    let wanted = [&address.host, &port, &address.database, &address.user];
    text.lines().filter(|line| !line.starts_with('#')).find_map(|line| {
        let fields = fields(line);
        let [pattern @ .., password] = &fields[..] else { return None };
        let is_it = pattern.len() == 4
            && pattern.iter().zip(wanted).all(|(pattern, wanted)| pattern == "*" || pattern == wanted);
        is_it.then(|| password.clone())
    })
}

/// Five fields between colons; `\` before a colon or another `\` takes its meaning.
fn fields(line: &str) -> Vec<String> {
    let mut fields = vec![String::new()];
    let mut letters = line.chars();
    while let Some(c) = letters.next() {
        match c {
            ':' if fields.len() < 5 => fields.push(String::new()),
            '\\' => fields.last_mut().into_iter().for_each(|field| field.extend(letters.next())),
            c => fields.last_mut().into_iter().for_each(|field| field.push(c)),
        }
    }
    fields
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_line_that_fits_gives_the_password() {
        let address = Address::parse("postgresql://eve@db/readings", |_| None).expect("an address");
        let text = "# db:*:*:*:no\nother:*:*:*:no\ndb:5432:readings:ada:no\ndb:*:read\\ings:eve:s\\:e\\\\c:ret\n*:*:*:*:late\n";
        assert_eq!(lookup(text, &address).as_deref(), Some("s:e\\c:ret"));
        assert_eq!(lookup("db:1:2:3\n", &address), None);
    }
}

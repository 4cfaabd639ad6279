//! SQLite files. The file is opened for reading only, and nothing is written beside it. What the catalogue does not say in tables of
//! its own, the conditions of `check`, is read from the statement that made the table.

mod statement;

use crate::{Request, StoreError};
use bathygram_core::model::Action;
use bathygram_readers::database::{Catalogue, Column, Qualified, Reference, Table};
use rusqlite::{Connection, ErrorCode, OpenFlags};
use statement::checks;
use std::collections::BTreeMap;
use std::io::Read;
use std::path::Path;
use std::time::Duration;

/// How every SQLite file begins (SQLite file format, 1.3).
const MAGIC: &[u8; 16] = b"SQLite format 3\0";
/// How long a file may be locked by another program.
const LOCKED: Duration = Duration::from_secs(3);

fn header(path: &Path) -> std::io::Result<Vec<u8>> {
    let mut header = Vec::new();
    std::fs::File::open(path)?.take(100).read_to_end(&mut header)?;
    Ok(header)
}

/// What a file holds.
///
/// # Errors
/// If it cannot be read, is no SQLite file, is damaged, or is locked for longer than three seconds.
pub fn read(path: &Path, request: &Request) -> Result<Catalogue, StoreError> {
    let shown = path.display().to_string();
    let header = header(path).map_err(|why| StoreError::Named(format!("{shown} cannot be read: {why}")))?;
    if header.is_empty() {
        return Err(StoreError::Named(format!("{shown} is empty: there is no table in it")));
    }
    if !header.starts_with(MAGIC) {
        return Err(StoreError::Named(format!(
            "{shown} is no SQLite file; name one, or a server as `postgresql://user@host/database`"
        )));
    }
    let connection = open(path, &header).map_err(|why| refused(&shown, &why))?;
    let file = File { connection, request };
    let mut catalogue = file.catalogue().map_err(|why| refused(&shown, &why))?;
    catalogue.source = shown;
    catalogue.name = path.file_stem().map_or("database".into(), |stem| stem.to_string_lossy().into_owned());
    Ok(catalogue)
}

fn open(path: &Path, header: &[u8]) -> rusqlite::Result<Connection> {
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX | OpenFlags::SQLITE_OPEN_URI;
    // Where changes go to a log and there is none, nobody has the file open: a reader would leave an empty log behind.
    let is_logged = header.get(18) == Some(&2);
    let has_log = std::fs::metadata(with_ending(path, "-wal")).is_ok_and(|about| about.len() > 0);
    let options = if is_logged && !has_log { "?immutable=1" } else { "" };
    let connection = Connection::open_with_flags(format!("file:{}{options}", in_uri(path)), flags)?;
    connection.busy_timeout(LOCKED)?;
    // What a stranger wrote into the file is not run.
    connection.execute_batch("PRAGMA trusted_schema = OFF; PRAGMA query_only = ON; PRAGMA cell_size_check = ON;")?;
    Ok(connection)
}

fn with_ending(path: &Path, ending: &str) -> std::path::PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(ending);
    name.into()
}

/// A path in a URI: what has a meaning there is written in figures.
fn in_uri(path: &Path) -> String {
    let text = path.to_string_lossy().replace('\\', "/");
    let text = if path.is_absolute() || text.starts_with("./") { text } else { format!("./{text}") };
    text.chars()
        .map(|c| if matches!(c, '%' | '?' | '#') { format!("%{:02X}", c as u32) } else { c.to_string() })
        .collect()
}

/// Why a file gives no answer, and what to do.
fn refused(shown: &str, why: &rusqlite::Error) -> StoreError {
    let says = match why.sqlite_error_code() {
        Some(ErrorCode::DatabaseCorrupt) => {
            format!(
                "{shown} is damaged ({why}); restore it from a copy, or save what can be read of it with SQLite's own tools"
            )
        }
        Some(ErrorCode::NotADatabase) => {
            format!("{shown} is no SQLite file that can be read: it is damaged or encrypted")
        }
        Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked) => {
            format!("{shown} is locked by another program; try again when that has finished, or read a copy")
        }
        Some(ErrorCode::CannotOpen | ErrorCode::PermissionDenied | ErrorCode::ReadOnly) => format!(
            "{shown} cannot be opened ({why}): a program may have left unfinished changes beside it; open it once with that program"
        ),
        _ => format!("{shown} cannot be read: {why}"),
    };
    StoreError::Refused(says)
}

struct File<'a> {
    connection: Connection,
    request: &'a Request,
}

impl File<'_> {
    fn catalogue(&self) -> rusqlite::Result<Catalogue> {
        // All of it as it is at one moment.
        self.connection.execute_batch("BEGIN")?;
        let listed = "SELECT l.name, l.type, l.wr, coalesce(s.sql, '') FROM pragma_table_list AS l \
                      LEFT JOIN sqlite_schema AS s ON s.name = l.name AND s.type IN ('table', 'view') \
                      WHERE l.schema = 'main' AND l.name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY l.name";
        let mut statement = self.connection.prepare(listed)?;
        let rows = statement.query_map([], |row| {
            Ok((row.get::<_, String>(0)?, row.get::<_, String>(1)?, row.get::<_, bool>(2)?, row.get::<_, String>(3)?))
        })?;
        let mut tables = Vec::new();
        for row in rows {
            let (name, sort, is_without_rowid, sql) = row?;
            let sort = match sort.as_str() {
                "table" => None,
                "view" if self.request.views => Some("view"),
                "virtual" => Some("virtual table"),
                // What belongs to a virtual table is that table's own affair.
                _ => continue,
            };
            tables.push(self.table(name, sort, is_without_rowid, &sql)?);
        }
        complete(&mut tables);
        Ok(Catalogue { tables, ..Catalogue::default() })
    }

    fn table(
        &self, name: String, sort: Option<&'static str>, is_without_rowid: bool, sql: &str,
    ) -> rusqlite::Result<Table> {
        let mut table = Table { name: Qualified::new(None, &name), sort, ..Table::default() };
        let mut key: Vec<(i64, String)> = Vec::new();
        let mut columns = self.connection.prepare_cached(
            "SELECT name, type, \"notnull\", dflt_value, pk, hidden FROM pragma_table_xinfo(?1) ORDER BY cid",
        )?;
        let mut rows = columns.query([&name])?;
        while let Some(row) = rows.next()? {
            let (place, hidden): (i64, i64) = (row.get(4)?, row.get(5)?);
            // Arguments of a virtual table are no columns.
            if hidden == 1 {
                continue;
            }
            let column = Column {
                name: row.get(0)?,
                of: row.get(1)?,
                is_nullable: !row.get::<_, bool>(2)? && sort.is_none(),
                default: row.get(3)?,
                made: (hidden > 1).then_some("generated"),
                ..Column::default()
            };
            if place > 0 {
                key.push((place, column.name.clone()));
            }
            table.columns.push(column);
        }
        key.sort();
        table.key = key.into_iter().map(|(_, name)| name).collect();
        table.uniques = self.uniques(&name)?;
        table.references = self.references(&name)?;
        if sort.is_none() {
            table.checks = checks(sql);
            table.rows = if self.request.rows { self.rows(&name, is_without_rowid) } else { None };
        }
        Ok(table)
    }

    /// Columns that a constraint or an index of all rows keeps apart.
    fn uniques(&self, table: &str) -> rusqlite::Result<Vec<Vec<String>>> {
        let mut statement = self.connection.prepare_cached(
            "SELECT l.seq, i.name FROM pragma_index_list(?1) AS l, pragma_index_xinfo(l.name) AS i \
             WHERE l.\"unique\" AND l.origin <> 'pk' AND NOT l.partial AND i.key ORDER BY l.seq DESC, i.seqno",
        )?;
        let mut found: Vec<(i64, Vec<Option<String>>)> = Vec::new();
        let mut rows = statement.query([table])?;
        while let Some(row) = rows.next()? {
            let (number, column) = (row.get(0)?, row.get(1)?);
            match found.last_mut().filter(|(last, _)| *last == number) {
                Some((_, columns)) => columns.push(column),
                None => found.push((number, vec![column])),
            }
        }
        // An index of something computed has no name there.
        let mut uniques: Vec<Vec<String>> =
            found.into_iter().filter_map(|(_, columns)| columns.into_iter().collect()).collect();
        let mut seen = std::collections::BTreeSet::new();
        uniques.retain(|columns| seen.insert(columns.clone()));
        Ok(uniques)
    }

    fn references(&self, table: &str) -> rusqlite::Result<Vec<Reference>> {
        let mut statement = self.connection.prepare_cached(
            "SELECT id, \"table\", \"from\", \"to\", on_update, on_delete FROM pragma_foreign_key_list(?1) ORDER BY id DESC, seq",
        )?;
        let mut found: BTreeMap<i64, Reference> = BTreeMap::new();
        let mut rows = statement.query([table])?;
        while let Some(row) = rows.next()? {
            let [on_update, on_delete]: [String; 2] = [row.get(4)?, row.get(5)?];
            // The highest number is that of the first reference.
            let reference = found.entry(-row.get::<_, i64>(0)?).or_insert_with(|| Reference {
                columns: Vec::new(),
                table: Qualified::default(),
                targets: Vec::new(),
                on_delete: Action::from_words(&on_delete),
                on_update: Action::from_words(&on_update),
            });
            reference.table.name = row.get(1)?;
            reference.columns.push(row.get(2)?);
            reference.targets.extend(row.get::<_, Option<String>>(3)?);
        }
        Ok(found.into_values().collect())
    }

    /// About how many rows there are: what `analyze` counted, or the largest number of a row. Nothing is read through for it.
    fn rows(&self, table: &str, is_without_rowid: bool) -> Option<u64> {
        let counted = self.connection.query_row(
            "SELECT stat FROM sqlite_stat1 WHERE tbl = ?1 ORDER BY idx IS NOT NULL LIMIT 1",
            [table],
            |row| row.get::<_, String>(0),
        );
        let counted = counted.ok().and_then(|stat| stat.split(' ').next()?.parse().ok());
        let quoted = table.replace('"', "\"\"");
        let largest = || {
            let asked = format!("SELECT max(_rowid_) FROM \"{quoted}\"");
            let largest: Option<i64> = self.connection.query_row(&asked, [], |row| row.get(0)).ok()?;
            u64::try_from(largest.unwrap_or(0)).ok()
        };
        counted.or_else(|| if is_without_rowid { None } else { largest() })
    }
}

/// Names as they are declared: a reference may write them in other capitals, as SQLite reads them.
fn complete(tables: &mut [Table]) {
    let plain = |name: &str| name.to_ascii_lowercase();
    let known: BTreeMap<String, (Qualified, BTreeMap<String, String>)> = tables
        .iter()
        .map(|table| {
            let columns = table.columns.iter().map(|column| (plain(&column.name), column.name.clone())).collect();
            (plain(&table.name.name), (table.name.clone(), columns))
        })
        .collect();
    for table in tables {
        let own = &known[&plain(&table.name.name)].1;
        let declared = |columns: &BTreeMap<String, String>, name: &String| {
            columns.get(&plain(name)).cloned().unwrap_or_else(|| name.clone())
        };
        for reference in &mut table.references {
            reference.columns.iter_mut().for_each(|name| *name = declared(own, name));
            if let Some((name, columns)) = known.get(&plain(&reference.table.name)) {
                reference.table = name.clone();
                reference.targets.iter_mut().for_each(|name| *name = declared(columns, name));
            }
        }
    }
}

//! `import database` and `conform --database` on real SQLite files, as people call them.

use crate::common::{Folder, actions, diagram, repository, unique_columns};
use bathygram_core::model::Member;
use bathygram_core::pipeline::{Setting, read};
use bathygram_core::source::Source;
use rusqlite::Connection;
use serde_json::Value;
use std::collections::BTreeSet;

const HARBOUR: &str = "
CREATE TABLE harbour (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE station (
  id INTEGER PRIMARY KEY, code VARCHAR (8) NOT NULL, name TEXT NOT NULL DEFAULT 'it''s new',
  harbour_id INTEGER NOT NULL REFERENCES Harbour ON DELETE RESTRICT,
  parent_id INTEGER REFERENCES station(ID) ON DELETE SET NULL ON UPDATE CASCADE,
  depth REAL CHECK (depth >= 0 -- metres
    AND depth < 100), CONSTRAINT one_code UNIQUE (harbour_id, code));
CREATE TABLE sensor (station_id INTEGER NOT NULL REFERENCES station ON DELETE CASCADE, number INTEGER NOT NULL,
  quantity TEXT NOT NULL, PRIMARY KEY (station_id, number)) WITHOUT ROWID;
CREATE TABLE reading (id INTEGER PRIMARY KEY, station_id INTEGER NOT NULL, sensor_number INTEGER NOT NULL, level DECIMAL(6, 3),
  level_cm REAL GENERATED ALWAYS AS (level * 100) STORED, checked_by INTEGER REFERENCES keeper(id), taken_by INTEGER REFERENCES keeper(id),
  FOREIGN KEY (station_id, sensor_number) REFERENCES sensor (station_id, number));
CREATE TABLE keeper (id INTEGER PRIMARY KEY, \"full name\" TEXT NOT NULL, harbour_id INTEGER);
CREATE TABLE badge (keeper_id INTEGER PRIMARY KEY REFERENCES keeper(id), number TEXT UNIQUE);
CREATE UNIQUE INDEX part ON keeper (harbour_id) WHERE harbour_id > 3;
CREATE UNIQUE INDEX computed ON keeper (lower(\"full name\"));
CREATE UNIQUE INDEX whole ON keeper (\"full name\", harbour_id);
CREATE VIEW latest AS SELECT station_id, max(id) AS id FROM reading GROUP BY 1;
CREATE VIRTUAL TABLE note USING fts5(body);
";

/// Tables with names of every sort.
const ODD: &str = "
CREATE TABLE \"order\" (\"key\" INTEGER PRIMARY KEY, \"unique\" TEXT, 'uses' TEXT, [to] INT REFERENCES \"a.b \"\"c\"\" süß\"(\"x.y\"));
CREATE TABLE \"a.b \"\"c\"\" süß\" (\"x.y\" INTEGER PRIMARY KEY, \"(z)\" TEXT DEFAULT 'a {b} // \"c\"', \"1st\" WILD TYPE, \"日本\");
CREATE TABLE \"A_b c süß\" (a, b, c, UNIQUE (c, a));
CREATE TABLE empty_default (a TEXT DEFAULT '', b DEFAULT (1 + 2), c DEFAULT CURRENT_TIMESTAMP, d TEXT DEFAULT \"x\", e BLOB DEFAULT x'00');
";

fn folder(statements: &str) -> Folder {
    let folder = Folder::new();
    let database = Connection::open(folder.path("harbour.sqlite")).expect("a file");
    database.execute_batch(statements).expect("statements");
    folder
}

/// What a text says of its tables: a line for each column, key, reference and unique set.
fn said(text: &str) -> BTreeSet<String> {
    let diagram = diagram(text);
    let name = |table: &str| {
        let element = diagram.elements.iter().find(|e| e.name == table).expect(table);
        element.shown().text()
    };
    let mut out = BTreeSet::new();
    for element in &diagram.elements {
        let table = element.shown().text();
        let members: Vec<&Member> = element.class.iter().flat_map(|body| body.members()).collect();
        for member in &members {
            if member.constraint.is_none() {
                let absent = if member.is_nullable { " null" } else { "" };
                out.insert(format!("column {table}.{}{absent}", member.name()));
            }
            let unique = unique_columns(member);
            out.extend(unique.map(|columns| format!("unique {table} {}", columns.join(","))));
            if let Some(reference) = &member.refers {
                let target = name(reference.table.last().expect("a table"));
                out.insert(format!(
                    "reference {table} {} {target} {}",
                    reference.columns.join(","),
                    actions(reference)
                ));
            }
        }
        let key: BTreeSet<String> = members.iter().filter(|m| m.key).map(|m| m.name()).collect();
        if !key.is_empty() {
            out.insert(format!("key {table} {}", key.into_iter().collect::<Vec<_>>().join(",")));
        }
    }
    out
}

/// The same, asked of the file by other means than the program's.
fn asked(database: &Connection) -> BTreeSet<String> {
    let mut out = BTreeSet::new();
    let rows = |sql: &str, table: &str| -> Vec<Vec<Option<String>>> {
        let mut statement =
            database.prepare(&sql.replace("TABLE", &format!("'{}'", table.replace('\'', "''")))).expect(sql);
        let width = statement.column_count();
        let text = |row: &rusqlite::Row<'_>, i: usize| {
            row.get::<_, rusqlite::types::Value>(i).map(|value| match value {
                rusqlite::types::Value::Null => None,
                rusqlite::types::Value::Integer(n) => Some(n.to_string()),
                rusqlite::types::Value::Text(text) => Some(text),
                other => Some(format!("{other:?}")),
            })
        };
        statement
            .query_map([], |row| (0..width).map(|i| text(row, i)).collect())
            .expect(sql)
            .map(|row| row.expect("a row"))
            .collect()
    };
    let tables = rows(
        "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%' AND name NOT GLOB 'note_*' AND sql NOT LIKE 'CREATE VIRTUAL%'",
        "",
    );
    for table in tables.into_iter().filter_map(|row| row[0].clone()) {
        let mut key = BTreeSet::new();
        for column in rows("PRAGMA table_xinfo(TABLE)", &table) {
            let cell = |i: usize| column[i].clone().unwrap_or_default();
            let is_key = cell(5) != "0";
            let absent = if cell(3) == "0" && !is_key { " null" } else { "" };
            out.insert(format!("column {table}.{}{absent}", cell(1)));
            key.extend(is_key.then(|| cell(1)));
        }
        if !key.is_empty() {
            out.insert(format!("key {table} {}", key.into_iter().collect::<Vec<_>>().join(",")));
        }
        for index in rows("PRAGMA index_list(TABLE)", &table) {
            let cell = |i: usize| index[i].clone().unwrap_or_default();
            if cell(2) == "1" && cell(3) != "pk" && cell(4) == "0" {
                let columns: Option<Vec<String>> =
                    rows("PRAGMA index_info(TABLE)", &cell(1)).into_iter().map(|row| row[2].clone()).collect();
                out.extend(columns.map(|columns| format!("unique {table} {}", columns.join(","))));
            }
        }
        let mut references: std::collections::BTreeMap<String, (String, Vec<String>, String, String)> =
            Default::default();
        for row in rows("PRAGMA foreign_key_list(TABLE)", &table) {
            let cell = |i: usize| row[i].clone().unwrap_or_default();
            let new = || (cell(2).to_lowercase(), Vec::new(), cell(6), cell(5));
            references.entry(cell(0)).or_insert_with(new).1.push(cell(3));
        }
        for (target, columns, delete, update) in references.into_values() {
            out.insert(format!("reference {table} {} {target} {delete} {update}", columns.join(",")));
        }
    }
    out
}

#[test]
fn the_text_says_what_the_file_holds() {
    for statements in [HARBOUR, ODD] {
        let folder = folder(statements);
        let text = folder.run(&["import", "database", "harbour.sqlite", "--without", "note"]).ends_with(0).out;
        let database = Connection::open(folder.path("harbour.sqlite")).expect("a file");
        assert_eq!(said(&text), asked(&database), "{text}");
        // It is in the one form of texts, and conforms to the file.
        folder.write("harbour.bathy", &text).run(&["format", "--check", "harbour.bathy"]).ends_with(0);
        folder.run(&["conform", "harbour.bathy", "--database", "harbour.sqlite"]).ends_with(0).says(" 0 differences");
        assert_eq!(folder.files(), ["harbour.bathy", "harbour.sqlite"], "nothing is left beside the file");
    }
}

#[test]
fn types_defaults_and_conditions_are_as_they_were_written() {
    let folder = folder(&format!("{HARBOUR}{ODD}"));
    let text = folder.run(&["import", "database", "harbour.sqlite", "--views"]).ends_with(0).out;
    for line in [
        "    code: VARCHAR(8)\n",
        "    name: TEXT = 'it''s new'\n",
        "    level: DECIMAL(6, 3) (null)\n",
        "    level_cm: REAL {generated} (null)\n",
        "    check \"depth >= 0 AND depth < 100\"\n",
        "    parent_id: INTEGER (null, refers station.id, on delete set null, on update cascade)\n",
        "    refers station_id, sensor_number to sensor.station_id, sensor.number\n",
        "    keeper_id: INTEGER (key, refers keeper.id)\n",
        "  table latest (keyword view, origin latest)\n",
        "  table note (keyword \"virtual table\", origin note)\n    body\n",
        "    `1st`: WILD TYPE (null)\n",
        "    `(z)`: TEXT = \"'a {b} // \\\"c\\\"'\" (null)\n",
        "    b = 1 + 2 (null)\n",
        "    c = CURRENT_TIMESTAMP (null)\n",
        "    to: INT (null, refers \"a_b_c_süß.\\`x.y`\")\n",
    ] {
        assert!(text.contains(line), "{line}\n{text}");
    }
    // References that differ only in their columns have a line each.
    let json = folder.run(&["import", "database", "harbour.sqlite", "--json"]).ends_with(0).out;
    let facts: Value = serde_json::from_str(&json).expect("JSON");
    let labels: Vec<&str> =
        facts["links"].as_array().expect("links").iter().filter_map(|link| link["label"].as_str()).collect();
    assert_eq!(labels, ["checked_by", "taken_by"]);
    let schema: Value = serde_json::from_str(&folder.run(&["import", "schema"]).ends_with(0).out).expect("a schema");
    assert!(jsonschema::validator_for(&schema).expect("a schema").is_valid(&facts));
}

#[test]
fn a_part_can_be_asked_for() {
    let folder = folder(HARBOUR);
    let tables = |more: &[&str]| -> Vec<String> {
        let arguments = [&["import", "database", "harbour.sqlite"], more].concat();
        let text = folder.run(&arguments).ends_with(0).out;
        diagram(&text).elements.iter().map(|element| element.name.clone()).collect()
    };
    assert_eq!(tables(&["--only", "s*"]), ["sensor", "station"]);
    assert_eq!(tables(&["--only", "*e*", "--without", "k*"]), ["badge", "note", "reading", "sensor"]);
    assert_eq!(tables(&["--around", "sensor"]), ["reading", "sensor", "station"]);
    assert_eq!(tables(&["--around", "badge", "--distance", "2"]), ["badge", "keeper", "reading"]);
    let text = folder.run(&["import", "database", "harbour.sqlite", "--only", "reading"]).ends_with(0).out;
    assert!(text.contains("checked_by: INTEGER (null) // refers to keeper.id, which is not shown here\n"), "{text}");
    let keys = folder.run(&["import", "database", "harbour.sqlite", "--members", "keys"]).ends_with(0).out;
    assert!(
        keys.contains("sensor_number: INTEGER\n") && !keys.contains("level") && !keys.contains("check \""),
        "{keys}"
    );
    let none = folder.run(&["import", "database", "harbour.sqlite", "--members", "none"]).ends_with(0).out;
    assert!(none.contains("0..* sensor knows 1 station\n") && !none.contains("INTEGER"), "{none}");
    folder.run(&["import", "database", "harbour.sqlite", "--only", "nix"]).ends_with(2).says("none of its 7 tables");
    folder
        .run(&["import", "database", "harbour.sqlite", "--around", "nix"])
        .ends_with(2)
        .says("nothing in this source is called `nix`");
}

#[test]
fn rows_are_counted_without_reading_them() {
    let folder = folder(HARBOUR);
    let database = Connection::open(folder.path("harbour.sqlite")).expect("a file");
    database
        .execute_batch("PRAGMA foreign_keys = OFF; WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 4000) INSERT INTO keeper SELECT i, i, NULL FROM n; INSERT INTO sensor VALUES (1, 1, 'level')")
        .expect("rows");
    let text = |folder: &Folder| folder.run(&["import", "database", "harbour.sqlite", "--rows"]).ends_with(0).out;
    let before = text(&folder);
    assert!(before.contains("keeper (keyword \"table, about 4000 rows\""), "{before}");
    assert!(
        before.contains("  table sensor (origin sensor)\n"),
        "a table without numbers of rows is not counted: {before}"
    );
    database.execute_batch("ANALYZE").expect("counted");
    assert!(text(&folder).contains("sensor (keyword \"table, about 1 row\""), "{}", text(&folder));
}

#[test]
fn references_that_names_suggest_are_told_and_drawn_on_request() {
    let folder = folder(HARBOUR);
    let told = folder.run(&["import", "database", "harbour.sqlite"]).ends_with(0);
    assert_eq!(told.err.matches("undeclared-reference").count(), 1, "{}", told.err);
    assert!(
        told.err
            .contains("keeper.harbour_id most likely refers to harbour.id, which is not declared; `--guess` draws it")
    );
    let text = folder.run(&["import", "database", "harbour.sqlite", "--guess"]).ends_with(0).out;
    assert!(
        text.contains("harbour_id: INTEGER (null, refers harbour.id) // the reference is a guess from its name\n"),
        "{text}"
    );
    // Drawn, it is one that the database does not declare.
    folder
        .write("harbour.bathy", text)
        .run(&["conform", "harbour.bathy", "--database", "harbour.sqlite"])
        .ends_with(1)
        .says("`harbour_id` of `keeper`: the database declares no reference to `harbour.id`");
}

#[test]
fn a_text_is_brought_up_to_date() {
    let folder = folder(HARBOUR);
    let import = |more: &[&str]| folder.run(&[&["import", "database", "harbour.sqlite"], more].concat());
    let text = import(&[]).ends_with(0).out;
    let own = text
        .replace(
            "  table keeper (origin keeper)\n",
            "  // Ours.\n  table duty \"Keeper on duty\" (origin keeper)\n    owner \"Desk\"\n",
        )
        .replace("keeper.id", "duty.id");
    folder.write("own.bathy", &own);
    import(&["--into", "own.bathy"]).ends_with(0).says("own.bathy is up to date");
    assert_eq!(folder.read("own.bathy"), own);
    let database = Connection::open(folder.path("harbour.sqlite")).expect("a file");
    database
        .execute_batch("ALTER TABLE station ADD COLUMN opened TEXT; CREATE TABLE shift (id INTEGER PRIMARY KEY, keeper_id INTEGER NOT NULL REFERENCES keeper(id)); DROP TABLE badge;")
        .expect("changed");
    import(&["--into", "own.bathy"]).ends_with(0).says("badge: gone from the source; it stays here");
    let after = folder.read("own.bathy");
    assert!(after.contains("    opened: TEXT (null)\n"), "{after}");
    assert!(after.contains("    keeper_id: INTEGER (refers duty.id)\n"), "by the name that the text has: {after}");
    assert!(
        after.contains("  // Ours.\n  table duty \"Keeper on duty\" (origin keeper)\n    owner \"Desk\"\n"),
        "{after}"
    );
    import(&["--into", "own.bathy", "--prune"]).ends_with(0).says("badge: gone, and removed");
    import(&["--into", "own.bathy"]).ends_with(0).says("own.bathy is up to date");
    folder.run(&["conform", "own.bathy", "--database", "harbour.sqlite"]).ends_with(0);
}

#[test]
fn a_large_schema_comes_in_sheets() {
    let mut statements = String::new();
    for part in 0..6 {
        for table in 0..8 {
            let refers = if table == 0 {
                String::new()
            } else {
                format!(", up INTEGER REFERENCES t{part}_{}(id)", (table - 1) / 2)
            };
            statements += &format!("CREATE TABLE t{part}_{table} (id INTEGER PRIMARY KEY, a TEXT, b TEXT{refers});\n");
        }
    }
    let folder = folder(&statements);
    let text = folder.run(&["import", "database", "harbour.sqlite"]).ends_with(0).out;
    let reading = read(Source::new("t.bathy", &text), "t", &Setting::default());
    let sheets = &reading.document.sheets;
    assert_eq!(sheets.len(), 7, "an overview, and a sheet for each part:\n{text}");
    let diagram = &reading.document.diagrams[0];
    for sheet in &sheets[1..] {
        let parts: BTreeSet<&str> = sheet.show.iter().map(|id| &diagram.element(*id).name[..2]).collect();
        assert_eq!((parts.len(), sheet.show.len()), (1, 8), "{text}");
    }
    folder.write("harbour.bathy", &text).run(&["render", "harbour.bathy"]).ends_with(0).says("8 pictures written");
    let near = folder.run(&["import", "database", "harbour.sqlite", "--around", "t1_1"]).ends_with(0).out;
    assert!(!near.contains("sheet"), "{near}");
}

#[test]
fn what_cannot_be_read_says_what_to_do_and_writes_nothing() {
    let folder = folder(HARBOUR);
    let bytes = std::fs::read(folder.path("harbour.sqlite")).expect("a file");
    let mut damaged = bytes.clone();
    damaged[100..4000].fill(0xa5);
    folder
        .write("cut.sqlite", &bytes[..5000])
        .write("damaged.sqlite", damaged)
        .write("none.sqlite", "")
        .write("text.csv", "a,b\n")
        .write("own.bathy", "classes harbour\n");
    for (file, status, says) in [
        ("missing.sqlite", 2, "missing.sqlite cannot be read"),
        (".", 2, "cannot be read"),
        ("none.sqlite", 2, "none.sqlite is empty"),
        ("text.csv", 2, "text.csv is no SQLite file; name one, or a server as `postgresql://user@host/database`"),
        ("cut.sqlite", 3, "cut.sqlite is damaged"),
        ("damaged.sqlite", 3, "damaged.sqlite is damaged"),
        ("ftp://host/x", 2, "`ftp` is no database"),
    ] {
        let run = folder.run(&["import", "database", file, "--into", "own.bathy"]).ends_with(status).says(says);
        assert_eq!(run.out, "");
        assert_eq!(folder.read("own.bathy"), "classes harbour\n");
    }
    let database = Connection::open(folder.path("harbour.sqlite")).expect("a file");
    database.execute_batch("BEGIN EXCLUSIVE; CREATE TABLE x (a)").expect("locked");
    folder
        .run(&["import", "database", "harbour.sqlite"])
        .ends_with(3)
        .says("harbour.sqlite is locked by another program");
    database
        .execute_batch("ROLLBACK; PRAGMA journal_mode = WAL; CREATE TABLE y (a); BEGIN; INSERT INTO y VALUES (1)")
        .expect("a log");
    folder.run(&["import", "database", "harbour.sqlite", "--only", "y"]).ends_with(0).says("table y");
    drop(database);
    // A file in that mode that nobody has open stays alone.
    folder.run(&["import", "database", "harbour.sqlite", "--only", "station"]).ends_with(0);
    assert!(
        !folder.files().iter().any(|name| name.ends_with("-wal") || name.ends_with("-shm")),
        "{:?}",
        folder.files()
    );
}

#[test]
fn by_chance_damaged_files_end_with_a_sentence() {
    let whole = folder(HARBOUR);
    let bytes = std::fs::read(whole.path("harbour.sqlite")).expect("a file");
    let mut state = 7_u64;
    let mut next = |most: usize| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as usize % most
    };
    for _ in 0..40 {
        let mut other = bytes.clone();
        for _ in 0..1 + next(60) {
            let at = next(other.len());
            other[at] = next(256) as u8;
        }
        let folder = Folder::new();
        folder.write("a.sqlite", other);
        let run = folder.run(&["import", "database", "a.sqlite"]);
        assert!([0, 2, 3].contains(&run.status), "{}", run.err);
        assert!(run.status == 0 || run.out.is_empty() && run.err.starts_with("error: a.sqlite"), "{}", run.err);
    }
}

#[test]
fn the_demo_has_three_known_deviations() {
    let folder = Folder::new();
    for name in ["readings_schema.bathy", "harbour.sqlite"] {
        folder.write(name, std::fs::read(repository().join("demo/tidewatch").join(name)).expect(name));
    }
    let run = folder.run(&["conform", "readings_schema.bathy", "--database", "harbour.sqlite"]).ends_with(1);
    assert_eq!(
        run.out,
        "readings_schema.bathy:15: error [type]: `level` of `reading` is of type `REAL` in the database (harbour.sqlite)\n\
         readings_schema.bathy:22: error [absent]: `signed_by` of `calibration`: the database declares no reference to `keeper.id` (harbour.sqlite)\n\
         readings_schema.bathy:26: error [unique]: nothing in the database makes `call_sign` unique in `keeper` (harbour.sqlite)\n"
    );
    let asked = ["-q", "conform", "readings_schema.bathy", "--database", "harbour.sqlite", "--format"];
    let json: Value =
        serde_json::from_str(&folder.run(&[&asked[..], &["json"]].concat()).ends_with(1).out).expect("JSON");
    assert_eq!((&json[0]["against"], &json[0]["differences"][2]["code"]), (&"database".into(), &"unique".into()));
    let log: Value =
        serde_json::from_str(&folder.run(&[&asked[..], &["sarif"]].concat()).ends_with(1).out).expect("JSON");
    assert_eq!(log["runs"][0]["results"].as_array().map(Vec::len), Some(3));
    let markdown = folder.run(&[&asked[..], &["markdown"]].concat()).ends_with(1).out;
    assert!(markdown.starts_with("## `readings_schema` against the database\n\n- **type**: `level` of"), "{markdown}");
    folder
        .run(&["conform", "readings_schema.bathy", "--database", "harbour.sqlite", "--picture", "d.svg"])
        .ends_with(1);
    let picture = folder.read("d.svg");
    assert!(
        picture.contains("+ in reality only")
            && picture.contains("+ call_sign")
            && picture.contains("\u{2212} call_sign")
    );
    // Named once in the config, relative to it; what is accepted counts no more.
    folder.write("bathygram.toml", "[conform]\ndatabase = \"harbour.sqlite\"\nbaseline = \"accepted.txt\"\n");
    folder.run(&["conform", "--write-baseline"]).ends_with(0).says("3 differences accepted");
    std::fs::create_dir(folder.path("below")).expect("a folder");
    folder.run_in("below", &["conform"]).ends_with(0).says("3 differences accepted by");
    folder
        .write("plain.bathy", "flow f\n  \"a\"\n")
        .run(&["conform", "plain.bathy", "--database", "harbour.sqlite"])
        .ends_with(2)
        .says("there is no diagram with a `table`");
}

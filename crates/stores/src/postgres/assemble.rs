//! The rows of the system catalogues, asked for in five questions, and the catalogue that they make.

use crate::Request;
use bathygram_core::model::Action;
use bathygram_readers::database::{Catalogue, Column, Enumeration, Qualified, Reference, Table};
use postgres::{Error, Row, Transaction};
use std::collections::BTreeMap;

/// The number of an object in the catalogues.
type Oid = i64;

/// Which tables are people's own: none of the system's, none of an extension's.
const OWN: &str = "n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname NOT LIKE 'pg\\_toast%' \
     AND n.nspname NOT LIKE 'pg\\_temp%' AND NOT EXISTS (SELECT FROM pg_catalog.pg_depend e \
     WHERE e.classid = 'pg_catalog.pg_class'::regclass AND e.objid = c.oid AND e.deptype = 'e')";

/// What the catalogues say.
pub(super) struct Rows {
    tables: Vec<Row>,
    columns: Vec<Row>,
    constraints: Vec<Row>,
    indexes: Vec<Row>,
    values: Vec<Row>,
}

impl Rows {
    /// Asks.
    pub(super) fn ask(all: &mut Transaction<'_>) -> Result<Self, Error> {
        let of_own = |fields: &str, rest: &str| {
            format!(
                "SELECT {fields} FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON n.oid = c.relnamespace {rest} AND {OWN}"
            )
        };
        let tables = of_own(
            "c.oid::int8, n.nspname::text, c.relname::text, c.relkind::text, c.reltuples::float8, \
             pg_catalog.obj_description(c.oid, 'pg_class'), \
             ARRAY(SELECT i.inhparent::int8 FROM pg_catalog.pg_inherits i WHERE i.inhrelid = c.oid ORDER BY i.inhseqno)",
            "WHERE c.relkind IN ('r', 'p', 'f', 'v', 'm')",
        );
        let columns = of_own(
            "c.oid::int8, a.attnum::int4, a.attname::text, pg_catalog.format_type(a.atttypid, a.atttypmod), \
             a.attnotnull OR t.typtype = 'd' AND t.typnotnull, pg_catalog.pg_get_expr(d.adbin, d.adrelid), \
             a.attidentity::text, a.attgenerated::text, pg_catalog.col_description(c.oid, a.attnum), \
             CASE WHEN t.typtype = 'e' THEN t.oid::int8 WHEN t.typcategory = 'A' THEN t.typelem::int8 END",
            "JOIN pg_catalog.pg_attribute a ON a.attrelid = c.oid JOIN pg_catalog.pg_type t ON t.oid = a.atttypid \
             LEFT JOIN pg_catalog.pg_attrdef d ON d.adrelid = c.oid AND d.adnum = a.attnum \
             WHERE c.relkind IN ('r', 'p', 'f', 'v', 'm') AND a.attnum > 0 AND NOT a.attisdropped",
        );
        // What partitions take over from their table is said there.
        let constraints = of_own(
            "k.conrelid::int8, k.contype::text, k.conkey::int4[], k.confrelid::int8, k.confkey::int4[], k.confdeltype::text, \
             k.confupdtype::text, CASE WHEN k.contype = 'c' THEN pg_catalog.pg_get_expr(k.conbin, k.conrelid, true) END, \
             k.conname::text",
            "JOIN pg_catalog.pg_constraint k ON k.conrelid = c.oid \
             WHERE k.contype IN ('p', 'u', 'f', 'c') AND (k.conparentid = 0 OR k.contype <> 'f')",
        );
        let indexes = of_own(
            "i.indrelid::int8, (i.indkey::int2[])[0:i.indnkeyatts - 1]::int4[], x.relname::text",
            "JOIN pg_catalog.pg_index i ON i.indrelid = c.oid JOIN pg_catalog.pg_class x ON x.oid = i.indexrelid \
             WHERE i.indisunique AND i.indisvalid AND i.indpred IS NULL AND i.indexprs IS NULL AND NOT EXISTS \
             (SELECT FROM pg_catalog.pg_constraint k WHERE k.conindid = i.indexrelid)",
        );
        let values = "SELECT t.oid::int8, n.nspname::text, t.typname::text, e.enumlabel::text, \
             pg_catalog.obj_description(t.oid, 'pg_type') FROM pg_catalog.pg_type t \
             JOIN pg_catalog.pg_namespace n ON n.oid = t.typnamespace \
             JOIN pg_catalog.pg_enum e ON e.enumtypid = t.oid ORDER BY t.oid, e.enumsortorder";
        Ok(Self {
            tables: all.query(&tables, &[])?,
            columns: all.query(&columns, &[])?,
            constraints: all.query(&constraints, &[])?,
            indexes: all.query(&indexes, &[])?,
            values: all.query(values, &[])?,
        })
    }

    /// Puts them together.
    pub(super) fn catalogue(&self, request: &Request) -> Catalogue {
        let name = |row: &Row| Qualified { schema: Some(row.get(1)), name: row.get(2) };
        let names: BTreeMap<Oid, Qualified> = self.tables.iter().map(|row| (row.get(0), name(row))).collect();
        let mut enumerations: BTreeMap<Oid, Enumeration> = BTreeMap::new();
        for row in &self.values {
            let new = || Enumeration { name: name(row), values: Vec::new(), comment: row.get(4) };
            enumerations.entry(row.get(0)).or_insert_with(new).values.push(row.get(3));
        }
        let mut tables: BTreeMap<Oid, Table> = BTreeMap::new();
        for row in &self.tables {
            let sort = match row.get::<_, &str>(3) {
                "v" => Some("view"),
                "m" => Some("materialized view"),
                "f" => Some("foreign table"),
                _ => None,
            };
            if !request.views && sort.is_some_and(|sort| sort.ends_with("view")) {
                continue;
            }
            // Tables that nobody counted yet have no number, and partitioned ones have their partitions'.
            let is_counted = request.rows && row.get::<_, &str>(3) == "r";
            let rows = Some(row.get::<_, f64>(4)).filter(|rows| is_counted && *rows >= 0.0).map(|rows| rows as u64);
            let parents: Vec<Oid> = row.get(6);
            let parents = parents.iter().filter_map(|parent| names.get(parent)).cloned().collect();
            let table = Table { name: name(row), sort, comment: row.get(5), rows, parents, ..Table::default() };
            tables.insert(row.get(0), table);
        }
        let mut numbers: BTreeMap<(Oid, i32), String> = BTreeMap::new();
        let mut columns: Vec<&Row> = self.columns.iter().collect();
        columns.sort_by_key(|row| (row.get::<_, Oid>(0), row.get::<_, i32>(1)));
        for row in columns {
            let (table, number): (Oid, i32) = (row.get(0), row.get(1));
            numbers.insert((table, number), row.get(2));
            if let Some(table) = tables.get_mut(&table) {
                let column = column(row, &table.name, &enumerations);
                // What comes out of a question may be missing as far as the catalogue knows.
                let is_nullable = column.is_nullable && !table.sort.is_some_and(|sort| sort.ends_with("view"));
                table.columns.push(Column { is_nullable, ..column });
            }
        }
        let columns = |table: Oid, keys: &[i32]| -> Vec<String> {
            keys.iter().filter_map(|key| numbers.get(&(table, *key))).cloned().collect()
        };
        let mut constraints: Vec<&Row> = self.constraints.iter().collect();
        // In the order of names, whatever the server does.
        constraints.sort_by_key(|row| (row.get::<_, Oid>(0), row.get::<_, String>(8)));
        for row in constraints {
            let id: Oid = row.get(0);
            let Some(table) = tables.get_mut(&id) else { continue };
            let own = columns(id, &row.get::<_, Option<Vec<i32>>>(2).unwrap_or_default());
            match row.get::<_, &str>(1) {
                "p" => table.key = own,
                "u" => table.uniques.push(own),
                "c" => table.checks.extend(row.get::<_, Option<String>>(7)),
                _ => {
                    let Some(target) = names.get(&row.get(3)) else { continue };
                    table.references.push(Reference {
                        columns: own,
                        table: target.clone(),
                        targets: columns(row.get(3), &row.get::<_, Option<Vec<i32>>>(4).unwrap_or_default()),
                        on_delete: action(row.get(5)),
                        on_update: action(row.get(6)),
                    });
                }
            }
        }
        let mut indexes: Vec<&Row> = self.indexes.iter().collect();
        indexes.sort_by_key(|row| (row.get::<_, Oid>(0), row.get::<_, String>(2)));
        for row in indexes {
            let id: Oid = row.get(0);
            let Some(table) = tables.get_mut(&id) else { continue };
            let own = columns(id, &row.get::<_, Vec<i32>>(1));
            if !own.is_empty() && !table.uniques.contains(&own) && table.key != own {
                table.uniques.push(own);
            }
        }
        let mut enumerations: Vec<Enumeration> = enumerations.into_values().collect();
        enumerations.sort_by(|a, b| a.name.cmp(&b.name));
        Catalogue { tables: tables.into_values().collect(), enumerations, ..Catalogue::default() }
    }
}

fn column(row: &Row, table: &Qualified, enumerations: &BTreeMap<Oid, Enumeration>) -> Column {
    let schema = table.schema.as_deref().unwrap_or_default();
    let near = |text: &str| without_schema(text, schema);
    let enumeration: Option<Oid> = row.get(9);
    let enumeration = enumeration.and_then(|id| enumerations.get(&id)).map(|one| one.name.clone());
    let default: Option<String> = row.get(5);
    let (identity, generated): (&str, &str) = (row.get(6), row.get(7));
    let is_serial = default.as_ref().is_some_and(|text| text.starts_with("nextval("));
    let made = match (identity, generated) {
        ("a" | "d", _) => Some("identity"),
        (_, "s" | "v") => Some("generated"),
        _ if is_serial => Some("serial"),
        _ => None,
    };
    Column {
        name: row.get(2),
        of: near(row.get(3)),
        enumeration,
        is_nullable: !row.get::<_, bool>(4),
        default: default.filter(|_| !is_serial).map(|text| near(without_cast(&text))),
        made,
        comment: row.get(8),
    }
}

/// Without the schemas that everybody knows: the table's own, and the public one.
fn without_schema(text: &str, own: &str) -> String {
    let mut out = text.to_owned();
    for schema in [own, "public"] {
        let prefix = format!("{schema}.");
        let mut from = 0;
        while let Some(at) = out[from..].find(&prefix).map(|at| at + from) {
            let is_start = out[..at]
                .chars()
                .next_back()
                .is_none_or(|c| !(c.is_alphanumeric() || c == '_' || c == '.' || c == '"'));
            // A text in quotes stays as it is.
            let is_quoted = out[..at].matches('\'').count() % 2 == 1;
            if is_start && !is_quoted {
                out.replace_range(at..at + prefix.len(), "");
                from = at;
            } else {
                from = at + prefix.len();
            }
        }
    }
    out
}

/// A text in quotes without the type that the column has anyway: `'calm'::text` is `'calm'`.
fn without_cast(text: &str) -> &str {
    let Some(inner) = text.strip_prefix('\'') else { return text };
    let mut end = 0;
    // Two quotes stand for one.
    while let Some(at) = inner[end..].find('\'') {
        end += at + 1;
        if !inner[end..].starts_with('\'') {
            let is_of_type = |c: char| c.is_alphanumeric() || "_.[]() \"".contains(c);
            let is_cast = inner[end..].strip_prefix("::").is_some_and(|of| of.chars().all(is_of_type));
            return if is_cast { &text[..end + 1] } else { text };
        }
        end += 1;
    }
    text
}

/// What the letters of the catalogue stand for; `a` is no action.
fn action(letter: &str) -> Option<Action> {
    match letter {
        "c" => Some(Action::Cascade),
        "r" => Some(Action::Restrict),
        "n" => Some(Action::SetNull),
        "d" => Some(Action::SetDefault),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn defaults_and_types_are_short() {
        assert_eq!(without_cast("'calm'::shore.level"), "'calm'");
        assert_eq!(without_cast("'it''s'::text"), "'it''s'");
        assert_eq!(without_cast("'a'::text || 'b'::text"), "'a'::text || 'b'::text");
        assert_eq!(without_cast("now()"), "now()");
        assert_eq!(without_schema("shore.level[]", "shore"), "level[]");
        assert_eq!(without_schema("public.point2", "shore"), "point2");
        assert_eq!(without_schema("other.level", "shore"), "other.level");
        assert_eq!(without_schema("foreshore.level", "shore"), "foreshore.level");
        assert_eq!(without_schema("'shore.x'", "shore"), "'shore.x'");
    }
}

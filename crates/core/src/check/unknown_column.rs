//! A reference to a column that the other table does not have.

use crate::diag::{Diagnostics, Message, suggest};
use crate::model::{Diagram, Element, ElementKind};
use std::collections::BTreeMap;

/// `(refers table.column)`, where the table is declared with columns.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let mut tables: BTreeMap<&str, &Element> = BTreeMap::new();
    for table in diagram.elements.iter().filter(|e| e.kind == ElementKind::Table) {
        tables.entry(&table.name).or_insert(table);
        tables.entry(&table.key).or_insert(table);
    }
    for member in diagram.elements.iter().flat_map(|e| &e.class).flat_map(|body| body.members()) {
        let Some((table, column)) = member.refers.as_ref().and_then(|r| r.rsplit_once('.')) else { continue };
        let Some(target) = tables.get(table) else { continue };
        let columns: Vec<String> = target.class.iter().flat_map(|b| b.members()).map(|m| m.name()).collect();
        if columns.iter().any(|c| c == column) || columns.is_empty() {
            continue;
        }
        let suggestion = suggest(column, columns.iter().map(String::as_str));
        let (table, column) = (table.to_owned(), column.to_owned());
        diags.report(member.span, Message::UnknownColumn { table, column, suggestion });
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests_support::lines;

    #[test]
    fn columns_are_there() {
        let text = "classes c\n  table a\n    id: int (key)\n  table b\n    a_id: int (refers a.idd)\n    c: int (refers a.id)\n";
        assert_eq!(lines(text, "unknown-column"), [5]);
    }
}

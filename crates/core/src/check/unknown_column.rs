//! A reference to a column that the other table does not have.

use crate::diag::{Diagnostics, Message, suggest};
use crate::model::{Diagram, Element, ElementKind, TableConstraint};
use crate::source::Span;
use std::collections::BTreeMap;

/// `(refers table.column)`, where the table is declared with columns.
pub(super) fn check(diagram: &Diagram, diags: &mut Diagnostics) {
    let mut tables: BTreeMap<&str, &Element> = BTreeMap::new();
    for table in diagram.elements.iter().filter(|e| e.kind == ElementKind::Table) {
        tables.entry(&table.name).or_insert(table);
        tables.entry(&table.key).or_insert(table);
    }
    let columns_of =
        |table: &Element| table.class.iter().flat_map(|b| b.members()).map(|m| m.name()).collect::<Vec<_>>();
    for element in &diagram.elements {
        for member in element.class.iter().flat_map(|body| body.members()) {
            if let Some(reference) = &member.refers {
                let table = reference.table.join(".");
                if let Some(target) = tables.get(table.as_str()) {
                    report(member.span, &table, &reference.targets, &columns_of(target), diags);
                }
            }
            // Lines about several columns name the table's own.
            if let Some(TableConstraint::Unique(own) | TableConstraint::Refers(own)) = &member.constraint {
                report(member.span, &element.called(), own, &columns_of(element), diags);
            }
        }
    }
}

/// Reports the columns that a table does not have.
fn report(span: Span, table: &str, named: &[String], columns: &[String], diags: &mut Diagnostics) {
    for column in named.iter().filter(|column| !columns.is_empty() && !columns.contains(column)) {
        let suggestion = suggest(column, columns.iter().map(String::as_str));
        let (table, column) = (table.to_owned(), column.clone());
        diags.report(span, Message::UnknownColumn { table, column, suggestion });
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

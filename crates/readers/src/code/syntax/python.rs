//! Imports of Python (The Python Language Reference, 7.11).

use super::{ALL, Go, Import, Kind, Parsed, field_text, line, parts, text, visit};
use tree_sitter::Node;

/// Reads a module.
pub(super) fn parse(root: Node<'_>, source: &[u8], out: &mut Parsed) {
    // Where a block for type checkers ends.
    let mut types_until = 0;
    // Where the body of a function ends: what it imports is loaded when it runs.
    let mut later_until = 0;
    visit(root, &mut |node| {
        let kind = match node.start_byte() {
            at if at < types_until => Kind::Types,
            at if at < later_until => Kind::Dynamic,
            _ => Kind::Plain,
        };
        match node.kind() {
            "import_statement" => {
                parts(node).into_iter().for_each(|part| module(part, source, kind, out));
                Go::Past
            }
            "import_from_statement" => {
                from(node, source, kind, out);
                Go::Past
            }
            "if_statement" => {
                let condition = field_text(node, "condition", source).unwrap_or_default();
                if condition == "TYPE_CHECKING" || condition.ends_with(".TYPE_CHECKING") {
                    let body = node.child_by_field_name("consequence");
                    types_until = types_until.max(body.map_or(0, |body| body.end_byte()));
                }
                out.is_started |= condition.contains("__name__") && condition.contains("__main__");
                Go::Into
            }
            "call" => {
                dynamic(node, source, out);
                Go::Into
            }
            "class_definition" | "function_definition" => {
                if node.kind() == "function_definition" {
                    later_until = later_until.max(node.end_byte());
                }
                out.declared.extend(field_text(node, "name", source).filter(|_| is_outermost(node)));
                Go::Into
            }
            "assignment" if is_outermost(node) => {
                out.declared.extend(field_text(node, "left", source));
                Go::Into
            }
            _ => Go::Into,
        }
    });
}

fn is_outermost(node: Node<'_>) -> bool {
    let around =
        node.parent().filter(|parent| !matches!(parent.kind(), "expression_statement" | "decorated_definition"));
    let around = around.or_else(|| node.parent().and_then(|parent| parent.parent()));
    around.is_some_and(|around| around.kind() == "module")
}

/// `a.b` or `a.b as c` of `import`.
fn module(part: Node<'_>, source: &[u8], kind: Kind, out: &mut Parsed) {
    let (named, alias) = named(part, source);
    out.imports.push(Import { line: line(part), path: named, alias, kind, ..Import::default() });
}

/// `from a.b import c, d as e`.
fn from(node: Node<'_>, source: &[u8], kind: Kind, out: &mut Parsed) {
    let path = field_text(node, "module_name", source).unwrap_or_default();
    let path: String = path.chars().filter(|c| !c.is_whitespace()).collect();
    let import = Import { path, kind, is_exposed: kind != Kind::Dynamic, ..Import::default() };
    let names = node.children_by_field_name("name", &mut node.walk()).collect::<Vec<_>>();
    for part in names {
        let (name, alias) = named(part, source);
        out.imports.push(Import { line: line(part), name: Some(name), alias, ..import.clone() });
    }
    if parts(node).iter().any(|part| part.kind() == "wildcard_import") {
        out.imports.push(Import { line: line(node), name: Some(ALL.to_owned()), ..import });
    }
}

fn named(part: Node<'_>, source: &[u8]) -> (String, Option<String>) {
    match part.kind() {
        "aliased_import" => (field_text(part, "name", source).unwrap_or_default(), field_text(part, "alias", source)),
        _ => (text(part, source).into_owned(), None),
    }
}

/// `import_module("a.b")`, where the name is there to be read.
fn dynamic(node: Node<'_>, source: &[u8], out: &mut Parsed) {
    let called = field_text(node, "function", source).unwrap_or_default();
    if !matches!(called.as_str(), "importlib.import_module" | "import_module" | "__import__") {
        return;
    }
    let arguments = node.child_by_field_name("arguments").map(parts).unwrap_or_default();
    let [first] = &arguments[..] else { return };
    let content = parts(*first).into_iter().find(|part| part.kind() == "string_content");
    if let Some(content) = content.filter(|_| first.kind() == "string") {
        let path = text(content, source).into_owned();
        out.imports.push(Import { line: line(node), path, kind: Kind::Dynamic, ..Import::default() });
    }
}

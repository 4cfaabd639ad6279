//! Imports of Go (The Go Programming Language Specification, "Import declarations").

use super::{Go, Import, Parsed, field_text, line, visit};
use tree_sitter::Node;

/// Reads a file of a package.
pub(super) fn parse(root: Node<'_>, source: &[u8], out: &mut Parsed) {
    visit(root, &mut |node| match node.kind() {
        "package_clause" => {
            out.package = node.named_child(0).map(|name| super::text(name, source).into_owned()).unwrap_or_default();
            Go::Past
        }
        "import_spec" => {
            let path = field_text(node, "path", source).unwrap_or_default();
            let path = path.trim_matches(['"', '`']).to_owned();
            let alias = field_text(node, "name", source);
            out.imports.push(Import { line: line(node), path, alias, ..Import::default() });
            Go::Past
        }
        "function_declaration" => {
            let name = field_text(node, "name", source);
            out.is_started |= out.package == "main" && name.as_deref() == Some("main");
            out.declared.extend(name);
            Go::Past
        }
        "type_spec" => {
            out.declared.extend(field_text(node, "name", source));
            Go::Past
        }
        "method_declaration" => Go::Past,
        _ => Go::Into,
    });
}

//! Imports of Java (The Java Language Specification, 7.5), and the types that a file mentions: those of its own package need no
//! import.

use super::{ALL, Go, Import, Parsed, field_text, line, parts, text, visit};
use std::collections::HashSet;
use tree_sitter::Node;

/// Reads a compilation unit.
pub(super) fn parse(root: Node<'_>, source: &[u8], out: &mut Parsed) {
    let mut mentioned: HashSet<String> = HashSet::new();
    visit(root, &mut |node| match node.kind() {
        "package_declaration" => {
            let name = parts(node).into_iter().find(|part| matches!(part.kind(), "scoped_identifier" | "identifier"));
            out.package = name.map(|name| plain(&text(name, source))).unwrap_or_default();
            Go::Past
        }
        "import_declaration" => {
            import(node, source, out);
            Go::Past
        }
        "class_declaration"
        | "interface_declaration"
        | "enum_declaration"
        | "record_declaration"
        | "annotation_type_declaration" => {
            if node.parent().is_some_and(|around| around.kind() == "program") {
                out.declared.extend(field_text(node, "name", source));
            }
            Go::Into
        }
        "method_declaration" => {
            let is_main = field_text(node, "name", source).as_deref() == Some("main");
            out.is_started |= is_main && text(node, source).contains("static");
            Go::Into
        }
        // What stands before a dot may be a type, too; by convention these begin with a capital.
        "type_identifier" | "identifier" => {
            let name = text(node, source);
            if name.starts_with(char::is_uppercase) && !mentioned.contains(name.as_ref()) {
                mentioned.insert(name.clone().into_owned());
                out.mentions.push((name.into_owned(), line(node)));
            }
            Go::Past
        }
        "block_comment" | "line_comment" => Go::Past,
        _ => Go::Into,
    });
}

fn import(node: Node<'_>, source: &[u8], out: &mut Parsed) {
    let all = parts(node);
    let Some(path) = all.iter().find(|part| matches!(part.kind(), "scoped_identifier" | "identifier")) else { return };
    let is_all = all.iter().any(|part| part.kind() == "asterisk");
    let name = is_all.then(|| ALL.to_owned());
    out.imports.push(Import { line: line(node), path: plain(&text(*path, source)), name, ..Import::default() });
}

/// A name with dots, without what may stand between them.
fn plain(name: &str) -> String {
    name.chars().filter(|c| !c.is_whitespace()).collect()
}

//! Imports of TypeScript and JavaScript (ECMA-262, 16.2; what TypeScript adds: types, `import = require`).

use super::{ALL, Go, Import, Kind, Parsed, field_text, line, parts, text, tokens, visit};
use tree_sitter::Node;

/// Reads a module.
pub(super) fn parse(root: Node<'_>, source: &[u8], out: &mut Parsed) {
    visit(root, &mut |node| match node.kind() {
        "import_statement" => {
            import(node, source, out);
            Go::Past
        }
        "export_statement" => {
            out.has_exports = true;
            export(node, source, out);
            Go::Into
        }
        "call_expression" => {
            call(node, source, out);
            Go::Into
        }
        // `import("./a").T` as a type.
        "import_type" => {
            out.imports.extend(string_in(node, source).map(|path| Import {
                line: line(node),
                path,
                kind: Kind::Types,
                ..Import::default()
            }));
            Go::Past
        }
        "member_expression" => {
            let object = field_text(node, "object", source);
            let is_whole = object.as_deref() == Some("module")
                && field_text(node, "property", source).as_deref() == Some("exports");
            out.has_exports |= is_whole || object.as_deref() == Some("exports");
            Go::Into
        }
        "comment" => Go::Past,
        _ => Go::Into,
    });
}

/// Whether the statement itself is about types only.
fn is_of_types(node: Node<'_>) -> bool {
    tokens(node).iter().any(|token| matches!(token.kind(), "type" | "typeof"))
}

fn import(node: Node<'_>, source: &[u8], out: &mut Parsed) {
    let kind = if is_of_types(node) { Kind::Types } else { Kind::Plain };
    let clause = parts(node).into_iter().find(|part| matches!(part.kind(), "import_clause" | "import_require_clause"));
    let path = node.child_by_field_name("source").and_then(|path| string(path, source));
    let Some(path) = path.or_else(|| string_in(clause?, source)) else { return };
    let import = Import { line: line(node), path, kind, ..Import::default() };
    let before = out.imports.len();
    for part in clause.map(parts).unwrap_or_default() {
        match part.kind() {
            "identifier" if clause.is_some_and(|clause| clause.kind() == "import_clause") => {
                let name = Some("default".to_owned());
                out.imports.push(Import { name, alias: Some(text(part, source).into_owned()), ..import.clone() });
            }
            "named_imports" => {
                for specifier in parts(part).into_iter().filter(|part| part.kind() == "import_specifier") {
                    out.imports.push(named(specifier, source, &import));
                }
            }
            "namespace_import" => {
                let alias = part.named_child(0).map(|name| text(name, source).into_owned());
                out.imports.push(Import { alias, ..import.clone() });
            }
            _ => {}
        }
    }
    // For its effects, or as a whole.
    if out.imports.len() == before {
        out.imports.push(import);
    }
}

/// `a`, `a as b`, `type a as b`.
fn named(specifier: Node<'_>, source: &[u8], import: &Import) -> Import {
    let kind = if is_of_types(specifier) { Kind::Types } else { import.kind };
    Import {
        line: line(specifier),
        name: field_text(specifier, "name", source),
        alias: field_text(specifier, "alias", source),
        kind,
        ..import.clone()
    }
}

fn export(node: Node<'_>, source: &[u8], out: &mut Parsed) {
    let clause = parts(node).into_iter().find(|part| matches!(part.kind(), "export_clause" | "namespace_export"));
    let Some(path) = node.child_by_field_name("source").and_then(|path| string(path, source)) else {
        match clause {
            Some(clause) => own_exports(clause, source, out),
            None => declared(node, source, out),
        }
        return;
    };
    let kind = if is_of_types(node) { Kind::Types } else { Kind::Plain };
    let import = Import { line: line(node), path, kind, is_exposed: true, ..Import::default() };
    match clause {
        Some(clause) if clause.kind() == "export_clause" => {
            for specifier in parts(clause).into_iter().filter(|part| part.kind() == "export_specifier") {
                out.imports.push(named(specifier, source, &import));
            }
        }
        Some(clause) => {
            let alias = clause.named_child(0).map(|name| text(name, source).into_owned());
            out.imports.push(Import { alias, ..import });
        }
        None => out.imports.push(Import { name: Some(ALL.to_owned()), ..import }),
    }
}

/// `export { a, b as c }`: of what was imported, or is declared here.
fn own_exports(clause: Node<'_>, source: &[u8], out: &mut Parsed) {
    for specifier in parts(clause).into_iter().filter(|part| part.kind() == "export_specifier") {
        let name = field_text(specifier, "name", source).unwrap_or_default();
        let shown = field_text(specifier, "alias", source).unwrap_or_else(|| name.clone());
        match out.imports.iter_mut().find(|import| import.own_name() == Some(&name)) {
            Some(import) => {
                import.is_exposed = true;
                import.alias = Some(shown);
            }
            None => out.declared.push(shown),
        }
    }
}

/// What an export declares.
fn declared(node: Node<'_>, source: &[u8], out: &mut Parsed) {
    if tokens(node).iter().any(|token| token.kind() == "default") {
        out.declared.push("default".to_owned());
    }
    let Some(declaration) = node.child_by_field_name("declaration") else { return };
    if let Some(name) = field_text(declaration, "name", source) {
        out.declared.push(name);
    }
    let variables = parts(declaration).into_iter().filter(|part| part.kind() == "variable_declarator");
    out.declared.extend(variables.filter_map(|variable| field_text(variable, "name", source)));
}

/// `require("a")` and `import("a")`, where the name is there to be read.
fn call(node: Node<'_>, source: &[u8], out: &mut Parsed) {
    let Some(function) = node.child_by_field_name("function") else { return };
    let kind = match function.kind() {
        "import" => Kind::Dynamic,
        "identifier" if text(function, source) == "require" => Kind::Plain,
        _ => return,
    };
    let Some(arguments) = node.child_by_field_name("arguments") else { return };
    let path = arguments.named_child(0).and_then(|first| string(first, source));
    out.imports.extend(path.map(|path| Import { line: line(node), path, kind, ..Import::default() }));
}

/// The content of a string without any computing in it.
fn string(node: Node<'_>, source: &[u8]) -> Option<String> {
    let is_plain = match node.kind() {
        "string" => true,
        "template_string" => parts(node).iter().all(|part| part.kind() == "string_fragment"),
        _ => false,
    };
    let content = text(node, source);
    is_plain.then(|| content.trim_matches(['"', '\'', '`']).to_owned())
}

/// The first string in a node.
fn string_in(node: Node<'_>, source: &[u8]) -> Option<String> {
    let mut found = None;
    visit(node, &mut |part| {
        found = found.take().or_else(|| string(part, source));
        if found.is_some() { Go::Past } else { Go::Into }
    });
    found
}

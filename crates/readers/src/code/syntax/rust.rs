//! Imports of Rust: `use` declarations, and paths in the middle of code (The Rust Reference, "Use declarations" and "Paths").

use super::{ALL, Go, Import, ModuleLine, Parsed, Reader, field_text, line, parts, text, tokens, visit};
use tree_sitter::Node;

/// Items in macros lie at most so deep: `cfg_if! { if … { other! { mod a; } } }`.
const DEEPEST: usize = 4;

struct Context<'c> {
    source: &'c [u8],
    /// Lines before this text.
    before: u32,
    with_tests: bool,
    depth: usize,
}

/// Reads a file of a crate.
pub(super) fn parse(reader: &mut Reader<'_>, root: Node<'_>, source: &[u8], with_tests: bool, out: &mut Parsed) {
    items(reader, root, &Context { source, before: 0, with_tests, depth: 0 }, 0, out);
}

fn items(reader: &mut Reader<'_>, root: Node<'_>, context: &Context<'_>, scope: usize, out: &mut Parsed) {
    // Inline modules around, with the byte at which each ends.
    let mut around: Vec<(usize, usize)> = vec![(scope, usize::MAX)];
    let mut in_macros: Vec<(String, u32, usize)> = Vec::new();
    let source = context.source;
    visit(root, &mut |node| {
        while around.len() > 1 && around.last().is_some_and(|(_, end)| node.start_byte() >= *end) {
            around.pop();
        }
        let scope = around.last().map_or(0, |(scope, _)| *scope);
        let at = line(node) + context.before;
        match node.kind() {
            "mod_item" => {
                if !context.with_tests && is_for_tests(node, source) {
                    return Go::Past;
                }
                match node.child_by_field_name("body") {
                    Some(_) => {
                        let name = field_text(node, "name", source).unwrap_or_default();
                        out.scopes.push((scope, name));
                        around.push((out.scopes.len() - 1, node.end_byte()));
                        Go::Into
                    }
                    None => {
                        out.modules.push(module(node, source, scope));
                        Go::Past
                    }
                }
            }
            "use_declaration" => {
                let is_exposed = parts(node).iter().any(|part| part.kind() == "visibility_modifier");
                let import = Import { line: at, scope, is_exposed, ..Import::default() };
                if !is_for_tests(node, source) || context.with_tests {
                    node.child_by_field_name("argument")
                        .into_iter()
                        .for_each(|tree| used(tree, "", &import, context, out));
                }
                Go::Past
            }
            "extern_crate_declaration" => {
                let path = format!("::{}", field_text(node, "name", source).unwrap_or_default());
                let alias = field_text(node, "alias", source);
                out.imports.push(Import { line: at, path, alias, scope, ..Import::default() });
                Go::Past
            }
            "scoped_identifier" | "scoped_type_identifier" => {
                let segments = segments(node, source);
                let is_inner = node.parent().is_some_and(|parent| {
                    matches!(parent.kind(), "scoped_identifier" | "scoped_type_identifier")
                        && parent.child_by_field_name("path") == Some(node)
                });
                if !is_inner && let Some(path) = segments {
                    out.imports.push(Import { line: at, path, scope, is_inline: true, ..Import::default() });
                }
                Go::Into
            }
            "token_tree" => {
                paths_among_tokens(node, source, at, scope, out);
                Go::Into
            }
            "macro_invocation" => {
                let is_item = node.parent().is_some_and(|around| {
                    matches!(around.kind(), "source_file" | "declaration_list")
                        || around.kind() == "expression_statement"
                            && around.parent().is_some_and(|outer| outer.kind() == "source_file")
                });
                let tree = parts(node).into_iter().find(|part| part.kind() == "token_tree");
                match tree.filter(|_| is_item && context.depth < DEEPEST) {
                    Some(tree) if may_hold_items(&text(tree, source)) => {
                        blocks(tree, source, &mut |inner, row| in_macros.push((inner, row + context.before, scope)));
                        Go::Past
                    }
                    _ => Go::Into,
                }
            }
            "macro_definition" | "line_comment" | "block_comment" | "string_literal" => Go::Past,
            "function_item" => {
                let is_outermost = node.parent().is_some_and(|around| around.kind() == "source_file");
                declare(node, source, out);
                out.is_started |= is_outermost && field_text(node, "name", source).as_deref() == Some("main");
                Go::Into
            }
            "struct_item" | "enum_item" | "trait_item" | "type_item" | "const_item" | "static_item" | "union_item" => {
                declare(node, source, out);
                Go::Into
            }
            _ => Go::Into,
        }
    });
    for (inner, before, scope) in in_macros {
        let Some(tree) = reader.tree(inner.as_bytes()) else { continue };
        let context = Context { source: inner.as_bytes(), before, depth: context.depth + 1, ..*context };
        items(reader, tree.root_node(), &context, scope, out);
    }
}

fn declare(node: Node<'_>, source: &[u8], out: &mut Parsed) {
    if node.parent().is_some_and(|around| around.kind() == "source_file") {
        out.declared.extend(field_text(node, "name", source));
    }
}

/// Whether a text in a macro may declare or import something.
fn may_hold_items(text: &str) -> bool {
    ["mod ", "use "].iter().any(|word| text.contains(word))
}

/// The texts in the curly brackets of a macro's tokens, each with the number of lines before it; the whole if there are none.
fn blocks(tree: Node<'_>, source: &[u8], see: &mut dyn FnMut(String, u32)) {
    let inner = |node: Node<'_>| {
        let content = text(node, source);
        let content = content.get(1..content.len().saturating_sub(1)).unwrap_or_default().to_owned();
        (content, node.start_position().row as u32)
    };
    let braces: Vec<Node<'_>> = parts(tree)
        .into_iter()
        .filter(|part| part.kind() == "token_tree" && source[part.start_byte()] == b'{')
        .collect();
    // What has items of its own beside brackets, such as functions, is read as a whole.
    let begins_with_if = parts(tree).len() > braces.len() && text(tree, source)[1..].trim_start().starts_with("if ");
    if begins_with_if {
        braces.into_iter().map(inner).for_each(|(content, row)| see(content, row));
    } else {
        let (content, row) = inner(tree);
        see(content, row);
    }
}

/// Attributes stand before what they are about.
fn attributes<'s>(node: Node<'_>, source: &'s [u8]) -> Vec<std::borrow::Cow<'s, str>> {
    let before = std::iter::successors(node.prev_named_sibling(), Node::prev_named_sibling);
    before
        .take_while(|node| matches!(node.kind(), "attribute_item" | "line_comment" | "block_comment"))
        .filter(|node| node.kind() == "attribute_item")
        .map(|node| text(node, source))
        .collect()
}

fn is_for_tests(node: Node<'_>, source: &[u8]) -> bool {
    attributes(node, source).iter().any(|attribute| {
        let plain: String = attribute.chars().filter(|c| !c.is_whitespace()).collect();
        plain.starts_with("#[cfg(test") || plain.starts_with("#[cfg(all(test")
    })
}

fn module(node: Node<'_>, source: &[u8], scope: usize) -> ModuleLine {
    let attributes = attributes(node, source);
    let paths = attributes.iter().filter_map(|attribute| {
        let (before, said) = attribute.split_once("path")?;
        let begins = before.ends_with(['[', ' ', ',']);
        let said = said.trim_start().strip_prefix('=').filter(|_| begins)?;
        Some(said.split('"').nth(1)?.to_owned())
    });
    let paths = paths.collect();
    let visibility = parts(node).into_iter().find(|part| part.kind() == "visibility_modifier");
    let is_public = visibility.is_some_and(|visibility| text(visibility, source) == "pub");
    ModuleLine {
        name: field_text(node, "name", source).unwrap_or_default(),
        paths,
        scope,
        is_public,
        is_private: visibility.is_none(),
    }
}

/// The trees of `use`: `a::{b as c, d::*, self}` are three imports.
fn used(tree: Node<'_>, before: &str, import: &Import, context: &Context<'_>, out: &mut Parsed) {
    let source = context.source;
    let joined = |path: &str| if before.is_empty() { path.to_owned() } else { format!("{before}::{path}") };
    let here = Import { line: line(tree) + context.before, ..import.clone() };
    let path_of = |tree: Node<'_>, field: &str| {
        tree.child_by_field_name(field).map_or(String::new(), |path| segments_or_text(path, source))
    };
    match tree.kind() {
        "use_list" => parts(tree).into_iter().for_each(|part| used(part, before, import, context, out)),
        "scoped_use_list" => {
            let path = path_of(tree, "path");
            // `::{a, b}` begins at the crates.
            let path = if path.is_empty() && text(tree, source).starts_with("::") { "::".to_owned() } else { path };
            let path = if path.is_empty() { before.to_owned() } else { joined(&path) };
            let list = tree.child_by_field_name("list").map(parts).unwrap_or_default();
            list.into_iter().for_each(|part| used(part, path.trim_end_matches("::"), import, context, out));
        }
        "use_wildcard" => {
            let path = tree.named_child(0).map_or(String::new(), |path| segments_or_text(path, source));
            let path = if path.is_empty() { before.to_owned() } else { joined(&path) };
            out.imports.push(Import { path, name: Some(ALL.to_owned()), ..here });
        }
        "use_as_clause" => {
            let alias = field_text(tree, "alias", source);
            let path = path_of(tree, "path");
            let path = if path == "self" && !before.is_empty() { before.to_owned() } else { joined(&path) };
            out.imports.push(Import { path, alias, ..here });
        }
        "self" if !before.is_empty() => out.imports.push(Import { path: before.to_owned(), ..here }),
        "line_comment" | "block_comment" => {}
        _ => out.imports.push(Import { path: joined(&segments_or_text(tree, source)), ..here }),
    }
}

fn segments_or_text(node: Node<'_>, source: &[u8]) -> String {
    segments(node, source).unwrap_or_else(|| text(node, source).into_owned())
}

/// A path in plain writing, without type arguments; nothing for what begins with a type.
fn segments(node: Node<'_>, source: &[u8]) -> Option<String> {
    let mut names: Vec<String> = Vec::new();
    let mut at = Some(node);
    while let Some(node) = at {
        match node.kind() {
            "scoped_identifier" | "scoped_type_identifier" => {
                names.push(field_text(node, "name", source)?);
                at = node.child_by_field_name("path");
                if at.is_none() {
                    // `::a` begins at the crates.
                    names.push(String::new());
                }
            }
            "generic_type" => at = node.child_by_field_name("type"),
            "identifier" | "type_identifier" | "crate" | "self" | "super" | "metavariable" => {
                names.push(text(node, source).into_owned());
                at = None;
            }
            _ => return None,
        }
    }
    names.reverse();
    Some(names.iter().map(|name| name.strip_prefix("r#").unwrap_or(name)).collect::<Vec<_>>().join("::"))
}

/// Paths among the tokens of a macro.
fn paths_among_tokens(tree: Node<'_>, source: &[u8], at: u32, scope: usize, out: &mut Parsed) {
    let before = at - line(tree);
    let mut path: Vec<String> = Vec::new();
    let mut first = 0;
    let mut is_open = false;
    let mut close = |path: &mut Vec<String>, first: u32| {
        if path.len() > 1 {
            let path = path.join("::");
            out.imports.push(Import { line: first, path, scope, is_inline: true, ..Import::default() });
        }
        path.clear();
    };
    for token in tokens(tree) {
        match token.kind() {
            "identifier" | "crate" | "self" | "super" => {
                if !is_open {
                    close(&mut path, first);
                    first = line(token) + before;
                }
                path.push(text(token, source).into_owned());
                is_open = false;
            }
            "::" => is_open = !path.is_empty(),
            _ => {
                close(&mut path, first);
                is_open = false;
            }
        }
    }
    close(&mut path, first);
}

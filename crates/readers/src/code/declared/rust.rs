//! Classifiers of Rust: structures, enumerations, traits, and what `impl` gives them.

use super::{Classifier, Declarations, Declared, Extension, comment_before, inner, part};
use crate::code::syntax::{Go, field_text, line, parts, text, visit};
use bathygram_core::model::{ElementKind, Verb};
use tree_sitter::Node;

/// Reads a file of a crate.
pub(super) fn read(root: Node<'_>, source: &[u8], with_tests: bool, out: &mut Declarations) {
    visit(root, &mut |node| {
        match node.kind() {
            "struct_item" | "union_item" => structure(node, source, out),
            "enum_item" => enumeration(node, source, out),
            "trait_item" => interface(node, source, out),
            "impl_item" => implementation(node, source, out),
            "mod_item" if !with_tests && is_for_tests(node, source) => return Go::Past,
            "source_file" | "mod_item" | "declaration_list" => return Go::Into,
            _ => {}
        }
        // What functions declare for themselves is theirs.
        Go::Past
    });
}

fn is_for_tests(node: Node<'_>, source: &[u8]) -> bool {
    node.prev_named_sibling()
        .is_some_and(|before| before.kind() == "attribute_item" && text(before, source).contains("cfg(test"))
}

fn visibility(node: Node<'_>, source: &[u8]) -> char {
    match part(node, "visibility_modifier").map(|said| text(said, source)) {
        Some(said) if said == "pub" => '+',
        Some(_) => '~',
        None => '-',
    }
}

fn classifier(node: Node<'_>, kind: ElementKind, source: &[u8]) -> Option<Classifier> {
    let mut classifier = Classifier::new(field_text(node, "name", source)?, kind, node);
    classifier.is_public = visibility(node, source) == '+';
    let parameters = node.child_by_field_name("type_parameters");
    classifier.parameters = parameters.map(|parameters| types_only(parameters, source)).filter(|said| !said.is_empty());
    classifier.about = comment_before(node, source, &|said| said.starts_with("///") || said.starts_with("/**"));
    Some(classifier)
}

/// Type parameters without lifetimes and bounds.
fn types_only(parameters: Node<'_>, source: &[u8]) -> String {
    let names = parts(parameters).into_iter().filter_map(|one| match one.kind() {
        "type_parameter" | "constrained_type_parameter" => {
            field_text(one, "name", source).or_else(|| field_text(one, "left", source))
        }
        "type_identifier" => Some(text(one, source).into_owned()),
        "const_parameter" => field_text(one, "name", source),
        _ => None,
    });
    names.collect::<Vec<_>>().join(", ")
}

fn structure(node: Node<'_>, source: &[u8], out: &mut Declarations) {
    let Some(mut classifier) = classifier(node, ElementKind::Class, source) else { return };
    if let Some(body) = node.child_by_field_name("body") {
        classifier.members = fields(body, source);
    }
    out.classifiers.push(classifier);
}

fn fields(body: Node<'_>, source: &[u8]) -> Vec<Declared> {
    match body.kind() {
        "field_declaration_list" => {
            let fields = parts(body).into_iter().filter(|field| field.kind() == "field_declaration");
            let one = |field| Declared {
                name: field_text(field, "name", source).unwrap_or_default(),
                visibility: Some(visibility(field, source)),
                of: field_text(field, "type", source),
                ..Declared::default()
            };
            fields.map(one).collect()
        }
        _ => {
            // Fields without names are known by their numbers; each may have a visibility before it.
            let mut out: Vec<Declared> = Vec::new();
            let mut own = '-';
            for field in parts(body) {
                match field.kind() {
                    "visibility_modifier" => own = if text(field, source) == "pub" { '+' } else { '~' },
                    "attribute_item" | "line_comment" | "block_comment" => {}
                    _ => {
                        let (name, of) = (out.len().to_string(), Some(text(field, source).into_owned()));
                        out.push(Declared { name, visibility: Some(own), of, ..Declared::default() });
                        own = '-';
                    }
                }
            }
            out
        }
    }
}

fn enumeration(node: Node<'_>, source: &[u8], out: &mut Declarations) {
    let Some(mut classifier) = classifier(node, ElementKind::Enum, source) else { return };
    let body = node.child_by_field_name("body").map(parts).unwrap_or_default();
    for variant in body.into_iter().filter(|part| part.kind() == "enum_variant") {
        let name = field_text(variant, "name", source).unwrap_or_default();
        classifier.members.push(Declared { name, ..Declared::default() });
    }
    out.classifiers.push(classifier);
}

fn interface(node: Node<'_>, source: &[u8], out: &mut Declarations) {
    let Some(mut classifier) = classifier(node, ElementKind::Interface, source) else { return };
    let bounds = node.child_by_field_name("bounds").map(parts).unwrap_or_default();
    let bounds = bounds.into_iter().filter(|bound| !matches!(bound.kind(), "lifetime" | "removed_trait_bound"));
    classifier.bases = bounds.map(|bound| (Verb::Extends, text(bound, source).into_owned())).collect();
    let body = node.child_by_field_name("body").map(parts).unwrap_or_default();
    for item in body {
        let is_abstract = item.kind() == "function_signature_item";
        if is_abstract || item.kind() == "function_item" {
            let operation = operation(item, source);
            classifier.members.push(Declared { visibility: Some('+'), is_abstract, ..operation });
        }
    }
    out.classifiers.push(classifier);
}

fn implementation(node: Node<'_>, source: &[u8], out: &mut Declarations) {
    let Some(of) = field_text(node, "type", source) else { return };
    let mut extension = Extension { of, line: line(node), ..Extension::default() };
    match field_text(node, "trait", source) {
        // What a trait asks for stands there already.
        Some(name) => extension.bases.push((Verb::Implements, name)),
        None => {
            let body = node.child_by_field_name("body").map(parts).unwrap_or_default();
            let functions = body.into_iter().filter(|item| item.kind() == "function_item");
            extension.members = functions.map(|item| operation(item, source)).collect();
        }
    }
    out.extensions.push(extension);
}

fn operation(node: Node<'_>, source: &[u8]) -> Declared {
    let all = node.child_by_field_name("parameters").map(parts).unwrap_or_default();
    let is_static = !all.iter().any(|parameter| {
        parameter.kind() == "self_parameter"
            || parameter.kind() == "parameter"
                && field_text(*parameter, "pattern", source).is_some_and(|name| name == "self" || name == "mut self")
    });
    let parameters = all.iter().filter(|parameter| parameter.kind() == "parameter").filter_map(|parameter| {
        let name = field_text(*parameter, "pattern", source)?;
        (name != "self").then(|| (inner_name(&name), field_text(*parameter, "type", source).unwrap_or_default()))
    });
    Declared {
        name: field_text(node, "name", source).unwrap_or_default(),
        visibility: Some(visibility(node, source)),
        of: node.child_by_field_name("return_type").map(|of| inner(of, source, &[])),
        parameters: Some(parameters.collect()),
        is_static,
        ..Declared::default()
    }
}

/// What a pattern is called: its name, or `_` for what takes something apart.
fn inner_name(pattern: &str) -> String {
    let plain = pattern.trim_start_matches("mut ").trim();
    if plain.chars().all(|c| c.is_alphanumeric() || c == '_') { plain.to_owned() } else { "_".to_owned() }
}

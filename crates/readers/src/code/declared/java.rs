//! Classifiers of Java: classes, interfaces, enumerations, records, annotations.

use super::{Classifier, Declarations, Declared, comment_before, inner, part};
use crate::code::syntax::{Go, field_text, parts, text, visit};
use bathygram_core::model::{ElementKind, Verb};
use tree_sitter::Node;

/// Reads a compilation unit.
pub(super) fn read(root: Node<'_>, source: &[u8], out: &mut Declarations) {
    let mut around: Vec<(usize, usize)> = Vec::new();
    visit(root, &mut |node| {
        while around.last().is_some_and(|(_, end)| node.start_byte() >= *end) {
            around.pop();
        }
        let kind = match node.kind() {
            "class_declaration" => ElementKind::Class,
            "interface_declaration" | "annotation_type_declaration" => ElementKind::Interface,
            "enum_declaration" => ElementKind::Enum,
            "record_declaration" => ElementKind::Record,
            // What operations declare for themselves is theirs.
            "method_declaration"
            | "constructor_declaration"
            | "field_declaration"
            | "static_initializer"
            | "block"
            | "enum_constant"
            | "compact_constructor_declaration" => return Go::Past,
            _ => return Go::Into,
        };
        if let Some(mut classifier) = classifier(node, kind, source) {
            classifier.outer = around.last().map(|(number, _)| *number);
            out.classifiers.push(classifier);
            around.push((out.classifiers.len() - 1, node.end_byte()));
        }
        Go::Into
    });
}

fn modifiers(node: Node<'_>, source: &[u8]) -> Vec<String> {
    let said = part(node, "modifiers").map(|said| text(said, source).into_owned()).unwrap_or_default();
    said.split_whitespace().map(str::to_owned).collect()
}

fn visibility(modifiers: &[String], otherwise: char) -> char {
    let has = |word: &str| modifiers.iter().any(|said| said == word);
    match () {
        () if has("public") => '+',
        () if has("protected") => '#',
        () if has("private") => '-',
        () => otherwise,
    }
}

fn classifier(node: Node<'_>, kind: ElementKind, source: &[u8]) -> Option<Classifier> {
    let mut classifier = Classifier::new(field_text(node, "name", source)?, kind, node);
    let said = modifiers(node, source);
    classifier.is_abstract = said.iter().any(|word| word == "abstract") && kind == ElementKind::Class;
    classifier.is_public = visibility(&said, '~') == '+';
    let parameters = node.child_by_field_name("type_parameters").map(parts).unwrap_or_default();
    let names: Vec<String> = parameters
        .into_iter()
        .filter_map(|one| {
            Some(text(part(one, "type_identifier").or_else(|| part(one, "identifier"))?, source).into_owned())
        })
        .collect();
    classifier.parameters = (!names.is_empty()).then(|| names.join(", "));
    classifier.about = comment_before(node, source, &|said| said.starts_with("/**"));
    let superclass = node.child_by_field_name("superclass").map(|said| parts(said)).unwrap_or_default();
    let listed = |said: Option<Node<'_>>| -> Vec<String> {
        let lists = said.map(parts).unwrap_or_default();
        lists.into_iter().flat_map(parts).map(|one| text(one, source).into_owned()).collect()
    };
    classifier.bases = superclass.into_iter().map(|one| (Verb::Extends, text(one, source).into_owned())).collect();
    classifier
        .bases
        .extend(listed(node.child_by_field_name("interfaces")).into_iter().map(|name| (Verb::Implements, name)));
    classifier.bases.extend(listed(part(node, "extends_interfaces")).into_iter().map(|name| (Verb::Extends, name)));
    if kind == ElementKind::Record {
        let parameters = node.child_by_field_name("parameters").map(parts).unwrap_or_default();
        for one in parameters.into_iter().filter(|one| one.kind() == "formal_parameter") {
            let (name, of) = (field_text(one, "name", source).unwrap_or_default(), field_text(one, "type", source));
            classifier.members.push(Declared { name, of, visibility: Some('+'), ..Declared::default() });
        }
    }
    let body = node.child_by_field_name("body").map(parts).unwrap_or_default();
    for item in body {
        match item.kind() {
            "enum_body_declarations" => {
                parts(item).into_iter().for_each(|item| member(item, kind, source, &mut classifier))
            }
            _ => member(item, kind, source, &mut classifier),
        }
    }
    Some(classifier)
}

fn member(item: Node<'_>, kind: ElementKind, source: &[u8], classifier: &mut Classifier) {
    let said = modifiers(item, source);
    let has = |word: &str| said.iter().any(|said| said == word);
    let is_interface = kind == ElementKind::Interface;
    let own = visibility(&said, if is_interface { '+' } else { '~' });
    match item.kind() {
        "enum_constant" => {
            let name = field_text(item, "name", source).unwrap_or_default();
            classifier.members.push(Declared { name, ..Declared::default() });
        }
        "field_declaration" | "constant_declaration" => {
            let of = field_text(item, "type", source);
            let mut cursor = item.walk();
            for declarator in item.children_by_field_name("declarator", &mut cursor) {
                let name = field_text(declarator, "name", source).unwrap_or_default();
                let dimensions = field_text(declarator, "dimensions", source).unwrap_or_default();
                let of = of.clone().map(|of| of + &dimensions);
                let is_static = has("static") || is_interface;
                classifier.members.push(Declared { name, of, visibility: Some(own), is_static, ..Declared::default() });
            }
        }
        "method_declaration" | "constructor_declaration" | "annotation_type_element_declaration" => {
            let is_abstract = has("abstract") || is_interface && item.child_by_field_name("body").is_none();
            let parameters = item.child_by_field_name("parameters").map(parts).unwrap_or_default();
            let parameters = parameters.into_iter().filter_map(|one| parameter(one, source)).collect();
            classifier.members.push(Declared {
                name: field_text(item, "name", source).unwrap_or_default(),
                of: field_text(item, "type", source).filter(|of| of != "void"),
                visibility: Some(own),
                parameters: Some(parameters),
                is_static: has("static"),
                is_abstract,
                ..Declared::default()
            });
        }
        _ => {}
    }
}

fn parameter(one: Node<'_>, source: &[u8]) -> Option<(String, String)> {
    match one.kind() {
        "formal_parameter" => Some((field_text(one, "name", source)?, field_text(one, "type", source)?)),
        "spread_parameter" => {
            let name = part(one, "variable_declarator").map(|said| inner(said, source, &[]))?;
            let of = parts(one).into_iter().find(|said| !matches!(said.kind(), "modifiers" | "variable_declarator"))?;
            Some((name, format!("{}...", text(of, source))))
        }
        _ => None,
    }
}

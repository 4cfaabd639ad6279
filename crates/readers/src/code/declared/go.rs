//! Classifiers of Go: structures, interfaces, and types whose values are listed.

use super::{Classifier, Declarations, Declared, Extension, comment_before};
use crate::code::syntax::{Go, field_text, parts, text, visit};
use bathygram_core::model::{ElementKind, Verb};
use tree_sitter::Node;

/// Reads a file of a package.
pub(super) fn read(root: Node<'_>, source: &[u8], out: &mut Declarations) {
    let mut constants: Vec<(String, String)> = Vec::new();
    let mut plain: Vec<(Classifier, String)> = Vec::new();
    visit(root, &mut |node| {
        match node.kind() {
            "type_spec" => {
                if let Some((classifier, under)) = named(node, source) {
                    match under {
                        None => out.classifiers.push(classifier),
                        Some(under) => plain.push((classifier, under)),
                    }
                }
            }
            "method_declaration" => out.extensions.extend(method(node, source)),
            "const_declaration" => listed(node, source, &mut constants),
            "source_file" | "type_declaration" => return Go::Into,
            _ => {}
        }
        Go::Past
    });
    // A type with constants of its own is an enumeration; any other one is a name for another type.
    for (mut classifier, under) in plain {
        let values = constants.iter().filter(|(of, _)| *of == classifier.name);
        classifier.members = values.map(|(_, name)| Declared { name: name.clone(), ..Declared::default() }).collect();
        classifier.kind = if classifier.members.is_empty() { ElementKind::Record } else { ElementKind::Enum };
        if classifier.members.is_empty() {
            classifier.members.push(Declared {
                name: "value".into(),
                of: Some(under),
                visibility: Some('-'),
                ..Declared::default()
            });
        }
        out.classifiers.push(classifier);
    }
}

fn visibility(name: &str) -> char {
    if name.starts_with(char::is_uppercase) { '+' } else { '~' }
}

/// A type, and what it is another name for, if that is no structure and no interface.
fn named(node: Node<'_>, source: &[u8]) -> Option<(Classifier, Option<String>)> {
    let name = field_text(node, "name", source)?;
    let of = node.child_by_field_name("type")?;
    let (kind, under) = match of.kind() {
        "struct_type" => (ElementKind::Class, None),
        "interface_type" => (ElementKind::Interface, None),
        _ => (ElementKind::Record, Some(text(of, source).into_owned())),
    };
    let mut classifier = Classifier::new(name, kind, node);
    classifier.is_public = visibility(&classifier.name) == '+';
    let parameters = node.child_by_field_name("type_parameters").map(parts).unwrap_or_default();
    let mut names: Vec<String> = Vec::new();
    for parameter in parameters {
        let mut cursor = parameter.walk();
        names.extend(parameter.children_by_field_name("name", &mut cursor).map(|name| text(name, source).into_owned()));
    }
    classifier.parameters = (!names.is_empty()).then(|| names.join(", "));
    let declaration = node.parent().filter(|around| around.named_child_count() == 1).unwrap_or(node);
    classifier.about = comment_before(declaration, source, &|_| true);
    match of.kind() {
        "struct_type" => {
            let list = parts(of).into_iter().flat_map(parts).filter(|field| field.kind() == "field_declaration");
            list.for_each(|field| fields(field, source, &mut classifier));
        }
        "interface_type" => {
            for item in parts(of) {
                match item.kind() {
                    "method_elem" | "method_spec" => {
                        let operation = operation(item, source);
                        classifier.members.push(Declared { is_abstract: true, ..operation });
                    }
                    "type_elem" | "constraint_elem" | "type_identifier" | "qualified_type" => {
                        let said = text(item, source).into_owned();
                        let is_one = !said.contains(['|', '~']);
                        classifier.bases.extend(is_one.then_some((Verb::Extends, said)));
                    }
                    _ => {}
                }
            }
        }
        _ => {}
    }
    Some((classifier, under))
}

fn fields(field: Node<'_>, source: &[u8], classifier: &mut Classifier) {
    let of = field_text(field, "type", source);
    let mut cursor = field.walk();
    let names: Vec<String> =
        field.children_by_field_name("name", &mut cursor).map(|name| text(name, source).into_owned()).collect();
    if names.is_empty() {
        // An embedded field has the name of its type.
        let pointed = if text(field, source).starts_with('*') { "*" } else { "" };
        let of = of.unwrap_or_default();
        let name = of
            .split('[')
            .next()
            .unwrap_or_default()
            .rsplit('.')
            .next()
            .unwrap_or_default()
            .trim_start_matches('*')
            .to_owned();
        let visibility = Some(visibility(&name));
        classifier.members.push(Declared {
            name,
            of: Some(format!("{pointed}{of}")),
            visibility,
            ..Declared::default()
        });
        return;
    }
    for name in names {
        classifier.members.push(Declared {
            visibility: Some(visibility(&name)),
            name,
            of: of.clone(),
            ..Declared::default()
        });
    }
}

fn operation(node: Node<'_>, source: &[u8]) -> Declared {
    let name = field_text(node, "name", source).unwrap_or_default();
    let all = node.child_by_field_name("parameters").map(parts).unwrap_or_default();
    let mut parameters = Vec::new();
    for one in all {
        let of = field_text(one, "type", source).unwrap_or_default();
        let of = if one.kind() == "variadic_parameter_declaration" { format!("...{of}") } else { of };
        let mut cursor = one.walk();
        let names: Vec<String> =
            one.children_by_field_name("name", &mut cursor).map(|name| text(name, source).into_owned()).collect();
        match names.is_empty() {
            true => parameters.push(("_".to_owned(), of)),
            false => parameters.extend(names.into_iter().map(|name| (name, of.clone()))),
        }
    }
    let of = field_text(node, "result", source);
    Declared { visibility: Some(visibility(&name)), name, of, parameters: Some(parameters), ..Declared::default() }
}

fn method(node: Node<'_>, source: &[u8]) -> Option<Extension> {
    let receiver = node.child_by_field_name("receiver").map(parts)?;
    let of = field_text(*receiver.first()?, "type", source)?;
    let of = of.trim_start_matches('*').split('[').next().unwrap_or_default().to_owned();
    Some(Extension { of, members: vec![operation(node, source)], ..Extension::default() })
}

/// Constants with their types; one without a type and a value goes on with the type before it.
fn listed(node: Node<'_>, source: &[u8], out: &mut Vec<(String, String)>) {
    let mut of: Option<String> = None;
    for spec in parts(node).into_iter().filter(|part| part.kind() == "const_spec") {
        let own = field_text(spec, "type", source);
        if own.is_some() || spec.child_by_field_name("value").is_some() {
            of = own;
        }
        let mut cursor = spec.walk();
        let names = spec.children_by_field_name("name", &mut cursor).filter(|name| name.kind() == "identifier");
        let names: Vec<String> = names.map(|name| text(name, source).into_owned()).filter(|name| name != "_").collect();
        out.extend(of.iter().flat_map(|of| names.iter().map(move |name| (of.clone(), name.clone()))));
    }
}

//! Classifiers of TypeScript and JavaScript: classes, interfaces, enumerations, and types that are objects.

use super::{Classifier, Declarations, Declared, comment_before, inner, part};
use crate::code::syntax::{Go, field_text, parts, text, tokens, visit};
use bathygram_core::model::{ElementKind, Verb};
use tree_sitter::Node;

/// Reads a module.
pub(super) fn read(root: Node<'_>, source: &[u8], out: &mut Declarations) {
    visit(root, &mut |node| {
        let classifier = match node.kind() {
            "class_declaration" | "abstract_class_declaration" => class(node, source),
            "interface_declaration" => interface(node, source),
            "enum_declaration" => enumeration(node, source),
            "type_alias_declaration" => record(node, source),
            // What functions declare for themselves is theirs.
            "function_declaration"
            | "method_definition"
            | "arrow_function"
            | "function_expression"
            | "generator_function_declaration" => return Go::Past,
            _ => return Go::Into,
        };
        // An interface may be written in several pieces.
        if let Some(classifier) = classifier {
            let is_same = |known: &&mut Classifier| known.name == classifier.name && known.kind == classifier.kind;
            match out.classifiers.iter_mut().find(is_same).filter(|known| known.kind == ElementKind::Interface) {
                Some(known) => classifier.members.into_iter().for_each(|member| add(known, member)),
                None => out.classifiers.push(classifier),
            }
        }
        Go::Past
    });
}

fn add(classifier: &mut Classifier, member: Declared) {
    let is_same = |known: &Declared| known.name == member.name && known.is_static == member.is_static;
    if !classifier.members.iter().any(is_same) {
        classifier.members.push(member);
    }
}

fn classifier(node: Node<'_>, kind: ElementKind, source: &[u8]) -> Option<Classifier> {
    let mut classifier = Classifier::new(field_text(node, "name", source)?, kind, node);
    let parameters = node.child_by_field_name("type_parameters").map(parts).unwrap_or_default();
    let names: Vec<String> = parameters.into_iter().filter_map(|one| field_text(one, "name", source)).collect();
    classifier.parameters = (!names.is_empty()).then(|| names.join(", "));
    let outer = node.parent().filter(|parent| parent.kind() == "export_statement");
    classifier.is_public = outer.is_some();
    classifier.about = comment_before(outer.unwrap_or(node), source, &|said| said.starts_with("/**"));
    Some(classifier)
}

fn class(node: Node<'_>, source: &[u8]) -> Option<Classifier> {
    let mut classifier = classifier(node, ElementKind::Class, source)?;
    classifier.is_abstract = node.kind() == "abstract_class_declaration";
    if let Some(heritage) = part(node, "class_heritage") {
        let clauses = parts(heritage);
        for clause in &clauses {
            match clause.kind() {
                "extends_clause" => {
                    let value = field_text(*clause, "value", source);
                    classifier.bases.extend(value.filter(|said| is_name(said)).map(|name| (Verb::Extends, name)));
                }
                "implements_clause" => {
                    let all = parts(*clause).into_iter().map(|one| (Verb::Implements, text(one, source).into_owned()));
                    classifier.bases.extend(all);
                }
                _ => {
                    let said = text(*clause, source).into_owned();
                    classifier.bases.extend(is_name(&said).then_some((Verb::Extends, said)));
                }
            }
        }
    }
    for item in node.child_by_field_name("body").map(parts).unwrap_or_default() {
        member(item, source, &mut classifier);
    }
    Some(classifier)
}

fn is_name(said: &str) -> bool {
    said.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '.' | '$'))
}

fn interface(node: Node<'_>, source: &[u8]) -> Option<Classifier> {
    let mut classifier = classifier(node, ElementKind::Interface, source)?;
    let bases = parts(node).into_iter().filter(|said| matches!(said.kind(), "extends_type_clause" | "extends_clause"));
    let bases = bases.flat_map(parts).map(|one| (Verb::Extends, text(one, source).into_owned()));
    classifier.bases = bases.collect();
    for item in node.child_by_field_name("body").map(parts).unwrap_or_default() {
        member(item, source, &mut classifier);
    }
    Some(classifier)
}

fn enumeration(node: Node<'_>, source: &[u8]) -> Option<Classifier> {
    let mut classifier = classifier(node, ElementKind::Enum, source)?;
    for value in node.child_by_field_name("body").map(parts).unwrap_or_default() {
        let name = match value.kind() {
            "enum_assignment" => field_text(value, "name", source),
            "property_identifier" | "string" => Some(text(value, source).into_owned()),
            _ => None,
        };
        let name = name.map(|name| name.trim_matches(['"', '\'']).to_owned());
        classifier.members.extend(name.map(|name| Declared { name, ..Declared::default() }));
    }
    Some(classifier)
}

/// `type A = { … }` is a record; other types are only names.
fn record(node: Node<'_>, source: &[u8]) -> Option<Classifier> {
    let value = node.child_by_field_name("value").filter(|value| value.kind() == "object_type")?;
    let mut classifier = classifier(node, ElementKind::Record, source)?;
    parts(value).into_iter().for_each(|item| member(item, source, &mut classifier));
    Some(classifier)
}

fn member(item: Node<'_>, source: &[u8], classifier: &mut Classifier) {
    let Some(name_node) = item.child_by_field_name("name").or_else(|| item.child_by_field_name("property")) else {
        return;
    };
    // What is computed has no name that can be read.
    if name_node.kind() == "computed_property_name" {
        return;
    }
    let name = text(name_node, source).trim_matches(['"', '\'']).to_owned();
    let has = |word: &str| tokens(item).iter().any(|token| token.kind() == word);
    let said = part(item, "accessibility_modifier").map(|said| text(said, source).into_owned());
    let visibility = match said.as_deref() {
        Some("private") => '-',
        Some("protected") => '#',
        _ if name.starts_with('#') => '-',
        _ => '+',
    };
    let name = name.trim_start_matches('#').to_owned();
    let of = |field: &str| item.child_by_field_name(field).map(|of| inner(of, source, &[':']));
    let own = Declared {
        name,
        visibility: Some(visibility),
        is_static: has("static"),
        is_optional: has("?"),
        ..Declared::default()
    };
    match item.kind() {
        "public_field_definition" | "property_signature" | "field_definition" => {
            let is_abstract = has("abstract");
            let declared_type = of("type");
            add(classifier, Declared { of: declared_type, is_abstract, ..own });
        }
        // What is read or set by an operation is an attribute for those who use it.
        "method_definition" | "abstract_method_signature" if has("get") || has("set") => {
            let of = of("return_type");
            add(classifier, Declared { of, ..own });
        }
        "method_definition" | "abstract_method_signature" | "method_signature" => {
            let all = item.child_by_field_name("parameters").map(parts).unwrap_or_default();
            let is_maker = own.name == "constructor";
            for one in all.iter().filter(|_| is_maker) {
                own_attribute(*one, source, classifier);
            }
            let parameters = all.into_iter().filter_map(|one| parameter(one, source)).collect();
            let is_abstract = item.kind() == "abstract_method_signature"
                || item.kind() == "method_signature" && classifier.kind == ElementKind::Interface;
            let of = of("return_type").filter(|of| of != "void");
            add(classifier, Declared { of, parameters: Some(parameters), is_abstract, is_optional: false, ..own });
        }
        _ => {}
    }
}

/// A parameter of a constructor that is an attribute, too.
fn own_attribute(one: Node<'_>, source: &[u8], classifier: &mut Classifier) {
    let said = part(one, "accessibility_modifier").map(|said| text(said, source).into_owned());
    let is_readonly = tokens(one).iter().any(|token| token.kind() == "readonly");
    if said.is_none() && !is_readonly {
        return;
    }
    let visibility = match said.as_deref() {
        Some("private") => '-',
        Some("protected") => '#',
        _ => '+',
    };
    if let Some((name, of)) = parameter(one, source) {
        let of = (!of.is_empty()).then_some(of);
        let is_optional = one.kind() == "optional_parameter";
        add(classifier, Declared { name, visibility: Some(visibility), of, is_optional, ..Declared::default() });
    }
}

fn parameter(one: Node<'_>, source: &[u8]) -> Option<(String, String)> {
    let pattern = match one.kind() {
        "required_parameter" | "optional_parameter" => one.child_by_field_name("pattern")?,
        "identifier" | "rest_pattern" | "object_pattern" | "array_pattern" => one,
        "assignment_pattern" => one.child_by_field_name("left")?,
        _ => return None,
    };
    let name = match pattern.kind() {
        "object_pattern" | "array_pattern" => "options".to_owned(),
        _ => text(pattern, source).trim_start_matches('.').to_owned(),
    };
    let of = one.child_by_field_name("type").map_or(String::new(), |of| inner(of, source, &[':']));
    (name != "this").then_some((name, of))
}

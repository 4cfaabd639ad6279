//! Classifiers of Python: classes, with what their bodies and `__init__` say.

use super::{Classifier, Declarations, Declared, sentence};
use crate::code::syntax::{Go, field_text, parts, text, visit};
use bathygram_core::model::{ElementKind, Verb};
use tree_sitter::Node;

/// Bases that say what kind of classifier a class is, and are none of its own.
const ENUMS: [&str; 6] = ["Enum", "IntEnum", "StrEnum", "Flag", "IntFlag", "ReprEnum"];
const RECORDS: [&str; 2] = ["NamedTuple", "TypedDict"];
/// Bases that say nothing in a picture.
const SILENT: [&str; 5] = ["object", "Generic", "ABC", "Protocol", "ABCMeta"];

/// Reads a module.
pub(super) fn read(root: Node<'_>, source: &[u8], out: &mut Declarations) {
    // Classes around, with the byte at which each ends.
    let mut around: Vec<(usize, usize)> = Vec::new();
    visit(root, &mut |node| {
        while around.last().is_some_and(|(_, end)| node.start_byte() >= *end) {
            around.pop();
        }
        match node.kind() {
            "class_definition" => {
                if let Some(mut classifier) = class(node, source) {
                    classifier.outer = around.last().map(|(number, _)| *number);
                    out.classifiers.push(classifier);
                    around.push((out.classifiers.len() - 1, node.end_byte()));
                }
                Go::Into
            }
            // What functions declare for themselves is theirs.
            "function_definition" | "lambda" => Go::Past,
            _ => Go::Into,
        }
    });
}

fn decorators(node: Node<'_>, source: &[u8]) -> Vec<String> {
    let around = node.parent().filter(|parent| parent.kind() == "decorated_definition").map(parts).unwrap_or_default();
    let said = around.into_iter().filter(|part| part.kind() == "decorator");
    said.map(|part| text(part, source).trim_start_matches('@').split('(').next().unwrap_or_default().trim().to_owned())
        .collect()
}

fn last(name: &str) -> &str {
    name.split('[').next().unwrap_or(name).rsplit('.').next().unwrap_or(name).trim()
}

fn class(node: Node<'_>, source: &[u8]) -> Option<Classifier> {
    let mut classifier = Classifier::new(field_text(node, "name", source)?, ElementKind::Class, node);
    classifier.is_public = !classifier.name.starts_with('_');
    let bases = node.child_by_field_name("superclasses").map(parts).unwrap_or_default();
    for base in bases.into_iter().filter(|base| !base.kind().contains("comment")) {
        if base.kind() == "keyword_argument" {
            classifier.is_abstract |= text(base, source).contains("ABCMeta");
            continue;
        }
        let said = text(base, source).into_owned();
        let name = last(&said);
        match name {
            name if ENUMS.contains(&name) => classifier.kind = ElementKind::Enum,
            name if RECORDS.contains(&name) => classifier.kind = ElementKind::Record,
            "Protocol" => classifier.kind = ElementKind::Interface,
            "ABC" => classifier.is_abstract = true,
            _ => {}
        }
        if matches!(name, "Generic" | "Protocol") && said.contains('[') {
            classifier.parameters = said.split_once('[').map(|(_, inside)| inside.trim_end_matches(']').to_owned());
        }
        let is_own = !SILENT.contains(&name) && !ENUMS.contains(&name) && !RECORDS.contains(&name);
        classifier.bases.extend((is_own && base.kind() != "list_splat").then_some((Verb::Extends, said)));
    }
    let parameters = node.child_by_field_name("type_parameters");
    classifier.parameters = parameters.map(|said| super::inner(said, source, &['[', ']'])).or(classifier.parameters);
    if decorators(node, source).iter().any(|said| matches!(last(said), "dataclass" | "dataclasses")) {
        classifier.kind = ElementKind::Record;
    }
    let body = node.child_by_field_name("body").map(parts).unwrap_or_default();
    classifier.about = body.first().and_then(|first| docstring(*first, source));
    for statement in body {
        member(statement, source, &mut classifier);
    }
    // What a class is made of: an abstract operation makes it abstract.
    classifier.is_abstract |=
        classifier.kind == ElementKind::Class && classifier.members.iter().any(|member| member.is_abstract);
    Some(classifier)
}

fn docstring(statement: Node<'_>, source: &[u8]) -> Option<String> {
    let said = statement.named_child(0).filter(|said| said.kind() == "string")?;
    let content = parts(said).into_iter().find(|part| part.kind() == "string_content")?;
    sentence(&text(content, source))
}

fn visibility(name: &str) -> char {
    match name {
        name if name.starts_with("__") && name.ends_with("__") => '+',
        name if name.starts_with("__") => '-',
        name if name.starts_with('_') => '#',
        _ => '+',
    }
}

fn add(classifier: &mut Classifier, member: Declared) {
    if !classifier.members.iter().any(|known| known.name == member.name) {
        classifier.members.push(member);
    }
}

fn member(statement: Node<'_>, source: &[u8], classifier: &mut Classifier) {
    match statement.kind() {
        "expression_statement" => {
            for assignment in parts(statement).into_iter().filter(|part| part.kind() == "assignment") {
                attribute(assignment, source, classifier);
            }
        }
        "function_definition" => operation(statement, source, classifier),
        "decorated_definition" => {
            if let Some(function) = parts(statement).into_iter().find(|part| part.kind() == "function_definition") {
                operation(function, source, classifier);
            }
        }
        // Members may be there for some versions only.
        "if_statement" | "try_statement" | "else_clause" | "elif_clause" | "except_clause" | "block" => {
            parts(statement).into_iter().for_each(|inner| member(inner, source, classifier));
        }
        _ => {}
    }
}

fn attribute(assignment: Node<'_>, source: &[u8], classifier: &mut Classifier) {
    // `a = b = value` is two.
    if let Some(inner) = assignment.child_by_field_name("right").filter(|right| right.kind() == "assignment") {
        attribute(inner, source, classifier);
    }
    let Some(left) = assignment.child_by_field_name("left").filter(|left| left.kind() == "identifier") else { return };
    let name = text(left, source).into_owned();
    let of = field_text(assignment, "type", source);
    if classifier.kind == ElementKind::Enum {
        if !name.starts_with('_') {
            add(classifier, Declared { name, ..Declared::default() });
        }
        return;
    }
    // A value in the body of a class belongs to the class, unless a type says that each instance has one.
    let is_static = of.is_none() || of.as_deref().is_some_and(|of| of.contains("ClassVar"));
    add(classifier, Declared { visibility: Some(visibility(&name)), name, of, is_static, ..Declared::default() });
}

fn operation(function: Node<'_>, source: &[u8], classifier: &mut Classifier) {
    let name = field_text(function, "name", source).unwrap_or_default();
    let said = decorators(function, source);
    let has = |word: &str| said.iter().any(|said| last(said) == word);
    // The setter of a property, and what overloads only types.
    if said.iter().any(|said| said.ends_with(".setter") || said.ends_with(".deleter") || last(said) == "overload") {
        return;
    }
    let of = field_text(function, "return_type", source).filter(|of| of != "None");
    let is_abstract = has("abstractmethod") || has("abstractproperty");
    let own =
        Declared { visibility: Some(visibility(&name)), name: name.clone(), of, is_abstract, ..Declared::default() };
    if has("property") || has("cached_property") || has("abstractproperty") {
        add(classifier, own);
        return;
    }
    let is_static = has("staticmethod") || has("classmethod");
    let all = function.child_by_field_name("parameters").map(parts).unwrap_or_default();
    let mut parameters: Vec<(String, String)> = all.iter().filter_map(|one| parameter(*one, source)).collect();
    if !has("staticmethod") && !parameters.is_empty() {
        parameters.remove(0);
    }
    if name == "__init__" {
        let body = function.child_by_field_name("body");
        body.into_iter().for_each(|body| own_attributes(body, source, &parameters, classifier));
    }
    add(classifier, Declared { parameters: Some(parameters), is_static, ..own });
}

fn parameter(node: Node<'_>, source: &[u8]) -> Option<(String, String)> {
    let of = field_text(node, "type", source).unwrap_or_default();
    let name = match node.kind() {
        "identifier" | "list_splat_pattern" | "dictionary_splat_pattern" => text(node, source).into_owned(),
        "typed_parameter" => text(node.named_child(0)?, source).into_owned(),
        "default_parameter" | "typed_default_parameter" => field_text(node, "name", source)?,
        _ => return None,
    };
    Some((name, of))
}

/// `self.name = …` in what makes an instance: the type is what it says, that of the parameter, or that of what is called.
fn own_attributes(body: Node<'_>, source: &[u8], parameters: &[(String, String)], classifier: &mut Classifier) {
    visit(body, &mut |node| {
        if matches!(node.kind(), "function_definition" | "class_definition" | "lambda") {
            return Go::Past;
        }
        if node.kind() != "assignment" {
            return Go::Into;
        }
        let left = node.child_by_field_name("left").filter(|left| left.kind() == "attribute");
        let Some(left) = left.filter(|left| field_text(*left, "object", source).as_deref() == Some("self")) else {
            return Go::Into;
        };
        let name = field_text(left, "attribute", source).unwrap_or_default();
        let given = field_text(node, "right", source).unwrap_or_default();
        // `given or otherwise` is of the type of what is given.
        let first = given.split(" or ").next().unwrap_or_default();
        let of_parameter =
            || parameters.iter().find(|(name, of)| name == first && !of.is_empty()).map(|(_, of)| of.clone());
        let called = || {
            let right = node.child_by_field_name("right").filter(|right| right.kind() == "call")?;
            let function = field_text(right, "function", source)?;
            last(&function).starts_with(char::is_uppercase).then_some(function)
        };
        let of = field_text(node, "type", source).or_else(of_parameter).or_else(called);
        add(classifier, Declared { visibility: Some(visibility(&name)), name, of, ..Declared::default() });
        Go::Into
    });
}

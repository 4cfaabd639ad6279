//! The phrases that lines are made of: names, paths, texts in quotes, clauses, traits.

use crate::model::{
    Diagram, Element, ElementId, ElementKind, EndText, NameIndex, Properties, Selector, Verb, path_to, words,
};
use crate::source::Span;
use crate::syntax::{Label, Run, RunStyle, Trait};
use crate::vocabulary::TraitWord;

/// A name, in backquotes where it would not be read as one otherwise.
pub(super) fn name(name: &str, verbs: &[&str]) -> String {
    let starts = name.starts_with(|c: char| c.is_alphabetic() || c == '_');
    let is_plain = starts && name.chars().all(|c| c.is_alphanumeric() || c == '_' || c == '-');
    if is_plain && !verbs.contains(&name) {
        return name.to_owned();
    }
    format!("`{}`", name.replace(['`', '\n', '\r'], "'"))
}

/// Names with dots between them, each as it is written.
pub(super) fn dotted(path: &str, verbs: &[&str]) -> String {
    path.split('.').map(|part| name(part, verbs)).collect::<Vec<_>>().join(".")
}

/// A text in quotes: as it was written, where its runs do not say.
pub(super) fn text(label: &Label) -> String {
    match &label.written {
        Some(written) if is_closed(written) => written.to_string(),
        Some(written) => format!("{written}\""),
        None => format!("\"{}\"", label.runs.iter().map(styled).collect::<String>()),
    }
}

/// Whether a text ends with its own quote.
fn is_closed(written: &str) -> bool {
    let is_block = written.starts_with("\"\"\"");
    is_block || written.len() > 1 && written.ends_with('"') && !written.ends_with("\\\"")
}

/// Plain letters in quotes.
pub(crate) fn quoted(letters: &str) -> String {
    format!("\"{}\"", escaped(letters))
}

fn styled(run: &Run) -> String {
    // What stands between marks is not read again for styles, only for escapes.
    let inner = run.text.replace('\\', "\\\\").replace('"', "\\\"").replace('\n', "\\n");
    match run.style {
        RunStyle::Plain => escaped(&run.text),
        RunStyle::Emphasis => format!("*{inner}*"),
        RunStyle::Strong => format!("**{inner}**"),
        RunStyle::Code => format!("`{inner}`"),
        // These stand in formulas only, whose labels know how they were written.
        RunStyle::Below | RunStyle::Above => inner,
    }
}

fn escaped(letters: &str) -> String {
    let mut out = String::with_capacity(letters.len() + 2);
    for (at, c) in letters.char_indices() {
        match c {
            '\n' => out.push_str("\\n"),
            '"' | '\\' => out.extend(['\\', c]),
            '*' | '`' | '$' if might_open(&letters[at..], c) => out.extend(['\\', c]),
            '\r' => {}
            _ => out.push(c),
        }
    }
    out
}

/// Whether a mark might begin a style or a formula: it touches a letter, and the same mark follows.
fn might_open(rest: &str, mark: char) -> bool {
    let after = &rest[mark.len_utf8()..];
    !after.starts_with([' ', '\n']) && after.contains(mark)
}

/// Traits in round brackets, after a space; nothing if there are none.
pub(super) fn traits(list: &[Trait]) -> String {
    if list.is_empty() { String::new() } else { format!(" ({})", trait_list(list)) }
}

/// Traits with commas between them.
pub(super) fn trait_list(list: &[Trait]) -> String {
    list.iter().map(one_trait).collect::<Vec<_>>().join(", ")
}

fn one_trait(t: &Trait) -> String {
    let values = t.values.iter().map(|v| value(&v.value));
    std::iter::once(t.word.value.clone()).chain(values).collect::<Vec<_>>().join(" ")
}

/// A value of a trait or a property: bare where that reads the same.
pub(super) fn value(value: &str) -> String {
    let joins = |c: char| c.is_alphanumeric() || "_-.#/:+*%&<>=@!?^~".contains(c);
    let starts = value.starts_with(|c: char| c.is_alphanumeric() || "_-.#/".contains(c)) && !value.starts_with("//");
    if starts && value.chars().all(joins) { value.to_owned() } else { quoted(value) }
}

/// The selector of a rule.
pub(super) fn selector(selector: &Selector) -> String {
    match selector {
        Selector::Name(path) => {
            let is_word =
                ElementKind::from_word(path).is_some() || Verb::from_word(path).is_some() || path == "picture";
            let plain = dotted(path, &[]);
            if !is_word && !plain.contains('`') { plain } else { format!("`{}`", path.replace('`', "'")) }
        }
        Selector::Tag(tag) => format!("tag {}", name(tag, &[])),
        Selector::Kind(_) | Selector::Verb(_) | Selector::Picture => selector.to_string(),
    }
}

/// A label after a space; nothing without one.
pub(super) fn label(label: Option<&Label>) -> String {
    label.map_or(String::new(), |label| format!(" {}", text(label)))
}

/// A clause with a text, after a space; nothing without one.
pub(super) fn clause(word: &str, label: Option<&Label>) -> String {
    label.map_or(String::new(), |label| format!(" {word} {}", text(label)))
}

/// The names of a diagram's elements as one writes them.
pub(super) struct Naming<'a> {
    pub(super) diagram: &'a Diagram,
    names: NameIndex,
    pub(super) verbs: &'static [&'static str],
    /// The kind of elements that a bare label declares.
    pub(super) usual: ElementKind,
}

impl<'a> Naming<'a> {
    pub(super) fn of(diagram: &'a Diagram) -> Self {
        let (words, usual) = words(diagram.kind);
        Self { diagram, names: NameIndex::of(diagram), verbs: words.verbs, usual }
    }

    /// The name of an element where it is declared; empty if it has none.
    pub(super) fn own(&self, element: &Element) -> String {
        if element.name.is_empty() { String::new() } else { name(&element.name, self.verbs) }
    }

    /// The shortest path that names an element, written in the body of another.
    pub(super) fn path(&self, id: ElementId, written_in: Option<ElementId>) -> String {
        let path = path_to(self.diagram, &self.names, id, written_in);
        let names = path.names.iter().map(|n| if n.by_label { quoted(&n.text) } else { name(&n.text, self.verbs) });
        names.collect::<Vec<_>>().join(".")
    }

    /// Paths with commas between them.
    pub(super) fn paths(&self, ids: &[ElementId], written_in: Option<ElementId>) -> String {
        super::sets::folded(ids.iter().map(|id| self.path(*id, written_in)).collect())
    }
}

/// One end of a statement: `[multiplicity] name [at port] [as role]`.
pub(super) fn end(path: String, text: &EndText) -> String {
    let written = |s: &String| if name(s, &[]).starts_with('`') { quoted(s) } else { s.clone() };
    let multiplicity = text.multiplicity.as_ref().map(|m| format!("{m} ")).unwrap_or_default();
    let port = text.port.as_ref().map(|p| format!(" at {}", written(p))).unwrap_or_default();
    let role = text.role.as_ref().map(|r| format!(" as {}", written(r))).unwrap_or_default();
    format!("{multiplicity}{path}{port}{role}")
}

/// `kind name "Label"`; the kind is left out before a bare label of the usual kind, unless it was written.
pub(super) fn declared(element: &Element, kind: &str, names: &str, usual: ElementKind) -> String {
    let starts_with_label = element.label.as_ref().is_some_and(|l| l.span.start == element.span.start);
    if names.is_empty() && element.kind == usual && starts_with_label {
        return label(element.label.as_ref()).trim_start().to_owned();
    }
    let names = if names.is_empty() { String::new() } else { format!(" {names}") };
    format!("{kind}{names}{}", label(element.label.as_ref()))
}

/// The properties of an element that its traits do not give already, as lines.
pub(super) fn properties(element: &Element, lines: &mut super::lines::Lines) {
    let Properties { about, built, link, owner, code, origin, icon, tags } = &*element.properties;
    let is_trait = |word: &str| element.traits.iter().any(|t| t.word.value == word);
    let texts =
        [("about", about), ("built", built), ("link", link), ("code", code), ("owner", owner), ("origin", origin)];
    for (word, label) in texts.into_iter().filter(|(word, _)| !is_trait(word)) {
        let Some(label) = label else { continue };
        lines.push(label.span, format!("{word} {}", text(label)));
    }
    let by_trait =
        element.traits.iter().filter(|t| t.meaning() == Some(TraitWord::Tag)).map(|t| t.values.len()).sum::<usize>();
    let after = |span: Span| Span { start: span.end, ..span };
    if let Some(own) = tags.get(by_trait..).filter(|own| !own.is_empty()) {
        let own: Vec<String> = own.iter().map(|tag| value(tag)).collect();
        lines.push(after(element.span), format!("tag {}", own.join(" ")));
    }
    if let Some(icon) = icon.as_ref().filter(|_| !is_trait("icon")) {
        lines.push(icon.span, format!("icon {}", value(&icon.value)));
    }
}

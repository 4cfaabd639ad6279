//! Reads a `sequence`. The body of a message is what happens while the receiver works on it.
//! Output: parties as elements, messages as relations, and the tree of what happens.

use super::build::{Build, Draft, LineKind};
use super::{Content, Diagram, ElementId, ElementKind, Event, Operand, Operator, Relation, RelationId, Verb};
use crate::diag::{Diagnostics, Message};
use crate::source::Spanned;
use crate::syntax::{Clauses, Cursor, Label, Line, LineId, Path};

/// Who works at this place of the text.
#[derive(Clone, Copy)]
struct Scope {
    /// Who carries out the lines here.
    worker: Option<ElementId>,
    /// Who is answered by `answers` without an object.
    caller: Option<ElementId>,
    /// Whether the lines are those of the block itself.
    is_block: bool,
}

/// Reads the lines of the block into a diagram.
pub(super) fn read(mut build: Build<'_>, block: &Line, diags: &mut Diagnostics) -> Diagram {
    declare(&mut build, block, None, diags);
    let scope = Scope { worker: None, caller: None, is_block: true };
    let items = items(&mut build, &block.children, scope, diags);
    if let Content::Sequence(interaction) = &mut build.diagram.content {
        interaction.events = items;
    }
    build.finish(diags)
}

/// Declares the parties, and groups of them.
fn declare(build: &mut Build<'_>, parent: &Line, inside: Option<ElementId>, diags: &mut Diagnostics) {
    for id in &parent.children {
        let line = build.tree.line(*id);
        let mut cursor = build.cursor(line);
        match build.line_kind(&cursor) {
            LineKind::Kind(word) => {
                cursor.word();
                let kind = ElementKind::from_word(word).unwrap_or(ElementKind::Party);
                let (ids, _) = build.declaration(kind, &mut cursor, inside, diags);
                for id in &ids {
                    build.traits_as_properties(*id);
                    if kind == ElementKind::Group {
                        declare(build, line, Some(*id), diags);
                    } else {
                        properties(build, line, *id, diags);
                    }
                }
            }
            _ if inside.is_some() => diags.report(line.span, Message::GroupHoldsParties),
            _ => {}
        }
    }
}

fn properties(build: &mut Build<'_>, parent: &Line, id: ElementId, diags: &mut Diagnostics) {
    for child in &parent.children {
        let line = build.tree.line(*child);
        let mut cursor = build.cursor(line);
        match build.line_kind(&cursor) {
            LineKind::Property(word) => build.property(word, Some(id), &mut cursor, diags),
            _ => build.unknown_line(&cursor, diags),
        }
    }
}

fn items<'a>(build: &mut Build<'a>, ids: &[LineId], scope: Scope, diags: &mut Diagnostics) -> Vec<Event> {
    let mut out = Vec::new();
    let mut at = 0;
    while at < ids.len() {
        let line = build.tree.line(ids[at]);
        at += 1;
        let mut cursor = build.cursor(line);
        match build.line_kind(&cursor) {
            LineKind::Statement | LineKind::Verb(_) => out.extend(message(build, &mut cursor, line, scope, diags)),
            // Read before all messages.
            LineKind::Kind(_) if scope.is_block => {}
            LineKind::Kind(_) => diags.report(line.span, Message::PartyInside),
            LineKind::Keyword(word) => {
                let more = continued(build, &ids[at..], word);
                out.extend(keyword(build, word, line, &ids[at..at + more], scope, diags));
                at += more;
            }
            LineKind::Picture(word) => build.picture_word(word, line, None),
            LineKind::Property(word) => diags.report(line.span, Message::PropertyOfNothing { word }),
            LineKind::Text | LineKind::Unknown => {
                build.unknown_line(&cursor, diags);
                let below = build.below_unknown(line);
                out.extend(items(build, &below, Scope { is_block: false, ..scope }, diags));
            }
        }
    }
    out
}

/// How many of the next lines continue a fragment: `or`, `otherwise` after `when`, `and` after
/// `together`.
fn continued(build: &Build<'_>, ids: &[LineId], word: &str) -> usize {
    ids.iter().take_while(|id| goes_on(build, **id, word)).count()
}

/// Whether a line begins a further branch of what `word` began.
fn goes_on(build: &Build<'_>, id: LineId, word: &str) -> bool {
    let cursor = build.cursor(build.tree.line(id));
    let is_branch = matches!((word, cursor.peek()), ("when", Some("or" | "otherwise")) | ("together", Some("and")));
    // A party may be called as a branch begins.
    is_branch && !matches!(build.line_kind(&cursor), LineKind::Statement)
}

fn keyword<'a>(
    build: &mut Build<'a>, word: &'static str, line: &'a Line, more: &[LineId], scope: Scope, diags: &mut Diagnostics,
) -> Option<Event> {
    let mut cursor = build.cursor(line);
    let span = line.span;
    match word {
        "phase" | "pause" => {
            cursor.leaf("a phase or a pause", diags);
            cursor.word();
            let label = if word == "phase" { cursor.expect_label(word, diags) } else { cursor.label() };
            cursor.finish(&[], diags);
            match (word, label) {
                ("phase", Some(label)) => Some(Event::Phase { label, span }),
                ("pause", label) => Some(Event::Pause { label, span }),
                _ => None,
            }
        }
        "remark" => {
            let (across, label, clauses) = build.remark(&mut cursor, scope.worker, diags)?;
            Some(Event::Remark { across, label, left: clauses.has("left"), span })
        }
        "see" => {
            cursor.leaf("a reference", diags);
            reference(build, &mut cursor, diags)
        }
        "or" | "otherwise" | "and" => {
            let before = if word == "and" { "together" } else { "when" };
            diags.report(line.span, Message::WithoutOpening { word, before });
            // What it holds happens all the same.
            fragment(build, before, line, more, scope, diags)
        }
        _ => fragment(build, word, line, more, scope, diags),
    }
}

fn fragment<'a>(
    build: &mut Build<'a>, word: &str, line: &'a Line, more: &[LineId], scope: Scope, diags: &mut Diagnostics,
) -> Option<Event> {
    let lines: Vec<&'a Line> = std::iter::once(line).chain(more.iter().map(|id| build.tree.line(*id))).collect();
    let mut operands = Vec::new();
    for part in lines {
        let mut cursor = build.cursor(part);
        let first = cursor.word().map(|w| w.value).unwrap_or_default();
        match first.as_str() {
            "leave" if cursor.eat("when").is_none() => {
                diags.report(cursor.span(), Message::Expected { what: "when \"…\"", after: "leave" });
            }
            "in" if cursor.eat("order").is_none() => {
                diags.report(cursor.span(), Message::Expected { what: "order", after: "in" });
            }
            _ => {}
        }
        let guard = match first.as_str() {
            "when" | "or" => cursor.expect_label(&first, diags),
            "otherwise" => Some(cursor.label().unwrap_or_else(|| Label::plain("otherwise", part.span))),
            _ => cursor.label(),
        };
        cursor.finish(&[], diags);
        if part.children.is_empty() {
            diags.report(part.span, Message::EmptyPart);
        }
        let items = items(build, &part.children, Scope { is_block: false, ..scope }, diags);
        operands.push(Operand { guard, items, span: part.span });
    }
    let operator = match word {
        "when" if operands.len() > 1 => Operator::Alt,
        "when" => Operator::Opt,
        "repeat" => Operator::Loop,
        "together" => Operator::Par,
        "leave" => Operator::Break,
        "undivided" => Operator::Critical,
        "in" => Operator::Strict,
        _ => Operator::Neg,
    };
    Some(Event::Fragment { operator, operands, span: line.span })
}

fn reference(build: &mut Build<'_>, cursor: &mut Cursor<'_>, diags: &mut Diagnostics) -> Option<Event> {
    let span = cursor.line_span();
    cursor.word();
    let path = cursor.expect_path("see", diags)?;
    let mut across = Vec::new();
    if cursor.eat("across").is_some() {
        for path in cursor.paths("across", diags) {
            across.extend(build.resolve(&path, None, diags));
        }
    }
    let label = cursor.label().unwrap_or_else(|| Label::plain(path.text().replace('_', " "), path.span));
    cursor.finish(&[], diags);
    let sequence = Spanned { value: path.text(), span: path.span };
    Some(Event::Reference { sequence, label, across, span })
}

fn message<'a>(
    build: &mut Build<'a>, cursor: &mut Cursor<'a>, line: &'a Line, scope: Scope, diags: &mut Diagnostics,
) -> Vec<Event> {
    let span = cursor.line_span();
    let from = if let LineKind::Verb(verb) = build.line_kind(cursor) {
        let Some(worker) = scope.worker else {
            diags.report(span, Message::SubjectMissing { verb: verb.to_owned() });
            return Vec::new();
        };
        vec![worker]
    } else {
        let set = cursor.set("", diags);
        set.iter().filter_map(|end| end_of_message(build, &end.path, MessageEnd::Sender, diags)).collect()
    };
    let word = cursor.word().map(|w| w.value).unwrap_or_default();
    let verb = Verb::from_word(&word).unwrap_or(Verb::Sends);
    let to = objects(build, cursor, verb, &from, scope, diags);
    let clauses = cursor.clauses(build.words.clauses, diags);
    if verb == Verb::Does && clauses.label.is_none() {
        diags.report(span, Message::TextExpected { after: word, found: String::new() });
    }
    let pairs: Vec<(ElementId, ElementId)> = from
        .iter()
        .flat_map(|a| to.iter().map(move |b| (*a, *b)))
        .filter(|(a, b)| a != b || from.len() * to.len() == 1)
        .collect();
    if pairs.len() > 1 && !line.children.is_empty() {
        diags.report(span, Message::NoBody { what: "a statement on a set" });
    }
    let mut out = Vec::new();
    for (a, b) in pairs {
        if !build.has_room_for_relation(span, diags) {
            break;
        }
        let relation = build.relate(a, b, verb, span);
        beside_its_party(build, a, b);
        let made = &mut build.diagram.relations[relation.index()];
        made.label = clauses.label.clone();
        made.traits = clauses.traits.clone();
        let inner = Scope { worker: Some(b), caller: Some(a), is_block: false };
        let body = items(build, &line.children, inner, diags);
        let returning = clauses.text("returning").cloned();
        check_replies(build, relation, &returning, &body, diags);
        out.push(Event::Message {
            relation,
            body,
            returning,
            guard: clauses.text("when").cloned(),
            within: clauses.text("within").cloned(),
        });
    }
    out
}

fn objects(
    build: &mut Build<'_>, cursor: &mut Cursor<'_>, verb: Verb, from: &[ElementId], scope: Scope,
    diags: &mut Diagnostics,
) -> Vec<ElementId> {
    match verb {
        Verb::Does => from.to_vec(),
        Verb::Answers if cursor.at_text() || cursor.at_end() => match scope.caller {
            Some(caller) => vec![caller],
            None => {
                diags.report(cursor.line_span(), Message::NobodyToAnswer);
                Vec::new()
            }
        },
        _ => {
            let set = cursor.set(verb.word(), diags);
            set.iter().filter_map(|end| end_of_message(build, &end.path, MessageEnd::Receiver, diags)).collect()
        }
    }
}

/// An end of a message.
#[derive(Clone, Copy)]
enum MessageEnd {
    Sender,
    Receiver,
}

/// The party at an end; `lost` and `found` are elements of their own, one for each message.
fn end_of_message(build: &mut Build<'_>, path: &Path, side: MessageEnd, diags: &mut Diagnostics) -> Option<ElementId> {
    let plain = path.names.iter().all(|n| !n.quoted && !n.by_label);
    let kind = match (path.text().as_str(), side) {
        _ if !plain => return build.resolve(path, None, diags),
        ("found", MessageEnd::Sender) => ElementKind::Found,
        ("lost", MessageEnd::Receiver) => ElementKind::Lost,
        _ => return build.resolve(path, None, diags),
    };
    build.add(Draft::new(kind, "", None, None, path.span, &Clauses::default()), diags)
}

/// What stands for nowhere lies in the group of the party at the other end.
fn beside_its_party(build: &mut Build<'_>, a: ElementId, b: ElementId) {
    for (nowhere, party) in [(a, b), (b, a)] {
        if matches!(build.diagram.element(nowhere).kind, ElementKind::Lost | ElementKind::Found) {
            build.diagram.elements[nowhere.index()].parent = build.diagram.element(party).parent;
        }
    }
}

/// A reply needs a call, and one reply is enough.
fn check_replies(
    build: &Build<'_>, message: RelationId, returning: &Option<Label>, body: &[Event], diags: &mut Diagnostics,
) {
    let Relation { from, to, verb, span, .. } = *build.diagram.relation(message);
    let Some(reply) = returning else { return };
    if !matches!(verb, Verb::Calls | Verb::Sends | Verb::Creates) {
        diags.report(reply.span, Message::ReplyWithoutCall { verb: verb.word() });
    }
    let messages = body.iter().filter_map(|event| match event {
        Event::Message { relation, .. } => Some(build.diagram.relation(*relation)),
        _ => None,
    });
    if messages.into_iter().any(|m| m.verb == Verb::Answers && (m.from, m.to) == (to, from)) {
        diags.report(span, Message::TwoReplies);
    }
}

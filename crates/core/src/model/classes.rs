//! Reads a `classes` block: classifiers with members, packages, relations.

use super::build::{Build, LineKind};
use super::member::{self, ClassBody, Compartment, Member, TableConstraint};
use super::reference::Reference;
use super::table;
use super::{Content, Diagram, ElementId, ElementKind, Verb};
use crate::diag::{Diagnostics, Message, suggest};
use crate::syntax::{Clauses, Cursor, End, Line, LineId, Path};
use crate::vocabulary::TraitWord;

/// What refers to other elements, read after all declarations.
enum Later<'a> {
    Line(&'a Line, Option<ElementId>),
    Clause(ElementId, Verb, Path),
    Refers(ElementId, Reference, &'a Line),
}

/// Reads the lines of the block into a diagram.
pub(super) fn read(build: Build<'_>, block: &Line, diags: &mut Diagnostics) -> Diagram {
    let mut classes = Classes { build, later: Vec::new(), keys: Vec::new() };
    classes.declare(&block.children, None, diags);
    let Classes { mut build, later, .. } = classes;
    let mut refers = Vec::new();
    for entry in later {
        match entry {
            Later::Line(line, scope) => {
                let mut cursor = build.cursor(line);
                match build.line_kind(&cursor) {
                    LineKind::Keyword(_) => build.remark_element(&mut cursor, scope, diags),
                    _ => statement(&mut build, &mut cursor, line, scope, diags),
                }
            }
            Later::Clause(id, verb, path) => {
                if let Some(target) = build.resolve(&path, Some(id), diags) {
                    let relation = build.relate(id, target, verb, path.span);
                    build.diagram.relations[relation.index()].written_in = Some(id);
                }
            }
            Later::Refers(id, reference, line) => refers.push((id, reference, line.span)),
        }
    }
    table::relate(&mut build, refers, diags);
    build.finish(diags)
}

/// Classifiers that are being declared.
struct Classes<'a> {
    build: Build<'a>,
    later: Vec<Later<'a>>,
    /// The lines `key a, b` of the classifier that is being read.
    keys: Vec<Path>,
}

impl<'a> Classes<'a> {
    fn declare(&mut self, ids: &[LineId], inside: Option<ElementId>, diags: &mut Diagnostics) {
        for id in ids {
            let line = self.build.tree.line(*id);
            let mut cursor = self.build.cursor(line);
            match self.build.line_kind(&cursor) {
                LineKind::Statement | LineKind::Verb(_) | LineKind::Keyword("remark") => {
                    self.later.push(Later::Line(line, inside))
                }
                LineKind::Picture(word) => self.build.picture_word(word, line, inside),
                LineKind::Keyword("multiplicity") => {
                    cursor.word();
                    let is_crowfoot = cursor.eat("crowfoot").is_some();
                    if let Content::Classes(classes) = &mut self.build.diagram.content {
                        classes.crows_feet = is_crowfoot.then_some(line.span);
                    }
                    if !is_crowfoot {
                        let word = cursor.word().map(|w| w.value).unwrap_or_default();
                        let values = "`multiplicity crowfoot`, or leave the line out for figures";
                        diags.report(line.span, Message::BadValue { word, of: "multiplicity", values });
                    }
                    cursor.finish(&[], diags);
                }
                LineKind::Keyword(word) => {
                    diags.report(cursor.line_span(), Message::OnlyInside { word, place: "a class" })
                }
                LineKind::Property(word) => self.build.property(word, inside, &mut cursor, diags),
                LineKind::Kind("group") => {
                    cursor.word();
                    let (ids, _) = self.build.declaration(ElementKind::Group, &mut cursor, inside, diags);
                    if let Some(id) = ids.first() {
                        self.declare(&line.children, Some(*id), diags);
                    }
                }
                LineKind::Kind(word) => {
                    cursor.word();
                    let kind = ElementKind::from_word(word).unwrap_or(ElementKind::Class);
                    self.classifier(line, kind, &mut cursor, inside, diags);
                }
                LineKind::Text => self.classifier(line, ElementKind::Class, &mut cursor, inside, diags),
                LineKind::Unknown => {
                    self.build.unknown_line(&cursor, diags);
                    // What looks like a member of the class that the line failed to declare is left out.
                    let below = self.build.below_unknown(line);
                    let is_member =
                        |id: &LineId| member::is_member(self.build.cursor(self.build.tree.line(*id)).rest().value);
                    let below: Vec<LineId> = below.into_iter().filter(|id| !is_member(id)).collect();
                    self.declare(&below, inside, diags);
                }
            }
        }
    }

    fn classifier(
        &mut self, line: &'a Line, kind: ElementKind, cursor: &mut Cursor<'a>, inside: Option<ElementId>,
        diags: &mut Diagnostics,
    ) {
        let mut body = ClassBody::default();
        // Type parameters stand between the name and what follows; look ahead for them.
        let mut ahead = cursor.clone();
        if !ahead.at_text() && ahead.path().is_some() && ahead.type_parameters().is_some() {
            let path = cursor.path();
            body.parameters = cursor.type_parameters().map(|p| p.value);
            let clauses = cursor.clauses(self.build.words.clauses, diags);
            if let Some(path) = path {
                let span = cursor.line_span();
                let draft = super::build::Draft::new(kind, &path.text(), clauses.label.clone(), inside, span, &clauses);
                let ids: Vec<ElementId> = self.build.add(draft, diags).into_iter().collect();
                self.finish(line, &ids, body, &clauses, diags);
            }
            return;
        }
        let (ids, clauses) = self.build.declaration(kind, cursor, inside, diags);
        self.finish(line, &ids, body, &clauses, diags);
    }

    fn finish(
        &mut self, line: &'a Line, ids: &[ElementId], mut body: ClassBody, clauses: &Clauses, diags: &mut Diagnostics,
    ) {
        let keyword =
            clauses.traits.iter().find(|t| t.meaning() == Some(TraitWord::Keyword)).and_then(|t| t.values.first());
        body.keyword = keyword.map(|v| v.value.clone());
        body.instance_of = clauses.names("of").next().map(Path::text);
        for id in ids {
            self.build.traits_as_properties(*id);
            for (word, verb) in [("extends", Verb::Extends), ("implements", Verb::Implements)] {
                self.later.extend(clauses.names(word).map(|path| Later::Clause(*id, verb, path.clone())));
            }
            let mut own = body.clone();
            self.members(line, *id, &mut own, diags);
            let keys = std::mem::take(&mut self.keys);
            mark_key(&mut own, &keys, &self.build.diagram.element(*id).called(), diags);
            self.build.diagram.elements[id.index()].class = Some(Box::new(own));
        }
    }

    /// Takes a member in; what it refers to is looked for when all elements are known.
    fn member(&mut self, body: &mut ClassBody, member: Member, id: ElementId, line: &'a Line) {
        self.later.extend(member.refers.clone().map(|reference| Later::Refers(id, reference, line)));
        push(body, member);
    }

    /// Reads what is indented under a classifier.
    fn members(&mut self, parent: &'a Line, id: ElementId, body: &mut ClassBody, diags: &mut Diagnostics) {
        for child in &parent.children {
            let line = self.build.tree.line(*child);
            let mut cursor = self.build.cursor(line);
            if member::is_member(cursor.rest().value) {
                cursor.leaf("a member", diags);
                self.member(body, member::read(&mut cursor, diags), id, line);
                continue;
            }
            match self.build.line_kind(&cursor) {
                LineKind::Keyword("section") => {
                    cursor.word();
                    let title = cursor.label();
                    cursor.finish(&[], diags);
                    body.compartments.push(Compartment { title, members: Vec::new() });
                    self.members(line, id, body, diags);
                }
                LineKind::Keyword(word @ ("key" | "unique")) => {
                    cursor.leaf("a key", diags);
                    cursor.word();
                    let columns = cursor.paths(word, diags);
                    cursor.finish(&[], diags);
                    if word == "key" {
                        self.keys.extend(columns);
                    } else {
                        let unique = TableConstraint::Unique(columns.iter().map(Path::text).collect());
                        push(body, Member::of_table(unique, None, line.span));
                    }
                }
                LineKind::Keyword("refers") => {
                    cursor.leaf("a reference", diags);
                    cursor.word();
                    if let Some(member) = table::reference_line(&mut cursor, line, diags) {
                        self.member(body, member, id, line);
                    }
                }
                LineKind::Keyword("check") => {
                    cursor.leaf("a condition", diags);
                    cursor.word();
                    let condition = cursor.expect_label("check", diags);
                    cursor.finish(&[], diags);
                    let member = |label| Member::of_table(TableConstraint::Check(label), None, line.span);
                    condition.into_iter().for_each(|label| push(body, member(label)));
                }
                LineKind::Property(word) => self.build.property(word, Some(id), &mut cursor, diags),
                LineKind::Statement | LineKind::Verb(_) | LineKind::Keyword("remark") => {
                    self.later.push(Later::Line(line, Some(id)))
                }
                _ => self.build.unknown_line(&cursor, diags),
            }
        }
    }
}

/// Puts a member into the compartment opened last, or attributes before operations.
fn push(body: &mut ClassBody, member: Member) {
    let open = body.compartments.last().is_some_and(|c| c.title.is_some() || c.members.is_empty());
    if open || (body.compartments.last().is_some_and(|c| c.members[0].operation == member.operation)) {
        if let Some(last) = body.compartments.last_mut() {
            last.members.push(member);
        }
        return;
    }
    // An attribute after operations, or the reverse, still goes where it belongs.
    let plain = |c: &&mut Compartment| c.title.is_none() && c.members[0].operation == member.operation;
    if let Some(home) = body.compartments.iter_mut().find(plain) {
        home.members.push(member);
        return;
    }
    // Attributes stand before operations (UML 2.5.1, 11.4.4).
    let at = if member.operation { body.compartments.len() } else { 0 };
    body.compartments.insert(at, Compartment { title: None, members: vec![member] });
}

/// Marks the columns of a key, wherever the table has them.
fn mark_key(body: &mut ClassBody, columns: &[Path], table: &str, diags: &mut Diagnostics) {
    for path in columns {
        let column = path.text();
        let mut own = body.compartments.iter_mut().flat_map(|c| &mut c.members);
        if let Some(member) = own.find(|member| member.constraint.is_none() && member.name() == column) {
            member.key = true;
            continue;
        }
        let names: Vec<String> = body.members().map(Member::name).collect();
        let suggestion = suggest(&column, names.iter().map(String::as_str));
        diags.report(path.span, Message::UnknownColumn { table: table.to_owned(), column, suggestion });
    }
}

fn statement<'a>(
    build: &mut Build<'a>, cursor: &mut Cursor<'a>, line: &'a Line, scope: Option<ElementId>, diags: &mut Diagnostics,
) {
    let Some(subjects) = build.subjects(cursor, scope, diags) else { return };
    let word = cursor.word().map(|w| w.value).unwrap_or_default();
    let verb = Verb::from_word(&word).unwrap_or(Verb::Knows);
    let objects = build.ends(cursor, &word, scope, diags);
    let clauses = cursor.clauses(&[], diags);
    for (_, end) in subjects.iter().chain(&objects) {
        check_multiplicity(end, diags);
    }
    build.relate_sets([&subjects, &objects], (verb, scope), &clauses, cursor.line_span(), diags);
    build.remarks_under(line, subjects.first().map(|s| s.0), "a relation", diags);
}

fn check_multiplicity(end: &End, diags: &mut Diagnostics) {
    let Some(multiplicity) = &end.multiplicity else { return };
    if let Some((low, high)) = multiplicity.value.split_once("..") {
        let upside_down = match (low.parse::<u64>(), high.parse::<u64>()) {
            (Ok(low), Ok(high)) => low > high,
            (Err(_), _) => true,
            _ => false,
        };
        if upside_down {
            let span = multiplicity.span;
            diags.report(span, Message::BadMultiplicity { low: low.to_owned(), high: high.to_owned() });
        }
    }
}

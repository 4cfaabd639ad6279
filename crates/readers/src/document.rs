//! Facts as a model, which the core writes as text. Places of lines are numbers: everything has one of its own, in the order in
//! which it is written.

use crate::course;
use crate::facts::{Constraint, Facts, Link, LinkEnd, ProposedSheet, Said, Thing};
use crate::names::Names;
use bathygram_core::conform::{CodeClasses, Realm};
use bathygram_core::model::{
    Arrow, Branch, Choice, ChoiceWord, Chosen, ClassBody, Compartment, Content, Diagram, DiagramKind, Document,
    Element, ElementId, ElementKind, EndText, Event, LookRule, Member, Opening, Operand, Operator, Passage, Properties,
    Rare, Reference, Relation, RelationId, Selector, Sheet, ShownMembers, TableConstraint, Verb,
};
use bathygram_core::source::{SourceId, Span, Spanned};
use bathygram_core::syntax::{Label, Trait};
use std::collections::{BTreeMap, BTreeSet};

/// The colours of tags, in the order in which tags are seen; what has none of them is drawn as usual.
const COLOURS: [&str; 4] = ["ochre", "lagoon", "heather", "kelp"];
/// The colours of things, by what kind they are.
pub(crate) const FILLS: [&str; 4] = ["azure", "sand", "kelp", "heather"];
/// Tags that always look the same, whatever others there are: the colour, and how the line is.
const FIXED: [(&str, [&str; 2]); 5] = [
    ("circle", ["heather", "solid"]),
    ("types", ["azure", "dashed"]),
    ("bypass", ["ochre", "thick"]),
    ("cut", ["coral", "thick"]),
    ("failed", ["coral", "thick"]),
];

impl Facts {
    /// The model of what was found.
    pub fn document(&self) -> Document {
        let title = (!self.title.is_empty()).then(|| Label::plain(&self.title, Span::default()));
        let diagram = Diagram::new(self.kind, &self.name, title, place(0));
        let mut model = Model { facts: self, diagram, next: self.things.len() + 1 };
        model.things();
        model.references();
        model.links();
        model.course();
        let sheets = self.sheets.iter().map(|sheet| model.sheet(sheet)).collect();
        let looks = self.looks();
        let caption = self.caption.as_ref().map(|text| Label::plain(text, model.place()));
        let mut diagram = model.diagram;
        diagram.picture.caption = caption;
        // Colours that nobody explains say nothing.
        diagram.picture.legend = (!looks.is_empty()).then_some(place(model.next));
        Document { diagrams: vec![diagram], sheets, looks, ..Document::default() }
    }

    /// Classifiers with where each stands, for those who compare them with a design. `below` is where the folder of the code lies, seen
    /// from where patterns for paths begin.
    pub fn code_classes(mut self, below: &str) -> CodeClasses {
        let places = self.things.iter().map(|thing| thing.seen.to_string()).collect();
        if !below.is_empty() {
            self.things.iter_mut().for_each(|thing| thing.origin = format!("{below}/{}", thing.origin));
        }
        let diagram = self.document().diagrams.remove(0);
        CodeClasses { diagram, places, realm: Realm::Code }
    }

    /// Classes of data, for those who compare them with a design.
    pub fn data_classes(self) -> CodeClasses {
        CodeClasses { realm: Realm::Data, ..self.code_classes("") }
    }

    /// Comments at the lines of [`Facts::document`], by the byte at which what they say stands: how things were understood.
    pub fn comments(&self) -> BTreeMap<u32, String> {
        let guesses = self.things.iter().enumerate();
        let guesses = guesses.filter_map(|(i, thing)| Some((place(i + 1).start, thing.guess.clone()?)));
        if self.kind != DiagramKind::Classes {
            return guesses.collect();
        }
        let members = self.things.iter().flat_map(|thing| &thing.members).filter(|member| member.is_said());
        let members = (self.things.len() + 1..).zip(members);
        guesses.chain(members.filter_map(|(i, member)| Some((place(i).start, member.comment.clone()?)))).collect()
    }

    /// Colours for the tags of links.
    fn looks(&self) -> Vec<LookRule> {
        let mut seen: BTreeSet<&str> = BTreeSet::new();
        let all = self.links.iter().flat_map(|link| &link.tags).map(String::as_str);
        let tags: Vec<&str> = all.filter(|tag| seen.insert(tag)).collect();
        let fixed: Vec<_> = FIXED.into_iter().filter(|(tag, _)| tags.contains(tag)).collect();
        let others = tags.into_iter().filter(|tag| FIXED.iter().all(|(fixed, _)| fixed != tag));
        let others = others.zip(COLOURS).map(|(tag, colour)| (tag, [colour, "thick"]));
        let rule = |tag: &str, looks: Trait| LookRule {
            selector: Selector::Tag(tag.to_owned()),
            traits: vec![looks],
            span: Span::default(),
        };
        let fills = self.coloured.iter().zip(FILLS).map(|(tag, colour)| rule(tag, word("fill", &[colour])));
        fills.chain(others.chain(fixed).map(|(tag, line)| rule(tag, word("line", &line)))).collect()
    }
}

/// The place of a number.
fn place(number: usize) -> Span {
    Span::new(SourceId::new(0), number, number)
}

fn word(name: &str, values: &[&str]) -> Trait {
    let spanned = |text: &str| Spanned { value: text.to_owned(), span: Span::default() };
    Trait { word: spanned(name), values: values.iter().map(|value| spanned(value)).collect() }
}

struct Model<'a> {
    facts: &'a Facts,
    diagram: Diagram,
    /// The next free place.
    next: usize,
}

impl Model<'_> {
    fn place(&mut self) -> Span {
        self.next += 1;
        place(self.next - 1)
    }

    fn things(&mut self) {
        let mut names = Names::default();
        let facts = self.facts;
        // The number of a thing tells its place: comments are put by it.
        for (i, thing) in facts.things.iter().enumerate() {
            let element = self.element(thing, place(i + 1), &mut names);
            self.diagram.elements.push(element);
        }
        if facts.things.iter().any(|thing| thing.kind == ElementKind::Table)
            && let Content::Classes(classes) = &mut self.diagram.content
        {
            // The trade's notation for tables.
            classes.crows_feet = Some(place(0));
        }
        for (i, thing) in facts.things.iter().enumerate() {
            if let Some(remark) = &thing.remark {
                self.remark(ElementId(i as u32), remark);
            }
        }
    }

    fn element(&mut self, thing: &Thing, span: Span, names: &mut Names) -> Element {
        let text = |text: &String| Label::plain(text.clone(), Span { start: span.start, end: span.start, ..span });
        let is_step = self.facts.kind == DiagramKind::Flow;
        let name = match (thing.is_named, is_step) {
            (true, true) => names.give_short(thing.shown()),
            (true, false) => names.give(thing.called.as_ref().unwrap_or(&thing.origin)),
            (false, _) => String::new(),
        };
        let shown = thing.shown().to_owned();
        let label = (shown != name).then(|| Label::plain(shown.clone(), span));
        let is_tree = self.facts.kind == DiagramKind::Tree;
        let parent = thing.holder.map(|holder| ElementId(holder as u32)).filter(|_| !is_tree);
        let own = if name.is_empty() { shown } else { name.clone() };
        // What is only a box is no step of a path.
        let around = |id: &ElementId| self.diagram.element(*id).parent;
        let path = std::iter::successors(parent, around).find(|id| !self.diagram.element(*id).kind.is_box());
        let key = match path {
            Some(around) => format!("{}.{own}", self.diagram.element(around).key),
            None => own,
        };
        let Said { about, built, owner } = &thing.said;
        let [about, built, owner] = [about, built, owner].map(|said| said.as_ref().map(text));
        // By its origin it is found again, and told from what is written by hand.
        let has_origin = !matches!(thing.kind, ElementKind::Group | ElementKind::Found);
        let origin = has_origin.then(|| text(&thing.origin));
        let icon = thing.icon.clone().map(|value| Spanned { value, span });
        let icon_trait = thing.icon.as_deref().map(|icon| word("icon", &[icon]));
        let origin_trait = has_origin.then(|| word("origin", &[&thing.origin]));
        let keyword = thing.keyword.as_deref().map(|keyword| word("keyword", &[keyword]));
        let flags = [(thing.is_external, "external"), (thing.is_abstract, "abstract")];
        let flags = flags.into_iter().filter(|(is, _)| *is).map(|(_, said)| word(said, &[]));
        let traits: Vec<Trait> = icon_trait.into_iter().chain(keyword).chain(flags).chain(origin_trait).collect();
        let tags = thing.tags.clone();
        let properties: Rare<Properties> =
            Properties { about, built, owner, origin, icon, tags, ..Properties::default() }.into();
        let class = (self.facts.kind == DiagramKind::Classes).then(|| Box::new(self.body(thing)));
        Element { key, name, label, kind: thing.kind, parent, span, implicit: false, properties, traits, class }
    }

    /// Members in the order in which they were found.
    fn body(&mut self, thing: &Thing) -> ClassBody {
        let members = thing.members.iter().filter(|member| member.is_said()).map(|member| {
            let span = self.place();
            match &member.constraint {
                Some(constraint) => Member::of_table(table_constraint(constraint), None, span),
                None => Member {
                    is_static: member.is_static,
                    is_abstract: member.is_abstract,
                    key: member.key,
                    is_unique: member.is_unique,
                    is_nullable: member.is_nullable,
                    ..Member::of_text(member.text.clone(), span)
                },
            }
        });
        let members: Vec<Member> = members.collect();
        let compartments = if members.is_empty() { Vec::new() } else { vec![Compartment { title: None, members }] };
        ClassBody {
            keyword: thing.keyword.clone(),
            parameters: thing.parameters.clone(),
            compartments,
            ..ClassBody::default()
        }
    }

    /// What columns refer to, by the names that tables have here.
    fn references(&mut self) {
        for (i, thing) in self.facts.things.iter().enumerate() {
            let said = thing.members.iter().filter(|member| member.is_said()).enumerate();
            for (number, member) in said {
                let Some(refers) = &member.refers else { continue };
                let table = vec![self.diagram.elements[refers.to].name.clone()];
                let Some(body) = &mut self.diagram.elements[i].class else { continue };
                let Some(own) = body.compartments.iter_mut().flat_map(|part| &mut part.members).nth(number) else {
                    continue;
                };
                let columns = match &member.constraint {
                    Some(Constraint::Refers(columns)) => columns.clone(),
                    _ => vec![own.name()],
                };
                let reference = Reference {
                    targets: refers.columns.clone(),
                    on_delete: refers.on_delete,
                    on_update: refers.on_update,
                    ..Reference::new(columns, table)
                };
                *own = match &member.constraint {
                    Some(constraint) => Member::of_table(table_constraint(constraint), Some(reference), own.span),
                    None => Member { refers: Some(reference), ..own.clone() },
                };
            }
        }
    }

    fn sheet(&mut self, sheet: &ProposedSheet) -> Sheet {
        let title = Some(Label::plain(&sheet.title, Span::default()));
        let mut out = Sheet { title, ..Sheet::whole(&sheet.name, &self.facts.name, self.place()) };
        for (word, things) in [(ChoiceWord::Show, &sheet.shows), (ChoiceWord::Close, &sheet.closes)] {
            let ids: Vec<ElementId> = things.iter().map(|thing| ElementId(*thing as u32)).collect();
            if !ids.is_empty() {
                let chosen = Chosen::Elements(ids.clone());
                out.choose(Choice { word, chosen, distance: None, span: self.place() }, ids);
            }
        }
        let span = self.place();
        out.members = (sheet.members != ShownMembers::All).then_some(Spanned { value: sheet.members, span });
        out
    }

    /// A remark under what it is about.
    fn remark(&mut self, about: ElementId, text: &str) {
        let span = self.place();
        let id = ElementId(self.diagram.elements.len() as u32);
        self.diagram.elements.push(Element {
            key: format!("remark {}", id.0),
            name: String::new(),
            label: Some(Label::plain(text, span)),
            kind: ElementKind::Remark,
            parent: None,
            span,
            implicit: false,
            properties: Rare::default(),
            traits: Vec::new(),
            class: None,
        });
        let relation =
            Relation { written_in: Some(about), ..relation(&Link::new(0, Verb::Remarks, 0, Default::default()), span) };
        self.diagram.relations.push(Relation { from: id, to: about, ..relation });
    }

    fn links(&mut self) {
        let facts = self.facts;
        // Messages are told by their numbers.
        let remarks = std::mem::take(&mut self.diagram.relations);
        for link in &facts.links {
            let span = self.place();
            let mut relation = relation(link, span);
            // What a member says stands where that does.
            let said = link.member.and_then(|number| {
                let before = facts.things[link.from].members[..number].iter().filter(|member| member.is_said()).count();
                self.diagram.elements[link.from].class.as_ref().and_then(|body| body.members().nth(before))
            });
            if let Some(member) = said {
                (relation.span, relation.written_in) = (member.span, Some(ElementId(link.from as u32)));
            }
            self.diagram.relations.push(relation);
        }
        if facts.kind == DiagramKind::Tree {
            for (i, thing) in facts.things.iter().enumerate() {
                let Some(holder) = thing.holder else { continue };
                let link = Link::new(holder, Verb::Holds, i, Default::default());
                self.diagram.relations.push(relation(&link, self.diagram.elements[i].span));
            }
        }
        self.diagram.relations.extend(remarks);
    }

    fn course(&mut self) {
        let facts = self.facts;
        match facts.kind {
            DiagramKind::Sequence => {
                let events = facts.happenings.iter().map(|happening| self.event(happening)).collect();
                if let Content::Sequence(interaction) = &mut self.diagram.content {
                    interaction.events = events;
                }
            }
            DiagramKind::Flow => {
                let lanes = facts.things.iter().enumerate().filter(|(_, thing)| thing.kind == ElementKind::Lane);
                let mut passages: Vec<Passage> = lanes.map(|(i, _)| Passage::Container(ElementId(i as u32))).collect();
                passages.extend(facts.passages.iter().map(|passage| self.passage(passage)));
                if let Content::Flow(procedure) = &mut self.diagram.content {
                    procedure.passages = passages;
                }
            }
            _ => {}
        }
    }

    fn event(&mut self, happening: &course::Happening) -> Event {
        match happening {
            course::Happening::Message(message) => {
                let label = |text: &String| Label::plain(text, Span::default());
                let (returning, within) = (message.returning.as_ref().map(label), message.within.as_ref().map(label));
                let body = message.body.iter().map(|inner| self.event(inner)).collect();
                Event::Message { relation: RelationId(message.link as u32), body, returning, guard: None, within }
            }
            course::Happening::Repeat { label, body } => {
                let operand = self.operand(Some(label), body);
                Event::Fragment { operator: Operator::Loop, span: operand.span, operands: vec![operand] }
            }
            course::Happening::Together(parts) => {
                let operands: Vec<Operand> = parts.iter().map(|part| self.operand(None, part)).collect();
                let span = operands.first().map_or(Span::default(), |operand| operand.span);
                Event::Fragment { operator: Operator::Par, operands, span }
            }
        }
    }

    fn operand(&mut self, guard: Option<&String>, body: &[course::Happening]) -> Operand {
        let span = self.place();
        let guard = guard.map(|text| Label::plain(text, span));
        Operand { guard, items: body.iter().map(|inner| self.event(inner)).collect(), span }
    }

    fn passage(&mut self, passage: &course::Passage) -> Passage {
        let id = |number: usize| ElementId(number as u32);
        match passage {
            course::Passage::Step(thing) => Passage::Step(id(*thing)),
            course::Passage::In { lane, body } => {
                let span = self.place();
                Passage::Within { place: id(*lane), span, body: self.passages(body) }
            }
            course::Passage::Decide { thing, branches } => {
                let branches = branches.iter().map(|b| self.branch(b.label.as_ref(), true, &b.body)).collect();
                Passage::Decide(id(*thing), branches)
            }
            course::Passage::Together(parts) => {
                Passage::Together(parts.iter().map(|part| self.branch(None, false, part)).collect())
            }
            course::Passage::Repeat { thing, body } => Passage::Repeat { first: id(*thing), body: self.passages(body) },
            course::Passage::Go(thing) => {
                let span = self.place();
                Passage::Go(Arrow { from: Vec::new(), to: vec![id(*thing)], label: None, traits: Vec::new(), span })
            }
        }
    }

    fn passages(&mut self, body: &[course::Passage]) -> Vec<Passage> {
        body.iter().map(|inner| self.passage(inner)).collect()
    }

    fn branch(&mut self, label: Option<&String>, decides: bool, body: &[course::Passage]) -> Branch {
        let span = self.place();
        let opening = if decides && label.is_none() { Opening::Otherwise } else { Opening::Labelled };
        let said = label.cloned().or_else(|| (opening == Opening::Otherwise).then(|| "otherwise".to_owned()));
        Branch { label: said.map(|text| Label::plain(text, span)), opening, body: self.passages(body), span }
    }
}

fn relation(link: &Link, span: Span) -> Relation {
    let end = |end: &LinkEnd| {
        EndText { port: end.port.clone(), multiplicity: end.multiplicity.clone(), role: end.role.clone() }.into()
    };
    let tags: Vec<&str> = link.tags.iter().map(String::as_str).collect();
    Relation {
        key: String::new(),
        from: ElementId(link.from as u32),
        to: ElementId(link.to as u32),
        verb: link.verb,
        label: link.label.as_ref().map(|text| Label::plain(text.clone(), span)),
        start: None,
        over: None,
        ends: link.ends.each_ref().map(end),
        transition: None,
        written_in: None,
        span,
        traits: if tags.is_empty() { Vec::new() } else { vec![word("tag", &tags)] },
    }
}

fn table_constraint(constraint: &Constraint) -> TableConstraint {
    match constraint {
        Constraint::Unique(columns) => TableConstraint::Unique(columns.clone()),
        Constraint::Refers(columns) => TableConstraint::Refers(columns.clone()),
        Constraint::Check(condition) => TableConstraint::Check(Label::plain(condition, Span::default())),
    }
}

//! Resolves rules and traits. More particular rules win (name, tag, kind or verb), then later ones;
//! a trait on the line wins over all.

use super::colour::Colour;
use super::paint::{Ground, Hue, Paint, Tone};
use super::rules::{Rules, There};
use crate::diag::{Diagnostics, Message, suggest};
use crate::model::{Diagram, DiagramKind, Document, Element, ElementKind, LookRule, Relation, Selector, Verb};
use crate::syntax::Trait;
use crate::views::{ElementView, View};
use crate::vocabulary::{EndMark, TraitWord};

/// How a line is broken.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Dash {
    /// Not at all.
    #[default]
    Solid,
    /// Dashes.
    Dashed,
    /// Dots.
    Dotted,
}

impl Dash {
    /// Lengths of strokes and gaps, in px; none for an unbroken line. A dot is a stroke of almost no length with round ends.
    pub fn lengths(self) -> &'static [f32] {
        match self {
            Dash::Solid => &[],
            Dash::Dashed => &[6.0, 4.0],
            Dash::Dotted => &[0.1, 4.0],
        }
    }
}

/// The shape of an element's outline, where it is not its kind's own.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the words say it")]
pub enum Shape {
    Box,
    Round,
    Pill,
    Circle,
    Ring,
    Diamond,
    Hexagon,
    Slant,
    Cylinder,
    Flag,
    Star,
    Cloud,
    Page,
}

/// All shapes, with their words.
pub const SHAPES: [(&str, Shape); 13] = [
    ("box", Shape::Box),
    ("round", Shape::Round),
    ("pill", Shape::Pill),
    ("circle", Shape::Circle),
    ("ring", Shape::Ring),
    ("diamond", Shape::Diamond),
    ("hexagon", Shape::Hexagon),
    ("slant", Shape::Slant),
    ("cylinder", Shape::Cylinder),
    ("flag", Shape::Flag),
    ("star", Shape::Star),
    ("cloud", Shape::Cloud),
    ("page", Shape::Page),
];

/// The look of an element.
#[derive(Clone, Debug, PartialEq)]
pub struct ElementStyle {
    /// Its outline, where it is not its kind's own.
    pub shape: Option<Shape>,
    /// Its pictogram, where a rule gives one.
    pub icon: Option<String>,
    /// Inside.
    pub fill: Ground,
    /// Outline.
    pub line: Paint,
    /// Outline of what holds others, where something asked for one.
    pub frame: Option<Ground>,
    /// The band of what holds others, where something asked for a fill: the ground inside stays as it is.
    pub band: Option<Ground>,
    /// The colour of its texts, where something asked for one.
    pub written: Option<Ground>,
    /// Text.
    pub text: Paint,
    /// Secondary text.
    pub quiet: Paint,
    /// The fill of its tab, if it has one.
    pub tab: Paint,
    /// Pictogram.
    pub accent: Paint,
    /// How the outline is broken.
    pub dash: Dash,
    /// Width of the outline in px.
    pub width: f64,
    /// Takes room and isn't drawn.
    pub hidden: bool,
}

impl ElementStyle {
    /// The width of an outline where nothing asks for another, in px.
    pub const WIDTH: f64 = 1.25;
}

/// The look of a relation.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct RelationStyle {
    /// Its line.
    pub line: Paint,
    /// Its text.
    pub text: Paint,
    /// How the line is broken, if that was said.
    pub dash: Option<Dash>,
    /// Width in px.
    pub width: f64,
    /// Not drawn.
    pub hidden: bool,
}

/// The looks of a whole diagram.
#[derive(Clone, Debug)]
pub struct Styles {
    /// By element.
    pub elements: Vec<ElementStyle>,
    /// By relation.
    pub relations: Vec<RelationStyle>,
    /// The ground, if a rule gives one.
    pub ground: Option<Ground>,
}

/// What styles are made from.
#[derive(Clone, Copy, PartialEq, Eq)]
enum From {
    /// Rules and traits.
    All,
    /// Rules about kinds and verbs: what is general.
    Kinds,
}

/// Resolves the looks of a diagram.
pub fn resolve(rules: &[LookRule], view: &View, diags: &mut Diagnostics) -> Styles {
    styles(&Rules::new(rules), view, diags, From::All)
}

/// The looks that the elements and relations of a diagram have as ones of their kinds: without what tags, names and their own
/// traits ask for.
pub fn resolve_kinds(rules: &[LookRule], view: &View) -> Styles {
    let is_general =
        |rule: &&LookRule| matches!(rule.selector, Selector::Kind(_) | Selector::Verb(_) | Selector::Picture);
    let general: Vec<LookRule> = rules.iter().filter(is_general).cloned().collect();
    styles(&Rules::new(&general), view, &mut Diagnostics::default(), From::Kinds)
}

fn styles(rules: &Rules<'_>, view: &View, diags: &mut Diagnostics, from: From) -> Styles {
    let diagram = &view.diagram;
    // What was written in another file is reported there.
    let mut unheard = Diagnostics::default();
    let mut elements = Vec::with_capacity(diagram.elements.len());
    for (element, own) in diagram.elements.iter().zip(&view.elements) {
        let diags = if !element.span.source.is_root() { &mut unheard } else { &mut *diags };
        elements.push(Resolver { rules, diags, from }.element(element, own, diagram.kind));
    }
    let mut relations = Vec::with_capacity(diagram.relations.len());
    for relation in &diagram.relations {
        let diags = if !relation.span.source.is_root() { &mut unheard } else { &mut *diags };
        relations.push(Resolver { rules, diags, from }.relation(relation));
    }
    let mut look = Look::default();
    Resolver { rules, diags: &mut unheard, from }.apply(&rules.of_picture(), &mut look);
    Styles { elements, relations, ground: look.fill }
}

/// What one rule does, on an element and on a relation that have nothing else.
#[derive(Clone, Debug)]
pub struct Swatch {
    /// The element.
    pub element: ElementStyle,
    /// The relation.
    pub relation: RelationStyle,
    /// Whether the rule gives a colour to texts.
    pub has_text: bool,
    /// Whether it changes how a line is drawn, or its text.
    pub has_line: bool,
}

/// What a rule does alone.
pub fn swatch(rule: &LookRule) -> Swatch {
    let (rules, mut unheard) = (Rules::new(&[]), Diagnostics::default());
    let mut look = Look::default();
    Resolver { rules: &rules, diags: &mut unheard, from: From::All }.apply(&[rule], &mut look);
    let has_line = look.line.is_some() || look.dash.is_some() || look.width.is_some() || look.text.is_some();
    let (has_text, relation) = (look.text.is_some(), relation_style(&look, Verb::Joins));
    Swatch { element: element_style(look, Calm::default(), Ground::Paper), relation, has_text, has_line }
}

/// Reports traits of a diagram that mean nothing, where they were written in this file.
pub fn check_traits(diagram: &Diagram, diags: &mut Diagnostics) {
    let mut resolver = Resolver { rules: &Rules::new(&[]), diags, from: From::All };
    let elements = diagram.elements.iter().map(|element| (element.span, &element.traits));
    let relations = diagram.relations.iter().map(|relation| (relation.span, &relation.traits));
    for (_, traits) in elements.chain(relations).filter(|(span, _)| span.source.is_root()) {
        resolver.traits(traits, &mut Look::default());
    }
}

/// Reports rules that match nothing in their file, and traits in them that mean nothing.
pub fn check_rules(document: &Document, diags: &mut Diagnostics) {
    // A file of looks alone is there for others to take from.
    let is_drawn = !document.diagrams.is_empty() || !document.sheets.is_empty();
    let (there, none) = (There::new(document), Rules::new(&[]));
    for rule in &document.looks {
        if is_drawn && !there.matches(&rule.selector) {
            diags.report(rule.span, Message::RuleOfNothing { selector: rule.selector.to_string() });
        }
        let mut resolver = Resolver { rules: &none, diags, from: From::All };
        for t in &rule.traits {
            resolver.look(t, &mut Look::default());
        }
    }
}

/// What rules and traits may change.
#[derive(Default)]
struct Look {
    fill: Option<Ground>,
    line: Option<Ground>,
    text: Option<Ground>,
    dash: Option<Dash>,
    width: Option<f64>,
    shape: Option<Shape>,
    icon: Option<String>,
}

struct Resolver<'a> {
    rules: &'a Rules<'a>,
    diags: &'a mut Diagnostics,
    from: From,
}

/// Why an element is quieter than others.
#[derive(Clone, Copy, Default)]
struct Calm {
    /// It is not ours.
    external: bool,
    /// It is only around what a sheet is about.
    context: bool,
}

impl Calm {
    fn is_calm(self) -> bool {
        self.external || self.context
    }
}

fn element_style(look: Look, calm: Calm, usual_fill: Ground) -> ElementStyle {
    // What is only around stays quiet where it was filled, too: the fill is seen in its outline.
    let tint = look.fill.filter(|_| calm.context && look.line.is_none());
    let tint = tint.map(|fill| if let Ground::Fill(hue) = fill { Ground::Shade(hue) } else { fill });
    let fill = match look.fill {
        Some(fill) if !calm.context => fill,
        None if !calm.is_calm() => usual_fill,
        _ => Ground::Paper,
    };
    let own_text = if calm.is_calm() { Paint::CalmOn(fill) } else { Paint::TextOn(fill) };
    ElementStyle {
        shape: look.shape,
        icon: look.icon,
        fill,
        line: look.line.or(tint).map_or(if calm.context { Paint::Guide } else { Paint::Outline }, Paint::from),
        frame: look.line,
        band: look.fill,
        written: look.text,
        text: look.text.map_or(own_text, |text| Paint::ColouredOn(text, fill)),
        quiet: Paint::QuietOn(fill, look.text),
        tab: Paint::TabOn(fill, look.text),
        accent: match look.line {
            None if calm.is_calm() => Paint::QuietOn(fill, None),
            line => Paint::AccentOn(line, fill),
        },
        dash: look.dash.unwrap_or(if calm.external { Dash::Dashed } else { Dash::Solid }),
        width: look.width.unwrap_or(ElementStyle::WIDTH),
        hidden: false,
    }
}

fn relation_style(look: &Look, verb: Verb) -> RelationStyle {
    let quiet = matches!(verb, Verb::Remarks | Verb::Aside);
    RelationStyle {
        line: look.line.map_or_else(
            || match verb {
                // A forbidden relation is drawn where it is broken, and is seen.
                Verb::NeverUses => Ground::Shade(Hue::CORAL).into(),
                _ if quiet => Paint::Outline,
                _ => Paint::Line,
            },
            Paint::from,
        ),
        text: look.text.map_or(Paint::TEXT, |text| Paint::ColouredOn(text, Ground::Picture)),
        dash: look.dash,
        width: look.width.unwrap_or(if quiet { 1.0 } else { 1.4 }),
        hidden: false,
    }
}

impl Resolver<'_> {
    fn element(&mut self, element: &Element, own: &ElementView, diagram: DiagramKind) -> ElementStyle {
        // What is not ours, and what is only around what a sheet is about, is quieter.
        let calm = Calm { external: element.has(TraitWord::External), context: own.context };
        let mut look = Look::default();
        self.apply(&self.rules.of_element(element), &mut look);
        if self.from == From::All {
            self.traits(&element.traits, &mut look);
        }
        let style = element_style(look, calm, kind_fill(element.kind, diagram));
        ElementStyle { hidden: element.has(TraitWord::Hidden), ..style }
    }

    fn relation(&mut self, relation: &Relation) -> RelationStyle {
        let mut look = Look::default();
        self.apply(&self.rules.of_relation(relation), &mut look);
        if self.from == From::All {
            self.traits(&relation.traits, &mut look);
        }
        let hidden = relation.traits.iter().any(|t| t.meaning() == Some(TraitWord::Hidden));
        RelationStyle { hidden, ..relation_style(&look, relation.verb) }
    }

    /// Applies rules, the less particular ones first.
    fn apply(&mut self, rules: &[&LookRule], look: &mut Look) {
        // Errors in rules are reported once, by `check_rules`.
        let mut unheard = Diagnostics::default();
        let mut silent = Resolver { rules: self.rules, diags: &mut unheard, from: self.from };
        rules.iter().flat_map(|r| &r.traits).for_each(|t| silent.look(t, look));
    }

    fn traits(&mut self, traits: &[Trait], look: &mut Look) {
        for t in traits {
            match t.meaning() {
                Some(word) if word.is_look() => self.look(t, look),
                Some(_) => self.value(t),
                None => self.unknown(t),
            }
        }
    }

    /// Traits with a closed list of values.
    fn value(&mut self, t: &Trait) {
        let value = t.values.first().map_or("", |v| v.value.as_str());
        let (good, of, values) = match t.meaning() {
            Some(TraitWord::End) => (EndMark::from_word(value).is_some(), "end", "`end circle` or `end cross`"),
            Some(TraitWord::Count) => {
                (value.parse::<u32>().is_ok_and(|n| n > 0), "count", "a whole number from 1, such as `count 3`")
            }
            Some(TraitWord::Keyword) => (!value.is_empty(), "keyword", "the keyword in quotes: `keyword \"service\"`"),
            Some(TraitWord::Tag) => (!value.is_empty(), "tag", "the name of a tag: `tag slow`"),
            _ => return,
        };
        if !good {
            self.diags.report(t.span(), Message::BadValue { word: value.to_owned(), of, values });
        }
    }

    fn unknown(&mut self, t: &Trait) {
        // Looks are suggested first.
        let (looks, others): (Vec<TraitWord>, Vec<TraitWord>) = TraitWord::ALL.iter().partition(|word| word.is_look());
        let known = looks.into_iter().chain(others).map(TraitWord::word);
        let suggestion = suggest(&t.word.value, known);
        self.diags.report(t.word.span, Message::UnknownTrait { word: t.word.value.clone(), suggestion });
    }

    fn look(&mut self, t: &Trait, look: &mut Look) {
        let word = t.word.value.as_str();
        if !t.meaning().is_some_and(TraitWord::is_look) {
            return self.unknown(t);
        }
        if t.values.is_empty() {
            self.diags.report(
                t.word.span,
                Message::BadValue { word: String::new(), of: "a look", values: "a colour, or how the line is drawn" },
            );
        }
        if let ("shape", Some(value)) = (word, t.values.first()) {
            look.shape = SHAPES.iter().find(|(name, _)| *name == value.value).map(|(_, shape)| *shape);
            if look.shape.is_none() {
                let word = value.value.clone();
                let values =
                    "box, round, pill, circle, ring, diamond, hexagon, slant, cylinder, flag, star, cloud or page";
                self.diags.report(value.span, Message::BadValue { word, of: "shape", values });
            }
            return;
        }
        if let ("icon", Some(value)) = (word, t.values.first()) {
            look.icon = Some(value.value.clone());
            return;
        }
        for value in &t.values {
            let v = value.value.as_str();
            match (word, v) {
                ("line", "dashed") => look.dash = Some(Dash::Dashed),
                ("line", "dotted") => look.dash = Some(Dash::Dotted),
                ("line", "solid") => look.dash = Some(Dash::Solid),
                ("line", "thick") => look.width = Some(2.4),
                ("line", "thin") => look.width = Some(0.8),
                _ => {
                    let named = Hue::from_name(v).map(if word == "fill" { Ground::Fill } else { Ground::Shade });
                    let Some(colour) = named.or_else(|| Colour::from_hex(v).map(Ground::Fixed)) else {
                        let names = Hue::all().map(Hue::name).chain(["dashed", "dotted", "thick", "thin"]);
                        let suggestion = suggest(v, names);
                        self.diags.report(value.span, Message::UnknownColour { word: v.to_owned(), suggestion });
                        continue;
                    };
                    match word {
                        "fill" => look.fill = Some(colour),
                        "line" => look.line = Some(colour),
                        _ => look.text = Some(colour),
                    }
                }
            }
        }
    }
}

/// The quiet fill that tells kinds apart.
fn kind_fill(kind: ElementKind, diagram: DiagramKind) -> Ground {
    use ElementKind as Kind;
    Ground::Tone(match kind {
        Kind::Begin | Kind::Finish | Kind::Junction if diagram == DiagramKind::States => return Ground::Ink,
        Kind::Bar => return Ground::Ink,
        Kind::Choice | Kind::History | Kind::Entry | Kind::Exit => return Ground::Paper,
        Kind::Region | Kind::Group | Kind::Lane => return Ground::Paper,
        Kind::Chance | Kind::Actor | Kind::Decide | Kind::Enum => Tone::Person,
        Kind::Outcome | Kind::Store | Kind::Queue | Kind::Table | Kind::Memory | Kind::Disk | Kind::Tape => {
            Tone::Storage
        }
        Kind::Card | Kind::Strip | Kind::Document | Kind::Data | Kind::Display => Tone::Document,
        Kind::Begin | Kind::Finish => Tone::Terminal,
        Kind::Interface => Tone::Interface,
        Kind::Record | Kind::Object => Tone::Value,
        Kind::Remark => Tone::Remark,
        _ => Tone::Usual,
    })
}

//! Resolves rules and traits. More particular rules win (name, tag, kind or verb), then later ones;
//! a trait on the line wins over all.

use super::rules::{Rules, There};
use super::{Colour, Theme};
use crate::diag::{Diagnostics, Message, nearest};
use crate::model::{Diagram, DiagramKind, Document, Element, ElementKind, LookRule, Relation, Verb};
use crate::syntax::Trait;

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
    pub fill: Colour,
    /// Outline.
    pub line: Colour,
    /// Outline of what holds others, where something asked for one.
    pub frame: Option<Colour>,
    /// Text.
    pub text: Colour,
    /// Secondary text.
    pub quiet: Colour,
    /// Pictogram.
    pub accent: Colour,
    /// How the outline is broken.
    pub dash: Dash,
    /// Width of the outline in px.
    pub width: f64,
    /// Takes room and isn't drawn.
    pub hidden: bool,
}

/// The look of a relation.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct RelationStyle {
    /// Its line.
    pub line: Colour,
    /// Its text.
    pub text: Colour,
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
    pub ground: Option<Colour>,
}

/// Traits that say something other than a look.
const OTHER_TRAITS: &[&str] = &[
    "external", "hidden", "tag", "abstract", "keyword", "left", "right", "above", "below", "count", "both", "end",
    "deep", "about", "built", "link", "owner", "code",
];
/// Traits that say a look.
const LOOK_TRAITS: &[&str] = &["fill", "line", "text", "icon", "shape"];

/// Resolves the looks of a diagram.
pub fn resolve(theme: &Theme, rules: &[LookRule], diagram: &Diagram, diags: &mut Diagnostics) -> Styles {
    // What was written in another file is reported there.
    let mut unheard = Diagnostics::default();
    let rules = &Rules::new(rules);
    let mut elements = Vec::with_capacity(diagram.elements.len());
    for element in &diagram.elements {
        let diags = if element.file.is_some() { &mut unheard } else { &mut *diags };
        elements.push(Resolver { theme, rules, diags }.element(element, diagram.kind));
    }
    let mut relations = Vec::with_capacity(diagram.relations.len());
    for relation in &diagram.relations {
        let diags = if relation.file.is_some() { &mut unheard } else { &mut *diags };
        relations.push(Resolver { theme, rules, diags }.relation(relation));
    }
    let mut look = Look::default();
    Resolver { theme, rules, diags: &mut unheard }.apply(&rules.of_picture(), &mut look);
    Styles { elements, relations, ground: look.fill }
}

/// Reports rules that match nothing in their file, and traits in them that mean nothing.
pub fn check_rules(document: &Document, theme: &Theme, diags: &mut Diagnostics) {
    // A file of looks alone is there for others to take from.
    let is_drawn = !document.diagrams.is_empty() || !document.sheets.is_empty();
    let (there, none) = (There::new(document), Rules::new(&[]));
    for rule in &document.looks {
        if is_drawn && !there.matches(&rule.selector) {
            diags.report(rule.span, Message::RuleOfNothing { selector: rule.selector.to_string() });
        }
        let mut resolver = Resolver { theme, rules: &none, diags };
        for t in &rule.traits {
            resolver.look(t, &mut Look::default());
        }
    }
}

/// What rules and traits may change.
#[derive(Default)]
struct Look {
    fill: Option<Colour>,
    line: Option<Colour>,
    text: Option<Colour>,
    dash: Option<Dash>,
    width: Option<f64>,
    shape: Option<Shape>,
    icon: Option<String>,
}

struct Resolver<'a> {
    theme: &'a Theme,
    rules: &'a Rules<'a>,
    diags: &'a mut Diagnostics,
}

impl Resolver<'_> {
    fn element(&mut self, element: &Element, diagram: DiagramKind) -> ElementStyle {
        let theme = self.theme;
        let external = element.has("external");
        // What is not ours, and what is only around what a sheet is about, is quieter.
        let is_calm = external || element.context;
        let mut look = Look::default();
        self.apply(&self.rules.of_element(element), &mut look);
        self.traits(&element.traits, &mut look);
        let fill =
            look.fill.unwrap_or_else(|| if is_calm { theme.paper } else { kind_fill(theme, element.kind, diagram) });
        let text = look.text.unwrap_or_else(|| {
            if is_calm && theme.quiet.contrast(fill) >= 4.5 { theme.quiet } else { theme.text_on(fill) }
        });
        ElementStyle {
            shape: look.shape,
            icon: look.icon,
            fill,
            line: look.line.unwrap_or(if element.context { theme.guide } else { theme.outline }),
            frame: look.line,
            text,
            quiet: if theme.quiet.contrast(fill) >= 4.5 { theme.quiet } else { text },
            accent: look.line.unwrap_or(if is_calm { theme.quiet } else { theme.accent }),
            dash: look.dash.unwrap_or(if external { Dash::Dashed } else { Dash::Solid }),
            width: look.width.unwrap_or(1.25),
            hidden: element.has("hidden"),
        }
    }

    fn relation(&mut self, relation: &Relation) -> RelationStyle {
        let mut look = Look::default();
        self.apply(&self.rules.of_relation(relation), &mut look);
        self.traits(&relation.traits, &mut look);
        let quiet = matches!(relation.verb, Verb::Remarks | Verb::Aside);
        RelationStyle {
            line: look.line.unwrap_or(match relation.verb {
                // A forbidden relation is drawn where it is broken, and is seen.
                Verb::NeverUses => self.theme.stroke("coral").unwrap_or(self.theme.line),
                _ if quiet => self.theme.outline,
                _ => self.theme.line,
            }),
            text: look.text.unwrap_or(self.theme.ink),
            dash: look.dash,
            width: look.width.unwrap_or(if quiet { 1.0 } else { 1.4 }),
            hidden: relation.traits.iter().any(|t| t.word.value == "hidden"),
        }
    }

    /// Applies rules, the less particular ones first.
    fn apply(&mut self, rules: &[&LookRule], look: &mut Look) {
        // Mistakes in rules are reported once, by `check_rules`.
        let mut unheard = Diagnostics::default();
        let mut silent = Resolver { theme: self.theme, rules: self.rules, diags: &mut unheard };
        rules.iter().flat_map(|r| &r.traits).for_each(|t| silent.look(t, look));
    }

    fn traits(&mut self, traits: &[Trait], look: &mut Look) {
        for t in traits {
            let word = t.word.value.as_str();
            if LOOK_TRAITS.contains(&word) {
                self.look(t, look);
            } else if !OTHER_TRAITS.contains(&word) {
                self.unknown(t);
            } else {
                self.value(t);
            }
        }
    }

    /// Traits with a closed list of values.
    fn value(&mut self, t: &Trait) {
        let value = t.values.first().map_or("", |v| v.value.as_str());
        let (good, of, values) = match t.word.value.as_str() {
            "end" => (matches!(value, "circle" | "cross"), "end", "`end circle` or `end cross`"),
            "count" => (value.parse::<u32>().is_ok_and(|n| n > 0), "count", "a whole number from 1, such as `count 3`"),
            "keyword" => (!value.is_empty(), "keyword", "the keyword in quotes: `keyword \"service\"`"),
            "tag" => (!value.is_empty(), "tag", "the name of a tag: `tag slow`"),
            _ => return,
        };
        if !good {
            self.diags.report(t.span(), Message::BadValue { word: value.to_owned(), of, values });
        }
    }

    fn unknown(&mut self, t: &Trait) {
        let known = LOOK_TRAITS.iter().chain(OTHER_TRAITS).copied();
        let suggestion = nearest(&t.word.value, known).map(str::to_owned);
        self.diags.report(t.word.span, Message::UnknownTrait { word: t.word.value.clone(), suggestion });
    }

    fn look(&mut self, t: &Trait, look: &mut Look) {
        let theme = self.theme;
        let word = t.word.value.as_str();
        if !LOOK_TRAITS.contains(&word) {
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
                    let named = if word == "fill" { theme.fill(v) } else { theme.stroke(v) };
                    let Some(colour) = named.or_else(|| Colour::from_hex(v)) else {
                        let names = theme.palette.iter().map(|h| h.name).chain(["dashed", "dotted", "thick", "thin"]);
                        let suggestion = nearest(v, names).map(str::to_owned);
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
fn kind_fill(theme: &Theme, kind: ElementKind, diagram: DiagramKind) -> Colour {
    let soft = |hue: f64, chroma: f64| Colour::oklch(0.965, chroma, hue);
    match kind {
        ElementKind::Begin | ElementKind::Finish | ElementKind::Junction if diagram == DiagramKind::States => theme.ink,
        ElementKind::Choice | ElementKind::History | ElementKind::Entry | ElementKind::Exit => theme.paper,
        ElementKind::Chance => soft(88.0, 0.032),
        ElementKind::Outcome => soft(190.0, 0.024),
        ElementKind::Region => theme.paper,
        ElementKind::Actor | ElementKind::Decide => soft(88.0, 0.032),
        ElementKind::Store | ElementKind::Queue | ElementKind::Table => soft(190.0, 0.024),
        ElementKind::Memory | ElementKind::Disk | ElementKind::Tape => soft(190.0, 0.024),
        ElementKind::Card | ElementKind::Strip => soft(315.0, 0.016),
        ElementKind::Begin | ElementKind::Finish => Colour::oklch(0.90, 0.05, 205.0),
        ElementKind::Document | ElementKind::Data | ElementKind::Display => soft(315.0, 0.016),
        ElementKind::Interface => soft(300.0, 0.02),
        ElementKind::Enum => soft(88.0, 0.032),
        ElementKind::Record | ElementKind::Object => soft(150.0, 0.02),
        ElementKind::Remark => soft(95.0, 0.04),
        ElementKind::Bar => theme.ink,
        ElementKind::Group | ElementKind::Lane => theme.paper,
        _ => soft(232.0, 0.02),
    }
}

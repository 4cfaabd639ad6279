//! An architecture against source code: uses that nobody drew, uses that are drawn and not there, uses that are forbidden, files
//! that no element stands for (Murphy, Notkin, Sullivan 1995, with containers as in Koschke, Simon 2003).
//!
//! An element stands for the files that its `code` names; one inside another takes precedence, and among others the more exact
//! pattern. A relation holds for everything inside its ends.

use super::actual::remove;
use super::deviation::{Accepted, Deviation, Weight};
use super::paths::{PathPatterns, innermost};
use crate::model::{Diagram, Element, ElementId, Relation, RelationId, Verb};
use crate::source::Span;
use crate::syntax::Label;
use crate::vocabulary::TraitWord;
use std::collections::{BTreeMap, BTreeSet};

/// At most this many places of one deviation are reported.
const MOST_PLACES: usize = 50;
/// Files of one deviation that are named in its sentence.
const MOST_FILES: usize = 3;

/// Source code, as far as it matters: files, and what they use of each other.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Code {
    /// Paths with `/`, relative to where patterns begin.
    pub files: Vec<String>,
    /// The same as people find them from where they are.
    pub shown: Vec<String>,
    /// Uses of files by files.
    pub uses: Vec<CodeUse>,
    /// Uses of packages that are elsewhere.
    pub outside: Vec<OutsideUse>,
}

/// One file uses another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct CodeUse {
    /// The number of the file that uses.
    pub from: usize,
    /// The number of the file that is used.
    pub to: usize,
    /// The line, from 1.
    pub line: u32,
    /// Whether what is used is only handed on to others: nobody needs to draw that.
    pub is_handed_on: bool,
}

/// One file uses a package that is elsewhere.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OutsideUse {
    /// The number of the file.
    pub from: usize,
    /// The package.
    pub package: String,
    /// The line, from 1.
    pub line: u32,
}

/// How an architecture and code agree.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ArchitectureConformance {
    /// How many files have an element.
    pub covered: usize,
    /// Relations that the code has as they are drawn, each with how many uses.
    pub agreements: Vec<(RelationId, usize)>,
    /// What differs: in the order of the diagram.
    pub differences: Vec<CodeDifference>,
}

/// One use, as it is reported.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FileUse {
    /// The file that uses, relative to where patterns begin.
    pub from: String,
    /// The file or the package that is used.
    pub to: String,
    /// The use, as people find it: `file:line`.
    pub place: String,
}

/// One difference between an architecture and code.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum CodeDifference {
    /// A use that is not in the diagram.
    Surprise {
        /// Who uses.
        from: ElementId,
        /// What is used.
        to: ElementId,
        /// The uses: files and lines.
        uses: Vec<FileUse>,
    },
    /// A use that is drawn, and not there.
    Absent {
        /// The relation.
        relation: RelationId,
    },
    /// A use that the diagram forbids.
    Forbidden {
        /// The rule.
        rule: RelationId,
        /// The uses: files and lines.
        uses: Vec<FileUse>,
    },
    /// An element whose patterns name no file.
    Empty {
        /// The element.
        element: ElementId,
    },
    /// Files that no element stands for.
    Uncovered {
        /// Their paths, relative to where patterns begin.
        files: Vec<String>,
    },
}

impl ArchitectureConformance {
    /// Whether any element stands for files.
    pub fn is_about_code(&self) -> bool {
        self.covered > 0 || self.differences.iter().any(|one| matches!(one, CodeDifference::Empty { .. }))
    }

    /// Leaves out what is accepted, by its keys; gives the keys that were found.
    pub fn accept(&mut self, design: &Diagram, accepted: &BTreeSet<String>) -> BTreeSet<String> {
        let mut accepted = Accepted::new(accepted);
        self.differences.retain_mut(|difference| {
            let head = difference.head(design);
            match difference {
                CodeDifference::Surprise { uses, .. } | CodeDifference::Forbidden { uses, .. } => {
                    uses.retain(|one| !accepted.has(format!("{head}: {} > {}", one.from, one.to)));
                    !uses.is_empty()
                }
                CodeDifference::Uncovered { files } => {
                    files.retain(|file| !accepted.has(format!("{head} {file}")));
                    !files.is_empty()
                }
                _ => !accepted.has(head),
            }
        });
        accepted.found
    }

    /// What differs, ready to be reported.
    pub fn deviations(&self, design: &Diagram) -> Vec<Deviation> {
        let mut out: Vec<Deviation> = self.differences.iter().map(|difference| difference.deviation(design)).collect();
        out.sort_by_key(|one| (one.weight, one.span.start));
        out
    }
}

/// Compares an architecture with code.
pub fn architecture(design: &Diagram, code: &Code) -> ArchitectureConformance {
    let elements = Covered::of(design, code);
    let mut out = ArchitectureConformance { covered: elements.count(), ..ArchitectureConformance::default() };
    if out.covered > 0 {
        let drawn = Drawn::of(design);
        let tally = tally(design, code, &elements, &drawn);
        let relations = || (0..).map(RelationId).zip(&design.relations);
        out.agreements = tally.agreed.iter().map(|(id, count)| (*id, *count)).collect();
        out.differences
            .extend(tally.forbidden.into_iter().map(|(rule, uses)| CodeDifference::Forbidden { rule, uses }));
        let surprises = tally.surprises.into_iter();
        out.differences.extend(surprises.map(|((from, to), uses)| CodeDifference::Surprise { from, to, uses }));
        let is_absent = |id: RelationId, relation: &Relation| {
            // Calls, and what goes over a line, may be between programs that do not import each other.
            let is_import = relation.verb == Verb::Uses && relation.over.is_none();
            let is_seen = [relation.from, relation.to].iter().all(|end| elements.is_seen(design, *end));
            is_import && is_seen && relation.from != relation.to && !tally.agreed.contains_key(&id)
        };
        let absent = relations().filter(|(id, relation)| is_absent(*id, relation));
        out.differences.extend(absent.map(|(relation, _)| CodeDifference::Absent { relation }));
    }
    out.differences.extend(elements.empty.iter().map(|element| CodeDifference::Empty { element: *element }));
    if out.covered > 0 {
        let bare = elements.of_file.iter().zip(&code.files).filter(|(element, _)| element.is_none());
        let files: Vec<String> = bare.map(|(_, file)| file.clone()).collect();
        out.differences.extend((!files.is_empty()).then_some(CodeDifference::Uncovered { files }));
    }
    out
}

/// Which element stands for which file.
struct Covered {
    of_file: Vec<Option<ElementId>>,
    /// Elements whose `code` names no file.
    empty: Vec<ElementId>,
    /// Elements for which files stand, and all around them.
    seen: BTreeSet<ElementId>,
    /// Elements that stand for packages that are elsewhere, by all that these may be called.
    outside: BTreeMap<String, ElementId>,
}

impl Covered {
    fn of(design: &Diagram, code: &Code) -> Self {
        let named: Vec<(ElementId, PathPatterns, bool)> = design
            .ids()
            .filter_map(|(id, element)| {
                let (patterns, is_code) = PathPatterns::of(element)?;
                Some((id, patterns, is_code))
            })
            .collect();
        let mut found: BTreeSet<ElementId> = BTreeSet::new();
        let of_file = code.files.iter().map(|file| {
            let meant = named.iter().filter_map(|(id, patterns, _)| Some((patterns.exactness(file)?, *id)));
            let meant: Vec<(usize, ElementId)> = meant.collect();
            found.extend(meant.iter().map(|(_, id)| *id));
            innermost(&meant, |inner, outer| design.ancestors(inner).any(|around| around == outer))
        });
        let of_file: Vec<Option<ElementId>> = of_file.collect();
        let empty =
            named.iter().filter(|(id, _, is_code)| *is_code && !found.contains(id)).map(|(id, ..)| *id).collect();
        let covering = of_file.iter().flatten();
        let seen = covering.flat_map(|id| std::iter::once(*id).chain(design.ancestors(*id))).collect();
        let external = design.ids().filter(|(_, element)| element.has(TraitWord::External));
        let outside =
            external.flat_map(|(id, element)| names(element).into_iter().map(move |name| (name, id))).collect();
        Self { of_file, empty, seen, outside }
    }

    fn count(&self) -> usize {
        self.of_file.iter().flatten().count()
    }

    /// Whether code can be seen of an element, or of something in it; a package that is elsewhere is seen where it is used.
    fn is_seen(&self, design: &Diagram, id: ElementId) -> bool {
        let is_package = || names(design.element(id)).iter().any(|name| self.outside.contains_key(name));
        self.seen.contains(&id) || is_package()
    }
}

/// What a package that is elsewhere may be called.
fn names(element: &Element) -> Vec<String> {
    let label = |text: &Label| text.text();
    let origin = element.properties.origin.as_ref().map(label);
    let all = [origin, Some(element.name.clone()), element.label.as_ref().map(label)];
    all.into_iter().flatten().filter(|name| !name.is_empty()).collect()
}

/// What the diagram allows and forbids, by the ends.
struct Drawn {
    allowed: BTreeMap<(ElementId, ElementId), Vec<RelationId>>,
    rules: BTreeMap<(ElementId, ElementId), RelationId>,
}

impl Drawn {
    fn of(design: &Diagram) -> Self {
        let mut drawn = Self { allowed: BTreeMap::new(), rules: BTreeMap::new() };
        for (id, relation) in (0..).map(RelationId).zip(&design.relations) {
            let pair = (relation.from, relation.to);
            match relation.verb {
                Verb::NeverUses => _ = drawn.rules.entry(pair).or_insert(id),
                Verb::Uses | Verb::Calls => drawn.allowed.entry(pair).or_default().push(id),
                // Where data flows does not say who knows whom.
                Verb::Sends | Verb::Reads | Verb::Writes => {
                    drawn.allowed.entry(pair).or_default().push(id);
                    drawn.allowed.entry((pair.1, pair.0)).or_default().push(id);
                }
                _ => {}
            }
        }
        drawn
    }
}

#[derive(Default)]
struct Tally {
    agreed: BTreeMap<RelationId, usize>,
    surprises: BTreeMap<(ElementId, ElementId), Vec<FileUse>>,
    forbidden: BTreeMap<RelationId, Vec<FileUse>>,
}

fn tally(design: &Diagram, code: &Code, elements: &Covered, drawn: &Drawn) -> Tally {
    let mut tally = Tally::default();
    // What the diagram allows and forbids between two elements.
    let mut known: BTreeMap<(ElementId, ElementId), [Vec<RelationId>; 2]> = BTreeMap::new();
    let files = code.uses.iter().filter_map(|one| {
        let (from, to) = (elements.of_file[one.from]?, elements.of_file[one.to]?);
        Some((from, to, one.from, &code.files[one.to], one.line, one.is_handed_on))
    });
    let packages = code.outside.iter().filter_map(|one| {
        let (from, to) = (elements.of_file[one.from]?, *elements.outside.get(&one.package)?);
        Some((from, to, one.from, &one.package, one.line, false))
    });
    for (from, to, file, used, line, is_handed_on) in files.chain(packages) {
        // What lies in something uses the rest of that freely, and is used by it.
        let is_own = from == to || design.ancestors(from).any(|a| a == to) || design.ancestors(to).any(|a| a == from);
        if is_own {
            continue;
        }
        let [relations, rules] = known.entry((from, to)).or_insert_with(|| {
            let around = |id: ElementId| std::iter::once(id).chain(design.ancestors(id));
            let pairs: Vec<(ElementId, ElementId)> =
                around(from).flat_map(|a| around(to).map(move |b| (a, b))).collect();
            let relations = pairs.iter().filter_map(|pair| drawn.allowed.get(pair)).flatten().copied().collect();
            [relations, pairs.iter().filter_map(|pair| drawn.rules.get(pair)).copied().collect()]
        });
        let told = || FileUse {
            from: code.files[file].clone(),
            to: used.clone(),
            place: format!("{}:{line}", code.shown[file]),
        };
        rules.iter().for_each(|rule| tally.forbidden.entry(*rule).or_default().push(told()));
        relations.iter().for_each(|id| *tally.agreed.entry(*id).or_default() += 1);
        if relations.is_empty() && rules.is_empty() && !is_handed_on {
            tally.surprises.entry((from, to)).or_default().push(told());
        }
    }
    tally
}

impl CodeDifference {
    fn deviation(&self, design: &Diagram) -> Deviation {
        let called = |id: ElementId| format!("`{}`", design.element(id).called());
        let ends = |id: RelationId| {
            let relation = design.relation(id);
            (called(relation.from), called(relation.to))
        };
        let (code, span, says, uses): (_, Span, String, &[FileUse]) = match self {
            Self::Surprise { from, to, uses } => {
                let says = format!(
                    "{} uses {} in {}; the diagram does not say so",
                    called(*from),
                    called(*to),
                    lines(uses.len())
                );
                ("surprise", design.element(*from).span, says, uses)
            }
            Self::Forbidden { rule, uses } => {
                let (from, to) = ends(*rule);
                let reason = design
                    .relation(*rule)
                    .label
                    .as_ref()
                    .map_or(String::new(), |label| format!(" \"{}\"", label.text()));
                let says = format!("{from} uses {to} in {}; the diagram says never{reason}", lines(uses.len()));
                ("forbidden", design.relation(*rule).span, says, uses)
            }
            Self::Absent { relation } => {
                let (from, to) = ends(*relation);
                ("absent", design.relation(*relation).span, format!("{from} uses {to} nowhere in the code"), &[])
            }
            Self::Empty { element } => {
                let text = design.element(*element).properties.code.as_ref().map_or(String::new(), Label::with_signs);
                (
                    "no-code",
                    design.element(*element).span,
                    format!("{}: `{text}` names no source file", called(*element)),
                    &[],
                )
            }
            Self::Uncovered { files } => {
                let shown: Vec<String> = files.iter().take(MOST_FILES).map(|file| format!("`{file}`")).collect();
                let more = files.len() - shown.len();
                let more = if more > 0 { format!(" and {more} more") } else { String::new() };
                let verb = if files.len() == 1 { "is" } else { "are" };
                let says = format!("no element stands for {}{more}, which {verb} source code", shown.join(", "));
                ("uncovered", design.span, says, &[])
            }
        };
        let weight = if matches!(self, Self::Uncovered { .. }) { Weight::Note } else { Weight::Difference };
        let mut places: Vec<String> = uses.iter().map(|one| one.place.clone()).collect();
        // One line may use several files.
        places.dedup();
        places.truncate(MOST_PLACES);
        Deviation { code, weight, span, says, places, keys: self.keys(design) }
    }

    /// What it is known by: for uses, each pair of files.
    fn keys(&self, design: &Diagram) -> Vec<String> {
        let head = self.head(design);
        let all: BTreeSet<String> = match self {
            Self::Surprise { uses, .. } | Self::Forbidden { uses, .. } => {
                uses.iter().map(|one| format!("{head}: {} > {}", one.from, one.to)).collect()
            }
            Self::Uncovered { files } => files.iter().map(|file| format!("{head} {file}")).collect(),
            Self::Absent { .. } | Self::Empty { .. } => BTreeSet::from([head]),
        };
        all.into_iter().collect()
    }

    /// What its keys begin with.
    fn head(&self, design: &Diagram) -> String {
        let path = |id: ElementId| design.element(id).key.clone();
        let ends = |id: RelationId| format!("{} > {}", path(design.relation(id).from), path(design.relation(id).to));
        match self {
            Self::Surprise { from, to, .. } => format!("surprise {} > {}", path(*from), path(*to)),
            Self::Forbidden { rule, .. } => format!("forbidden {}", ends(*rule)),
            Self::Absent { relation } => format!("absent {}", ends(*relation)),
            Self::Empty { element } => format!("no-code {}", path(*element)),
            Self::Uncovered { .. } => "uncovered".to_owned(),
        }
    }
}

fn lines(count: usize) -> String {
    if count == 1 { "1 import".to_owned() } else { format!("{count} imports") }
}

/// The architecture as the code has it: without what is nowhere, with what nobody drew. Compared with the design, it gives the
/// picture of the differences.
pub fn actual_architecture(design: &Diagram, conformance: &ArchitectureConformance) -> Diagram {
    let absent: BTreeSet<RelationId> = conformance
        .differences
        .iter()
        .filter_map(|one| if let CodeDifference::Absent { relation } = one { Some(*relation) } else { None })
        .collect();
    let mut out = design.clone();
    remove(&mut out, &absent);
    let mut add = |from: ElementId, to: ElementId, text: String| {
        let mut relation = Relation::between(from, to, Verb::Uses, design.span);
        relation.label = Some(Label::plain(text, design.span));
        relation.key = format!("found {}", out.relations.len());
        out.relations.push(relation);
    };
    for difference in &conformance.differences {
        match difference {
            CodeDifference::Surprise { from, to, uses } => add(*from, *to, lines(uses.len())),
            CodeDifference::Forbidden { rule, uses } => {
                let rule = design.relation(*rule);
                add(rule.from, rule.to, format!("{}, forbidden", lines(uses.len())));
            }
            _ => {}
        }
    }
    out
}

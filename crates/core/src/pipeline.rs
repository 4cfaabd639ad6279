//! The whole line from text to picture: [`read`] a file, then [`draw`] each of its pictures, and write the drawing in any form.
//!
//! [`read`] never lays out: what a layout could not keep comes back with the [`Drawing`], and [`weigh_unmet`] makes findings
//! of it.

use crate::check::{self, Bench, Broken, Levels};
use crate::container::{Packed, Provenance};
use crate::diag::{Diagnostic, Diagnostics};
use crate::jobs::{Jobs, OneByOne};
use crate::language::Language;
use crate::layout::{Graph, Share};
use crate::manner;
use crate::measure::Fonts;
use crate::model::{self, Diagram, DiagramKind, Document, LookRule, Occurrences, Sheet};
use crate::model::{AdHocWords, BlockId, ElementId, Role, Target, Unmet, WrittenConstraint};
use crate::notation::pictogram::Icons;
use crate::notation::{self, Context};
use crate::scene::{Drawing, Item, Places, Tag};
use crate::source::world::{Alone, World};
use crate::source::{Source, SourceId, Sources, Span};
use crate::svg::{self, FontCache};
use crate::syntax::{self, LineId, Tree};
use crate::theme::{self, Themes};
use crate::views::{self, Crowding, StackLevel, View};
use std::collections::BTreeMap;

/// What all pictures of one run share: theme, fonts, and font subsets made before.
pub struct Studio {
    /// The theme in which drawings are written, or two.
    pub themes: Themes,
    /// The fonts that ship with the program.
    pub fonts: Fonts,
    /// Font subsets made before.
    pub subsets: FontCache,
    /// The language of the words that the program adds.
    pub language: Language,
    jobs: Box<dyn Jobs>,
}

impl Default for Studio {
    fn default() -> Self {
        Self::new()
    }
}

impl Studio {
    /// Opens the default theme and the fonts that ship with the program.
    pub fn new() -> Self {
        Self::with_jobs(Box::new(OneByOne))
    }

    /// The same, with independent work run as the outside likes; pictures do not depend on it.
    pub fn with_jobs(jobs: Box<dyn Jobs>) -> Self {
        Self {
            themes: Themes::default(),
            fonts: Fonts::new(),
            subsets: FontCache::default(),
            language: Language::default(),
            jobs,
        }
    }

    /// The same with other themes.
    pub fn in_themes(self, themes: &Themes) -> Self {
        Self { themes: themes.clone(), fonts: self.fonts.lettered(themes.main.letters), ..self }
    }

    /// The same with words of another language.
    pub fn in_language(self, language: &Language) -> Self {
        Self { language: language.clone(), ..self }
    }

    /// A drawing of this run as SVG text.
    pub fn svg(&self, drawing: &Drawing, provenance: &Provenance<'_>) -> String {
        svg::write(drawing, self, svg::Place::File(provenance))
    }
}

/// A file that was read.
#[derive(Clone, Debug)]
pub struct Reading {
    /// Its text.
    pub source: Source,
    /// Its lines.
    pub tree: Tree,
    /// What it means, as far as it could be read.
    pub document: Document,
    /// Where elements, relations and the rest are declared and named in it.
    pub occurrences: Occurrences,
    /// The rules that hold in it, those of other files first.
    pub looks: Vec<LookRule>,
    /// What was found wrong or doubtful, in the order of the text; what stands in files that it takes from comes last.
    pub diagnostics: Vec<Diagnostic>,
    /// The pictograms that it names.
    pub icons: Icons,
    /// What the themes of its pictures are, for digests.
    look: String,
    /// The blocks with errors.
    broken: Broken,
    /// How much each rule weighs.
    levels: Levels,
    /// The text as drawings carry it, made when the first of them is drawn.
    packed: Packed,
}

/// One picture of a file, before its view is made.
#[derive(Clone, Copy, Debug)]
pub struct Picture<'a> {
    /// Its name.
    pub name: &'a str,
    /// The first line of its block.
    pub span: Span,
    what: What<'a>,
}

#[derive(Clone, Copy, Debug)]
enum What<'a> {
    Block(&'a Diagram),
    Sheet(&'a Diagram, &'a Sheet),
    Level(&'a Diagram, &'a [StackLevel], &'a StackLevel),
}

/// A stack of more pictures than this has very many.
// Each has a file of its own; whoever did not mean that can still stop.
const MANY: usize = 100;
/// So has a stack whose pictures, times the elements and relations of its model, are more than this.
// Each may show all that lies outside of what it is about.
const MUCH: usize = 1_000_000;

impl<'a> Picture<'a> {
    /// A diagram as a whole.
    pub fn of_diagram(diagram: &'a Diagram) -> Self {
        Self { name: &diagram.name, span: diagram.span, what: What::Block(diagram) }
    }

    /// A sheet of a diagram that stands in no file.
    pub fn of_sheet(diagram: &'a Diagram, sheet: &'a Sheet) -> Self {
        Self { name: &sheet.name, span: sheet.span, what: What::Sheet(diagram, sheet) }
    }

    /// All pictures of a stack, linked to each other; the first is that of the outermost level.
    pub fn of_stack(diagram: &'a Diagram, levels: &'a [StackLevel]) -> impl Iterator<Item = Self> {
        let span = diagram.span;
        levels.iter().map(move |level| Self { name: &level.name, span, what: What::Level(diagram, levels, level) })
    }

    /// The diagram that it shows, as it is written.
    pub fn diagram(&self) -> &'a Diagram {
        let (What::Block(diagram) | What::Sheet(diagram, _) | What::Level(diagram, ..)) = self.what;
        diagram
    }

    /// What is asked of its layout in its own block or sheet; elements have the numbers of its diagram.
    pub fn own_constraints(&self) -> &'a [WrittenConstraint] {
        match self.what {
            What::Sheet(_, sheet) => &sheet.picture.constraints,
            What::Block(diagram) | What::Level(diagram, ..) => &diagram.picture.constraints,
        }
    }

    /// What is drawn.
    pub fn view(&self) -> View {
        match self.what {
            What::Block(diagram) => views::whole(diagram),
            What::Sheet(diagram, sheet) => views::lift(diagram, sheet),
            What::Level(diagram, levels, level) => level.view(diagram, levels),
        }
    }

    /// Makes its elements lead to the sheets of the file that show their insides. For pages that hold several pictures: a file
    /// of its own may not have these beside it.
    pub fn lead_inside(&self, reading: &Reading, drawing: &mut Drawing) {
        let (What::Block(diagram) | What::Sheet(diagram, _)) = self.what else { return };
        let own = reading.document.sheets.iter().filter(|sheet| sheet.of == diagram.name && sheet.name != self.name);
        let inside: BTreeMap<&str, &str> = own
            .rev()
            .filter_map(|sheet| Some((diagram.element(sheet.about()?).key.as_str(), sheet.name.as_str())))
            .collect();
        for item in &mut drawing.scene.items {
            if let Item::Group(Tag::Element { id, opens, .. }, _) = item
                && opens.is_none()
            {
                *opens = inside.get(id.as_str()).map(|name| (*name).to_owned());
            }
        }
    }

    /// What to say of its drawing if it holds more than can be drawn well.
    pub fn crowding(&self, drawing: &Drawing) -> Option<Crowding> {
        let diagram = self.diagram();
        let faults = drawing.report.as_ref().map_or(0, |report| report.faults);
        (faults > 0).then(|| Crowding::of(self.name, diagram, &self.view(), faults)).flatten()
    }

    /// How much time it may take of a run: those of a large stack take little each.
    pub fn share(&self) -> Share {
        match self.what {
            What::Level(diagram, levels, _) => {
                let all = levels.len() * (diagram.elements.len() + diagram.relations.len());
                if levels.len() > MANY || all > MUCH { Share::OneOfMany } else { Share::Own }
            }
            _ => Share::Own,
        }
    }

    /// The picture that carries a long text instead: the first of a stack, for the others.
    pub fn text_in(&self) -> Option<&'a str> {
        let What::Level(_, levels, level) = self.what else { return None };
        levels.first().map(|top| top.name.as_str()).filter(|top| *top != level.name)
    }

    /// Whether something was asked of its layout, which may not keep it.
    pub fn has_constraints(&self) -> bool {
        match self.what {
            What::Block(diagram) | What::Level(diagram, ..) => diagram.picture.may_go_unmet(),
            What::Sheet(diagram, sheet) => diagram.picture.may_go_unmet() || sheet.picture.may_go_unmet(),
        }
    }
}

impl Reading {
    /// Whether the text has errors.
    pub fn has_errors(&self) -> bool {
        self.diagnostics.iter().any(check::is_error)
    }

    /// The sources that its spans stand in: its own, and those that it takes from.
    pub fn sources(&self) -> Sources<'_> {
        Sources::new(self.all_sources())
    }

    fn all_sources(&self) -> impl Iterator<Item = &Source> {
        std::iter::once(&self.source).chain(&self.document.imports.sources)
    }

    /// The line that declares an element of a diagram of this file, or says it first.
    pub fn declaration(&self, diagram: &Diagram, id: ElementId) -> Option<LineId> {
        let target = Target::Element(BlockId::of(diagram), id);
        let declared = self.occurrences.of(target).find(|o| o.role == Role::Declared).map(|o| o.span);
        self.tree.line_at(declared.unwrap_or(diagram.element(id).span).start)
    }

    /// The pictures of the file: its diagrams, then its sheets.
    pub fn pictures(&self) -> impl Iterator<Item = Picture<'_>> {
        let sheets = self.document.sheets.iter();
        let sheets = sheets.filter_map(|sheet| Some(Picture::of_sheet(self.document.diagram(&sheet.of)?, sheet)));
        let blocks = self.document.diagrams.iter();
        blocks.map(Picture::of_diagram).chain(sheets)
    }

    /// What the digest of a picture is made of, and what the picture carries.
    pub fn provenance<'a>(&'a self, name: &'a str) -> Provenance<'a> {
        Provenance {
            file: &self.source.name,
            name,
            source: &self.source.text,
            imports: &self.document.imports.sources,
            icons: self.icons.files(),
            look: &self.look,
            earlier: None,
            packed: &self.packed,
            text_in: None,
        }
    }

    /// Adds findings that came out later, in the order of the text.
    pub fn add_findings(&mut self, found: Vec<Diagnostic>) {
        self.diagnostics.extend(found);
        self.diagnostics.sort_by_key(|d| (d.span, d.code));
        self.diagnostics.dedup();
    }

    /// Whether a block that begins here has errors: what its picture lacks may be what could not be read.
    pub fn is_broken(&self, span: Span) -> bool {
        self.broken.holds(span)
    }

    fn bench(&self) -> Bench<'_> {
        let (source, tree, taken) = (&self.source, &self.tree, self.document.imports.sources.as_slice());
        Bench { source, tree, taken, broken: &self.broken, levels: &self.levels }
    }
}

/// What a file is read with.
#[derive(Clone, Copy)]
pub struct Setting<'a> {
    /// The files that it may take from.
    pub world: &'a dyn World,
    /// How much each rule weighs.
    pub levels: &'a Levels,
    /// What the themes of its pictures are, as [`Themes::fingerprint`] says.
    pub look: &'a str,
}

impl Default for Setting<'static> {
    /// No other files, every rule as usual, and the default theme.
    fn default() -> Self {
        static ALONE: Alone = Alone;
        static USUAL: Levels = Levels::new();
        Self { world: &ALONE, levels: &USUAL, look: "" }
    }
}

/// Reads a file. `stem` names a diagram whose block has no name: the file's name without its ending. Near-linear in the
/// length of the text, and of those that it takes from; nothing is laid out.
pub fn read(source: Source, stem: &str, setting: &Setting<'_>) -> Reading {
    steps(source, stem, setting, &|| false)
}

/// The same, until `stop` says that nobody waits for it any more: then `None`. It is asked at every line.
pub fn read_unless(source: Source, stem: &str, setting: &Setting<'_>, stop: &dyn Fn() -> bool) -> Option<Reading> {
    let reading = steps(source, stem, setting, stop);
    (!stop()).then_some(reading)
}

fn steps(source: Source, stem: &str, setting: &Setting<'_>, stop: &dyn Fn() -> bool) -> Reading {
    let mut diags = Diagnostics::default();
    // 1. Text to lines.
    let tree = syntax::parse(&source, &mut diags);
    // 2. Lines to meaning.
    let (document, occurrences) = model::read(&source, &tree, stem, (setting.world, stop), &mut diags);
    let looks = document.all_looks();
    // 3. Looks: traits and rules that mean nothing are errors too.
    for diagram in &document.diagrams {
        theme::check_traits(diagram, &mut diags);
        theme::check_effects(&document, diagram, &mut diags);
    }
    theme::check_rules(&document, &mut diags);
    theme::check_rule_effects(&document, &mut diags);
    let icons = notation::icons(&source, &document, setting.world, &mut diags);
    // 4. Rules: what a reviewer would ask, weighed as the project and the text say.
    let found = diags.into_sorted();
    let broken = Broken::of(&source, &tree, &found);
    let mut diags = Diagnostics::from(found);
    if !stop() {
        check::run(&document, &broken, setting.levels, &mut diags);
    }
    let (packed, levels, look) = (Packed::default(), setting.levels.clone(), setting.look.to_owned());
    let diagnostics = Vec::new();
    let mut reading =
        Reading { source, tree, document, occurrences, looks, diagnostics, icons, look, broken, levels, packed };
    reading.diagnostics = check::judge(diags.into_sorted(), &reading.bench());
    reading
}

/// How a view is drawn.
#[derive(Clone, Copy, Default)]
pub struct DrawOptions<'a> {
    /// Where an earlier picture has its elements, which stay near there.
    pub earlier: Option<&'a Places>,
    /// How much time it may take of a run.
    pub share: Share,
    /// Rules that come after those of the file.
    pub more_looks: &'a [LookRule],
    /// Sources of other files that the view speaks of.
    pub more_sources: &'a [Source],
    /// Says that nobody waits for the drawing any more: it is then made quickly, and is not worth looking at.
    pub stop: Option<&'a (dyn Fn() -> bool + Sync)>,
}

/// Work that may have become needless.
struct Stoppable<'a> {
    jobs: &'a dyn Jobs,
    stop: Option<&'a (dyn Fn() -> bool + Sync)>,
}

impl Jobs for Stoppable<'_> {
    fn run(&self, count: usize, work: &(dyn Fn(usize) + Sync)) {
        self.jobs.run(count, work);
    }

    fn is_stopped(&self) -> bool {
        self.stop.is_some_and(|stop| stop())
    }
}

/// Draws a view of a file.
pub fn draw(studio: &Studio, reading: &Reading, view: &View, options: &DrawOptions<'_>) -> Drawing {
    let mut drawing = with_context(studio, reading, view, options, notation::draw);
    manner::apply(&mut drawing.scene, &studio.themes.main, &studio.fonts);
    drawing
}

/// What the layout of a view is given; `None` for a sequence, which is no graph.
pub fn layout_input(studio: &Studio, reading: &Reading, view: &View, options: &DrawOptions<'_>) -> Option<Graph> {
    with_context(studio, reading, view, options, notation::given)
}

fn with_context<T>(
    studio: &Studio, reading: &Reading, view: &View, options: &DrawOptions<'_>, act: impl FnOnce(&Context<'_>) -> T,
) -> T {
    let looks: Vec<LookRule> = reading.looks.iter().chain(options.more_looks).cloned().collect();
    act(&Context {
        view,
        sources: &Sources::new(reading.all_sources().chain(options.more_sources)).relative(),
        fonts: &studio.fonts,
        looks: &looks,
        earlier: options.earlier,
        share: options.share,
        icons: &reading.icons,
        language: &studio.language,
        jobs: &Stoppable { jobs: &*studio.jobs, stop: options.stop },
    })
}

/// The findings about what a drawing of a file could not keep, weighed as the project and the text say.
pub fn weigh_unmet(reading: &Reading, unmet: &[Unmet]) -> Vec<Diagnostic> {
    let mut diags = Diagnostics::default();
    check::hint_not_kept::of_drawing(unmet, &mut diags);
    check::judge_late(diags.into_sorted(), &reading.bench())
}

/// The findings about what no picture of a file's models shows, with sheets in `others` too, weighed as the project and the text say.
/// They take the place of those that the file has on its own.
pub fn shown_nowhere(reading: &Reading, others: &[&Reading]) -> Vec<Diagnostic> {
    let mut diags = Diagnostics::default();
    for diagram in reading.document.diagrams.iter().filter(|d| !reading.is_broken(d.span)) {
        // The diagram as another file takes it: from this file.
        let is_taken = |other: &&Reading| other.document.imports.sources.iter().any(|s| s.name == reading.source.name);
        let sheets = others.iter().copied().filter(is_taken).flat_map(|other| {
            let own = other.document.sheets.iter().filter(|s| s.of == diagram.name);
            own.filter_map(|sheet| Some((sheet, other.document.diagram(&sheet.of)?))).collect::<Vec<_>>()
        });
        if matches!(diagram.kind, DiagramKind::Architecture | DiagramKind::Classes) {
            check::shown_nowhere::check_with(&reading.document, diagram, &sheets.collect::<Vec<_>>(), &mut diags);
        }
    }
    check::judge_late(diags.into_sorted(), &reading.bench())
}

/// What a file holds that no shipped font can draw, with where it stands first.
pub fn unshipped_letters(reading: &Reading, fonts: &Fonts) -> BTreeMap<String, Span> {
    crate::measure::unshipped(&reading.source, &reading.tree, fonts)
}

/// The finding about letters that were found in no font, weighed as the project and the text say.
pub fn weigh_missing(reading: &Reading, missing: &BTreeMap<String, Span>) -> Vec<Diagnostic> {
    let mut diags = Diagnostics::default();
    check::missing_letter::of_missing(missing, &mut diags);
    check::judge_late(diags.into_sorted(), &reading.bench())
}

/// A sheet that stands in no file.
#[derive(Clone, Debug)]
pub struct AdHoc {
    /// The sheet; `None` if its words have errors.
    pub sheet: Option<Sheet>,
    /// What was found wrong or doubtful in its words.
    pub findings: Vec<Diagnostic>,
    /// Sources of other files, under numbers of their own: what the sheet takes from them stands there.
    pub sources: Vec<Source>,
}

/// Makes a sheet that stands in no file, of a diagram that this file holds or sees. It may follow a sequence of one of
/// `others`.
pub fn ad_hoc(words: &AdHocWords<'_>, diagram: &Diagram, reading: &Reading, others: &[&Reading]) -> AdHoc {
    let mut diags = Diagnostics::default();
    let mut sources: Vec<Source> = Vec::new();
    let mut foreign: Vec<Diagram> = Vec::new();
    let first = reading.document.imports.sources.iter().map(|s| s.id.number()).max().unwrap_or(0) + 1;
    for other in others.iter().filter(|o| o.source.name != reading.source.name) {
        // Its files get numbers behind all others.
        let numbers: BTreeMap<SourceId, SourceId> = std::iter::once(&other.source)
            .chain(&other.document.imports.sources)
            .map(|own| {
                let id = SourceId::new(first as usize + sources.len());
                sources.push(own.renumbered(id));
                (own.id, id)
            })
            .collect();
        let sequences = other.document.diagrams.iter().filter(|d| d.kind == DiagramKind::Sequence).cloned();
        foreign.extend(sequences.map(|mut sequence| {
            for relation in &mut sequence.relations {
                relation.span.source = numbers.get(&relation.span.source).copied().unwrap_or(SourceId::LOOSE);
            }
            sequence
        }));
    }
    let foreign: Vec<&Diagram> = foreign.iter().collect();
    let sheet = model::ad_hoc(words, diagram, &reading.document, &foreign, &mut diags);
    let findings = diags.into_sorted();
    AdHoc { sheet: (!findings.iter().any(check::is_error)).then_some(sheet), findings, sources }
}

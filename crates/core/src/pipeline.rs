//! The whole line from text to picture, as two calls: [`read`] a file, then [`draw`] each of its
//! pictures.

use crate::check::{self, Broken, Levels};
use crate::compare;
use crate::container::{self, Packed, Provenance};
use crate::diag::{Diagnostic, Diagnostics};
use crate::jobs::{Jobs, OneByOne};
use crate::layout::{Graph, Laid};
use crate::measure::Fonts;
use crate::model::{self, Diagram, Document, Level, LookRule, Sheet};
use crate::notation::pictogram::{self, Icons};
use crate::notation::{self, Context};
use crate::source::Source;
use crate::source::world::{Alone, World};
use crate::svg::{self, FontCache};
use crate::syntax;
use crate::theme::{self, Theme};

/// What all pictures of one run share: theme, fonts, and font subsets made before.
pub struct Studio {
    theme: Theme,
    fonts: Fonts,
    cache: FontCache,
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
        Self { theme: theme::shoal(), fonts: Fonts::new(), cache: FontCache::default(), jobs }
    }
}

impl Studio {
    fn context<'a>(&'a self, reading: &'a Reading, earlier: Option<&'a str>) -> Context<'a> {
        let (theme, fonts, looks, jobs) = (&self.theme, &self.fonts, &reading.looks, &*self.jobs);
        Context { theme, fonts, looks, earlier, one_of_many: false, icons: &reading.icons, jobs }
    }
}

/// A file that was read.
#[derive(Clone, Debug)]
pub struct Reading {
    /// Its text.
    pub source: Source,
    /// What it means, as far as it could be read.
    pub document: Document,
    /// The rules that hold in it, those of other files first.
    pub looks: Vec<LookRule>,
    /// What was found wrong or doubtful, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
    /// The pictograms that it names.
    pub icons: Icons,
    /// The text as drawings carry it, made when the first of them is drawn.
    packed: Packed,
}

/// One picture of a file, before it is made a diagram of its own.
#[derive(Clone, Copy, Debug)]
pub struct View<'a> {
    /// Its name.
    pub name: &'a str,
    /// The line at which its block begins.
    pub line: u32,
    what: What<'a>,
}

#[derive(Clone, Copy, Debug)]
enum What<'a> {
    Block(&'a Diagram),
    Sheet(&'a Diagram, &'a Sheet),
    Level(&'a Diagram, &'a [Level], &'a Level),
}

impl<'a> View<'a> {
    /// A sheet of a diagram that stands in no text.
    pub fn of_sheet(diagram: &'a Diagram, sheet: &'a Sheet) -> Self {
        Self { name: &sheet.name, line: sheet.line, what: What::Sheet(diagram, sheet) }
    }

    /// All pictures of a stack, linked to each other; the first is that of the outermost level.
    pub fn of_stack(diagram: &'a Diagram, levels: &'a [Level]) -> impl Iterator<Item = Self> {
        let line = diagram.line;
        levels.iter().map(move |level| Self { name: &level.name, line, what: What::Level(diagram, levels, level) })
    }

    /// What is drawn.
    pub fn diagram(&self) -> Diagram {
        match self.what {
            What::Block(diagram) => model::without_hosts(diagram).into_owned(),
            What::Sheet(diagram, sheet) => model::lift(diagram, sheet),
            What::Level(diagram, levels, level) => level.drawn(diagram, levels),
        }
    }

    /// How the picture is drawn. Those of a stack are drawn anew each time, the first one with the text for all.
    fn manner(&self) -> Manner<'a> {
        match self.what {
            What::Block(_) | What::Sheet(..) => Manner::default(),
            What::Level(_, levels, level) => {
                let text_in = levels.first().map(|top| top.name.as_str()).filter(|top| *top != level.name);
                Manner { text_in, one_of_many: levels.len() > MANY }
            }
        }
    }
}

/// A stack of more pictures than this has very many.
const MANY: usize = 100;

impl Reading {
    /// Whether the text has mistakes.
    pub fn has_mistakes(&self) -> bool {
        self.diagnostics.iter().any(check::is_mistake)
    }

    /// The pictures of the file: its diagrams, then its sheets.
    pub fn views(&self) -> impl Iterator<Item = View<'_>> {
        let sheets = self.document.sheets.iter();
        let sheets = sheets.filter_map(|sheet| Some(View::of_sheet(self.document.diagram(&sheet.of)?, sheet)));
        let blocks = self.document.diagrams.iter();
        blocks.map(|d| View { name: &d.name, line: d.line, what: What::Block(d) }).chain(sheets)
    }

    /// The same, each as the diagram it shows.
    pub fn pictures(&self) -> Vec<Diagram> {
        self.views().map(|view| view.diagram()).collect()
    }
}

/// What a file is read with.
#[derive(Clone, Copy)]
pub struct Setting<'a> {
    /// The files that it may take from.
    pub world: &'a dyn World,
    /// How much each rule weighs.
    pub levels: &'a Levels,
}

impl Default for Setting<'static> {
    /// No other files, and every rule as usual.
    fn default() -> Self {
        static ALONE: Alone = Alone;
        static USUAL: Levels = Levels::new();
        Self { world: &ALONE, levels: &USUAL }
    }
}

/// Reads a file. `stem` names a diagram whose block has no name: the file's name without its ending.
pub fn read(source: Source, stem: &str, setting: &Setting<'_>) -> Reading {
    let mut diags = Diagnostics::default();
    // 1. Text to lines.
    let tree = syntax::parse(&source, &mut diags);
    // 2. Lines to meaning.
    let document = model::read(&source, &tree, stem, setting.world, &mut diags);
    let looks = document.all_looks();
    // 3. Looks: traits and rules that mean nothing are mistakes too.
    let theme = theme::shoal();
    for diagram in &document.diagrams {
        theme::resolve(&theme, &looks, diagram, &mut diags);
    }
    theme::check_rules(&document, &theme, &mut diags);
    let icons = notation::icons(&source, &document, setting.world, &mut diags);
    // 4. Rules: what a reviewer would ask, weighed as the project and the text say.
    let found = diags.into_sorted();
    let broken = Broken::of(&source, &tree, &found);
    let mut diags = Diagnostics::from(found);
    check::run(&document, &broken, &mut diags);
    let mut reading = Reading { source, document, looks, diagnostics: Vec::new(), icons, packed: Packed::default() };
    // 5. Wishes about pictures: only the layout knows which of them it keeps.
    unkept_wishes(&reading, &broken, &mut diags);
    reading.diagnostics = check::judge(&reading.source, &tree, diags.into_sorted(), &broken, setting.levels);
    reading
}

/// Reads a sheet that stands in no file, of a diagram that this file holds or sees, or that is one of `others`; with what
/// was found wrong or doubtful in its text. `None` if it has mistakes.
pub fn ad_hoc(source: &Source, reading: &Reading, others: &[&Diagram]) -> (Option<Sheet>, Vec<Diagnostic>) {
    let mut diags = Diagnostics::default();
    let tree = syntax::parse(source, &mut diags);
    let sheet = model::read_sheet(source, &tree, &reading.document, others, &mut diags);
    let found = diags.into_sorted();
    (sheet.filter(|_| !found.iter().any(check::is_mistake)), found)
}

/// Lays out the pictures that have wishes, and reports those that are not kept.
fn unkept_wishes(reading: &Reading, broken: &Broken, diags: &mut Diagnostics) {
    let blocks = reading.document.diagrams.iter().map(|d| &d.picture);
    let mut pictures = blocks.chain(reading.document.sheets.iter().map(|s| &s.picture));
    if !pictures.any(check::hint_not_kept::has_wishes) {
        return;
    }
    let studio = Studio::new();
    let is_asked = |d: &Diagram| check::hint_not_kept::has_wishes(&d.picture) && !broken.holds(d.line);
    for diagram in reading.pictures().into_iter().filter(is_asked) {
        if let Some((graph, laid)) = place(&studio, reading, &diagram) {
            let is_arranged = graph.arrangement.is_none_or(|asked| asked == laid.report.arrangement);
            check::hint_not_kept::of_graph(&diagram, is_arranged, &laid.report.dropped, diags);
        }
    }
}

/// Draws one picture of a file as SVG text.
pub fn draw(studio: &Studio, reading: &Reading, diagram: &Diagram) -> String {
    draw_keeping(studio, reading, diagram, None)
}

/// Draws one picture of a file near where an earlier picture, an SVG text, has its elements, if there is one. An earlier
/// picture of the same text is the answer itself.
pub fn draw_keeping(studio: &Studio, reading: &Reading, diagram: &Diagram, earlier: Option<&str>) -> String {
    draw_with(studio, reading, diagram, earlier, Manner::default())
}

/// Draws one of the pictures of a file, or a sheet or a stack of it; as [`draw_keeping`].
pub fn draw_view(studio: &Studio, reading: &Reading, view: &View<'_>, earlier: Option<&str>) -> String {
    draw_with(studio, reading, &view.diagram(), earlier, view.manner())
}

/// How a picture is drawn.
#[derive(Clone, Copy, Default)]
struct Manner<'a> {
    /// The picture that carries a long text instead.
    text_in: Option<&'a str>,
    /// Whether it is one of very many.
    one_of_many: bool,
}

fn draw_with(
    studio: &Studio, reading: &Reading, diagram: &Diagram, earlier: Option<&str>,
    Manner { text_in, one_of_many }: Manner<'_>,
) -> String {
    let digest = container::digest(&provenance(reading, &diagram.name));
    let is_same = |svg: &&str| container::read(svg.as_bytes()).is_some_and(|c| c.digest == digest && c.is_intact);
    if let Some(same) = earlier.filter(is_same) {
        return same.to_owned();
    }
    let places = earlier.and_then(container::read_places);
    let context = Context { one_of_many, ..studio.context(reading, places.as_deref()) };
    // Traits were reported when the file was read.
    let scene = notation::draw(diagram, &context, &mut Diagnostics::default());
    let earlier = earlier.and_then(container::read_digest).filter(|_| places.is_some());
    svg::write(&scene, &studio.cache, &Provenance { earlier, text_in, ..provenance(reading, &diagram.name) })
}

/// Draws what changed between two versions of a diagram as one picture: what is there now where it was, what went still in
/// it, and both marked. `reading` is that of the newer text, `before` the picture of the older one.
pub fn draw_changes(studio: &Studio, reading: &Reading, [old, new]: [&Diagram; 2], before: Option<&str>) -> String {
    let places = before.and_then(container::read_places);
    let marked = compare::merged(old, new);
    let looks: Vec<LookRule> = reading.looks.iter().chain(&marked.looks).cloned().collect();
    let context = Context { looks: &looks, ..studio.context(reading, places.as_deref()) };
    let scene = notation::draw(&marked.diagram, &context, &mut Diagnostics::default());
    // It is nobody's picture: no text has this name.
    let name = format!("changes of {}", new.name);
    svg::write(&scene, &studio.cache, &provenance(reading, &name))
}

/// Draws a contact sheet of pictograms as SVG text.
pub fn icon_sheet(studio: &Studio, entries: &[pictogram::Entry]) -> String {
    let scene = pictogram::sheet(entries, &studio.theme, &studio.fonts);
    let packed = Packed::default();
    let (file, name, source) = ("", "icons", "");
    let provenance =
        Provenance { file, name, source, imports: &[], icons: "", earlier: None, packed: &packed, text_in: None };
    svg::write(&scene, &studio.cache, &provenance)
}

/// Lays out one picture of a file without drawing it: what the layout was given, and what it gave back. `None` for
/// a sequence, which is no graph.
pub fn place(studio: &Studio, reading: &Reading, diagram: &Diagram) -> Option<(Graph, Laid)> {
    place_keeping(studio, reading, diagram, None)
}

/// The same, near where an earlier picture has its elements, if there is one.
pub fn place_keeping(
    studio: &Studio, reading: &Reading, diagram: &Diagram, earlier: Option<&str>,
) -> Option<(Graph, Laid)> {
    place_with(studio, reading, diagram, earlier, Manner::default())
}

/// Lays out a picture, sheet or stack as [`draw_view`] draws it.
pub fn place_view(studio: &Studio, reading: &Reading, view: &View<'_>, earlier: Option<&str>) -> Option<(Graph, Laid)> {
    place_with(studio, reading, &view.diagram(), earlier, view.manner())
}

fn place_with(
    studio: &Studio, reading: &Reading, diagram: &Diagram, earlier: Option<&str>, manner: Manner<'_>,
) -> Option<(Graph, Laid)> {
    let places = earlier.and_then(container::read_places);
    let one_of_many = manner.one_of_many;
    notation::place(diagram, &Context { one_of_many, ..studio.context(reading, places.as_deref()) })
}

/// What the digest of a picture is made of.
pub fn provenance<'a>(reading: &'a Reading, name: &'a str) -> Provenance<'a> {
    Provenance {
        file: &reading.source.name,
        name,
        source: &reading.source.text,
        imports: &reading.document.imports.sources,
        icons: reading.icons.files(),
        earlier: None,
        packed: &reading.packed,
        text_in: None,
    }
}

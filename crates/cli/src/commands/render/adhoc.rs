//! Sheets without writing them: `--depth`, `--focus`, `--follow`, and `--all-depths`, the whole stack of a model.

use crate::outcome::{Failure, Result};
use crate::session::Voice;
use bathygram_core::diag::Diagnostic;
use bathygram_core::emit::emit_sheet;
use bathygram_core::model::{AdHocWords, Diagram, DiagramKind, Sheet};
use bathygram_core::pipeline::{self, AdHoc, Picture, Reading};
use bathygram_core::source::{Source, SourceId};
use bathygram_core::syntax::Label;
use bathygram_core::views::{StackLevel, shows_nothing, stack};
use bathygram_host::FileFindings;

/// What the arguments ask for beyond what is written.
#[derive(clap::Args, Default)]
#[command(next_help_heading = "Sheets that stand in no file")]
pub(super) struct Unwritten {
    /// Of this architecture, or these classes; may be left out where there is only one
    #[arg(long, value_name = "BLOCK")]
    of: Option<String>,
    /// Draw a sheet of this many levels
    #[arg(long, value_name = "N", value_parser = crate::numbers::between(1..=u32::MAX))]
    depth: Option<u32>,
    /// A sheet of one or several elements and what they touch, `gateway` or `"gateway, desk 2"` with a distance
    #[arg(long, value_name = "NAMES")]
    focus: Option<String>,
    /// A sheet with the messages of a sequence as numbered steps
    #[arg(long, value_name = "SEQUENCE")]
    follow: Option<String>,
    /// The whole stack: the outermost level, and the inside of everything, linked to each other
    #[arg(long, conflicts_with_all = ["depth", "focus", "follow"])]
    all_depths: bool,
}

impl Unwritten {
    /// The block that is named.
    pub(super) fn block(&self) -> Option<&str> {
        self.of.as_deref()
    }

    /// Whether anything is asked for.
    pub(super) fn is_asked(&self) -> bool {
        self.all_depths || self.depth.is_some() || self.focus.is_some() || self.follow.is_some() || self.of.is_some()
    }
}

/// What is to be drawn instead of what the texts say.
pub(super) struct Asked<'a> {
    /// The file of the diagram.
    pub(super) reading: &'a Reading,
    diagram: &'a Diagram,
    what: What,
    /// Sources of other files that a sheet speaks of.
    pub(super) sources: Vec<Source>,
}

enum What {
    Sheet(Box<Sheet>),
    Stack(Vec<StackLevel>),
}

impl Asked<'_> {
    /// The block that is drawn.
    pub(super) fn of(&self) -> &str {
        &self.diagram.name
    }

    /// Its pictures.
    pub(super) fn pictures(&self) -> Vec<Picture<'_>> {
        match &self.what {
            What::Sheet(sheet) => vec![Picture::of_sheet(self.diagram, sheet)],
            What::Stack(levels) => Picture::of_stack(self.diagram, levels).collect(),
        }
    }
}

/// Finds what the arguments ask for; `None` if they have errors, which were reported.
///
/// # Errors
/// If they ask for something that there is not.
pub(super) fn find<'a>(arguments: &Unwritten, readings: &[&'a Reading], voice: Voice) -> Result<Option<Asked<'a>>> {
    let (reading, diagram) = block(arguments.of.as_deref(), readings)?;
    if arguments.all_depths {
        return Ok(Some(Asked { reading, diagram, what: What::Stack(stack(diagram)), sources: Vec::new() }));
    }
    if arguments.depth.is_none() && arguments.focus.is_none() && arguments.follow.is_none() {
        return Err(Failure::Usage("--of needs one of --depth, --focus, --follow or --all-depths".into()));
    }
    let phrases = Phrases::of(arguments);
    let words = AdHocWords {
        name: &phrases.name,
        depth: arguments.depth,
        focus: phrases.focus.as_ref(),
        follow: phrases.follow.as_ref(),
    };
    let others: Vec<&Diagram> = readings.iter().flat_map(|r| &r.document.diagrams).collect();
    let AdHoc { sheet, findings, sources } = pipeline::ad_hoc(&words, diagram, reading, readings);
    for source in phrases.sources() {
        let own: Vec<Diagnostic> = findings.iter().filter(|f| f.span.source == source.id).cloned().collect();
        voice.findings_in(&FileFindings::of(source, &own), &source.name);
    }
    let Some(mut sheet) = sheet else { return Ok(None) };
    if shows_nothing(diagram, &sheet) {
        let text = emit_sheet(diagram, &sheet);
        let what = text.lines().skip(1).map(str::trim).collect::<Vec<_>>().join(", ");
        return Err(Failure::Usage(format!("`{what}` shows nothing of `{}`", diagram.name)));
    }
    sheet.title = Some(title(arguments, diagram, &sheet, &others));
    Ok(Some(Asked { reading, diagram, what: What::Sheet(Box::new(sheet)), sources }))
}

/// The block that was named, or the only one that there is; architectures before classes.
fn block<'a>(name: Option<&str>, readings: &[&'a Reading]) -> Result<(&'a Reading, &'a Diagram)> {
    let all = || readings.iter().flat_map(|r| r.document.diagrams.iter().map(move |d| (*r, d)));
    let of_kind = |kind| all().filter(|(_, d)| d.kind == kind).collect::<Vec<_>>();
    let (maps, classes) = (of_kind(DiagramKind::Architecture), of_kind(DiagramKind::Classes));
    let names = maps.iter().chain(&classes).map(|(_, d)| format!("`{}`", d.name)).collect::<Vec<_>>().join(", ");
    match name {
        Some(name) => {
            let found = maps.iter().chain(&classes).find(|(_, d)| d.name == name).copied();
            found.ok_or_else(|| match names.is_empty() {
                true => Failure::Usage(format!("there is no architecture `{name}`")),
                false => {
                    Failure::Usage(format!("there is no architecture `{name}`, nor such classes; there are {names}"))
                }
            })
        }
        None => match (maps.as_slice(), classes.as_slice()) {
            ([only], _) | ([], [only]) => Ok(*only),
            ([], []) => Err(Failure::Usage("there is no architecture to draw a sheet of".into())),
            _ => Err(Failure::Usage(format!("choose what to draw with --of BLOCK; there are {names}"))),
        },
    }
}

/// What the arguments say in words, each a text of its own, and the name that the sheet has by them.
struct Phrases {
    name: String,
    focus: Option<Source>,
    follow: Option<Source>,
}

impl Phrases {
    fn of(arguments: &Unwritten) -> Self {
        let one_line = |text: &String| text.split_whitespace().collect::<Vec<_>>().join(" ");
        let plain = |c: char| if c.is_alphanumeric() || c == '_' { c } else { '-' };
        let (focus, follow) = (arguments.focus.as_ref().map(one_line), arguments.follow.as_ref().map(one_line));
        let mut names: Vec<String> = arguments.depth.iter().map(|depth| format!("depth-{depth}")).collect();
        for (word, value) in [("focus", &focus), ("follow", &follow)] {
            let cut = |value: &String| value.chars().map(plain).take(60).collect::<String>().replace("--", "-");
            names.extend(value.as_ref().map(|value| format!("{word}-{}", cut(value))));
        }
        let source = |(number, name): (u32, &str), text| Source::numbered(SourceId::loose(number), name, text);
        Self {
            name: names.join("-"),
            focus: focus.map(|text| source((0, "--focus"), text)),
            follow: follow.map(|text| source((1, "--follow"), text)),
        }
    }

    fn sources(&self) -> impl Iterator<Item = &Source> {
        self.focus.iter().chain(&self.follow)
    }
}

/// A title that says what the sheet is about.
fn title(arguments: &Unwritten, diagram: &Diagram, sheet: &Sheet, others: &[&Diagram]) -> Label {
    let called = |d: &Diagram| d.title.as_ref().map_or_else(|| d.name.clone(), Label::text);
    let followed = arguments.follow.as_deref().and_then(|name| others.iter().find(|d| d.name == name));
    let focus: Vec<String> = sheet.focus.iter().map(|(id, _)| diagram.element(*id).shown().text()).collect();
    let text = match (followed, focus.as_slice(), arguments.depth) {
        (Some(sequence), _, _) => format!("{}, step by step", called(sequence)),
        (None, [], Some(1)) => format!("{}, from outside", called(diagram)),
        (None, [], Some(depth)) => format!("{}, {depth} levels deep", called(diagram)),
        (None, [], None) => called(diagram),
        (None, names, _) => format!("Around {}", names.join(", ")),
    };
    Label::plain(text, sheet.span)
}

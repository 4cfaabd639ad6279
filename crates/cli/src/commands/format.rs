//! `format`: texts in their one canonical form.

use crate::named;
use crate::outcome::{Failure, Outcome, Result};
use crate::session::{self, Voice};
use bathygram_core::format::{format, line_changes};
use bathygram_core::source::conflict::conflicts;
use bathygram_core::source::{Source, visible};
use bathygram_core::syntax::lone_return;
use bathygram_host::{Colours, is_document, read_source, write_whole};
use bathygram_outputs::markdown;
use similar::udiff::UnifiedHunkHeader;
use similar::{DiffOp, DiffTag, group_diff_ops};
use std::path::{Path, PathBuf};

/// Bring source files into the one canonical form: all of the project, or the files named
///
/// Comments and everything else that was written stay; only spaces, empty lines and the order of pins
/// change. Files that change are listed. `-` reads standard input and writes to standard output.
#[derive(clap::Args)]
#[command(after_help = "Examples:\n  bathygram format\n  bathygram format surge_warning.bathy\n  \
    bathygram format --check\n  bathygram format - < surge_warning.bathy")]
pub(crate) struct Arguments {
    /// Source files, folders or patterns; all of the project if none is named, `-` for standard input
    files: Vec<PathBuf>,
    /// Change nothing; show what would change, and end with 1 if anything would
    #[arg(long)]
    check: bool,
}

/// Runs the command.
///
/// # Errors
/// If it is called wrongly, or a file cannot be read or written.
pub(crate) fn run(arguments: &Arguments, voice: Voice) -> Result {
    let is_piped = session::is_piped(&arguments.files)?;
    let project = session::project()?;
    let (mut whole, mut has_errors, mut changed, mut count) = (true, false, 0, 0);
    let mut listed = String::new();
    for path in named::files(&project, &arguments.files, named::Takes::Sources)? {
        let text = match read_source(&path) {
            Ok(text) => text,
            Err(failure) => {
                voice.failure(&failure.into());
                whole = false;
                continue;
            }
        };
        count += 1;
        if let Some(first) = conflicts(&text).first() {
            let line = text[..first.mark.start].matches('\n').count() + 1;
            let shown = project.from_here(&project.shown(&path));
            voice.failure(&Failure::Input(format!(
                "{shown}:{line}: a merge is not finished here; the file stays as it is"
            )));
            has_errors = true;
            continue;
        }
        if let Some(at) = lone_return(&text) {
            let line = text[..at].matches('\n').count() + 1;
            let shown = project.from_here(&project.shown(&path));
            voice.failure(&Failure::Input(format!(
                "{shown}:{line}: a carriage return stands here without a line feed; save the file with line ends of LF, or of CR \
                 and LF"
            )));
            has_errors = true;
            continue;
        }
        let shown = if is_piped { "standard input".to_owned() } else { project.from_here(&project.shown(&path)) };
        let formatted = formatted_file(&shown, &text);
        changed += usize::from(formatted != text);
        if arguments.check {
            listed.push_str(&difference(&shown, &text, &formatted, voice.result_colours()));
        } else if is_piped {
            listed.push_str(&formatted);
        } else if formatted != text && project.leads_out(&path) {
            voice.say(&format!("{shown}: a link out of the project; what it leads to is not written"));
            whole = false;
        } else if formatted != text {
            // A link stays a link: what it leads to is written.
            write_whole(&path.canonicalize().unwrap_or_else(|_| path.clone()), formatted.as_bytes())?;
            listed.push_str(&format!("{shown}\n"));
        }
    }
    session::answer(&listed)?;
    if !is_piped || arguments.check {
        voice.say(&if arguments.check { unformatted(count, changed) } else { formatted(count, changed) });
    }
    Ok(match (whole, has_errors || arguments.check && changed > 0) {
        (false, _) => Outcome::Incomplete,
        (true, true) => Outcome::Denied,
        _ => Outcome::Done,
    })
}

/// A text in its form, or a document with the texts of its blocks in theirs.
fn formatted_file(name: &str, text: &str) -> String {
    if !is_document(Path::new(name)) {
        return format(&Source::new(name, text));
    }
    let blocks = markdown::blocks(text);
    let one = |block: &markdown::Block| {
        Some(format(&Source::new(name, block.text.as_str()))).filter(|new| *new != block.text)
    };
    let texts: Vec<Option<String>> = blocks.iter().map(one).collect();
    markdown::rewritten(text, &blocks, &texts)
}

fn formatted(count: usize, changed: usize) -> String {
    match changed {
        0 => in_form(count),
        changed => format!("{}, {changed} brought into form", session::count(count, "file")),
    }
}

fn unformatted(count: usize, changed: usize) -> String {
    let files = session::count(count, "file");
    match changed {
        0 => in_form(count),
        1 => format!("{files}, 1 not in its form; `bathygram format` changes that"),
        n => format!("{files}, {n} not in their form; `bathygram format` changes that"),
    }
}

fn in_form(count: usize) -> String {
    let its = if count == 1 { "its" } else { "their" };
    format!("{}, in {its} form already", session::count(count, "file"))
}

/// How many lines are shown before and behind what would change.
const CONTEXT: usize = 2;

/// What would change, as a unified diff.
fn difference(name: &str, old: &str, new: &str, colours: Colours) -> String {
    if old == new {
        return String::new();
    }
    let (old, new): (Vec<&str>, Vec<&str>) = (old.split_inclusive('\n').collect(), new.split_inclusive('\n').collect());
    let mut out = vec![format!("--- {name}"), format!("+++ {name}")];
    let lines = |sign: &str, lines: &[&str], out: &mut Vec<String>| {
        for line in lines {
            out.push(format!("{sign}{}", line.trim_end_matches(['\n', '\r'])));
            if !line.ends_with('\n') {
                out.push("\\ No newline at end of file".to_owned());
            }
        }
    };
    for hunk in group_diff_ops(operations(&old, &new), CONTEXT) {
        out.push(UnifiedHunkHeader::new(&hunk).to_string());
        for operation in &hunk {
            if operation.tag() == DiffTag::Equal {
                lines(" ", &old[operation.old_range()], &mut out);
            } else {
                lines("-", &old[operation.old_range()], &mut out);
                lines("+", &new[operation.new_range()], &mut out);
            }
        }
    }
    out.iter().map(|line| coloured(line, colours) + "\n").collect()
}

/// What changes between the lines of a text and those of its canonical form, and what stays. Changes beside each other are one.
fn operations(old: &[&str], new: &[&str]) -> Vec<DiffOp> {
    let mut found = Vec::new();
    let (mut old_index, mut new_index) = (0, 0);
    let changes = line_changes(old, new);
    for one in changes.chunk_by(|a, b| a.old.end == b.old.start && a.new.end == b.new.start) {
        let (Some(first), Some(last)) = (one.first(), one.last()) else { continue };
        let (old_from, new_from) = (first.old.start, first.new.start);
        found.push(DiffOp::Equal { old_index, new_index, len: old_from - old_index });
        (old_index, new_index) = (last.old.end, last.new.end);
        let (old_len, new_len) = (old_index - old_from, new_index - new_from);
        found.push(DiffOp::Replace { old_index: old_from, old_len, new_index: new_from, new_len });
    }
    found.push(DiffOp::Equal { old_index, new_index, len: old.len() - old_index });
    found.retain(|operation| !operation.old_range().is_empty() || !operation.new_range().is_empty());
    found
}

/// A line of a difference in green or red, by its sign.
fn coloured(line: &str, colours: Colours) -> String {
    match line.chars().next() {
        Some('+') => colours.paint("32", line),
        Some('-') => colours.paint("31", line),
        _ => visible(line).into_owned(),
    }
}

//! `check --fix`: makes the corrections that are certain, all of a file or none.

use crate::outcome::Result;
use crate::session::{self, Voice};
use bathygram_core::diag::{Certainty, Diagnostic, Fix};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::{TextEdit, apply};
use bathygram_host::{Disk, Project, is_document, read_source, write_whole};
use bathygram_outputs::markdown;
use std::collections::BTreeSet;
use std::path::Path;

/// One correction may bring out the next; so often a file is read again.
// A correction that undid another one would go on for ever.
const ROUNDS: usize = 8;

/// Corrects the files of some readings; gives back what they are then.
///
/// # Errors
/// If a file cannot be read or written.
pub(super) fn all(project: &Project, readings: Vec<Reading>, voice: Voice) -> Result<Vec<Reading>> {
    let mut out = Vec::new();
    let mut documents = BTreeSet::new();
    for reading in readings {
        if !is_document(Path::new(&reading.source.name)) {
            out.push(one(project, reading, voice)?);
        } else if documents.insert(reading.source.name.clone()) {
            out.extend(document(project, &reading.source.name, voice)?);
        }
    }
    Ok(out)
}

/// Corrects the blocks of a document.
fn document(project: &Project, name: &str, voice: Voice) -> Result<Vec<Reading>> {
    let path = project.root.join(name);
    if !path.is_file() || project.leads_out(&path) {
        voice.say(&format!("{name}: only a document of the project is corrected"));
        return session::open_texts(project, &path);
    }
    let text = read_source(&path)?;
    let blocks = session::blocks(&path, &text)?;
    let world = Disk::around(project, &path);
    let mut texts = Vec::new();
    for (i, block) in blocks.iter().enumerate() {
        let mut block = block.clone();
        let mut corrected = None;
        for _ in 0..ROUNDS {
            let reading = session::read_block(project, name, (i, &block), &world);
            let Some(new) = correct(project, &reading, voice, |_| Ok(()))? else { break };
            block.text.clone_from(&new);
            corrected = Some(new);
        }
        texts.push(corrected);
    }
    let new = markdown::rewritten(&text, &blocks, &texts);
    if new != text {
        write(&path, &new)?;
    }
    session::open_texts(project, &path)
}

fn one(project: &Project, mut reading: Reading, voice: Voice) -> Result<Reading> {
    let path = project.root.join(&reading.source.name);
    if !path.is_file() {
        voice.say(&format!("{}: only a file of the project is corrected", reading.source.name));
        return Ok(reading);
    }
    if project.leads_out(&path) {
        voice.say(&format!("{}: a link out of the project; what it leads to is not corrected", reading.source.name));
        return Ok(reading);
    }
    for _ in 0..ROUNDS {
        if correct(project, &reading, voice, |corrected| write(&path, corrected))?.is_none() {
            break;
        }
        reading = session::open(project, &path)?;
    }
    Ok(reading)
}

/// The text of a reading with all corrections that are certain, handed to `keep` before it is reported; `None` if there is none.
fn correct(
    project: &Project, reading: &Reading, voice: Voice, keep: impl Fn(&str) -> Result<()>,
) -> Result<Option<String>> {
    let certain: Vec<(&Diagnostic, &Fix)> = reading.diagnostics.iter().filter_map(certain).collect();
    if certain.is_empty() {
        return Ok(None);
    }
    let edits: Vec<TextEdit> = certain.iter().flat_map(|(_, fix)| fix.edits.iter().cloned()).collect();
    let name = project.from_here(&reading.source.name);
    let corrected = match apply(&reading.source, &edits) {
        Ok(corrected) => corrected,
        Err(overlap) => {
            let [first, second] = [&overlap.first, &overlap.second].map(|e| reading.source.line(e.span.start));
            voice.say(&format!("{name}: nothing corrected: the corrections of lines {first} and {second} overlap"));
            return Ok(None);
        }
    };
    keep(&corrected)?;
    for (diagnostic, fix) in &certain {
        let (line, column) = reading.source.position(diagnostic.span.start);
        voice.say(&format!("{name}:{line}:{column}: {}", done(reading, fix)));
    }
    Ok(Some(corrected))
}

/// A link stays a link: the file that it leads to is written.
fn write(path: &Path, text: &str) -> Result<()> {
    write_whole(&path.canonicalize()?, text.as_bytes())?;
    Ok(())
}

/// The correction of a finding in the file itself that can be made without asking.
fn certain(diagnostic: &Diagnostic) -> Option<(&Diagnostic, &Fix)> {
    let fix = diagnostic.fixes.iter().find(|f| f.certainty == Certainty::Certain)?;
    fix.edits.iter().all(|e| e.span.source.is_root()).then_some((diagnostic, fix))
}

/// What was done, in words.
fn done(reading: &Reading, fix: &Fix) -> String {
    match fix.edits.as_slice() {
        [only] if !only.span.range().is_empty() && !only.text.trim().is_empty() => {
            format!("`{}` is `{}` now", reading.source.slice(only.span), only.text)
        }
        [only] if only.span.range().is_empty() => format!("`{}` is added", only.text),
        _ => format!("done: {}", fix.title),
    }
}

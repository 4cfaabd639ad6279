//! `check --fix`: makes the corrections that are certain, all of a file or none.

use crate::outcome::Result;
use crate::session::{self, Voice};
use bathygram_core::diag::{Certainty, Diagnostic, Fix};
use bathygram_core::pipeline::Reading;
use bathygram_core::source::{TextEdit, apply};
use bathygram_host::{Project, write_whole};
use std::path::Path;

/// One correction may bring out the next; so often a file is read again.
// A correction that undid another one would go on for ever.
const ROUNDS: usize = 8;

/// Corrects the files of some readings; gives back what they are then.
///
/// # Errors
/// If a file cannot be read or written.
pub(super) fn all(project: &Project, readings: Vec<Reading>, voice: Voice) -> Result<Vec<Reading>> {
    readings.into_iter().map(|reading| one(project, reading, voice)).collect()
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
        let certain: Vec<(&Diagnostic, &Fix)> = reading.diagnostics.iter().filter_map(certain).collect();
        if certain.is_empty() {
            break;
        }
        let edits: Vec<TextEdit> = certain.iter().flat_map(|(_, fix)| fix.edits.iter().cloned()).collect();
        let name = project.from_here(&reading.source.name);
        let corrected = match apply(&reading.source, &edits) {
            Ok(corrected) => corrected,
            Err(overlap) => {
                let [first, second] = [&overlap.first, &overlap.second].map(|e| reading.source.line(e.span.start));
                voice.say(&format!("{name}: nothing corrected: the corrections of lines {first} and {second} overlap"));
                break;
            }
        };
        write(&path, &corrected)?;
        for (diagnostic, fix) in &certain {
            let (line, column) = reading.source.position(diagnostic.span.start);
            voice.say(&format!("{name}:{line}:{column}: {}", done(&reading, fix)));
        }
        reading = session::open(project, &path)?;
    }
    Ok(reading)
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

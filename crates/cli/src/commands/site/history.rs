//! The versions of a project's pictures in git.

use crate::commands::history::{Shown, versions};
use crate::outcome::Result;
use bathygram_core::jobs::map;
use bathygram_core::pipeline::Reading;
use bathygram_host::{Project, Threads};
use bathygram_site::{PictureName, Version};
use std::collections::{BTreeMap, BTreeSet};

/// The versions of all pictures, the newest first; what is not committed is none.
///
/// # Errors
/// If the project is not in git.
pub(super) fn of(project: &Project, readings: &[Reading]) -> Result<BTreeMap<PictureName, Vec<Version>>> {
    let files: BTreeSet<&str> = readings.iter().map(|reading| reading.source.name.as_str()).collect();
    let files: Vec<&str> = files.into_iter().collect();
    let found = map(&Threads::all(), files.len(), &|i| {
        let names: Vec<String> = readings
            .iter()
            .filter(|reading| reading.source.name == files[i])
            .flat_map(|reading| reading.pictures().map(|picture| picture.name.to_owned()).collect::<Vec<_>>())
            .collect();
        versions(project, &project.root.join(files[i]), &names)
    });
    let mut all = BTreeMap::new();
    for (file, found) in files.iter().zip(found) {
        for (name, frames) in found? {
            let version = |frame: Shown| Version {
                date: frame.date,
                author: frame.author,
                subject: frame.subject,
                says: frame.says,
                svg: frame.svg,
            };
            let versions: Vec<Version> = frames.into_iter().rev().map(version).collect();
            all.insert(PictureName { file: (*file).to_owned(), name }, versions);
        }
    }
    Ok(all)
}

//! What was asked of layouts and is not kept. Only a layout can tell, so pictures with constraints are laid out, unless that
//! was done before.

use bathygram_core::container;
use bathygram_core::jobs::map;
use bathygram_core::model::Unmet;
use bathygram_core::pipeline::{self, DrawOptions, Picture, Reading, Studio};
use bathygram_host::Threads;
use bathygram_host::{Project, UnmetCache};

/// Adds to each reading what the layouts of its pictures could not keep.
pub(super) fn add(project: &Project, readings: &mut [Reading]) {
    let mut cache = UnmetCache::open(project);
    let asked: Vec<(usize, Picture<'_>)> =
        readings.iter().enumerate().flat_map(|(i, r)| asked(r).map(move |picture| (i, picture))).collect();
    let digest = |(i, picture): &(usize, Picture<'_>)| container::digest(&readings[*i].provenance(picture.name));
    let digests: Vec<String> = asked.iter().map(digest).collect();
    let known: Vec<Option<Vec<Unmet>>> = digests.iter().map(|d| cache.get(d)).collect();
    let threads = Threads::all();
    let studio = Studio::with_jobs(Box::new(threads.beside(asked.len())));
    let found = map(&threads, asked.len(), &|at| {
        let (i, picture) = &asked[at];
        let laid_out = || pipeline::draw(&studio, &readings[*i], &picture.view(), &DrawOptions::default()).unmet;
        known[at].clone().unwrap_or_else(laid_out)
    });
    for ((digest, unmet), known) in digests.iter().zip(&found).zip(&known) {
        if known.is_none() {
            cache.put(digest, unmet);
        }
    }
    cache.save(project);
    let owners: Vec<usize> = asked.iter().map(|(i, _)| *i).collect();
    for (i, unmet) in owners.into_iter().zip(found) {
        let found = pipeline::weigh_unmet(&readings[i], &unmet);
        readings[i].add_findings(found);
    }
}

/// The pictures of a file that ask something of their layout. A block with errors is left alone.
fn asked(reading: &Reading) -> impl Iterator<Item = Picture<'_>> {
    reading.pictures().filter(|p| p.has_constraints() && !reading.is_broken(p.span))
}

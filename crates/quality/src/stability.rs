//! How far unchanged elements move after a change of one line: laid out from scratch, and with the earlier picture kept. The
//! whole picture may shift; what is measured is what moves against the rest (by the median shift).

use crate::{place, read};
use anyhow::{Context, Result};
use bathygram_core::geom::Rect;
use bathygram_core::layout::Keeping;
use bathygram_core::layout::score::measure;
use bathygram_core::pipeline::{self, DrawOptions, Studio};
use bathygram_corpus::{edits, samples};
use std::collections::BTreeMap;

/// Larger samples are left out.
const NODES: usize = 110;

/// How far each node of both pictures moved, in px, where the pictures as a whole lie on each other.
fn moves(before: &[Rect], after: &[Rect]) -> Vec<f64> {
    let offsets =
        || before.iter().zip(after).map(|(a, b)| (a.middle(), b.middle())).map(|(a, b)| (b.x - a.x, b.y - a.y));
    let (dx, dy) = (crate::median(offsets().map(|o| o.0)), crate::median(offsets().map(|o| o.1)));
    offsets().map(|(x, y)| (x - dx).hypot(y - dy)).collect()
}

/// The mean distance that the nodes of both pictures moved, in px.
fn moved(before: &[Rect], after: &[Rect]) -> f64 {
    let moves = moves(before, after);
    moves.iter().sum::<f64>() / moves.len().max(1) as f64
}

/// The part of the nodes of both pictures that moved by more than a px.
fn part_moved(before: &[Rect], after: &[Rect]) -> f64 {
    let moves = moves(before, after);
    moves.iter().filter(|by| **by > 1.0).count() as f64 / moves.len().max(1) as f64
}

#[derive(Default)]
struct Row {
    edits: usize,
    fresh: f64,
    kept: f64,
    replaced: usize,
    /// The largest part of a picture that one edit moved.
    most: f64,
    faults: usize,
    score: f64,
    fresh_score: f64,
}

pub(crate) fn report() -> Result<String> {
    let studio = Studio::new();
    let mut rows: BTreeMap<&str, Row> = BTreeMap::new();
    for (seed, sample) in samples().into_iter().enumerate() {
        let (reading, view) = read(&sample.text)?;
        let Some((graph, laid)) = place(&studio, &reading, &view, None) else { continue };
        if graph.nodes.len() > NODES {
            continue;
        }
        let picture = pipeline::draw(&studio, &reading, &view, &DrawOptions::default()).places;
        for edit in edits(&sample.text, seed as u64) {
            let (reading, view) = read(&edit.text)?;
            let (_, fresh) = place(&studio, &reading, &view, None).context("an edited sample is a graph")?;
            let kept = place(&studio, &reading, &view, Some(&picture));
            let (graph, kept) = kept.context("an edited sample is a graph")?;
            let before = &laid.placement.nodes;
            let measures = measure(&graph, &kept.placement);
            for name in [sample.family, "~ all"] {
                let row = rows.entry(name).or_default();
                row.edits += 1;
                row.fresh += moved(before, &fresh.placement.nodes);
                row.kept += moved(before, &kept.placement.nodes);
                row.most = row.most.max(part_moved(before, &kept.placement.nodes));
                row.replaced += usize::from(kept.report.keeping != Keeping::Kept);
                row.faults += measures.faults.len();
                row.score += measures.score();
                row.fresh_score += measure(&graph, &fresh.placement).score();
            }
        }
    }
    let mut out = String::from(
        "| one line changed in | edits | moved from scratch, px | moved kept, px | share | most that one edit moved | laid out from scratch | faults | score to from scratch |\n\
         |---|---:|---:|---:|---:|---:|---:|---:|---:|\n",
    );
    for (name, r) in rows {
        let n = r.edits as f64;
        let share = 100.0 * r.kept / r.fresh.max(1e-9);
        out += &format!(
            "| {} | {} | {:.1} | {:.1} | {share:.1} % | {:.0} % | {} | {} | {:.2} |\n",
            name.trim_start_matches("~ "),
            r.edits,
            r.fresh / n,
            r.kept / n,
            100.0 * r.most,
            r.replaced,
            r.faults,
            r.score / r.fresh_score.max(1e-9)
        );
    }
    Ok(out)
}

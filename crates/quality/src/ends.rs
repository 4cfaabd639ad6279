//! How far texts at the ends of lines (multiplicities, roles, names of ports) lie from their ends. Input: samples, and the
//! texts of the demo. Output: a table.

use crate::{place, read_all};
use anyhow::{Context, Result};
use bathygram_core::geom::Point;
use bathygram_core::pipeline::Studio;
use bathygram_corpus::Sample;

/// A text belongs within this distance of its end, in px.
const NEAR: f64 = 16.0;

#[derive(Default)]
struct Row {
    texts: usize,
    /// Distances in px.
    away: Vec<f64>,
    /// Texts that lie nearer to the end of another line.
    foreign: usize,
}

/// The distances of all texts of these samples, in one row for each family.
pub(crate) fn report(samples: &[Sample]) -> Result<String> {
    let studio = Studio::new();
    let mut families: Vec<(&str, Row)> = Vec::new();
    for sample in samples {
        let (reading, views) = read_all(&sample.text).with_context(|| sample.name.clone())?;
        for view in views {
            let Some((_, laid)) = place(&studio, &reading, &view, None) else { continue };
            let routes = &laid.placement.routes;
            let ends = || routes.iter().enumerate().flat_map(|(e, route)| [0, 1].map(|end| (e, end, route)));
            for (e, end, route) in ends() {
                let (Some(text), Some(own)) = (route.end_labels[end], at(&route.points, end)) else { continue };
                if !families.iter().any(|(name, _)| *name == sample.family) {
                    families.push((sample.family, Row::default()));
                }
                let Some((_, row)) = families.iter_mut().find(|(name, _)| *name == sample.family) else { continue };
                let away = text.distance_to(own);
                let others = ends().filter(|(f, ..)| *f != e).filter_map(|(_, end, route)| at(&route.points, end));
                row.texts += 1;
                row.foreign += usize::from(others.map(|other| text.distance_to(other)).any(|other| other < away - 0.5));
                row.away.push(away);
            }
        }
    }
    let mut out = String::from(
        "| texts at ends | count | median distance, px | most | over 16 px | nearer to another end |\n|---|---:|---:|---:|---:|---:|\n",
    );
    for (name, row) in families {
        let most = row.away.iter().copied().fold(0.0, f64::max);
        let far = row.away.iter().filter(|away| **away > NEAR).count();
        let median = crate::median(row.away.into_iter());
        out += &format!("| {name} | {} | {median:.0} | {most:.0} | {far} | {} |\n", row.texts, row.foreign);
    }
    Ok(out)
}

fn at(line: &[Point], end: usize) -> Option<Point> {
    if end == 0 { line.first().copied() } else { line.last().copied() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_at_each_end_is_counted() {
        let text = "classes harbour\n  class Berth\n  class Vessel\n  1 Berth owns 0..* Vessel\n";
        let table = report(&[Sample { family: "pairs", name: "pair".into(), text: text.into() }]);
        let table = table.expect("it is drawn");
        assert!(table.contains("| pairs | 2 |"), "{table}");
    }
}

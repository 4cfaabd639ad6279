//! Layouts held against those of a hand: `hand/` has a place for every element of eleven samples, chosen by a
//! careful person who had nothing but the text; lines between them are searched as for any pinned picture.

use super::{HEAD, laid_out, row};
use anyhow::{Context, Result};
use bathygram_core::pipeline::Studio;
use bathygram_corpus::samples;

/// Samples, and the pins of all their elements.
const HAND: [(&str, &str); 11] = [
    ("nested_3_20", include_str!("../hand/nested_3_20.txt")),
    ("nested_3_35", include_str!("../hand/nested_3_35.txt")),
    ("nested_tangled_3_20", include_str!("../hand/nested_tangled_3_20.txt")),
    ("layers_3", include_str!("../hand/layers_3.txt")),
    ("layers_5", include_str!("../hand/layers_5.txt")),
    ("chain_60", include_str!("../hand/chain_60.txt")),
    ("ring_8", include_str!("../hand/ring_8.txt")),
    ("racks_4", include_str!("../hand/racks_4.txt")),
    ("families_4", include_str!("../hand/families_4.txt")),
    ("lanes_2_8", include_str!("../hand/lanes_2_8.txt")),
    ("decisions_3", include_str!("../hand/decisions_3.txt")),
];

/// Two rows for each: as laid out, and by hand.
pub(super) fn report() -> Result<String> {
    let studio = Studio::new();
    let all = samples();
    let mut out = format!("| sample | {HEAD}");
    for (name, pins) in HAND {
        let sample = all.iter().find(|s| s.name == name).with_context(|| format!("no sample {name}"))?;
        let (first, rest) = sample.text.split_once('\n').context("a block has a first line")?;
        out += &row(name, &[laid_out(&studio, &sample.text)?]);
        out += &row("the same by hand", &[laid_out(&studio, &format!("{first}\n{pins}{rest}"))?]);
    }
    Ok(out)
}

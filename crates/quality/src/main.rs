//! The quality report of the layout: lays out the corpus and measures what comes out.
//!
//! `quality` prints all tables, `quality FAMILY` the samples of one family, `quality stability`, `quality ends` and
//! `quality hand` one table, `quality --texts FOLDER` writes the texts, `quality --model` the large model, `quality --report FILE` writes the tables into the
//! page between its marks. Times are of this machine.

mod ends;
mod exact;
mod hand;
mod packages;
mod stability;

use anyhow::{Context, Result, bail};
use bathygram_core::layout::score::{Measures, measure};
use bathygram_core::layout::{self, Graph, Laid, layered};
use bathygram_core::pipeline::{self, DrawOptions, Reading, Setting, Studio};
use bathygram_core::scene::Places;
use bathygram_core::source::Source;
use bathygram_core::views::View;
use bathygram_corpus::{Sample, gallery, processes, random_layers, samples, scale};
use std::collections::BTreeMap;
use std::fmt::Write;
use std::path::Path;
use std::time::Instant;

#[allow(clippy::print_stdout, reason = "its answer")]
fn main() -> Result<()> {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    match words.as_slice() {
        [] => print!("{}", tables()?),
        ["stability"] => print!("{}", stability::report()?),
        ["hand"] => print!("{}", hand::report()?),
        ["ends"] => print!("{}", ends::report(&with_ends()?)?),
        ["--texts", folder] => texts(&all()?, Path::new(folder))?,
        ["--gallery", folder] => texts(&whole_gallery(), Path::new(folder))?,
        ["--report", page] => report(Path::new(page))?,
        ["--model"] => print!("{}", scale::model(5_000, 33_000)),
        [family] => print!("{}", of_family(&all()?, family)?),
        _ => bail!(
            "`quality`, `quality FAMILY`, `quality --texts FOLDER`, `quality --gallery FOLDER` or `quality --report FILE`"
        ),
    }
    Ok(())
}

/// The corpus, and the packages of this workspace.
fn all() -> Result<Vec<Sample>> {
    let mut all = samples();
    all.extend(packages::samples()?);
    Ok(all)
}

fn tables() -> Result<String> {
    let ends = ends::report(&with_ends()?)?;
    Ok([by_family(&all()?)?, hand::report()?, bipartite()?, against_optimum()?, stability::report()?, ends].join("\n"))
}

/// Texts in which lines have texts at their ends: of the corpus, every relation of classes, and the demo.
fn with_ends() -> Result<Vec<Sample>> {
    let mut all = samples();
    all.extend(gallery::classes());
    for name in ["domain", "readings_schema", "shore_cabling"] {
        let text = std::fs::read_to_string(format!("demo/tidewatch/{name}.bathy"))?;
        all.push(Sample { family: "demo", name: name.to_owned(), text });
    }
    Ok(all)
}

/// Every small diagram.
fn whole_gallery() -> Vec<Sample> {
    let processes = [processes::flows(), processes::states(), processes::trees()];
    [gallery::sequences(), gallery::classes()].into_iter().chain(processes).flatten().collect()
}

fn texts(samples: &[Sample], folder: &Path) -> Result<()> {
    std::fs::create_dir_all(folder)?;
    for sample in samples {
        std::fs::write(folder.join(format!("{}.bathy", sample.name)), &sample.text)?;
    }
    Ok(())
}

/// A text and its pictures.
fn read_all(text: &str) -> Result<(Reading, Vec<View>)> {
    let reading = pipeline::read(Source::new("sample.bathy", text), "sample", &Setting::default());
    if let Some(found) = reading.diagnostics.iter().find(|d| bathygram_core::check::is_error(d)) {
        bail!("a sample is wrong: {found:?}");
    }
    let views = reading.pictures().map(|picture| picture.view()).collect();
    Ok((reading, views))
}

/// A text and its first picture.
fn read(text: &str) -> Result<(Reading, View)> {
    let (reading, views) = read_all(text)?;
    let view = views.into_iter().next().context("a sample has a picture")?;
    Ok((reading, view))
}

/// What the layout of a view is given, and what it gives back; near where an earlier picture has it, if there is one.
fn place(studio: &Studio, reading: &Reading, view: &View, earlier: Option<&Places>) -> Option<(Graph, Laid)> {
    let options = DrawOptions { earlier, ..DrawOptions::default() };
    let graph = pipeline::layout_input(studio, reading, view, &options)?;
    let laid = layout::place(&graph);
    Some((graph, laid))
}

/// A text laid out: its measures, how many nodes it has, and the median time in ms.
fn laid_out(studio: &Studio, text: &str) -> Result<(Measures, usize, f64)> {
    let (reading, view) = read(text)?;
    let mut times = Vec::new();
    let mut last = None;
    for _ in 0..3 {
        let start = Instant::now();
        last = place(studio, &reading, &view, None);
        times.push(start.elapsed().as_secs_f64() * 1000.0);
    }
    let (graph, laid) = last.context("a sample is a graph")?;
    Ok((measure(&graph, &laid.placement), graph.nodes.len(), median(times.into_iter())))
}

const HEAD: &str = "nodes | crossings | bends | length ÷ diagonal | area ÷ nodes | aspect | faults | score | ms |\n\
                    |---|---:|---:|---:|---:|---:|---:|---:|---:|---:|\n";

/// The middle of some values, or the upper one of two.
fn median(values: impl Iterator<Item = f64>) -> f64 {
    let mut values: Vec<f64> = values.collect();
    values.sort_by(f64::total_cmp);
    values[values.len() / 2]
}

/// One row of a table: sums of counts, medians of shares.
fn row(name: &str, list: &[(Measures, usize, f64)]) -> String {
    let sum = |f: &dyn Fn(&Measures) -> f64| list.iter().map(|(m, ..)| f(m)).sum::<f64>();
    let aspects = list.iter().map(|(m, ..)| m.aspect());
    let (low, high) = aspects.fold((f64::MAX, f64::MIN), |(l, h), a| (l.min(a), h.max(a)));
    let aspect = if list.len() > 1 { format!("{low:.2}–{high:.2}") } else { format!("{low:.2}") };
    format!(
        "| {name} | {} | {:.0} | {:.0} | {:.1} | {:.1} | {aspect} | {:.0} | {:.0} | {:.0} |\n",
        list.iter().map(|l| l.1).sum::<usize>(),
        sum(&|m| m.crossings as f64),
        sum(&|m| m.bends as f64),
        median(list.iter().map(|(m, ..)| m.length / m.diagonal())),
        median(list.iter().map(|(m, ..)| m.area() / m.node_area)),
        sum(&|m| m.faults.len() as f64),
        sum(&Measures::score),
        list.iter().map(|l| l.2).sum::<f64>(),
    )
}

fn by_family(all: &[Sample]) -> Result<String> {
    let studio = Studio::new();
    let mut order: Vec<&str> = Vec::new();
    let mut families: BTreeMap<&str, Vec<(Measures, usize, f64)>> = BTreeMap::new();
    for sample in all {
        let found = laid_out(&studio, &sample.text).with_context(|| sample.name.clone())?;
        if !order.contains(&sample.family) {
            order.push(sample.family);
        }
        families.entry(sample.family).or_default().push(found);
    }
    let rows: String = order.iter().map(|f| row(f, &families[f])).collect();
    let everything: Vec<(Measures, usize, f64)> = families.into_values().flatten().collect();
    Ok(format!("| family | {HEAD}{rows}{}", row("all", &everything)))
}

fn of_family(all: &[Sample], family: &str) -> Result<String> {
    let studio = Studio::new();
    let mut out = format!("| sample | {HEAD}");
    for sample in all.iter().filter(|s| s.family == family || s.name == family) {
        let found = laid_out(&studio, &sample.text)?;
        out += &row(&sample.name, std::slice::from_ref(&found));
        for fault in found.0.faults.iter().take(8) {
            let _ = writeln!(out, "    {fault}");
        }
    }
    Ok(out)
}

/// A text laid out in the layers that it has, without looking for better ones.
fn in_layers(studio: &Studio, text: &str) -> Result<Measures> {
    let (reading, view) = read(text)?;
    let (graph, _) = place(studio, &reading, &view, None).context("a sample is a graph")?;
    Ok(measure(&graph, &layered::place(&graph, layered::LayeredOptions::default())))
}

/// Complete bipartite graphs in two layers against the fewest crossings that any drawing in two layers has: a(a-1)b(b-1)/4.
fn bipartite() -> Result<String> {
    let studio = Studio::new();
    let mut out = String::from("| complete bipartite, in two layers | crossings | fewest |\n|---|---:|---:|\n");
    for sample in samples().iter().filter(|s| s.family == "complete bipartite") {
        let sides: Vec<usize> = sample.name.split('_').filter_map(|w| w.parse().ok()).collect();
        let [a, b] = sides[..] else { bail!("{} has two sides", sample.name) };
        let crossings = in_layers(&studio, &sample.text)?.crossings;
        let _ = writeln!(out, "| {} | {crossings} | {} |", sample.name, a * (a - 1) * b * (b - 1) / 4);
    }
    Ok(out)
}

/// How many random layered graphs are held against the optimum.
const GRAPHS: u64 = 300;

fn against_optimum() -> Result<String> {
    let studio = Studio::new();
    let (mut drawn, mut fewest, mut reached) = (0, 0, 0);
    for seed in 0..GRAPHS {
        let graph = random_layers(seed);
        let measures = in_layers(&studio, &graph.text)?;
        let optimum = exact::fewest_crossings(&graph, measures.crossings);
        drawn += measures.crossings;
        fewest += optimum;
        reached += usize::from(optimum == measures.crossings);
    }
    let over = 100.0 * (drawn as f64 / f64::max(fewest as f64, 1.0) - 1.0);
    Ok(format!(
        "{GRAPHS} random graphs of two and three layers with at most twelve nodes each: {drawn} crossings drawn, {fewest} \
         needed ({over:.1} % more); {reached} graphs at their optimum.\n"
    ))
}

/// Writes the tables into the page, between `<!-- tables -->` and `<!-- end -->`.
fn report(page: &Path) -> Result<()> {
    let text = std::fs::read_to_string(page)?;
    let (before, rest) = text.split_once("<!-- tables -->\n").context("the page has a mark for the tables")?;
    let (_, after) = rest.split_once("<!-- end -->").context("the page has a mark for their end")?;
    std::fs::write(page, format!("{before}<!-- tables -->\n{}<!-- end -->{after}", tables()?))?;
    Ok(())
}

//! Tables in columns: marks of keys and references, names, types. The key has a compartment of its own, and so has what is said
//! of several columns or of every row. `PK`, `FK` and `U` are the trade's marks of the primary key, of foreign keys and of what is
//! unique.

use super::{AIR, Builder, FigureText, MEASURE, PAD};
use crate::geom::Rect;
use crate::measure::{Face, TextBlock, wrap, wrap_hanging};
use crate::model::{ClassBody, Compartment, Member, TableConstraint};
use crate::scene::TextAnchor;
use crate::source::Span;
use crate::syntax::Label;
use std::collections::BTreeSet;

/// Room between two columns.
const GAP: f64 = 12.0;
/// Names and types longer than this are wrapped.
const NAME: f64 = 200.0;
const TYPE: f64 = 170.0;

/// One row: its texts, by columns.
struct Row<'a> {
    member: &'a Member,
    cells: [Option<TextBlock>; 3],
}

/// One stretch of rows between two rules.
struct Part<'a> {
    title: Option<&'a Label>,
    rows: Vec<Row<'a>>,
}

/// Adds the rows of a table to its figure.
pub(super) fn rows(builder: &mut Builder<'_>, body: &ClassBody) {
    let together: BTreeSet<&String> = body
        .members()
        .filter_map(|member| match &member.constraint {
            Some(TableConstraint::Refers(columns)) => Some(columns),
            _ => None,
        })
        .flatten()
        .collect();
    let row = |member| row(builder, member, &together);
    let mut parts = Vec::new();
    for Compartment { title, members } in &body.compartments {
        let columns = members.iter().filter(|member| member.constraint.is_none());
        let (key, rest): (Vec<&Member>, Vec<&Member>) = columns.partition(|member| member.key);
        for (title, members) in [(None, key), (title.as_ref(), rest)] {
            let rows: Vec<Row<'_>> = members.into_iter().map(row).collect();
            parts.extend(Some(Part { title, rows }).filter(|part| !part.rows.is_empty()));
        }
    }
    let widths = [0, 1, 2].map(|column| {
        let cells = parts.iter().flat_map(|part| &part.rows).filter_map(|row| row.cells[column].as_ref());
        cells.map(TextBlock::width).fold(0.0, f64::max)
    });
    let step = |width: f64| if width > 0.0 { width + GAP } else { 0.0 };
    let names = PAD + step(widths[0]);
    let at = [PAD, names, names + step(widths[1])];
    let right = if widths[2] > 0.0 { at[2] + widths[2] } else { at[1] + widths[1] };
    builder.width = builder.width.max(right + PAD);
    for part in parts {
        builder.open(part.title);
        for row in part.rows {
            let height = row.cells.iter().flatten().map(TextBlock::height).fold(0.0, f64::max);
            for (column, block) in row.cells.into_iter().enumerate() {
                let Some(block) = block else { continue };
                // Small marks stand in the middle of the first line of the name.
                let down = if column == 0 { MARK_DROP } else { 0.0 };
                let place = Rect::new(at[column], builder.y + down, block.width(), block.height());
                let quiet = column != 1;
                builder.figure.texts.push(FigureText { quiet, ..FigureText::new(block, place, TextAnchor::Start) });
                builder.of_line(row.member);
            }
            builder.y += height;
        }
        builder.y += AIR;
    }
    let constraints: Vec<&Member> = body.members().filter(|member| member.constraint.is_some()).collect();
    if !constraints.is_empty() {
        builder.open(None);
        let measure = (builder.width - 2.0 * PAD).max(MEASURE);
        for member in constraints {
            let label = Label::plain(&member.text, Span::default());
            let block = wrap_hanging(builder.fonts, &label, Face::Regular, 12.0, measure);
            builder.text(block, TextAnchor::Start, super::Ink::Quiet);
            builder.of_line(member);
        }
        builder.y += AIR;
    }
}

/// Marks are set in this size, and this much lower than names that both stand on one line.
const MARK: f64 = 11.0;
const MARK_DROP: f64 = 1.6;

fn row<'a>(builder: &Builder<'_>, member: &'a Member, together: &BTreeSet<&String>) -> Row<'a> {
    let set = |text: &str, face: Face, size: f64, measure: f64| {
        let label = Label::plain(text, Span::default());
        (!text.is_empty()).then(|| wrap(builder.fonts, &label, face, size, measure))
    };
    let is_reference = member.refers.is_some() || together.contains(&member.name());
    let marks = [(member.key, "PK"), (is_reference, "FK"), (member.is_unique, "U")];
    let marks: Vec<&str> = marks.iter().filter(|(is, _)| *is).map(|(_, mark)| *mark).collect();
    let (name, of) = member.column();
    let optional = if member.is_nullable { "null" } else { "" };
    let of = [of, optional].iter().filter(|text| !text.is_empty()).copied().collect::<Vec<_>>().join(" ");
    let face = match (member.is_abstract, member.key) {
        (true, _) => Face::Italic,
        (_, true) => Face::Bold,
        _ => Face::Regular,
    };
    let cells = [
        set(&marks.join(" "), Face::Bold, MARK, NAME),
        set(name, face, 13.0, NAME),
        set(&of, Face::Regular, 13.0, TYPE),
    ];
    Row { member, cells }
}

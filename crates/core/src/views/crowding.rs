//! Pictures in which lines or texts lie on others: those that hold more than can be drawn well, or have pins in the way. Input: a diagram, what of it was drawn, and how many faults the layout could not
//! avoid. Output: a sentence that says so, and what shows less.

use super::View;
use crate::model::{Constraint, Diagram, DiagramKind, WrittenConstraint};
use std::fmt;

/// This many elements are still read at once.
// A sheet of paper holds about as many boxes with texts.
const READABLE: usize = 60;

/// A picture in which lines or texts lie on others.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Crowding {
    picture: String,
    elements: usize,
    lines: usize,
    faults: usize,
    /// How many levels a sheet may show so that it can be read, and how many elements that has.
    depth: Option<(usize, usize)>,
    /// Whether sheets of it can be made on the fly.
    has_sheets: bool,
    /// Whether elements of it are pinned.
    is_pinned: bool,
}

impl Crowding {
    /// What to say of a picture; `None` if nothing in it lies on anything.
    pub fn of(picture: &str, diagram: &Diagram, view: &View, faults: usize) -> Option<Self> {
        let (elements, lines) = (view.diagram.elements.len(), view.diagram.relations.len());
        let within = |depth: usize| diagram.ids().filter(|(id, _)| diagram.ancestors(*id).count() < depth).count();
        let depths = (1..).map(|depth| (depth, within(depth)));
        let fewer = depths.take_while(|(_, count)| *count <= READABLE && *count < elements).last();
        let has_sheets = matches!(diagram.kind, DiagramKind::Architecture | DiagramKind::Classes);
        let depth = fewer.filter(|(_, count)| has_sheets && *count > 1);
        let is_pin = |written: &WrittenConstraint| matches!(written.constraint, Constraint::Pin(..));
        let is_pinned = view.diagram.picture.constraints.iter().any(is_pin);
        (faults > 0).then(|| Self {
            picture: picture.to_owned(),
            elements,
            lines,
            faults,
            depth,
            has_sheets,
            is_pinned,
        })
    }
}

impl fmt::Display for Crowding {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { picture, elements, lines, faults, .. } = self;
        let places = if *faults == 1 { "one place".to_owned() } else { format!("{faults} places") };
        write!(f, "{picture}: in {places} lines, texts or elements lie on others")?;
        if self.is_pinned {
            return write!(f, "; what is pinned stays where it is, so move a pin");
        }
        if elements.max(lines) <= &READABLE {
            return Ok(());
        }
        write!(f, ": {elements} elements and {lines} lines are too many to draw apart")?;
        match (self.depth, self.has_sheets) {
            (Some((depth, count)), _) => {
                write!(f, "; `--depth {depth}` shows {count} elements, `--focus NAME` what is around one")
            }
            (None, true) => write!(f, "; `--focus NAME` shows what is around one element"),
            (None, false) => write!(f, "; two pictures of half as much read better"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline::{Setting, read};
    use crate::source::Source;
    use std::fmt::Write;

    #[test]
    fn a_crowded_picture_says_what_shows_less() {
        let mut text = "architecture map\n".to_owned();
        for system in 0..9 {
            let _ = writeln!(text, "  system s{system}");
            (0..9).for_each(|part| writeln!(text, "    part p{part}").unwrap_or_default());
        }
        let reading = read(Source::new("map.bathy", &text), "map", &Setting::default());
        let picture = reading.pictures().next().expect("a picture");
        let of = |faults| Crowding::of("map", &reading.document.diagrams[0], &picture.view(), faults);
        assert_eq!(of(0), None);
        let said = of(12).expect("crowded").to_string();
        assert!(said.starts_with("map: in 12 places") && said.contains("90 elements and 0 lines"), "{said}");
        assert!(said.contains("`--depth 1` shows 9 elements"), "{said}");
    }
}

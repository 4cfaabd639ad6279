//! How a placement came about, for those who ask.

use super::effort::Effort;
use crate::layout::graph::Arrangement;
use std::fmt;

/// How a picture came about.
#[derive(Clone, Debug, PartialEq)]
pub struct Report {
    /// How much was tried.
    pub effort: Effort,
    /// The arrangement of the largest part.
    pub arrangement: Arrangement,
    /// How many parts there are.
    pub parts: usize,
    /// How many candidates were compared.
    pub candidates: usize,
    /// Whether things stay where an earlier picture has them.
    pub keeping: Keeping,
    /// The score of the whole; `None` where nothing was compared.
    pub score: Option<f64>,
    /// In how many places lines or texts lie on others; not counted where one placement only is made.
    pub faults: usize,
    /// Constraints that could not be kept.
    pub dropped: Vec<Dropped>,
}

/// What became of an earlier picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Keeping {
    /// There was none, or nothing of it was to be kept.
    None,
    /// Things stay where it has them.
    Kept,
    /// Less than half of what is drawn now is in it.
    TooLittle,
    /// A line finds no way in it.
    NoWay,
    /// Kept, the picture would have this many faults more than a fresh one.
    Faults(usize),
    /// Kept, the picture would have this score, and a fresh one the other.
    Score(f64, f64),
}

/// A constraint that could not be kept, by its place in the graph, and the one without which it could, if there is one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Dropped {
    /// The constraint.
    pub constraint: usize,
    /// What is in its way.
    pub against: Option<usize>,
}

impl fmt::Display for Report {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let arrangement = match self.arrangement {
            Arrangement::Layered => "layered",
            Arrangement::Tree => "tree",
            Arrangement::Radial => "radial",
            Arrangement::Force => "force",
            Arrangement::Grid => "grid",
        };
        let count = |n: usize, what: &str| format!("{n} {what}{}", if n == 1 { "" } else { "s" });
        write!(f, "{arrangement}, {}, {} compared", count(self.parts, "part"), count(self.candidates, "candidate"))?;
        match self.keeping {
            Keeping::None => {}
            Keeping::Kept => write!(f, ", the earlier picture kept")?,
            Keeping::TooLittle => write!(f, ", the earlier picture given up: more than half of this one is new")?,
            Keeping::NoWay => write!(f, ", the earlier picture given up: a line finds no way in it")?,
            Keeping::Faults(more) => {
                write!(f, ", the earlier picture given up: it would have {} more", count(more, "fault"))?;
            }
            Keeping::Score(kept, fresh) => {
                write!(
                    f,
                    ", the earlier picture given up: its score would be {kept:.1}, more than three times {fresh:.1}"
                )?;
            }
        }
        if let Some(score) = self.score {
            write!(f, ", score {score:.1}")?;
        }
        f.write_str(match self.effort {
            Effort::Full => "; every step taken (up to 300 elements and 1,000 lines)",
            Effort::Brisk => "; every step, one candidate (one of many pictures)",
            Effort::Some => "; fewer sweeps and candidates (over 300 elements or 1,000 lines)",
            Effort::Plain => {
                "; one placement and plain channels (over 3,000 elements, 9,000 lines, or 20 groups in each other)"
            }
        })
    }
}

//! One diagram with what it was compared with.

use super::Sources;
use bathygram_core::conform::{
    ArchitectureConformance, ClassConformance, Conformance, Deviation, TableConformance, actual, actual_architecture,
    actual_classes, actual_tables, architecture, classes, sequence, tables,
};
use bathygram_core::model::{Diagram, DiagramKind};
use bathygram_core::pipeline::Reading;
use std::collections::BTreeSet;

/// What a diagram was compared with, and how they agree.
pub(super) enum Actual {
    /// Traces, and how many there are in all.
    Traces(Conformance, usize),
    /// Source code.
    Code(ArchitectureConformance),
    /// Classifiers in source code.
    Classes(ClassConformance),
    /// Tables of a database.
    Tables(TableConformance),
}

/// One diagram and how it agrees.
pub(super) struct Compared<'r> {
    pub(super) reading: &'r Reading,
    pub(super) design: &'r Diagram,
    pub(super) actual: Actual,
}

/// Every diagram that something is there for to compare it with.
pub(super) fn all<'r>(readings: &'r [Reading], sources: &Sources) -> Vec<Compared<'r>> {
    let designs =
        readings.iter().flat_map(|reading| reading.document.diagrams.iter().map(move |design| (reading, design)));
    let compared = designs.flat_map(|(reading, design)| {
        let of_code = of_code(design, sources);
        let of_tables = sources.schema.as_ref().filter(|_| design.kind == DiagramKind::Classes);
        let of_tables = of_tables.and_then(|schema| tables(design, schema)).map(Actual::Tables);
        let of_data = sources.data.as_ref().filter(|_| design.kind == DiagramKind::Classes);
        let of_data = of_data.and_then(|data| classes(design, data)).map(Actual::Classes);
        of_code.into_iter().chain(of_tables).chain(of_data).map(move |actual| Compared { reading, design, actual })
    });
    compared.collect()
}

/// What a diagram is compared with in traces and in code.
fn of_code(design: &Diagram, sources: &Sources) -> Option<Actual> {
    Some(match design.kind {
        DiagramKind::Sequence => {
            let traces = sources.traces.as_ref()?;
            Actual::Traces(sequence(design, traces), traces.len())
        }
        DiagramKind::Architecture => {
            let of = architecture(design, sources.code.as_ref()?);
            Actual::Code(Some(of).filter(ArchitectureConformance::is_about_code)?)
        }
        DiagramKind::Classes => Actual::Classes(classes(design, sources.classes.as_ref()?)?),
        _ => return None,
    })
}

impl Compared<'_> {
    /// What differs.
    pub(super) fn deviations(&self) -> Vec<Deviation> {
        match &self.actual {
            Actual::Traces(of, _) => of.deviations(self.design),
            Actual::Code(of) => of.deviations(self.design),
            Actual::Classes(of) => of.deviations(self.design),
            Actual::Tables(of) => of.deviations(self.design),
        }
    }

    /// Leaves out what is accepted; gives the keys that were found.
    pub(super) fn accept(&mut self, accepted: &BTreeSet<String>) -> BTreeSet<String> {
        match &mut self.actual {
            Actual::Traces(of, _) => of.accept(self.design, accepted),
            Actual::Code(of) => of.accept(self.design, accepted),
            Actual::Classes(of) => of.accept(self.design, accepted),
            Actual::Tables(of) => of.accept(self.design, accepted),
        }
    }

    /// The diagram as it really is; nothing where nothing was seen of it.
    pub(super) fn actual(&self) -> Option<Diagram> {
        match &self.actual {
            Actual::Traces(of, _) => (of.traces > 0).then(|| actual(self.design, of)),
            Actual::Code(of) => Some(actual_architecture(self.design, of)),
            Actual::Classes(of) => Some(actual_classes(self.design, of)),
            Actual::Tables(of) => Some(actual_tables(self.design, of)),
        }
    }
}

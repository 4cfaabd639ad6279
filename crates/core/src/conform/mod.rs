//! Intended against actual. Input: a model, and facts from outside. Output: agreements and differences, typed; sentences are made
//! from them in one place, `words` (after reflexion models: Murphy, Notkin, Sullivan 1995).
//!
//! Guarantees: deterministic; what cannot be observed, such as a person, is no difference.

mod actual;
mod architecture;
mod classes;
mod deviation;
mod observed;
mod paths;
mod sequence;
mod tables;
mod words;

pub use actual::actual;
pub use architecture::{
    ArchitectureConformance, Code, CodeDifference, CodeUse, FileUse, OutsideUse, actual_architecture, architecture,
};
pub use classes::{ClassConformance, ClassDifference, CodeClasses, Realm, actual_classes, classes};
pub use deviation::{Deviation, Weight};
pub use observed::{Call, Trace};
pub use paths::{PathPatterns, innermost};
pub use sequence::{Conformance, Difference, sequence};
pub use tables::actual::actual_tables;
pub use tables::{Difference as TableDifferenceKind, Schema, TableConformance, TableDifference, tables};

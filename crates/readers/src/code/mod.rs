//! Source trees: what files import of each other. Input: a [`Tree`] of files. Output: [`Facts`](crate::Facts).

mod base;
mod classes;
mod declared;
mod language;
mod modules;
mod project;
mod resolve;
mod sources;
mod syntax;
mod tree;

pub use base::CodeBase;
pub use classes::{Options as ClassesOptions, classes};
pub use language::Language;
pub use modules::{Given, Options as ModulesOptions, given, modules};
pub use tree::Tree;

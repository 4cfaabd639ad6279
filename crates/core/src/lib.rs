//! The pure heart of Bathygram.

pub mod check;
pub mod compare;
pub mod container;
pub mod diag;
pub mod emit;
pub mod format;
pub mod geom;
pub mod jobs;
pub mod layout;
pub mod markup;
pub mod measure;
pub mod model;
pub mod notation;
pub mod pipeline;
pub mod scene;
pub mod source;
pub mod svg;
pub mod syntax;
pub mod theme;
pub mod views;
pub mod vocabulary;

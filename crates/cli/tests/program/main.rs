//! Tests that run the built program on files in a temporary folder.

mod builds;
mod common;
mod conforming;
mod docs;
mod documents;
mod errors;
mod fix;
mod forms;
mod fresh;
mod git;
mod help;
#[cfg(unix)]
mod hostile;
mod icons;
mod illustrate;
mod importing;
mod importing_code;
mod importing_databases;
mod importing_graphs;
mod importing_outlines;
mod importing_traces;
mod layouts;
mod manners;
mod packages;
mod processes;
mod recipes;
mod reference;
mod render;
mod reviewing;
mod rough;
mod rules;
mod sheets;
mod starting;
mod themes;
mod versions;
mod wrong_calls;

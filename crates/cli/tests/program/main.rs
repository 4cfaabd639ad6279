//! Tests that run the built program on files in a temporary folder.

mod builds;
mod common;
mod docs;
mod errors;
mod fix;
mod forms;
mod git;
mod icons;
mod illustrate;
mod importing;
mod importing_graphs;
mod importing_outlines;
mod importing_traces;
mod layouts;
mod manners;
mod processes;
mod recipes;
mod reference;
mod render;
mod rough;
mod rules;
mod sheets;
mod starting;
mod themes;
mod versions;
mod wrong_calls;

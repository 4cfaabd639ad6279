//! One file or folder per command: its arguments, `run`, and its sentences. A new command is a copy of its neighbour, and a line
//! in `main.rs`.

pub(crate) mod check;
pub(crate) mod completions;
pub(crate) mod conform;
pub(crate) mod demo;
pub(crate) mod diff;
pub(crate) mod format;
pub(crate) mod history;
pub(crate) mod icons;
pub(crate) mod illustrate;
pub(crate) mod import;
pub(crate) mod init;
pub(crate) mod lsp;
pub(crate) mod man;
pub(crate) mod new;
pub(crate) mod preview;
pub(crate) mod recover;
pub(crate) mod render;
pub(crate) mod share;
pub(crate) mod site;
pub(crate) mod themes;

//! Tests that look at what the built program writes with a real browser. Without one they are skipped, and say so.

mod changes;
mod driver;
mod files;
mod hostile;
mod letters;
mod page;
mod preview;
mod same;
mod site;

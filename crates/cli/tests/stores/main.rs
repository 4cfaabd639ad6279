//! Tests with real servers: PostgreSQL, started in a temporary folder, and a SPARQL endpoint around a real query engine. Where one
//! cannot be started, its tests say so and are skipped; `cargo xtask test` installs both.

#[allow(dead_code)]
#[path = "../program/common.rs"]
mod common;
mod endpoint;
mod postgresql;
mod server;
mod triples;

/// Says that a test did not run, and what would change that.
fn skipped(what: &str) {
    use std::io::Write;
    let _ = writeln!(
        std::io::stderr(),
        "skipped: {what} is not installed here; `cargo xtask test` installs it where it can"
    );
}

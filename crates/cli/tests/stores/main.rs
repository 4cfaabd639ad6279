//! Tests with real servers: PostgreSQL, started in a temporary folder, and a SPARQL endpoint around a real query engine. Where one
//! cannot be started, its tests say so and are skipped; `cargo xtask test` installs both.

#[allow(dead_code)]
#[path = "../program/common.rs"]
mod common;
mod endpoint;
mod postgresql;
mod server;
mod triples;

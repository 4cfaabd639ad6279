//! Sources that take from others, wherever these are kept: here in memory. `cargo run -p bathygram-core --example own_world`.

use bathygram_core::facade::Renderer;
use bathygram_core::source::world::{Unopened, World};
use std::collections::BTreeMap;
use std::io::Write;

/// Files in memory; a database, an archive or a network would do the same.
struct Memory(BTreeMap<&'static str, &'static str>);

impl World for Memory {
    fn text(&self, name: &str) -> Result<String, Unopened> {
        // A name never leads out of the project: `..` is resolved before it comes here.
        self.0.get(name).map(|text| (*text).to_owned()).ok_or(Unopened::Missing)
    }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let map = "architecture map \"Map\"\n  service gateway \"Gateway\"\n  store readings \"Readings\"\n  gateway writes readings \"levels\"\n";
    let world = Memory(BTreeMap::from([("shared/map.bathy", map)]));
    let text = "from \"shared/map.bathy\"\n\nsheet near of map \"Around the gateway\"\n  focus gateway\n";
    for picture in Renderer::new().in_world(&world).render("view.bathy", text)? {
        writeln!(std::io::stdout(), "{}: {}", picture.title, picture.description)?;
    }
    Ok(())
}

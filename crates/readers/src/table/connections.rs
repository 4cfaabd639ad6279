//! Connections in a table, one a row: which device with which port is joined with which; and what contradicts what.

use super::Options;
use super::elements::{Elements, Listed, folded, tags};
use super::headings::{End, Headings, Of, Role, Side, icon};
use super::rows::Row;
use super::things::Things;
use crate::facts::{Facts, Link, LinkEnd, Thing};
use crate::finding::{Finding, Level, Seen};
use bathygram_core::model::{DiagramKind, ElementKind, Verb};
use std::collections::BTreeMap;

/// A device, as connections name it.
struct Device {
    /// As it is spelled first.
    name: String,
    seen: Seen,
    /// Its rack, its site, and what it is.
    said: [Option<String>; 3],
}

/// One end of a cable: the folded name of the device, and the port.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord)]
struct Plug {
    device: String,
    port: Option<String>,
}

/// A cable.
struct Cable {
    plugs: [Plug; 2],
    /// Speed, medium, label, VLAN, remark.
    said: [Option<String>; 5],
    seen: Seen,
    port_places: [Seen; 2],
}

/// The words for what is said of a cable.
const SAID: [&str; 5] = ["speed", "medium", "label", "VLAN", "remark"];

/// All connections.
#[derive(Default)]
pub(super) struct Connections {
    order: Vec<String>,
    devices: BTreeMap<String, Device>,
    cables: Vec<Cable>,
    /// Cables by their plugs, the smaller one first.
    known: BTreeMap<[Plug; 2], usize>,
    /// What each port is used by.
    ports: BTreeMap<Plug, usize>,
}

impl Connections {
    pub(super) fn is_empty(&self) -> bool {
        self.cables.is_empty() && self.devices.is_empty()
    }

    /// Takes up a row.
    pub(super) fn add(&mut self, headings: &Headings, row: &Row, findings: &mut Vec<Finding>) {
        let cell = |side: Side, end: End| headings.cell(row, Role::End(side, end));
        let place = |side: Side, end: End| {
            headings.column(Role::End(side, end)).map_or_else(|| row.seen.clone(), |at| row.place(at))
        };
        let sides = [Side::First, Side::Second];
        let names = sides.map(|side| cell(side, End::Device));
        // 1. Devices, also of half a cable.
        let mut found = [None, None];
        for (i, side) in sides.into_iter().enumerate() {
            let Some(name) = names[i] else { continue };
            let said = [End::Rack, End::Site, End::Kind].map(|end| cell(side, end).map(str::to_owned));
            found[i] = Some(self.device(name, &place(side, End::Device), said, findings));
        }
        let [Some(first), Some(second)] = found else {
            let which = if names[0].is_none() { 0 } else { 1 };
            let other = names[1 - which].map_or(String::new(), |name| format!("; the other is `{name}`"));
            let seen = place(sides[which], End::Device);
            let says = format!("one end of this cable is missing{other}");
            findings.push(Finding::new("end-missing", Level::Warning, seen, says));
            return;
        };
        // 2. What is said of both ends must go together.
        for (end, what) in [(End::Speed, "speed"), (End::Medium, "medium")] {
            if let (Some(a), Some(b)) = (cell(Side::First, end), cell(Side::Second, end))
                && folded(a) != folded(b)
            {
                let says = format!("the ends do not go together: {what} `{a}` here, `{b}` there");
                findings.push(Finding {
                    others: Vec::new(),
                    code: "ends-differ",
                    level: Level::Warning,
                    seen: place(Side::First, end),
                    says,
                });
            }
        }
        let of = |of: Of| headings.cell(row, Role::Cable(of)).map(str::to_owned);
        let either = |own: Of, end: End| {
            of(own).or_else(|| cell(Side::First, end).or(cell(Side::Second, end)).map(str::to_owned))
        };
        let said = [
            either(Of::Speed, End::Speed),
            either(Of::Medium, End::Medium),
            of(Of::Label),
            of(Of::Vlan),
            of(Of::About),
        ];
        let port = |side: Side| cell(side, End::Port).map(str::to_owned);
        let plugs =
            [Plug { device: first, port: port(Side::First) }, Plug { device: second, port: port(Side::Second) }];
        let port_places = sides.map(|side| place(side, End::Port));
        self.cable(Cable { plugs, said, seen: row.seen.clone(), port_places }, findings);
    }

    /// The folded name of a device.
    fn device(&mut self, name: &str, seen: &Seen, said: [Option<String>; 3], findings: &mut Vec<Finding>) -> String {
        let key = folded(name);
        match self.devices.get_mut(&key) {
            Some(known) => {
                if known.name != name {
                    let says =
                        format!("`{name}` is spelled `{}` in {}; both are taken as one device", known.name, known.seen);
                    findings.push(Finding {
                        others: Vec::new(),
                        code: "spelled-two-ways",
                        level: Level::Warning,
                        seen: seen.clone(),
                        says,
                    });
                }
                known.said.iter_mut().zip(said).for_each(|(known, said)| *known = known.take().or(said));
            }
            None => {
                self.order.push(key.clone());
                self.devices.insert(key.clone(), Device { name: name.to_owned(), seen: seen.clone(), said });
            }
        }
        key
    }

    fn cable(&mut self, cable: Cable, findings: &mut Vec<Finding>) {
        let name = |plug: &Plug| self.devices.get(&plug.device).map_or(String::new(), |device| device.name.clone());
        let [a, b] = &cable.plugs;
        let mut pair = [a.clone(), b.clone()];
        pair.sort();
        // 3. The same cable once more, from this end or from the other.
        let has_ports = a.port.is_some() && b.port.is_some();
        if let Some(first) = self.known.get(&pair).filter(|_| has_ports).map(|at| &self.cables[*at]) {
            let differ = |i: usize| match (&first.said[i], &cable.said[i]) {
                (Some(then), Some(now)) => folded(then) != folded(now),
                _ => false,
            };
            for i in (0..SAID.len()).filter(|i| differ(*i)) {
                let (then, now) =
                    (first.said[i].clone().unwrap_or_default(), cable.said[i].clone().unwrap_or_default());
                let says = format!("this cable has the {} `{now}`, and `{then}` in {}", SAID[i], first.seen);
                findings.push(Finding {
                    others: Vec::new(),
                    code: "directions-differ",
                    level: Level::Warning,
                    seen: cable.seen.clone(),
                    says,
                });
            }
            return;
        }
        if a.device == b.device {
            let says = format!("`{}` is joined with itself", name(a));
            findings.push(Finding {
                others: Vec::new(),
                code: "joined-with-itself",
                level: Level::Warning,
                seen: cable.seen.clone(),
                says,
            });
        }
        // 4. A port holds one cable.
        for (plug, place) in cable.plugs.iter().zip(&cable.port_places).filter(|(plug, _)| plug.port.is_some()) {
            if let Some(first) = self.ports.get(plug).map(|at| &self.cables[*at]) {
                let port = plug.port.clone().unwrap_or_default();
                let says = format!("port `{port}` of `{}` is in use already, by {}", name(plug), first.seen);
                findings.push(Finding::new("port-in-use", Level::Warning, place.clone(), says));
            }
        }
        let number = self.cables.len();
        cable
            .plugs
            .iter()
            .filter(|plug| plug.port.is_some())
            .for_each(|plug| _ = self.ports.entry(plug.clone()).or_insert(number));
        self.known.entry(pair).or_insert(number);
        self.cables.push(cable);
    }

    /// The connections as a network, with what an inventory says of the devices.
    pub(super) fn facts(&self, inventory: &Elements, options: &Options, findings: &mut Vec<Finding>) -> Facts {
        let mut things = Things::default();
        let wanted = |key: &String| self.devices.get(key).is_some_and(|device| options.selection.wants(&device.name));
        for key in self.order.iter().filter(|key| wanted(key)) {
            let Some(device) = self.devices.get(key) else { continue };
            let listed = inventory.get(&device.name);
            if listed.is_none() && !inventory.is_empty() {
                let near = nearest(&device.name, inventory).map_or(String::new(), |near| format!("; is it `{near}`?"));
                let says = format!("`{}` is in no inventory{near}", device.name);
                findings.push(Finding::new("not-listed", Level::Warning, device.seen.clone(), says));
            }
            add_device(&mut things, key, device, listed);
        }
        // What is listed and joined with nothing is there, too.
        for listed in inventory.all().filter(|listed| !self.devices.contains_key(&folded(&listed.name))) {
            if options.selection.wants(&listed.name) {
                let device = Device { name: listed.name.clone(), seen: listed.seen.clone(), said: [None, None, None] };
                add_device(&mut things, &folded(&listed.name), &device, Some(listed));
            }
        }
        let links = self.cables.iter().filter_map(|cable| {
            let ends = cable.plugs.each_ref().map(|plug| things.number(&plug.device));
            let [Some(from), Some(to)] = ends else { return None };
            let [speed, medium, label, vlan, _] = &cable.said;
            let vlan = vlan.as_deref().map(virtual_network);
            let shown: Vec<String> = [label.clone(), speed.clone(), vlan].into_iter().flatten().collect();
            Some(Link {
                label: (!shown.is_empty()).then(|| shown.join(", ")),
                ends: cable.plugs.each_ref().map(|plug| LinkEnd { port: plug.port.clone(), ..LinkEnd::default() }),
                tags: medium.as_ref().map(|medium| tags(medium)).unwrap_or_default(),
                ..Link::new(from, Verb::Joins, to, cable.seen.clone())
            })
        });
        let links = links.collect();
        Facts { things: things.all, links, ..Facts::new(DiagramKind::Network) }
    }
}

/// The name in the inventory that is most like this one, if it is very like it.
fn nearest<'e>(name: &str, inventory: &'e Elements) -> Option<&'e str> {
    let off = |listed: &&Listed| strsim::osa_distance(&folded(name), &folded(&listed.name));
    let best = inventory.all().min_by_key(off)?;
    (off(&best) <= 1).then_some(best.name.as_str())
}

/// Takes up a device, with what an inventory says of it.
fn add_device(things: &mut Things, key: &str, device: &Device, listed: Option<&Listed>) {
    let [rack, site, kind] = &device.said;
    let rack = listed.and_then(|listed| listed.rack.as_deref()).or(rack.as_deref());
    let site = listed.and_then(|listed| listed.site.as_deref()).or(site.as_deref());
    let kind = listed.and_then(|listed| listed.kind.as_deref()).or(kind.as_deref());
    let mut thing = Thing::new(&device.name, ElementKind::Device, device.seen.clone());
    thing.holder = things.boxes(site, rack, &device.seen);
    thing.icon = kind.and_then(icon);
    if let Some(listed) = listed {
        thing.label = listed.label.clone();
        thing.said = listed.said.clone();
        thing.tags = listed.tags.clone();
    }
    things.add(key.to_owned(), thing);
}

/// A virtual network by its number or its name, whether or not the cell says what it is.
fn virtual_network(cell: &str) -> String {
    let (word, rest) = cell.split_at_checked("vlan".len()).unwrap_or(("", cell));
    let is_said = word.eq_ignore_ascii_case("vlan") && !rest.starts_with(char::is_alphabetic);
    let name = if is_said { rest.trim_start() } else { cell };
    format!("VLAN {name}").trim_end().to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn virtual_networks_keep_their_names() {
        let cells = ["30", "VLAN 30", "vlan30", "native", "Landing", "vl", "VLAN", "véla", "vlanes"];
        let shown = cells.map(virtual_network);
        let wanted = [
            "VLAN 30",
            "VLAN 30",
            "VLAN 30",
            "VLAN native",
            "VLAN Landing",
            "VLAN vl",
            "VLAN",
            "VLAN véla",
            "VLAN vlanes",
        ];
        assert_eq!(shown, wanted.map(str::to_owned));
    }
}

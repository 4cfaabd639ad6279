//! Real graphs: the packages that this workspace is built from.

use anyhow::{Context, Result};
use bathygram_corpus::Sample;
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};
use std::process::Command;

/// For some packages, everything that they depend on.
const ROOTS: [&str; 5] = ["anyhow", "insta", "clap", "serde_json", "rustybuzz"];

pub(crate) fn samples() -> Result<Vec<Sample>> {
    let shown = Command::new("cargo").args(["metadata", "--format-version", "1", "--offline", "--locked"]).output()?;
    anyhow::ensure!(shown.status.success(), "cargo metadata: {}", String::from_utf8_lossy(&shown.stderr));
    let shown: Value = serde_json::from_slice(&shown.stdout)?;
    let text = |v: &Value| v.as_str().unwrap_or_default().to_owned();
    let list = |v: &Value| v.as_array().cloned().unwrap_or_default();
    let names: BTreeMap<String, String> =
        list(&shown["packages"]).iter().map(|p| (text(&p["id"]), text(&p["name"]).replace('-', "_"))).collect();
    let mut needs: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for node in list(&shown["resolve"]["nodes"]) {
        let of = names.get(&text(&node["id"])).cloned().unwrap_or_default();
        let on = list(&node["dependencies"]);
        needs.entry(of).or_default().extend(on.iter().filter_map(|d| names.get(&text(d)).cloned()));
    }
    ROOTS.iter().map(|root| sample(root, &needs).with_context(|| (*root).to_owned())).collect()
}

fn sample(root: &str, needs: &BTreeMap<String, BTreeSet<String>>) -> Result<Sample> {
    anyhow::ensure!(needs.contains_key(root), "no package of this name is in the lock file");
    let mut order = vec![root.to_owned()];
    let mut at = 0;
    while let Some(next) = order.get(at).cloned() {
        at += 1;
        for need in needs.get(&next).into_iter().flatten() {
            if !order.contains(need) {
                order.push(need.clone());
            }
        }
    }
    let name = format!("packages_{root}");
    let mut text = format!("architecture {name}\n");
    for package in &order {
        text += &format!("  part p_{package} \"{package}\"\n");
    }
    for package in &order {
        for need in needs.get(package).into_iter().flatten().filter(|n| *n != package) {
            text += &format!("  p_{package} uses p_{need}\n");
        }
    }
    Ok(Sample { family: "packages", name, text })
}

//! Which pictograms a document names. Input: a document and a world with its files. Output: [`Icons`], with what is wrong
//! reported where it was written.

use super::pictogram::{self, IconFault, Icons};
use crate::diag::{Diagnostics, Message, Suggestion, suggest};
use crate::model::{Document, Element, LookRule, is_icon_file};
use crate::source::world::{Unopened, World, name_of};
use crate::source::{Source, Spanned};
use crate::vocabulary::TraitWord;
use base64::Engine;
use base64::engine::general_purpose::STANDARD_NO_PAD;
use sha2::Digest;

/// The pictograms of a document: those that its own lines name by path are read from the world; what is wrong with them,
/// and names that there are not, are reported.
pub fn icons(source: &Source, document: &Document, world: &dyn World, diags: &mut Diagnostics) -> Icons {
    let mut icons = Icons::default();
    let blocks = || document.diagrams.iter().chain(document.imports.diagrams()).flat_map(|d| &d.elements);
    let (own, others): (Vec<&Element>, Vec<&Element>) = blocks().partition(|e| e.span.source.is_root());
    // What is wrong with an icon of another file is reported there.
    let mut unheard = Diagnostics::default();
    for icon in of_elements(&others).chain(of_rules(&document.imports.looks)).filter(|i| is_icon_file(&i.value)) {
        take((source, true), &icon, world, &mut icons, &mut unheard);
    }
    for icon in of_elements(&own).chain(of_rules(&document.looks)) {
        if is_icon_file(&icon.value) {
            take((source, false), &icon, world, &mut icons, diags);
        } else if !pictogram::names().any(|n| n == icon.value) {
            let word = icon.value.clone();
            let suggestion = suggest(&word, pictogram::names());
            let found = || pictogram::search(&word).into_iter().next().map(|e| Suggestion::idea(e.name));
            let suggestion = suggestion.or_else(found);
            diags.report(icon.span, Message::UnknownIcon { word, suggestion });
        }
    }
    icons
}

/// The icons that elements ask for.
fn of_elements(elements: &[&Element]) -> impl Iterator<Item = Spanned<String>> {
    elements.iter().filter_map(|e| e.properties.icon.clone())
}

/// The icons that rules of looks ask for.
fn of_rules(rules: &[LookRule]) -> impl Iterator<Item = Spanned<String>> {
    let traits = rules.iter().flat_map(|r| &r.traits).filter(|t| t.meaning() == Some(TraitWord::Icon));
    traits.filter_map(|t| t.values.first().cloned())
}

/// Reads one file as a pictogram, unless it was read before.
fn take(
    (source, is_foreign): (&Source, bool), icon: &Spanned<String>, world: &dyn World, icons: &mut Icons,
    diags: &mut Diagnostics,
) {
    let path = icon.value.clone();
    if icons.find(&path).is_some() {
        return;
    }
    // Those of other files are named from the project's folder.
    let rooted = path.strip_prefix('/').filter(|_| is_foreign);
    let Some(name) = rooted.map(str::to_owned).or_else(|| name_of(&source.name, &path)) else {
        diags.report(icon.span, Message::FromOutside { path });
        return;
    };
    let bytes = match world.bytes(&name) {
        Ok(bytes) => bytes,
        Err(Unopened::Missing) => return diags.report(icon.span, Message::FromMissing { path }),
        Err(Unopened::Outside) => return diags.report(icon.span, Message::FromOutside { path }),
        Err(Unopened::Unreadable(why)) => return diags.report(icon.span, Message::FromUnreadable { path, why }),
    };
    match pictogram::read_own(&name, &bytes) {
        Ok(art) => icons.add(&path, art, &STANDARD_NO_PAD.encode(sha2::Sha256::digest(&bytes))),
        Err(fault) => diags.report(icon.span, Message::IconFile { path, fault: shown(fault) }),
    }
}

/// What is wrong with a file, as the end of a sentence that begins with its path.
fn shown(fault: IconFault) -> String {
    match fault {
        IconFault::TooLarge(limit) => format!("is larger than {} KiB", limit / 1024),
        IconFault::Unsafe(what) => format!("holds {what}, which does not belong into a picture"),
        IconFault::Broken(why) => format!("cannot be read as a pictogram: {why}"),
    }
}

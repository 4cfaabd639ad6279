//! What a picture was drawn from, and the one figure that stands for all of it.

use super::seal::hex;
use crate::source::Source;
use sha2::{Digest, Sha256};
use std::sync::OnceLock;

/// Where a drawing comes from.
#[derive(Clone, Copy, Debug)]
pub struct Provenance<'a> {
    /// The source file's name, relative to the project.
    pub file: &'a str,
    /// The diagram's or sheet's name.
    pub name: &'a str,
    /// The source text.
    pub source: &'a str,
    /// The texts of other files that it takes from.
    pub imports: &'a [Source],
    /// The project's own pictograms that it may show, with what they hold; empty without any.
    pub icons: &'a str,
    /// What its themes are; empty for the default one.
    pub look: &'a str,
    /// The digest of the earlier picture whose places were kept. It is reported, and not part of the digest: a picture is
    /// fresh when its text is.
    pub earlier: Option<&'a str>,
    /// What all drawings of the same texts carry.
    pub packed: &'a Packed,
    /// The picture beside this one that carries the text, where that is long and this is one of many.
    pub text_in: Option<&'a str>,
}

impl<'a> Provenance<'a> {
    /// That of a drawing that was made from no text of a project.
    pub fn without_text(name: &'a str, packed: &'a Packed) -> Self {
        let (file, source, icons, look) = ("", "", "", "");
        Self { file, name, source, imports: &[], icons, look, earlier: None, packed, text_in: None }
    }
}

/// What all drawings of the same texts carry, made once.
#[derive(Clone, Debug, Default)]
pub struct Packed {
    pub(super) source: OnceLock<String>,
    digest: OnceLock<[u8; 32]>,
}

/// What a picture depends on, as one figure: the text and those it takes from, which diagram of it,
/// the tool's version, and the themes.
pub fn digest(provenance: &Provenance<'_>) -> String {
    let texts = provenance.packed.digest.get_or_init(|| {
        let imports = provenance.imports.iter().flat_map(|s| [s.name.as_bytes(), s.text.as_bytes()]);
        let icons = Some(provenance.icons.as_bytes()).filter(|i| !i.is_empty());
        hash(std::iter::once(provenance.source.as_bytes()).chain(imports).chain(icons))
    });
    let own = [env!("CARGO_PKG_VERSION"), provenance.file, provenance.name].map(str::as_bytes);
    let look = Some(provenance.look.as_bytes()).filter(|look| !look.is_empty());
    written(hash(own.into_iter().chain([&texts[..]]).chain(look)))
}

fn written(hash: [u8; 32]) -> String {
    format!("sha256:{}", hex(&hash))
}

/// The digest of several pictures in one file, from theirs.
pub fn digest_of_all(digests: &[String]) -> String {
    match digests {
        [only] => only.clone(),
        all => written(hash(all.iter().map(String::as_bytes))),
    }
}

/// The hash of parts, none of which runs into the next.
fn hash<'a>(parts: impl Iterator<Item = &'a [u8]>) -> [u8; 32] {
    let mut hash = Sha256::new();
    for part in parts {
        hash.update((part.len() as u64).to_le_bytes());
        hash.update(part);
    }
    hash.finalize().into()
}

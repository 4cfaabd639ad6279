//! Fonts for letters that the shipped ones lack: those that the project names, then those of the system. They are looked at only
//! where such letters are.

use crate::{Error, Project, read_bounded};
use bathygram_core::measure::{Cluster, FontFace, SpareFont, SpareFonts};
use fontdb::{Database, FaceInfo, Source, Style};
use std::collections::BTreeSet;
use std::path::Path;
use std::sync::{Arc, OnceLock};

/// A font file of a project has at most this many bytes.
// The largest in use, with every Chinese letter in many weights, have about 100 MB.
const LARGEST: u64 = 256 * 1024 * 1024;
/// Letters are bold from this weight on (CSS).
const BOLD: u16 = 600;

/// What was found.
#[derive(Clone, Debug, Default)]
pub struct FoundFonts {
    /// The fonts, the preferred ones first.
    pub fonts: SpareFonts,
    /// What no font has.
    pub missing: BTreeSet<String>,
}

/// Finds fonts for letters.
///
/// # Errors
/// If a font that the project names cannot be read, or is none.
pub fn fonts_for(project: &Project, letters: &BTreeSet<Cluster>) -> Result<FoundFonts, Error> {
    if letters.is_empty() {
        return Ok(FoundFonts::default());
    }
    let mut search = Search { open: letters.clone(), missing: BTreeSet::new(), fonts: Vec::new() };
    for name in &project.config.fonts {
        let file = project_font(&project.root, name)?;
        for number in 0..FontFace::count(&file) {
            search.look_at(&file, number);
        }
    }
    search.look_around();
    Ok(FoundFonts { fonts: SpareFonts::new(search.fonts), missing: search.missing })
}

/// The file of a font that a project names; it lies inside of it.
///
/// # Errors
/// If it cannot be read, or is no font.
pub(crate) fn project_font(root: &Path, name: &Path) -> Result<Arc<[u8]>, Error> {
    let path = root.join(name);
    let wrong = |why: String| Error::Font { path: path.clone(), why };
    let failed = |why: std::io::Error| Error::Read { path: path.clone(), why };
    let real = path.canonicalize().map_err(failed)?;
    if !real.starts_with(root.canonicalize().map_err(failed)?) {
        return Err(wrong("it lies outside of the project".to_owned()));
    }
    let file: Arc<[u8]> = read_bounded(&real, LARGEST)?.into();
    match FontFace::open(&file, 0) {
        Some(_) => Ok(file),
        None => Err(wrong("a font is a .ttf, .otf or .ttc file".to_owned())),
    }
}

/// A search for fonts.
struct Search {
    /// What was not found yet.
    open: BTreeSet<Cluster>,
    missing: BTreeSet<String>,
    fonts: Vec<SpareFont>,
}

impl Search {
    /// Takes a face of the project's own, whatever its weight, if it has any of the letters.
    fn look_at(&mut self, file: &Arc<[u8]>, number: u32) {
        let Some(face) = FontFace::open(file, number) else { return };
        let before = self.open.len();
        self.open.retain(|cluster| !face.draws(&cluster.text));
        if self.open.len() < before {
            self.fonts.push(SpareFont { file: file.clone(), number, is_bold: face.is_bold() });
        }
    }

    /// Looks for the rest in the fonts of the system: coloured signs first in fonts of signs, all else in those of texts.
    fn look_around(&mut self) {
        if self.open.is_empty() {
            return;
        }
        let tongue = Tongue::of(&self.open);
        let database = system();
        for (is_sign, is_bold) in [(true, false), (true, true), (false, false), (false, true)] {
            let mut faces: Vec<&FaceInfo> = database.faces().filter(|face| face.style == Style::Normal).collect();
            faces.sort_by_cached_key(|face| rank(face, is_sign, is_bold, tongue));
            let mut wanted: BTreeSet<Cluster> =
                self.open.iter().filter(|c| (is_a_sign(&c.text), c.is_bold) == (is_sign, is_bold)).cloned().collect();
            self.open.retain(|cluster| !wanted.contains(cluster));
            for face in faces {
                if wanted.is_empty() {
                    break;
                }
                let found = database.with_face_data(face.id, |file, number| {
                    let opened = FontFace::open(file, number)?;
                    let before = wanted.len();
                    wanted.retain(|cluster| !opened.draws(&cluster.text));
                    (wanted.len() < before).then(|| (Arc::from(file), number))
                });
                if let Some((file, number)) = found.flatten() {
                    let is_bold = face.weight.0 >= BOLD;
                    self.fonts.push(SpareFont { file, number, is_bold });
                }
            }
            self.missing.extend(wanted.into_iter().map(|cluster| cluster.text));
        }
    }
}

/// The fonts of the system, listed once.
fn system() -> &'static Database {
    static LISTED: OnceLock<Database> = OnceLock::new();
    LISTED.get_or_init(|| {
        let mut database = Database::new();
        database.load_system_fonts();
        database
    })
}

/// Whether letters are a sign such as a pictogram, rather than letters of a language.
fn is_a_sign(cluster: &str) -> bool {
    cluster.chars().any(|c| matches!(c, '\u{1f000}'..='\u{1ffff}' | '\u{fe0f}'))
}

/// The language whose forms of Chinese letters are meant.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Tongue {
    Chinese,
    Japanese,
    Korean,
}

impl Tongue {
    /// By the letters beside them: kana are Japanese, hangul Korean.
    fn of(letters: &BTreeSet<Cluster>) -> Self {
        let has = |low: char, high: char| letters.iter().any(|l| l.text.chars().any(|c| (low..=high).contains(&c)));
        if has('\u{3040}', '\u{30ff}') {
            Tongue::Japanese
        } else if has('\u{ac00}', '\u{d7a3}') {
            Tongue::Korean
        } else {
            Tongue::Chinese
        }
    }

    /// How the families of its fonts end.
    fn mark(self) -> &'static str {
        match self {
            Tongue::Chinese => " SC",
            Tongue::Japanese => " JP",
            Tongue::Korean => " KR",
        }
    }
}

/// What is looked at first: fonts of the wanted kind, weight and language, sans, upright and proportional; then by name, so that
/// a machine always answers the same.
fn rank(
    face: &FaceInfo, is_sign: bool, is_bold: bool, tongue: Tongue,
) -> (bool, bool, bool, bool, bool, u16, String, u32) {
    let family = face.families.first().map_or("", |(name, _)| name.as_str());
    let weight = if is_bold { 700 } else { 400 };
    let path = match &face.source {
        Source::File(path) | Source::SharedFile(path, _) => path.to_string_lossy().into_owned(),
        Source::Binary(_) => String::new(),
    };
    (
        family.contains("Emoji") != is_sign,
        face.monospaced,
        !family.contains("Sans"),
        family.contains(" CJK ") && !family.ends_with(tongue.mark()),
        family.contains("Condensed") || family.contains("Display"),
        face.weight.0.abs_diff(weight),
        path,
        face.index,
    )
}

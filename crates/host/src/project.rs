//! The project on disk: found from the working folder upwards by its `bathygram.toml`, which is
//! optional.

use crate::fonts::project_font;
use crate::looks::{language, themes};
use crate::{Error, MAX_SETTINGS, SITE_MARK, read_text};
use bathygram_core::check::{Levels, RULES};
use bathygram_core::diag::RuleLevel as Level;
use bathygram_core::language::Language;
use bathygram_core::source::world::Kept;
use bathygram_core::theme::Themes;
use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;
use std::fmt::Write;
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, Mutex};

/// The name of the config.
pub(crate) const CONFIG: &str = "bathygram.toml";

/// The theme of a project that names none.
const DEFAULT_THEME: &str = "shoal";

/// A form of a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Deserialize, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Format {
    /// A vector picture.
    Svg,
    /// A raster picture.
    Png,
    /// Pages to print.
    Pdf,
    /// A page to walk through.
    Html,
    /// Where everything is, for programs.
    Json,
    /// A graph, for programs.
    Graphml,
}

impl Format {
    /// All of them.
    pub const ALL: [Format; 6] = [Format::Svg, Format::Png, Format::Pdf, Format::Html, Format::Json, Format::Graphml];

    /// The form of a file, by its ending.
    pub fn of(path: &Path) -> Option<Self> {
        let ending = path.extension()?.to_str()?;
        Self::from_ending(ending)
    }

    /// The form with an ending.
    pub fn from_ending(ending: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|f| f.ending() == ending)
    }

    /// Whether one file holds several pictures.
    pub fn holds_several(self) -> bool {
        matches!(self, Format::Pdf | Format::Html)
    }

    /// All endings, in words.
    pub fn listed() -> String {
        let endings = Self::ALL.map(Self::ending);
        let (last, others) = endings.split_last().unwrap_or((&"", &[]));
        format!("{} or {last}", others.join(", "))
    }

    /// The ending of its files.
    pub fn ending(self) -> &'static str {
        match self {
            Format::Svg => "svg",
            Format::Png => "png",
            Format::Pdf => "pdf",
            Format::Html => "html",
            Format::Json => "json",
            Format::Graphml => "graphml",
        }
    }
}

/// How much a rule weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum RuleLevel {
    /// It is not looked at.
    Off,
    /// What breaks it is a warning.
    Warning,
    /// What breaks it is denied, and `check` ends with 1.
    Error,
}

impl From<RuleLevel> for Level {
    fn from(level: RuleLevel) -> Self {
        match level {
            RuleLevel::Off => Level::Off,
            RuleLevel::Warning => Level::Warning,
            RuleLevel::Error => Level::Error,
        }
    }
}

/// What `bathygram.toml` may say. Every key may be left out.
#[derive(Clone, Debug, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
#[schemars(title = "bathygram.toml")]
pub struct Config {
    /// The folder of the pictures, relative to the config.
    pub pictures: PathBuf,
    /// The forms of the pictures; SVG if none is named.
    pub formats: Option<Vec<Format>>,
    /// Whether a new picture stays near the one that is there: unchanged elements keep their places.
    pub keep: bool,
    /// The theme of the pictures: a built-in one, a file such as "looks/harbour.toml", or two as "shoal+abyss", for light pages
    /// and for dark ones.
    pub theme: Option<String>,
    /// The colour of the palette that the quiet colours of the theme follow.
    pub accent: Option<String>,
    /// The language of the words that the program adds: en, de, fr, es, or a table of the project such as "words/nl.toml".
    pub language: Option<String>,
    /// Fonts for letters that the shipped ones lack, in PNG and PDF, relative to the config: "fonts/letters.ttf". Those of the
    /// system come after them.
    pub fonts: Vec<PathBuf>,
    /// Words on branches of flows that refuse, besides "no", "rejected", "invalid", "denied" and "failed".
    pub refused: Vec<String>,
    /// How much single rules weigh; `bathygram check --explain` lists them.
    #[schemars(schema_with = "rules_schema")]
    pub rules: BTreeMap<String, RuleLevel>,
    /// What `bathygram conform` compares with, where no option says so.
    pub conform: ConformConfig,
    /// The site of the project.
    pub site: SiteConfig,
}

/// The site of a project.
#[derive(Clone, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct SiteConfig {
    /// What the project is called on its pages: the heading of its README, or the name of its folder, if it is not said.
    pub title: Option<String>,
    /// The folder of the site, relative to the config: "site" if none is named.
    pub folder: Option<PathBuf>,
}

/// What drawings are compared with.
#[derive(Clone, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct ConformConfig {
    /// The folder of the source code, relative to the config; architectures and classes are compared with it.
    pub code: Option<PathBuf>,
    /// An SQLite file, relative to the config, or the address of a PostgreSQL server; tables are compared with it.
    pub database: Option<String>,
    /// A file of RDF, relative to the config, or the address of an endpoint; classes are compared with it.
    pub rdf: Option<String>,
    /// A file of traces, relative to the config; sequences are compared with it.
    pub trace: Option<PathBuf>,
    /// The file of what is accepted, relative to the config.
    pub baseline: Option<PathBuf>,
    /// How much kinds of differences weigh, by their codes: "surprise", "absent", "forbidden", "uncovered" and the like.
    pub levels: BTreeMap<String, RuleLevel>,
}

impl Config {
    /// The forms of the pictures.
    pub fn formats(&self) -> &[Format] {
        self.formats.as_deref().unwrap_or(&[Format::Svg])
    }
}

/// What a config says about the looks of all pictures, by its keys; nothing of a text that is no config.
pub fn looks_in(config: &str) -> BTreeMap<&'static str, String> {
    let Ok(config) = toml::from_str::<Config>(config) else { return BTreeMap::new() };
    let said = [("theme", config.theme), ("accent", config.accent), ("language", config.language)];
    said.into_iter().filter_map(|(key, value)| Some((key, value?))).collect()
}

/// What a project holds.
#[derive(Debug, Default)]
pub(crate) struct Walked {
    pub(crate) sources: Vec<PathBuf>,
    pub(crate) documents: Vec<PathBuf>,
    /// Files that may be pictures which say what they were drawn from.
    pub(crate) pictures: Vec<PathBuf>,
    /// The folders that were looked through, and those of projects inside.
    pub(crate) folders: Vec<PathBuf>,
}

/// Whether a folder is a project or a repository of its own.
fn stands_alone(folder: &Path) -> bool {
    folder.join(CONFIG).is_file() || folder.join(".git").exists()
}

/// Whether a file has a form that says what it was drawn from, by its ending.
fn tells_its_source(path: &Path) -> bool {
    matches!(Format::of(path), Some(Format::Svg | Format::Pdf | Format::Html | Format::Graphml))
}

/// Whether a file is a Markdown document, by its ending.
pub fn is_document(path: &Path) -> bool {
    let ending = path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
    ending.is_some_and(|ending| ending == "md" || ending == "markdown")
}

/// The rules by name, so that editors can complete them.
fn rules_schema(generator: &mut SchemaGenerator) -> Schema {
    let level = generator.subschema_for::<RuleLevel>();
    let names = RULES.iter().map(|r| (r.code.to_owned(), level.clone().to_value()));
    let properties: serde_json::Map<String, serde_json::Value> = names.collect();
    schemars::json_schema!({ "type": "object", "properties": properties, "additionalProperties": false })
}

/// The JSON Schema of the config, as text.
pub fn config_schema() -> String {
    let schema = schemars::schema_for!(Config);
    format!("{:#}\n", schema.to_value())
}

impl Default for Config {
    fn default() -> Self {
        Self {
            pictures: PathBuf::from("pictures"),
            formats: None,
            keep: false,
            theme: None,
            accent: None,
            language: None,
            fonts: Vec::new(),
            refused: Vec::new(),
            rules: BTreeMap::new(),
            conform: ConformConfig::default(),
            site: SiteConfig::default(),
        }
    }
}

/// A project.
#[derive(Clone, Debug)]
pub struct Project {
    /// Its folder.
    pub root: PathBuf,
    /// Its config.
    pub config: Config,
    /// How much each rule weighs in it.
    pub levels: Levels,
    /// In which themes its pictures are drawn.
    pub themes: Themes,
    /// What digests say of them, and of what else pictures depend on.
    pub look: String,
    /// The language of the words that the program adds.
    pub language: Language,
    /// What was read of files that several texts take from.
    pub kept: Arc<Kept>,
}

impl Project {
    /// A folder with everything as usual, whatever config there is.
    pub fn without_config(root: &Path) -> Self {
        Self {
            root: root.to_owned(),
            config: Config::default(),
            levels: Levels::default(),
            themes: Themes::default(),
            look: String::new(),
            language: Language::default(),
            kept: Arc::default(),
        }
    }

    /// Finds the project around a folder; without a config, the folder itself is one.
    ///
    /// # Errors
    /// If the config cannot be read or has an error.
    pub fn find(folder: &Path) -> Result<Self, Error> {
        // A repository stands alone, also one that lies in the folders of a project.
        let root = folder.ancestors().find(|f| f.join(CONFIG).exists() || f.join(".git").exists());
        let Some(root) = root.filter(|root| root.join(CONFIG).exists()) else {
            return Ok(Self::without_config(folder));
        };
        let path = root.join(CONFIG);
        let text = read_text(&path, MAX_SETTINGS)?;
        let config: Config = toml::from_str(&text)
            .map_err(|e| Error::Config { path: path.clone(), message: e.to_string().trim_end().to_owned() })?;
        if !config.pictures.components().all(|c| matches!(c, Component::Normal(_) | Component::CurDir)) {
            let message = "`pictures` is a folder inside the project, such as \"pictures\"".to_owned();
            return Err(Error::Config { path, message });
        }
        let is_inside =
            |folder: &PathBuf| folder.components().all(|c| matches!(c, Component::Normal(_) | Component::CurDir));
        if config.site.folder.as_ref().is_some_and(|folder| !is_inside(folder) || folder.as_os_str().is_empty()) {
            let message = "`folder` of the site is a folder inside the project, such as \"site\"".to_owned();
            return Err(Error::Config { path, message });
        }
        if config.formats.as_ref().is_some_and(Vec::is_empty) {
            let message = "`formats` names at least one form, such as [\"svg\"]".to_owned();
            return Err(Error::Config { path, message });
        }
        let mut levels = Levels::new().refusing(&config.refused);
        for (code, level) in &config.rules {
            levels.set(code, (*level).into()).map_err(|suggestion| {
                let hint = suggestion.map_or(String::new(), |s| format!("; did you mean `{s}`?"));
                Error::Config { path: path.clone(), message: format!("no rule is called `{code}`{hint}") }
            })?;
        }
        let themes = match (&config.theme, &config.accent) {
            (None, None) => Themes::default(),
            (theme, accent) => {
                let words = theme.as_deref().unwrap_or(DEFAULT_THEME);
                themes(words, accent.as_deref(), root, root)
                    .map_err(|why| Error::Config { path: path.clone(), message: why.to_string() })?
            }
        };
        let language = match &config.language {
            None => Language::default(),
            Some(words) => language(words, root, root)
                .map_err(|why| Error::Config { path: path.clone(), message: why.to_string() })?,
        };
        for name in &config.fonts {
            project_font(root, name).map_err(|why| Error::Config { path: path.clone(), message: why.to_string() })?;
        }
        let (look, kept) = (String::new(), Arc::default());
        Ok(Self { root: root.to_owned(), config, levels, themes, look, language, kept }.looked_at())
    }

    /// The same project with other themes: those that a word names, files relative to the working folder.
    ///
    /// # Errors
    /// If there is no such theme, or it has an error.
    pub fn in_themes(mut self, words: &str) -> Result<Self, Error> {
        self.themes = themes(words, self.config.accent.as_deref(), Path::new(""), &self.root)?;
        Ok(self.looked_at())
    }

    /// The same project with the words of another language.
    ///
    /// # Errors
    /// If there is no such language, or its table has an error.
    pub fn in_language(mut self, words: &str) -> Result<Self, Error> {
        self.language = language(words, Path::new(""), &self.root)?;
        Ok(self.looked_at())
    }

    /// The same with what digests say of its looks.
    fn looked_at(mut self) -> Self {
        self.look = self.themes.fingerprint();
        if self.language != Language::default() {
            let _ = write!(self.look, "{:?}", self.language);
        }
        for name in &self.config.fonts {
            let digest = project_font(&self.root, name).map(|file| Sha256::digest(&file));
            let _ = digest.map(|digest| write!(self.look, "font {digest:x};"));
        }
        self
    }

    /// Whether a file of the project is a link, or lies behind one, that leads out of it.
    pub fn leads_out(&self, path: &Path) -> bool {
        let (Ok(root), Ok(real)) = (self.root.canonicalize(), path.canonicalize()) else { return false };
        let (Ok(own), Ok(path)) = (std::path::absolute(&self.root), std::path::absolute(path)) else { return false };
        (path.starts_with(&own) || path.starts_with(&root)) && !real.starts_with(root)
    }

    /// Where pictures of sources go.
    pub fn pictures(&self) -> PathBuf {
        self.root.join(&self.config.pictures)
    }

    /// Where the pictures of a source go, or those of a document, which has them beside itself; by its name in the project.
    pub fn pictures_of(&self, source: &str) -> PathBuf {
        if !is_document(Path::new(source)) {
            return self.pictures();
        }
        self.root.join(Path::new(source).parent().unwrap_or(Path::new(""))).join(self.picture_folder())
    }

    /// What a folder of pictures is called.
    pub fn picture_folder(&self) -> String {
        self.config.pictures.file_name().map_or_else(|| "pictures".to_owned(), |n| n.to_string_lossy().into_owned())
    }

    /// The forms of the pictures of a source; a document shows SVG.
    pub fn forms_of(&self, source: &str) -> &[Format] {
        if is_document(Path::new(source)) { &[Format::Svg] } else { self.config.formats() }
    }

    /// All sources of the project, in the order of their paths. Hidden files, files that git ignores, and those of projects
    /// and repositories inside are none.
    ///
    /// # Errors
    /// If a file that says what git ignores is none that can be read.
    pub fn sources(&self) -> Result<Vec<PathBuf>, Error> {
        Ok(self.walk()?.sources)
    }

    /// All Markdown documents of the project, in the order of their paths; what are no sources are no documents.
    ///
    /// # Errors
    /// As [`Self::sources`].
    pub fn documents(&self) -> Result<Vec<PathBuf>, Error> {
        Ok(self.walk()?.documents)
    }

    /// All sources of the project, then all its documents.
    ///
    /// # Errors
    /// As [`Self::sources`].
    pub fn texts(&self) -> Result<Vec<PathBuf>, Error> {
        let Walked { mut sources, documents, .. } = self.walk()?;
        sources.extend(documents);
        Ok(sources)
    }

    /// Files of the project that may be pictures which say what they were drawn from, wherever they are.
    ///
    /// # Errors
    /// As [`Self::sources`].
    pub fn picture_files(&self) -> Result<Vec<PathBuf>, Error> {
        let mut found = self.walk()?.pictures;
        found.sort();
        Ok(found)
    }

    /// The sources, the documents, and the folders that were looked through.
    ///
    /// # Errors
    /// If a file that says what git ignores is none that can be read.
    pub(crate) fn walk(&self) -> Result<Walked, Error> {
        let mut found = Walked::default();
        let mut walk = ignore::WalkBuilder::new(&self.root);
        self.root.ancestors().try_for_each(check_ignore_files)?;
        // The folder of another project is noted, and what is in it is not.
        let inside = Arc::new(Mutex::new((Vec::new(), None)));
        let noted = Arc::clone(&inside);
        walk.require_git(false).filter_entry(move |entry| {
            if entry.depth() == 0 || !entry.file_type().is_some_and(|t| t.is_dir()) {
                return true;
            }
            // What a site holds was made from the project, and is none of it.
            if entry.path().join(SITE_MARK).is_file() {
                return false;
            }
            let is_other = stands_alone(entry.path());
            let odd = if is_other { None } else { check_ignore_files(entry.path()).err() };
            let is_walked = !is_other && odd.is_none();
            if let Ok(mut noted) = noted.lock() {
                noted.0.extend(is_other.then(|| entry.path().to_owned()));
                noted.1 = noted.1.take().or(odd);
            }
            is_walked
        });
        for entry in walk.build().flatten() {
            match entry.file_type() {
                Some(t) if t.is_dir() => found.folders.push(entry.into_path()),
                Some(t) if t.is_file() && entry.path().extension().is_some_and(|e| e == "bathy") => {
                    found.sources.push(entry.into_path());
                }
                Some(t) if t.is_file() && is_document(entry.path()) => found.documents.push(entry.into_path()),
                Some(t) if t.is_file() && tells_its_source(entry.path()) => found.pictures.push(entry.into_path()),
                _ => {}
            }
        }
        let (others, odd) = inside.lock().map(|mut inside| std::mem::take(&mut *inside)).unwrap_or_default();
        if let Some(odd) = odd {
            return Err(odd);
        }
        found.folders.extend(others);
        // As bytes: component by component takes longer than finding them.
        found.sources.sort_by(|a, b| a.as_os_str().cmp(b.as_os_str()));
        found.documents.sort_by(|a, b| a.as_os_str().cmp(b.as_os_str()));
        Ok(found)
    }

    /// Whether a path belongs to this project: it lies in its folder, and not in that of a project or a repository inside.
    pub fn owns(&self, path: &Path) -> bool {
        let absolute = |p: &Path| std::path::absolute(p).unwrap_or_else(|_| p.to_owned());
        let (root, path) = (absolute(&self.root), absolute(path));
        let real = root.canonicalize().unwrap_or_else(|_| root.clone());
        let root = if path.starts_with(&root) { root } else { real };
        path.starts_with(&root) && !path.ancestors().skip(1).take_while(|f| *f != root).any(stands_alone)
    }

    /// A name relative to the project, as a path from the working folder: terminals can open it.
    pub fn from_here(&self, name: &str) -> String {
        let absolute = |p: &Path| std::path::absolute(p).unwrap_or_else(|_| p.to_owned());
        let (root, Ok(here)) = (absolute(&self.root), std::env::current_dir()) else { return name.to_owned() };
        let file = root.join(name);
        let shared = here.components().zip(file.components()).take_while(|(a, b)| a == b).count();
        let up = here.components().skip(shared).map(|_| "..".to_owned());
        let down = file.components().skip(shared).map(|c| c.as_os_str().to_string_lossy().into_owned());
        // A file outside the project is known by its name alone.
        if file.is_file() { up.chain(down).collect::<Vec<_>>().join("/") } else { name.to_owned() }
    }

    /// A path as shown and as recorded in pictures: relative to the project, with `/`.
    pub fn shown(&self, path: &Path) -> String {
        // Files of a walk begin with the root as it is written.
        let plain = |rest: &str| !rest.contains("./") && !rest.contains("//") && !rest.contains('\\');
        let rest = self.root.to_str().and_then(|root| path.to_str()?.strip_prefix(root)?.strip_prefix('/'));
        if let Some(rest) = rest.filter(|rest| plain(rest)) {
            return rest.to_owned();
        }
        let absolute = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
        let root = std::path::absolute(&self.root).unwrap_or_else(|_| self.root.clone());
        match absolute.strip_prefix(&root) {
            Ok(inside) => inside.components().map(|c| c.as_os_str().to_string_lossy()).collect::<Vec<_>>().join("/"),
            // Outside the project only the file's name is reported: pictures hold no path of a machine.
            Err(_) => path.file_name().map_or_else(String::new, |n| n.to_string_lossy().into_owned()),
        }
    }
}

/// Refuses files in a folder that say what git ignores and cannot be read whole: they are read while the folder is walked.
pub(crate) fn check_ignore_files(folder: &Path) -> Result<(), Error> {
    for name in [".gitignore", ".ignore", ".git/info/exclude"] {
        let path = folder.join(name);
        match std::fs::metadata(&path) {
            Ok(about) if about.is_dir() => {}
            Ok(about) if !about.is_file() => return Err(Error::NotRegular { path }),
            Ok(about) if about.len() > MAX_SETTINGS => return Err(Error::TooLarge { path, limit: MAX_SETTINGS }),
            _ => {}
        }
    }
    Ok(())
}

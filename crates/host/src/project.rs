//! The project on disk: found from the working folder upwards by its `bathygram.toml`, which is
//! optional.

use crate::Error;
use serde::Deserialize;
use std::path::{Path, PathBuf};

/// The name of the config.
const CONFIG: &str = "bathygram.toml";

/// A form of a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Format {
    /// A vector picture.
    Svg,
    /// A raster picture.
    Png,
}

impl Format {
    /// The ending of its files.
    pub fn ending(self) -> &'static str {
        match self {
            Format::Svg => "svg",
            Format::Png => "png",
        }
    }
}

/// What `bathygram.toml` may say.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Config {
    /// The folder of the pictures, relative to the config.
    pub pictures: PathBuf,
    /// The forms of the pictures.
    pub formats: Vec<Format>,
}

impl Default for Config {
    fn default() -> Self {
        Self { pictures: PathBuf::from("pictures"), formats: vec![Format::Svg] }
    }
}

/// A project.
#[derive(Clone, Debug)]
pub struct Project {
    /// Its folder.
    pub root: PathBuf,
    /// Its config.
    pub config: Config,
}

impl Project {
    /// Finds the project around a folder; without a config, the folder itself is one.
    ///
    /// # Errors
    /// If the config cannot be read or has a mistake.
    pub fn find(folder: &Path) -> Result<Self, Error> {
        let root = folder.ancestors().find(|f| f.join(CONFIG).is_file());
        let Some(root) = root else {
            return Ok(Self { root: folder.to_owned(), config: Config::default() });
        };
        let path = root.join(CONFIG);
        let text = std::fs::read_to_string(&path).map_err(|source| Error::Read { path: path.clone(), source })?;
        let config: Config = toml::from_str(&text)
            .map_err(|e| Error::Config { path: path.clone(), message: e.to_string().trim_end().to_owned() })?;
        let inside = |p: &Path| {
            p.components().all(|c| matches!(c, std::path::Component::Normal(_) | std::path::Component::CurDir))
        };
        if !inside(&config.pictures) {
            let message = "`pictures` is a folder inside the project, such as \"pictures\"".to_owned();
            return Err(Error::Config { path, message });
        }
        Ok(Self { root: root.to_owned(), config })
    }

    /// Where pictures go.
    pub fn pictures(&self) -> PathBuf {
        self.root.join(&self.config.pictures)
    }

    /// All sources of the project, in the order of their paths. Hidden files, and files that git
    /// ignores, are none.
    pub fn sources(&self) -> Vec<PathBuf> {
        let mut found: Vec<PathBuf> = ignore::WalkBuilder::new(&self.root)
            .require_git(false)
            .build()
            .flatten()
            .filter(|e| e.file_type().is_some_and(|t| t.is_file()))
            .map(ignore::DirEntry::into_path)
            .filter(|p| p.extension().is_some_and(|e| e == "bathy"))
            .collect();
        found.sort();
        found
    }

    /// A path as shown and as recorded in pictures: relative to the project, with `/`.
    pub fn shown(&self, path: &Path) -> String {
        let absolute = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
        let root = std::path::absolute(&self.root).unwrap_or_else(|_| self.root.clone());
        match absolute.strip_prefix(&root) {
            Ok(inside) => inside.components().map(|c| c.as_os_str().to_string_lossy()).collect::<Vec<_>>().join("/"),
            // Outside the project only the file's name is told: pictures hold no path of a machine.
            Err(_) => path.file_name().map_or_else(String::new, |n| n.to_string_lossy().into_owned()),
        }
    }
}

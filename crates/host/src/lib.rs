//! What the programs share and what touches the machine: the project on disk, git, writing files
//! whole, printing diagnostics.

mod error;
mod files;
mod fonts;
mod fresh;
mod git;
mod looks;
mod print;
mod project;
mod record;
mod record_folder;
mod seen;
mod site_record;
mod threads;
mod tree;
mod unmet;
mod watch;
mod world;

pub use error::Error;
pub use files::{
    MAX_DOCUMENT, MAX_PICTURE, MAX_SETTINGS, MAX_SOURCE, Overwrite, Room, clear_unfinished, is_pipe, limit_of,
    picture_file, read_bounded, read_source, read_text, remove_inside, write_inside, write_picture, write_whole,
};
pub use fonts::{FoundFonts, fonts_for};
pub use fresh::{Freshness, PictureOf, Stray, freshness_of, strays};
pub use git::{Blob, Changed, Commit, Found, Git, Version};
pub use looks::{theme_schema, themes};
pub use print::{Colours, FileFindings, Printed, Shown, by_file, print};
pub use project::{
    Config, ConformConfig, Format, Project, RuleLevel, SiteConfig, config_schema, is_document, looks_in,
};
pub use record::{Entry, Made, Purpose, Reason, Record, digest};
pub use record_folder::{Lock, PATIENCE};
pub use seen::Seen;
pub use site_record::{SITE_MARK, SITE_MARK_TEXT, SiteRecord};
pub use threads::Threads;
pub use tree::SourceTree;
pub use unmet::UnmetCache;
pub use watch::Watch;
pub use world::{Disk, Edited, InVersion};

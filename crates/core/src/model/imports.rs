//! `from "other.bathy"`: files that a file takes declarations and looks from. Input: a tree of lines and
//! a [`World`]. Output: [`Imports`], all that is visible from elsewhere. Guarantees: every file is read
//! once, whoever names it; cycles, missing files and ways out of the project are reported, and reading
//! goes on without them.

use super::occurrences::{Recorder, Role, Target};
use super::{Diagram, Imports, LookRule, is_icon_file};
use crate::diag::{Diagnostics, Message, Severity};
use crate::source::world::{Unopened, World, name_of};
use crate::source::{Source, SourceId, Span, Spanned};
use crate::syntax::{Cursor, LineId, Tree, parse};
use crate::vocabulary::TraitWord;
use std::collections::BTreeMap;
use std::sync::Arc;

/// Files may take from files that take from files, this deep.
// Files that take from each other in a circle are found before; this bounds the stack for a chain made by a program.
const MAX_DEPTH: usize = 32;

/// What one file gives by itself, and the files that it names.
#[derive(Clone, Debug)]
struct Loaded {
    source: Source,
    diagrams: Vec<Arc<Diagram>>,
    looks: Vec<LookRule>,
    names: Vec<String>,
    errors: usize,
    /// Files that take from each other in a circle, if this one leads there.
    cycle: Option<Vec<String>>,
}

/// Names a pictogram's file from the project's folder, so that it is found from every file.
fn root_path(from: &str, icon: &mut Spanned<String>) {
    if is_icon_file(&icon.value) {
        icon.value = name_of(from, &icon.value).map_or_else(|| icon.value.clone(), |name| format!("/{name}"));
    }
}

struct Loader<'w> {
    world: &'w dyn World,
    stop: &'w dyn Fn() -> bool,
    /// How many files were opened: the number of the last one.
    count: usize,
    loaded: BTreeMap<String, Loaded>,
    /// The files being read, the outermost first.
    open: Vec<String>,
    /// The circle found last, while the file that leads there is read.
    cycle: Option<Vec<String>>,
}

/// Reads the files that the `from` lines of a file name.
pub(super) fn read(
    source: &Source, tree: &Tree, world: &dyn World, recorder: &Recorder<'_>, diags: &mut Diagnostics,
) -> Imports {
    let mut loader = Loader {
        world,
        stop: recorder.stop(),
        count: 0,
        loaded: BTreeMap::new(),
        open: vec![source.name.clone()],
        cycle: None,
    };
    let names = loader.names(source, tree, recorder, diags);
    loader.visible(&names)
}

impl Loader<'_> {
    /// Reads the files that a text names; gives their names.
    fn names(&mut self, source: &Source, tree: &Tree, recorder: &Recorder<'_>, diags: &mut Diagnostics) -> Vec<String> {
        let mut names = Vec::new();
        // Lines, and whether each begins a block.
        let mut lines: Vec<(LineId, bool)> = tree.roots.iter().rev().map(|id| (*id, true)).collect();
        while let Some((id, is_block)) = lines.pop() {
            let line = tree.line(id);
            let mut cursor = Cursor::new(source, tree, line);
            if cursor.eat("from").is_none() || !is_block && !cursor.at_text() {
                // Parts of a model may lie in other files.
                if !is_block || cursor.peek() == Some("architecture") {
                    lines.extend(line.children.iter().rev().map(|id| (*id, false)));
                }
                continue;
            }
            let Some(label) = cursor.expect_label("from", diags) else { continue };
            if is_block {
                cursor.finish(&[], diags);
                cursor.leaf("`from`", diags);
            }
            let path = label.text();
            let Some(name) = name_of(&source.name, &path) else {
                diags.report(label.span, Message::FromOutside { path });
                continue;
            };
            if !self.load(&name, &path, label.span, diags) {
                continue;
            }
            recorder.note(label.span, Target::File(self.loaded[&name].source.id), Role::Named);
            if !names.contains(&name) {
                names.push(name);
            }
        }
        names
    }

    /// Reads one file, unless it was read before; says whether it can be used.
    fn load(&mut self, name: &str, path: &str, span: Span, diags: &mut Diagnostics) -> bool {
        if let Some(at) = self.open.iter().position(|open| open == name) {
            let mut files = self.open[at..].to_vec();
            files.push(name.to_owned());
            self.cycle = Some(files.clone());
            diags.report(span, Message::FromCycle { files });
            return false;
        }
        if self.open.len() >= MAX_DEPTH {
            diags.report(span, Message::FromTooDeep { limit: MAX_DEPTH });
            return false;
        }
        if !self.loaded.contains_key(name) {
            let text = match self.world.text(name) {
                Ok(text) => text,
                Err(why) => {
                    diags.report(
                        span,
                        match why {
                            Unopened::Missing => Message::FromMissing { path: path.to_owned() },
                            Unopened::Outside => Message::FromOutside { path: path.to_owned() },
                            Unopened::Unreadable(why) => Message::FromUnreadable { path: path.to_owned(), why },
                        },
                    );
                    return false;
                }
            };
            self.count += 1;
            let loaded = self.once(Source::numbered(SourceId::new(self.count), name, text));
            self.loaded.insert(name.to_owned(), loaded);
        }
        let loaded = &self.loaded[name];
        match (&loaded.cycle, loaded.errors) {
            (Some(files), _) => {
                self.cycle = Some(files.clone());
                diags.report(span, Message::FromCycle { files: files.clone() });
            }
            (None, 0) => {}
            (None, errors) => diags.report(span, Message::FromErrors { path: path.to_owned(), errors }),
        }
        true
    }

    /// What a file gives, read by this or by another reading.
    fn once(&mut self, source: Source) -> Loaded {
        let Some(kept) = self.world.kept() else { return self.file(source) };
        let known: Option<Arc<Loaded>> = kept.get(&source.name, source.id);
        if let Some(known) = known.filter(|known| known.source.text == source.text) {
            return Loaded::clone(&known);
        }
        let loaded = self.file(source);
        // What a file takes from others depends on them. What was not read to its end is nobody else's.
        if loaded.names.is_empty() && loaded.cycle.is_none() && !(self.stop)() {
            kept.put(&loaded.source.name, loaded.source.id, Arc::new(loaded.clone()));
        }
        loaded
    }

    fn file(&mut self, source: Source) -> Loaded {
        let mut diags = Diagnostics::default();
        let tree = parse(&source, &mut diags);
        self.open.push(source.name.clone());
        // A circle found by a file that was named before is that one's.
        let outer = self.cycle.take();
        let unheard = Recorder::new(self.stop);
        let names = self.names(&source, &tree, &unheard, &mut diags);
        let cycle = std::mem::replace(&mut self.cycle, outer);
        self.open.pop();
        let imports = self.visible(&names);
        let stem = source.name.rsplit('/').next().unwrap_or_default().trim_end_matches(".bathy");
        let document = super::document::read_with(&source, &tree, stem, imports, &unheard, &mut diags);
        let mut diagrams = document.diagrams;
        let mut looks = document.looks;
        let icons = diagrams.iter_mut().flat_map(|d| &mut d.elements).filter_map(|e| e.properties.icon.as_mut());
        let traits = looks.iter_mut().flat_map(|r| &mut r.traits).filter(|t| t.meaning() == Some(TraitWord::Icon));
        icons.chain(traits.filter_map(|t| t.values.first_mut())).for_each(|icon| root_path(&source.name, icon));
        let errors = diags.into_sorted().iter().filter(|d| d.severity == Severity::Error).count();
        let diagrams = diagrams.into_iter().map(Arc::new).collect();
        Loaded { source, diagrams, looks, names, errors, cycle }
    }

    /// Everything that these files give, and the files that they name, each once.
    fn visible(&self, names: &[String]) -> Imports {
        let mut imports = Imports::default();
        let mut seen = std::collections::BTreeSet::new();
        let mut work: Vec<&str> = names.iter().rev().map(String::as_str).collect();
        while let Some(name) = work.pop() {
            let Some(loaded) = self.loaded.get(name).filter(|_| seen.insert(name)) else { continue };
            imports.diagrams.extend(loaded.diagrams.iter().cloned());
            imports.files.resize(imports.diagrams.len(), name.to_owned());
            imports.looks.extend(loaded.looks.iter().cloned());
            imports.sources.push(loaded.source.clone());
            work.extend(loaded.names.iter().rev().map(String::as_str));
        }
        imports
    }
}

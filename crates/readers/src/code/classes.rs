//! The classifiers of a source tree with their relations, as a picture of classes.

use super::base::CodeBase;
use super::declared::{Classifier, Declarations, Declared, Extension, Type, declarations, shown};
use super::language::{Language, Reader};
use super::modules::unread;
use super::resolve::{Dependencies, Target};
use super::sources::{Source, Sources};
use super::syntax::ALL;
use super::tree::{Tree, folder, meant_by};
use crate::facts::{Facts, Link, LinkEnd, Member, Thing};
use crate::finding::{Broken, Finding, Level, Seen};
use crate::select::Selection;
use bathygram_core::jobs::{Jobs, map};
use bathygram_core::model::{DiagramKind, ElementKind, ShownMembers, Verb};
use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};

/// More classifiers than these are hard to read in one picture.
const MANY: usize = 60;
/// Longer operations are written without the types of their parameters, and still longer ones without these.
const LONGEST: usize = 64;

/// What classes are read with.
#[derive(Clone, Debug)]
pub struct Options {
    /// Which are wanted, by their names, their files, or folders around these.
    pub selection: Selection,
    /// Which members are shown.
    pub members: ShownMembers,
    /// Whether lines also show what operations take and give.
    pub with_uses: bool,
    /// Whether what is said of classifiers is taken.
    pub with_about: bool,
    /// Whether tests, examples and benchmarks are wanted.
    pub with_tests: bool,
}

/// Reads a tree.
///
/// # Errors
/// If there is no source code in it, or no classifier is wanted.
pub fn classes(tree: &dyn Tree, options: &Options, jobs: &dyn Jobs) -> Result<Facts, Broken> {
    CodeBase::read(tree, options.with_tests, jobs)?.classes(options, jobs)
}

/// The classifiers of files that are read.
pub(super) fn facts(
    sources: &Sources<'_>, dependencies: &Dependencies, (options, with_tests): (&Options, bool), jobs: &dyn Jobs,
) -> Result<Facts, Broken> {
    let declared = map(jobs, sources.all.len(), &|number| read(sources, number, with_tests));
    let known = Known::new(sources, dependencies, &declared);
    let facts = Picture { sources, known: &known, options }.facts();
    if facts.things.is_empty() {
        let seen = Seen { file: sources.tree.name().into(), ..Seen::default() };
        let why = match known.all.len() {
            0 => "there are no classes, interfaces, enumerations or records in it".to_owned(),
            1 => "its one classifier is not what is asked for; `--only` takes names, files and folders".to_owned(),
            count => format!(
                "none of its {count} classifiers matches what is asked for; `--only` takes names, files and folders"
            ),
        };
        return Err(Broken { seen, why });
    }
    Ok(facts)
}

fn read(sources: &Sources<'_>, number: usize, with_tests: bool) -> Declarations {
    let source = &sources.all[number];
    let bytes = sources.bytes(&source.path).unwrap_or_default();
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
    let reader = Reader::new(source.language, &source.path, &sources.patience);
    reader.map(|mut reader| declarations(&mut reader, source.language, bytes, with_tests)).unwrap_or_default()
}

/// A classifier with the file in which it stands.
struct Entry<'d> {
    file: u32,
    declared: &'d Classifier,
    /// The classifier around it.
    outer: Option<usize>,
    /// What it is a kind of, with the file in which that is written.
    bases: Vec<(Verb, &'d str, u32)>,
    members: Vec<&'d Declared>,
}

/// What a name of a file means.
#[derive(Clone, Debug)]
enum Meaning {
    /// Something that is declared in a file, by its name there; nothing for the file as a whole.
    Declared(u32, Option<String>),
    Outside,
}

/// All classifiers, and how names lead to them.
struct Known<'d> {
    sources: &'d Sources<'d>,
    all: Vec<Entry<'d>>,
    by_file: HashMap<(u32, &'d str), usize>,
    /// Where names need no import: packages of Java, whatever source roots they lie in, and folders of Go.
    by_package: HashMap<(&'d str, &'d str), Vec<usize>>,
    meanings: Vec<HashMap<String, Meaning>>,
    /// Files of which a file imports everything.
    whole: Vec<Vec<u32>>,
}

impl<'d> Known<'d> {
    fn new(sources: &'d Sources<'d>, dependencies: &Dependencies, declared: &'d [Declarations]) -> Self {
        let count = sources.all.len();
        let mut known = Self {
            sources,
            all: Vec::new(),
            by_file: HashMap::new(),
            by_package: HashMap::new(),
            meanings: vec![HashMap::new(); count],
            whole: vec![Vec::new(); count],
        };
        for (file, declarations) in declared.iter().enumerate() {
            let first = known.all.len();
            for classifier in &declarations.classifiers {
                let number = known.all.len();
                known.by_file.entry((file as u32, classifier.name.as_str())).or_insert(number);
                known
                    .by_package
                    .entry((package(&sources.all[file]), classifier.name.as_str()))
                    .or_default()
                    .push(number);
                known.all.push(Entry {
                    file: file as u32,
                    declared: classifier,
                    outer: classifier.outer.map(|outer| first + outer),
                    bases: classifier.bases.iter().map(|(verb, name)| (*verb, name.as_str(), file as u32)).collect(),
                    members: classifier.members.iter().collect(),
                });
            }
        }
        known.learn(dependencies);
        for (file, declarations) in declared.iter().enumerate() {
            for extension in &declarations.extensions {
                let Some(number) = known.extended(file as u32, extension) else { continue };
                let bases = extension.bases.iter().map(|(verb, name)| (*verb, name.as_str(), file as u32));
                known.all[number].bases.extend(bases);
                known.all[number].members.extend(&extension.members);
            }
        }
        known
    }

    /// The classifier that is extended: of several with that name in the file, as in inline modules, the nearest one above.
    fn extended(&self, file: u32, extension: &Extension) -> Option<usize> {
        let found = self.find(file, &extension.of)?;
        let name = &self.all[found].declared.name;
        let beside = self.all[found..].iter().enumerate().take_while(|(_, entry)| entry.file == self.all[found].file);
        let same = beside.filter(|(_, entry)| entry.declared.name == *name && entry.declared.line <= extension.line);
        Some(found + same.last().filter(|_| self.all[found].file == file).map_or(0, |(after, _)| after))
    }

    /// What names mean in each file, by its imports.
    fn learn(&mut self, dependencies: &Dependencies) {
        for listed in &dependencies.listed {
            let (from, import) = (listed.from as usize, &listed.import);
            let language = self.sources.get(listed.from).language;
            let last = import.path.rsplit([':', '.', '/']).next().unwrap_or_default();
            let to = listed.reaches.or(if let Target::File(file) = listed.target { Some(file) } else { None });
            if import.name.as_deref() == Some(ALL) {
                self.whole[from].extend(to);
                continue;
            }
            let asked = match language {
                Language::Rust | Language::Java => Some(last.to_owned()),
                _ => import.name.clone(),
            };
            let own = match import.own_name() {
                Some(own) => own.to_owned(),
                None if import.is_inline => import.path.clone(),
                None => last.to_owned(),
            };
            let meaning = to.map_or(Meaning::Outside, |file| Meaning::Declared(file, asked));
            self.meanings[from].entry(own).or_insert(meaning);
        }
    }

    /// The classifier that the text of a type means in a file; arguments of types are left out of account.
    fn find(&self, file: u32, said: &str) -> Option<usize> {
        let name = said.split(['<', '[', '(']).next().unwrap_or_default().trim().trim_start_matches(['&', '*', '?']);
        let name = name.trim_start_matches("dyn ").trim();
        if name.is_empty() {
            return None;
        }
        if let Some(Meaning::Declared(to, _)) = self.meanings[file as usize].get(name).filter(|_| name.contains("::")) {
            return self.declared(*to, name.rsplit("::").next()?);
        }
        match name.rsplit_once(['.', ':']) {
            Some((head, last)) => self.qualified(file, head.trim_end_matches(':'), last),
            None => self.plain(file, name),
        }
    }

    fn plain(&self, file: u32, name: &str) -> Option<usize> {
        if let Some(own) = self.by_file.get(&(file, name)) {
            return Some(*own);
        }
        match self.meanings[file as usize].get(name) {
            Some(Meaning::Declared(to, asked)) => return self.declared(*to, asked.as_deref().unwrap_or(name)),
            Some(Meaning::Outside) => return None,
            None => {}
        }
        let source = self.sources.get(file);
        let beside =
            matches!(source.language, Language::Java | Language::Go).then(|| self.beside(file, name)).flatten();
        beside.or_else(|| self.whole[file as usize].iter().find_map(|to| self.declared(*to, name)))
    }

    /// What the package of a file gives by a name; of several source roots, the nearest one's.
    fn beside(&self, file: u32, name: &str) -> Option<usize> {
        let source = self.sources.get(file);
        let path = |number: &usize| self.sources.get(self.all[*number].file).path.as_bytes();
        let shared = |number: &usize| source.path.bytes().zip(path(number)).take_while(|(a, b)| a == *b).count();
        let all = self.by_package.get(&(package(source), name))?;
        all.iter().copied().max_by_key(|number| (shared(number), std::cmp::Reverse(*number)))
    }

    fn qualified(&self, file: u32, head: &str, last: &str) -> Option<usize> {
        let first = head.split(['.', ':']).next().unwrap_or(head);
        match self.meanings[file as usize].get(head).or_else(|| self.meanings[file as usize].get(first)) {
            Some(Meaning::Declared(to, _)) => self.declared(*to, last),
            Some(Meaning::Outside) => None,
            // Something in a classifier of this file.
            None => self.plain(file, first).and_then(|outer| self.declared(self.all[outer].file, last)),
        }
    }

    /// What a file gives by a name: what it declares, in Go also the other files of its package, or what it hands on.
    fn declared(&self, file: u32, name: &str) -> Option<usize> {
        let mut asked = HashSet::new();
        let mut open = vec![(file, name.to_owned())];
        while let Some((file, name)) = open.pop() {
            let own = self.by_file.get(&(file, name.as_str())).copied();
            let source = self.sources.get(file);
            let beside = || (source.language == Language::Go).then(|| self.beside(file, &name)).flatten();
            if let Some(found) = own.or_else(beside) {
                return Some(found);
            }
            // Files may hand on each other's names in circles.
            if !asked.insert((file, name.clone())) {
                continue;
            }
            open.extend(self.whole[file as usize].iter().rev().map(|to| (*to, name.clone())));
            if let Some(Meaning::Declared(to, inner)) = self.meanings[file as usize].get(&name) {
                open.push((*to, inner.clone().unwrap_or(name)));
            }
        }
        None
    }

    /// Its name with those of the classifiers around it.
    fn path(&self, number: usize) -> String {
        let around = std::iter::successors(Some(number), |at| self.all[*at].outer);
        let mut names: Vec<&str> = around.map(|at| self.all[at].declared.name.as_str()).collect();
        names.reverse();
        names.join(".")
    }
}

/// The package of a file: what it says of itself, or its folder.
fn package(source: &Source) -> &str {
    if source.language == Language::Java { &source.parsed.package } else { folder(&source.path) }
}

struct Picture<'a> {
    sources: &'a Sources<'a>,
    known: &'a Known<'a>,
    options: &'a Options,
}

impl Picture<'_> {
    fn facts(&self) -> Facts {
        let mut facts = Facts::new(DiagramKind::Classes);
        let wanted: Vec<usize> = (0..self.known.all.len()).filter(|number| self.wants(*number)).collect();
        let mut groups: BTreeMap<&str, Vec<usize>> = BTreeMap::new();
        for number in &wanted {
            groups.entry(folder(&self.sources.get(self.known.all[*number].file).path)).or_default().push(*number);
        }
        let name = super::project::name(self.sources);
        let labels = labels(&groups.keys().copied().collect::<Vec<_>>(), &name);
        let mut places: BTreeMap<usize, usize> = BTreeMap::new();
        for ((path, numbers), label) in groups.iter().zip(labels) {
            let holder = (groups.len() > 1).then(|| {
                let seen = self.seen(self.known.all[numbers[0]].file, 0);
                let mut group = Thing::new(path, ElementKind::Group, seen);
                group.label = Some(label);
                facts.things.push(group);
                facts.things.len() - 1
            });
            for number in numbers {
                places.insert(*number, facts.things.len());
                facts.things.push(self.thing(*number, holder));
            }
        }
        let mut links = Links { picture: self, places: &places, all: Vec::new(), known: HashSet::new() };
        wanted.iter().for_each(|number| links.kinds(*number));
        links.implemented(&wanted);
        let told: Vec<(usize, String)> = wanted.iter().flat_map(|number| links.attributes(*number)).collect();
        if self.options.with_uses {
            wanted.iter().for_each(|number| links.uses(*number));
        }
        facts.links = links.all;
        // What a line shows needs no row.
        let told: HashSet<(usize, String)> = told.into_iter().collect();
        for number in &wanted {
            let members =
                self.known.all[*number].members.iter().filter(|member| !told.contains(&(*number, member.name.clone())));
            facts.things[places[number]].members =
                members.filter(|member| self.shows(member)).map(|member| row(member)).collect();
        }
        self.finish(&mut facts, &name, wanted.len());
        facts
    }

    fn finish(&self, facts: &mut Facts, name: &str, count: usize) {
        facts.findings = unread(self.sources);
        if count > MANY {
            let says = format!(
                "{count} classifiers are hard to read in one picture; `--only`, `--around NAME` and `--members none` show fewer"
            );
            let seen = Seen { file: self.sources.tree.name().into(), ..Seen::default() };
            facts.findings.push(Finding::new("many", Level::Note, seen, says));
        }
        facts.call(&self.options.selection, name);
        facts.counts.rows = self.sources.all.len() as u64;
    }

    fn seen(&self, file: u32, line: u32) -> Seen {
        Seen { file: self.sources.tree.shown(&self.sources.get(file).path).into(), line, ..Seen::default() }
    }

    /// Whether a classifier is wanted, by its name, its file, or a folder around that.
    fn wants(&self, number: usize) -> bool {
        let Selection { only, without, .. } = &self.options.selection;
        let entry = &self.known.all[number];
        let path = self.sources.get(entry.file).path.as_str();
        let named = || meant_by(path).chain([entry.declared.name.as_str()]);
        let is = |patterns: &[String]| named().any(|at| Selection::any(patterns, at));
        (only.is_empty() || is(only)) && !is(without)
    }

    fn thing(&self, number: usize, holder: Option<usize>) -> Thing {
        let Entry { file, declared, .. } = &self.known.all[number];
        let path = self.known.path(number);
        let origin = format!("{}:{path}", self.sources.get(*file).path);
        let mut thing = Thing::new(&origin, declared.kind, self.seen(*file, declared.line));
        thing.called = Some(declared.name.clone());
        thing.label = Some(declared.name.clone());
        thing.holder = holder;
        thing.parameters = declared.parameters.clone();
        thing.is_abstract = declared.is_abstract;
        if self.options.with_about {
            thing.said.about = declared.about.clone();
        }
        thing
    }

    fn shows(&self, member: &Declared) -> bool {
        match self.options.members {
            ShownMembers::None | ShownMembers::Keys => false,
            ShownMembers::Public => matches!(member.visibility, None | Some('+')),
            ShownMembers::All => true,
        }
    }
}

/// The lines between classifiers.
struct Links<'a> {
    picture: &'a Picture<'a>,
    /// The numbers of the things, by those of their classifiers.
    places: &'a BTreeMap<usize, usize>,
    all: Vec<Link>,
    known: HashSet<(usize, usize, Verb)>,
}

impl Links<'_> {
    fn add(&mut self, from: usize, verb: Verb, to: usize, line: u32) -> Option<&mut Link> {
        let (from_place, to_place) = (*self.places.get(&from)?, *self.places.get(&to)?);
        if !self.known.insert((from, to, verb)) && matches!(verb, Verb::Extends | Verb::Implements | Verb::Uses) {
            return None;
        }
        let seen = self.picture.seen(self.picture.known.all[from].file, line);
        self.all.push(Link::new(from_place, verb, to_place, seen));
        self.all.last_mut()
    }

    /// What a classifier is a kind of.
    fn kinds(&mut self, number: usize) {
        let known = self.picture.known;
        let entry = &known.all[number];
        for (verb, name, file) in &entry.bases {
            let Some(base) = known.find(*file, name).filter(|base| *base != number) else { continue };
            // A class that says it extends an interface of its language implements it.
            let is_interface = known.all[base].declared.kind == ElementKind::Interface;
            let is_own = entry.declared.kind == ElementKind::Interface;
            let verb = if is_interface && !is_own { Verb::Implements } else { *verb };
            self.add(number, verb, base, entry.declared.line);
        }
    }

    /// Interfaces of Go are implemented by whatever has their operations.
    fn implemented(&mut self, wanted: &[usize]) {
        let known = self.picture.known;
        let is_go = |number: &&usize| known.sources.get(known.all[**number].file).language == Language::Go;
        let operations = |number: usize| -> BTreeSet<(&str, usize)> {
            let members = known.all[number].members.iter();
            members.filter_map(|member| Some((member.name.as_str(), member.parameters.as_ref()?.len()))).collect()
        };
        let of = |is_interface: bool| {
            let all = wanted.iter().filter(is_go);
            let all =
                all.filter(move |number| (known.all[**number].declared.kind == ElementKind::Interface) == is_interface);
            all.map(|number| (*number, operations(*number))).filter(|(_, all)| !all.is_empty()).collect::<Vec<_>>()
        };
        let interfaces = of(true);
        for (number, own) in of(false) {
            for (interface, asked) in &interfaces {
                let is_unexported = known.all[*interface].members.iter().any(|member| member.visibility == Some('~'));
                let is_near = || {
                    folder(&known.sources.get(known.all[number].file).path)
                        == folder(&known.sources.get(known.all[*interface].file).path)
                };
                if asked.is_subset(&own) && (!is_unexported || is_near()) {
                    self.add(number, Verb::Implements, *interface, known.all[number].declared.line);
                }
            }
        }
    }

    /// Attributes whose types are classifiers: gives the classifier and the name of each.
    fn attributes(&mut self, number: usize) -> Vec<(usize, String)> {
        let known = self.picture.known;
        let entry = &known.all[number];
        let language = known.sources.get(entry.file).language;
        let mut told = Vec::new();
        for member in entry.members.iter().filter(|member| member.parameters.is_none() && !member.is_static) {
            let Some(text) = &member.of else { continue };
            let of = Type::read(text);
            let Some(target) = known.find(entry.file, &of.of) else { continue };
            // Values are written in the row, as words are.
            if known.all[target].declared.kind == ElementKind::Enum {
                continue;
            }
            let is_part = matches!(language, Language::Rust | Language::Go) && !of.is_shared;
            let verb = if is_part { Verb::Owns } else { Verb::Knows };
            let multiplicity = match (of.is_many, of.is_optional || member.is_optional) {
                (true, _) => Some("0..*"),
                (false, true) => Some("0..1"),
                (false, false) => None,
            };
            if let Some(link) = self.add(number, verb, target, entry.declared.line) {
                link.ends[1] = LinkEnd {
                    role: Some(member.name.clone()),
                    multiplicity: multiplicity.map(str::to_owned),
                    ..LinkEnd::default()
                };
                told.push((number, member.name.clone()));
            }
        }
        told
    }

    /// What the operations of a classifier take and give, where no other line says so.
    fn uses(&mut self, number: usize) {
        let known = self.picture.known;
        let entry = &known.all[number];
        for member in &entry.members {
            let Some(parameters) = &member.parameters else { continue };
            let types = parameters.iter().map(|(_, of)| of).chain(&member.of);
            for target in types.filter_map(|of| known.find(entry.file, &Type::read(of).of)) {
                let verbs = [Verb::Extends, Verb::Implements, Verb::Owns, Verb::Knows];
                let is_told = verbs.iter().any(|verb| self.known.contains(&(number, target, *verb)));
                if target != number && !is_told {
                    self.add(number, Verb::Uses, target, entry.declared.line);
                }
            }
        }
    }
}

/// A member as a row, in UML's textual form.
fn row(member: &Declared) -> Member {
    let Declared { name, visibility, of, parameters, is_static, is_abstract, is_optional } = member;
    let sign = visibility.map_or(String::new(), |sign| format!("{sign} "));
    let plain: String = name.chars().map(|c| if c.is_alphanumeric() || c == '_' { c } else { '_' }).collect();
    let of = of.as_deref().map(shown).filter(|of| !of.is_empty());
    let result = of.as_ref().map_or(String::new(), |of| format!(": {of}"));
    let optional = if *is_optional { " [0..1]" } else { "" };
    let text = match parameters {
        None => format!("{sign}{plain}{result}{optional}"),
        Some(parameters) => {
            let with = |told: &dyn Fn(&(String, String)) -> String| {
                let all: Vec<String> = parameters.iter().map(told).collect();
                format!("{sign}{plain}({}){result}", all.join(", "))
            };
            let typed = with(&|(name, of)| match shown(of) {
                of if of.is_empty() => name.clone(),
                of => format!("{name}: {of}"),
            });
            let named = || with(&|(name, _)| name.clone());
            let short = || format!("{sign}{plain}(…){result}");
            [typed, named()].into_iter().find(|text| text.chars().count() <= LONGEST).unwrap_or_else(short)
        }
    };
    Member { text, is_static: *is_static, is_abstract: *is_abstract, ..Member::default() }
}

/// What folders are called beside each other: their paths without what all have in common; the outermost is `whole`.
fn labels(paths: &[&str], whole: &str) -> Vec<String> {
    let parts: Vec<Vec<&str>> = paths.iter().map(|path| path.split('/').collect()).collect();
    let shortest = parts.iter().map(Vec::len).min().unwrap_or(0);
    let shared =
        (0..shortest.saturating_sub(1)).take_while(|at| parts.iter().all(|one| one[*at] == parts[0][*at])).count();
    parts
        .iter()
        .map(|one| one[shared..].join("/"))
        .map(|label| if label.is_empty() { whole.to_owned() } else { label })
        .collect()
}

//! Reads a whole file: its blocks in order. Two passes, since a sheet may come before its diagram.

use super::build::Build;
use super::{
    Diagram, DiagramKind, Document, ElementId, ElementKind, Sheet, architecture, classes, flow, looks, sequence,
};
use crate::diag::{Diagnostics, Message, nearest};
use crate::source::Source;
use crate::syntax::vocabulary::{ARCHITECTURE, BLOCKS, CLASSES, FLOW, LATER_BLOCKS, SEQUENCE, SHEET};
use crate::syntax::{Cursor, Line, Tree};
use std::collections::BTreeSet;

/// Reads a file's tree of lines. `file_name` names a diagram whose block has no name.
pub fn read(source: &Source, tree: &Tree, file_name: &str, diags: &mut Diagnostics) -> Document {
    let mut document = Document::default();
    let mut sheets = Vec::new();
    let mut taken = BTreeSet::new();
    for id in &tree.roots {
        let line = tree.line(*id);
        let mut cursor = Cursor::new(source, tree, line);
        let word = cursor.peek().unwrap_or_default();
        match word {
            "look" => {
                cursor.word();
                cursor.finish(&[], diags);
                document.looks.extend(looks::read(source, tree, line, diags));
            }
            "sheet" => sheets.push(line),
            _ => match DiagramKind::from_word(word) {
                Some(kind) => {
                    let diagram = diagram(source, tree, kind, line, file_name, diags);
                    take_name(&diagram.name, line, &mut taken, diags);
                    document.diagrams.push(diagram);
                }
                None => unknown_block(&cursor, diags),
            },
        }
    }
    for line in sheets {
        if let Some(sheet) = sheet(source, tree, line, &document.diagrams, diags) {
            take_name(&sheet.name, line, &mut taken, diags);
            document.sheets.push(sheet);
        }
    }
    if tree.roots.is_empty() {
        let end = source.text.len();
        diags.report(crate::source::Span::new(end, end), Message::EmptyFile);
    }
    document
}

fn take_name(name: &str, line: &Line, taken: &mut BTreeSet<String>, diags: &mut Diagnostics) {
    if !taken.insert(name.to_owned()) {
        diags.report(line.span, Message::NameTaken { name: name.to_owned() });
    }
}

fn unknown_block(cursor: &Cursor<'_>, diags: &mut Diagnostics) {
    let word = cursor.first().to_owned();
    let span = cursor.span();
    if LATER_BLOCKS.contains(&word.as_str()) || word == "from" {
        diags.report(span, Message::NotYet { word });
    } else {
        let suggestion = nearest(&word, BLOCKS.iter().copied()).map(str::to_owned);
        diags.report(span, Message::UnknownBlock { word, suggestion });
    }
}

fn diagram(
    source: &Source, tree: &Tree, kind: DiagramKind, line: &Line, file_name: &str, diags: &mut Diagnostics,
) -> Diagram {
    let mut cursor = Cursor::new(source, tree, line);
    cursor.word();
    let path = if cursor.at_text() || cursor.rest().value.starts_with('(') { None } else { cursor.path() };
    let name = path.as_ref().map_or_else(|| file_name.to_owned(), |p| p.text());
    if let Some(path) = &path
        && name.contains(['/', '\\', '.', ':', '\0'])
    {
        diags.report(path.span, Message::BadPictureName { name: name.clone() });
    }
    let header = cursor.clauses(&[], diags);
    let known = ["declared", "numbered"];
    for t in header.traits.iter().filter(|t| !known.contains(&t.word.value.as_str())) {
        let word = t.word.value.clone();
        diags.report(t.word.span, Message::UnknownTrait { suggestion: nearest(&word, known).map(str::to_owned), word });
    }
    let mut diagram = Diagram::new(kind, &name, header.label.clone(), line.number);
    diagram.numbered = header.has("numbered");
    let (words, default_kind) = match kind {
        DiagramKind::Sequence => (&SEQUENCE, ElementKind::Party),
        DiagramKind::Classes => (&CLASSES, ElementKind::Class),
        DiagramKind::Flow => (&FLOW, ElementKind::Step),
        DiagramKind::Architecture => (&ARCHITECTURE, ElementKind::System),
    };
    let mut build = Build::new(source, tree, words, diagram, default_kind);
    build.declared_only = header.has("declared");
    match kind {
        DiagramKind::Sequence => sequence::read(build, line, diags),
        DiagramKind::Classes => classes::read(build, line, diags),
        DiagramKind::Flow => flow::read(build, line, diags),
        DiagramKind::Architecture => architecture::read(build, line, diags),
    }
}

fn sheet(source: &Source, tree: &Tree, line: &Line, diagrams: &[Diagram], diags: &mut Diagnostics) -> Option<Sheet> {
    let mut cursor = Cursor::new(source, tree, line);
    cursor.word();
    let name = cursor.expect_path("sheet", diags)?;
    if cursor.eat("of").is_none() {
        let mut architectures = diagrams.iter().filter(|d| d.kind == DiagramKind::Architecture);
        let only = architectures.next().filter(|_| architectures.next().is_none());
        diags.report(cursor.span(), Message::SheetOfWhat { diagram: only.map(|d| d.name.clone()) });
        return None;
    }
    let of = cursor.expect_path("of", diags)?;
    let header = cursor.clauses(&[], diags);
    let Some(diagram) = diagrams.iter().find(|d| d.name == of.text()) else {
        let names = diagrams.iter().map(|d| d.name.as_str());
        let suggestion = nearest(&of.text(), names).map(str::to_owned);
        diags.report(of.span, Message::UnknownName { name: of.text(), suggestion });
        return None;
    };
    if diagram.kind != DiagramKind::Architecture {
        diags.report(of.span, Message::SheetOfArchitecture { kind: diagram.kind.word() });
        return None;
    }
    let mut out = Sheet {
        name: name.text(),
        of: of.text(),
        title: header.label.clone(),
        caption: None,
        heading: None,
        depth: None,
        open: Vec::new(),
        close: Vec::new(),
        focus: Vec::new(),
        show: Vec::new(),
        hide: Vec::new(),
        tell: false,
        line: line.number,
    };
    let finder = Finder::new(diagram);
    for id in &line.children {
        let mut cursor = Cursor::new(source, tree, tree.line(*id));
        finder.line(&mut out, &mut cursor, diags);
    }
    Some(out)
}

/// Reads the lines of a sheet, with the names of its diagram at hand.
struct Finder<'a> {
    diagram: &'a Diagram,
    names: super::names::Names,
}

impl<'a> Finder<'a> {
    fn new(diagram: &'a Diagram) -> Self {
        let mut names = super::names::Names::default();
        for (id, _) in diagram.ids() {
            names.add(diagram, id);
        }
        Self { diagram, names }
    }

    fn line(&self, sheet: &mut Sheet, cursor: &mut Cursor<'_>, diags: &mut Diagnostics) {
        let word = cursor.peek().unwrap_or_default().to_owned();
        let span = cursor.span();
        cursor.word();
        match word.as_str() {
            "depth" => sheet.depth = number(cursor, "depth", diags),
            "open" => sheet.open.extend(self.elements(cursor, "open", diags)),
            "close" => sheet.close.extend(self.elements(cursor, "close", diags)),
            "show" => sheet.show.extend(self.elements(cursor, "show", diags)),
            "hide" => sheet.hide.extend(self.elements(cursor, "hide", diags)),
            "focus" => {
                let focus = self.elements(cursor, "focus", diags);
                let distance = if cursor.at_end() { Some(1) } else { number(cursor, "focus", diags) };
                sheet.focus.extend(focus.into_iter().map(|id| (id, distance.unwrap_or(1))));
            }
            "tell" => sheet.tell = true,
            "caption" => sheet.caption = cursor.expect_label("caption", diags),
            "heading" => sheet.heading = super::build::heading(cursor, diags),
            "follow" => diags.report(span, Message::NotYet { word }),
            _ => {
                let suggestion = nearest(&word, SHEET.keywords.iter().copied()).map(str::to_owned);
                diags.report(span, Message::UnknownWord { word, block: "sheet", suggestion });
                cursor.skip_all();
            }
        }
        cursor.finish(&[], diags);
    }

    fn elements(&self, cursor: &mut Cursor<'_>, word: &str, diags: &mut Diagnostics) -> Vec<ElementId> {
        let mut found = Vec::new();
        if let Some(span) = cursor.eat("tag") {
            let tag = cursor.word().map(|w| w.value).unwrap_or_default();
            let tagged = self.diagram.ids().filter(|(_, e)| e.properties.tags.contains(&tag)).map(|(id, _)| id);
            found.extend(tagged);
            if found.is_empty() {
                diags.report(span, Message::TagOfNothing { tag });
            }
            return found;
        }
        for path in cursor.paths(word, diags) {
            match self.names.find(self.diagram, &path, None, diags) {
                Ok(Some(id)) => found.push(id),
                Ok(None) if !self.names.report_resembling(&path, diags) => {
                    diags.report(path.span, Message::UnknownName { name: path.text(), suggestion: None });
                }
                _ => {}
            }
        }
        found
    }
}

fn number(cursor: &mut Cursor<'_>, of: &'static str, diags: &mut Diagnostics) -> Option<u32> {
    let span = cursor.span();
    let word = cursor.word().map(|w| w.value).unwrap_or_default();
    let number = word.parse().ok().filter(|n| *n > 0);
    if number.is_none() {
        diags.report(span, Message::BadValue { word, of, values: "a whole number from 1" });
    }
    number
}

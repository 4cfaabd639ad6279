//! What is in a text: symbols, links, folds, selections, kinds of words, colours, hints.

use super::Desk;
use crate::answers::Failed;
use crate::convert;
use crate::pieces::Piece;
use bathygram_core::ide::{self, LinkTarget};
use bathygram_core::theme::Colour;
use lsp_types::{
    Color, ColorInformation, ColorPresentation, DocumentLink, FoldingRange, InlayHint, InlayHintLabel, Position, Range,
    SelectionRange, SemanticToken, SemanticTokens, SymbolInformation, TextEdit, Uri,
};
use std::str::FromStr;

impl Desk<'_> {
    pub(crate) fn symbols(&self, uri: &Uri) -> Result<Vec<lsp_types::DocumentSymbol>, Failed> {
        let pieces = self.open(uri)?;
        let of_piece = |piece: &Piece| -> Vec<_> {
            ide::symbols(&piece.reading).iter().map(|symbol| convert::symbol(piece, symbol, self.encoding)).collect()
        };
        Ok(pieces.iter().flat_map(of_piece).collect())
    }

    #[allow(deprecated, reason = "the type has a field that the protocol no longer uses")]
    pub(crate) fn all_symbols(&self, query: &str) -> Vec<SymbolInformation> {
        let query = query.to_lowercase();
        let mut found = Vec::new();
        for piece in self.documents.all() {
            let mut work: Vec<(ide::Symbol, Option<String>)> =
                ide::symbols(&piece.reading).into_iter().map(|s| (s, None)).collect();
            while let Some((symbol, around)) = work.pop() {
                let own = Some(symbol.name.clone());
                work.extend(symbol.children.iter().cloned().map(|child| (child, own.clone())));
                if !symbol.name.to_lowercase().contains(&query) && !symbol.detail.to_lowercase().contains(&query) {
                    continue;
                }
                let Some(location) = self.location(&piece, symbol.span) else { continue };
                let kind = convert::symbol_kind(&symbol);
                found.push(SymbolInformation {
                    name: symbol.name,
                    kind,
                    tags: None,
                    deprecated: None,
                    location,
                    container_name: around,
                });
            }
        }
        found
    }

    /// What a text leads to.
    pub(crate) fn links(&self, uri: &Uri) -> Result<Vec<DocumentLink>, Failed> {
        let mut found = Vec::new();
        for piece in self.open(uri)? {
            for link in ide::links(&piece.reading) {
                let target = match &link.to {
                    LinkTarget::File(name) => convert::uri(&self.documents.path_of(name, &piece.path)),
                    LinkTarget::Address(address) => Uri::from_str(address).ok(),
                    // Where in a file, as editors read it behind the address.
                    LinkTarget::Place(span) => self.location(&piece, *span).and_then(|to| {
                        Uri::from_str(&format!("{}#L{}", to.uri.as_str(), to.range.start.line + 1)).ok()
                    }),
                };
                let range = piece.range(link.span, self.encoding);
                found.push(DocumentLink { range, target, tooltip: None, data: None });
            }
        }
        Ok(found)
    }

    pub(crate) fn folds(&self, uri: &Uri) -> Result<Vec<FoldingRange>, Failed> {
        let mut found = Vec::new();
        for piece in self.open(uri)? {
            found.extend(ide::folds(&piece.reading).into_iter().map(|fold| FoldingRange {
                start_line: piece.line_out(fold.first - 1),
                end_line: piece.line_out(fold.last - 1),
                ..FoldingRange::default()
            }));
        }
        Ok(found)
    }

    /// For each position the line, and the lines around it.
    pub(crate) fn selections(&self, uri: &Uri, positions: &[Position]) -> Result<Vec<SelectionRange>, Failed> {
        let pieces = self.open(uri)?;
        let at = |line: u32, character: u32| Position { line, character };
        let none =
            |position: &Position| SelectionRange { range: Range { start: *position, end: *position }, parent: None };
        let one = |position: &Position| {
            let held = pieces.iter().find_map(|piece| piece.line_in(position.line).map(|line| (piece, line)));
            let Some((piece, own)) = held else { return none(position) };
            let text = &piece.reading.source.text;
            let lines: Vec<&str> = text.split('\n').collect();
            let end = |line: u32| {
                let end = lines.get(line as usize).map_or(0, |l| self.encoding.position(l, l.len()).character);
                piece.outward(at(line, end))
            };
            let folds = ide::folds(&piece.reading);
            let around = folds.iter().filter(|fold| (fold.first - 1..fold.last).contains(&own));
            let range = |from: u32, to: u32| Range { start: piece.outward(at(from, 0)), end: end(to) };
            let ranges = around.map(|fold| range(fold.first - 1, fold.last - 1));
            let whole = range(own, own);
            let chain =
                ranges.chain([whole]).fold(None, |parent, range| Some(Box::new(SelectionRange { range, parent })));
            chain.map_or_else(|| none(position), |chain| *chain)
        };
        Ok(positions.iter().map(one).collect())
    }

    pub(crate) fn tokens(&self, uri: &Uri) -> Result<SemanticTokens, Failed> {
        let mut before = Position { line: 0, character: 0 };
        let mut data = Vec::new();
        for piece in self.open(uri)? {
            for word in ide::word_classes(&piece.reading) {
                let range = piece.range(word.span, self.encoding);
                // A token of the protocol stands in one line.
                if range.start.line != range.end.line {
                    continue;
                }
                let delta_line = range.start.line - before.line;
                let from = if delta_line == 0 { before.character } else { 0 };
                let class = convert::CLASSES.iter().position(|(class, _)| *class == word.class).unwrap_or(0);
                data.push(SemanticToken {
                    delta_line,
                    delta_start: range.start.character - from,
                    length: range.end.character - range.start.character,
                    token_type: class as u32,
                    token_modifiers_bitset: u32::from(word.is_declared),
                });
                before = range.start;
            }
        }
        Ok(SemanticTokens { result_id: None, data })
    }

    /// The colours that a text names, in the theme of its project.
    pub(crate) fn colours(&self, uri: &Uri) -> Result<Vec<ColorInformation>, Failed> {
        let mut found = Vec::new();
        for piece in self.open(uri)? {
            let theme = self.documents.project(&piece.path).themes.main;
            found.extend(ide::colours(&piece.reading, &theme).into_iter().map(|named| ColorInformation {
                range: piece.range(named.span, self.encoding),
                color: as_light(named.colour),
            }));
        }
        Ok(found)
    }

    /// The names of the colours, the nearest first.
    pub(crate) fn colour_names(
        &self, uri: &Uri, wanted: Color, range: Range,
    ) -> Result<Vec<ColorPresentation>, Failed> {
        let Some(piece) = self.open(uri)?.into_iter().next() else { return Ok(Vec::new()) };
        let theme = self.documents.project(&piece.path).themes.main;
        let part = |share: f32| (share.clamp(0.0, 1.0) * 255.0).round() as u8;
        let wanted = Colour { r: part(wanted.red), g: part(wanted.green), b: part(wanted.blue) };
        let names = ide::nearest_colours(&theme, wanted).into_iter();
        let present = |name: &str| ColorPresentation {
            label: name.to_owned(),
            text_edit: Some(TextEdit::new(range, name.to_owned())),
            additional_text_edits: None,
        };
        Ok(names.map(present).collect())
    }

    /// What lines say without a word for it.
    pub(crate) fn hints(&self, uri: &Uri, range: Range) -> Result<Vec<InlayHint>, Failed> {
        let mut found = Vec::new();
        for piece in self.open(uri)? {
            let length = piece.reading.source.text.len() as u32;
            let hints = ide::hints(&piece.reading, 0..length + 1).into_iter().map(|hint| {
                let byte = hint.at as usize;
                let is_before = hint.side == ide::HintSide::Before;
                InlayHint {
                    position: piece.range(piece.reading.source.span(byte, byte), self.encoding).start,
                    label: InlayHintLabel::String(hint.says),
                    kind: None,
                    text_edits: None,
                    tooltip: None,
                    padding_left: Some(!is_before),
                    padding_right: Some(is_before),
                    data: None,
                }
            });
            found.extend(hints.filter(|hint| (range.start.line..=range.end.line).contains(&hint.position.line)));
        }
        Ok(found)
    }
}

fn as_light(colour: Colour) -> Color {
    let [red, green, blue] = [colour.r, colour.g, colour.b].map(|part| f32::from(part) / 255.0);
    Color { red, green, blue, alpha: 1.0 }
}

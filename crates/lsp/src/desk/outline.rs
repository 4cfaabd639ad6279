//! What is in a text: symbols, links, folds, selections, kinds of words, colours, hints.

use super::Desk;
use crate::answers::Failed;
use crate::convert;
use crate::pieces::Piece;
use bathygram_core::ide::{self, LinkTarget, Symbol};
use bathygram_core::theme::Colour;
use lsp_types::{
    Color, ColorInformation, ColorPresentation, DocumentLink, FoldingRange, InlayHint, InlayHintLabel, Position, Range,
    SelectionRange, SemanticToken, SemanticTokens, SymbolInformation, TextEdit, Uri,
};
use std::str::FromStr;

/// How many symbols an answer holds; more are counted by its last one. A symbol takes 9 kB until it is sent, and an outline of more
/// is no overview.
const MOST_SYMBOLS: usize = 20_000;

/// How many words an editor is told the class of; what stands behind them has no colours of ours. No editor colours a file of some
/// megabytes in the time in which somebody waits for it.
const MOST_WORDS: usize = 500_000;

impl Desk<'_> {
    pub(crate) fn symbols(&self, uri: &Uri) -> Result<Vec<lsp_types::DocumentSymbol>, Failed> {
        let mut room = MOST_SYMBOLS;
        let mut found = Vec::new();
        for piece in self.open(uri)? {
            let mut symbols = ide::symbols(&piece.reading);
            let count = symbols.iter().map(size).sum::<usize>();
            let left_out = count.saturating_sub(room);
            keep(&mut symbols, &mut room);
            if left_out > 0 {
                let span = piece.reading.source.span(0, 0);
                symbols.push(Symbol {
                    name: left_out_name(left_out),
                    detail: String::new(),
                    span,
                    children: Vec::new(),
                });
            }
            found.extend(symbols.iter().map(|symbol| convert::symbol(&piece, symbol, self.encoding)));
        }
        Ok(found)
    }

    #[allow(deprecated, reason = "the type has a field that the protocol no longer uses")]
    pub(crate) fn all_symbols(&self, query: &str) -> Vec<SymbolInformation> {
        let query = query.to_lowercase();
        let mut found = Vec::new();
        let mut left_out = 0;
        for piece in self.documents.all() {
            let mut work: Vec<(ide::Symbol, Option<String>)> =
                ide::symbols(&piece.reading).into_iter().map(|s| (s, None)).collect();
            while let Some((symbol, around)) = work.pop() {
                let own = Some(symbol.name.clone());
                work.extend(symbol.children.iter().cloned().map(|child| (child, own.clone())));
                if !symbol.name.to_lowercase().contains(&query) && !symbol.detail.to_lowercase().contains(&query) {
                    continue;
                }
                if found.len() < MOST_SYMBOLS {
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
                } else {
                    left_out += 1;
                }
            }
        }
        if let (1.., Some(last)) = (left_out, found.last_mut()) {
            last.name = left_out_name(left_out + 1);
            last.container_name = None;
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
        let known = |piece: Piece| (ide::folds(&piece.reading), piece);
        let pieces: Vec<(Vec<ide::Fold>, Piece)> = self.open(uri)?.into_iter().map(known).collect();
        let at = |line: u32, character: u32| Position { line, character };
        let none =
            |position: &Position| SelectionRange { range: Range { start: *position, end: *position }, parent: None };
        let one = |position: &Position| {
            let held = pieces.iter().find_map(|(folds, piece)| Some((folds, piece, piece.line_in(position.line)?)));
            let Some((folds, piece, own)) = held else { return none(position) };
            let end = |line: u32| {
                let source = &piece.reading.source;
                let end = source.line_end(source.row_start(line)) as usize;
                piece.range(source.span(end, end), self.encoding).end
            };
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
                if data.len() == MOST_WORDS {
                    return Ok(SemanticTokens { result_id: None, data });
                }
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

/// How many symbols a symbol is, with all that it holds.
fn size(symbol: &Symbol) -> usize {
    1 + symbol.children.iter().map(size).sum::<usize>()
}

/// Keeps as many symbols as there is room for: what is outside before what it holds.
fn keep(symbols: &mut Vec<Symbol>, room: &mut usize) {
    symbols.truncate(*room);
    *room -= symbols.len();
    symbols.iter_mut().for_each(|symbol| keep(&mut symbol.children, room));
}

fn left_out_name(count: usize) -> String {
    format!("{count} more symbols, which are not listed")
}

fn as_light(colour: Colour) -> Color {
    let [red, green, blue] = [colour.r, colour.g, colour.b].map(|part| f32::from(part) / 255.0);
    Color { red, green, blue, alpha: 1.0 }
}

//! Hierarchies: who calls whom, and what is a kind of what.

use super::Desk;
use crate::answers::Failed;
use crate::pieces::Piece;
use bathygram_core::ide::{self, Meant, Neighbour, Node, Part, Towards};
use lsp_types::{
    CallHierarchyIncomingCall, CallHierarchyItem, CallHierarchyOutgoingCall, Range, SymbolKind,
    TextDocumentPositionParams, TypeHierarchyItem,
};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::path::PathBuf;

/// What an item carries, to be asked for again.
#[derive(Serialize, Deserialize)]
struct Known {
    /// The file of the text in which it was asked.
    path: PathBuf,
    /// Which text of that file.
    text: String,
    file: String,
    block: u32,
    key: String,
}

impl Desk<'_> {
    pub(crate) fn call_item(&self, at: &TextDocumentPositionParams) -> Result<Option<Vec<CallHierarchyItem>>, Failed> {
        let Some((piece, byte)) = self.place(at)? else { return Ok(None) };
        let item = ide::node(&piece.reading, byte).and_then(|node| self.call(&piece, &node));
        Ok(item.map(|item| vec![item]))
    }

    pub(crate) fn callers(&self, item: &CallHierarchyItem) -> Result<Vec<CallHierarchyIncomingCall>, Failed> {
        let found = self.neighbours(item.data.as_ref(), Towards::Callers)?;
        let call = |(piece, neighbour): &(Piece, Neighbour)| {
            let from = self.call(piece, &neighbour.node)?;
            Some(CallHierarchyIncomingCall { from, from_ranges: self.ranges(piece, neighbour) })
        };
        Ok(found.iter().filter_map(call).collect())
    }

    pub(crate) fn called(&self, item: &CallHierarchyItem) -> Result<Vec<CallHierarchyOutgoingCall>, Failed> {
        let found = self.neighbours(item.data.as_ref(), Towards::Called)?;
        let call = |(piece, neighbour): &(Piece, Neighbour)| {
            let to = self.call(piece, &neighbour.node)?;
            Some(CallHierarchyOutgoingCall { to, from_ranges: self.ranges(piece, neighbour) })
        };
        Ok(found.iter().filter_map(call).collect())
    }

    pub(crate) fn type_item(&self, at: &TextDocumentPositionParams) -> Result<Option<Vec<TypeHierarchyItem>>, Failed> {
        let Some((piece, byte)) = self.place(at)? else { return Ok(None) };
        let node = ide::node(&piece.reading, byte).filter(|_| ide::has_types(&piece.reading, byte));
        Ok(node.and_then(|node| self.kind(&piece, &node)).map(|item| vec![item]))
    }

    pub(crate) fn supertypes(&self, item: &TypeHierarchyItem) -> Result<Vec<TypeHierarchyItem>, Failed> {
        let found = self.neighbours(item.data.as_ref(), Towards::Supertypes)?;
        Ok(found.iter().filter_map(|(piece, neighbour)| self.kind(piece, &neighbour.node)).collect())
    }

    pub(crate) fn subtypes(&self, item: &TypeHierarchyItem) -> Result<Vec<TypeHierarchyItem>, Failed> {
        let found = self.neighbours(item.data.as_ref(), Towards::Subtypes)?;
        Ok(found.iter().filter_map(|(piece, neighbour)| self.kind(piece, &neighbour.node)).collect())
    }

    /// The neighbours of what an item stands for, each with the text in which they were found.
    fn neighbours(&self, data: Option<&Value>, towards: Towards) -> Result<Vec<(Piece, Neighbour)>, Failed> {
        let unknown = || Failed::Params("this item is none of this server".to_owned());
        let known: Known = data.and_then(|data| serde_json::from_value(data.clone()).ok()).ok_or_else(unknown)?;
        let pieces = self.documents.pieces(&known.path).unwrap_or_default();
        let Some(piece) = pieces.into_iter().find(|piece| piece.reading.source.name == known.text) else {
            return Ok(Vec::new());
        };
        let meant = Meant { file: known.file, block: known.block, part: Part::Element(known.key) };
        let found = ide::neighbours(&piece.reading, &meant, towards);
        Ok(found.into_iter().map(|neighbour| (piece.clone(), neighbour)).collect())
    }

    fn ranges(&self, piece: &Piece, neighbour: &Neighbour) -> Vec<Range> {
        let own = neighbour.spans.iter().filter(|span| span.source.is_root());
        own.map(|span| piece.range(*span, self.encoding)).collect()
    }

    fn call(&self, piece: &Piece, node: &Node) -> Option<CallHierarchyItem> {
        let to = self.location(piece, node.span)?;
        Some(CallHierarchyItem {
            name: node.name.clone(),
            kind: SymbolKind::OBJECT,
            tags: None,
            detail: Some(node.detail.clone()),
            uri: to.uri,
            range: to.range,
            selection_range: to.range,
            data: data(piece, node),
        })
    }

    fn kind(&self, piece: &Piece, node: &Node) -> Option<TypeHierarchyItem> {
        let to = self.location(piece, node.span)?;
        Some(TypeHierarchyItem {
            name: node.name.clone(),
            kind: SymbolKind::CLASS,
            tags: None,
            detail: Some(node.detail.clone()),
            uri: to.uri,
            range: to.range,
            selection_range: to.range,
            data: data(piece, node),
        })
    }
}

fn data(piece: &Piece, node: &Node) -> Option<Value> {
    let Part::Element(key) = &node.meant.part else { return None };
    let known = Known {
        path: piece.path.clone(),
        text: piece.reading.source.name.clone(),
        file: node.meant.file.clone(),
        block: node.meant.block,
        key: key.clone(),
    };
    serde_json::to_value(known).ok()
}

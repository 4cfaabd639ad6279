//! Lines that belong under another: what follows a bare `in NAME` of a flow lies in that lane, and is indented under it.
//! Input: a tree as it was parsed. Output: the same with those lines as children.

use super::line::word;
use crate::source::Source;
use crate::syntax::{LineId, TokenKind, Tree};
use crate::vocabulary::PICTURE;

/// Gathers what follows each bare `in NAME` of the flows.
pub(super) fn gather(source: &Source, tree: &mut Tree) {
    let is_flow = |root: &LineId| word(source, tree, *root, 0) == "flow";
    let mut bodies: Vec<LineId> = tree.roots.iter().copied().filter(is_flow).collect();
    // Nesting has a limit, and bodies are looked at one after the other.
    while let Some(body) = bodies.pop() {
        let children = std::mem::take(&mut tree.lines[body.0 as usize].children);
        let kept = gathered(source, tree, &children);
        bodies.extend(kept.iter().copied());
        tree.lines[body.0 as usize].children = kept;
    }
}

/// The lines of a body that stay in it; those that follow a bare `in NAME`, up to the next one, have become its children.
fn gathered(source: &Source, tree: &mut Tree, lines: &[LineId]) -> Vec<LineId> {
    // What is said of the picture at its end is in no lane.
    let is_picture = |id: &&LineId| PICTURE.contains(&word(source, tree, **id, 0));
    let loose = lines.iter().rev().take_while(is_picture).count();
    let (steps, loose) = lines.split_at(lines.len() - loose);
    let mut kept: Vec<LineId> = Vec::new();
    let mut open: Option<LineId> = None;
    for line in steps {
        if word(source, tree, *line, 0) == "in" {
            open = is_bare(tree, *line).then_some(*line);
            kept.push(*line);
        } else if let Some(lane) = open {
            tree.lines[lane.0 as usize].children.push(*line);
        } else {
            kept.push(*line);
        }
    }
    kept.extend(loose);
    kept
}

/// Whether a line is `in NAME` with nothing under it; a path has more words than one.
fn is_bare(tree: &Tree, line: LineId) -> bool {
    let line = tree.line(line);
    let is_text = |w: &u32| matches!(tree.tokens[*w as usize].kind, TokenKind::Text | TokenKind::TextBlock);
    line.children.is_empty() && line.words.len() > 1 && !line.words.iter().any(is_text)
}

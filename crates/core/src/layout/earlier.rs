//! Where an earlier picture had the things of a graph.

use crate::geom::Rect;
use crate::layout::route::Route;

/// Where an earlier picture had the things of a graph.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Earlier {
    /// Nodes; `None` for new ones.
    pub nodes: Vec<Option<Rect>>,
    /// Groups.
    pub groups: Vec<Option<Rect>>,
    /// Lines and their texts.
    pub routes: Vec<Option<Route>>,
}

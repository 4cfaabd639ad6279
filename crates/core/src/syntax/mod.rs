//! Text to syntax. Input: a [`crate::source::Source`]. Output: a lossless [`Tree`] of lines and a
//! [`Cursor`] that reads the phrases of a line. Guarantees: error-tolerant, linear, every byte kept.
//! What the words mean is left to the model.

mod cursor;
mod formula;
mod lexer;
mod phrase;
mod run;
mod text;
mod tree;

pub use cursor::Cursor;
pub use formula::{FORMULA_SPACE, ends_with_operator};
pub(crate) use lexer::is_space;
pub use lexer::{Token, TokenKind, is_read_whole, lone_return};
pub use phrase::{Clause, Clauses, End, Name, Path, Set, Trait, Value};
pub use run::{Run, RunStyle};
pub use text::Label;
pub(crate) use text::block_lines;
pub(crate) use tree::indent_width;
pub use tree::{Line, LineId, MAX_DEPTH, Tree, parse};

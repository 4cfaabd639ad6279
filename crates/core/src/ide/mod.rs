//! What an editor asks of a text that was read: completions, what something is, where it stands, renames, symbols, folds, kinds of
//! words, corrections. Input: a [`Reading`](crate::pipeline::Reading) and a byte of its text. Output: values; edits are
//! [`TextEdit`](crate::source::TextEdit)s. Guarantees: nothing is laid out, texts with errors are answered as far as they could be read.

mod colours;
mod completion;
mod fixes;
mod folding;
mod hierarchy;
mod hints;
mod hover;
mod links;
mod places;
mod rename;
mod symbols;
mod tokens;
mod words;

pub use colours::{NamedColour, colours, nearest_colours};
pub use completion::{Completion, CompletionKind, completions};
pub use fixes::fixes;
pub use folding::{Fold, folds};
pub use hierarchy::{Neighbour, Node, Towards, has_types, neighbours, node};
pub use hints::{Hint, HintSide, hints};
pub use hover::{Hover, hover};
pub use links::{Link, LinkTarget, links};
pub use places::{Meant, Part, definition, meant, references};
pub use rename::{Refused, renamable, rename};
pub use symbols::{Symbol, symbols};
pub use tokens::{TokenClass, WordClass, word_classes, word_classes_in};

//! What an editor asks of a text that was read: completions, what something is, where it stands, renames, symbols, folds, kinds of
//! words, corrections. Input: a [`Reading`](crate::pipeline::Reading) and a byte of its text. Output: values; edits are
//! [`TextEdit`](crate::source::TextEdit)s. Guarantees: nothing is laid out, texts with errors are answered as far as they could be read.

mod completion;
mod fixes;
mod folding;
mod hover;
mod places;
mod rename;
mod symbols;
mod tokens;
mod words;

pub use completion::{Completion, CompletionKind, completions};
pub use fixes::fixes;
pub use folding::{Fold, folds};
pub use hover::{Hover, hover};
pub use places::{Meant, definition, meant, references};
pub use rename::{Refused, renamable, rename};
pub use symbols::{Symbol, symbols};
pub use tokens::{TokenClass, WordClass, word_classes};

//! New things among things whose order means something. Input: a tree of bodies, and what goes where. Each new thing goes
//! behind the known one that comes before it in the facts, wherever people put that since.

use std::collections::BTreeMap;

/// What tells a known thing or body from others: the byte at which its line begins.
pub(super) type Key = u32;

/// Where something new goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Anchor {
    /// As the first thing of a body.
    First(Key),
    /// Before a known thing.
    Before(Key),
    /// Behind a known thing.
    Behind(Key),
}

/// New things by where they go, in order.
pub(super) struct Insertions<T>(BTreeMap<Anchor, Vec<T>>);

impl<T> Default for Insertions<T> {
    fn default() -> Self {
        Self(BTreeMap::new())
    }
}

impl<T> Insertions<T> {
    pub(super) fn put(&mut self, anchor: Anchor, new: T) {
        self.0.entry(anchor).or_default().push(new);
    }

    /// Takes what goes somewhere.
    fn take(&mut self, anchor: Anchor) -> Vec<T> {
        self.0.remove(&anchor).unwrap_or_default()
    }

    /// A body with what is new in it. Things of one line stay together; `inner` does the same to what lies in a thing.
    pub(super) fn fill(
        &mut self, body: Vec<T>, of: Key, key: &dyn Fn(&T) -> Key, inner: &mut dyn FnMut(&mut Self, &mut T),
    ) -> Vec<T> {
        let mut out = self.take(Anchor::First(of));
        let mut rest = body.into_iter().peekable();
        while let Some(mut thing) = rest.next() {
            let own = key(&thing);
            out.extend(self.take(Anchor::Before(own)));
            inner(self, &mut thing);
            out.push(thing);
            if rest.peek().is_none_or(|next| key(next) != own) {
                out.extend(self.take(Anchor::Behind(own)));
            }
        }
        out
    }
}

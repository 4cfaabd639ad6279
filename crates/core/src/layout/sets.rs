//! Disjoint sets of numbers (Tarjan, "Efficiency of a good but not linear set union algorithm", 1975): each set is known by
//! its least member.

/// A partition of `0..count`.
#[derive(Clone, Debug)]
pub(in crate::layout) struct Sets(Vec<usize>);

impl Sets {
    /// Every number on its own.
    pub(in crate::layout) fn new(count: usize) -> Self {
        Self((0..count).collect())
    }

    /// One number more, on its own.
    pub(in crate::layout) fn push(&mut self) {
        self.0.push(self.0.len());
    }

    /// The least member of a number's set.
    pub(in crate::layout) fn first(&self, mut v: usize) -> usize {
        while self.0[v] != v {
            v = self.0[v];
        }
        v
    }

    /// Makes one set of the sets of two numbers.
    pub(in crate::layout) fn join(&mut self, a: usize, b: usize) {
        let (first, second) = (self.first(a), self.first(b));
        let least = first.min(second);
        self.0[first.max(second)] = least;
        // Shorter ways for those who asked.
        (self.0[a], self.0[b]) = (least, least);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sets_are_known_by_their_least_member() {
        let mut sets = Sets::new(5);
        sets.join(4, 2);
        sets.join(3, 4);
        sets.push();
        sets.join(5, 1);
        let firsts: Vec<usize> = (0..6).map(|v| sets.first(v)).collect();
        assert_eq!(firsts, [0, 1, 2, 2, 2, 1]);
    }
}

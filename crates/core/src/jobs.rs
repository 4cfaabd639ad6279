//! Independent pieces of work, which the outside may run at once. Input: how many pieces there are, and what to do for
//! each number. Output: the answers in the order of the numbers, whatever ran when.

use std::sync::{Mutex, PoisonError};

/// Runs pieces of work. It must run each number once, and may run several at the same time.
pub trait Jobs: Send + Sync {
    /// Calls `work` for every number below `count`, and returns when all calls have.
    fn run(&self, count: usize, work: &(dyn Fn(usize) + Sync));

    /// Whether nobody waits for the answer any more: what is left may then be done badly, and quickly.
    fn is_stopped(&self) -> bool {
        false
    }
}

/// One piece after the other.
#[derive(Clone, Copy, Debug, Default)]
pub struct OneByOne;

impl Jobs for OneByOne {
    fn run(&self, count: usize, work: &(dyn Fn(usize) + Sync)) {
        (0..count).for_each(work);
    }
}

/// The answers of all pieces of work, in the order of their numbers.
pub fn map<T: Send>(jobs: &dyn Jobs, count: usize, work: &(dyn Fn(usize) -> T + Sync)) -> Vec<T> {
    let slots: Vec<Mutex<Option<T>>> = (0..count).map(|_| Mutex::new(None)).collect();
    // A slot is whole even where a job panicked: the answer is put there in one step.
    jobs.run(count, &|i| *slots[i].lock().unwrap_or_else(PoisonError::into_inner) = Some(work(i)));
    slots.into_iter().filter_map(|s| s.into_inner().unwrap_or_else(PoisonError::into_inner)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The last piece first.
    struct Backwards;

    impl Jobs for Backwards {
        fn run(&self, count: usize, work: &(dyn Fn(usize) + Sync)) {
            (0..count).rev().for_each(work);
        }
    }

    #[test]
    fn answers_have_the_order_of_their_numbers() {
        let squares = [0, 1, 4, 9];
        assert_eq!(map(&OneByOne, 4, &|i| i * i), squares);
        assert_eq!(map(&Backwards, 4, &|i| i * i), squares);
        assert!(map(&Backwards, 0, &|i| i).is_empty());
    }
}

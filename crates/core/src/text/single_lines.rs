//! Which lines a text has once.

use std::collections::HashMap;

use foldhash::fast::RandomState;

use super::lines::{Lines, hash_line};

/// In a text of more bytes it is not looked up whether it has a line once; lost is that a line of a change which stands elsewhere as it is
/// is not paired with another one.
pub(crate) const LARGEST_TEXT: usize = 4 << 20;

/// The lines of a text by their hashes, and whether each is the only one of its kind.
#[derive(Debug)]
pub(crate) struct SingleLines(HashMap<u64, bool, RandomState>);

impl SingleLines {
    pub(crate) fn of(text: &[u8]) -> Self {
        let lines = Lines::of(text);
        let mut is_single = HashMap::with_capacity_and_hasher(lines.len(), RandomState::default());
        for line in lines.iter() {
            is_single.entry(hash_line(line)).and_modify(|single| *single = false).or_insert(true);
        }
        Self(is_single)
    }

    /// Whether the text has a line once, with its line end.
    pub(crate) fn contains(&self, line: &[u8]) -> bool {
        self.0.get(&hash_line(line)).is_some_and(|single| *single)
    }
}

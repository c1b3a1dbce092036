//! How alike two texts are, told from a sketch of each.
//!
//! A sketch holds the smallest hashes of a text's lines; the share that two sketches have in common estimates the share of
//! lines that the texts have in common (A. Broder, "On the resemblance and containment of documents", 1997).

use std::collections::BTreeSet;

use crate::internal::align::SKETCH_HASHES;
use crate::internal::text::lines::{Lines, hash_line};

/// Texts with fewer different lines than this are too short to be told by similarity.
const FEWEST: usize = 4;

/// The smallest hashes of the lines of a text, in order.
#[derive(Clone, Debug)]
pub(super) struct Sketch {
    hashes: Vec<u64>,
}

impl Sketch {
    /// The sketch of a text; none of a text too short. Lines are taken without the white space at their ends.
    pub(super) fn of(text: &[u8]) -> Option<Self> {
        let mut smallest = BTreeSet::new();
        for hash in lines_of(text) {
            if smallest.len() < SKETCH_HASHES || smallest.last().is_some_and(|&last| hash < last) {
                smallest.insert(hash);
                if smallest.len() > SKETCH_HASHES {
                    smallest.pop_last();
                }
            }
        }
        (smallest.len() >= FEWEST).then(|| Self { hashes: smallest.into_iter().collect() })
    }

    /// Its hashes.
    pub(super) fn hashes(&self) -> &[u64] {
        &self.hashes
    }

    /// The estimated share of lines in common, from 0 to 1, where each line has a weight: one that many files have tells little.
    pub(super) fn similarity(&self, other: &Self, weight: impl Fn(u64) -> f64) -> f64 {
        let (mut one, mut two) = (self.hashes.iter().peekable(), other.hashes.iter().peekable());
        let (mut common, mut all) = (0.0, 0.0);
        for _ in 0..SKETCH_HASHES {
            let hash = match (one.peek(), two.peek()) {
                (Some(a), Some(b)) if a == b => {
                    common += weight(**a);
                    one.next();
                    two.next()
                }
                (Some(a), Some(b)) if a < b => one.next(),
                (Some(_), None) => one.next(),
                _ => two.next(),
            };
            let Some(hash) = hash else { break };
            all += weight(*hash);
        }
        if all > 0.0 { common / all } else { 0.0 }
    }
}

/// The hashes of the lines of a text, without the white space at their ends; those of one letter say nothing.
pub(super) fn lines_of(text: &[u8]) -> Vec<u64> {
    Lines::of(text).iter().map(<[u8]>::trim_ascii).filter(|line| line.len() > 1).map(hash_line).collect()
}

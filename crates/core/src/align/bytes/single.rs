//! Small areas, aligned byte by byte.

use super::super::bounds::Bounds;
use super::super::items::align_items;
use super::pair::BytePair;

/// The ranges that differ in two small areas.
pub(super) fn align_single(before: &[u8], after: &[u8]) -> Vec<BytePair> {
    let items = |bytes: &[u8]| -> Vec<u64> { bytes.iter().map(|byte| u64::from(*byte)).collect() };
    let found = align_items(&items(before), &items(after), &Bounds::default());
    // Bytes that two areas happen to share tell nothing.
    let differing: usize = found.iter().map(|(b, a)| b.len().max(a.len())).sum();
    if differing * 4 > before.len().max(after.len()) * 3 {
        return vec![(0..before.len(), 0..after.len())];
    }
    found
}

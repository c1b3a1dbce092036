//! Ranges that stand near each other, told as one.

use super::bounds::ByteBounds;
use super::pair::BytePair;

/// Fewer equal bytes than these between two ranges are a part of one change: half a number, a letter that happens to be the same.
const NEAR: usize = 4;
/// Between two long ranges, as many more: a share of the shorter one.
const SHARE: usize = 16;

/// Joins ranges that stand near each other, and more of them while there are too many; tells how near they are then.
pub(super) fn join_near(pairs: Vec<BytePair>, bounds: &ByteBounds) -> (Vec<BytePair>, usize) {
    let mut near = NEAR;
    let mut pairs = joined(pairs, near);
    while pairs.len() > bounds.most_ranges() {
        near *= 4;
        pairs = joined(pairs, near);
    }
    (pairs, near)
}

fn joined(pairs: Vec<BytePair>, near: usize) -> Vec<BytePair> {
    let mut found: Vec<BytePair> = Vec::with_capacity(pairs.len());
    for (b, a) in pairs {
        if let Some((last_b, last_a)) = found.last_mut() {
            let between = b.start - last_b.end;
            let sizes = (last_b.len().max(last_a.len()), b.len().max(a.len()));
            if between < near.max(sizes.0.min(sizes.1) / SHARE).min(near.max(64)) {
                (last_b.end, last_a.end) = (b.end, a.end);
                continue;
            }
        }
        found.push((b, a));
    }
    found
}

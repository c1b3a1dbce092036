//! Items that are known by their hashes, such as rows of a table and nodes of a document, aligned and paired.

use std::collections::HashMap;
use std::ops::Range;

use foldhash::fast::FixedState;

use super::bounds::{Bounds, MOST_PAIRED_ITEMS};
use super::script::script;
use super::work;
use crate::internal::text::lines::Interned;

/// The stretches that differ in two sequences of items, in order and never adjacent on both sides.
pub(crate) fn align_items(before: &[u64], after: &[u64], bounds: &Bounds) -> Vec<(Range<usize>, Range<usize>)> {
    let head = before.iter().zip(after).take_while(|(b, a)| b == a).count();
    let (b, a) = (&before[head..], &after[head..]);
    let tail = b.iter().rev().zip(a.iter().rev()).take_while(|(b, a)| b == a).count();
    let (b, a) = (&b[..b.len() - tail], &a[..a.len() - tail]);
    if b.is_empty() && a.is_empty() {
        return Vec::new();
    }
    let mut numbers: HashMap<u64, u32, FixedState> = HashMap::default();
    let mut number = |items: &[u64]| -> Vec<u32> {
        let assign = |item: &u64| {
            let next = u32::try_from(numbers.len()).expect("fewer than four thousand million items");
            *numbers.entry(*item).or_insert(next)
        };
        items.iter().map(assign).collect()
    };
    let (before, after) = (number(b), number(a));
    let interned = Interned { before, after, distinct: numbers.len() };
    let shifted = |range: Range<usize>| range.start + head..range.end + head;
    script(&interned, bounds).stretches().into_iter().map(|(b, a)| (shifted(b), shifted(a))).collect()
}

/// Pairs items of two sequences in their order, so that as much similarity as possible is in the pairs. Less than `least` makes no pair.
pub(crate) fn pair_alike(
    (before, after): (usize, usize),
    least: f32,
    likeness: impl Fn(usize, usize) -> f32,
) -> Vec<(usize, usize)> {
    let pairs = before.saturating_mul(after);
    work::count(pairs.min(MOST_PAIRED_ITEMS));
    if pairs == 0 {
        return Vec::new();
    }
    if pairs > MOST_PAIRED_ITEMS {
        let is_alike = |at: &usize| likeness(*at, *at) >= least;
        return (0..before.min(after)).filter(is_alike).map(|at| (at, at)).collect();
    }
    // The best sum for each two tails.
    let width = after + 1;
    let mut best = vec![0.0_f32; (before + 1) * width];
    let mut alike = vec![0.0_f32; pairs];
    for b in (0..before).rev() {
        for a in (0..after).rev() {
            let likeness = likeness(b, a);
            alike[b * after + a] = likeness;
            let paired = if likeness >= least { likeness + best[(b + 1) * width + a + 1] } else { 0.0 };
            best[b * width + a] = paired.max(best[(b + 1) * width + a]).max(best[b * width + a + 1]);
        }
    }
    let mut found = Vec::new();
    let (mut b, mut a) = (0, 0);
    while b < before && a < after {
        let here = best[b * width + a];
        let likeness = alike[b * after + a];
        if likeness >= least && here == likeness + best[(b + 1) * width + a + 1] {
            found.push((b, a));
            (b, a) = (b + 1, a + 1);
        } else if here == best[(b + 1) * width + a] {
            b += 1;
        } else {
            a += 1;
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn items_are_paired_in_order_by_what_they_share() {
        let likeness = [[0.1, 0.9], [0.8, 0.2]];
        assert_eq!(pair_alike((2, 2), 0.3, |b, a| likeness[b][a]), [(0, 1)]);
        assert!(pair_alike((2, 2), 0.95, |b, a| likeness[b][a]).is_empty());
        assert!(pair_alike((0, 2), 0.3, |_, _| 1.0).is_empty());
    }

    #[test]
    fn what_differs_lies_between_equal_ends() {
        assert_eq!(align_items(&[1, 2, 3, 4], &[1, 9, 3, 4], &Bounds::default()), [(1..2, 1..2)]);
        assert!(align_items(&[1, 1], &[1, 1], &Bounds::default()).is_empty());
    }
}

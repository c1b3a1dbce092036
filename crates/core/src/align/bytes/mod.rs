//! Bytes aligned with bytes: which ranges differ, where some were inserted, removed or changed.
//!
//! What stands at the same offset on both sides is equal first, a block at a time. In what is left, chunks that both sides have are anchors,
//! wherever they stand: first large ones, between them smaller ones. What lies between the smallest is aligned byte by byte.

mod anchors;
mod bounds;
mod in_place;
mod join;
mod pair;
mod single;

use std::ops::Range;

pub use bounds::ByteBounds;

use super::work;
use crate::internal::text::bytes::{common_prefix, common_suffix};
use join::join_near;
use pair::BytePair;

/// The ranges that differ, in order: what lies between them is equal. Also the distance within which ranges were told as one.
///
/// `holes` are ranges, in order, that hold nothing but zeros at the same offsets of both sides; they are not read.
pub(crate) fn align_bytes(
    before: &[u8],
    after: &[u8],
    holes: &[Range<usize>],
    bounds: &ByteBounds,
) -> (Vec<BytePair>, usize) {
    let areas = if before.len() == after.len() {
        in_place::differing_areas(before, after, holes)
    } else {
        vec![(0..before.len(), 0..after.len())]
    };
    let mut found = Found { before, after, bounds, left: bounds.single(), pairs: Vec::new() };
    for (b, a) in areas {
        found.area(b, a, None);
    }
    join_near(found.pairs, bounds)
}

/// An alignment in the making.
struct Found<'b> {
    before: &'b [u8],
    after: &'b [u8],
    bounds: &'b ByteBounds,
    /// How many bytes may still be aligned one by one.
    left: usize,
    pairs: Vec<BytePair>,
}

impl Found<'_> {
    /// Aligns an area, with chunks of a level; of the one that fits its size, where none is given.
    fn area(&mut self, b: Range<usize>, a: Range<usize>, level: Option<u32>) {
        let head = common_prefix(&self.before[b.clone()], &self.after[a.clone()]);
        let (b, a) = (b.start + head..b.end, a.start + head..a.end);
        let tail = common_suffix(&self.before[b.clone()], &self.after[a.clone()]);
        let (b, a) = (b.start..b.end - tail, a.start..a.end - tail);
        work::count(b.len() + a.len());
        if b.is_empty() || a.is_empty() {
            if !b.is_empty() || !a.is_empty() {
                self.pairs.push((b, a));
            }
            return;
        }
        let (old, new) = (&self.before[b.clone()], &self.after[a.clone()]);
        if in_place::is_alike(old, new) {
            self.pairs.extend(in_place::differing_bytes(old, new).map(|range| {
                let moved = |start: usize| start + range.start..start + range.end;
                (moved(b.start), moved(a.start))
            }));
            return;
        }
        let size = old.len() + new.len();
        if size <= self.bounds.small() && size <= self.left {
            self.left -= size;
            let shifted = |pair: BytePair| shift(pair, (b.start, a.start));
            let found = in_one_order(old, new, single::align_single);
            self.pairs.extend(found.into_iter().map(shifted));
            return;
        }
        let Some(level) = level.or_else(|| self.bounds.level_for(size)) else {
            self.pairs.push((b, a));
            return;
        };
        let gaps = in_one_order(old, new, |one, other| anchors::between_anchors(one, other, level, self.bounds));
        let next = self.bounds.level_below(level).filter(|_| self.bounds.looks_further(&gaps, (old.len(), new.len())));
        for gap in gaps {
            let (b, a) = shift(gap, (b.start, a.start));
            match next {
                Some(next) => self.area(b, a, Some(next)),
                None => self.last(b, a),
            }
        }
    }

    /// What no chunk tells anything about.
    fn last(&mut self, b: Range<usize>, a: Range<usize>) {
        let size = b.len() + a.len();
        if size <= self.bounds.small() && size <= self.left {
            self.area(b, a, None);
        } else {
            let head = common_prefix(&self.before[b.clone()], &self.after[a.clone()]);
            let (b, a) = (b.start + head..b.end, a.start + head..a.end);
            let tail = common_suffix(&self.before[b.clone()], &self.after[a.clone()]);
            let (b, a) = (b.start..b.end - tail, a.start..a.end - tail);
            if !b.is_empty() || !a.is_empty() {
                self.pairs.push((b, a));
            }
        }
    }
}

/// Aligns two areas that begin with different bytes in an order that does not depend on which is called before, so that exchanged sides mirror.
fn in_one_order(before: &[u8], after: &[u8], align: impl Fn(&[u8], &[u8]) -> Vec<BytePair>) -> Vec<BytePair> {
    if (before.len(), before) <= (after.len(), after) {
        return align(before, after);
    }
    align(after, before).into_iter().map(|(a, b)| (b, a)).collect()
}

fn shift((b, a): BytePair, (by_before, by_after): (usize, usize)) -> BytePair {
    (b.start + by_before..b.end + by_before, a.start + by_after..a.end + by_after)
}

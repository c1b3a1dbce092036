//! What differs at the same offset of both sides.

use std::ops::Range;

use rayon::prelude::*;

use super::super::work;
use super::pair::BytePair;

/// Bytes that are compared at a time.
const BLOCK: usize = 4 << 10;
/// Bytes that one thread walks through.
const PIECE: usize = 16 << 20;
/// So many bytes that are all the same tell that both sides are at the same place.
const LONG_RUN: usize = 64 << 10;
/// Of a large area, so many pieces of so many bytes tell whether it is alike at the same offsets.
const PROBES: (usize, usize) = (64, 256);

/// The areas of two sides of one size between which they are equal, at the same offsets.
pub(super) fn differing_areas(before: &[u8], after: &[u8], holes: &[Range<usize>]) -> Vec<BytePair> {
    let pieces: Vec<Range<usize>> =
        (0..before.len()).step_by(PIECE).map(|start| start..(start + PIECE).min(before.len())).collect();
    let differing: Vec<Vec<Range<usize>>> =
        pieces.into_par_iter().map(|piece| differing_blocks(before, after, piece, holes)).collect();
    let mut areas: Vec<Range<usize>> = Vec::new();
    for area in differing.into_iter().flatten() {
        match areas.last_mut() {
            Some(last) if !separates(&before[last.end..area.start]) => last.end = area.end,
            _ => areas.push(area),
        }
    }
    areas.into_iter().map(|area| (area.clone(), area)).collect()
}

/// The blocks of a piece that differ, those that follow each other together.
fn differing_blocks(before: &[u8], after: &[u8], piece: Range<usize>, holes: &[Range<usize>]) -> Vec<Range<usize>> {
    let mut found: Vec<Range<usize>> = Vec::new();
    let mut hole = holes.partition_point(|hole| hole.end <= piece.start);
    let mut at = piece.start;
    while at < piece.end {
        while hole < holes.len() && holes[hole].end <= at {
            hole += 1;
        }
        let end = (at + BLOCK).min(piece.end);
        if let Some(hole) = holes.get(hole)
            && hole.start <= at
            && hole.end >= end
        {
            // Whole blocks of a hole are passed over at once.
            at += ((hole.end.min(piece.end) - at) / BLOCK).max(1) * BLOCK;
            continue;
        }
        if before[at..end] != after[at..end] {
            match found.last_mut() {
                Some(last) if last.end == at => last.end = end,
                _ => found.push(at..end),
            }
        }
        at = end;
    }
    work::count(piece.len());
    found
}

/// Whether equal bytes tell that both sides are at the same place: a few zeros can stand anywhere.
fn separates(equal: &[u8]) -> bool {
    if equal.len() >= LONG_RUN {
        return true;
    }
    equal.len() >= BLOCK && equal[1..] != equal[..equal.len() - 1]
}

/// Whether at least half of the bytes of two areas are the same at the same offsets.
pub(super) fn is_alike(before: &[u8], after: &[u8]) -> bool {
    if before.len() != after.len() {
        return false;
    }
    let same = |range: Range<usize>| before[range.clone()].iter().zip(&after[range]).filter(|(b, a)| b == a).count();
    let (probes, size) = PROBES;
    if before.len() <= probes * size {
        return same(0..before.len()) * 2 >= before.len();
    }
    let step = before.len() / probes;
    let alike: usize = (0..probes).map(|probe| same(probe * step..probe * step + size)).sum();
    alike * 2 >= probes * size
}

/// The stretches of bytes that differ in two areas of one size.
pub(super) fn differing_bytes<'b>(before: &'b [u8], after: &'b [u8]) -> impl Iterator<Item = Range<usize>> + 'b {
    let mut at = 0;
    std::iter::from_fn(move || {
        at += crate::internal::text::bytes::common_prefix(&before[at..], &after[at..]);
        if at == before.len() {
            return None;
        }
        let start = at;
        at += before[at..].iter().zip(&after[at..]).take_while(|(b, a)| b != a).count();
        Some(start..at)
    })
}

//! Some places of two images, to tell quickly whether one is a part of the other or was shifted.

use std::collections::HashMap;

use foldhash::fast::FixedState;
use rayon::prelude::*;

use super::overlap::Overlap;
use super::pixels::Pixels;
use crate::internal::align::work;

/// Places along each side that are looked at.
const ALONG: usize = 192;
/// Blocks that are looked for.
const MOST_BLOCKS: usize = 128;
/// A block that stands at more places tells nothing.
const MOST_PLACES: usize = 16;
/// The base of the rolling hash.
const BASE: u64 = 0x9e37_79b9_7f4a_7c15;

/// Places of an area, spread evenly.
pub(super) fn places(width: usize, height: usize) -> impl Iterator<Item = (usize, usize)> {
    let step = |size: usize| size.div_ceil(ALONG).max(1);
    let (across, down) = (step(width), step(height));
    // Rows are not all looked at in the same columns.
    (0..height).step_by(down).flat_map(move |y| {
        let first = if across > 1 { (y / down * 7) % across } else { 0 };
        (first..width).step_by(across).map(move |x| (x, y))
    })
}

/// The share of the places of an overlap at which both images are the same.
pub(super) fn share_alike(before: &Pixels, after: &Pixels, overlap: &Overlap) -> f64 {
    let (mut same, mut all) = (0, 0);
    for (x, y) in places(overlap.width, overlap.height) {
        let one = before.pixel(overlap.before.0 + x, overlap.before.1 + y);
        let other = after.pixel(overlap.after.0 + x, overlap.after.1 + y);
        same += usize::from(one == other);
        all += 1;
    }
    same as f64 / f64::from(all.max(1))
}

/// By how many pixels most blocks of an image stand elsewhere in another; nothing where no answer stands out. Only blocks at places that fit
/// `is_wanted` are looked for.
pub(super) fn shift(before: &Pixels, after: &Pixels, is_wanted: impl Fn(usize, usize) -> bool) -> Option<(i64, i64)> {
    let least = before.width().min(before.height()).min(after.width()).min(after.height());
    let side = (least / 3).min(8);
    if side < 2 {
        return None;
    }
    let blocks = blocks(before, side, is_wanted);
    if blocks.is_empty() {
        return None;
    }
    let mut by_hash: HashMap<u64, Vec<usize>, FixedState> = HashMap::default();
    // Most hashes are of no block: a bit for each says so at once.
    let mut is_known = vec![false; 1 << 16];
    for (index, block) in blocks.iter().enumerate() {
        let hash = row_hash(before, *block, side);
        by_hash.entry(hash).or_default().push(index);
        is_known[(hash >> 48) as usize] = true;
    }
    let hits = hits(before, after, (&blocks, side), (&by_hash, &is_known));
    let mut places: Vec<usize> = vec![0; blocks.len()];
    hits.iter().for_each(|(block, _)| places[*block] += 1);
    let mut votes: HashMap<(i64, i64), usize, FixedState> = HashMap::default();
    for (block, (x, y)) in hits.iter().filter(|(block, _)| places[*block] <= MOST_PLACES) {
        let from = blocks[*block];
        *votes.entry((*x as i64 - from.0 as i64, *y as i64 - from.1 as i64)).or_default() += 1;
    }
    let best =
        votes.into_iter().filter(|(offset, _)| *offset != (0, 0)).max_by_key(|(offset, count)| (*count, *offset));
    best.filter(|(_, count)| *count >= 3.min(blocks.len()) && count * 3 >= blocks.len()).map(|(offset, _)| offset)
}

/// Blocks that look like no other: the colours in their first row change.
fn blocks(image: &Pixels, side: usize, is_wanted: impl Fn(usize, usize) -> bool) -> Vec<(usize, usize)> {
    let (width, height) = (image.width() + 1 - side, image.height() + 1 - side);
    let mut keys = Vec::new();
    let mut changes = |x: usize, y: usize| {
        image.keys((x, y), side, &mut keys);
        keys.windows(2).filter(|pair| pair[0] != pair[1]).count() * 3 >= side
    };
    let all: Vec<(usize, usize)> = places(width, height).filter(|&(x, y)| is_wanted(x, y) && changes(x, y)).collect();
    let step = all.len().div_ceil(MOST_BLOCKS).max(1);
    all.into_iter().step_by(step).collect()
}

fn row_hash(image: &Pixels, place: (usize, usize), side: usize) -> u64 {
    let mut keys = Vec::new();
    image.keys(place, side, &mut keys);
    keys.into_iter().fold(0_u64, |hash, key| hash.wrapping_mul(BASE).wrapping_add(mixed(key)))
}

fn mixed(key: u64) -> u64 {
    (key ^ (key >> 29)).wrapping_mul(0xbf58_476d_1ce4_e5b9)
}

/// Where each block stands in another image.
fn hits(
    before: &Pixels,
    after: &Pixels,
    (blocks, side): (&[(usize, usize)], usize),
    (by_hash, is_known): (&HashMap<u64, Vec<usize>, FixedState>, &[bool]),
) -> Vec<(usize, (usize, usize))> {
    work::count(after.width() * after.height());
    let leaving = (0..side).fold(1_u64, |power, _| power.wrapping_mul(BASE));
    let rows: Vec<Vec<(usize, (usize, usize))>> = (0..=after.height() - side)
        .into_par_iter()
        .map_init(Vec::new, |keys, y| {
            let mut found = Vec::new();
            let mut hash = 0_u64;
            after.keys((0, y), after.width(), keys);
            keys.iter_mut().for_each(|key| *key = mixed(*key));
            for x in 0..keys.len() {
                hash = hash.wrapping_mul(BASE).wrapping_add(keys[x]);
                if x >= side {
                    hash = hash.wrapping_sub(keys[x - side].wrapping_mul(leaving));
                }
                if x + 1 < side || !is_known[(hash >> 48) as usize] {
                    continue;
                }
                let at = (x + 1 - side, y);
                for block in by_hash.get(&hash).into_iter().flatten() {
                    let from = blocks[*block];
                    let is_same =
                        (0..side).all(|row| before.same_run((from.0, from.1 + row), after, (at.0, at.1 + row), side));
                    if is_same {
                        found.push((*block, at));
                    }
                }
            }
            found
        })
        .collect();
    rows.into_iter().flatten().collect()
}

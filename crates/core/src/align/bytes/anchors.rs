//! Chunks that both sides have, as anchors of an alignment.

use std::hash::BuildHasher;
use std::ops::Range;

use foldhash::fast::FixedState;

use super::super::bounds::Bounds;
use super::super::items::align_items;
use super::super::work;
use super::bounds::ByteBounds;
use super::pair::BytePair;

/// What each byte adds to the rolling hash.
const GEAR: [u64; 256] = gear();

/// Random numbers by the SplitMix64 generator (Steele, Lea and Flood, "Fast splittable pseudorandom number generators", 2014).
const fn gear() -> [u64; 256] {
    let mut table = [0; 256];
    let mut state: u64 = 0x7469_6465_6c69_6e65;
    let mut at = 0;
    while at < 256 {
        state = state.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut mixed = state;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        table[at] = mixed ^ (mixed >> 31);
        at += 1;
    }
    table
}

/// What lies between the chunks that both sides have, in order.
pub(super) fn between_anchors(before: &[u8], after: &[u8], level: u32, bounds: &ByteBounds) -> Vec<BytePair> {
    let (old, new) = rayon::join(|| Chunks::of(before, level), || Chunks::of(after, level));
    work::count(before.len() + after.len());
    if old.hashes.len() + new.hashes.len() > 2 * bounds.most_chunks() {
        return vec![(0..before.len(), 0..after.len())];
    }
    let mut gaps: Vec<BytePair> = Vec::new();
    // Where equal chunks end is where both sides are known to be at the same place.
    let mut at = (0, 0);
    let mut chunk = (0, 0);
    let mut push = |b: Range<usize>, a: Range<usize>| {
        if !b.is_empty() || !a.is_empty() {
            gaps.push((b, a));
        }
    };
    for (b, a) in align_items(&old.hashes, &new.hashes, &Bounds::default()) {
        // What hashes say is checked: equal chunks that are not equal stay in the gap.
        for (one, other) in (chunk.0..b.start).zip(chunk.1..a.start) {
            let (one, other) = (old.chunk(one), new.chunk(other));
            if before[one.clone()] == after[other.clone()] {
                push(at.0..one.start, at.1..other.start);
                at = (one.end, other.end);
            }
        }
        chunk = (b.end, a.end);
    }
    for (one, other) in (chunk.0..old.hashes.len()).zip(chunk.1..new.hashes.len()) {
        let (one, other) = (old.chunk(one), new.chunk(other));
        if before[one.clone()] == after[other.clone()] {
            push(at.0..one.start, at.1..other.start);
            at = (one.end, other.end);
        }
    }
    push(at.0..before.len(), at.1..after.len());
    gaps
}

/// The chunks of one side. Where they end is told by the bytes before that, so that bytes inserted or removed elsewhere change nothing
/// (Xia et al., "FastCDC: a fast and efficient content-defined chunking approach for data deduplication", 2016: the Gear hash).
struct Chunks {
    ends: Vec<usize>,
    hashes: Vec<u64>,
}

impl Chunks {
    fn of(bytes: &[u8], level: u32) -> Self {
        let (average, hasher) = (1_usize << level, FixedState::default());
        let (least, most) = (average / 4, average * 8);
        // The high bits of the hash have seen the most bytes.
        let mask = ((1_u64 << level) - 1) << (64 - level);
        let (mut ends, mut hashes) = (Vec::new(), Vec::new());
        let mut start = 0;
        while start < bytes.len() {
            let end = chunk_end(&bytes[start..], (least, most), mask) + start;
            hashes.push(hasher.hash_one(&bytes[start..end]));
            ends.push(end);
            start = end;
        }
        Self { ends, hashes }
    }

    fn chunk(&self, index: usize) -> Range<usize> {
        let start = if index == 0 { 0 } else { self.ends[index - 1] };
        start..self.ends[index]
    }
}

/// Where the chunk ends that begins here.
fn chunk_end(bytes: &[u8], (least, most): (usize, usize), mask: u64) -> usize {
    let upto = bytes.len().min(most);
    let mut hash: u64 = 0;
    for (at, byte) in bytes[..upto].iter().enumerate().skip(least) {
        hash = (hash << 1).wrapping_add(GEAR[usize::from(*byte)]);
        if hash & mask == 0 {
            return at + 1;
        }
    }
    upto
}

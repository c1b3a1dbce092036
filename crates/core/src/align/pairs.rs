//! Pairing of the lines inside a change: which line before became which line after.
//!
//! Lines are paired by similarity, keeping their order, so that the sum of similarity is the greatest (the dynamic programme
//! of S. B. Needleman and C. D. Wunsch, J. Mol. Biol. 48, 1970). Likeness is the share of letter pairs that two lines have
//! in common (L. R. Dice, "Measures of the Amount of Ecologic Association Between Species", Ecology 26, 1945).
//!
//! The programme is quadratic, so large changes are first divided at lines that are equal but for white space and digits;
//! what is still too large is paired line by line from its top, and not at all beyond a bound. Very large changes whose first
//! lines have nothing in common are not paired at all.

use std::collections::HashSet;

use rayon::prelude::*;

use super::bounds::{Bounds, PairBounds};
use super::script::script;
use super::work;
use crate::internal::model::{Row, Weight, Words};
use crate::internal::text::lines::{as_slices, intern};

/// Lines less alike than this (0 to 1) do not belong together.
const ALIKE: f32 = 0.4;
/// A single line that took the place of a single line may be less alike.
const ALIKE_ALONE: f32 = 0.2;
/// Lines seem related if one in so many is the same on both sides but for white space and digits.
const RELATED: usize = 20;
/// Steps that weighing a pair of lines is counted as.
const WEIGHING: usize = 8;

/// Pairs the lines of the two sides of a change. Every line is in exactly one row; rows keep the order of both sides, and
/// between two pairs the gone lines come before the new ones. The words of the pairs are left empty.
pub fn pair_lines(before: &[&[u8]], after: &[&[u8]], bounds: &PairBounds) -> Vec<Row> {
    if before > after {
        let pairs = pairs_between(after, before, bounds).into_iter().map(|(a, b)| (b, a)).collect();
        return rows(pairs, before.len(), after.len());
    }
    rows(pairs_between(before, after, bounds), before.len(), after.len())
}

fn rows(pairs: Vec<(usize, usize)>, before: usize, after: usize) -> Vec<Row> {
    let mut rows = Vec::with_capacity(before + after - pairs.len());
    let (mut b, mut a) = (0, 0);
    for (pair_b, pair_a) in pairs.into_iter().chain([(before, after)]) {
        rows.extend((b..pair_b).map(|before| Row::Gone { before, words: Vec::new(), weight: Weight::Counted }));
        rows.extend((a..pair_a).map(|after| Row::New { after, words: Vec::new(), weight: Weight::Counted }));
        if pair_b < before {
            rows.push(Row::Edited { before: pair_b, after: pair_a, words: Words::default(), weight: Weight::Counted });
        }
        (b, a) = (pair_b + 1, pair_a + 1);
    }
    rows
}

fn pairs_between(before: &[&[u8]], after: &[&[u8]], bounds: &PairBounds) -> Vec<(usize, usize)> {
    if before.is_empty() || after.is_empty() {
        return Vec::new();
    }
    if before.len() * after.len() <= bounds.pairs {
        return weigh(before, after, bounds);
    }
    if before.len().max(after.len()) > bounds.related && !seem_related(before, after, bounds) {
        return Vec::new();
    }
    // Divide at lines that are the same but for white space and digits.
    let (bare_before, bare_after) = (bare(before, bounds), bare(after, bounds));
    let interned = intern(&as_slices(&bare_before), &as_slices(&bare_after));
    let mut pairs = Vec::new();
    let (mut b, mut a) = (0, 0);
    let ends = [(before.len()..before.len(), after.len()..after.len())];
    for (gone, new) in script(&interned, &Bounds::default()).stretches().into_iter().chain(ends) {
        // The lines up to this stretch are the same but for digits: pairs, unless nothing but space is in them.
        let bare_pairs = (b..gone.start).zip(a..new.start);
        pairs.extend(bare_pairs.filter(|&(b, a)| !bare_before[b].is_empty() && !bare_after[a].is_empty()));
        let (inner_before, inner_after) = (&before[gone.clone()], &after[new.clone()]);
        let inner = if inner_before.len() * inner_after.len() <= bounds.pairs {
            weigh(inner_before, inner_after, bounds)
        } else if inner_before.len().max(inner_after.len()) > bounds.lines {
            Vec::new()
        } else {
            from_the_top(inner_before, inner_after, bounds)
        };
        pairs.extend(inner.into_iter().map(|(b, a)| (b + gone.start, a + new.start)));
        (b, a) = (gone.end, new.end);
    }
    pairs
}

/// Whether enough of the first lines of both sides are the same but for white space and digits.
fn seem_related(before: &[&[u8]], after: &[&[u8]], bounds: &PairBounds) -> bool {
    let first = |lines: &[&[u8]]| bare(&lines[..lines.len().min(bounds.first)], bounds);
    let (one, other) = (first(before), first(after));
    let there: HashSet<&Vec<u8>> = other.iter().collect();
    let back: HashSet<&Vec<u8>> = one.iter().collect();
    let shared = one.iter().filter(|line| there.contains(line)).count()
        + other.iter().filter(|line| back.contains(line)).count();
    shared * RELATED >= one.len() + other.len()
}

/// Lines without white space and digits.
fn bare(lines: &[&[u8]], bounds: &PairBounds) -> Vec<Vec<u8>> {
    let kept = |byte: &u8| !byte.is_ascii_whitespace() && !byte.is_ascii_digit();
    lines.par_iter().map(|line| line.iter().copied().filter(kept).take(2 * bounds.looked_at).collect()).collect()
}

/// Line by line, as long as the lines are alike.
fn from_the_top(before: &[&[u8]], after: &[&[u8]], bounds: &PairBounds) -> Vec<(usize, usize)> {
    let alike = |(_, (b, a)): &(usize, (&&[u8], &&[u8]))| {
        similarity(&letter_pairs(b, bounds.looked_at), &letter_pairs(a, bounds.looked_at)) >= ALIKE
    };
    before.iter().zip(after).enumerate().filter(alike).map(|(at, _)| (at, at)).collect()
}

/// The pairs, in order, with the greatest sum of similarity.
fn weigh(before: &[&[u8]], after: &[&[u8]], bounds: &PairBounds) -> Vec<(usize, usize)> {
    let profile = |lines: &[&[u8]]| lines.iter().map(|line| letter_pairs(line, bounds.looked_at)).collect::<Vec<_>>();
    let (profiles_before, profiles_after) = (profile(before), profile(after));
    let least = if before.len() == 1 && after.len() == 1 { ALIKE_ALONE } else { ALIKE };
    let width = after.len() + 1;
    work::count(before.len() * after.len() * WEIGHING);
    // best[b * width + a]: the greatest sum for the lines from b and from a on.
    let mut best = vec![0_f32; (before.len() + 1) * width];
    let mut paired = vec![false; best.len()];
    for b in (0..before.len()).rev() {
        for a in (0..after.len()).rev() {
            let like = similarity(&profiles_before[b], &profiles_after[a]);
            let skip = best[(b + 1) * width + a].max(best[b * width + a + 1]);
            let pair = if like >= least { best[(b + 1) * width + a + 1] + like } else { 0.0 };
            paired[b * width + a] = like >= least && pair >= skip;
            best[b * width + a] = pair.max(skip);
        }
    }
    let mut pairs = Vec::new();
    let (mut b, mut a) = (0, 0);
    while b < before.len() && a < after.len() {
        let at = b * width + a;
        if paired[at] {
            pairs.push((b, a));
            (b, a) = (b + 1, a + 1);
        } else if best[(b + 1) * width + a] >= best[at + 1] {
            b += 1;
        } else {
            a += 1;
        }
    }
    pairs
}

/// The pairs of neighbouring letters in a line, white space left out, sorted.
fn letter_pairs(line: &[u8], looked_at: usize) -> Vec<u16> {
    let letters = |part: &[u8]| part.iter().copied().filter(|byte| !byte.is_ascii_whitespace()).collect::<Vec<_>>();
    let kept = if line.len() <= 2 * looked_at {
        letters(line)
    } else {
        [letters(&line[..looked_at]), letters(&line[line.len() - looked_at..])].concat()
    };
    let mut pairs: Vec<u16> = kept.windows(2).map(|pair| u16::from_be_bytes([pair[0], pair[1]])).collect();
    // A line of one letter has no pair; the letter alone stands for it.
    if let [only] = kept[..] {
        pairs.push(u16::from(only));
    }
    pairs.sort_unstable();
    pairs
}

/// Twice the common pairs over all pairs: 0 for nothing in common, 1 for the same pairs.
fn similarity(one: &[u16], other: &[u16]) -> f32 {
    let all = one.len() + other.len();
    if all == 0 {
        // Two lines of white space alone.
        return 1.0;
    }
    let (mut x, mut y, mut common) = (0, 0, 0_usize);
    while x < one.len() && y < other.len() {
        match one[x].cmp(&other[y]) {
            std::cmp::Ordering::Less => x += 1,
            std::cmp::Ordering::Greater => y += 1,
            std::cmp::Ordering::Equal => (x, y, common) = (x + 1, y + 1, common + 1),
        }
    }
    2.0 * common as f32 / all as f32
}

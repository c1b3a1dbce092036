//! Pairing of the lines inside a change: which line before became which line after.
//!
//! Lines are paired by how alike they are (`likeness`), keeping their order, so that the sum of likeness times letters is the
//! greatest (the dynamic programme of S. B. Needleman and C. D. Wunsch, J. Mol. Biol. 48, 1970). Lines that are the same are pairs of the
//! same programme: a lone bracket that both sides have weighs less than a sentence that was edited.
//!
//! The programme is quadratic, so large changes are first divided at lines that are equal but for white space and digits;
//! what is still too large is paired line by line from its top, and not at all beyond a bound. Very large changes whose first
//! lines have nothing in common are not paired at all.

use std::collections::{HashMap, HashSet};

use rayon::prelude::*;

use super::bounds::{Bounds, PairBounds};
use super::likeness::{Likeness, Profile};
use super::script::script;
use super::work;
use crate::internal::model::{Row, Weight, Words};
use crate::internal::text::lines::{as_slices, intern};

/// Lines less alike than this (0 to 1) do not belong together.
const ALIKE: f32 = 0.4;
/// A single line that took the place of a single line may be less alike…
const ALIKE_ALONE: f32 = 0.3;
/// …and less still if it sets the same name, or is indented alike.
const ALIKE_IN_PLACE: f32 = 0.25;
/// A line that stands in another change as it is, and nowhere else, became another one only if they are more alike: names that were counted
/// anew, as `key$9` to `key$10`, stand elsewhere too.
const ALIKE_THOUGH_ELSEWHERE: f32 = 0.7;
/// A line with fewer letters and digits does not tell that it stands elsewhere.
const FEWEST_LETTERS: usize = 4;
/// Lines seem related if one in so many is the same on both sides but for white space and digits.
const RELATED: usize = 20;
/// Steps that weighing a pair of lines is counted as.
const WEIGHING: usize = 8;

/// Pairs the lines of the two sides of a change. Every line is in exactly one row; rows keep the order of both sides, and
/// between two pairs the gone lines come before the new ones. The words of the pairs are left empty. A pair of the same bytes is equal.
/// `is_in_both` tells whether both texts have a line once each, here or elsewhere: such a line hardly became another one.
pub fn pair_lines(
    before: &[&[u8]],
    after: &[&[u8]],
    is_in_both: impl Fn(&[u8]) -> bool,
    bounds: &PairBounds,
) -> Vec<Row> {
    let pairs = if before > after {
        pairs_between(after, before, &is_in_both, bounds).into_iter().map(|(a, b)| (b, a)).collect()
    } else {
        pairs_between(before, after, &is_in_both, bounds)
    };
    rows(pairs, before, after)
}

fn rows(pairs: Vec<(usize, usize)>, before: &[&[u8]], after: &[&[u8]]) -> Vec<Row> {
    let mut rows = Vec::with_capacity(before.len() + after.len() - pairs.len());
    let (mut b, mut a) = (0, 0);
    for (pair_b, pair_a) in pairs.into_iter().chain([(before.len(), after.len())]) {
        rows.extend((b..pair_b).map(|before| Row::Gone { before, words: Vec::new(), weight: Weight::Counted }));
        rows.extend((a..pair_a).map(|after| Row::New { after, words: Vec::new(), weight: Weight::Counted }));
        if pair_b == before.len() {
            break;
        }
        if before[pair_b] == after[pair_a] {
            rows.push(Row::Equal { before: pair_b, after: pair_a });
        } else {
            rows.push(Row::Edited { before: pair_b, after: pair_a, words: Words::default(), weight: Weight::Counted });
        }
        (b, a) = (pair_b + 1, pair_a + 1);
    }
    rows
}

fn pairs_between(
    before: &[&[u8]],
    after: &[&[u8]],
    is_in_both: &dyn Fn(&[u8]) -> bool,
    bounds: &PairBounds,
) -> Vec<(usize, usize)> {
    if before.is_empty() || after.is_empty() {
        return Vec::new();
    }
    if before.len() * after.len() <= bounds.pairs {
        return weigh(before, after, is_in_both, bounds);
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
            weigh(inner_before, inner_after, is_in_both, bounds)
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
    let profile = |line: &[u8]| Profile::of(line, bounds.looked_at);
    let alike = |(_, (b, a)): &(usize, (&&[u8], &&[u8]))| profile(b).likeness(&profile(a)).degree() >= ALIKE;
    before.iter().zip(after).enumerate().filter(alike).map(|(at, _)| (at, at)).collect()
}

/// The pairs, in order, with the greatest sum of weights.
fn weigh(
    before: &[&[u8]],
    after: &[&[u8]],
    is_in_both: &dyn Fn(&[u8]) -> bool,
    bounds: &PairBounds,
) -> Vec<(usize, usize)> {
    let profile = |line: &&[u8]| Profile::of(line, bounds.looked_at).in_both(is_in_both(line));
    let profiles = |lines: &[&[u8]]| lines.iter().map(profile).collect::<Vec<_>>();
    let (b, a) = (profiles(before), profiles(after));
    programme(&b, &a).into_iter().map(|pair| (pair.before, pair.after)).collect()
}

/// A pair of lines, and how alike they are.
pub(crate) struct Pair {
    pub(crate) before: usize,
    pub(crate) after: usize,
    pub(crate) likeness: Likeness,
}

/// The pairs of some lines, in order, with the greatest sum of weights. The work is the product of the lines of both sides.
pub(crate) fn programme(before: &[Profile], after: &[Profile]) -> Vec<Pair> {
    let is_lone = before.len() == 1 && after.len() == 1;
    let is_in_both = |line: &Profile| line.is_in_both() && line.letters() >= FEWEST_LETTERS;
    let (twins_before, twins_after) = twins(before, after);
    let width = after.len() + 1;
    work::count(before.len() * after.len() * WEIGHING);
    // best[b * width + a]: the greatest sum for the lines from b and from a on.
    let mut best = vec![0_f32; (before.len() + 1) * width];
    let mut paired = vec![None; best.len()];
    for b in (0..before.len()).rev() {
        for a in (0..after.len()).rev() {
            let skip = best[(b + 1) * width + a].max(best[b * width + a + 1]);
            best[b * width + a] = skip;
            let likeness = before[b].likeness(&after[a]);
            // A line that stands elsewhere as it is did not become another; it may be indented anew.
            let is_elsewhere = likeness.degree() < ALIKE_THOUGH_ELSEWHERE
                && (is_in_both(&before[b]) || is_in_both(&after[a]))
                || twins_before[b].is_some_and(|twin| twin != a)
                || twins_after[a].is_some_and(|twin| twin != b);
            if is_elsewhere && matches!(likeness, Likeness::Part(_)) {
                continue;
            }
            let degree = likeness.degree();
            let belongs = if is_lone {
                degree >= ALIKE_ALONE || degree >= ALIKE_IN_PLACE && before[b].is_in_place_of(&after[a])
            } else {
                degree >= ALIKE
            };
            if belongs {
                let pair = best[(b + 1) * width + a + 1] + before[b].weight(&after[a], likeness);
                if pair >= skip {
                    best[b * width + a] = pair;
                    paired[b * width + a] = Some(likeness);
                }
            }
        }
    }
    let mut pairs = Vec::new();
    let (mut b, mut a) = (0, 0);
    while b < before.len() && a < after.len() {
        let at = b * width + a;
        if let Some(likeness) = paired[at] {
            pairs.push(Pair { before: b, after: a, likeness });
            (b, a) = (b + 1, a + 1);
        } else if best[(b + 1) * width + a] >= best[at + 1] {
            b += 1;
        } else {
            a += 1;
        }
    }
    pairs
}

/// For each line, the only line of the other side that is the same, if it is the only one of its own side and says something.
fn twins(before: &[Profile], after: &[Profile]) -> (Vec<Option<usize>>, Vec<Option<usize>>) {
    let mut places: HashMap<u64, [Option<Place>; 2]> = HashMap::new();
    for (side, lines) in [before, after].into_iter().enumerate() {
        for (at, line) in lines.iter().enumerate().filter(|(_, line)| line.letters() >= FEWEST_LETTERS) {
            let place = &mut places.entry(line.whole()).or_default()[side];
            *place = Some(if place.is_none() { Place::Only(at) } else { Place::Several });
        }
    }
    let mut found = (vec![None; before.len()], vec![None; after.len()]);
    for place in places.into_values() {
        if let [Some(Place::Only(b)), Some(Place::Only(a))] = place {
            found.0[b] = Some(a);
            found.1[a] = Some(b);
        }
    }
    found
}

/// Where a line stands on one side.
enum Place {
    Only(usize),
    Several,
}

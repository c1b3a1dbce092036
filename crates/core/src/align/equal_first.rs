//! Under rules: of the ways to match lines that leave equally few of them alone, the one that keeps lines that are equal in full.
//!
//! Lines that differ only in what is masked match each other, and so do their neighbours: `case 1:` is `case 7:` without its number. The
//! shortest script among such lines may pair a line with the wrong one of its likes and so make differences where there are none.
//!
//! Therefore a second script matches only lines that are equal in full, and then fills its gaps with lines that match. Both scripts are cut at
//! the pairs that they share, and of each part the one is taken that leaves fewer lines alone, or else has fewer pairs that differ.

use std::ops::Range;

use super::bounds::Bounds;
use super::script::{Script, script, script_within};
use super::stretch_lines::StretchLines;
use crate::internal::text::lines::{intern, intern_pairs};

/// Lines of both sides that match, by their indices among the lines that are there.
type Pair = (usize, usize);

/// The script between the lines that are there in two stretches.
pub(super) fn script_of_lines(before: &StretchLines<'_>, after: &StretchLines<'_>, bounds: &Bounds) -> Script {
    let matching = intern(&before.keys(), &after.keys());
    let found = script(&matching, bounds);
    let (lines_b, lines_a) = (before.included_lines(), after.included_lines());
    let differs = |&(b, a): &Pair| lines_b[b] != lines_a[a];
    let pairs = pairs_of(&found);
    if !pairs.iter().any(differs) {
        return found;
    }
    let equal = intern_pairs(&matching, &intern(&lines_b, &lines_a));
    let kept = pairs_of(&script(&equal, bounds));
    let parts = parts(&pairs, &kept, (lines_b.len(), lines_a.len()));
    let gaps: Vec<_> = parts.iter().flat_map(|part| part.gaps(&kept)).collect();
    let filled = script_within(&matching, &gaps, bounds);

    let mut best = found;
    for Part { before, after, .. } in parts {
        let price = |script: &Script| {
            let (gone, new) = (&script.gone[before.clone()], &script.new[after.clone()]);
            let alone = gone.iter().chain(new).filter(|&&alone| alone).count();
            let pairs = pairs_between((before.start, gone), (after.start, new));
            (alone, pairs.filter(differs).count())
        };
        if price(&filled) < price(&best) {
            best.gone[before.clone()].copy_from_slice(&filled.gone[before.clone()]);
            best.new[after.clone()].copy_from_slice(&filled.new[after.clone()]);
        }
    }
    best
}

/// A part of both sides between pairs that two scripts share, in which the second has pairs of its own.
struct Part {
    before: Range<usize>,
    after: Range<usize>,
    /// Which pairs of the second script lie in it.
    kept: Range<usize>,
}

impl Part {
    /// What lies between the pairs of the second script.
    fn gaps(&self, kept: &[Pair]) -> Vec<(Range<usize>, Range<usize>)> {
        let (mut b, mut a) = (self.before.start, self.after.start);
        let mut gaps = Vec::new();
        let ends = kept[self.kept.clone()].iter().copied().chain([(self.before.end, self.after.end)]);
        for (next_b, next_a) in ends {
            gaps.push((b..next_b, a..next_a));
            (b, a) = (next_b + 1, next_a + 1);
        }
        gaps
    }
}

/// Cuts two scripts at the pairs that they share, and gives the parts that hold other pairs of the second.
fn parts(found: &[Pair], kept: &[Pair], (before, after): Pair) -> Vec<Part> {
    let mut parts = Vec::new();
    let (mut b, mut a, mut first) = (0, 0, 0);
    let mut found = found.iter().peekable();
    for (at, &(kept_b, kept_a)) in kept.iter().chain([&(before, after)]).enumerate() {
        while found.next_if(|pair| pair.0 < kept_b).is_some() {}
        if at < kept.len() && found.peek() != Some(&&(kept_b, kept_a)) {
            continue;
        }
        if at > first {
            parts.push(Part { before: b..kept_b, after: a..kept_a, kept: first..at });
        }
        (b, a, first) = (kept_b + 1, kept_a + 1, at + 1);
    }
    parts
}

fn pairs_of(script: &Script) -> Vec<Pair> {
    pairs_between((0, &script.gone), (0, &script.new)).collect()
}

/// The pairs in parts of both sides, of which it is told for each item whether it stands alone.
fn pairs_between<'s>(
    (from_b, gone): (usize, &'s [bool]),
    (from_a, new): (usize, &'s [bool]),
) -> impl Iterator<Item = Pair> + 's {
    fn matched(from: usize, alone: &[bool]) -> impl Iterator<Item = usize> + '_ {
        (from..).zip(alone).filter(|(_, alone)| !**alone).map(|(at, _)| at)
    }
    matched(from_b, gone).zip(matched(from_a, new))
}

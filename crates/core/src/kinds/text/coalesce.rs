//! Melting away matches too small to read.
//!
//! Where a passage was rewritten, a smallest script still matches its blank lines and lone brackets, and so cuts one change
//! into small leftovers; a lone line that both sides have can part a line from what became of it. Such leftovers are one change for a reader. The
//! equal lines stay in it, and are shown as equal unless the lines on both sides of them that belong together weigh more.

use std::ops::Range;

use crate::internal::align::likeness::{Likeness, Profile};
use crate::internal::align::pairs::programme;
use crate::internal::align::script::script;
use crate::internal::align::{Bounds, Edit, PairBounds, work};
use crate::internal::model::Span;
use crate::internal::rules::Verdict;
use crate::internal::text::bytes::is_letter_or_digit;
use crate::internal::text::lines::{Lines, intern};

/// At most so many equal lines are coalesced into the change around them.
const MOST_LINES: usize = 2;
/// Edits with fewer lines, both sides together, stay apart.
const SMALLEST: usize = 3;
/// Two edits must have so many lines together.
const TOGETHER: usize = 8;

/// A line of an edit is looked for in so many edits from it on.
const MOST_EDITS: usize = 3;
/// Lines of two edits that are as alike as this belong together.
const ALIKE: f32 = 0.6;
/// Lines with fewer letters and digits do not tell that edits belong together.
const FEWEST_LETTERS: usize = 4;

/// Joins rewritten passages.
pub(super) fn coalesce(edits: Vec<Edit>, texts: (&[u8], &[u8]), bounds: &PairBounds) -> Vec<Edit> {
    let mut is_joined_to_next: Vec<bool> =
        edits.windows(2).map(|two| are_close(&two[0], &two[1]) && is_one_passage(&two[0], &two[1], texts.0)).collect();
    // The edits are weighed as they were found: what is joined grows, and must not be weighed again and again.
    for many in 2..=MOST_EDITS {
        for (at, few) in edits.windows(many).enumerate() {
            let are_apart = is_joined_to_next[at..at + many - 1].iter().any(|joined| !joined);
            if are_apart && few.windows(2).all(|two| are_close(&two[0], &two[1])) && have_a_pair(few, texts, bounds) {
                is_joined_to_next[at..at + many - 1].fill(true);
            }
        }
    }
    let mut joined: Vec<Edit> = Vec::with_capacity(edits.len());
    for (at, next) in edits.into_iter().enumerate() {
        match joined.last_mut() {
            Some(last) if is_joined_to_next[at - 1] => {
                extend(&mut last.before, &next.before);
                extend(&mut last.after, &next.after);
            }
            _ => joined.push(next),
        }
    }
    joined
}

/// The stretches of a change that differ, between the lines that were coalesced into it. Lines are counted from its start. A
/// change of very many lines is one stretch.
pub(super) fn stretches_inside(
    before: &Lines<'_>,
    after: &Lines<'_>,
    bounds: &Bounds,
) -> Vec<(Range<usize>, Range<usize>)> {
    if before.is_empty() || after.is_empty() || !bounds.looks_inside(before.len() + after.len()) {
        return vec![(0..before.len(), 0..after.len())];
    }
    if before.iter().gt(after.iter()) {
        // Of several scripts of one size, the same is taken whichever side is called before.
        return stretches_inside(after, before, bounds).into_iter().map(|(new, gone)| (gone, new)).collect();
    }
    let numbered = intern(&before.iter().collect::<Vec<_>>(), &after.iter().collect::<Vec<_>>());
    script(&numbered, bounds).stretches()
}

/// Joins the stretches of a change again: the few lines between them are weighed against the pairs that they would prevent.
pub(super) fn melted(
    stretches: Vec<(Range<usize>, Range<usize>)>,
    bounds: &PairBounds,
) -> Vec<(Range<usize>, Range<usize>)> {
    let mut melted: Vec<(Range<usize>, Range<usize>)> = Vec::with_capacity(stretches.len());
    for (gone, new) in stretches {
        match melted.last_mut() {
            Some(last)
                if (gone.end - last.0.start) * (new.end - last.1.start) <= bounds.pairs
                    && gone.start - last.0.end <= MOST_LINES =>
            {
                (last.0.end, last.1.end) = (gone.end, new.end);
            }
            _ => melted.push((gone, new)),
        }
    }
    melted
}

/// Whether few lines stand between two edits that count.
fn are_close(last: &Edit, next: &Edit) -> bool {
    last.verdict == Verdict::Counted
        && next.verdict == Verdict::Counted
        && next.before.lines.start - last.before.lines.end <= MOST_LINES
}

/// Whether two edits are leftovers of one passage, between which nothing is said: blank lines and lone brackets.
fn is_one_passage(last: &Edit, next: &Edit, before: &[u8]) -> bool {
    let size = |edit: &Edit| edit.before.lines.len() + edit.after.lines.len();
    let (one, other) = (size(last), size(next));
    let between = &before[last.before.bytes.end..next.before.bytes.start];
    one.min(other) >= SMALLEST
        && one + other >= TOGETHER
        && is_replaced(last, next)
        && !between.iter().any(|byte| is_letter_or_digit(*byte))
}

/// Whether a line that is gone in the first of some edits became one that is new in the last, or the other way round.
fn have_a_pair(edits: &[Edit], (before, after): (&[u8], &[u8]), bounds: &PairBounds) -> bool {
    let [first, .., last] = edits else { return false };
    let whole = |edit: fn(&Edit) -> &Span| {
        let (first, last) = (edit(first), edit(last));
        Span { lines: first.lines.start..last.lines.end, bytes: first.bytes.start..last.bytes.end }
    };
    let (whole_before, whole_after) = (whole(|edit| &edit.before), whole(|edit| &edit.after));
    if whole_before.lines.len() * whole_after.lines.len() > bounds.across {
        return false;
    }
    let (before, after) = (&before[..whole_before.bytes.end], &after[..whole_after.bytes.end]);
    let says_something = edits.windows(2).any(|two| {
        before[two[0].before.bytes.end..two[1].before.bytes.start].iter().any(|byte| is_letter_or_digit(*byte))
    });
    let (before, after) = (&before[whole_before.bytes.start..], &after[whole_after.bytes.start..]);
    let profiles = |text| Lines::of(text).iter().map(|line| Profile::of(line, bounds.looked_at)).collect::<Vec<_>>();
    let (b, a) = (profiles(before), profiles(after));
    let upto = (first.before.lines.len(), first.after.lines.len());
    let from = (b.len() - last.before.lines.len(), a.len() - last.after.lines.len());
    let is_across = |at: usize, other: usize| at < upto.0 && other >= from.1 || at >= from.0 && other < upto.1;
    let is_alike = |at: usize, other: usize, likeness: Likeness| {
        b[at].letters().min(a[other].letters()) >= FEWEST_LETTERS
            // A line that stands on the other side of a sentence as it is has moved.
            && !(likeness == Likeness::Same && says_something)
            && likeness.degree() >= ALIKE
    };
    work::count(b.len() * a.len());
    let mut across = (0..b.len()).flat_map(|at| (0..a.len()).map(move |other| (at, other)));
    if !across.any(|(at, other)| is_across(at, other) && is_alike(at, other, b[at].likeness(&a[other]))) {
        return false;
    }
    let found = |at: usize, other: usize, likeness| is_across(at, other) && is_alike(at, other, likeness);
    if before > after {
        programme(&a, &b).into_iter().any(|pair| found(pair.after, pair.before, pair.likeness))
    } else {
        programme(&b, &a).into_iter().any(|pair| found(pair.before, pair.after, pair.likeness))
    }
}

/// Whether something took the place of something else; two additions with a blank line between them are two additions.
fn is_replaced(last: &Edit, next: &Edit) -> bool {
    let gone = !last.before.is_empty() || !next.before.is_empty();
    let new = !last.after.is_empty() || !next.after.is_empty();
    gone && new
}

fn extend(span: &mut Span, upto: &Span) {
    span.lines.end = upto.lines.end;
    span.bytes.end = upto.bytes.end;
}

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

/// Lines of two edits that are as alike as this belong together.
const ALIKE: f32 = 0.6;
/// Lines with fewer letters and digits do not tell that edits belong together.
const FEWEST_LETTERS: usize = 4;

/// Joins rewritten passages.
pub(super) fn coalesce(edits: Vec<Edit>, (before, after): (&[u8], &[u8]), bounds: &PairBounds) -> Vec<Edit> {
    let mut joined: Vec<Edit> = Vec::with_capacity(edits.len());
    // The last edit as it was found. What is joined grows, and must not be weighed again and again.
    let mut found: Option<Edit> = None;
    for next in edits {
        let is_joined = match (joined.last(), &found) {
            (Some(last), Some(found)) => {
                are_close(last, &next)
                    && (is_one_passage(last, &next, before) || have_a_pair((found, &next), (before, after), bounds))
            }
            _ => false,
        };
        found = Some(next.clone());
        match joined.last_mut() {
            Some(last) if is_joined => {
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

/// Whether a line that is gone in one of two edits became one that is new in the other.
fn have_a_pair((last, next): (&Edit, &Edit), (before, after): (&[u8], &[u8]), bounds: &PairBounds) -> bool {
    let gap = next.before.lines.start - last.before.lines.end;
    let lines = |edit: fn(&Edit) -> &Span| edit(last).lines.len() + gap + edit(next).lines.len();
    if lines(|edit| &edit.before) * lines(|edit| &edit.after) > bounds.across {
        return false;
    }
    let profiles = |text: &[u8], one: &Span, other: &Span| -> Vec<Profile> {
        let lines = Lines::of(&text[one.bytes.start..other.bytes.end]);
        lines.iter().map(|line| Profile::of(line, bounds.looked_at)).collect()
    };
    let (b, a) = (profiles(before, &last.before, &next.before), profiles(after, &last.after, &next.after));
    let (upto_b, upto_a) = (last.before.lines.len(), last.after.lines.len());
    let is_across = |b: usize, a: usize| b < upto_b && a >= upto_a + gap || b >= upto_b + gap && a < upto_a;
    let between = &before[last.before.bytes.end..next.before.bytes.start];
    let says_something = between.iter().any(|byte| is_letter_or_digit(*byte));
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
    if before[last.before.bytes.start..next.before.bytes.end] > after[last.after.bytes.start..next.after.bytes.end] {
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

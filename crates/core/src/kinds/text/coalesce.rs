//! Melting away matches too small to read.
//!
//! Where a passage was rewritten, a smallest script still matches its blank lines and lone brackets, and so cuts one change
//! into small leftovers. Such small leftovers are one change for a reader; the equal lines stay in it and are shown as equal.

use std::ops::Range;

use crate::internal::align::script::script;
use crate::internal::align::{Bounds, Edit};
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

/// Joins rewritten passages.
pub(super) fn coalesce(edits: Vec<Edit>, before: &[u8]) -> Vec<Edit> {
    let mut joined: Vec<Edit> = Vec::with_capacity(edits.len());
    for next in edits {
        match joined.last_mut() {
            Some(last) if is_one_passage(last, &next, before) => {
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

fn is_one_passage(last: &Edit, next: &Edit, before: &[u8]) -> bool {
    let size = |edit: &Edit| edit.before.lines.len() + edit.after.lines.len();
    let (one, other) = (size(last), size(next));
    let gap = next.before.lines.start - last.before.lines.end;
    let text = &before[last.before.bytes.end..next.before.bytes.start];
    let says_something = |byte: &u8| is_letter_or_digit(*byte);
    last.verdict == Verdict::Counted
        && next.verdict == Verdict::Counted
        && gap <= MOST_LINES
        && one.min(other) >= SMALLEST
        && one + other >= TOGETHER
        && is_replaced(last, next)
        && !text.iter().any(says_something)
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

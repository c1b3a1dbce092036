//! Chosen ranges of bytes, carried into one side.

use super::take::TakeInto;
use crate::internal::model::ranges::BytesComparison;

/// One of two contents with the chosen changes carried into it from the other; one choice for each change.
pub fn take_ranges(
    (before, after): (&[u8], &[u8]),
    comparison: &BytesComparison,
    into: TakeInto,
    picked: &[bool],
) -> Vec<u8> {
    let (target, source) = if into == TakeInto::Before { (before, after) } else { (after, before) };
    let mut out = Vec::with_capacity(target.len());
    let mut at = 0;
    for (change, is_picked) in comparison.changes.iter().zip(picked) {
        let (own, other) =
            if into == TakeInto::Before { (&change.before, &change.after) } else { (&change.after, &change.before) };
        out.extend_from_slice(&target[at..own.start]);
        out.extend_from_slice(if *is_picked { &source[other.clone()] } else { &target[own.clone()] });
        at = own.end;
    }
    out.extend_from_slice(&target[at..]);
    out
}

//! Two contents compared byte by byte.

use std::ops::Range;

use super::format::format_of;
use crate::internal::align::bytes::{ByteBounds, align_bytes};
use crate::internal::model::Form;
use crate::internal::model::ranges::{BytesComparison, RangeChange};

/// Compares two contents byte by byte. `holes` are ranges without data at the same offsets of both sides.
pub(in crate::internal::kinds) fn compare_bytes(
    before: &[u8],
    after: &[u8],
    holes: &[Range<usize>],
    bounds: &ByteBounds,
) -> BytesComparison {
    let (pairs, joined_within) = align_bytes(before, after, holes, bounds);
    let change = |(at, (b, a)): (usize, (Range<usize>, Range<usize>))| {
        let form = match (b.is_empty(), a.is_empty()) {
            (true, _) => Form::New,
            (_, true) => Form::Gone,
            _ => Form::Edited,
        };
        RangeChange { number: at + 1, form, before: b, after: a }
    };
    BytesComparison {
        changes: pairs.into_iter().enumerate().map(change).collect(),
        sizes: (before.len(), after.len()),
        joined_within,
        formats: (format_of(before), format_of(after)),
    }
}

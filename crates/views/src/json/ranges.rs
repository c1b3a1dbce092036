//! Bytes as records.

use std::io;
use std::ops::Range;

use base64::prelude::{BASE64_STANDARD, Engine};
use tideline_core::internal::model::Weight;

use super::items::{Take, give_cut};
use super::range_records::{RangeRecord, RangeSide};
use super::records::Record;
use super::value::text;
use crate::items::BytesView;

/// The largest range whose bytes are written.
const LARGEST: usize = 1 << 20;

/// Gives a record for each range that differs; up to so many.
pub(super) fn give_ranges(path: &[u8], view: &BytesView<'_>, most: usize, take: &mut Take<'_>) -> io::Result<()> {
    for change in view.comparison.changes.iter().take(most) {
        take(Record::Range(RangeRecord {
            path: text(path),
            number: change.number,
            form: change.form,
            weight: Weight::Counted,
            before: side(view.before, &change.before),
            after: side(view.after, &change.after),
        }))?;
    }
    give_cut(path, view.comparison.changes.len(), most, take)
}

fn side(bytes: &[u8], range: &Range<usize>) -> RangeSide {
    let base64 = (range.len() <= LARGEST).then(|| BASE64_STANDARD.encode(&bytes[range.clone()]));
    RangeSide { offset: range.start, length: range.len(), base64 }
}

//! What an alignment of bytes consists of.

use std::ops::Range;

/// A range before and a range after that differ.
pub(crate) type BytePair = (Range<usize>, Range<usize>);

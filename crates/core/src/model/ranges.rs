//! What differs between two contents that are compared byte by byte.

use std::ops::Range;

use serde::{Deserialize, Serialize};

use super::{Extent, Form, Unit};

/// A range of bytes that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RangeChange {
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    pub form: Form,
    /// Its bytes before; where there are none, the place between bytes.
    pub before: Range<usize>,
    /// Its bytes after.
    pub after: Range<usize>,
}

/// What differs between two contents, byte by byte.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BytesComparison {
    /// The changes by number.
    pub changes: Vec<RangeChange>,
    /// How many bytes there are before and after.
    pub sizes: (usize, usize),
    /// Ranges with fewer equal bytes between them than these are told as one.
    pub joined_within: usize,
    /// The format of each side, by the bytes that it begins with, where they tell it.
    pub formats: (Option<String>, Option<String>),
}

impl BytesComparison {
    /// How much differs, in bytes.
    pub fn extent(&self) -> Extent {
        let sum = |of: fn(&RangeChange) -> usize| self.changes.iter().map(of).sum();
        Extent {
            counted: self.changes.len(),
            muted: 0,
            size: sum(|change| change.before.len().max(change.after.len())),
            unit: Unit::Bytes,
            gone: sum(|change| change.before.len()),
            new: sum(|change| change.after.len()),
        }
    }
}

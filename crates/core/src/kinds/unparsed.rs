//! Why contents were not compared as the kind that they should be.

use crate::internal::model::Kind;

/// Why contents were not compared as the kind that they should be.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unparsed {
    /// What they should be.
    pub kind: Kind,
    /// Whether it is the side before that cannot be read.
    pub is_before: bool,
    /// The line and the column of the failure, from 1, in letters; of what has no lines, nothing.
    pub place: Option<(usize, usize)>,
    /// What is wrong there.
    pub reason: String,
    /// Whether they were not compared at all: the kind was told for all files alike, or nothing else would tell a reader anything.
    pub is_fatal: bool,
}

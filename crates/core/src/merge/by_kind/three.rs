//! What comes of a merge by kind.

use crate::internal::model::Kind;

/// How many changes came in by what three versions mean.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ByKind {
    /// How they were merged: as tables, or as data.
    pub kind: Kind,
    /// Changes of theirs that came in.
    pub taken: usize,
    /// How many conflicts are left to the lines.
    pub conflicts: usize,
}

/// Three texts.
pub(in crate::internal::merge) struct Versions {
    pub(in crate::internal::merge) base: Vec<u8>,
    pub(in crate::internal::merge) mine: Vec<u8>,
    pub(in crate::internal::merge) theirs: Vec<u8>,
    pub(in crate::internal::merge) by: ByKind,
}

//! A part of a text on its way through the alignment.

use std::ops::Range;

use crate::rules::Seen;

/// A stretch of whole lines of a text as the rules let it be seen.
#[derive(Clone, Debug)]
pub(super) struct Stretch<'s, 't> {
    pub(super) seen: &'s Seen<'t>,
    pub(super) bytes: Range<usize>,
    /// The index of its first line.
    pub(super) line: usize,
}

impl<'t> Stretch<'_, 't> {
    pub(super) fn text(&self) -> &'t [u8] {
        &self.seen.text()[self.bytes.clone()]
    }
}

//! A part of a text on its way through the alignment.

use std::ops::Range;

use crate::internal::model::Span;
use crate::internal::rules::MaskedText;

/// A stretch of whole lines of a text under the rules.
#[derive(Clone, Debug)]
pub(super) struct Stretch<'s, 't> {
    pub(super) masked: &'s MaskedText<'t>,
    pub(super) bytes: Range<usize>,
    /// The index of its first line.
    pub(super) line: usize,
}

impl<'s, 't> Stretch<'s, 't> {
    /// Some lines of a text.
    pub(super) fn of(masked: &'s MaskedText<'t>, span: &Span) -> Self {
        Self { masked, bytes: span.bytes.clone(), line: span.lines.start }
    }

    pub(super) fn text(&self) -> &'s [u8] {
        &self.masked.text()[self.bytes.clone()]
    }
}

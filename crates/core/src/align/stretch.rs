//! A part of a text on its way through the alignment.

use std::ops::Range;

use crate::internal::model::Span;
use crate::internal::rules::MaskedText;
use crate::internal::text::bytes::EqualLines;

/// A stretch of whole lines of a text under the rules.
#[derive(Clone, Debug)]
pub(super) struct Stretch<'s, 't> {
    pub(super) masked: &'s MaskedText<'t>,
    pub(super) bytes: Range<usize>,
    /// The index of its first line.
    pub(super) line: usize,
}

impl<'s, 't> Stretch<'s, 't> {
    /// All of a text.
    pub(super) fn whole(masked: &'s MaskedText<'t>) -> Self {
        Self { masked, bytes: 0..masked.text().len(), line: masked.first_line() }
    }

    /// What of it lies above a byte of the text.
    pub(super) fn upto(&self, end: usize) -> Self {
        Self { bytes: self.bytes.start..end, ..self.clone() }
    }

    /// What of it lies below some lines of the text.
    pub(super) fn below(&self, span: &Span) -> Self {
        Self { bytes: span.bytes.end..self.bytes.end, line: span.lines.end, ..self.clone() }
    }

    /// What is left of it without some lines at its head and some bytes at its tail.
    pub(super) fn without(&self, head: EqualLines, tail: usize) -> Self {
        let bytes = self.bytes.start + head.bytes..self.bytes.end - tail;
        Self { bytes, line: self.line + head.lines, ..self.clone() }
    }

    /// Some lines of a text.
    pub(super) fn of(masked: &'s MaskedText<'t>, span: &Span) -> Self {
        Self { masked, bytes: span.bytes.clone(), line: span.lines.start }
    }

    pub(super) fn text(&self) -> &'s [u8] {
        &self.masked.text()[self.bytes.clone()]
    }
}

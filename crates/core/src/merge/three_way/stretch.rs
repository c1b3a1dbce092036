//! The lines of one text in a region, as they are compared: by what the rules leave of them.

use std::borrow::Cow;
use std::ops::Range;

use super::region::Three;
use crate::internal::model::Span;
use crate::internal::rules::MaskedText;
use crate::internal::text::lines::Lines;

/// Some lines of one text.
pub(super) struct Stretch<'t> {
    span: Span,
    lines: Lines<'t>,
    /// What is compared of each line; nothing for a line that is excluded.
    keys: Vec<Option<Cow<'t, [u8]>>>,
}

impl<'t> Stretch<'t> {
    pub(super) fn of(masked: &'t MaskedText<'_>, span: &Span) -> Self {
        let lines = Lines::of(&masked.text()[span.bytes.clone()]);
        let range = |at: usize| span.bytes.start + lines.start(at)..span.bytes.start + lines.start(at + 1);
        let keys = (0..lines.len()).map(|at| masked.key(range(at))).collect();
        Self { span: span.clone(), lines, keys }
    }

    pub(super) fn len(&self) -> usize {
        self.lines.len()
    }

    pub(super) fn line(&self, at: usize) -> &'t [u8] {
        self.lines.get(at)
    }

    /// Some of its lines, as they are written.
    pub(super) fn text(&self, lines: Range<usize>) -> &'t [u8] {
        self.lines.text(lines)
    }

    /// Some of its lines, each by itself.
    pub(super) fn lines(&self, lines: Range<usize>) -> Vec<&'t [u8]> {
        lines.map(|at| self.lines.get(at)).collect()
    }

    /// What is compared of each line; of a line that is excluded, nothing.
    pub(super) fn keys(&self) -> Vec<&[u8]> {
        self.keys.iter().map(|key| key.as_deref().unwrap_or_default()).collect()
    }

    /// What is compared of all lines that are not excluded.
    pub(super) fn counted(&self, lines: Range<usize>) -> Vec<&[u8]> {
        self.keys[lines].iter().filter_map(Option::as_deref).collect()
    }

    /// Some of its lines, as they stand in the whole text.
    pub(super) fn span(&self, lines: Range<usize>) -> Span {
        let start = self.span.bytes.start;
        Span {
            bytes: start + self.lines.start(lines.start)..start + self.lines.start(lines.end),
            lines: self.span.lines.start + lines.start..self.span.lines.start + lines.end,
        }
    }
}

/// The lines of all three texts in a region.
pub(super) struct Stretches<'t> {
    pub(super) of: Three<Stretch<'t>>,
    /// Whether rules hold for the texts.
    pub(super) is_masked: bool,
}

impl<'t> Stretches<'t> {
    pub(super) fn of(texts: Three<&'t MaskedText<'_>>, spans: &Three<Span>) -> Self {
        Self {
            of: Three::new(
                Stretch::of(texts.base, &spans.base),
                Stretch::of(texts.mine, &spans.mine),
                Stretch::of(texts.theirs, &spans.theirs),
            ),
            is_masked: !texts.base.file_rules().is_clear(),
        }
    }

    /// All lines of each.
    pub(super) fn whole(&self) -> Piece {
        self.of.as_ref().map(|side| 0..side.len())
    }

    /// A piece as it stands in the texts.
    pub(super) fn spans(&self, piece: &Piece) -> Three<Span> {
        Three::new(
            self.of.base.span(piece.base.clone()),
            self.of.mine.span(piece.mine.clone()),
            self.of.theirs.span(piece.theirs.clone()),
        )
    }

    /// The text of a piece.
    pub(super) fn texts(&self, piece: &Piece) -> Three<&'t [u8]> {
        Three::new(
            self.of.base.text(piece.base.clone()),
            self.of.mine.text(piece.mine.clone()),
            self.of.theirs.text(piece.theirs.clone()),
        )
    }

    /// What is compared of the lines of a piece.
    pub(super) fn counted(&self, piece: &Piece) -> Three<Vec<&[u8]>> {
        Three::new(
            self.of.base.counted(piece.base.clone()),
            self.of.mine.counted(piece.mine.clone()),
            self.of.theirs.counted(piece.theirs.clone()),
        )
    }
}

/// Lines of each text, counted from the start of the region.
pub(super) type Piece = Three<Range<usize>>;

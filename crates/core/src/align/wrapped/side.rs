//! One side of a passage: its lines read as one, and where each byte of that stands.

use std::ops::Range;

use crate::internal::align::parts::{MaskedLine, Projected};
use crate::internal::model::{Span, Weight};
use crate::internal::rules::MaskedText;
use crate::internal::rules::passage::{LineBreak, Passage};

/// One side of a passage.
pub(super) struct Side<'s, 't> {
    pub(super) masked: &'s MaskedText<'t>,
    pub(super) span: Span,
    pub(super) line: MaskedLine,
    pub(super) breaks: Vec<LineBreak>,
    pub(super) starts: Vec<usize>,
    pub(super) projected: Projected,
    /// The bytes of the projection that stand for breaks and blank lines, and which.
    pub(super) marks: Vec<(usize, usize)>,
    /// The end of the text, if the passage goes up to it.
    pub(super) length: usize,
}

impl<'s, 't> Side<'s, 't> {
    pub(super) fn of(masked: &'s MaskedText<'t>, span: &Span) -> Option<Self> {
        let passage = Passage::read(masked, span.bytes.clone())?;
        let line = MaskedLine { bytes: passage.bytes, mask: passage.mask };
        let projected = Projected::of(masked, &line);
        let mut marks = Vec::with_capacity(passage.breaks.len());
        let mut next = 0;
        for (at, from) in projected.from.iter().enumerate() {
            if passage.breaks.get(next).is_some_and(|found| found.bytes == *from) {
                marks.push((at, next));
                next += 1;
            }
        }
        let length = span.bytes.len();
        Some(Self {
            masked,
            span: span.clone(),
            line,
            breaks: passage.breaks,
            starts: passage.starts,
            projected,
            marks,
            length,
        })
    }

    /// Marks what a stretch of the projection stands for as different.
    pub(super) fn mark(&mut self, range: &Range<usize>) {
        // Where words differ, the breaks between them need no mark.
        let is_break = |at: &usize| self.break_at(*at).is_some_and(|found| !found.is_blank);
        let has_words = range.clone().any(|at| !is_break(&at));
        let marked: Vec<usize> = range.clone().filter(|at| !has_words || !is_break(at)).collect();
        for at in marked {
            let from = self.projected.from[at].clone();
            self.projected.differs[from].fill(Some(Weight::Counted));
        }
    }

    /// Takes the muted marks from breaks: lines say where they are.
    pub(super) fn forget_breaks(&mut self) {
        let rule = self.masked.file_rules().line_breaks();
        for span in self.line.mask.spans.iter().filter(|span| Some(span.rule) == rule) {
            let muted = self.projected.differs[span.range.clone()].iter_mut();
            muted.filter(|differs| **differs == Some(Weight::Muted)).for_each(|differs| *differs = None);
        }
    }

    /// The break or blank line that a byte of the projection stands for.
    pub(super) fn break_at(&self, at: usize) -> Option<&LineBreak> {
        let found = self.marks.binary_search_by_key(&at, |(at, _)| *at).ok()?;
        Some(&self.breaks[self.marks[found].1])
    }

    pub(super) fn text(&self, range: &Range<usize>) -> &[u8] {
        &self.masked.text()[self.span.bytes.start + range.start..self.span.bytes.start + range.end]
    }

    /// The byte of the passage where a line starts, if one does behind so many bytes of the projection.
    pub(super) fn line_start(&self, at: usize) -> Option<usize> {
        if at == self.projected.counted.len() {
            return Some(self.length);
        }
        let Some(above) = at.checked_sub(1) else { return Some(0) };
        self.break_at(above).map(|found| found.bytes.end)
    }

    /// The index of the line, from the start of the passage, that a byte is in.
    pub(super) fn line_of(&self, byte: usize) -> usize {
        (self.starts.partition_point(|start| *start <= byte) - 1).min(self.starts.len().saturating_sub(2))
    }

    pub(super) fn span(&self, bytes: &Range<usize>) -> Span {
        let line = |byte: usize| self.span.lines.start + self.starts.partition_point(|start| *start < byte);
        let base = self.span.bytes.start;
        Span { lines: line(bytes.start)..line(bytes.end), bytes: base + bytes.start..base + bytes.end }
    }

    /// The bytes of the passage that a stretch of the projection stands for.
    pub(super) fn bytes(&self, range: &Range<usize>) -> Range<usize> {
        let from = &self.projected.from;
        if !range.is_empty() {
            return from[range.start].start..from[range.end - 1].end;
        }
        // Where something is missing in a line, it is behind what stands there; at the start of one, before it.
        let above = range.start.checked_sub(1).filter(|above| self.break_at(*above).is_none());
        let at = match (above, from.get(range.start)) {
            (Some(above), _) => from[above].end,
            (None, Some(below)) => below.start,
            (None, None) => from.last().map_or(0, |last| last.end),
        };
        at..at
    }
}

/// Where the breaks are in so many bytes of a projection, from their start.
pub(super) fn marks_in<'r>(side: &'r Side<'_, '_>, start: usize, length: usize) -> impl Iterator<Item = usize> + 'r {
    let first = side.marks.partition_point(|(at, _)| *at < start);
    side.marks[first..].iter().map(move |(at, _)| at - start).take_while(move |at| *at < length)
}

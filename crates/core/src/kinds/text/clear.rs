//! The inside of a change where every byte counts.

use super::broken::{self, tell_broken};
use super::coalesce::{melted, stretches_inside};
use crate::internal::align::parts::MaskedLine;
use crate::internal::align::{Bounds, pairs::pair_lines, words::align_words};
use crate::internal::model::{Row, Span};
use crate::internal::rules::{LineMask, MaskedText};
use crate::internal::text::lines::Lines;
use crate::internal::text::words::Grain;

/// The rows where every byte counts.
pub(super) fn clear_rows(b_side: &Clear<'_, '_>, a_side: &Clear<'_, '_>, grain: &Grain, bounds: &Bounds) -> Vec<Row> {
    let is_in_both = |line: &[u8]| b_side.masked.once_in_both(a_side.masked, line);
    let (before, after) = (b_side.lines, a_side.lines);
    let mut rows = Vec::new();
    let (mut b, mut a) = (0, 0);
    let ends = [(before.len()..before.len(), after.len()..after.len())];
    let parts = melted(stretches_inside(before, after, bounds), bounds.pairs());
    for (gone, new) in parts.into_iter().chain(ends) {
        rows.extend((b..gone.start).zip(a..new.start).map(|(before, after)| Row::Equal { before, after }));
        let gone_lines: Vec<&[u8]> = gone.clone().map(|at| before.get(at)).collect();
        let new_lines: Vec<&[u8]> = new.clone().map(|at| after.get(at)).collect();
        let paired = pair_lines(&gone_lines, &new_lines, is_in_both, bounds.pairs());
        if rows.is_empty() && (gone.start, new.start) == (0, 0) {
            // Mostly this is all, and it may be millions of lines.
            rows = paired;
        } else {
            rows.extend(paired.into_iter().map(|row| placed(row, gone.start, new.start)));
        }
        (b, a) = (gone.end, new.end);
    }
    let mut rows = tell_broken(rows, (b_side, a_side), grain, bounds.pairs());
    for row in &mut rows {
        if let Row::Edited { before: b, after: a, words, .. } = row
            && !matches!(grain, Grain::Line)
            && words.before.is_empty()
        {
            *words = align_words(before.get(*b), after.get(*a), grain);
        }
    }
    rows
}

/// One side of a change where every byte counts.
pub(super) struct Clear<'s, 't> {
    masked: &'s MaskedText<'t>,
    lines: &'s Lines<'s>,
    /// Where the first line starts in the text.
    start: usize,
}

impl<'s, 't> Clear<'s, 't> {
    pub(super) fn of((masked, span): (&'s MaskedText<'t>, &Span), lines: &'s Lines<'s>) -> Self {
        Self { masked, lines, start: span.bytes.start }
    }
}

impl broken::Side for Clear<'_, '_> {
    fn masked(&self) -> &MaskedText<'_> {
        self.masked
    }

    fn counted(&self, line: usize) -> &[u8] {
        self.lines.get(line)
    }

    fn line(&self, line: usize) -> MaskedLine {
        let bytes = self.start + self.lines.start(line)..self.start + self.lines.start(line + 1);
        MaskedLine { bytes, mask: LineMask::default() }
    }
}

/// A row of a stretch as a row of the change that the stretch is in.
pub(super) fn placed(row: Row, gone: usize, new: usize) -> Row {
    match row {
        Row::Gone { before, words, weight } => Row::Gone { before: before + gone, words, weight },
        Row::New { after, words, weight } => Row::New { after: after + new, words, weight },
        Row::Equal { before, after } => Row::Equal { before: before + gone, after: after + new },
        Row::Hidden { before, after } => {
            Row::Hidden { before: before.map(|line| line + gone), after: after.map(|line| line + new) }
        }
        Row::Edited { before, after, words, weight } => {
            Row::Edited { before: before + gone, after: after + new, words, weight }
        }
    }
}

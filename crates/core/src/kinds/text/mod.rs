//! Texts: line by line, and word by word inside the lines that belong together.

mod changes;
mod melt;
pub mod sections;

use std::ops::Range;

use crate::align::{Bounds, align, moves::find_moves, pairs::pair_lines, words::align_words};
use crate::model::{Row, Span, TextComparison, Words};
use crate::text::lines::Lines;
pub use crate::text::words::Grain;

/// How texts are compared.
#[derive(Clone, Debug, Default)]
pub struct TextOptions {
    bounds: Bounds,
}

impl TextOptions {
    /// What bounds the work of the alignment.
    pub fn bounds(mut self, bounds: Bounds) -> Self {
        self.bounds = bounds;
        self
    }
}

/// Compares two texts.
pub fn compare(before: &[u8], after: &[u8], options: &TextOptions) -> TextComparison {
    let edits = melt::melt(align(before, after, &options.bounds), before);
    let moves = find_moves(&edits, before, after);
    changes::number(&edits, &moves, before, after)
}

/// The inside of a change: its lines, which of them belong together, and the words that differ in those.
#[derive(Clone, Debug)]
pub struct Detail<'t> {
    /// The lines before.
    pub before: Lines<'t>,
    /// The lines after.
    pub after: Lines<'t>,
    /// The rows in reading order; every line is in exactly one.
    pub rows: Vec<Row>,
}

/// Looks inside a change. The spans are those of a [`Place`](crate::model::Place) or a [`Change`](crate::model::Change) between the same two texts.
pub fn detail<'t>(before: (&'t [u8], &Span), after: (&'t [u8], &Span), grain: &Grain) -> Detail<'t> {
    let lines = |(text, span): (&'t [u8], &Span)| Lines::of(&text[span.bytes.clone()]);
    let (before, after) = (lines(before), lines(after));
    let mut rows = Vec::with_capacity(before.len().max(after.len()));
    let (mut b, mut a) = (0, 0);
    let ends = [(before.len()..before.len(), after.len()..after.len())];
    for (gone, new) in melt::stretches_inside(&before, &after).into_iter().chain(ends) {
        rows.extend((b..gone.start).zip(a..new.start).map(|(before, after)| Row::Equal { before, after }));
        let slices =
            |lines: &Lines<'t>, range: &Range<usize>| range.clone().map(|at| lines.get(at)).collect::<Vec<_>>();
        let pairs = pair_lines(&slices(&before, &gone), &slices(&after, &new));
        rows.extend(pairs.into_iter().map(|row| placed(row, gone.start, new.start)));
        (b, a) = (gone.end, new.end);
    }
    for row in &mut rows {
        if let Row::Edited { before: b, after: a, words } = row {
            *words = if matches!(grain, Grain::Line) {
                Words::default()
            } else {
                align_words(before.get(*b), after.get(*a), grain)
            };
        }
    }
    Detail { before, after, rows }
}

/// A row of a stretch as a row of the change that the stretch is in.
fn placed(row: Row, gone: usize, new: usize) -> Row {
    match row {
        Row::Gone { before } => Row::Gone { before: before + gone },
        Row::New { after } => Row::New { after: after + new },
        Row::Equal { before, after } => Row::Equal { before: before + gone, after: after + new },
        Row::Edited { before, after, words } => Row::Edited { before: before + gone, after: after + new, words },
    }
}

//! Texts: line by line, and word by word inside the lines that belong together.

mod changes;
pub mod sections;

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
    let edits = align(before, after, &options.bounds);
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
    let mut rows = pair_lines(&before.iter().collect::<Vec<_>>(), &after.iter().collect::<Vec<_>>());
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

//! Texts: line by line, and word by word inside the lines that belong together.

use crate::align::{Bounds, Edit, align, pairs::pair_lines, words::align_words};
use crate::model::{Change, Form, Place, Row, Span, TextComparison, Weight, Words};
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
    let mut comparison = TextComparison::default();
    for edit in edits {
        let change = comparison.changes.len();
        comparison.places.push(Place { change, before: edit.before.clone(), after: edit.after.clone() });
        comparison.changes.push(change_of(edit, change + 1));
    }
    comparison
}

fn change_of(edit: Edit, number: usize) -> Change {
    let form = match (edit.before.is_empty(), edit.after.is_empty()) {
        (_, true) => Form::Gone,
        (true, false) => Form::New,
        (false, false) => Form::Edited,
    };
    Change { number, form, weight: Weight::Counted, before: edit.before, after: edit.after }
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

/// Looks inside a change. The spans are those of a [`Place`] or a [`Change`] between the same two texts.
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

//! Rows of bytes: both sides of the ranges that differ and of what stands around them, in rows that begin at whole multiples of their width.

use std::ops::Range;

use tideline_core::internal::model::Form;
use tideline_core::internal::model::ranges::RangeChange;

use crate::items::BytesView;

/// Rows of one change that are shown.
const MOST_ROWS: usize = 16;

/// A column of a row: a byte of either side, or of both.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct HexCell {
    pub(crate) before: Option<u8>,
    pub(crate) after: Option<u8>,
    pub(crate) differs: bool,
}

/// What a hunk shows.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum HexRow {
    /// Bytes, and the offsets of the first of each side.
    Bytes { before: usize, after: usize, cells: Vec<HexCell> },
    /// So many rows are left out of a long change.
    Cut(usize),
}

/// Changes that stand so near that they are shown together, by their indexes.
pub(crate) fn hunks(view: &BytesView<'_>, context: usize, width: usize) -> Vec<Range<usize>> {
    let changes = &view.comparison.changes;
    let mut hunks: Vec<Range<usize>> = Vec::new();
    for at in 0..changes.len() {
        let is_near = at > 0 && {
            let (last, next) = (&changes[at - 1].before, &changes[at].before);
            let reach = context.saturating_mul(2).saturating_add(1).saturating_mul(width);
            next.start - last.end < reach
        };
        match hunks.last_mut() {
            Some(hunk) if is_near => hunk.end = at + 1,
            _ => hunks.push(at..at + 1),
        }
    }
    hunks
}

/// The rows of a hunk, with so many equal ones above and below; all of a change, or the beginning of it.
pub(crate) fn rows(
    view: &BytesView<'_>,
    hunk: Range<usize>,
    (context, width): (usize, usize),
    is_whole: bool,
) -> Vec<HexRow> {
    let changes = &view.comparison.changes;
    let (first, last) = (&changes[hunk.start], &changes[hunk.end - 1]);
    let before_it = if hunk.start == 0 { 0 } else { changes[hunk.start - 1].before.end };
    let after_it = changes.get(hunk.end).map_or(view.before.len(), |next| next.before.start);
    // The equal bytes above begin with a whole row, those below end with one.
    let start = first.before.start / width * width;
    let start = start.saturating_sub(context.saturating_mul(width)).max(before_it);
    let end = last.before.end.div_ceil(width).saturating_add(context).saturating_mul(width).min(after_it);
    let mut rows = RowMaker { view, width, rows: Vec::new(), cells: Vec::new(), at: (0, 0), first: (0, 0) };
    rows.at = (start, first.after.start - (first.before.start - start));
    rows.first = rows.at;
    for change in &changes[hunk] {
        rows.equal(change.before.start);
        rows.change(change, if is_whole { usize::MAX } else { MOST_ROWS * width });
    }
    rows.equal(end.max(rows.at.0));
    rows.flush();
    rows.rows
}

struct RowMaker<'v> {
    view: &'v BytesView<'v>,
    width: usize,
    rows: Vec<HexRow>,
    cells: Vec<HexCell>,
    /// The next byte of each side.
    at: (usize, usize),
    /// The first byte of each side in the row.
    first: (usize, usize),
}

impl RowMaker<'_> {
    fn equal(&mut self, upto: usize) {
        while self.at.0 < upto {
            self.push(true, true, false);
        }
    }

    fn change(&mut self, change: &RangeChange, most: usize) {
        let (before, after) = (change.before.len(), change.after.len());
        let columns = before.max(after);
        let is_paired = before == after;
        for column in 0..columns.min(most) {
            let differs = match (is_paired, change.form) {
                (true, Form::Edited) => self.view.before[self.at.0] != self.view.after[self.at.1],
                _ => true,
            };
            self.push(column < before, column < after, differs);
        }
        if columns > most {
            self.flush();
            self.rows.push(HexRow::Cut((columns - most).div_ceil(self.width)));
            self.at = (change.before.end, change.after.end);
            self.first = self.at;
        }
    }

    fn push(&mut self, has_before: bool, has_after: bool, differs: bool) {
        let before = has_before.then(|| self.view.before[self.at.0]);
        let after = has_after.then(|| self.view.after[self.at.1]);
        self.cells.push(HexCell { before, after, differs });
        self.at = (self.at.0 + usize::from(has_before), self.at.1 + usize::from(has_after));
        let is_aligned = has_before && self.at.0.is_multiple_of(self.width);
        if self.cells.len() == self.width || is_aligned {
            self.flush();
        }
    }

    fn flush(&mut self) {
        if !self.cells.is_empty() {
            let cells = std::mem::take(&mut self.cells);
            self.rows.push(HexRow::Bytes { before: self.first.0, after: self.first.1, cells });
        }
        self.first = self.at;
    }
}

/// A byte as a letter, where it is one of ASCII.
pub(crate) fn letter(byte: u8, plain: bool) -> char {
    match byte {
        b' '..=b'~' => char::from(byte),
        _ if plain => '.',
        _ => '·',
    }
}

/// How many digits the offsets of contents take.
pub(crate) fn offset_digits(view: &BytesView<'_>) -> usize {
    let largest = view.before.len().max(view.after.len());
    format!("{largest:x}").len().max(4)
}

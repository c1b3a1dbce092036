//! Which rows a file has on a screen: the lines between two places of changes, of which some are folded, and the places themselves.

use std::collections::HashMap;
use std::ops::Range;

use memchr::memchr_iter;
use tideline_core::internal::model::{HiddenStretch, Span};

use crate::view::{Context, FileView};

/// Lines of both sides between two places.
struct Gap {
    /// The lines from its start on, before and after.
    start: (usize, usize),
    rows: usize,
    /// Those stretches in it that differ and are not shown as different.
    stretches: Range<usize>,
}

/// The rows of a file that are not inside changes, and which of them are shown.
pub(super) struct Outline<'a> {
    view: &'a FileView<'a>,
    /// Where lines begin, before and after.
    starts: (Vec<usize>, Vec<usize>),
    gaps: Vec<Gap>,
    /// For each stretch that is not shown as different, the row of its gap that it begins at.
    stretch_rows: Vec<usize>,
    context: Context,
    /// Rows that are shown beyond the context, at the head and at the tail of a gap.
    widened: HashMap<usize, (usize, usize)>,
}

/// A row between two places.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum GapItem {
    /// Lines that stand for so many rows are folded, of which so many differ and are not shown as different.
    Fold { rows: usize, put_aside: usize },
    /// A line of both sides or of one, by its index.
    Lines(Option<usize>, Option<usize>),
}

fn line_starts(text: &[u8]) -> Vec<usize> {
    let inner = memchr_iter(b'\n', text).map(|end| end + 1).filter(|start| *start < text.len());
    std::iter::once(0).filter(|_| !text.is_empty()).chain(inner).collect()
}

impl<'a> Outline<'a> {
    pub(super) fn new(view: &'a FileView<'a>, context: Context) -> Self {
        let starts = (line_starts(view.before.text()), line_starts(view.after.text()));
        let (places, hidden) = (&view.comparison.places, &view.comparison.hidden);
        let mut outline = Self {
            view,
            gaps: Vec::with_capacity(places.len() + 1),
            stretch_rows: Vec::with_capacity(hidden.len()),
            starts,
            context,
            widened: HashMap::new(),
        };
        let mut start = (0, 0);
        let mut first = 0;
        for at in 0..=places.len() {
            let end = match places.get(at) {
                Some(place) => (place.before.lines.start, place.after.lines.start),
                None => (outline.starts.0.len(), outline.starts.1.len()),
            };
            let upto =
                hidden.partition_point(|stretch| stretch.before.lines.end <= end.0 && stretch.after.lines.end <= end.1);
            let (mut row, mut line) = (0, start.0);
            for stretch in &hidden[first..upto.max(first)] {
                row += stretch.before.lines.start - line;
                line = stretch.before.lines.end;
                outline.stretch_rows.push(row);
                row += rows_of(stretch);
            }
            let rows = row + (end.0 - line);
            outline.gaps.push(Gap { start, rows, stretches: first..upto.max(first) });
            first = upto.max(first);
            start = places.get(at).map_or(end, |place| (place.before.lines.end, place.after.lines.end));
        }
        outline
    }

    /// How many gaps there are: one more than places.
    pub(super) fn gaps(&self) -> usize {
        self.gaps.len()
    }

    pub(super) fn set_context(&mut self, context: Context) {
        self.context = context;
        self.widened.clear();
    }

    pub(super) fn context(&self) -> Context {
        self.context
    }

    /// Shows so many rows more at both ends of what is folded in a gap.
    pub(super) fn widen(&mut self, gap: usize, (head, tail): (usize, usize)) {
        let (shown_head, shown_tail) = self.widened.entry(gap).or_default();
        *shown_head = shown_head.saturating_add(head);
        *shown_tail = shown_tail.saturating_add(tail);
    }

    /// How many rows of a gap are shown at its head, folded, and shown at its tail.
    fn parts(&self, gap: usize) -> (usize, usize, usize) {
        let rows = self.gaps[gap].rows;
        let Context::Lines(lines) = self.context else { return (rows, 0, 0) };
        let (more_head, more_tail) = self.widened.get(&gap).copied().unwrap_or_default();
        let is_last = gap + 1 == self.gaps.len();
        let head = if gap == 0 { more_head } else { lines.saturating_add(more_head) }.min(rows);
        let tail = if is_last { more_tail } else { lines.saturating_add(more_tail) }.min(rows - head);
        match rows - head - tail {
            // One line takes no more room than a fold.
            1 => (head + 1, 0, tail),
            folded => (head, folded, tail),
        }
    }

    /// How many rows a gap has on the screen.
    pub(super) fn len(&self, gap: usize) -> usize {
        let (head, folded, tail) = self.parts(gap);
        head + usize::from(folded > 0) + tail
    }

    /// What a row of a gap is.
    pub(super) fn item(&self, gap: usize, row: usize) -> GapItem {
        let (head, folded, _) = self.parts(gap);
        if folded == 0 || row < head {
            return self.lines(gap, row);
        }
        if row == head {
            return GapItem::Fold { rows: folded, put_aside: self.put_aside(gap, head..head + folded) };
        }
        self.lines(gap, row - 1 + folded)
    }

    /// The lines of a row of a gap, folded or not.
    fn lines(&self, gap: usize, row: usize) -> GapItem {
        let Gap { start, stretches, .. } = &self.gaps[gap];
        let upto = self.stretch_rows[stretches.clone()].partition_point(|first| *first <= row);
        let Some(at) = upto.checked_sub(1).map(|at| stretches.start + at) else {
            return GapItem::Lines(Some(start.0 + row), Some(start.1 + row));
        };
        let stretch = &self.view.comparison.hidden[at];
        let inside = row - self.stretch_rows[at];
        let line = |span: &Span| span.lines.clone().nth(inside);
        if inside < rows_of(stretch) {
            return GapItem::Lines(line(&stretch.before), line(&stretch.after));
        }
        let behind = inside - rows_of(stretch);
        GapItem::Lines(Some(stretch.before.lines.end + behind), Some(stretch.after.lines.end + behind))
    }

    fn put_aside(&self, gap: usize, rows: Range<usize>) -> usize {
        let stretches = self.gaps[gap].stretches.clone();
        let first = self.stretch_rows[stretches.clone()].partition_point(|first| *first < rows.start);
        let hidden = &self.view.comparison.hidden;
        let from = stretches.start + first.saturating_sub(1);
        let covered = (from..stretches.end).map(|at| {
            let first = self.stretch_rows[at];
            (first + rows_of(&hidden[at])).min(rows.end).saturating_sub(first.max(rows.start))
        });
        covered.sum()
    }

    /// The row of the screen in a gap that a line of one side is in, or the fold that it is in.
    pub(super) fn row_of_line(&self, gap: usize, line: usize, is_after: bool) -> usize {
        let Gap { start, rows, stretches } = &self.gaps[gap];
        let pick = |span: &(usize, usize)| if is_after { span.1 } else { span.0 };
        let span = |stretch: &HiddenStretch| {
            if is_after { stretch.after.lines.clone() } else { stretch.before.lines.clone() }
        };
        let hidden = &self.view.comparison.hidden[stretches.clone()];
        let upto = hidden.partition_point(|stretch| span(stretch).start <= line);
        let row = match upto.checked_sub(1) {
            None => line.saturating_sub(pick(start)),
            Some(at) => {
                let (first, lines) = (self.stretch_rows[stretches.start + at], span(&hidden[at]));
                if line < lines.end {
                    first + line - lines.start
                } else {
                    first + rows_of(&hidden[at]) + line - lines.end
                }
            }
        };
        let row = row.min(rows.saturating_sub(1));
        let (head, folded, _) = self.parts(gap);
        if row < head || folded == 0 {
            row
        } else if row < head + folded {
            head
        } else {
            row + 1 - folded
        }
    }

    /// Shows what is folded around a line of one side.
    pub(super) fn open_at(&mut self, gap: usize, row: usize) {
        let (head, folded, _) = self.parts(gap);
        if folded > 0 && row == head {
            self.widen(gap, (folded, 0));
        }
    }

    /// How many lines the texts have.
    pub(super) fn lines_of_both(&self) -> (usize, usize) {
        (self.starts.0.len(), self.starts.1.len())
    }

    /// Where a line begins.
    pub(super) fn start_of(&self, line: usize, is_after: bool) -> usize {
        let starts = if is_after { &self.starts.1 } else { &self.starts.0 };
        starts.get(line).copied().unwrap_or(0)
    }

    /// The line that a byte is in.
    pub(super) fn line_at(&self, byte: usize, is_after: bool) -> usize {
        let starts = if is_after { &self.starts.1 } else { &self.starts.0 };
        starts.partition_point(|start| *start <= byte).saturating_sub(1)
    }
}

fn rows_of(stretch: &HiddenStretch) -> usize {
    stretch.before.lines.len().max(stretch.after.lines.len())
}

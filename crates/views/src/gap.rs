//! What lies between two places: lines that are equal, and lines that differ only in what is not shown as different.

use std::ops::Range;

use tideline_core::internal::model::HiddenStretch;
use tideline_core::internal::text::bytes::{count_lines, line_end, line_start};

use crate::view::FileView;

/// Where a line stands: its index from 0, and its first byte.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct At {
    pub(crate) line: usize,
    pub(crate) byte: usize,
}

/// A row between two places: a line of either side, or of both.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct GapRow {
    pub(crate) before: Option<At>,
    pub(crate) after: Option<At>,
}

/// The lines between two places.
#[derive(Clone)]
pub(crate) struct Gap<'a> {
    view: &'a FileView<'a>,
    start: (At, At),
    end: (At, At),
    hidden: &'a [HiddenStretch],
}

impl<'a> Gap<'a> {
    /// The lines between two points on both sides; at the end of the texts without a second point.
    pub(crate) fn new(view: &'a FileView<'a>, start: (At, At), end: Option<(At, At)>) -> Self {
        let whole = |text: &[u8], from: At| At { line: from.line + count_lines(&text[from.byte..]), byte: text.len() };
        let end = end.unwrap_or_else(|| (whole(view.before.text(), start.0), whole(view.after.text(), start.1)));
        let all = &view.comparison.hidden;
        let first = all.partition_point(|stretch| {
            stretch.before.bytes.start < start.0.byte || stretch.after.bytes.start < start.1.byte
        });
        let last = all
            .partition_point(|stretch| stretch.before.bytes.end <= end.0.byte && stretch.after.bytes.end <= end.1.byte);
        Self { view, start, end, hidden: &all[first..last.max(first)] }
    }

    /// How many rows there are.
    pub(crate) fn rows(&self) -> usize {
        let more = |stretch: &HiddenStretch| stretch.after.lines.len().saturating_sub(stretch.before.lines.len());
        self.end.0.line - self.start.0.line + self.hidden.iter().map(more).sum::<usize>()
    }

    /// How many of some rows differ, in what is not shown as different.
    pub(crate) fn put_aside(&self, rows: Range<usize>) -> usize {
        let mut at = 0;
        let mut line = self.start.0.line;
        let mut count = 0;
        for stretch in self.hidden {
            at += stretch.before.lines.start - line;
            line = stretch.before.lines.end;
            let end = at + stretch.before.lines.len().max(stretch.after.lines.len());
            count += end.min(rows.end).saturating_sub(at.max(rows.start));
            at = end;
        }
        count
    }

    /// How many bytes they have, of both sides the more.
    pub(crate) fn bytes(&self) -> usize {
        (self.end.0.byte - self.start.0.byte).max(self.end.1.byte - self.start.1.byte)
    }

    /// The first rows, from the first on.
    pub(crate) fn rows_from_start(&self, count: usize) -> GapRows<'a> {
        GapRows { gap: self.clone(), next: self.start, hidden: 0, left: count }
    }

    /// The last rows, in order.
    pub(crate) fn last(&self, count: usize) -> Vec<GapRow> {
        if count >= self.rows() {
            return self.rows_from_start(usize::MAX).collect();
        }
        let (mut b, mut a) = self.end;
        let mut stretches = self.hidden.iter().rev().peekable();
        let mut rows = Vec::with_capacity(count);
        while rows.len() < count {
            if let Some(stretch) =
                stretches.next_if(|stretch| b.byte <= stretch.before.bytes.end && a.byte <= stretch.after.bytes.end)
            {
                let start =
                    |span: &tideline_core::internal::model::Span| At { line: span.lines.start, byte: span.bytes.start };
                (b, a) = (start(&stretch.before), start(&stretch.after));
                let end =
                    |span: &tideline_core::internal::model::Span| At { line: span.lines.end, byte: span.bytes.end };
                let inside = Gap {
                    start: (b, a),
                    end: (end(&stretch.before), end(&stretch.after)),
                    hidden: std::slice::from_ref(stretch),
                    ..*self
                };
                let mut lines: Vec<GapRow> = inside.rows_from_start(usize::MAX).collect();
                lines.reverse();
                rows.extend(lines);
            } else if b.byte > self.start.0.byte && a.byte > self.start.1.byte {
                b = previous(self.view.before.text(), b);
                a = previous(self.view.after.text(), a);
                rows.push(GapRow { before: Some(b), after: Some(a) });
            } else {
                break;
            }
        }
        rows.truncate(count);
        rows.reverse();
        rows
    }
}

/// Rows between two places, in order.
#[derive(Clone)]
pub(crate) struct GapRows<'a> {
    gap: Gap<'a>,
    next: (At, At),
    /// The index of the stretch that is met next.
    hidden: usize,
    left: usize,
}

impl Iterator for GapRows<'_> {
    type Item = GapRow;

    fn next(&mut self) -> Option<GapRow> {
        self.left = self.left.checked_sub(1)?;
        let (b, a) = self.next;
        let stretch = self.gap.hidden.get(self.hidden);
        // In a stretch, its lines are paired as they come until both sides have none left.
        let inside =
            stretch.filter(|stretch| b.byte >= stretch.before.bytes.start && a.byte >= stretch.after.bytes.start);
        let (has_b, has_a) = match inside {
            Some(stretch) => (b.byte < stretch.before.bytes.end, a.byte < stretch.after.bytes.end),
            None => (b.byte < self.gap.end.0.byte, a.byte < self.gap.end.1.byte),
        };
        if !has_b && !has_a {
            return None;
        }
        let row = GapRow { before: has_b.then_some(b), after: has_a.then_some(a) };
        if has_b {
            self.next.0 = next(self.gap.view.before.text(), b);
        }
        if has_a {
            self.next.1 = next(self.gap.view.after.text(), a);
        }
        let (b, a) = self.next;
        if stretch.is_some_and(|stretch| b.byte >= stretch.before.bytes.end && a.byte >= stretch.after.bytes.end) {
            self.hidden += 1;
        }
        Some(row)
    }
}

fn next(text: &[u8], at: At) -> At {
    At { line: at.line + 1, byte: line_end(text, at.byte) }
}

fn previous(text: &[u8], at: At) -> At {
    At { line: at.line - 1, byte: line_start(text, at.byte - 1) }
}

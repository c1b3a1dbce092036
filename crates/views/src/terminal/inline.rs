//! The inline layout: one text; where a line was edited, what is gone and what is new stand in place, one after the other.

use std::io::{self, Write};
use std::ops::Range;

use tideline_core::internal::model::{Segment, Weight};

use super::gutter::{Gutter, Side, WIDEST};
use super::layout::Rows;
use super::look::Look;
use crate::rows::{FileRow, Line, largest_number};
use crate::shown::{DisplayLine, Piece, Role};
use crate::view::FileView;

/// Lines with more bytes than this stay two.
const LONGEST: usize = 4 * WIDEST;

/// Draws one line for two that belong together.
pub(super) struct Inline {
    gutter: Gutter,
}

impl Inline {
    pub(super) fn new(view: &FileView<'_>, look: &Look) -> Self {
        Self { gutter: Gutter::new(look, largest_number(view, look.context)) }
    }
}

impl Rows for Inline {
    fn row(&mut self, row: &FileRow<'_>, out: &mut dyn Write) -> io::Result<()> {
        match row {
            FileRow::Equal(before, after) => self.gutter.write_equal(before.as_ref(), after.as_ref(), out),
            FileRow::Gone(line, change) => self.gutter.write_gone(line, *change, out),
            FileRow::New(line, change) => self.gutter.write_new(line, *change, out),
            // Of lines that are only shown in part, each has its own parts; and what is equal in two lines may not be all of either.
            FileRow::Edited(before, after, change) if !is_one_line(before, after) => {
                self.gutter.write_gone(before, *change, out)?;
                self.gutter.write_new(after, *change, out)
            }
            FileRow::Edited(before, after, change) => {
                let merged = merge(before, after, &self.gutter);
                let side = Side::Merged { before: before.number, after: after.number, manner: *change };
                self.gutter.write(side, merged, out)
            }
        }
    }
}

/// Whether two lines can be drawn as one.
fn is_one_line(before: &Line<'_>, after: &Line<'_>) -> bool {
    let equal = |line: &Line<'_>| -> usize {
        line.parts.iter().filter(|part| part.differs.is_none()).map(|part| part.bytes.len()).sum()
    };
    before.text.len().max(after.text.len()) <= LONGEST && equal(before) == equal(after)
}

/// A stretch of a merged line.
enum Stretch {
    Equal(Range<usize>),
    Gone(Range<usize>, Weight),
    New(Range<usize>, Weight),
}

/// The two lines as one.
fn merge(before: &Line<'_>, after: &Line<'_>, gutter: &Gutter) -> DisplayLine {
    let mut merged = DisplayLine { unended: !after.text.ends_with(b"\n"), ..DisplayLine::default() };
    let stretches = if before.parts.is_empty() && after.parts.is_empty() {
        vec![Stretch::Gone(0..before.text.len(), Weight::Counted), Stretch::New(0..after.text.len(), Weight::Counted)]
    } else {
        stretches(&before.parts, &after.parts)
    };
    for stretch in stretches {
        match stretch {
            Stretch::Equal(bytes) => {
                merged.append(gutter.shown_parts(after, &[Segment::equal(bytes)]), |piece| piece);
            }
            Stretch::Gone(bytes, weight) => append_changed(&mut merged, before, bytes, (Role::Gone, weight), gutter),
            Stretch::New(bytes, weight) => append_changed(&mut merged, after, bytes, (Role::New, weight), gutter),
        }
    }
    merged
}

/// Adds what is gone or new; without colour, its mark and a pair of brackets say which it is.
fn append_changed(
    merged: &mut DisplayLine,
    line: &Line<'_>,
    bytes: Range<usize>,
    (role, weight): (Role, Weight),
    gutter: &Gutter,
) {
    let shown = gutter.shown_parts(line, &[Segment { bytes, differs: Some(weight) }]);
    let role = if weight == Weight::Muted { Role::Muted } else { role };
    let (open, close) = gutter.brackets(role);
    let sign = |text: String| DisplayLine::of_piece(Piece { text, role, ..Piece::default() });
    if !gutter.coloured() {
        merged.append(sign(open), |piece| piece);
    }
    merged.append(shown, |piece| Piece { role, ..piece });
    if !gutter.coloured() {
        merged.append(sign(close), |piece| piece);
    }
}

/// Both lines in one sequence: equal text once, and between it what is gone before what is new.
fn stretches(before: &[Segment], after: &[Segment]) -> Vec<Stretch> {
    let mut stretches = Vec::new();
    let (mut before, mut after) = (before.iter(), after.iter());
    let (mut b, mut a) = (before.next().cloned(), after.next().cloned());
    loop {
        match (&mut b, &mut a) {
            (Some(Segment { bytes, differs: Some(weight) }), _) => {
                stretches.push(Stretch::Gone(bytes.clone(), *weight));
                b = before.next().cloned();
            }
            (_, Some(Segment { bytes, differs: Some(weight) })) => {
                stretches.push(Stretch::New(bytes.clone(), *weight));
                a = after.next().cloned();
            }
            (Some(one), Some(other)) => {
                let len = one.bytes.len().min(other.bytes.len());
                stretches.push(Stretch::Equal(other.bytes.start..other.bytes.start + len));
                one.bytes.start += len;
                other.bytes.start += len;
                if one.bytes.is_empty() {
                    b = before.next().cloned();
                }
                if other.bytes.is_empty() {
                    a = after.next().cloned();
                }
            }
            _ => return stretches,
        }
    }
}

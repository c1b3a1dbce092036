//! The inline layout: one text; where a line was edited, what is gone and what is new stand in place, one after the other.

use std::io::{self, Write};

use super::gutter::{Gutter, Side, WIDEST};
use super::layout::Rows;
use super::look::Look;
use super::merged::{merge, write_indented};
use crate::rows::{FileRow, Line, LineChange};
use crate::view::FileView;

/// Lines with more bytes than this stay two.
const LONGEST: usize = 4 * WIDEST;

/// Draws one line for two that belong together.
pub(super) struct Inline {
    gutter: Gutter,
    has_indented: bool,
}

impl Inline {
    pub(super) fn new(view: &FileView<'_>, look: &Look, is_grouped: bool) -> Self {
        Self { gutter: Gutter::of(view, look, is_grouped), has_indented: false }
    }
}

impl Rows for Inline {
    fn row(&mut self, row: &FileRow<'_>, out: &mut dyn Write) -> io::Result<()> {
        match row {
            FileRow::Equal(before, after) => self.gutter.write_equal(before.as_ref(), after.as_ref(), out),
            FileRow::Gone(line, change) => self.gutter.write_gone(line, *change, out),
            FileRow::New(line, change) => self.gutter.write_new(line, *change, out),
            FileRow::Edited(before, after, LineChange::Indented) => {
                self.has_indented = true;
                write_indented(&self.gutter, (before, after), out)
            }
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

    fn set_number(&mut self, number: usize) {
        self.gutter.set_number(number);
    }

    fn has_indented(&self) -> bool {
        self.has_indented
    }
}

/// Whether two lines can be drawn as one.
pub(super) fn is_one_line(before: &Line<'_>, after: &Line<'_>) -> bool {
    let equal = |line: &Line<'_>| -> usize {
        line.parts.iter().filter(|part| part.differs.is_none()).map(|part| part.bytes.len()).sum()
    };
    before.text.len().max(after.text.len()) <= LONGEST && equal(before) == equal(after)
}

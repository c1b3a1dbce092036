//! The stacked layout: one column, gone lines above the new ones that took their place.

use std::io::{self, Write};

use super::gutter::Gutter;
use super::layout::Rows;
use super::look::Look;
use super::merged::write_indented;
use crate::rows::{FileRow, LineChange};
use crate::view::FileView;

/// Draws every line below the one before it.
pub(super) struct Stacked {
    gutter: Gutter,
    has_indented: bool,
}

impl Stacked {
    pub(super) fn new(view: &FileView<'_>, look: &Look, is_grouped: bool) -> Self {
        Self { gutter: Gutter::of(view, look, is_grouped), has_indented: false }
    }
}

impl Rows for Stacked {
    fn row(&mut self, row: &FileRow<'_>, out: &mut dyn Write) -> io::Result<()> {
        match row {
            FileRow::Equal(before, after) => self.gutter.write_equal(before.as_ref(), after.as_ref(), out),
            FileRow::Gone(line, change) => self.gutter.write_gone(line, *change, out),
            FileRow::New(line, change) => self.gutter.write_new(line, *change, out),
            FileRow::Edited(before, after, LineChange::Indented) => {
                self.has_indented = true;
                write_indented(&self.gutter, (before, after), out)
            }
            FileRow::Edited(before, after, change) => {
                self.gutter.write_gone(before, *change, out)?;
                self.gutter.write_new(after, *change, out)
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

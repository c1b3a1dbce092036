//! The stacked layout: one column, gone lines above the new ones that took their place.

use std::io::{self, Write};

use tideline_core::model::{Place, Words};

use super::gutter::Gutter;
use super::heading::write_change_heading;
use super::look::Look;
use crate::flow::{Line, LineChange, Rows, largest_number};
use crate::view::FileView;

/// Draws every line below the one before it.
pub(super) struct Stacked<'l> {
    look: &'l Look,
    gutter: Gutter,
}

impl<'l> Stacked<'l> {
    pub(super) fn new(view: &FileView<'_>, look: &'l Look) -> Self {
        Self { look, gutter: Gutter::new(look, largest_number(view, look.context)) }
    }
}

impl Rows for Stacked<'_> {
    fn heading(&mut self, view: &FileView<'_>, place: &Place, out: &mut dyn Write) -> io::Result<()> {
        write_change_heading(view, place, self.look, out)
    }

    fn equal(&mut self, before: Option<&Line<'_>>, after: Option<&Line<'_>>, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_equal(before, after, out)
    }

    fn line_gone(&mut self, line: &Line<'_>, manner: LineChange, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_gone(line, &[], manner, out)
    }

    fn line_new(&mut self, line: &Line<'_>, manner: LineChange, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_new(line, &[], manner, out)
    }

    fn edited(
        &mut self,
        before: &Line<'_>,
        after: &Line<'_>,
        words: &Words,
        manner: LineChange,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        self.gutter.write_gone(before, &words.before, manner, out)?;
        self.gutter.write_new(after, &words.after, manner, out)
    }
}

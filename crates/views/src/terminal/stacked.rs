//! The stacked layout: one column, gone lines above the new ones that took their place.

use std::io::{self, Write};

use tideline_core::model::Words;

use super::FileView;
use super::flow::{Line, Manner, Rows, largest_number};
use super::gutter::Gutter;
use super::look::Look;

/// Draws every line below the one before it.
pub(super) struct Stacked {
    gutter: Gutter,
}

impl Stacked {
    pub(super) fn new(view: &FileView<'_>, look: &Look) -> Self {
        Self { gutter: Gutter::new(look, largest_number(view, look)) }
    }
}

impl Rows for Stacked {
    fn equal(&mut self, before: Option<&Line<'_>>, after: Option<&Line<'_>>, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_equal(before, after, out)
    }

    fn line_gone(&mut self, line: &Line<'_>, manner: Manner, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_gone(line, &[], manner, out)
    }

    fn line_new(&mut self, line: &Line<'_>, manner: Manner, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_new(line, &[], manner, out)
    }

    fn edited(
        &mut self,
        before: &Line<'_>,
        after: &Line<'_>,
        words: &Words,
        manner: Manner,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        self.gutter.write_gone(before, &words.before, manner, out)?;
        self.gutter.write_new(after, &words.after, manner, out)
    }
}

//! The strip of a file heading: one line high, it shows where in the file the changes lie.

use std::io::{self, Write};

use tideline_core::internal::model::{Form, Weight};

use super::palette::{Palette, TextRole};
use crate::marks::Marks;
use crate::strip::{Cell, cells};
use crate::view::FileView;

/// The widest and the narrowest strip.
const WIDTHS: (usize, usize) = (32, 8);

/// Writes a strip of at most `room` columns; none where there is no room for one.
pub(super) fn write_strip(
    view: &FileView<'_>,
    palette: Palette,
    plain: bool,
    room: usize,
    out: &mut dyn Write,
) -> io::Result<()> {
    let width = room.min(WIDTHS.0);
    if width < WIDTHS.1 || view.comparison.places.is_empty() {
        return Ok(());
    }
    let marks = Marks::of(plain);
    write!(out, "    ")?;
    for cell in cells(view, width) {
        let (mark, role) = match cell {
            None => (marks.line, TextRole::Faint),
            Some(Cell { weight: Weight::Muted, .. }) => (marks.muted, TextRole::Faint),
            Some(Cell { form: Form::Gone, .. }) => (marks.gone, TextRole::Gone),
            Some(Cell { form: Form::New, .. }) => (marks.new, TextRole::New),
            Some(Cell { form: Form::Edited, .. }) => (marks.edited, TextRole::Strong),
            Some(Cell { form: Form::Moved, .. }) => (marks.moved, TextRole::Moved),
        };
        palette.write(role, mark, out)?;
    }
    Ok(())
}

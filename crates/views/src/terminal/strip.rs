//! The strip of a file heading: one line high, it shows where in the file the changes lie.

use std::io::{self, Write};

use tideline_core::model::{Form, Weight};

use super::palette::{Ink, Palette};
use crate::marks::Marks;
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
        let (mark, ink) = match cell {
            None => (marks.line, Ink::Faint),
            Some((_, Weight::Muted)) => (marks.muted, Ink::Faint),
            Some((Form::Gone, _)) => (marks.gone, Ink::Gone),
            Some((Form::New, _)) => (marks.new, Ink::New),
            Some((Form::Edited, _)) => (marks.edited, Ink::Strong),
            Some((Form::Moved, _)) => (marks.moved, Ink::Moved),
        };
        palette.write(ink, mark, out)?;
    }
    Ok(())
}

/// What lies in each of `width` equal parts of the file. Changes of several forms in one part make it edited.
fn cells(view: &FileView<'_>, width: usize) -> Vec<Option<(Form, Weight)>> {
    let mut cells: Vec<Option<(Form, Weight)>> = vec![None; width];
    for place in &view.comparison.places {
        let change = &view.comparison.changes[place.change];
        // A place is drawn where it lies on the side that has lines there.
        let (bytes, len) = if place.after.is_empty() {
            (&place.before.bytes, view.before.text().len())
        } else {
            (&place.after.bytes, view.after.text().len())
        };
        let scaled = |byte: usize| byte as u128 * width as u128;
        let first = (scaled(bytes.start) / len.max(1) as u128).min(width as u128 - 1) as usize;
        let end = scaled(bytes.end).div_ceil(len.max(1) as u128).min(width as u128) as usize;
        for cell in &mut cells[first..end.max(first + 1)] {
            *cell = Some(match *cell {
                None => (change.form, change.weight),
                Some((form, Weight::Muted)) if change.weight == Weight::Muted => (form, Weight::Muted),
                Some((_, Weight::Muted)) => (change.form, change.weight),
                Some(counted) if change.weight == Weight::Muted || counted.0 == change.form => counted,
                Some(_) => (Form::Edited, Weight::Counted),
            });
        }
    }
    cells
}

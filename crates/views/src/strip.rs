//! Where in a file its changes lie.

use tideline_core::internal::model::{Form, Weight};

use crate::view::FileView;

/// What lies in a part of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Cell {
    /// What happened there; changes of several forms make it edited.
    pub(crate) form: Form,
    /// Whether anything of it counts.
    pub(crate) weight: Weight,
    /// The index of the first place there that has this weight.
    pub(crate) place: usize,
}

/// What lies in each of `width` equal parts of a file.
pub(crate) fn cells(view: &FileView<'_>, width: usize) -> Vec<Option<Cell>> {
    let mut cells: Vec<Option<Cell>> = vec![None; width];
    for (index, place) in view.comparison.places.iter().enumerate() {
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
        let own = Cell { form: change.form, weight: change.weight, place: index };
        for cell in &mut cells[first..end.max(first + 1)] {
            *cell = Some(match *cell {
                None => own,
                Some(muted) if muted.weight == Weight::Muted && own.weight == Weight::Muted => muted,
                Some(muted) if muted.weight == Weight::Muted => own,
                Some(counted) if own.weight == Weight::Muted || counted.form == own.form => counted,
                Some(counted) => Cell { form: Form::Edited, ..counted },
            });
        }
    }
    cells
}

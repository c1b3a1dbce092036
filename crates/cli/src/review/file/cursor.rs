//! Lines at the cursor.

use tideline_views::terminal::screen::{FileScreen, RowAt};

use super::state::FileState;
use crate::review::draft::Side;

/// Said where something is about a change and none is at the cursor.
pub(super) const NO_CHANGE: &str = "there is no change at the cursor; n goes to the next one";

/// The line at a row, on the side that has one.
pub(super) fn line_at_cursor(state: &FileState, screen: &mut FileScreen<'_>) -> Option<(usize, Side)> {
    let mut at = Some(state.cursor);
    while let Some(row) = at {
        let lines = screen.lines_of(row)?;
        let found = match (lines.before, lines.after) {
            (_, Some(line)) => Some((line, Side::After)),
            (Some(line), None) => Some((line, Side::Before)),
            (None, None) => None,
        };
        if found.is_some() {
            return found;
        }
        at = screen.after(row);
    }
    None
}

/// The lines of both sides at a row or above it.
pub(super) fn lines_near(row: RowAt, screen: &mut FileScreen<'_>) -> (usize, usize) {
    let (mut before, mut after) = (None, None);
    let mut at = Some(row);
    while let Some(row) = at.filter(|_| before.is_none() || after.is_none()) {
        if let Some(lines) = screen.lines_of(row) {
            before = before.or(lines.before);
            after = after.or(lines.after);
        }
        at = screen.before(row);
    }
    (before.unwrap_or(0), after.unwrap_or(0))
}

/// The change at the cursor, by its index.
pub(super) fn change_at(state: &FileState, screen: &FileScreen<'_>) -> Option<usize> {
    match screen.places_at(state.cursor) {
        (Some(above), Some(below)) if above == below => Some(screen.view().comparison.places[above].change),
        _ => None,
    }
}

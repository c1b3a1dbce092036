//! Changes, in words.

use std::ops::Range;

use tideline_core::model::{Change, Form, Place};

/// Where a change lies, in words.
pub(crate) fn where_it_lies(change: &Change, place: &Place, to: &str) -> String {
    let (before, after) = (lines(&change.before.lines, to), lines(&change.after.lines, to));
    match change.form {
        Form::Gone => format!("{before} gone"),
        Form::New => format!("{after} new"),
        Form::Edited if change.before.lines == change.after.lines => before,
        Form::Edited => format!("{before}, now {after}"),
        Form::Moved if place.after.is_empty() => format!("{before} moved to {after}"),
        Form::Moved => format!("{after} moved here from {before}"),
    }
}

fn lines(range: &Range<usize>, to: &str) -> String {
    if range.len() == 1 {
        format!("line {}", range.start + 1)
    } else {
        format!("lines {}{}{}", range.start + 1, to, range.end)
    }
}

//! Changes, in words.

use std::ops::Range;

use tideline_core::internal::model::{Address, Change, Extent, Form, MovedBlock, Place, Span, TextComparison};

use super::document::place_in_document;
use super::{grouped, plural};
use crate::shown::shown_bytes;
use crate::view::FileView;

/// How many changes there are, in words.
pub fn changes_in_words(extent: Extent) -> String {
    let plural = if extent.counted == 1 { "" } else { "s" };
    let muted = if extent.muted > 0 { format!(" + {} muted", grouped(extent.muted)) } else { String::new() };
    format!("{} change{plural}{muted}", grouped(extent.counted))
}

/// Where a change lies, in words.
pub(crate) fn where_it_lies(view: &FileView<'_>, change: &Change, place: &Place, to: &str) -> String {
    let Address::Lines { before, after } = change.address();
    let places = view.extracted.map(|extracted| (&extracted.places.0, &extracted.places.1));
    let before =
        places.and_then(|places| place_in_document(places.0, &before, to)).unwrap_or_else(|| lines(&before, to));
    let after = places.and_then(|places| place_in_document(places.1, &after, to)).unwrap_or_else(|| lines(&after, to));
    match change.form {
        Form::Gone => format!("{before} gone"),
        Form::New => format!("{after} new"),
        Form::Edited if change.before.lines == change.after.lines => before,
        Form::Edited => format!("{before}, now {after}"),
        Form::Moved if place.after.is_empty() => format!("{before} moved to {after}{}", edited_on_the_way(change)),
        Form::Moved => format!("{after} moved here from {before}{}", edited_on_the_way(change)),
    }
}

/// What is not the same at the two ends of a block that moved.
fn edited_on_the_way(change: &Change) -> String {
    let indented = if change.reindented { ", indented differently" } else { "" };
    format!("{}{indented}", edited_of_them(change.edited))
}

/// How many lines of a block that moved are not the same at its other end.
fn edited_of_them(lines: usize) -> String {
    if lines == 0 { String::new() } else { format!(", {} of them edited", grouped(lines)) }
}

/// What blocks of lines at a place stand in other files, or come from there: a line for each.
pub(crate) fn moved_blocks(comparison: &TextComparison, place: &Place, plain: bool, to: &str) -> Vec<String> {
    let is_here = |block: &&MovedBlock| {
        let span: &Span = if block.form == Form::Gone { &place.before } else { &place.after };
        span.lines.contains(&block.lines.start)
    };
    let says = |block: &MovedBlock| {
        let (here, there) = (lines(&block.lines, to), lines(&block.other, to));
        let path = shown_bytes(&block.path, plain);
        let edited = edited_of_them(block.differing.len());
        match block.form {
            Form::Gone => format!("{here} moved to {path}, {there}{edited}"),
            _ => format!("{here} moved here from {path}, {there}{edited}"),
        }
    };
    comparison.moved_blocks.iter().filter(is_here).map(says).collect()
}

fn lines(range: &Range<usize>, to: &str) -> String {
    if range.len() == 1 {
        format!("line {}", range.start + 1)
    } else {
        format!("lines {}{}{}", range.start + 1, to, range.end)
    }
}

/// Lines that are folded away, of which some differ in what is put aside.
pub(crate) fn folded_lines(rows: usize, put_aside: usize) -> String {
    match (rows - put_aside, put_aside) {
        (equal, 0) => plural(equal, "equal line"),
        (0, aside) => format!("{} put aside", plural(aside, "line")),
        (equal, aside) => format!("{}, {} put aside", plural(equal, "equal line"), grouped(aside)),
    }
}

//! The lines around a region, which all three texts have.

use tideline_core::internal::merge::Region;
use tideline_core::internal::text::bytes::{lines_above, lines_below};
use tideline_core::internal::text::lines::Lines;

use super::rows::{Cell, ThreeRow, whole_line};
use super::view::MergeView;
use crate::view::Context;

/// The equal lines above a region, those that stand below another left out.
pub(crate) fn rows_above<'a>(view: &'a MergeView<'a>, at: usize, context: Context, from: usize) -> Vec<ThreeRow<'a>> {
    let region = &view.merge.regions[at];
    let floor = at.checked_sub(1).map_or(0, |above| view.merge.regions[above].base.bytes.end);
    let text = view.merge.texts.base.text();
    let (start, lines) = lines_above(text, region.base.bytes.start, context.lines());
    let first = region.base.lines.start - lines;
    let rows = equal_rows(view, (start, first), region.base.bytes.start, region, true);
    let is_free = |row: &ThreeRow<'_>, start: usize| {
        row.base.as_ref().is_some_and(|(line, _)| line.number > from) && start >= floor
    };
    let mut at = start;
    rows.into_iter()
        .filter(|row| {
            let own = at;
            at += row.base.as_ref().map_or(0, |(line, _)| line.text.len());
            is_free(row, own)
        })
        .collect()
}

/// The equal lines below a region, up to the next.
pub(crate) fn rows_below<'a>(view: &'a MergeView<'a>, at: usize, context: Context) -> Vec<ThreeRow<'a>> {
    let region = &view.merge.regions[at];
    let text = view.merge.texts.base.text();
    let (end, _) = lines_below(text, region.base.bytes.end, context.lines());
    let end = view.merge.regions.get(at + 1).map_or(end, |next| end.min(next.base.bytes.start));
    equal_rows(view, (region.base.bytes.end, region.base.lines.end), end, region, false)
}

/// Rows of lines that all three have, from a byte and a line of the base up to a byte.
fn equal_rows<'a>(
    view: &'a MergeView<'a>,
    (start, first): (usize, usize),
    end: usize,
    region: &Region,
    is_above: bool,
) -> Vec<ThreeRow<'a>> {
    let number = |side: &std::ops::Range<usize>, at: usize| {
        let (base, side) =
            if is_above { (region.base.lines.start, side.start) } else { (region.base.lines.end, side.end) };
        side + first + at + 1 - base
    };
    let lines = Lines::of(&view.merge.texts.base.text()[start..end]);
    let row = |(at, line): (usize, &'a [u8])| ThreeRow {
        base: Some((whole_line(first + at + 1, line), false)),
        mine: Cell::Equal(whole_line(number(&region.mine.lines, at), line)),
        theirs: Cell::Equal(whole_line(number(&region.theirs.lines, at), line)),
    };
    (0..lines.len()).map(|at| row((at, lines.get(at)))).collect()
}

//! Changes that stand so close that one heading serves them all.

use tideline_core::internal::model::{Change, Form, Place, Span, TextComparison, Weight};

use crate::rows::{Block, RowSource};
use crate::view::FileView;

/// Changes with so many equal lines between them stand under one heading.
const MOST_BETWEEN: usize = 1;

/// For each block, the last of those that stand under its heading; its own index where it stands alone.
pub(crate) fn last_of_group(view: &FileView<'_>, source: &RowSource<'_>) -> Vec<usize> {
    let mut last: Vec<usize> = (0..source.len()).collect();
    for at in (1..source.len()).rev() {
        if let (Block::Change(one), Block::Change(next)) = (source.block(at - 1), source.block(at))
            && belong_together(view.comparison, one, next)
        {
            last[at - 1] = last[at];
        }
    }
    last
}

/// Whether two places that follow each other stand under one heading.
pub(crate) fn belong_together(comparison: &TextComparison, one: &Place, next: &Place) -> bool {
    let is_plain = |change: &Change| change.weight == Weight::Counted && change.form != Form::Moved;
    let changes = &comparison.changes;
    let between = |one: &Span, next: &Span| next.lines.start - one.lines.end;
    comparison.moved_blocks.is_empty()
        && is_plain(&changes[one.change])
        && is_plain(&changes[next.change])
        && between(&one.before, &next.before).max(between(&one.after, &next.after)) <= MOST_BETWEEN
}

/// Whether any of some places that follow each other stand under one heading.
pub(crate) fn any_together<'p>(comparison: &TextComparison, mut places: impl Iterator<Item = &'p Place>) -> bool {
    let Some(mut last) = places.next() else { return false };
    places.any(|next| belong_together(comparison, std::mem::replace(&mut last, next), next))
}

/// All changes of a group as one: where it begins and ends.
pub(crate) fn as_one(first: &Change, last: &Change) -> Change {
    let whole = |one: &Span, other: &Span| Span {
        lines: one.lines.start..other.lines.end,
        bytes: one.bytes.start..other.bytes.end,
    };
    let (before, after) = (whole(&first.before, &last.before), whole(&first.after, &last.after));
    Change { form: Form::Edited, before, after, ..first.clone() }
}

//! Texts: line by line, and word by word inside the lines that belong together.

mod broken;
mod changes;
mod clear;
mod coalesce;
mod common_edit;
mod explain;
mod inside;
mod moved_ends;
mod repeats;
pub mod sections;

pub use common_edit::{CommonEdit, LineEdits};
pub use explain::{Explanation, LineOf, Reason, explain_change, explain_line};
pub(crate) use inside::detail_by_lines;
pub use inside::{Detail, causes, detail, detail_within};
pub use moved_ends::detail_of_place;
pub use repeats::{Repeat, Repeats};

use std::ops::Range;

use crate::internal::align::{Bounds, Edit, Holds, PairBounds, align_masked, moves::find_moves};
use crate::internal::model::TextComparison;
use crate::internal::rules::MaskedText;
pub use crate::internal::text::words::Grain;

/// How texts are compared.
#[derive(Clone, Debug, Default)]
pub struct TextOptions {
    bounds: Bounds,
    counted_only: bool,
    holds: Vec<(usize, usize)>,
    parts: (Option<Range<usize>>, Option<Range<usize>>),
}

impl TextOptions {
    /// What bounds the work of the alignment.
    pub fn bounds(mut self, bounds: Bounds) -> Self {
        self.bounds = bounds;
        self
    }

    /// What bounds the work of the alignment.
    pub(crate) fn bounds_of_work(&self) -> &Bounds {
        &self.bounds
    }

    /// Lines before that are kept together with lines after, counted from 0. Those that cross an earlier one are not.
    pub fn holds(mut self, holds: Vec<(usize, usize)>) -> Self {
        self.holds = holds;
        self
    }

    /// Only these lines of each side are compared, counted from 0. Default: all.
    pub fn parts(mut self, before: Option<Range<usize>>, after: Option<Range<usize>>) -> Self {
        self.parts = (before, after);
        self
    }

    /// The two texts as they are to be compared: the lines that are wanted of them, and those that are kept together.
    pub(super) fn prepared<'t>(
        &self,
        before: MaskedText<'t>,
        after: MaskedText<'t>,
    ) -> (MaskedText<'t>, MaskedText<'t>) {
        let part = |masked: MaskedText<'t>, lines: &Option<Range<usize>>| match lines {
            Some(lines) => masked.part(lines),
            None => masked,
        };
        (part(before, &self.parts.0).holding(self.holds.clone()), part(after, &self.parts.1))
    }

    /// Whether muted changes are left out.
    pub(in crate::internal::kinds) fn leaves_muted_out(&self) -> bool {
        self.counted_only
    }

    /// Leaves muted changes out: they are shown as equal text. Default: no.
    pub fn counted_only(mut self, counted_only: bool) -> Self {
        self.counted_only = counted_only;
        self
    }
}

/// Edits joined where they are one passage for a reader.
pub(crate) fn passages(edits: Vec<Edit>, texts: (&[u8], &[u8]), bounds: &PairBounds) -> Vec<Edit> {
    coalesce::coalesce(edits, texts, bounds)
}

/// Compares two texts.
pub fn compare(before: &[u8], after: &[u8], options: &TextOptions) -> TextComparison {
    compare_masked(&MaskedText::unmasked(before), &MaskedText::unmasked(after), options)
}

/// Compares two texts under the rules. Both must be under the same rules.
pub fn compare_masked(before: &MaskedText<'_>, after: &MaskedText<'_>, options: &TextOptions) -> TextComparison {
    let alignment = align_masked(before, after, &options.bounds);
    let edits = coalesce::coalesce(alignment.edits, (before.text(), after.text()), options.bounds.pairs());
    let mut moves = find_moves(&edits, before.text(), after.text(), &options.bounds);
    // Nothing moves out of an edit or into it in which lines are kept together: they would part.
    let holds = Holds::of(before, after);
    let is_held = |edit: usize| !holds.inside(&edits[edit].before, &edits[edit].after).is_empty();
    moves.retain(|found| !is_held(found.from.0) && !is_held(found.to.0));
    let mut comparison = changes::number(&edits, &moves, (before, after), options.counted_only, options.bounds.pairs());
    comparison.account = alignment.account;
    comparison
}

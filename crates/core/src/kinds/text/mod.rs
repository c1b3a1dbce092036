//! Texts: line by line, and word by word inside the lines that belong together.

mod changes;
mod coalesce;
mod common_edit;
mod explain;
mod inside;
mod repeats;
pub mod sections;

pub use common_edit::{CommonEdit, LineEdits};
pub use explain::{Explanation, LineOf, Reason, explain_change, explain_line};
pub(crate) use inside::detail_by_lines;
pub use inside::{Detail, causes, detail};
pub use repeats::{Repeat, Repeats};

use crate::internal::align::{Bounds, align_masked, moves::find_moves};
use crate::internal::model::TextComparison;
use crate::internal::rules::MaskedText;
pub use crate::internal::text::words::Grain;

/// How texts are compared.
#[derive(Clone, Debug, Default)]
pub struct TextOptions {
    bounds: Bounds,
    counted_only: bool,
}

impl TextOptions {
    /// What bounds the work of the alignment.
    pub fn bounds(mut self, bounds: Bounds) -> Self {
        self.bounds = bounds;
        self
    }

    /// Leaves muted changes out: they are shown as equal text. Default: no.
    pub fn counted_only(mut self, counted_only: bool) -> Self {
        self.counted_only = counted_only;
        self
    }
}

/// Compares two texts.
pub fn compare(before: &[u8], after: &[u8], options: &TextOptions) -> TextComparison {
    compare_masked(&MaskedText::unmasked(before), &MaskedText::unmasked(after), options)
}

/// Compares two texts under the rules. Both must be under the same rules.
pub fn compare_masked(before: &MaskedText<'_>, after: &MaskedText<'_>, options: &TextOptions) -> TextComparison {
    let alignment = align_masked(before, after, &options.bounds);
    let edits = coalesce::coalesce(alignment.edits, before.text());
    let moves = find_moves(&edits, before.text(), after.text(), &options.bounds);
    let mut comparison = changes::number(&edits, &moves, (before, after), options.counted_only);
    comparison.account = alignment.account;
    comparison
}

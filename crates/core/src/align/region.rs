//! The edits between two stretches, line by line.

use super::bounds::Bounds;
use super::classify::{Classifier, Found};
use super::edit::Edit;
use super::equal_first::script_of_lines;
use super::script;
use super::stretch::Stretch;
use super::stretch_lines::StretchLines;
use crate::internal::text::lines::intern;

/// Aligns two stretches line by line.
pub(super) fn region(before: &Stretch<'_, '_>, after: &Stretch<'_, '_>, bounds: &Bounds) -> Found {
    const WORTH_A_THREAD: usize = 1 << 18;
    let (masked_before, masked_after) = (before.masked, after.masked);
    let (items_before, items_after) = if before.bytes.len() + after.bytes.len() < WORTH_A_THREAD {
        (StretchLines::of(before), StretchLines::of(after))
    } else {
        rayon::join(|| StretchLines::of(before), || StretchLines::of(after))
    };
    if masked_before.file_rules().is_clear() {
        let interned = intern(&items_before.keys(), &items_after.keys());
        let script = script::script(&interned, bounds);
        let edit = |(gone, new)| Edit::counted(items_before.span(gone), items_after.span(new));
        return Found { edits: script.stretches().into_iter().map(edit).collect(), lines: Vec::new() };
    }
    let script = script_of_lines(&items_before, &items_after, bounds);
    let mut classifier = Classifier::new(masked_before, masked_after);
    classifier.script(&items_before, &items_after, &script);
    classifier.found()
}

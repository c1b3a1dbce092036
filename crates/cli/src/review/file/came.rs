//! Which changes came and which went from one comparison to the next.

use std::collections::HashSet;
use std::hash::{DefaultHasher, Hash, Hasher};

use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::model::{Change, Form};
use tideline_views::{FileView, plural};

/// What a change holds, wherever it stands.
pub(super) fn key(change: &Change, (before, after): (&[u8], &[u8])) -> u64 {
    let mut hasher = DefaultHasher::new();
    (change.form == Form::Moved).hash(&mut hasher);
    before[change.before.bytes.clone()].hash(&mut hasher);
    after[change.after.bytes.clone()].hash(&mut hasher);
    hasher.finish()
}

/// The changes of a comparison, by what they hold.
pub(super) fn changes(comparison: &Comparison<'_>) -> HashSet<u64> {
    match comparison {
        Comparison::Text(texts) => {
            let both = (texts.before.text(), texts.after.text());
            texts.found.changes.iter().map(|change| key(change, both)).collect()
        }
        _ => HashSet::new(),
    }
}

/// How many came, and how many went.
pub(super) fn difference(before: &HashSet<u64>, now: &HashSet<u64>) -> (usize, usize) {
    (now.difference(before).count(), before.difference(now).count())
}

/// The same in words; nothing where all is as it was.
pub(super) fn in_words(came: usize, went: usize) -> Option<String> {
    let parts: Vec<String> = [(went, "went"), (came, "came")]
        .into_iter()
        .filter(|(count, _)| *count > 0)
        .map(|(count, word)| format!("{} {word}", plural(count, "change")))
        .collect();
    (!parts.is_empty()).then(|| parts.join(", "))
}

/// Whether the change at a place was not there the time before.
pub(super) fn is_new(view: &FileView<'_>, place: usize, came: &HashSet<u64>) -> bool {
    let change = &view.comparison.changes[view.comparison.places[place].change];
    !came.is_empty() && came.contains(&key(change, (view.before.text(), view.after.text())))
}

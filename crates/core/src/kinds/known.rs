//! What was found between texts, for whoever shows them later: a pair of contents is compared once.

use std::collections::HashMap;
use std::sync::{Mutex, PoisonError};

use crate::internal::model::{Change, TextComparison};
use crate::internal::rules::MaskedText;

/// Of so many bytes of results, the rest is compared again.
const MOST_HELD: usize = 64 << 20;
/// Texts of more bytes, both sides together, are compared about as fast as they are known again.
const LARGEST: usize = 64 << 20;

/// What was found between texts, until it is asked for a second time.
#[derive(Debug, Default)]
pub(super) struct KnownComparisons {
    held: Mutex<Held>,
}

#[derive(Debug, Default)]
struct Held {
    found: HashMap<blake3::Hash, TextComparison>,
    bytes: usize,
}

impl KnownComparisons {
    /// What was found between two texts with these paths; if it is not known, it is found now.
    pub(super) fn found(
        &self,
        paths: (&[u8], &[u8]),
        (before, after): (&MaskedText<'_>, &MaskedText<'_>),
        find: impl FnOnce() -> TextComparison,
    ) -> TextComparison {
        if before.text().len() + after.text().len() > LARGEST {
            return find();
        }
        // The hash of all that was compared: files may have changed meanwhile.
        let mut hasher = blake3::Hasher::new();
        for (path, text) in [(paths.0, before), (paths.1, after)] {
            for part in [path, text.text(), &text.first_line().to_le_bytes()] {
                hasher.update(&part.len().to_le_bytes());
                hasher.update(part);
            }
        }
        let key = hasher.finalize();
        if let Some(found) = self.with_held(|held| {
            let found = held.found.remove(&key)?;
            held.bytes -= size(&found);
            Some(found)
        }) {
            return found;
        }
        let found = find();
        self.with_held(|held| {
            if held.bytes + size(&found) <= MOST_HELD {
                held.bytes += size(&found);
                held.found.insert(key, found.clone());
            }
        });
        found
    }

    fn with_held<T>(&self, use_it: impl FnOnce(&mut Held) -> T) -> T {
        // Nothing is left half done where somebody panicked.
        use_it(&mut self.held.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

/// About how many bytes a result takes.
fn size(found: &TextComparison) -> usize {
    let parts = found.changes.len() + found.places.len() + found.hidden.len();
    size_of::<TextComparison>() + parts * size_of::<Change>()
}

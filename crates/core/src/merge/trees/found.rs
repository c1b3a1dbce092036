//! What comes of three trees.

use super::super::three_way::Together;
use super::entry::MergedEntry;
use crate::internal::tree::TreePath;

/// What comes of three trees.
#[derive(Clone, Debug, Default)]
pub struct TreeMerge {
    /// Every path that a side changed, in path order; folders are told apart.
    pub entries: Vec<MergedEntry>,
    /// Folders that theirs made and mine does not have.
    pub new_folders: Vec<TreePath>,
    /// Folders that theirs removed.
    pub gone_folders: Vec<TreePath>,
    /// Lines of theirs that were dropped because they differ only in text that does not count.
    pub dropped: usize,
}

impl TreeMerge {
    /// How many paths are of a kind.
    pub fn count(&self, together: Together) -> usize {
        self.entries.iter().filter(|entry| entry.together == together).count()
    }

    /// Whether something is left for a person to decide.
    pub fn has_conflicts(&self) -> bool {
        self.entries.iter().any(MergedEntry::is_open)
    }
}

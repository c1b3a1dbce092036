//! What comes of three trees.

use super::super::three_way::Together;
use super::clash::TreeClash;
use super::entry::MergedEntry;
use crate::internal::rules::Account;
use crate::internal::tree::{LeftOut, Remark, TreePath};

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
    /// What was not looked at: of the base and mine, and of the base and theirs.
    pub left_out: [LeftOut; 2],
    /// What the trees have to say of themselves and of some entries.
    pub remarks: Vec<Remark>,
    /// What the rules masked, on both sides.
    pub account: Account,
}

impl TreeMerge {
    /// How many paths are of a kind.
    pub fn count(&self, together: Together) -> usize {
        self.entries.iter().filter(|entry| entry.together == together).count()
    }

    /// Why entries could not be read, each with its path.
    pub fn unreadable(&self) -> impl Iterator<Item = (&TreePath, &str)> {
        self.entries.iter().flat_map(|entry| {
            entry.clashes.iter().filter_map(|clash| match clash {
                TreeClash::Unreadable(reason) => Some((&entry.path, reason.as_str())),
                _ => None,
            })
        })
    }

    /// Whether something is left for a person to decide.
    pub fn has_conflicts(&self) -> bool {
        self.entries.iter().any(MergedEntry::is_open)
    }
}

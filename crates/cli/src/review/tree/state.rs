//! Where a reader is in a tree.

use std::collections::HashSet;
use std::time::Instant;

use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{EntryType, Pair, TreeComparison};

use super::carry::Carries;
use super::rows::{Row, Wish, rows};
use crate::review::bars::Help;
use crate::review::file::FileState;
use crate::review::prompt::Prompt;
use crate::review::rule_view::RuleView;

/// What a line is typed for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Asked {
    /// What paths must hold.
    Find,
    /// Where a patch or a report goes.
    HandOn,
}

/// Where a reader is in a tree.
pub(super) struct TreeState {
    pub(super) comparison: TreeComparison,
    /// Since when the trees are compared, while they are.
    pub(super) comparing: Option<Instant>,
    /// Whether all that differs is known.
    pub(super) is_whole: bool,
    /// Whether they are compared again, while what was known is shown.
    pub(super) is_comparing_again: bool,
    /// Files and folders that go to the other side when they are saved.
    pub(super) carries: Carries,
    /// Whether it was said that choices are not saved.
    pub(super) may_leave: bool,
    /// Whether the message stays when all is compared again.
    pub(super) keeps_message: bool,
    pub(super) wish: Wish,
    pub(super) shows_same: bool,
    pub(super) rows: Vec<Row>,
    pub(super) cursor: usize,
    pub(super) top: usize,
    pub(super) height: usize,
    pub(super) message: String,
    /// A line that is typed: what paths must hold, or where what is at the cursor is handed on.
    pub(super) prompt: Option<(Asked, Prompt)>,
    pub(super) help: Option<Help>,
    /// The paths of files that were seen as they are.
    pub(super) seen: HashSet<Vec<u8>>,
    /// The list of rules, while it is shown.
    pub(super) rule_view: Option<RuleView>,
    /// How files are shown, kept from one to the next.
    pub(super) file: FileState,
}

impl TreeState {
    /// Makes the rows anew; the cursor stays at what it was at.
    pub(super) fn arrange(&mut self) {
        let at = self.rows.get(self.cursor).map(|row| self.path_of_row(row));
        self.rows = rows(&self.comparison.pairs, &self.wish);
        let found = at.and_then(|path| self.rows.iter().position(|row| self.path_of_row(row) == path));
        self.cursor = found.unwrap_or(self.cursor).min(self.rows.len().saturating_sub(1));
    }

    pub(super) fn path_of_row(&self, row: &Row) -> Vec<u8> {
        match row {
            Row::Folder { path, .. } => path.clone(),
            Row::Pair { index, .. } => {
                self.comparison.pairs.get(*index).map_or_else(Vec::new, |pair| pair.path.to_vec())
            }
        }
    }

    pub(super) fn move_by(&mut self, rows: isize) {
        self.cursor = self.cursor.saturating_add_signed(rows).min(self.rows.len().saturating_sub(1));
    }

    /// How many files can be opened, shown or not.
    pub(super) fn files_that_can_be_opened(&self) -> usize {
        self.comparison.pairs.iter().filter(|pair| can_be_opened(pair)).count()
    }

    /// The rows of files that can be opened, in order.
    pub(super) fn files(&self) -> Vec<usize> {
        let is_file = |row: &Row| match row {
            Row::Pair { index, .. } => self.comparison.pairs.get(*index).is_some_and(can_be_opened),
            Row::Folder { .. } => false,
        };
        (0..self.rows.len()).filter(|&at| is_file(&self.rows[at])).collect()
    }
}

/// Whether a pair can be shown as a file.
pub(super) fn can_be_opened(pair: &Pair) -> bool {
    let is_file = |entry: Option<EntryType>| entry.is_none_or(|entry| entry == EntryType::File);
    pair.status != Status::Unreadable
        && is_file(pair.types.0)
        && is_file(pair.types.1)
        && (pair.types.0.is_some() || pair.types.1.is_some())
}

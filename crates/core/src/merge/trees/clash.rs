//! Why a path is a conflict.

use crate::internal::merge::three_way::ValueConflict;
use crate::internal::tree::{EntryType, TreePath};

/// Why a path is a conflict.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum TreeClash {
    /// Both changed the same lines, in so many places.
    Lines(usize),
    /// Both changed a file that is not text.
    NotText,
    /// One side changed what the other removed.
    ChangedAndRemoved {
        /// Whether mine is the one that removed it.
        removed_by_mine: bool,
        /// Whether the other side only moved it.
        is_moved: bool,
    },
    /// Both added it, with other contents.
    BothAdded,
    /// It is a file on one side and something else on the other: mine, theirs.
    Types(Option<EntryType>, Option<EntryType>),
    /// Both moved it, to different places: mine, theirs.
    MovedApart(TreePath, TreePath),
    /// Both sides have a file for this name: the other one's path in the base, or where it is new.
    SameName(TreePath),
    /// A file of one side stands where the other has a folder.
    FileAgainstFolder(TreePath),
    /// Both changed something that has one value.
    Value(ValueConflict),
    /// It cannot be read.
    Unreadable(String),
}

//! Why a sync leaves a difference as it is.

use super::side::Side;
use crate::internal::plan::paths::UnsafeName;
use crate::internal::tree::{EntryType, Note, Pair, TreeError, TreePath};

/// Why a difference is not carried.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Reason {
    /// Of a sync both ways: only one side has it, and nothing tells whether it came there or went from the other.
    OnlyOn(Side),
    /// Of a sync both ways: it is at another path in the tree that is carried into.
    At(TreePath),
    /// Of a sync both ways: it is something else on either side.
    Types {
        /// What it is in the tree that is carried from.
        from: Option<EntryType>,
        /// What it is in the tree that is carried into.
        into: Option<EntryType>,
    },
    /// Both sides were changed in the same second.
    SameSecond,
    /// Nothing tells which side is newer.
    NoTimes,
    /// It is something that is never carried, such as a socket.
    NotCarried(EntryType),
    /// It cannot be read, on one side if that is known.
    Unreadable(Option<Side>, TreeError),
    /// What it would be in is left as it is.
    AboveIsLeft,
    /// What it would be in is there and is no folder.
    NotInFolder(TreePath, EntryType),
    /// The folder in its place holds what was not looked at.
    HoldsUnseen,
    /// A folder is in its place, and may not be removed.
    FolderInPlace,
    /// Its name would lead out of the tree that is carried into.
    Unsafe(UnsafeName),
    /// As a saved plan says it.
    Told(String),
}

impl Reason {
    /// Why a pair cannot be read. The sides of the comparison are the trees of the sync.
    pub(super) fn unreadable(pair: &Pair) -> Self {
        match &pair.note {
            Some(Note::UnreadableBefore(error)) => Self::Unreadable(Some(Side::Into), error.clone()),
            Some(Note::UnreadableAfter(error)) => Self::Unreadable(Some(Side::From), error.clone()),
            Some(Note::Unreadable(error)) => Self::Unreadable(None, error.clone()),
            Some(
                Note::LinkTargets(..)
                | Note::Commits(..)
                | Note::Packing
                | Note::Unparsed(_)
                | Note::NotCompared(_)
                | Note::Became(..)
                | Note::NotEntered
                | Note::NothingLookedAt,
            )
            | None => Self::Told(String::new()),
        }
    }
}

//! What a sync does, and the steps that it takes.

use serde::{Deserialize, Serialize};

use super::reason::Reason;
use super::side::Side;
use crate::internal::plan::{Moment, Stamp};
use crate::internal::tree::TreePath;

/// How differences are carried.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum SyncMode {
    /// All of them, from the one tree into the other.
    #[default]
    All,
    /// The same, but a file takes the place of another only where it is newer.
    Newer,
    /// Each from its newer side to the older.
    BothWays,
}

/// What a sync does. Unchanging once built.
#[derive(Clone, Copy, Debug, Default)]
pub struct SyncOptions {
    pub(super) mode: SyncMode,
    pub(super) mirror: bool,
}

impl SyncOptions {
    /// How differences are carried. Default: all of them, from the one tree into the other.
    pub fn mode(mut self, mode: SyncMode) -> Self {
        self.mode = mode;
        self
    }

    /// Whether what only the tree has that is written into is removed. Default: no.
    pub fn mirror(mut self, mirror: bool) -> Self {
        self.mirror = mirror;
        self
    }
}

/// What a sync would do, with paths from the roots of the trees.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SyncPlan {
    /// Whether differences are carried both ways.
    pub both_ways: bool,
    /// The steps, in the order of their paths.
    pub steps: Vec<SyncStep>,
    /// What differs and is not carried, because it cannot be or should not be without a person's word.
    pub undecided: Vec<Undecided>,
    /// What was left alone.
    pub left: LeftAlone,
}

/// One step of a sync.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SyncStep {
    /// The path that will stand there or goes.
    pub path: TreePath,
    /// Where the file is now, of one that moves.
    pub moved_from: Option<TreePath>,
    /// The path of an earlier step that writes the same file: this one gives it a second name.
    pub same_as: Option<TreePath>,
    /// The side that is written to.
    pub side: Side,
    /// What stands there now; of a file that moves, where it is now.
    pub was: Item,
    /// What will stand there.
    pub will: Item,
}

/// What stands at a path.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Item {
    /// Nothing.
    Nothing,
    /// A file.
    File {
        /// What the system says of it.
        stamp: Stamp,
        /// Its permission bits.
        mode: Option<u32>,
        /// The BLAKE3 hash of what it holds, in a plan that is kept.
        hash: Option<blake3::Hash>,
    },
    /// A link.
    Link {
        /// Where it points.
        target: Vec<u8>,
    },
    /// A folder.
    Folder {
        /// Its permission bits.
        mode: Option<u32>,
        /// When it was last changed.
        modified: Option<Moment>,
    },
}

/// What a step does, in a word.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Verb {
    /// Writes a file or a link where nothing stands.
    Copy,
    /// Writes a file or a link in the place of what stands there.
    Replace,
    /// Moves a file.
    Move,
    /// Makes a folder.
    MakeFolder,
    /// Removes a file or a link.
    Remove,
    /// Removes a folder.
    RemoveFolder,
}

impl SyncStep {
    /// What it does.
    pub fn verb(&self) -> Verb {
        match (&self.was, &self.will) {
            _ if self.moved_from.is_some() => Verb::Move,
            (_, Item::Folder { .. }) => Verb::MakeFolder,
            (Item::Folder { .. }, Item::Nothing) => Verb::RemoveFolder,
            (_, Item::Nothing) => Verb::Remove,
            (Item::Nothing, _) => Verb::Copy,
            _ => Verb::Replace,
        }
    }

    /// The bytes that it writes, or of a file that goes, those that go.
    pub fn bytes(&self) -> u64 {
        match (self.verb(), &self.was, &self.will) {
            (Verb::Remove, Item::File { stamp, .. }, _) => stamp.size,
            (Verb::Move, ..) => 0,
            (_, _, Item::File { stamp, .. }) => stamp.size,
            _ => 0,
        }
    }
}

/// A difference that is not carried.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Undecided {
    /// Its path.
    pub path: TreePath,
    /// Why not.
    pub reason: Reason,
    /// Whether it could not be looked at.
    pub is_trouble: bool,
}

/// What was left alone.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct LeftAlone {
    /// Pairs in which nothing differs that counts.
    pub same: usize,
    /// Pairs in which only muted text differs.
    pub muted: usize,
    /// Files that only the tree has that is written into.
    pub extra: usize,
    /// Files that are newer, or as new, where they would be written.
    pub not_newer: usize,
    /// Folders that keep what was not looked at.
    pub kept_folders: usize,
    /// Entries of the one tree that ignore files of the other name.
    pub ignored: usize,
}

impl SyncPlan {
    /// How many steps do so, and the bytes they write or remove.
    pub fn total(&self, verb: Verb) -> (usize, u64) {
        let steps = self.steps.iter().filter(|step| step.verb() == verb);
        steps.fold((0, 0), |(count, bytes), step| (count + 1, bytes.saturating_add(step.bytes())))
    }
}

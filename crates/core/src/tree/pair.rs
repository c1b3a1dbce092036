//! The comparison of two trees as plain values.

use std::collections::BTreeMap;

use super::{EntryMetadata, EntryType, Remark, TreeError, TreePath};
use crate::internal::kinds::Unparsed;
use crate::internal::kinds::text::{CommonEdit, LineEdits};
use crate::internal::model::{Extent, Form, Kind, MovedBlock, Status};
use crate::internal::rules::Account;

/// A pair of entries of two trees.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Pair {
    /// Its path from the roots; of a moved pair, the path after.
    pub path: TreePath,
    /// The path before, of a moved pair.
    pub moved_from: Option<TreePath>,
    /// What became of it.
    pub status: Status,
    /// What it is before and after; `None` where it is not there.
    pub types: (Option<EntryType>, Option<EntryType>),
    /// How its contents were compared, if they were.
    pub kind: Option<Kind>,
    /// How much differs in its contents.
    pub extent: Extent,
    /// What the rules masked.
    pub account: Account,
    /// Blocks of its lines that stand in other files, or come from there.
    pub moved_blocks: Vec<MovedBlock>,
    /// What is known of the side before.
    pub before: Option<EntryMetadata>,
    /// What is known of the side after.
    pub after: Option<EntryMetadata>,
    /// The attributes that differ, when they are compared.
    pub attributes: Vec<Attribute>,
    /// The attributes that could not be compared, or only in part, because a side does not hold them.
    pub uncompared: Vec<Attribute>,
    /// What else there is to say: why it is unreadable, where links point.
    pub note: Option<Note>,
}

/// What there is to say of a pair beside its status.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Note {
    /// Why it cannot be read.
    Unreadable(TreeError),
    /// Why the side before cannot be read.
    UnreadableBefore(TreeError),
    /// Why the side after cannot be read.
    UnreadableAfter(TreeError),
    /// Where its links point, before and after.
    LinkTargets(Vec<u8>, Vec<u8>),
    /// The commits that it stands for, before and after.
    Commits(Vec<u8>, Vec<u8>),
    /// Why it was not compared as the kind that it should be.
    Unparsed(Unparsed),
    /// Only what was not taken out of two documents differs: what that is.
    NotCompared(Vec<String>),
    /// An archive in which nothing differs but how it was packed.
    Packing,
    /// It became something else.
    Became(EntryType, EntryType),
    /// A folder that is too deep to be entered.
    NotEntered,
    /// A folder that only one side has, in which nothing was looked at.
    NothingLookedAt,
}

/// An attribute that can differ although contents are the same.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Attribute {
    /// Permission bits.
    Mode,
    /// The time of the last change.
    Time,
}

impl Pair {
    /// Whether it is a file on the side or the sides where it is.
    pub fn is_file(&self) -> bool {
        [self.types.0, self.types.1].into_iter().flatten().all(|entry_type| entry_type == EntryType::File)
    }

    /// Whether it is a folder on the side or the sides where it is.
    pub fn is_folder(&self) -> bool {
        [self.types.0, self.types.1].into_iter().flatten().all(|entry_type| entry_type == EntryType::Folder)
    }

    /// Whether it has one of these statuses; a moved pair may have changed too.
    pub fn is_one_of(&self, statuses: &[Status]) -> bool {
        statuses.contains(&self.status)
            || self.status == Status::Moved && self.extent.counted > 0 && statuses.contains(&Status::Changed)
    }

    /// Its path before.
    pub fn path_before(&self) -> &TreePath {
        self.moved_from.as_ref().unwrap_or(&self.path)
    }

    /// The size of the side that is there; of the side after, if both are.
    pub fn size(&self) -> u64 {
        self.after.or(self.before).map_or(0, |metadata| metadata.size)
    }

    /// Whether contents, and not attributes alone, differ.
    pub fn contents_differ(&self) -> bool {
        self.extent.counted > 0
            || matches!(self.status, Status::Changed | Status::Moved | Status::Muted) && self.kind.is_some()
    }
}

/// What differs between two trees.
#[derive(Clone, Debug, Default)]
#[non_exhaustive]
pub struct TreeComparison {
    /// The pairs that were asked for, in path order.
    pub pairs: Vec<Pair>,
    /// Pairs by status; folders are not counted here.
    pub counts: BTreeMap<Status, usize>,
    /// Folders that only one side has: gone, new.
    pub folders: (usize, usize),
    /// Changes that count, in all pairs.
    pub changes: usize,
    /// Changes that are muted, in all pairs.
    pub muted: usize,
    /// What the rules masked, in all pairs.
    pub account: Account,
    /// Blocks of lines that moved from one file to another.
    pub moved_blocks: usize,
    /// What was not looked at.
    pub left_out: LeftOut,
    /// What the trees have to say of themselves and of some entries.
    pub remarks: Vec<Remark>,
    /// The edits in the lines of all pairs.
    pub(super) edits: LineEdits,
}

/// What was not looked at, and why.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct LeftOut {
    /// Entries that the patterns leave out.
    pub by_pattern: usize,
    /// Entries that ignore files name.
    pub by_ignore_files: usize,
    /// Entries that are Tideline's own: temporary files of runs, and its journal.
    pub own: usize,
    /// Folders too deep to be entered.
    pub too_deep: usize,
    /// Folders of version control, by path.
    pub repositories: Vec<TreePath>,
    /// Pairs whose contents were not read, because their size or time was believed.
    pub unread: usize,
    /// Empty folders of one tree that the other could not hold.
    pub empty_folders: usize,
    /// Pairs whose permissions were not compared, or only in part, because a side does not hold them.
    pub modes: usize,
    /// Pairs whose times were not compared, because a side does not hold them.
    pub times: usize,
}

impl LeftOut {
    /// Adds what another part of the walk left out.
    pub fn add(&mut self, other: Self) {
        self.by_pattern += other.by_pattern;
        self.by_ignore_files += other.by_ignore_files;
        self.own += other.own;
        self.too_deep += other.too_deep;
        self.repositories.extend(other.repositories);
        self.unread += other.unread;
        self.empty_folders += other.empty_folders;
        self.modes += other.modes;
        self.times += other.times;
    }
}

impl TreeComparison {
    /// Adds pairs to the counts; folders that only one side has are counted apart.
    pub fn tally(&mut self, pairs: &[Pair]) {
        for pair in pairs {
            match (pair.is_folder(), pair.status) {
                (true, Status::Gone) => self.folders.0 += 1,
                (true, Status::New) => self.folders.1 += 1,
                _ => *self.counts.entry(pair.status).or_default() += 1,
            }
            self.changes += pair.extent.counted;
            self.muted += pair.extent.muted;
            self.account.add(&pair.account);
            self.moved_blocks += pair.moved_blocks.iter().filter(|block| block.form == Form::New).count();
        }
    }

    /// Keeps only some pairs, and counts anew. What was the same and not kept is no longer counted, and the edit that lines have in common
    /// not known.
    pub fn narrow(&mut self, keep: impl Fn(&Pair) -> bool) {
        self.pairs.retain(keep);
        (self.counts, self.folders) = (BTreeMap::new(), (0, 0));
        (self.changes, self.muted, self.account) = (0, 0, Account::default());
        self.moved_blocks = 0;
        self.edits = LineEdits::default();
        let pairs = std::mem::take(&mut self.pairs);
        self.tally(&pairs);
        self.pairs = pairs;
    }

    /// How many pairs have a status.
    pub fn count(&self, status: Status) -> usize {
        self.counts.get(&status).copied().unwrap_or(0)
    }

    /// All pairs that were looked at, folders not counted.
    pub fn files(&self) -> usize {
        self.counts.values().sum()
    }

    /// The edit that at least half of the lines that differ in both sides' files have in common.
    pub fn common_edit(&self) -> Option<CommonEdit> {
        self.edits.common()
    }

    /// Whether anything differs that counts.
    pub fn differs(&self) -> bool {
        let quiet = self.count(Status::Same) + self.count(Status::Muted);
        self.files() > quiet || self.folders != (0, 0)
    }
}

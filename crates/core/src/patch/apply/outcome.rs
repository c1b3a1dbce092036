//! How patches are applied, and what became of them.

use std::path::PathBuf;
use std::sync::Arc;

use super::super::model::{FilePatch, Hunk};
use super::super::placement::HunkPlacement;
use super::target::TargetError;
use crate::internal::plan::UnsafeName;
use crate::internal::rules::FileRules;

/// How patches are applied.
#[derive(Clone, Debug, Default)]
pub struct ApplyOptions {
    /// Leading folders to drop from each name; without it, they are found out.
    pub drop_folders: Option<usize>,
    /// How many outer context lines of a hunk need not hold.
    pub tolerance: usize,
    /// What does not count when lines are compared.
    pub file_rules: Arc<FileRules>,
    /// Whether hunks that do not fit go into their files as conflicts.
    pub mark: bool,
    /// The one file that the patch is for, whatever names it holds.
    pub only: Option<PathBuf>,
}

/// Why a patch cannot be applied at all.
#[derive(Clone, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ApplyError {
    /// It is about several files, and one was named.
    #[error("it is about {0} files, and one was named")]
    SeveralFiles(usize),
    /// A name would lead out of the target.
    #[error("line {line}: the name {name} is not followed: {problem}")]
    Name {
        /// The line of the patch where the part begins.
        line: usize,
        /// The name.
        name: String,
        /// What is wrong with it.
        problem: UnsafeName,
    },
    /// A name is too short for what is to be dropped.
    #[error("line {line}: {name} has no {folders} leading folders to drop")]
    TooShort {
        /// The line of the patch where the part begins.
        line: usize,
        /// The name.
        name: String,
        /// So many were to be dropped.
        folders: usize,
    },
    /// A part names no file.
    #[error("line {0}: the part that begins here names no file")]
    Nameless(usize),
    /// A file of the target is out of reach.
    #[error("line {line}: {problem}")]
    Target {
        /// The line of the patch where the part begins.
        line: usize,
        /// Why.
        problem: TargetError,
    },
}

/// What became of a patch.
#[derive(Clone, Debug, Default)]
pub struct AppliedPatch {
    /// Leading folders that were dropped from its names.
    pub dropped: usize,
    /// What became of each part about a file.
    pub parts: Vec<AppliedPart>,
    /// All that has no place, as the parts of a patch of its own.
    pub leftover: Vec<FilePatch>,
}

/// What became of a part about a file.
#[derive(Clone, Debug)]
pub struct AppliedPart {
    /// The path below the target.
    pub path: PathBuf,
    /// Another file that could be meant, and exists; it was left alone.
    pub other: Option<PathBuf>,
    /// What became of the file.
    pub outcome: Outcome,
    /// Whether contents or permissions of the file change by it.
    pub changes: bool,
    /// Whether its contents are not text.
    pub binary: bool,
    /// The hunks.
    pub hunks: Vec<Hunk>,
    /// What became of each; none where they were not tried.
    pub fits: Vec<HunkPlacement>,
}

/// What became of a file that a patch is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// Its contents or its permissions change.
    Changed,
    /// It is made.
    Created,
    /// It is removed.
    Deleted,
    /// It is left without contents, and stays: nothing in the patch says that it goes.
    Emptied,
    /// It goes elsewhere; its contents may change too.
    Moved(PathBuf),
    /// It is made as a copy; its contents may differ from it.
    Copied(PathBuf),
    /// Everything is in it already.
    AlreadyIn,
    /// It is not there.
    Missing,
    /// It is left as it is.
    Refused(PartRefusal),
}

/// Why a part about a file is not applied.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum PartRefusal {
    /// A file that is made or moved would replace another.
    #[error("it exists already, and holds something else")]
    Exists,
    /// A file that is removed holds something else than the patch says.
    #[error("it does not hold what it did when the patch was made")]
    HoldsOther,
    /// The patch says only that contents differ.
    #[error("it is not text, and the patch says only that it differs")]
    NotCarried,
    /// Contents that are not text are not those that the patch was made for.
    #[error("it is not text, and not what it was when the patch was made")]
    BinaryDiffers,
    /// It is a link where the patch has a file, or the other way round.
    #[error("it is a link where the patch has a file, or a file where it has a link")]
    OtherType,
    /// Its permissions are neither the old nor the new ones.
    #[error("its mode is {0:o}, neither the old nor the new one")]
    Mode(u32),
}

impl AppliedPart {
    /// Whether all of it has a place or is in already.
    pub fn is_whole(&self) -> bool {
        !matches!(self.outcome, Outcome::Missing | Outcome::Refused(_)) && self.misfits() == 0
    }

    /// How many hunks have no place.
    pub fn misfits(&self) -> usize {
        self.fits.iter().filter(|fit| matches!(fit, HunkPlacement::PlacementFailure(_))).count()
    }
}

impl AppliedPatch {
    /// Whether all of it has a place or is in already.
    pub fn is_whole(&self) -> bool {
        self.parts.iter().all(AppliedPart::is_whole)
    }
}

//! Plans: the steps that a writing command would take, as values. Who carries them out checks first that everything is still as
//! it was when the plan was made.

mod paths;
mod stamp;
mod sync;

use std::path::{Path, PathBuf};

pub use paths::{UnsafeName, checked_name, checked_path, path_of};
pub use stamp::{Fingerprint, Moment, Stamp};
pub use sync::{Item, LeftAlone, Reason, Side, SyncMode, SyncOptions, SyncPlan, SyncStep, Undecided, Verb, plan_sync};

/// The steps that a command would take.
#[derive(Clone, Debug, Default)]
pub struct Plan {
    /// The folders that the steps are beneath, in full and without links. Each is opened once, and everything beneath it is reached
    /// from there. A step beneath none of them is about the folder that its path is in.
    pub roots: Vec<PathBuf>,
    /// The steps. No two are about one path, but for what is set of a folder.
    pub steps: Vec<Step>,
    /// What is only read, and must be as it was when the plan was made.
    pub sources: Vec<Source>,
    /// Whether links on the way to what is copied are followed; on the way to what is written they never are.
    pub follows_links: bool,
}

impl Plan {
    /// A plan of these steps, for no root but the folders they are in.
    pub fn of(steps: Vec<Step>) -> Self {
        Self { steps, ..Self::default() }
    }
}

/// Something that a step depends on.
#[derive(Clone, Debug)]
pub struct Source {
    /// The number of the step, from 0.
    pub step: usize,
    /// Where it is.
    pub path: PathBuf,
    /// What it must be.
    pub expected: ExpectedState,
}

/// One step.
#[derive(Clone, Debug)]
pub enum Step {
    /// Makes a folder.
    MakeFolder {
        /// Where.
        path: PathBuf,
        /// What stands there.
        expected: ExpectedState,
        /// A folder whose extended attributes it gets, unless others are named.
        like: Option<PathBuf>,
        /// What it gets, once all is in it.
        attributes: FileAttributes,
    },
    /// Gives a folder attributes, once all else is done.
    SetFolder {
        /// Where.
        path: PathBuf,
        /// What it gets.
        attributes: FileAttributes,
    },
    /// Writes a file or a link: a new one, or in the place of what is there.
    Write {
        /// Where.
        path: PathBuf,
        /// What stands there.
        expected: ExpectedState,
        /// What it will hold.
        contents: Contents,
        /// What it gets; the rest is that of the file that is replaced, or of any new file.
        attributes: FileAttributes,
    },
    /// Moves a file to where nothing stands. It is one step: either both paths change or none.
    Move {
        /// Where it is.
        from: PathBuf,
        /// Where it will be.
        path: PathBuf,
        /// What it is.
        expected: ExpectedState,
        /// What it will hold, if that is something else.
        contents: Option<Contents>,
        /// What it gets.
        attributes: FileAttributes,
    },
    /// Removes a file or a link.
    Remove {
        /// Where.
        path: PathBuf,
        /// What stands there.
        expected: ExpectedState,
    },
    /// Removes a folder if it is empty.
    RemoveFolder {
        /// Where.
        path: PathBuf,
    },
}

impl Step {
    /// Makes a folder where nothing stands, like any new one.
    pub fn new_folder(path: PathBuf) -> Self {
        Self::MakeFolder { path, expected: ExpectedState::Nothing, like: None, attributes: FileAttributes::default() }
    }

    /// Writes a file with the attributes of the one it replaces, or of any new file.
    pub fn write(path: PathBuf, expected: ExpectedState, contents: Contents) -> Self {
        Self::Write { path, expected, contents, attributes: FileAttributes::default() }
    }

    /// All paths that it is about: of a move, both.
    pub fn paths(&self) -> impl Iterator<Item = &Path> {
        let from = if let Self::Move { from, .. } = self { Some(from.as_path()) } else { None };
        from.into_iter().chain([self.path()])
    }

    /// The path that it is about; of a move, the one where the file will be.
    pub fn path(&self) -> &Path {
        match self {
            Self::MakeFolder { path, .. }
            | Self::SetFolder { path, .. }
            | Self::Write { path, .. }
            | Self::Move { path, .. }
            | Self::Remove { path, .. }
            | Self::RemoveFolder { path } => path,
        }
    }
}

/// What a file or folder is given besides its contents; what is `None` stays, or is that of any new one.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct FileAttributes {
    /// Permission bits.
    pub mode: Option<u32>,
    /// The time of the last change.
    pub modified: Option<Moment>,
    /// The user and the group that own it, by number.
    pub owner: Option<(u32, u32)>,
    /// All its extended attributes, access control lists among them.
    pub extended: Option<Vec<Extended>>,
}

impl FileAttributes {
    /// Permission bits and a time.
    pub fn of(mode: Option<u32>, modified: Option<Moment>) -> Self {
        Self { mode, modified, ..Self::default() }
    }
}

/// An extended attribute: its name and its value.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Extended {
    /// Its name, with its namespace.
    pub name: Vec<u8>,
    /// Its value.
    pub value: Vec<u8>,
}

/// What a file will hold.
#[derive(Clone, Debug)]
pub enum Contents {
    /// These bytes.
    Bytes(Vec<u8>),
    /// What another file holds; with a stamp, only as long as that is the file's.
    CopyOf(PathBuf, Option<Stamp>),
    /// What was backed up; only if it still has this fingerprint.
    Backup(BackupPlace, Fingerprint),
    /// What a file holds that was made for this plan and that nothing else needs: it becomes the new one where that is possible.
    Taken(PathBuf, Fingerprint),
    /// It is the same file as another that this plan writes: a second name for it.
    SameAs(PathBuf),
    /// It is no file, but a link that points there.
    Link(PathBuf),
}

/// Where a backup is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct BackupPlace {
    /// The file that holds it.
    pub file: PathBuf,
    /// Where it begins in that file, and its length, if the file holds more.
    pub range: Option<(u64, u64)>,
}

/// What stands at a path when a plan is made.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ExpectedState {
    /// Nothing.
    Nothing,
    /// A file with these contents.
    File(Fingerprint),
    /// A file of which the system said this, and these contents if they were read then.
    Stamped(Stamp, Option<Fingerprint>),
    /// A link that points there.
    Link(PathBuf),
    /// A folder, which the other steps of the plan empty.
    Folder,
    /// Nothing or a file, whatever it holds.
    Anything,
}

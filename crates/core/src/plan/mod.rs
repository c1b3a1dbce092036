//! Plans: the steps that a writing command would take, as values. Who carries them out checks first that everything is still as
//! it was when the plan was made.

mod paths;
mod stamp;
mod sync;

use std::path::{Path, PathBuf};
use std::time::SystemTime;

pub use paths::{UnsafeName, checked_name, path_of};
pub use stamp::{Fingerprint, Moment, Stamp};
pub use sync::{Item, LeftAlone, Side, SyncOptions, SyncPlan, SyncStep, Undecided, Verb, Way, plan_sync};

/// The steps that a command would take, in order.
#[derive(Clone, Debug, Default)]
pub struct Plan {
    /// The steps.
    pub steps: Vec<Step>,
}

/// One step.
#[derive(Clone, Debug)]
pub enum Step {
    /// Makes a folder.
    MakeFolder {
        /// Where.
        path: PathBuf,
        /// What stands there.
        expected: Standing,
        /// A folder whose extended attributes it gets.
        like: Option<PathBuf>,
        /// Its permission bits; those of any new folder, if nothing is said.
        mode: Option<u32>,
        /// The time of its last change, once all is in it; now, if nothing is said.
        modified: Option<SystemTime>,
    },
    /// Gives a folder permission bits and the time of its last change, once all else is done.
    SetFolder {
        /// Where.
        path: PathBuf,
        /// Its permission bits, if they are to be others.
        mode: Option<u32>,
        /// The time of its last change, if it is to be another.
        modified: Option<SystemTime>,
    },
    /// Writes a file or a link: a new one, or in the place of what is there.
    Write {
        /// Where.
        path: PathBuf,
        /// What stands there.
        expected: Standing,
        /// What it will hold.
        contents: Contents,
        /// Its permission bits; those of the file that is replaced, or of any new file, if nothing is said.
        mode: Option<u32>,
        /// The time of its last change; now, if nothing is said.
        modified: Option<SystemTime>,
    },
    /// Moves a file to where nothing stands.
    Move {
        /// Where it is.
        from: PathBuf,
        /// Where it will be.
        path: PathBuf,
        /// What it is.
        expected: Standing,
        /// Its permission bits, if they are to be others.
        mode: Option<u32>,
        /// The time of its last change, if it is to be another.
        modified: Option<SystemTime>,
    },
    /// Removes a file or a link.
    Remove {
        /// Where.
        path: PathBuf,
        /// What stands there.
        expected: Standing,
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
        Self::MakeFolder { path, expected: Standing::Nothing, like: None, mode: None, modified: None }
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

/// What a file will hold.
#[derive(Clone, Debug)]
pub enum Contents {
    /// These bytes.
    Bytes(Vec<u8>),
    /// What another file holds; with a stamp, only as long as that is the file's.
    CopyOf(PathBuf, Option<Stamp>),
    /// What a file holds that was made for this plan and that nobody else needs: it becomes the new one where that is possible.
    Taken(PathBuf, Fingerprint),
    /// It is no file, but a link that points there.
    Link(PathBuf),
}

/// What stands at a path when a plan is made.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Standing {
    /// Nothing.
    Nothing,
    /// A file with these contents.
    File(Fingerprint),
    /// A file of which the system said this, and these contents if they were read then.
    Seen(Stamp, Option<Fingerprint>),
    /// A link that points there.
    Link(PathBuf),
    /// A folder, which the other steps of the plan empty.
    Folder,
    /// Nothing or a file, whatever it holds.
    Anything,
}

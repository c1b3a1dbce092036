//! Plans: the steps that a writing command would take, as values. Who carries them out checks first that everything is still as
//! it was when the plan was made.

mod paths;
mod stamp;

use std::path::{Path, PathBuf};
use std::time::SystemTime;

pub use paths::{UnsafeName, checked_name};
pub use stamp::{Fingerprint, Moment, Stamp};

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
    },
    /// Writes a file: a new one, or in the place of the one that is there.
    Write {
        /// Where.
        path: PathBuf,
        /// What stood there when the plan was made.
        expected: Standing,
        /// What it will hold.
        contents: Contents,
        /// Its permission bits; those of the file that is replaced, or of any new file, if nothing is said.
        mode: Option<u32>,
        /// The time of its last change; now, if nothing is said.
        modified: Option<SystemTime>,
    },
    /// Removes a file.
    Remove {
        /// Where.
        path: PathBuf,
        /// What stood there when the plan was made.
        expected: Standing,
    },
    /// Removes a folder if it is empty.
    RemoveFolder {
        /// Where.
        path: PathBuf,
    },
}

impl Step {
    /// The path that it is about.
    pub fn path(&self) -> &Path {
        match self {
            Self::MakeFolder { path }
            | Self::Write { path, .. }
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
    /// What another file holds.
    CopyOf(PathBuf),
}

/// What stands at a path.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Standing {
    /// Nothing.
    Nothing,
    /// A file with these contents.
    File(Fingerprint),
    /// A file of which the system said this, and these contents if they were read then.
    Seen(Stamp, Option<Fingerprint>),
    /// Whatever it is.
    Anything,
}

//! The files that patches go into.

use std::path::{Path, PathBuf};

use super::super::names::Names;
use crate::internal::plan::{ExpectedState, Fingerprint};

/// The files that patches go into, as whoever keeps them sees them.
pub trait TargetFiles: Names + Sync {
    /// What stands at a path below the target, which does not lead out of it. Links are not followed.
    ///
    /// # Errors
    /// When a link or a file stands in the middle of the path, or a device at its end, or when it cannot be read.
    fn look(&self, path: &Path) -> Result<Found, TargetError>;
}

/// Why a file of the target is out of reach.
#[derive(Clone, Debug, thiserror::Error)]
#[error("{0}")]
pub struct TargetError(pub String);

/// What stands at a path.
#[derive(Clone, Debug, Default)]
pub enum Found {
    /// Nothing.
    #[default]
    Nothing,
    /// A file.
    File {
        /// Its contents.
        bytes: Vec<u8>,
        /// Its permission bits, where there are such.
        mode: Option<u32>,
        /// What a plan expects to find here.
        expected: ExpectedState,
        /// By what its contents are known again.
        print: Fingerprint,
    },
    /// A link that points there.
    Link(PathBuf),
    /// A folder. A file can come in its place if everything in it goes.
    Folder,
}

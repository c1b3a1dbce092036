//! One file, standard input, or a pipe.

use std::fmt;
use std::fs::{File, Metadata};
use std::io::{self, Read};
use std::ops::{Deref, Range};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use tideline_core::internal::tree::{Contents, TreeError};

use crate::mapped::Mapped;
use crate::mode::mode_of;
use crate::revision::RevisionError;

/// Files of at least this size are mapped instead of read, so that comparing them takes no memory of their size.
pub(crate) const MAPPED_FROM: u64 = 16 << 20;

/// Where the bytes of one side come from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Origin {
    /// Standard input, written `-`.
    StandardInput,
    /// A path.
    Path(PathBuf),
}

impl Origin {
    /// The origin that an argument names.
    pub fn of(argument: &Path) -> Self {
        if argument.as_os_str() == "-" { Self::StandardInput } else { Self::Path(argument.to_path_buf()) }
    }
}

/// The bytes of one side, when they were last changed, and the permission bits of the file.
pub struct Content {
    bytes: Bytes,
    modified: Option<SystemTime>,
    mode: Option<u32>,
}

enum Bytes {
    Read(Vec<u8>),
    Mapped(Box<Mapped>),
    /// What was unpacked, or came from a repository.
    Made(Contents),
}

impl fmt::Debug for Content {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Content").field("size", &self.len()).field("modified", &self.modified).finish_non_exhaustive()
    }
}

impl Content {
    /// Bytes that are no file of their own, and when that was last changed which they come from.
    pub fn of(contents: Contents, modified: Option<SystemTime>) -> Self {
        Self { bytes: Bytes::Made(contents), modified, mode: None }
    }

    /// Fails when the file was changed since it was opened, so that what was read of it may never have been its contents.
    ///
    /// # Errors
    /// When it was changed.
    pub fn check(&self) -> io::Result<()> {
        match &self.bytes {
            Bytes::Mapped(map) if map.changed() => Err(changed_meanwhile()),
            Bytes::Made(contents) => contents.check().map_err(|_| changed_meanwhile()),
            _ => Ok(()),
        }
    }

    /// The parts of the file that have no place on the disk, and read as zeros. Of small files, and of what is no file, none is told.
    pub fn holes(&self) -> Vec<Range<usize>> {
        match &self.bytes {
            Bytes::Mapped(map) => map.holes(),
            Bytes::Read(_) | Bytes::Made(_) => Vec::new(),
        }
    }

    /// When the file was last changed; not known of standard input and pipes.
    pub fn modified(&self) -> Option<SystemTime> {
        self.modified
    }

    /// The permission bits of the file; not known of standard input and pipes, and of systems without them.
    pub fn mode(&self) -> Option<u32> {
        self.mode
    }
}

impl AsRef<[u8]> for Content {
    fn as_ref(&self) -> &[u8] {
        self
    }
}

impl Deref for Content {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        match &self.bytes {
            Bytes::Read(bytes) => bytes,
            Bytes::Mapped(map) => map,
            Bytes::Made(contents) => (**contents).as_ref(),
        }
    }
}

/// Why a side could not be opened.
#[derive(Debug, thiserror::Error)]
pub enum OpenError {
    /// There is nothing at the path.
    #[error("cannot open {}: there is no such file or folder; check the spelling of the path", path.display())]
    Missing {
        /// The path.
        path: PathBuf,
    },
    /// A folder stands where a file was expected.
    #[error("cannot read {} as a file: it is a folder", path.display())]
    Folder {
        /// The path.
        path: PathBuf,
    },
    /// The system refused.
    #[error("cannot read {}: {error}; check its permissions, or leave it out", path.display())]
    Unreadable {
        /// The path.
        path: PathBuf,
        /// The system's reason.
        error: io::Error,
    },
    /// What it holds cannot be read: it is damaged, or larger than a bound allows.
    #[error("cannot read {}: {error}", path.display())]
    Damaged {
        /// The path.
        path: PathBuf,
        /// The reason.
        error: TreeError,
    },
    /// It stands for no revision.
    #[error("cannot open {argument}: {error}")]
    Revision {
        /// The argument.
        argument: String,
        /// The reason.
        error: RevisionError,
    },
    /// A folder is compared with what nobody typed yet.
    #[error("cannot compare {} with standard input: {} is a folder, and standard input is a terminal; pipe an archive into it, or name two files", folder.display(), folder.display())]
    InputForFolder {
        /// The folder.
        folder: PathBuf,
    },
    /// Standard input broke off.
    #[error("cannot read standard input: {error}")]
    StandardInput {
        /// The system's reason.
        error: io::Error,
    },
}

impl OpenError {
    /// Why a path could not be opened.
    pub(crate) fn of(path: &Path, error: io::Error) -> Self {
        match error.kind() {
            _ if path.as_os_str() == "-" => Self::StandardInput { error },
            io::ErrorKind::NotFound => Self::Missing { path: path.to_path_buf() },
            io::ErrorKind::IsADirectory => Self::Folder { path: path.to_path_buf() },
            io::ErrorKind::PermissionDenied => Self::Unreadable { path: path.to_path_buf(), error },
            _ => Self::Damaged { path: path.to_path_buf(), error: TreeError::from(&error) },
        }
    }

    pub(crate) fn tree(path: &Path, error: TreeError) -> Self {
        Self::Damaged { path: path.to_path_buf(), error }
    }

    pub(crate) fn revision(argument: &Path, error: RevisionError) -> Self {
        Self::Revision { argument: argument.display().to_string(), error }
    }
}

/// Opens one side.
///
/// # Errors
/// When there is nothing there, when it is a folder, or when the system refuses to let it be read.
pub fn open(origin: &Origin) -> Result<Content, OpenError> {
    match origin {
        Origin::StandardInput => {
            let mut bytes = Vec::new();
            io::stdin().lock().read_to_end(&mut bytes).map_err(|error| OpenError::StandardInput { error })?;
            Ok(Content { bytes: Bytes::Read(bytes), modified: None, mode: None })
        }
        Origin::Path(path) => open_path(path).map_err(|error| match error.kind() {
            io::ErrorKind::NotFound => OpenError::Missing { path: path.clone() },
            io::ErrorKind::IsADirectory => OpenError::Folder { path: path.clone() },
            _ => OpenError::Unreadable { path: path.clone(), error },
        }),
    }
}

fn open_path(path: &Path) -> io::Result<Content> {
    read_open(File::open(path)?)
}

/// The contents of a file that is open.
pub(crate) fn read_open(file: File) -> io::Result<Content> {
    let metadata = file.metadata()?;
    if metadata.is_dir() {
        return Err(io::ErrorKind::IsADirectory.into());
    }
    let modified = metadata.is_file().then(|| metadata.modified().ok()).flatten();
    let mode = if metadata.is_file() { mode_of(&metadata) } else { None };
    Ok(Content { bytes: bytes_of(file, &metadata)?, modified, mode })
}

fn bytes_of(mut file: File, metadata: &Metadata) -> io::Result<Bytes> {
    if metadata.is_file() && metadata.len() >= MAPPED_FROM {
        match Mapped::new(file, metadata)? {
            Ok(map) => return Ok(Bytes::Mapped(Box::new(map))),
            Err(unmapped) => file = unmapped,
        }
    }
    let size = if metadata.is_file() { metadata.len() } else { 0 };
    let mut bytes = Vec::new();
    bytes.try_reserve_exact(usize::try_from(size).unwrap_or(usize::MAX).saturating_add(1))?;
    file.read_to_end(&mut bytes)?;
    // Files that the system makes up as they are read have no size.
    if size > 0 && bytes.len() as u64 != size {
        return Err(changed_meanwhile());
    }
    Ok(Bytes::Read(bytes))
}

/// The reason when a file is not what it was when it was opened.
pub(crate) fn changed_meanwhile() -> io::Error {
    io::Error::other("it was changed while it was read")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn mapped_and_read_files_hold_the_same_bytes() {
        let folder = tempfile::tempdir().unwrap();
        for size in [0, 1, MAPPED_FROM - 1, MAPPED_FROM, MAPPED_FROM + 1] {
            let path = folder.path().join("levels");
            let bytes: Vec<u8> = (0..size).map(|at| (at % 251) as u8).collect();
            std::fs::write(&path, &bytes).unwrap();
            assert!(*open(&Origin::of(&path)).unwrap() == *bytes, "{size} bytes");
        }
    }

    #[test]
    fn errors_say_the_path_and_the_reason() {
        let folder = tempfile::tempdir().unwrap();
        let missing = open(&Origin::of(&folder.path().join("none"))).unwrap_err();
        assert!(matches!(missing, OpenError::Missing { .. }));
        assert!(matches!(open(&Origin::of(folder.path())).unwrap_err(), OpenError::Folder { .. }));
    }
}

//! The calls that a journal makes of a file system, behind a trait, so that tests can change, fail and cut off any of them. A folder
//! is a handle; everything else is a name in one.

use std::ffi::{OsStr, OsString};
use std::fmt;
use std::io;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use tideline_core::internal::plan::{Extended, Fingerprint, Moment, Stamp};

/// What a file or folder is, whatever its name: its device and its number there.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Identity(pub u64, pub u64);

/// What the system says of a file, a folder or a link.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct FileMetadata {
    /// What it is.
    pub identity: Identity,
    /// Its size and times.
    pub stamp: Stamp,
    /// Its permission bits.
    pub mode: u32,
    /// The user and the group that own it, by number.
    pub owner: (u32, u32),
    /// How many names it has.
    pub names: u64,
}

impl FileMetadata {
    /// Whether this is the same file, and no program wrote to it or changed its permissions: what a rename leaves as it is.
    pub fn is_unchanged(&self, then: &Self) -> bool {
        (self.identity, self.stamp.size, self.stamp.modified, self.mode, self.owner)
            == (then.identity, then.stamp.size, then.stamp.modified, then.mode, then.owner)
    }
}

/// What stands at a name; links are not followed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Found {
    /// Nothing.
    Nothing,
    /// A file.
    File(FileMetadata),
    /// A folder.
    Folder(FileMetadata),
    /// A link, and where it points.
    Link(FileMetadata, PathBuf),
    /// A device, a pipe, a socket.
    Other,
}

impl Found {
    /// Whether this is the very thing that was found, and no program wrote to it or changed its attributes.
    pub fn is_unchanged(&self, then: &Self) -> bool {
        match (self, then) {
            (Self::Link(metadata, to), Self::Link(then, target)) => metadata.identity == then.identity && to == target,
            _ => match (self.metadata(), then.metadata()) {
                (Some(metadata), Some(then)) => metadata.is_unchanged(then),
                _ => false,
            },
        }
    }

    /// What the system says of it.
    pub fn metadata(&self) -> Option<&FileMetadata> {
        match self {
            Self::File(metadata) | Self::Folder(metadata) | Self::Link(metadata, _) => Some(metadata),
            Self::Nothing | Self::Other => None,
        }
    }
}

/// A name in a folder.
pub struct At<'a, D> {
    /// The folder.
    pub folder: &'a D,
    /// The name.
    pub name: &'a OsStr,
}

impl<D> Clone for At<'_, D> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<D> Copy for At<'_, D> {}

impl<'a, D> At<'a, D> {
    /// A name in a folder.
    pub fn new(folder: &'a D, name: &'a (impl AsRef<OsStr> + ?Sized)) -> Self {
        Self { folder, name: name.as_ref() }
    }
}

/// Where the bytes of a new file come from.
pub enum Bytes<'a, D> {
    /// Here they are.
    These(&'a [u8]),
    /// Another file, which must be as it was seen, or as long as it is read.
    File(At<'a, D>, Option<Stamp>),
    /// A file by its path; links are followed. It must be as it was seen.
    Path(&'a Path, Option<Stamp>),
}

/// What a file or folder is given; what is `None` stays as it is.
#[derive(Clone, Copy, Debug, Default)]
pub struct NewAttributes<'a> {
    /// Permission bits.
    pub mode: Option<u32>,
    /// The time of the last change.
    pub modified: Option<Moment>,
    /// The user and the group that are to own it, each as far as the system allows.
    pub owner: Option<(u32, u32)>,
    /// Exactly these extended attributes, as far as the system allows.
    pub extended: Option<&'a [Extended]>,
}

/// What could not be given, or must not be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Dropped {
    /// The owner: the file belongs to whoever runs the program.
    Owner,
    /// The group.
    Group,
    /// The permission to act as the owner or the group, which are others now.
    ActAs,
    /// Permission bits, which the file system refuses.
    Mode,
    /// The time, which the system refuses.
    Time,
    /// Extended attributes or an access control list.
    Extended,
    /// Capabilities.
    Capabilities,
}

impl fmt::Display for Dropped {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Owner => "its owner could not be kept",
            Self::Group => "its group could not be kept",
            Self::ActAs => "set-user-id and set-group-id were dropped, because its owner or group is another",
            Self::Mode => "its permissions could not be set on this file system",
            Self::Time => "its time could not be set",
            Self::Extended => "some of its extended attributes could not be kept",
            Self::Capabilities => "its capabilities were dropped",
        })
    }
}

/// A file that was made.
#[derive(Clone, Debug)]
pub struct Created {
    /// What it holds.
    pub print: Fingerprint,
    /// What the system says of it.
    pub metadata: FileMetadata,
    /// What it could not be given.
    pub dropped: Vec<Dropped>,
}

/// A file that was read: its bytes, if they were few, and what the system said of it before and after.
#[derive(Clone, Debug)]
pub struct ReadFile {
    /// What it holds.
    pub print: Fingerprint,
    /// What the system says of it.
    pub metadata: FileMetadata,
    /// All its bytes, if there are no more than were asked for.
    pub bytes: Option<Vec<u8>>,
    /// Its extended attributes, in the order of their names.
    pub extended: Vec<Extended>,
}

/// What a journal does with files. Names hold no `/`; folders are handles. No call follows a link at the name that it is given.
pub trait FileSystem: Send + Sync {
    /// An open folder.
    type Folder: Send + Sync;

    /// Opens a folder by a path without links.
    ///
    /// # Errors
    /// Those of the system; links on the way are errors.
    fn open_root(&self, path: &Path) -> io::Result<Self::Folder>;

    /// Opens the folder of the journal, which is made if it is missing, for its owner alone.
    ///
    /// # Errors
    /// Those of the system; `PermissionDenied` when another program owns it.
    fn open_private(&self, path: &Path) -> io::Result<Self::Folder>;

    /// Opens a folder beneath another.
    ///
    /// # Errors
    /// Those of the system; links on the way are errors.
    fn open_beneath(&self, folder: &Self::Folder, path: &Path) -> io::Result<Self::Folder>;

    /// What the system says of an open folder.
    ///
    /// # Errors
    /// Those of the system.
    fn metadata(&self, folder: &Self::Folder) -> io::Result<FileMetadata>;

    /// What stands at a name.
    ///
    /// # Errors
    /// Those of the system; nothing being there is none.
    fn find(&self, at: At<'_, Self::Folder>) -> io::Result<Found>;

    /// The names in a folder.
    ///
    /// # Errors
    /// Those of the system.
    fn list(&self, folder: &Self::Folder) -> io::Result<Vec<OsString>>;

    /// The extended attributes of a file, in the order of their names.
    ///
    /// # Errors
    /// Those of the system.
    fn extended(&self, at: At<'_, Self::Folder>) -> io::Result<Vec<Extended>>;

    /// The extended attributes of an open folder.
    ///
    /// # Errors
    /// Those of the system.
    fn folder_extended(&self, folder: &Self::Folder) -> io::Result<Vec<Extended>>;

    /// Reads a file, and keeps its bytes if there are at most so many.
    ///
    /// # Errors
    /// Those of the system; and when the file was changed while it was read.
    fn read(&self, at: At<'_, Self::Folder>, most: u64) -> io::Result<ReadFile>;

    /// Reads a part of a file.
    ///
    /// # Errors
    /// Those of the system; and when the file is shorter.
    fn read_range(&self, at: At<'_, Self::Folder>, range: (u64, u64)) -> io::Result<Vec<u8>>;

    /// Makes a file that must not exist. Nobody else can read it before it is as it is wanted.
    ///
    /// # Errors
    /// Those of the system; and when what is copied is not what it was.
    fn create(
        &self,
        at: At<'_, Self::Folder>,
        bytes: Bytes<'_, Self::Folder>,
        wanted: &NewAttributes<'_>,
    ) -> io::Result<Created>;

    /// Adds bytes to the end of a file, which is made if it is missing, and says where they begin.
    ///
    /// # Errors
    /// Those of the system.
    fn append(&self, at: At<'_, Self::Folder>, bytes: &[u8]) -> io::Result<u64>;

    /// Makes a link that must not exist.
    ///
    /// # Errors
    /// Those of the system.
    fn make_link(
        &self,
        at: At<'_, Self::Folder>,
        target: &Path,
        wanted: &NewAttributes<'_>,
    ) -> io::Result<FileMetadata>;

    /// Makes a folder that must not exist; a private one is for its owner alone.
    ///
    /// # Errors
    /// Those of the system.
    fn make_folder(&self, at: At<'_, Self::Folder>, private: bool) -> io::Result<()>;

    /// Gives a file a second name, which must not exist.
    ///
    /// # Errors
    /// Those of the system.
    fn add_name(&self, from: At<'_, Self::Folder>, to: At<'_, Self::Folder>) -> io::Result<()>;

    /// Gives a folder attributes.
    ///
    /// # Errors
    /// Those of the system, but for what it may refuse.
    fn set_folder(&self, folder: &Self::Folder, wanted: &NewAttributes<'_>) -> io::Result<Vec<Dropped>>;

    /// Gives a file that is there attributes.
    ///
    /// # Errors
    /// Those of the system, but for what it may refuse.
    fn set_file(&self, at: At<'_, Self::Folder>, wanted: &NewAttributes<'_>) -> io::Result<Vec<Dropped>>;

    /// Renames something of the journal's own; what stands at the new name is replaced.
    ///
    /// # Errors
    /// Those of the system.
    fn rename(&self, from: At<'_, Self::Folder>, to: At<'_, Self::Folder>) -> io::Result<()>;

    /// Renames something to a name at which nothing stands.
    ///
    /// # Errors
    /// Those of the system; `AlreadyExists` when something stands there.
    fn rename_new(&self, from: At<'_, Self::Folder>, to: At<'_, Self::Folder>) -> io::Result<()>;

    /// Exchanges what stands at two names, in one step.
    ///
    /// # Errors
    /// Those of the system; `Unsupported` where it cannot do this.
    fn exchange(&self, one: At<'_, Self::Folder>, other: At<'_, Self::Folder>) -> io::Result<()>;

    /// Removes a file or a link.
    ///
    /// # Errors
    /// Those of the system.
    fn remove(&self, at: At<'_, Self::Folder>) -> io::Result<()>;

    /// Removes a file or a link that is as it was found, and no program wrote to; whether it was. No system can look and remove in one call:
    /// the time between them is kept as short as it can be.
    ///
    /// # Errors
    /// Those of the system.
    fn remove_unchanged(&self, at: At<'_, Self::Folder>, found: &Found) -> io::Result<bool>;

    /// Removes an empty folder.
    ///
    /// # Errors
    /// Those of the system.
    fn remove_folder(&self, at: At<'_, Self::Folder>) -> io::Result<()>;

    /// Flushes files to the disk.
    ///
    /// # Errors
    /// Those of the system.
    fn flush_files(&self, files: &[At<'_, Self::Folder>]) -> io::Result<()>;

    /// Starts writing a file to the disk, where the system can be asked to. Files that are all on their way take one commit of
    /// the file system's own journal when they are flushed, and not one each.
    fn start_flush(&self, _: At<'_, Self::Folder>) {}

    /// Flushes what folders say of their entries to the disk.
    ///
    /// # Errors
    /// Those of the system.
    fn flush_folders(&self, folders: &[&Self::Folder]) -> io::Result<()>;

    /// Flushes the file system that a folder is on; whether that can be done.
    ///
    /// # Errors
    /// Those of the system.
    fn flush_whole(&self, folder: &Self::Folder) -> io::Result<bool>;

    /// Takes the lock of a journal; `None` when another process holds it.
    ///
    /// # Errors
    /// Those of the system.
    fn lock(&self, at: At<'_, Self::Folder>) -> io::Result<Option<Box<dyn Lock>>>;
}

/// A lock that is held until it is dropped.
pub trait Lock: Send {
    /// Writes down who holds it.
    fn sign(&mut self, text: &str);
}

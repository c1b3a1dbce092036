//! Trees: what a folder, an archive or a revision holds, and what differs between two of them.
//!
//! A [`Tree`] lists the entries of a folder and opens files; [`compare`] walks two of them side by side, folder by folder,
//! and keeps only what differs. Equal files cost their reading and nothing else.

mod contents;
mod filter;
mod likeness;
mod memory;
mod moves;
mod options;
mod pair;
mod walk;

use std::fmt;
use std::io::Read;
use std::time::SystemTime;

pub use contents::{PairTexts, pair_texts};
pub use filter::Filter;
pub use memory::MemoryTree;
pub use options::{Attributes, TreeOptions, Trust};
pub use pair::{Attribute, LeftOut, Pair, TreeComparison};
pub use walk::{Progress, by_path, compare};

/// The bytes of a file, however they are held.
pub type Contents = Box<dyn FileContents>;

/// Bytes that may belong to a file that others write into.
pub trait FileContents: AsRef<[u8]> + Send + Sync {
    /// Fails when the file was changed while its bytes were used.
    ///
    /// # Errors
    /// When it was changed.
    fn check(&self) -> Result<(), Problem> {
        Ok(())
    }
}

impl FileContents for Vec<u8> {}

/// Something that holds named entries in folders. Paths are relative to its root, their parts separated by `/`; the root
/// itself is the empty path.
pub trait Tree: Sync {
    /// Lists a folder, in any order.
    ///
    /// # Errors
    /// When the folder cannot be read.
    fn list(&self, folder: &[u8]) -> Result<Listing, Problem>;

    /// What is known of an entry without reading it.
    ///
    /// # Errors
    /// When the entry cannot be looked at.
    fn facts(&self, path: &[u8]) -> Result<Facts, Problem>;

    /// Opens a file to be read from its start.
    ///
    /// # Errors
    /// When the file cannot be opened.
    fn open(&self, path: &[u8]) -> Result<Opened, Problem>;

    /// The whole contents of a file.
    ///
    /// # Errors
    /// When the file cannot be opened or read.
    fn contents(&self, path: &[u8]) -> Result<Contents, Problem> {
        let mut opened = self.open(path)?;
        let mut bytes = Vec::with_capacity(usize::try_from(opened.facts.size).unwrap_or(0));
        opened.reader.read_to_end(&mut bytes).map_err(|error| Problem::new(error.to_string()))?;
        Ok(Box::new(bytes))
    }

    /// Where a link points.
    ///
    /// # Errors
    /// When the entry is no link or cannot be read.
    fn link_target(&self, path: &[u8]) -> Result<Vec<u8>, Problem>;

    /// Whether the tree would leave out an entry at a path, were there one: its ignore files name it, or a folder above it.
    fn leaves_out(&self, _path: &[u8], _nature: Nature) -> bool {
        false
    }
}

/// The entries of a folder, and what was left out of them.
#[derive(Clone, Debug, Default)]
pub struct Listing {
    /// The entries.
    pub entries: Vec<Entry>,
    /// Entries that the ignore files in the tree name.
    pub ignored: usize,
    /// Folders of version control that were passed over, by name.
    pub repositories: Vec<Vec<u8>>,
    /// Entries that are Tideline's own: temporary files of runs, and its journal.
    pub own: usize,
}

/// A name in a folder, and what it stands for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    /// The name, without the folder.
    pub name: Vec<u8>,
    /// What it is.
    pub nature: Nature,
}

/// What an entry is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Nature {
    /// A file.
    File,
    /// A folder.
    Folder,
    /// A symbolic link, taken as it is.
    Link,
    /// A socket, a pipe, a device: its contents are never read.
    Special(&'static str),
}

impl fmt::Display for Nature {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::File => "file",
            Self::Folder => "folder",
            Self::Link => "link",
            Self::Special(name) => name,
        })
    }
}

/// What is known of a file without reading it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Facts {
    /// Its size in bytes.
    pub size: u64,
    /// When it was last changed.
    pub modified: Option<SystemTime>,
    /// Its permission bits, where there are such.
    pub mode: Option<u32>,
    /// When it was last changed in any way, where the system keeps that.
    pub changed: Option<SystemTime>,
    /// The file itself, whatever its names: its device and its number there.
    pub identity: Option<(u64, u64)>,
    /// How many names it has, where that is known.
    pub names: u64,
}

/// A file that is open to be read.
pub struct Opened {
    /// What is known of it.
    pub facts: Facts,
    /// Reads it from its start.
    pub reader: Box<dyn Read + Send>,
}

/// Why something could not be read, in words.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{reason}")]
pub struct Problem {
    reason: String,
}

impl Problem {
    /// A problem with its reason.
    pub fn new(reason: impl Into<String>) -> Self {
        Self { reason: reason.into() }
    }
}

/// A path made of a folder and a name in it.
pub fn join(folder: &[u8], name: &[u8]) -> Vec<u8> {
    if folder.is_empty() { name.to_vec() } else { [folder, b"/", name].concat() }
}

/// The folder and the name of a path.
pub fn split(path: &[u8]) -> (&[u8], &[u8]) {
    match memchr::memrchr(b'/', path) {
        Some(at) => (&path[..at], &path[at + 1..]),
        None => (b"", path),
    }
}

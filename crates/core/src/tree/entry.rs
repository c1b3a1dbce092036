//! What a tree holds, and what is known of it without reading.

use std::fmt;
use std::time::{Duration, SystemTime};

use super::{TreeError, TreePath};

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
    /// Why there may be more in the folder than is listed.
    pub damage: Option<TreeError>,
}

/// A name in a folder, and what it stands for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    /// The name, without the folder.
    pub name: Vec<u8>,
    /// What it is.
    pub entry_type: EntryType,
    /// What is known of it, if a listing tells that; then it is not asked for again.
    pub metadata: Option<EntryMetadata>,
    /// Whether it is a folder only to be looked into: an archive, which can be read as the file that it is too.
    pub packed: bool,
}

impl Entry {
    /// An entry of which nothing else is known.
    pub fn new(name: impl Into<Vec<u8>>, entry_type: EntryType) -> Self {
        Self { name: name.into(), entry_type, metadata: None, packed: false }
    }
}

/// What a tree has to say of itself or of an entry, once it was compared: nothing that differs, but something to know.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Remark {
    /// The entry that it is about; none where it is about the tree.
    pub path: Option<TreePath>,
    /// What there is to know, in words.
    pub text: String,
}

/// By what the contents of a file are known.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct ContentId {
    /// How it was made. Only identities of one algorithm say anything about each other.
    pub algorithm: &'static str,
    /// The identity itself.
    pub bytes: Vec<u8>,
}

/// What an entry is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum EntryType {
    /// A file.
    File,
    /// A folder.
    Folder,
    /// A symbolic link, taken as it is.
    Link,
    /// A socket, a pipe, a device: its contents are never read. Where a tree keeps identities of such entries, those are compared.
    Special(&'static str),
}

impl fmt::Display for EntryType {
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
pub struct EntryMetadata {
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
    /// The permission bits that are not known, where some are.
    pub mode_unknown: u32,
    /// How coarse `modified` is: zero where it is exact.
    pub time_step: Duration,
}

impl EntryMetadata {
    /// Whether the permissions of two entries differ in what is known of both; nothing where one of them has none.
    pub fn mode_differs(&self, other: &Self) -> Option<bool> {
        let unknown = self.mode_unknown | other.mode_unknown;
        Some((self.mode? ^ other.mode?) & !unknown != 0)
    }

    /// Whether the times of two entries differ, as far as the coarser of both tells; nothing where one of them is not known.
    pub fn time_differs(&self, other: &Self) -> Option<bool> {
        let (one, two) = (self.modified?, other.modified?);
        let apart = one.duration_since(two).or_else(|_| two.duration_since(one)).unwrap_or_default();
        let step = self.time_step.max(other.time_step);
        Some(apart > Duration::ZERO && apart >= step)
    }
}

//! What a tree holds, and what is known of it without reading.

use std::fmt;
use std::time::SystemTime;

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
    pub entry_type: EntryType,
    /// What is known of it, if a listing tells that; then it is not asked for again.
    pub metadata: Option<EntryMetadata>,
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
    /// A socket, a pipe, a device: its contents are never read.
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
}

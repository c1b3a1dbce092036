//! The record of a run, as values. How it stands on the disk is told in `format`.

use std::cmp::Ordering;
use std::hash::{Hash, Hasher};
use std::path::{Path, PathBuf};

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use serde::{Deserialize, Serialize};
use tideline_core::internal::plan::{Extended, Fingerprint, Moment, path_of};
use tideline_core::internal::tree::by_path;

use crate::files::{FileMetadata, Identity};
use crate::names::Token;

/// The version of the records.
pub(crate) const VERSION: u32 = 3;

/// A run: what stands at the head of its record.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RunRecord {
    /// The version of the record.
    pub version: u32,
    /// Its number.
    pub run: u64,
    /// What its temporary files are known by.
    pub token: Token,
    /// What was typed.
    pub command: String,
    /// When it began, by RFC 3339.
    pub begun: String,
    /// How far it came.
    pub progress: Progress,
    /// The run that it undoes.
    pub undoes: Option<u64>,
    /// Whether it undoes all of that run.
    pub whole: bool,
    /// How many paths it is about.
    pub paths: usize,
    /// The bytes of its backups.
    pub bytes: u64,
    /// The folders that everything is beneath.
    pub roots: Vec<RootRecord>,
    /// How many entries follow.
    pub entries: usize,
    /// How many folders follow in which entries come or go.
    pub touched: usize,
}

/// A folder that everything is beneath.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RootRecord {
    /// Its path, in full.
    pub path: PathText,
    /// What it is.
    pub identity: Identity,
}

/// How far a run came.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Progress {
    /// Backups and new files are being made; no file of the person's is changed yet.
    Preparing,
    /// Files are being put in place.
    Placing,
    /// Everything was put back; what was prepared is being cleared away.
    #[serde(rename = "put_back")]
    PutBack,
    /// It is done.
    Done,
}

impl Progress {
    /// Whether nothing of the person's is changed.
    pub(crate) fn is_as_before(self) -> bool {
        matches!(self, Self::Preparing | Self::PutBack)
    }
}

/// A record with all that its run does.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Run {
    /// The head.
    pub head: RunRecord,
    /// Path by path, in the order of paths.
    pub entries: Vec<Entry>,
    /// The folders that are there, in which entries come or go.
    pub touched: Vec<Touched>,
}

/// A folder in which entries come or go.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Touched {
    /// Its place.
    pub place: Place,
    /// What it is.
    pub identity: Identity,
    /// When it was last changed before.
    pub before: Option<Moment>,
    /// When it was last changed after the run.
    pub after: Option<Moment>,
    /// Its permission bits, if they were opened up for the run.
    pub unlocked: Option<u32>,
}

/// A path beneath a root. Deep paths begin alike; they are compared as bytes, and not name by name.
#[derive(Clone, Debug)]
pub struct Place {
    /// The number of the root.
    pub root: usize,
    /// The path from there.
    pub path: PathBuf,
}

impl PartialEq for Place {
    fn eq(&self, other: &Self) -> bool {
        self.root == other.root && self.bytes() == other.bytes()
    }
}

impl Eq for Place {}

impl Hash for Place {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.root.hash(state);
        self.bytes().hash(state);
    }
}

impl PartialOrd for Place {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Place {
    fn cmp(&self, other: &Self) -> Ordering {
        self.root.cmp(&other.root).then_with(|| by_path(self.bytes(), other.bytes()))
    }
}

impl Place {
    fn bytes(&self) -> &[u8] {
        self.path.as_os_str().as_encoded_bytes()
    }

    /// The path from a place to one below it; empty for the place itself.
    pub(crate) fn below<'o>(&self, other: &'o Self) -> Option<&'o [u8]> {
        let rest = other.bytes().strip_prefix(self.bytes()).filter(|_| self.root == other.root)?;
        if rest.is_empty() || self.bytes().is_empty() { Some(rest) } else { rest.strip_prefix(b"/") }
    }

    /// Whether another place is this one, or below it.
    pub(crate) fn contains(&self, other: &Self) -> bool {
        self.below(other).is_some()
    }

    pub(crate) fn new(root: usize, path: impl Into<PathBuf>) -> Self {
        Self { root, path: path.into() }
    }

    /// The folder that it is in; that of a root is the root.
    pub(crate) fn folder(&self) -> Self {
        Self::new(self.root, self.path.parent().unwrap_or(Path::new("")))
    }

    /// The same folder, and another name.
    pub(crate) fn beside(&self, name: &std::ffi::OsStr) -> Self {
        Self::new(self.root, self.folder().path.join(name))
    }
}

/// What a run does at one path.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    /// The path.
    pub place: Place,
    /// What was there.
    pub was: OldState,
    /// What will be there.
    pub will: NewState,
    /// Where its temporary file is.
    pub site: Site,
    /// The other entry of a move.
    pub with: Option<usize>,
    /// Of an entry that was left out, and does nothing: what was prepared for it.
    pub prepared: Option<NewState>,
}

impl Entry {
    /// Whether it changes no more of a folder than its attributes.
    pub(crate) fn only_sets(&self) -> bool {
        matches!((&self.was, &self.will), (OldState::Folder(_), NewState::Folder(folder)) if !folder.made)
    }

    /// The bytes of its backup.
    pub(crate) fn backed_up(&self) -> u64 {
        match &self.was {
            OldState::File(file) if file.backup.is_some() => file.size,
            _ => 0,
        }
    }
}

/// Where the temporary file of an entry is: the new file until it is in place, and then the old one until the run ends.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Site {
    /// There is none.
    None,
    /// Beside its place.
    Beside,
    /// In its own place in a new folder, which is in its place only when that is; the entry of the topmost new folder.
    Within(usize),
    /// In a folder above, because its own folder goes.
    Above(PathText),
}

/// What was at a path.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum OldState {
    /// Nothing.
    Nothing,
    /// A folder.
    Folder(Known),
    /// A file.
    File(OldFile),
    /// A link.
    Link {
        /// Where it points.
        target: PathText,
        /// What else is known of it.
        known: Known,
    },
}

/// Attributes of what was there.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Known {
    /// What it was.
    pub identity: Identity,
    /// Its permission bits.
    pub mode: u32,
    /// When it was last changed.
    pub modified: Option<Moment>,
    /// The user and the group that own it, by number.
    pub owner: (u32, u32),
    /// Its extended attributes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub extended: Vec<ExtendedText>,
}

impl Known {
    pub(crate) fn of(metadata: &FileMetadata, extended: &[Extended]) -> Self {
        Self {
            identity: metadata.identity,
            mode: metadata.mode,
            modified: metadata.stamp.modified,
            owner: metadata.owner,
            extended: extended.iter().map(ExtendedText::of).collect(),
        }
    }

    pub(crate) fn extended(&self) -> Vec<Extended> {
        self.extended.iter().map(ExtendedText::value).collect()
    }
}

/// A file that was there.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct OldFile {
    /// Its size.
    pub size: u64,
    /// Its BLAKE3 hash, in hexadecimal digits; empty until it is read.
    pub hash: String,
    /// Its attributes.
    pub known: Known,
    /// Its backup; none of a file that is only renamed.
    pub backup: Option<BackupRecord>,
    /// The entry of another name of the same file, whose backup is this one's too.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub same_as: Option<usize>,
    /// Whether another program wrote to the old file during the run; that version is kept too.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub later: bool,
}

impl OldFile {
    pub(crate) fn print(&self) -> Fingerprint {
        print_of(self.size, &self.hash)
    }
}

/// Where a backup is, in the folder of its run.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum BackupRecord {
    /// In the file that holds all small ones: where it begins there.
    Packed(u64),
    /// In a file of its own.
    Alone(String),
}

/// What will be at a path.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum NewState {
    /// Nothing.
    Nothing,
    /// A folder.
    Folder(NewFolder),
    /// A file.
    File(NewFile),
    /// A link.
    Link {
        /// Where it points.
        target: PathText,
    },
    /// The file of the other entry, renamed.
    Moved,
}

/// A folder that a run makes, or gives attributes; what is `None` stays, or is that of any new folder.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct NewFolder {
    /// Whether the run makes it.
    pub made: bool,
    /// The permission bits that it gets.
    pub mode: Option<u32>,
    /// The time of its last change.
    pub modified: Option<Moment>,
    /// The user and the group that are to own it.
    pub owner: Option<(u32, u32)>,
    /// The extended attributes that it gets.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub extended: Option<Vec<ExtendedText>>,
}

impl NewFolder {
    pub(crate) fn extended(&self) -> Option<Vec<Extended>> {
        self.extended.as_ref().map(|list| list.iter().map(ExtendedText::value).collect())
    }
}

/// A file that a run writes.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct NewFile {
    /// Its size.
    pub size: u64,
    /// Its BLAKE3 hash, in hexadecimal digits; empty until it is written.
    pub hash: String,
    /// What it is, once it is written.
    pub identity: Option<Identity>,
    /// Its permission bits, once it is written.
    pub mode: Option<u32>,
    /// When it was last changed.
    pub modified: Option<Moment>,
}

impl NewFile {
    pub(crate) fn print(&self) -> Fingerprint {
        print_of(self.size, &self.hash)
    }
}

/// An extended attribute in a record.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ExtendedText {
    /// Its name.
    name: PathText,
    /// Its value, by RFC 4648.
    base64: String,
}

impl ExtendedText {
    pub(crate) fn of(one: &Extended) -> Self {
        Self { name: PathText::of_bytes(&one.name), base64: BASE64_STANDARD.encode(&one.value) }
    }

    fn value(&self) -> Extended {
        let value = BASE64_STANDARD.decode(&self.base64).unwrap_or_default();
        Extended { name: self.name.path().into_os_string().into_encoded_bytes(), value }
    }
}

/// A path in a record.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum PathText {
    /// UTF-8.
    Text(String),
    /// Anything else.
    Bytes {
        /// The bytes, by RFC 4648.
        base64: String,
    },
}

impl PathText {
    pub(crate) fn of(path: &Path) -> Self {
        Self::of_bytes(path.as_os_str().as_encoded_bytes())
    }

    pub(crate) fn of_bytes(bytes: &[u8]) -> Self {
        match std::str::from_utf8(bytes) {
            Ok(text) => Self::Text(text.to_owned()),
            Err(_) => Self::Bytes { base64: BASE64_STANDARD.encode(bytes) },
        }
    }

    /// The path.
    pub fn path(&self) -> PathBuf {
        match self {
            Self::Text(text) => PathBuf::from(text),
            Self::Bytes { base64 } => path_of(&BASE64_STANDARD.decode(base64).unwrap_or_default()).unwrap_or_default(),
        }
    }
}

pub(crate) fn hex(hash: &[u8; 32]) -> String {
    blake3::Hash::from_bytes(*hash).to_hex().to_string()
}

/// The fingerprint that a record holds.
pub(crate) fn print_of(size: u64, hash: &str) -> Fingerprint {
    Fingerprint { size, hash: blake3::Hash::from_hex(hash).map_or([0; 32], |hash| *hash.as_bytes()) }
}

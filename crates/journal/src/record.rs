//! The record of a run, as it is kept on the disk.

use std::path::{Path, PathBuf};

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use serde::{Deserialize, Serialize};
use tideline_core::plan::{Fingerprint, Moment, path_of};

/// The version of the records.
pub(crate) const VERSION: u32 = 2;

/// A run.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RunRecord {
    /// The version of the record.
    pub version: u32,
    /// Its number.
    pub run: u64,
    /// What was typed.
    pub command: String,
    /// When it began, by RFC 3339.
    pub begun: String,
    /// When it ended.
    pub ended: Option<Moment>,
    /// How far it came.
    pub progress: Progress,
    /// The run that it undoes.
    pub undoes: Option<u64>,
    /// The run that undid it.
    pub undone_by: Option<u64>,
    /// How many paths it is about.
    pub paths: usize,
    /// The bytes of the copies that are kept.
    pub kept: u64,
    /// What it does; kept apart, so that only who needs it reads it.
    #[serde(skip)]
    pub deeds: Deeds,
}

impl RunRecord {
    /// The same without what it does.
    pub(crate) fn head(&self) -> Self {
        Self { command: self.command.clone(), begun: self.begun.clone(), deeds: Deeds::default(), ..*self }
    }
}

/// What a run does.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Deeds {
    /// Path by path, in order.
    pub entries: Vec<Entry>,
    /// The folders that are there, in which entries come or go.
    pub touched: Vec<Touched>,
}

/// A folder in which entries come or go, and when it was last changed before.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Touched {
    /// The folder, in full.
    pub path: PathText,
    /// When it was last changed before.
    pub modified: Moment,
}

/// How far a run came.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Progress {
    /// Copies and new files are being made; no file of the person's is changed yet.
    Preparing,
    /// Files are being put in place.
    Placing,
    /// It is done.
    Done,
}

/// What a run does at one path.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Entry {
    /// The path, in full.
    pub path: PathText,
    /// What was there.
    pub was: Was,
    /// What will be there.
    pub will: Will,
}

impl Entry {
    /// The bytes of the copy that is kept.
    pub(crate) fn kept(&self) -> u64 {
        match &self.was {
            Was::File { size, .. } => *size,
            _ => 0,
        }
    }

    /// Whether a folder takes the place of a file or a link, or the other way round.
    pub(crate) fn changes_nature(&self) -> bool {
        let folders = (matches!(self.was, Was::Folder { .. }), matches!(self.will, Will::Folder { .. }));
        self.was != Was::Nothing && self.will != Will::Nothing && folders.0 != folders.1
    }

    /// Whether it changes no more of a folder than its permissions and times.
    pub(crate) fn only_sets(&self) -> bool {
        matches!((&self.was, &self.will), (Was::Folder { .. }, Will::Folder { .. }))
    }
}

/// What was at a path.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Was {
    /// Nothing.
    Nothing,
    /// A folder.
    Folder {
        /// The name of an empty copy with its extended attributes, in the folder of the run; none of a folder that stays.
        copy: Option<String>,
        /// Its permission bits.
        mode: Option<u32>,
        /// When it was last changed.
        modified: Option<Moment>,
    },
    /// A file, of which a copy is kept.
    File {
        /// The name of the copy, in the folder of the run.
        copy: String,
        /// Its size.
        size: u64,
        /// Its BLAKE3 hash, in hexadecimal digits.
        hash: String,
        /// Its permission bits.
        mode: Option<u32>,
        /// When it was last changed.
        modified: Option<Moment>,
        /// The user and the group that own it, by number.
        owner: Option<(u32, u32)>,
    },
    /// A link.
    Link {
        /// Where it points.
        target: PathText,
    },
    /// A file that moves away.
    Moved {
        /// Where to.
        to: PathText,
        /// Its size.
        size: u64,
        /// Its BLAKE3 hash, in hexadecimal digits.
        hash: String,
        /// Its permission bits.
        mode: Option<u32>,
        /// When it was last changed.
        modified: Option<Moment>,
    },
}

/// What will be at a path.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Will {
    /// Nothing.
    Nothing,
    /// A folder.
    Folder {
        /// Where it is made and filled before it is put in its place; none of a folder that is there already.
        beside: Option<PathText>,
        /// The permission bits that it gets.
        mode: Option<u32>,
        /// The time of its last change.
        modified: Option<Moment>,
    },
    /// A file.
    File {
        /// The file that will be put in its place: beside it, or in a new folder that is not in its own place yet.
        beside: PathText,
        /// Its size.
        size: u64,
        /// Its BLAKE3 hash, in hexadecimal digits; empty until it is written.
        hash: String,
    },
    /// A link.
    Link {
        /// The link that will be put in its place.
        beside: PathText,
        /// Where it points.
        target: PathText,
    },
    /// A file that moves here.
    Moved {
        /// From where.
        from: PathText,
        /// Its size.
        size: u64,
        /// Its BLAKE3 hash, in hexadecimal digits.
        hash: String,
        /// The permission bits that it gets.
        mode: Option<u32>,
        /// The time of its last change that it gets.
        modified: Option<Moment>,
    },
}

impl Will {
    /// What is made before it is put in its place.
    pub(crate) fn beside(&self) -> Option<PathBuf> {
        match self {
            Self::File { beside, .. } | Self::Link { beside, .. } => Some(beside.path()),
            Self::Folder { beside, .. } => beside.as_ref().map(PathText::path),
            Self::Nothing | Self::Moved { .. } => None,
        }
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
        match path.to_str() {
            Some(text) => Self::Text(text.to_owned()),
            None => Self::Bytes { base64: BASE64_STANDARD.encode(path.as_os_str().as_encoded_bytes()) },
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

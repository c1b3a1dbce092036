//! The record of a run, as it is kept on the disk.

use std::path::{Path, PathBuf};

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use serde::{Deserialize, Serialize};
use tideline_core::plan::{Fingerprint, Moment};

/// The version of the records.
pub(crate) const VERSION: u32 = 1;

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
    /// What it does, in order; kept apart, so that only who needs it reads it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub entries: Vec<Entry>,
}

impl RunRecord {
    /// The same without what it does.
    pub(crate) fn head(&self) -> Self {
        Self { command: self.command.clone(), begun: self.begun.clone(), entries: Vec::new(), ..*self }
    }
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
            Was::Nothing | Was::Folder => 0,
        }
    }
}

/// What was at a path.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Was {
    /// Nothing.
    Nothing,
    /// A folder.
    Folder,
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
    },
}

/// What will be at a path.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Will {
    /// Nothing.
    Nothing,
    /// A folder.
    Folder,
    /// A file.
    File {
        /// The file beside it that will be put in its place.
        beside: PathText,
        /// Its size.
        size: u64,
        /// Its BLAKE3 hash, in hexadecimal digits.
        hash: String,
    },
}

/// A path as text, or as bytes where it is not UTF-8.
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
            Self::Bytes { base64 } => path_of_bytes(BASE64_STANDARD.decode(base64).unwrap_or_default()),
        }
    }
}

#[cfg(unix)]
fn path_of_bytes(bytes: Vec<u8>) -> PathBuf {
    use std::os::unix::ffi::OsStringExt;
    std::ffi::OsString::from_vec(bytes).into()
}

#[cfg(not(unix))]
fn path_of_bytes(bytes: Vec<u8>) -> PathBuf {
    String::from_utf8_lossy(&bytes).into_owned().into()
}

pub(crate) fn hex(hash: &[u8; 32]) -> String {
    blake3::Hash::from_bytes(*hash).to_hex().to_string()
}

/// Whether a file is what a record says.
pub(crate) fn is(found: &Fingerprint, size: u64, hash: &str) -> bool {
    found.size == size && hex(&found.hash) == hash
}

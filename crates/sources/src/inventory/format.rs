//! The records of an inventory: JSON Lines, a head first, one record an entry, totals last.

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The version of the format.
pub const VERSION: u32 = 1;

/// A line of an inventory.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(tag = "record", rename_all = "snake_case")]
pub enum Record {
    /// The first line.
    Inventory(Head),
    /// An entry of the tree. They come in path order, a folder before what is in it.
    Entry(Box<Known>),
    /// The last line.
    Total(Total),
}

/// What the inventory is of, and how it was made.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct Head {
    /// The version of the format: 1.
    pub version: u32,
    /// The tree, as it was named.
    pub root: Text,
    /// The hashes that files have, by name: `blake3`, and what else was asked for.
    pub hashes: Vec<String>,
    /// What of the tree was left out.
    pub rules: Rules,
}

/// What of a tree was left out of an inventory, by the options that say so.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(default)]
pub struct Rules {
    /// `--include`: only what fits one of these.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub include: Vec<String>,
    /// `--exclude`: not what fits one of these.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub exclude: Vec<String>,
    /// `--depth`: so many folders deep.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub depth: Option<u16>,
    /// `--use-ignore-files`.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub use_ignore_files: bool,
    /// `--with-repositories`.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub with_repositories: bool,
    /// `--links follow`.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub follow_links: bool,
    /// `--open-archives`.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub open_archives: bool,
}

/// An entry of the tree.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct Known {
    /// Its path from the root.
    pub path: Text,
    /// What it is: `file`, `folder`, `link`, or what else the system calls it.
    #[serde(rename = "type")]
    pub entry_type: String,
    /// Of a file, its size in bytes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size: Option<u64>,
    /// Its permissions, in octal digits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mode: Option<String>,
    /// The bits of `mode` that are known, in octal digits, where not all are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mode_known: Option<String>,
    /// When it was last changed (RFC 3339).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub modified: Option<String>,
    /// How coarse that time is, in seconds, where it is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub modified_step: Option<u64>,
    /// Of a link, where it points.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub target: Option<Text>,
    /// Of a file, the BLAKE3 hash of its contents, in hexadecimal digits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blake3: Option<String>,
    /// The SHA-256 hash.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sha256: Option<String>,
    /// Why it could not be read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unreadable: Option<String>,
}

/// The sums over all entries.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct Total {
    /// Files.
    pub files: u64,
    /// Folders, the root not counted.
    pub folders: u64,
    /// Links.
    pub links: u64,
    /// What is none of these.
    pub others: u64,
    /// Entries that could not be read.
    pub unreadable: u64,
    /// The bytes of all files.
    pub bytes: u64,
    /// The BLAKE3 hash of all lines above this one, with their line ends, in hexadecimal digits.
    pub blake3: String,
}

/// A path: text, or bytes that are none.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(untagged)]
pub enum Text {
    /// Text.
    Text(String),
    /// Bytes that are no UTF-8.
    Bytes {
        /// The bytes in base64 (RFC 4648).
        base64: String,
    },
}

impl Default for Text {
    fn default() -> Self {
        Self::Text(String::new())
    }
}

impl Text {
    /// Bytes, as text where they are text.
    pub fn of(bytes: &[u8]) -> Self {
        match std::str::from_utf8(bytes) {
            Ok(text) => Self::Text(text.to_owned()),
            Err(_) => Self::Bytes { base64: STANDARD.encode(bytes) },
        }
    }

    /// The bytes; nothing where the base64 is damaged.
    pub fn bytes(&self) -> Option<Vec<u8>> {
        match self {
            Self::Text(text) => Some(text.as_bytes().to_vec()),
            Self::Bytes { base64 } => STANDARD.decode(base64).ok(),
        }
    }
}

/// Whether bytes begin with the head of an inventory.
pub(crate) fn is_inventory(head: &[u8]) -> bool {
    let line = head.split(|&byte| byte == b'\n').next().unwrap_or_default();
    matches!(serde_json::from_slice(line), Ok(Record::Inventory(_)))
}

/// The JSON Schema of the records, as it is published.
#[cfg(feature = "schema")]
pub fn schema() -> String {
    let schema = schemars::schema_for!(Record);
    // A schema is plain JSON.
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}

//! The records of a plan.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::value::TextOrBytes;

/// Opens a plan.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct PlanRecord {
    /// The version of the records.
    pub version: u32,
    /// The root of the tree that is carried from, in full.
    pub from: TextOrBytes,
    /// The root of the tree that is carried into, in full.
    pub into: TextOrBytes,
    /// Whether differences are carried both ways.
    pub both_ways: bool,
}

/// One step of a plan.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct StepRecord {
    /// What it does.
    pub verb: VerbRecord,
    /// Its path from the root.
    pub path: TextOrBytes,
    /// Which tree is written to.
    pub side: SideRecord,
    /// Where a file that moves is now.
    pub moved_from: Option<TextOrBytes>,
    /// The path of an earlier step that writes the same file, of which this path becomes another name.
    #[serde(default)]
    pub same_as: Option<TextOrBytes>,
    /// The bytes that are written, or that go.
    pub bytes: u64,
    /// What stands there now.
    pub was: ItemRecord,
    /// What will stand there.
    pub will: ItemRecord,
}

/// What a step does.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum VerbRecord {
    /// Writes where nothing stands.
    Copy,
    /// Writes in the place of what stands there.
    Replace,
    /// Moves a file.
    Move,
    /// Makes a folder.
    MakeFolder,
    /// Removes a file or a link.
    Remove,
    /// Removes a folder.
    RemoveFolder,
}

/// One of the two trees of a plan.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum SideRecord {
    /// The tree that is carried from.
    From,
    /// The tree that is carried into.
    Into,
}

/// What stands at a path. Moments are seconds since 1970, and nanoseconds.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(tag = "entry", rename_all = "lowercase")]
pub enum ItemRecord {
    /// Nothing.
    Nothing,
    /// A file.
    File {
        /// Its size in bytes.
        size: u64,
        /// When what it holds was last changed.
        modified: Option<(i64, u32)>,
        /// When it was last changed in any way.
        changed: Option<(i64, u32)>,
        /// Its permission bits.
        mode: Option<u32>,
        /// The BLAKE3 hash of what it holds, in hexadecimal digits; only a plan that is saved has it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        hash: Option<String>,
    },
    /// A link.
    Link {
        /// Where it points.
        target: TextOrBytes,
    },
    /// A folder.
    Folder {
        /// Its permission bits.
        mode: Option<u32>,
        /// When it was last changed.
        modified: Option<(i64, u32)>,
    },
}

/// A difference that is not carried.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct UndecidedRecord {
    /// Its path from the roots.
    pub path: TextOrBytes,
    /// Why not.
    pub reason: String,
    /// Whether it could not be looked at.
    pub trouble: bool,
}

/// Closes a plan.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct TotalsRecord {
    /// Steps.
    pub steps: usize,
    /// Bytes that are written.
    pub bytes: u64,
    /// Files and links that are removed.
    pub removals: usize,
    /// Pairs in which nothing differs that counts.
    pub same: usize,
    /// Pairs in which only muted text differs: left alone.
    pub muted: usize,
    /// Files that only the tree has that is written into: left alone.
    pub extra: usize,
    /// Files that are not newer: left alone.
    pub not_newer: usize,
    /// Folders that keep what was not looked at.
    pub kept_folders: usize,
    /// Entries of the one tree that ignore files of the other name: left alone.
    pub ignored: usize,
}

/// A step that could not be carried out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct LeftOutRecord {
    /// Its path, in full.
    pub path: TextOrBytes,
    /// Why not.
    pub reason: String,
}

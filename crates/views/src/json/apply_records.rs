//! The records of `apply`: what became of each file that a patch is about.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::value::TextOrBytes;

/// A file that a patch is about, and what became of it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct AppliedRecord {
    /// The patch, as it was named.
    pub patch: String,
    /// Leading folders that were dropped from the names in the patch.
    pub dropped_folders: usize,
    /// Its path below the folder that the patch went into.
    pub path: TextOrBytes,
    /// What became of it.
    pub outcome: AppliedOutcome,
    /// Why it was refused.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
    /// The path it moved or was copied from.
    pub moved_from: Option<TextOrBytes>,
    /// Another file that could be meant, and was left alone.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub other: Option<TextOrBytes>,
    /// What became of its hunks.
    pub hunks: Vec<AppliedHunk>,
}

/// What became of a file that a patch is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum AppliedOutcome {
    /// Its contents or its permissions changed.
    Changed,
    /// It was made.
    Created,
    /// It was removed.
    Deleted,
    /// It was left without contents.
    Emptied,
    /// It went elsewhere.
    Moved,
    /// It was made as a copy.
    Copied,
    /// Everything was in it already.
    Already,
    /// It is not there.
    Missing,
    /// Not all of its hunks have a place.
    Misfit,
    /// It was left as it was, for a reason.
    Refused,
}

/// A hunk, and what became of it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct AppliedHunk {
    /// The line of the patch where it begins.
    pub patch_line: usize,
    /// Whether it has a place, or is in already.
    pub fits: bool,
    /// Whether it was in already.
    pub already: bool,
    /// Where it went, or is already; several places if each of its changes went in by itself.
    pub places: Vec<AppliedPlace>,
    /// Why it has no place.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
}

/// A place of a hunk or of one of its changes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct AppliedPlace {
    /// The line, from 1, where it begins.
    pub line: usize,
    /// How many lines lower than written; negative if higher. Null of what was in already.
    pub offset: Option<isize>,
    /// Context lines that do not hold.
    pub differing: usize,
    /// Whether it was in already.
    pub already: bool,
}

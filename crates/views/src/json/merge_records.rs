//! The records of three texts or trees and of their merge.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::value::{ChangeSide, TextOrBytes};

/// Opens the output of what compares or merges with a base.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct VersionsRecord {
    /// The version of the records.
    pub version: u32,
    /// The label of the base.
    pub base: String,
    /// The label of mine: of the side before, in a comparison.
    pub mine: String,
    /// The label of theirs: of the side after, in a comparison.
    pub theirs: String,
}

/// What the changes of both sides are to each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum TogetherName {
    /// One side alone changed it.
    OneSided,
    /// Both did the same.
    Alike,
    /// Both changed it, and it merges by itself.
    Apart,
    /// Both changed it, and a person has to say what is right.
    Conflict,
}

/// Who changed something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum ByName {
    /// Mine alone.
    Mine,
    /// Theirs alone.
    Theirs,
    /// Both.
    Both,
}

/// A stretch of lines that at least one side changed since the base.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RegionRecord {
    /// Its number in its file, from 1.
    pub number: usize,
    /// What the changes of both sides are to each other.
    pub together: TogetherName,
    /// Who changed it.
    pub by: ByName,
    /// Whether anything that counts differs.
    pub counts: bool,
    /// Who changed it and how that goes together, in words.
    pub told: String,
    /// Its lines in the base.
    pub base: ChangeSide,
    /// Its lines in mine.
    pub mine: ChangeSide,
    /// Its lines in theirs.
    pub theirs: ChangeSide,
    /// Its lines in the result; null for a conflict.
    pub result: Option<Vec<TextOrBytes>>,
}

/// A path that at least one side changed since the base.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct PathRecord {
    /// Its path in the base; of what is new, where it is.
    pub path: TextOrBytes,
    /// What mine did.
    pub mine: PathSide,
    /// What theirs did.
    pub theirs: PathSide,
    /// What both are to each other.
    pub together: TogetherName,
    /// Why it is a conflict, a sentence each.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub conflicts: Vec<String>,
    /// Whether a side that was preferred decided it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub decided: bool,
    /// Where it is after the merge; null where it is not.
    pub result: Option<TextOrBytes>,
}

/// What one side did to a path.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct PathSide {
    /// What became of it on the way from the base.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    pub status: tideline_core::internal::model::Status,
    /// Where it is on this side; null where it is not there.
    pub path: Option<TextOrBytes>,
}

/// A conflict that is marked in a file, or a version that was written beside one.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct UnresolvedRecord {
    /// The file.
    pub path: TextOrBytes,
    /// The first and the last of the lines of a conflict, marks included, from 1; null where the file is a version that was written beside a
    /// conflict which no marks can show.
    pub lines: Option<(usize, usize)>,
    /// What stands behind the first mark; empty of a version.
    pub mine: String,
    /// What stands behind the last; empty of a version.
    pub theirs: String,
}

/// Closes the output: how many regions, or paths, there are of each.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct MergedRecord {
    /// That one side alone changed.
    pub one_sided: usize,
    /// That both changed alike.
    pub alike: usize,
    /// That both changed and that merge by themselves.
    pub apart: usize,
    /// That are conflicts.
    pub conflicts: usize,
    /// Conflicts that the preferred side decided.
    pub decided: usize,
    /// Lines of theirs that were dropped because they differ only in text that does not count.
    pub dropped: usize,
    /// What the sides disagree on besides the lines, a sentence each.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub values: Vec<String>,
}

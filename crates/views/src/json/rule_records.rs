//! The records of rules, and of why lines count or do not.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use tideline_core::internal::rules::Effect;

use super::kind_names::PairKind;
use super::value::TextOrBytes;

/// A rule.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RuleRecord {
    /// Its name.
    pub name: String,
    /// What becomes of text that it matches.
    #[cfg_attr(feature = "schema", schemars(with = "EffectName"))]
    pub effect: Effect,
    /// What it matches, as it is written.
    pub what: Vec<String>,
    /// Patterns of the files that it is for; null for all files.
    pub files: Option<Vec<String>>,
    /// Where it was declared.
    pub declared: String,
}

/// Why a line counts, is muted or is ignored; of two lines that belong together, both.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ExplanationRecord {
    /// The line before, with its line end.
    pub before: Option<ExplainedLine>,
    /// The line after.
    pub after: Option<ExplainedLine>,
    /// The number of the change that it is in.
    pub change: Option<usize>,
    /// What became of it.
    pub verdict: VerdictName,
    /// What each rule matches in it.
    pub rules: Vec<MatchRecord>,
}

/// How two files are compared, and why so.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ReadingRecord {
    /// How contents are compared.
    pub kind: PairKind,
    /// How, and why so, in words.
    pub why: String,
}

/// A line that is explained.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ExplainedLine {
    /// Its number, from 1.
    pub line: usize,
    /// What it holds.
    pub text: TextOrBytes,
}

/// What a rule matches in a line, or in two.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct MatchRecord {
    /// The rule.
    pub name: String,
    /// What becomes of it.
    #[cfg_attr(feature = "schema", schemars(with = "EffectName"))]
    pub effect: Effect,
    /// The pieces before.
    pub before: Vec<TextOrBytes>,
    /// The pieces after.
    pub after: Vec<TextOrBytes>,
    /// Whether they differ.
    pub differs: bool,
}

/// What became of a line.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum VerdictName {
    /// It is the same on both sides, byte for byte.
    Equal,
    /// It differs and counts.
    Counted,
    /// It differs in what is muted.
    Muted,
    /// It differs in what is ignored.
    Ignored,
}

/// What becomes of text that a rule matches.
#[cfg(feature = "schema")]
#[derive(JsonSchema)]
#[schemars(rename_all = "lowercase")]
#[expect(dead_code, reason = "only its schema is used")]
pub(super) enum EffectName {
    Ignore,
    Mute,
}

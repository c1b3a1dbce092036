//! Records of the rules in force, and of why lines count or do not.

use std::ops::Range;

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use tideline_core::internal::kinds::text::Explanation;
use tideline_core::internal::rules::{Effect, Rule, Verdict};

use super::records::Record;
use super::value::{TextOrBytes, text};
use crate::view::FileView;

/// A rule.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RuleRecord {
    /// Its name.
    pub name: String,
    /// What becomes of text that it matches.
    #[cfg_attr(feature = "schema", schemars(with = "super::records::EffectName"))]
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
    #[cfg_attr(feature = "schema", schemars(with = "super::records::EffectName"))]
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

/// The record of a rule.
pub fn rule(rule: &Rule) -> Record {
    Record::Rule(RuleRecord {
        name: rule.name().to_owned(),
        effect: rule.effect(),
        what: rule.written().map(str::to_owned).collect(),
        files: rule.file_patterns().map(<[String]>::to_vec),
        declared: rule.declared().to_owned(),
    })
}

/// The record of why a line counts or does not.
pub fn explanation(view: &FileView<'_>, explanation: &Explanation) -> Record {
    let line = |place: &Option<(usize, Range<usize>)>, text_of: &[u8]| {
        place.as_ref().map(|(line, bytes)| ExplainedLine { line: line + 1, text: text(&text_of[bytes.clone()]) })
    };
    let (before, after) = (view.before.text(), view.after.text());
    let rules = view.before.file_rules().rules();
    let pieces = |of: &[u8], ranges: &[Range<usize>]| ranges.iter().map(|range| text(&of[range.clone()])).collect();
    Record::Explanation(ExplanationRecord {
        before: line(&explanation.before, before),
        after: line(&explanation.after, after),
        change: explanation.change,
        verdict: match explanation.verdict {
            None => VerdictName::Equal,
            Some(Verdict::Counted) => VerdictName::Counted,
            Some(Verdict::Muted) => VerdictName::Muted,
            Some(Verdict::Ignored) => VerdictName::Ignored,
        },
        rules: explanation
            .reasons
            .iter()
            .map(|reason| MatchRecord {
                name: rules[reason.rule].name().to_owned(),
                effect: rules[reason.rule].effect(),
                before: pieces(before, &reason.before),
                after: pieces(after, &reason.after),
                differs: reason.differs,
            })
            .collect(),
    })
}

//! Rules in force, and why lines count or do not, as records.

use std::ops::Range;

use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::kinds::text::Explanation;
use tideline_core::internal::rules::{Rule, Verdict};

use super::kind_names::kind_name;
use super::records::Record;
use super::rule_records::{ExplainedLine, ExplanationRecord, MatchRecord, ReadingRecord, RuleRecord, VerdictName};
use super::value::text;
use crate::view::FileView;

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

/// The record of how two files are compared, and why so.
pub fn reading(comparison: &Comparison<'_>, why: String) -> Record {
    Record::Reading(ReadingRecord { kind: kind_name(comparison.kind()), why })
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

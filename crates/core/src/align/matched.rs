//! In how many lines that differ a rule matches, for rules that no line was put down to.

use std::ops::Range;

use rayon::prelude::*;

use super::Edit;
use crate::internal::model::Span;
use crate::internal::rules::MaskedText;
use crate::internal::text::lines::Lines;

/// For each rule, the lines of the edits in which it matches, two that belong together being one; 0 for rules that are not asked for.
pub(super) fn matched_lines(
    edits: &[Edit],
    (before, after): (&MaskedText<'_>, &MaskedText<'_>),
    asked: &[bool],
) -> Vec<usize> {
    let mut matched = vec![0; asked.len()];
    if !asked.contains(&true) {
        return matched;
    }
    for edit in edits {
        let (lines_before, lines_after) = (lines_of(before, &edit.before), lines_of(after, &edit.after));
        let mut of_before = matches(before, &lines_before, asked);
        let of_after = matches(after, &lines_after, asked);
        // The case of letters masks no part of a line; it is looked for in lines that stand in each other's place.
        if let Some(rule) = before.file_rules().case_rule().filter(|rule| asked[*rule])
            && lines_before.len() == lines_after.len()
        {
            let is_unlike = |(b, a): &(Range<usize>, Range<usize>)| {
                before.key(b.clone()) == after.key(a.clone()) && before.is_left_unlike(b.clone(), (after, a.clone()))
            };
            of_before[rule] = lines_before.into_iter().zip(lines_after).filter(is_unlike).count();
        }
        for (sum, (b, a)) in matched.iter_mut().zip(of_before.into_iter().zip(of_after)) {
            *sum += b.max(a);
        }
    }
    matched
}

fn lines_of(masked: &MaskedText<'_>, span: &Span) -> Vec<Range<usize>> {
    let lines = Lines::of(&masked.text()[span.bytes.clone()]);
    let start = span.bytes.start;
    (0..lines.len()).map(|at| start + lines.start(at)..start + lines.start(at + 1)).collect()
}

/// For each rule that is asked for, how many of some lines it matches in.
fn matches(masked: &MaskedText<'_>, lines: &[Range<usize>], asked: &[bool]) -> Vec<usize> {
    const WORTH_A_THREAD: usize = 1024;
    let none = || vec![0; asked.len()];
    let count = |mut counts: Vec<usize>, line: &Range<usize>| {
        let mask = masked.mask_of(line.clone());
        let rules = mask.spans.iter().map(|part| part.rule).chain(mask.gone).chain(mask.gone_ignored);
        let mut rules: Vec<usize> = rules.filter(|rule| asked[*rule]).collect();
        rules.sort_unstable();
        rules.dedup();
        rules.into_iter().for_each(|rule| counts[rule] += 1);
        counts
    };
    let sum = |mut one: Vec<usize>, other: Vec<usize>| {
        one.iter_mut().zip(other).for_each(|(sum, count)| *sum += count);
        one
    };
    lines.par_iter().with_min_len(WORTH_A_THREAD).fold(none, count).reduce(none, sum)
}

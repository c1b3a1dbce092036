//! Why a line counts, is muted or is ignored.

use std::ops::Range;

use super::inside::detail;
use crate::internal::model::{Row, Span, TextComparison, Weight};
use crate::internal::rules::{MaskedSpan, MaskedText, Verdict};
use crate::internal::text::bytes::{count_lines, lines_below};
use crate::internal::text::lines::Lines;
use crate::internal::text::words::Grain;

/// Which side a line is on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LineOf {
    /// Before.
    Before,
    /// After.
    After,
}

/// What there is to say about a line, or two lines that belong together.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Explanation {
    /// The line before, from 0, and its bytes.
    pub before: Option<(usize, Range<usize>)>,
    /// The line after.
    pub after: Option<(usize, Range<usize>)>,
    /// The number of the change it is in.
    pub change: Option<usize>,
    /// Whether the difference counts; `None` when the lines are equal, byte for byte.
    pub verdict: Option<Verdict>,
    /// What each rule masks in the lines, by the order of the rules.
    pub reasons: Vec<Reason>,
}

/// What one rule masks in a line, or in two that belong together.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Reason {
    /// The index of the rule in the rules.
    pub rule: usize,
    /// The text before, each piece as bytes of the whole text.
    pub before: Vec<Range<usize>>,
    /// The text after.
    pub after: Vec<Range<usize>>,
    /// Whether what it masked differs.
    pub differs: bool,
    /// Whether the words of the line are the same on the other side, in other lines.
    pub is_wrapped: bool,
}

/// Explains one line; `None` when there is no such line. Lines are counted from 0.
pub fn explain_line(
    before: &MaskedText<'_>,
    after: &MaskedText<'_>,
    comparison: &TextComparison,
    (side, line): (LineOf, usize),
) -> Option<Explanation> {
    let text = if side == LineOf::Before { before.text() } else { after.text() };
    if line >= count_lines(text) {
        return None;
    }
    let of_side =
        |spans: &(Span, Span)| if side == LineOf::Before { spans.0.lines.clone() } else { spans.1.lines.clone() };
    let mut stretches: Vec<(Option<usize>, (Span, Span))> = Vec::new();
    stretches.extend(
        comparison
            .places
            .iter()
            .map(|place| (Some(comparison.changes[place.change].number), (place.before.clone(), place.after.clone()))),
    );
    stretches.extend(comparison.hidden.iter().map(|span| (None, (span.before.clone(), span.after.clone()))));
    if let Some((change, spans)) = stretches.iter().find(|(_, spans)| of_side(spans).contains(&line)) {
        let rows = explained_rows((before, &spans.0), (after, &spans.1), *change);
        return rows.into_iter().find(|found| {
            let found = if side == LineOf::Before { &found.before } else { &found.after };
            found.as_ref().is_some_and(|(at, _)| *at == line)
        });
    }
    // An equal line: as far behind the last difference above it as its partner.
    let above = stretches.iter().map(|(_, spans)| spans).filter(|spans| of_side(spans).end <= line);
    let last = above.max_by_key(|spans| (spans.0.lines.end, spans.1.lines.end));
    let (end_before, end_after) = last.map_or((0, 0), |spans| (spans.0.lines.end, spans.1.lines.end));
    let (b, a) = match side {
        LineOf::Before => (line, end_after + line - end_before),
        LineOf::After => (end_before + line - end_after, line),
    };
    let place = |masked: &MaskedText<'_>, line: usize| {
        let start = lines_below(masked.text(), 0, line).0;
        (line, start..lines_below(masked.text(), start, 1).0)
    };
    Some(explained((before, Some(place(before, b))), (after, Some(place(after, a))), None, None))
}

/// Explains the lines of a change, in reading order.
pub fn explain_change(
    before: &MaskedText<'_>,
    after: &MaskedText<'_>,
    comparison: &TextComparison,
    number: usize,
) -> Option<Vec<Explanation>> {
    let change = comparison.changes.iter().find(|change| change.number == number)?;
    Some(explained_rows((before, &change.before), (after, &change.after), Some(number)))
}

fn explained_rows(
    (before, span_before): (&MaskedText<'_>, &Span),
    (after, span_after): (&MaskedText<'_>, &Span),
    change: Option<usize>,
) -> Vec<Explanation> {
    let detail = detail((before, span_before), (after, span_after), &Grain::Line);
    let place = |lines: &Lines<'_>, span: &Span, line: usize| {
        let bytes = span.bytes.start + lines.start(line)..span.bytes.start + lines.start(line + 1);
        (span.lines.start + line, bytes)
    };
    let of_before = |line: usize| place(&detail.before, span_before, line);
    let of_after = |line: usize| place(&detail.after, span_after, line);
    let verdict = |weight: Weight| match weight {
        Weight::Counted => Verdict::Counted,
        Weight::Muted => Verdict::Muted,
    };
    let rows = detail.rows.iter().map(|row| match row {
        Row::Gone { before, weight, .. } => (Some(of_before(*before)), None, Some(verdict(*weight))),
        Row::New { after, weight, .. } => (None, Some(of_after(*after)), Some(verdict(*weight))),
        Row::Hidden { before, after } => (before.map(of_before), after.map(of_after), Some(Verdict::Ignored)),
        Row::Equal { before, after } => (Some(of_before(*before)), Some(of_after(*after)), None),
        Row::Edited { before, after, weight, .. } => {
            (Some(of_before(*before)), Some(of_after(*after)), Some(verdict(*weight)))
        }
    });
    rows.map(|(b, a, verdict)| explained((before, b), (after, a), change, verdict)).collect()
}

type Line = (usize, Range<usize>);

/// Whether a rule leaves nothing of a line.
fn is_excluded(masked: &MaskedText<'_>, line: &Option<Line>) -> bool {
    line.as_ref().is_some_and(|(_, bytes)| masked.mask_of(bytes.clone()).gone.is_some())
}

fn explained(
    (before, b): (&MaskedText<'_>, Option<Line>),
    (after, a): (&MaskedText<'_>, Option<Line>),
    change: Option<usize>,
    verdict: Option<Verdict>,
) -> Explanation {
    let pieces = |masked: &MaskedText<'_>, line: &Option<Line>, rule: usize| -> Vec<Range<usize>> {
        let Some((_, bytes)) = line else { return Vec::new() };
        let mask = masked.mask_of(bytes.clone());
        let moved = |range: &Range<usize>| bytes.start + range.start..bytes.start + range.end;
        if mask.spans.is_empty() && mask.gone == Some(rule) {
            return vec![bytes.clone()];
        }
        let text = |span: &MaskedSpan| &masked.text()[moved(&span.range)];
        // A blank between words is as good as a break, but there is nothing to say of it.
        let is_blank = |span: &MaskedSpan| {
            masked.file_rules().line_breaks() == Some(rule) && span.stands_for.bytes() == text(span)
        };
        let spans = mask.spans.iter().filter(|span| span.rule == rule && !is_blank(span));
        spans.map(|span| moved(&span.range)).collect()
    };
    let texts = |masked: &MaskedText<'_>, pieces: &[Range<usize>]| -> Vec<Vec<u8>> {
        pieces.iter().map(|piece| masked.text()[piece.clone()].to_vec()).collect()
    };
    let mut reasons = Vec::new();
    for rule in 0..before.file_rules().rules().len() {
        let (of_before, of_after) = (pieces(before, &b, rule), pieces(after, &a, rule));
        let by_case = before.file_rules().case_rule() == Some(rule)
            && matches!((&b, &a), (Some(b), Some(a)) if before.is_left_unlike(b.1.clone(), (after, a.1.clone())));
        let by_breaks = before.file_rules().line_breaks() == Some(rule)
            && verdict.is_some_and(|verdict| verdict != Verdict::Counted)
            && b.is_some() != a.is_some()
            && [(before, &b), (after, &a)].iter().all(|(masked, line)| !is_excluded(masked, line));
        let differs = texts(before, &of_before) != texts(after, &of_after) || by_case || by_breaks;
        if !of_before.is_empty() || !of_after.is_empty() || by_case || by_breaks {
            reasons.push(Reason { rule, before: of_before, after: of_after, differs, is_wrapped: by_breaks });
        }
    }
    let equal = match (&b, &a) {
        (Some(b), Some(a)) => before.text()[b.1.clone()] == after.text()[a.1.clone()],
        _ => false,
    };
    // Two lines that are shown as equal but are not differ only in what is ignored.
    let verdict = verdict.or((!equal).then_some(Verdict::Ignored));
    Explanation { before: b, after: a, change, verdict, reasons }
}

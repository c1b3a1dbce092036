//! The edits of an alignment read again: which of them only wrapped their text.

use super::pieces::{State, joined, pieces};
use crate::internal::align::bounds::Bounds;
use crate::internal::align::classify::{Found, push};
use crate::internal::align::edit::Edit;
use crate::internal::align::region::region;
use crate::internal::align::stretch::Stretch;
use crate::internal::model::Span;
use crate::internal::rules::{MaskedText, Verdict};

/// Edits with at most so many equal lines between them are read as one passage: a bracket or a blank line that happens to be the same does
/// not end it.
const BETWEEN: usize = 3;

/// Tells what was only wrapped from what counts, in the edits that were found.
pub(in crate::internal::align) fn tell_wrapped(
    found: &mut Found,
    before: &MaskedText<'_>,
    after: &MaskedText<'_>,
    bounds: &Bounds,
) {
    if before.file_rules().line_breaks().is_none() {
        return;
    }
    let edits = std::mem::take(&mut found.edits);
    let mut at = 0;
    while at < edits.len() {
        let end = end_of_passage(&edits, at, bounds);
        let passage = &edits[at..end];
        match read_again(passage, before, after, bounds) {
            Some(again) => {
                for known in passage.iter().filter(|edit| edit.verdict != Verdict::Counted) {
                    let lines = by_lines((before, &known.before), (after, &known.after), bounds).lines;
                    found.lines.iter_mut().zip(lines).for_each(|(sum, lines)| *sum = sum.saturating_sub(lines));
                }
                again.edits.into_iter().for_each(|edit| push(&mut found.edits, edit));
                found.lines.iter_mut().zip(again.lines).for_each(|(sum, lines)| *sum += lines);
            }
            None => passage.iter().for_each(|edit| push(&mut found.edits, edit.clone())),
        }
        at = end;
    }
}

/// Where the passage ends that begins with an edit.
fn end_of_passage(edits: &[Edit], first: usize, bounds: &Bounds) -> usize {
    let mut end = first + 1;
    if edits[first].verdict != Verdict::Counted {
        return end;
    }
    while let Some(next) = edits.get(end) {
        let last = &edits[end - 1];
        let apart = next.before.lines.start - last.before.lines.end;
        let bytes = |from: &Span, to: &Span| to.bytes.end - from.bytes.start;
        let size = bytes(&edits[first].before, &next.before) + bytes(&edits[first].after, &next.after);
        if apart > BETWEEN || !bounds.reads_passage(size) {
            break;
        }
        end += 1;
    }
    // What does not count is only part of a passage between edits that do.
    let counts = |edit: &Edit| edit.verdict == Verdict::Counted;
    end - edits[first + 1..end].iter().rev().take_while(|edit| !counts(edit)).count()
}

/// What differs in a passage when breaks do not count; nothing where that is no less.
fn read_again(passage: &[Edit], before: &MaskedText<'_>, after: &MaskedText<'_>, bounds: &Bounds) -> Option<Found> {
    let (first, last) = (passage.first()?, passage.last()?);
    let is_line = passage.len() == 1 && first.before.lines.len() == 1 && first.after.lines.len() == 1;
    if first.verdict != Verdict::Counted || is_line {
        return None;
    }
    let (span_before, span_after) = (joined(&first.before, &last.before), joined(&first.after, &last.after));
    let pieces = pieces((before, &span_before), (after, &span_after), bounds)?;
    let mut again = Found { edits: Vec::new(), lines: vec![0; before.file_rules().rules().len()] };
    let rule = before.file_rules().line_breaks()?;
    let mut counted = 0;
    for piece in pieces {
        let longer = piece.before.lines.len().max(piece.after.lines.len());
        match piece.state {
            State::Lines => {
                let inner = by_lines((before, &piece.before), (after, &piece.after), bounds);
                counted += inner.edits.iter().map(counted_lines).sum::<usize>();
                again = again.with(inner);
            }
            State::Wrapped(verdict, rule) => {
                again.lines[rule] += longer;
                push(&mut again.edits, Edit { before: piece.before, after: piece.after, verdict });
            }
            State::Edited(edited) => {
                let wrapped = edited.wrapped_lines();
                again.lines[rule] += wrapped;
                counted += longer - wrapped.min(longer);
                push(&mut again.edits, Edit::counted(piece.before, piece.after));
            }
        }
    }
    (counted < passage.iter().map(counted_lines).sum()).then_some(again)
}

/// What differs in two spans, line by line.
fn by_lines(
    (before, span_before): (&MaskedText<'_>, &Span),
    (after, span_after): (&MaskedText<'_>, &Span),
    bounds: &Bounds,
) -> Found {
    let (b, a) = (Stretch::of(before, span_before), Stretch::of(after, span_after));
    if b.text() > a.text() { region(&a, &b, bounds).mirrored() } else { region(&b, &a, bounds) }
}

fn counted_lines(edit: &Edit) -> usize {
    if edit.verdict == Verdict::Counted { edit.before.lines.len().max(edit.after.lines.len()) } else { 0 }
}

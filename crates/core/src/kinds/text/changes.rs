//! From edits and moves to numbered changes and the places where a reader meets them.

use std::ops::Range;

use super::inside::equal_inside;
use crate::internal::align::{Edit, moves::Move};
use crate::internal::model::{Change, Form, HiddenStretch, Place, Span, TextComparison, Weight};
use crate::internal::rules::{MaskedText, Verdict};
use crate::internal::text::bytes::lines_below;

/// A piece of an edit: what stands here on both sides, and the move it is an end of.
struct Piece {
    before: Span,
    after: Span,
    moved: Option<usize>,
}

/// Numbers the changes in the order in which a reader meets them.
pub(super) fn number(
    edits: &[Edit],
    moves: &[Move],
    texts: (&MaskedText<'_>, &MaskedText<'_>),
    counted_only: bool,
) -> TextComparison {
    let (before, after) = (texts.0.text(), texts.1.text());
    let mut comparison = TextComparison::default();
    let mut change_of_move = vec![None; moves.len()];
    let mut leaving = moves.iter().enumerate().peekable();
    let mut order: Vec<usize> = (0..moves.len()).collect();
    order.sort_unstable_by_key(|&index| moves[index].to.1.start);
    let mut arriving = order.into_iter().map(|index| (index, &moves[index])).peekable();
    for (index, edit) in edits.iter().enumerate() {
        if edit.verdict == Verdict::Ignored || edit.verdict == Verdict::Muted && counted_only {
            comparison.muted_is_hidden |= edit.verdict == Verdict::Muted;
            comparison.hidden.push(HiddenStretch { before: edit.before.clone(), after: edit.after.clone() });
            continue;
        }
        let weight = if edit.verdict == Verdict::Muted { Weight::Muted } else { Weight::Counted };
        let mut left = Vec::new();
        while let Some(found) = leaving.next_if(|(_, a_move)| a_move.from.0 == index) {
            left.push((found.0, found.1.from.1.clone()));
        }
        let mut came = Vec::new();
        while let Some(found) = arriving.next_if(|(_, a_move)| a_move.to.0 == index) {
            came.push((found.0, found.1.to.1.clone()));
        }
        for piece in pieces(edit, &left, &came, before, after) {
            let known = piece.moved.and_then(|moved| change_of_move[moved]);
            let change = known.unwrap_or(comparison.changes.len());
            if known.is_none() {
                comparison.changes.push(change_of(&piece, change + 1, weight, texts));
            } else if piece.before.is_empty() {
                comparison.changes[change].after = piece.after.clone();
            } else {
                comparison.changes[change].before = piece.before.clone();
            }
            if let Some(moved) = piece.moved {
                change_of_move[moved] = Some(change);
            }
            comparison.places.push(Place { change, before: piece.before, after: piece.after });
        }
    }
    comparison
}

fn change_of(piece: &Piece, number: usize, weight: Weight, texts: (&MaskedText<'_>, &MaskedText<'_>)) -> Change {
    let form = match (piece.moved, piece.before.is_empty(), piece.after.is_empty()) {
        (Some(_), ..) => Form::Moved,
        (None, _, true) => Form::Gone,
        (None, true, false) => Form::New,
        (None, false, false) => Form::Edited,
    };
    Change {
        number,
        form,
        weight,
        before: piece.before.clone(),
        after: piece.after.clone(),
        equal: if form == Form::Edited && weight == Weight::Counted {
            equal_inside((texts.0, &piece.before), (texts.1, &piece.after))
        } else {
            0
        },
    }
}

/// Cuts an edit at the blocks that moved out of it or into it. What is left of both sides stays together where it can.
fn pieces(
    edit: &Edit,
    left: &[(usize, Range<usize>)],
    came: &[(usize, Range<usize>)],
    before: &[u8],
    after: &[u8],
) -> Vec<Piece> {
    let gone = cut(&edit.before, left, before);
    let new = cut(&edit.after, came, after);
    let mut pieces = Vec::with_capacity(gone.len() + new.len());
    let (mut gone, mut new) = (gone.into_iter().peekable(), new.into_iter().peekable());
    let (mut at_before, mut at_after) = (start_of(&edit.before), start_of(&edit.after));
    while gone.peek().is_some() || new.peek().is_some() {
        // Moved blocks stand alone; what is left on both sides is one piece.
        let gone_here = gone.next_if(|(moved, _)| moved.is_some());
        let new_here = if gone_here.is_none() { new.next_if(|(moved, _)| moved.is_some()) } else { None };
        let (moved, span_before, span_after) = match (gone_here, new_here) {
            (Some((moved, span)), _) => (moved, span, at_after.clone()),
            (None, Some((moved, span))) => (moved, at_before.clone(), span),
            (None, None) => {
                let before = gone.next().map_or_else(|| at_before.clone(), |(_, span)| span);
                let after = new.next().map_or_else(|| at_after.clone(), |(_, span)| span);
                (None, before, after)
            }
        };
        (at_before, at_after) = (end_of(&span_before), end_of(&span_after));
        pieces.push(Piece { before: span_before, after: span_after, moved });
    }
    pieces
}

/// Cuts a span at some blocks of lines in it.
fn cut(span: &Span, blocks: &[(usize, Range<usize>)], text: &[u8]) -> Vec<(Option<usize>, Span)> {
    let mut parts = Vec::new();
    let mut at = start_of(span);
    let mut upto = |at: &mut Span, line: usize, moved: Option<usize>| {
        let end = lines_below(text, at.bytes.end, line - at.lines.end).0;
        let part = Span { lines: at.lines.end..line, bytes: at.bytes.end..end };
        *at = end_of(&part);
        if !part.is_empty() {
            parts.push((moved, part));
        }
    };
    for (moved, block) in blocks {
        upto(&mut at, block.start, None);
        upto(&mut at, block.end, Some(*moved));
    }
    upto(&mut at, span.lines.end, None);
    parts
}

fn start_of(span: &Span) -> Span {
    Span { lines: span.lines.start..span.lines.start, bytes: span.bytes.start..span.bytes.start }
}

fn end_of(span: &Span) -> Span {
    Span { lines: span.lines.end..span.lines.end, bytes: span.bytes.end..span.bytes.end }
}

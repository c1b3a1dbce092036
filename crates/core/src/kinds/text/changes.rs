//! From edits and moves to numbered changes and the places where a reader meets them.

use std::ops::Range;

use super::inside::equal_inside;
use super::moved_ends::edited_inside;
use crate::internal::align::pairs::pair_lines;
use crate::internal::align::{Edit, PairBounds, moves::Move};
use crate::internal::model::{Change, Form, HiddenStretch, Place, Row, Span, TextComparison, Weight};
use crate::internal::rules::{MaskedText, Verdict};
use crate::internal::text::bytes::lines_below;
use crate::internal::text::lines::{Lines, as_slices};

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
    bounds: &PairBounds,
) -> TextComparison {
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
        for piece in pieces(edit, &left, &came, texts, bounds) {
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
    for change in comparison.changes.iter_mut().filter(|change| change.form == Form::Moved) {
        (change.edited, change.reindented) = edited_inside((texts.0, &change.before), (texts.1, &change.after));
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
        edited: 0,
        reindented: false,
    }
}

/// Cuts an edit at the blocks that moved out of it or into it. Of what is left, the lines that belong together stay together.
fn pieces(
    edit: &Edit,
    left: &[(usize, Range<usize>)],
    came: &[(usize, Range<usize>)],
    texts: (&MaskedText<'_>, &MaskedText<'_>),
    bounds: &PairBounds,
) -> Vec<Piece> {
    if left.is_empty() && came.is_empty() {
        return vec![Piece { before: edit.before.clone(), after: edit.after.clone(), moved: None }];
    }
    let pairs = pairs_of_the_rest(edit, left, came, texts, bounds);
    // Where the other side is cut at a block: behind the last line that belongs to one above it.
    let cut_after = |line: usize| {
        let above = pairs.partition_point(|pair| pair.0 < line);
        above.checked_sub(1).map_or(edit.after.lines.start, |last| pairs[last].1 + 1)
    };
    let cut_before = |line: usize| {
        let above = pairs.partition_point(|pair| pair.1 < line);
        above.checked_sub(1).map_or(edit.before.lines.start, |last| pairs[last].0 + 1)
    };
    let mut pieces = Vec::new();
    let (mut left, mut came) = (left.iter().peekable(), came.iter().peekable());
    let mut at = (start_of(&edit.before), start_of(&edit.after));
    let mut upto = |lines: (usize, usize), moved: Option<usize>| {
        let reach = |at: &Span, line: usize, text: &[u8]| {
            let line = line.max(at.lines.end);
            let end = lines_below(text, at.bytes.end, line - at.lines.end).0;
            Span { lines: at.lines.end..line, bytes: at.bytes.end..end }
        };
        let (before, after) = (reach(&at.0, lines.0, texts.0.text()), reach(&at.1, lines.1, texts.1.text()));
        at = (end_of(&before), end_of(&after));
        if !before.is_empty() || !after.is_empty() {
            pieces.push(Piece { before, after, moved });
        }
    };
    loop {
        let leaves_first = match (left.peek(), came.peek()) {
            (None, None) => break,
            (Some(_), None) => true,
            (None, Some(_)) => false,
            (Some((_, leaving)), Some((_, arriving))) => cut_after(leaving.start) <= arriving.start,
        };
        if leaves_first && let Some((moved, block)) = left.next() {
            upto((block.start, cut_after(block.start)), None);
            upto((block.end, 0), Some(*moved));
        } else if let Some((moved, block)) = came.next() {
            upto((cut_before(block.start), block.start), None);
            upto((0, block.end), Some(*moved));
        }
    }
    upto((edit.before.lines.end, edit.after.lines.end), None);
    pieces
}

/// The lines of an edit that belong together, those in blocks that moved left out.
fn pairs_of_the_rest(
    edit: &Edit,
    left: &[(usize, Range<usize>)],
    came: &[(usize, Range<usize>)],
    masked: (&MaskedText<'_>, &MaskedText<'_>),
    bounds: &PairBounds,
) -> Vec<(usize, usize)> {
    let rest = |span: &Span, blocks: &[(usize, Range<usize>)]| -> Vec<usize> {
        let mut blocks = blocks.iter().map(|(_, block)| block).peekable();
        let mut is_rest = |line: &usize| {
            while blocks.next_if(|block| block.end <= *line).is_some() {}
            !blocks.peek().is_some_and(|block| block.contains(line))
        };
        span.lines.clone().filter(|line| is_rest(line)).collect()
    };
    let (of_before, of_after) = (rest(&edit.before, left), rest(&edit.after, came));
    if of_before.len() * of_after.len() > bounds.pairs {
        return Vec::new();
    }
    let (before, after) = (masked.0.text(), masked.1.text());
    let lines = (Lines::of(&before[edit.before.bytes.clone()]), Lines::of(&after[edit.after.bytes.clone()]));
    let texts = |lines: &Lines<'_>, span: &Span, rest: &[usize]| -> Vec<Vec<u8>> {
        rest.iter().map(|line| lines.get(line - span.lines.start).to_vec()).collect()
    };
    let (b, a) = (texts(&lines.0, &edit.before, &of_before), texts(&lines.1, &edit.after, &of_after));
    let pairs = |row: Row| match row {
        Row::Equal { before, after } | Row::Edited { before, after, .. } => Some((of_before[before], of_after[after])),
        Row::Gone { .. } | Row::New { .. } | Row::Hidden { .. } => None,
    };
    let is_in_both = |line: &[u8]| masked.0.once_in_both(masked.1, line);
    pair_lines(&as_slices(&b), &as_slices(&a), is_in_both, bounds).into_iter().filter_map(pairs).collect()
}

fn start_of(span: &Span) -> Span {
    Span { lines: span.lines.start..span.lines.start, bytes: span.bytes.start..span.bytes.start }
}

fn end_of(span: &Span) -> Span {
    Span { lines: span.lines.end..span.lines.end, bytes: span.bytes.end..span.bytes.end }
}

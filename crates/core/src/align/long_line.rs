//! Very long lines: an export on one line, a minified script, a page without line ends. Only the neighbourhoods of their differences are
//! cut into words; what both sides have between them is passed at the speed of memory.
//!
//! At a difference, a window of both lines is cut at the separators that such lines are made of, and the pieces are aligned. What is
//! found up to the last solid run of equal pieces is taken, and the walk goes on from there; without such a run the window grows.
//! So each window brings the walk forward by a part of its size, and the whole takes time in step with the lines.

use std::collections::HashSet;
use std::ops::Range;

use super::bounds::Bounds;
use super::script::script;
use super::work;
use crate::internal::text::bytes::common_prefix;
use crate::internal::text::lines::intern;

/// How much larger each next window is.
const GROWTH: usize = 8;

/// A part of two lines that differs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Island {
    pub(super) before: Range<usize>,
    pub(super) after: Range<usize>,
}

/// The parts of two lines that differ, in order. What lies between them is equal, byte by byte.
pub(super) fn islands(before: &[u8], after: &[u8], bounds: &Bounds) -> Vec<Island> {
    let mut found = Vec::new();
    let (mut b, mut a) = (0, 0);
    loop {
        let equal = common_prefix(&before[b..], &after[a..]);
        if b + equal == before.len() && a + equal == after.len() {
            return found;
        }
        let back = behind_a_separator(&before[b..b + equal], bounds.line().look_back);
        (b, a) = (b + back, a + back);
        let step = next_islands(&before[b..], &after[a..], bounds);
        let moved = |island: Island| Island {
            before: b + island.before.start..b + island.before.end,
            after: a + island.after.start..a + island.after.end,
        };
        found.extend(step.islands.into_iter().map(moved));
        (b, a) = (b + step.before, a + step.after);
    }
}

/// Where, in text that ends at a difference, what differs begins for a reader: behind the last separator, or at a whole letter.
fn behind_a_separator(equal: &[u8], look_back: usize) -> usize {
    let from = equal.len().saturating_sub(look_back);
    if let Some(at) = equal[from..].iter().rposition(|&byte| is_separator(byte)) {
        return from + at + 1;
    }
    let is_whole = |at: &usize| equal.get(*at).is_none_or(|byte| byte & 0b1100_0000 != 0b1000_0000);
    // A letter has four bytes at most; its last may be the one that differs.
    (equal.len().saturating_sub(4)..equal.len())
        .rev()
        .find(|at| is_whole(at) && equal[*at] >= 0xc0)
        .unwrap_or(equal.len())
}

fn is_separator(byte: u8) -> bool {
    matches!(byte, b';' | b'{' | b'}' | b',' | b'>' | b' ' | b'\t' | b'\r' | b'\n')
}

/// Some islands, and how far the walk comes with them.
struct Step {
    islands: Vec<Island>,
    before: usize,
    after: usize,
}

fn next_islands(before: &[u8], after: &[u8], bounds: &Bounds) -> Step {
    let (mut window, largest) = bounds.windows();
    loop {
        let (b, a) = (head(before, window), head(after, window));
        let is_all = b.len() == before.len() && a.len() == after.len();
        let is_last = is_all || window >= largest;
        if let Some(step) = in_window((b, a), is_all, bounds) {
            return step;
        }
        if is_last {
            let (b, a) = (window.min(before.len()), window.min(after.len()));
            return Step { islands: vec![Island { before: 0..b, after: 0..a }], before: b, after: a };
        }
        window = window.saturating_mul(GROWTH).min(largest);
    }
}

/// The first bytes of a line, up to a separator if there is one.
fn head(line: &[u8], window: usize) -> &[u8] {
    if line.len() <= window {
        return line;
    }
    let end = line[..window].iter().rposition(|&byte| is_separator(byte)).map_or(window, |at| at + 1);
    &line[..end]
}

/// The islands of two windows up to the last solid run; all of them where the windows hold the rest of both lines.
fn in_window((before, after): (&[u8], &[u8]), is_all: bool, bounds: &Bounds) -> Option<Step> {
    work::count(before.len() + after.len());
    let (pieces_before, pieces_after) = (pieces(before, bounds.line().piece), pieces(after, bounds.line().piece));
    let texts = |text, pieces: &[Range<usize>]| pieces.iter().map(|piece| slice(text, piece)).collect::<Vec<_>>();
    let interned = intern(&texts(before, &pieces_before), &texts(after, &pieces_after));
    let stretches = script(&interned, &Bounds::default()).stretches();
    let byte = |pieces: &[Range<usize>], at: usize, len: usize| pieces.get(at).map_or(len, |piece| piece.start);
    let bytes = |pieces: &[Range<usize>], range: &Range<usize>, len: usize| {
        byte(pieces, range.start, len)..byte(pieces, range.end, len)
    };
    let island = |(gone, new): &(Range<usize>, Range<usize>)| Island {
        before: bytes(&pieces_before, gone, before.len()),
        after: bytes(&pieces_after, new, after.len()),
    };
    if is_all {
        let islands = stretches.iter().map(island).collect();
        return Some(Step { islands, before: before.len(), after: after.len() });
    }
    // The run behind each stretch; the last one ends where the windows do.
    let is_solid = |run: &Range<usize>| {
        let bytes = bytes(&pieces_before, run, before.len());
        let different: HashSet<u32> = interned.before[run.clone()].iter().copied().take(64).collect();
        bytes.len() >= bounds.line().solid && different.len() >= bounds.line().varied
    };
    let ends = stretches.iter().skip(1).map(|next| next.0.start).chain([pieces_before.len()]);
    let runs: Vec<Range<usize>> = stretches.iter().zip(ends).map(|(stretch, end)| stretch.0.end..end).collect();
    let last = runs.iter().rposition(is_solid)?;
    let run = &runs[last];
    Some(Step {
        islands: stretches[..=last].iter().map(island).collect(),
        before: byte(&pieces_before, run.end, before.len()),
        after: byte(&pieces_after, stretches[last].1.end + run.len(), after.len()),
    })
}

fn slice<'t>(text: &'t [u8], piece: &Range<usize>) -> &'t [u8] {
    &text[piece.clone()]
}

/// A text cut behind its separators and, where it has none for long, wherever its bytes happen to say so: the same bytes are cut alike on
/// both sides.
fn pieces(text: &[u8], longest: usize) -> Vec<Range<usize>> {
    let mut pieces = Vec::with_capacity(text.len() / 8 + 1);
    let mut start = 0;
    for at in 0..text.len() {
        if is_separator(text[at]) {
            add_piece(text, start..at + 1, longest, &mut pieces);
            start = at + 1;
        }
    }
    add_piece(text, start..text.len(), longest, &mut pieces);
    pieces
}

fn add_piece(text: &[u8], piece: Range<usize>, longest: usize, pieces: &mut Vec<Range<usize>>) {
    let mut start = piece.start;
    if piece.len() > longest {
        let is_cut = |four: &[u8]| {
            let number = u32::from_le_bytes([four[0], four[1], four[2], four[3]]);
            number.wrapping_mul(0x9e37_79b1) >> 26 == 0
        };
        for (at, _) in text[piece.clone()].windows(4).enumerate().filter(|(_, four)| is_cut(four)) {
            let end = piece.start + at + 4;
            pieces.push(start..end);
            start = end;
        }
    }
    if start < piece.end {
        pieces.push(start..piece.end);
    }
}

//! Blocks that stand elsewhere: lines that are gone in one place and new, unchanged, in another.
//!
//! Lines that occur once among all gone and once among all new lines are starting points (as in P. Heckel, CACM 21,
//! 1978); from each, the block grows in both directions while the lines are equal and stay inside one edit on either side.
//! A block must hold enough letters to be worth a reader's while.

use std::collections::HashMap;
use std::ops::Range;

use super::{Bounds, Edit, work};
use crate::internal::model::Span;
use crate::internal::rules::Verdict;
use crate::internal::text::bytes::is_letter_or_digit;
use crate::internal::text::lines::{Lines, hash_line};

/// A block needs so many lines that hold letters or digits…
const FEWEST_LINES: usize = 2;
/// …and so many letters and digits in all.
const FEWEST_LETTERS: usize = 30;

/// A block of lines (counted from 0) that went from one place to another.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Move {
    /// The index of the edit it left, and its lines before.
    pub from: (usize, Range<usize>),
    /// The index of the edit it came to, and its lines after.
    pub to: (usize, Range<usize>),
}

/// Where the lines of one side of an edit are.
struct Side<'t> {
    lines: Lines<'t>,
    first: usize,
    taken: Vec<bool>,
}

/// Finds the blocks that moved, in the order of their places before. They do not overlap.
pub fn find_moves(edits: &[Edit], before: &[u8], after: &[u8], bounds: &Bounds) -> Vec<Move> {
    let counted = |edit: &&Edit| edit.verdict == Verdict::Counted;
    let total = |lines: fn(&Edit) -> usize| edits.iter().filter(counted).map(lines).sum::<usize>();
    let (gone, new) = (total(|edit| edit.before.lines.len()), total(|edit| edit.after.lines.len()));
    if gone < FEWEST_LINES || new < FEWEST_LINES || !bounds.looks_for_moves(gone.max(new)) {
        return Vec::new();
    }
    // What does not count does not move either.
    let nothing = Span::default();
    let side = |edit: &Edit, span| if counted(&edit) { span } else { nothing.clone() };
    let mut sides_before: Vec<_> =
        edits.iter().map(|edit| Side::of(before, &side(edit, edit.before.clone()))).collect();
    let mut sides_after: Vec<_> = edits.iter().map(|edit| Side::of(after, &side(edit, edit.after.clone()))).collect();
    let places_after = single_places(&sides_after);
    let mut starts: Vec<_> = single_places(&sides_before)
        .into_iter()
        .filter_map(|(hash, from)| Some((from?, places_after.get(&hash).copied().flatten()?)))
        .filter(|(from, to)| from.0 != to.0)
        .collect();
    starts.sort_unstable();
    let mut moves = Vec::new();
    // How far the block was looked at that goes through these two edits at this distance: a block is grown once, not from each of its
    // lines.
    let mut seen: HashMap<(usize, usize, isize), usize> = HashMap::new();
    for ((edit_from, at_from), (edit_to, at_to)) in starts {
        let upto = seen.entry((edit_from, edit_to, at_to as isize - at_from as isize)).or_default();
        if at_from < *upto {
            continue;
        }
        let (from, to) = (&mut sides_before[edit_from], &mut sides_after[edit_to]);
        let Some((block_from, block_to)) = grow(from, at_from, to, at_to) else { continue };
        *upto = block_from.end;
        if is_worthwhile(from, &block_from) {
            from.taken[block_from.clone()].fill(true);
            to.taken[block_to.clone()].fill(true);
            let lines = |first: usize, block: Range<usize>| first + block.start..first + block.end;
            moves.push(Move {
                from: (edit_from, lines(from.first, block_from)),
                to: (edit_to, lines(to.first, block_to)),
            });
        }
    }
    moves
}

impl<'t> Side<'t> {
    fn of(text: &'t [u8], span: &Span) -> Self {
        let lines = Lines::of(&text[span.bytes.clone()]);
        Self { taken: vec![false; lines.len()], lines, first: span.lines.start }
    }
}

/// Where each line stands (edit, line in it), if it stands in one place only.
fn single_places(sides: &[Side<'_>]) -> HashMap<u64, Option<(usize, usize)>> {
    let mut places = HashMap::new();
    for (edit, side) in sides.iter().enumerate() {
        for (at, line) in side.lines.iter().enumerate() {
            places.entry(hash_line(line)).and_modify(|place| *place = None).or_insert(Some((edit, at)));
        }
    }
    places
}

/// The block of equal lines around a pair of lines.
fn grow(from: &Side<'_>, at_from: usize, to: &Side<'_>, at_to: usize) -> Option<(Range<usize>, Range<usize>)> {
    let free = |f: usize, t: usize| !from.taken[f] && !to.taken[t] && from.lines.get(f) == to.lines.get(t);
    let ahead = (at_from..from.lines.len()).zip(at_to..to.lines.len()).take_while(|&(f, t)| free(f, t)).count();
    let back = (0..at_from).rev().zip((0..at_to).rev()).take_while(|&(f, t)| free(f, t)).count();
    work::count(ahead + back);
    if ahead == 0 {
        return None;
    }
    Some((at_from - back..at_from + ahead, at_to - back..at_to + ahead))
}

/// Whether a block is worth showing.
fn is_worthwhile(from: &Side<'_>, block: &Range<usize>) -> bool {
    let letters = |line: &[u8]| line.iter().filter(|byte| is_letter_or_digit(**byte)).count();
    let counts: Vec<usize> = block.clone().map(|at| letters(from.lines.get(at))).collect();
    counts.iter().filter(|&&count| count > 0).count() >= FEWEST_LINES && counts.iter().sum::<usize>() >= FEWEST_LETTERS
}

//! Blocks that stand elsewhere: lines that are gone in one place and new in another.
//!
//! Lines that occur once among all gone and once among all new lines, indentation left out, are starting points (as in P. Heckel, CACM 21,
//! 1978); from each, the block grows in both directions while the lines are the same and stay inside one edit on either side. Blocks that went
//! the same way with few lines between them are one block that moved and was edited. Inside one edit, the lines that keep their order stay.
//!
//! A block must be worth a reader's while: hold enough letters, and if it is short, be a whole unit or stand only once in each text.

use std::collections::{HashMap, HashSet};
use std::ops::Range;

use super::anchors::longest_chain;
use super::{Bounds, Edit, work};
use crate::internal::model::Span;
use crate::internal::rules::Verdict;
use crate::internal::text::bytes::{is_letter_or_digit, leading_space, line_end, line_start};
use crate::internal::text::lines::{Lines, hash_line};

/// A block needs so many letters and digits in all, in at least two lines…
const FEWEST_LETTERS: usize = 30;
/// …or so many in each line, if each stands only once in each text.
const LETTERS_OF_A_LINE: usize = 20;
/// A block of so many lines is short.
const SHORT: usize = 3;
/// Blocks with so many lines between them are one that was edited.
const NEAR: usize = 6;

/// A block of lines (counted from 0) that went from one place to another. Its first and last lines are the same at both ends but for
/// indentation, unless they are blank; lines between them may differ.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Move {
    /// The index of the edit it left, and its lines before.
    pub from: (usize, Range<usize>),
    /// The index of the edit it came to, and its lines after.
    pub to: (usize, Range<usize>),
}

/// An edit, and a line in it.
type Place = (usize, usize);

/// Where the lines of one side of an edit are.
struct Side<'t> {
    lines: Lines<'t>,
    span: Span,
    /// The hash of each line without its indentation and line end.
    keys: Vec<u64>,
    /// Lines that moved, or that keep their order inside an edit.
    taken: Vec<bool>,
}

/// A block inside two edits: its lines are counted from the starts of these.
#[derive(Clone, Debug)]
struct Block {
    from: (usize, Range<usize>),
    to: (usize, Range<usize>),
    /// How many of its lines are the same at both ends, and how many letters these have.
    same: usize,
    letters: usize,
    /// How many of these lines have letters.
    saying: usize,
}

impl Block {
    /// Whether it holds enough letters, in more than one line.
    fn says_enough(&self) -> bool {
        self.saying >= 2 && self.letters >= FEWEST_LETTERS
    }
}

/// Finds the blocks that moved, in the order of their places before. They do not overlap.
pub fn find_moves(edits: &[Edit], before: &[u8], after: &[u8], bounds: &Bounds) -> Vec<Move> {
    let counted = |edit: &&Edit| edit.verdict == Verdict::Counted;
    let total = |lines: fn(&Edit) -> usize| edits.iter().filter(counted).map(lines).sum::<usize>();
    let (gone, new) = (total(|edit| edit.before.lines.len()), total(|edit| edit.after.lines.len()));
    if gone == 0 || new == 0 || !bounds.looks_for_moves(gone.max(new)) {
        return Vec::new();
    }
    // What does not count does not move either.
    let nothing = Span::default();
    let side = |edit: &Edit, span| if counted(&edit) { span } else { nothing.clone() };
    let sides_before: Vec<_> = edits.iter().map(|edit| Side::of(before, side(edit, edit.before.clone()))).collect();
    let sides_after: Vec<_> = edits.iter().map(|edit| Side::of(after, side(edit, edit.after.clone()))).collect();
    let mut search = Search { before: sides_before, after: sides_after };
    let mut blocks = search.blocks();
    let all = blocks.clone();
    blocks.retain(|block| search.is_long(block) || search.may_be_short(block));
    let short = blocks.iter().filter(|block| !search.is_long(block));
    let candidates: HashSet<u64> = short.flat_map(|block| search.keys(block)).collect();
    let several = if candidates.is_empty() || !bounds.counts_lines(before.len() + after.len()) {
        HashSet::new()
    } else {
        [before, after].into_iter().flat_map(|text| in_several_places(text, &candidates)).collect()
    };
    blocks.retain(|block| {
        search.is_long(block)
            || search.is_unit(block, (before, after))
            || search.is_made_of_long_lines(block) && search.keys(block).all(|key| !several.contains(&key))
    });
    // What is not worth a reader's while did not move.
    for block in all.iter().filter(|block| blocks.binary_search_by_key(&place_of(block), place_of).is_err()) {
        search.take(block, false);
    }
    for block in &mut blocks {
        search.take_blank_lines(block);
    }
    blocks.iter().map(|block| search.placed(block)).collect()
}

impl<'t> Side<'t> {
    fn of(text: &'t [u8], span: Span) -> Self {
        let lines = Lines::of(&text[span.bytes.clone()]);
        let keys = lines.iter().map(key).collect();
        Self { taken: vec![false; lines.len()], lines, span, keys }
    }

    fn letters(&self, line: usize) -> usize {
        self.lines.get(line).iter().filter(|byte| is_letter_or_digit(**byte)).count()
    }
}

/// Where a block stands before: its edit, and its first line in that.
fn place_of(block: &Block) -> Place {
    (block.from.0, block.from.1.start)
}

/// The hash of what a line says.
fn key(line: &[u8]) -> u64 {
    hash_line(line.trim_ascii())
}

/// Those of some lines that a text holds more than once.
fn in_several_places(text: &[u8], candidates: &HashSet<u64>) -> Vec<u64> {
    let mut seen = HashSet::new();
    let lines = Lines::of(text);
    lines.iter().map(key).filter(|key| candidates.contains(key) && !seen.insert(*key)).collect()
}

/// Where each line stands (edit, line in it), if it stands in one place only.
fn single_places(sides: &[Side<'_>]) -> HashMap<u64, Option<Place>> {
    let mut places = HashMap::new();
    for (edit, side) in sides.iter().enumerate() {
        for (at, key) in side.keys.iter().enumerate() {
            places.entry(*key).and_modify(|place| *place = None).or_insert(Some((edit, at)));
        }
    }
    places
}

struct Search<'t> {
    before: Vec<Side<'t>>,
    after: Vec<Side<'t>>,
}

impl Search<'_> {
    /// The blocks, in the order of their places before, whatever they are worth.
    fn blocks(&mut self) -> Vec<Block> {
        let places_after = single_places(&self.after);
        let mut starts: Vec<_> = single_places(&self.before)
            .into_iter()
            .filter_map(|(hash, from)| Some((from?, places_after.get(&hash).copied().flatten()?)))
            .collect();
        starts.sort_unstable();
        starts.retain(|&(from, to)| !self.is_counted_on(from, to));
        self.keep_order(&starts);
        let mut blocks = Vec::new();
        for (from, to) in starts {
            let Some(block) = self.grow(from, to) else { continue };
            self.take(&block, true);
            blocks.push(block);
        }
        self.joined(blocks)
    }

    /// Whether a line with numbers has, at one of its ends, a line in its place that is the same but for them: references and lists that are
    /// numbered anew did not move.
    fn is_counted_on(&self, (edit_from, from): Place, (edit_to, to): Place) -> bool {
        let without = |line: &[u8]| -> Vec<u8> {
            line.trim_ascii().iter().copied().filter(|byte| !byte.is_ascii_digit()).collect()
        };
        let line = self.before[edit_from].lines.get(from);
        if edit_from == edit_to || !line.iter().any(u8::is_ascii_digit) {
            return false;
        }
        let bare = without(line);
        let is_near = |side: &Side<'_>, at: usize| {
            let upto = side.lines.len().min(at + NEAR);
            (at.saturating_sub(NEAR).min(upto)..upto).any(|other| without(side.lines.get(other)) == bare)
        };
        is_near(&self.after[edit_from], from) || is_near(&self.before[edit_to], to)
    }

    /// Takes the lines of each edit that keep their order in it out of the search.
    fn keep_order(&mut self, starts: &[(Place, Place)]) {
        let inside: Vec<_> = starts.iter().filter(|(from, to)| from.0 == to.0).collect();
        for of_edit in inside.chunk_by(|one, other| one.0.0 == other.0.0) {
            let edit = of_edit[0].0.0;
            let pairs: Vec<(usize, usize)> = of_edit.iter().map(|(from, to)| (from.1, to.1)).collect();
            for (b, a) in longest_chain(&pairs) {
                self.before[edit].taken[b] = true;
                self.after[edit].taken[a] = true;
            }
        }
    }

    /// The block of equal lines around a pair of lines.
    fn grow(&self, (edit_from, at_from): Place, (edit_to, at_to): Place) -> Option<Block> {
        let (from, to) = (&self.before[edit_from], &self.after[edit_to]);
        let free = |f: usize, t: usize| !from.taken[f] && !to.taken[t] && from.keys[f] == to.keys[t];
        let ahead = (at_from..from.lines.len()).zip(at_to..to.lines.len()).take_while(|&(f, t)| free(f, t)).count();
        let back = (0..at_from).rev().zip((0..at_to).rev()).take_while(|&(f, t)| free(f, t)).count();
        work::count(ahead + back);
        if ahead == 0 {
            return None;
        }
        let lines = at_from - back..at_from + ahead;
        let letters: Vec<usize> = lines.clone().map(|line| from.letters(line)).collect();
        Some(Block {
            from: (edit_from, lines),
            to: (edit_to, at_to - back..at_to + ahead),
            same: letters.len(),
            letters: letters.iter().sum(),
            saying: letters.iter().filter(|count| **count > 0).count(),
        })
    }

    /// Takes the lines of a block out of the search, or puts them back.
    fn take(&mut self, block: &Block, is_taken: bool) {
        self.before[block.from.0].taken[block.from.1.clone()].fill(is_taken);
        self.after[block.to.0].taken[block.to.1.clone()].fill(is_taken);
    }

    /// Joins neighbours that went the same way.
    fn joined(&mut self, mut blocks: Vec<Block>) -> Vec<Block> {
        blocks.sort_unstable_by_key(place_of);
        let mut joined: Vec<Block> = Vec::with_capacity(blocks.len());
        for next in blocks {
            let last = joined.last_mut().filter(|last| {
                let is_near =
                    |one: &Range<usize>, other: &Range<usize>| other.start >= one.end && other.start - one.end <= NEAR;
                let free = |side: &Side<'_>, lines: Range<usize>| !side.taken[lines].contains(&true);
                (last.from.0, last.to.0) == (next.from.0, next.to.0)
                    && is_near(&last.from.1, &next.from.1)
                    && is_near(&last.to.1, &next.to.1)
                    && free(&self.before[next.from.0], last.from.1.end..next.from.1.start)
                    && free(&self.after[next.to.0], last.to.1.end..next.to.1.start)
            });
            match last {
                Some(last) => {
                    (last.from.1.end, last.to.1.end) = (next.from.1.end, next.to.1.end);
                    last.same += next.same;
                    last.letters += next.letters;
                    last.saying += next.saying;
                    self.take(last, true);
                }
                None => joined.push(next),
            }
        }
        joined
    }

    /// Whether a block is long enough to be worth showing whatever is around it.
    fn is_long(&self, block: &Block) -> bool {
        block.same > SHORT && block.says_enough()
    }

    /// Whether a short block may be worth showing.
    fn may_be_short(&self, block: &Block) -> bool {
        block.says_enough() || self.is_made_of_long_lines(block)
    }

    fn is_made_of_long_lines(&self, block: &Block) -> bool {
        let side = &self.before[block.from.0];
        block.from.1.clone().all(|line| side.letters(line) >= LETTERS_OF_A_LINE)
    }

    /// Whether a block of more than one line is a whole unit at both ends: between blank lines, or lines that are indented less.
    fn is_unit(&self, block: &Block, (before, after): (&[u8], &[u8])) -> bool {
        let ends = [(before, &self.before[block.from.0], &block.from.1), (after, &self.after[block.to.0], &block.to.1)];
        block.says_enough()
            && ends.into_iter().all(|(text, side, lines)| {
                let (start, end) = (
                    side.span.bytes.start + side.lines.start(lines.start),
                    side.span.bytes.start + side.lines.start(lines.end),
                );
                let depth = leading_space(side.lines.get(lines.start));
                let is_edge = |line: &[u8]| line.trim_ascii().is_empty() || leading_space(line) < depth;
                (start == 0 || is_edge(&text[line_start(text, start - 1)..start]))
                    && (end == text.len() || is_edge(&text[end..line_end(text, end)]))
            })
    }

    /// Takes the blank lines beside a block along, if as many are gone with it as are new where it came to: a block at the end of a text has them
    /// above it, any other below.
    fn take_blank_lines(&mut self, block: &mut Block) {
        let blank = |side: &Side<'_>, lines: &Range<usize>| -> Range<usize> {
            let is_free = |at: &usize| !side.taken[*at] && side.lines.get(*at).trim_ascii().is_empty();
            let above = (0..lines.start).rev().take_while(is_free).count();
            let below = (lines.end..side.lines.len()).take_while(is_free).count();
            lines.start - above..lines.end + below
        };
        let (from, to) = (&self.before[block.from.0], &self.after[block.to.0]);
        let (wide_from, wide_to) = (blank(from, &block.from.1), blank(to, &block.to.1));
        if wide_from.len() - block.from.1.len() == wide_to.len() - block.to.1.len() {
            (block.from.1, block.to.1) = (wide_from, wide_to);
            self.take(block, true);
        }
    }

    fn keys(&self, block: &Block) -> impl Iterator<Item = u64> {
        self.before[block.from.0].keys[block.from.1.clone()].iter().copied()
    }

    /// A block as it stands in the texts.
    fn placed(&self, block: &Block) -> Move {
        let placed = |side: &Side<'_>, lines: &Range<usize>| {
            side.span.lines.start + lines.start..side.span.lines.start + lines.end
        };
        let (from, to) = (&self.before[block.from.0], &self.after[block.to.0]);
        Move { from: (block.from.0, placed(from, &block.from.1)), to: (block.to.0, placed(to, &block.to.1)) }
    }
}

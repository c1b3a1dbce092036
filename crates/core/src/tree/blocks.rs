//! Blocks that moved to another file: lines that are gone in one file of a tree and new in another.
//!
//! While the pairs of a tree are compared, each gone and each new line leaves its hash behind. Lines that are gone once and new once are
//! starting points, as for the blocks that move inside a file; from each, the block grows in both directions while the lines are the same
//! but for a few. What is found is then held against the texts: hashes only say where to look.
//!
//! For each gone or new line about 60 bytes are kept, and of very many lines none (see [`LARGEST_BLOCK_SEARCH`]).

use std::collections::HashMap;
use std::ops::Range;

use super::blocks_read::{FEWEST_LINES, ReadSide, SAME_OF_TEN};
use super::{Pair, Tree};
use crate::internal::align::{LARGEST_BLOCK_SEARCH, work};
use crate::internal::kinds::ContentOptions;
use crate::internal::model::{Form, MovedBlock, TextComparison, Weight};
use crate::internal::rules::MaskedText;
use crate::internal::text::bytes::line_end;
use crate::internal::text::lines::hash_line;

/// The hashes of the lines that are gone from a file, or new in it.
#[derive(Debug, Default)]
pub(super) struct FileLines {
    gone: Vec<Lines>,
    new: Vec<Lines>,
}

/// Consecutive lines of one side of a file.
#[derive(Debug)]
struct Lines {
    first: usize,
    hashes: Vec<u64>,
}

impl FileLines {
    /// The lines that count of two texts.
    pub(super) fn of(before: &MaskedText<'_>, after: &MaskedText<'_>, found: &TextComparison) -> Self {
        let mut lines = Self::default();
        let counted = |weight: Weight, form: Form| weight == Weight::Counted && form != Form::Moved;
        for change in found.changes.iter().filter(|change| counted(change.weight, change.form)) {
            lines.gone.extend(Lines::of(before, change.before.lines.start, &change.before.bytes));
            lines.new.extend(Lines::of(after, change.after.lines.start, &change.after.bytes));
        }
        lines
    }

    /// All lines of a file that only one side has.
    pub(super) fn whole(text: &MaskedText<'_>, form: Form) -> Self {
        let all = Lines::of(text, 0, &(0..text.text().len())).into_iter().collect();
        if form == Form::Gone { Self { gone: all, new: Vec::new() } } else { Self { gone: Vec::new(), new: all } }
    }
}

impl Lines {
    fn of(text: &MaskedText<'_>, first: usize, bytes: &Range<usize>) -> Option<Self> {
        let mut hashes = Vec::new();
        let mut at = bytes.start;
        while at < bytes.end {
            let line = at..line_end(text.text(), at);
            at = line.end;
            hashes.push(text.key(line.clone()).map_or_else(|| hash_line(&text.text()[line]), |key| hash_line(&key)));
        }
        (hashes.len() >= FEWEST_LINES).then_some(Self { first, hashes })
    }
}

/// Lines of a file, by the index of its pair.
#[derive(Debug)]
struct Run {
    pair: usize,
    lines: Lines,
    taken: Vec<bool>,
}

/// Collects the lines of all pairs.
#[derive(Debug, Default)]
pub(super) struct BlockSearch {
    gone: Vec<Run>,
    new: Vec<Run>,
    lines: usize,
}

/// A block that hashes say has moved: the runs it left and came to, and where in them.
struct Candidate {
    from: (usize, Range<usize>),
    to: (usize, Range<usize>),
}

impl BlockSearch {
    /// Adds the lines of a pair.
    pub(super) fn add(&mut self, pair: usize, lines: FileLines) {
        let size = |runs: &[Lines]| runs.iter().map(|run| run.hashes.len()).sum::<usize>();
        self.lines += size(&lines.gone) + size(&lines.new);
        if self.lines > LARGEST_BLOCK_SEARCH {
            // In so large a difference, blocks that moved tell a reader nothing.
            (self.gone, self.new) = (Vec::new(), Vec::new());
            return;
        }
        let run = |lines: Lines| Run { pair, taken: vec![false; lines.hashes.len()], lines };
        self.gone.extend(lines.gone.into_iter().map(run));
        self.new.extend(lines.new.into_iter().map(run));
    }

    /// The blocks that moved, and with each the index of the pair that it is an end in.
    pub(super) fn find(
        mut self,
        pairs: &[&Pair],
        (before, after): (&dyn Tree, &dyn Tree),
        contents: &ContentOptions,
    ) -> Vec<(usize, MovedBlock)> {
        let mut found = Vec::new();
        let mut sides = (ReadSide::new(before, contents, true), ReadSide::new(after, contents, false));
        for Candidate { from, to } in self.candidates() {
            let (left, came) = (&self.gone[from.0], &self.new[to.0]);
            let placed = |run: &Run, lines: &Range<usize>| run.lines.first + lines.start..run.lines.first + lines.end;
            let (mut lines_left, mut lines_came) = (placed(left, &from.1), placed(came, &to.1));
            let (pair_left, pair_came) = (pairs[left.pair], pairs[came.pair]);
            let one = sides.0.lines(pair_left, &lines_left);
            let other = sides.1.lines(pair_came, &lines_came);
            let (Some(mut one), Some(mut other)) = (one, other) else { continue };
            let (head, tail) = one.blank_ends(&other);
            for (block, lines) in [(&mut one, &mut lines_left), (&mut other, &mut lines_came)] {
                block.narrow(head, tail);
                *lines = lines.start + head..lines.end - tail;
            }
            let Some((differing_left, differing_came)) = one.differences(&other) else { continue };
            found.push((
                left.pair,
                MovedBlock {
                    form: Form::Gone,
                    lines: lines_left.clone(),
                    path: pair_came.path.to_vec(),
                    other: lines_came.clone(),
                    differing: differing_left,
                },
            ));
            found.push((
                came.pair,
                MovedBlock {
                    form: Form::New,
                    lines: lines_came,
                    path: pair_left.path_before().to_vec(),
                    other: lines_left,
                    differing: differing_came,
                },
            ));
        }
        found
    }

    /// The blocks that hashes say have moved, in the order of the places they left. They do not overlap.
    fn candidates(&mut self) -> Vec<Candidate> {
        let places_new = single_places(&self.new);
        let mut starts: Vec<_> = single_places(&self.gone)
            .into_iter()
            .filter_map(|(hash, from)| Some((from?, places_new.get(&hash).copied().flatten()?)))
            .filter(|(from, to)| self.gone[from.0].pair != self.new[to.0].pair)
            .collect();
        starts.sort_unstable();
        let mut found = Vec::new();
        // A block is grown once, not from each of its lines.
        let mut seen: HashMap<(usize, usize), usize> = HashMap::new();
        for ((run_from, at_from), (run_to, at_to)) in starts {
            let upto = seen.entry((run_from, run_to)).or_default();
            if at_from < *upto {
                continue;
            }
            let (from, to) = grow((&self.gone[run_from], at_from), (&self.new[run_to], at_to));
            *upto = from.end.max(at_from + 1);
            if from.len().min(to.len()) >= FEWEST_LINES {
                self.gone[run_from].taken[from.clone()].fill(true);
                self.new[run_to].taken[to.clone()].fill(true);
                found.push(Candidate { from: (run_from, from), to: (run_to, to) });
            }
        }
        found
    }
}

/// Where each line stands (run, line in it), if it stands in one place only.
fn single_places(runs: &[Run]) -> HashMap<u64, Option<(usize, usize)>> {
    let mut places = HashMap::new();
    for (run, lines) in runs.iter().enumerate() {
        for (at, &hash) in lines.lines.hashes.iter().enumerate() {
            places.entry(hash).and_modify(|place| *place = None).or_insert(Some((run, at)));
        }
    }
    places
}

/// The block around two lines that are the same.
fn grow((from, at_from): (&Run, usize), (to, at_to): (&Run, usize)) -> (Range<usize>, Range<usize>) {
    let ahead = reach(|step| at_from + step, |step| at_to + step, (from, to));
    let back = reach(|step| at_from.wrapping_sub(step + 1), |step| at_to.wrapping_sub(step + 1), (from, to));
    (at_from - back.0..at_from + ahead.0, at_to - back.1..at_to + ahead.1)
}

/// How many lines of either side a block goes on for in one direction. Its last lines are the same.
fn reach(from_at: impl Fn(usize) -> usize, to_at: impl Fn(usize) -> usize, (from, to): (&Run, &Run)) -> (usize, usize) {
    /// Steps over lines that differ, the shortest first.
    const STEPS: [(usize, usize); 6] = [(1, 1), (1, 0), (0, 1), (2, 2), (2, 1), (1, 2)];
    let same = |f: usize, t: usize| {
        let (f, t) = (from_at(f), to_at(t));
        let free = from.taken.get(f) == Some(&false) && to.taken.get(t) == Some(&false);
        free && from.lines.hashes[f] == to.lines.hashes[t]
    };
    let (mut f, mut t) = (0, 0);
    let (mut equal, mut other) = (0, 0);
    let mut best = (0, 0);
    loop {
        while same(f, t) {
            (f, t, equal) = (f + 1, t + 1, equal + 1);
        }
        work::count(1);
        if SAME_OF_TEN * (equal + other) <= 10 * equal {
            best = (f, t);
        }
        // Two lines of those that follow must be the same again, so that a lone bracket does not carry a block on.
        let step = STEPS.iter().find(|step| same(f + step.0, t + step.1) && same(f + step.0 + 1, t + step.1 + 1));
        let Some(step) = step else { break };
        (f, t, other) = (f + step.0, t + step.1, other + step.0.max(step.1));
        if other > equal / 4 + 1 {
            break;
        }
    }
    work::count(f);
    best
}

//! Hunks, and parts of hunks, in the form in which they are looked for.

use std::ops::Range;

use super::super::model::{Hunk, HunkLine, LineRole};

/// Which lines of a hunk stand in the target.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum State {
    /// The old ones: it is to go in.
    Out,
    /// The new ones: it is in already.
    In,
}

impl State {
    pub(super) const BOTH: [Self; 2] = [Self::Out, Self::In];
}

/// A hunk, or one of its changes with the context around it.
#[derive(Clone, Debug)]
pub(super) struct Piece<'h> {
    pub(super) rows: &'h [HunkLine],
    /// The numbers of its lines.
    pub(super) numbers: &'h [u32],
    /// The line where it was written to begin, from 0.
    pub(super) before: usize,
    /// Context lines at its beginning and at its end.
    pub(super) lead: usize,
    pub(super) trail: usize,
    /// Whether the context that is missing says that the file begins or ends with it.
    pub(super) begins: bool,
    pub(super) ends: bool,
    old: Vec<u32>,
    new: Vec<u32>,
    /// With how much tolerance each row need not hold; none for changed lines.
    pub(super) needs: Vec<Option<usize>>,
}

impl<'h> Piece<'h> {
    pub(super) fn of(hunk: &'h Hunk, numbers: &'h [u32]) -> Self {
        let mut piece = Self::new(&hunk.lines, numbers, hunk.before);
        piece.begins = piece.lead < piece.trail && hunk.before == 0;
        piece.ends = piece.trail < piece.lead;
        piece
    }

    fn new(rows: &'h [HunkLine], numbers: &'h [u32], before: usize) -> Self {
        let side = |left_out: LineRole| -> Vec<u32> {
            let both = rows.iter().zip(numbers);
            both.filter(|(row, _)| row.role != left_out).map(|(_, number)| *number).collect()
        };
        let is_context = |row: &&HunkLine| row.role == LineRole::Context;
        let lead = rows.iter().take_while(is_context).count();
        let trail = if lead == rows.len() { 0 } else { rows.iter().rev().take_while(is_context).count() };
        let (old, new) = (side(LineRole::New), side(LineRole::Gone));
        Self { rows, numbers, before, lead, trail, begins: false, ends: false, old, new, needs: needs(rows) }
    }

    /// The numbers of the lines that stand in the target in a state.
    pub(super) fn side(&self, state: State) -> &[u32] {
        match state {
            State::Out => &self.old,
            State::In => &self.new,
        }
    }

    /// The same without the context at its ends.
    pub(super) fn changed(&self, state: State) -> &[u32] {
        let side = self.side(state);
        &side[self.lead.min(side.len())..side.len().saturating_sub(self.trail).max(self.lead.min(side.len()))]
    }

    /// How many lines it has before.
    pub(super) fn old_len(&self) -> usize {
        self.old.len()
    }

    /// How many of its lines are context.
    pub(super) fn context(&self) -> usize {
        self.rows.iter().filter(|row| row.role == LineRole::Context).count()
    }

    /// Stretches of lines with one role, as numbers.
    pub(super) fn blocks(&self, role: LineRole) -> Vec<&'h [u32]> {
        let mut blocks = Vec::new();
        let mut at = 0;
        for rows in self.rows.chunk_by(|one, other| one.role == other.role) {
            if rows[0].role == role {
                blocks.push(&self.numbers[at..at + rows.len()]);
            }
            at += rows.len();
        }
        blocks
    }

    /// Each of its changes as a piece of its own, with half of the context between two; none if there is only one.
    pub(super) fn parts(&self) -> Vec<Self> {
        let cuts = cuts(self.rows);
        if cuts.len() < 3 {
            return Vec::new();
        }
        let mut before = self.before;
        let mut parts = Vec::with_capacity(cuts.len() - 1);
        for range in cuts.windows(2).map(|pair| pair[0]..pair[1]) {
            parts.push(self.part(range, before));
            before += parts.last().map_or(0, Self::old_len);
        }
        if let Some(first) = parts.first_mut() {
            first.begins = self.begins;
        }
        if let Some(last) = parts.last_mut() {
            last.ends = self.ends;
        }
        parts
    }

    fn part(&self, range: Range<usize>, before: usize) -> Self {
        Self::new(&self.rows[range.clone()], &self.numbers[range], before)
    }
}

/// With how much tolerance each row need not hold: of context between two changes, the lines in the middle are the outermost.
fn needs(rows: &[HunkLine]) -> Vec<Option<usize>> {
    let cuts = cuts(rows);
    let mut needs = Vec::with_capacity(rows.len());
    for range in cuts.windows(2).map(|pair| pair[0]..pair[1]) {
        let part = &rows[range];
        let is_context = |row: &&HunkLine| row.role == LineRole::Context;
        let lead = part.iter().take_while(is_context).count();
        let trail = part.iter().rev().take_while(is_context).count();
        needs.extend(part.iter().enumerate().map(|(at, row)| {
            let from_end = part.len() - 1 - at;
            let by_end = [(at, lead), (from_end, trail)].into_iter().filter(|(at, run)| at < run).map(|(at, _)| at + 1);
            by_end.min().filter(|_| row.role == LineRole::Context)
        }));
    }
    needs
}

/// Where a hunk can be cut into its changes: in the middle of the context between them. The ends of the hunk are among the cuts.
fn cuts(rows: &[HunkLine]) -> Vec<usize> {
    let mut cuts = vec![0];
    let mut last_change: Option<usize> = None;
    for (at, row) in rows.iter().enumerate() {
        if row.role == LineRole::Context {
            continue;
        }
        if let Some(last) = last_change.filter(|last| at > last + 1) {
            cuts.push((last + 1 + at).div_ceil(2));
        }
        last_change = Some(at);
    }
    cuts.push(rows.len());
    cuts
}

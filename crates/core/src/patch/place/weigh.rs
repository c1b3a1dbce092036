//! How much of a hunk, or of several hunks together, stands at a place.

use std::collections::HashMap;

use foldhash::fast::FixedState;

use super::super::model::LineRole;
use super::line_index::{DISTINCT, LineIndex, WEAK};
use super::pieces::{Piece, State};

/// So many places of a line are looked at; what stands more often tells little.
const MOST_PLACES: usize = 200;
/// So many lines and places are counted in all for one question, so that long patches of common lines stay quick.
const MOST_VOTES: usize = 2_000_000;
/// So many places are weighed for one question.
const MOST_STANDS: usize = 24;
/// What the beginning or the end of the file weighs, where a hunk says that it stands there.
const FILE_END: u32 = 2 * WEAK;

/// Pieces at a place: how much of them stands there, line by line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Candidate {
    pub(super) state: State,
    /// The line of the target where the first piece begins; before the file, if negative.
    pub(super) start: isize,
    /// What the lines weigh that hold, and what all of them weigh.
    pub(super) held: u32,
    pub(super) total: u32,
    /// Lines that do not hold.
    pub(super) differing: usize,
    /// Lines that hold, but not byte for byte.
    pub(super) loose: usize,
    /// How many outer context lines need not hold for it to fit; none if an inner line does not hold.
    pub(super) tolerance: Option<usize>,
}

impl Candidate {
    /// How much of what could hold does, from 0 to 1.
    pub(super) fn similarity(&self) -> f64 {
        if self.total == 0 { 1.0 } else { f64::from(self.held) / f64::from(self.total) }
    }

    /// Whether all lines hold.
    pub(super) fn is_exact(&self) -> bool {
        self.differing == 0
    }

    pub(super) fn fits(&self, tolerance: usize) -> bool {
        self.tolerance.is_some_and(|needed| needed <= tolerance)
    }
}

impl LineIndex<'_> {
    /// How much of a piece stands where its first line is at `start`.
    pub(super) fn candidate(&self, piece: &Piece<'_>, state: State, start: isize) -> Candidate {
        let side = piece.side(state);
        let (mut held, mut total, mut differing, mut loose, mut inner) = (0, 0, 0, 0, 0);
        let mut needed = Some(0);
        let left_out = if state == State::Out { LineRole::New } else { LineRole::Gone };
        let mut rows = piece.rows.iter().zip(&piece.needs).filter(|(row, _)| row.role != left_out);
        for (offset, number) in side.iter().enumerate() {
            let weight = self.weights[*number as usize];
            total += weight;
            let row = rows.next();
            let at = usize::try_from(start + offset as isize).ok().filter(|at| self.of_target.get(*at) == Some(number));
            if let Some(at) = at {
                held += weight;
                loose += usize::from(row.is_some_and(|(row, _)| row.text != self.lines.get(at)));
                continue;
            }
            differing += 1;
            // One line of context between two changes may have changed, not gone; of several, lines may have come or gone.
            let is_outer = offset < piece.lead || side.len() - 1 - offset < piece.trail;
            inner += usize::from(!is_outer);
            let is_there = inner < 2 && (0..self.len() as isize).contains(&(start + offset as isize));
            let outer = row.and_then(|(_, outer)| *outer).filter(|_| is_outer || is_there);
            needed = needed.zip(outer).map(|(one, other): (usize, usize)| one.max(other));
        }
        let end = start + side.len() as isize;
        for (says, holds) in [(piece.begins, start == 0), (piece.ends, end == self.len() as isize)] {
            total += if says { FILE_END } else { 0 };
            held += if says && holds { FILE_END } else { 0 };
        }
        // Something has to hold, and a hunk that is in already has to be seen by more than a place where nothing is.
        let is_told = side.len() > differing && (state == State::Out || self.tells_it_is_in(piece, start));
        let [above, below] = self.holds_beside(piece, state, start);
        let both = (piece.lead == 0 || above) && (piece.trail == 0 || below);
        let one = state == State::Out && (above || below) && held >= 2 * DISTINCT;
        let is_held = both || one || self.weight(piece.changed(state)) >= DISTINCT;
        let tolerance = needed.filter(|_| is_told && is_held || side.is_empty() && state == State::Out);
        Candidate { state, start, held, total, differing, loose, tolerance }
    }

    /// Whether the last line of context above a piece holds, and the first one below it.
    fn holds_beside(&self, piece: &Piece<'_>, state: State, start: isize) -> [bool; 2] {
        let side = piece.side(state);
        let holds = |offset: usize| {
            let at = usize::try_from(start + offset as isize).ok();
            at.and_then(|at| self.of_target.get(at)) == side.get(offset)
        };
        [piece.lead > 0 && holds(piece.lead - 1), piece.trail > 0 && holds(side.len() - piece.trail)]
    }

    /// Whether the new lines of a piece say anything: what only removes is known to be in by what stands on both sides of it.
    fn tells_it_is_in(&self, piece: &Piece<'_>, start: isize) -> bool {
        if piece.rows.iter().any(|row| row.role == LineRole::New) {
            return true;
        }
        let [above, below] = self.holds_beside(piece, State::In, start);
        let end = start + piece.side(State::In).len() as isize;
        let begins = piece.lead == 0 && piece.begins && start == 0;
        let ends = piece.trail == 0 && piece.ends && end == self.len() as isize;
        (above || begins) && (below || ends)
    }

    /// The same for pieces one after the other, at the distance at which they were written.
    pub(super) fn candidate_together(&self, pieces: &[Piece<'_>], state: State, offset: isize) -> Candidate {
        let mut sum = Candidate { state, start: 0, held: 0, total: 0, differing: 0, loose: 0, tolerance: Some(0) };
        let mut last_changed = isize::MIN;
        for (piece, start) in pieces.iter().zip(starts(pieces, state, offset)) {
            let one = self.candidate(piece, state, start);
            sum.held += one.held;
            sum.total += one.total;
            sum.differing += one.differing;
            sum.loose += one.loose;
            sum.tolerance = sum.tolerance.zip(one.tolerance).map(|(sum, one)| sum.max(one));
            if start + (piece.lead as isize) < last_changed {
                sum.tolerance = None;
            }
            last_changed = start + (piece.side(state).len() - piece.trail) as isize;
        }
        sum.start = pieces.first().map_or(0, |piece| piece.before as isize) + offset;
        sum
    }

    /// Whether all lines with letters or digits that hold of a piece stand nowhere else, and there are several of them.
    pub(super) fn is_unmistakable(&self, piece: &Piece<'_>, candidate: &Candidate) -> bool {
        let holds = |offset: usize, number: u32| {
            let at = usize::try_from(candidate.start + offset as isize).ok();
            at.and_then(|at| self.of_target.get(at)) == Some(&number)
        };
        let side = piece.side(candidate.state).iter().enumerate();
        let telling: Vec<u32> = side
            .filter(|(offset, number)| holds(*offset, **number) && self.weights[**number as usize] > WEAK)
            .map(|(_, number)| *number)
            .collect();
        telling.len() > 1 && telling.iter().all(|number| self.places[*number as usize].len() == 1)
    }

    /// Whether a good part of what the patch changes stands at a place in lines that another place does not account for.
    pub(super) fn shows_change(&self, pieces: &[Piece<'_>], candidate: &Candidate, other: &Candidate) -> bool {
        let first = pieces.first().map_or(0, |piece| piece.before as isize);
        let of = |candidate: &Candidate| starts(pieces, candidate.state, candidate.start - first);
        let (mut held, mut total) = (0, 0);
        for ((piece, start), other_start) in pieces.iter().zip(of(candidate)).zip(of(other)) {
            let left_out = if candidate.state == State::Out { LineRole::New } else { LineRole::Gone };
            let rows = piece.rows.iter().filter(|row| row.role != left_out);
            for (offset, (row, number)) in rows.zip(piece.side(candidate.state)).enumerate() {
                if row.role == LineRole::Context {
                    continue;
                }
                let at = start + offset as isize;
                let number_at = |at: isize| usize::try_from(at).ok().and_then(|at| self.of_target.get(at));
                let in_other =
                    usize::try_from(at - other_start).ok().and_then(|offset| piece.side(other.state).get(offset));
                total += self.weights[*number as usize];
                if number_at(at) == Some(number) && in_other != Some(number) {
                    held += self.weights[*number as usize];
                }
            }
        }
        held >= DISTINCT && held * 2 >= total
    }

    /// Offsets at which much of the pieces stands, the best first; within a range of lines of the target.
    pub(super) fn offsets(&self, pieces: &[Piece<'_>], state: State, within: &std::ops::Range<isize>) -> Vec<isize> {
        let lines: usize = pieces.iter().map(|piece| piece.side(state).len()).sum();
        let most = (MOST_VOTES / lines.max(1)).clamp(4, MOST_PLACES);
        let mut votes: HashMap<isize, u32, FixedState> = HashMap::default();
        let mut rarest: Option<(usize, isize, u32)> = None;
        for (piece, start) in pieces.iter().zip(starts(pieces, state, 0)) {
            for (index, number) in piece.side(state).iter().enumerate() {
                let places = &self.places[*number as usize];
                let line = start + index as isize;
                if !places.is_empty() && rarest.is_none_or(|(count, ..)| places.len() < count) {
                    rarest = Some((places.len(), line, *number));
                }
                if places.len() > most && !within.is_empty() {
                    continue;
                }
                for place in places {
                    *votes.entry(*place as isize - line).or_default() += self.weights[*number as usize];
                }
            }
        }
        if votes.is_empty()
            && let Some((_, line, number)) = rarest
        {
            self.nearest_votes(line, number, within, &mut votes);
        }
        let inside =
            |offset: &isize| pieces.first().is_none_or(|piece| within.contains(&(piece.before as isize + offset)));
        let mut offsets: Vec<(u32, isize)> =
            votes.into_iter().filter(|(offset, _)| inside(offset)).map(|(offset, votes)| (votes, offset)).collect();
        offsets.sort_unstable_by_key(|(votes, offset)| (std::cmp::Reverse(*votes), offset.unsigned_abs(), *offset));
        offsets.truncate(MOST_STANDS);
        offsets.into_iter().map(|(_, offset)| offset).collect()
    }

    /// Where every line is common: the places of the rarest one that are nearest to its own line.
    fn nearest_votes(
        &self,
        line: isize,
        number: u32,
        within: &std::ops::Range<isize>,
        votes: &mut HashMap<isize, u32, FixedState>,
    ) {
        let places = &self.places[number as usize];
        let expected = line.clamp(within.start, within.end);
        let middle = places.partition_point(|place| (*place as isize) < expected);
        let near = middle.saturating_sub(MOST_PLACES)..(middle + MOST_PLACES).min(places.len());
        for place in &places[near] {
            *votes.entry(*place as isize - line).or_default() += 1;
        }
    }
}

/// Where each piece begins in the target at an offset of the first.
pub(super) fn starts<'p>(pieces: &'p [Piece<'p>], state: State, offset: isize) -> impl Iterator<Item = isize> + 'p {
    let mut grown = 0;
    pieces.iter().map(move |piece| {
        let start = piece.before as isize + offset + grown;
        grown += piece.side(state).len() as isize - piece.old_len() as isize;
        start
    })
}

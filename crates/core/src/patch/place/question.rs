//! Whether some pieces have a place in a target that is plainly theirs, and what speaks against it.

use std::cmp::{Ordering, Reverse};
use std::ops::Range;

use super::super::placement::Doubt;
use super::decision::{Refusal, SearchArea};
use super::line_index::{DISTINCT, LineIndex};
use super::nearby::TELLING;
use super::pieces::{Piece, State};
use super::weigh::{Candidate, starts};

/// By how much a hunk has to be more like a place at its own line, where outer context does not hold, than any other place.
const MARGIN_DIFFERING: f64 = 0.05;
/// The same for a place elsewhere.
pub(super) const MARGIN_ELSEWHERE: f64 = 0.5;
/// The same where the other place is so many times as far from the own line.
const MARGIN_FAR: f64 = 0.3;
const FAR: usize = 50;
/// The same for a place elsewhere against the own one: there the hunk is expected, and lines of it may have changed.
const MARGIN_OWN: f64 = 0.6;
/// A place that is so much like a hunk, where the neighbour on the other side says, is one too many.
const TWIN: f64 = 0.6;
/// How much less lines count that are only close to a place.
const ALLOWANCE: f64 = 0.1;
/// The same against one in the same neighbourhood.
const MARGIN_NEAR: f64 = 0.08;
/// Places so near to each other are one neighbourhood: lines were added or removed in it.
const OVERLAP: usize = 2;
/// What has to hold of a hunk that goes elsewhere than to its own line: three distinct lines.
const LEAST_HELD: u32 = 3 * DISTINCT;
impl LineIndex<'_> {
    /// Every place where much of the pieces stands, in either state.
    pub(super) fn candidates(&self, pieces: &[Piece<'_>], place: &SearchArea) -> Vec<Candidate> {
        let (Some(first), Some(last)) = (pieces.first(), pieces.last()) else { return Vec::new() };
        let mut candidates = Vec::new();
        for (state, own) in State::BOTH.into_iter().zip(&place.own) {
            let starts_within = place.within.start - first.lead as isize..place.within.end;
            let mut offsets = self.offsets(pieces, state, &starts_within);
            for start in own {
                let offset = start - first.before as isize;
                if !offsets.contains(&offset) {
                    offsets.push(offset);
                }
            }
            for offset in offsets {
                let begins = first.before as isize + offset + first.lead as isize;
                let last_start = starts(pieces, state, offset).last().unwrap_or(0);
                let ends = last_start + (last.side(state).len() - last.trail) as isize;
                if begins >= place.within.start && ends <= place.within.end {
                    candidates.push(self.candidate_together(pieces, state, offset));
                }
            }
        }
        candidates
    }
}

/// Where some pieces belong that lie at a fixed distance from each other.
pub(super) struct Question<'q> {
    line_index: &'q LineIndex<'q>,
    /// By how many lines the first hunk of the file may be expected lower than written.
    offsets: &'q [isize],
    pieces: &'q [Piece<'q>],
    place: &'q SearchArea,
    tolerance: usize,
    /// Every place where much of them stands.
    candidates: Vec<Candidate>,
}

impl<'q> Question<'q> {
    pub(super) fn new(
        line_index: &'q LineIndex<'q>,
        offsets: &'q [isize],
        pieces: &'q [Piece<'q>],
        place: &'q SearchArea,
        tolerance: usize,
    ) -> Self {
        Self { line_index, offsets, pieces, place, tolerance, candidates: line_index.candidates(pieces, place) }
    }

    /// The place that is plainly the right one; else the one that is closest, and what speaks against it.
    pub(super) fn answer(&self) -> Result<Candidate, (Candidate, Refusal)> {
        if let Some(first) = self.whole_at_home() {
            return match self.against_whole(&first) {
                Some(refusal) => Err((first, refusal)),
                None => Ok(first),
            };
        }
        let Some(best) = self.most_alike() else {
            let start = self.place.own[0].first().copied().unwrap_or(0);
            let offset = start - self.first_line();
            let nowhere = self.line_index.candidate_together(self.pieces, State::Out, offset);
            return Err((nowhere, Refusal::NoMatch(None)));
        };
        if !best.fits(self.tolerance) {
            return Err((best, Refusal::NoMatch(None)));
        }
        if let Some(rival) = self.rival_of(&best) {
            return Err((best, Refusal::Rival(rival.start)));
        }
        match self.doubt(&best, self.is_own(&best)) {
            Some(doubt) => Err((best, Refusal::Doubt(doubt))),
            None => Ok(best),
        }
    }

    /// The line where the first piece was written to begin.
    fn first_line(&self) -> isize {
        self.pieces.first().map_or(0, |piece| piece.before as isize)
    }

    /// Whether a place is where the neighbours say.
    fn is_own(&self, candidate: &Candidate) -> bool {
        self.place.own[candidate.state as usize].contains(&candidate.start)
    }

    /// Whether a place is where the patch says.
    fn is_written(&self, candidate: &Candidate) -> bool {
        self.offsets.contains(&(candidate.start - self.first_line()))
    }

    /// The order in which places are believed at which all lines hold: as written and byte for byte before all others.
    fn doubtfulness(&self, candidate: &Candidate) -> (bool, u32, usize, Reverse<u32>) {
        let as_written = self.is_written(candidate) && candidate.loose == 0;
        (!as_written, candidate.total - candidate.held, candidate.loose, Reverse(candidate.held))
    }

    /// The most certain of the places at which all lines hold and that are where the neighbours say.
    fn whole_at_home(&self) -> Option<Candidate> {
        let whole =
            |candidate: &&Candidate| candidate.is_exact() && candidate.fits(self.tolerance) && self.is_own(candidate);
        self.candidates.iter().filter(whole).min_by_key(|candidate| self.doubtfulness(candidate)).copied()
    }

    /// What speaks against a place at which all lines hold and that is where the neighbours say.
    fn against_whole(&self, first: &Candidate) -> Option<Refusal> {
        // A hunk that stands byte for byte where it was written is there, unless its neighbours say otherwise.
        let as_written = !self.doubtfulness(first).0;
        if as_written && self.place.beside == [false; 2] {
            return None;
        }
        if let Some(twin) = self.candidates.iter().find(|candidate| self.is_twin(candidate, first)) {
            return Some(Refusal::Rival(twin.start));
        }
        if self.is_written(first) && !self.place.beside[1 - first.state as usize] {
            return None;
        }
        self.doubt(first, true).map(Refusal::Doubt)
    }

    /// Whether a place is as good as one at which all lines hold.
    fn is_twin(&self, candidate: &Candidate, first: &Candidate) -> bool {
        let is_same_state = candidate.state == first.state;
        // The neighbours above and below may say different things: then most of it must not stand where the other one says.
        let is_apart = self.is_own(candidate) && candidate.start.abs_diff(first.start) > OVERLAP;
        if is_apart && is_same_state && self.line_index.similarity_nearby(self.pieces, candidate).similarity >= TWIN {
            return true;
        }
        let is_other_state = !is_same_state && self.place.beside[candidate.state as usize];
        let is_as_sure = || self.doubtfulness(candidate) == self.doubtfulness(first);
        let is_own_twin = || self.is_own(candidate) && is_same_state && is_as_sure() && candidate.start != first.start;
        candidate.is_exact() && (is_other_state || is_own_twin())
    }

    /// The place that most of the pieces stands at.
    fn most_alike(&self) -> Option<Candidate> {
        let rank = |candidate: &Candidate| (candidate.fits(self.tolerance), self.is_own(candidate), candidate.held);
        let by_likeness = |one: &Candidate, other: &Candidate| {
            let by_likeness = one.similarity().partial_cmp(&other.similarity()).unwrap_or(Ordering::Equal);
            by_likeness.then_with(|| rank(one).cmp(&rank(other)))
        };
        self.candidates.iter().max_by(|one, other| by_likeness(one, other)).copied()
    }

    /// The other place that comes nearest to one, if it comes too near.
    fn rival_of(&self, best: &Candidate) -> Option<Candidate> {
        let rivals = self.candidates.iter().filter(|candidate| self.is_rival(candidate, best));
        let nearest = rivals.map(|candidate| (self.excess(candidate, best), candidate));
        let nearest = nearest.max_by(|(one, _), (other, _)| one.total_cmp(other));
        nearest.filter(|(excess, _)| *excess > 0.0).map(|(_, candidate)| *candidate)
    }

    /// The lines of the target that pieces take at a place, as if they followed each other.
    fn span(&self, candidate: &Candidate) -> Range<isize> {
        let lines: usize = self.pieces.iter().map(|piece| piece.side(candidate.state).len()).sum();
        candidate.start..candidate.start + lines as isize
    }

    /// Whether a place in the other state, at which fewer lines differ, says more than the best.
    fn is_closer(&self, candidate: &Candidate, best: &Candidate) -> bool {
        let backed = self.place.beside[best.state as usize] && !self.place.beside[1 - best.state as usize];
        !best.is_exact() && candidate.state != best.state && candidate.differing < best.differing + usize::from(!backed)
    }

    /// Whether a place is another answer than the best, and not the same one seen from the other state.
    fn is_rival(&self, candidate: &Candidate, best: &Candidate) -> bool {
        if candidate.state == best.state {
            return candidate.start != best.start;
        }
        // In the same lines a hunk can hardly be in and out: its context speaks for both.
        let (here, there) = (self.span(best), self.span(candidate));
        // Aligned at neither end, it is another place, even where the two overlap.
        let near = |one: isize, other: isize| one.abs_diff(other) <= OVERLAP;
        if !near(there.start, here.start) && !near(there.end, here.end) {
            return true;
        }
        let shows = |one, other| self.line_index.shows_change(self.pieces, one, other);
        let is_conclusive = || best.is_exact() && !candidate.is_exact() && shows(best, candidate);
        (candidate.fits(self.tolerance) || self.is_closer(candidate, best)) && !is_conclusive()
            || shows(candidate, best)
    }

    /// How far a place is from where the neighbours say.
    fn away(&self, candidate: &Candidate) -> usize {
        let own = self.place.own[candidate.state as usize].iter().map(|own| own.abs_diff(candidate.start));
        own.min().unwrap_or(usize::MAX)
    }

    /// By how much a place comes too near to the best.
    fn excess(&self, candidate: &Candidate, best: &Candidate) -> f64 {
        if candidate.state == best.state && candidate.start.abs_diff(best.start) <= OVERLAP {
            return candidate.similarity() - best.similarity() + MARGIN_NEAR;
        }
        let nearby = self.line_index.similarity_nearby(self.pieces, candidate);
        // Blank lines and braces stand everywhere.
        if !nearby.tells && best.held >= DISTINCT {
            return -1.0;
        }
        let is_own = self.is_own(best);
        if self.is_own(candidate) && !is_own {
            return nearby.similarity - best.similarity() + MARGIN_OWN;
        }
        let is_far = self.away(candidate) / FAR >= self.away(best);
        let (margin, allowance) = match (is_own, best.is_exact()) {
            (true, _) => (MARGIN_DIFFERING, 0.0),
            // Several hunks do not stand whole at one distance by chance.
            (false, true) if is_far || self.pieces.len() > 1 => (MARGIN_FAR, ALLOWANCE),
            (false, _) => (MARGIN_ELSEWHERE, ALLOWANCE),
        };
        let excess = candidate.similarity().max(nearby.similarity - allowance) - best.similarity() + margin;
        // One line more that may have changed is no difference to build on.
        let is_loose = best.differing > 1 || !is_own;
        let as_good = self.is_closer(candidate, best)
            || is_loose && candidate.differing.min(nearby.missing + 1) < 2 * best.differing;
        if as_good { excess.max(f64::EPSILON) } else { excess }
    }

    /// What speaks against a place where outer context does not hold, or that is not the own one.
    fn doubt(&self, best: &Candidate, is_own: bool) -> Option<Doubt> {
        let unmistakable = matches!(self.pieces, [piece] if self.line_index.is_unmistakable(piece, best));
        if !is_own && !unmistakable && best.held < LEAST_HELD {
            return Some(Doubt::TooFewLines);
        }
        let mixed = self.place.beside[1 - best.state as usize];
        let telling = || {
            self.pieces
                .iter()
                .all(|piece| State::BOTH.iter().any(|state| self.line_index.weight(piece.changed(*state)) >= TELLING))
        };
        if mixed && (best.held < best.total || best.held < 2 * DISTINCT || !telling()) {
            return Some(Doubt::OthersDiffer);
        }
        let is_close = self.place.own[best.state as usize].iter().any(|own| own.abs_diff(best.start) <= OVERLAP);
        let offset = best.start - self.first_line();
        self.pieces.iter().zip(starts(self.pieces, best.state, offset)).find_map(|(piece, start)| {
            let candidate = self.line_index.candidate(piece, best.state, start);
            if !is_own && !unmistakable && candidate.differing * if is_close { 2 } else { 3 } > piece.context() {
                return Some(Doubt::TooFewLines);
            }
            // Nothing on the side of the file's end tells that its lines are not there yet, in another form.
            let end = start + piece.side(best.state).len() as isize;
            let ends_elsewhere = piece.ends && piece.trail == 0 && end != self.line_index.len() as isize;
            let begins_elsewhere = piece.begins && piece.lead == 0 && start != 0;
            if piece.changed(State::Out).is_empty() && (ends_elsewhere || begins_elsewhere) {
                return Some(Doubt::NotAtFileEnd);
            }
            self.line_index.found_nearby(piece, &candidate, (is_own, mixed))
        })
    }
}

//! Whether what a piece changes has been done already near the place where it would go, in another form.

use super::super::model::LineRole;
use super::super::placement::Doubt;
use super::line_index::{DISTINCT, LineIndex, WEAK};
use super::pieces::{Piece, State};
use super::weigh::{Candidate, starts};

/// Added lines weigh enough to tell that a hunk is in already from here on.
pub(super) const TELLING: u32 = DISTINCT;

/// How much of some pieces is at or close to a place.
#[derive(Clone, Copy, Debug)]
pub(super) struct Nearby {
    pub(super) similarity: f64,
    /// How many of their lines are not.
    pub(super) missing: usize,
    /// Whether any line with letters or digits is.
    pub(super) tells: bool,
}

impl LineIndex<'_> {
    /// How much of the pieces is at or close to a place: lines that were added or removed there allowed for.
    pub(super) fn similarity_nearby(&self, pieces: &[Piece<'_>], candidate: &Candidate) -> Nearby {
        const REACH: isize = 2;
        let offset = candidate.start - pieces.first().map_or(0, |piece| piece.before as isize);
        let (mut held, mut missing, mut tells) = (0, 0, false);
        for (piece, start) in pieces.iter().zip(starts(pieces, candidate.state, offset)) {
            for (index, number) in piece.side(candidate.state).iter().enumerate() {
                let line = |at: isize| usize::try_from(at).unwrap_or(0).min(self.len());
                let at = start + index as isize;
                if self.of_target[line(at - REACH)..line(at + REACH + 1)].contains(number) {
                    held += self.weights[*number as usize];
                    tells |= self.weights[*number as usize] > WEAK;
                } else {
                    missing += 1;
                }
            }
        }
        let similarity = f64::from(held) / f64::from(candidate.total.max(1));
        Nearby { similarity: similarity.max(candidate.similarity()), missing, tells }
    }

    /// Whether lines that a piece adds stand near the place where it would go already, or lines that it removes still do. Where all of
    /// it stands, only lines right beside it tell that.
    pub(super) fn found_nearby(
        &self,
        piece: &Piece<'_>,
        candidate: &Candidate,
        (is_own, mixed): (bool, bool),
    ) -> Option<Doubt> {
        let role = if candidate.state == State::Out { LineRole::New } else { LineRole::Gone };
        let there = piece.side(candidate.state);
        let end = candidate.start + there.len() as isize;
        let doubt = |line: isize| {
            let line = usize::try_from(line).unwrap_or(0);
            if candidate.state == State::Out { Doubt::AddedNearby(line) } else { Doubt::RemovedNearby(line) }
        };
        piece.blocks(role).into_iter().find_map(|block| {
            if self.weight(block) < TELLING {
                return self.found_instead(block, there, candidate).then_some(candidate.start.max(0)).map(doubt);
            }
            let is_told = !there.windows(block.len()).any(|window| window == block);
            let length = block.len() as isize;
            // Beside hunks in the other state, less is enough to tell.
            let share = match (mixed, candidate.is_exact()) {
                (true, _) => (1, 3),
                (false, true) => (3, 4),
                (false, false) if is_own => (3, 4),
                (false, false) => (2, 3),
            };
            let reach = if candidate.is_exact() { length } else { there.len() as isize + 20 };
            let near = candidate.start - reach..end + reach - length + 1;
            let line = near.filter(|_| is_told).find(|at| self.stands_much(block, *at, share))?;
            Some(doubt(line))
        })
    }

    /// Whether a block of common lines stands where a line of the side that should stand there does not hold.
    fn found_instead(&self, block: &[u32], there: &[u32], candidate: &Candidate) -> bool {
        let line = |at: isize| usize::try_from(at).ok().and_then(|at| self.of_target.get(at));
        let fails = |at: &isize| line(candidate.start + at) != usize::try_from(*at).ok().and_then(|at| there.get(at));
        let found_at =
            |at: isize| block.iter().enumerate().all(|(offset, number)| line(at + offset as isize) == Some(number));
        let failing: Vec<isize> = (0..there.len() as isize).filter(fails).collect();
        failing.iter().any(|at| (0..block.len() as isize).any(|offset| found_at(candidate.start + at - offset)))
    }
}

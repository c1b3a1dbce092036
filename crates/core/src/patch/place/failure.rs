//! What is said of a hunk that has no place, and how it is put into the file as a conflict.

use super::super::model::{Hunk, HunkLine, LineRole};
use super::super::placement::{HunkPlacement, LineMismatch, Placed, PlacementFailure};
use super::decision::{Decision, Refusal};
use super::line_index::{LineIndex, UNKNOWN};
use super::pieces::{Piece, State};
use super::weigh::Candidate;
use crate::internal::align::{Bounds, script::script};
use crate::internal::text::lines::Interned;

impl LineIndex<'_> {
    /// What became of a hunk, as a value.
    pub(super) fn fit(&self, (index, hunk): (usize, &Hunk), decision: &Decision<'_>) -> HunkPlacement {
        match decision {
            Decision::At(candidate) => self.fit_at(&hunk.lines, hunk.before, candidate),
            Decision::Parts(parts) => HunkPlacement::Parts(
                parts.iter().map(|(part, candidate)| self.fit_at(part.rows, part.before, candidate)).collect(),
            ),
            Decision::Refused(best, refusal) => {
                HunkPlacement::PlacementFailure(self.misfit((index, hunk), best, *refusal))
            }
        }
    }

    fn fit_at(&self, rows: &[HunkLine], before: usize, candidate: &Candidate) -> HunkPlacement {
        let line = usize::try_from(candidate.start).unwrap_or(0);
        if candidate.state == State::In {
            return HunkPlacement::AlreadyIn(line);
        }
        let expects_nothing = rows.iter().all(|row| row.role == LineRole::New);
        HunkPlacement::Placed(Placed {
            line,
            offset: candidate.start - before as isize,
            differing: candidate.differing,
            context: context(rows),
            loosely: candidate.loose > 0,
            in_front: expects_nothing && before == 0 && line == 0 && self.len() > 0,
        })
    }

    fn misfit(&self, (index, hunk): (usize, &Hunk), best: &Candidate, refusal: Refusal) -> PlacementFailure {
        let line = usize::try_from(best.start).unwrap_or(0);
        match refusal {
            Refusal::NoMatch(tolerance) => {
                let line = line.min(self.len());
                PlacementFailure::NoMatch { line, instead: self.instead((index, hunk), line), tolerance }
            }
            Refusal::Rival(other) => {
                let other = usize::try_from(other).unwrap_or(0);
                PlacementFailure::Ambiguous(line.min(other), line.max(other))
            }
            Refusal::Doubt(against) => {
                PlacementFailure::Doubtful { line, differing: best.differing, context: context(&hunk.lines), against }
            }
        }
    }

    /// What a hunk expects at a line and what is there instead.
    fn instead(&self, (index, hunk): (usize, &Hunk), line: usize) -> Vec<LineMismatch> {
        let texts: Vec<&HunkLine> = hunk.old_lines().collect();
        let window = line.min(self.len())..(line + texts.len()).min(self.len());
        let distinct = self.places.len() + 1;
        let unknown = u32::try_from(distinct - 1).unwrap_or(UNKNOWN);
        let there = self.of_target[window.clone()].iter().map(|number| (*number).min(unknown)).collect();
        let piece = Piece::of(hunk, &self.of_hunks[index]);
        let interned = Interned { before: piece.side(State::Out).to_vec(), after: there, distinct };
        let mut instead = Vec::new();
        for (gone, new) in script(&interned, &Bounds::default()).stretches() {
            for offset in 0..gone.len().max(new.len()) {
                let expected = gone.clone().nth(offset).map(|at| texts[at].text.to_vec());
                let found = new.clone().nth(offset).map(|at| window.start + at);
                instead.push(LineMismatch { expected, found: found.map(|at| (at, self.lines.get(at).to_vec())) });
            }
        }
        instead
    }
}

fn context(rows: &[HunkLine]) -> usize {
    rows.iter().filter(|row| row.role == LineRole::Context).count()
}

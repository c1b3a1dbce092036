//! What is said of a hunk that has no place, and how it is put into the file as a conflict.

use super::super::model::{Hunk, HunkLine, LineRole};
use super::super::placement::{Fit, Instead, Misfit, Placed};
use super::decision::{Decision, Refusal};
use super::numbered::{Numbers, UNKNOWN};
use super::pieces::{Piece, State};
use super::weigh::Stand;
use crate::align::{Bounds, script::script};
use crate::text::lines::Numbered;

impl Numbers<'_> {
    /// What became of a hunk, as a value.
    pub(super) fn fit(&self, (index, hunk): (usize, &Hunk), decision: &Decision<'_>) -> Fit {
        match decision {
            Decision::At(stand) => self.fit_at(&hunk.lines, hunk.before, stand),
            Decision::Parts(parts) => {
                Fit::Parts(parts.iter().map(|(part, stand)| self.fit_at(part.rows, part.before, stand)).collect())
            }
            Decision::Refused(best, refusal) => Fit::Misfit(self.misfit((index, hunk), best, *refusal)),
        }
    }

    fn fit_at(&self, rows: &[HunkLine], before: usize, stand: &Stand) -> Fit {
        let line = usize::try_from(stand.start).unwrap_or(0);
        if stand.state == State::In {
            return Fit::AlreadyIn(line);
        }
        let expects_nothing = rows.iter().all(|row| row.role == LineRole::New);
        Fit::Placed(Placed {
            line,
            offset: stand.start - before as isize,
            differing: stand.differing,
            context: context(rows),
            loosely: stand.loose > 0,
            in_front: expects_nothing && before == 0 && line == 0 && self.len() > 0,
        })
    }

    fn misfit(&self, (index, hunk): (usize, &Hunk), best: &Stand, refusal: Refusal) -> Misfit {
        let line = usize::try_from(best.start).unwrap_or(0);
        match refusal {
            Refusal::NoMatch(slack) => {
                let line = line.min(self.len());
                Misfit::NoMatch { line, instead: self.instead((index, hunk), line), slack }
            }
            Refusal::Rival(other) => {
                let other = usize::try_from(other).unwrap_or(0);
                Misfit::Ambiguous(line.min(other), line.max(other))
            }
            Refusal::Doubt(against) => {
                Misfit::Doubtful { line, differing: best.differing, context: context(&hunk.lines), against }
            }
        }
    }

    /// What a hunk expects at a line and what is there instead.
    fn instead(&self, (index, hunk): (usize, &Hunk), line: usize) -> Vec<Instead> {
        let texts: Vec<&HunkLine> = hunk.old_lines().collect();
        let window = line.min(self.len())..(line + texts.len()).min(self.len());
        let distinct = self.places.len() + 1;
        let unknown = u32::try_from(distinct - 1).unwrap_or(UNKNOWN);
        let there = self.of_target[window.clone()].iter().map(|number| (*number).min(unknown)).collect();
        let piece = Piece::of(hunk, &self.of_hunks[index]);
        let numbered = Numbered { before: piece.side(State::Out).to_vec(), after: there, distinct };
        let mut instead = Vec::new();
        for (gone, new) in script(&numbered, &Bounds::default()).stretches() {
            for offset in 0..gone.len().max(new.len()) {
                let expected = gone.clone().nth(offset).map(|at| texts[at].text.to_vec());
                let found = new.clone().nth(offset).map(|at| window.start + at);
                instead.push(Instead { expected, found: found.map(|at| (at, self.lines.get(at).to_vec())) });
            }
        }
        instead
    }
}

fn context(rows: &[HunkLine]) -> usize {
    rows.iter().filter(|row| row.role == LineRole::Context).count()
}

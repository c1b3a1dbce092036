//! A hunk inside which the file changed: each of its changes by itself.

use super::choose::Chooser;
use super::decision::SearchArea;
use super::pieces::{Piece, State};
use super::question::MARGIN_ELSEWHERE;
use super::weigh::Candidate;

/// So many lines more or less may lie between two parts of a hunk, unless each of them is unmistakable.
const MOST_APART: usize = 3;

impl<'h> Chooser<'_, '_, 'h> {
    /// Places each change of a hunk by itself, if there are several and all of them have a place near each other.
    pub(super) fn in_parts(&self, piece: &Piece<'h>, place: &SearchArea) -> Option<Vec<(Piece<'h>, Candidate)>> {
        let parts = piece.parts();
        if parts.is_empty() || parts.iter().any(|part| part.old_len() == 0) {
            return None;
        }
        let offsets = place.own[0].iter().map(|start| start - piece.before as isize).collect();
        let decided = vec![None; parts.len()];
        let mut chooser = Chooser {
            line_index: self.line_index,
            pieces: parts,
            tolerance: self.tolerance,
            within: place.within.clone(),
            offsets,
            decided,
        };
        chooser.one_by_one();
        let candidates: Vec<Candidate> = chooser.decided.iter().copied().collect::<Option<_>>()?;
        let (first, last) = (candidates.first()?, candidates.last()?);
        let all_in = candidates.iter().all(|candidate| candidate.state == first.state);
        let spread = last.start - first.start;
        let written: isize =
            chooser.pieces[..candidates.len() - 1].iter().map(|part| part.side(first.state).len() as isize).sum();
        let is_own = |candidate: &Candidate, part: &Piece<'_>| {
            let before = part.before as isize - piece.before as isize;
            place.own[State::Out as usize].iter().any(|own| own + before == candidate.start)
        };
        let at_home = is_own(first, &chooser.pieces[0]) || chooser.pieces.last().is_some_and(|part| is_own(last, part));
        let apart = (spread - written).unsigned_abs();
        let is_near = at_home && apart <= MOST_APART
            || apart <= piece.rows.len()
                && chooser
                    .pieces
                    .iter()
                    .zip(&candidates)
                    .all(|(part, candidate)| self.line_index.is_unmistakable(part, candidate));
        if !all_in || !is_near || place.beside[1 - first.state as usize] {
            return None;
        }
        // As a whole it has to stand here better than anywhere else.
        let sum = |of: fn(&Candidate) -> u32| candidates.iter().map(of).sum::<u32>();
        let similarity =
            f64::from(sum(|candidate| candidate.held)) / f64::from(sum(|candidate| candidate.total).max(1));
        let region = first.start - piece.rows.len() as isize..last.start + piece.rows.len() as isize;
        let has_rival = self.line_index.candidates(std::slice::from_ref(piece), place).iter().any(|candidate| {
            !region.contains(&candidate.start) && candidate.similarity() > similarity - MARGIN_ELSEWHERE
        });
        let is_doubtful = candidates.iter().zip(&chooser.pieces).any(|(candidate, part)| {
            !candidate.is_exact() && self.line_index.found_nearby(part, candidate, (true, false)).is_some()
        });
        (!has_rival && !is_doubtful).then(|| chooser.pieces.into_iter().zip(candidates).collect())
    }
}

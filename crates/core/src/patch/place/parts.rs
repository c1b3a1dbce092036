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
            numbers: self.numbers,
            pieces: parts,
            tolerance: self.tolerance,
            within: place.within.clone(),
            offsets,
            decided,
        };
        chooser.one_by_one();
        let stands: Vec<Candidate> = chooser.decided.iter().copied().collect::<Option<_>>()?;
        let (first, last) = (stands.first()?, stands.last()?);
        let all_in = stands.iter().all(|stand| stand.state == first.state);
        let spread = last.start - first.start;
        let written: isize =
            chooser.pieces[..stands.len() - 1].iter().map(|part| part.side(first.state).len() as isize).sum();
        let is_own = |stand: &Candidate, part: &Piece<'_>| {
            let before = part.before as isize - piece.before as isize;
            place.own[State::Out as usize].iter().any(|own| own + before == stand.start)
        };
        let at_home = is_own(first, &chooser.pieces[0]) || chooser.pieces.last().is_some_and(|part| is_own(last, part));
        let apart = (spread - written).unsigned_abs();
        let is_near = at_home && apart <= MOST_APART
            || apart <= piece.rows.len()
                && chooser.pieces.iter().zip(&stands).all(|(part, stand)| self.numbers.is_unmistakable(part, stand));
        if !all_in || !is_near || place.beside[1 - first.state as usize] {
            return None;
        }
        // As a whole it has to stand here better than anywhere else.
        let sum = |of: fn(&Candidate) -> u32| stands.iter().map(of).sum::<u32>();
        let similarity = f64::from(sum(|stand| stand.held)) / f64::from(sum(|stand| stand.total).max(1));
        let region = first.start - piece.rows.len() as isize..last.start + piece.rows.len() as isize;
        let has_rival = self
            .numbers
            .stands(std::slice::from_ref(piece), place)
            .iter()
            .any(|stand| !region.contains(&stand.start) && stand.similarity() > similarity - MARGIN_ELSEWHERE);
        let is_doubtful = stands
            .iter()
            .zip(&chooser.pieces)
            .any(|(stand, part)| !stand.is_exact() && self.numbers.stands_nearby(part, stand, (true, false)).is_some());
        (!has_rival && !is_doubtful).then(|| chooser.pieces.into_iter().zip(stands).collect())
    }
}

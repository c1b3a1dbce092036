//! Which of the places where much of a hunk stands is its own.

use super::super::model::Hunk;
use super::super::placement::Doubt;
use super::decision::{Decision, Refusal, SearchArea};
use super::line_index::LineIndex;
use super::pieces::{Piece, State};
use super::question::Question;
use super::weigh::{Candidate, starts};

/// Decides where the pieces of a hunk or the hunks of a file go.
pub(super) struct Chooser<'n, 't, 'h> {
    pub(super) line_index: &'n LineIndex<'t>,
    pub(super) pieces: Vec<Piece<'h>>,
    pub(super) tolerance: usize,
    /// The lines of the target in which all of them have to be.
    pub(super) within: std::ops::Range<isize>,
    /// By how many lines the first of them may be expected lower than written.
    pub(super) offsets: Vec<isize>,
    pub(super) decided: Vec<Option<Candidate>>,
}

impl<'n, 't, 'h> Chooser<'n, 't, 'h> {
    pub(super) fn new(line_index: &'n LineIndex<'t>, hunks: &'h [Hunk], tolerance: usize) -> Self
    where
        'n: 'h,
    {
        let pieces: Vec<_> = hunks.iter().zip(&line_index.of_hunks).map(|(hunk, of)| Piece::of(hunk, of)).collect();
        let decided = vec![None; pieces.len()];
        // A line more at the end: where the file ends, something can be added.
        Self { line_index, pieces, tolerance, within: 0..line_index.len() as isize + 1, offsets: vec![0], decided }
    }

    pub(super) fn decide(mut self) -> Vec<Decision<'h>> {
        if !self.together() {
            self.one_by_one();
        } else if self.decided.iter().flatten().any(|candidate| !candidate.is_exact()) {
            // What holds together need not hold for each.
            self.leave_out_doubtful();
        }
        let decision = |index: usize| match self.decided[index] {
            Some(candidate) => Decision::At(candidate),
            None => self.undecided(index),
        };
        (0..self.pieces.len()).map(decision).collect()
    }

    /// Places all pieces at one common offset, if that is plainly where they are.
    fn together(&mut self) -> bool {
        let place = match &self.pieces[..] {
            [_] => self.place_of(0),
            _ => SearchArea {
                within: self.within.clone(),
                own: [self.own_of_first(), self.own_of_first()],
                beside: [false; 2],
            },
        };
        let Ok(sum) = self.choose(&self.pieces, &place, self.tolerance) else { return false };
        self.take_along(0..self.pieces.len(), &sum);
        true
    }

    /// Gives pieces the places that they have together.
    fn take_along(&mut self, range: std::ops::Range<usize>, sum: &Candidate) {
        let Some(first) = self.pieces.get(range.start) else { return };
        let offset = sum.start - first.before as isize;
        let along: Vec<isize> = starts(&self.pieces[range.clone()], sum.state, offset).collect();
        for (index, start) in range.zip(along) {
            self.decided[index] = Some(self.line_index.candidate(&self.pieces[index], sum.state, start));
        }
    }

    fn own_of_first(&self) -> Vec<isize> {
        let before = self.pieces.first().map_or(0, |piece| piece.before as isize);
        self.offsets.iter().map(|offset| before + offset).collect()
    }

    /// Places each piece for itself, those first that stand whole where their neighbours say, until no more find a place.
    pub(super) fn one_by_one(&mut self) {
        for (tolerance, own_only) in [(0, true), (0, false), (self.tolerance, false)] {
            if !own_only && tolerance == 0 {
                self.runs_together();
            }
            let mut more = true;
            while more {
                more = false;
                for index in 0..self.pieces.len() {
                    if self.decided[index].is_some() {
                        continue;
                    }
                    let place = self.place_of(index);
                    if let Ok(candidate) = self.choose(&self.pieces[index..=index], &place, tolerance)
                        && (!own_only || place.own[candidate.state as usize].contains(&candidate.start))
                    {
                        self.decided[index] = Some(candidate);
                        more = true;
                    }
                }
            }
        }
        self.leave_out_doubtful();
    }

    /// Places pieces that follow each other at one distance, where all of them stand whole there.
    fn runs_together(&mut self) {
        let mut start = 0;
        while start < self.pieces.len() {
            let end = (start..self.pieces.len()).find(|at| self.decided[*at].is_some()).unwrap_or(self.pieces.len());
            if end - start > 1 && end - start < self.pieces.len() {
                let (first, last) = (self.place_of(start), self.place_of(end - 1));
                let place = SearchArea { within: first.within.start..last.within.end, ..first };
                if let Ok(sum) = self.choose(&self.pieces[start..end], &place, 0) {
                    self.take_along(start..end, &sum);
                }
            }
            start = end + 1;
        }
    }

    /// Takes back what would not be chosen again now that the neighbours have their places, and where some pieces are in already and
    /// others are not, all that do not stand whole where their neighbours say.
    fn leave_out_doubtful(&mut self) {
        let is = |state: State| self.decided.iter().flatten().any(|candidate| candidate.state == state);
        let mixed = is(State::In) && is(State::Out);
        let mut more = true;
        while more {
            more = false;
            for index in 0..self.pieces.len() {
                let Some(candidate) = self.decided[index].take() else { continue };
                let place = self.place_of(index);
                let again = self.choose(&self.pieces[index..=index], &place, self.tolerance);
                let at_home = || candidate.is_exact() && place.own[candidate.state as usize].contains(&candidate.start);
                if again == Ok(candidate) && (!mixed || at_home()) {
                    self.decided[index] = Some(candidate);
                } else {
                    more = true;
                }
            }
        }
    }

    /// Where a piece may go between the neighbours that have a place.
    pub(super) fn place_of(&self, index: usize) -> SearchArea {
        let piece = &self.pieces[index];
        let previous = (0..index).rev().find_map(|at| self.decided[at].map(|candidate| (at, candidate)));
        let next = (index + 1..self.pieces.len()).find_map(|at| self.decided[at].map(|candidate| (at, candidate)));
        let mut within = self.within.clone();
        let mut own = [Vec::new(), Vec::new()];
        match previous {
            Some((at, candidate)) => {
                let neighbour = &self.pieces[at];
                let end = candidate.start + neighbour.side(candidate.state).len() as isize;
                within.start = end - neighbour.trail as isize;
                let apart = piece.before as isize - (neighbour.before + neighbour.old_len()) as isize;
                own.iter_mut().for_each(|own| own.push(end + apart));
            }
            None => {
                let starts = self.offsets.iter().map(|offset| piece.before as isize + offset);
                let starts: Vec<isize> = starts.collect();
                own.iter_mut().for_each(|own| own.extend(&starts));
            }
        }
        if let Some((at, candidate)) = next {
            let neighbour = &self.pieces[at];
            within.end = candidate.start + neighbour.lead as isize;
            let apart = neighbour.before as isize - (piece.before + piece.old_len()) as isize;
            for (state, own) in State::BOTH.into_iter().zip(&mut own) {
                let start = candidate.start - apart - piece.side(state).len() as isize;
                if !own.contains(&start) {
                    own.push(start);
                }
            }
        }
        // What says that it stands at an end of the file is at home there.
        for (state, own) in State::BOTH.into_iter().zip(&mut own) {
            let at_end = piece.ends.then(|| self.line_index.len() as isize - piece.side(state).len() as isize);
            for start in piece.begins.then_some(0).into_iter().chain(at_end) {
                if !own.contains(&start) {
                    own.push(start);
                }
            }
        }
        let others =
            self.decided.iter().enumerate().filter(|(at, _)| *at != index).filter_map(|(_, candidate)| *candidate);
        let mut beside = [false; 2];
        others.for_each(|candidate| beside[candidate.state as usize] = true);
        SearchArea { within, own, beside }
    }

    /// The place of some of the pieces that is plainly the right one; else the one that is closest, and what speaks against it.
    pub(super) fn choose(
        &self,
        pieces: &[Piece<'_>],
        place: &SearchArea,
        tolerance: usize,
    ) -> Result<Candidate, (Candidate, Refusal)> {
        Question::new(self.line_index, &self.offsets, pieces, place, tolerance).answer()
    }

    /// What becomes of a hunk that has no place: its changes may have one each. Otherwise why it has none, and the tolerance with which
    /// it would have one.
    fn undecided(&self, index: usize) -> Decision<'h> {
        let piece = &self.pieces[index..=index];
        let place = self.place_of(index);
        match self.choose(piece, &place, self.tolerance) {
            // Left out because others say otherwise.
            Ok(candidate) => Decision::Refused(candidate, Refusal::Doubt(Doubt::OthersDiffer)),
            Err((best, Refusal::NoMatch(_))) => {
                if let Some(parts) = self.in_parts(&self.pieces[index], &place) {
                    return Decision::Parts(parts);
                }
                let tolerance = best.tolerance.filter(|tolerance| self.choose(piece, &place, *tolerance).is_ok());
                Decision::Refused(best, Refusal::NoMatch(tolerance))
            }
            // What stands whole in a place that is doubtful is as doubtful in parts.
            Err((best, refusal)) => Decision::Refused(best, refusal),
        }
    }
}

//! Which of the places where much of a hunk stands is its own.

use std::cmp::Ordering;

use super::super::model::{Hunk, LineRole};
use super::super::placement::Doubt;
use super::numbered::{DISTINCT, Numbers};
use super::pieces::{Piece, State};
use super::weigh::{Stand, starts};

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
/// Added lines weigh enough to tell that a hunk is in already from here on.
const TELLING: u32 = DISTINCT;

/// What became of a hunk.
#[derive(Clone, Debug)]
pub(super) enum Decision<'h> {
    /// It stands here.
    At(Stand),
    /// Its changes stand here, one by one.
    Parts(Vec<(Piece<'h>, Stand)>),
    /// It has no place; the one that is closest, and why it is not taken.
    Refused(Stand, Refusal),
}

/// Why a place is not taken.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Refusal {
    /// Lines inside the hunk, or more than the slack, do not hold. The slack with which it would be taken.
    NoMatch(Option<usize>),
    /// The hunk stands here (from 0) about as well.
    Rival(isize),
    Doubt(Doubt),
}

/// Where a piece may go.
#[derive(Clone, Debug)]
pub(super) struct Where {
    /// The lines of the target in which all its changed lines have to be.
    pub(super) within: std::ops::Range<isize>,
    /// Where it begins if it is where its neighbours say, by the state it is in.
    pub(super) own: [Vec<isize>; 2],
    /// The states that hunks beside it are in.
    pub(super) beside: [bool; 2],
}

/// Decides where the pieces of a hunk or the hunks of a file go.
pub(super) struct Chooser<'n, 't, 'h> {
    pub(super) numbers: &'n Numbers<'t>,
    pub(super) pieces: Vec<Piece<'h>>,
    pub(super) slack: usize,
    /// The lines of the target in which all of them have to be.
    pub(super) within: std::ops::Range<isize>,
    /// By how many lines the first of them may be expected lower than written.
    pub(super) offsets: Vec<isize>,
    pub(super) decided: Vec<Option<Stand>>,
}

impl<'n, 't, 'h> Chooser<'n, 't, 'h> {
    pub(super) fn new(numbers: &'n Numbers<'t>, hunks: &'h [Hunk], slack: usize) -> Self
    where
        'n: 'h,
    {
        let pieces: Vec<_> = hunks.iter().zip(&numbers.of_hunks).map(|(hunk, of)| Piece::of(hunk, of)).collect();
        let decided = vec![None; pieces.len()];
        // A line more at the end: where the file ends, something can be added.
        Self { numbers, pieces, slack, within: 0..numbers.len() as isize + 1, offsets: vec![0], decided }
    }

    pub(super) fn decide(mut self) -> Vec<Decision<'h>> {
        if !self.together() {
            self.one_by_one();
        } else if self.decided.iter().flatten().any(|stand| !stand.is_exact()) {
            // What holds together need not hold for each.
            self.leave_out_doubtful();
        }
        let mut parts: Vec<Option<Vec<(Piece<'h>, Stand)>>> = Vec::with_capacity(self.pieces.len());
        for index in 0..self.pieces.len() {
            parts.push(if self.decided[index].is_none() { self.in_parts(index) } else { None });
        }
        let decisions = parts.into_iter().enumerate().map(|(index, parts)| match (self.decided[index], parts) {
            (Some(stand), _) => Decision::At(stand),
            (None, Some(parts)) => Decision::Parts(parts),
            (None, None) => self.refused(index),
        });
        decisions.collect()
    }

    /// Places all pieces at one common offset, if that is plainly where they are.
    fn together(&mut self) -> bool {
        let place = match &self.pieces[..] {
            [_] => self.place_of(0),
            _ => Where {
                within: self.within.clone(),
                own: [self.own_of_first(), self.own_of_first()],
                beside: [false; 2],
            },
        };
        let Ok(sum) = self.choose(&self.pieces, &place, self.slack) else { return false };
        self.take_along(0..self.pieces.len(), &sum);
        true
    }

    /// Gives pieces the places that they have together.
    fn take_along(&mut self, range: std::ops::Range<usize>, sum: &Stand) {
        let Some(first) = self.pieces.get(range.start) else { return };
        let offset = sum.start - first.before as isize;
        let along: Vec<isize> = starts(&self.pieces[range.clone()], sum.state, offset).collect();
        for (index, start) in range.zip(along) {
            self.decided[index] = Some(self.numbers.stand(&self.pieces[index], sum.state, start));
        }
    }

    fn own_of_first(&self) -> Vec<isize> {
        let before = self.pieces.first().map_or(0, |piece| piece.before as isize);
        self.offsets.iter().map(|offset| before + offset).collect()
    }

    /// Places each piece for itself, those first that stand whole where their neighbours say, until no more find a place.
    pub(super) fn one_by_one(&mut self) {
        for (slack, own_only) in [(0, true), (0, false), (self.slack, false)] {
            if !own_only && slack == 0 {
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
                    if let Ok(stand) = self.choose(&self.pieces[index..=index], &place, slack)
                        && (!own_only || place.own[stand.state as usize].contains(&stand.start))
                    {
                        self.decided[index] = Some(stand);
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
                let place = Where { within: first.within.start..last.within.end, ..first };
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
        let is = |state: State| self.decided.iter().flatten().any(|stand| stand.state == state);
        let mixed = is(State::In) && is(State::Out);
        let mut more = true;
        while more {
            more = false;
            for index in 0..self.pieces.len() {
                let Some(stand) = self.decided[index].take() else { continue };
                let place = self.place_of(index);
                let again = self.choose(&self.pieces[index..=index], &place, self.slack);
                let at_home = || stand.is_exact() && place.own[stand.state as usize].contains(&stand.start);
                if again == Ok(stand) && (!mixed || at_home()) {
                    self.decided[index] = Some(stand);
                } else {
                    more = true;
                }
            }
        }
    }

    /// Where a piece may go between the neighbours that have a place.
    pub(super) fn place_of(&self, index: usize) -> Where {
        let piece = &self.pieces[index];
        let previous = (0..index).rev().find_map(|at| self.decided[at].map(|stand| (at, stand)));
        let next = (index + 1..self.pieces.len()).find_map(|at| self.decided[at].map(|stand| (at, stand)));
        let mut within = self.within.clone();
        let mut own = [Vec::new(), Vec::new()];
        match previous {
            Some((at, stand)) => {
                let neighbour = &self.pieces[at];
                let end = stand.start + neighbour.side(stand.state).len() as isize;
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
        if let Some((at, stand)) = next {
            let neighbour = &self.pieces[at];
            within.end = stand.start + neighbour.lead as isize;
            let apart = neighbour.before as isize - (piece.before + piece.old_len()) as isize;
            for (state, own) in State::BOTH.into_iter().zip(&mut own) {
                let start = stand.start - apart - piece.side(state).len() as isize;
                if !own.contains(&start) {
                    own.push(start);
                }
            }
        }
        // What says that it stands at an end of the file is at home there.
        for (state, own) in State::BOTH.into_iter().zip(&mut own) {
            let at_end = piece.ends.then(|| self.numbers.len() as isize - piece.side(state).len() as isize);
            for start in piece.begins.then_some(0).into_iter().chain(at_end) {
                if !own.contains(&start) {
                    own.push(start);
                }
            }
        }
        let others = self.decided.iter().enumerate().filter(|(at, _)| *at != index).filter_map(|(_, stand)| *stand);
        let mut beside = [false; 2];
        others.for_each(|stand| beside[stand.state as usize] = true);
        Where { within, own, beside }
    }

    /// Every place where much of the pieces stands, in either state.
    pub(super) fn stands(&self, pieces: &[Piece<'_>], place: &Where) -> Vec<Stand> {
        let (Some(first), Some(last)) = (pieces.first(), pieces.last()) else { return Vec::new() };
        let mut stands = Vec::new();
        for (state, own) in State::BOTH.into_iter().zip(&place.own) {
            let starts_within = place.within.start - first.lead as isize..place.within.end;
            let mut offsets = self.numbers.offsets(pieces, state, &starts_within);
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
                    stands.push(self.numbers.stand_together(pieces, state, offset));
                }
            }
        }
        stands
    }

    /// The place that is plainly the right one; else the one that is closest, and what speaks against it.
    pub(super) fn choose(&self, pieces: &[Piece<'_>], place: &Where, slack: usize) -> Result<Stand, (Stand, Refusal)> {
        let stands = self.stands(pieces, place);
        let is_own = |stand: &Stand| place.own[stand.state as usize].contains(&stand.start);
        let written = |stand: &Stand| self.offsets.contains(&(stand.start - pieces[0].before as isize));
        let sure = |stand: &Stand| {
            let as_written = written(stand) && stand.loose == 0;
            (!as_written, stand.total - stand.held, stand.loose, std::cmp::Reverse(stand.held))
        };
        let mut whole: Vec<&Stand> =
            stands.iter().filter(|stand| stand.is_exact() && stand.fits(slack) && is_own(stand)).collect();
        whole.sort_by_key(|stand| sure(stand));
        // A hunk that stands byte for byte where it was written is there, unless its neighbours say otherwise.
        if let Some(first) = whole.first().filter(|first| !sure(first).0 && place.beside == [false; 2]) {
            return Ok(**first);
        }
        if let Some(first) = whole.first() {
            let other_state = |stand: &&Stand| stand.state != first.state && place.beside[stand.state as usize];
            let same_state = |stand: &&Stand| stand.state == first.state && sure(stand) == sure(first);
            let is_own_twin = |stand: &&Stand| is_own(stand) && same_state(stand) && stand.start != first.start;
            // The neighbours above and below may say different things: then most of it must not stand where the other one says.
            let is_near_twin = |stand: &&Stand| {
                let is_apart = is_own(stand) && stand.start.abs_diff(first.start) > OVERLAP;
                is_apart && stand.state == first.state && self.numbers.likeness_nearby(pieces, stand).0 >= TWIN
            };
            let is_twin =
                |stand: &&Stand| is_near_twin(stand) || stand.is_exact() && (is_own_twin(stand) || other_state(stand));
            let twin = stands.iter().find(is_twin);
            let doubt = if written(first) && !place.beside[1 - first.state as usize] {
                None
            } else {
                self.doubt(pieces, place, first, true)
            };
            return match (twin, doubt) {
                (Some(twin), _) => Err((**first, Refusal::Rival(twin.start))),
                (None, Some(doubt)) => Err((**first, Refusal::Doubt(doubt))),
                (None, None) => Ok(**first),
            };
        }
        let better = |one: &&Stand, other: &&Stand| {
            let by_likeness = one.likeness().partial_cmp(&other.likeness()).unwrap_or(Ordering::Equal);
            let rank = |stand: &Stand| (stand.fits(slack), is_own(stand), stand.held);
            by_likeness.then_with(|| rank(one).cmp(&rank(other)))
        };
        let Some(best) = stands.iter().max_by(better).copied() else {
            let start = place.own[0].first().copied().unwrap_or(0);
            let nowhere = self.numbers.stand_together(pieces, State::Out, start - pieces[0].before as isize);
            return Err((nowhere, Refusal::NoMatch(None)));
        };
        if !best.fits(slack) {
            return Err((best, Refusal::NoMatch(None)));
        }
        let span = |stand: &Stand| {
            let lines: usize = pieces.iter().map(|piece| piece.side(stand.state).len()).sum();
            stand.start..stand.start + lines as isize
        };
        let backed = place.beside[best.state as usize] && !place.beside[1 - best.state as usize];
        let is_closer = |stand: &Stand| {
            !best.is_exact() && stand.state != best.state && stand.differing < best.differing + usize::from(!backed)
        };
        // In the same lines a hunk can hardly be in and out: its context speaks for both.
        let is_rival = |stand: &&Stand| {
            let (here, there) = (span(&best), span(stand));
            // Aligned at neither end, it is another place, even where the two overlap.
            let near = |one: isize, other: isize| one.abs_diff(other) <= OVERLAP;
            let apart = !near(there.start, here.start) && !near(there.end, here.end);
            let shows = |one, other| self.numbers.shows_change(pieces, one, other);
            let is_settled = || best.is_exact() && !stand.is_exact() && shows(&best, stand);
            let told = || (stand.fits(slack) || is_closer(stand)) && !is_settled() || shows(stand, &best);
            let other_state = || apart || told();
            if stand.state == best.state { stand.start != best.start } else { other_state() }
        };
        let away = |stand: &Stand| {
            let own = place.own[stand.state as usize].iter().map(|own| own.abs_diff(stand.start));
            own.min().unwrap_or(usize::MAX)
        };
        // By how much a place comes too near.
        let excess = |stand: &Stand| {
            if stand.state == best.state && stand.start.abs_diff(best.start) <= OVERLAP {
                return stand.likeness() - best.likeness() + MARGIN_NEAR;
            }
            let (nearby, missing, tells) = self.numbers.likeness_nearby(pieces, stand);
            // Blank lines and braces stand everywhere.
            if !tells && best.held >= DISTINCT {
                return -1.0;
            }
            if is_own(stand) && !is_own(&best) {
                return nearby - best.likeness() + MARGIN_OWN;
            }
            let is_far = away(stand) / FAR >= away(&best);
            let (margin, allowance) = match (is_own(&best), best.is_exact()) {
                (true, _) => (MARGIN_DIFFERING, 0.0),
                // Several hunks do not stand whole at one distance by chance.
                (false, true) if is_far || pieces.len() > 1 => (MARGIN_FAR, ALLOWANCE),
                (false, _) => (MARGIN_ELSEWHERE, ALLOWANCE),
            };
            let excess = stand.likeness().max(nearby - allowance) - best.likeness() + margin;
            // One line more that may have changed is no difference to build on.
            let is_loose = best.differing > 1 || !is_own(&best);
            let as_good = is_closer(stand) || is_loose && stand.differing.min(missing + 1) < 2 * best.differing;
            if as_good { excess.max(f64::EPSILON) } else { excess }
        };
        let rival = stands.iter().filter(is_rival).map(|stand| (excess(stand), stand));
        let rival = rival.max_by(|(one, _), (other, _)| one.total_cmp(other));
        if let Some((_, rival)) = rival.filter(|(excess, _)| *excess > 0.0) {
            return Err((best, Refusal::Rival(rival.start)));
        }
        match self.doubt(pieces, place, &best, is_own(&best)) {
            Some(doubt) => Err((best, Refusal::Doubt(doubt))),
            None => Ok(best),
        }
    }

    /// What speaks against a place where outer context does not hold, or that is not the own one.
    fn doubt(&self, pieces: &[Piece<'_>], place: &Where, best: &Stand, is_own: bool) -> Option<Doubt> {
        let unmistakable = matches!(pieces, [piece] if self.numbers.is_unmistakable(piece, best));
        if !is_own && !unmistakable && best.held < LEAST_HELD {
            return Some(Doubt::TooFewLines);
        }
        let mixed = place.beside[1 - best.state as usize];
        let telling = || {
            pieces
                .iter()
                .all(|piece| State::BOTH.iter().any(|state| self.numbers.weight(piece.changed(*state)) >= TELLING))
        };
        if mixed && (best.held < best.total || best.held < 2 * DISTINCT || !telling()) {
            return Some(Doubt::OthersDiffer);
        }
        let is_close = place.own[best.state as usize].iter().any(|own| own.abs_diff(best.start) <= OVERLAP);
        let offset = best.start - pieces[0].before as isize;
        pieces.iter().zip(starts(pieces, best.state, offset)).find_map(|(piece, start)| {
            let stand = self.numbers.stand(piece, best.state, start);
            if !is_own && !unmistakable && stand.differing * if is_close { 2 } else { 3 } > piece.context() {
                return Some(Doubt::TooFewLines);
            }
            // Nothing on the side of the file's end tells that its lines are not there yet, in another form.
            let end = start + piece.side(best.state).len() as isize;
            let ends_elsewhere = piece.ends && piece.trail == 0 && end != self.numbers.len() as isize;
            let begins_elsewhere = piece.begins && piece.lead == 0 && start != 0;
            if piece.changed(State::Out).is_empty() && (ends_elsewhere || begins_elsewhere) {
                return Some(Doubt::NotAtFileEnd);
            }
            self.stands_nearby(piece, &stand, (is_own, mixed))
        })
    }

    /// Whether lines that a piece adds stand near the place where it would go already, or lines that it removes still do. Where all of
    /// it stands, only lines right beside it tell that.
    pub(super) fn stands_nearby(
        &self,
        piece: &Piece<'_>,
        stand: &Stand,
        (is_own, mixed): (bool, bool),
    ) -> Option<Doubt> {
        let role = if stand.state == State::Out { LineRole::New } else { LineRole::Gone };
        let there = piece.side(stand.state);
        let end = stand.start + there.len() as isize;
        let doubt = |line: isize| {
            let line = usize::try_from(line).unwrap_or(0);
            if stand.state == State::Out { Doubt::AddedNearby(line) } else { Doubt::RemovedNearby(line) }
        };
        piece.blocks(role).into_iter().find_map(|block| {
            if self.numbers.weight(block) < TELLING {
                return self.stands_instead(block, there, stand).then_some(stand.start.max(0)).map(doubt);
            }
            let is_told = !there.windows(block.len()).any(|window| window == block);
            let length = block.len() as isize;
            // Beside hunks in the other state, less is enough to tell.
            let share = match (mixed, stand.is_exact()) {
                (true, _) => (1, 3),
                (false, true) => (3, 4),
                (false, false) if is_own => (3, 4),
                (false, false) => (2, 3),
            };
            let reach = if stand.is_exact() { length } else { there.len() as isize + 20 };
            let near = stand.start - reach..end + reach - length + 1;
            let line = near.filter(|_| is_told).find(|at| self.numbers.stands_much(block, *at, share))?;
            Some(doubt(line))
        })
    }

    /// Whether a block of common lines stands where a line of the side that should stand there does not hold.
    fn stands_instead(&self, block: &[u32], there: &[u32], stand: &Stand) -> bool {
        let line = |at: isize| usize::try_from(at).ok().and_then(|at| self.numbers.of_target.get(at));
        let fails = |at: &isize| line(stand.start + at) != usize::try_from(*at).ok().and_then(|at| there.get(at));
        let stands =
            |at: isize| block.iter().enumerate().all(|(offset, number)| line(at + offset as isize) == Some(number));
        let failing: Vec<isize> = (0..there.len() as isize).filter(fails).collect();
        failing.iter().any(|at| (0..block.len() as isize).any(|offset| stands(stand.start + at - offset)))
    }

    /// Why a hunk has no place, and the slack with which it would have one.
    fn refused(&self, index: usize) -> Decision<'h> {
        let piece = &self.pieces[index..=index];
        let place = self.place_of(index);
        match self.choose(piece, &place, self.slack) {
            // Left out because others say otherwise.
            Ok(stand) => Decision::Refused(stand, Refusal::Doubt(Doubt::OthersDiffer)),
            Err((best, Refusal::NoMatch(_))) => {
                let slack = best.slack.filter(|slack| self.choose(piece, &place, *slack).is_ok());
                Decision::Refused(best, Refusal::NoMatch(slack))
            }
            Err((best, refusal)) => Decision::Refused(best, refusal),
        }
    }
}

//! What becomes of a hunk, and where it may go.

use super::super::placement::Doubt;
use super::pieces::Piece;
use super::weigh::Candidate;

/// What became of a hunk.
#[derive(Clone, Debug)]
pub(super) enum Decision<'h> {
    /// It stands here.
    At(Candidate),
    /// Its changes stand here, one by one.
    Parts(Vec<(Piece<'h>, Candidate)>),
    /// It has no place; the one that is closest, and why it is not taken.
    Refused(Candidate, Refusal),
}

/// Why a place is not taken.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Refusal {
    /// Lines inside the hunk, or more than the tolerance, do not hold. The tolerance with which it would be taken.
    NoMatch(Option<usize>),
    /// The hunk stands here (from 0) about as well.
    Rival(isize),
    Doubt(Doubt),
}

/// Where a piece may go.
#[derive(Clone, Debug)]
pub(super) struct SearchArea {
    /// The lines of the target in which all its changed lines have to be.
    pub(super) within: std::ops::Range<isize>,
    /// Where it begins if it is where its neighbours say, by the state it is in.
    pub(super) own: [Vec<isize>; 2],
    /// The states that hunks beside it are in.
    pub(super) beside: [bool; 2],
}

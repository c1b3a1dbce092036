//! Where hunks belong in a file, as values: what is asked for, and what became of each hunk.

use std::sync::Arc;

use crate::internal::rules::FileRules;

/// How hunks are placed.
#[derive(Clone, Debug)]
pub struct PlaceOptions<'l> {
    pub(super) tolerance: usize,
    pub(super) file_rules: Option<&'l Arc<FileRules>>,
    pub(super) conflict_labels: Option<String>,
}

impl Default for PlaceOptions<'_> {
    fn default() -> Self {
        Self { tolerance: 2, file_rules: None, conflict_labels: None }
    }
}

impl<'l> PlaceOptions<'l> {
    /// How many outer context lines at either end need not hold. Default: 2.
    pub fn tolerance(mut self, lines: usize) -> Self {
        self.tolerance = lines;
        self
    }

    /// What does not count when lines are compared. Default: everything but line ends counts.
    pub fn file_rules(mut self, file_rules: Option<&'l Arc<FileRules>>) -> Self {
        self.file_rules = file_rules.filter(|file_rules| !file_rules.is_clear());
        self
    }

    /// Puts hunks that do not fit into the text as conflicts; their marks name this patch. Default: such hunks are left out.
    pub fn mark_conflicts(mut self, patch: Option<String>) -> Self {
        self.conflict_labels = patch;
        self
    }
}

/// What became of a hunk.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum HunkPlacement {
    /// It has a place.
    Placed(Placed),
    /// Its new lines already stand there, from this line (from 0) on.
    AlreadyIn(usize),
    /// Lines were added to the file inside it, or taken away, but each of its changes has a place; what became of them, one by one.
    Parts(Vec<HunkPlacement>),
    /// It has none.
    PlacementFailure(PlacementFailure),
}

/// Where a hunk went.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Placed {
    /// The line (from 0) where its first line belongs.
    pub line: usize,
    /// How many lines lower than written (higher, if negative).
    pub offset: isize,
    /// Context lines that do not hold.
    pub differing: usize,
    /// All its context lines.
    pub context: usize,
    /// Whether line ends, or what rules masked, differ.
    pub loosely: bool,
    /// Whether it expects an empty file, and went in front of what the file holds.
    pub in_front: bool,
}

/// Why a hunk has no place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum PlacementFailure {
    /// Nowhere do enough of its lines stand.
    NoMatch {
        /// The line (from 0) where its first line would go in the place that is closest.
        line: usize,
        /// Lines that it expects and lines that are there instead, each with its number from 0.
        instead: Vec<LineMismatch>,
        /// The tolerance with which it would go there.
        tolerance: Option<usize>,
    },
    /// It fits about equally well in two places; their lines from 0.
    Ambiguous(usize, usize),
    /// It would fit at a line (from 0), but something speaks against it.
    Doubtful {
        /// The line where its first line would go.
        line: usize,
        /// Context lines that do not hold there.
        differing: usize,
        /// All its context lines.
        context: usize,
        /// What speaks against it.
        against: Doubt,
    },
}

/// What speaks against a place in which a hunk would fit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Doubt {
    /// Lines that it adds stand near it already, from this line (from 0) on.
    AddedNearby(usize),
    /// Lines that it removes still stand near it, from this line (from 0) on, so that it cannot be in already.
    RemovedNearby(usize),
    /// Other hunks of the file are in already while this one seems not to be, or the other way round.
    OthersDiffer,
    /// It adds lines at an end of the file, and the file does not end there.
    NotAtFileEnd,
    /// Too few of its lines hold for a place so far from its own.
    TooFewLines,
}

/// What a hunk expects in a place, and what is there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LineMismatch {
    /// The line that it expects.
    pub expected: Option<Vec<u8>>,
    /// The line that is there, and its number from 0.
    pub found: Option<(usize, Vec<u8>)>,
}

/// What became of the hunks of a file.
#[derive(Clone, Debug, Default)]
pub struct Placement {
    /// What became of each hunk.
    pub fits: Vec<HunkPlacement>,
    /// The text with all hunks in it that have a place.
    pub text: Vec<u8>,
}

impl Placement {
    /// Whether every hunk has a place or is in already.
    pub fn is_whole(&self) -> bool {
        self.fits.iter().all(|fit| !matches!(fit, HunkPlacement::PlacementFailure(_)))
    }

    /// Whether there are hunks, and all of them are in already.
    pub fn is_already_in(&self) -> bool {
        !self.fits.is_empty() && self.fits.iter().all(HunkPlacement::is_already_in)
    }
}

impl HunkPlacement {
    /// Whether all of a hunk is in already.
    pub fn is_already_in(&self) -> bool {
        match self {
            Self::AlreadyIn(_) => true,
            Self::Parts(parts) => parts.iter().all(Self::is_already_in),
            Self::Placed(_) | Self::PlacementFailure(_) => false,
        }
    }
}

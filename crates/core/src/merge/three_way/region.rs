//! What a merge is made of: the stretches of the base that one side or both changed.

use serde::{Deserialize, Serialize};

use super::options::Prefer;
use crate::internal::model::Span;

/// A stretch where at least one side differs from the base. All between two regions is the same in all three texts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Region {
    /// What stands here in the base.
    pub base: Span,
    /// What stands here in mine.
    pub mine: Span,
    /// What stands here in theirs.
    pub theirs: Span,
    /// What becomes of it.
    pub outcome: RegionOutcome,
    /// Lines of theirs that differ from the result only in text that does not count, and that were dropped for it.
    pub dropped: usize,
    /// Whether anything that counts differs from the base.
    pub counts: bool,
}

/// What the changes of both sides are to each other, in a word.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Together {
    /// One side alone changed it.
    OneSided,
    /// Both did the same.
    Alike,
    /// Both changed it, and it merges by itself.
    Apart,
    /// Both changed it, and a reader has to say what is right.
    Conflict,
}

impl Together {
    /// All of them, in the order of a summary.
    pub const ALL: [Self; 4] = [Self::OneSided, Self::Alike, Self::Apart, Self::Conflict];

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::OneSided => "one-sided",
            Self::Alike => "alike",
            Self::Apart => "apart",
            Self::Conflict => "conflict",
        }
    }
}

/// What becomes of a region.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum RegionOutcome {
    /// Mine alone changed it.
    Mine,
    /// Theirs alone changed it.
    Theirs,
    /// Both changed it alike: taken once.
    Alike,
    /// Both changed it, and these lines hold the changes of both.
    Joined(Vec<u8>, Joining),
    /// Both changed it, and nobody but a reader can tell what is right.
    Conflict(Clash),
}

/// How the changes of both sides went together inside one region.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Joining {
    /// They touch different words.
    Words,
    /// One of them changes only text that does not count.
    Rules,
    /// Both put lines in at one place; they follow each other as was told.
    Insertions,
    /// One side moved the lines here, and the other edited them.
    Moved {
        /// Whether mine is the one that moved them.
        by_mine: bool,
    },
}

/// Why a region is a conflict.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Clash {
    /// Both changed the same lines, each in its own way.
    Edited,
    /// Both put lines in at the same place.
    Inserted,
    /// One side removed what the other changed.
    Removed,
    /// Both moved the same block, to different places; this is one of them.
    MovedApart,
    /// One side moved a block that the other removed.
    MovedAndRemoved,
}

impl Region {
    /// What the changes of both sides are to each other here.
    pub fn together(&self) -> Together {
        match self.outcome {
            RegionOutcome::Mine | RegionOutcome::Theirs => Together::OneSided,
            RegionOutcome::Alike => Together::Alike,
            RegionOutcome::Joined(..) => Together::Apart,
            RegionOutcome::Conflict(_) => Together::Conflict,
        }
    }

    /// Whether it is a conflict.
    pub fn is_conflict(&self) -> bool {
        matches!(self.outcome, RegionOutcome::Conflict(_))
    }
}

/// Three things of which two came of the first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Three<T> {
    /// What both come from.
    pub base: T,
    /// One that came of it.
    pub mine: T,
    /// The other.
    pub theirs: T,
}

impl<T> Three<T> {
    /// Three things.
    pub fn new(base: T, mine: T, theirs: T) -> Self {
        Self { base, mine, theirs }
    }

    /// Something made of each.
    pub fn map<U>(self, mut make: impl FnMut(T) -> U) -> Three<U> {
        Three { base: make(self.base), mine: make(self.mine), theirs: make(self.theirs) }
    }

    /// The same as references.
    pub fn as_ref(&self) -> Three<&T> {
        Three { base: &self.base, mine: &self.mine, theirs: &self.theirs }
    }

    /// All three, the base first.
    pub fn all(self) -> [T; 3] {
        [self.base, self.mine, self.theirs]
    }
}

/// What comes of a value that is merged as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MergedValue<T> {
    /// One value: nobody changed it, one side did, or both did alike.
    One(T),
    /// Both sides changed it, each in its own way: that of mine, and that of theirs.
    Conflict(T, T),
}

impl<T: PartialEq> MergedValue<T> {
    /// Merges a value: the side that changed it wins.
    ///
    /// ```
    /// use tideline_core::internal::merge::{MergedValue, Three};
    ///
    /// assert_eq!(MergedValue::of(Three::new(0o644, 0o644, 0o755)), MergedValue::One(0o755));
    /// assert_eq!(MergedValue::of(Three::new(0o644, 0o600, 0o755)), MergedValue::Conflict(0o600, 0o755));
    /// ```
    pub fn of(values: Three<T>) -> Self {
        let Three { base, mine, theirs } = values;
        if mine == theirs || theirs == base {
            Self::One(mine)
        } else if mine == base {
            Self::One(theirs)
        } else {
            Self::Conflict(mine, theirs)
        }
    }

    /// Whether both sides changed it.
    pub fn is_conflict(&self) -> bool {
        matches!(self, Self::Conflict(..))
    }
}

impl<T> MergedValue<T> {
    /// The value; where both changed it, that of the side that is preferred, which is mine unless one says otherwise.
    pub fn chosen(self, prefer: Option<Prefer>) -> T {
        match self {
            Self::One(value) => value,
            Self::Conflict(_, theirs) if prefer == Some(Prefer::Theirs) => theirs,
            Self::Conflict(mine, _) => mine,
        }
    }
}

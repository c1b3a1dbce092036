//! How texts are merged, and how conflicts are resolved.

use crate::internal::align::Bounds;

/// How texts are merged. Unchanging once built.
#[derive(Clone, Debug, Default)]
pub struct MergeOptions {
    pub(super) by_words: bool,
    pub(super) both_insertions: Option<Insertions>,
    pub(super) prefer: Option<Prefer>,
    bounds: Bounds,
}

/// In which order lines follow each other that both sides put in at one place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Insertions {
    /// Those of mine, then those of theirs.
    MineFirst,
    /// Those of theirs, then those of mine.
    TheirsFirst,
}

/// Whether one of two sides decides a conflict.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Prefer {
    /// Mine does.
    Mine,
    /// Theirs does.
    Theirs,
}

/// How a conflict is resolved.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Resolution {
    /// With the lines of mine.
    Mine,
    /// With the lines of theirs.
    Theirs,
    /// With the lines of the base.
    Base,
    /// With the lines of both, those of mine first.
    MineThenTheirs,
    /// With the lines of both, those of theirs first.
    TheirsThenMine,
    /// With other lines.
    Lines(Vec<u8>),
}

impl MergeOptions {
    /// Whether edits in one line merge that touch different words. Default: no.
    pub fn by_words(mut self, by_words: bool) -> Self {
        self.by_words = by_words;
        self
    }

    /// Lines that both sides put in at one place follow each other in this order. Default: they are a conflict.
    pub fn both_insertions(mut self, order: Option<Insertions>) -> Self {
        self.both_insertions = order;
        self
    }

    /// Which side decides what both changed and what has one value only, such as the line ends. Default: mine, and it stays a conflict.
    pub fn prefer(mut self, prefer: Option<Prefer>) -> Self {
        self.prefer = prefer;
        self
    }

    /// What bounds the work of the alignment.
    pub fn within(mut self, bounds: Bounds) -> Self {
        self.bounds = bounds;
        self
    }

    pub(super) fn bounds(&self) -> &Bounds {
        &self.bounds
    }
}

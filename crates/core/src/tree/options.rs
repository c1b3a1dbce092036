//! How two trees are compared.

use super::{Filter, Pair};
use crate::kinds::text::TextOptions;
use crate::model::Status;
use crate::text::encoding::WantedEncodings;

/// What is believed instead of reading contents.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Trust {
    /// Files of one size are the same.
    Size,
    /// Files of one size and one time of change are the same.
    Time,
}

/// Which attributes are compared besides contents.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Attributes {
    /// Permission bits.
    pub mode: bool,
    /// The time of the last change.
    pub time: bool,
}

/// How two trees are compared. Unchanging once built.
#[derive(Clone, Debug)]
pub struct TreeOptions {
    pub(super) filter: Filter,
    pub(super) trust: Option<Trust>,
    pub(super) attributes: Attributes,
    pub(super) moves: bool,
    pub(super) counts: bool,
    pub(super) only: Option<Vec<Status>>,
    pub(super) text: TextOptions,
    pub(super) encodings: WantedEncodings,
}

impl Default for TreeOptions {
    fn default() -> Self {
        Self {
            filter: Filter::default(),
            trust: None,
            attributes: Attributes::default(),
            moves: true,
            counts: true,
            only: None,
            text: TextOptions::default(),
            encodings: (None, None),
        }
    }
}

impl TreeOptions {
    /// Which entries are looked at. Default: all.
    pub fn filter(mut self, filter: Filter) -> Self {
        self.filter = filter;
        self
    }

    /// What is believed instead of reading contents. Default: nothing.
    pub fn trust(mut self, trust: Option<Trust>) -> Self {
        self.trust = trust;
        self
    }

    /// Which attributes are compared besides contents. Default: none.
    pub fn attributes(mut self, attributes: Attributes) -> Self {
        self.attributes = attributes;
        self
    }

    /// Whether files that stand elsewhere are found. Default: yes.
    pub fn moves(mut self, moves: bool) -> Self {
        self.moves = moves;
        self
    }

    /// Whether changes and lines are counted. Default: yes.
    pub fn counts(mut self, counts: bool) -> Self {
        self.counts = counts;
        self
    }

    /// Which pairs are kept; all are counted. Default: those that are not the same.
    pub fn only(mut self, only: Option<Vec<Status>>) -> Self {
        self.only = only;
        self
    }

    /// What both sides are written in. Default: what is found.
    pub fn encodings(mut self, encodings: WantedEncodings) -> Self {
        self.encodings = encodings;
        self
    }

    /// Whether a pair is kept.
    pub(super) fn keeps(&self, pair: &Pair) -> bool {
        match &self.only {
            None => pair.status != Status::Same,
            Some(only) => pair.is_one_of(only),
        }
    }
}

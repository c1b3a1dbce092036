//! How two trees are compared.

use super::{Filter, Pair, TreePath};
use crate::internal::kinds::ContentOptions;
use crate::internal::model::Status;

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
    pub(super) shown: bool,
    pub(super) only: Option<Vec<Status>>,
    pub(super) contents: ContentOptions,
    pub(super) pairs: Vec<(TreePath, TreePath)>,
    pub(super) renames: bool,
}

impl Default for TreeOptions {
    fn default() -> Self {
        Self {
            filter: Filter::default(),
            trust: None,
            attributes: Attributes::default(),
            moves: true,
            counts: true,
            shown: false,
            only: None,
            contents: ContentOptions::default(),
            pairs: Vec::new(),
            renames: false,
        }
    }
}

impl TreeOptions {
    /// Which entries are looked at. Default: all.
    pub fn filter(mut self, filter: Filter) -> Self {
        self.filter = filter;
        self
    }

    /// The patterns that fitted nothing in the comparisons that were made with these options or a copy of them: those that
    /// include, and those that exclude.
    pub fn unfitted_patterns(&self) -> (Vec<&str>, Vec<&str>) {
        self.filter.unfitted()
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

    /// Whether changes and lines are counted; under rules they always are. Default: yes.
    pub fn counts(mut self, counts: bool) -> Self {
        self.counts = counts;
        self
    }

    /// Whether images and documents that are not the same bytes may show the same, where changes are not counted. Default: no, for whoever writes
    /// goes by bytes.
    pub fn shown(mut self, shown: bool) -> Self {
        self.shown = shown;
        self
    }

    /// Which pairs are kept; all are counted. Default: those that are not the same.
    pub fn only(mut self, only: Option<Vec<Status>>) -> Self {
        self.only = only;
        self
    }

    /// How contents are compared.
    pub fn contents(mut self, contents: ContentOptions) -> Self {
        self.contents = contents;
        self
    }

    /// Paths before, and with each the path after that it is compared with, whatever else stands there: files, or folders with what is in
    /// them.
    pub fn pairs(mut self, pairs: Vec<(TreePath, TreePath)>) -> Self {
        self.pairs = pairs;
        self
    }

    /// Whether what the rules rename holds for paths too, so that a file under its old path is compared with the one under its new path.
    /// Default: no.
    pub fn renames(mut self, renames: bool) -> Self {
        self.renames = renames;
        self
    }

    /// Whether a path is paired by hand with another one, on either side.
    pub(super) fn is_paired_elsewhere(&self, path: &TreePath) -> bool {
        self.pairs.iter().any(|(before, after)| before != after && (before == path || after == path))
    }

    /// Whether pairs of a status were asked for by name.
    pub(super) fn wants(&self, status: Status) -> bool {
        self.only.as_ref().is_some_and(|only| only.contains(&status))
    }

    /// Whether a pair is kept.
    pub(super) fn keeps(&self, pair: &Pair) -> bool {
        match &self.only {
            None => pair.status != Status::Same,
            Some(only) => pair.is_one_of(only),
        }
    }
}

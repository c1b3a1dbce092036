//! Two compared trees, for a report.

use tideline_core::internal::tree::{Pair, Progress, TreeComparison};
use tideline_views::report::{FileReport, Head, Shape};

use super::making::Making;
use crate::commands::pairs::Trees;

/// Two compared trees, and which of their files have something to show.
pub(super) struct Found<'a> {
    pub(super) making: &'a Making,
    pub(super) trees: Trees,
    pub(super) comparison: TreeComparison,
    /// The indexes of the pairs of whose contents something is shown.
    pub(super) shown: Vec<usize>,
    pub(super) title: String,
    pub(super) paths: (String, String),
    pub(super) shape: Shape,
}

/// The bytes of both sides of a pair.
pub(super) fn size(pair: &Pair) -> u64 {
    [pair.before, pair.after].into_iter().flatten().map(|metadata| metadata.size).sum()
}

impl Found<'_> {
    /// Reads a pair and gives what is told of it.
    pub(super) fn with_file<R>(&self, pair: &Pair, progress: &Progress, then: impl FnOnce(&FileReport<'_>) -> R) -> R {
        progress.add(size(pair));
        self.trees.with_pair(pair, |body| then(&FileReport::of_pair(pair, body)))
    }

    /// What stands at the head of the whole report.
    pub(super) fn head(&self) -> Head<'_> {
        self.making.head(&self.title, &self.trees.labels, &self.paths, &self.comparison.account, None)
    }
}

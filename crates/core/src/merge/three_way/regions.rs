//! The regions of a merge, from two scripts.

use super::clusters::clusters;
use super::options::MergeOptions;
use super::region::{Region, RegionOutcome, Three};
use super::scripts::Scripts;
use super::settle::settle;
use super::stretch::Stretches;
use crate::internal::align::Bounds;
use crate::internal::rules::MaskedText;

/// The regions of two scripts.
pub(super) fn regions(scripts: &Scripts, texts: Three<&MaskedText<'_>>, options: &MergeOptions) -> Vec<Region> {
    let mut regions = Vec::new();
    for cluster in clusters(scripts) {
        let outcome = match cluster.is_edited {
            (true, false) => RegionOutcome::Mine,
            (false, true) => RegionOutcome::Theirs,
            _ => {
                settle(&Stretches::of(texts, &cluster.spans), options, &mut regions);
                continue;
            }
        };
        let Three { base, mine, theirs } = cluster.spans;
        regions.push(Region { base, mine, theirs, outcome, dropped: 0, counts: cluster.counts });
    }
    regions
}

/// The regions of two scripts under no rules, with no choice made.
pub(super) fn plain_regions(scripts: Scripts, texts: Three<&MaskedText<'_>>, bounds: &Bounds) -> Vec<Region> {
    regions(&scripts.in_step(texts, bounds), texts, &MergeOptions::default())
}

//! Three trees: what each of two sides did to every path since a common base, and both together.
//!
//! Either side is compared with the base first; only what differs there is looked at again. Files that moved are followed, so that what one side
//! edited comes to where the other moved it.

mod clash;
mod entry;
mod found;
mod join;
mod options;
mod paths;
mod steps;

use std::collections::BTreeMap;

use rayon::prelude::*;

pub use clash::TreeClash;
pub use entry::{Beside, EntryPlan, MergedEntry, SideOfEntry, Source};
pub use found::TreeMerge;
pub use options::TreeMergeOptions;
pub use steps::{MergeSteps, StepContents};

use super::three_way::Three;
use crate::internal::model::Status;
use crate::internal::tree::{Progress, Tree, TreeComparison, TreePath};
use join::{Key, Versions};

/// Merges three trees, of which the base was compared with mine and with theirs. The comparisons must hold all that differs, permissions too.
pub fn merge_trees(
    trees: Three<&dyn Tree>,
    (mine, theirs): (&TreeComparison, &TreeComparison),
    options: &TreeMergeOptions,
    progress: &Progress,
) -> TreeMerge {
    let mut joined: BTreeMap<Key, Versions<'_>> = BTreeMap::new();
    let mut merge =
        TreeMerge { left_out: [mine, theirs].map(|comparison| comparison.left_out.clone()), ..TreeMerge::default() };
    for (comparison, is_mine) in [(mine, true), (theirs, false)] {
        merge.account.add(&comparison.account);
        merge.remarks.extend(comparison.remarks.iter().cloned());
        for pair in &comparison.pairs {
            if pair.is_folder() {
                if !is_mine {
                    match pair.status {
                        Status::New => merge.new_folders.push(pair.path.clone()),
                        Status::Gone => merge.gone_folders.push(pair.path.clone()),
                        _ => {}
                    }
                }
                continue;
            }
            if pair.status == Status::Same {
                continue;
            }
            let versions = joined.entry(Key::of(pair)).or_default();
            *(if is_mine { &mut versions.mine } else { &mut versions.theirs }) = Some(pair);
        }
    }
    // What the base says, it said twice.
    merge.remarks.sort();
    merge.remarks.dedup();
    let read_ahead = |tree: &dyn Tree, path: fn(&Versions<'_>) -> Option<TreePath>| {
        if tree.reads_ahead() {
            let paths: Vec<TreePath> = joined.values().filter(|versions| versions.is_both()).filter_map(path).collect();
            tree.prepare(&paths.iter().collect::<Vec<_>>());
        }
    };
    read_ahead(trees.base, |versions| versions.mine.map(|pair| pair.path_before().clone()));
    read_ahead(trees.mine, |versions| versions.mine.map(|pair| pair.path.clone()));
    read_ahead(trees.theirs, |versions| versions.theirs.map(|pair| pair.path.clone()));
    let joined: Vec<(Key, Versions<'_>)> = joined.into_iter().collect();
    let merged: Vec<(MergedEntry, usize)> =
        joined.par_iter().map(|(key, versions)| join::entry(key, versions, trees, options, progress)).collect();
    merge.dropped = merged.iter().map(|(_, dropped)| dropped).sum();
    merge.entries = merged.into_iter().map(|(entry, _)| entry).collect();
    paths::tell_collisions(&mut merge.entries, options.prefer);
    merge.entries.sort_by(|one, other| one.path.cmp(&other.path));
    merge
}

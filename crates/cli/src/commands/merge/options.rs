//! What was asked of a merge, as options of the core.

use tideline_core::internal::merge::{Insertions, Marks, MergeOptions, Prefer, Three};

use crate::args::{GrainChoice, InsertionsChoice, MergeArgs, OnOff, PreferChoice};

/// How texts are merged.
pub(super) fn options(args: &MergeArgs) -> MergeOptions {
    MergeOptions::default()
        .by_words(args.grain == GrainChoice::Word)
        .both_insertions(args.both_insertions.map(|order| match order {
            InsertionsChoice::MineFirst => Insertions::MineFirst,
            InsertionsChoice::TheirsFirst => Insertions::TheirsFirst,
        }))
        .prefer(prefer(args))
}

/// Which side decides conflicts.
pub(super) fn prefer(args: &MergeArgs) -> Option<Prefer> {
    args.prefer.map(|side| match side {
        PreferChoice::Mine => Prefer::Mine,
        PreferChoice::Theirs => Prefer::Theirs,
    })
}

/// How conflicts are marked.
pub(super) fn marks(args: &MergeArgs, labels: &Three<String>) -> Marks {
    Marks { labels: labels.clone(), base_text: args.base_text == OnOff::On }
}

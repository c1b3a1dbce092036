//! Carrying changes between texts.
//!
//! [`take`] carries chosen changes of two texts from one to the other; [`merge_texts`] brings together what two sides changed since a common base,
//! [`merge_files`] and [`merge_trees`] do so with whatever files hold and with whole trees.

mod beside;
mod by_kind;
mod selection;
mod take;
mod take_ranges;
mod take_rows;
mod three_way;
mod trees;

pub use beside::{is_named_beside, suffix_beside};
pub use by_kind::ByKind;
pub use selection::{Selection, SelectionError, parse_numbers};
pub use take::{Pick, TakeInto, take};
pub use take_ranges::take_ranges;
pub use take_rows::{TakeRowsError, take_rows};
pub use three_way::{
    Clash, Endings, FileMerge, Insertions, Joining, LineEnds, MarkedConflict, Marks, MergeOptions, MergedText,
    MergedValue, MovedEdit, Prefer, Region, RegionOutcome, Resolution, TextMerge, Three, Together, ValueConflict,
    WholeMerge, marked_conflicts, merge_files, merge_texts, merge_words,
};
pub use trees::{
    Beside, EntryPlan, MergeSteps, MergedEntry, SideOfEntry, Source, StepContents, TreeClash, TreeMerge,
    TreeMergeOptions, merge_trees,
};

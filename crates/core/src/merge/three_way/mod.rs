//! Three texts: what each of two sides did since a common base, and both together.
//!
//! 1. Either side is aligned with the base; the two edit scripts are brought into step (`scripts`), so that what both did alike is told alike and
//!    edits that need not touch do not.
//! 2. Edits that touch or overlap are gathered (`clusters`). What one side alone changed is taken.
//! 3. Where both changed something, what they did alike is taken once, and what is left are conflicts (`settle`), unless words (`units`) or rules
//!    say how it goes together.
//! 4. What one side edited in a block that the other moved follows it (`moved`).
//! 5. Line ends and the final newline are values of their own (`line_ends`).
//!
//! Edits of both sides that touch, with no line between them that both left alone, count as one place that both changed.

mod clusters;
mod file;
mod line_ends;
mod marks;
mod moved;
mod options;
mod region;
mod regions;
mod scripts;
mod settle;
mod stretch;
mod text;
mod units;

pub use file::{FileMerge, MergedText, ValueConflict, WholeMerge, merge_files};
pub use line_ends::{Endings, LineEnds};
pub use marks::{MarkedConflict, Marks, marked_conflicts};
pub use moved::MovedEdit;
pub use options::{Insertions, MergeOptions, Prefer, Resolution};
pub use region::{Clash, Joining, MergedValue, Region, RegionOutcome, Three, Together};
pub use text::{TextMerge, merge_texts};
pub use units::merge_words;

//! Three texts or trees: what each of two sides did since their base, ready to be drawn.

mod context;
mod rows;
mod sides;
mod view;

pub(crate) use context::{rows_above, rows_below};
pub(crate) use rows::{Cell, SidePairs, ThreeRow, region_rows};
pub(crate) use sides::{SideTexts, WhichSide};
pub use view::{MergeView, MergedTreeView};

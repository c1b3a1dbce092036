//! Drawing for a terminal or a plain text file.

mod gutter;
mod heading;
mod look;
mod marks;
mod palette;
mod shown;
mod stacked;

pub use heading::{Counts, Labels};
pub use look::{Colours, Context, Look, Theme};
pub use stacked::draw_stacked;

use tideline_core::model::TextComparison;

/// One pair of texts and what differs between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct FileView<'a> {
    /// The name in the heading; empty when the labels say it all.
    pub name: &'a str,
    /// What the sides are called.
    pub labels: &'a Labels,
    /// The text before.
    pub before: &'a [u8],
    /// The text after.
    pub after: &'a [u8],
    /// What differs.
    pub comparison: &'a TextComparison,
}

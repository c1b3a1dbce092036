//! Three texts: the base with what either side made of it, stacked or in three columns.

mod columns;
mod heading;
pub mod screen;
mod stacked;
mod tree;

use std::io::{self, Write};

use super::account::write_account;
use super::look::{Layout, Look};
use crate::three::MergeView;
pub(crate) use stacked::RegionDrawing;
pub use tree::draw_merged_tree;

/// Draws three texts: a heading, each region with its own heading, and the legend. In the layout beside, three columns.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_merge(view: &MergeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    heading::write_heading(view, look, out)?;
    write_account(&view.merge.account, view.counted_only, look, out)?;
    if view.regions().next().is_none() {
        return Ok(());
    }
    if look.layout == Layout::Beside {
        columns::draw(view, look, out)?;
    } else {
        stacked::draw(view, look, out)?;
    }
    if look.legend {
        writeln!(out)?;
        heading::write_legend(view, look, out)?;
    }
    Ok(())
}

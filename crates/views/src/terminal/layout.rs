//! What a layout does, and how the rows of a file come to it.

use std::io::{self, Write};

use super::heading::write_change_heading;
use super::look::Look;
use crate::rows::{Block, FileRow, Pick, RowSource};
use crate::view::{BothSections, FileView};

/// How the rows of a file are laid out.
pub(super) trait Rows {
    /// Draws what stands above the first change.
    fn begin(&mut self, _out: &mut dyn Write) -> io::Result<()> {
        Ok(())
    }

    /// Draws a row.
    fn row(&mut self, row: &FileRow<'_>, out: &mut dyn Write) -> io::Result<()>;
}

/// Draws the changes that are picked, without what stands above the first.
pub(super) fn draw_changes(
    (view, sections): (&FileView<'_>, &BothSections<'_>),
    pick: Pick<'_>,
    look: &Look,
    rows: &mut dyn Rows,
    out: &mut dyn Write,
) -> io::Result<()> {
    let options = look.row_options();
    let mut source = RowSource::new(view, pick, &options);
    for block in 0..source.len() {
        match source.block(block) {
            Block::Hidden { .. } => {}
            Block::Change(place) => {
                write_change_heading(view, (place, sections), look, out)?;
                source.rows(block).try_for_each(|row| rows.row(&row, out))?;
            }
        }
    }
    Ok(())
}

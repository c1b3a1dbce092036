//! What a layout does, and how the rows of a file come to it.

use std::io::{self, Write};

use super::heading::write_change_heading;
use super::look::Look;
use super::palette::TextRole;
use crate::groups::last_of_group;
use crate::marks::Marks;
use crate::muted_run::{Aside, MutedRuns, Step};
use crate::rows::{Block, FileRow, Pick, RowSource};
use crate::view::{BothSections, Context, FileView};
use crate::wording::plural;

/// How the rows of a file are laid out.
pub(super) trait Rows {
    /// Draws what stands above the first change.
    fn begin(&mut self, _out: &mut dyn Write) -> io::Result<()> {
        Ok(())
    }

    /// Draws a row.
    fn row(&mut self, row: &FileRow<'_>, out: &mut dyn Write) -> io::Result<()>;

    /// Puts the number of a change into the margin of the next row.
    fn set_number(&mut self, number: usize);

    /// Whether a row was drawn of two lines that differ in their indentation alone.
    fn has_indented(&self) -> bool {
        false
    }
}

/// Says how many rows that do not count are not shown. They are not equal, and not called so.
fn write_folded(count: usize, aside: Aside, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let mark = Marks::of(look.plain).muted;
    let text = format!(
        " {mark} {} not shown (--context all shows them)",
        plural(count, &format!("more {} line", aside.word()))
    );
    look.palette().write(TextRole::Faint, &text, out)?;
    writeln!(out)
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
    let groups = if look.context.lines() > 0 { last_of_group(view, &source) } else { (0..source.len()).collect() };
    // The last block of the group that is being drawn.
    let mut upto = None;
    for block in 0..source.len() {
        match source.block(block) {
            Block::Hidden { .. } => {}
            Block::Change(place) => {
                if upto.is_none_or(|upto| upto < block) {
                    upto = Some(groups[block]);
                    let Block::Change(last) = source.block(groups[block]) else { continue };
                    write_change_heading(view, (place, last, sections), look, out)?;
                }
                let is_alone =
                    groups[block] == block && block.checked_sub(1).is_none_or(|above| groups[above] != block);
                let mut number = (!is_alone).then_some(view.comparison.changes[place.change].number);
                let mut draw = |row: &FileRow<'_>, out: &mut dyn Write| {
                    // The lines around a change have no number.
                    if !matches!(row, FileRow::Equal(..))
                        && let Some(number) = number.take()
                    {
                        rows.set_number(number);
                    }
                    rows.row(row, out)
                };
                if look.context == Context::All {
                    source.rows(block).try_for_each(|row| draw(&row, out))?;
                    continue;
                }
                let mut runs = MutedRuns::new(look.context.lines());
                let mut pass_on = |step: Step<'_>| match step {
                    Step::Show(row) => draw(&row, out),
                    Step::Fold(_) => Ok(()),
                    Step::Folded(count, aside) => write_folded(count, aside, look, out),
                };
                source.rows(block).try_for_each(|row| runs.add(row, &mut pass_on))?;
                runs.end(&mut pass_on)?;
            }
        }
    }
    Ok(())
}

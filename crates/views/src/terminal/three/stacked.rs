//! Three texts in one column: each region as a comparison of the base with the side that changed it; of a conflict, with both.

use std::io::{self, Write};

use tideline_core::internal::kinds::text::sections::Sections;
use tideline_core::internal::merge::{Joining, Region, RegionOutcome, Three};

use super::heading::write_region_heading;
use crate::rows::{Block, Pick, RowSource};
use crate::shown::shown_name;
use crate::terminal::layouts::rows;
use crate::terminal::look::Look;
use crate::terminal::palette::TextRole;
use crate::three::{MergeView, SideTexts, WhichSide};
use crate::view::FileView;

/// Draws the regions.
pub(super) fn draw(view: &MergeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let drawing = RegionDrawing::of(view, look);
    view.regions().try_for_each(|region| drawing.draw(region, out))
}

/// What regions are drawn with, one by one.
pub(crate) struct RegionDrawing<'a> {
    view: &'a MergeView<'a>,
    look: &'a Look,
    sections: Sections<'a>,
    /// Both sides against the base.
    sides: [(WhichSide, SideTexts); 2],
}

impl<'a> RegionDrawing<'a> {
    pub(crate) fn of(view: &'a MergeView<'a>, look: &'a Look) -> Self {
        Self {
            view,
            look,
            sections: Sections::new(view.type_name, view.merge.texts.base.text(), view.merge.regions.len()),
            sides: [WhichSide::Mine, WhichSide::Theirs].map(|which| (which, SideTexts::of(view, which))),
        }
    }

    /// Draws a region, with its heading.
    pub(crate) fn draw(&self, (number, region): (usize, &Region), out: &mut dyn Write) -> io::Result<()> {
        let Self { view, look, sections, sides } = self;
        write_region_heading(view, (number, region), sections, look, out)?;
        let shown: &[WhichSide] = match region.outcome {
            RegionOutcome::Mine | RegionOutcome::Alike | RegionOutcome::Joined(_, Joining::Moved { by_mine: true }) => {
                &[WhichSide::Mine]
            }
            RegionOutcome::Theirs | RegionOutcome::Joined(_, Joining::Moved { by_mine: false }) => &[WhichSide::Theirs],
            RegionOutcome::Joined(..) | RegionOutcome::Conflict(_) => &[WhichSide::Mine, WhichSide::Theirs],
        };
        for (which, texts) in sides.iter().filter(|(which, _)| shown.contains(which)) {
            if shown.len() > 1 {
                let Three { mine, theirs, .. } = view.labels;
                let label = if *which == WhichSide::Mine { mine } else { theirs };
                write!(out, "   ")?;
                palette_label(look, label, out)?;
            }
            match texts.place(number - 1) {
                Some(place) => draw_place(&texts.view(view), place, look, out)?,
                None => writeln!(out, "      leaves it as it was")?,
            }
        }
        Ok(())
    }
}

fn palette_label(look: &Look, label: &str, out: &mut dyn Write) -> io::Result<()> {
    look.palette().write(TextRole::New, &format!("{}:", shown_name(label, look.plain)), out)?;
    writeln!(out)
}

fn draw_place(pair: &FileView<'_>, place: usize, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let options = look.row_options();
    let places = [place];
    let mut source = RowSource::new(pair, Pick::Places(&places), &options);
    let mut layout = rows(pair, look, false);
    for block in 0..source.len() {
        if matches!(source.block(block), Block::Change(_)) {
            source.rows(block).try_for_each(|row| layout.row(&row, out))?;
        }
    }
    Ok(())
}

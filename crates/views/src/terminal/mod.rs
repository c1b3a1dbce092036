//! Drawing for a terminal or a plain text file.
//!
//! [`draw_file`] pulls the rows of a comparison (`rows`) and hands each to a layout: `stacked`, `beside` or
//! `inline`. Layouts write `DisplayLine` lines, which hold nothing that a terminal would obey, in the text roles of a palette.

mod account;
mod applied;
mod beside;
mod bytes;
mod explain;
mod folders;
mod gutter;
mod heading;
mod image;
mod inline;
mod items;
mod layout;
mod layouts;
mod look;
mod matches;
mod merged;
mod palette;
mod patched;
mod plan;
mod repeats;
pub mod screen;
mod sections;
mod stacked;
mod strip;
mod theme;
pub mod three;
mod tree;

use std::io::{self, Write};

use tideline_core::internal::model::Change;

use crate::groups::any_together;
use crate::pair_view::PairView;
use crate::rows::Pick;
use crate::shown::shown_name;
use crate::view::{BothSections, FileView};
use crate::wording::document::document_line;
use crate::wording::plural;
use layout::draw_changes;
use layouts::rows;
use palette::TextRole;

pub use account::write_account;
pub use applied::draw_applied;
pub use explain::{draw_explanations, draw_item_explanation, draw_reading};
pub use folders::draw_folders;
pub use items::write_kind_hint;
pub use look::{Layout, Look, Styles};
pub use matches::draw_matches;
pub use patched::{PatchedFile, draw_patch};
pub use plan::{PlanView, draw_plan};
pub use repeats::draw_repeats;
pub use sections::draw_sections;
pub use theme::{Colours, Theme};
pub use three::{draw_merge, draw_merged_tree};
pub use tree::{PairWords, draw_tree, pair_words, write_about};

/// Draws a pair of contents, each kind in its way.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_pair(view: &PairView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    match view {
        PairView::Text(view) => draw_file(view, look, out),
        PairView::Table(view) if look.layout == Layout::Beside => items::draw_grid(view, look, out),
        PairView::Table(view) => items::draw_items(view, look, out),
        PairView::Data(view) => items::draw_items(view, look, out),
        PairView::Sheets(view) => items::draw_items(view, look, out),
        PairView::Image(view) => image::draw_image(view, look, out),
        PairView::Bytes(view) => bytes::draw_bytes(view, look, out),
    }
}

/// Draws what stands above the changes of a pair of texts: which side is which, and how much differs.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_heading(view: &FileView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    heading::write_file_heading(view, look, out)?;
    if let Some(extracted) = view.extracted {
        write!(out, "  ")?;
        look.palette().write(TextRole::Faint, &shown_name(&document_line(extracted), look.plain), out)?;
        writeln!(out)?;
    }
    account::write_account(&view.comparison.account, view.comparison.muted_is_hidden, look, out)
}

/// Draws one change of a pair of texts, by its index.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_change(view: &FileView<'_>, change: usize, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let places: Vec<usize> =
        (0..view.comparison.places.len()).filter(|&at| view.comparison.places[at].change == change).collect();
    draw_at((view, &view.sections()), &places, look, out)
}

/// Draws the change at some places.
pub(crate) fn draw_at(
    (view, sections): (&FileView<'_>, &BothSections<'_>),
    places: &[usize],
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let all = &view.comparison.places;
    let is_grouped = any_together(view.comparison, places.iter().map(|&at| &all[at]));
    draw_changes((view, sections), Pick::Places(places), look, &mut *rows(view, look, is_grouped), out)
}

/// Draws one pair of texts: a heading, each change with its own heading and context, and the legend.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_file(view: &FileView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    draw_heading(view, look, out)?;
    if view.comparison.places.is_empty() {
        return Ok(());
    }
    let all = &view.comparison.places;
    let number = |at: &usize| view.comparison.changes[all[*at].change].number;
    let chosen: Option<Vec<usize>> = look
        .changes
        .as_ref()
        .map(|numbers| (0..all.len()).filter(|at| numbers.iter().any(|range| range.contains(&number(at)))).collect());
    let is_grouped = match &chosen {
        Some(places) => any_together(view.comparison, places.iter().map(|&at| &all[at])),
        None => any_together(view.comparison, all.iter()),
    };
    let mut rows = rows(view, look, is_grouped);
    rows.begin(out)?;
    let pick = chosen.as_deref().map_or(Pick::ALL, Pick::Places);
    draw_changes((view, &view.sections()), pick, look, &mut *rows, out)?;
    if let Some(numbers) = &look.changes {
        let is_left = |change: &&Change| !numbers.iter().any(|range| range.contains(&change.number));
        let left = view.comparison.changes.iter().filter(is_left).count();
        if left > 0 {
            let note = format!("not shown: {} (--changes)", plural(left, "other change"));
            write!(out, "\n  ")?;
            look.palette().write(TextRole::Faint, &note, out)?;
            writeln!(out)?;
        }
    }
    if look.legend {
        writeln!(out)?;
        heading::write_legend(view, rows.has_indented(), look, out)?;
    }
    Ok(())
}

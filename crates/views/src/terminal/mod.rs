//! Drawing for a terminal or a plain text file.
//!
//! [`draw_file`] walks through the places of a comparison (`flow`) and hands each line to a layout: `stacked`, `beside` or
//! `inline`. Layouts write `Shown` lines, which hold nothing that a terminal would obey, in the inks of a palette.

mod account;
mod applied;
mod beside;
mod explain;
mod flow;
mod gap;
mod gutter;
mod heading;
mod inline;
mod look;
mod marks;
mod matches;
mod palette;
mod patched;
mod plan;
mod shown;
mod stacked;
mod strip;
mod syntax;
mod tree;

use std::io::{self, Write};

use tideline_core::kinds::text::sections::Language;
use tideline_core::model::TextComparison;
use tideline_core::rules::Seen;

pub use account::write_account;
pub use applied::{AppliedFile, AppliedHow, draw_applied};
pub use explain::draw_explanations;
pub use heading::{Counts, Labels, plural, write_bytes_view};
pub use look::{Colours, Context, Layout, Look, Syntax, Theme};
pub use matches::draw_matches;
pub use patched::{PatchedFile, draw_patch};
pub use plan::{PlanView, draw_plan};
pub use tree::{TreeView, draw_tree, status_word};

/// One pair of texts and what differs between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct FileView<'a> {
    /// The name in the heading; empty when the labels say it all.
    pub name: &'a str,
    /// The name that tells the type of the file, for its sections and its syntax.
    pub type_name: &'a str,
    /// What the sides are called.
    pub labels: &'a Labels,
    /// What else the heading says, such as two different encodings.
    pub note: Option<&'a str>,
    /// The text before, as the rules let it be seen.
    pub before: &'a Seen<'a>,
    /// The text after.
    pub after: &'a Seen<'a>,
    /// What differs.
    pub comparison: &'a TextComparison,
    /// The indexes of the first lines of both texts; not 0 where only a part of a file is known.
    pub first: (usize, usize),
}

impl FileView<'_> {
    /// The heading of the section that a change begins in.
    pub(crate) fn section(&self, before: usize, after: Option<usize>) -> Option<String> {
        let language = Language::of(self.type_name)?;
        match after {
            Some(after) => language.section(self.after.text(), after),
            None => language.section(self.before.text(), before),
        }
    }
}

/// Draws what stands above the changes of a pair of texts: which side is which, and how much differs.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_heading(view: &FileView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    heading::write_file_heading(view, look, out)?;
    account::write_account(&view.comparison.account, !view.comparison.has_muted(), look, out)
}

/// Draws one change of a pair of texts, by its index.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_change(view: &FileView<'_>, change: usize, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    flow::draw_places(view, Some(change), look, &mut *rows(view, look), out)
}

/// The layout that a look asks for.
fn rows<'r>(view: &FileView<'_>, look: &'r Look) -> Box<dyn flow::Rows + 'r> {
    match look.layout {
        Layout::Stacked => Box::new(stacked::Stacked::new(view, look)),
        Layout::Beside => Box::new(beside::Beside::new(view, look)),
        Layout::Inline => Box::new(inline::Inline::new(view, look)),
    }
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
    flow::draw(view, look, &mut *rows(view, look), out)?;
    if look.legend {
        writeln!(out)?;
        heading::write_legend(view, look, out)?;
    }
    Ok(())
}

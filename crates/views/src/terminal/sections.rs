//! Which sections of a file differ, a line each.

use std::io::{self, Write};

use tideline_core::internal::kinds::text::sections::{SectionChange, SectionChanges};
use tideline_core::internal::model::Form;
use unicode_width::UnicodeWidthStr;

use super::heading::write_file_heading;
use super::look::Look;
use super::palette::TextRole;
use crate::marks::Marks;
use crate::shown::shown_name;
use crate::view::FileView;
use crate::wording::counted;
use crate::wording::section::{section_lines, section_path, section_says};

/// The name of a section takes at most so many columns.
const WIDEST: usize = 64;

/// Draws the heading of a file, and a line for each section that differs.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_sections(view: &FileView<'_>, found: &SectionChanges, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_file_heading(view, look, out)?;
    let name = |change: &SectionChange| shown_name(&section_path(&change.path, look.plain), look.plain);
    let names = found.sections.iter().map(|change| name(change).width().min(WIDEST));
    let (width, says) =
        (names.max().unwrap_or(0), found.sections.iter().map(|change| section_says(change).width()).max());
    for change in &found.sections {
        let (mark, role) = mark_of(change.form, look);
        let (name, what) = (name(change), section_says(change));
        write!(out, "  ")?;
        look.palette().write(role, mark, out)?;
        write!(out, " {name}{}", " ".repeat(width.saturating_sub(name.width())))?;
        write!(out, "    {what}{}    ", " ".repeat(says.unwrap_or(0).saturating_sub(what.width())))?;
        look.palette().write(TextRole::Faint, &section_lines(change, Marks::of(look.plain).to), out)?;
        writeln!(out)?;
    }
    if found.outside > 0 {
        let outside = format!("    {} in no section", counted(found.outside, "change"));
        look.palette().write(TextRole::Faint, &outside, out)?;
        writeln!(out)?;
    }
    Ok(())
}

fn mark_of(form: Form, look: &Look) -> (&'static str, TextRole) {
    let marks = Marks::of(look.plain);
    match form {
        Form::Gone => (marks.gone, TextRole::Gone),
        Form::New => (marks.new, TextRole::New),
        Form::Edited => (marks.edited, TextRole::Strong),
        Form::Moved => (marks.moved, TextRole::Moved),
    }
}

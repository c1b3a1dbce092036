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
use crate::wording::plural;
use crate::wording::section::{section_lines, section_path, section_says};

/// The name of a section has at least so many columns.
const LEAST: usize = 40;

/// Draws the heading of a file, and a line for each section that differs.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_sections(view: &FileView<'_>, found: &SectionChanges, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_file_heading(view, look, out)?;
    let name = |change: &SectionChange| shown_name(&section_path(&change.path, look.plain), look.plain);
    let lines = |change: &SectionChange| section_lines(change, Marks::of(look.plain).to);
    let widest = |width: &dyn Fn(&SectionChange) -> usize| found.sections.iter().map(width).max().unwrap_or(0);
    let says = widest(&|change| section_says(change).width());
    let taken = 4 + 4 + says + 4 + widest(&|change| lines(change).width());
    let room = look.width.saturating_sub(taken).max(LEAST);
    let width = widest(&|change| Some(name(change).width()).filter(|width| *width <= room).unwrap_or(0));
    for change in &found.sections {
        let (mark, role) = mark_of(change.form, look);
        let (name, what) = (name(change), section_says(change));
        write!(out, "  ")?;
        look.palette().write(role, mark, out)?;
        match width.checked_sub(name.width()) {
            Some(gap) => write!(out, " {name}{}", " ".repeat(gap))?,
            // What follows a long name stands on a line of its own, in its column.
            None => write!(out, " {name}\n{}", " ".repeat(width + 4))?,
        }
        write!(out, "    {what}{}    ", " ".repeat(says.saturating_sub(what.width())))?;
        look.palette().write(TextRole::Faint, &lines(change), out)?;
        writeln!(out)?;
    }
    if found.outside > 0 {
        let outside = format!("    {} in no section", plural(found.outside, "change"));
        look.palette().write(TextRole::Faint, &outside, out)?;
        writeln!(out)?;
    }
    Ok(())
}

fn mark_of(form: Form, look: &Look) -> (&'static str, TextRole) {
    let role = match form {
        Form::Gone => TextRole::Gone,
        Form::New => TextRole::New,
        Form::Edited => TextRole::Strong,
        Form::Moved => TextRole::Moved,
    };
    (Marks::of(look.plain).of_form(form), role)
}

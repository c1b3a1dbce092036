//! Headings: of a file, and of each change in it; and the legend.

use std::io::{self, Write};

use tideline_core::internal::kinds::text::causes;
use tideline_core::internal::model::{Form, Place, Weight};
use unicode_width::UnicodeWidthStr;

use super::look::{Layout, Look};
use super::palette::{Palette, TextRole};
use super::strip::write_strip;
use crate::groups::as_one;
use crate::marks::Marks;
use crate::shown::shown_name;
use crate::view::{BothSections, FileView, Labels};
use crate::wording::change::{changes_in_words, moved_blocks, where_it_lies};
use crate::wording::section::{section_in_words, section_relation};

/// Writes the heading of a file: its name, the sides, how many changes, and the strip.
pub(super) fn write_file_heading(view: &FileView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let mut tail = changes_in_words(view.comparison.extent());
    if let Some(note) = view.note {
        tail = format!("{tail}, {}", shown_name(note, look.plain));
    }
    let used = write_names(view.name, view.labels, look, out)? + tail.width();
    write!(out, "{tail}")?;
    write_strip(view, look.palette(), look.plain, look.width.saturating_sub(used + 4), out)?;
    writeln!(out)
}

/// Writes the name and the labels with their marks, and says how many columns that took.
pub(super) fn write_names(name: &str, labels: &Labels, look: &Look, out: &mut dyn Write) -> io::Result<usize> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let name = shown_name(name, look.plain);
    let label = |label: &str, mark: &str| format!("{} {mark}", shown_name(label, look.plain));
    let (before, after) = (label(&labels.before, marks.gone), label(&labels.after, marks.new));
    let mut used = before.width() + after.width() + 6;
    if !name.is_empty() {
        used += name.width() + 4;
        palette.write(TextRole::Strong, &name, out)?;
        write!(out, "    ")?;
    }
    palette.write(TextRole::Gone, &before, out)?;
    write!(out, "  ")?;
    palette.write(TextRole::New, &after, out)?;
    write!(out, "    ")?;
    Ok(used)
}

/// Writes an empty line and the heading of a change at one of its places, or of those from it to another that stand close behind it.
pub(super) fn write_change_heading(
    view: &FileView<'_>,
    (place, last, sections): (&Place, &Place, &BothSections<'_>),
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let change = &view.comparison.changes[place.change];
    let of = view.comparison.changes.len();
    write!(out, "\n  ")?;
    let role = if change.weight == Weight::Muted { TextRole::Faint } else { TextRole::Strong };
    let end = &view.comparison.changes[last.change];
    let (numbers, lies) = if end.number == change.number {
        (format!("change {}", change.number), where_it_lies(view, change, place, marks.to))
    } else {
        let numbers = format!("changes {}{}{}", change.number, marks.to, end.number);
        (numbers, where_it_lies(view, &as_one(change, end), place, marks.to))
    };
    palette.write(role, &format!("{numbers} of {of}"), out)?;
    palette.write(TextRole::Faint, &format!(" {} {lies}", marks.dot), out)?;
    if change.weight == Weight::Muted {
        let rules = causes((view.before, &change.before), (view.after, &change.after));
        let rules = shown_name(&rules.join(", "), look.plain);
        palette.write(TextRole::Faint, &format!(" {} muted: {rules}", marks.dot), out)?;
    }
    if let Some(section) = sections.of(&place.before, &place.after) {
        palette.write(TextRole::Faint, &format!(" {} {} ", marks.dot, section_relation(&section)), out)?;
        write!(out, "{}", shown_name(&section_in_words(&section, look.plain), look.plain))?;
    }
    writeln!(out)?;
    for block in moved_blocks(view.comparison, place, look.plain, marks.to) {
        palette.write(TextRole::Moved, &format!("  {} {block}", marks.moved), out)?;
        writeln!(out)?;
    }
    Ok(())
}

/// Writes the line that says what the marks mean.
pub(super) fn write_legend(
    view: &FileView<'_>,
    has_indented: bool,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let name = |label: &str| shown_name(label, look.plain);
    let has = |form: Form| view.comparison.changes.iter().any(|change| change.form == form);
    write!(out, "  ")?;
    palette.write(TextRole::Gone, marks.gone, out)?;
    palette.write(TextRole::Faint, &format!(" gone: {} alone has it   ", name(&view.labels.before)), out)?;
    palette.write(TextRole::New, marks.new, out)?;
    palette.write(TextRole::Faint, &format!(" new: {} alone has it   ", name(&view.labels.after)), out)?;
    if look.layout == Layout::Inline && has(Form::Edited) {
        palette.write(TextRole::Strong, marks.edited, out)?;
        palette.write(TextRole::Faint, " edited   ", out)?;
    }
    if has(Form::Moved) || !view.comparison.moved_blocks.is_empty() {
        palette.write(TextRole::Moved, marks.moved, out)?;
        palette.write(TextRole::Faint, " moved   ", out)?;
    }
    if has_indented {
        palette.write(TextRole::Strong, marks.indented, out)?;
        palette.write(TextRole::Faint, " indented differently   ", out)?;
    }
    if view.comparison.shows_muted() {
        palette.write(TextRole::Faint, &format!("{} muted: does not count   ", marks.muted), out)?;
    }
    write_word_legend(palette, look, out)?;
    writeln!(out)
}

fn write_word_legend(palette: Palette, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    if palette.coloured() {
        palette.write(TextRole::GoneWord, "word", out)?;
        write!(out, " ")?;
        palette.write(TextRole::NewWord, "word", out)?;
        palette.write(TextRole::Faint, " what changed in a line", out)
    } else if look.layout == Layout::Inline {
        let (open, close) = if look.plain { ("<", ">") } else { ("‹", "›") };
        write!(out, "{open}{close} what changed in a line")
    } else {
        write!(out, "^ what changed in the line above")
    }
}

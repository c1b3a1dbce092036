//! Headings: of a file, and of each change in it; and the legend.

use std::io::{self, Write};
use std::ops::Range;

use tideline_core::kinds::text::causes;
use tideline_core::model::{Change, Form, Place, TextComparison, Weight};
use unicode_width::UnicodeWidthStr;

use super::FileView;
use super::look::{Layout, Look};
use super::marks::Marks;
use super::palette::{Ink, Palette};
use super::shown::shown_name;
use super::strip::write_strip;

/// What the two sides are called in every heading.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Labels {
    /// The side before.
    pub before: String,
    /// The side after.
    pub after: String,
}

/// How many changes there are, by weight.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Counts {
    /// Changes that count.
    pub counted: usize,
    /// Changes that do not.
    pub muted: usize,
    /// Lines that differ and count: of each change, those of its longer side.
    pub lines: usize,
}

impl Counts {
    /// Counts the changes of a comparison.
    pub fn of(comparison: &TextComparison) -> Self {
        let muted = comparison.of(Weight::Muted).count();
        let lines = comparison.differing_lines();
        Self { counted: comparison.changes.len() - muted, muted, lines }
    }
}

impl std::fmt::Display for Counts {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let plural = if self.counted == 1 { "" } else { "s" };
        write!(f, "{} change{plural}", grouped(self.counted))?;
        if self.muted > 0 {
            write!(f, " + {} muted", grouped(self.muted))?;
        }
        Ok(())
    }
}

/// A number of things in words; more than one of them, or none, with an `s`.
pub fn plural(count: usize, thing: &str) -> String {
    format!("{count} {thing}{}", if count == 1 { "" } else { "s" })
}

/// A number of things, with its thousands set apart.
pub(super) fn counted(count: usize, thing: &str) -> String {
    format!("{} {thing}{}", grouped(count), if count == 1 { "" } else { "s" })
}

/// A number with its thousands set apart.
pub(super) fn grouped(number: usize) -> String {
    let digits = number.to_string();
    let mut text = String::new();
    for (at, digit) in digits.chars().enumerate() {
        if at > 0 && (digits.len() - at).is_multiple_of(3) {
            text.push(',');
        }
        text.push(digit);
    }
    text
}

/// Writes the heading of a file: its name, the sides, how many changes, and the strip.
pub(super) fn write_file_heading(view: &FileView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let mut tail = Counts::of(view.comparison).to_string();
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
        palette.write(Ink::Strong, &name, out)?;
        write!(out, "    ")?;
    }
    palette.write(Ink::Gone, &before, out)?;
    write!(out, "  ")?;
    palette.write(Ink::New, &after, out)?;
    write!(out, "    ")?;
    Ok(used)
}

/// Writes the heading of two files that are not text, and where they first differ.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_bytes_view(
    name: &str,
    labels: &Labels,
    (before, after): (&[u8], &[u8]),
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    write_names(name, labels, look, out)?;
    writeln!(out, "not text")?;
    let at = tideline_core::text::bytes::common_prefix(before, after);
    let size = |bytes: &[u8]| grouped(bytes.len());
    let byte = |bytes: &[u8]| bytes.get(at).map_or_else(|| "the end".to_owned(), |byte| format!("{byte:#04x}"));
    if before.len() == after.len() {
        writeln!(out, "  {} bytes on both sides", size(before))?;
    } else {
        writeln!(out, "  {} bytes, now {}", size(before), size(after))?;
    }
    writeln!(out, "  first difference at offset {} ({at:#x}): {}, now {}", grouped(at), byte(before), byte(after))
}

/// Writes the heading of a change at one of its places.
pub(super) fn write_change_heading(
    view: &FileView<'_>,
    place: &Place,
    look: &Look,
    out: &mut dyn Write,
) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let change = &view.comparison.changes[place.change];
    let of = view.comparison.changes.len();
    write!(out, "  ")?;
    let ink = if change.weight == Weight::Muted { Ink::Faint } else { Ink::Strong };
    palette.write(ink, &format!("change {} of {of}", change.number), out)?;
    palette.write(Ink::Faint, &format!(" {} {}", marks.dot, where_it_lies(change, place, marks)), out)?;
    if change.weight == Weight::Muted {
        let rules = causes((view.before, &change.before), (view.after, &change.after));
        let rules = shown_name(&rules.join(", "), look.plain);
        palette.write(Ink::Faint, &format!(" {} muted: {rules}", marks.dot), out)?;
    }
    let after = (!place.after.is_empty()).then_some(place.after.bytes.start);
    if let Some(section) = view.section(place.before.bytes.start, after) {
        palette.write(Ink::Faint, &format!(" {} in ", marks.dot), out)?;
        write!(out, "{}", shown_name(&section, look.plain))?;
    }
    writeln!(out)
}

/// Where a change lies, in words.
fn where_it_lies(change: &Change, place: &Place, marks: Marks) -> String {
    let (before, after) = (lines(&change.before.lines, marks), lines(&change.after.lines, marks));
    match change.form {
        Form::Gone => format!("{before} gone"),
        Form::New => format!("{after} new"),
        Form::Edited if change.before.lines == change.after.lines => before,
        Form::Edited => format!("{before}, now {after}"),
        Form::Moved if place.after.is_empty() => format!("{before} moved to {after}"),
        Form::Moved => format!("{after} moved here from {before}"),
    }
}

fn lines(range: &Range<usize>, marks: Marks) -> String {
    if range.len() == 1 {
        format!("line {}", range.start + 1)
    } else {
        format!("lines {}{}{}", range.start + 1, marks.to, range.end)
    }
}

/// Writes the line that says what the marks mean.
pub(super) fn write_legend(view: &FileView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let palette = look.palette();
    let marks = Marks::of(look.plain);
    let name = |label: &str| shown_name(label, look.plain);
    let has = |form: Form| view.comparison.changes.iter().any(|change| change.form == form);
    write!(out, "  ")?;
    palette.write(Ink::Gone, marks.gone, out)?;
    palette.write(Ink::Faint, &format!(" gone: only in {}   ", name(&view.labels.before)), out)?;
    palette.write(Ink::New, marks.new, out)?;
    palette.write(Ink::Faint, &format!(" new: only in {}   ", name(&view.labels.after)), out)?;
    if look.layout == Layout::Inline && has(Form::Edited) {
        palette.write(Ink::Strong, marks.edited, out)?;
        palette.write(Ink::Faint, " edited   ", out)?;
    }
    if has(Form::Moved) {
        palette.write(Ink::Moved, marks.moved, out)?;
        palette.write(Ink::Faint, " moved   ", out)?;
    }
    if view.comparison.has_muted() {
        palette.write(Ink::Faint, &format!("{} muted: does not count   ", marks.muted), out)?;
    }
    write_word_legend(palette, look, out)?;
    writeln!(out)
}

fn write_word_legend(palette: Palette, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    if palette.coloured() {
        palette.write(Ink::GoneWord, "word", out)?;
        write!(out, " ")?;
        palette.write(Ink::NewWord, "word", out)?;
        palette.write(Ink::Faint, " what changed in a line", out)
    } else if look.layout == Layout::Inline {
        let (open, close) = if look.plain { ("<", ">") } else { ("‹", "›") };
        write!(out, "{open}{close} what changed in a line")
    } else {
        write!(out, "^ what changed in the line above")
    }
}

#[cfg(test)]
mod tests {
    use super::grouped;

    #[test]
    fn thousands_are_set_apart() {
        assert_eq!([0, 999, 1000, 1_234_567].map(grouped), ["0", "999", "1,000", "1,234,567"]);
    }
}

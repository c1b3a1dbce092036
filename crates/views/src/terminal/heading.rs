//! Headings: of a file, and of each change in it.

use std::io::{self, Write};
use std::ops::Range;

use tideline_core::model::{Change, Form, TextComparison, Weight};

use super::FileView;
use super::look::Look;
use super::marks::Marks;
use super::palette::{Ink, Palette};
use super::shown::shown_name;

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
}

impl Counts {
    /// Counts the changes of a comparison.
    pub fn of(comparison: &TextComparison) -> Self {
        let muted = comparison.changes.iter().filter(|change| change.weight == Weight::Muted).count();
        Self { counted: comparison.changes.len() - muted, muted }
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

/// Writes the heading of a file.
pub(super) fn write_file_heading(view: &FileView<'_>, look: &Look, out: &mut impl Write) -> io::Result<()> {
    let palette = Palette::new(look.colours, look.theme);
    let marks = Marks::of(look.plain);
    if !view.name.is_empty() {
        palette.write(Ink::Strong, &shown_name(view.name, look.plain), out)?;
        write!(out, "    ")?;
    }
    let label = |label: &str, mark: &str| format!("{} {mark}", shown_name(label, look.plain));
    palette.write(Ink::Gone, &label(&view.labels.before, marks.gone), out)?;
    write!(out, "  ")?;
    palette.write(Ink::New, &label(&view.labels.after, marks.new), out)?;
    writeln!(out, "    {}", Counts::of(view.comparison))
}

/// Writes the heading of a change.
pub(super) fn write_change_heading(change: &Change, of: usize, look: &Look, out: &mut impl Write) -> io::Result<()> {
    let palette = Palette::new(look.colours, look.theme);
    let marks = Marks::of(look.plain);
    write!(out, "  ")?;
    palette.write(Ink::Strong, &format!("change {} of {of}", change.number), out)?;
    palette.write(Ink::Faint, &format!(" {} {}", marks.dot, where_it_lies(change, marks)), out)?;
    writeln!(out)
}

/// Where a change lies, in words.
fn where_it_lies(change: &Change, marks: Marks) -> String {
    let (before, after) = (&change.before.lines, &change.after.lines);
    match change.form {
        Form::Gone => format!("{} gone", lines(before, marks)),
        Form::New => format!("{} new", lines(after, marks)),
        Form::Edited if before == after => lines(before, marks),
        Form::Edited | Form::Moved => format!("{}, now {}", lines(before, marks), lines(after, marks)),
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
pub(super) fn write_legend(labels: &Labels, look: &Look, out: &mut impl Write) -> io::Result<()> {
    let palette = Palette::new(look.colours, look.theme);
    let marks = Marks::of(look.plain);
    let name = |label: &str| shown_name(label, look.plain);
    write!(out, "  ")?;
    palette.write(Ink::Gone, marks.gone, out)?;
    palette.write(Ink::Faint, &format!(" gone: only in {}   ", name(&labels.before)), out)?;
    palette.write(Ink::New, marks.new, out)?;
    palette.write(Ink::Faint, &format!(" new: only in {}   ", name(&labels.after)), out)?;
    if palette.coloured() {
        palette.write(Ink::GoneWord, "word", out)?;
        write!(out, " ")?;
        palette.write(Ink::NewWord, "word", out)?;
        palette.write(Ink::Faint, " what changed in a line", out)?;
    } else {
        write!(out, "^ what changed in the line above")?;
    }
    writeln!(out)
}

#[cfg(test)]
mod tests {
    use super::grouped;

    #[test]
    fn thousands_are_set_apart() {
        assert_eq!([0, 999, 1000, 1_234_567].map(grouped), ["0", "999", "1,000", "1,234,567"]);
    }
}

//! One row of a stacked view: its mark, the line numbers of both sides, the text, and the marker line below it.

use std::io::{self, Write};

use super::look::Look;
use super::marks::Marks;
use super::palette::{Ink, Palette};
use super::shown::Shown;

/// Which side a row belongs to, with its line numbers (from 1).
#[derive(Clone, Copy, Debug)]
pub(super) enum Side {
    Both { before: usize, after: usize },
    Before(usize),
    After(usize),
}

/// Writes rows whose line numbers line up.
#[derive(Clone, Copy, Debug)]
pub(super) struct Rows {
    palette: Palette,
    marks: Marks,
    plain: bool,
    digits: usize,
}

impl Rows {
    /// Rows for line numbers up to `largest`.
    pub(super) fn new(look: &Look, largest: usize) -> Self {
        Self {
            palette: Palette::new(look.colours, look.theme),
            marks: Marks::of(look.plain),
            plain: look.plain,
            digits: largest.to_string().len().max(2),
        }
    }

    /// Writes a row, and where there is no colour, the line that marks its changed columns.
    pub(super) fn write(&self, side: Side, shown: &Shown, out: &mut impl Write) -> io::Result<()> {
        let digits = self.digits;
        let blank = " ".repeat(digits);
        let (mark, mark_ink, line_ink, word_ink) = match side {
            Side::Both { .. } => (" ", Ink::Text, Ink::Text, Ink::Text),
            Side::Before(_) => (self.marks.gone, Ink::Gone, Ink::GoneLine, Ink::GoneWord),
            Side::After(_) => (self.marks.new, Ink::New, Ink::NewLine, Ink::NewWord),
        };
        let numbers = match side {
            Side::Both { before, after } => format!("{before:digits$}  {after:digits$}"),
            Side::Before(before) => format!("{before:digits$}  {blank}"),
            Side::After(after) => format!("{blank}  {after:digits$}"),
        };
        write!(out, " ")?;
        self.palette.write(mark_ink, mark, out)?;
        write!(out, " ")?;
        self.palette.write(Ink::Faint, &numbers, out)?;
        if !shown.pieces.is_empty() || shown.unended {
            write!(out, "    ")?;
        }
        for piece in &shown.pieces {
            let ink = match (piece.changed, piece.sign) {
                (true, _) => word_ink,
                (false, true) => Ink::Faint,
                (false, false) => line_ink,
            };
            self.palette.write(ink, &piece.text, out)?;
        }
        if shown.unended {
            let note = if self.plain { " <no line end>" } else { " ‹no line end›" };
            self.palette.write(Ink::Faint, note, out)?;
        }
        writeln!(out)?;
        if self.palette.coloured() || shown.changed.is_empty() {
            return Ok(());
        }
        self.write_markers(shown, out)
    }

    fn write_markers(&self, shown: &Shown, out: &mut impl Write) -> io::Result<()> {
        let mut line = " ".repeat(3 + 2 * self.digits + 2 + 4);
        let mut column = 0;
        for range in &shown.changed {
            line.extend(std::iter::repeat_n(' ', range.start - column));
            line.extend(std::iter::repeat_n('^', range.len()));
            column = range.end;
        }
        writeln!(out, "{line}")
    }
}

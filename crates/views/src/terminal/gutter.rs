//! One row of a single column: its mark, the line numbers of both sides, the text, and the marker line below it.

use std::cell::Cell;
use std::io::{self, Write};

use tideline_core::internal::model::Segment;

use super::look::Look;
use super::palette::{Palette, TextRole};
use crate::marks::Marks;
use crate::rows::{Line, LineChange, largest_number};
use crate::shown::{DisplayLine, Medium, Role};
use crate::view::{Context, FileView};

/// Lines wider than this are cut around their changes, unless everything is shown.
pub(super) const WIDEST: usize = 2000;

/// Which side a row belongs to, with its line numbers (from 1).
#[derive(Clone, Copy, Debug)]
pub(super) enum Side {
    Both {
        before: usize,
        after: usize,
    },
    Before {
        number: usize,
        manner: LineChange,
    },
    After {
        number: usize,
        manner: LineChange,
    },
    /// A line of one side that is shown as equal text.
    OnlyBefore(usize),
    OnlyAfter(usize),
    /// Two lines that differ in their indentation alone.
    Indented {
        before: usize,
        after: usize,
    },
    /// Two lines drawn as one.
    Merged {
        before: usize,
        after: usize,
        manner: LineChange,
    },
}

/// Writes rows whose line numbers line up.
#[derive(Clone, Debug)]
pub(super) struct Gutter {
    palette: Palette,
    marks: Marks,
    plain: bool,
    digits: usize,
    /// Lines wider than this are cut.
    widest: usize,
    margin: Margin,
}

/// The margin left of the rows, for the numbers of changes that stand under one heading. There is none where each has its own.
#[derive(Clone, Debug, Default)]
pub(super) struct Margin {
    /// Its columns.
    pub(super) width: usize,
    next: Cell<Option<usize>>,
}

impl Margin {
    /// As wide as the changes of a view ask for, if any of those that are drawn stand under one heading.
    pub(super) fn of(view: &FileView<'_>, is_grouped: bool) -> Self {
        let largest = view.comparison.changes.len();
        Self { width: if is_grouped { largest.to_string().len() + 1 } else { 0 }, next: Cell::new(None) }
    }

    /// Puts a number into the margin of the next row.
    pub(super) fn set_number(&mut self, number: usize) {
        self.next.set(Some(number));
    }

    /// The margin of the next row.
    pub(super) fn take(&self) -> String {
        let width = self.width;
        match self.next.take() {
            Some(number) if width > 0 => format!("{number:>width$}"),
            _ => " ".repeat(width),
        }
    }
}

impl Gutter {
    /// Rows for line numbers up to `largest`.
    pub(super) fn new(look: &Look, largest: usize) -> Self {
        Self {
            margin: Margin::default(),
            palette: look.palette(),
            marks: Marks::of(look.plain),
            plain: look.plain,
            digits: largest.to_string().len().max(2),
            widest: if look.context == Context::All { usize::MAX } else { WIDEST },
        }
    }

    /// The same for the rows of a view, with a margin if changes stand under one heading.
    pub(super) fn of(view: &FileView<'_>, look: &Look, is_grouped: bool) -> Self {
        Self { margin: Margin::of(view, is_grouped), ..Self::new(look, largest_number(view, look.context)) }
    }

    /// Puts a number into the margin of the next row.
    pub(super) fn set_number(&mut self, number: usize) {
        self.margin.set_number(number);
    }

    pub(super) fn coloured(&self) -> bool {
        self.palette.coloured()
    }

    /// A line as it is shown in these pieces.
    pub(super) fn shown_parts(&self, line: &Line<'_>, parts: &[Segment]) -> DisplayLine {
        line.shown_parts(parts, Medium::of(self.plain))
    }

    /// A line as it is shown.
    pub(super) fn shown(&self, line: &Line<'_>) -> DisplayLine {
        line.shown(Medium::of(self.plain), self.widest)
    }

    /// What encloses a piece that is gone or new where there is no colour to tell.
    pub(super) fn brackets(&self, role: Role) -> (String, String) {
        let mark = match role {
            Role::Gone => self.marks.gone,
            Role::Muted => self.marks.muted,
            _ => self.marks.new,
        };
        let (open, close) = if self.plain { ("<", ">") } else { ("‹", "›") };
        (format!("{mark}{open}"), close.to_owned())
    }

    /// Writes a line that both sides have.
    pub(super) fn write_equal(
        &self,
        before: Option<&Line<'_>>,
        after: Option<&Line<'_>>,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        match (before, after) {
            (Some(before), Some(after)) => {
                self.write_line(Side::Both { before: before.number, after: after.number }, after, out)
            }
            (Some(line), None) => self.write_line(Side::OnlyBefore(line.number), line, out),
            (None, Some(line)) => self.write_line(Side::OnlyAfter(line.number), line, out),
            (None, None) => Ok(()),
        }
    }

    /// Writes a line that only before has, or that went elsewhere, and the parts of it that differ.
    pub(super) fn write_gone(&self, line: &Line<'_>, manner: LineChange, out: &mut dyn Write) -> io::Result<()> {
        self.write_line(Side::Before { number: line.number, manner }, line, out)
    }

    /// Writes a line that only after has, or that came from elsewhere, and the parts of it that differ.
    pub(super) fn write_new(&self, line: &Line<'_>, manner: LineChange, out: &mut dyn Write) -> io::Result<()> {
        self.write_line(Side::After { number: line.number, manner }, line, out)
    }

    fn write_line(&self, side: Side, line: &Line<'_>, out: &mut dyn Write) -> io::Result<()> {
        // Most lines need no closer look, and they may be millions.
        let Some(text) = line.usual_text(self.widest) else { return self.write(side, self.shown(line), out) };
        let (mark, mark_role, role) = self.look_of(side);
        let mut row = Vec::with_capacity(text.len() + 2 * self.digits + 64);
        self.write_head(side, (mark, mark_role), text.is_empty(), &mut row)?;
        if !text.is_empty() {
            self.palette.write_bytes(TextRole::of_line(role), text, &mut row)?;
        }
        row.push(b'\n');
        out.write_all(&row)
    }

    /// The mark of a row, its text role, and the role of its text.
    fn look_of(&self, side: Side) -> (&'static str, TextRole, Role) {
        match side {
            Side::Both { .. } | Side::OnlyBefore(_) | Side::OnlyAfter(_) => (" ", TextRole::Text, Role::Equal),
            Side::Before { manner: LineChange::Counted, .. } => (self.marks.gone, TextRole::Gone, Role::Gone),
            Side::After { manner: LineChange::Counted, .. } => (self.marks.new, TextRole::New, Role::New),
            Side::Before { manner, .. } | Side::After { manner, .. } => of_manner(self.marks, manner),
            Side::Indented { .. } => (self.marks.indented, TextRole::Strong, Role::Equal),
            Side::Merged { manner: LineChange::Muted, .. } => of_manner(self.marks, LineChange::Muted),
            Side::Merged { .. } => (self.marks.edited, TextRole::Strong, Role::Equal),
        }
    }

    /// Writes what stands before the text of a row.
    fn write_head(
        &self,
        side: Side,
        (mark, role): (&str, TextRole),
        bare: bool,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        if self.margin.width > 0 {
            self.palette.write(TextRole::Strong, &self.margin.take(), out)?;
        }
        out.write_all(b" ")?;
        self.palette.write(role, mark, out)?;
        out.write_all(b" ")?;
        self.write_numbers(side, bare, out)
    }

    /// Writes a row, and where there is no colour, the line that marks its changed columns.
    pub(super) fn write(&self, side: Side, mut shown: DisplayLine, out: &mut dyn Write) -> io::Result<()> {
        let (mark, mark_role, role) = self.look_of(side);
        let merged = matches!(side, Side::Merged { .. } | Side::Indented { .. });
        shown = if merged { shown } else { shown.in_role(role) };
        shown.add_note(self.plain);
        let shown = shown.condensed(self.widest);
        self.write_head(side, (mark, mark_role), shown.pieces.is_empty(), out)?;
        self.palette.write_shown(&shown, out)?;
        out.write_all(b"\n")?;
        // A line that does not count as a whole needs no marks.
        let marked = matches!(
            side,
            Side::Before { manner: LineChange::Counted | LineChange::Moved, .. }
                | Side::After { manner: LineChange::Counted | LineChange::Moved, .. }
        );
        if self.palette.coloured() || !shown.is_marked() || !marked {
            return Ok(());
        }
        writeln!(out, "{}{}", " ".repeat(self.margin.width + 3 + 2 * self.digits + 2 + 4), shown.markers())
    }

    /// Writes the numbers of both sides, and the gap before the text unless there is none.
    fn write_numbers(&self, side: Side, bare: bool, out: &mut dyn Write) -> io::Result<()> {
        let (before, after) = match side {
            Side::Both { before, after } | Side::Merged { before, after, .. } | Side::Indented { before, after } => {
                (Some(before), Some(after))
            }
            Side::Before { number, .. } | Side::OnlyBefore(number) => (Some(number), None),
            Side::After { number, .. } | Side::OnlyAfter(number) => (None, Some(number)),
        };
        let mut numbers = Numbers::default();
        numbers.push(before, self.digits);
        if after.is_some() || !bare {
            numbers.blanks(2);
            numbers.push(after, self.digits);
        }
        self.palette.write_bytes(TextRole::Faint, numbers.text(), out)?;
        out.write_all(if bare { b"" } else { b"    " })
    }
}

/// The numbers of a row. Rows are many: they are put together without the machinery of formatting.
struct Numbers {
    bytes: [u8; Self::ROOM],
    length: usize,
}

impl Numbers {
    /// As many digits as the largest number of either side has, and the blanks between them.
    const ROOM: usize = 48;

    fn text(&self) -> &[u8] {
        &self.bytes[..self.length]
    }

    fn blanks(&mut self, count: usize) {
        self.length += count;
    }

    /// Adds a number, or the room for one.
    fn push(&mut self, number: Option<usize>, digits: usize) {
        let needed = number.map_or(0, |number| number.checked_ilog10().unwrap_or_default() as usize + 1);
        self.length += digits.max(needed);
        let mut left = number.unwrap_or_default();
        for at in (self.length - needed..self.length).rev() {
            self.bytes[at] = b'0' + (left % 10) as u8;
            left /= 10;
        }
    }
}

impl Default for Numbers {
    fn default() -> Self {
        Self { bytes: [b' '; Self::ROOM], length: 0 }
    }
}

/// The mark of a line that counts nowhere or stands elsewhere, its text role, and the role of its text.
pub(super) fn of_manner(marks: Marks, manner: LineChange) -> (&'static str, TextRole, Role) {
    match manner {
        LineChange::Muted => (marks.muted, TextRole::Faint, Role::Muted),
        LineChange::Moved | LineChange::Counted | LineChange::Indented => (marks.moved, TextRole::Moved, Role::Moved),
    }
}

//! The layout beside each other: before on the left, after on the right. Long lines wrap; very long ones are cut around
//! their changes.

use std::io::{self, Write};

use unicode_width::UnicodeWidthStr;

use super::gutter::Margin;
use super::layout::Rows;
use super::look::Look;
use super::palette::{Palette, TextRole};
use crate::marks::Marks;
use crate::rows::{FileRow, Line, LineChange, largest_number};
use crate::shown::{DisplayLine, Medium, Role, shown_name};
use crate::view::{Context, FileView};

/// A line takes at most so many rows; a longer one is cut around its changes.
const MOST_ROWS: usize = 8;
/// A half is never narrower than this, whatever the terminal says.
const NARROWEST: usize = 12;

/// Draws two columns.
pub(super) struct Beside {
    palette: Palette,
    marks: Marks,
    plain: bool,
    digits: usize,
    /// Columns for the text of a half.
    room: usize,
    /// Columns of a line that are shown.
    widest: usize,
    titles: [String; 2],
    margin: Margin,
    has_indented: bool,
}

/// One half of a row.
struct Half {
    mark: &'static str,
    ink: TextRole,
    number: Option<usize>,
    rows: Vec<DisplayLine>,
}

impl Beside {
    pub(super) fn new(view: &FileView<'_>, look: &Look, is_grouped: bool) -> Self {
        let digits = largest_number(view, look.context).to_string().len().max(2);
        let margin = Margin::of(view, is_grouped);
        let half = look.width.saturating_sub(3 + margin.width) / 2;
        let marks = Marks::of(look.plain);
        let name = |label: &str, mark: &str| format!("{} {mark}", shown_name(label, look.plain));
        let room = half.saturating_sub(3 + digits + 2).max(NARROWEST);
        Self {
            palette: look.palette(),
            marks,
            plain: look.plain,
            digits,
            room,
            widest: if look.context == Context::All { usize::MAX } else { room * MOST_ROWS },
            margin,
            has_indented: false,
            titles: [name(&view.labels.before, marks.gone), name(&view.labels.after, marks.new)],
        }
    }

    fn half(&self, line: Option<&Line<'_>>, role: Role) -> Half {
        let Some(line) = line else {
            return Half { mark: " ", ink: TextRole::Text, number: None, rows: vec![DisplayLine::default()] };
        };
        let mut shown = line.shown(Medium::of(self.plain), self.widest);
        shown.add_note(self.plain);
        let shown = shown.in_role(role).condensed(self.widest);
        let (mark, ink) = match role {
            Role::Equal => (" ", TextRole::Text),
            Role::Gone => (self.marks.gone, TextRole::Gone),
            Role::New => (self.marks.new, TextRole::New),
            Role::Moved => (self.marks.moved, TextRole::Moved),
            Role::Muted => (self.marks.muted, TextRole::Faint),
        };
        Half { mark, ink, number: Some(line.number), rows: shown.wrapped(self.room) }
    }

    fn write(&self, left: &Half, right: &Half, out: &mut dyn Write) -> io::Result<()> {
        let nothing = DisplayLine::default();
        for row in 0..left.rows.len().max(right.rows.len()) {
            let (l, r) = (left.rows.get(row).unwrap_or(&nothing), right.rows.get(row).unwrap_or(&nothing));
            if self.margin.width > 0 {
                self.palette.write(TextRole::Strong, &self.margin.take(), out)?;
            }
            self.write_half(left, l, row == 0, true, out)?;
            self.palette.write(TextRole::Faint, if self.plain { " :" } else { " │" }, out)?;
            if !r.pieces.is_empty() || (row == 0 && right.number.is_some()) {
                write!(out, " ")?;
                self.write_half(right, r, row == 0, false, out)?;
            }
            writeln!(out)?;
            let counts = left.mark != self.marks.muted && right.mark != self.marks.muted;
            let marked = counts && (l.is_marked() || r.is_marked());
            if marked && !self.palette.coloured() && !half_is_indented(left, self.marks) {
                self.write_markers(l, r, out)?;
            }
        }
        Ok(())
    }

    fn write_half(
        &self,
        half: &Half,
        row: &DisplayLine,
        first: bool,
        pad: bool,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let digits = self.digits;
        write!(out, " ")?;
        self.palette.write(half.ink, if first { half.mark } else { " " }, out)?;
        let number = match half.number {
            Some(number) if first => format!(" {number:digits$}  "),
            _ => " ".repeat(digits + 3),
        };
        self.palette.write(TextRole::Faint, &number, out)?;
        self.palette.write_shown(row, out)?;
        if pad {
            write!(out, "{}", " ".repeat(self.room.saturating_sub(row.width)))?;
        }
        Ok(())
    }

    fn write_markers(&self, left: &DisplayLine, right: &DisplayLine, out: &mut dyn Write) -> io::Result<()> {
        let (indent, margin) = (" ".repeat(3 + self.digits + 2), " ".repeat(self.margin.width));
        let (left, right) = (left.markers(), right.markers());
        let gap = " ".repeat(self.room.saturating_sub(left.len()));
        let divider = if self.plain { " :" } else { " │" };
        writeln!(out, "{}", format!("{margin}{indent}{left}{gap}{divider} {indent}{right}").trim_end())
    }
}

/// Whether a half is of a line that is only indented differently, which its mark says.
fn half_is_indented(half: &Half, marks: Marks) -> bool {
    half.mark == marks.indented
}

/// The role of a line; `counted` is that of one that counts and stayed where it was.
fn role_of(manner: LineChange, counted: Role) -> Role {
    match manner {
        LineChange::Counted | LineChange::Indented => counted,
        LineChange::Moved => Role::Moved,
        LineChange::Muted => Role::Muted,
    }
}

impl Rows for Beside {
    fn set_number(&mut self, number: usize) {
        self.margin.set_number(number);
    }

    fn has_indented(&self) -> bool {
        self.has_indented
    }

    fn begin(&mut self, out: &mut dyn Write) -> io::Result<()> {
        let half = self.room + 3 + self.digits + 2;
        let [before, after] = &self.titles;
        writeln!(out)?;
        write!(out, "{} ", " ".repeat(self.margin.width))?;
        self.palette.write(TextRole::Gone, before, out)?;
        write!(out, "{}", " ".repeat((half + 3).saturating_sub(before.width() + 1)))?;
        write!(out, " ")?;
        self.palette.write(TextRole::New, after, out)?;
        writeln!(out)
    }

    fn row(&mut self, row: &FileRow<'_>, out: &mut dyn Write) -> io::Result<()> {
        let (left, right) = match row {
            FileRow::Equal(before, after) => {
                (self.half(before.as_ref(), Role::Equal), self.half(after.as_ref(), Role::Equal))
            }
            FileRow::Gone(line, change) => {
                (self.half(Some(line), role_of(*change, Role::Gone)), self.half(None, Role::Equal))
            }
            FileRow::New(line, change) => {
                (self.half(None, Role::Equal), self.half(Some(line), role_of(*change, Role::New)))
            }
            FileRow::Edited(before, after, LineChange::Indented) => {
                self.has_indented = true;
                let half = |line| Half {
                    mark: self.marks.indented,
                    ink: TextRole::Strong,
                    ..self.half(Some(line), Role::Equal)
                };
                (half(before), half(after))
            }
            FileRow::Edited(before, after, change) => (
                self.half(Some(before), role_of(*change, Role::Gone)),
                self.half(Some(after), role_of(*change, Role::New)),
            ),
        };
        self.write(&left, &right, out)
    }
}

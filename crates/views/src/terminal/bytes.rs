//! Bytes: offset, hexadecimal and text of each row, one side above the other or beside it.

use std::io::{self, Write};
use std::ops::Range;

use super::items::{is_chosen, write_heading, write_legend, write_not_shown};
use super::look::{Layout, Look};
use super::palette::TextRole;
use crate::hex::{HexCell, HexRow, hunks, letter, offset_digits, rows};
use crate::items::{BytesView, ItemView};
use crate::marks::Marks;
use crate::view::Context;
use crate::wording::{grouped, plural};

/// How many bytes a row may hold.
const WIDTHS: [usize; 3] = [16, 8, 4];
/// Equal rows around a change unless something else is said.
const USUAL_CONTEXT: usize = 1;

/// Draws two contents that are compared byte by byte.
pub(super) fn draw_bytes(view: &BytesView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    write_heading(view, look, out)?;
    let drawing = Drawing::new(view, look);
    let context = match look.neighbours {
        Some(rows) => rows,
        None if look.context == Context::All => usize::MAX,
        None => USUAL_CONTEXT,
    };
    let mut left = 0;
    for hunk in hunks(view, context, drawing.width) {
        let chosen = hunk.clone().any(|index| is_chosen(view.comparison.changes[index].number, look));
        if !chosen {
            left += hunk.len();
            continue;
        }
        drawing.heading(&hunk, out)?;
        for row in rows(view, hunk, (context, drawing.width), look.context == Context::All) {
            match row {
                HexRow::Bytes { before, after, cells } => drawing.row((before, after), &cells, out)?,
                HexRow::Cut(rows) => {
                    let note = format!("      {} not shown (--context all shows them)", plural(rows, "more row"));
                    look.palette().write(TextRole::Faint, &note, out)?;
                    writeln!(out)?;
                }
            }
        }
    }
    write_not_shown(left, look, out)?;
    if look.legend && view.len() > 0 {
        write_legend(view, look, out)?;
    }
    Ok(())
}

struct Drawing<'d> {
    view: &'d BytesView<'d>,
    look: &'d Look,
    marks: Marks,
    is_beside: bool,
    digits: usize,
    width: usize,
}

/// One side of a row.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Side {
    Before,
    After,
}

impl<'d> Drawing<'d> {
    fn new(view: &'d BytesView<'d>, look: &'d Look) -> Self {
        let is_beside = look.layout == Layout::Beside;
        let digits = offset_digits(view);
        let takes = |width: usize| {
            let bytes = 3 * width + width / 8 + 1 + width;
            if is_beside { 2 * (3 + digits + 2 + bytes) + 3 } else { 3 + 2 * digits + 4 + bytes }
        };
        let width = WIDTHS.into_iter().find(|width| takes(*width) <= look.width).unwrap_or(WIDTHS[2]);
        Self { view, look, marks: Marks::of(look.plain), is_beside, digits, width }
    }

    fn heading(&self, hunk: &Range<usize>, out: &mut dyn Write) -> io::Result<()> {
        let palette = self.look.palette();
        let changes = &self.view.comparison.changes;
        let first = &changes[hunk.start];
        write!(out, "\n  ")?;
        let of = grouped(changes.len());
        let (numbers, says) = if hunk.len() == 1 {
            (format!("change {} of {of}", grouped(first.number)), BytesView::says(first))
        } else {
            let last = grouped(changes[hunk.end - 1].number);
            let all: Vec<String> = changes[hunk.clone()].iter().take(3).map(BytesView::says).collect();
            let more = if hunk.len() > all.len() { ", …" } else { "" };
            let numbers = format!("changes {}{}{last} of {of}", grouped(first.number), self.marks.to);
            (numbers, format!("{}{more}", all.join("; ")))
        };
        palette.write(TextRole::Strong, &numbers, out)?;
        let place = BytesView::place(first);
        palette.write(TextRole::Faint, &format!(" {} {place} {} {says}", self.marks.dot, self.marks.dot), out)?;
        writeln!(out)
    }

    fn row(&self, at: (usize, usize), cells: &[HexCell], out: &mut dyn Write) -> io::Result<()> {
        let differs = cells.iter().any(|cell| cell.differs);
        if self.is_beside {
            return self.beside(at, cells, differs, out);
        }
        if !differs {
            write!(out, "   ")?;
            self.offsets((Some(at.0), Some(at.1)), out)?;
            self.bytes(Side::After, cells, false, out)?;
            return writeln!(out);
        }
        for side in [Side::Before, Side::After] {
            // What a side keeps is seen in the row of the other.
            if !side.differs(cells) {
                continue;
            }
            write!(out, " ")?;
            self.mark(side, out)?;
            write!(out, " ")?;
            let offsets = if side == Side::Before { (Some(at.0), None) } else { (None, Some(at.1)) };
            self.offsets(offsets, out)?;
            self.bytes(side, cells, true, out)?;
            writeln!(out)?;
            if !self.look.palette().coloured() && !all_differ(side, cells) {
                let markers = self.markers(side, cells);
                writeln!(out, "{}{}", " ".repeat(3 + 2 * self.digits + 4), markers.trim_end())?;
            }
        }
        Ok(())
    }

    fn beside(&self, at: (usize, usize), cells: &[HexCell], differs: bool, out: &mut dyn Write) -> io::Result<()> {
        for side in [Side::Before, Side::After] {
            let has_bytes = cells.iter().any(|cell| side.byte(cell).is_some());
            write!(out, " ")?;
            match side.differs(cells) {
                true => self.mark(side, out)?,
                false => write!(out, " ")?,
            }
            let offset = if side == Side::Before { at.0 } else { at.1 };
            let digits = self.digits;
            let offset = if has_bytes { format!(" {offset:0digits$x}  ") } else { " ".repeat(digits + 3) };
            self.look.palette().write(TextRole::Faint, &offset, out)?;
            self.bytes(side, cells, side.differs(cells), out)?;
            if side == Side::Before {
                self.look.palette().write(TextRole::Faint, if self.look.plain { " :" } else { " │" }, out)?;
            }
        }
        writeln!(out)?;
        if differs && !self.look.palette().coloured() {
            let sides = [Side::Before, Side::After]
                .map(|side| if all_differ(side, cells) { " ".repeat(self.room()) } else { self.markers(side, cells) });
            if sides.iter().any(|markers| !markers.trim().is_empty()) {
                let lead = " ".repeat(self.digits + 5);
                let divider = if self.look.plain { " :" } else { " │" };
                let line = format!("{lead}{}{divider}{lead}{}", sides[0], sides[1]);
                writeln!(out, "{}", line.trim_end())?;
            }
        }
        Ok(())
    }

    fn mark(&self, side: Side, out: &mut dyn Write) -> io::Result<()> {
        match side {
            Side::Before => self.look.palette().write(TextRole::Gone, self.marks.gone, out),
            Side::After => self.look.palette().write(TextRole::New, self.marks.new, out),
        }
    }

    fn offsets(&self, (before, after): (Option<usize>, Option<usize>), out: &mut dyn Write) -> io::Result<()> {
        let digits = self.digits;
        let one = |at: Option<usize>| at.map_or_else(|| " ".repeat(digits), |at| format!("{at:0digits$x}"));
        self.look.palette().write(TextRole::Faint, &format!("{}  {}  ", one(before), one(after)), out)
    }

    /// Columns of the bytes of a row.
    fn room(&self) -> usize {
        3 * self.width + (self.width - 1) / 8 + 1 + self.width
    }

    /// Writes the bytes of one side: in hexadecimal, then as letters.
    fn bytes(&self, side: Side, cells: &[HexCell], differs: bool, out: &mut dyn Write) -> io::Result<()> {
        let palette = self.look.palette();
        let role = |cell: &HexCell| match (differs, side, cell.differs) {
            (false, ..) => TextRole::Text,
            (true, Side::Before, true) => TextRole::GoneWord,
            (true, Side::Before, false) => TextRole::GoneLine,
            (true, Side::After, true) => TextRole::NewWord,
            (true, Side::After, false) => TextRole::NewLine,
        };
        for column in 0..self.width {
            let cell = cells.get(column).and_then(|cell| Some((role(cell), side.byte(cell)?)));
            match cell {
                Some((role, byte)) => palette.write(role, &format!("{byte:02x}"), out)?,
                None => write!(out, "  ")?,
            }
            if column + 1 < self.width {
                write!(out, "{}", if column % 8 == 7 { "  " } else { " " })?;
            }
        }
        write!(out, "  ")?;
        let is_padded = self.is_beside && side == Side::Before;
        let last = cells.iter().rposition(|cell| side.byte(cell).is_some());
        let columns = if is_padded { self.width } else { last.map_or(0, |last| last + 1) };
        for column in 0..columns {
            match cells.get(column).and_then(|cell| Some((role(cell), side.byte(cell)?))) {
                Some((role, byte)) => palette.write(role, &letter(byte, self.look.plain).to_string(), out)?,
                None => write!(out, " ")?,
            }
        }
        Ok(())
    }

    /// What stands below a row without colours.
    fn markers(&self, side: Side, cells: &[HexCell]) -> String {
        let mut markers = String::new();
        for column in 0..self.width {
            let is_marked = cells.get(column).is_some_and(|cell| cell.differs && side.byte(cell).is_some());
            markers.push_str(if is_marked { "^^" } else { "  " });
            if column + 1 < self.width {
                markers.push_str(if column % 8 == 7 { "  " } else { " " });
            }
        }
        format!("{markers:room$}", room = self.room())
    }
}

/// Whether all bytes of one side differ, so that the mark of the row says enough.
fn all_differ(side: Side, cells: &[HexCell]) -> bool {
    cells.iter().filter(|cell| side.byte(cell).is_some()).all(|cell| cell.differs)
}

impl Side {
    /// Whether bytes of this side differ in a row.
    fn differs(self, cells: &[HexCell]) -> bool {
        cells.iter().any(|cell| cell.differs && self.byte(cell).is_some())
    }

    fn byte(self, cell: &HexCell) -> Option<u8> {
        match self {
            Self::Before => cell.before,
            Self::After => cell.after,
        }
    }
}

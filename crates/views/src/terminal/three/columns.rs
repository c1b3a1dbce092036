//! Three texts in three columns: mine, the base, theirs.

use std::io::{self, Write};

use tideline_core::internal::kinds::text::sections::Sections;
use tideline_core::internal::merge::Three;
use unicode_width::UnicodeWidthStr;

use super::heading::write_region_heading;
use crate::marks::Marks;
use crate::rows::Line;
use crate::shown::{DisplayLine, Medium, Role, shown_name};
use crate::terminal::look::Look;
use crate::terminal::palette::{Palette, TextRole};
use crate::three::{Cell, MergeView, SidePairs, SideTexts, ThreeRow, WhichSide, region_rows, rows_above, rows_below};
use crate::view::Context;

/// A line takes at most so many rows; a longer one is cut around its changes.
const MOST_ROWS: usize = 8;
/// A column is never narrower than this, whatever the terminal says.
const NARROWEST: usize = 12;

/// Draws the regions.
pub(super) fn draw(view: &MergeView<'_>, look: &Look, out: &mut dyn Write) -> io::Result<()> {
    let sections = Sections::new(view.type_name, view.merge.texts.base.text(), view.merge.regions.len());
    let (mine, theirs) = (SideTexts::of(view, WhichSide::Mine), SideTexts::of(view, WhichSide::Theirs));
    let (mine_view, theirs_view) = (mine.view(view), theirs.view(view));
    let pairs = SidePairs { view, mine: (&mine, &mine_view), theirs: (&theirs, &theirs_view) };
    let options = look.row_options();
    let columns = Columns::new(view, look);
    columns.titles(view, out)?;
    // The first line of the base that was not drawn yet.
    let mut from = 0;
    for (number, region) in view.regions() {
        write_region_heading(view, (number, region), &sections, look, out)?;
        for row in rows_above(view, number - 1, look.context, from) {
            columns.row(&row, out)?;
        }
        for row in region_rows(&pairs, number - 1, &options) {
            columns.row(&row, out)?;
        }
        let below = rows_below(view, number - 1, look.context);
        from = region.base.lines.end + below.len();
        for row in below {
            columns.row(&row, out)?;
        }
    }
    Ok(())
}

struct Columns {
    palette: Palette,
    marks: Marks,
    plain: bool,
    digits: usize,
    /// Columns for the text of each.
    room: usize,
    widest: usize,
}

/// One cell of a row, ready to be written.
struct Shown {
    mark: &'static str,
    ink: TextRole,
    number: Option<usize>,
    rows: Vec<DisplayLine>,
}

impl Columns {
    fn new(view: &MergeView<'_>, look: &Look) -> Self {
        let last = view.merge.regions.last();
        let ends = last.map_or(0, |last| last.base.lines.end.max(last.mine.lines.end).max(last.theirs.lines.end));
        let digits = (ends + look.context.lines().min(1000)).to_string().len().max(2);
        let room = (look.width.saturating_sub(4) / 3).saturating_sub(digits + 5).max(NARROWEST);
        let widest = if look.context == Context::All { usize::MAX } else { room * MOST_ROWS };
        Self { palette: look.palette(), marks: Marks::of(look.plain), plain: look.plain, digits, room, widest }
    }

    /// Columns of a cell with its mark and its number.
    fn width(&self) -> usize {
        self.room + self.digits + 5
    }

    fn titles(&self, view: &MergeView<'_>, out: &mut dyn Write) -> io::Result<()> {
        let Three { base, mine, theirs } = view.labels.as_ref().map(|label| shown_name(label, self.plain));
        let titles = [
            (TextRole::New, format!("{mine} {}", self.marks.new)),
            (TextRole::Gone, format!("base {base} {}", self.marks.gone)),
            (TextRole::New, format!("{theirs} {}", self.marks.new)),
        ];
        writeln!(out)?;
        for (at, (role, title)) in titles.iter().enumerate() {
            write!(out, " ")?;
            self.palette.write(*role, title, out)?;
            if at < 2 {
                write!(out, "{}", " ".repeat((self.width() + 1).saturating_sub(title.width())))?;
            }
        }
        writeln!(out)
    }

    fn row(&self, row: &ThreeRow<'_>, out: &mut dyn Write) -> io::Result<()> {
        let base = match &row.base {
            Some((line, true)) => self.line(line, Role::Gone),
            Some((line, false)) => self.line(line, Role::Equal),
            None => self.nothing(),
        };
        let cells = [self.cell(&row.mine), base, self.cell(&row.theirs)];
        let height = cells.iter().map(|cell| cell.rows.len()).max().unwrap_or(0);
        let nothing = DisplayLine::default();
        for at in 0..height {
            let lines = cells.each_ref().map(|cell| cell.rows.get(at).unwrap_or(&nothing));
            for (column, (cell, line)) in cells.iter().zip(lines).enumerate() {
                self.write_cell(cell, line, (at == 0, column < 2), out)?;
                if column < 2 {
                    self.palette.write(TextRole::Faint, if self.plain { " :" } else { " │" }, out)?;
                }
            }
            writeln!(out)?;
            if !self.palette.coloured() && lines.iter().any(|line| line.is_marked()) {
                self.write_markers(lines, out)?;
            }
        }
        Ok(())
    }

    fn nothing(&self) -> Shown {
        Shown { mark: " ", ink: TextRole::Text, number: None, rows: vec![DisplayLine::default()] }
    }

    fn cell(&self, cell: &Cell<'_>) -> Shown {
        match cell {
            Cell::Equal(line) => self.line(line, Role::Equal),
            Cell::New(line) => self.line(line, Role::New),
            Cell::Gone => Shown { mark: self.marks.gone, ink: TextRole::Gone, ..self.nothing() },
            Cell::Nothing => self.nothing(),
        }
    }

    fn line(&self, line: &Line<'_>, role: Role) -> Shown {
        let mut shown = line.shown(Medium::of(self.plain), self.widest);
        shown.add_note(self.plain);
        let shown = shown.in_role(role).condensed(self.widest);
        let (mark, ink) = match role {
            Role::Gone => (self.marks.gone, TextRole::Gone),
            Role::New => (self.marks.new, TextRole::New),
            _ => (" ", TextRole::Text),
        };
        Shown { mark, ink, number: Some(line.number), rows: shown.wrapped(self.room) }
    }

    fn write_cell(
        &self,
        cell: &Shown,
        line: &DisplayLine,
        (is_first, pads): (bool, bool),
        out: &mut dyn Write,
    ) -> io::Result<()> {
        if !pads && line.pieces.is_empty() && (!is_first || cell.number.is_none() && cell.mark == " ") {
            return Ok(());
        }
        let digits = self.digits;
        write!(out, " ")?;
        self.palette.write(cell.ink, if is_first { cell.mark } else { " " }, out)?;
        match cell.number {
            Some(number) if is_first => {
                let gap = if pads || !line.pieces.is_empty() { "  " } else { "" };
                self.palette.write(TextRole::Faint, &format!(" {number:digits$}{gap}"), out)?;
            }
            _ if pads || !line.pieces.is_empty() => write!(out, "{}", " ".repeat(digits + 3))?,
            _ => {}
        }
        self.palette.write_shown(line, out)?;
        if pads {
            write!(out, "{}", " ".repeat(self.room.saturating_sub(line.width)))?;
        }
        Ok(())
    }

    fn write_markers(&self, lines: [&DisplayLine; 3], out: &mut dyn Write) -> io::Result<()> {
        let indent = " ".repeat(self.digits + 5);
        let mut text = String::new();
        for (at, line) in lines.into_iter().enumerate() {
            let markers = line.markers();
            text.push_str(&indent);
            text.push_str(&markers);
            if at < 2 {
                text.push_str(&" ".repeat(self.room.saturating_sub(markers.len())));
                text.push_str(if self.plain { " :" } else { " │" });
            }
        }
        writeln!(out, "{}", text.trim_end())
    }
}

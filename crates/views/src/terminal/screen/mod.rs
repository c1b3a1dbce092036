//! A pair of texts on a screen: any stretch of its rows, drawn when it is looked at.
//!
//! A [`FileScreen`] knows which rows there are without making them; the rows of a change are made when they come into view. Drawing a
//! screen costs what its rows cost, however long the file is.

mod line;
mod outline;
mod paint;

use std::collections::HashMap;
use std::rc::Rc;

use anstyle::Style;
use tideline_core::internal::kinds::text::causes;
use tideline_core::internal::model::{Change, Place, Weight};

use super::look::Look;
use super::palette::{Palette, TextRole};
use crate::marks::Marks;
use crate::rows::{Block, FileRow, Line, Pick, RowOptions, RowSource};
use crate::shown::shown_name;
use crate::strip::{Cell, cells};
use crate::view::{BothSections, Context, FileView};
use crate::wording::change::{folded_lines, moved_blocks, where_it_lies};
use crate::wording::section::{section_in_words, section_relation};
pub use line::{Find, Frame, ScreenLine, Span};
use outline::{GapItem, Outline};
use paint::{Painter, role_of_form};

/// A row of a file: a line, two lines that belong together, or a fold. It may take several lines of the screen.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct RowAt {
    /// Gaps and places take turns: an even number is a gap, an odd one the place behind it.
    stretch: usize,
    row: usize,
}

/// Rows that belong together.
enum Stretch {
    /// The lines above a place, or below the last.
    Gap(usize),
    /// The rows of a place of a change.
    Place(usize),
}

impl RowAt {
    fn stretch(self) -> Stretch {
        if self.stretch.is_multiple_of(2) { Stretch::Gap(self.stretch / 2) } else { Stretch::Place(self.stretch / 2) }
    }
}

/// What a row is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct RowLines {
    /// Its line before, by index.
    pub before: Option<usize>,
    /// Its line after, by index.
    pub after: Option<usize>,
    /// The place of a change that it is inside of, by index.
    pub place: Option<usize>,
    /// Whether it stands for lines that are folded.
    pub is_fold: bool,
}

/// Places whose rows are held.
const MOST_HELD: usize = 256;

/// A pair of texts, to be looked at stretch by stretch.
pub struct FileScreen<'a> {
    view: &'a FileView<'a>,
    look: &'a Look,
    sections: BothSections<'a>,
    source: RowSource<'a>,
    /// For each place, its block in the source.
    blocks: Vec<usize>,
    outline: Outline<'a>,
    painter: Painter,
    palette: Palette,
    marks: Marks,
    held: HashMap<usize, Rc<Vec<FileRow<'a>>>>,
    /// Rows that were drawn for the screen that is being made.
    drawn: HashMap<RowAt, Rc<Vec<ScreenLine>>>,
}

impl<'a> FileScreen<'a> {
    /// The screen of a view. Where lines stand beside each other or below is said when rows are drawn.
    pub fn new(view: &'a FileView<'a>, look: &'a Look) -> Self {
        let options = RowOptions { context: Context::Lines(0), grain: look.marked(), budget: look.syntax_budget() };
        let source = RowSource::new(view, Pick::ALL, &options);
        let blocks = (0..source.len()).filter(|&block| matches!(source.block(block), Block::Change(_))).collect();
        let outline = Outline::new(view, look.context);
        let (before, after) = outline.lines_of_both();
        let largest = before.max(after);
        Self {
            view,
            look,
            sections: view.sections(),
            source,
            blocks,
            outline,
            painter: Painter::new(look, largest),
            palette: look.palette(),
            marks: Marks::of(look.plain),
            held: HashMap::new(),
            drawn: HashMap::new(),
        }
    }

    /// What is shown.
    pub fn view(&self) -> &'a FileView<'a> {
        self.view
    }

    /// How many bytes of lines were made ready to be shown so far.
    pub fn work(&self) -> usize {
        self.painter.work
    }

    /// Equal lines around each change.
    pub fn context(&self) -> Context {
        self.outline.context()
    }

    /// Shows so many equal lines around each change.
    pub fn set_context(&mut self, context: Context) {
        self.outline.set_context(context);
    }

    /// Shows more lines around the change at a row, or where they are folded there.
    pub fn widen(&mut self, at: RowAt, lines: usize) {
        match at.stretch() {
            Stretch::Gap(gap) => self.outline.widen(gap.min(self.outline.gaps() - 1), (lines, lines)),
            Stretch::Place(place) => {
                self.outline.widen(place, (0, lines));
                self.outline.widen(place + 1, (lines, 0));
            }
        }
    }

    /// Shows all lines of the fold at a row; says whether there was one.
    pub fn open_fold(&mut self, at: RowAt) -> bool {
        let is_fold = self.lines_of(at).is_some_and(|lines| lines.is_fold);
        if is_fold {
            self.outline.open_at(at.stretch / 2, at.row);
        }
        is_fold
    }

    fn rows_of_place(&mut self, place: usize) -> Rc<Vec<FileRow<'a>>> {
        if let Some(rows) = self.held.get(&place) {
            return Rc::clone(rows);
        }
        if self.held.len() >= MOST_HELD {
            self.held.clear();
        }
        let rows: Rc<Vec<FileRow<'a>>> = Rc::new(self.source.rows(self.blocks[place]).collect());
        self.held.insert(place, Rc::clone(&rows));
        rows
    }

    fn len(&mut self, stretch: usize) -> usize {
        match (RowAt { stretch, row: 0 }).stretch() {
            Stretch::Gap(gap) => self.outline.len(gap),
            Stretch::Place(place) => self.rows_of_place(place).len(),
        }
    }

    fn stretches(&self) -> usize {
        2 * self.outline.gaps() - 1
    }

    /// The first row, if there is any.
    pub fn first(&mut self) -> Option<RowAt> {
        self.at_or_after(RowAt::default())
    }

    /// The last row.
    pub fn last(&mut self) -> Option<RowAt> {
        self.before(RowAt { stretch: self.stretches(), row: 0 })
    }

    /// A row, or the next one where it is not there.
    pub fn at_or_after(&mut self, mut at: RowAt) -> Option<RowAt> {
        while at.stretch < self.stretches() {
            if at.row < self.len(at.stretch) {
                return Some(at);
            }
            at = RowAt { stretch: at.stretch + 1, row: 0 };
        }
        None
    }

    /// The row below another.
    pub fn after(&mut self, at: RowAt) -> Option<RowAt> {
        self.at_or_after(RowAt { row: at.row + 1, ..at })
    }

    /// The row above another.
    pub fn before(&mut self, at: RowAt) -> Option<RowAt> {
        if let Some(row) = at.row.checked_sub(1) {
            return Some(RowAt { row, ..at });
        }
        let mut stretch = at.stretch;
        while stretch > 0 {
            stretch -= 1;
            if let Some(row) = self.len(stretch).checked_sub(1) {
                return Some(RowAt { stretch, row });
            }
        }
        None
    }

    /// The first row of a place of a change.
    pub fn of_place(&self, place: usize) -> RowAt {
        RowAt { stretch: 2 * place + 1, row: 0 }
    }

    /// The place that a row is inside of; between two places, those above and below it.
    pub fn places_at(&self, at: RowAt) -> (Option<usize>, Option<usize>) {
        match at.stretch() {
            Stretch::Place(place) => (Some(place), Some(place)),
            Stretch::Gap(gap) => (gap.checked_sub(1), Some(gap).filter(|gap| *gap < self.view.comparison.places.len())),
        }
    }

    /// What a row is.
    pub fn lines_of(&mut self, at: RowAt) -> Option<RowLines> {
        if at.stretch >= self.stretches() {
            return None;
        }
        let place = match at.stretch() {
            Stretch::Place(place) => place,
            Stretch::Gap(gap) => {
                return Some(match self.outline.item(gap, at.row) {
                    GapItem::Fold { .. } => RowLines { before: None, after: None, place: None, is_fold: true },
                    GapItem::Lines(before, after) => RowLines { before, after, place: None, is_fold: false },
                });
            }
        };
        let rows = self.rows_of_place(place);
        let index = |number: usize| Some(number - 1);
        let (before, after) = match rows.get(at.row)? {
            FileRow::Equal(before, after) => (
                before.as_ref().and_then(|line| index(line.number)),
                after.as_ref().and_then(|line| index(line.number)),
            ),
            FileRow::Gone(line, _) => (index(line.number), None),
            FileRow::New(line, _) => (None, index(line.number)),
            FileRow::Edited(before, after, _) => (index(before.number), index(after.number)),
        };
        Some(RowLines { before, after, place: Some(place), is_fold: false })
    }

    /// The words that differ in a row, of both sides.
    pub fn changed_words(&mut self, at: RowAt) -> Vec<String> {
        let Stretch::Place(place) = at.stretch() else { return Vec::new() };
        let rows = self.rows_of_place(place);
        let words = |line: &Line<'_>| -> Vec<String> {
            let parts = line.parts.iter().filter(|part| part.differs.is_some() && !part.bytes.is_empty());
            parts.map(|part| String::from_utf8_lossy(&line.text[part.bytes.clone()]).into_owned()).collect()
        };
        match rows.get(at.row) {
            Some(FileRow::Edited(before, after, _)) => [words(before), words(after)].concat(),
            Some(FileRow::Gone(line, _) | FileRow::New(line, _)) => words(line),
            Some(FileRow::Equal(..)) | None => Vec::new(),
        }
    }

    /// The row that a line of one side is in, by its index. What is folded there is opened.
    pub fn row_of_line(&mut self, line: usize, is_after: bool) -> Option<RowAt> {
        let places = &self.view.comparison.places;
        let span = |place: &Place| if is_after { place.after.lines.clone() } else { place.before.lines.clone() };
        let upto = places.partition_point(|place| span(place).end <= line);
        if places.get(upto).is_some_and(|place| span(place).contains(&line)) {
            let rows = self.rows_of_place(upto);
            let row = rows.iter().position(|row| {
                let number = match row {
                    FileRow::Equal(before, after) => {
                        if is_after { after } else { before }.as_ref().map(|line| line.number)
                    }
                    FileRow::Gone(line, _) => (!is_after).then_some(line.number),
                    FileRow::New(line, _) => is_after.then_some(line.number),
                    FileRow::Edited(before, after, _) => Some(if is_after { after.number } else { before.number }),
                };
                number == Some(line + 1)
            });
            return Some(RowAt { stretch: 2 * upto + 1, row: row.unwrap_or(0) });
        }
        let row = self.outline.row_of_line(upto, line, is_after);
        self.outline.open_at(upto, row);
        let row = self.outline.row_of_line(upto, line, is_after);
        self.at_or_after(RowAt { stretch: 2 * upto, row }).or_else(|| self.last())
    }

    /// Where a line of one side begins in its text.
    pub fn start_of_line(&self, line: usize, is_after: bool) -> usize {
        self.outline.start_of(line, is_after)
    }

    /// The line of one side that a byte of its text is in.
    pub fn line_at(&self, byte: usize, is_after: bool) -> usize {
        self.outline.line_at(byte, is_after)
    }

    /// The heading of a change at one of its places: its number, where it lies, what muted it, the section it is in.
    pub fn heading(&self, place: usize) -> String {
        let comparison = self.view.comparison;
        let place = &comparison.places[place];
        let change: &Change = &comparison.changes[place.change];
        let (dot, plain) = (self.marks.dot, self.look.plain);
        let of = comparison.changes.len();
        let mut told = format!(
            "change {} of {of} {dot} {}",
            change.number,
            where_it_lies(self.view, change, place, self.marks.to)
        );
        if change.weight == Weight::Muted {
            let rules = causes((self.view.before, &change.before), (self.view.after, &change.after));
            told = format!("{told} {dot} muted: {}", shown_name(&rules.join(", "), plain));
        }
        if let Some(section) = self.sections.of(&place.before, &place.after) {
            let (relation, name) = (section_relation(&section), section_in_words(&section, plain));
            told = format!("{told} {dot} {relation} {}", shown_name(&name, plain));
        }
        for block in moved_blocks(comparison, place, plain, self.marks.to) {
            told = format!("{told} {dot} {block}");
        }
        told
    }

    /// The strip: what lies in each of so many parts of the file, one below the other, with the index of the first place there.
    pub fn strip(&self, height: usize) -> Vec<Option<(Span, usize)>> {
        let of_cell = |cell: Cell| {
            let (text, role) = match cell {
                Cell { weight: Weight::Muted, .. } => (self.marks.muted, TextRole::Faint),
                cell => (self.marks.of_form(cell.form), role_of_form(cell.form)),
            };
            (Span { text: text.to_owned(), style: self.palette.style(role) }, cell.place)
        };
        cells(self.view, height).into_iter().map(|cell| cell.map(of_cell)).collect()
    }

    /// How far down in the file a row is: its part of `height` equal parts.
    pub fn part_of(&mut self, at: RowAt, height: usize) -> usize {
        let (before, after) = self.outline.lines_of_both();
        let lines = match self.lines_of(at) {
            Some(RowLines { is_fold: true, .. }) | None => self.after(at).and_then(|next| self.lines_of(next)),
            lines => lines,
        };
        let (line, of) = match lines {
            Some(RowLines { after: Some(line), .. }) => (line, after),
            Some(RowLines { before: Some(line), .. }) => (line, before),
            _ => (after, after),
        };
        (line * height / of.max(1)).min(height.saturating_sub(1))
    }

    /// The row at one of `height` equal parts of the file.
    pub fn row_at_part(&mut self, part: usize, height: usize) -> Option<RowAt> {
        let (before, after) = self.outline.lines_of_both();
        let (of, is_after) = if after > 0 { (after, true) } else { (before, false) };
        self.row_of_line(part * of / height.max(1), is_after)
    }

    /// Begins another screen: rows may be laid out otherwise than before.
    pub fn begin_screen(&mut self) {
        self.drawn.clear();
    }

    /// The lines that a row takes on the screen that was begun last. A row is drawn once for a screen.
    pub fn draw_once(&mut self, at: RowAt, frame: &Frame<'_>) -> Rc<Vec<ScreenLine>> {
        if let Some(lines) = self.drawn.get(&at) {
            return Rc::clone(lines);
        }
        let lines = Rc::new(self.draw(at, frame));
        self.drawn.insert(at, Rc::clone(&lines));
        lines
    }

    /// The lines that a row takes on the screen.
    pub fn draw(&mut self, at: RowAt, frame: &Frame<'_>) -> Vec<ScreenLine> {
        let gap = match at.stretch() {
            Stretch::Gap(gap) => gap,
            Stretch::Place(place) => {
                let rows = self.rows_of_place(place);
                return rows.get(at.row).map_or_else(Vec::new, |row| self.painter.paint(row, frame));
            }
        };
        match self.outline.item(gap, at.row) {
            GapItem::Fold { rows, put_aside } => vec![self.fold(gap, &folded_lines(rows, put_aside))],
            GapItem::Lines(before, after) => {
                let start =
                    |line: Option<usize>, is_after| line.map(|line| (line, self.outline.start_of(line, is_after)));
                let (before, after) = (start(before, false), start(after, true));
                let row = self.source.equal_row(before, after);
                self.painter.paint(&row, frame)
            }
        }
    }

    /// The line of a fold, which is the heading of the change below it.
    fn fold(&self, gap: usize, folded: &str) -> ScreenLine {
        let mut line = ScreenLine::default();
        let dots = if self.look.plain { "  ..." } else { "  ⋯" };
        line.push(format!("{dots} {folded}"), self.palette.style(TextRole::Faint));
        if gap < self.view.comparison.places.len() {
            line.push("   ", Style::new());
            let change = &self.view.comparison.changes[self.view.comparison.places[gap].change];
            let role = if change.weight == Weight::Muted { TextRole::Faint } else { TextRole::Strong };
            line.push(self.heading(gap), self.palette.style(role));
        }
        line
    }
}

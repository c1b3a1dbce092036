//! Three texts and their merge on a screen: the lines of both sides beside each other, and those of the result.

use tideline_core::internal::merge::{Region, Resolution, Three};
use tideline_core::internal::text::lines::Lines;

use crate::marks::Marks;
use crate::rows::{Line, RowOptions, one_part};
use crate::shown::{DisplayLine, Medium, Role, shown_name};
use crate::terminal::look::Look;
use crate::terminal::palette::{Palette, TextRole};
use crate::terminal::screen::ScreenLine;
use crate::three::{Cell, MergeView, SidePairs, SideTexts, ThreeRow, WhichSide, region_rows, rows_above, rows_below};
use crate::wording::plural;

/// Equal lines around each region.
const AROUND: usize = 3;

/// A line of a pane, and the region that it is of, by its index.
#[derive(Clone, Debug)]
pub struct MergeLine {
    /// The region; none for equal lines.
    pub region: Option<usize>,
    /// What it says.
    pub line: ScreenLine,
}

/// Draws the panes of a merge in so many columns.
pub struct MergePanes<'a> {
    view: &'a MergeView<'a>,
    look: &'a Look,
    palette: Palette,
    marks: Marks,
    digits: usize,
    width: usize,
}

impl<'a> MergePanes<'a> {
    /// Panes of so many columns.
    pub fn new(view: &'a MergeView<'a>, look: &'a Look, width: usize) -> Self {
        let last = view.merge.regions.last();
        let ends = last.map_or(0, |last| last.base.lines.end.max(last.mine.lines.end).max(last.theirs.lines.end));
        let digits = (ends + AROUND).to_string().len().max(2);
        Self { view, look, palette: look.palette(), marks: Marks::of(look.plain), digits, width }
    }

    /// The columns of a side, of two or of three.
    fn room(&self, columns: usize) -> usize {
        (self.width.saturating_sub(2 * (columns - 1)) / columns).saturating_sub(self.digits + 4).max(8)
    }

    /// The titles above the sides; with the base between them where there is room for it.
    pub fn titles(&self, has_base: bool) -> ScreenLine {
        let labels = self.view.labels.as_ref().map(|label| shown_name(label, self.look.plain));
        let titles = match has_base {
            true => vec![
                (labels.mine, TextRole::New),
                (format!("base {}", labels.base), TextRole::Gone),
                (labels.theirs, TextRole::New),
            ],
            false => vec![(labels.mine, TextRole::New), (labels.theirs, TextRole::New)],
        };
        let width = self.room(titles.len()) + self.digits + 4;
        let mut line = ScreenLine::default();
        let count = titles.len();
        for (at, (title, role)) in titles.into_iter().enumerate() {
            let shown =
                DisplayLine::new(title.as_bytes(), &one_part(title.as_bytes()), &[], Medium::of(self.look.plain));
            let shown = shown.columns(0..width.saturating_sub(1));
            line.push(" ", self.palette.style(TextRole::Text));
            let text: String = shown.pieces.iter().map(|piece| piece.text.as_str()).collect();
            line.push(text, self.palette.style(role));
            if at + 1 < count {
                line.push(" ".repeat((width + 1).saturating_sub(shown.width)), self.palette.style(TextRole::Text));
            }
        }
        line
    }

    /// The lines of both sides, with those of the base between them if that is wanted.
    pub fn sides(&self, has_base: bool) -> Vec<MergeLine> {
        let view = self.view;
        let (mine, theirs) = (SideTexts::of(view, WhichSide::Mine), SideTexts::of(view, WhichSide::Theirs));
        let (mine_view, theirs_view) = (mine.view(view), theirs.view(view));
        let pairs = SidePairs { view, mine: (&mine, &mine_view), theirs: (&theirs, &theirs_view) };
        let context = crate::view::Context::Lines(AROUND);
        let options = RowOptions { context, ..self.look.row_options() };
        let mut lines = Vec::new();
        let mut from = 0;
        for (at, region) in view.merge.regions.iter().enumerate() {
            let above = rows_above(view, at, context, from);
            let folded = (region.base.lines.start - from.min(region.base.lines.start)).saturating_sub(above.len());
            self.fold(folded, &mut lines);
            lines.extend(above.iter().map(|row| self.side_line(None, row, has_base)));
            lines.extend(region_rows(&pairs, at, &options).iter().map(|row| self.side_line(Some(at), row, has_base)));
            if lines.last().is_none_or(|last| last.region != Some(at)) {
                // A region without a row of its own is met all the same.
                lines.push(MergeLine { region: Some(at), line: ScreenLine::default() });
            }
            let below = rows_below(view, at, context);
            from = region.base.lines.end + below.len();
            lines.extend(below.iter().map(|row| self.side_line(None, row, has_base)));
        }
        let all = Lines::of(view.merge.texts.base.text()).len();
        self.fold(all.saturating_sub(from), &mut lines);
        lines
    }

    /// The lines of the result, where conflicts are resolved so, each by its number from 0.
    pub fn result(&self, resolutions: &[Option<Resolution>]) -> Vec<MergeLine> {
        let merge = self.view.merge;
        let base = Lines::of(merge.texts.base.text());
        let mut lines = Vec::new();
        let (mut at, mut number, mut conflict) = (0, 1, 0);
        for (index, region) in merge.regions.iter().enumerate() {
            number = self.equal(&base, at..region.base.lines.start, number, (index == 0, false), &mut lines);
            at = region.base.lines.end;
            let (written, is_open) = match merge.result_of(region) {
                Some(written) => (written.to_vec(), false),
                None => {
                    let resolution = resolutions.get(conflict).and_then(Option::as_ref);
                    conflict += 1;
                    match resolution {
                        Some(resolution) => (merge.resolved_lines(region, resolution), false),
                        None => (Vec::new(), true),
                    }
                }
            };
            if is_open {
                let told = format!("{} {}: not decided", self.marks.conflict, self.view.who(region));
                let mut line = ScreenLine::default();
                line.push(format!("{}{told}", " ".repeat(self.digits + 4)), self.palette.style(TextRole::Trouble));
                lines.push(MergeLine { region: Some(index), line });
            } else if written.is_empty() {
                lines.push(self.removed(index, region));
            }
            for line in Lines::of(&written).iter() {
                lines.push(self.result_line(Some(index), number, line, Role::New));
                number += 1;
            }
        }
        self.equal(&base, at..base.len(), number, (merge.regions.is_empty(), true), &mut lines);
        lines
    }

    /// A region of which nothing is left.
    fn removed(&self, index: usize, region: &Region) -> MergeLine {
        let mut line = ScreenLine::default();
        let told = format!("{} {} removed", self.marks.gone, plural(region.base.lines.len(), "line"));
        line.push(format!("{}{told}", " ".repeat(self.digits + 4)), self.palette.style(TextRole::Faint));
        MergeLine { region: Some(index), line }
    }

    /// Adds equal lines of the result, those far from a region folded; the number of the next line.
    fn equal(
        &self,
        base: &Lines<'_>,
        range: std::ops::Range<usize>,
        number: usize,
        (is_first, is_last): (bool, bool),
        lines: &mut Vec<MergeLine>,
    ) -> usize {
        let len = range.len();
        let head = if is_first { 0 } else { AROUND.min(len) };
        let tail = if is_last { 0 } else { AROUND.min(len - head) };
        for at in 0..head {
            lines.push(self.result_line(None, number + at, base.get(range.start + at), Role::Equal));
        }
        self.fold(len - head - tail, lines);
        for at in len - tail..len {
            lines.push(self.result_line(None, number + at, base.get(range.start + at), Role::Equal));
        }
        number + len
    }

    fn fold(&self, count: usize, lines: &mut Vec<MergeLine>) {
        if count > 0 {
            let mut line = ScreenLine::default();
            let told = format!("{}{}", " ".repeat(self.digits + 4), plural(count, "equal line"));
            line.push(told, self.palette.style(TextRole::Faint));
            lines.push(MergeLine { region: None, line });
        }
    }

    fn result_line(&self, region: Option<usize>, number: usize, text: &[u8], role: Role) -> MergeLine {
        let line = Line { number, text, parts: Vec::new(), syntax: Vec::new(), spelled_out: false };
        let mut shown = ScreenLine::default();
        self.cell(Some((&line, role)), self.room(1), &mut shown);
        MergeLine { region, line: shown }
    }

    fn side_line(&self, region: Option<usize>, row: &ThreeRow<'_>, has_base: bool) -> MergeLine {
        let base =
            row.base.as_ref().map(|(line, is_changed)| (line, if *is_changed { Role::Gone } else { Role::Equal }));
        let mut line = ScreenLine::default();
        let room = self.room(if has_base { 3 } else { 2 });
        let divider = if self.look.plain { " :" } else { " │" };
        self.side_cell(&row.mine, room, &mut line);
        line.push(divider, self.palette.style(TextRole::Faint));
        if has_base {
            self.cell(base, room, &mut line);
            line.push(divider, self.palette.style(TextRole::Faint));
        }
        self.side_cell(&row.theirs, room, &mut line);
        MergeLine { region, line }
    }

    fn side_cell(&self, cell: &Cell<'_>, room: usize, line: &mut ScreenLine) {
        match cell {
            Cell::Equal(own) => self.cell(Some((own, Role::Equal)), room, line),
            Cell::New(own) => self.cell(Some((own, Role::New)), room, line),
            Cell::Gone => {
                let before = line.width();
                line.push(format!(" {}", self.marks.gone), self.palette.style(TextRole::Gone));
                let filled = line.width() - before;
                line.push(" ".repeat(room + self.digits + 4 - filled), self.palette.style(TextRole::Text));
            }
            Cell::Nothing => self.cell(None, room, line),
        }
    }

    /// Adds a cell: mark, number, text, and blanks up to its width.
    fn cell(&self, content: Option<(&Line<'_>, Role)>, room: usize, line: &mut ScreenLine) {
        let text_style = self.palette.style(TextRole::Text);
        let Some((content, role)) = content else {
            return line.push(" ".repeat(room + self.digits + 4), text_style);
        };
        let (mark, ink) = match role {
            Role::Gone => (self.marks.gone, TextRole::Gone),
            Role::New => (self.marks.new, TextRole::New),
            _ => (" ", TextRole::Text),
        };
        line.push(" ", text_style);
        line.push(mark, self.palette.style(ink));
        line.push(format!(" {:1$} ", content.number, self.digits), self.palette.style(TextRole::Faint));
        let shown = content.shown(Medium::of(self.look.plain), room).in_role(role).columns(0..room);
        for piece in &shown.pieces {
            line.push(piece.text.clone(), self.palette.style_of(piece));
        }
        line.push(" ".repeat(room.saturating_sub(shown.width)), text_style);
    }

    /// The labels of the base and both sides.
    pub fn labels(&self) -> &Three<String> {
        self.view.labels
    }
}

//! The lines of the screen that a row takes.

use anstyle::Style;
use tideline_core::internal::model::{Form, Segment};
use tideline_core::internal::text::words::line_end_len;

use super::line::{Frame, ScreenLine};
use crate::marks::Marks;
use crate::rows::{FileRow, Line, LineChange, one_part};
use crate::shown::{DisplayLine, Medium, Role};
use crate::terminal::gutter::Gutter;
use crate::terminal::inline::is_one_line;
use crate::terminal::look::{Layout, Look};
use crate::terminal::merged::merge;
use crate::terminal::palette::{Palette, TextRole};
use crate::wording::plural;

/// Bytes of a line that are looked at for each column that is shown of it, beside those left of the screen.
const BYTES_A_COLUMN: usize = 8;
/// Bytes that are shown of a wrapped line; longer ones go on to the right of an unwrapped screen.
const MOST_WRAPPED: usize = 16 << 10;

/// The mark of a row, and how its text looks.
#[derive(Clone, Copy)]
struct Manner {
    mark: &'static str,
    ink: TextRole,
    role: Role,
}

/// The text role of the mark of a form.
pub(super) fn role_of_form(form: Form) -> TextRole {
    match form {
        Form::Gone => TextRole::Gone,
        Form::New => TextRole::New,
        Form::Edited => TextRole::Strong,
        Form::Moved => TextRole::Moved,
    }
}

/// Draws rows.
pub(super) struct Painter {
    gutter: Gutter,
    palette: Palette,
    marks: Marks,
    plain: bool,
    digits: usize,
    /// Bytes of lines that were made ready to be shown.
    pub(super) work: usize,
}

impl Painter {
    /// Draws rows whose line numbers go up to `largest`.
    pub(super) fn new(look: &Look, largest: usize) -> Self {
        Self {
            gutter: Gutter::new(look, largest),
            palette: look.palette(),
            marks: Marks::of(look.plain),
            plain: look.plain,
            digits: largest.to_string().len().max(2),
            work: 0,
        }
    }

    /// The lines of a row.
    pub(super) fn paint(&mut self, row: &FileRow<'_>, frame: &Frame<'_>) -> Vec<ScreenLine> {
        match frame.layout {
            Layout::Beside => self.paint_beside(row, frame),
            layout => self.paint_stacked(row, layout, frame),
        }
    }

    fn manner(&self, counted: Role, change: LineChange) -> Manner {
        let marks = self.marks;
        match (change, counted) {
            (LineChange::Muted, _) => Manner { mark: marks.muted, ink: TextRole::Faint, role: Role::Muted },
            (LineChange::Moved, _) => Manner { mark: marks.moved, ink: TextRole::Moved, role: Role::Moved },
            (LineChange::Indented, _) => Manner { mark: marks.indented, ink: TextRole::Strong, role: Role::Equal },
            (LineChange::Counted, Role::Gone) => Manner { mark: marks.gone, ink: TextRole::Gone, role: Role::Gone },
            (LineChange::Counted, _) => Manner { mark: marks.new, ink: TextRole::New, role: Role::New },
        }
    }

    fn equal(&self) -> Manner {
        Manner { mark: " ", ink: TextRole::Text, role: Role::Equal }
    }

    fn paint_stacked(&mut self, row: &FileRow<'_>, layout: Layout, frame: &Frame<'_>) -> Vec<ScreenLine> {
        let room = frame.width.saturating_sub(2 * self.digits + 9);
        match row {
            FileRow::Equal(before, after) => {
                let Some(line) = after.as_ref().or(before.as_ref()) else { return Vec::new() };
                let numbers = (before.as_ref().map(|line| line.number), after.as_ref().map(|line| line.number));
                let shown = self.shown(line, self.equal().role, frame, room);
                self.below(shown, self.equal(), numbers, room, frame)
            }
            FileRow::Gone(line, change) => self.one(line, Role::Gone, *change, room, frame),
            FileRow::New(line, change) => self.one(line, Role::New, *change, room, frame),
            FileRow::Edited(before, after, change) => {
                let is_indented = *change == LineChange::Indented;
                if is_indented || layout == Layout::Inline && is_one_line(before, after) {
                    let numbers = (Some(before.number), Some(after.number));
                    let manner = match change {
                        LineChange::Indented | LineChange::Muted => self.manner(Role::New, *change),
                        _ => Manner { mark: self.marks.edited, ink: TextRole::Strong, role: Role::Equal },
                    };
                    self.work += before.text.len() + after.text.len();
                    let shown = if is_indented && !self.palette.coloured() {
                        self.shown(after, Role::Equal, frame, room)
                    } else {
                        let bytes = frame.bytes(room);
                        self.noted(
                            merge(&clipped(before, bytes), &clipped(after, bytes), &self.gutter),
                            after,
                            bytes,
                            frame,
                        )
                    };
                    return self.below(shown, manner, numbers, room, frame);
                }
                let mut lines = self.one(before, Role::Gone, *change, room, frame);
                lines.extend(self.one(after, Role::New, *change, room, frame));
                lines
            }
        }
    }

    /// The lines of a line that one side has.
    fn one(
        &mut self,
        line: &Line<'_>,
        role: Role,
        change: LineChange,
        room: usize,
        frame: &Frame<'_>,
    ) -> Vec<ScreenLine> {
        let manner = self.manner(role, change);
        let numbers = if role == Role::Gone { (Some(line.number), None) } else { (None, Some(line.number)) };
        let shown = self.shown(line, manner.role, frame, room);
        self.below(shown, manner, numbers, room, frame)
    }

    /// A line as it is shown in one column of the screen, in parts of what there is room for.
    fn shown(&mut self, line: &Line<'_>, role: Role, frame: &Frame<'_>, room: usize) -> DisplayLine {
        let bytes = frame.bytes(room);
        let part = clipped(line, bytes);
        self.work += part.text.len();
        let shown = part.shown(Medium::of(self.plain), usize::MAX);
        self.noted(shown.in_role(role), line, bytes, frame)
    }

    /// The same with what was searched for marked, and whether the line ends said at its end.
    fn noted(&self, mut shown: DisplayLine, line: &Line<'_>, bytes: usize, frame: &Frame<'_>) -> DisplayLine {
        if let Some(hits) = frame.hits {
            shown.mark_found(hits);
        }
        shown.unended = line.text.len() <= bytes && !line.text.ends_with(b"\n");
        shown.add_note(self.plain);
        if frame.wraps && line.text.len() > bytes {
            // What is cut is said.
            shown.add_sign(&format!(
                " [... {} more: not wrapped, they go on to the right]",
                plural(line.text.len() - bytes, "byte")
            ));
        }
        shown
    }

    /// The rows of a shown line that are on the screen.
    fn cut(&self, shown: DisplayLine, room: usize, frame: &Frame<'_>) -> Vec<DisplayLine> {
        let room = room.max(1);
        if frame.wraps {
            return shown.wrapped(room);
        }
        let goes_on = shown.width > frame.pan + room;
        let end = frame.pan + room - usize::from(goes_on);
        let mut part = shown.columns(frame.pan..end);
        if goes_on {
            part.add_more(room, self.plain);
        }
        vec![part]
    }

    fn below(
        &self,
        shown: DisplayLine,
        manner: Manner,
        (before, after): (Option<usize>, Option<usize>),
        room: usize,
        frame: &Frame<'_>,
    ) -> Vec<ScreenLine> {
        let digits = self.digits;
        let number = |number: Option<usize>| number.map_or(" ".repeat(digits), |number| format!("{number:digits$}"));
        let numbers = format!(" {}  {}    ", number(before), number(after));
        let counts = matches!(manner.role, Role::Gone | Role::New | Role::Moved);
        let mut lines = Vec::new();
        for (at, part) in self.cut(shown, room, frame).into_iter().enumerate() {
            let mut line = ScreenLine { rest: self.ground(manner.role), ..ScreenLine::default() };
            line.push(" ", Style::new());
            line.push(if at == 0 { manner.mark } else { " " }, self.palette.style(manner.ink));
            let blank = " ".repeat(2 * digits + 7);
            line.push(if at == 0 { &numbers } else { &blank }, self.palette.style(TextRole::Faint));
            self.push_shown(&mut line, &part);
            lines.push(line);
            if counts && !self.palette.coloured() && part.is_marked() {
                let mut under = ScreenLine::default();
                under.push(format!("  {blank}{}", part.markers()), Style::new());
                lines.push(under);
            }
        }
        lines
    }

    fn push_shown(&self, line: &mut ScreenLine, shown: &DisplayLine) {
        for piece in &shown.pieces {
            line.push(piece.text.as_str(), self.palette.style_of(piece));
        }
    }

    /// The ground of what is right of a line.
    fn ground(&self, role: Role) -> Style {
        Style::new().bg_color(self.palette.style(TextRole::of_line(role)).get_bg_color())
    }

    fn paint_beside(&mut self, row: &FileRow<'_>, frame: &Frame<'_>) -> Vec<ScreenLine> {
        let half = frame.width.saturating_sub(3) / 2;
        let room = half.saturating_sub(self.digits + 4).max(1);
        let (left, right) = match row {
            FileRow::Equal(before, after) => {
                let manner = self.equal();
                (before.as_ref().map(|line| (line, manner)), after.as_ref().map(|line| (line, manner)))
            }
            FileRow::Gone(line, change) => (Some((line, self.manner(Role::Gone, *change))), None),
            FileRow::New(line, change) => (None, Some((line, self.manner(Role::New, *change)))),
            FileRow::Edited(before, after, change) => {
                (Some((before, self.manner(Role::Gone, *change))), Some((after, self.manner(Role::New, *change))))
            }
        };
        let mut cells = |side: Option<(&Line<'_>, Manner)>| -> Vec<DisplayLine> {
            side.map_or_else(Vec::new, |(line, manner)| {
                let shown = self.shown(line, manner.role, frame, room);
                self.cut(shown, room, frame)
            })
        };
        let (left_rows, right_rows) = (cells(left), cells(right));
        let mut lines = Vec::new();
        for at in 0..left_rows.len().max(right_rows.len()) {
            let mut line = ScreenLine::default();
            self.push_half(&mut line, left, left_rows.get(at), at == 0, room);
            line.push(if self.plain { " : " } else { " │ " }, self.palette.style(TextRole::Faint));
            self.push_half(&mut line, right, right_rows.get(at), at == 0, room);
            lines.push(line);
            let is_marked = |side: Option<(&Line<'_>, Manner)>, rows: &[DisplayLine]| {
                side.is_some_and(|(_, manner)| matches!(manner.role, Role::Gone | Role::New | Role::Moved))
                    && rows.get(at).is_some_and(DisplayLine::is_marked)
            };
            if !self.palette.coloured() && (is_marked(left, &left_rows) || is_marked(right, &right_rows)) {
                let markers = |rows: &[DisplayLine]| rows.get(at).map(DisplayLine::markers).unwrap_or_default();
                let (indent, divider) = (" ".repeat(self.digits + 4), if self.plain { " : " } else { " │ " });
                let mut under = ScreenLine::default();
                under.push(
                    format!("{indent}{:room$}{divider}{indent}{}", markers(&left_rows), markers(&right_rows)),
                    Style::new(),
                );
                lines.push(under);
            }
        }
        lines
    }

    fn push_half(
        &self,
        line: &mut ScreenLine,
        side: Option<(&Line<'_>, Manner)>,
        part: Option<&DisplayLine>,
        is_first: bool,
        room: usize,
    ) {
        let head = side.filter(|_| is_first);
        line.push(
            head.map_or(" ", |(_, manner)| manner.mark),
            self.palette.style(head.map_or(TextRole::Text, |(_, manner)| manner.ink)),
        );
        let digits = self.digits;
        let number = head.map_or(" ".repeat(digits), |(line, _)| format!("{:digits$}", line.number));
        line.push(format!(" {number}  "), self.palette.style(TextRole::Faint));
        let width = part.map_or(0, |part| part.width);
        if let Some(part) = part {
            self.push_shown(line, part);
        }
        let ground = part.and(side).map_or(Style::new(), |(_, manner)| self.ground(manner.role));
        line.push(" ".repeat(room.saturating_sub(width)), ground);
    }
}

impl Frame<'_> {
    /// The bytes of a line that may be seen in a column of the screen.
    fn bytes(&self, room: usize) -> usize {
        if self.wraps { MOST_WRAPPED } else { (self.pan + room) * BYTES_A_COLUMN }
    }
}

/// The head of a line.
fn clipped<'l>(line: &Line<'l>, bytes: usize) -> Line<'l> {
    let whole = one_part(line.text);
    let parts = if line.parts.is_empty() { &whole[..] } else { &line.parts };
    let content = line.text.len() - line_end_len(line.text);
    let mut end = line.text.len();
    if content > bytes {
        end = (bytes..content).find(|&at| line.text[at] & 0b1100_0000 != 0b1000_0000).unwrap_or(content);
    }
    let inside = parts.iter().filter(|part| part.bytes.start < end || part.bytes.is_empty() && part.bytes.start == end);
    let parts = inside.map(|part| Segment { bytes: part.bytes.start..part.bytes.end.min(end), differs: part.differs });
    Line {
        number: line.number,
        text: &line.text[..end],
        parts: parts.collect(),
        syntax: line.syntax.clone(),
        spelled_out: line.spelled_out,
    }
}

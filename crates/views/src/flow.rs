//! The way through a comparison: headings, equal lines around each place, and the rows inside it.

use std::io::{self, Write};

use tideline_core::kinds::text::{Grain, detail};
use tideline_core::model::{self, Form, Place, Segment, Span, Weight, Words};
use tideline_core::text::bytes::{line_end, lines_below};

use crate::gap::{At, Gap, Row};
use crate::shown::{DisplayLine, Medium};
use crate::syntax::{Budget, Highlighter, SyntaxSpan};
use crate::view::{Context, FileView};

/// A line of one side on its way to a layout.
pub(crate) struct Line<'a> {
    /// Its number, from 1.
    pub(crate) number: usize,
    /// Its bytes, with the line end.
    pub(crate) text: &'a [u8],
    /// Its colours by syntax.
    pub(crate) syntax: Vec<SyntaxSpan>,
}

impl Line<'_> {
    /// The line as it is shown; without parts, it is one part that did not change.
    pub(crate) fn shown(&self, parts: &[Segment], medium: Medium) -> DisplayLine {
        let whole = one_part(self.text);
        DisplayLine::new(self.text, if parts.is_empty() { &whole } else { parts }, &self.syntax, medium)
    }
}

/// What a line that one side has, or a pair of lines, is to a reader.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum LineChange {
    /// It counts.
    Counted,
    /// It stands elsewhere on the other side.
    Moved,
    /// It does not count.
    Muted,
}

impl LineChange {
    fn of(weight: Weight, moved: bool) -> Self {
        match weight {
            Weight::Muted => Self::Muted,
            Weight::Counted if moved => Self::Moved,
            Weight::Counted => Self::Counted,
        }
    }
}

/// Equal lines that are not shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Hidden {
    /// How many rows they are.
    pub(crate) rows: usize,
    /// How many bytes they have, of both sides the more; those that are shown around them may be among them.
    pub(crate) bytes: usize,
}

/// How the lines of a comparison are laid out.
pub(crate) trait Rows {
    /// What stands above the first change.
    fn begin(&mut self, _out: &mut dyn Write) -> io::Result<()> {
        Ok(())
    }

    /// What stands above a change, at one of its places.
    fn heading(&mut self, view: &FileView<'_>, place: &Place, out: &mut dyn Write) -> io::Result<()>;

    /// What stands below a change and its surroundings.
    fn ended(&mut self, _out: &mut dyn Write) -> io::Result<()> {
        Ok(())
    }

    /// Equal lines that are not shown. A layout that wants to put them away somewhere says so, and gets them.
    fn hidden(&mut self, _lines: &Hidden, _out: &mut dyn Write) -> io::Result<bool> {
        Ok(false)
    }

    /// The end of equal lines that are not shown.
    fn hidden_ended(&mut self, _out: &mut dyn Write) -> io::Result<()> {
        Ok(())
    }

    /// A line that both sides have, or that one has and that is shown as equal text.
    fn equal(&mut self, before: Option<&Line<'_>>, after: Option<&Line<'_>>, out: &mut dyn Write) -> io::Result<()>;

    /// A line that only before has.
    fn line_gone(&mut self, line: &Line<'_>, manner: LineChange, out: &mut dyn Write) -> io::Result<()>;

    /// A line that only after has.
    fn line_new(&mut self, line: &Line<'_>, manner: LineChange, out: &mut dyn Write) -> io::Result<()>;

    /// Two lines that belong together.
    fn edited(
        &mut self,
        before: &Line<'_>,
        after: &Line<'_>,
        words: &Words,
        manner: LineChange,
        out: &mut dyn Write,
    ) -> io::Result<()>;
}

/// What decides which lines are met on the way.
#[derive(Clone, Debug)]
pub(crate) struct LineWalk<'a> {
    /// Equal lines around each change.
    pub(crate) context: Context,
    /// What is marked inside a line.
    pub(crate) grain: &'a Grain,
    /// The time for colours by syntax.
    pub(crate) budget: Budget,
}

/// Which changes are drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Pick {
    /// Those up to a place where the first comes that is beyond so many.
    First(usize),
    /// The one with this index.
    One(usize),
}

impl Pick {
    /// All of them.
    pub(crate) const ALL: Self = Self::First(usize::MAX);
}

/// Draws the changes, without what stands above the first.
pub(crate) fn draw_places(
    view: &FileView<'_>,
    pick: Pick,
    way: &LineWalk<'_>,
    rows: &mut dyn Rows,
    out: &mut dyn Write,
) -> io::Result<()> {
    let all = &view.comparison.places;
    let (places, only) = match pick {
        Pick::First(most) => (&all[..all.iter().position(|place| place.change >= most).unwrap_or(all.len())], None),
        Pick::One(change) => (&all[..], Some(change)),
    };
    let painter = || Highlighter::new(view.type_name, way.budget.clone());
    let mut flow = Flow { view, way, before: painter(), after: painter() };
    let start = (At { line: view.first.0, byte: 0 }, At { line: view.first.1, byte: 0 });
    // Rows that the change before has shown of the gap that comes next.
    let mut shown = 0;
    for (index, place) in places.iter().enumerate() {
        if only.is_some_and(|change| place.change != change) {
            continue;
        }
        let above = Gap::new(view, index.checked_sub(1).map_or(start, |at| end_of(&places[at])), Some(start_of(place)));
        let below = Gap::new(view, end_of(place), all.get(index + 1).map(start_of));
        let lines = way.context.lines();
        let count = if index == 0 || only.is_some() { lines } else { flow.shares(above.rows()).1 };
        if only.is_none() {
            flow.hidden(&above, shown, count, rows, out)?;
        }
        rows.heading(view, place, out)?;
        flow.between(above.last(count).into_iter(), rows, out)?;
        flow.inside(place, rows, out)?;
        let is_last = index + 1 == all.len();
        let count = if is_last || only.is_some() { lines } else { flow.shares(below.rows()).0 };
        flow.between(below.first(count), rows, out)?;
        rows.ended(out)?;
        shown = count;
        if is_last && only.is_none() {
            flow.hidden(&below, count, 0, rows, out)?;
        }
    }
    Ok(())
}

fn start_of(place: &Place) -> (At, At) {
    let at = |span: &Span| At { line: span.lines.start, byte: span.bytes.start };
    (at(&place.before), at(&place.after))
}

fn end_of(place: &Place) -> (At, At) {
    let at = |span: &Span| At { line: span.lines.end, byte: span.bytes.end };
    (at(&place.before), at(&place.after))
}

/// The largest line number that will be drawn.
pub(crate) fn largest_number(view: &FileView<'_>, context: Context) -> usize {
    let Some(last) = view.comparison.places.last() else { return 0 };
    let below = lines_below(view.before.text(), last.before.bytes.end, context.lines()).1;
    last.before.lines.end.max(last.after.lines.end) + below
}

struct Flow<'a> {
    view: &'a FileView<'a>,
    way: &'a LineWalk<'a>,
    before: Highlighter<'a>,
    after: Highlighter<'a>,
}

impl Flow<'_> {
    /// How the equal lines between two places are shared out: so many below the first, so many above the second. All
    /// of them stand below the first when everything is shown.
    fn shares(&self, gap: usize) -> (usize, usize) {
        match self.way.context {
            Context::All => (gap, 0),
            Context::Lines(lines) => {
                let above = lines.min(gap / 2);
                (lines.min(gap - above), above)
            }
        }
    }

    /// The rows of a gap that are neither the first so many nor the last so many.
    fn hidden(
        &mut self,
        gap: &Gap<'_>,
        first: usize,
        last: usize,
        rows: &mut dyn Rows,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let count = gap.rows().saturating_sub(first.saturating_add(last));
        if count > 0 && rows.hidden(&Hidden { rows: count, bytes: gap.bytes() }, out)? {
            self.between(gap.first(first + count).skip(first), rows, out)?;
            rows.hidden_ended(out)?;
        }
        Ok(())
    }

    fn between(
        &mut self,
        lines: impl Iterator<Item = Row>,
        rows: &mut dyn Rows,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        for row in lines {
            let before = row.before.map(|at| self.before.line(self.view.before.text(), at.line, at.byte));
            let after = row.after.map(|at| self.after.line(self.view.after.text(), at.line, at.byte));
            rows.equal(before.as_ref(), after.as_ref(), out)?;
        }
        Ok(())
    }

    fn inside(&mut self, place: &Place, rows: &mut dyn Rows, out: &mut dyn Write) -> io::Result<()> {
        let view = self.view;
        let moved = view.comparison.changes[place.change].form == Form::Moved;
        let detail = detail((view.before, &place.before), (view.after, &place.after), self.way.grain);
        let mut before = |line: usize| {
            let at = place.before.bytes.start + detail.before.start(line);
            self.before.line(view.before.text(), place.before.lines.start + line, at)
        };
        let mut after = |line: usize| {
            let at = place.after.bytes.start + detail.after.start(line);
            self.after.line(view.after.text(), place.after.lines.start + line, at)
        };
        for row in &detail.rows {
            match row {
                model::Row::Gone { before: line, weight } => {
                    rows.line_gone(&before(*line), LineChange::of(*weight, moved), out)?;
                }
                model::Row::New { after: line, weight } => {
                    rows.line_new(&after(*line), LineChange::of(*weight, moved), out)?;
                }
                model::Row::Equal { before: b, after: a } => rows.equal(Some(&before(*b)), Some(&after(*a)), out)?,
                model::Row::Hidden { before: b, after: a } => {
                    rows.equal(b.map(&mut before).as_ref(), a.map(&mut after).as_ref(), out)?;
                }
                model::Row::Edited { before: b, after: a, words, weight } => {
                    rows.edited(&before(*b), &after(*a), words, LineChange::of(*weight, false), out)?;
                }
            }
        }
        Ok(())
    }
}

impl<'a> Highlighter<'a> {
    /// The line that starts at a byte of a text, with its syntax.
    fn line<'t>(&mut self, text: &'t [u8], index: usize, at: usize) -> Line<'t> {
        let line = &text[at..line_end(text, at)];
        Line { number: index + 1, text: line, syntax: self.syntax(text, index, at) }
    }
}

/// The parts of a line that is not compared with another.
pub(crate) fn one_part(line: &[u8]) -> [Segment; 1] {
    [Segment::equal(0..line.len())]
}

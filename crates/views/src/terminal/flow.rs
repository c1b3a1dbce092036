//! The way through a comparison: headings, equal lines around each place, and the rows inside it.

use std::io::{self, Write};

use tideline_core::kinds::text::detail;
use tideline_core::model::{Form, Part, Place, Row, Words};
use tideline_core::text::bytes::{line_end, lines_above, lines_below};

use super::FileView;
use super::heading::write_change_heading;
use super::look::{Context, Look};
use super::syntax::Painter;

/// A line of one side on its way to a layout.
pub(super) struct Line<'a> {
    /// Its number, from 1.
    pub(super) number: usize,
    /// Its bytes, with the line end.
    pub(super) text: &'a [u8],
    /// Its colours by syntax.
    pub(super) tints: Vec<super::syntax::Tint>,
}

/// How the lines of a comparison are laid out.
pub(super) trait Rows {
    /// What stands above the first change.
    fn begin(&mut self, _out: &mut dyn Write) -> io::Result<()> {
        Ok(())
    }

    /// A line that both sides have.
    fn equal(&mut self, before: &Line<'_>, after: &Line<'_>, out: &mut dyn Write) -> io::Result<()>;

    /// A line that only before has; it may have gone elsewhere.
    fn line_gone(&mut self, line: &Line<'_>, moved: bool, out: &mut dyn Write) -> io::Result<()>;

    /// A line that only after has; it may have come from elsewhere.
    fn line_new(&mut self, line: &Line<'_>, moved: bool, out: &mut dyn Write) -> io::Result<()>;

    /// Two lines that belong together.
    fn edited(&mut self, before: &Line<'_>, after: &Line<'_>, words: &Words, out: &mut dyn Write) -> io::Result<()>;
}

/// Draws all changes of a comparison.
pub(super) fn draw(view: &FileView<'_>, look: &Look, rows: &mut dyn Rows, out: &mut dyn Write) -> io::Result<()> {
    let places = &view.comparison.places;
    let mut flow =
        Flow { view, look, before: Painter::new(view.type_name, look), after: Painter::new(view.type_name, look) };
    rows.begin(out)?;
    for (index, place) in places.iter().enumerate() {
        let previous = index.checked_sub(1).map(|index| &places[index]);
        writeln!(out)?;
        write_change_heading(view, place, look, out)?;
        flow.equal(&flow.above(place, previous), rows, out)?;
        flow.inside(place, rows, out)?;
        flow.equal(&flow.below(place, places.get(index + 1)), rows, out)?;
    }
    Ok(())
}

/// The largest line number that will be drawn.
pub(super) fn largest_number(view: &FileView<'_>, look: &Look) -> usize {
    let Some(last) = view.comparison.places.last() else { return 0 };
    let below = lines_below(view.before, last.before.bytes.end, look.context.lines()).1;
    last.before.lines.end.max(last.after.lines.end) + below
}

/// A stretch of equal lines: where it starts on both sides, and how many lines it has.
struct Equal {
    before: (usize, usize),
    after: (usize, usize),
    lines: usize,
}

struct Flow<'a> {
    view: &'a FileView<'a>,
    look: &'a Look,
    before: Painter<'a>,
    after: Painter<'a>,
}

impl Flow<'_> {
    /// How the equal lines between two places are shared out: so many below the first, so many above the second. All
    /// of them stand below the first when everything is shown.
    fn shares(&self, gap: usize) -> (usize, usize) {
        match self.look.context {
            Context::All => (gap, 0),
            Context::Lines(lines) => {
                let above = lines.min(gap / 2);
                (lines.min(gap - above), above)
            }
        }
    }

    fn above(&self, place: &Place, previous: Option<&Place>) -> Equal {
        let count = match previous {
            Some(previous) => self.shares(place.before.lines.start - previous.before.lines.end).1,
            None => self.look.context.lines(),
        };
        let (before, lines) = lines_above(self.view.before, place.before.bytes.start, count);
        let (after, _) = lines_above(self.view.after, place.after.bytes.start, lines);
        Equal {
            before: (place.before.lines.start - lines, before),
            after: (place.after.lines.start - lines, after),
            lines,
        }
    }

    fn below(&self, place: &Place, next: Option<&Place>) -> Equal {
        let count = match next {
            Some(next) => self.shares(next.before.lines.start - place.before.lines.end).0,
            None => self.look.context.lines(),
        };
        let lines = lines_below(self.view.before, place.before.bytes.end, count).1;
        Equal {
            before: (place.before.lines.end, place.before.bytes.end),
            after: (place.after.lines.end, place.after.bytes.end),
            lines,
        }
    }

    fn equal(&mut self, stretch: &Equal, rows: &mut dyn Rows, out: &mut dyn Write) -> io::Result<()> {
        let ((line_before, mut at_before), (line_after, mut at_after)) = (stretch.before, stretch.after);
        for offset in 0..stretch.lines {
            let before = self.before.line(self.view.before, line_before + offset, at_before);
            let after = self.after.line(self.view.after, line_after + offset, at_after);
            (at_before, at_after) = (at_before + before.text.len(), at_after + after.text.len());
            rows.equal(&before, &after, out)?;
        }
        Ok(())
    }

    fn inside(&mut self, place: &Place, rows: &mut dyn Rows, out: &mut dyn Write) -> io::Result<()> {
        let view = self.view;
        let moved = view.comparison.changes[place.change].form == Form::Moved;
        let detail = detail((view.before, &place.before), (view.after, &place.after), &self.look.grain);
        let mut before = |line: usize| {
            let at = place.before.bytes.start + detail.before.start(line);
            self.before.line(view.before, place.before.lines.start + line, at)
        };
        let mut after = |line: usize| {
            let at = place.after.bytes.start + detail.after.start(line);
            self.after.line(view.after, place.after.lines.start + line, at)
        };
        for row in &detail.rows {
            match row {
                Row::Gone { before: line } => rows.line_gone(&before(*line), moved, out)?,
                Row::New { after: line } => rows.line_new(&after(*line), moved, out)?,
                Row::Equal { before: b, after: a } => rows.equal(&before(*b), &after(*a), out)?,
                Row::Edited { before: b, after: a, words } => rows.edited(&before(*b), &after(*a), words, out)?,
            }
        }
        Ok(())
    }
}

impl<'a> Painter<'a> {
    /// The line that starts at a byte of a text, with its tints.
    fn line<'t>(&mut self, text: &'t [u8], index: usize, at: usize) -> Line<'t> {
        let line = &text[at..line_end(text, at)];
        Line { number: index + 1, text: line, tints: self.tints(text, index, at) }
    }
}

/// The parts of a line that is not compared with another.
pub(super) fn one_part(line: &[u8]) -> [Part; 1] {
    [Part { bytes: 0..line.len(), changed: false }]
}

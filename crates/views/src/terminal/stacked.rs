//! The stacked layout: one column, gone lines above the new ones that took their place.

use std::io::{self, Write};

use tideline_core::kinds::text::detail;
use tideline_core::model::{Part, Place, Row, Span};
use tideline_core::text::bytes::{line_end, lines_above, lines_below};

use super::FileView;
use super::gutter::{Rows, Side};
use super::heading::{write_change_heading, write_file_heading, write_legend};
use super::look::{Context, Look};
use super::shown::Shown;

/// Draws one pair of texts: a heading, each change with its own heading and context, and the legend.
///
/// # Errors
/// Whatever `out` fails with.
pub fn draw_stacked(view: &FileView<'_>, look: &Look, out: &mut impl Write) -> io::Result<()> {
    write_file_heading(view, look, out)?;
    let places = &view.comparison.places;
    let (Some(first), Some(last)) = (places.first(), places.last()) else { return Ok(()) };
    let stacked = Stacked { view, look, rows: Rows::new(look, largest_number(view, last, look)) };
    let mut above = stacked.above(first, None);
    for (index, place) in places.iter().enumerate() {
        let change = &view.comparison.changes[place.change];
        writeln!(out)?;
        write_change_heading(change, view.comparison.changes.len(), look, out)?;
        stacked.equal(&above, out)?;
        stacked.inside(place, out)?;
        let next = places.get(index + 1);
        stacked.equal(&stacked.below(place, next), out)?;
        if let Some(next) = next {
            above = stacked.above(next, Some(place));
        }
    }
    if look.legend {
        writeln!(out)?;
        write_legend(view.labels, look, out)?;
    }
    Ok(())
}

/// The largest line number that will be drawn.
fn largest_number(view: &FileView<'_>, last: &Place, look: &Look) -> usize {
    let below = lines_below(view.before, last.before.bytes.end, look.context.lines()).1;
    last.before.lines.end.max(last.after.lines.end) + below
}

/// A stretch of equal lines: its bytes before, and the numbers of its first line on both sides (from 0).
struct Equal<'a> {
    text: &'a [u8],
    before: usize,
    after: usize,
}

struct Stacked<'a> {
    view: &'a FileView<'a>,
    look: &'a Look,
    rows: Rows,
}

impl<'a> Stacked<'a> {
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

    fn above(&self, place: &Place, previous: Option<&Place>) -> Equal<'a> {
        let count = match previous {
            Some(previous) => self.shares(place.before.lines.start - previous.before.lines.end).1,
            None => self.look.context.lines(),
        };
        let (start, lines) = lines_above(self.view.before, place.before.bytes.start, count);
        Equal {
            text: &self.view.before[start..place.before.bytes.start],
            before: place.before.lines.start - lines,
            after: place.after.lines.start - lines,
        }
    }

    fn below(&self, place: &Place, next: Option<&Place>) -> Equal<'a> {
        let count = match next {
            Some(next) => self.shares(next.before.lines.start - place.before.lines.end).0,
            None => self.look.context.lines(),
        };
        let end = lines_below(self.view.before, place.before.bytes.end, count).0;
        Equal {
            text: &self.view.before[place.before.bytes.end..end],
            before: place.before.lines.end,
            after: place.after.lines.end,
        }
    }

    fn equal(&self, stretch: &Equal<'_>, out: &mut impl Write) -> io::Result<()> {
        let (mut at, mut offset) = (0, 1);
        while at < stretch.text.len() {
            let end = line_end(stretch.text, at);
            let side = Side::Both { before: stretch.before + offset, after: stretch.after + offset };
            self.rows.write(side, &Shown::whole(&stretch.text[at..end], self.look.plain), out)?;
            (at, offset) = (end, offset + 1);
        }
        Ok(())
    }

    fn inside(&self, place: &Place, out: &mut impl Write) -> io::Result<()> {
        let view = self.view;
        let detail = detail((view.before, &place.before), (view.after, &place.after), &self.look.grain);
        let gone = |line: usize, parts: &[Part], out: &mut _| {
            let side = Side::Before(number(&place.before, line));
            self.rows.write(side, &self.shown(detail.before.get(line), parts), out)
        };
        let new = |line: usize, parts: &[Part], out: &mut _| {
            let side = Side::After(number(&place.after, line));
            self.rows.write(side, &self.shown(detail.after.get(line), parts), out)
        };
        for row in &detail.rows {
            match row {
                Row::Gone { before } => gone(*before, &[], out)?,
                Row::New { after } => new(*after, &[], out)?,
                Row::Edited { before, after, words } => {
                    gone(*before, &words.before, out)?;
                    new(*after, &words.after, out)?;
                }
            }
        }
        Ok(())
    }

    fn shown(&self, line: &[u8], parts: &[Part]) -> Shown {
        if parts.is_empty() { Shown::whole(line, self.look.plain) } else { Shown::new(line, parts, self.look.plain) }
    }
}

/// The number, from 1, of a line counted from the start of a span.
fn number(span: &Span, line: usize) -> usize {
    span.lines.start + line + 1
}

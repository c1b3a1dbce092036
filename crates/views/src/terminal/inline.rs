//! The inline layout: one text; where a line was edited, what is gone and what is new stand in place, one after the other.

use std::io::{self, Write};
use std::ops::Range;

use tideline_core::model::{Place, Segment, Weight, Words};

use super::gutter::{Gutter, Side};
use super::heading::write_change_heading;
use super::look::Look;
use crate::flow::{Line, LineChange, Rows, largest_number};
use crate::shown::{DisplayLine, Piece, Role};
use crate::view::FileView;

/// Draws one line for two that belong together.
pub(super) struct Inline<'l> {
    look: &'l Look,
    gutter: Gutter,
}

impl<'l> Inline<'l> {
    pub(super) fn new(view: &FileView<'_>, look: &'l Look) -> Self {
        Self { look, gutter: Gutter::new(look, largest_number(view, look.context)) }
    }
}

impl Rows for Inline<'_> {
    fn heading(&mut self, view: &FileView<'_>, place: &Place, out: &mut dyn Write) -> io::Result<()> {
        write_change_heading(view, place, self.look, out)
    }

    fn equal(&mut self, before: Option<&Line<'_>>, after: Option<&Line<'_>>, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_equal(before, after, out)
    }

    fn line_gone(&mut self, line: &Line<'_>, manner: LineChange, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_gone(line, &[], manner, out)
    }

    fn line_new(&mut self, line: &Line<'_>, manner: LineChange, out: &mut dyn Write) -> io::Result<()> {
        self.gutter.write_new(line, &[], manner, out)
    }

    fn edited(
        &mut self,
        before: &Line<'_>,
        after: &Line<'_>,
        words: &Words,
        manner: LineChange,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let merged = merge(before, after, words, &self.gutter);
        self.gutter.write(Side::Merged { before: before.number, after: after.number, manner }, merged, out)
    }
}

/// A stretch of a merged line.
enum Stretch {
    Equal(Range<usize>),
    Gone(Range<usize>, Weight),
    New(Range<usize>, Weight),
}

/// The two lines as one.
fn merge(before: &Line<'_>, after: &Line<'_>, words: &Words, gutter: &Gutter) -> DisplayLine {
    let mut merged = DisplayLine { unended: !after.text.ends_with(b"\n"), ..DisplayLine::default() };
    let stretches = if words.before.is_empty() && words.after.is_empty() {
        vec![Stretch::Gone(0..before.text.len(), Weight::Counted), Stretch::New(0..after.text.len(), Weight::Counted)]
    } else {
        stretches(words)
    };
    for stretch in stretches {
        match stretch {
            Stretch::Equal(bytes) => {
                merged.append(gutter.shown(after, &[Segment::equal(bytes)]), |piece| piece);
            }
            Stretch::Gone(bytes, weight) => append_changed(&mut merged, before, bytes, (Role::Gone, weight), gutter),
            Stretch::New(bytes, weight) => append_changed(&mut merged, after, bytes, (Role::New, weight), gutter),
        }
    }
    merged
}

/// Adds what is gone or new; without colour, its mark and a pair of brackets say which it is.
fn append_changed(
    merged: &mut DisplayLine,
    line: &Line<'_>,
    bytes: Range<usize>,
    (role, weight): (Role, Weight),
    gutter: &Gutter,
) {
    let shown = gutter.shown(line, &[Segment { bytes, differs: Some(weight) }]);
    let role = if weight == Weight::Muted { Role::Muted } else { role };
    let (open, close) = gutter.brackets(role);
    let sign = |text: String| DisplayLine::of_piece(Piece { text, role, ..Piece::default() });
    if !gutter.coloured() {
        merged.append(sign(open), |piece| piece);
    }
    merged.append(shown, |piece| Piece { role, ..piece });
    if !gutter.coloured() {
        merged.append(sign(close), |piece| piece);
    }
}

/// Both lines in one sequence: equal text once, and between it what is gone before what is new.
fn stretches(words: &Words) -> Vec<Stretch> {
    let mut stretches = Vec::new();
    let (mut before, mut after) = (words.before.iter(), words.after.iter());
    let (mut b, mut a) = (before.next().cloned(), after.next().cloned());
    loop {
        match (&mut b, &mut a) {
            (Some(Segment { bytes, differs: Some(weight) }), _) => {
                stretches.push(Stretch::Gone(bytes.clone(), *weight));
                b = before.next().cloned();
            }
            (_, Some(Segment { bytes, differs: Some(weight) })) => {
                stretches.push(Stretch::New(bytes.clone(), *weight));
                a = after.next().cloned();
            }
            (Some(one), Some(other)) => {
                let len = one.bytes.len().min(other.bytes.len());
                stretches.push(Stretch::Equal(other.bytes.start..other.bytes.start + len));
                one.bytes.start += len;
                other.bytes.start += len;
                if one.bytes.is_empty() {
                    b = before.next().cloned();
                }
                if other.bytes.is_empty() {
                    a = after.next().cloned();
                }
            }
            _ => return stretches,
        }
    }
}

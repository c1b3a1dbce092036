//! Two lines drawn as one: what is equal once, and what is gone and what is new in place.

use std::io::{self, Write};
use std::ops::Range;

use tideline_core::internal::model::{Segment, Weight};

use super::gutter::{Gutter, Side};
use crate::rows::Line;
use crate::shown::{DisplayLine, Piece, Role};

/// Writes two lines that differ in their indentation alone, as one: what is more or less of it is marked, if there is colour to tell.
pub(super) fn write_indented(
    gutter: &Gutter,
    (before, after): (&Line<'_>, &Line<'_>),
    out: &mut dyn Write,
) -> io::Result<()> {
    let side = Side::Indented { before: before.number, after: after.number };
    let shown = if gutter.coloured() { merge(before, after, gutter) } else { gutter.shown(after) };
    gutter.write(side, shown, out)
}

/// A stretch of a merged line.
enum Stretch {
    Equal(Range<usize>),
    Gone(Range<usize>, Weight),
    New(Range<usize>, Weight),
}

/// The two lines as one.
pub(super) fn merge(before: &Line<'_>, after: &Line<'_>, gutter: &Gutter) -> DisplayLine {
    let mut merged = DisplayLine { unended: !after.text.ends_with(b"\n"), ..DisplayLine::default() };
    let stretches = if before.parts.is_empty() && after.parts.is_empty() {
        vec![Stretch::Gone(0..before.text.len(), Weight::Counted), Stretch::New(0..after.text.len(), Weight::Counted)]
    } else {
        stretches(&before.parts, &after.parts)
    };
    for stretch in stretches {
        match stretch {
            Stretch::Equal(bytes) => {
                merged.append(gutter.shown_parts(after, &[Segment::equal(bytes)]), |piece| piece);
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
    let shown = gutter.shown_parts(line, &[Segment { bytes, differs: Some(weight) }]);
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
fn stretches(before: &[Segment], after: &[Segment]) -> Vec<Stretch> {
    let mut stretches = Vec::new();
    let (mut before, mut after) = (before.iter(), after.iter());
    let (mut b, mut a) = (before.next().cloned(), after.next().cloned());
    loop {
        match (&mut b, &mut a) {
            // A place where only the other line has something.
            (Some(Segment { bytes, differs: Some(_) }), _) if bytes.start == bytes.end => b = before.next().cloned(),
            (_, Some(Segment { bytes, differs: Some(_) })) if bytes.start == bytes.end => a = after.next().cloned(),
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
